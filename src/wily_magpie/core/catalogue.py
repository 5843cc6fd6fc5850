"""Everything that can be done, once: its name, its keys, where it holds, what it wants to be told.

Menus, context menus, the finder, tool tips, the list of keys and the words of the shell are made from it.
"""

from dataclasses import dataclass, field
from enum import StrEnum


class Where(StrEnum):
    """Where a command can be used, as it stands above its group in the list of keys."""

    ANYWHERE = "Anywhere"
    CAPTURE = "Capture"
    READ = "Read"
    SOURCES = "Sources"
    TABLE = "In the table of Sources"
    PLACES = "In the list of places"
    ENTRY = "In an entry that is open whole"
    REVIEW = "Review"
    TEMPLATES = "Templates"
    BENCH = "On the bench"
    TRAY = "In the tray"
    SHELL = "In a shell"


@dataclass(frozen=True)
class Argument:
    """What a command of the shell is told.

    Attributes:
        names: flags such as "--in", or the one name of a positional argument.
        about: a sentence; "" where the name says it.
        kind: of its value.
        count: "" for one, "?" for at most one, "*" for any number, "+" for at least one, "append" for a flag given several times.
        default: what holds where it is not given; blank: what stands for a flag without a value.
        to: under which name the value is found; "" for the flag's own.
        one_of: arguments of the same word exclude one another, and one of them is needed.
    """

    names: tuple[str, ...]
    about: str = ""
    kind: str = "text"
    metavar: str = ""
    choices: tuple[str | int, ...] = ()
    count: str = ""
    default: object = None
    blank: object = None
    to: str = ""
    one_of: str = ""


@dataclass(frozen=True)
class Act:
    """A command.

    Attributes:
        id: stable name; in the shell, the word itself.
        title: what people read; about: a sentence more, for a tool tip.
        keys: the first is shown.
        group: commands of one group stand together in the menu; "": it has no place in the one menu.
        only_looks: whether it changes nothing, and so also answers of a library that may not be written to.
        parts: of a word of the shell, the words that follow it.
    """

    id: str
    title: str
    keys: tuple[str, ...] = ()
    where: Where = Where.ANYWHERE
    group: str = ""
    about: str = ""
    only_looks: bool = False
    arguments: tuple[Argument, ...] = ()
    parts: "tuple[Act, ...]" = field(default=())

    @property
    def tip(self) -> str:
        """What a button that does it tells."""
        said = self.about or self.title
        return f"{said} ({self.keys[0]})" if self.keys else said


def find_act(acts: tuple[Act, ...], name: str) -> Act:
    """The command of an id; KeyError where there is none, which is a fault of ours."""
    found = next((act for act in acts if act.id == name), None)
    if found is None:
        raise KeyError(name)
    return found
