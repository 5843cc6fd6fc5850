"""The colours and measures of the whole window."""

from wily_magpie.core.dataclass import dataclass

UI_FONT = "Atkinson Hyperlegible Next"
READING_FONT = "Source Serif 4"
MONO_FONT = "IBM Plex Mono"
DYSLEXIA_FONT = "OpenDyslexic"
UI_SIZE_PT = 10.5
SMALL_SIZE_PT = 9.0
READING_SIZE_PT = 13.5
MEASURE_CHARACTERS = 68


@dataclass(frozen=True)
class Colours:
    """Ink on paper; every text colour has a contrast of at least 4.5 : 1 on ground and card."""

    ground: str
    card: str
    ink: str
    slate: str
    rule: str
    petrol: str
    wash: str
    brass: str
    alarm: str
    moss: str

    def spine(self, name: str) -> str:
        """The colour of a choice's spine, by the name that its option has."""
        named = {
            "petrol": self.petrol,
            "brass": self.brass,
            "alarm": self.alarm,
            "moss": self.moss,
            "slate": self.slate,
        }
        return named.get(name, self.rule)


LIGHT = Colours(
    ground="#F4F2EC", card="#FFFFFF", ink="#15191E", slate="#515B66", rule="#CFCABF",
    petrol="#0A5C6B", wash="#DCEBEC", brass="#875C00", alarm="#A3261B", moss="#3F6B21",
)  # fmt: skip
DARK = Colours(
    ground="#14181D", card="#1D232A", ink="#ECE9E1", slate="#A9B2BB", rule="#38414B",
    petrol="#6CC3D1", wash="#1B3A42", brass="#E2B458", alarm="#F0897D", moss="#9CC77A",
)  # fmt: skip
