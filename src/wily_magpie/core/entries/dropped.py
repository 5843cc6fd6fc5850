"""What another program gives by dropping or pasting."""

import re
from pathlib import Path

from wily_magpie.core.dataclass import dataclass

LONGEST_TITLE = 120


@dataclass(frozen=True)
class Dropped:
    """See the module.

    Attributes:
        addresses: of the web, each with the title that came with it, or "".
        files: paths on this disk.
        picture: PNG data of a picture without a file.
        text, html: what was chosen there.
        source: the address of the page that it comes from, or "".
    """

    addresses: tuple[tuple[str, str], ...] = ()
    files: tuple[Path, ...] = ()
    picture: bytes = b""
    text: str = ""
    html: str = ""
    source: str = ""


def title_in(text: str) -> str:
    """A title made of the first line of a text."""
    first = re.sub(r"[#>*_`\[\]]+", "", text.strip().splitlines()[0]).strip()
    return first[:LONGEST_TITLE].rstrip() or "Dropped text"
