"""Notes are written into, moved and changed by two programs at once, and all that nobody meant to change stays."""

import threading
import time
from collections.abc import ItemsView
from datetime import date
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from watchdog.events import FileSystemEvent

from helpers import undo
from wily_magpie.core.commands.entries import RemoveEntries, RestoreEntries, SetBody, SetText
from wily_magpie.core.commands.notes import MoveNote, WriteJournal, WriteNote
from wily_magpie.core.commands.places import AddNotesFolder, ChangePlace
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.notes.disk import fill_path
from wily_magpie.core.places.notes.inserting import insert
from wily_magpie.core.places.notes.merging import merge
from wily_magpie.core.places.notes.outline import outline
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.session.watching import Handler, Watching

BODY = "intro\n\n# Log\n\n- one\n\n## Sub\n\ndeep\n\n# Other\n\nend\n"
INSERTS = [
    (BODY, InsertPosition(), "intro\n\n# Log\n\n- one\n\n## Sub\n\ndeep\n\n# Other\n\nend\n\nNEW\n"),
    (BODY, InsertPosition(at="top"), "NEW\n\n" + BODY),
    (BODY, InsertPosition("log", "top"), BODY.replace("# Log\n", "# Log\n\nNEW\n")),
    (BODY, InsertPosition("Log", "end"), BODY.replace("deep\n", "deep\n\nNEW\n")),
    (BODY, InsertPosition("## Sub", "end"), BODY.replace("deep\n", "deep\n\nNEW\n")),
    (BODY, InsertPosition("Fresh", level=2), BODY + "\n## Fresh\n\nNEW\n"),
    ("", InsertPosition(), "NEW\n"),
    ("", InsertPosition("Fresh", level=1), "# Fresh\n\nNEW\n"),
    ("```\n# Log\n```\n", InsertPosition("Log", level=1), "```\n# Log\n```\n\n# Log\n\nNEW\n"),
]


@pytest.mark.parametrize(("body", "way", "after"), INSERTS)
def test_a_text_is_put_where_it_is_to_stand(body: str, way: InsertPosition, after: str) -> None:
    assert insert(body, "NEW", way) == after


def test_items_join_a_list_and_line_ends_stay() -> None:
    assert insert("# Log\r\n\r\n- one\r\n", "- two", InsertPosition("Log"), "\r\n") == "# Log\r\n\r\n- one\r\n- two\r\n"
    assert insert("- two\n", "- one", InsertPosition(at="top")) == "- one\n- two\n"


@given(st.text(alphabet="#-ab \n`", max_size=80), st.sampled_from(["top", "end"]), st.sampled_from(["", "a", "b"]))
def test_whatever_stands_there_is_still_there(body: str, at: str, heading: str) -> None:
    after = insert(body, "NEW", InsertPosition(heading, at, 3))  # type: ignore[arg-type]
    assert [line.strip() for line in after.splitlines() if line.strip() not in ("", "NEW", f"### {heading}")] == [
        line.strip() for line in body.splitlines() if line.strip() not in ("", f"### {heading}")
    ]
    assert after.count("NEW") == 1


@pytest.fixture
def folder(session: Session, tmp_path: Path) -> Path:
    path = tmp_path / "Book"
    path.mkdir()
    session.do(AddNotesFolder(path))
    return path


def put(folder: Path, session: Session, **files: str) -> None:
    """Files as another program writes them; "/" is written as two underscores."""
    for name, text in files.items():
        path = folder / f"{name.replace('__', '/')}.md"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text.encode())
    session.refresh_notes()


def note(session: Session, path: str) -> int:
    found = session._library.notes("Book").index.id_of(path)
    assert found is not None
    return found


