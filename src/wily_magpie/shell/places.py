"""`wily-magpie places`, `add`, `set`, `write`, `steps`, `check` and `backup`: places and what lies in them, for scripts."""

import argparse
import re
import sys
from collections.abc import Sequence
from datetime import date
from pathlib import Path

from wily_magpie.core.commands.places import SetRole, UseFolder
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, find_field
from wily_magpie.core.entries.roles import roles_of
from wily_magpie.core.entries.typed import typed
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation, Value
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.query.nodes import Condition, Question
from wily_magpie.core.session.session import Session
from wily_magpie.shell.output import DONE, USER_ERROR, emit, looked_through, say

STATES = ("done", "undone", "passed over")


def run(args: argparse.Namespace, session: Session) -> int:
    """Does what one of them asks for."""
    acts = {
        "places": places, "add": add, "set": change, "write": write, "steps": steps, "check": check, "backup": backup,
    }  # fmt: skip
    return acts[args.command](args, session)


def places(args: argparse.Namespace, session: Session) -> int:
    """Prints all places."""
    if args.use:
        session.do(UseFolder(session.place(args.use).key))
    for told in args.takes:
        field, _, role = told.rpartition("=")
        session.do(SetRole(place_of(session, args.place).key, field, role))
    if args.place and not args.takes:
        raise UserError(
            "option-refused", "--in says which place --takes means.", "Leave it out: all places are printed."
        )
    say_strange(session)
    looked_through(session)
    for place in session.overview.places:
        roles = roles_of(place.fields, place.settings.roles, is_in_files=place.nature.is_in_files)
        emit(
            {
                "key": place.key,
                "name": place.name,
                "kind": place.nature.noun,
                **(
                    {"path": place.path, "is_away": place.is_away, "is_strange": place.is_strange} if place.path else {}
                ),
                "entries": session.reader.entries.listing(place.key, Question()).total,
                "description": place.settings.description,
                "rules": list(place.settings.rules),
                "fields": [as_object(field, roles.get(field.key, "")) for field in place.fields],
            }
        )
    return DONE


def say_strange(session: Session) -> None:
    """Says which notes folders the library names that this person has not set up."""
    for place in session.overview.places:
        if place.is_strange:
            say(f"{place.name} names the folder {place.path}, which was not set up here: places --use takes it.")


def as_object(field: Field, role: str = "") -> dict[str, object]:
    """A field in plain terms, with what it is taken for; what does not belong to its kind is left out."""
    settings = field.settings
    more = {
        "description": settings.description,
        "options": [option.name for option in field.options],
        "to": settings.target,
        "is_written": field.is_writable,
        "taken_for": role,
    }
    kept = {key: value for key, value in more.items() if value not in ("", [])}
    return {"key": field.key, "label": field.label, "kind": field.kind.name, **kept}


def place_of(session: Session, name: str | None, *, notes_only: bool = False) -> PlaceInfo:
    """The place of a name, key or path; a folder of Markdown files is taken into the library when it is first named."""
    there = [place for place in session.overview.places if not notes_only or place.nature.is_in_files]
    if name and "/" in name and Path(name).expanduser().is_dir():
        return opened(session, Path(name))
    if name:
        place = session.place(name)
        if notes_only and not place.nature.is_in_files:
            raise UserError("no-notes", f"{place.name} is no notes folder.", "Name a notes folder.")
        return place
    if not there:
        what = "notes folder" if notes_only else "place"
        raise UserError("no-notes", f"There is no {what} in this library.", "Name one by its path: --in FOLDER.")
    return there[0]


def opened(session: Session, path: Path) -> PlaceInfo:
    """The notes folder at a path; taken into the library if it is not in it yet."""
    from wily_magpie.core.commands.places import AddNotesFolder  # not needed to look

    wanted = str(path.expanduser().absolute())
    known = next((place for place in session.overview.places if place.path == wanted), None)
    if known is not None and known.is_strange:  # whoever names it by its path means it
        return session.do(UseFolder(known.key))
    return known or session.do(AddNotesFolder(Path(wanted)))


def settings_of(place: PlaceInfo, texts: Sequence[str]) -> tuple[dict[str, Value], str | None]:
    """Values by key, and the body where one is given; warnings are said."""
    values: dict[str, Value] = {}
    body = None
    for text in texts:
        name, equals, value = text.partition("=")
        if not equals:
            raise UserError("bad-set", f"“{text}” is not FIELD=VALUE.", "Write it like status=read.")
        if name.strip().casefold() == "body":
            body = value
            continue
        field = find_field(place.fields, name)
        values[field.key], warning = typed(field, value, place.settings.title_pattern)
        if warning:
            say(f"{field.label}: {warning}")
    return values, body


