"""The blocks of an element: paragraphs, headings, lists, quotations, code, tables, rules, definitions."""

import copy
import re
from collections.abc import Mapping
from dataclasses import replace

from wily_magpie.core.pages.markdown import escape, footnotes
from wily_magpie.core.pages.markdown.inline import KNOWN, PLAYERS, UNSHOWN, Setting, inline
from wily_magpie.core.pages.markdown.tables import is_lone_column, is_simple_table, table
from wily_magpie.core.pages.tree import BLOCK_TAGS, Element, outer, squash

HEADINGS = {f"h{level}": level for level in range(1, 7)}
LANGUAGE = re.compile(r"(?:^|\s)(?:language|lang|highlight-source|highlight|brush)[-:]\s*(\S+)")
DEEPEST = 60
"""Blocks within blocks, past which only the text is written: no reader shows more."""


def to_markdown(part: Element, address: str, *, is_exact: bool = False) -> str:
    """The Markdown of all that stands in an element.

    Args:
        address: of the page, to make links and pictures absolute; "" leaves relative ones as they are.
        is_exact: a whole file is turned as it is; what Markdown has no words for stays HTML.
    """
    return "\n\n".join(blocks_of(part, Setting(address, is_exact), 0)).strip("\n")


def one_to_markdown(element: Element, address: str, notes: Mapping[str, str] | None = None) -> str:
    """The Markdown of an element itself, where it stands.

    Args:
        notes: the footnotes of the text that it is part of (`footnotes.notes_of`).
    """
    setting = Setting(address, notes=notes or {})
    return "\n\n".join(block(element, setting, 0)) if is_block(element) else paragraph([element], setting)


def lines_to_markdown(text: str) -> str:
    """The lines of a plain text as paragraphs."""
    lines = (escape.line_start(escape.text(line, "", "", in_link=False, in_cell=False)) for line in text.split("\n"))
    return "\n\n".join(lines)


def blocks_of(element: Element, setting: Setting, depth: int) -> list[str]:
    """The blocks in an element; loose inline contents between blocks are paragraphs."""
    out: list[str] = []
    run: list[Element | str] = [element.text or ""]

    def flush() -> None:
        """Ends a run of loose inline contents."""
        text = paragraph(run, setting)
        if text:
            out.append(text)
        run.clear()

    before = ""
    for child in element:
        if setting.is_exact and is_strange_block(child, run):
            flush()
            out.append(as_html(child))
        elif isinstance(child.tag, str) and child.tag not in UNSHOWN and is_block(child):
            flush()
            made = block(child, setting, depth, is_second=child.tag == before and child.tag in ("ul", "ol"))
            out += made
            before = child.tag if made else before
        else:
            run.append(child)
        if child.tail:
            run.append(child.tail)
            before = "" if child.tail.strip() else before
    flush()
    return out


def is_strange_block(child: Element, run: list[Element | str]) -> bool:
    """Whether an element that HTML does not know stands by itself, as a block does."""
    is_alone = not any(not isinstance(one, str) or one.strip() for one in run) and not (child.tail or "").strip()
    is_strange = isinstance(child.tag, str) and child.tag not in KNOWN and child.getparent().tag != "p"
    return is_strange and is_alone and not is_block(child)


def as_html(element: Element) -> str:
    """An element as a block of HTML, which ends at an empty line and so may hold none."""
    return re.sub(r"\n\s*\n", "\n", outer(element)).strip()


def is_block(element: Element) -> bool:
    """Whether it is a block, or an inline element around one."""
    if element.tag in BLOCK_TAGS:
        return True
    if element.tag in PLAYERS or element.tag == "img":
        return False
    return any(inner.tag in BLOCK_TAGS for inner in element.iterdescendants() if isinstance(inner.tag, str))


WHITE = " \t\n\r\f"


def paragraph(nodes: list[Element | str], setting: Setting) -> str:
    """Inline contents as a paragraph whose lines cannot be taken for other blocks; most runs are white space between tags."""
    if not any(not isinstance(one, str) or one.strip(WHITE) for one in nodes):
        return ""
    text = inline(nodes, setting)
    return "\n".join(escape.line_start(line) for line in text.split("\n"))