def test_what_is_not_there_is_said_before_it_is_made(session: Session, folder: Path) -> None:
    dry_run = session.reader.notes.dry_run
    assert dry_run("Book", "sub/a", InsertPosition("Log", level=2)) == [
        "The note sub/a.md will be made.",
        "The heading “Log” will be made in sub/a.md.",
    ]
    for bad, way, said in (
        ("a", InsertPosition("Log"), "no heading “Log”"),
        ("../a", InsertPosition(), "is no path"),
        (".hidden/a", InsertPosition(), "is no path"),
    ):
        with pytest.raises(UserError, match=said):
            session.do(WriteNote("Book", bad, "x", way))
    with pytest.raises(UserError, match="no note"):
        session.do(WriteNote("Book", "a", "x", InsertPosition(), may_make=False))
    assert not list(folder.iterdir())
    entry = session.do(WriteNote("Book", "sub/a", "Said.", InsertPosition("Log", level=2), {"title": "A"}))
    assert entry.path == "sub/a.md"
    assert (folder / entry.path).read_text() == "---\ntitle: A\n---\n\n## Log\n\nSaid.\n"
    assert dry_run("Book", "sub/a.md", InsertPosition("Log")) == []
    undo(session)
    assert not (folder / "sub/a.md").exists()


def test_the_journal_page_of_a_day_begins_as_its_starter(session: Session, folder: Path) -> None:
    put(folder, session, Starter="---\nkind: day\n---\n\n# {date}\n\n## Read\n\n## Done\n")
    place = session._library.place("Book")
    settings = PlaceSettings(journal_pattern="Days/{year}/{date}", journal_starter="Starter.md")
    session.do(ChangePlace(place.key, settings))
    day = date(2026, 3, 12)
    entry = session.do(WriteJournal("Book", "- the charter", InsertPosition("Read"), day))
    session.do(WriteJournal("Book", "- the day book", InsertPosition("Read"), day))
    assert entry.path == "Days/2026/2026-03-12.md"
    text = (folder / entry.path).read_text()
    assert text == "---\nkind: day\n---\n\n# 2026-03-12\n\n## Read\n\n- the charter\n- the day book\n\n## Done\n"
    session.do(ChangePlace(place.key, PlaceSettings(journal_starter="gone")))
    with pytest.raises(UserError, match="starter note gone"):
        session.reader.notes.dry_run_journal("Book", InsertPosition(), day)
    assert fill_path("{year}/W{week}/{title}", "Mills: a/b?", day) == "2026/W11/Mills a b"


def test_headings_tags_and_links_are_found_and_code_is_not(session: Session, folder: Path) -> None:
    text = (
        "# One #\n#law and #tide-mill/ebb, not a#b, not #1\n`#code` [x](sub/b.md#part) ![](pic.png) [[b|the b]] <http://a/#frag>\n"
        "```\n# no\n#no [[no]]\n```\n[y](<with space.md>) [z](with%20space.md) [web](http://a.example/c.md)\n"
    )
    found = outline(text)
    assert [heading.text for heading in found.headings] == ["One"]
    assert found.tags == ("law", "tide-mill/ebb")
    assert [link.target for link in found.links] == ["sub/b.md", "pic.png", "b", "with space.md", "with space.md"]
    put(folder, session, a=text, sub__b="# B\n")
    place = session._library.place("Book")
    (entry_id,) = place.listing(session.reader.entries.question(place.key, "inline_tags = law")).ids
    assert place.rows([entry_id])[0].path == "a.md"
    assert list(place.listing(session.reader.entries.question(place.key, 'in_folder == "sub"')).ids) == [
        note(session, "sub/b.md")
    ]
    assert [
        title for _, _, title, _ in session.reader.entries.referring_here(place.key, note(session, "sub/b.md"))
    ] == ["a"]


