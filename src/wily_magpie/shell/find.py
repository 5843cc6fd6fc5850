"""`wily-magpie find`: asks a place a question."""

import argparse
import sys
from collections.abc import Iterator, Sequence

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import BadQuery, UserError
from wily_magpie.core.places.api import Listing, PlaceInfo
from wily_magpie.core.query.nodes import Question, all_of
from wily_magpie.core.session.session import Session
from wily_magpie.shell.output import DONE, USER_ERROR, looked_through, say, show

CHUNK, WIDEST, MOST_COLUMNS = 500, 44, 6


def run(args: argparse.Namespace, session: Session) -> int:
    """Prints the entries in order."""
    try:
        place, question, listing = answer(args, session)
    except BadQuery as error:
        say(f"{error}\n  {args.query}\n  {' ' * error.position}^")
        return USER_ERROR
    found = chunks(session, place, listing.ids)
    if args.format == "table":
        write_table(shown_fields(place, question), list(found))
        say(f"{len(listing.ids)} of {listing.total} entries")
        return DONE
    from wily_magpie.core.exchange.exporters import EXPORTERS, with_marks  # not needed for a table

    if args.format == "json":
        for piece in with_marks(session.reader, place, found):
            show(piece)
        return DONE
    for piece in EXPORTERS[args.format].write(place.fields, found):
        show(piece)
    return DONE


def answer(args: argparse.Namespace, session: Session) -> tuple[PlaceInfo, Question, Listing]:
    """The place that is asked, the question, and what answers it.

    Raises:
        BadQuery: the question cannot be read.
    """
    entries = session.reader.entries
    view = view_of(args, session)
    first = session.overview.places[:1]
    if view is None and not args.place and not first:
        raise UserError("no-place", "There is no place in this library yet.", "Make a collection or add a folder.")
    place = session.place(view.place if view else args.place or first[0].key)
    if place.is_away:
        why = "was not set up here (places --use)" if place.is_strange else "is not there"
        say(f"The notes folder {place.path} {why}; this is what was known of it.")
    elif place.path:
        looked_through(session, place.key)
        place = session.place(place.key)
    question = entries.question(place.key, args.query)
    if view is not None:
        question = narrowed(entries.question(place.key, view.question), question)
    return place, question, entries.listing(place.key, question)


def view_of(args: argparse.Namespace, session: Session) -> View | None:
    """The view that was named; None where none was.

    Raises:
        UserError: there is none of that name.
    """
    if not args.view:
        return None
    inside = session.place(args.place).key if args.place else None
    views = session.overview.views
    wanted = args.view.casefold()
    view = next((v for v in views if v.name.casefold() == wanted and inside in (None, v.place)), None)
    if view is None:
        there = ", ".join(v.name for v in views)
        raise UserError("unknown-view", f"There is no view “{args.view}”.", f"There are: {there}.")
    return view


def narrowed(view: Question, more: Question) -> Question:
    """A view's question with further conditions; another order, if one is asked for."""
    both = view.conditions + more.conditions
    return Question(all_of(both), more.sort or view.sort, more.groups or view.groups)


def chunks(session: Session, place: PlaceInfo, ids: Sequence[int]) -> Iterator[Entry]:
    """All rows, fetched window by window."""
    for start in range(0, len(ids), CHUNK):
        yield from session.reader.entries.rows(place.key, ids[start : start + CHUNK])


def shown_fields(place: PlaceInfo, question: Question) -> list[Field]:
    """Title and a few more: what is asked about, then the first short fields."""
    asked = [key.field for key in question.sort] + [one.field for one in question.groups]
    short = [field for field in place.fields[1:] if field.kind.is_told]
    return list({field.key: field for field in [place.fields[0], *asked, *short]}.values())[:MOST_COLUMNS]


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
