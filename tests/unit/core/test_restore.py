"""Bringing a copy of a library back: looked at first, whole or not at all, and nothing that is there is lost."""

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.library.premises import DATABASE, staging_of, take_place
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session import restore as restoring
from wily_magpie.core.session.restore import look_at_copy, restore
from wily_magpie.core.session.session import Session


@pytest.fixture
def copy(session: Session, tmp_path: Path) -> Path:
    """A copy with one entry, of a library that has two by now and is closed."""
    session.do(AddEntry("collection:1", "Heron Mill"))
    session.back_up(tmp_path / "copy")
    session.do(AddEntry("collection:1", "Tide Mill"))
    session.close()
    return tmp_path / "copy"


def titles(folder: Path) -> list[str]:
    session = Session(folder, Fetcher())
    try:
        ids = list(session.reader.entries.listing("collection:1", Question()).ids)
        return sorted(one.title for one in session.reader.entries.rows("collection:1", ids))
    finally:
        session.close()


def asides(folder: Path) -> list[Path]:
    return list(folder.parent.glob(f"{folder.name} before *"))


def test_a_copy_is_looked_at_and_nothing_changes(session: Session, copy: Path) -> None:
    folder = session._library.folder
    before = {path: path.stat().st_size for path in folder.rglob("*") if path.suffix != ".sqlite-shm"}
    look = look_at_copy(copy, folder)
    assert (look.places["Sources"], look.missing) == (1, ())
    assert look.here is not None
    assert look.here["Sources"] == 2
    assert look.aside is not None
    assert not look.aside.exists()
    assert {path: path.stat().st_size for path in before} == before


def test_a_copy_comes_back_and_what_was_there_is_whole_beside_it(session: Session, copy: Path) -> None:
    folder = session._library.folder
    for _ in range(2):  # the second within the same minute
        restore(copy, folder)
        assert titles(folder) == ["Heron Mill"]
    assert sorted(titles(aside) for aside in asides(folder)) == [["Heron Mill"], ["Heron Mill", "Tide Mill"]]
    assert not staging_of(folder).exists()


@pytest.mark.parametrize("there", ["nothing", "an empty folder", "a damaged database", "files without a database"])
def test_a_copy_comes_back_to_whatever_is_there(session: Session, copy: Path, tmp_path: Path, there: str) -> None:
    folder = tmp_path / "other"
    if there != "nothing":
        (folder / "files").mkdir(parents=True)
    if there == "a damaged database":
        (folder / DATABASE).write_bytes(b"nonsense" * 2000)
    if there == "files without a database":
        (folder / "files" / "kept").write_bytes(b"x")
    look = restore(copy, folder)
    assert look.here is None
    assert titles(folder) == ["Heron Mill"]
    assert len(asides(folder)) == (there in ("a damaged database", "files without a database"))


def test_a_library_that_is_open_is_left_alone(session: Session, tmp_path: Path) -> None:
    session.do(AddEntry("collection:1", "Heron Mill"))
    session.back_up(tmp_path / "copy")
    with pytest.raises(EnvironmentFailure, match="is open"):
        restore(tmp_path / "copy", session._library.folder)
    session.do(AddEntry("collection:1", "Tide Mill"))
    assert session.reader.entries.listing("collection:1", Question()).total == 2


@pytest.mark.parametrize("wrong", ["no folder", "no library", "itself", "inside", "damaged", "newer"])
def test_what_is_no_sound_copy_is_refused(session: Session, copy: Path, tmp_path: Path, wrong: str) -> None:
    folder = session._library.folder
    given = {"no folder": tmp_path / "none", "no library": tmp_path, "itself": folder, "inside": folder / "files"}.get(
        wrong, copy
    )
    content = bytearray((copy / DATABASE).read_bytes())
    if wrong == "damaged":
        content[4096:8192] = b"\xff" * 4096
    if wrong == "newer":
        content[60:64] = (99).to_bytes(4, "big")
    (copy / DATABASE).write_bytes(content)
    with pytest.raises(MagpieError) as told:
        restore(given, folder)
    assert told.value.way_out
    assert isinstance(told.value, UserError) or wrong in ("damaged", "newer")
    assert titles(folder) == ["Heron Mill", "Tide Mill"]
    assert not asides(folder)


