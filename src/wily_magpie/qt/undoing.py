"""Steps taken back and done again from the window, and what is said of how that ended."""

from collections.abc import Callable

from wily_magpie.core import commands
from wily_magpie.core.entries.step import Moved
from wily_magpie.core.errors import MagpieError, StuckStep
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.notice import Notice


class Undoing:
    """See the module.

    Args:
        notice: says how it ended.
        complain: tells of what failed otherwise.
    """

    def __init__(self, bridge: Bridge, notice: Notice, complain: Callable[[MagpieError], None]) -> None:
        self.bridge, self.notice, self.complain = bridge, notice, complain

    def undo_label(self) -> str:
        """The name of undo now."""
        step = self.bridge.overview.undo
        return f"Undo: {step.label}" if step is not None else "Undo"

    def redo_label(self) -> str:
        """The name of redo now."""
        step = self.bridge.overview.redo
        return f"Redo: {step.label}" if step is not None else "Redo"

    def undo(self, number: int | None = None) -> None:
        """Takes a step back; None: the last one of this window."""
        self.bridge.do(commands.history.Undo(number), self._on_undone, self._on_stuck)

    def redo(self, number: int | None = None) -> None:
        """Does the step undone last again."""
        self.bridge.do(commands.history.Redo(number), self._on_done_again)

    def _on_undone(self, moved: Moved | None) -> None:
        if moved is None:
            self.notice.show_text("There is nothing to undo.")
        elif moved.left:
            left = ", ".join(moved.left)
            self.notice.show_text(f"Undone in part: {moved.step.label}. Left as it is: {left}.")
        else:
            self.notice.show_text(f"Undone: {moved.step.label}", (("Redo", lambda: self.redo(moved.step.id)),))

    def _on_done_again(self, moved: Moved | None) -> None:
        if moved is None:
            self.notice.show_text("There is nothing to do again.")
        else:
            self.notice.show_text(f"Done again: {moved.step.label}", (("Undo", lambda: self.undo(moved.step.id)),))

    def _on_stuck(self, error: MagpieError) -> None:
        """A step that cannot be taken back as a whole does not stand in the way of those behind it."""
        if not isinstance(error, StuckStep):
            self.complain(error)
            return
        number = error.step
        passed = lambda step: self.notice.show_text(said_of_passed(step.label))  # noqa: E731
        buttons = (
            (
                "Take back the rest",
                lambda: self.bridge.do(commands.history.Undo(number, in_part=True), self._on_undone),
            ),
            ("Pass it over", lambda: self.bridge.do(commands.history.PassOver(number), passed)),
        )
        self.notice.show_text(error.message, buttons, is_problem=True)


def said_of_passed(label: str) -> str:
    """What is said of a step that was passed over."""
    return f"Passed over: {label}. What lies behind it can be undone."
