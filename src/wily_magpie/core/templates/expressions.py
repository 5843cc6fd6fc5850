"""Expressions of templates: Jinja in a sandbox, limited in time, size and depth.

An expression is written bare, `page.title ~ ", " ~ page.site`, or as a text with places for values,
`{{ page.title }}, {{ page.site }}`. Its names are those of `NAMES`; its filters those of `filters.FILTERS` and
`filters.BORROWED`.
"""

import difflib
import gc
import json
import math
import re
import signal
from collections.abc import Callable, ItemsView, Iterator, KeysView, Mapping, Sequence, ValuesView
from contextlib import contextmanager
from dataclasses import asdict
from functools import cache, wraps
from types import FrameType
from typing import Any

import jinja2
from jinja2 import nodes
from jinja2.compiler import CodeGenerator, Frame
from jinja2.exceptions import SecurityError
from jinja2.runtime import LoopContext
from jinja2.sandbox import ImmutableSandboxedEnvironment

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import KINDS, FieldKind, Value
from wily_magpie.core.pages.page import Finding
from wily_magpie.core.templates import filters
from wily_magpie.core.templates.apart import Mistake, failure, is_text
from wily_magpie.core.templates.filters import BORROWED, FILTERS, LARGEST, TooMuch, as_word, file_name, listed
from wily_magpie.core.templates.rule_context import KNOWN_NAMES, MANY_NAMES, Declared, RuleContext, said

LONGEST_S = 0.2
LONGEST_TEXT = 20_000
MOST_BITS = 4096
"""Of a whole number."""
DEEPEST = 60
"""Brackets in brackets."""
DEEPEST_LIST = 20
MOST_EACH = 1000
NUMBER = re.compile(r"[-+\u2212]?\d{1,3}(?:[ '’\u00a0\u2009\u202f]\d{3})+(?!\d)(?:[.,]\d+)?|[-+\u2212]?\d[\d.,]*")
TAKE_MANY = frozenset("first last length sort min max join items bullets unique reverse words default given_family family_given"
                      " family each".split())  # fmt: skip
"""Filters that are given lists, too."""
NAMES = ("page", "found", "every", "data", "marks", "now", "place", "title")
TEXT_METHODS = {"lower", "upper", "title", "strip", "lstrip", "rstrip", "split", "startswith", "endswith", "capitalize",
                "casefold", "count", "find", "removeprefix", "removesuffix", "isdigit"}  # fmt: skip
LOOP_NAMES = {"index", "index0", "first", "last", "length"}
MAP_METHODS = {"get", "items", "keys", "values"}
FAILURES = (TooMuch, SecurityError, jinja2.TemplateError, ArithmeticError, LookupError, TypeError, ValueError, AttributeError,
            RecursionError, MemoryError, NameError)  # fmt: skip


class Writer(CodeGenerator):
    """Compiles expressions; `a ~ b` is ours, since Jinja's own joins texts of any size."""

    def visit_Concat(self, node: nodes.Concat, frame: Frame) -> None:  # noqa: N802 - the name is Jinja's
        self.write("environment.joined((")
        for part in node.nodes:
            self.visit(part, frame)
            self.write(", ")
        self.write("))")


class Sandbox(ImmutableSandboxedEnvironment):
    """Lets expressions read what they are given, and nothing else."""

    code_generator_class = Writer

    @staticmethod
    def joined(parts: Sequence[object]) -> str:
        """Texts one behind the other, as long as that does not become too large."""
        texts = [str(as_word(part)) for part in parts]
        if sum(map(len, texts)) > LARGEST:
            raise TooMuch("it becomes too large")
        figures = [part for part in parts if any(char.isdigit() for char in str(part))]
        is_declared = bool(figures) and all(isinstance(part, Declared | float | int) for part in figures)
        return Declared("".join(texts)) if is_declared else "".join(texts)

    intercepted_binops = frozenset(["*", "**", "+", "%"])

    def is_safe_attribute(self, obj: Any, attr: str, value: Any) -> bool:
        if isinstance(obj, str):
            return attr in TEXT_METHODS
        if isinstance(obj, Mapping):
            return attr in MAP_METHODS
        if isinstance(obj, LoopContext):
            return attr in LOOP_NAMES
        return isinstance(obj, PageNames) and not attr.startswith("_")

    def getattr(self, obj: Any, attribute: str) -> Any:
        """What is asked of data is looked for among its own names first, not among Python's."""
        if isinstance(obj, Mapping | list) and attribute not in MAP_METHODS:
            return self.getitem(obj, attribute)
        return super().getattr(obj, attribute)

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
        if operator == "*" and both_whole and left.bit_length() + right.bit_length() > MOST_BITS:
            raise TooMuch("the number is too large")
        return super().call_binop(context, operator, left, right)


