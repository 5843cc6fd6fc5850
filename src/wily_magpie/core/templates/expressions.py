"""Expressions of templates: Jinja in a sandbox, limited in time and size.

Names: `page` (title, authors, published, modified, site, description, language, kind, image, keywords, price, currency,
duration, address, markdown, text and every other finding), `found["name"]` (all values of a name), `data` (raw
structured data), `now` (this moment, ISO 8601).
"""

import re
import sys
import time
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict
from functools import cache
from types import FrameType
from typing import Any

import jinja2
from jinja2.exceptions import SecurityError
from jinja2.sandbox import ImmutableSandboxedEnvironment

from wily_magpie.core.errors import UserError
from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.pages.page import Finding, Reading

LONGEST_S = 0.2
LARGEST = 1_000_000
"""Characters, or items, that a value may have."""
TEXT_METHODS = {"lower", "upper", "title", "strip", "lstrip", "rstrip", "split", "startswith", "endswith", "capitalize",
                "casefold", "count", "find", "removeprefix", "removesuffix", "isdigit"}  # fmt: skip
MAP_METHODS = {"get", "items", "keys", "values"}
FILTERS = ("default", "first", "last", "length", "lower", "upper", "title", "trim", "capitalize", "sort", "unique",
           "reverse", "list", "int", "float", "round", "abs", "truncate", "string", "min", "max", "striptags")  # fmt: skip


class TooMuch(Exception):
    """An expression that wants more than its share."""


def join(values: Iterable[object], separator: str = "; ") -> str:
    """Filter: texts in one, with something between them."""
    parts, size = [], 0
    for value in values:
        parts.append(str(value))
        size += len(parts[-1]) + len(separator)
        if size > LARGEST:
            raise TooMuch("it becomes too large")
    return separator.join(parts)


def replace(text: object, old: str, new: str) -> str:
    """Filter: one text put in the place of another."""
    whole = str(text)
    if len(whole) + whole.count(old) * len(new) > LARGEST:
        raise TooMuch("it becomes too large")
    return whole.replace(old, new)


def date(value: object, precision: str = "day") -> str:
    """Filter: an ISO date cut to "year", "month", "day" or "minute"."""
    lengths = {"year": 4, "month": 7, "day": 10, "minute": 17}
    if precision not in lengths:
        raise TooMuch(f"date knows year, month, day and minute, not {precision}")
    return str(value or "")[: lengths[precision]]


def names(values: object) -> list[str]:
    """Filter: people as "Given Family"."""
    return (
        [given_first(str(one)) for one in values]
        if isinstance(values, Sequence) and not isinstance(values, str)
        else []
    )


def number(value: object) -> str:
    """Filter: the first number in a text."""
    found = re.search(r"-?\d[\d,]*(\.\d+)?", str(value or ""))
    return found[0].replace(",", "") if found else ""


class Sandbox(ImmutableSandboxedEnvironment):
    """Lets expressions read what they are given, and nothing else."""

    intercepted_binops = frozenset(["*", "**", "+", "%"])

    def is_safe_attribute(self, obj: Any, attr: str, value: Any) -> bool:
        if isinstance(obj, str):
            return attr in TEXT_METHODS
        if isinstance(obj, Mapping):
            return attr in MAP_METHODS
        return isinstance(obj, PageNames) and not attr.startswith("_")

    def wrap_str_format(self, value: Any) -> None:
        """No str.format: its widths ("{:>999999999}") make texts of any size."""

    def call_binop(self, context: Any, operator: str, left: Any, right: Any) -> Any:
        if operator == "**" and (abs(left) > 1e6 or abs(right) > 64):
            raise TooMuch("the power is too large")
        if operator == "*" and not (isinstance(left, int | float) and isinstance(right, int | float)):
            raise TooMuch("only numbers can be multiplied")
        if operator == "%" and isinstance(left, str):
            raise TooMuch("% is for numbers")
        if operator == "+" and isinstance(left, str | list | tuple) and len(left) + len(right) > LARGEST:
            raise TooMuch("it becomes too large")
        both_whole = isinstance(left, int) and isinstance(right, int)
        if operator == "*" and both_whole and left.bit_length() + right.bit_length() > 4096:
            raise TooMuch("the number is too large")
        return super().call_binop(context, operator, left, right)


@cache
def environment() -> Sandbox:
    """The one sandbox."""
    sandbox = Sandbox(undefined=jinja2.ChainableUndefined)
    sandbox.filters = {name: sandbox.filters[name] for name in FILTERS}
    sandbox.filters.update(
        join=join, replace=replace, date=date, names=names, number=number, host=lambda a: host_of(str(a))
    )
    sandbox.globals = {}
    return sandbox


@cache
def compiled(text: str) -> Any:
    """An expression as a function; each text is compiled once."""
    return environment().compile_expression(text, undefined_to_none=True)


def check(text: str, where: str) -> None:
    """Whether an expression can be read.

    Raises:
        UserError: it cannot; what is wrong is told.
    """
    if len(text) > 20_000:
        raise UserError("bad-expression", f"The expression of {where} is too long.", "Make it shorter.")
    try:
        compiled(text)
    except (jinja2.TemplateError, RecursionError, SyntaxError, MemoryError) as error:
        raise UserError(
            "bad-expression", f"The expression of {where} cannot be read: {error}.", "Mend it there."
        ) from error


class PageNames:
    """`page` in expressions; remembers which findings were looked at, so that a value's origin can be told."""

    def __init__(self, reading: Reading) -> None:
        self._reading = reading
        self._used: list[Finding] = []
        self._names: list[str] = []

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        reading = self._reading
        match name:
            case "markdown" | "text":
                return getattr(reading.content, name)
            case "pictures":
                return [asdict(picture) for picture in reading.pictures]
            case "address":
                self._used.append(Finding("address", reading.page.address, "address"))
                return reading.page.address
            case "authors" | "keywords":
                found = reading.all("author" if name == "authors" else "keyword")
                self._note(found[:1], found[0].name if found else name)
                return list(reading.authors) if name == "authors" else [one.value for one in found]
            case _:
                found = reading.all(name)
                self._note(found[:1], name)
                return found[0].value if found else ""

    def _note(self, found: list[Finding], name: str) -> None:
        self._used += found
        self._names.append(name)


def evaluate(text: str, reading: Reading, now: str) -> tuple[object, PageNames]:
    """The value of an expression for a page, and what of the page it looked at.

    Raises:
        UserError: it fails, takes too long or becomes too large.
    """
    page = PageNames(reading)
    found = {name: [one.value for one in many] for name, many in reading.by_name.items()}
    deadline = time.thread_time() + LONGEST_S

    def watch(frame: FrameType, event: str, arg: object) -> Any:
        if time.thread_time() > deadline:
            raise TooMuch("it takes too long")
        return watch

    before = sys.gettrace()
    sys.settrace(watch)
    try:
        value = compiled(text)(page=page, found=found, data=reading.data, now=now)
        if not isinstance(value, str | int | float | list | tuple | Mapping | None):
            raise TooMuch("it gives no value")
        if isinstance(value, str | list | tuple | Mapping) and len(value) > LARGEST * 20:
            raise TooMuch("it becomes too large")
    except (TooMuch, SecurityError, jinja2.TemplateError, ArithmeticError, LookupError, TypeError, ValueError,
            AttributeError, RecursionError, MemoryError) as error:  # fmt: skip
        raise UserError("expression-failed", f"The expression {text[:80]} fails: {error}.") from error
    finally:
        sys.settrace(before)
    return value, page