def contents(element: Element) -> list[Element | str]:
    """Text and children of an element, in order."""
    nodes: list[Element | str] = [element.text or ""]
    for child in element:
        nodes += [child, child.tail or ""]
    return nodes


def block(element: Element, setting: Setting, depth: int, *, is_second: bool = False) -> list[str]:
    """One block element; several blocks where it is only a frame around them.

    Args:
        is_second: whether it follows a list of the same kind, with which it must not run together.
    """
    if depth > DEEPEST:
        text = lines_to_markdown(squash(element.text_content()))
        return [text] if text else []
    label = setting.notes.get(element.get("id") or "")
    if label:
        inner = replace(setting, notes={**setting.notes, element.get("id"): ""})
        return [footnotes.note(label, blocks_of(element, inner, depth + 1))]
    if element.tag in HEADINGS:
        return heading(element, setting, depth)
    if setting.is_exact and element.tag in ("del", "ins"):
        return [f"<{element.tag}>", *blocks_of(element, setting, depth + 1), f"</{element.tag}>"]
    if element.tag == "table":
        return any_table(element, setting, depth)
    return by_tag(element, setting, depth, is_second=is_second)


def any_table(element: Element, setting: Setting, depth: int) -> list[str]:
    """A table; one that Markdown cannot hold as HTML, or as the blocks of its cells."""
    if setting.is_exact and is_lone_column(element):
        return [as_html(element)]
    return table(element, setting) if is_simple_table(element) else blocks_of(element, setting, depth + 1)


def by_tag(element: Element, setting: Setting, depth: int, *, is_second: bool) -> list[str]:
    """The blocks that have a form of their own in Markdown; of others, their contents."""
    tag = element.tag
    match tag:
        case "pre":
            return code_block(element)
        case "ul" | "ol" | "dir" | "menu":
            return items(element, setting, depth, is_second=is_second)
        case "blockquote":
            return quotation(element, setting, depth)
        case "hr":
            return ["---"]
        case "dl":
            return definitions(element, setting, depth)
        case "figcaption" | "caption" | "summary" if not any(is_block(c) for c in element if isinstance(c.tag, str)):
            return said_apart(element, setting, "**" if tag == "summary" else "*")
        case "math":
            return [inline([element], setting)]
    return blocks_of(element, setting, depth + 1)


def quotation(element: Element, setting: Setting, depth: int) -> list[str]:
    """A quotation, every line of it with its mark."""
    inner = "\n\n".join(blocks_of(element, setting, depth + 1))
    if not inner:
        return [">"] if setting.is_exact else []
    return ["\n".join(f"> {line}".rstrip() for line in inner.split("\n"))]


def said_apart(element: Element, setting: Setting, mark: str) -> list[str]:
    """A caption or summary as a paragraph with emphasis, unless it has some within."""
    text = inline(contents(element), setting)
    return [f"{mark}{text}{mark}"] if text and "*" not in text else [text] if text else []


def heading(element: Element, setting: Setting, depth: int) -> list[str]:
    """A heading, of one line; a frame where blocks stand in it."""
    if any(is_block(child) for child in element if isinstance(child.tag, str)):
        inner = [
            child
            for child in element.iterdescendants()
            if isinstance(child.tag, str) and child.tag in ("table", "ul", "ol", "pre")
        ]
        if inner:
            return blocks_of(element, setting, depth + 1)
    text = inline(contents(element), replace(setting, in_heading=True))
    text = re.sub(r"(#+)$", r"\\\1", text) if re.search(r"(^|\s)#+$", text) else text
    marks = "#" * HEADINGS[element.tag]
    if text:
        return [f"{marks} {text}"]
    return [marks] if setting.is_exact else []


