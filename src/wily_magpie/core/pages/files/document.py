"""The HTML document that stands for a file."""

import html
import json
from collections.abc import Mapping
from dataclasses import field
from typing import Any

from wily_magpie.core.dataclass import dataclass


@dataclass(frozen=True)
class Document:
    """What a file says.

    Attributes:
        title: "" where it tells none; its name is taken then.
        body: HTML; taken as the text as it is.
        data: what it says of itself, as an object of schema.org; {} for nothing.
        notice: a sentence for the person.
        identity: by which the file is known again where it has no address, or "".
        language: BCP 47, or "".
    """

    title: str
    body: str
    data: Mapping[str, Any] = field(default_factory=dict)
    notice: str = ""
    identity: str = ""
    language: str = ""

    def html(self) -> str:
        """The whole document."""
        told = {"@context": "https://schema.org", **self.data} if self.data else {}
        script = json.dumps(told, ensure_ascii=False).replace("<", "\\u003c")
        declared = f'<script type="application/ld+json">{script}</script>' if told else ""
        language = f' lang="{html.escape(self.language)}"' if self.language else ""
        title = f"<title>{html.escape(self.title)}</title>" if self.title else ""
        return (
            f'<!doctype html><html{language}><head><meta charset="utf-8">{title}{declared}</head>'
            f"<body>{self.body}</body></html>"
        )


def paragraphs(texts: list[str]) -> str:
    """Texts as paragraphs of HTML, their line breaks kept."""
    return "".join(f"<p>{html.escape(text).replace(chr(10), '<br>')}</p>" for text in texts if text.strip())


def said_size(size: int) -> str:
    """A size in bytes as people say it."""
    for unit, factor in (("MB", 1_000_000), ("kB", 1_000)):
        if size >= factor:
            return f"{size / factor:.1f} {unit}"
    return f"{size} bytes"
