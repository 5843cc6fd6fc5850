"""`wily-magpie capture`: keeps pages, one object a capture."""

import argparse
from pathlib import Path

from wily_magpie.core.entries.field import find_field
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.session.session import Session
from wily_magpie.shell.extract import load
from wily_magpie.shell.output import DONE, emit, exit_code, say


def add_parser(commands: "argparse._SubParsersAction[argparse.ArgumentParser]") -> None:
    """The words of this command."""
    parser = commands.add_parser("capture", help="keep pages, one JSON object a capture")
    parser.add_argument("addresses", nargs="+", metavar="ADDRESS|FILE")
    parser.add_argument("--library", type=Path, metavar="DIR")
    parser.add_argument("--template", metavar="NAME", help="instead of the one whose match rules take the page")
    parser.add_argument("--to", metavar="PLACE", help="instead of the place that the template names")
    parser.add_argument("--set", action="append", default=[], metavar="FIELD=VALUE", help="may be given several times")
    parser.add_argument(
        "--mark", action="append", default=[], metavar="TEXT", help="mark a passage; may be given several times"
    )
    parser.add_argument("--replies", action="store_true", help="keep a discussion with all its replies")
    parser.add_argument("--update", action="store_true", help="write a page that is already kept into its entry again")


def run(args: argparse.Namespace, session: Session) -> int:
    """Prints an object a capture; the worst failure is the exit code."""
    settings = []
    for one in args.set:
        key, equals, value = one.partition("=")
        if not equals:
            raise UserError("bad-set", f"“{one}” is not FIELD=VALUE.", "Write it like status=read.")
        settings.append((key, value))
    if args.template:
        session.template(args.template)
    if args.to:
        session.place(args.to)
    worst = DONE
    for address in args.addresses:
        try:
            emit({"address": address, **capture(session, address, args, settings)})
        except MagpieError as error:
            say(str(error))
            nowhere = {"place": "", "entry": None, "title": "", "status": "failed"}
            emit({"address": address, **nowhere, "error": error.slug, "message": str(error)})
            worst = max(worst, exit_code(error))
    return worst


def capture(
    session: Session, address: str, args: argparse.Namespace, settings: list[tuple[str, str]]
) -> dict[str, object]:
    """One page, by the same way as in the window: page, reading, template, slip, place."""
    session.refresh_notes()
    page = load(address, "", session.fetcher)
    reading = session.capturing.read(page).with_posts() if args.replies else session.capturing.read(page)
    slip = session.capturing.slip(reading, args.template, args.to, marks=[Mark(text) for text in args.mark])
    place = session.place(slip.place)
    for key, value in settings:
        slip = slip.with_text(find_field(place.fields, key).key, value)
    if slip.known and not args.update:
        message = f"Kept already{f' on {slip.known_when}' if slip.known_when else ''}; --update writes it anew."
        return {
            "place": place.name,
            "entry": slip.known.id,
            "title": slip.known.title,
            "status": "known",
            "message": message,
        }
    kept = session.capturing.keep(slip, update=args.update)
    failures = session.capturing.keep_pictures(slip, kept)
    for failure in failures:
        say(failure)
    message = f"{len(failures)} pictures could not be kept." if failures else ""
    return {
        "place": kept.place_name,
        "entry": kept.entry_id,
        "title": kept.title,
        "status": kept.status,
        "message": message,
    }
