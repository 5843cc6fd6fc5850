"""How kept texts look, as the person has it: face, size, measure, height of lines, ground."""

from dataclasses import replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.settings.known import (
    READING_FACE,
    READING_GROUND,
    READING_HYPHENS,
    READING_INDENT,
    READING_LINE,
    READING_MEASURE,
    READING_SIZE,
)
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import (
    DARK,
    DYSLEXIA_FONT,
    LIGHT,
    MEASURE_CHARACTERS,
    MONO_FONT,
    READING_FONT,
    READING_SIZE_PT,
    UI_FONT,
    Colours,
)

PREVIEW_LINE = 115
"""Of a text that is shown small beside something else."""
FACES = {"serif": READING_FONT, "sans": UI_FONT, "mono": MONO_FONT, "for dyslexia": DYSLEXIA_FONT}
GROUNDS = {
    "paper": replace(LIGHT, card=LIGHT.ground),
    "white": LIGHT,
    "grey": replace(
        LIGHT, card="#DEDEDC", ground="#D2D2CF", slate="#434C56", brass="#6E4B00", wash="#BFD9DC", rule="#ACABA6"
    ),
    "dark": DARK,
}
"""The colours on each ground, which is their card; every text has a contrast of at least 4.5 : 1 on it."""


@dataclass(frozen=True)
class ReadingLook:
    """See the module.

    Attributes:
        face: the name of the font; size_pt: of its letters, in points.
        measure: letters a line at most; line_percent: the height of a line.
        ground: one of GROUNDS; "" as the window is.
        is_indented: whether paragraphs begin further in, rather than with a space above; has_hyphens: whether words are parted.
    """

    face: str = READING_FONT
    size_pt: float = READING_SIZE_PT
    measure: float = MEASURE_CHARACTERS
    line_percent: float = 145
    ground: str = ""
    is_indented: bool = False
    has_hyphens: bool = False

    @classmethod
    def of(cls, person: PersonSettings) -> "ReadingLook":
        """As the person has it."""
        size, measure, line = (float(str(person.value(one))) for one in (READING_SIZE, READING_MEASURE, READING_LINE))
        face, ground = str(person.value(READING_FACE)), str(person.value(READING_GROUND))
        indented, hyphens = (person.value(one) == "yes" for one in (READING_INDENT, READING_HYPHENS))
        return cls(FACES[face], size, measure, line, ground if ground in GROUNDS else "", indented, hyphens)

    @property
    def colours(self) -> Colours:
        """Of text and ground."""
        return GROUNDS.get(self.ground, THEME.colours)
