"""A written query cut into tokens, after CQL 1.2 (Library of Congress)."""

import re

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import BadQuery
from wily_magpie.core.patterns import pattern

TOKEN = pattern(
    r"""\s*(?: (?P<quoted>"(?:[^"\\]|\\.)*")
             | (?P<symbol><=|>=|<>|==|[=<>()/])
             | (?P<word>[^\s()=<>"/]+) )""",
    re.VERBOSE | re.DOTALL,
)


@dataclass(frozen=True)
class Token:
    """kind is "quoted", "symbol", "word" or "end"; text is without quotes; position counts characters."""

    kind: str
    text: str
    position: int

    def is_word(self, *words: str) -> bool:
        """Whether it is one of these bare words, in any case."""
        return self.kind == "word" and self.text.casefold() in words


def tokens(text: str) -> list[Token]:
    """All tokens, the last of kind "end".

    Raises:
        BadQuery: a quotation mark is not closed.
    """
    out, at = [], 0
    while found := TOKEN.match(text, at):
        kind = str(found.lastgroup)
        part = found[kind]
        if kind == "quoted":
            part = re.sub(r"\\(.)", r"\1", part[1:-1], flags=re.DOTALL)
        out.append(Token(kind, part, found.start(kind)))
        at = found.end()
    if text[at:].strip():
        position = at + len(text[at:]) - len(text[at:].lstrip())
        raise BadQuery("query-quote", "A quotation mark is not closed.", position, 'Put " at its end.')
    out.append(Token("end", "", len(text)))
    return out


def quote(text: str) -> str:
    """A term as it is written: in quotation marks unless it is one plain word."""
    plain = re.fullmatch(r"[^\s()=<>\"/\\]+", text) and text.casefold() not in ("and", "or", "not", "prox", "sortby")
    return text if plain else '"' + re.sub(r'(["\\])', r"\\\1", text) + '"'
