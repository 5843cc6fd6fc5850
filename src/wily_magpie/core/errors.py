"""The errors that people meet, and who is to mend them.

    MagpieError
    ├── UserError            what was typed or asked for cannot be: shown where it was typed
    │   ├── UnreadableValue  a text that is no value of its field
    │   ├── BadQuery         a written query with a fault at a known place
    │   └── StuckStep        a step that cannot be taken back as a whole
    ├── EnvironmentFailure   disk, network, locked file: trying again may help
    │   ├── FileChanging     a file that another program writes at this very moment
    │   └── PageFailure      a page that could not be had
    └── BugError             our own fault

Every error has a slug, explained in docs/messages.md, a sentence that names the thing, and a way out.
"""


class MagpieError(Exception):
    """Base of all errors that are told to a person.

    Args:
        slug: stable short name, explained in docs/messages.md.
        message: one sentence that names the thing.
        way_out: what the person can do next, or "".
    """

    def __init__(self, slug: str, message: str, way_out: str = "") -> None:
        super().__init__(message)
        self.slug = slug
        self.message = message
        self.way_out = way_out

    def __str__(self) -> str:
        return f"{self.message} {self.way_out}".strip()


class UserError(MagpieError):
    """What was typed or asked for cannot be done as it stands."""


class UnreadableValue(UserError):
    """A text that is no value of its field's kind."""


class BadQuery(UserError):
    """A written query with a fault; position is the index of the faulty character in the text."""

    def __init__(self, slug: str, message: str, position: int, way_out: str = "") -> None:
        super().__init__(slug, message, way_out)
        self.position = position


class StuckStep(UserError):
    """A step that cannot be taken back, or done again, as a whole; step is its number."""

    def __init__(self, slug: str, message: str, step: int, way_out: str = "") -> None:
        super().__init__(slug, message, way_out)
        self.step = step


class EnvironmentFailure(MagpieError):
    """Disk, network or another program is in the way; the program is not to blame, trying again may help."""


class FileChanging(EnvironmentFailure):
    """A file became another one between being read and being replaced; nothing was changed, and trying again helps."""


class PageFailure(EnvironmentFailure):
    """A page that could not be had; retry_after_s tells how long its server asks to be left alone, 0 where it does not say."""

    retry_after_s = 0.0


class BugError(MagpieError):
    """Our own fault."""


NO_ROOM = ("disk-full", "disk-failed", "library-read-only")
"""Why a library cannot be opened, or an index made, that can still be looked at."""
