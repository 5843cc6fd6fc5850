"""Kept Markdown as HTML that can be shown: sanitised, with nothing in it that asks for anything."""

import html as entities
import re
from dataclasses import field
from functools import cache
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.note_text import with_plain_links

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

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
LONGEST = 600_000
"""Characters past which a text is shown in parts: laying out more would stop the window for seconds."""


@dataclass(frozen=True)
class Rendered:
    """A text ready to be shown.

    Attributes:
        html: sanitised; pictures: those of its pictures that were kept, by their addresses.
    """

    markdown: str = ""
    html: str = ""
    pictures: dict[str, bytes] = field(default_factory=dict)


@cache
def parser() -> "MarkdownIt":
    """The Markdown parser, loaded when the first text needs it."""
    from markdown_it import MarkdownIt
    from mdit_py_plugins.deflist import deflist_plugin
    from mdit_py_plugins.footnote import footnote_plugin

    return MarkdownIt("gfm-like", {"linkify": False, "html": True}).use(footnote_plugin).use(deflist_plugin)


def to_safe_html(markdown: str) -> str:
    """Sanitised HTML of a Markdown text; of a very long one, of its beginning, which is said."""
    import nh3  # not needed at start

    shown = nh3.clean(
        parser().render(with_plain_links(markdown[:LONGEST])),
        tags=TAGS,
        attributes=ATTRIBUTES,
        url_schemes={"http", "https", "mailto"},
        link_rel=None,
        strip_comments=True,
    )
    if len(markdown) <= LONGEST:
        return shown
    return f"{shown}<p><i>The text is longer; the rest stands in the kept entry.</i></p>"


def sources_in(html: str) -> list[str]:
    """The addresses of the pictures in sanitised HTML, in order, each once."""
    found = (re.search(r'src="([^"]*)"', tag) for tag in re.findall(r"<img\b[^>]*>", html))
    return list(dict.fromkeys(entities.unescape(one[1]) for one in found if one and one[1]))
