"""How each kind of mark looks, wherever marks are seen: a colour and a pattern, as the person has them."""

from wily_magpie.core.entries.mark_kinds import USUAL, MarkKind


class MarkLooks:
    """The kinds that are in use; one that is not among them, of another library or of before, has a look of its own."""

    def __init__(self) -> None:
        self.kinds: tuple[MarkKind, ...] = USUAL

    @property
    def names(self) -> tuple[str, ...]:
        """In the order of their keys."""
        return tuple(one.name for one in self.kinds)

    def of(self, name: str) -> MarkKind:
        """The look of a kind."""
        return next((one for one in self.kinds if one.name == name), MarkKind(name))


LOOKS = MarkLooks()
