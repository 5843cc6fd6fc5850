"""Names of files, made from titles."""

import re
import unicodedata

RESERVED = {"con", "prn", "aux", "nul", *(f"{port}{n}" for port in ("com", "lpt") for n in range(1, 10))}
LONGEST_BYTES = 180
"""Room for a number and an ending below the 255 bytes of common file systems."""


def safe_name(title: str) -> str:
    """A file name, without ending, that every common file system takes; never blank, never hidden.

    >>> safe_name("Mills: a history / part 2?")
    'Mills a history part 2'
    """
    text = unicodedata.normalize("NFC", title)
    text = "".join(
        " " if unicodedata.category(char) in ("Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp") else char for char in text
    )
    text = re.sub(r'[\\/:*?"<>|#^\[\]]+', " ", text)
    text = " ".join(text.split()).strip(" .~-")
    text = text.encode()[:LONGEST_BYTES].decode(errors="ignore").rstrip(" .")
    if not text:
        return "Untitled"
    return f"{text} -" if text.split(".")[0].strip().casefold() in RESERVED else text
