"""The command line, understood: every option that is accepted holds, before and after the word; what cannot hold is refused."""

import argparse
import sys
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie import __version__
from wily_magpie.core.catalogue import Act, Argument
from wily_magpie.core.errors import UserError
from wily_magpie.shell.words import WITHOUT_LIBRARY, WORDS

if TYPE_CHECKING:
    from wily_magpie.core.companion.scheme import Visit

WITH_VALUE = ("--library", "--entry", "--words")
"""Options before the word that are followed by a value."""
TYPES = {"path": Path, "number": int}


def understood(words: Sequence[str] | None = None) -> argparse.Namespace:
    """What a command line asks for.

    Raises:
        UserError: an option before the word does not belong to it.
    """
    given = list(sys.argv[1:] if words is None else words)
    given, visit = visited(given)
    args = parser().parse_args(given)
    args.visit = replace(visit, words=args.words) if visit is not None and args.words else visit
    if visit is not None and args.command not in (None, "window"):
        raise UserError(
            "option-refused", f"“{args.command}” is no place for an address to be opened.", "Leave one out."
        )
    before: Path | None = args.library_before
    behind: Path | None = getattr(args, "library", None)
    if before is not None and args.command in WITHOUT_LIBRARY and not hasattr(args, "library"):
        raise UserError(
            "option-refused", f"“{args.command}” opens no library, so --library says nothing.", "Leave it out."
        )
    if before is not None and behind is not None and before != behind:
        raise UserError(
            "option-refused", f"--library is given twice: {before} and {behind}.", "Name the one that is meant."
        )
    args.library = behind if behind is not None else before
    return args


def visited(words: list[str]) -> "tuple[list[str], Visit | None]":
    """The words without an address that stands in place of a command; that address, which is opened in the window."""
    place = 0
    while place < len(words) and words[place].startswith("-"):
        place += 2 if words[place] in WITH_VALUE else 1
    if place >= len(words) or any(words[place] == act.id for act in WORDS):
        return words, None
    from wily_magpie.core.companion.scheme import Visit, is_of_scheme, visit_of  # seldom needed
    from wily_magpie.core.pages.address import from_typed, looks_like_address

    word = words[place]
    if is_of_scheme(word):
        visit = visit_of(word)
    elif looks_like_address(word):
        visit = Visit(from_typed(word))
    else:
        return words, None
    return [*words[:place], *words[place + 1 :]], visit


def parser() -> argparse.ArgumentParser:
    """The parser of the whole command line."""
    top = argparse.ArgumentParser(
        prog="wily-magpie",
        description="Captures web pages into typed collections and notes folders.",
        epilog="wily-magpie ADDRESS opens an address in the window.",
    )
    top.add_argument("--version", action="version", version=f"wily-magpie {__version__}")
    about = "the library's folder; made if it is not there"
    top.add_argument("--library", type=Path, metavar="DIR", dest="library_before", help=about)
    top.add_argument("--guard", action="store_true", help=argparse.SUPPRESS)
    top.add_argument("--entry", metavar="PLACE/NUMBER", help="open the window at an entry")
    top.add_argument(
        "--words", metavar="TEXT", default="", help="of the page at ADDRESS, words that are marked on its slip"
    )
    top.set_defaults(command="window")
    add_words(top, WORDS, "command", "COMMAND")
    return top


def add_words(parser: argparse.ArgumentParser, words: Sequence[Act], to: str, metavar: str) -> None:
    """Gives a parser the words that may follow."""
    following = parser.add_subparsers(dest=to, metavar=metavar)
    for act in words:
        one = following.add_parser(act.id, help=act.title, description=act.title)
        groups: dict[str, argparse._MutuallyExclusiveGroup] = {}
        for argument in act.arguments:
            if argument.one_of and argument.one_of not in groups:
                groups[argument.one_of] = one.add_mutually_exclusive_group(required=True)
            add_argument(groups.get(argument.one_of, one), argument)
        if act.parts:
            one.set_defaults(act=act.parts[0].id)
            add_words(one, act.parts, "act", "ACT")


def add_argument(parser: "argparse._ActionsContainer", argument: Argument) -> None:
    """One argument."""
    more: dict[str, object] = {"help": argument.about or None}
    if argument.to:
        more["dest"] = argument.to
    if argument.kind == "flag":
        parser.add_argument(*argument.names, action="store_true", **more)  # type: ignore[arg-type]
        return
    more["default"] = list(argument.default) if isinstance(argument.default, tuple) else argument.default
    if argument.kind in TYPES:
        more["type"] = TYPES[argument.kind]
    if argument.choices:
        more["choices"] = argument.choices
    else:
        more["metavar"] = argument.metavar or None
    if argument.count == "append":
        more["action"] = "append"
    elif argument.count:
        more["nargs"] = argument.count
    if argument.blank is not None:
        more["const"] = argument.blank
    parser.add_argument(*argument.names, **more)  # type: ignore[arg-type]
