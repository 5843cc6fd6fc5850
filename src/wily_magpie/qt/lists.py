"""Lists of addresses in the window: what comes in, the two pages of a list, how it ends, and what was interrupted."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from wily_magpie.qt.arriving import Arriving
from wily_magpie.qt.dropped import from_mime
from wily_magpie.qt.notify import notify
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import timer

if TYPE_CHECKING:
    from wily_magpie.core.entries.capture_list import CaptureList
    from wily_magpie.core.exchange.addresses import UnderstoodList

SOON_MS, AGAIN_MS = 1_500, 300_000
"""How soon an address that was kept alone is filled from its page, and when that is tried again where it could not be had."""
FORMS = "Lists of addresses (*.txt *.md *.csv *.tsv *.html *.htm *.opml *.url *.desktop *.mbox *.eml);;All files (*)"
NOTHING_THERE = "There is nothing in the clipboard that could be kept: copy an address, several, or a text."


class Lists:
    """See the module.

    Args:
        open_one: opens an address, or the path of a file, with its slip.
        open_snippet: fills a slip from a piece of text.
        window: over which the pages open.
    """

    def __init__(
        self,
        desk: StationContext,
        open_one: Callable[[str], object],
        open_snippet: Callable[[str, str, str], object],
        window: QWidget,
    ) -> None:
        self.desk, self.open_one, self.window = desk, open_one, window
        self.soon, self.again = timer(window, self.fill_later), timer(window, self.fill_later)
        desk.bridge.lists_changed.connect(lambda number, _items: self.soon.start(SOON_MS) if not number else None)
        self.arriving = Arriving(desk.bridge, open_one, self.show_start, open_snippet, desk.complain)

    def show_start(self, name: str, found: "UnderstoodList", place: str = "") -> None:
        """Shows what was understood of a list, before it starts."""
        from wily_magpie.qt.list_pages import ListStartPage  # seldom needed

        self.page: QWidget = ListStartPage(self.desk, name, found, self.start, place, self.window)
        self.page.show()

    def start(self, number: int) -> None:
        """Starts a list; at its end the desktop says so where the window is not in front."""
        self.desk.bridge.start_list(number, self._on_ended)

    def open(self, number: int) -> None:
        """Shows how far a list is."""
        from wily_magpie.qt.list_pages import ListPage  # as above

        self.page = ListPage(self.desk, number, self.open_one, self.window)
        self.page.show()

    def ask_files(self) -> None:
        """Has files chosen: lists of addresses, mailboxes, pages."""
        given, _ = QFileDialog.getOpenFileNames(self.window, "A list of addresses", "", FORMS)
        if given:
            self.arriving.take_files([Path(one) for one in given])

    def take_given(self, paths: Sequence[Path], place: str) -> None:
        """Takes in what is in some files and folders: e-mails are kept at once, of addresses it is shown first what they are."""
        from wily_magpie.core.commands.lists import MakeList
        from wily_magpie.core.entries.capture_list import ListWanted
        from wily_magpie.core.exchange.given_files import understood_files

        name = paths[0].name if len(paths) == 1 else f"{len(paths)} files"

        def done(found: "UnderstoodList") -> None:
            if any(address.startswith(("http://", "https://")) for address, _ in found.addresses):
                self.show_start(name, found, place)
            else:
                self.desk.bridge.do(MakeList(name, found.addresses, ListWanted(place=place)), self.start)

        self.desk.bridge.ask(lambda _reader: understood_files(paths), done)

    def take_clipboard(self) -> None:
        """Takes what lies in the clipboard: an address, several, files, or a text."""
        clipboard = QApplication.clipboard()
        data = clipboard.mimeData() if clipboard is not None else None
        if data is None or not self.arriving.take(from_mime(data)):
            self.desk.say(NOTHING_THERE, ())

    def fill_later(self) -> None:
        """Fills what was kept by its address alone, in the background."""

        def told(lists: "Sequence[CaptureList]") -> None:
            for one in lists:
                if one.wanted.is_later and one.left and not self.desk.bridge.is_list_going(one.id):
                    self.desk.bridge.start_list(one.id, lambda _number: self.again.start(AGAIN_MS))

        if not self.desk.overview.is_read_only:
            self.desk.bridge.ask(lambda reader: reader.lists.all(), told)

    def say_interrupted(self) -> None:
        """Says which list was interrupted when the program ended; what is kept for later goes on by itself."""
        self.fill_later()

        def told(lists: "Sequence[CaptureList]") -> None:
            left = [one for one in lists if one.left and not one.wanted.is_later]
            if left:
                first = left[0]
                text = f"{first.label} was interrupted: {first.left:,} of {first.total:,} still wait."
                self.desk.say(text, (("Go on", lambda: self.start(first.id)), ("Show", lambda: self.open(first.id))))

        if not self.desk.overview.is_read_only:
            self.desk.bridge.ask(lambda reader: reader.lists.interrupted(), told)

    def _on_ended(self, number: int) -> None:
        def told(whole: "CaptureList | None") -> None:
            if whole is None:
                return
            text = f"{whole.label}: {whole.in_words}."
            self.desk.say(text, (("Show", lambda: self.open(number)),))
            if not self.window.isActiveWindow():
                notify("A list is captured", text)

        self.desk.bridge.ask(lambda reader: reader.lists.find(number), told)
