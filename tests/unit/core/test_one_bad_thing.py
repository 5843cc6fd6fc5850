"""One bad thing costs itself alone: a folder that is away, a note of any name and content, a link that leads out."""

import json
import os
import shutil
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import add_notes
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.entries import AddEntry, SetBody
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.notes import WriteNote
from wily_magpie.core.commands.places import AddNotesFolder, ChangePlace
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError
from wily_magpie.core.exchange.exporters import CONTRACT, EXPORTERS
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.atomic import read_bytes
from wily_magpie.core.places.library.integrity import check
from wily_magpie.core.places.notes import files
from wily_magpie.core.places.notes.disk import UNSURE_NS, stamp_of
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.slip import Slip


@pytest.fixture
def notes(session: Session, tmp_path: Path) -> NotesFolder:
    """A notes folder with one good note."""
    folder = tmp_path / "Notes"
    folder.mkdir()
    (folder / "good.md").write_text("---\nstatus: open\n---\n\nAll is well here.\n", "utf-8")
    made = add_notes(session, "Notes", folder)
    session.index_notes(made.key).result()
    return made


def titles(session: Session, key: str, text: str = "") -> list[str]:
    place = session.overview.place(key)
    listing = session.reader.entries.listing(key, cql.parse(text, place.askable))
    return sorted(one.title for one in session.reader.entries.rows(key, listing.ids))


def test_a_folder_that_is_away_costs_itself_alone_and_comes_back(session: Session, notes: NotesFolder) -> None:
    away = notes.path.with_name("elsewhere")
    notes.path.rename(away)
    assert session.refresh_notes() == 0
    assert session.reader.overview().place("Notes").is_away
    session.do(AddEntry("collection:1", "Mill"))
    assert titles(session, "collection:1") == ["Mill"]
    assert titles(session, notes.key) == ["good"]
    assert [fault.where for fault in check(session._library)] == ["Notes"]
    with pytest.raises(EnvironmentFailure, match="is not there") as told:
        session.refresh_notes(notes.key)
    assert told.value.way_out
    writes: tuple[Command[Any], ...] = (
        AddEntry(notes.key, "Heron Mill"),
        WriteNote(notes.key, "new.md", "ours"),
        WriteNote(notes.key, "good.md", "ours"),
        KeepSlip(slip_into(session, notes, "kept")),
    )
    for write in writes:
        with pytest.raises(MagpieError) as refused:
            session.submit(write).result()
        assert refused.value.way_out
        assert not notes.path.exists()
    away.rename(notes.path)
    (notes.path / "more.md").write_text("More.\n", "utf-8")
    session.refresh_notes()
    assert not session.overview.place("Notes").is_away
    assert titles(session, notes.key) == ["good", "more"]


def test_a_note_that_cannot_be_read_costs_itself_and_is_shown_with_the_reason(
    session: Session, notes: NotesFolder, monkeypatch: pytest.MonkeyPatch
) -> None:
    (notes.path / "closed.md").write_text("theirs\n", "utf-8")
    (notes.path / "more.md").write_text("More.\n", "utf-8")

    def refusing(path: Path | str) -> bytes | None:
        if str(path).endswith("closed.md"):
            raise EnvironmentFailure("file-unread", f"{path} cannot be read: Permission denied.", "Check its rights.")
        return read_bytes(path)

    monkeypatch.setattr(
        files, "read_bytes", refusing
    )  # the rights of a file do not hold for root, who may run the tests
    session.refresh_notes()
    assert titles(session, notes.key) == ["closed", "good", "more"]
    assert ["cannot be read" in fault.what for fault in check(session._library)] == [True]


STRANGE: dict[str, bytes] = {
    "deep.md": b"---\na: " + b"[" * 20_000 + b"\n---\ndeep\n",
    "deep map.md": b"---\n" + b"".join(b" " * n + b"a:\n" for n in range(3_000)) + b"---\nmaps\n",
    "deep list.md": b"---\na: " + b"[" * 20_000 + b"]" * 20_000 + b"\n---\nlists\n",
    "deep dashes.md": b"---\na:\n" + b"- " * 5_000 + b"x\n---\ndashes\n",
    "alias.md": b"---\na: &a [x]\nb: [*a, *a]\n---\nalias\n",
    "laughs.md": b"---\na: &a [x, x]\n" + b"".join(
        b"%c: &%c [*%c, *%c, *%c, *%c, *%c, *%c, *%c, *%c, *%c]\n" % tuple([n + 1, n + 1] + [n] * 9) for n in range(97, 107)
    ) + b"---\nlaughs\n",
    "bytes.md": bytes(range(256)) * 4,
    "nul.md": b"---\ntitle: a\0b\n---\n\0\n",
    "tag.md": b"---\na: !!python/object/apply:os.system ['true']\n---\ntag\n",
    "open.md": b"---\ntitle: no end\n",
    "surrogate.md": b"---\ntitle: \"\\ud800\"\n---\nx\n",
    "empty.md": b"",
    "emoji \U0001f300.md": b"x",
    "new\nline.md": b"x",
    "a" * 240 + ".md": b"long name",
}  # fmt: skip


