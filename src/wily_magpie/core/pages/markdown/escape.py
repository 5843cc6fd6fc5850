"""Backslashes where a text would mean something in Markdown, and only there (CommonMark 0.31, sections 2.4 and 6)."""

import re
import string

PUNCTUATION = set(string.punctuation)
CODE_LIKE = re.compile(r"&(?=#\d{1,7};|#[xX][0-9a-fA-F]{1,6};|[a-zA-Z][a-zA-Z0-9]{1,31};)")
TELLING = re.compile(r"[\\`*_\[\]!~|<&]")
TAG_LIKE = re.compile(r"<(?=[a-zA-Z/!?])")
LINE_STARTS = (
    (re.compile(r"(#{1,6})(?=[ \t]|$)"), r"\\\1"),
    (re.compile(r"([-+*])(?=[ \t]|$)"), r"\\\1"),
    (re.compile(r"(\d{1,9})([.)])(?=[ \t]|$)"), r"\1\\\2"),
    (re.compile(r"(>)"), r"\\\1"),
    (re.compile(r"(=+|-+)(?=[ \t]*$)"), r"\\\1"),
    (re.compile(r"(~{3,})"), r"\\\1"),
    (re.compile(r"(\*|-|_)(?=[ \t]*(?:\1[ \t]*){2,}$)"), r"\\\1"),
    (re.compile(r"(:)(?=[ \t])"), r"\\\1"),
)
"""Beginnings of other blocks: only spaces and tabs part their signs from what follows, and no other white space."""
DEFINITION = re.compile(r"\[(?=[^\]]+\]:)")


def text(value: str, before: str, after: str, *, in_link: bool, in_cell: bool) -> str:
    """A text within a paragraph.

    Args:
        before, after: the characters around it, "" at the ends of the paragraph.
    """
    if not TELLING.search(value):
        return value
    last_link = max(value.rfind("]("), value.rfind("]["))
    last_closed = len(value) if value.endswith("]") else last_link

    def one(found: re.Match[str]) -> str:
        at, char = found.start(), found[0]
        left = value[at - 1] if at else before
        right = value[at + 1] if at + 1 < len(value) else after
        return (
            "\\" + char
            if needs(char, left, right, is_open=at <= last_closed, in_link=in_link, in_cell=in_cell)
            else char
        )

    escaped = CODE_LIKE.sub("&amp;", TELLING.sub(one, value))
    return TAG_LIKE.sub(r"\\<", escaped)


def needs(char: str, left: str, right: str, *, is_open: bool, in_link: bool, in_cell: bool) -> bool:
    """Whether a character must not stand alone.

    Args:
        is_open: whether a bracket here could be the beginning of a link.
    """
    match char:
        case "\\":
            return right in PUNCTUATION if right else in_link
        case "`":
            return True
        case "*":
            return not (is_space(left) and is_space(right))
        case "_":
            return not (left.isalnum() and right.isalnum()) and not (is_space(left) and is_space(right))
        case "[":
            return in_link or is_open
        case "]":
            return in_link
        case "!":
            return right == "["
        case "~":
            return "~" in (left, right)
        case "|":
            return in_cell
    return False


def is_space(char: str) -> bool:
    """Whether it is white space or the end of the text."""
    return not char or char.isspace()


def line_start(line: str) -> str:
    """A line of a paragraph whose beginning would make it another block."""
    for pattern, replacement in LINE_STARTS:
        found = pattern.match(line)
        if found:
            return found.expand(replacement) + line[found.end() :]
    return DEFINITION.sub(r"\\[", line, count=1) if DEFINITION.match(line) else line


def destination(address: str) -> str:
    """An address as a link's destination."""
    if re.search(r"[\s<>]", address) or address.count("(") != address.count(")") or not address:
        return "<" + re.sub(r"([<>\\])", r"\\\1", address).replace("\n", "%0A") + ">"
    return re.sub(r"\\(?=[!-/:-@\[-`{-~])|&(?=#?\w+;)", lambda found: "\\\\" if found[0] == "\\" else "&amp;", address)


def title(value: str | None) -> str:
    """A link's title with the space before it; "" for none."""
    if not value or not value.strip():
        return ""
    lines = [" ".join(line.split()) for line in value.strip().splitlines()]
    inner = re.sub(r'(["\\])', r"\\\1", CODE_LIKE.sub("&amp;", "\n".join(filter(None, lines))))
    return f' "{inner}"'


def code(value: str) -> str:
    """A code span, in more backticks than stand in it."""
    longest = max((len(run) for run in re.findall(r"`+", value)), default=0)
    ticks = "`" * next(n for n in range(1, longest + 2) if not re.search(rf"(?<!`)`{{{n}}}(?!`)", value))
    is_padded = value.startswith("`") or value.endswith("`") or (value[:1] == " " == value[-1:] and value.strip() != "")
    return f"{ticks} {value} {ticks}" if is_padded else f"{ticks}{value}{ticks}"
