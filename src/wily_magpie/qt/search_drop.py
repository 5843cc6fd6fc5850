"""What drops down below the address line while words are typed: places, views, commands and entries, told apart, best first."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from wily_magpie.core.pages.address import looks_like_address
from wily_magpie.core.queries.search import Hit, SearchAnswer, understood
from wily_magpie.qt.finder import Choice
from wily_magpie.qt.hits import HIT_ROLE, add_hits, list_of_hits
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import label, timer

REST_MS, FEWEST_SIGNS, MOST_HITS, MOST_NAMES = 120, 2, 8, 4
CHOICE_ROLE = HIT_ROLE + 1
HIGHEST_PX, ROOM_PX = 640, 40


class SearchDrop(QFrame):
    """See the module.

    Args:
        line: the address line. names: gives the places, views and commands that can be gone to.

    Signals:
        hit_chosen: a hit, and what was looked for.
    """

    hit_chosen = pyqtSignal(object, object)

    def __init__(
        self, desk: StationContext, line: QLineEdit, names: Callable[[], Sequence[Choice]], window: QWidget
    ) -> None:
        super().__init__(window)
        self.desk, self.line, self.names = desk, line, names
        self.asking = LastAsked(desk.bridge)
        self.answer: SearchAnswer | None = None
        self.setObjectName("drop")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 1, 1, 1)
        column.setSpacing(0)
        self.list: QListWidget = list_of_hits("Found while typing")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.itemClicked.connect(self.choose)
        self.foot = label("")
        self.foot.setContentsMargins(10, 5, 10, 6)
        column.addWidget(self.list, 1)
        column.addWidget(self.foot)
        self.hide()
        self.rest = timer(self, self.look)
        line.textEdited.connect(self.take_edit)
        line.installEventFilter(self)

    def take_edit(self, text: str) -> None:
        """The line was edited."""
        words = text.strip()
        if len(words) < FEWEST_SIGNS or looks_like_address(words):
            self.close_drop()
        else:
            self.rest.start(REST_MS)

    def close_drop(self) -> None:
        """Goes away; what is still asked for comes too late."""
        self.rest.stop()
        self.asking.forget()
        self.hide()

    def look(self) -> None:
        """Asks for what is typed so far."""
        text = self.line.text()
        wanted = understood(text, is_open=True)

        def take(answer: SearchAnswer) -> None:
            if self.line.hasFocus():
                self.show_answer(text, answer)

        self.asking.ask(lambda reader: reader.search.find(wanted, MOST_HITS), take)

    def show_answer(self, text: str, answer: SearchAnswer) -> None:
        """Shows what was found."""
        self.answer = answer
        self.list.clear()
        words = text.casefold().split()
        names = [one for one in self.names() if all(word in one.label.casefold() for word in words)]
        for choice in names[:MOST_NAMES]:
            item = QListWidgetItem(f"{choice.label}\n{choice.kind}")
            item.setData(CHOICE_ROLE, choice)
            self.list.addItem(item)
        add_hits(self.list, answer.hits)
        shown = len(answer.hits)
        told = f"{shown} of {answer.total:,} shown" if answer.total > shown else f"{answer.total:,} found"
        unread = f" · {answer.unread:,} entries are still being read for this" if answer.unread else ""
        cut = f" · {answer.wanted.told}" if answer.wanted.told else ""
        self.foot.setText(f"{told}{unread}{cut} · Enter shows all, with what they can be narrowed by")
        self.place()
        self.show()
        self.raise_()

    def place(self) -> None:
        """Stands below the line."""
        window = self.parentWidget()
        if window is None:
            return
        at = self.line.mapTo(window, QPoint(0, self.line.height() + 2))
        rows = sum(self.list.sizeHintForRow(row) for row in range(self.list.count()))
        high = min(HIGHEST_PX, rows + 6 + self.foot.sizeHint().height(), window.height() - at.y() - ROOM_PX)
        self.setGeometry(at.x(), at.y(), self.line.width(), max(60, high))

    def choose(self, item: QListWidgetItem | None) -> None:
        """Goes to what was chosen."""
        if item is None:
            return
        hit, choice, answer = item.data(HIT_ROLE), item.data(CHOICE_ROLE), self.answer
        self.close_drop()
        if isinstance(hit, Hit) and answer is not None:
            self.hit_chosen.emit(hit, answer.wanted)
        elif isinstance(choice, Choice):
            choice.run()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Arrows go through what was found, Enter goes to it, Escape and leaving the line close it."""
        if event is not None and event.type() == QEvent.Type.FocusOut:
            self.close_drop()
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress or not self.isVisible():
            if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in ENTERS:
                self.close_drop()
            return super().eventFilter(watched, event)
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if step:
            row = self.list.currentRow() + step
            self.list.setCurrentRow(max(-1, min(row, self.list.count() - 1)))
            return True
        if event.key() == Qt.Key.Key_Escape:
            self.close_drop()
            return True
        if event.key() in ENTERS:
            if self.list.currentRow() >= 0:
                self.choose(self.list.currentItem())
                return True
            self.close_drop()
        return super().eventFilter(watched, event)


ENTERS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
