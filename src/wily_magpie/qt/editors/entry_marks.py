"""All marks of an entry, one below the other; each can be changed, taken away, and looked up in the text."""

from collections.abc import Collection, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wily_magpie.core.commands.marks import ChangeMark, PutMark, RemoveMark
from wily_magpie.core.entries.mark import Mark, proposal
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.editors.mark_row import MarkRow
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import label, text_button
from wily_magpie.qt.style.theme import THEME

MARGIN_PX = 12


class EntryMarks(QWidget):
    """See the module.

    Signals:
        pointed: a mark that is to be shown in the text.
    """

    pointed = pyqtSignal(object)

    def __init__(self, bridge: Bridge, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bridge = bridge
        self.place, self.entry_id = "", 0
        self.shown: object = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.head = label("Marks")
        column.addWidget(self.head)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(10)
        column.addLayout(self.rows)

    def show_marks(
        self, place: str, entry_id: int, marks: Sequence[Mark], lost: Collection[Mark] = (), text: str = ""
    ) -> None:
        """Shows the marks of an entry.

        Args:
            lost: those of them whose words do not stand in the text any more; they come last.
            text: in which it is proposed where these may stand now, without signs of Markdown.
        """
        asked = (place, entry_id, tuple(marks), tuple(lost), LOOKS.kinds, THEME.colours)
        if asked == self.shown:
            return  # a comment that is being typed is not taken away
        self.shown = asked
        self.place, self.entry_id = place, entry_id
        clear(self.rows)
        self.head.setText(f"Marks: {len(marks)}" if marks else "No marks yet")
        placed = [mark for mark in marks if mark not in lost]
        for mark in placed:
            self.add(mark)
        if lost:
            self.rows.addWidget(label("Lost their place in the text, which was changed:", "reason", wraps=True))
        for mark in lost:
            self.add(mark)
            self.propose(mark, text)

    def add(self, mark: Mark) -> None:
        """A row more."""
        row = MarkRow(mark)
        row.changed.connect(self.change)
        row.removed.connect(self.remove)
        row.pointed.connect(self.pointed)
        row.setEnabled(not self.bridge.overview.is_read_only)
        self.rows.addWidget(row)

    def propose(self, mark: Mark, text: str) -> None:
        """Says where a mark that lost its place may stand now, and puts it there where that is wanted."""
        place, entry_id = self.place, self.entry_id
        box, shown = QWidget(), self.shown
        column = QVBoxLayout(box)
        column.setContentsMargins(MARGIN_PX, 0, 0, 0)
        self.rows.addWidget(box)
        box.hide()

        def done(found: Mark | None) -> None:
            if found is None or shown is not self.shown:
                return
            column.addWidget(label(f"Perhaps here now: “{' '.join(found.exact.split())}”", wraps=True))
            put = text_button("Put it there", "", lambda: self.bridge.do(ChangeMark(place, entry_id, mark, found)))
            put.setEnabled(not self.bridge.overview.is_read_only)
            column.addWidget(put, 0, Qt.AlignmentFlag.AlignLeft)
            box.show()

        self.bridge.ask(lambda _reader: proposal(mark, text), done)

    def change(self, mark: Mark) -> None:
        """Keeps another comment or kind."""
        self.bridge.do(PutMark(self.place, self.entry_id, mark))

    def remove(self, mark: Mark) -> None:
        """Takes a mark away; undo brings it back."""
        self.bridge.do(RemoveMark(self.place, self.entry_id, mark))
