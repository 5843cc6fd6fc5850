"""A living list: two comments of a note, and between them ordinary Markdown that the program keeps filled.

    <!-- list in="Sources" where="status = 'to read'" sort="captured/descending" show="title, captured as Kept" as="table" -->
    …
    <!-- end of list 3f9a2c01 -->

The figures behind "end of list" are a sum over what stands between the comments, as the program wrote it: where it does not fit,
somebody has written there since. It stands in the note itself, so that it is right on every machine that the note comes to.
Values of the first comment are escaped as those of HTML attributes are; in them, CQL has single quotation marks.
"""

import hashlib
import html
import re
from collections.abc import Iterator, Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.note_text import plain_lines

BEGIN = re.compile(r" {0,3}<!--[ \t]*list(?=[ \t]|-->)(?P<said>.*?)-->[ \t]*", re.DOTALL)
BEGUN = re.compile(r" {0,3}<!--[ \t]*list(?=[ \t]|$)")
END = re.compile(r" {0,3}<!--[ \t]*end of list(?:[ \t]+(?P<sum>[0-9a-f]{8}))?[ \t]*-->[ \t]*")
SAID = re.compile(r"\s*([a-z]+)\s*=\s*\"([^\"]*)\"")
SHAPES = ("list", "table", "cards", "count")
LINKS = ("path", "brackets", "entry", "web")
KEYS = ("in", "where", "sort", "group", "show", "as", "links", "most", "filled")
EVERYWHERE = "all"
MOST_ROWS = 1_000
"""Rows of a list that says nothing of how many."""
SINGLE = re.compile(r"(?<![^\s(=<>/])'((?:[^'\\]|\\.)*)'(?=$|[\s)])")
DOUBLE = re.compile(r'"((?:[^"\\]|\\.)*)"')
FAULT = "> **This list cannot be filled.**"


@dataclass(frozen=True)
class Shown:
    """A field that is shown, with a name of its own; "" for the field's."""

    key: str
    name: str = ""


USUALLY_SHOWN = (Shown("title"),)


@dataclass(frozen=True)
class ListForm:
    """What a list shows.

    Attributes:
        place: the name of a place; "" for the notes folder itself, EVERYWHERE for all places.
        where: CQL. sort: CQL keys. group: fields, each with a step behind "/" where one is meant.
        shown: fields in order. shape: one of SHAPES.
        links: what titles lead to, one of LINKS; "" as the folder has it.
        most: rows; 0: MOST_ROWS.
        is_filled: whether it is kept filled by itself.
    """

    place: str = ""
    where: str = ""
    sort: str = ""
    group: str = ""
    shown: Sequence[Shown] = USUALLY_SHOWN
    shape: str = "list"
    links: str = ""
    most: int = 0
    is_filled: bool = True

    @property
    def question(self) -> str:
        """Its question as CQL, with sorting and groups."""
        groups = [grouped(one) for one in parted(self.group)]
        keys = " ".join([*groups, *parted(single_marks(self.sort))])
        return double_marks(" ".join(part for part in (self.where.strip(), f"sortBy {keys}" if keys else "") if part))


@dataclass(frozen=True)
class LivingList:
    """A list as it stands in the text of a note.

    Attributes:
        said: its first comment.
        start, end: where what it holds stands in the text; behind the line of the first comment, up to that of the last.
        close_end: where its last comment ends, without the end of its line.
        sum: what the last comment says of what stands between; "" for nothing.
        line: of its first comment, counted from 1.
        fault: what is wrong with its comments, or "".
        nth: how many before it in the note have the same first comment.
    """

    said: str
    form: ListForm
    start: int
    end: int
    close_end: int
    sum: str
    line: int
    fault: str = ""
    nth: int = 0

    @property
    def key(self) -> str:
        """By what it is known as long as its first comment stays the same."""
        return f"{self.nth} {self.said}"

    def held(self, text: str) -> str:
        """What stands between its comments, without blank lines around it and with plain line ends."""
        return text[self.start : self.end].replace("\r\n", "\n").strip("\n")

    def is_edited(self, text: str) -> bool:
        """Whether somebody wrote into it since the program did."""
        held = self.held(text)
        return bool(held) and sum_of(held) != self.sum


