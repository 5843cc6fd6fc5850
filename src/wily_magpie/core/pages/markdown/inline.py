"""The inline contents of an element: texts, emphasis, links, pictures, code, line breaks.

They are first a list of pieces; only when all are there is it known what stands beside each, which decides whether a mark
of emphasis can open and close there (CommonMark 0.31, section 6.2). Where it cannot, the HTML element itself is written.
"""

import html
import re
from collections.abc import Callable, Mapping
from dataclasses import field, replace
from itertools import pairwise

from lxml.html import defs

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.network.reach import is_local
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.markdown import escape
from wily_magpie.core.pages.markdown.addresses import LINKS, picture_of, settled
from wily_magpie.core.pages.markdown.footnotes import leads_back
from wily_magpie.core.pages.markdown.marks import (
    MARKS,
    NAMES,
    PLAIN_HTML,
    Piece,
    is_risky,
    pair_up,
    says,
    settle_marks,
    squeeze,
    with_outer_spaces,
)
from wily_magpie.core.pages.markdown.mathml import to_tex
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element, squash

PLAYERS = {"video": "Video", "audio": "Audio", "iframe": "Player"}
KNOWN = frozenset(defs.tags) | frozenset(defs.html5_tags) | frozenset("picture source search slot svg math".split())
"""The elements of HTML."""
LARGEST_MARK_PX = 24
NAME = re.compile(r"[a-zA-Z_:][\w:.-]*")
UNSHOWN = UNREAD_TAGS | frozenset("button select textarea svg object datalist".split())


@dataclass(frozen=True)
class Setting:
    """What holds where something is written: the page's address, and what is around it.

    Attributes:
        is_exact: whether a whole file is turned as it is: elements that HTML does not know stay, links without words too.
        notes: labels of footnotes by the ids of their elements.
    """

    address: str
    is_exact: bool = False
    notes: Mapping[str, str] = field(default_factory=dict)
    in_cell: bool = False
    in_heading: bool = False
    in_link: bool = False


def inline(nodes: list[Element | str], setting: Setting) -> str:
    """The Markdown of inline nodes, white space as a browser shows it; lines only where the page breaks them."""
    pieces: list[Piece] = []
    for node in nodes:
        add(node, setting, pieces)
    pieces = with_outer_spaces(squeeze(pieces))
    if not setting.is_exact:  # an empty line within a paragraph is a slip of the page's author
        pieces = [one for before, one in pairwise([Piece("", ""), *pieces]) if not before.kind == one.kind == "break"]
        pieces = without_last_break(pieces)
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


def without_last_break(pieces: list[Piece]) -> list[Piece]:
    """The pieces without a line break that nothing follows, or only white space."""
    shown = [
        at for at, piece in enumerate(pieces) if piece.kind not in ("break", "open", "close") and piece.value.strip()
    ]
    last = shown[-1] if shown and any(piece.kind == "break" for piece in pieces[shown[-1] :]) else len(pieces)
    return [piece for at, piece in enumerate(pieces) if at <= last or piece.kind in ("open", "close")]


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
    elif tag == "sup" and any(label_of(link, setting) for link in node.iter("a")):
        add_children(node, setting, out)
    elif tag in MARKS or tag in PLAIN_HTML:
        value = MARKS.get(tag, tag)
        out.append(Piece("open", value))
        add_children(node, setting, out)
        out.append(Piece("close", value))
    elif setting.is_exact and tag not in KNOWN:
        out.append(Piece("atom", opening_tag(node)))
        add_children(node, setting, out)
        out.append(Piece("atom", f"</{tag}>"))
    else:
        add_children(node, setting, out)


def label_of(link: Element, setting: Setting) -> str:
    """The label of the footnote that a link leads to, or ""."""
    return setting.notes.get((link.get("href") or "").strip().removeprefix("#"), "") if setting.notes else ""


def opening_tag(node: Element) -> str:
    """The tag that opens an element, with its attributes, on one line."""
    attributes = "".join(f' {name}="{quoted(value)}"' for name, value in node.items() if NAME.fullmatch(name))
    return f"<{node.tag}{attributes}>"


def quoted(value: str) -> str:
    """An attribute's value as it stands between quotation marks."""
    return html.escape(" ".join(value.split()))


