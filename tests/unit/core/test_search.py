"""Search over everything kept: what is found in which script, best first, with the lines around it, narrowed and counted truly."""

from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.commands.entries import AddEntry, ChangeEntry, RemoveEntries
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Value
from wily_magpie.core.places.folding import folded
from wily_magpie.core.queries.search import Narrowing, SearchAnswer, snippet_of, terms_wanted, understood
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, Words
from wily_magpie.core.session.session import Session

PLACE = "collection:1"
CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "words.yaml").read_text("utf-8"))


def find(session: Session, text: str, **more: object) -> SearchAnswer:
    return session.reader.search.find(understood(text), 20, **more)  # type: ignore[arg-type]


def titles(answer: SearchAnswer) -> list[str]:
    return [hit.entry.title for hit in answer.hits]


@pytest.fixture(scope="module")
def scripts(tmp_path_factory: pytest.TempPathFactory) -> Session:
    """An entry for each case."""
    from wily_magpie.core.pages.fetch import Fetcher

    session = Session(tmp_path_factory.mktemp("scripts") / "library", Fetcher())
    for number, case in enumerate(CASES):
        session.do(AddEntry(PLACE, f"Case {number}", {}, case["text"]))
    session.refresh_words()
    return session


@pytest.mark.parametrize(
    "number", range(len(CASES)), ids=lambda one: f"{CASES[one]['ask']} in {CASES[one]['text']}"[:50]
)
def test_words_are_found_in_every_script(scripts: Session, number: int) -> None:
    case = CASES[number]
    found = f"Case {number}" in titles(find(scripts, case["ask"]))
    assert found == case.get("found", True), case.get("why", "")


@pytest.fixture
def mills(session: Session, tmp_path: Path) -> Session:
    """Four entries."""
    (tmp_path / "plan.txt").write_text("A culvert under the causeway.\n")

    def add(title: str, body: str, **values: Value) -> int:
        return session.do(AddEntry(PLACE, title, values, body))

    add("The tide mill", "It has a wheel.", kind="article", status="read", published="1926")
    add(
        "On wheels",
        "Tide mill after tide mill stood here; " + "the pond was drained. " * 60 + "The miller left.",
        kind="paper",
    )
    marked = add("A pond", "Reeds and herons.", published="1994-05", status="read")
    session.do(PutMark(PLACE, marked, Mark("Reeds", comment="compare with the sluice at Wick")))
    filed = add("Drawings", "Two sheets.")
    files = next(one for one in session.overview.place(PLACE).fields if one.kind.holds_files)
    session.do(AttachFiles(PLACE, filed, files.key, (tmp_path / "plan.txt",)))
    session.refresh_words()
    return session


def test_the_best_come_first_with_the_lines_around_them(mills: Session) -> None:
    answer = find(mills, "tide mill")
    assert titles(answer) == ["The tide mill", "On wheels"], "a word of the title counts for more"
    assert answer.total == 2
    hit = find(mills, "miller").hits[0]
    assert hit.snippet.startswith("… ")
    assert hit.snippet.endswith("The miller left.")
    (marked,) = hit.marked
    assert hit.snippet[slice(*marked)] == "miller"
    assert (hit.where, hit.place_name) == ("text", "Sources")


WAYS = {  # what is typed, and the titles that are found
    "tide wheel": {"The tide mill", "On wheels"},
    '"tide mill"': {"The tide mill", "On wheels"},
    '"mill tide"': set(),
    "tide -pond": {"The tide mill"},
    'mill -"tide mill stood"': {"The tide mill"},
    "whee*": {"The tide mill", "On wheels"},
    "sluice": {"A pond"},
    "culvert causeway": {"Drawings"},
    "nothing here": set(),
    "-pond": set(),
    '"': set(),
    "tide AND OR NOT": set(),
    "mill) OR (pond": set(),
}


@pytest.mark.parametrize("typed", WAYS)
def test_what_is_typed_is_understood(mills: Session, typed: str) -> None:
    if typed == "tide wheel":  # whole words, as long as the last one is not being typed
        assert set(titles(find(mills, typed))) == {"The tide mill"}
        assert set(titles(mills.reader.search.find(understood(typed, is_open=True), 9))) == WAYS[typed]
        return
    answer = find(mills, typed)
    assert set(titles(answer)) == WAYS[typed]
    assert answer.total == len(WAYS[typed])


