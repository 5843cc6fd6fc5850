"""A library or settings of somebody else: what they name is looked at, and nothing is written where this person has said nothing."""

import json
import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from helpers import add_notes, undo
from wily_magpie.core.commands.entries import ChangeEntry
from wily_magpie.core.commands.history import Undo
from wily_magpie.core.commands.mirror import KeepInStep, MirrorInto
from wily_magpie.core.commands.places import UseFolder
from wily_magpie.core.errors import EnvironmentFailure, StuckStep, UserError
from wily_magpie.core.exchange.capture_settings import MOST_PLACES
from wily_magpie.core.exchange.templates import bringing_in, look_at_import
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places import own_folders
from wily_magpie.core.session.session import Session


@pytest.fixture
def notes(session: Session, tmp_path: Path) -> Path:
    folder = tmp_path / "Notes"
    folder.mkdir()
    (folder / "n.md").write_text("---\ntitle: n\n---\n\nfirst\n")
    add_notes(session, "Notes", folder)
    session.refresh_notes()
    return folder


def moved(session: Session, to: Path, *statements: str) -> Session:
    """A library as somebody else could have made it: a copy, with what they wrote into it."""
    session.close()
    shutil.copytree(session.folder, to)
    with closing(sqlite3.connect(to / "library.sqlite")) as connection:
        for one in statements:
            connection.execute(one)
        connection.commit()
    return Session(to, Fetcher())


def test_undo_writes_nowhere_but_into_folders_of_this_person(session: Session, notes: Path, tmp_path: Path) -> None:
    victim = tmp_path / "victim"
    victim.mkdir()
    (victim / ".profile").write_text("mine\n")
    number = session._library.notes("Notes").index.id_of("n.md") or 0
    session.do(ChangeEntry("notes:1", number, {}, "second"))
    session.close()
    with closing(sqlite3.connect(session.folder / "library.sqlite")) as connection:
        (last,) = connection.execute("SELECT max(id) FROM history").fetchone()
        connection.execute(
            "INSERT INTO history_file VALUES (?, ?, ?, ?)", (last, str(victim / ".profile"), b"evil\n", b"mine\n")
        )
        connection.execute(
            "INSERT INTO history_file VALUES (?, ?, ?, ?)", (last, str(victim / "new.sh"), b"evil\n", None)
        )
        connection.commit()
    with closing(Session(session.folder, Fetcher())) as opened:
        with pytest.raises(StuckStep, match=r"victim/.*no folder that you have set up"):
            opened.do(Undo(last))
        assert "second" in (notes / "n.md").read_text(), "all of a step or nothing"
    assert {path.name: path.read_text() for path in victim.iterdir()} == {".profile": "mine\n"}


def test_a_folder_that_a_library_names_is_left_alone_until_the_person_says_so(
    session: Session, notes: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(own_folders, "MACHINE", tmp_path / "another machine")
    (tmp_path / "another machine").write_text("0123")
    before = (notes / "n.md").read_text()
    with closing(
        moved(session, tmp_path / "theirs", "UPDATE notes_folder SET settings = '{\"links_lead_out\": true}'")
    ) as theirs:
        place = theirs.place("Notes")
        assert (place.is_strange, place.is_away) == (True, True)
        with pytest.raises(EnvironmentFailure, match="set up by somebody else"):
            theirs.refresh_notes(place.key)
        theirs.do(MirrorInto(place.key, "collection:1"))
        assert theirs.do(KeepInStep(place.key)) == ()
        assert [path.name for path in notes.iterdir()] == ["n.md"]
        theirs.do(UseFolder(place.key))
        place = theirs.place("Notes")
        assert (place.is_strange, place.settings.links_lead_out) == (False, False)
        theirs.refresh_notes(place.key)
        number = theirs._library.notes("Notes").index.id_of("n.md") or 0
        theirs.do(ChangeEntry(place.key, number, {}, "second"))
        assert "second" in (notes / "n.md").read_text()
        undo(theirs)
        assert (notes / "n.md").read_text() == before


def test_a_copy_on_this_machine_keeps_what_was_set_up_and_nobody_adds_to_it(
    session: Session, notes: Path, tmp_path: Path
) -> None:
    with closing(moved(session, tmp_path / "copy")) as copy:
        assert not copy.place("Notes").is_strange
    with closing(moved(session, tmp_path / "forged", f"UPDATE notes_folder SET path = '{tmp_path}'")) as forged:
        assert forged.place("Notes").is_strange
    told = json.loads((tmp_path / "forged" / own_folders.FILE).read_text())
    told["folders"].append(str(tmp_path))
    (tmp_path / "forged" / own_folders.FILE).write_text(json.dumps(told))
    with closing(Session(tmp_path / "forged", Fetcher())) as forged:
        assert forged.place("Notes").is_strange, "what was added is not signed"


FIELD = {"key": "k", "label": "K", "kind": "text"}


def settings(*places: object) -> str:
    return json.dumps(
        {"wily_magpie": "capture settings", "format": 1, "templates": [], "places": places, "settings": {}}
    )


def test_settings_of_others_make_folders_beside_the_library_and_allow_nothing(session: Session, tmp_path: Path) -> None:
    elsewhere = tmp_path / "elsewhere"
    elsewhere.mkdir()
    wanted = [
        {"name": "../../escaped", "kind": "notes folder", "folder": "x", "fields": [FIELD]},
        {"name": "Theirs", "kind": "notes folder", "folder": str(elsewhere / "new"), "fields": [FIELD], "settings": {"links_lead_out": True}},
    ]  # fmt: skip
    text = settings(*wanted)
    session.do(bringing_in(look_at_import(session.reader, text), text))
    folders = session._library.notes_folders()
    assert {one.path.parent for one in folders} == {session.folder.parent}
    assert not any(one.settings.links_lead_out or one.is_strange for one in folders)
    assert list(elsewhere.iterdir()) == []


def test_more_places_than_a_library_is_set_up_with_are_refused_and_lost_references_are_told(session: Session) -> None:
    many = settings(*({"name": f"C{at}", "kind": "collection", "fields": [FIELD]} for at in range(MOST_PLACES + 1)))
    with pytest.raises(UserError, match="100 at most"):
        look_at_import(session.reader, many)
    lost = {
        **FIELD,
        "key": "r",
        "label": "Chapter",
        "kind": "reference",
        "settings": {"target": "Nowhere", "link": 10**30},
    }
    text = settings({"name": "C", "kind": "collection", "fields": [FIELD, lost]})
    look = look_at_import(session.reader, text)
    assert look.faults == ("C: the field Chapter refers to “Nowhere”, which there is not; it is left out.",)
    session.do(bringing_in(look, text))
    assert [one.key for one in session.place("C").fields if one.is_writable] == ["title", "k"]