def code_block(element: Element) -> list[str]:
    """Code between fences that are longer than any in it, with its language."""
    twin = copy.deepcopy(element)  # the page itself stays as it is
    for line_break in twin.iter("br"):
        line_break.tail = "\n" + (line_break.tail or "")
    text = str(twin.text_content()).replace("\r\n", "\n").replace("\r", "\n")
    text = text.removeprefix("\n").rstrip("\n") if text.strip() else text.strip("\n")
    longest = max((len(run) for run in re.findall(r"^ {0,3}(`{3,})", text, re.MULTILINE)), default=0)
    fence = "`" * max(3, longest + 1)
    return [f"{fence}{language(element)}\n{text}\n{fence}" if text else f"{fence}{language(element)}\n{fence}"]


def language(element: Element) -> str:
    """The language that classes on or around the code name."""
    parent = element.getparent()
    around = [*element.iter("code"), element, *([parent] if parent is not None else [])]
    for one in around:
        found = LANGUAGE.search(one.get("class") or "")
        if found:
            return found[1] if "`" not in found[1] else ""
    return str(element.get("lang") or "") if re.fullmatch(r"[\w+#-]{1,20}", element.get("lang") or "") else ""


def items(element: Element, setting: Setting, depth: int, *, is_second: bool) -> list[str]:
    """A list; its items are parted by blank lines where one of them has paragraphs."""
    parts = [child for child in element if isinstance(child.tag, str) and child.tag not in UNSHOWN]
    if not parts:
        return []
    if any(setting.notes.get(part.get("id") or "") for part in parts):
        return [one for part in parts for one in block(part, setting, depth + 1)]
    is_loose = any(inner.tag == "p" for part in parts for inner in part)
    number = int(element.get("start") or "1") if re.fullmatch(r"\d{1,9}", element.get("start") or "1") else 1
    out: list[str] = []
    for part in parts:
        if element.tag == "ol":
            marker = f"{number}{')' if is_second else '.'} "
            number += 1
        else:
            marker = "* " if is_second else "- "
        if part.tag in ("ul", "ol") and out:  # a list that stands between the items belongs to the one before it
            inner = "\n".join(block(part, setting, depth + 1))
            out[-1] += "\n" + indented(inner, "  " if element.tag != "ol" else "   ")
            continue
        inner_blocks = blocks_of(part, setting, depth + 1) if part.tag == "li" else block(part, setting, depth + 1)
        text = join_item(["***" if one == "---" else one for one in inner_blocks], is_loose=is_loose)
        out.append((marker + indented(text, " " * len(marker)).lstrip(" ")).rstrip() if text else marker.rstrip())
    return [("\n\n" if is_loose else "\n").join(out)]


def join_item(blocks: list[str], *, is_loose: bool) -> str:
    """The blocks of one item; in a tight list only what can follow a text directly does."""
    text = ""
    for one in blocks:
        is_list = bool(re.match(r"([-*]|\d+[.)])( |$)", one))
        follows = not is_loose and is_list and not (one[0].isdigit() and not one.startswith("1"))
        text += ("" if not text else "\n" if follows else "\n\n") + one
    return text


def indented(text: str, by: str) -> str:
    """Every line with spaces before it; blank lines stay blank."""
    return "\n".join(by + line if line else "" for line in text.split("\n"))


def own_parts(element: Element) -> list[Element]:
    """The terms and meanings of a list of definitions, in frames too (HTML has <div>), without those of lists in them."""
    out: list[Element] = []
    for child in element:
        if child.tag in ("dt", "dd"):
            out.append(child)
        elif isinstance(child.tag, str) and child.tag != "dl":
            out += own_parts(child)
    return out


def definitions(element: Element, setting: Setting, depth: int) -> list[str]:
    """Terms with what they mean, as many readers of Markdown know it: a line with the term, a line ": meaning"."""
    out: list[str] = []
    for child in own_parts(element):
        text = " ".join(" ".join(blocks_of(child, setting, depth + 1)).split("\n"))
        if not text:
            continue
        if child.tag == "dt" or not out:
            out.append(text)
        else:
            out[-1] += f"\n: {text}"
    return out