def add(args: argparse.Namespace, session: Session) -> int:
    """Adds an entry and prints it."""
    from wily_magpie.core.commands.entries import AddEntry  # not needed to look

    place = place_of(session, args.place)
    session.refresh_notes(place.key)
    values, body = settings_of(session.place(place.key), args.values)
    title = str(values.pop(TITLE.key, None) or "New entry")
    show(session, place.key, session.do(AddEntry(place.key, title, values, body or "")))
    return DONE


def change(args: argparse.Namespace, session: Session) -> int:
    """Sets fields of an entry and prints it."""
    from wily_magpie.core.commands.entries import ChangeEntry  # not needed to look

    place, entry = find_entry(session, args.entry, args.place)
    values, body = settings_of(place, args.values)
    session.do(ChangeEntry(place.key, entry.id, values, body))
    show(session, place.key, entry.id)
    return DONE


def find_entry(session: Session, name: str, inside: str | None) -> tuple[PlaceInfo, Entry]:
    """The entry of a number, a title, or a note's path.

    Raises:
        UserError: there is none, or there are several.
    """
    candidates = [place_of(session, inside)] if inside else list(session.overview.places)
    found: list[tuple[PlaceInfo, Entry]] = []
    for place in candidates:
        session.refresh_notes(place.key)
        ids = ids_named(session, place, name, may_be_number=bool(inside) or not place.nature.is_in_files)
        found += [(session.place(place.key), entry) for entry in session.reader.entries.rows(place.key, ids)]
    if not found:
        raise UserError("no-entry", f"There is no entry “{name}”.", "Look for it with wily-magpie find.")
    if len(found) > 1:
        there = ", ".join(f"{entry.id} in {place.name}" for place, entry in found[:5])
        raise UserError("several-entries", f"There are several entries “{name}”: {there}.", "Name one by its number.")
    return found[0]


def ids_named(session: Session, place: PlaceInfo, name: str, *, may_be_number: bool) -> list[int]:
    """The entries of a place that a name means."""
    entries = session.reader.entries
    if place.nature.is_in_files and re.search(r"\.(md|markdown)$", name, re.IGNORECASE):
        path = Path(name).expanduser().absolute()
        inner = path.relative_to(place.path) if path.is_relative_to(place.path) else Path(name)
        known = session.reader.notes.id_of(place.key, inner.as_posix())
        return [] if known is None else [known]
    if name.isdigit() and may_be_number:
        return [int(name)]
    holding = entries.listing(place.key, Question(Condition(TITLE, Relation.CONTAINS, name))).ids
    return [one.id for one in entries.rows(place.key, holding) if one.title.casefold() == name.casefold()]


def write(args: argparse.Namespace, session: Session) -> int:
    """Writes into a note, after saying what is made for it."""
    from wily_magpie.core.commands.notes import WriteJournal, WriteNote  # not needed to look
    from wily_magpie.core.entries.insert_position import InsertPosition

    text = sys.stdin.read() if args.text == "-" else args.text
    place = place_of(session, args.place, notes_only=True)
    session.refresh_notes(place.key)
    way = InsertPosition(args.heading, args.at, args.make_heading)
    notes = session.reader.notes
    if args.note is not None:
        told = notes.dry_run(place.key, args.note, way, may_make=not args.existing)
        entry = session.do(WriteNote(place.key, args.note, text, way, may_make=not args.existing))
    else:
        day = read_day(args.journal)
        told = notes.dry_run_journal(place.key, way, day)
        entry = session.do(WriteJournal(place.key, text, way, day))
    emit({"place": place.name, "entry": entry.id, "path": entry.path, "title": entry.title, "made": told})
    return DONE


def read_day(text: str) -> date | None:
    """A day as ISO 8601; None for today."""
    if not text:
        return None
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise UserError("no-date", f"“{text}” is not a day.", "Write it like 2026-03-12.") from error


def steps(_args: argparse.Namespace, session: Session) -> int:
    """Prints the steps."""
    for step in session.reader.steps():
        emit({"id": step.id, "at": step.at, "by": step.origin, "what": step.label, "state": STATES[step.state]})
    return DONE


def check(_args: argparse.Namespace, session: Session) -> int:
    """Prints faults; exit code 1 where there are some."""
    say_strange(session)
    faults = session.reader.check()
    for fault in faults:
        emit({"where": fault.where, "fault": fault.what, "way_out": fault.way_out})
    say(f"{len(faults)} faults." if faults else "All is well.")
    return USER_ERROR if faults else DONE


def backup(args: argparse.Namespace, session: Session) -> int:
    """Copies the library."""
    emit({"to": str(args.to), "files": session.back_up(args.to)})
    return DONE


def show(session: Session, key: str, entry_id: int) -> None:
    """Prints an entry."""
    from wily_magpie.core.exchange.exporters import as_object as entry_as_object

    place = session.place(key)
    entry = session.reader.entries.rows(key, [entry_id])[0]
    emit({"place": place.name, **entry_as_object(place.fields, entry)})
