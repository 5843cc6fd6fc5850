"""All settings that there are."""

from collections.abc import Mapping

from wily_magpie.core.entries.mark_kinds import USUAL, MarkKind, read_kinds, write_kinds
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import CHOICE, LONG_TEXT, NUMBER, TEXT, Value
from wily_magpie.core.settings.setting import Setting, find_setting

LOOK = Setting("look", "Look", "Light, dark, or as the system has it.", CHOICE, "system", ("system", "light", "dark"))
READING_SIZE = Setting(
    "reading_size_pt", "Size of kept texts", "Of the letters in Read, in points.", NUMBER, 13.5, (), 8, 32
)
NOTICE_PACE = Setting(
    "notice_letters_a_second", "Pace of notices",
    "How many letters a second you read: notices that need nothing done stay for as long as that takes, and 3 seconds more.",
    NUMBER, 12.0, (), 3, 60,
)  # fmt: skip
DONE_STATUS = Setting(
    "done_status", "Done with it", "The status that an entry gets by Done in Read.", TEXT, "read",
)  # fmt: skip
ASIDE_STATUS = Setting(
    "aside_status", "Left aside", "The status that an entry gets by Leave aside in Read.", TEXT, "left aside",
)  # fmt: skip
READING_FACE = Setting(
    "reading_face", "Face of kept texts", "The letters in Read: with serifs, without, all of one width, or made for dyslexia.",
    CHOICE, "serif", ("serif", "sans", "mono", "for dyslexia"),
)  # fmt: skip
READING_MEASURE = Setting(
    "reading_measure", "Width of kept texts", "How many letters a line has at most in Read.", NUMBER, 68.0, (), 30, 160,
)  # fmt: skip
READING_LINE = Setting(
    "reading_line_percent", "Height of lines", "Of the lines in Read, in percent of the letters.", NUMBER, 145.0, (), 100, 250,
)  # fmt: skip
READING_GROUND = Setting(
    "reading_ground", "Ground of kept texts", "What they stand on in Read, also where the window is otherwise.",
    CHOICE, "as the window", ("as the window", "paper", "white", "grey", "dark"),
)  # fmt: skip
READING_INDENT = Setting(
    "reading_indent", "Indented paragraphs", "Whether paragraphs in Read begin further in, rather than with a space above.",
    CHOICE, "no", ("no", "yes"),
)  # fmt: skip
READING_HYPHENS = Setting(
    "reading_hyphens", "Hyphens",
    "Whether words in Read are parted at the ends of lines, as the entry's language has it, else that of the system.",
    CHOICE, "no", ("no", "yes"),
)  # fmt: skip
QUOTATION = Setting(
    "quotation_pattern", "Quotations",
    "How marks are quoted, as an expression over words, quote, comment, where, cite, title, authors, year, link and others, such as"
    " “{{ quote }} {{ cite }}”; blank for the usual. It is tried while it is typed in the list of all marks.",
    LONG_TEXT, "",
)  # fmt: skip
READING_SETTINGS = (
    READING_FACE,
    READING_SIZE,
    READING_MEASURE,
    READING_LINE,
    READING_INDENT,
    READING_HYPHENS,
    READING_GROUND,
)
PERSON_SETTINGS = (LOOK, *READING_SETTINGS, NOTICE_PACE, DONE_STATUS, ASIDE_STATUS, QUOTATION)
"""The person's, in a file, for all libraries."""

MOST_PICTURES = Setting(
    "pictures_a_page", "Pictures a page", "How many pictures of a page are kept at most with an entry.",
    NUMBER, 40.0, (), 0, 500,
)  # fmt: skip
MOST_STEPS = Setting(
    "steps", "Steps of undo", "How many steps can be undone, also tomorrow; older ones are forgotten.",
    NUMBER, 200.0, (), 10, 5_000,
)  # fmt: skip
MARK_KINDS = Setting(
    "mark_kinds", "Kinds of mark",
    "A line each: its name, a colour and a pattern, such as “evidence: petrol wash”; the keys 1 to 9 in this order.",
    LONG_TEXT, write_kinds(USUAL), check=read_kinds,
)  # fmt: skip
SIGNED_IN = Setting(
    "signed_in_sites", "Stay signed in on",
    "Sites on whose live pages a sign-in lasts beyond this start of the program, one a line: mills.example. Blank forgets all.",
    LONG_TEXT, "",
)  # fmt: skip
LIBRARY_SETTINGS = (MOST_PICTURES, MOST_STEPS, MARK_KINDS, SIGNED_IN)
"""Of a library, in the library: they go with it, and are undone and backed up."""


def value_of(setting: Setting, texts: Mapping[str, str]) -> Value:
    """What holds, where some are set as text; one that cannot be read is as usual."""
    try:
        return setting.read(texts.get(setting.name, ""))
    except UserError:
        return setting.default


def number_of(setting: Setting, texts: Mapping[str, str]) -> float:
    """The same of a number."""
    value = value_of(setting, texts)
    return value if isinstance(value, float) else 0.0


def mark_kinds_of(texts: Mapping[str, str]) -> tuple[MarkKind, ...]:
    """The kinds of mark that hold."""
    return read_kinds(str(value_of(MARK_KINDS, texts)))


__all__ = [
    "ASIDE_STATUS",
    "DONE_STATUS",
    "LIBRARY_SETTINGS",
    "LOOK",
    "MARK_KINDS",
    "MOST_PICTURES",
    "MOST_STEPS",
    "NOTICE_PACE",
    "PERSON_SETTINGS",
    "QUOTATION",
    "READING_FACE",
    "READING_GROUND",
    "READING_HYPHENS",
    "READING_INDENT",
    "READING_LINE",
    "READING_MEASURE",
    "READING_SETTINGS",
    "READING_SIZE",
    "SIGNED_IN",
    "find_setting",
    "mark_kinds_of",
    "number_of",
    "value_of",
]
