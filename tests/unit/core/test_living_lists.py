"""Living lists: what they hold, that nothing else of a note is touched, and that what people write in them is never lost."""

import threading
from pathlib import Path

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from helpers import add_notes, undo
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.living import FillLists, PutList, WriteLists
from wily_magpie.core.commands.places import RenamePlace
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.entries import living_rows
from wily_magpie.core.entries.living_list import ListForm, Shown, comment_of, lists_in, read_form, sum_of
from wily_magpie.core.entries.living_rows import Row, RowGroup, Rows
from wily_magpie.core.errors import UserError
from wily_magpie.core.events import Event, ListsLeft
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.queries.living import BESIDE, DIFFERENT, EDITED, FAULTY, MOST_LISTS, OFF, OVER, STOPPED, Asked
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.known import MOST_STEPS

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "lists.yaml").read_text("utf-8"))
END = "<!-- end of list -->"
PATIENCE_S = 20


@pytest.fixture
def notes(session: Session, tmp_path: Path) -> NotesFolder:
    folder = tmp_path / "Notes"
    for name, text in CASES["notes"].items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text(text, "utf-8")
    (folder / "Chapters" / "gate.png").write_bytes(b"\x89PNG")
    made = add_notes(session, "Notes", folder)
    made.refresh()
    return made


def home(notes: NotesFolder, text: str, name: str = "Home.md") -> Path:
    path = notes.path / name
    path.write_text(text, "utf-8")
    notes.refresh()
    return path


def living(said: str, held: str = "") -> str:
    return f"<!-- list {said} -->\n{held}{END}\n"


def fill(session: Session, notes: NotesFolder, name: str = "Home.md", **asked: object) -> str:
    session.do(FillLists(notes.key, [name], Asked(**{"is_wanted": True, "is_each": True, **asked})))  # type: ignore[arg-type]
    return (notes.path / name).read_text("utf-8")


def states(session: Session, notes: NotesFolder, name: str = "Home.md") -> list[str]:
    return [one.state for one in session.reader.living.states(notes.key, [name])]


@pytest.mark.parametrize("case", CASES["lists"], ids=lambda case: case["said"] or "bare")
def test_a_list_holds(session: Session, notes: NotesFolder, case: dict[str, str]) -> None:
    session.do(
        AddEntry(
            session.place("Sources").key, "Heron Mill", {"status": "read", "address": "https://mill.example/heron"}
        )
    )
    sources = case["holds"].rstrip("\n")
    said = case["said"]
    before = f"---\nkind: home\n---\n# Home\n\n<!-- list{' ' if said else ''}{said} -->\n"
    home(notes, f"{before}{END}\n\nBelow.\n")
    filled = fill(session, notes)
    held = sources if said else filled.partition("-->\n\n")[2].partition("\n\n<!--")[0]
    assert filled == f"{before}\n{held}\n\n<!-- end of list {sum_of(held)} -->\n\nBelow.\n"
    if not said:  # every note, in the order in which they were read
        assert set(held.splitlines()) == {*sources.splitlines(), "- [Home](Home.md)"}


@pytest.mark.parametrize("newline", ["\n", "\r\n"])
def test_nothing_outside_of_a_list_is_touched(session: Session, notes: NotesFolder, newline: str) -> None:
    outside = [
        "\ufeff---",
        "odd:   'x'   # as it was",
        "---",
        "Text  ",
        "",
        "```",
        "<!-- list -->",
        END,
        "```",
        "  trailing",
    ]
    text = newline.join([*outside, '<!-- list where="rating > 3" -->', END, "* [ ] last"])
    path = notes.path / "Home.md"
    path.write_bytes(text.encode())
    notes.refresh()
    fill(session, notes)
    after = path.read_bytes().decode()
    begin, end = after.index('rating > 3" -->'), after.rindex("<!--")
    assert after[: begin + len('rating > 3" -->')] == text[: begin + len('rating > 3" -->')]
    assert after[end:].partition("-->")[2] == f"{newline}* [ ] last"
    assert after.count("\n") == after.count(newline)


def test_filling_again_writes_nothing(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living('show="title, entry.changed, note.size, note.words"') + living('as="count"'))
    first = fill(session, notes)
    steps, stamp = len(session.reader.steps()), path.stat().st_mtime_ns
    assert fill(session, notes) == first
    assert (len(session.reader.steps()), path.stat().st_mtime_ns) == (steps, stamp)


