"""How many words a text has, and how long they take to read."""

import re

WORDS_A_MINUTE = 230
WIDE = re.compile("[\u0e00-\u0eff\u1000-\u109f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\uf900-\ufaff]")


def word_count(text: str) -> int:
    """Words; in scripts without spaces two letters count as one."""
    without_spaces = len(WIDE.findall(text))
    return len(WIDE.sub(" ", text).split()) + without_spaces // 2
