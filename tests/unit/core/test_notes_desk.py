"""Notes among one another: what files tell of themselves, links and their lines, broken ones, days, moves, other encodings."""

from datetime import date
from pathlib import Path

import pytest

from helpers import add_notes, undo
from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.commands.notes import (
    LayFile,
    MakeDay,
    MakeNote,
    MoveNotes,
    PointLinks,
    WriteInUtf8,
    WriteJournal,
)
from wily_magpie.core.commands.places import ChangePlace
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.queries.notes import MOST_HERE
from wily_magpie.core.session.session import Session

TEXTS = {
    "mill.md": "# The wheel\n\nSee [the sea](Coast/sea.md) and [[pond|the pond]].\nAlso [[pnd]] and [gone](Coast/seaa.md), ![x](x.png).\n",
    "Coast/sea.md": "---\ntitle: The sea\ntags: [craft/mill, '#tide']\n---\nUp to [the mill](../mill.md).\n\n- [ ] one\n- [x] two\n* [ ] three\n",
    "pond.md": "Words here are five altogether. #craft\n\n```\n[[sea]] #none\n```\n",
}


@pytest.fixture
def notes(session: Session, tmp_path: Path) -> NotesFolder:
    folder = tmp_path / "Notes"
    for name, text in TEXTS.items():
        (folder / name).parent.mkdir(parents=True, exist_ok=True)
        (folder / name).write_text(text, "utf-8")
    (folder / "x.png").write_bytes(b"\x89PNG")
    made = add_notes(session, "Notes", folder)
    made.refresh()
    return made


def number(notes: NotesFolder, path: str) -> int:
    return notes.index.id_of(path) or 0


def told(notes: NotesFolder, path: str, *keys: str) -> list[object]:
    (entry,) = notes.rows([number(notes, path)])
    return [entry.value(f"note.{key}") for key in keys]


def asked(session: Session, notes: NotesFolder, question: str) -> list[str]:
    ids = notes.listing(session.reader.entries.question(notes.key, f"{question} sortBy note.path")).ids
    return [entry.path for entry in notes.rows(ids)]


def test_what_files_tell_of_themselves(session: Session, notes: NotesFolder) -> None:
    assert told(notes, "mill.md", "links_out", "links_in", "broken_links", "headings", "size") == [
        5, 1, 2, "The wheel", len(TEXTS["mill.md"])
    ]  # fmt: skip
    assert told(notes, "Coast/sea.md", "tasks_open", "tasks_done", "links_in", "tags") == [
        2,
        1,
        1,
        ("craft/mill", "tide"),
    ]
    assert told(notes, "pond.md", "links_in", "links_out", "broken_links") == [1, 0, 0]
    assert told(notes, "mill.md", "created")[0]


@pytest.mark.parametrize(
    ("question", "paths"),
    [
        ("note.tags = craft", ["Coast/sea.md", "pond.md"]),
        ('note.tags = "craft/mill"', ["Coast/sea.md"]),
        ("note.tags <> craft", ["mill.md"]),
        ('note.tags all "craft; tide"', ["Coast/sea.md"]),
        ("note.broken_links > 0", ["mill.md"]),
        ("note.links_in = 0", []),
        ("note.tasks_open >= 2", ["Coast/sea.md"]),
        ('note.path =/begins "Coast/"', ["Coast/sea.md"]),
        ("note.words < 8", ["pond.md"]),
    ],
)
def test_they_can_be_asked_for(session: Session, notes: NotesFolder, question: str, paths: list[str]) -> None:
    if "words" in question:
        (notes.path / "pond.md").write_text("Only five words stand here.\n")
        notes.refresh()
    assert asked(session, notes, question) == paths


def test_links_are_counted_anew_when_notes_come_and_go(session: Session, notes: NotesFolder) -> None:
    session.do(MakeNote(notes.key, "pnd.md"))
    assert told(notes, "mill.md", "broken_links") == [1]
    assert told(notes, "pnd.md", "links_in") == [1]
    (notes.path / "pond.md").unlink()
    (notes.path / "x.png").unlink()
    notes.refresh()
    assert told(notes, "mill.md", "broken_links") == [3]
    undo(session)
    assert told(notes, "mill.md", "broken_links") == [4]


