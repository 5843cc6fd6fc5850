"""The tray: slips that wait to be finished, captures and other long work going on, with progress, cancel and retry."""

from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QDateTime, QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from wily_magpie.core import commands
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.session.jobs import Job, State
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import WrappedLabel, icon_button, label, tell_rest, thin_bar, timer
from wily_magpie.qt.style.theme import THEME

if TYPE_CHECKING:
    from wily_magpie.core.entries.capture_list import CaptureList
    from wily_magpie.core.entries.waiting import WaitingDraft

WIDTH_PX, MOST_DRAFTS, MOST_LISTS, MOST_JOBS = 440, 12, 6, 12
ASK_MS = 300
"""How soon after a list went on it is counted again."""


class TrayPanel(QFrame):
    """The list of jobs, under the tray's button."""

    def __init__(self, bridge: Bridge, tray: "TrayButton") -> None:
        super().__init__(tray, Qt.WindowType.Popup)
        self.setObjectName("card")
        self.bridge, self.tray = bridge, tray
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(10)

    def fill(self) -> None:
        """Lists the drafts, then the jobs, the newest first."""
        clear(self.column)
        drafts = self.tray.drafts
        if drafts:
            self.column.addWidget(label("Slips that you have begun and not kept yet"))
        for draft in drafts[:MOST_DRAFTS]:
            self.column.addWidget(self.draft_row(draft))
        tell_rest(self.column, len(drafts), MOST_DRAFTS, ", touched before these")
        lists = self.tray.lists
        if lists:
            self.column.addWidget(label("Lists of addresses"))
        for one in lists[:MOST_LISTS]:
            self.column.addWidget(self.list_row(one))
        tell_rest(self.column, len(lists), MOST_LISTS, ", made before these")
        of_lists = set(self.bridge.list_jobs.values())
        jobs = sorted((job for job in self.bridge.jobs() if job not in of_lists), key=lambda job: -job.number)
        if not jobs and not lists:
            self.column.addWidget(label("Nothing is going on in the background."))
        for job in jobs[:MOST_JOBS]:
            self.column.addWidget(self.row(job))
        tell_rest(self.column, len(jobs), MOST_JOBS, ", begun before these")
        self.setFixedWidth(WIDTH_PX)
        self.adjustSize()

    def draft_row(self, draft: "WaitingDraft") -> QWidget:
        """One slip that waits."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        grid.addWidget(WrappedLabel(draft.title), 0, 0)
        about = f"{host_of(draft.address)}, left {local_minute(draft.touched)}"
        grid.addWidget(label(about, "reason"), 1, 0)
        go_on = QPushButton("Go on")
        go_on.clicked.connect(lambda: self.go_on(draft))
        put_aside = icon_button("x", f"Drop this draft: {draft.title}", lambda: self.tray.drop(draft))
        grid.addWidget(go_on, 0, 1, 2, 1)
        grid.addWidget(put_aside, 0, 2, 2, 1)
        grid.setColumnStretch(0, 1)
        return box

    def list_row(self, one: "CaptureList") -> QWidget:
        """One list."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        grid.addWidget(WrappedLabel(one.label), 0, 0)
        grid.addWidget(label(one.in_words, "reason", wraps=True), 1, 0)
        if self.bridge.is_list_going(one.id):
            bar = thin_bar(one.total)
            bar.setValue(one.total - one.left)
            grid.addWidget(bar, 2, 0)
        show = QPushButton("Show")
        show.clicked.connect(lambda: self.open_list(one))
        drop = icon_button(
            "x", f"Forget this list: {one.label}", lambda: self.bridge.do(commands.lists.DropList(one.id))
        )
        drop.setEnabled(not self.bridge.is_list_going(one.id))
        grid.addWidget(show, 0, 1, 2, 1)
        grid.addWidget(drop, 0, 2, 2, 1)
        grid.setColumnStretch(0, 1)
        return box

    def open_list(self, one: "CaptureList") -> None:
        """Shows how far a list is."""
        self.hide()
        self.tray.open_list(one.id)

    def go_on(self, draft: "WaitingDraft") -> None:
        """Opens the slip as it was left."""
        self.hide()
        self.tray.open_draft(draft.address)

    def row(self, job: Job) -> QWidget:
        """One job."""
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(2)
        name = WrappedLabel(job.label)
        grid.addWidget(name, 0, 0)
        if not job.is_over:
            bar = thin_bar(job.total)
            bar.setValue(job.done)
            grid.addWidget(bar, 1, 0)
            button = QPushButton("Cancel")
            button.clicked.connect(lambda _checked: job.cancel())
            button.setEnabled(not job.is_settled)
            if job.is_settled:
                button.setToolTip("What it does is being kept; that can no more be stopped.")
            grid.addWidget(button, 0, 1, 2, 1)
            return box
        words = {State.DONE: "done", State.CANCELLED: "cancelled", State.FAILED: str(job.error or "failed")}
        said = words.get(job.state, "")
        if job.state is State.DONE and job.came_too_late:
            said = "done; it was too late to cancel it"
        state = WrappedLabel(said)
        state.setObjectName("problem" if job.state is State.FAILED else "reason")
        grid.addWidget(state, 1, 0)
        if job.state is State.DONE:
            return box
        button = QPushButton("Try again")
        button.clicked.connect(lambda: self.bridge.retry(job.number))
        button.clicked.connect(self.fill)
        grid.addWidget(button, 0, 1, 2, 1)
        return box


