"""What is asked for again and again, of which only what was asked last counts."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeVar

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.bridge import Bridge

if TYPE_CHECKING:
    from wily_magpie.core.capture.run import CaptureRun

T = TypeVar("T")
Failed = Callable[[MagpieError], object]


class LastAsked:
    """One thing that is asked for whenever it may have changed: the answer to what was asked before it is passed over.

    Questions are answered on several threads, so that an earlier one may be answered after a later one: what it says is past.
    """

    def __init__(self, bridge: Bridge) -> None:
        self.bridge = bridge
        self.number = 0

    def ask(self, query: Callable[[Reader], T], done: Callable[[T], object], failed: Failed | None = None) -> None:
        """Asks, as the bridge does."""
        self.number += 1
        self.bridge.ask(query, self.if_last(done), self.if_last(failed or self.complain))

    def work(
        self, work: "Callable[[CaptureRun], T]", done: Callable[[T], object], failed: Failed | None = None
    ) -> None:
        """Does work, as the bridge does."""
        self.number += 1
        self.bridge.work(work, self.if_last(done), self.if_last(failed or self.complain))

    def forget(self) -> None:
        """What was asked is not wanted any more."""
        self.number += 1

    def complain(self, error: MagpieError) -> None:
        """What is said where nobody else is told of what failed."""
        self.bridge.complain(error)

    def if_last(self, act: Callable[[Any], object]) -> Callable[[Any], object]:
        """Does something with an answer, if nothing was asked meanwhile."""
        number = self.number
        return lambda answer: act(answer) if number == self.number else None
