"""Words as full-text search knows them, whatever their case, accents, width and script.

Folding follows Unicode (NFKD and full case folding); scripts without spaces between words (Chinese, Japanese, Korean, Thai, Lao,
Khmer) give pairs of signs. The inside is FTS5's own unicode61: text in Latin letters is cut by it alone.
"""

import re
import unicodedata
from collections.abc import Callable, Iterator
from functools import lru_cache
from typing import Any

import apsw

CATEGORIES = "L* N* Co Mn Mc"
UNSPACED = (
    "\u0e00-\u0eff\u1780-\u17ff\u1000-\u109f\u3005\u3040-\u30ff\u31f0-\u31ff\u3400-\u4dbf\u4e00-\u9fff\uac00-\ud7af\uf900-\ufaff"
    "\U00020000-\U0002fa1f"
)
RUN = re.compile(f"[{UNSPACED}]+|[^{UNSPACED}]+")
IS_UNSPACED = re.compile(f"[{UNSPACED}]")
SPELLED = {"ø": "o", "đ": "d", "ł": "l", "æ": "ae", "œ": "oe", "ħ": "h", "ı": "i", "ð": "d", "þ": "th", "ŋ": "n"}
"""Letters that Unicode does not take apart, as people write them who have not got them."""
INDIC_VOWELS = 10
"""Marks of a combining class below this one are parts of a letter; above, accents and vowel points."""


@lru_cache(maxsize=100_000)
def folded(word: str) -> str:
    """A word without case, accents and vowel points."""
    if word.isascii():
        return word.lower()
    apart = unicodedata.normalize("NFKD", unicodedata.normalize("NFKD", word).casefold())
    bare = "".join(SPELLED.get(sign, sign) for sign in apart if unicodedata.combining(sign) < INDIC_VOWELS)
    return unicodedata.normalize("NFC", bare).replace("ς", "σ").replace("\u200d", "").replace("\u200c", "") or word


def runs_of(word: str) -> Iterator[tuple[int, str]]:
    """The parts of a word that are of one sort of script, each with where it begins."""
    for found in RUN.finditer(word):
        yield found.start(), found[0]


def terms_of(word: str, *, is_query: bool) -> list[tuple[int, int, tuple[str, ...]]]:
    """What a word is known by: (where it begins and ends in the word, the terms that stand there).

    Of a run without spaces each sign with the pair that it begins, in a question the pairs alone.
    """
    if not IS_UNSPACED.search(word):
        return [(0, len(word), (folded(word),))]
    out: list[tuple[int, int, tuple[str, ...]]] = []
    for begin, run in runs_of(word):
        if not IS_UNSPACED.match(run):
            out.append((begin, begin + len(run), (folded(run),)))
            continue
        signs = [folded(sign) for sign in run]
        last = len(run) - 1
        for at in range(len(run)):
            pair = (signs[at] + signs[at + 1],) if at < last else ()
            if is_query and last:
                if pair:
                    out.append((begin + at, begin + at + 2, pair))
            else:
                out.append((begin + at, begin + at + 1, (*pair, signs[at])))
    return out


Tokens = list[Any]
"""Begin and end in bytes, then the terms at that place."""


def tokenizer(connection: apsw.Connection, _args: list[str]) -> Callable[[bytes, int, str | None], Tokens]:
    """The tokenizer for FTS5, see its documentation: (begin, end in bytes, terms at one place)."""
    inner = connection.fts5_tokenizer("unicode61", ["remove_diacritics", "0", "categories", CATEGORIES])

    def tokens(text: bytes, flags: int, locale: str | None) -> Tokens:
        out: Tokens = []
        is_query = bool(flags & apsw.FTS5_TOKENIZE_QUERY)
        for found in inner(text, flags, locale):
            begin, end = int(found[0]), int(found[1])
            raw = text[begin:end]
            if raw.isascii():
                out.append((begin, end, raw.decode().lower()))
                continue
            word = raw.decode("utf-8", "replace")
            for first, last, terms in terms_of(word, is_query=is_query):
                start = begin + len(word[:first].encode())
                out.append((start, start + len(word[first:last].encode()), *terms))
        return out

    return tokens
