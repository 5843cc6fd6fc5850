"""Files of an entry that can be read or played in the station beside its text: PDF, films, recordings."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QStackedWidget

from wily_magpie.core.commands.reading import NoteStop
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.moments import MOMENT, moment, seconds_of
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.station_context import StationContext

if TYPE_CHECKING:
    from wily_magpie.qt.stations.read.media_view import MediaView
    from wily_magpie.qt.stations.read.pdf_view import PdfView

MEDIA = frozenset(".mp3 .m4a .aac .ogg .oga .opus .flac .wav .mp4 .m4v .webm .mkv .mov .ogv .avi".split())
NO_PLAYER = "Films and sound cannot be played here ({why}); it was given to the program of the system that plays them."


def readable(whole: WholeEntry) -> dict[str, Path]:
    """The files of an entry that can be shown, by their values."""
    return {
        name: path for name, path in whole.files.items() if is_media(name) or Path(name).suffix.casefold() == ".pdf"
    }


def is_media(name: str) -> bool:
    """Whether a file is a film or a recording, by its name."""
    return Path(name).suffix.casefold() in MEDIA


class FilesShown:
    """See the module.

    Args:
        stack: in which they are shown; its second page is the text.
        back: is told that the text is shown again.

    Attributes:
        name: the value of the file that is shown; "" for the text.
    """

    def __init__(self, desk: StationContext, stack: QStackedWidget, back: Callable[[], object]) -> None:
        self.desk, self.stack, self.back = desk, stack, back
        self.name = ""
        self.whole: WholeEntry | None = None
        self.pdf: PdfView | None = None
        self.media: MediaView | None = None

    @property
    def shows_pdf(self) -> bool:
        """Whether a PDF is seen."""
        return bool(self.name) and self.pdf is not None and self.stack.currentWidget() is self.pdf

    @property
    def shows_media(self) -> bool:
        """Whether a film or a recording is seen."""
        return bool(self.name) and self.media is not None and self.stack.currentWidget() is self.media

    def show_entry(self, whole: WholeEntry | None) -> None:
        """The entry that is read; the file of another one is put away."""
        same = self.whole is not None and whole is not None
        same = same and (self.whole.place.key, self.whole.entry.id) == (whole.place.key, whole.entry.id)  # type: ignore[union-attr]
        if not same and self.name:
            self.close()
        self.whole = whole
        if whole is not None and self.shows_pdf and self.pdf is not None:
            self.pdf.show_entry(whole)
        if whole is not None and self.shows_media and self.media is not None:
            self.media.show_entry(whole)

    def open(self, name: str, mark: Mark | None = None) -> None:
        """Shows a file, at a mark, or else where one stopped in it."""
        whole = self.whole
        path = whole.files.get(name) if whole is not None else None
        if whole is None or path is None:
            return
        if Path(name).suffix.casefold() != ".pdf":
            self.play(whole, name, path, mark)
            return
        place, entry = whole.place.key, whole.entry.id

        def work(reader: Reader) -> tuple[bytes, int]:
            return path.read_bytes(), reader.entries.stopped_at(place, entry, name)

        def done(found: tuple[bytes, int]) -> None:
            if self.whole is not None and self.whole.entry.id == entry:
                self.show_pdf(self.whole, name, found[0], found[1], mark)

        self.desk.bridge.ask(work, done, self.desk.complain)

    def show_pdf(self, whole: WholeEntry, name: str, content: bytes, stop: int, mark: Mark | None) -> None:
        """Shows the pages of a PDF."""
        if self.pdf is None:
            from wily_magpie.qt.stations.read.pdf_view import PdfView  # seldom needed

            self.pdf = PdfView(self.desk)
            self.pdf.left.connect(self.close)
            self.stack.addWidget(self.pdf)
        self.stack.setCurrentWidget(self.pdf)  # before its pages are laid out for its size
        if not self.pdf.show_file(whole, content, max(0, stop - 1)):
            self.stack.setCurrentIndex(1)
            return
        self.name = name
        if mark is not None:
            self.pdf.pages.show_mark(mark)

    def play(self, whole: WholeEntry, name: str, path: Path, mark: Mark | None) -> None:
        """Plays a film or a recording here, where the libraries of the system are there, else in the system's player."""
        place, entry = whole.place.key, whole.entry.id
        if self.media is None:
            try:
                from wily_magpie.qt.stations.read.media_view import MediaView
            except ImportError as error:
                QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))
                self.desk.say(NO_PLAYER.format(why=error), ())
                return
            self.media = MediaView(self.desk)
            self.media.left.connect(self.close)
            self.stack.addWidget(self.media)
        media = self.media

        def done(stop: int) -> None:
            self.name = name
            self.stack.setCurrentWidget(media)
            wanted = seconds_of(mark.locator) if mark is not None else None
            media.show_file(whole, str(path), stop if wanted is None else wanted)

        self.desk.bridge.ask(lambda reader: reader.entries.stopped_at(place, entry, name), done)

    def go_to_moment(self, seconds: int, address: str) -> None:
        """Goes to a moment: of the film or recording that is kept, else of the page that it was kept from, in the browser."""
        names = [name for name in readable(self.whole) if is_media(name)] if self.whole is not None else []
        if names:
            self.open(names[0], Mark(moment(seconds), locator=moment(seconds)))
        elif address:
            self.desk.open_outside(f"{address.partition('#')[0]}{MOMENT}{seconds}")
        else:
            self.desk.say("There is no film or recording here to which this moment could lead.", ())

    def note_stop(self) -> None:
        """Notes the page, or the moment, for the next time."""
        if self.whole is None or not self.name or self.desk.overview.is_read_only:
            return
        at = self.pdf.pages.page + 1 if self.shows_pdf and self.pdf is not None else 0
        at = self.media.seconds if self.shows_media and self.media is not None else at
        self.desk.bridge.do(NoteStop(self.whole.place.key, self.whole.entry.id, at, self.name))

    def close(self) -> None:
        """Back to the text."""
        self.note_stop()
        if self.pdf is not None:
            self.pdf.keep_comment()
        if self.media is not None:
            self.media.stop()
        self.name = ""
        self.stack.setCurrentIndex(1)
        self.back()

    def show_mark(self, mark: Mark) -> bool:
        """Goes to a mark in the file that is shown; whether it stands there."""
        if self.shows_pdf and self.pdf is not None:
            return self.pdf.pages.show_mark(mark)
        return self.shows_media and self.media is not None and self.media.show_mark(mark)