def test_what_links_here_comes_with_its_line(session: Session, notes: NotesFolder) -> None:
    around = session.reader.notes.around(notes.key, number(notes, "Coast/sea.md"))
    assert around is not None
    assert [(one.path, one.line) for one in around.here] == [
        ("mill.md", "See [the sea](Coast/sea.md) and [[pond|the pond]].")
    ]
    assert [one.target for one in around.out] == ["../mill.md"]


def test_all_that_link_here_are_counted_where_not_all_are_shown(session: Session, notes: NotesFolder) -> None:
    for at in range(MOST_HERE + 5):
        (notes.path / f"from {at}.md").write_text("[[sea]]\n")
    notes.refresh()
    around = session.reader.notes.around(notes.key, number(notes, "Coast/sea.md"))
    assert around is not None
    assert (around.count, len(around.here)) == (MOST_HERE + 6, MOST_HERE)


def test_broken_links_have_ways_out(session: Session, notes: NotesFolder) -> None:
    mill = number(notes, "mill.md")
    around = session.reader.notes.around(notes.key, mill)
    assert around is not None
    broken = {one.target: one for one in around.out if one.is_broken}
    assert {key: (list(one.near)[:1], one.path) for key, one in broken.items()} == {
        "pnd": (["pond.md"], "pnd.md"),
        "Coast/seaa.md": (["Coast/sea.md"], "Coast/seaa.md"),
    }
    session.do(PointLinks(notes.key, mill, "Coast/seaa.md", "Coast/sea.md"))
    session.do(PointLinks(notes.key, mill, "pnd", "pond.md"))
    assert "[[pond]] and [gone](Coast/sea.md)" in (notes.path / "mill.md").read_text()
    assert told(notes, "mill.md", "broken_links") == [0]


def test_several_notes_are_moved_and_links_follow(session: Session, notes: NotesFolder) -> None:
    ids = [number(notes, path) for path in ("Coast/sea.md", "pond.md")]
    plans = session.reader.notes.look_at_moves(notes.key, ids, "Water")
    assert [(plan.old, plan.new) for plan in plans] == [("Coast/sea.md", "Water/sea.md"), ("pond.md", "Water/pond.md")]
    session.do(MoveNotes(notes.key, ids, "Water"))
    assert "[the sea](Water/sea.md) and [[pond|the pond]]" in (notes.path / "mill.md").read_text()
    undo(session)
    assert (notes.path / "mill.md").read_text() == TEXTS["mill.md"]
    whole = session.reader.notes.in_folder(notes.key, "Coast")
    session.do(MoveNotes(notes.key, whole, "Old/Shore", "Coast"))
    assert (notes.path / "Old" / "Shore" / "sea.md").exists()
    assert session.reader.notes.folders(notes.key) == {"Old": 1, "Old/Shore": 1}


def test_days_have_pages_made_of_the_starter_note(session: Session, notes: NotesFolder) -> None:
    (notes.path / "Day.md").write_text("# {{ weekday }}, {{ date }}\n\nBefore: [[{{ yesterday }}]] W{week}\n")
    session.do(ChangePlace(notes.key, PlaceSettings(journal_pattern="Days/{date}", journal_starter="Day")))
    notes = session._library.notes(notes.key)
    notes.refresh()
    day = date(2026, 3, 12)
    made = session.do(MakeDay(notes.key, day))
    text = (notes.path / "Days" / "2026-03-12.md").read_text()
    assert text == "# Thursday, 2026-03-12\n\nBefore: [[2026-03-11]] W11\n"
    assert session.do(MakeDay(notes.key, day)) == made
    session.do(WriteJournal(notes.key, "Ebb at nine.", day=date(2025, 3, 12)))
    assert session.reader.notes.days(notes.key, 2026, 3) == {day: made}
    assert list(session.reader.notes.other_years(notes.key, day)) == [date(2025, 3, 12)]
    (notes.path / "Day.md").write_text("{{ wekday }}\n")
    with pytest.raises(UserError, match="wekday"):
        session.do(MakeDay(notes.key, date(2026, 3, 13)))


