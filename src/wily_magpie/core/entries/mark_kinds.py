"""The kinds of mark that a person uses: their names, colours and patterns, in the order of the keys 1 to 9.

A kind a line: `evidence: petrol wash`. A passage is told apart by its pattern as well as by its colour.
"""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark import KINDS
from wily_magpie.core.errors import UserError

COLOURS = ("petrol", "brass", "alarm", "moss", "slate")
PATTERNS = ("wash", "double", "wavy", "dotted", "dashed", "solid")
MOST_KINDS = 9


@dataclass(frozen=True)
class MarkKind:
    """One kind.

    Attributes:
        colour: one of COLOURS; pattern: one of PATTERNS.
    """

    name: str
    colour: str = "slate"
    pattern: str = "dashed"


USUAL = tuple(map(MarkKind, KINDS, COLOURS, PATTERNS))
"""What holds where a person has said nothing."""


def write_kinds(kinds: tuple[MarkKind, ...]) -> str:
    """Kinds as they are edited."""
    return "\n".join(f"{one.name}: {one.colour} {one.pattern}" for one in kinds)


def read_kinds(text: str) -> tuple[MarkKind, ...]:
    """Kinds from their lines; a colour and a pattern that are not said are the next ones that are free.

    Raises:
        UserError: a line is none, or there are too many.
    """
    kinds: list[MarkKind] = []
    for line in filter(None, map(str.strip, text.splitlines())):
        name, _, look = line.partition(":")
        words = look.casefold().split()
        strange = [word for word in words if word not in (*COLOURS, *PATTERNS)]
        if strange or not name.strip() or name.strip() in [one.name for one in kinds]:
            raise UserError(
                "bad-mark-kind", f"“{line[:80]}” is no kind of mark.",
                f"Write a line like “evidence: petrol wash”, each name once. Colours: {', '.join(COLOURS)}; "
                f"patterns: {', '.join(PATTERNS)}.",
            )  # fmt: skip
        colour = next((word for word in words if word in COLOURS), COLOURS[len(kinds) % len(COLOURS)])
        pattern = next((word for word in words if word in PATTERNS), PATTERNS[len(kinds) % len(PATTERNS)])
        kinds.append(MarkKind(name.strip(), colour, pattern))
    if len(kinds) > MOST_KINDS:
        raise UserError("bad-mark-kind", f"There can be {MOST_KINDS} kinds of mark at most.", "Take some out.")
    return tuple(kinds) or USUAL