def test_hits_tell_where_they_stand(mills: Session) -> None:
    assert find(mills, "sluice").hits[0].where == "marks"
    assert find(mills, "culvert").hits[0].where == "a file"
    assert find(mills, "drawings").hits[0].where == "title"


def test_it_is_narrowed_and_counted_truly(mills: Session) -> None:
    answer = find(mills, "mill*", with_facets=True)
    assert answer.facets["kind"] == [("article", 1), ("paper", 1)]
    assert dict(answer.facets["year"]) == {"1926": 1, "": 1}
    assert titles(find(mills, "mill*", narrowing=Narrowing({"kind": "paper"}))) == ["On wheels"]
    assert titles(find(mills, "mill*", narrowing=Narrowing({"year": "192"}))) == ["The tide mill"]
    place = mills._library.place(PLACE)
    question = mills.reader.search.question(understood('mill "tide mill" -pond'), Narrowing({"kind": "article"}), place)
    assert (
        cql.write(question)
        == 'cql.anywhere = mill and cql.anywhere adj "tide mill" not cql.anywhere = pond and kind = article'
    )
    assert len(place.listing(question).ids) == 1


def test_changes_are_found_and_what_is_gone_is_not(mills: Session) -> None:
    entry_id = find(mills, "herons").hits[0].entry.id
    mills.do(ChangeEntry(PLACE, entry_id, {}, "Egrets only....."))
    mills.refresh_words(PLACE, [entry_id])
    assert titles(find(mills, "egrets")) == ["A pond"]
    assert titles(find(mills, "herons")) == []
    mills.do(RemoveEntries(PLACE, (entry_id,)))
    mills.refresh_words()
    assert titles(find(mills, "egrets")) == []


def test_an_index_that_is_deleted_is_made_again(mills: Session) -> None:
    folder = mills.folder
    mills.close()
    for path in (folder / "index").glob("words*"):
        path.unlink()
    again = Session(folder, mills.fetcher)
    again.refresh_words()
    assert find(again, "tide mill").total == 2
    again.close()


@given(st.text(max_size=40), st.text(max_size=200))
def test_any_line_is_looked_for_and_any_text_cut(typed: str, text: str) -> None:
    wanted = understood(typed)
    snippet, marked = snippet_of(text, terms_wanted(wanted))
    for begin, end in marked:
        assert 0 <= begin < end <= len(snippet)


@given(st.text(max_size=30))
def test_folding_twice_is_folding_once(word: str) -> None:
    assert folded(folded(word)) == folded(word) or not word.isprintable()


def test_nothing_that_is_typed_breaks_the_question(session: Session) -> None:
    session.refresh_words()
    for typed in ('"', "a*b", "^", "NEAR(a b)", "title:mill", "{a}", "a + b", "-", '-"', "*", "a AND", "東京 -京"):
        find(session, typed)


LONG = {
    "a word": "x" * 100_000, "words": " ".join(f"word{at}" for at in range(20_000)), "one again and again": "mill " * 20_000,
    "a phrase": '"' + "mill tide " * 2_000 + '"', "phrases": " ".join(f'"a{at} b"' for at in range(2_000)),
    "without": " ".join(f"-x{at}" for at in range(20_000)), "beginnings": " ".join(f"m{at}*" for at in range(2_000)),
    "signs": "日本" * 20_000, "pasted": "The mill turns with the tide, and the miller waits. " * 450,
}  # fmt: skip


@pytest.mark.parametrize("name", list(LONG))
def test_a_line_asks_for_no_more_words_than_a_person_means(session: Session, name: str) -> None:
    wanted = understood(LONG[name], is_open=True)
    terms = [*wanted.words, *wanted.phrases, *wanted.without]
    assert len(terms) == len(set(terms))
    assert sum(len(one.split()) for one in terms) <= 40
    assert len(wanted.match) < 20_000
    assert "are not" in wanted.told
    assert understood("mill tide mill").told == ""
    assert understood("m* " * 2_000).words == ("m*",), "no half of a word is looked for"
    session.reader.search.find(wanted, 10)


def test_a_question_with_too_many_words_is_refused_with_the_reason(session: Session) -> None:
    question = Question(Words(" ".join(f"w{at}" for at in range(2_000))))
    with pytest.raises(UserError, match="2,000 different words are asked for, and 40 at most"):
        session.reader.entries.listing("collection:1", question)
