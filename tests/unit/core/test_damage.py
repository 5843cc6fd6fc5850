"""What is damaged costs itself and is said; what can be made again is; nothing is made over what was kept."""

import gzip
import json
import os
import random
import shutil
import threading
from collections.abc import Callable
from pathlib import Path

import apsw
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import add_notes
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import AddEntry, SetValues
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.templates import AddSample
from wily_magpie.core.commands.views import KeepView
from wily_magpie.core.errors import EnvironmentFailure, StuckStep
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.library.integrity import check
from wily_magpie.core.places.recovery_journal import PREFIX, SET_ASIDE
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session


def keep(session: Session, name: str) -> int:
    page = Page(f"https://mills.example/{name}", f"<title>{name}</title><h1>{name}</h1><p>It turns.</p>", "fetched")
    return session.do(KeepSlip(session.reader.slips.slip(read_page(page)))).entry_id


def opened(folder: Path, fetcher: Fetcher) -> Session:
    return Session(folder, fetcher)


@pytest.mark.parametrize("damage", ["gone", "empty"])
def test_what_was_kept_is_not_made_a_new_library(session: Session, fetcher: Fetcher, damage: str) -> None:
    keep(session, "Heron Mill")
    session.close()
    folder = session._library.folder
    for ending in ("-wal", "-shm"):
        folder.joinpath(f"library.sqlite{ending}").unlink(missing_ok=True)
    if damage == "gone":
        (folder / "library.sqlite").unlink()
    else:
        (folder / "library.sqlite").write_bytes(b"")
    before = sorted(str(path) for path in folder.rglob("*"))
    with pytest.raises(EnvironmentFailure, match=f"is {damage}, and beside it are 1 kept files") as told:
        opened(folder, fetcher)
    assert "restore" in told.value.way_out
    assert sorted(str(path) for path in folder.rglob("*")) == before


def test_an_empty_folder_still_becomes_a_library(tmp_path: Path, fetcher: Fetcher) -> None:
    for part in ("files", "pages", "index"):
        (tmp_path / "library" / part).mkdir(parents=True)
    session = opened(tmp_path / "library", fetcher)
    assert session.overview.places
    session.close()


