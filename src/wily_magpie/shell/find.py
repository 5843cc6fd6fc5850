"""`wily-magpie find`: asks a place a question."""

import argparse
import csv
import sys
from pathlib import Path

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.errors import BadQuery, UserError
from wily_magpie.core.places.api import Place
from wily_magpie.core.query.nodes import Question, all_of
from wily_magpie.core.session.session import Session
from wily_magpie.shell.output import DONE, USER_ERROR, emit, say

CHUNK = 500
WIDEST = 44
SHOWN_KINDS = ("choice", "date", "people", "number", "amount", "choices", "reference", "summary")


def add_parser(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """The words of this command."""
    parser = commands.add_parser("find", help="print the entries that answer a question")
    parser.add_argument("query", nargs="?", default="", metavar="QUERY", help="in CQL; without one: all of the place")
    parser.add_argument("--library", type=Path, metavar="DIR")
    parser.add_argument("--in", dest="place", metavar="PLACE", help="a collection or notes folder; else the first")
    parser.add_argument("--view", metavar="NAME", help="what a kept view asks; a QUERY narrows it further")
    parser.add_argument("--format", choices=("table", "json", "csv"), default="table")


def run(args: argparse.Namespace, session: Session) -> int:
    """Prints the entries in order."""
    session.refresh_notes()
    views = session.views()
    view = None
    if args.view:
        inside = session.place(args.place).key if args.place else None
        wanted = args.view.casefold()
        view = next((v for v in views if v.name.casefold() == wanted and inside in (None, v.place)), None)
        if view is None:
            there = ", ".join(v.name for v in views)
            raise UserError("unknown-view", f"There is no view “{args.view}”.", f"There are: {there}.")
    place = session.place(view.place if view else args.place or session.places()[0].key)
    try:
        question = session.question(place.key, args.query)
    except BadQuery as error:
        say(f"{error}\n  {args.query}\n  {' ' * error.position}^")
        return USER_ERROR
    if view:
        question = narrowed(session.question(place.key, view.question), question)
    listing = place.listing(question)
    entries = chunks(place, list(listing.ids))
    if args.format == "json":
        for entry in entries:
            emit(as_json(place, entry))
    elif args.format == "csv":
        write_csv(place, entries)
    else:
        write_table(shown_fields(place, question), entries)
        say(f"{len(listing.ids)} of {listing.total} entries")
    return DONE


def narrowed(view: Question, more: Question) -> Question:
    """A view's question with further conditions; another order, if one is asked for."""
    both = view.conditions + more.conditions
    return Question(all_of(both), more.sort or view.sort, more.group or view.group)


def chunks(place: Place, ids: list[int]) -> list[Entry]:
    """All rows, fetched window by window."""
    return [entry for start in range(0, len(ids), CHUNK) for entry in place.rows(ids[start : start + CHUNK])]


def as_json(place: Place, entry: Entry) -> dict[str, object]:
    """All fields by their keys, blank ones as null."""
    values = {field.key: field.kind.to_plain(entry.value(field.key)) for field in place.fields}
    return {"id": entry.id, **({"path": entry.path} if entry.path else {}), **values}


def write_csv(place: Place, entries: list[Entry]) -> None:
    """RFC 4180, with the keys as first row."""
    writer = csv.writer(sys.stdout)
    writer.writerow(["id", *(field.key for field in place.fields)])
    for entry in entries:
        writer.writerow([entry.id, *(field.kind.show(entry.value(field.key)) for field in place.fields)])


def shown_fields(place: Place, question: Question) -> list[Field]:
    """Title and a few more: what is asked about, then the first short fields."""
    asked = [key.field for key in question.sort] + ([question.group] if question.group else [])
    short = [field for field in place.fields[1:] if field.kind.name in SHOWN_KINDS]
    return list({field.key: field for field in [place.fields[0], *asked, *short]}.values())[:6]


def write_table(fields: list[Field], entries: list[Entry]) -> None:
    """Columns for reading by eye."""
    rows = [[field.label for field in fields]]
    rows += [[clip(field.kind.show(entry.value(field.key))) for field in fields] for entry in entries]
    widths = [max(len(row[i]) for row in rows) for i in range(len(fields))]
    for number, row in enumerate(rows):
        cells = [
            cell.rjust(width) if field.kind.right_aligned else cell.ljust(width)
            for cell, width, field in zip(row, widths, fields, strict=True)
        ]
        sys.stdout.write("  ".join(cells).rstrip() + "\n")
        if number == 0:
            sys.stdout.write("  ".join("─" * width for width in widths) + "\n")


def clip(text: str) -> str:
    """One line of at most WIDEST characters."""
    line = " ".join(text.split())
    return line if len(line) <= WIDEST else line[: WIDEST - 1] + "…"