@jinja2.pass_context
def note_link(context: Any, title: object, *, make: bool = False) -> str:
    """A link to the note of a title, [[Title]]; with make=true the note is made where there is none, when the page is kept."""
    name = file_name(title) if str(title or "").strip() else ""
    if name and make:
        context["page"]._notes.append(name)  # noqa: SLF001 - underscored only against expressions
    return f"[[{name}]]" if name else ""


@jinja2.pass_context
def each(context: Any, values: object, name: str, *args: Any, **named: Any) -> list[object]:
    """Another filter, by its name, for each of the values of a list; blank results are left out."""
    known = environment().filters
    if name not in known or name == "each":
        near = difflib.get_close_matches(str(name), known, 1)
        raise TooMuch(f"there is no filter {str(name)[:40]}{f'; did you mean {near[0]}?' if near else ''}")
    before = (context,) if hasattr(known[name], "jinja_pass_arg") else ()
    found = [known[name](*before, one, *args, **named) for one in listed(values)[:MOST_EACH]]
    return [one for one in found if one not in ("", None, [])]


def language_in(context: Any) -> str:
    """The language of the page that an expression is worked out for; "" where it is not known."""
    page = context.get("page")  # patterns of quotations have none
    return page._material.reading.language if page is not None else ""  # noqa: SLF001 - underscored only against expressions


@jinja2.pass_context
def number(context: Any, value: object) -> str:
    """The first number in a text, read as its page writes it; as it is written in JSON."""
    for word in NUMBER.findall(str("" if value is None else value))[:1]:
        return Declared(KINDS["number"].show(figures(KINDS["number"], value, word.rstrip(".,'"), language_in(context))))
    return ""


@jinja2.pass_context
def amount(context: Any, value: object, unit: str = "") -> str:
    """A number with its unit or currency: "€ 1,250.00" is 1250 EUR; with a unit, a bare number gets it."""
    whole = str("" if value is None else value)
    text = KINDS["amount"].show(figures(KINDS["amount"], value, whole, language_in(context)))
    return Declared(f"{text} {unit}" if unit and text and " " not in text else text)


@jinja2.pass_context
def date(context: Any, value: object, form: str = "day") -> str:
    """A date, read as people write it in the page's language, cut or written anew; see `filters.date`.

    Raises:
        TooMuch: it is no date, or can be two.
    """
    text = "" if value is None else str(value)
    if not text.strip():
        return ""
    try:
        read = KINDS["date"].read_in(text, language_in(context))
    except UnreadableValue as error:
        raise TooMuch(error.message) from error
    return filters.date(read, form, text)


def figures(kind: FieldKind, value: object, text: str, language: str) -> Value:
    """What a text, the figures of a value, means; nothing where it means nothing. What can mean two things is said."""
    try:
        return kind.from_page(text, language, is_declared=isinstance(value, Declared | float | int))
    except UnreadableValue as error:
        if " can be " in error.message:
            raise TooMuch(error.message) from error
        return None


def given_words(function: Callable[..., Any], *, takes_many: bool) -> Callable[..., Any]:
    """A filter that is given what can be written into a text, and mostly no lists: it would write how Python shows them."""
    first = 1 if hasattr(function, "jinja_pass_arg") else 0  # some are given Jinja's context before

    @wraps(function)
    def filtered(*args: Any, **named: Any) -> Any:
        if takes_many:
            for one in (*args[first:], *named.values()):
                check_plain(one)
        else:
            as_word(args[first])
        return function(*args, **named)

    return filtered


def check_plain(value: object, depth: int = 0) -> None:
    """TooMuch where a value holds anything but words, lists and mappings of them."""
    if isinstance(value, Mapping | list | tuple | Iterator | KeysView | ValuesView | ItemsView):
        if depth > DEEPEST_LIST:
            raise TooMuch("a list stands in too many others")
        if isinstance(value, Mapping):
            value = [*value.keys(), *value.values()]
        for one in () if isinstance(value, Iterator) else value:
            check_plain(one, depth + 1)
    else:
        as_word(value)