INDEXES: dict[str, Callable[[bytes], bytes]] = {
    "noise": lambda content: random.Random(3).randbytes(len(content)),
    "empty": lambda _content: b"",
    "short": lambda content: content[: len(content) // 2],
    "a flipped page": lambda content: content[:8192] + bytes(4096) + content[12288:],
    "text": lambda _content: b"not a database at all" * 100,
    "another database": lambda _content: gzip.decompress(
        (Path(__file__).parents[2] / "data" / "library-version-4.sqlite.gz").read_bytes()
    ),
}


@pytest.mark.parametrize("name", INDEXES)
def test_a_broken_index_is_made_again(session: Session, fetcher: Fetcher, tmp_path: Path, name: str) -> None:
    folder = tmp_path / "Notes"
    folder.mkdir()
    for number in range(30):
        (folder / f"note {number}.md").write_text(f"---\nstatus: open\n---\nThe tide {number}.\n", "utf-8")
    key = add_notes(session, "Notes", folder).key
    session.refresh_notes(key)
    session.close()
    for path in (session._library.folder / "index").glob("notes-*.sqlite*"):
        if path.suffix == ".sqlite":
            path.write_bytes(INDEXES[name](path.read_bytes()))
        else:
            path.unlink()
    again = opened(session._library.folder, fetcher)
    try:
        again.refresh_notes(key)
        assert again.reader.entries.listing(key, Question()).total == 30
        assert list(check(again._library)) == []
    finally:
        again.close()


JOURNALS = {
    "noise": random.Random(5).randbytes(4000),
    "empty": b"",
    "no path": b'{"before": null}\n{"x": 1}\n',
    "a list": b"[1, 2]\n[3]\n",
    "no base64": b'{"path": "/nowhere/at/all.md", "before": "%%%", "after": null}\n{"path": "x", "before": "%", "after": "y"}\n',
    "torn": b'{"path": "/nowhere/a.md", "before": null, "after": "x"}\n{"path": "/no',
}  # fmt: skip


def test_a_journal_writes_nothing_outside_the_notes_folders(session: Session, fetcher: Fetcher, tmp_path: Path) -> None:
    """A library that somebody else has made must not write into the files of who opens it."""
    notes = tmp_path / "Notes"
    notes.mkdir()
    add_notes(session, "Notes", notes)
    session.close()
    target = tmp_path / "theirs.txt"
    lines = [{"path": str(path), "before": "aGVsbG8=", "after": None} for path in (target, notes / ".." / "x", target)]
    path = session._library.folder / f"{PREFIX}0123456789abcdef"
    path.write_text("".join(json.dumps(line) + "\n" for line in lines), "utf-8")
    opened(session._library.folder, fetcher).close()
    assert not target.exists()
    assert not (tmp_path / "x").exists()


@pytest.mark.parametrize("name", JOURNALS)
def test_a_journal_that_is_no_good_keeps_nobody_out(session: Session, fetcher: Fetcher, name: str) -> None:
    session.do(AddEntry("collection:1", "Mill"))
    session.close()
    folder = session._library.folder
    (folder / f"{PREFIX}0123456789abcdef").write_bytes(JOURNALS[name])
    again = opened(folder, fetcher)
    try:
        assert again.reader.entries.listing("collection:1", Question()).total == 1
        assert not list(folder.glob(f"{PREFIX}*"))
        aside = [path.name for path in folder.glob(f"{SET_ASIDE}*")]
        assert [fault.where for fault in check(again._library)] == aside
        assert name in ("empty", "torn") or aside
    finally:
        again.close()


@given(st.binary(max_size=300))
def test_any_journal_is_taken_back_or_set_aside(session: Session, fetcher: Fetcher, content: bytes) -> None:
    session.close()
    folder = session._library.folder
    path = folder / f"{PREFIX}{os.urandom(8).hex()}"
    path.write_bytes(content)
    opened(folder, fetcher).close()
    assert not path.exists()


def test_a_copy_made_while_captures_run_is_whole(session: Session, tmp_path: Path, fetcher: Fetcher) -> None:
    for number in range(5):
        keep(session, f"Before {number}")
    is_over = threading.Event()
    kept: list[int] = []

    def go_on() -> None:
        while not is_over.is_set():
            kept.append(keep(session, f"Meanwhile {len(kept)}"))

    beside = threading.Thread(target=go_on)
    beside.start()
    try:
        for number in range(3):
            session.back_up(tmp_path / f"copy {number}")
    finally:
        is_over.set()
        beside.join()
    assert kept
    for number in range(3):
        copy = opened(tmp_path / f"copy {number}", fetcher)
        try:
            assert list(check(copy._library)) == []
            assert copy.reader.entries.listing("collection:1", Question()).total >= 5
        finally:
            copy.close()


def test_a_damaged_copy_is_mended_and_a_damaged_original_is_said(session: Session, tmp_path: Path) -> None:
    keep(session, "Heron Mill")
    to = tmp_path / "copy"
    session.back_up(to)
    (copied,) = (to / "pages").iterdir()
    sound = copied.read_bytes()
    copied.write_bytes(sound[:-1] + bytes([sound[-1] ^ 1]))
    session.back_up(to)
    assert copied.read_bytes() == sound
    (original,) = (session._library.folder / "pages").iterdir()
    original.write_bytes(b"x" * len(sound))
    copied.unlink()
    with pytest.raises(EnvironmentFailure, match="damaged in the library already") as told:
        session.back_up(to)
    assert original.name in told.value.message


def with_values(session: Session) -> Path:
    """A library with an entry of many values, a template with a sample, and a view; closed."""
    entry = keep(session, "Heron Mill")
    session.do(SetValues("collection:1", {entry: {"tags": ("ebb", "mill")}}))
    page = Page("https://mills.example/sample", "<title>Sample</title>", "fetched")
    session.do(AddSample("Article", page, read_page(page)))
    session.do(KeepView("collection:1", "Mills", Question()))
    session.close()
    return session._library.folder


BAD = {
    "no text": "CAST(x'6162ff' AS TEXT)",
    "no JSON": "'{\"a'",
    "other JSON": "'[1, {\"a\": 2}, null]'",
    "a number": "12345",
    "no kind": "'moon'",
}
TOUCHED = (
    "collection.name", "collection.settings", "collection.layout", "field.key", "field.label", "field.kind", "field.options",
    "field.settings", "template.name", "template.definition", "sample.title", "sample.accepted", "view.name", "view.question",
    "view.layout", "page.address", "content.markdown", "history.label", "c1.title", "c1.f1", "c1.f3", "c1.f7",
)  # fmt: skip


@pytest.mark.parametrize("bad", BAD)
@pytest.mark.parametrize("touched", TOUCHED)
def test_a_bad_row_costs_itself(session: Session, fetcher: Fetcher, touched: str, bad: str) -> None:
    folder = with_values(session)
    table, column = touched.split(".")
    connection = apsw.Connection(str(folder / "library.sqlite"))
    try:
        connection.execute(
            f"UPDATE {table} SET {column} = {BAD[bad]} WHERE rowid = (SELECT min(rowid) FROM {table})"
        ).fetchall()
    except (apsw.ConstraintError, apsw.SQLError):
        pytest.skip("SQLite itself refuses it")
    finally:
        connection.close()
    again = opened(folder, fetcher)
    try:
        reader = again.reader
        places = reader.entries.places()
        assert places
        for place in places:
            reader.entries.rows(place.key, list(reader.entries.listing(place.key, Question()).ids))
            reader.entries.views(place.key)
        templates = {one.name for one in reader.templates.templates()}
        for name in templates:
            reader.templates.sample_rows(name)
        assert len(templates) >= len(reader.templates.names()) - 1
        reader.steps()
        faults = reader.check()
        assert faults or bad != "no text"
        assert again.do(AddEntry("collection:1", "Mill"))
    finally:
        again.close()


def test_each_damage_of_a_row_is_named_by_check(session: Session, fetcher: Fetcher) -> None:
    folder = with_values(session)
    connection = apsw.Connection(str(folder / "library.sqlite"))
    connection.execute("UPDATE field SET kind = 'moon' WHERE key = 'tags' AND place = 'collection:1'").fetchall()
    connection.execute("UPDATE collection SET settings = '{' WHERE id = 1").fetchall()
    connection.execute("UPDATE template SET definition = '[]' WHERE name = 'Article'").fetchall()
    connection.execute("UPDATE history SET changeset = x'00ff' WHERE id = (SELECT max(id) FROM history)").fetchall()
    connection.close()
    again = opened(folder, fetcher)
    try:
        said = " ".join(f"{fault.where} {fault.what}" for fault in again.reader.check())
        for part in (
            "Its kind “moon” is not known",
            "The settings of row 1 of the table collection",
            "Template “Article”",
        ):
            assert part in said
        assert "What “Keep view “Mills”” changed cannot be read" in said
        tags = next(field for field in again.place("collection:1").fields if field.key == "tags")
        assert not tags.is_writable
        with pytest.raises(StuckStep, match="cannot be read"):
            again.do(Undo())
    finally:
        again.close()


@pytest.mark.parametrize("where", ["head", "first", "middle", "none"])
def test_a_damaged_log_is_said_and_kept(session: Session, fetcher: Fetcher, tmp_path: Path, where: str) -> None:
    for number in range(20):
        session.do(AddEntry("collection:1", f"Mill {number}"))
    folder = tmp_path / "after a crash"
    shutil.copytree(session._library.folder, folder)
    log = folder / "library.sqlite-wal"
    content = bytearray(log.read_bytes())
    at = {"head": 17, "first": 32 + 9, "middle": len(content) // 2, "none": None}[where]
    if at is not None:
        content[at] ^= 4
    log.write_bytes(content)
    again = opened(folder, fetcher)
    try:
        total = again.reader.entries.listing("collection:1", Question()).total
        if where == "none":
            assert (total, again.told, again.reader.check()) == (20, (), [])
            return
        assert total < 20
        assert "may be lost" in again.told[0].message
        assert any("may be lost" in fault.what for fault in again.reader.check())
        (aside,) = folder.glob("damaged-log-*")
        assert aside.read_bytes() == content
    finally:
        again.close()


def test_a_log_that_ends_in_the_midst_of_a_change_is_no_damage(
    session: Session, fetcher: Fetcher, tmp_path: Path
) -> None:
    for number in range(5):
        session.do(AddEntry("collection:1", f"Mill {number}"))
    folder = tmp_path / "after a crash"
    shutil.copytree(session._library.folder, folder)
    log = folder / "library.sqlite-wal"
    log.write_bytes(log.read_bytes()[:-100])
    again = opened(folder, fetcher)
    assert again.told == ()
    again.close()
