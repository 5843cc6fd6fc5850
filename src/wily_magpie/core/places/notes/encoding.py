"""The encoding of a note's file: UTF-8, or what the person said that others of the folder are written in."""

import codecs
from contextlib import suppress
from typing import NamedTuple

from wily_magpie.core.errors import UserError

UTF_8 = "utf-8"
LATIN_1 = "cp1252"
"""What is called Latin-1 by nearly everybody: the set of Windows that has all of it."""
NAMES = {UTF_8: "UTF-8", LATIN_1: "Latin-1", "latin-1": "Latin-1", "utf-16-le": "UTF-16", "utf-16-be": "UTF-16"}
GUESSED = ("cp1252", "iso8859_2", "cp1251", "cp1250", "koi8_r", "cp1253", "cp932", "gb18030")
CENTRAL = ("cp1250", "iso8859_2")
SIGNS = ((LATIN_1, "àâäçèéêëîïôöùûüßñáíóúãõåæøÀÉÈÖÄÜØÅ’“”–"), ("cp1250", "ěščřžýáíéůúťďňąćęłńóśźżőűöüä’“”–„"))
"""Signs that texts of the west, and of the middle of Europe, are written with: the same bytes are signs of both."""
SEEN_BYTES = 4_000
"""Of a file, around its first byte that is no UTF-8, by which it is guessed what it is."""


class Decoded(NamedTuple):
    """The text of a file, its encoding, and why that may not be trusted, or ""."""

    text: str
    encoding: str = UTF_8
    fault: str = ""


def decode(content: bytes, other: str = "") -> Decoded:
    """The text of a file.

    Args:
        other: how files are read that are no UTF-8; "": they are not, and it is said what they could be.
    """
    for mark, wide in ((codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be")):
        if content.startswith(mark):
            with suppress(UnicodeDecodeError):
                return Decoded(content.decode(wide), wide)  # with its mark, which stays in the text
    try:
        return Decoded(content.decode(UTF_8))
    except UnicodeDecodeError as error:
        at = error.start
    if other:
        for encoding in dict.fromkeys((other, "latin-1" if other == LATIN_1 else other)):
            with suppress(UnicodeDecodeError, LookupError):
                return Decoded(content.decode(encoding), encoding)
    name = name_of(guess(content, at))
    told = f"It is not UTF-8; it looks like {name}. Have the folder read such notes as {name}, or save it as UTF-8."
    return Decoded(content.decode(UTF_8, "replace"), UTF_8, told)


def guess(content: bytes, at: int) -> str:
    """The encoding that a file that is no UTF-8 is most likely written in."""
    import charset_normalizer  # seldom needed

    part = content[max(0, at - SEEN_BYTES // 2) : at + SEEN_BYTES // 2]
    found = charset_normalizer.from_bytes(part, cp_isolation=list(GUESSED)).best()
    guessed = found.encoding if found is not None else LATIN_1
    if guessed not in CENTRAL:
        return guessed
    western, central = (sum(part.decode(one, "replace").count(sign) for sign in signs) for one, signs in SIGNS)
    return guessed if central > western else LATIN_1


def name_of(encoding: str) -> str:
    """What people call an encoding."""
    return NAMES.get(encoding, encoding.upper().replace("_", "-"))


def encode(text: str, encoding: str, name: str) -> bytes:
    """A text as the file of a name is written.

    Raises:
        UserError: its encoding has no sign for something in it.
    """
    try:
        return text.encode(encoding, "strict" if encoding != UTF_8 else "replace")
    except UnicodeEncodeError as error:
        raise UserError(
            "note-encoding", f"“{text[error.start]}” cannot be written in {name_of(encoding)}, which {name} is written in.",
            "Have the note written as UTF-8 first.",
        ) from error  # fmt: skip
