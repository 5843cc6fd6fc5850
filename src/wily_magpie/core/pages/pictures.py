"""Pictures that a text names."""

from functools import cache
from typing import TYPE_CHECKING

from wily_magpie.core.entries.note_text import plain_lines

if TYPE_CHECKING:
    from markdown_it import MarkdownIt


LONGEST_PARSED = 500_000
"""Letters of a text that is parsed as a whole."""


@cache
def parser() -> "MarkdownIt":
    """The Markdown parser, loaded when the first text needs it."""
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark").enable("table")


def addresses_in(markdown: str) -> list[str]:
    """The addresses of the pictures in a Markdown text, in order, each once."""
    if "![" not in markdown:
        return []
    if (
        len(markdown) > LONGEST_PARSED
    ):  # only the lines that could show any: a parser takes minutes for millions of them
        markdown = "\n\n".join(line.strip() for _, line in plain_lines(markdown) if "![" in line)
    out: list[str] = []
    for token in parser().parse(markdown):
        for child in token.children or []:
            if child.type == "image":
                address = str(child.attrs.get("src") or "")
                if address.startswith(("http://", "https://", "mid:")):
                    out.append(address)
    return list(dict.fromkeys(out))
