"""Marks of emphasis: where they can stand among the pieces of a line, and whether a parser reads them as they are meant."""

import re
import unicodedata
from dataclasses import dataclass
from functools import cache
from itertools import groupby
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

MARKS = {"em": "*", "i": "*", "dfn": "*", "var": "*", "strong": "**", "b": "**", "del": "~~", "s": "~~", "strike": "~~"}
NAMES = {"*": "em", "**": "strong", "~~": "del"}
PLAIN_HTML = frozenset("sup sub kbd mark ins samp".split())


@dataclass
class Piece:
    """kind: "text" and "code" (not escaped yet), "open" and "close" (value: the mark), "atom" (Markdown), "break"."""

    kind: str
    value: str
    partner: int = -1
    as_html: bool = False


def squeeze(pieces: list[Piece]) -> list[Piece]:
    """White space as a browser shows it: one space for many, none at the ends and beside line breaks."""
    out: list[Piece] = []
    at_space = True
    for piece in pieces:
        if piece.kind == "text":
            value = re.sub(r"[ \t\n\r\f]+", " ", piece.value.replace("\u200b", "").replace("\ufeff", ""))
            value = value[1:] if at_space and value.startswith(" ") else value
            if value:
                out.append(Piece("text", value))
                at_space = value.endswith(" ")
        else:
            if piece.kind == "break":
                strip_end(out)
            out.append(piece)
            at_space = at_space if piece.kind in ("open", "close") else piece.kind == "break"
    strip_end(out)
    while out and out[-1].kind == "break":
        out.pop()
        strip_end(out)
    while out and out[0].kind == "break":
        out.pop(0)
    return out


def strip_end(pieces: list[Piece]) -> None:
    """Takes the space from the end of the last text."""
    for piece in reversed(pieces):
        if piece.kind == "text":
            piece.value = piece.value.rstrip(" ")
            if piece.value:
                return
        elif piece.kind not in ("open", "close"):
            return


def with_outer_spaces(pieces: list[Piece]) -> list[Piece]:
    """Spaces and line breaks stand outside of emphasis, texts beside each other are one, emphasis of nothing is none."""
    pieces = with_joined_texts(pieces)
    changed = True
    while changed:
        changed = False
        out: list[Piece] = []
        for piece in pieces:
            if piece.kind != "text" or piece.value:
                joined, is_other = beside(out[-1], piece) if out else ([piece], False)
                out[-1:] = joined
                changed |= is_other
        pieces = out
    return pieces


def with_joined_texts(pieces: list[Piece]) -> list[Piece]:
    """Texts that follow each other as one; all at once, since one by one takes the square of their number."""
    out: list[Piece] = []
    for kind, run in groupby((piece for piece in pieces if piece.kind != "text" or piece.value), lambda one: one.kind):
        together = list(run)
        is_many = kind == "text" and len(together) > 1
        out += [Piece("text", re.sub(r" {2,}", " ", "".join(one.value for one in together)))] if is_many else together
    return out


def beside(last: Piece, piece: Piece) -> tuple[list[Piece], bool]:
    """(what takes the place of two pieces that follow each other, whether that may set free something else)."""
    match last.kind, piece.kind:
        case "open", "text" if piece.value.startswith(" "):
            return filled([Piece("text", " "), last, Piece("text", piece.value[1:])]), True
        case "text", "text":
            return [Piece("text", re.sub(r" {2,}", " ", last.value + piece.value))], False
        case "text", "close" if last.value.endswith(" "):
            return filled([Piece("text", last.value.rstrip(" ")), piece, Piece("text", " ")]), True
        case ("open", "break") | ("break", "close"):
            return [piece, last], True
        case "open", "close":
            return [], True
    return [last, piece], False


def filled(pieces: list[Piece]) -> list[Piece]:
    """Without texts that are empty."""
    return [piece for piece in pieces if piece.kind != "text" or piece.value]


