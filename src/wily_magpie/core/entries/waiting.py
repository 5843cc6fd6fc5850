"""A draft that waits: a slip that was touched and is not kept yet, as the tray lists it."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class WaitingDraft:
    """One of them.

    Attributes:
        address: of its page, by which it is known.
        title: of its page, as the slip has it.
        touched: when it was touched last, ISO 8601.
    """

    address: str
    title: str
    touched: str