def test_what_was_written_into_a_list_is_kept(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living('where="rating > 3"'))
    filled = fill(session, notes)
    edited = filled.replace("The law", "My law")
    home(notes, edited)
    assert states(session, notes) == [EDITED]
    assert fill(session, notes) == edited, "left as it is until somebody says what becomes of it"
    beside = fill(session, notes, edits=BESIDE)
    assert beside.startswith(filled.rstrip("\n"))
    assert beside.count("My law") == 1
    assert undo(session) == "Fill the lists of Home"
    assert path.read_text("utf-8") == edited
    assert fill(session, notes, edits=OVER) == filled


def test_a_fault_leaves_the_old_rows_below_it(session: Session, notes: NotesFolder) -> None:
    home(notes, living('where="rating > 3"'))
    good = fill(session, notes)
    home(notes, good.replace("rating >", "rateing >"))
    bad = fill(session, notes)
    assert "no field “rateing”" in bad
    assert "- [The law of the tide]" in bad
    assert states(session, notes) == [FAULTY]
    assert fill(session, notes) == bad
    home(notes, bad.replace("rateing >", "rating >"))
    assert fill(session, notes) == good


def test_a_list_without_an_end_is_left_alone_and_said(session: Session, notes: NotesFolder) -> None:
    text = "<!-- list -->\n\nText.\n\n" + living('as="count"') + "<!-- list\n  where='x' -->\n"
    home(notes, text)
    after = fill(session, notes)
    assert after.startswith("<!-- list -->\n\nText.\n\n<!-- list")
    assert "**5** in Notes" in after
    assert states(session, notes) == [FAULTY, "filled", FAULTY]


def test_undo_of_a_filling_stops_it_until_it_is_asked_for(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living("where=\"status = 'to read'\""))
    before = path.read_text("utf-8")
    filled = fill(session, notes)
    undo(session)
    assert path.read_text("utf-8") == before
    assert states(session, notes) == [STOPPED]
    assert fill(session, notes) == filled
    assert states(session, notes) == ["filled"]


def test_switched_off_by_the_list_and_by_the_folder(session: Session, notes: NotesFolder) -> None:
    home(notes, living('as="count" filled="no"'))
    assert states(session, notes) == [OFF]
    assert "**5**" in fill(session, notes), "asked for, it is filled all the same"
    home(notes, living('as="count"'))
    assert states(session, notes) == [DIFFERENT]


def settled(session: Session) -> None:
    """Waits until nothing is left to be filled."""
    session.lanes.indexer.submit(lambda: None).result(PATIENCE_S)
    assert session.filling is not None
    assert session.filling.idle.wait(PATIENCE_S)


def test_lists_follow_what_they_show(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living('where="status == read" sort="title" links="path"'))
    other = home(notes, living('where="rating > 3" show="title, rating"'), "Other.md")
    session.keep_lists_filled()
    settled(session)
    assert "gate" in path.read_text("utf-8")
    stamp = other.stat().st_mtime_ns
    law = notes.index.id_of("Chapters/law.md") or 0
    session.do(SetText(notes.key, [law], "status", "read"))
    settled(session)
    assert "The law of the tide" in path.read_text("utf-8")
    assert other.stat().st_mtime_ns == stamp, "nothing is written that did not change"
    assert session.overview.undo is not None
    assert session.overview.undo.label.startswith("Change status")
    session.do(Undo())
    settled(session)
    assert "The law of the tide" not in path.read_text("utf-8")


