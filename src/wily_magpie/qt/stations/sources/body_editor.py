"""The editor of an entry's text in Markdown: keeps what it is left with, and gives up nothing that is being typed."""

from collections.abc import Callable

from PyQt6.QtGui import QTextCursor
from PyQt6.QtWidgets import QWidget

from wily_magpie.core.commands.entries import SetBody
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.editors.markdown_editor import MarkdownEditor
from wily_magpie.qt.station_context import StationContext


class BodyEditor(MarkdownEditor):
    """Of one entry."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__("Text in Markdown", parent)
        self.desk = desk
        self.entry: Entry | None = None
        self.opened = ""
        """What the text was when it was last shown or kept."""
        self.finished.connect(self.keep)
        self.picture_given.connect(self.lay)
        self.setReadOnly(desk.overview.is_read_only)

    def show_entry(self, entry: Entry) -> bool:
        """Shows an entry's text, unless something is being typed into it just now; whether it did."""
        before = self.entry
        is_same = before is not None and (before.place, before.id) == (entry.place, entry.id)
        if is_same and self.text() != self.opened:
            self.entry = entry
            return False
        if is_same and (entry.body or "") == self.opened:
            self.entry = entry
            return False
        if not is_same:
            self.keep()  # of the entry before
        self.entry = entry
        self.opened = entry.body or ""
        where, bar = self.textCursor().position(), self.verticalScrollBar()
        seen = bar.value() if bar is not None else 0
        self.set_text(self.opened)
        if is_same:  # such as a list in it that was filled: one goes on where one is
            cursor = self.textCursor()
            cursor.movePosition(QTextCursor.MoveOperation.End)
            cursor.setPosition(min(where, cursor.position()))
            self.setTextCursor(cursor)
            if bar is not None:
                bar.setValue(seen)
        self.names = self.ask_links if entry.path else None
        self.takes_pictures = bool(entry.path)
        return True

    def ask_links(self, kind: str, typed: str, take: Callable[[list[tuple[str, str]]], None]) -> None:
        """Asks what a link that is being written could lead to."""
        entry = self.entry
        if entry is not None:
            self.desk.bridge.ask(lambda reader: reader.notes.offers(entry, kind, typed), take)

    def lay(self, content: bytes, name: str) -> None:
        """Lays a picture that was pasted into the note's folder, and has the text show it where the cursor is."""
        from wily_magpie.core.commands.notes import LayFile  # seldom needed

        entry = self.entry
        if entry is not None:
            command = LayFile(entry.place, entry.id, name, content)
            self.desk.bridge.do(command, lambda link: self.textCursor().insertText(link))

    def keep(self) -> None:
        """Keeps the text; what another program wrote meanwhile is merged in, or said."""
        if self.entry is None or self.text() == self.opened:
            return
        entry, text, opened = self.entry, self.text(), self.opened
        self.opened = text

        def failed(error: MagpieError) -> None:
            if self.entry is not None and (self.entry.place, self.entry.id) == (entry.place, entry.id):
                self.opened = opened  # it is still to be kept
            self.desk.complain(error)

        command = SetBody(entry.place, entry.id, text, opened)
        self.desk.bridge.do(command, lambda said: self.desk.say(said, ()) if said else None, failed)
