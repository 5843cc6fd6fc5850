"""The part of the settings page about the companion: which browsers it is set up for, which have called; set up, tried."""

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wily_magpie.core.companion import desktop
from wily_magpie.core.companion.browsers import BROWSERS, Companion
from wily_magpie.core.errors import MagpieError
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import WrappedLabel, button, in_row, label

ABOUT = (
    "Keeps pages from your own browser, as you see them there. Nothing listens on the network: the browser starts it."
)


class CompanionPart(QWidget):
    """See the module."""

    def __init__(self, bridge: Bridge, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bridge, self.asking = bridge, LastAsked(bridge)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(label(ABOUT, "reason", wraps=True))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(8)
        column.addLayout(self.rows)
        self.install, self.attempt = button("Set it up", self.set_up), button("Try it", self.try_it)
        for one in (self.install, self.attempt):
            one.setAutoDefault(False)  # Enter in a setting is no press of it
        column.addLayout(in_row(self.install, self.attempt))
        self.told = label("", "reason", wraps=True)
        column.addWidget(self.told)
        self.refresh()

    def refresh(self) -> None:
        """Looks how it stands."""
        self.asking.ask(lambda _reader: Companion().status(), self.show_status, self.refuse)

    def show_status(self, found: Sequence[dict[str, Any]]) -> None:
        """Shows how it stands with each browser."""
        clear(self.rows)
        for one in found:
            self.rows.addWidget(self.row(one))
        if not found:
            self.rows.addWidget(label("No browser was found that it is for.", "reason"))
        is_set_up = any(one["is_set_up"] for one in found)
        self.install.setText("Set it up anew" if is_set_up else "Set it up")
        self.attempt.setEnabled(is_set_up)

    def row(self, one: dict[str, Any]) -> QWidget:
        """One browser."""
        if one["called"]:
            said = f"connected, called last on {one['called'][:16].replace('T', ' ')} UTC (companion {one['version']})"
        elif one["is_set_up"]:
            steps = " ".join(f"{number}. {step.rstrip('.')}." for number, step in enumerate(one["steps"], 1))
            said = f"ready on this side, and has not called yet. In {one['name']}: {steps}"
        else:
            said = one["fault"]
        row = WrappedLabel(f"{one['name']}: {said}")
        row.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        row.setAccessibleName(f"{one['name']} and the companion")
        return row

    def set_up(self) -> None:
        """Writes what browsers need."""

        def work() -> None:
            Companion().install(None, [one for one in BROWSERS if one.is_there])
            desktop.install()

        self.bridge.write(work, lambda _none: self.refresh(), self.refuse)

    def try_it(self) -> None:
        """Starts the host as a browser would."""
        self.told.setText("Trying …")

        def done(answer: tuple[str, float]) -> None:
            where = f"the library “{answer[0]}”" if answer[0] else "your library"
            self.told.setText(f"It answers within {answer[1]:.1f} s. Pages go to {where}.")

        self.bridge.ask(lambda _reader: Companion().tried(), done, self.refuse)

    def refuse(self, error: MagpieError) -> None:
        """Says what failed."""
        self.told.setText(str(error))