def test_a_fault_of_ours_is_told_and_lists_are_filled_after_it(
    session: Session, notes: NotesFolder, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = home(notes, living('where="status == read"'))
    session.keep_lists_filled()
    settled(session)
    law = notes.index.id_of("Chapters/law.md") or 0
    told: list[str] = []
    monkeypatch.setattr(threading, "excepthook", lambda args: told.append(str(args.exc_value)))
    with monkeypatch.context() as faulty:
        faulty.setattr(session.reader.living, "touched", {}.__getitem__)
        session.do(SetText(notes.key, [law], "title", "Law"))
        settled(session)
    assert len(told) == 1
    session.do(SetText(notes.key, [law], "status", "read"))
    settled(session)
    assert "Law" in path.read_text("utf-8")


def test_lists_over_each_other_come_to_rest(session: Session, notes: NotesFolder) -> None:
    shows = 'sort="title" show="title, entry.changed, note.size, note.words, note.links_in"'
    one, two = home(notes, living(shows), "One.md"), home(notes, living(shows), "Two.md")
    session.keep_lists_filled()
    settled(session)
    texts = [one.read_bytes(), two.read_bytes()]
    for _ in range(3):
        session.filling.look_at_all()  # type: ignore[union-attr]
        settled(session)
    assert [one.read_bytes(), two.read_bytes()] == texts


def test_two_sessions_write_once(session: Session, notes: NotesFolder, tmp_path: Path) -> None:
    path = home(notes, living('where="status == read"'))
    second = Session(session.folder, Fetcher(), origin="shell")
    second.hear_neighbours()
    session.hear_neighbours()
    for each in (session, second):
        each.keep_lists_filled()
        settled(each)
    law = notes.index.id_of("Chapters/law.md") or 0
    session.do(SetText(notes.key, [law], "status", "read"))
    settled(session)
    settled(second)
    assert path.read_text("utf-8").count("The law of the tide") == 1
    written = [one for one in session.reader.steps() if one.is_filling]
    assert len(written) == 2, "once at the beginning, once for the change"
    second.close()


def test_two_machines_come_to_rest_over_one_folder(session: Session, notes: NotesFolder, tmp_path: Path) -> None:
    shows = 'sort="title" show="title, status, entry.changed, note.size, note.links_in"'
    paths = [home(notes, living(shows), name) for name in ("One.md", "Two.md")]
    other = Session(tmp_path / "other", Fetcher())
    theirs = add_notes(other, "Notes", notes.path)
    theirs.refresh()
    for each in (session, other):
        each.keep_lists_filled()
        settled(each)
    session.do(SetText(notes.key, [notes.index.id_of("Chapters/law.md") or 0], "status", "read"))
    settled(session)
    for _ in range(3):  # each hears what the other wrote
        for each in (other, session):
            each.refresh_notes()
            settled(each)
    texts = [path.read_bytes() for path in paths]
    for each in (other, session, other):
        each.refresh_notes()
        settled(each)
    assert [path.read_bytes() for path in paths] == texts
    assert all(not one.is_edited(text.decode()) for text in texts for one in lists_in(text.decode()))
    other.close()


def test_an_edit_of_the_note_can_be_undone_although_its_list_was_filled_since(
    session: Session, notes: NotesFolder
) -> None:
    path = home(notes, living('where="status == read"'))
    session.keep_lists_filled()
    settled(session)
    number = notes.index.id_of("Home.md") or 0
    session.do(SetText(notes.key, [number], "kind", "home")) if notes.info.has("kind") else session.do(
        FillLists(notes.key, ["Home.md"])
    )
    text = path.read_text("utf-8")
    session.do(PutList(notes.key, "Home.md", ListForm(shape="count")))
    session.do(SetText(notes.key, [notes.index.id_of("Chapters/law.md") or 0], "status", "read"))
    settled(session)
    undo(session)
    undo(session)
    settled(session)
    assert path.read_text("utf-8") == text


def test_fillings_push_out_no_step_of_a_person(session: Session, notes: NotesFolder) -> None:
    home(notes, living('show="title, status"'))
    session.do(SetSetting(MOST_STEPS.name, "10"))
    law = notes.index.id_of("Chapters/law.md") or 0
    for number in range(14):
        session.do(SetText(notes.key, [law], "status", f"s{number}"))
        session.do(WriteLists(notes.key, (session.reader.living.filled(notes.key, "Home.md"),)))
    own = [one for one in session.reader.steps() if one.origin == "window"]
    assert len(own) == 10
    for number in (12, 11, 10):
        undo(session)
        assert f"status: s{number}\n" in (notes.path / "Chapters" / "law.md").read_text("utf-8")


def test_what_is_left_is_told_once(session: Session, notes: NotesFolder) -> None:
    heard: list[Event] = []
    session.subscribe(heard.append)
    home(notes, living('where="nofield = 1"'))
    session.keep_lists_filled()
    settled(session)
    session.filling.look_at_all()  # type: ignore[union-attr]
    settled(session)
    (left,) = [event for event in heard if isinstance(event, ListsLeft)]
    assert left.path == "Home.md"
    assert "nofield" in left.told


def test_a_note_changed_meanwhile_is_left(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living('as="count"'))
    planned = session.reader.living.filled(notes.key, "Home.md")
    path.write_text("Somebody was quicker.\n", "utf-8")
    assert session.do(WriteLists(notes.key, (planned,))) == ()
    assert path.read_text("utf-8") == "Somebody was quicker.\n"


NAMES = st.text(st.characters(blacklist_characters="\0"), max_size=9).map(str.strip)
FORMS = st.builds(
    ListForm,
    place=st.text(max_size=20),
    where=st.sampled_from(['status = "to read"', 'title = "it\'s" and rating > 2', 'a = "x -- > \\" y"', "", "plain words"]),
    sort=st.sampled_from(["", "title", '"two words"/descending title']),
    shown=st.lists(st.builds(Shown, NAMES.filter(bool), NAMES), min_size=1, max_size=3).map(tuple),
    shape=st.sampled_from(["list", "table", "cards", "count"]),
    most=st.integers(0, 99_999),
    is_filled=st.booleans(),
)  # fmt: skip


@settings(max_examples=200)
@given(FORMS)
def test_a_form_is_read_as_it_was_written(form: ListForm) -> None:
    said = comment_of(form)
    assert "--" not in said[4:-3]
    assert "\n" not in said
    again = read_form(said)
    flat = [
        " ".join(text.split()) for text in (form.place, *(part for one in form.shown for part in (one.key, one.name)))
    ]
    assert [again.place, *(part for one in again.shown for part in (one.key, one.name))] == flat
    assert (again.shape, again.most, again.is_filled) == (form.shape, form.most, form.is_filled)
    assert again.question == form.question


TITLES = st.text(st.characters(codec="utf-8"), min_size=1, max_size=30).filter(lambda text: text.strip())


@settings(max_examples=150)
@given(
    st.lists(TITLES, min_size=1, max_size=4),
    st.lists(TITLES, min_size=4, max_size=4),
    st.sampled_from(["list", "table", "cards"]),
)
def test_any_title_stands_in_its_row_for_a_foreign_reader(titles: list[str], cells: list[str], shape: str) -> None:
    rows = [
        Row(living_rows.link(title, "a b/(c).md"), [living_rows.plain(cell)])
        for title, cell in zip(titles, cells, strict=False)
    ]
    text = living_rows.written(
        Rows(["Title", "Cell"], frozenset(), [RowGroup("", rows, 0, len(rows))], len(rows), "x"), shape
    )
    tokens = MarkdownIt("commonmark").enable("table").parse(f"# Home\n\n<!-- list -->\n\n{text}\n\n{END}\n")
    kinds = [token.type for token in tokens]
    assert kinds.count("html_block") == 2
    assert kinds.count("list_item_open" if shape == "list" else "tr_open") == len(rows) + (shape != "list")
    if shape != "list":
        assert kinds.count("td_open") == len(rows) * (2 + (shape == "cards"))
    inline = [child for token in tokens for child in token.children or []]
    assert "html_inline" not in {child.type for child in inline}
    links = [child.attrGet("href") for child in inline if child.type == "link_open"]
    assert links == ["a%20b/%28c%29.md"] * len(rows)


def test_lists_follow_the_name_of_a_place(session: Session, notes: NotesFolder) -> None:
    path = home(notes, living('in="Sources" as="count"') + living('as="count"') + living('in="Sources" odd="x"'))
    session.do(RenamePlace(session.place("Sources").key, "Readings"))
    text = path.read_text("utf-8")
    assert text.count('<!-- list in="Readings" as="count" -->') == 1
    assert text.count('in="Sources" odd="x"') == 1
    undo(session)
    assert path.read_text("utf-8").count('in="Sources"') == 2


def test_ten_thousand_lists(session: Session, notes: NotesFolder) -> None:
    text = living('where="rating > 3"') * 10_000
    assert len(lists_in(text)) == 10_000
    assert lists_in("<!-- list -->\n" * 10_000)[-1].fault


def test_a_list_is_put_into_a_note_that_is_made_for_it(session: Session, notes: NotesFolder) -> None:
    session.do(PutList(notes.key, "Desk/Home", ListForm(where="rating > 3", shape="table")))
    text = (notes.path / "Desk" / "Home.md").read_text("utf-8")
    assert "| [The law of the tide](../Chapters/law.md) |" in text
    assert states(session, notes, "Desk/Home.md") == ["filled"]
    with pytest.raises(UserError):
        session.do(PutList(notes.key, "Desk/Home", ListForm(where="nofield = 1")))


def test_a_note_with_thousands_of_lists_has_some_filled_and_says_so(session: Session, notes_path: Path) -> None:
    text = '<!-- list in="Sources" -->\n<!-- end of list -->\n' * 2_000
    (notes_path / "many.md").write_text(text)
    session.refresh_notes()
    found = session.reader.living.filled(session.place("Notebook").key, "many.md")
    assert [one.state for one in found.states].count(FAULTY) == 2_000 - MOST_LISTS
    assert "no more than 200" in found.states[-1].told
    assert found.after.endswith(text[-1_000:].encode()), "what is not filled is as it was"
