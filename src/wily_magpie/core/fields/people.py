"""People and organisations, as "Family, Given" or a single name."""

import re

from wily_magpie.core.fields.base import BLANKNESS, MANY_RELATIONS, NAME_SIGNS, PARTS, FieldKind, Value
from wily_magpie.core.patterns import pattern

PARTICLES = {
    "van",
    "von",
    "der",
    "den",
    "de",
    "di",
    "da",
    "du",
    "la",
    "le",
    "ter",
    "ten",
    "zu",
    "af",
    "av",
    "bin",
    "al",
    "del",
    "della",
    "dos",
    "das",
    "do",
    "ibn",
    "ben",
    "vom",
    "zum",
    "zur",
    "het",
}
ORGANISATION = pattern(
    r"\b(museum|university|institute|society|archive|archives|library|press|office|agency|council|trust|association|"
    r"foundation|group|team|staff|committee|department|ministry|company|ltd|inc|gmbh|editors|board|news|gazette|"
    r"courier|journal|project|network|centre|center|bureau|service|record|records|films?|studios?|sons|brothers|verlag|"
    r"redaktion|rundfunk|radio|media|magazine|times|institut|universit\w+|stiftung|verein|llc|plc|union|ministerium|"
    r"zeitung|agentur|agence|agencia|fundación)\b",
    re.IGNORECASE,
)
THINGS = frozenset(
    "letters post mail herald tribune chronicle observer standard guardian independent review reviews report reports blog "
    "weekly daily today online digital press wire weather sports desk editor editorial correspondent correspondents "
    "contributors authors writers reporters admin administrator webmaster web world life science nature history archive "
    "partners works labs lab house club league party church school college academy hospital clinic bank museum gallery "
    "books modern watch welle publishing publications publishers verlage collective alliance initiative fund forum federation rights "
    "standards policy policies "
    "theatre theater orchestra band choir parliament senate court police army navy city town county state commission "
    "international national global digest insider monitor bulletin newsletter podcast channel tv fm".split()
)
"""Last words of names that no person has for a family: "Tide Letters" is not Letters, Tide."""
FIRM = pattern(r"(sons?|brothers|daughters|partners|associates|company|co\.?)", re.IGNORECASE)
"""What follows "and" in the name of a firm rather than the name of another person."""
SUFFIXES = {"jr", "jr.", "sr", "sr.", "ii", "iii", "iv"}


def family_first(name: str) -> str:
    """A name as "Family, Given"; organisations and single names stay as they are.

    >>> family_first("Ada van der Meer")
    'van der Meer, Ada'
    """
    name = " ".join(name.split()).strip(" ,;")
    words = name.split(" ")
    if "," in name or len(words) == 1 or len(words) > 5 or ORGANISATION.search(name) or not name[0].isupper():
        return name
    if "and" in words or "&" in words:  # a firm
        return name
    if words[-1].casefold() in THINGS or words[0].casefold() in ("the", "la", "le", "das", "die", "der"):
        return name
    if any(ord(char) > 0x2E80 for char in name):  # East Asian names already begin with the family
        return name
    tail = [words.pop()] if words[-1].casefold() in SUFFIXES and len(words) > 2 else []
    start = len(words) - 1
    while start > 1 and words[start - 1].casefold() in PARTICLES:
        start -= 1
    return f"{' '.join(words[start:])}, {' '.join(words[:start] + tail)}"


def given_first(name: str) -> str:
    """The same the other way round: "Meer, Ada" becomes "Ada Meer"."""
    family, comma, given = name.partition(", ")
    return f"{given} {family}" if comma and given and "," not in given else name


def split_names(text: str) -> list[str]:
    """The names in a list: parted by semicolons, else by "and" and commas where no comma can be that of one name."""
    if ";" in text:
        return text.split(";")
    by_and = re.split(r"\s+(?:and|&)\s+", text)
    if any(FIRM.fullmatch(piece.strip()) for piece in by_and[1:]):
        return [text]
    if all(name.count(",") == by_and[0].count(",") <= 1 for name in by_and):
        return by_and
    pieces = [piece.strip() for piece in re.split(r",\s*(?:and\s+|&\s+)?|\s+(?:and|&)\s+", text)]
    return pieces if len(pieces) > 2 and all(" " in piece for piece in pieces if piece) else [text]


class People(FieldKind):
    """Names in order, parted by semicolons; "and" and "&" part names too where no comma stands."""

    name = "people"
    is_people = is_completed = is_told = True
    signs = NAME_SIGNS
    relations = (*MANY_RELATIONS, *PARTS, *BLANKNESS)
    group_steps = ("",)
    is_many = True

    def read(self, text: str) -> Value:
        names = (family_first(name) for name in split_names(text.replace("\0", "").replace("\n", ";")))
        return tuple(dict.fromkeys(name for name in names if name)) or None

    def show(self, value: Value) -> str:
        if not isinstance(value, tuple):
            return ""
        joined = "; ".join(value)
        return (
            joined + ";" if len(value) == 1 and (joined.count(",") > 1 or re.search(r"\s(and|&)\s", joined)) else joined
        )


PEOPLE = People()
