"""`wily-magpie capture`: keeps pages, one object a capture."""

import argparse
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from wily_magpie.core.capture.many import OWN_FAULT, ListRun, going_on
from wily_magpie.core.capture.run import CaptureRun, Wanted
from wily_magpie.core.commands.lists import DropList
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted
from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import BugError, MagpieError, UserError
from wily_magpie.core.exchange.addresses import LARGEST_BYTES, UnderstoodList, within_bounds
from wily_magpie.core.exchange.given_files import holds_several, listed, understood_files, understood_input
from wily_magpie.core.faults import logger
from wily_magpie.core.pages.address import looks_like_address
from wily_magpie.core.session.session import Session
from wily_magpie.shell.extract import load
from wily_magpie.shell.output import DONE, ENVIRONMENT_FAILURE, emit, exit_code, say
from wily_magpie.shell.places import place_of

log = logger(__name__)


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
    wanted = replace(wanted, place=place_of(session, wanted.place).key if wanted.place else "")
    worst = DONE
    for given in args.addresses:
        try:
            pages = taken_apart(given)
        except MagpieError as error:
            worst = max(worst, failed(given, error))
            continue
        for page in pages:
            worst = max(worst, captured(session, page, args.address, wanted))
    return worst


def captured(session: Session, page: str, address: str, wanted: Wanted) -> int:
    """Captures a page and tells how that ended; the exit code. What it holds costs itself, not the others."""
    try:
        emit({"address": address or page, **capture(session, page, address, wanted)})
    except MagpieError as error:
        return failed(page, error)
    except Exception:
        log.exception("%s could not be captured", page)
        return failed(page, BugError("bug", f"Capturing {page} failed.", OWN_FAULT))
    return DONE


def failed(given: str, error: MagpieError) -> int:
    """Tells what could not be captured; the exit code."""
    say(str(error))
    nowhere = {"place": "", "entry": None, "title": "", "status": "failed"}
    emit({"address": given, **nowhere, "error": error.slug, "message": str(error)})
    return exit_code(error)


def capture_list(args: argparse.Namespace, session: Session, wanted: Wanted) -> int:
    """Captures a list; prints an object an address as each ends, and goes on where it was left when it is called again.

    Raises:
        UserError: an option is given that is for single pages.
    """
    if args.addresses or args.mark or args.update or args.replies or args.address or args.live:
        raise UserError(
            "option-refused", "--from goes with --template, --to, --set and --library alone.", "Leave the others out."
        )
    found = understood(args.source)
    for line in found.others:
        say(f"Not an address: {short(line, 200)}")
    if found.doubles:
        say(f"{found.doubles} more are in it twice.")
    if found.beyond:
        say(found.told_beyond)
    if not found.addresses:
        say("There is nothing in it that could be captured.")
    place = place_of(session, wanted.place).key if wanted.place else ""
    asked = ListWanted(wanted.template, place, tuple(wanted.values))
    ended_badly = []

    def told(item: ListItem) -> None:
        if item.state in (ItemState.READING, ItemState.WAITING):
            return
        if item.state is ItemState.FAILED:
            ended_badly.append(item)
        name = session.place(item.place).name if item.place else ""
        emit({
            "position": item.position, "address": item.address, "place": name, "entry": item.entry_id or None,
            "title": item.title, "status": str(item.state), "message": item.said,
        })  # fmt: skip

    number = going_on(session, args.source, found.addresses, asked)
    for item in session.reader.lists.items(number):
        told(item)  # how those ended that were done before it was interrupted
    ListRun(session, number, asked, told=told).run()
    session.do(DropList(number))  # what is kept is known when the same list is given again
    return ENVIRONMENT_FAILURE if ended_badly else DONE


def understood(source: str) -> UnderstoodList:
    """What is to be captured of a file or folder, or of standard input ("-").

    Raises:
        MagpieError: it cannot be read.
    """
    if source == "-":
        return understood_input(within_bounds(sys.stdin.buffer.read(LARGEST_BYTES + 1), "The list"))
    return listed(Path(source))


def taken_apart(given: str) -> Sequence[str]:
    """What stands for a page: an address, a file; or the e-mails of a mailbox or folder, and the address in a link file.

    Raises:
        UserError: it is a list of many pages, which are captured politely, one after another.
    """
    path = Path(given)
    if looks_like_address(given) and not path.exists():
        return [given]
    if not (path.exists() and holds_several(path)):
        return [given]
    found = understood_files([path])
    if len(found.addresses) > 1 and any(is_of_web(address) for address, _ in found.addresses):
        raise UserError(
            "a-list", f"{given} is a list of {len(found.addresses):,} addresses.", f"Say: capture --from {given}"
        )
    return [address for address, _ in found.addresses]


def is_of_web(address: str) -> bool:
    """Whether it is one of the web, and no path of a file."""
    return address.startswith(("http://", "https://"))


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
        where = f" in {slip.holding}" if slip.holding else ""
        message = f"Kept already{where}{when}; --update writes it {'again' if where else 'anew'}."
    elif slip.told:
        message = f"{' '.join(slip.told)} {message}".strip()
    elsewhere = ", ".join(one.place_name for one in slip.elsewhere if one.place != kept.place)
    if elsewhere:
        message = f"{message} It is kept in {elsewhere}, too.".strip()
    status = kept.status
    if slip.reading.is_thin and status == "kept":
        status, message = "thin", f"Kept, but: {slip.reading.notice} {message}".strip()
        say(f"{message} --live opens it as a browser would.")
    return {
        "place": kept.place_name, "entry": kept.entry_id or None, "title": kept.title, "status": status, "message": message,
    }  # fmt: skip
