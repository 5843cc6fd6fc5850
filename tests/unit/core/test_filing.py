"""Filed by what was filed before: what is proposed, how sure that is, that it is silent before it knows, and that it can be emptied."""

import random
from math import log
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as some

from conftest import HERON
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.commands.upkeep import EmptyFiling
from wily_magpie.core.entries.field import IN_FOLDER, FieldPlan
from wily_magpie.core.fields import Option, Value
from wily_magpie.core.filing.certainty import LEAST_RECORDS, Certainty
from wily_magpie.core.filing.neighbours import Around, likeliest
from wily_magpie.core.filing.words import Documents, vector_of, words_of
from wily_magpie.core.pages.page import Page
from wily_magpie.core.session.session import Session

PLACE = "collection:1"
TOPICS = {
    "law": "charter court judge right water statute harbour commissioner suit tenant lord grant clause custom",
    "stones": "runner bedstone dressing furrow land pick granite spindle meal grist bushel hopper damsel rynd",
    "birds": "heron egret dunlin mudflat tide roost feather curlew plover nest estuary winter flock wader",
}


def text_of(topic: str, chance: random.Random) -> str:
    return " ".join(chance.choices([*TOPICS[topic].split(), "the", "mill", "of", "and", "pond"], k=60))


@pytest.fixture
def filed(session: Session) -> Session:
    """Ninety entries in three chapters."""
    options = tuple(Option(name) for name in TOPICS)
    session.do(AddField(PLACE, FieldPlan("chapter", "Chapter", "choice", options)))
    chance = random.Random(3)
    for number in range(90):
        topic = list(TOPICS)[number % 3]
        host = f"{topic}.example" if number % 2 else f"site{number}.example"
        values: dict[str, Value] = {
            "chapter": topic,
            "address": f"http://{host}/{number}",
            "authors": (f"Writer {number % 7}",),
        }
        session.do(AddEntry(PLACE, f"{topic} {number}", values, text_of(topic, chance)))
    return session


def page_of(topic: str, host: str = "elsewhere.example") -> Page:
    words = text_of(topic, random.Random(99))
    body = "".join(f"<p>{words[at : at + 150]}. So it stands in the book.</p>" for at in range(0, len(words), 150))
    return Page(
        f"http://{host}/new",
        f"<html><head><title>A page</title></head><body><article><h1>A page</h1>{body}</article></body></html>",
        "file",
    )


def slip_of(session: Session, page: Page) -> dict[str, str]:
    run = CaptureRun(session)
    return {key: one.value for key, one in run.slip(run.reading(page)).proposals.items()}


def test_a_page_is_proposed_what_its_neighbours_have(filed: Session) -> None:
    assert slip_of(filed, page_of("law")) == {}, "nothing before it has learned"
    filed.refresh_filing()
    for topic in TOPICS:
        assert slip_of(filed, page_of(topic))["chapter"] == topic
    run = CaptureRun(filed)
    slip = run.slip(run.reading(page_of("birds", "birds.example")))
    assert slip.proposals["chapter"].reason in ("like 15 of 15 with a like text", "like 15 of 15 pages of this site")
    taken = slip.with_text("chapter", "stones")
    assert taken.proposals == {}, "what a person filled is left alone"
    before = len(filed._library.filing.records())
    run.keep(taken)
    records = filed._library.filing.records()
    assert len(records) == before + 1
    assert records[-1][1] is False, "it was wrong, and it learns that at once"


def test_it_is_silent_with_few_entries_and_can_be_emptied(filed: Session) -> None:
    filed.refresh_filing()
    filed.do(EmptyFiling())
    filed.refresh_filing()
    assert filed._library.filing.documents(PLACE) == []
    assert slip_of(filed, page_of("law")) == {}
    filed.refresh_filing(PLACE, [1, 2, 3])
    assert filed._library.filing.documents(PLACE) == [], "also where an entry from before is changed"
    session_places = filed._library.place(PLACE)
    filed.do(AddEntry(PLACE, "law again", {"chapter": "law"}, text_of("law", random.Random(5))))
    filed.refresh_filing()
    assert len(filed._library.filing.documents(PLACE)) == 1, "it begins anew with what comes from now on"
    assert session_places.name == "Sources"


