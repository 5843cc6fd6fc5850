"""Soft hyphens (U+00AD) in a text that is shown, where its language lets words be parted; nothing of them is kept."""

import re
from functools import lru_cache
from typing import TYPE_CHECKING

from wily_magpie.core.entries.html_words import with_words

if TYPE_CHECKING:
    from pyphen import Pyphen

SOFT = "\u00ad"
SHORTEST = 6
WORD = re.compile(rf"[^\W\d_]{{{SHORTEST},}}")
UNPARTED = frozenset("code pre kbd samp h1 h2 h3 h4 h5 h6".split())
"""Elements whose words stay whole."""


@lru_cache(maxsize=8)
def dictionary(language: str) -> "Pyphen | None":
    """The patterns of a language (BCP 47); None where there are none."""
    import pyphen  # seldom needed

    name = pyphen.language_fallback(language.replace("-", "_"))
    return pyphen.Pyphen(lang=name) if name else None


@lru_cache(maxsize=50_000)
def parted(word: str, language: str) -> str:
    """A word with soft hyphens."""
    known = dictionary(language)
    return str(known.inserted(word, SOFT)) if known is not None else word


def hyphenated(html: str, language: str) -> str:
    """Sanitised HTML with soft hyphens in its words.

    Args:
        language: BCP 47; one that is not known leaves the text as it is.
    """
    if not language or dictionary(language) is None:
        return html
    return with_words(html, lambda text: WORD.sub(lambda found: parted(found[0], language), text), UNPARTED)