IN_CONTEXT: dict[str, Callable[..., object]] = {
    "note_link": note_link,
    "each": each,
    "number": number,
    "amount": amount,
    "date": date,
}
"""Filters that need to know what they are worked out for."""


@cache
def environment() -> Sandbox:
    """The one sandbox."""
    sandbox = Sandbox(undefined=jinja2.ChainableUndefined, finalize=as_word)
    given = {**{name: sandbox.filters[name] for name in BORROWED}, **FILTERS, **IN_CONTEXT}
    sandbox.filters = {name: given_words(one, takes_many=name in TAKE_MANY) for name, one in given.items()}
    sandbox.globals = {}
    sandbox.tests = {name: sandbox.tests[name] for name in ("defined", "undefined", "none", "string", "number", "in")}
    return sandbox


@cache
def compiled(text: str) -> Any:
    """An expression as a function, or a template; each text is compiled once."""
    if is_text(text):
        return environment().from_string(text)
    return environment().compile_expression(text, undefined_to_none=True)


def check(text: str, where: str, names: Sequence[str] = NAMES) -> None:
    """Whether an expression can be read and asks only for what there is.

    Raises:
        Mistake: it cannot; what is wrong, where, and the nearest known name are told.
    """
    whole = (0, len(text))
    if len(text) > LONGEST_TEXT:
        raise Mistake(f"The expression of {where} is too long.", "Make it shorter.", *whole)
    if deepest(text) > DEEPEST:
        raise Mistake(f"The expression of {where} has too many brackets in each other.", "Make it simpler.", *whole)
    try:
        tree = environment().parse(text if is_text(text) else f"{{{{ {text} }}}}")
        check_names(tree, text, where, names)
        compiled(text)
    except jinja2.TemplateError as error:
        raise mistake(str(error), text, where) from error
    except (RecursionError, SyntaxError, MemoryError, ValueError) as error:
        raise Mistake(f"The expression of {where} cannot be read: {error}.", "Make it simpler.", *whole) from error


def deepest(text: str) -> int:
    """The most brackets that are open at once."""
    depth = most = 0
    for char in text:
        depth += (char in "([{") - (char in ")]}")
        most = max(most, depth)
    return most


def mistake(said: str, text: str, where: str) -> Mistake:
    """What Jinja says, with the place and the nearest known name."""
    unknown = re.search(r"No (filter|test) named '([^']*)'", said)
    if unknown:
        known = sorted(environment().filters if unknown[1] == "filter" else environment().tests)
        return misnamed(f"{unknown[1]} “{unknown[2]}”", unknown[2], known, text, where)
    got = re.search(r"got '([^']*)'|near '([^']*)'|'([^']*)'\.?$", said)
    word = next((part for part in got.groups() if part), "") if got else ""
    at = text.rfind(word) if word and word not in ("end of print statement", "end of template") else -1
    start, stop = (at, at + len(word)) if at >= 0 else (max(0, len(text) - 1), len(text))
    said = said.replace("end of print statement", "the end").replace("end of template", "the end")
    return Mistake(f"The expression of {where} cannot be read: {said}.", "Mend it there.", start, stop)


def misnamed(what: str, name: str, known: list[str], text: str, where: str) -> Mistake:
    """A name that there is not."""
    near = difflib.get_close_matches(name, known, 1, 0.5)
    found = re.search(rf"(?<!\w){re.escape(name)}(?!\w)", text)
    start, stop = found.span() if found else (0, len(text))
    way = f"Did you mean {near[0]}?" if near else f"There are: {', '.join(known[:60])}."
    return Mistake(f"The expression of {where} asks for the {what}, which there is not.", way, start, stop)