LATIN = "---\nstatus: open\n---\nDéjà vu à l’écluse\n".encode("cp1252")


def test_a_note_in_another_encoding_is_said_read_and_written_back(session: Session, notes: NotesFolder) -> None:
    path = notes.path / "latin.md"
    path.write_bytes(LATIN)
    notes.refresh()
    old = number(notes, "latin.md")
    assert "looks like Latin-1" in notes.rows([old])[0].fault
    assert asked(session, notes, "entry.has = fault") == ["latin.md"]
    with pytest.raises(UserError, match="not UTF-8"):
        session.do(SetText(notes.key, [old], "status", "done"))
    assert path.read_bytes() == LATIN
    session.do(ChangePlace(notes.key, PlaceSettings(other_encoding="cp1252")))
    notes = session._library.notes(notes.key)
    notes.refresh()
    assert number(notes, "latin.md") == old
    assert told(notes, "latin.md", "encoding") == ["Latin-1"]
    session.do(SetText(notes.key, [old], "status", "done"))
    assert path.read_bytes() == LATIN.replace(b"open", b"done")
    with pytest.raises(UserError, match="cannot be written in Latin-1"):
        session.do(SetText(notes.key, [old], "status", "水"))
    session.do(WriteInUtf8(notes.key, (old,)))
    assert path.read_bytes() == LATIN.replace(b"open", b"done").decode("cp1252").encode()
    undo(session)
    assert path.read_bytes() == LATIN.replace(b"open", b"done")


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("---\nstatus: open\n\nText\n", "never closed"),
        ("---\nstatus: open\nstatus: done\n---\nText\n", "line 3: the key “status” is there twice"),
        ("---\nbook:\n  year: 1\n  year: 2\n---\n", "there twice"),
        ("---\na: [1\n---\n", "is not YAML"),
    ],
)
def test_broken_front_matter_is_said_and_not_written_on(
    session: Session, notes: NotesFolder, text: str, fault: str
) -> None:
    path = notes.path / "broken.md"
    path.write_text(text)
    notes.refresh()
    entry_id = number(notes, "broken.md")
    assert fault in notes.rows([entry_id])[0].fault
    with pytest.raises(UserError):
        session.do(SetText(notes.key, [entry_id], "title", "Another"))
    assert path.read_text() == text


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("book:\n  year: 1890 # so it says\n  place: Wick\n", "book:\n  year: 1891 # so it says\n  place: Wick\n"),
        ("book: {year: 1890, place: Wick}\n", "book: {year: 1891, place: Wick}\n"),
        ("book:\n  place: Wick\nlast: x\n", "book:\n  place: Wick\n  year: 1891\nlast: x\n"),
    ],
)
def test_parts_of_front_matter_are_fields(session: Session, notes: NotesFolder, before: str, after: str) -> None:
    (notes.path / "other.md").write_text("---\nbook:\n  year: 1700\n---\n")
    path = notes.path / "book.md"
    path.write_text(f"---\n{before}---\nText\n")
    notes.refresh()
    session.do(SetText(notes.key, [number(notes, "book.md")], "book.year", "1891"))
    assert path.read_text() == f"---\n{after}---\nText\n"
    assert asked(session, notes, "book.year > 1800") == ["book.md"]


def test_files_go_where_such_lie_by_the_folders_habit(session: Session, notes: NotesFolder, tmp_path: Path) -> None:
    sea = number(notes, "Coast/sea.md")
    assert session.do(LayFile(notes.key, sea, "new.png", b"\x89PNG2")) == "![new.png](../new.png)"
    for name in ("a.jpg", "b.jpg", "c.jpg"):
        (notes.path / "Pictures").mkdir(exist_ok=True)
        (notes.path / "Pictures" / name).write_bytes(b"\xff\xd8")
    notes.refresh()
    assert session.do(LayFile(notes.key, sea, "d.png", b"\x89PNG3")) == "![d.png](../Pictures/d.png)"
    (tmp_path / "deed.pdf").write_bytes(b"%PDF")
    session.do(AttachFiles(notes.key, sea, "title", (tmp_path / "deed.pdf",)))
    assert (notes.path / "Files" / "deed.pdf").exists()
