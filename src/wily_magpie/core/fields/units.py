"""What numbers are counted in: currencies and units, and how they are parted from the figures."""

import re
import unicodedata

from wily_magpie.core.patterns import pattern

BLANKS = " '’\u00a0\u2009\u202f"
"""What parts groups of three figures in any country."""
CURRENCIES = {"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY", "₹": "INR", "₽": "RUB", "zł": "PLN", "Fr.": "CHF"}
"""Signs and the codes of ISO 4217 that they are read as."""
LONGEST_UNIT = 20
DIGITS = rf"[+\-\u2212]?\d[\d.,{BLANKS}]*"
PARTED = pattern(rf"(?P<before>[^\d+\-\u2212]*?)\s*(?P<number>{DIGITS})\s*(?P<after>[^\d]*(?:(?<=[A-Za-z])\d)?)")


def figures_and_unit(line: str) -> tuple[str, str]:
    """The figures of a number with its unit, and the unit, "" where there is none; ("", "") where it is no such thing."""
    found = PARTED.fullmatch(line)
    unit = read_unit(found["before"].strip(), found["after"].strip()) if found else None
    return (found["number"], unit) if found and unit is not None else ("", "")


def read_unit(before: str, after: str) -> str | None:
    """The unit that stands before or after a number; before it stand only currencies. None where there is none to be had."""
    is_sign = len(before) == 1 and unicodedata.category(before) == "Sc"
    if before and (after or not (is_sign or before in CURRENCIES or re.fullmatch(r"[A-Z]{3}", before))):
        return None
    unit = before or after
    return CURRENCIES.get(unit, unit.rstrip(".")) if len(unit) <= LONGEST_UNIT else None