def check_names(tree: nodes.Template, text: str, where: str, names: Sequence[str]) -> None:
    """Whether all names are known.

    Raises:
        Mistake: one is not.
    """
    own = {node.name for node in tree.find_all(nodes.Name) if node.ctx in ("store", "param")} | {"loop"}
    for node in tree.find_all(nodes.Name):
        if node.ctx == "load" and node.name not in names and node.name not in own:
            known = [*names, *(f"page.{one}" for one in KNOWN_NAMES if "page" in names)]
            raise misnamed(f"name “{node.name}”", node.name, known, text, where)
    for asked in tree.find_all(nodes.Getattr):
        is_page = isinstance(asked.node, nodes.Name) and asked.node.name == "page"
        if is_page and asked.attr not in KNOWN_NAMES:
            raise misnamed(f"name “page.{asked.attr}”", asked.attr, sorted(KNOWN_NAMES), text, where)
    for literal in tree.find_all(nodes.Const):
        value = literal.value
        if (isinstance(value, int) and value.bit_length() > MOST_BITS) or (
            isinstance(value, float) and math.isinf(value)
        ):
            raise Mistake(
                f"The expression of {where} has a number that is too large.", "Make it smaller.", 0, len(text)
            )


class PageNames:
    """`page` in expressions; remembers which findings were looked at, so that a value's origin can be told."""

    def __init__(self, context: RuleContext) -> None:
        self._material = context
        self._used: list[Finding] = []
        self._names: list[str] = []
        self._notes: list[str] = []

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        reading = self._material.reading
        match name:
            case "markdown" | "text":
                return getattr(reading.content, name)
            case "pictures":
                return [asdict(picture) for picture in reading.pictures]
            case "authors" | "keywords":
                found = reading.all(MANY_NAMES[name])
                self._note(found[:1], MANY_NAMES[name])
                return list(reading.authors) if name == "authors" else [one.value for one in found]
            case _:
                found = self._material.look_up(name)
                self._note(found[:1], name)
                return said(found[0]) if found else ""

    def _note(self, found: list[Finding], name: str) -> None:
        self._used += found
        self._names.append(name)


class Looked(dict[str, Any]):
    """`found` and `every`: tell which names were asked for."""

    def __init__(self, values: Mapping[str, Any], page: PageNames) -> None:
        super().__init__(values)
        self._page = page

    def __getitem__(self, name: str) -> Any:
        value = super().__getitem__(name)
        self._page._note(self._page._material.look_up(name)[:1], name)  # noqa: SLF001 - as above
        return value


@contextmanager
def stopped_after(seconds: float) -> Iterator[None]:
    """Ends what is done within after some time of the processor, with TooMuch; only on the main thread of a process.

    No garbage is collected meanwhile, which would be nobody's doing that is within.
    """

    def stop(_number: int, _frame: FrameType | None) -> None:
        signal.setitimer(signal.ITIMER_PROF, 0)
        raise TooMuch("it takes too long")

    before, collects = signal.signal(signal.SIGPROF, stop), gc.isenabled()
    gc.disable()
    signal.setitimer(signal.ITIMER_PROF, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_PROF, 0)
        signal.signal(signal.SIGPROF, before)
        if collects:
            gc.enable()


def evaluate(text: str, context: RuleContext) -> tuple[object, PageNames]:
    """The value of an expression for a page, and what of the page it looked at.

    Raises:
        UserError: it fails, takes too long or becomes too large.
    """
    page = PageNames(context)
    names = {
        "page": page, "found": Looked(context.found, page), "every": Looked(context.every, page), "data": context.data,
        "marks": [{"text": one.exact, "comment": one.comment, "kind": one.kind} for one in context.marks],
        "now": context.now, "place": context.place, "title": context.title,
    }  # fmt: skip
    return worked_out(text, names), page


def worked_out(text: str, names: Mapping[str, Any]) -> Any:
    """The value of an expression over some names, as plain data.

    Raises:
        UserError: it fails, takes too long or becomes too large.
    """
    try:
        work = compiled(text)  # once for each text, and so not of the time of this page
        with stopped_after(LONGEST_S):
            value = written(work.generate(names)) if is_text(text) else work(**names)
        if isinstance(value, list | tuple):
            for one in value:
                as_word(one)
        elif value is not None:
            as_word(value)
        if isinstance(value, str | list | tuple) and len(value) > LARGEST:
            raise TooMuch("it becomes too large")
        plain = json.loads(json.dumps(value, default=as_word))
        return Declared(plain) if isinstance(value, Declared) else plain
    except FAILURES as error:
        raise failure(text, f"fails: {error}") from error


def written(parts: Any) -> str:
    """A text from its parts, as long as it does not become too large."""
    out, size = [], 0
    for part in parts:
        out.append(part)
        size += len(part)
        if size > LARGEST:
            raise TooMuch("it becomes too large")
    return "".join(out)
