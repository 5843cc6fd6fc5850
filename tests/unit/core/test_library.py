"""A library on disk: real tables, undo by changesets, files that are never half written."""

import gzip
import json
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.entries import file_name
from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.file_name import safe_name
from wily_magpie.core.entries.step import Step
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places import table
from wily_magpie.core.places.atomic import write_bytes
from wily_magpie.core.places.library import schema
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.table import sort_key
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

PLANS = (FieldPlan("status", "Status", "choice"), FieldPlan("tags", "Tags", "choices"), FieldPlan("n", "N", "number"))


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "library")


DATA = Path(__file__).parent.parent.parent / "data"


def label(step: Step | None) -> str | None:
    return step.label if step is not None else None


def state(library: Library) -> list[tuple[object, ...]]:
    """All that a person would call the library's data."""
    database = library.database
    out: list[tuple[object, ...]] = []
    for place in library.collections():
        for entry in place.rows(place.listing(Question()).ids):
            whole = place.entry(entry.id)
            assert whole
            out.append((place.name, whole.id, whole.title, tuple(whole.values.items()), whole.body))
    out += [(view.name, view.question) for view in library.views.all()]
    out += database.rows("SELECT * FROM multi_value ORDER BY 1, 2, 3") + database.rows(
        "SELECT rowid, title FROM entry_text ORDER BY 1"
    )
    return (
        out
        + database.rows("SELECT rowid, body FROM body_text ORDER BY 1")
        + database.rows("SELECT key, label, options FROM field")
    )


def change_somehow(library: Library, chance: random.Random) -> None:
    """One step of any kind."""
    place = chance.choice(library.collections())
    ids = list(place.listing(Question()).ids)
    kind = chance.choice("add add change change body remove view collection option".split())
    with library.step(f"{kind} {chance.random()}"):
        if kind == "add" or not ids:
            tags = tuple(chance.sample(["law", "tides", "oak", "ebb"], chance.randint(0, 3))) or None
            place.add(
                Draft(
                    f"Mill {chance.randint(1, 99)}",
                    {"tags": tags, "n": chance.random()},
                    "the ebb " * chance.randint(0, 3),
                )
            )
        elif kind == "change":
            for entry_id in chance.sample(ids, min(len(ids), 3)):
                place.change(entry_id, {"status": chance.choice(["read", None]), "tags": chance.choice([("x",), None])})
        elif kind == "body":
            place.change(chance.choice(ids), {}, f"body {chance.random()}")
        elif kind == "remove":
            place.remove(chance.sample(ids, min(len(ids), 2)))
        elif kind == "view":
            library.views.keep(place.key, f"view {chance.random()}", "n > 0")
        elif kind == "collection" and len(library.collections()) < 4:
            library.add_collection(f"more {chance.random()}", PLANS)
        else:
            library.fields.add_options(place.key, "status", [f"option {chance.random()}"])


@pytest.mark.parametrize("seed", range(6))
def test_any_steps_are_undone_and_done_again(library: Library, seed: int) -> None:
    chance = random.Random(seed)
    library.add_collection("Sources", PLANS)
    library.history.forget()
    states = [state(library)]
    for _ in range(40):
        change_somehow(library, chance)
        if label(library.history.next_undo()) is not None and state(library) != states[-1]:
            states.append(state(library))
    for expected in reversed(states[:-1]):
        library.history.undo()
        assert state(library) == expected
    assert library.history.undo() is None
    for expected in states[1:]:
        library.history.redo()
        assert state(library) == expected
    assert library.history.redo() is None
    assert library.database.rows("PRAGMA integrity_check") == [("ok",)]


def test_undo_outlives_a_restart(tmp_path: Path) -> None:
    first = Library(tmp_path / "library")
    place = first.add_collection("Sources", PLANS)
    with first.step("Keep “Heron Mill”"):
        place.add(Draft("Heron Mill", {"tags": ("law",)}, "text"))
    first.close()
    again = Library(tmp_path / "library")
    assert label(again.history.next_undo()) == "Keep “Heron Mill”"
    again.history.undo()
    assert again.collections()[0].listing(Question()).total == 0
    assert label(again.history.next_redo()) == "Keep “Heron Mill”"
    again.close()


