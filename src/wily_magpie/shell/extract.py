"""`wily-magpie extract`: what pages say, one object a page."""

import argparse
import time
from dataclasses import asdict
from pathlib import Path

from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages.address import from_typed, looks_like_address
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.open_file import page_at
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.shell.output import DONE, emit, exit_code, say, show


def run(args: argparse.Namespace, fetcher: Fetcher) -> int:
    """Prints an object a page; a page that fails has an "error", and the worst failure is the exit code."""
    addresses = read_addresses(args.addresses) if args.addresses else {}
    worst = DONE
    for given in args.pages:
        try:
            begun_s = time.perf_counter()
            page = load(given, addresses.get(given, args.address), fetcher)
            reading = read_page(page).with_posts() if args.replies else read_page(page)
            show_reading(given, reading, args, round(time.perf_counter() - begun_s, 4))
        except MagpieError as error:
            say(str(error))
            emit({"path": given, "address": addresses.get(given, ""), "error": error.slug, "message": str(error)})
            worst = max(worst, exit_code(error))
    return worst


def show_reading(given: str, reading: Reading, args: argparse.Namespace, seconds: float) -> None:
    """Prints what a page says in the form asked for."""
    if args.format == "markdown":
        show(f"{reading.content.markdown}\n")
    elif args.findings:
        for one in reading.findings:
            emit({"path": given, "name": one.name, "value": one.value, "origin": one.origin, "element": one.path})
    else:
        blocks = blocks_of(reading) if args.blocks else {}
        emit({"path": given, **as_json(reading), "seconds": seconds, **blocks})


def is_file(given: str) -> bool:
    """Whether what was given is the path of a file."""
    try:
        return Path(given).is_file()
    except (OSError, ValueError):
        return False


def load(given: str, address: str, fetcher: Fetcher) -> Page:
    """A page from a file, or from the web."""
    path = Path(given)
    if not is_file(given):
        if looks_like_address(given):
            return fetcher.page(from_typed(given))
        raise UserError("no-file", f"There is no file {given}.", "Give a file that is there, or an address.")
    return page_at(path, address)


def read_addresses(path: Path) -> dict[str, str]:
    """Addresses by file path."""
    try:
        lines = path.read_text("utf-8").splitlines()
    except (OSError, UnicodeDecodeError) as error:
        raise UserError("no-file", f"{path} cannot be read: {error}.") from error
    return {line.split("\t")[0]: line.split("\t")[1].strip() for line in lines if "\t" in line}


def blocks_of(reading: Reading) -> dict[str, object]:
    """The blocks of the content and beside it, as JSON."""
    names = ("kind", "level", "html", "markdown", "text", "path", "is_kept", "reason", "score")
    return {"blocks": [{name: getattr(block, name) for name in names} for block in reading.content.blocks]}


def as_json(reading: Reading) -> dict[str, object]:
    """The stable shape of what a page says; blank texts where it says nothing, null for a missing date."""
    best = reading.best
    return {
        "address": reading.page.address,
        "title": best("title"),
        "authors": [given_first(name) for name in reading.authors],
        "published": best("published") or None,
        "modified": best("modified") or None,
        "site": best("site"),
        "description": best("description"),
        "language": best("language"),
        "kind": best("kind"),
        "image": best("image"),
        "markdown": reading.content.markdown,
        "text": reading.content.text,
        "findings": [{"name": f.name, "value": f.value, "origin": f.origin} for f in reading.findings],
        "notice": reading.notice,
        "status": "thin" if reading.is_thin else "read",
        "pictures": [asdict(one) for one in reading.pictures],
    }
