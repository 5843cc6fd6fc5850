"""HTML as Markdown (CommonMark 0.31 with GFM's tables and strikethrough) that says the same when it is rendered again."""

from wily_magpie.core.pages.markdown.blocks import to_markdown

__all__ = ["to_markdown"]