def test_where_the_disk_refuses_all_is_as_it_was(session: Session, copy: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = session._library.folder

    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    for name in ("take_place", "copy_files"):
        with monkeypatch.context() as patch:
            patch.setattr(restoring, name, refuse)
            with pytest.raises(EnvironmentFailure, match="No space left"):
                restore(copy, folder)
        assert titles(folder) == ["Heron Mill", "Tide Mill"]
        assert not staging_of(folder).exists()


def test_one_that_was_killed_after_the_move_is_ended_at_the_next_start(session: Session, copy: Path) -> None:
    folder = session._library.folder
    staging = staging_of(folder)
    for part in ("files", "pages", "index"):
        (staging / part).mkdir(parents=True)
    (staging / DATABASE).write_bytes((copy / DATABASE).read_bytes())
    folder.rename(folder.with_name("library before"))
    folder.mkdir()
    (folder / "window.lock").touch()
    assert titles(folder) == ["Heron Mill"]
    assert not staging.exists()


def test_one_that_was_killed_while_it_took_the_place_is_ended_too(session: Session, copy: Path) -> None:
    folder = session._library.folder
    staging = staging_of(folder)
    (staging / "index").mkdir(parents=True)
    (staging / DATABASE).write_bytes((copy / DATABASE).read_bytes())
    folder.rename(folder.with_name("library before"))
    (folder / "files").mkdir(parents=True)
    (folder / "files" / "0").touch()
    assert titles(folder) == ["Heron Mill"]
    assert not staging.exists()


def test_one_that_was_killed_before_the_move_leaves_nothing(session: Session, copy: Path) -> None:
    folder = session._library.folder
    for part in ("files", "pages", "index"):
        (staging_of(folder) / part).mkdir(parents=True)
    assert titles(folder) == ["Heron Mill", "Tide Mill"]
    assert not staging_of(folder).exists()


def flip(path: Path) -> None:
    content = bytearray(path.read_bytes())
    content[len(content) // 2] ^= 1
    path.write_bytes(content)


def test_a_damaged_copy_is_never_brought_back_without_a_word(session: Session, tmp_path: Path) -> None:
    entry = session.do(AddEntry("collection:1", "Heron Mill", {}, "The wheel stands. " * 2000))
    (tmp_path / "sketch.txt").write_text("wheel")
    session.do(AttachFiles("collection:1", entry, "files", [tmp_path / "sketch.txt"]))
    copy = tmp_path / "copy"
    session.back_up(copy)
    folder = tmp_path / "other"
    assert look_at_copy(copy, folder).damaged == ()
    (kept,) = (copy / "files").iterdir()
    flip(kept)
    assert look_at_copy(copy, folder).damaged == (f"files/{kept.name}",)
    assert "not what was copied" in restore(copy, folder).told_damaged
    text = (copy / DATABASE).read_bytes()
    (copy / DATABASE).write_bytes(text.replace(b"The wheel stands. The", b"The wheel stands! The", 1))
    assert DATABASE in look_at_copy(copy, folder).damaged, "a text that SQLite holds to be sound"
    titles(copy)
    assert DATABASE not in look_at_copy(copy, folder).damaged, "one that was opened is another by right"


def test_nothing_comes_in_by_a_link(session: Session, copy: Path, tmp_path: Path) -> None:
    (tmp_path / "secret.txt").write_text("SECRET")
    (copy / "files" / ("0" * 64)).symlink_to(tmp_path / "secret.txt")
    (tmp_path / "elsewhere").mkdir()
    (tmp_path / "elsewhere" / ("1" * 64)).write_text("SECRET")
    (copy / "pages").rmdir()
    (copy / "pages").symlink_to(tmp_path / "elsewhere")
    folder = tmp_path / "restored"
    restore(copy, folder)
    held = [path for part in ("files", "pages") for path in (folder / part).iterdir()]
    assert held == []
    (copy / DATABASE).rename(copy / "x")
    (copy / DATABASE).symlink_to(copy / "x")
    with pytest.raises(UserError, match="There is no copy"):
        look_at_copy(copy, folder)


STRANGE = {
    "a view": "ALTER TABLE template RENAME TO t2; CREATE VIEW template AS WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c)"
    " SELECT x AS id, 'n' AS name, '{}' AS definition, x AS position FROM c",
    "a trigger": "CREATE TRIGGER evil AFTER INSERT ON history BEGIN DELETE FROM content; END",
}  # fmt: skip


@pytest.mark.parametrize("name", STRANGE)
def test_a_database_that_holds_more_than_tables_of_ours_is_refused(session: Session, copy: Path, name: str) -> None:
    with closing(sqlite3.connect(copy / DATABASE)) as connection:
        connection.executescript(STRANGE[name])
    for act in (lambda: look_at_copy(copy, session._library.folder), lambda: titles(copy)):
        with pytest.raises(EnvironmentFailure, match="somebody has put it there"):
            act()


def test_kept_files_come_back_and_missing_ones_are_named(session: Session, tmp_path: Path) -> None:
    entry = session.do(AddEntry("collection:1", "Heron Mill"))
    (tmp_path / "sketch.txt").write_text("wheel")
    session.do(AttachFiles("collection:1", entry, "files", [tmp_path / "sketch.txt"]))
    session.back_up(tmp_path / "copy")
    session.close()
    (kept,) = (tmp_path / "copy" / "files").iterdir()
    assert not look_at_copy(tmp_path / "copy", session._library.folder).missing
    restore(tmp_path / "copy", session._library.folder)
    assert (session._library.folder / "files" / kept.name).read_bytes() == b"wheel"
    kept.unlink()
    assert look_at_copy(tmp_path / "copy", session._library.folder).missing == (kept.name,)


def test_parts_are_moved_in_with_the_database_last(tmp_path: Path) -> None:
    staging, folder = tmp_path / ".library.restoring", tmp_path / "library"
    (staging / "files").mkdir(parents=True)
    (staging / "files" / "a").write_text("a")
    (staging / DATABASE).write_text("b")
    take_place(staging, folder)
    assert (folder / "files" / "a").read_text() == "a"
    assert (folder / DATABASE).read_text() == "b"
