"""Texts as vectors of hashed words: how alike two of them are is the cosine of their TF-IDF weights.

Salton, Buckley: Term-weighting approaches in automatic text retrieval (1988); words are hashed to 18 bits (Weinberger et al.: Feature
hashing, 2009). Scripts without spaces between words give pairs of signs.
"""

import re
import zlib
from collections import Counter
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wily_magpie.core.dataclass import dataclass

BITS = 18
SIZE = 1 << BITS
LONGEST_TEXT, TITLE_TIMES, MOST_COUNT = 200_000, 2, 255
WORD = re.compile(r"\w+")
UNSPACED = re.compile("[\u0e00-\u0e7f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]")
COMMON = 0.5
"""Words that stand in more than this share of all documents tell nothing."""


def words_of(text: str) -> list[str]:
    """The words of a text; of scripts without spaces the pairs of signs."""
    out = []
    for word in WORD.findall(text[:LONGEST_TEXT].casefold()):
        if len(word) > 1 and UNSPACED.match(word):
            out += [word[at : at + 2] for at in range(len(word) - 1)]
        else:
            out.append(word)
    return out


def vector_of(title: str, body: str) -> bytes:
    """A text as it is stored: its hashed words, ascending, as uint32; then how often each stands in it, as uint8."""
    counts = Counter(
        zlib.crc32(word.encode("utf-8", "replace")) % SIZE for word in [*words_of(title) * TITLE_TIMES, *words_of(body)]
    )
    keys = sorted(counts)
    many = [min(counts[key], MOST_COUNT) for key in keys]
    return np.array(keys, "<u4").tobytes() + np.array(many, np.uint8).tobytes()


def read_vector(stored: bytes) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
    """The words of a stored vector, and 1 + log of how often each stands in it."""
    count = len(stored) // 5
    keys = np.frombuffer(stored, "<u4", count)
    many = np.frombuffer(stored, np.uint8, count, count * 4).astype(
        np.float32
    )  # of uint8 the logarithm would be a float16
    return keys.astype(np.uint32), 1 + np.log(many)


@dataclass(frozen=True)
class Documents:
    """Many texts, to be held against one.

    Attributes:
        keys, weights: of all words of all texts, one text after another; starts: where each begins.
        idf: of each hashed word. norms: length of each text's vector.
    """

    keys: NDArray[np.uint32]
    weights: NDArray[np.float32]
    starts: NDArray[np.int64]
    idf: NDArray[np.float32]
    norms: NDArray[np.float32]

    @classmethod
    def of(cls, stored: Sequence[bytes]) -> "Documents":
        """From stored vectors; a text without words counts as one with a word that nobody has."""
        parts = [read_vector(one if len(one) >= 5 else b"\0\0\0\0\1") for one in stored]
        keys = np.concatenate([part[0] for part in parts])
        weights = np.concatenate([part[1] for part in parts])
        sizes = np.array([len(part[0]) for part in parts])
        starts = np.concatenate([[0], np.cumsum(sizes)[:-1]]).astype(np.int64)
        frequency = np.bincount(keys, minlength=SIZE)
        idf = np.log((len(parts) + 1) / (frequency + 1)).astype(np.float32)
        idf[frequency > COMMON * max(10, len(parts))] = 0
        norms = np.sqrt(np.add.reduceat((weights * idf[keys]) ** 2, starts))
        return cls(keys, weights, starts, idf, np.maximum(norms, 1e-9).astype(np.float32))

    def likeness(self, stored: bytes) -> NDArray[np.float32]:
        """The cosine of each text with one, 0 to 1."""
        keys, weights = read_vector(stored)
        query = np.zeros(SIZE, np.float32)
        query[keys] = weights * self.idf[keys] ** 2
        length = float(np.sqrt(np.sum((weights * self.idf[keys]) ** 2)))
        products = np.add.reduceat(query[self.keys] * self.weights, self.starts)
        likeness: NDArray[np.float32] = (products / (self.norms * max(length, 1e-9))).astype(np.float32)
        return likeness
