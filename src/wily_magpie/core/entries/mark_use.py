"""That a mark was used: its words went into another text."""

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class MarkUse:
    """See the module.

    Attributes:
        title: of the text; "" where it went outside, by the clipboard or by dragging.
        at: the moment, ISO 8601.
        place: the key of the place of the text, "" outside.
    """

    title: str
    at: str
    place: str = ""

    @property
    def told(self) -> str:
        """Where and when, in words."""
        return f"{self.title or 'copied'}, {self.at[:10]}"