def test_an_index_that_is_deleted_is_made_again(filed: Session) -> None:
    filed.refresh_filing()
    folder: Path = filed.folder
    filed.close()
    for path in (folder / "index").glob("filing.sqlite*"):
        path.unlink()
    again = Session(folder, filed.fetcher)
    assert slip_of(again, page_of("law")) == {}
    again.refresh_filing()
    assert slip_of(again, page_of("law")) == {"chapter": "law"}
    again.close()


def test_a_real_page_is_kept_and_learned(session: Session) -> None:
    run = CaptureRun(session)
    kept = run.keep(run.slip(run.reading(run.page(HERON))))
    (document,) = session._library.filing.documents(PLACE)
    assert (document.owner, document.host) == (str(kept.entry_id), "estuary-courier.example")
    assert document.people == ("Penhallow, Ada", "Varley, Tom")


@given(some.lists(some.text(max_size=60), min_size=1, max_size=8), some.text(max_size=60))
def test_likeness_is_a_cosine(texts: list[str], text: str) -> None:
    found = Documents.of([vector_of("", one) for one in texts]).likeness(vector_of("", text))
    assert found.shape == (len(texts),)
    assert np.all(np.isfinite(found))
    assert np.all((found >= -1e-5) & (found <= 1 + 1e-4))


def test_the_same_text_is_alike_and_another_is_not() -> None:
    chance = random.Random(1)
    texts = [text_of(topic, chance) for topic in TOPICS for _ in range(20)]
    found = Documents.of([vector_of("", one) for one in texts]).likeness(vector_of("", texts[25]))
    assert int(found.argmax()) == 25
    assert found[25] == pytest.approx(1, abs=1e-3)
    assert found[20:40].mean() > 3 * max(float(found[:20].mean()), 0.01)


def test_scripts_without_spaces_are_cut_into_pairs() -> None:
    assert words_of("潮の水車 mill") == ["潮の", "の水", "水車", "mill"]


def test_certainty_follows_the_record() -> None:
    chance = random.Random(2)
    records = []
    for _ in range(400):
        score = chance.uniform(0.05, 2)
        records.append(((log(score), score, score, 0.0, 0.0, 0.0, 3.0), chance.random() < min(0.97, score / 2)))
    assert Certainty.of(records[: LEAST_RECORDS - 1]) is None
    fitted = Certainty.of(records)
    assert fitted
    low, high = (fitted((log(score), score, score, 0.0, 0.0, 0.0, 3.0)) for score in (0.1, 1.9))
    assert low < 0.25
    assert high > 0.8
    guesses = np.array([fitted(features) for features, _ in records])
    assert abs(guesses.mean() - np.mean([right for _, right in records])) < 0.02


def test_the_reason_names_what_weighs_most() -> None:
    around = Around({0: 0.9, 1: 0.2}, (2, 3), (), (3,), 4)
    found = likeliest(around, {0: ("law",), 1: ("birds",), 2: ("stones",), 3: ("law",)})
    assert found
    assert (found.value, found.reason) == ("law", "like 1 of 2 with a like text")
    assert likeliest(around, {}) is None


def test_a_note_is_proposed_the_folder_of_its_neighbours(session: Session, tmp_path: Path) -> None:
    chance, folder = random.Random(4), tmp_path / "book"
    for number in range(60):
        topic = list(TOPICS)[number % 3]
        path = folder / "Sources" / topic / f"{topic} {number}.md"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(f"---\naddress: http://site{number}.example/\n---\n\n{text_of(topic, chance)}\n", "utf-8")
    key = session.do(AddNotesFolder(folder)).key
    session.refresh_notes(key)
    session.refresh_filing()
    run = CaptureRun(session)
    slip = run.slip(run.reading(page_of("stones")), place=key)
    assert slip.proposals[IN_FOLDER].value == "Sources/stones"
    kept = run.keep(slip.with_text(IN_FOLDER, "Sources/../stones"))
    assert (folder / "Sources" / "Untitled" / "stones").is_dir(), "no way out of the folder"
    entry = session.reader.entries.entry(key, kept.entry_id)
    assert entry is not None
    assert entry.path == "Sources/Untitled/stones/A page.md"
    assert all(line.field.key != IN_FOLDER for line in run.slip(slip.reading, place=key).lines), "it lies where it lies"
