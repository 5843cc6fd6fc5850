"""The inline contents of an element: texts, emphasis, links, pictures, code, line breaks.

They are first a list of pieces; only when all are there is it known what stands beside each, which decides whether a mark
of emphasis can open and close there (CommonMark 0.31, section 6.2). Where it cannot, the HTML element itself is written.
"""

import re
import unicodedata
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from wily_magpie.core.pages.markdown import escape
from wily_magpie.core.pages.markdown.addresses import LINKS, picture_of, settled
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

MARKS = {"em": "*", "i": "*", "dfn": "*", "var": "*", "strong": "**", "b": "**", "del": "~~", "s": "~~", "strike": "~~"}
NAMES = {"*": "em", "**": "strong", "~~": "del"}
PLAIN_HTML = frozenset("sup sub kbd mark ins samp".split())
PLAYERS = {"video": "Video", "audio": "Audio", "iframe": "Player"}
UNSHOWN = UNREAD_TAGS | frozenset("button select textarea svg object datalist".split())


@dataclass(frozen=True)
class Setting:
    """What holds for a whole conversion: the page's address, and whether a table's cell is being written."""

    address: str
    in_cell: bool = False
    in_heading: bool = False
    in_link: bool = False


@dataclass
class Piece:
    """kind: "text" and "code" (not escaped yet), "open" and "close" (value: the mark), "atom" (Markdown), "break"."""

    kind: str
    value: str
    partner: int = -1
    as_html: bool = False


def inline(nodes: list[Element | str], setting: Setting) -> str:
    """The Markdown of inline nodes, white space as a browser shows it; lines only where the page breaks them."""
    pieces: list[Piece] = []
    for node in nodes:
        add(node, setting, pieces)
    pieces = with_outer_spaces(squeeze(pieces))
    if not any(piece.kind != "break" for piece in pieces):
        return ""
    pair_up(pieces)
    settle_marks(pieces)
    text = write(pieces, setting)
    if is_risky(pieces) and not says(text, pieces):
        for piece in pieces:
            piece.as_html = piece.as_html or piece.kind in ("open", "close")
        text = write(pieces, setting)
    return text


def add(node: Element | str, setting: Setting, out: list[Piece]) -> None:
    """Adds a node's pieces."""
    if isinstance(node, str):
        out.append(Piece("text", node))
        return
    tag = node.tag
    if not isinstance(tag, str) or tag in UNSHOWN:
        return
    special = SPECIAL.get(tag)
    if special is not None:
        special(node, setting, out)
    elif tag in MARKS or tag in PLAIN_HTML:
        value = MARKS.get(tag, tag)
        out.append(Piece("open", value))
        add_children(node, setting, out)
        out.append(Piece("close", value))
    else:
        add_children(node, setting, out)


