"""`wily-magpie places`, `add`, `set`, `write`, `check` and `backup`: places and what lies in them, for scripts."""

import argparse
import re
import sys
from collections.abc import Sequence
from datetime import date
from pathlib import Path

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import TITLE, Field, find_field
from wily_magpie.core.entries.insert_position import InsertPosition
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation, Value
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.query.nodes import Condition, Question
from wily_magpie.core.session.session import Session, typed
from wily_magpie.shell.find import as_json
from wily_magpie.shell.output import DONE, USER_ERROR, emit, say


def add_parser(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """The words of these commands."""
    places = commands.add_parser("places", help="print the places with their fields, one JSON object each")
    add = commands.add_parser("add", help="add an entry or note")
    add.add_argument("values", nargs="*", metavar="FIELD=VALUE")
    add.add_argument(
        "--to", dest="place", metavar="PLACE", help="a place, or the path of a notes folder; else the first"
    )
    change = commands.add_parser("set", help="set fields of an entry or note")
    change.add_argument("entry", metavar="ENTRY", help="its number, its title, or the path of a note")
    change.add_argument("values", nargs="+", metavar="FIELD=VALUE", help="FIELD= blanks it; body=TEXT sets the text")
    change.add_argument("--in", dest="place", metavar="PLACE")
    write = commands.add_parser("write", help="write into a note or a journal page")
    write.add_argument("text", metavar="TEXT|-", help="- reads it from standard input")
    target = write.add_mutually_exclusive_group(required=True)
    target.add_argument("--note", metavar="PATH", help="from the notes folder on")
    target.add_argument(
        "--journal", nargs="?", const="", metavar="DATE", help="the journal page of a day; else today's"
    )
    write.add_argument("--in", dest="place", metavar="PLACE", help="a notes folder, or its path; else the first one")
    write.add_argument("--heading", default="", metavar="H", help="below this heading")
    write.add_argument(
        "--at", choices=("top", "end"), default="end", help="of the note, or of what stands below the heading"
    )
    write.add_argument(
        "--make-heading", type=int, choices=range(1, 7), metavar="LEVEL", help="make it where it is missing"
    )
    write.add_argument("--existing", action="store_true", help="fail where the note is not there, instead of making it")
    check = commands.add_parser("check", help="look for faults in the library, one JSON object each")
    backup = commands.add_parser("backup", help="copy the library into a folder, and check the copy")
    backup.add_argument("to", type=Path, metavar="DIR")
    for parser in (places, add, change, write, check, backup):
        parser.add_argument("--library", type=Path, metavar="DIR")


def run(args: argparse.Namespace, session: Session) -> int:
    """Does what one of them asks for."""
    return {"places": places, "add": add, "set": change, "write": write, "check": check, "backup": backup}[
        args.command
    ](args, session)


def places(_args: argparse.Namespace, session: Session) -> int:
    """Prints all places."""
    session.refresh_notes()
    for place in session.places():
        is_notes = isinstance(place, NotesFolder)
        emit(
            {
                "key": place.key,
                "name": place.name,
                "kind": "notes folder" if is_notes else "collection",
                **({"path": str(place.path)} if isinstance(place, NotesFolder) else {}),
                "entries": place.listing(Question()).total,
                "description": place.settings.description,
                "rules": list(place.settings.rules),
                "fields": [as_object(field) for field in place.fields],
            }
        )
    return DONE


def as_object(field: Field) -> dict[str, object]:
    """A field in plain terms; what does not belong to its kind is left out."""
    settings = field.settings
    more = {
        "description": settings.description,
        "options": [option.name for option in field.options],
        "to": settings.target,
        "is_written": field.is_writable,
    }
    kept = {key: value for key, value in more.items() if value not in ("", [])}
    return {"key": field.key, "label": field.label, "kind": field.kind.name, **kept}


def place_of(session: Session, name: str | None, *, notes_only: bool = False) -> Place:
    """The place of a name, key or path; a folder of Markdown files is taken into the library when it is first named."""
    if name and "/" in name and Path(name).expanduser().is_dir():
        return session.noting.opened(Path(name))
    if name:
        return session.noting.folder(name) if notes_only else session.place(name)
    there = [place for place in session.places() if not notes_only or isinstance(place, NotesFolder)]
    if not there:
        raise UserError("no-notes", "There is no notes folder in this library.", "Name one by its path: --in FOLDER.")
    return there[0]


def settings_of(place: Place, texts: Sequence[str]) -> tuple[dict[str, Value], str | None]:
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
        values[field.key], warning = typed(place, field, value)
        if warning:
            say(f"{field.label}: {warning}")
    return values, body


def add(args: argparse.Namespace, session: Session) -> int:
    """Adds an entry and prints it."""
    place = place_of(session, args.place)
    refresh(session, place)
    values, body = settings_of(place, args.values)
    title = str(values.pop("title", None) or "New entry")
    with session.library.step(f"New entry “{title}”"):
        entry_id = session.add_entry(place.key, title, values)
        if body:
            session.set_body(place.key, entry_id, body)
    show(session, place.key, entry_id)
    return DONE


def change(args: argparse.Namespace, session: Session) -> int:
    """Sets fields of an entry and prints it."""
    place, entry = find_entry(session, args.entry, args.place)
    values, body = settings_of(place, args.values)
    with session.library.step(f"Change “{entry.title}”"):
        if values:
            session.set_values(place.key, {entry.id: values}, "Change")
        if body is not None:
            session.set_body(place.key, entry.id, body)
    show(session, place.key, entry.id)
    return DONE


def find_entry(session: Session, name: str, inside: str | None) -> tuple[Place, Entry]:
    """The entry of a number, a title, or a note's path.

    Raises:
        UserError: there is none, or there are several.
    """
    candidates = [place_of(session, inside)] if inside else session.places()
    found: list[tuple[Place, Entry]] = []
    for place in candidates:
        refresh(session, place)
        if isinstance(place, NotesFolder) and re.search(r"\.(md|markdown)$", name, re.IGNORECASE):
            path = Path(name).expanduser()
            inner = (
                path.absolute().relative_to(place.path) if path.absolute().is_relative_to(place.path) else Path(name)
            )
            known = place.index.id_of(inner.as_posix())
            ids = [] if known is None else [known]
        elif name.isdigit() and (inside or not isinstance(place, NotesFolder)):
            ids = [int(name)]
        else:
            holding = place.listing(Question(Condition(TITLE, Relation.CONTAINS, name))).ids
            ids = [entry.id for entry in place.rows(holding) if entry.title.casefold() == name.casefold()]
        found += [(place, entry) for entry in place.rows(ids)]
    if not found:
        raise UserError("no-entry", f"There is no entry “{name}”.", "Look for it with wily-magpie find.")
    if len(found) > 1:
        there = ", ".join(f"{entry.id} in {place.name}" for place, entry in found[:5])
        raise UserError("several-entries", f"There are several entries “{name}”: {there}.", "Name one by its number.")
    return found[0]


def write(args: argparse.Namespace, session: Session) -> int:
    """Writes into a note, after saying what is made for it."""
    text = sys.stdin.read() if args.text == "-" else args.text
    place = place_of(session, args.place, notes_only=True)
    refresh(session, place)
    way = InsertPosition(args.heading, args.at, args.make_heading)
    if args.note is not None:
        told = session.noting.dry_run(place.key, args.note, way, may_make=not args.existing)
        entry = session.noting.write(place.key, args.note, text, way, may_make=not args.existing)
    else:
        day = read_day(args.journal)
        told = session.noting.dry_run_journal(place.key, way, day)
        entry = session.noting.write_journal(place.key, text, way, day)
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


def check(_args: argparse.Namespace, session: Session) -> int:
    """Prints faults; exit code 1 where there are some."""
    faults = session.check()
    for fault in faults:
        emit({"where": fault.where, "fault": fault.what, "way_out": fault.way_out})
    say(f"{len(faults)} faults." if faults else "All is well.")
    return USER_ERROR if faults else DONE


def backup(args: argparse.Namespace, session: Session) -> int:
    """BlobStore the library."""
    emit({"to": str(args.to), "files": session.back_up(args.to)})
    return DONE


def refresh(session: Session, place: Place) -> None:
    """Looks at the files of a notes folder as they are now."""
    if isinstance(place, NotesFolder):
        session.refresh_notes(place.key)


def show(session: Session, key: str, entry_id: int) -> None:
    """Prints an entry."""
    place = session.place(key)
    emit({"place": place.name, **as_json(place, place.rows([entry_id])[0])})
