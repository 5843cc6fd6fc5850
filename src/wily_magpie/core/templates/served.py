"""What the process that works out expressions answers; see `apart`, which asks."""

import time
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.page import Reading
from wily_magpie.core.templates import expressions
from wily_magpie.core.templates.apart import NO_READING, Mistake
from wily_magpie.core.templates.rule_context import Declared, RuleContext

MOST_KNOWN = 32
LONGEST_S = 1.0
"""Of one question, after which the rest is left to be asked again."""
KNOWN: OrderedDict[int, RuleContext] = OrderedDict()
"""What was given lately, by the number of its reading: what is found in it once need not be found again."""


def check(text: str, where: str, names: Sequence[str] | None = None) -> list[Any] | None:
    """What is wrong with an expression."""
    try:
        expressions.check(text, where, names or expressions.NAMES)
    except Mistake as error:
        return [error.message, error.way_out, error.start, error.stop]
    return None


def evaluate(
    wanted: Sequence[tuple[str, int, RuleContext]], shown: Mapping[int, Reading]
) -> list[Sequence[Any]] | None:
    """What expressions give, as many as can be worked out in time, each as `Worked` has it or as why it fails.

    Args:
        wanted: the expression, the number of its page's reading, and what else it is given.
        shown: readings by number; None is the answer where one was never shown.
    """
    if any(number not in shown and number not in KNOWN for _, number, _ in wanted):
        return None
    begun_s = time.process_time()
    out: list[Sequence[Any]] = []
    for text, number, given in wanted:
        if time.process_time() - begun_s > LONGEST_S:
            break
        out.append(worked(text, context_of(number, given, shown.get(number))))
    while len(KNOWN) > MOST_KNOWN:
        KNOWN.popitem(last=False)
    return out


def write(text: str, wanted: Sequence[Mapping[str, Any]]) -> list[Sequence[str]]:
    """What a pattern gives for each of some values by their names, or why it fails; as many as can be worked out in time."""
    begun_s = time.process_time()
    out: list[Sequence[str]] = []
    for names in wanted:
        if out and time.process_time() - begun_s > LONGEST_S:
            break
        try:
            value = expressions.worked_out(text, names)
        except UserError as error:
            return [*out, [error.message]]
        out.append(
            ["; ".join(map(str, value)) if isinstance(value, list) else str(value if value is not None else ""), ""]
        )
    return out


def worked(text: str, context: RuleContext) -> Sequence[Any]:
    """What one gives."""
    try:
        value, page = expressions.evaluate(text, context)
    except UserError as error:
        return [error.message]
    origin = next((used.origin for used in page._used if used.value), "")  # noqa: SLF001 - underscored only against expressions
    names, notes = (list(dict.fromkeys(one)) for one in (page._names, page._notes))  # noqa: SLF001
    return [value, origin, names, notes, isinstance(value, Declared)]


def context_of(number: int, given: RuleContext, shown: Reading | None) -> RuleContext:
    """What is given with its reading; the same object as before, where it is the same."""
    before = KNOWN.get(number)
    if before is None or given != replace(before, reading=NO_READING):
        reading = before.reading if before is not None else shown
        assert reading is not None  # noqa: S101 - it was looked at
        KNOWN[number] = replace(given, reading=reading)
    KNOWN.move_to_end(number)
    return KNOWN[number]


ANSWERS: Mapping[str, Callable[..., Any]] = {"check": check, "evaluate": evaluate, "write": write}