def pair_up(pieces: list[Piece]) -> None:
    """Has every opening mark know its closing one."""
    stack: list[int] = []
    for at, piece in enumerate(pieces):
        if piece.kind == "open":
            stack.append(at)
        elif piece.kind == "close" and stack:
            begin = stack.pop()
            pieces[begin].partner, piece.partner = at, begin


def settle_marks(pieces: list[Piece]) -> None:
    """Writes as HTML what cannot be a mark where it stands."""
    depth: dict[str, int] = {}
    for at, piece in enumerate(pieces):
        if piece.kind == "close":
            depth[piece.value] = depth.get(piece.value, 1) - 1
        if piece.kind != "open":
            continue
        closing = pieces[piece.partner]
        outside = (neighbour(pieces, at, -1), neighbour(pieces, piece.partner, 1))
        inside = (neighbour(pieces, at, 1), neighbour(pieces, piece.partner, -1))
        can = flanks(inside[0], outside[0]) and flanks(inside[1], outside[1])
        nested = depth.get(piece.value, 0) > 0
        touches = (
            at > 0
            and pieces[at - 1].kind == "close"
            and pieces[at - 1].value[0] == piece.value[0]
            and not pieces[at - 1].as_html
        )
        if piece.value in PLAIN_HTML or not can or touches or nested:
            piece.as_html = closing.as_html = True
        depth[piece.value] = depth.get(piece.value, 0) + 1


def neighbour(pieces: list[Piece], at: int, step: int) -> str:
    """The character beside a mark; other marks are looked through."""
    at += step
    while 0 <= at < len(pieces):
        piece = pieces[at]
        if piece.kind == "break":
            return "\n"
        if piece.kind == "code":
            return "`"
        if piece.kind in ("text", "atom"):
            return piece.value[0 if step > 0 else -1]
        if piece.as_html or piece.value in PLAIN_HTML:
            return ">" if step < 0 else "<"
        at += step
    return ""


def flanks(inner: str, outer: str) -> bool:
    """Whether a mark between these characters can open or close (CommonMark's left- and right-flanking)."""
    if not inner or is_white(inner):
        return False
    return not is_punctuation(inner) or not outer or is_white(outer) or is_punctuation(outer)


def is_white(char: str) -> bool:
    """Unicode white space, as CommonMark has it: Python counts more."""
    return char in "\t\n\v\f\r" or unicodedata.category(char) == "Zs"


def is_punctuation(char: str) -> bool:
    """Unicode punctuation or symbol, as CommonMark has it."""
    return unicodedata.category(char)[0] in "PS"


def is_risky(pieces: list[Piece]) -> bool:
    """Whether marks stand so close that only a parser knows what they mean."""
    return sum(piece.kind in ("open", "close") for piece in pieces) > 2


@cache
def parser() -> "MarkdownIt":
    """A CommonMark parser."""
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark").enable(["strikethrough"])


def says(text: str, pieces: list[Piece]) -> bool:
    """Whether a parser finds the same marks around the same letters."""
    found: list[str] = []
    for token in parser().parseInline(text)[0].children or []:
        if token.type in ("em_open", "strong_open", "s_open"):
            found.append({"em": "<*", "strong": "<**", "s": "<~~"}[token.tag])
        elif token.type in ("em_close", "strong_close", "s_close"):
            found.append({"em": "*>", "strong": "**>", "s": "~~>"}[token.tag])
        elif token.type == "text":
            found.append(re.sub(r"[\W_]+", "", token.content))
    wanted: list[str] = []
    for piece in pieces:
        if piece.kind == "open" and not piece.as_html:
            wanted.append("<" + piece.value)
        elif piece.kind == "close" and not piece.as_html:
            wanted.append(piece.value + ">")
        elif piece.kind == "text":
            wanted.append(re.sub(r"[\W_]+", "", piece.value))
    if any(piece.kind in ("atom", "code") for piece in pieces):  # what is in them is not compared
        found, wanted = ([part for part in parts if part[:1] in ("<", "*", "~")] for parts in (found, wanted))
    return "".join(found) == "".join(wanted)