def test_links_follow_a_note_that_moves_and_nothing_else_changes(session: Session, folder: Path) -> None:
    put(
        folder,
        session,
        mill="See [up](sub/dam.md), [[sub/dam]], [[dam|it]], [[Dam#Sill]], [not](sub/other.md), `[[dam]]`.\r\n",
        sub__dam="[home](../mill.md) and [pic](pic.png) [[mill]]\n",
        sub__other="[[dam]] [d](dam.md#sill)\n",
    )
    before = {path: path.read_bytes() for path in folder.rglob("*.md")}
    entry_id = note(session, "sub/dam.md")
    plan = session.reader.notes.look_at_move("Book", entry_id, "works/The sluice.md")
    assert plan.changes == (("mill.md", 4), ("sub/other.md", 2), ("sub/dam.md", 1))
    assert {path: path.read_bytes() for path in folder.rglob("*.md")} == before
    session.do(MoveNote("Book", entry_id, "works/The sluice.md"))
    assert (folder / "mill.md").read_bytes() == (
        b"See [up](works/The%20sluice.md), [[works/The sluice]], [[The sluice|it]], [[The sluice#Sill]],"
        b" [not](sub/other.md), `[[dam]]`.\r\n"
    )
    assert (folder / "works/The sluice.md").read_text() == "[home](../mill.md) and [pic](../sub/pic.png) [[mill]]\n"
    assert (folder / "sub/other.md").read_text() == "[[The sluice]] [d](../works/The%20sluice.md#sill)\n"
    assert note(session, "works/The sluice.md") == entry_id
    undo(session)
    assert {path: path.read_bytes() for path in folder.rglob("*.md")} == before
    with pytest.raises(UserError, match="already"):
        session.reader.notes.look_at_move("Book", note(session, "sub/dam.md"), "mill.md")


def test_a_text_that_two_programs_changed_keeps_both_changes(session: Session, folder: Path) -> None:
    put(folder, session, a="one\n\ntwo\n\nthree\n")
    key, entry_id = session._library.place("Book").key, note(session, "a.md")
    (folder / "a.md").write_text("one\n\ntwo\n\nTHREE\n")
    said = session.do(SetBody(key, entry_id, "ONE\n\ntwo\n\nthree", opened="one\n\ntwo\n\nthree"))
    assert "both changes are kept" in said
    assert (folder / "a.md").read_text() == "ONE\n\ntwo\n\nTHREE\n"
    said = session.do(SetBody(key, entry_id, "one!\n\ntwo\n\nTHREE", opened="one\n\ntwo\n\nTHREE"))
    assert "your text is kept in a (mine).md" in said
    assert (folder / "a.md").read_text() == "ONE\n\ntwo\n\nTHREE\n"
    assert "one!" in (folder / "a (mine).md").read_text()


def test_a_key_that_another_program_changed_is_not_overwritten_unseen(session: Session, folder: Path) -> None:
    put(folder, session, a="---\nstatus: open\nn: 1\n---\n")
    key, entry_id = session._library.place("Book").key, note(session, "a.md")
    (folder / "a.md").write_text("---\nstatus: done\nn: 1\n---\n")
    session.do(SetText(key, [entry_id], "n", "2"))
    (folder / "a.md").write_text("---\nstatus: shelved\nn: 2\n---\n")
    with pytest.raises(UserError, match="“status” was changed by another program to “shelved”"):
        session.do(SetText(key, [entry_id], "status", "mine"))
    session.do(SetText(key, [entry_id], "status", "mine"))
    assert (folder / "a.md").read_text() == "---\nstatus: mine\nn: 2\n---\n"


@given(st.lists(st.sampled_from("abcd"), max_size=6), st.lists(st.sampled_from("abcd"), max_size=6))
def test_merging_with_one_side_unchanged_gives_the_other(base: list[str], other: list[str]) -> None:
    one, two = "\n".join(base), "\n".join(other)
    assert merge(one, one, two) == two
    assert merge(one, two, one) == two


