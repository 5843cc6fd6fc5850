"""What the companion may say: each message with its parts, their kinds and their sizes. Whatever else comes is refused."""

from collections.abc import Mapping
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError

LONGEST_ADDRESS, LONGEST_PIECE = 8_000, 600_000
PIECE = "text"
"""Of a piece, which may end in the midst of a letter: it is looked at when all of them are there."""


@dataclass(frozen=True)
class Part:
    """One part of a message.

    Attributes:
        kind: of its value.
        most: characters of a text, entries of a list or an object; the greatest of a number.
    """

    kind: type
    most: int
    is_needed: bool = True


NUMBER = Part(int, 1 << 31)
NAME, ADDRESS = Part(str, 200), Part(str, LONGEST_ADDRESS)
TITLE, HAND = Part(str, 2_000, is_needed=False), Part(dict, 40)
MARKS = Part(list, 2_000, is_needed=False)
MESSAGES: Mapping[str, Mapping[str, Part]] = {
    "hello": {"browser": NAME, "version": NAME},
    "piece": {"of": NAME, "index": NUMBER, "count": Part(int, 400), PIECE: Part(str, LONGEST_PIECE)},
    "fetch": {"address": ADDRESS, "by": ADDRESS},
    "fill": {"capture": NAME, "hand": HAND, "words": Part(str, 100_000, is_needed=False)},
    "keep": {"capture": NAME, "hand": HAND, "words": Part(str, 100_000, is_needed=False), "as": Part(str, 20)},
    "later": {"address": ADDRESS, "title": TITLE, "place": Part(str, 200, is_needed=False)},
    "known": {"address": ADDRESS},
    "mark": {"address": ADDRESS, "put": MARKS, "remove": MARKS},
    "undo": {"step": NUMBER},
    "open": {"address": ADDRESS},
    "entry": {"place": NAME, "entry": NUMBER},
    "show": {},
    "visit": {"address": ADDRESS, "words": Part(str, 20_000, is_needed=False), "is_typed": Part(bool, 1)},
}
"""All that may be said, by the word of `what`. `show` and `visit` are said by other starts of the program."""
WHOLES: Mapping[str, Mapping[str, Part]] = {
    "page": {
        "address": ADDRESS,
        "title": TITLE,
        "html": Part(str, 60_000_000),
        "screenshot": Part(str, 20_000_000, is_needed=False),
        "marks": MARKS,
        "picture": Part(str, LONGEST_ADDRESS, is_needed=False),
    },
    "pictures": {"capture": NAME, "pictures": Part(list, 600)},
}
"""What comes in pieces, by its kind."""


def checked(message: object, known: Mapping[str, Mapping[str, Part]], word: str) -> dict[str, Any]:
    """The message, with each of its parts of the kind and the size that it may have.

    Args:
        word: the part that tells which message it is.

    Raises:
        UserError: it is none that is known; which part is at fault is said.
    """
    name = message.get(word) if isinstance(message, dict) else None
    if not isinstance(message, dict) or not isinstance(name, str) or name not in known:
        raise UserError("companion-refused", f"“{str(name)[:40]}” is nothing that the companion may say.")
    for key, part in known[name].items():
        value = message.get(key)
        if value is None and not part.is_needed:
            continue
        size = int(value) if isinstance(value, int) else len(value) if isinstance(value, str | list | dict) else 0
        if type(value) is not part.kind or not 0 <= size <= part.most:
            raise UserError("companion-refused", f"“{key}” of “{name}” is missing, of another kind, or too large.")
    return {
        key: value if key == PIECE else sound(value) for key in (word, *known[name]) for value in (message.get(key),)
    }


def sound(value: Any) -> Any:
    """A value whose texts hold no half letters: pairs that were parted are put together, what is alone is U+FFFD."""
    if isinstance(value, str):
        return value if is_sound(value) else value.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    if isinstance(value, list):
        return [sound(one) for one in value]
    if isinstance(value, dict):
        return {sound(key): sound(one) for key, one in value.items()}
    return value


def is_sound(text: str) -> bool:
    """Whether a text can be written in UTF-8."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True