@pytest.mark.parametrize("name", STRANGE, ids=lambda name: name[:12])
def test_a_note_of_any_content_costs_at_most_itself(session: Session, notes: NotesFolder, name: str) -> None:
    (notes.path / name).write_bytes(STRANGE[name])
    session.refresh_notes(notes.key)
    assert "good" in titles(session, notes.key)
    assert titles(session, notes.key, "status = open") == ["good"]
    for _ in check(session._library):
        pass
    for form in EXPORTERS.values():
        place = session.overview.place(notes.key)
        ids = session.reader.entries.listing(notes.key, Question()).ids
        assert "".join(form.write(place.fields, session.reader.entries.rows(notes.key, ids))).encode()


def test_a_name_that_is_no_text_is_said_and_the_others_are_read(session: Session, notes: NotesFolder) -> None:
    (Path(os.fsdecode(os.fsencode(notes.path) + b"/caf\xe9.md"))).write_text("latin", "utf-8")
    (notes.path / "more.md").write_text("More.\n", "utf-8")
    session.refresh_notes(notes.key)
    assert titles(session, notes.key) == ["good", "more"]
    said = [(fault.where, fault.what) for fault in check(session._library)]
    assert said == [("Notes: caf?.md", "Its name is no UTF-8: give it another one.")]


@given(st.binary(max_size=60), st.binary(max_size=200))
def test_any_front_matter_is_read_or_said(session: Session, notes: NotesFolder, matter: bytes, body: bytes) -> None:
    (notes.path / "any.md").write_bytes(b"---\n" + matter + b"\n---\n" + body)
    session.refresh_notes(notes.key)
    assert "good" in titles(session, notes.key)


def test_keys_of_front_matter_do_not_hide_what_json_says(session: Session, notes: NotesFolder) -> None:
    lines = "".join(f"{key}: hidden {key}\n" for key in (*CONTRACT, "title"))
    (notes.path / "keys.md").write_text(f"---\n{lines}---\nx\n", "utf-8")
    session.refresh_notes(notes.key)
    place = session.overview.place(notes.key)
    ids = session.reader.entries.listing(notes.key, Question()).ids
    text = "".join(EXPORTERS["json"].write(place.fields, session.reader.entries.rows(notes.key, ids)))
    one = next(found for found in map(json.loads, text.splitlines()) if found["path"] == "keys.md")
    assert isinstance(one["id"], int)
    assert one["title"] == "hidden title"
    assert one["note"] == {key: f"hidden {key}" for key in CONTRACT}


def test_a_link_within_the_folder_is_written_through_and_stays_a_link(session: Session, notes: NotesFolder) -> None:
    (notes.path / "linked.md").symlink_to("good.md")
    session.do(WriteNote(notes.key, "linked.md", "Another line."))
    assert (notes.path / "linked.md").is_symlink()
    assert "Another line." in (notes.path / "good.md").read_text("utf-8")


def with_links_out(notes: NotesFolder, tmp_path: Path) -> Path:
    """A folder outside, to which three links of a notes folder lead."""
    outside = tmp_path / "outside"
    outside.mkdir()
    (outside / "x.md").write_text("theirs\n", "utf-8")
    (notes.path / "out.md").symlink_to(outside / "x.md")
    (notes.path / "folder").symlink_to(outside)
    (notes.path / "chain.md").symlink_to("out.md")
    return outside


@pytest.mark.parametrize("path", ["out.md", "folder/x.md", "chain.md"])
def test_nothing_is_written_through_a_link_that_leads_out(
    session: Session, notes: NotesFolder, tmp_path: Path, path: str
) -> None:
    outside = with_links_out(notes, tmp_path)
    with pytest.raises(UserError, match="leads out of Notes") as told:
        session.do(WriteNote(notes.key, path, "ours"))
    assert told.value.way_out
    assert {one.name: one.read_text("utf-8") for one in outside.iterdir()} == {"x.md": "theirs\n"}
    assert (notes.path / "out.md").is_symlink()


@pytest.mark.parametrize("path", ["out.md", "folder/x.md", "chain.md"])
def test_a_person_who_says_yes_has_links_written_through_and_undone(
    session: Session, notes: NotesFolder, tmp_path: Path, path: str
) -> None:
    outside = with_links_out(notes, tmp_path)
    session.do(ChangePlace(notes.key, replace(notes.settings, links_lead_out=True)))
    session.do(WriteNote(notes.key, path, "ours"))
    assert (outside / "x.md").read_text("utf-8") == "theirs\n\nours\n"
    assert (notes.path / path).is_symlink() == (path != "folder/x.md")
    session.do(Undo())
    assert (outside / "x.md").read_text("utf-8") == "theirs\n"
    assert [one.name for one in outside.iterdir()] == ["x.md"]


def test_what_is_no_file_is_neither_read_nor_written(session: Session, notes: NotesFolder) -> None:
    os.mkfifo(notes.path / "pipe.md")
    (notes.path / "folder.md").mkdir()
    session.refresh_notes(notes.key)
    assert titles(session, notes.key) == ["good"]
    for name in ("pipe.md", "folder.md"):
        with pytest.raises(UserError, match="is no file"):
            session.do(WriteNote(notes.key, name, "ours"))


