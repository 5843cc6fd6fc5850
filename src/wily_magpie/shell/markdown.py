"""`wily-magpie markdown`: whole HTML files or fragments as Markdown, without looking for the main content."""

import argparse

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.apart import whole_markdown
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.shell.extract import load
from wily_magpie.shell.output import DONE, emit, exit_code, say


def run(args: argparse.Namespace, fetcher: Fetcher) -> int:
    """Prints {path, markdown} a file; the worst failure is the exit code."""
    worst = DONE
    for given in args.files:
        try:
            page = load(given, args.address, fetcher)
            text, is_cut = whole_markdown(page.html, page.address)
            if is_cut:
                say(f"{given} has more tags than are read; the text ends where that is.")
            emit({"path": given, "markdown": text})
        except MagpieError as error:
            say(str(error))
            emit({"path": given, "error": error.slug, "message": str(error)})
            worst = max(worst, exit_code(error))
    return worst
