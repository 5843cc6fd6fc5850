"""`wily-magpie marks`: the marks of entries, for elsewhere."""

import argparse
from itertools import chain

from wily_magpie.core.session.session import Session
from wily_magpie.shell.find import answer
from wily_magpie.shell.output import DONE, show


def run(args: argparse.Namespace, session: Session) -> int:
    """Prints the marks of the entries that answer a question; without a place, of the whole library."""
    from wily_magpie.core.exchange.marks import FORMATS, marked

    write = FORMATS[args.format][2]
    is_whole = not (args.place or args.view or args.query)
    if not is_whole:
        place, _, listing = answer(args, session)
        found = marked(session.reader, place, listing.ids)
    else:
        every = ((one, session.reader.entries.question(one.key, "")) for one in session.overview.places)
        ids = ((one, session.reader.entries.listing(one.key, asked).ids) for one, asked in every)
        found = chain.from_iterable(marked(session.reader, one, numbers) for one, numbers in ids)
    for piece in write(found):
        show(piece)
    return DONE
