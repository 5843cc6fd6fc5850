"""Regular expressions that are compiled when they are first used.

Modules that are loaded at every start have some thirty, of which a start uses none; compiling them took a twentieth of it.
"""

import re
from typing import TYPE_CHECKING

METHODS = ("match", "fullmatch", "search", "sub", "subn", "split", "findall", "finditer")


class LatePattern:
    """Stands for a pattern of `re`; its methods become those of the compiled one."""

    def __init__(self, text: str, flags: int = 0) -> None:
        self.text, self.asked_flags = text, flags

    def __getattr__(self, name: str) -> object:
        compiled = re.compile(self.text, self.asked_flags)
        for method in METHODS:
            setattr(self, method, getattr(compiled, method))
        return getattr(compiled, name)


if TYPE_CHECKING:
    pattern = re.compile
else:
    pattern = LatePattern
