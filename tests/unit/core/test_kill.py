"""A program that is killed at any moment loses nothing that it said was kept, and leaves nothing half done."""

import random
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import pytest

from helpers import redo, undo
from processes import Child
from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.commands.entries import AddEntry, SetText
from wily_magpie.core.commands.fields import AddField, ChangeKind
from wily_magpie.core.commands.living import FillLists
from wily_magpie.core.commands.notes import WriteNote
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.living_list import lists_in
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

KILLS, KILLS_OF_FILLINGS = 50, 200
ENTRIES = 12


def opened(folder: Path) -> Session:
    return Session(folder, Fetcher())


@dataclass(frozen=True)
class KeepWithPage(StepCommand[None]):
    """An entry with a page, as one step."""

    place: str
    number: int

    def label(self, _library: Library) -> str:
        return "Keep"

    def do(self, library: Library, progress: Progress) -> None:
        number = self.number
        wanted = AddEntry(self.place, f"Page {number}", {"description": str(number)}, f"Text {number}")
        entry_id = wanted.do(library, progress)
        page = Page(f"http://mill.example/{number}", f"<p>{number}</p>", "file")
        library.blobs.keep_page(library.place(self.place), entry_id, page, f"mill.example/{number}")


@dataclass(frozen=True)
class WriteTwice(StepCommand[None]):
    """The same number into two notes, as one step."""

    place: str
    number: int

    def label(self, _library: Library) -> str:
        return "Write"

    def do(self, library: Library, progress: Progress) -> None:
        for name in ("one.md", "two.md"):
            WriteNote(self.place, name, f"line {self.number}").do(library, progress)


def capture(session: Session, start: int, done: Callable[[int], object]) -> None:
    """Keeps entries with pages."""
    place = session._library.place("Sources")
    for number in range(start, start + 10_000):
        session.do(KeepWithPage(place.key, number))
        done(number)


def edit(session: Session, start: int, done: Callable[[int], object]) -> None:
    """Sets a field of all entries at once."""
    place = session._library.place("Sources")
    ids = list(place.listing(Question()).ids)[:ENTRIES]
    for number in range(start, start + 10_000):
        session.do(SetText(place.key, ids, "site", str(number)))
        done(number)


def convert(session: Session, start: int, done: Callable[[int], object]) -> None:
    """Converts a field to and fro."""
    place = session._library.place("Sources")
    for number in range(start, start + 10_000):
        session.do(ChangeKind(place.key, "fickle", ("text", "number", "choice")[number % 3]))
        done(number)


def write(session: Session, start: int, done: Callable[[int], object]) -> None:
    """Writes the same number into two notes, as one step, and takes some of the steps back."""
    notes = next(place for place in session._library.places() if isinstance(place, NotesFolder))
    for number in range(start, start + 10_000):
        session.do(WriteTwice(notes.key, number))
        if number % 4 == 0:
            undo(session)
            redo(session)
        done(number)


LIST = 'Above.\n\n<!-- list as="count" in="Sources" -->\n<!-- end of list -->\n\nBelow.\n'


def fill(session: Session, start: int, done: Callable[[int], object]) -> None:
    """Adds an entry, and has a list of how many there are filled in two notes, as one step."""
    notes = next(place for place in session._library.places() if isinstance(place, NotesFolder))
    place = session._library.place("Sources")
    for number in range(start, start + 10_000):
        session.do(AddEntry(place.key, f"Weir {number}"))
        session.do(FillLists(notes.key, ("one.md", "two.md")))
        done(number)


def listed(path: Path) -> int:
    """How many entries a note's list counts; what stands around it is as it was."""
    text = path.read_text("utf-8")
    (one,) = lists_in(text)
    assert not one.is_edited(text)
    assert (text[: one.start], text[one.close_end :]) == (LIST[: LIST.index("<!-- end")], "\n\nBelow.\n")
    return int((re.search(r"\*\*(\d+)\*\*", one.held(text)) or ["", "0"])[1])


def count_of(path: Path) -> list[str]:
    return [line for line in path.read_text("utf-8").splitlines() if line.startswith("line")] if path.exists() else []


@pytest.mark.parametrize("work", [capture, edit, convert, write, fill])
def test_killed_hundreds_of_times(
    tmp_path: Path, work: Callable[[Session, int, Callable[[int], object]], None]
) -> None:
    chance = random.Random(work.__name__)
    folder, notes_path = tmp_path / "library", tmp_path / "Notes"
    notes_path.mkdir()
    session = opened(folder)
    key = session._library.place("Sources").key
    session.do(AddField(key, FieldPlan("fickle", "Fickle", "text")))
    for number in range(ENTRIES):
        session.do(AddEntry(key, f"Mill {number}", {"fickle": str(number) if number % 2 else f"about {number}"}))
    for name in ("one.md", "two.md") if work is fill else ():
        (notes_path / name).write_text(LIST, "utf-8")
    session.refresh_notes(session.do(AddNotesFolder(notes_path)).key)
    session.close()
    start, acknowledged, longest_s = 0, 0, 0.06
    kills = KILLS_OF_FILLINGS if work is fill else KILLS
    for _ in range(kills):

        def child(done: Callable[[int], object], start: int = start) -> None:
            work(opened(folder), start, done)

        told = Child(child).go().kill(chance.uniform(0.01, longest_s))
        acknowledged += len(told)
        longest_s *= 0.9 if len(told) > 2 else 1.2 if not told else 1  # as fast as this machine is just now
        session = opened(folder)
        try:
            place = session._library.place("Sources")
            rows = place.rows(list(place.listing(Question()).ids))
            if work is capture:
                kept = {row.value("description"): row.id for row in rows if row.title.startswith("Page")}
                assert {str(number) for number in told} <= set(kept)
                assert len(kept) - start in (0, len(told), len(told) + 1)
                assert all(
                    (place.entry(one) or row).body == f"Text {number}"
                    for number, one in kept.items()
                    for row in rows[:1]
                )
                start = len(kept)
            elif work is edit:
                sites = {row.value("site") for row in rows[:ENTRIES]}
                assert len(sites) == 1
                assert not told or int(str(sites.pop())) - told[-1] in (0, 1)
                start += 10_000
            elif work is convert:
                values = [
                    " ".join(str(v) for k, v in row.values.items() if k.startswith("fickle")) for row in rows[:ENTRIES]
                ]
                assert [any(text in value for text in (str(n), f"{n}.0")) for n, value in enumerate(values)] == [
                    True
                ] * ENTRIES
                start = (told[-1] + 1) if told else start
            elif work is fill:
                counts = {listed(notes_path / name) for name in ("one.md", "two.md")}
                assert len(counts) == 1
                assert not told or len(rows) - 1 <= counts.pop() <= len(rows)
                start += 10_000
            else:
                one, two = count_of(notes_path / "one.md"), count_of(notes_path / "two.md")
                assert one == two
                assert {f"line {number}" for number in told} <= set(one)
                start = len(one) + 10
            session._library.blobs.sweep()
            assert session.reader.check() == []
            assert not list(folder.glob("unfinished-*"))
        finally:
            session.close()
    assert acknowledged > kills / 4
    pages = {path.name.partition(".")[0] for path in (folder / "pages").iterdir()}
    session = opened(folder)
    assert pages == {str(sha) for (sha,) in session._library.database.rows("SELECT sha256 FROM page")}
    session.close()
