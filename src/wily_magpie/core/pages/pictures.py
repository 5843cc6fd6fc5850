"""Pictures that a text names."""

from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from markdown_it import MarkdownIt


@cache
def parser() -> "MarkdownIt":
    """The Markdown parser, loaded when the first text needs it."""
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark").enable("table")


def addresses_in(markdown: str) -> list[str]:
    """The addresses of the pictures in a Markdown text, in order, each once."""
    out: list[str] = []
    for token in parser().parse(markdown):
        for child in token.children or []:
            if child.type == "image":
                address = str(child.attrs.get("src") or "")
                if address.startswith(("http://", "https://", "mid:")):
                    out.append(address)
    return list(dict.fromkeys(out))