class TrayButton(QToolButton):
    """Shows how many jobs go on, with a ring of their progress, how many failed, and how many slips wait.

    Args:
        open_draft: opens the page of a draft; open_list: shows how far a list is; say: shows a notice.
    """

    def __init__(
        self,
        bridge: Bridge,
        open_draft: Callable[[str], None],
        open_list: Callable[[int], None],
        say: Callable[[str, Sequence[tuple[str, Callable[[], object]]]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.bridge, self.open_draft, self.open_list, self.say = bridge, open_draft, open_list, say
        self.asking = LastAsked(bridge)
        self.drafts: Sequence[WaitingDraft] = ()
        self.lists: Sequence[CaptureList] = ()
        self.setAccessibleName("Tray: work in the background")
        self.setToolTip("Work in the background")
        THEME.set_icon(self, "tray")
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.clicked.connect(self.open)
        bridge.job_changed.connect(lambda _number: self.refresh())
        bridge.drafts_changed.connect(self.ask_drafts)
        bridge.lists_changed.connect(lambda _number, _items: self.asks.start(ASK_MS))
        self.asks = timer(self, self.ask_drafts)
        self.refresh()

    def ask_drafts(self) -> None:
        """Asks which slips and lists wait."""
        self.asking.ask(lambda reader: (reader.drafts.waiting(), reader.lists.all()), self.show_waiting)

    def show_waiting(self, waiting: "tuple[Sequence[WaitingDraft], Sequence[CaptureList]]") -> None:
        """Shows how many wait."""
        self.drafts, self.lists = waiting
        self.refresh()

    def drop(self, draft: "WaitingDraft") -> None:
        """Drops a draft; the notice's button brings it back."""
        back = ("Bring it back", lambda: self.bridge.do(commands.drafts.DropDraft(draft.address, is_dropped=False)))
        self.bridge.do(
            commands.drafts.DropDraft(draft.address),
            lambda _none: self.say(f"The draft of “{draft.title}” is dropped.", (back,)),
        )

    @cached_property
    def panel(self) -> TrayPanel:
        """The list."""
        return TrayPanel(self.bridge, self)

    def refresh(self) -> None:
        """Counts anew."""
        jobs = self.bridge.jobs()
        for job in [job for job in jobs if job.state in (State.DONE, State.CANCELLED)][:-8]:
            self.bridge.dismiss(job.number)
        going = [job for job in jobs if not job.is_over]
        failed = [job for job in jobs if job.state is State.FAILED]
        self.share = sum(job.done / job.total for job in going if job.total) / len(going) if going else 0.0
        self.is_going = bool(going)
        waiting = f"{len(self.drafts)} begun" if self.drafts else ""
        self.setText(f"{len(going)} going" if going else f"{len(failed)} failed" if failed else waiting or "Tray")
        self.update()
        if "panel" in self.__dict__ and self.panel.isVisible():
            self.panel.fill()

    def open(self) -> None:
        """Opens the list."""
        self.panel.fill()
        self.panel.move(self.mapToGlobal(QPoint(self.width() - WIDTH_PX, self.height() + 2)))
        self.panel.show()

    def sizeHint(self) -> QSize:
        return super().sizeHint().expandedTo(QSize(84, 30))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.is_going:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(THEME.colours.petrol), 2))
            ring = QRectF(4, self.height() / 2 - 10, 20, 20)
            painter.drawArc(ring, 90 * 16, -round(max(0.05, self.share) * 360 * 16))


def local_minute(moment: str) -> str:
    """A moment in the time of this place, to the minute."""
    read = QDateTime.fromString(moment, Qt.DateFormat.ISODate)
    return read.toLocalTime().toString("yyyy-MM-dd HH:mm")