def sum_of(held: str) -> str:
    """The sum over what a list holds; spaces at the ends of lines do not count, since editors take them away."""
    lines = "\n".join(line.rstrip() for line in held.strip("\n").split("\n"))
    return hashlib.sha256(lines.encode("utf-8", "replace")).hexdigest()[:8]


def lists_in(text: str) -> list[LivingList]:
    """The lists of a text without front matter, in order; what stands in code is none."""
    if "<!--" not in text:
        return []
    out: list[LivingList] = []
    counted: dict[str, int] = {}
    opened: tuple[int, int, str] | None = None
    for start, line in comment_lines(text):
        bare = line.rstrip("\r\n")
        begin, end = BEGIN.fullmatch(bare), END.fullmatch(bare)
        if begin is None and end is None and not BEGUN.match(bare):
            continue
        if end is None:
            if opened is not None:
                out.append(unclosed(text, opened, counted))
            opened = (start, start + len(line), bare.strip())
        elif opened is not None:
            said = opened[2]
            out.append(made(text, opened, (start, start + len(bare)), end["sum"] or "", counted.get(said, 0)))
            counted[said] = counted.get(said, 0) + 1
            opened = None
    if opened is not None:
        out.append(unclosed(text, opened, counted))
    return out


def comment_lines(text: str) -> Iterator[tuple[int, str]]:
    """The lines outside code in which a comment begins."""
    return ((start, line) for start, line in plain_lines(text) if "<!--" in line)


def line_of(text: str, at: int) -> int:
    """The number of a line, counted from 1."""
    return text.count("\n", 0, at) + 1


def made(text: str, opened: tuple[int, int, str], end: tuple[int, int], total: str, nth: int) -> LivingList:
    """A list between two comments."""
    try:
        form, fault = read_form(opened[2]), ""
    except ValueError as error:
        form, fault = ListForm(), str(error)
    return LivingList(opened[2], form, opened[1], end[0], end[1], total, line_of(text, opened[0]), fault, nth)


def unclosed(text: str, opened: tuple[int, int, str], counted: dict[str, int]) -> LivingList:
    """A list whose end is missing: nothing is written into it."""
    said, at = opened[2], opened[1]
    nth = counted.get(said, 0)
    counted[said] = nth + 1
    fault = "It has no end: write <!-- end of list --> on a line of its own behind it."
    return LivingList(said, ListForm(), at, at, at, "", line_of(text, opened[0]), fault, nth)


def read_form(said: str) -> ListForm:
    """What a first comment says.

    Raises:
        ValueError: with a sentence about what cannot be read.
    """
    found = BEGIN.fullmatch(said)
    if found is None:
        raise ValueError("Its first comment must end on the line on which it begins.")
    at, given = 0, {}
    inside = found["said"].rstrip()
    while (part := SAID.match(inside, at)) is not None:
        if part[1] not in KEYS:
            raise ValueError(f"“{part[1]}” says nothing to a list. Known: {', '.join(KEYS)}.")
        given[part[1]] = html.unescape(part[2])
        at = part.end()
    if inside[at:].strip():
        raise ValueError(f'“{inside[at:].strip()[:60]}” cannot be read: it is written like sort="title".')
    for key, known in (("as", SHAPES), ("links", LINKS), ("filled", ("yes", "no"))):
        if key in given and given[key] not in known:
            raise ValueError(f"{key} cannot be “{given[key]}”. Known: {', '.join(known)}.")
    if "most" in given and not re.fullmatch(r"[1-9]\d{0,4}", given["most"]):
        raise ValueError(f"most is a number from 1 on, not “{given['most']}”.")
    shown = tuple(read_shown(one) for one in parted(given.get("show", "title")))
    return ListForm(
        given.get("in", ""), given.get("where", ""), given.get("sort", ""), given.get("group", ""), shown or USUALLY_SHOWN,
        given.get("as", "list"), given.get("links", ""), int(given.get("most", "0")), given.get("filled") != "no",
    )  # fmt: skip


def read_shown(text: str) -> Shown:
    """A field with a name of its own: captured as Kept."""
    key, _, name = re.sub(r"\s+as\s+", "\0", text.strip(), count=1).partition("\0")
    return Shown(unquoted(key), unquoted(name))