def add_children(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds the pieces of what is inside an element."""
    if node.text:
        out.append(Piece("text", node.text))
    for child in node:
        add(child, setting, out)
        if child.tail:
            out.append(Piece("text", child.tail))


def add_picture(image: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a picture; one of a pixel that only counts readers is none."""
    target = picture_of(image, setting.address)
    if target and not (image.get("width") == "1" and image.get("height") == "1"):
        alt = escape.text(" ".join((image.get("alt") or "").split()), "", "", in_link=True, in_cell=setting.in_cell)
        out.append(Piece("atom", f"![{alt}]({escape.destination(target)}{escape.title(image.get('title'))})"))


def add_link(link: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a link, or only its text where it leads to no page of the web."""
    href = link.get("href")
    is_within = (href or "").strip().startswith("#") and bool(setting.address)
    target = "" if href is None or is_within else settled(setting.address, href, LINKS)
    if setting.in_link or not (target or (href == "" and not setting.address)):
        add_children(link, setting, out)
        return
    nodes: list[Element | str] = [link.text or ""]
    for child in link:
        nodes += [child, child.tail or ""]
    raw = "".join(node if isinstance(node, str) else str(node.text_content()) for node in nodes)
    lead, trail = (" " if raw[:1].isspace() else ""), (" " if raw[-1:].isspace() else "")
    text = inline(nodes, Setting(setting.address, setting.in_cell, setting.in_heading, in_link=True))
    if not text.strip() and (setting.address or not target):
        return  # a link without words is of no use to a reader; a whole file is turned as it is
    words = " ".join(raw.split())
    is_plain = words in (target, target.removeprefix("mailto:")) and not link.get("title") and len(link) == 0
    if lead:
        out.append(Piece("text", lead))
    if is_plain and re.fullmatch(r"(https?|ftp)://[^\s<>]+|mailto:\S+@\S+", target):
        out.append(Piece("atom", f"<{words}>"))
    else:
        out.append(
            Piece("atom", f"[{text}]({escape.destination(target) if target else ''}{escape.title(link.get('title'))})")
        )
    if trail:
        out.append(Piece("text", trail))


def add_code(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a code span."""
    value = re.sub(r"\s", " ", node.text_content())
    if any(True for _ in node.iter("img")):
        add_children(node, setting, out)
    elif value:
        out.append(Piece("code", value))


def add_break(_node: Element, _setting: Setting, out: list[Piece]) -> None:
    """Adds a line break."""
    out.append(Piece("break", ""))


def add_box(node: Element, _setting: Setting, out: list[Piece]) -> None:
    """Adds the box of a task."""
    if (node.get("type") or "").casefold() == "checkbox":
        out.append(Piece("atom", "[x]" if node.get("checked") is not None else "[ ]"))


def add_player(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a player as a link to what it plays."""
    source = node.get("src") or next((s.get("src") for s in node.iter("source") if s.get("src")), "") or ""
    target = settled(setting.address, source, LINKS)
    if target:
        name = escape.text(node.get("title") or PLAYERS[node.tag], "", "", in_link=True, in_cell=setting.in_cell)
        out.append(Piece("atom", f"[{name}]({escape.destination(target)})"))


def add_quotation(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a quotation within a line, in quotation marks."""
    out.append(Piece("text", "“"))
    add_children(node, setting, out)
    out.append(Piece("text", "”"))


def add_math(node: Element, _setting: Setting, out: list[Piece]) -> None:
    """Adds a formula: its TeX where it is told, else its signs."""
    tex = [note.text_content() for note in node.iter("annotation") if "tex" in (note.get("encoding") or "").casefold()]
    if tex and tex[0].strip():
        fence = "$$" if node.get("display") == "block" else "$"
        out.append(Piece("atom", f"{fence}{' '.join(tex[0].split())}{fence}"))
    else:
        out.append(Piece("text", " ".join(node.text_content().split())))


SPECIAL: dict[str, Callable[[Element, Setting, list[Piece]], None]] = {
    "br": add_break,
    "img": add_picture,
    "code": add_code,
    "tt": add_code,
    "a": add_link,
    "math": add_math,
    "input": add_box,
    "q": add_quotation,
    **dict.fromkeys(PLAYERS, add_player),
}


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
    """Spaces stand outside of emphasis, texts beside each other are one, and emphasis of nothing is none."""
    changed = True
    while changed:
        changed = False
        out: list[Piece] = []
        for piece in pieces:
            last = out[-1] if out else None
            if piece.kind == "text" and not piece.value:
                continue
            if last is not None and piece.kind == "text" and last.kind == "open" and piece.value.startswith(" "):
                out[-1:] = [Piece("text", " "), last]
                piece = Piece("text", piece.value[1:])  # noqa: PLW2901 - the rest of it
                changed = True
                if not piece.value:
                    continue
            elif last is not None and piece.kind == "text" and last.kind == "text":
                out[-1] = Piece("text", re.sub(r" {2,}", " ", last.value + piece.value))
                continue
            elif last is not None and piece.kind == "close" and last.kind == "text" and last.value.endswith(" "):
                out[-1] = Piece("text", last.value.rstrip(" "))
                if not out[-1].value:
                    out.pop()
                out += [piece, Piece("text", " ")]
                changed = True
                continue
            elif last is not None and piece.kind == "close" and last.kind == "open":
                out.pop()
                changed = True
                continue
            out.append(piece)
        pieces = out
    return pieces


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
    if not inner or inner.isspace():
        return False
    return not is_punctuation(inner) or not outer or outer.isspace() or is_punctuation(outer)


def is_punctuation(char: str) -> bool:
    """Unicode punctuation or symbol, as CommonMark has it."""
    return unicodedata.category(char)[0] in "PS"


def write(pieces: list[Piece], setting: Setting) -> str:
    """The pieces as Markdown."""
    out: list[str] = []
    line_break = "<br>" if setting.in_cell or setting.in_heading else "\\\n"
    for at, piece in enumerate(pieces):
        match piece.kind:
            case "text":
                before, after = mark_beside(pieces, at, -1), mark_beside(pieces, at, 1)
                out.append(escape.text(piece.value, before, after, in_link=setting.in_link, in_cell=setting.in_cell))
            case "break":
                out.append(line_break)
            case "atom":
                out.append(piece.value)
            case "code" if out and out[-1].endswith("`"):  # two spans side by side would be read as one
                inner = escape.text(piece.value, "", "", in_link=setting.in_link, in_cell=setting.in_cell)
                out.append(f"<code>{inner}</code>")
            case "code":
                out.append(escape.code(piece.value.replace("|", "\\|") if setting.in_cell else piece.value))
            case _ if piece.as_html:
                name = NAMES.get(piece.value, piece.value)
                out.append(f"<{'/' if piece.kind == 'close' else ''}{name}>")
            case _:
                out.append(piece.value)
    return "".join(out)


def mark_beside(pieces: list[Piece], at: int, step: int) -> str:
    """The character that will be written beside a text."""
    if not 0 <= at + step < len(pieces):
        return ""
    piece = pieces[at + step]
    if piece.kind == "break":
        return "\n" if step < 0 else "\\"
    if piece.as_html:
        return ">" if step < 0 else "<"
    if piece.kind == "code":
        return "`"
    return piece.value[0 if step > 0 else -1] if piece.value else ""


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
