"""The contract with scripts: objects as JSON Lines, messages apart, and what an exit code says."""

import json
import sys
from collections.abc import Mapping
from typing import TYPE_CHECKING

from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

DONE, USER_ERROR, ENVIRONMENT_FAILURE = 0, 1, 2


def emit(one: Mapping[str, object]) -> None:
    """One object as one line of standard output."""
    show(json.dumps(one, ensure_ascii=False) + "\n")


def show(text: str) -> None:
    """Text as it is, on standard output."""
    sys.stdout.buffer.write(text.encode("utf-8", "replace"))
    sys.stdout.buffer.flush()


def looked_through(session: "Session", key: str | None = None) -> None:
    """Has notes read that others have changed; where that cannot be, it is said, and what is known is shown all the same."""
    try:
        session.refresh_notes(key)
    except EnvironmentFailure as error:
        say(str(error))


def tell_reading(event: object) -> None:
    """Says on a terminal, on one line, how many of very many notes are read; a script is told nothing.

    Args:
        event: whatever a session tells.
    """
    from wily_magpie.core.events import NotesComing  # loaded with the session

    if isinstance(event, NotesComing) and sys.stderr.isatty():
        is_over = event.done == event.total
        line = "" if is_over else f"wily-magpie: reading notes, {event.done:,} of {event.total:,} …"
        sys.stderr.write(f"\r\x1b[K{line}")  # ECMA-48: erase to the end of the line
        sys.stderr.flush()


def say(message: str) -> None:
    """A message for a person, on standard error."""
    sys.stderr.write(f"wily-magpie: {message}\n")


def exit_code(error: MagpieError) -> int:
    """1: what was asked for cannot be; 2: the environment, or we, are at fault."""
    return USER_ERROR if isinstance(error, UserError) else ENVIRONMENT_FAILURE
