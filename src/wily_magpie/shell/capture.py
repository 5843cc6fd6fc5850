"""`wily-magpie capture`: keeps pages, one object a capture."""

import argparse
import sys
from pathlib import Path

from wily_magpie.core.capture.many import ListRun
from wily_magpie.core.capture.run import CaptureRun, Wanted
from wily_magpie.core.commands.lists import DropList, MakeList
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.exchange.addresses import addresses_in_file, addresses_of
from wily_magpie.core.session.session import Session
from wily_magpie.shell.extract import load
from wily_magpie.shell.output import DONE, ENVIRONMENT_FAILURE, emit, exit_code, say


def run(args: argparse.Namespace, session: Session) -> int:
    """Prints an object a capture; the worst failure is the exit code."""
    wanted = wanted_of(args)
    if args.source is not None:
        return capture_list(args, session, wanted)
    if not args.addresses:
        raise UserError(
            "no-address", "Nothing is named that is to be captured.", "Name an address or a file, or --from a list."
        )
    if args.address and len(args.addresses) > 1:
        raise UserError("one-address", "--address is of one file, and several are given.", "Give them one by one.")
    if wanted.template:
        session.reader.templates.template(wanted.template)
    if wanted.place:
        session.place(wanted.place)
    worst = DONE
    for address in args.addresses:
        try:
            emit({"address": args.address or address, **capture(session, address, args.address, wanted)})
        except MagpieError as error:
            say(str(error))
            nowhere = {"place": "", "entry": None, "title": "", "status": "failed"}
            emit({"address": address, **nowhere, "error": error.slug, "message": str(error)})
            worst = max(worst, exit_code(error))
    return worst


def capture_list(args: argparse.Namespace, session: Session, wanted: Wanted) -> int:
    """Captures a list; prints an object an address as each ends, and goes on where it was left when it is called again.

    Raises:
        UserError: an option is given that is for single pages.
    """
    if args.addresses or args.mark or args.update or args.replies or args.address or args.live:
        raise UserError(
            "option-refused", "--from goes with --template, --to, --set and --library alone.", "Leave the others out."
        )
    found = addresses_of(sys.stdin.read()) if args.source == "-" else addresses_in_file(Path(args.source))
    for line in found.others:
        say(f"Not an address: {short(line, 200)}")
    if found.doubles:
        say(f"{found.doubles} more are in it twice.")
    place = session.place(wanted.place).key if wanted.place else ""
    asked = ListWanted(wanted.template, place, tuple(wanted.values))
    number = session.do(MakeList(args.source, found.addresses, asked))
    failed = []

    def told(item: ListItem) -> None:
        if item.state in (ItemState.READING, ItemState.WAITING):
            return
        if item.state is ItemState.FAILED:
            failed.append(item)
        name = session.place(item.place).name if item.place else ""
        emit({
            "position": item.position, "address": item.address, "place": name, "entry": item.entry_id or None,
            "title": item.title, "status": str(item.state), "message": item.said,
        })  # fmt: skip

    ListRun(session, number, asked, told=told).run()
    session.do(DropList(number))  # what is kept is known when the same list is given again
    return ENVIRONMENT_FAILURE if failed else DONE


def wanted_of(args: argparse.Namespace) -> Wanted:
    """How pages are to be captured.

    Raises:
        UserError: a setting is none.
    """
    values = []
    for one in args.set:
        key, equals, value = one.partition("=")
        if not equals:
            raise UserError("bad-set", f"“{one}” is not FIELD=VALUE.", "Write it like status=read.")
        values.append((key, value))
    marks = [Mark(text) for text in args.mark]
    return Wanted(args.template, args.to, values, marks, args.replies, args.update, args.lenient)


def capture(session: Session, given: str, address: str, wanted: Wanted) -> dict[str, object]:
    """One page, by the same way as in the window: page, reading, template, slip, place.

    Args:
        given: an address, or the path of a file; address: where a file came from, "" where that is not known.
    """
    done = CaptureRun(session).whole(load(given, address, session.fetcher), wanted)
    kept, slip = done.kept, done.slip
    for failure in done.failures:
        say(failure)
    message = f"{len(done.failures)} pictures could not be kept." if done.failures else ""
    message = f"{done.left_out} {message}".strip()
    if kept.status == "known":
        when = f" on {slip.known_when}" if slip.known_when else ""
        message = f"Kept already{when}; --update writes it anew."
    status = kept.status
    if slip.reading.is_thin and status == "kept":
        status, message = "thin", f"Kept, but: {slip.reading.notice} {message}".strip()
        say(f"{message} --live opens it as a browser would.")
    return {
        "place": kept.place_name, "entry": kept.entry_id, "title": kept.title, "status": status, "message": message,
    }  # fmt: skip
