"""Expressions worked out in a process apart, so that none takes more than its share, in C code neither."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.page import Content, Page, Reading
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.worker.process import Broken, Ended, Limits, Worker

LIMITS = Limits(seconds=2, megabytes=400)
WORKER = Worker("wily_magpie.core.templates.served", LIMITS)
MOST_WORKED = 100
"""Values that are remembered of one page."""


class Mistake(UserError):
    """An expression with a fault; start and stop tell where in its text."""

    def __init__(self, message: str, way_out: str, start: int, stop: int) -> None:
        super().__init__("bad-expression", message, way_out)
        self.start = start
        self.stop = stop


@dataclass(frozen=True)
class Worked:
    """What an expression gives.

    Attributes:
        value: plain: a text, a number, a list, a mapping; None for nothing.
        origin: of the first value of the page that it looked at, "" where it looked at none.
        names: what it looked at; notes: titles of notes that it wants to be made.
        is_declared: whether its figures are written as programs write them.
    """

    value: str | int | float | list[Any] | Mapping[str, Any] | None
    origin: str
    names: Sequence[str]
    notes: Sequence[str]
    is_declared: bool = False


def is_text(text: str) -> bool:
    """Whether an expression is a text with places for values."""
    return "{{" in text or "{%" in text


def check(text: str, where: str, names: Sequence[str] | None = None) -> None:
    """Whether an expression can be read and asks only for what there is.

    Args:
        names: what it may name; None for what templates know of a page.

    Raises:
        Mistake: it cannot; what is wrong, where, and the nearest known name are told.
    """
    try:
        mistake = WORKER.ask("check", text, where, names)
    except Ended as error:
        raise Mistake(f"The expression of {where} {error}.", "Make it simpler.", 0, len(text)) from error
    if mistake:
        raise Mistake(*mistake)


def evaluate(text: str, context: RuleContext) -> Worked:
    """What an expression gives for a page; worked out once for each.

    Raises:
        UserError: it fails, takes too long or becomes too large.
    """
    worked = context.worked.get(text)
    if worked is None:
        worked = asked([(text, context)])[0]
        remember(context, text, worked)
    if isinstance(worked, Worked):
        return worked
    raise worked.with_traceback(None)


def write(text: str, wanted: Sequence[Mapping[str, Any]]) -> list[str]:
    """What a pattern gives for each of some values by their names, as texts.

    Raises:
        UserError: it fails, takes too long or becomes too large.
    """
    out: list[str] = []
    try:
        while len(out) < len(wanted):
            told = WORKER.ask("write", text, wanted[len(out) :])
            out += (one[0] for one in told if len(one) > 1)
            failed = next((one[0] for one in told if len(one) == 1), None)
            if failed is not None:
                raise UserError(
                    "expression-failed", f"The pattern {failed.partition(' fails: ')[2] or failed}.", "Mend it."
                )
    except (Ended, Broken) as error:
        raise UserError(
            "expression-failed", f"The pattern cannot be worked out: {error}.", "Make it simpler."
        ) from error
    return out


def work_out(texts: Sequence[str], contexts: Sequence[RuleContext]) -> None:
    """Works out expressions for some pages together, since each question costs a way there and back; for `evaluate`."""
    wanted = [(text, context) for context in contexts for text in dict.fromkeys(texts) if text not in context.worked]
    while wanted:
        done = asked(wanted)
        for (text, context), worked in zip(wanted, done, strict=False):
            remember(context, text, worked)
        wanted = wanted[len(done) :]


def remember(context: RuleContext, text: str, worked: Worked | UserError) -> None:
    """Keeps what an expression gave; several threads may ask about one page."""
    if len(context.worked) >= MOST_WORKED:
        context.worked.clear()
    context.worked[text] = worked


def asked(wanted: Sequence[tuple[str, RuleContext]]) -> list[Worked | UserError]:
    """What the process answers for some expressions, for the first one at least."""
    plain = [(text, context.reading.number, replace(context, reading=NO_READING)) for text, context in wanted]
    try:
        told = WORKER.ask("evaluate", plain, {})
        if told is None:  # it does not know all pages yet
            shown = {context.reading.number: without_page(context.reading) for _, context in wanted}
            told = WORKER.ask("evaluate", plain, shown)
    except (Ended, Broken) as error:
        if len(wanted) > 1:  # one of them broke it; which, is seen one by one
            return asked(wanted[:1])
        return [failure(wanted[0][0], str(error) if isinstance(error, Ended) else "fails by a fault of ours")]
    return [
        failure(text, *one) if len(one) == 1 else Worked(*one) for (text, _), one in zip(wanted, told, strict=False)
    ]


def failure(text: str, why: str) -> UserError:
    """That an expression fails."""
    return UserError("expression-failed", f"The expression {text[:80]} {why}.", "Mend it in its template.")


NO_READING = Reading(Page("", "", ""), (), Content("", "", ""), "")


def without_page(reading: Reading) -> Reading:
    """What expressions may ask of a reading, which is not the page itself, nor its blocks."""
    content = Content("", reading.content.markdown, reading.content.text)
    return Reading(
        Page(reading.page.address, "", reading.page.way), reading.findings, content, reading.canonical, reading.data,
        reading.notice, reading.pictures,
    )  # fmt: skip