def unquoted(text: str) -> str:
    """A name without the quotation marks around it."""
    text = text.strip()
    return re.sub(r"\\(.)", r"\1", text[1:-1]) if len(text) > 1 and text[0] == text[-1] == "'" else text


def parted(text: str) -> list[str]:
    """The parts between commas that stand in no quotation marks."""
    parts = re.findall(r"(?:'(?:[^'\\]|\\.)*'|[^,'])+|'", text)
    return [part.strip() for part in parts if part.strip()]


def grouped(text: str) -> str:
    """A group as CQL has it: captured/year is captured/group=year."""
    key, slash, step = text.rpartition("/")
    return f"{key}/group={step}" if slash else f"{text}/group"


def double_marks(text: str) -> str:
    """CQL with its own quotation marks in place of single ones."""
    return SINGLE.sub(lambda found: '"' + found[1].replace("\\'", "'").replace('"', '\\"') + '"', text)


def single_marks(text: str) -> str:
    """CQL with single quotation marks, as it stands in a comment."""
    return DOUBLE.sub(lambda found: "'" + found[1].replace('\\"', '"').replace("'", "\\'") + "'", text)


def comment_of(form: ListForm) -> str:
    """The first comment of a list."""
    shown = ", ".join(written_shown(one) for one in form.shown)
    given = {
        "in": form.place, "where": single_marks(form.where), "sort": single_marks(form.sort), "group": single_marks(form.group),
        "show": shown if tuple(form.shown) != USUALLY_SHOWN else "", "as": form.shape, "links": form.links,
        "most": str(form.most or ""), "filled": "" if form.is_filled else "no",
    }  # fmt: skip
    said = "".join(f' {key}="{escaped(value)}"' for key, value in given.items() if value)
    return f"<!-- list{said} -->"


def end_comment(rows: str) -> str:
    """The second comment of a list that the program filled with these rows."""
    return f"<!-- end of list {sum_of(rows)} -->"


def with_form(text: str, one: LivingList, form: ListForm) -> str:
    """A text with another first comment of one of its lists."""
    at = text.rindex(one.said, 0, one.start)
    return text[:at] + comment_of(form) + text[at + len(one.said) :]


def written_shown(shown: Shown) -> str:
    """A shown field as it stands in a comment."""
    return f"{quoted(shown.key)} as {quoted(shown.name)}" if shown.name else quoted(shown.key)


def quoted(name: str) -> str:
    """A name, in quotation marks where it has signs that part names."""
    is_plain = not re.search(r"[,'\\/]|\sas\s|^\s|\s$", name)
    return name if is_plain else "'" + re.sub(r"(['\\])", r"\\\1", name) + "'"


def escaped(text: str) -> str:
    """A value as it stands in a comment, which two dashes or a closing bracket could end."""
    return html.escape(" ".join(text.split()), quote=False).replace('"', "&quot;").replace("--", "-&#45;")


def filled(text: str, one: LivingList, rows: str, newline: str, *, is_own: bool = True) -> str:
    """A text with a list that holds these rows.

    Args:
        is_own: whether the program made all of them; what somebody else wrote among them is marked by no sum.
    """
    inner = f"\n{rows.strip(chr(10))}\n\n" if rows.strip("\n") else ""
    close = end_comment(rows) if is_own else "<!-- end of list -->"
    return text[: one.start] + inner.replace("\n", newline) + close + text[one.close_end :]


def with_fault(held: str, why: str) -> str:
    """What a list holds with a fault above it; one that was there before is gone."""
    return f"{FAULT} {why}\n\n{without_fault(held)}".rstrip("\n")


def without_fault(held: str) -> str:
    """What a list holds without the fault that the program wrote above it."""
    if not held.startswith(FAULT):
        return held
    return held.partition("\n")[2].lstrip("\n")


def outside_of(text: str) -> str:
    """A text without what its lists hold: what people have written."""
    out, at = [], 0
    for one in lists_in(text):
        out.append(text[at : one.start])
        at = one.close_end if one.close_end > one.end else one.end
    return "".join([*out, text[at:]])
