"""Kept Markdown as HTML that can be shown: sanitised, with nothing in it that asks for anything."""

import html as entities
import re
from collections.abc import Mapping
from dataclasses import field
from functools import cache
from typing import TYPE_CHECKING
from urllib.parse import quote, unquote

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.note_text import with_plain_links

if TYPE_CHECKING:
    from markdown_it import MarkdownIt
    from markdown_it.rules_core import StateCore

TAGS = set(
    "a abbr b blockquote br caption cite code dd del div dl dt em figcaption figure h1 h2 h3 h4 h5 h6 hr i img ins kbd li mark ol"
    " p pre q s samp small span strong sub sup table tbody td tfoot th thead tr u ul var".split()
)
ATTRIBUTES = {
    "a": {"href", "title", "id"},
    "li": {"id"},
    "img": {"src", "alt", "title"},
    "td": {"align"},
    "th": {"align"},
    "ol": {"start"},
}
BOX = re.compile(r"\[!(?P<kind>[\w-]+)\][+-]?[ \t]*(?P<title>[^\n]*)\n?")
FORMULA = "tex:"
"""Begins the address of a formula that is to be drawn; what follows is its TeX, quoted as in addresses."""
LONGEST = 600_000
"""Characters past which a text is shown in parts: laying out more would stop the window for seconds."""


@dataclass(frozen=True)
class Rendered:
    """A text ready to be shown.

    Attributes:
        html: sanitised; pictures: those of its pictures that were kept, by their addresses, and of its formulas.
    """

    markdown: str = ""
    html: str = ""
    pictures: dict[str, bytes] = field(default_factory=dict)


@cache
def parser() -> "MarkdownIt":
    """The Markdown parser, loaded when the first text needs it."""
    from markdown_it import MarkdownIt
    from mdit_py_plugins.deflist import deflist_plugin
    from mdit_py_plugins.dollarmath import dollarmath_plugin
    from mdit_py_plugins.footnote import footnote_plugin

    made = MarkdownIt("gfm-like", {"linkify": False, "html": True}).use(footnote_plugin).use(deflist_plugin)
    made.use(dollarmath_plugin, allow_space=False, allow_digits=False, double_inline=True, renderer=formula)
    made.core.ruler.push("boxes", as_boxes)
    return made


def formula(tex: str, options: Mapping[str, bool]) -> str:
    """A formula as a picture that is yet to be drawn; its words are its TeX."""
    address = entities.escape(FORMULA + quote(tex.strip()), quote=True)
    shown = f'<img src="{address}" alt="{entities.escape(tex.strip(), quote=True)}">'
    return f'<span class="block">{shown}</span>' if options["display_mode"] else shown


def as_boxes(state: "StateCore") -> None:
    """Quotations that begin with a kind in brackets, “[!note] Title”, become boxes: a table of one cell, with the title above."""
    open_boxes: list[bool] = []
    for at, token in enumerate(state.tokens):
        if token.type == "blockquote_open":
            first = state.tokens[at + 2] if at + 2 < len(state.tokens) else token
            found = BOX.match(first.content) if first.type == "inline" else None
            open_boxes.append(found is not None)
            if found is not None:
                rest = first.content[found.end() :]
                title = found["title"].strip() or found["kind"].replace("-", " ").capitalize()
                token.type, token.tag = "html_block", ""
                token.content = f'<table class="box"><tr><td><p><b>{entities.escape(title)}</b></p>\n'
                first.content, first.children = rest, []
                state.md.inline.parse(rest, state.md, state.env, first.children)
        elif token.type == "blockquote_close" and open_boxes.pop():
            token.type, token.tag, token.content = "html_block", "", "</td></tr></table>\n"


def to_safe_html(markdown: str) -> str:
    """Sanitised HTML of a Markdown text; of a very long one, of its beginning, which is said."""
    import nh3  # not needed at start

    shown = nh3.clean(
        parser().render(with_plain_links(markdown[:LONGEST])),
        tags=TAGS,
        attributes=ATTRIBUTES,
        attribute_filter=lambda tag, name, value: None if tag != "img" and value.startswith(FORMULA) else value,
        allowed_classes={"table": {"box"}, "span": {"block"}},
        url_schemes={"http", "https", "mailto", "mid", "wily-magpie", FORMULA.rstrip(":")},
        link_rel=None,
        strip_comments=True,
    )
    if len(markdown) <= LONGEST:
        return shown
    return f"{shown}<p><i>The text is longer; the rest stands in the kept entry.</i></p>"


def formulas_in(html: str) -> dict[str, str]:
    """The TeX of the formulas in sanitised HTML, by their addresses."""
    return {one: unquote(one.removeprefix(FORMULA)) for one in sources_in(html) if one.startswith(FORMULA)}


def sources_in(html: str) -> list[str]:
    """The addresses of the pictures in sanitised HTML, in order, each once."""
    found = (re.search(r'src="([^"]*)"', tag) for tag in re.findall(r"<img\b[^>]*>", html))
    return list(dict.fromkeys(entities.unescape(one[1]) for one in found if one and one[1]))
