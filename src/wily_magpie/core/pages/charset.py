"""Bytes of a page as text, after the order of the HTML standard: BOM, HTTP, declaration, then a guess."""

import codecs
import re

DECLARED = re.compile(rb"""<meta[^>]+charset\s*=\s*["']?\s*([\w:.-]+)|<\?xml[^>]+encoding\s*=\s*["']([\w:.-]+)""", re.I)
BOMS = ((codecs.BOM_UTF8, "utf-8"), (codecs.BOM_UTF16_LE, "utf-16-le"), (codecs.BOM_UTF16_BE, "utf-16-be"))
# the WHATWG Encoding standard reads these labels as the wider set
WIDER = {
    "iso-8859-1": "cp1252",
    "latin-1": "cp1252",
    "latin1": "cp1252",
    "ascii": "cp1252",
    "us-ascii": "cp1252",
    "gb2312": "gb18030",
    "gbk": "gb18030",
    "ks_c_5601-1987": "cp949",
    "euc-kr": "cp949",
    "shift_jis": "cp932",
    "iso-8859-9": "cp1254",
    "tis-620": "cp874",
    "iso-8859-11": "cp874",
    "x-sjis": "cp932",
}


def decode(content: bytes, told: str = "") -> str:
    """The text of a page.

    Args:
        told: the charset that the server named, or "".
    """
    for bom, name in BOMS:
        if content.startswith(bom):
            return content[len(bom) :].decode(name, "replace")
    found = DECLARED.search(content[:4096])
    declared = (found[1] or found[2]).decode("ascii", "ignore") if found else ""
    if declared.casefold().startswith("utf-16"):  # a declaration that could be read cannot be UTF-16
        declared = "utf-8"
    named = [WIDER.get(name.casefold(), name) for name in (told, declared)]
    for name in (*named, "utf-8"):
        if name:
            try:
                return content.decode(name)
            except (UnicodeDecodeError, LookupError, ValueError):
                continue
    for name in named:  # mostly right is better than a guess
        try:
            text = content.decode(name, "replace") if name else ""
        except (LookupError, ValueError):
            continue
        if text and text.count("\ufffd") < len(text) / 50:
            return text
    import charset_normalizer  # the last resort is seldom needed

    guess = charset_normalizer.from_bytes(content[:100_000]).best()
    return content.decode(WIDER.get(guess.encoding, guess.encoding) if guess else "cp1252", "replace")
