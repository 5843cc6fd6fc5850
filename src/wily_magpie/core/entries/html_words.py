"""The words of sanitised HTML, changed where they stand outside some elements."""

import re
from collections.abc import Callable, Collection

TAG = re.compile(r"(<[^<>]*>)")


def with_words(html: str, change: Callable[[str], str], whole: Collection[str]) -> str:
    """Sanitised HTML with its texts changed.

    Args:
        whole: names of elements whose texts stay as they are.
    """
    out, depth = [], 0
    for piece in TAG.split(html):
        if piece.startswith("<"):
            name = piece.strip("</>").partition(" ")[0].casefold()
            if name in whole:
                depth = max(0, depth + (-1 if piece.startswith("</") else 1))
            out.append(piece)
        else:
            out.append(piece if depth else change(piece))
    return "".join(out)
