"""What comes into the window from outside, by dropping or by the clipboard: one address, many, files, or a piece of text."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.dropped import Dropped
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.bridge import Bridge

if TYPE_CHECKING:
    from wily_magpie.core.exchange.addresses import UnderstoodList


class Arriving:
    """Says what is to be done with it.

    Args:
        open_one: opens an address, or a file, with its slip.
        open_list: shows what was understood of a list: its name, the list, the key of the place that is proposed.
        open_snippet: fills a slip from text: text, HTML, address of its page.
    """

    def __init__(
        self,
        bridge: Bridge,
        open_one: Callable[[str], object],
        open_list: "Callable[[str, UnderstoodList, str], object]",
        open_snippet: Callable[[str, str, str], object],
        complain: Callable[[MagpieError], object],
    ) -> None:
        self.bridge, self.open_one, self.open_list = bridge, open_one, open_list
        self.open_snippet, self.complain = open_snippet, complain

    def take(self, given: Dropped, place: str = "") -> bool:
        """Takes what was dropped or pasted; whether there was anything.

        Args:
            place: the key of the place that it was dropped on, or "".
        """
        if given.files:
            self.take_files(given.files, place)
        elif len(given.addresses) > 1 or (given.addresses and place):
            self.show_list(addresses_in("\n".join(address for address, _ in given.addresses)), place)
        elif given.addresses:
            self.open_one(given.addresses[0][0])
        elif given.text.strip() or given.html:
            return self.take_text(given.text, given.html, given.source)
        else:
            return False
        return True

    def take_text(self, text: str, html: str = "", source: str = "", *, only_lists: bool = False) -> bool:
        """Takes a text: an address, several of them, or a piece of text; whether it was taken.

        Args:
            only_lists: whether anything else is left to others.
        """
        found = addresses_in(text)
        words = len(text.split())
        if len(found.addresses) > 1 and words < 4 * len(found.addresses):
            self.show_list(found)
        elif only_lists:
            return False
        elif len(found.addresses) == 1 and words == 1:
            self.open_one(found.addresses[0][0])
        else:
            self.open_snippet(text, html, source)
        return True

    def show_list(self, found: "UnderstoodList", place: str = "") -> None:
        """Shows addresses as a list."""
        many = f"{len(found.addresses)} addresses" if len(found.addresses) != 1 else "One address"
        self.open_list(f"{many} from a text", found, place)

    def take_files(self, paths: Sequence[Path], place: str = "") -> None:
        """Takes files: lists of addresses, e-mails, mailboxes, folders of them, or files that a slip is filled from.

        Args:
            place: the key of the place that is proposed.
        """
        from wily_magpie.core.exchange.given_files import understood_files  # as above

        def done(found: "UnderstoodList") -> None:
            if len(found.addresses) == 1 and not found.others and not place:
                self.open_one(found.addresses[0][0])
            else:
                self.open_list(name, found, place)

        name = paths[0].name if len(paths) == 1 else f"{len(paths)} files"
        self.bridge.ask(lambda _reader: understood_files(paths), done, self.complain)


def addresses_in(text: str) -> "UnderstoodList":
    """The addresses of a text."""
    from wily_magpie.core.exchange.addresses import addresses_in_text  # not at a start

    return addresses_in_text(text)