def add_children(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds the pieces of what is inside an element."""
    if node.text:
        out.append(Piece("text", node.text))
    for child in node:
        add(child, setting, out)
        if child.tail:
            out.append(Piece("text", child.tail))


def add_picture(image: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a picture; one of a pixel that only counts readers is none, and in a text of a page neither is an arrow."""
    target = picture_of(image, setting.address)
    if target and not is_mark(image, setting):
        alt = escape.text(" ".join((image.get("alt") or "").split()), "", "", in_link=True, in_cell=setting.in_cell)
        out.append(Piece("atom", f"![{alt}]({escape.destination(target)}{escape.title(image.get('title'))})"))


def is_mark(image: Element, setting: Setting) -> bool:
    """Whether a picture is told to be too small to show anything."""
    sides = [image.get("width") or "", image.get("height") or ""]
    most = 1 if setting.is_exact else LARGEST_MARK_PX
    return all(side.removesuffix("px").strip().isdigit() and int(side.removesuffix("px")) <= most for side in sides)


def add_link(link: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a link, or only its text where it leads to no page of the web."""
    href = link.get("href")
    label = label_of(link, setting)
    if label:
        out.append(Piece("atom", f"[^{label}]"))
        return
    if setting.notes and leads_back(link):
        return
    is_within = (href or "").strip().startswith("#") and not setting.is_exact
    target = "" if href is None or is_within else settled(setting.address, href, LINKS)
    if setting.is_exact and href is None and (len(link) or link.text):
        out.append(Piece("atom", opening_tag(link)))
        add_children(link, setting, out)
        out.append(Piece("atom", "</a>"))
        return
    if setting.in_link or not (target or (href == "" and setting.is_exact)):
        add_children(link, setting, out)
        return
    add_target(link, target, setting, out)


def add_target(link: Element, target: str, setting: Setting, out: list[Piece]) -> None:
    """Adds a link that leads somewhere; the spaces around its words stand outside of it."""
    nodes: list[Element | str] = [link.text or ""]
    for child in link:
        nodes += [child, child.tail or ""]
    raw = "".join(node if isinstance(node, str) else shown_text(node) for node in nodes)
    lead, trail = (" " if raw[:1].isspace() else ""), (" " if raw[-1:].isspace() else "")
    text = inline(nodes, replace(setting, in_link=True))
    if not text.strip() and not (setting.is_exact and target):
        return  # a link without words is of no use to a reader; a whole file is turned as it is
    if not text.strip():
        text, lead, trail = lead, "", ""
    pieces = [Piece("text", lead), Piece("atom", written_link(link, target, text, raw)), Piece("text", trail)]
    out += [piece for piece in pieces if piece.value]
    if ends_with_break(link) and not setting.is_exact:
        out.append(Piece("break", ""))


def written_link(link: Element, target: str, text: str, raw: str) -> str:
    """A link in Markdown; one whose words are its target, as short as can be."""
    words = " ".join(raw.split())
    is_plain = words in (target, target.removeprefix("mailto:")) and not link.get("title") and len(link) == 0
    if is_plain and re.fullmatch(r"(https?|ftp)://[^\s<>]+|mailto:\S+@\S+", target):
        return f"<{words}>"
    return f"[{text}]({escape.destination(target) if target else ''}{escape.title(link.get('title'))})"


def ends_with_break(element: Element) -> bool:
    """Whether a line break is the last that stands in an element."""
    last = element[-1] if len(element) else None
    if last is None or squash(last.tail):
        return False
    return bool(last.tag == "br") or ends_with_break(last)


def shown_text(node: Element) -> str:
    """The text of a node; a comment has none."""
    return str(node.text_content()) if isinstance(node.tag, str) else ""


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
    if target and (setting.is_exact or not is_local(host_of(target)) or is_local(host_of(setting.address))):
        name = escape.text(node.get("title") or PLAYERS[node.tag], "", "", in_link=True, in_cell=setting.in_cell)
        out.append(Piece("atom", f"[{name}]({escape.destination(target)})"))


def add_quotation(node: Element, setting: Setting, out: list[Piece]) -> None:
    """Adds a quotation within a line, in quotation marks."""
    out.append(Piece("text", "“"))
    add_children(node, setting, out)
    out.append(Piece("text", "”"))


def add_math(node: Element, _setting: Setting, out: list[Piece]) -> None:
    """Adds a formula as TeX: where none is told, its MathML is written so."""
    told = [note.text_content() for note in node.iter("annotation") if "tex" in (note.get("encoding") or "").casefold()]
    tex = " ".join((told[0] if told and told[0].strip() else to_tex(node)).split())
    if tex and "$" not in tex.replace("\\$", ""):
        fence = "$$" if node.get("display") == "block" else "$"
        out.append(Piece("atom", f"{fence}{tex}{fence}"))
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
                inner = escape.text(piece.value, ">", "<", in_link=setting.in_link, in_cell=setting.in_cell)
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
