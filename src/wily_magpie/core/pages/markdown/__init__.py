"""HTML as Markdown (CommonMark 0.31 with GFM's tables and strikethrough) that says the same when it is rendered again."""

from wily_magpie.core.pages.markdown.blocks import lines_to_markdown, one_to_markdown, to_markdown

__all__ = ["lines_to_markdown", "one_to_markdown", "to_markdown"]