def test_a_change_of_the_same_size_within_the_same_moment_is_seen(session: Session, notes: NotesFolder) -> None:
    path = notes.path / "good.md"
    before = path.stat()
    path.write_text(path.read_text("utf-8").replace("open", "done"), "utf-8")
    os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    session.refresh_notes(notes.key)
    assert titles(session, notes.key, "status = done") == ["good"]
    text = path.read_text("utf-8")
    for word in ("open", "done", "open"):  # as quick as it goes: the disk's clock may show the same time
        path.write_text(text.replace("done", word), "utf-8")
        session.refresh_notes(notes.key)
        assert titles(session, notes.key, f"status = {word}") == ["good"]


def test_a_file_that_rests_is_not_read_again(notes: NotesFolder) -> None:
    stat = (notes.path / "good.md").stat()
    at = stat.st_ctime_ns - 3 * UNSURE_NS
    old = SimpleNamespace(st_mtime_ns=at, st_ctime_ns=at, st_size=stat.st_size)
    assert stamp_of(stat)[0] < 0
    assert stamp_of(old) == (at, stat.st_size)  # type: ignore[arg-type]  # as a file of yesterday has it


def test_a_text_of_a_note_that_is_away_is_not_lost(session: Session, notes: NotesFolder) -> None:
    (entry,) = session.reader.entries.listing(notes.key, Question()).ids
    shutil.rmtree(notes.path)
    with pytest.raises((EnvironmentFailure, UserError)) as told:
        session.do(SetBody(notes.key, entry, "typed meanwhile", "All is well here."))
    assert told.value.message
    assert not notes.path.exists()


@pytest.mark.parametrize("path", ["/".join(["d" * 170] * 40), "/".join(["d"] * 2500), "good.md/inside"])
def test_a_path_that_no_disk_takes_is_said_and_nothing_is_made(session: Session, notes: NotesFolder, path: str) -> None:
    before = sorted(notes.path.rglob("*"))
    for write in (
        lambda: session.do(WriteNote(notes.key, path, "ours")),
        lambda: session.do(KeepSlip(slip_into(session, notes, path))),
    ):
        with pytest.raises(MagpieError) as told:
            write()
        assert told.value.way_out
        assert len(str(told.value)) < 1000
    assert sorted(notes.path.rglob("*")) == before


def slip_into(session: Session, notes: NotesFolder, path: str) -> Slip:
    page = Page("https://mills.example/a", "<title>Mill</title><p>It turns.</p>", "fetched")
    slip = session.reader.slips.slip(read_page(page), place=notes.key)
    return replace(slip, template=replace(slip.template, note_name=path))


def test_a_note_that_is_too_large_is_seen_with_the_reason_and_left_alone(
    session: Session, notes: NotesFolder, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(files, "LARGEST_NOTE_BYTES", 1_000)
    text = f"---\ntitle: Tables\n---\n\n{'High water at nine. ' * 100}"
    (notes.path / "tables.md").write_text(text)
    session.refresh_notes(notes.key)
    assert titles(session, notes.key) == ["good", "tables"]
    assert titles(session, notes.key, "entry.has = fault") == ["tables"]
    (number,) = session.reader.entries.listing(notes.key, cql.parse("entry.has = fault", notes.askable)).ids
    entry = session.reader.entries.entry(notes.key, number)
    assert entry is not None
    assert (entry.fault, entry.body) == (files.TOO_LARGE, "")
    refused: list[Command[Any]] = [WriteNote(notes.key, "tables.md", "More."), SetBody(notes.key, number, "Less.", "")]
    for command in refused:
        with pytest.raises(UserError) as told:
            session.do(command)
        assert told.value.slug == "note-too-large"
    assert (notes.path / "tables.md").read_text() == text
    (notes.path / "tables.md").write_text("---\ntitle: Tables\n---\n\nShort by now.\n")
    session.refresh_notes(notes.key)
    assert titles(session, notes.key, "entry.has = fault") == []
    assert titles(session, notes.key) == ["Tables", "good"]


@pytest.mark.parametrize("folder", ["/", "/proc", "/usr/../usr"])
def test_a_folder_of_the_system_is_no_notes_folder(session: Session, folder: str) -> None:
    with pytest.raises(UserError, match="folder of the system"):
        session.do(AddNotesFolder(Path(folder)))


def test_a_folder_that_goes_while_it_is_read_costs_itself(
    session: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "notes" / "gone").mkdir(parents=True)
    (tmp_path / "notes" / "a.md").write_text("A note.")
    scandir = os.scandir

    def looked(path: Path) -> object:
        if Path(path).name == "gone":
            raise FileNotFoundError(path)
        return scandir(path)

    monkeypatch.setattr("wily_magpie.core.places.notes.disk.os.scandir", looked)
    session.do(AddNotesFolder(tmp_path / "notes"))
    assert session.refresh_notes() == 1