def test_a_failing_step_leaves_nothing(library: Library) -> None:
    place = library.add_collection("Sources", PLANS)
    named = label(library.history.next_undo())
    with pytest.raises(ZeroDivisionError), library.step("half"):
        place.add(Draft("Half"))
        _ = 1 / 0
    assert place.listing(Question()).total == 0
    assert label(library.history.next_undo()) == named


def test_values_that_an_entry_has_already_are_no_change_at_any_time(
    library: Library, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = library.add_collection("Sources", PLANS)
    entry_id = place.add(Draft("Heron Mill", {"tags": ("law",), "n": 2.0}))
    named = label(library.history.next_undo())
    monkeypatch.setattr(table, "now", lambda: "2999-01-01T00:00:00Z")
    with library.step("Set what is there"):
        place.change(entry_id, {"title": "Heron Mill", "tags": ("law",), "n": 2.0, "status": None})
    assert label(library.history.next_undo()) == named


def test_a_step_that_changes_nothing_is_no_step(library: Library) -> None:
    library.add_collection("Sources", PLANS)
    named = label(library.history.next_undo())
    with library.step("nothing"):
        pass
    assert label(library.history.next_undo()) == named


def test_a_new_step_ends_what_was_undone(library: Library) -> None:
    place = library.add_collection("Sources", PLANS)
    for title in ("one", "two"):
        with library.step(title):
            place.add(Draft(title))
    library.history.undo()
    with library.step("three"):
        place.add(Draft("three"))
    assert label(library.history.next_redo()) is None
    assert [entry.title for entry in place.rows(place.listing(Question()).ids)] == ["one", "three"]


def test_a_row_that_was_changed_behind_our_back_is_not_overwritten(library: Library) -> None:
    place = library.add_collection("Sources", PLANS)
    with library.step("add"):
        entry_id = place.add(Draft("Mill", {"n": 1.0}))
    with library.step("change"):
        place.change(entry_id, {"n": 2.0})
    with library.database.writing() as connection:
        connection.execute(f"UPDATE c1 SET {place.fields[3].column} = 9 WHERE id = ?", (entry_id,))
    with pytest.raises(UserError, match="no longer as it left it"):
        library.history.undo()
    changed = place.entry(entry_id)
    assert changed
    assert changed.value("n") == 9.0


def test_collections_are_real_tables_that_other_programs_can_read(library: Library) -> None:
    place = library.add_collection("Sources", PLANS)
    with library.step("add"):
        place.add(Draft("Mill", {"tags": ("law", "oak"), "n": 2.5}))
    with sqlite3.connect(library.folder / "library.sqlite") as plain:
        columns = {row[1]: row[2] for row in plain.execute("PRAGMA table_info(c1)")}
        assert columns["title"] == "TEXT"
        assert columns[place.fields[3].column] == "REAL"
        assert plain.execute("SELECT value FROM multi_value ORDER BY value").fetchall() == [("law",), ("oak",)]
    plain.close()


def test_views_are_kept_changed_and_deleted(library: Library) -> None:
    place = library.add_collection("Sources", PLANS)
    number = library.views.keep(place.key, "  Unread ", "n > 1")
    assert [view.name for view in library.views.all(place.key)] == ["Unread"]
    library.views.keep(place.key, "Unread now", "n > 2", number)
    assert [(view.name, view.question) for view in library.views.all()] == [("Unread now", "n > 2")]
    with pytest.raises(UserError, match="already"):
        library.views.keep(place.key, "unread NOW", "n > 3")
    with pytest.raises(UserError, match="needs a name"):
        library.views.keep(place.key, "  ", "n > 3")
    library.views.delete(number)
    assert library.views.all() == []


def test_an_unknown_place_is_said_with_those_that_are_there(library: Library) -> None:
    library.add_collection("Sources", PLANS)
    assert library.place("sources").key == "collection:1"
    with pytest.raises(UserError, match="There are: Sources"):
        library.place("Sauces")


def test_an_older_library_is_brought_up_and_its_steps_can_still_be_taken_back(tmp_path: Path) -> None:
    library = Library(tmp_path / "l")
    library.add_collection("Sources", PLANS)
    page = Page("http://a.example/", "<p>x</p>", "file")
    with library.database.writing() as connection:
        connection.execute("ALTER TABLE page DROP COLUMN media_type")
        for table in ("collection", "field", "notes_folder"):
            connection.execute(f"ALTER TABLE {table} DROP COLUMN settings")
            connection.execute(f"ALTER TABLE {table} DROP COLUMN is_live")
        for table in ("collection", "notes_folder", "view"):
            connection.execute(f"ALTER TABLE {table} DROP COLUMN layout")
        for table in (
            "link",
            "trash",
            "file",
            "finished_step",
            "page_file",
            "mark",
            "site_icon",
            "sample",
            "setting",
            "arriving",
            "draft",
            "capture_list",
            "capture_item",
            "stopped",
            "gathered",
            "mark_use",
            "list_stop",
            "mirror",
        ):
            connection.execute(f"DROP TABLE {table}")
        connection.execute("ALTER TABLE history DROP COLUMN origin")
        connection.execute("ALTER TABLE history DROP COLUMN parts")
        connection.execute("ALTER TABLE history RENAME COLUMN state TO undone")
        connection.execute("ALTER TABLE multi_value RENAME TO chosen")
        connection.execute("DROP INDEX multi_value_by_entry")
        connection.execute("CREATE INDEX chosen_by_entry ON chosen (entry_id, column)")
        connection.execute("PRAGMA user_version = 1")
    library.close()
    again = Library(tmp_path / "l")
    with again.step("Keep it"):
        entry_id = again.place("Sources").add(Draft("One", {}))
    again.blobs.keep_page(again.place("Sources"), entry_id, page, "a.example")
    assert again.blobs.page_of(again.place("Sources"), entry_id) is not None
    assert again.history.undo() is not None
    assert len(again.place("Sources").listing(Question()).ids) == 0
    again.close()


def test_a_newer_library_is_left_alone(tmp_path: Path) -> None:
    Library(tmp_path / "l").close()
    with sqlite3.connect(tmp_path / "l" / "library.sqlite") as plain:
        plain.execute("PRAGMA user_version = 99")
    plain.close()
    with pytest.raises(EnvironmentFailure, match="newer version"):
        Library(tmp_path / "l")


def test_what_is_no_library_is_said(tmp_path: Path) -> None:
    (tmp_path / "library.sqlite").write_bytes(b"this is no database at all" * 99)
    with pytest.raises(EnvironmentFailure, match="is not a library"):
        Library(tmp_path)
    (tmp_path / "file").write_text("x")
    with pytest.raises(EnvironmentFailure, match="cannot be made"):
        Library(tmp_path / "file" / "inside")


def test_pictures_and_pages_are_kept_once_by_their_contents(library: Library) -> None:
    for address in ("http://a.example/1", "http://a.example/2"):
        library.blobs.keep_picture(address, b"the same picture", "image/png")
    assert library.blobs.picture("http://a.example/2") == b"the same picture"
    assert library.blobs.picture("http://a.example/3") is None
    assert len(list((library.folder / "files").iterdir())) == 1


@given(st.text(max_size=400))
def test_any_title_gives_a_safe_file_name(title: str) -> None:
    name = safe_name(title)
    assert name.strip()
    assert len(f"{name} 9999.md".encode()) < 255
    assert not set(name) & set('\\/:*?"<>|\0\n\r#^[]')
    assert not name.startswith(".")
    assert not name.endswith((" ", "."))
    assert name.split(".")[0].casefold() not in file_name.RESERVED
    assert Path(name).name == name


@pytest.mark.parametrize(
    "title", ["", "..", "../../etc/passwd", "CON", "con.txt", "LPT1.", "a" * 999, "\u202egnp.exe", "/", "~", "-rf"]
)
def test_titles_that_would_be_dangerous(title: str, tmp_path: Path) -> None:
    path = tmp_path / f"{safe_name(title)}.md"
    path.write_text("x")
    assert path.parent == tmp_path


def test_a_file_is_replaced_whole_and_keeps_its_rights(tmp_path: Path) -> None:
    path = tmp_path / "note.md"
    path.write_bytes(b"before")
    path.chmod(0o640)
    write_bytes(path, b"after")
    assert path.read_bytes() == b"after"
    assert path.stat().st_mode & 0o777 == 0o640
    assert [one.name for one in tmp_path.iterdir()] == ["note.md"]


def test_a_new_file_never_replaces_another(tmp_path: Path) -> None:
    path = tmp_path / "note.md"
    path.write_bytes(b"somebody's")
    with pytest.raises(FileExistsError):
        write_bytes(path, b"ours", is_new=True)
    assert path.read_bytes() == b"somebody's"
    assert [one.name for one in tmp_path.iterdir()] == ["note.md"]


def test_a_disk_that_refuses_is_told(tmp_path: Path) -> None:
    with pytest.raises(MagpieError, match="cannot be written"):
        write_bytes(tmp_path / "missing folder" / "note.md", b"x")


def test_titles_sort_as_people_expect() -> None:
    titles = ["Mill 10", "the mill 9", "A Mill 2", "Ébb", "«Dam»", "ebb a"]
    assert sorted(titles, key=sort_key) == ["«Dam»", "Ébb", "ebb a", "A Mill 2", "the mill 9", "Mill 10"]


LOOK = """
import os, sys, tempfile
from wily_magpie.app import main
warm, *words = sys.argv[1:]
main([words[0], "--library", warm, *words[3:]])  # what is imported late may not be there for another user
sys.stdout.flush()
print("---", flush=True)
if os.geteuid() == 0:
    os.setresgid(65534, 65534, 65534)
    os.setresuid(65534, 65534, 65534)
sys.exit(main(words))
"""


def test_a_library_whose_rights_were_taken_can_still_be_looked_at(session: Session) -> None:
    """By another user, since rights mean nothing to root."""
    session.do(AddEntry("collection:1", "The wheel", {}))
    with tempfile.TemporaryDirectory() as somewhere:
        folder = Path(somewhere) / "library"
        session.close()
        shutil.copytree(session._library.folder, folder)
        for path in (Path(somewhere), *folder.rglob("*"), folder):
            path.chmod(0o555 if path.is_dir() else 0o444)

        def run(*words: str) -> "subprocess.CompletedProcess[str]":
            warm = session._library.folder.with_name("warm")
            command = [sys.executable, "-c", LOOK, str(warm), words[0], "--library", str(folder), *words[1:]]
            return subprocess.run(command, capture_output=True, text=True, check=False, timeout=60)

        found = run("find", "wheel", "--format", "json")
        assert (found.returncode, json.loads(found.stdout.partition("---")[2])["title"]) == (0, "The wheel"), (
            found.stderr
        )
        listed = run("templates")
        assert (listed.returncode, "Article" in listed.stdout) == (0, True), listed.stderr
        refused = run("add", "title=The pond")
        assert (refused.returncode, "may not be written to" in refused.stderr) == (2, True), refused.stderr
        for path in (Path(somewhere), *folder.rglob("*"), folder):
            path.chmod(0o755 if path.is_dir() else 0o644)


def test_a_library_that_version_4_wrote_is_brought_up_with_its_steps(tmp_path: Path) -> None:
    (tmp_path / "library.sqlite").write_bytes(gzip.decompress((DATA / "library-version-4.sqlite.gz").read_bytes()))
    library = Library(tmp_path)
    sources = library.place("Sources")
    (entry_id,) = sources.listing(Question()).ids
    assert sources.rows([entry_id])[0].value("tags") == ("law", "ebb")
    asked = cql.parse("tags = ebb", sources.fields)
    assert list(sources.listing(asked).ids) == [entry_id]
    assert next(step.label for step in library.history.steps()) == "Change tags of “Heron Mill”"
    assert library.history.undo() is not None
    assert sources.rows([entry_id])[0].value("tags") == ("law", "tides")
    assert list(sources.listing(asked).ids) == []
    assert [view.name for view in library.views.all()][-1] == "Law"
    assert (tmp_path / f"library-before-version-{schema.VERSION}.sqlite").exists()
    assert library.database.rows("SELECT 1 FROM sqlite_schema WHERE type = 'index' AND name GLOB 'c1_by_f*'")
    library.close()