def test_closed_while_folders_are_being_watched_it_rings_no_more(folder: Path) -> None:
    class ClosedMeanwhile(dict[str, Path]):
        def items(self) -> ItemsView[str, Path]:  # type: ignore[override]
            watching.close()
            return super().items()

    watching = Watching(lambda key: None, lambda: ClosedMeanwhile({"notes:1": folder}))
    watching.watch()
    assert [one.timer for one in watching.debouncers.values()] == [None]
    assert watching.observer is not None
    assert not watching.observer.is_alive()


def test_what_other_programs_change_is_seen_within_a_second(session: Session, folder: Path) -> None:
    place = session._library.place("Book")
    watching = Watching(lambda key: session.refresh_notes(key) and None, lambda: {place.key: folder})
    watching.watch()
    try:
        (folder / "sub").mkdir()
        time.sleep(0.1)  # until the new folder is watched, too
        for text, many in (("---\nn: 1\n---\n", 1), ("---\nn: 2\n---\n", 1)):
            (folder / "sub/a.md").write_text(text)
            begun = time.monotonic()
            while time.monotonic() - begun < 5:
                rows = place.rows(list(place.listing(Question()).ids))
                if len(rows) == many and text.split()[2] in str(
                    session._library.place("Book").rows([rows[0].id])[0].values
                ):
                    break
                time.sleep(0.02)
            else:
                pytest.fail("the change was not seen")
        (folder / "sub/a.md").rename(folder / "b.md")
        begun = time.monotonic()
        while session._library.notes("Book").index.paths() != ["b.md"]:
            assert time.monotonic() - begun < 5
            time.sleep(0.02)
    finally:
        watching.close()


def test_the_system_tells_of_changes_and_not_of_what_is_only_read(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (folder / "read.md").write_text("old\n")
    kinds: set[str] = set()
    changed = threading.Event()
    hear = Handler.on_any_event

    def heard(self: Handler, event: FileSystemEvent) -> None:
        kinds.add(event.event_type)
        hear(self, event)
        if str(event.src_path).endswith("written.md"):
            changed.set()

    monkeypatch.setattr(Handler, "on_any_event", heard)
    watching = Watching(lambda _key: None, lambda: {"notes:1": folder})
    watching.watch()
    try:
        for _ in range(5):
            (folder / "read.md").read_text()
        (folder / "written.md").write_text("new\n")  # told behind all that was done before
        assert changed.wait(10)
    finally:
        watching.close()
    assert not kinds & {"opened", "closed_no_write"}


def test_unreadable_front_matter_is_said_with_its_line_and_still_shown(session: Session, folder: Path) -> None:
    put(folder, session, bad="---\na: [1\nb: 2\n---\nThe text.\n")
    entry = session._library.place("Book").entry(note(session, "bad.md"))
    assert entry
    assert "line 3" in entry.fault
    assert entry.body == "The text."
    assert [(fault.where, "line 3" in fault.what) for fault in session.reader.check()] == [("Book: bad.md", True)]


def test_a_note_in_the_trash_comes_back_byte_for_byte(session: Session, folder: Path) -> None:
    put(folder, session, sub__a="---\na: 1 # why\n---\nbody")
    key = session._library.place("Book").key
    session.do(RemoveEntries(key, [note(session, "sub/a.md")]))
    assert not (folder / "sub/a.md").exists()
    (folder / "sub").rmdir()
    session.do(RestoreEntries([session._library.trash.all()[0].id]))
    assert (folder / "sub/a.md").read_bytes() == b"---\na: 1 # why\n---\nbody"
    assert session._library.trash.all() == []


def test_a_broken_note_is_seen_in_lists_and_asked_for(session: Session, folder: Path) -> None:
    put(folder, session, bad="---\na: [1\n---\nThe text.\n", good="---\na: 1\n---\n")
    place = session._library.place("Book")
    question = session.reader.entries.question(place.key, "entry.has = fault")
    (found,) = place.rows(place.listing(question).ids)
    assert (found.title, found.path) == ("bad", "bad.md")
    assert found.fault
