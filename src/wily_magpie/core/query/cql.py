"""Questions as text: a part of CQL, the Contextual Query Language (Library of Congress / OASIS).

    query    = [ filter ] [ "sortBy" key { key } ]
    filter   = clause { ("and" | "or" | "not") clause }      equal rank, from left to right, as in CQL
    clause   = "not" clause | "(" filter ")" | index relation term | term { term }
    relation = ( "=" | "==" | "<>" | "<" | ">" | "<=" | ">=" | "within" | "any" | "all" | "adj" ) { "/" modifier }
    modifier = "entry=" number | "contains" | "begins" | "field" | "next" | "any"
    key      = index { "/" ( "descending" | "ascending" | "group" [ "=" step ] ) }

A term without an index is looked for everywhere, in quotation marks as a phrase (adj); `field = ""` asks for blank ones. What a
relation means depends on the kind of the field: `signs`. Of dates, `within` goes with a length of time (P14D, P2W, P1M: back from
today; with /next, on from it), a span of the calendar (this-week) or one of dates (1890/1914); `<` with a length of time is
longer ago. `any` and `all` go with a list ("law; tides"). /field holds a field against another one of the same entry. Of a
reference, /entry=12 says which entry is meant, so that a kept question goes on to mean it when its title is another one, and
`reference.field` asks for what it refers to. A "not" that begins a clause is ours; CQL has it between two only.
"""

import re
from collections.abc import Sequence

from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.errors import BadQuery, MagpieError, UserError
from wily_magpie.core.fields import Relation, Value
from wily_magpie.core.patterns import pattern
from wily_magpie.core.query.lexer import Token, quote, tokens
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Grouping, Node, Not, Or, Question, SortKey, Words
from wily_magpie.core.query.periods import SPANS, read_period

ANYWHERE = ("cql.anywhere", "cql.serverchoice", "anywhere")
SIGNS = ("=", "==", "<>", "<", ">", "<=", ">=")
SIGN_WORDS = ("within", "any", "all", "adj")
MODIFIERS = ("contains", "begins", "field", "next", "any")
STEP = pattern(r"\d{1,9}(\.\d{1,6})?")
SAID = {Relation.THIS: "within", Relation.BETWEEN: "within", Relation.OLDER: "<"}
"""Signs of relations that are known by what stands behind the sign."""
DEEPEST = 60
"""Brackets within brackets: past this a text is no person's, and the parser would eat the stack."""


def parse(text: str, fields: Sequence[Field]) -> Question:
    """The question that a text asks of a place with these fields.

    Raises:
        BadQuery: with the position of the fault and, where a name is wrong, the nearest known one.
    """
    return Parser(text, fields).question()


class Parser:
    """Recursive descent, one token ahead."""

    def __init__(self, text: str, fields: Sequence[Field]) -> None:
        self.tokens = tokens(text)
        self.fields = fields
        self.at = 0
        self.depth = 0

    @property
    def token(self) -> Token:
        return self.tokens[self.at]

    def take(self) -> Token:
        token = self.token
        self.at = min(self.at + 1, len(self.tokens) - 1)
        return token

    def question(self) -> Question:
        node = None
        if self.token.kind != "end" and not self.token.is_word("sortby"):
            node = self.filter()
        sort: list[SortKey] = []
        groups: list[Grouping] = []
        if self.token.is_word("sortby"):
            self.take()
            if self.token.kind == "end":
                raise BadQuery("query-sort", "After “sortBy” a field is missing.", self.token.position)
            while self.token.kind in ("word", "quoted"):
                key = self.sort_key()
                if isinstance(key, Grouping):
                    groups.append(key)
                else:
                    sort.append(key)
        if self.token.kind != "end":
            raise BadQuery(
                "query-rest",
                f"“{self.token.text}” is not expected here.",
                self.token.position,
                "Join with and, or, not.",
            )
        return Question(node, tuple(sort), tuple(groups))

    def sort_key(self) -> SortKey | Grouping:
        field = self.field(self.take())
        descending, step = False, None
        while self.token.text == "/" and self.token.kind == "symbol":
            self.take()
            modifier = self.take()
            word = modifier.text.casefold().removeprefix("sort.")
            if word not in ("descending", "ascending", "group"):
                hint = "Known are /descending, /ascending and /group."
                raise BadQuery("query-modifier", f"“/{modifier.text}” is unknown.", modifier.position, hint)
            descending |= word == "descending"
            if word == "group":
                step = self.step(field)
        return SortKey(field, descending) if step is None else Grouping(field, step)

    def step(self, field: Field) -> str:
        """The step of a group; "" where none is written."""
        if self.token.text != "=" or self.token.kind != "symbol":
            return ""
        self.take()
        step = self.take()
        word = step.text.casefold()
        is_width = any(one.isdigit() for one in field.kind.group_steps) and STEP.fullmatch(word) and float(word) > 0
        if word not in field.kind.group_steps and not is_width:
            known = ", ".join(one for one in field.kind.group_steps if one) or "no steps"
            raise BadQuery(
                "query-step", f"{field.label} cannot be grouped by “{step.text}”.", step.position, f"Known: {known}."
            )
        return word

    def filter(self) -> Node:
        node = self.clause()
        while self.token.is_word("and", "or", "not"):
            word = self.take().text.casefold()
            right = self.clause()
            if word == "or":
                node = Or((*node.parts, right)) if isinstance(node, Or) else Or((node, right))
            else:
                right = Not(right) if word == "not" else right
                node = And((*node.parts, right)) if isinstance(node, And) else And((node, right))
        return node

    def deeper(self, token: Token) -> None:
        self.depth += 1
        if self.depth > DEEPEST:
            raise BadQuery("query-depth", "The brackets are nested too deeply.", token.position)

    def clause(self) -> Node:
        first = self.token
        if first.is_word("not"):
            self.take()
            self.deeper(first)
            negated = Not(self.clause())
            self.depth -= 1
            return negated
        if first.kind == "symbol" and first.text == "(":
            self.take()
            self.deeper(first)
            node = self.filter()
            self.depth -= 1
            if self.token.text != ")" or self.token.kind != "symbol":
                raise BadQuery("query-bracket", "A bracket is not closed.", first.position, "Put ) at its end.")
            self.take()
            return node
        if first.kind not in ("word", "quoted") or first.is_word("and", "or", "sortby"):
            what = f"“{first.text}” stands" if first.text else "The query ends"
            raise BadQuery("query-clause", f"{what} where a condition is expected.", first.position)
        self.take()
        if self.is_relation(first):
            return self.condition(first, self.take())
        if first.kind == "quoted" and not self.is_term:
            return phrase(first.text)
        words = [first.text]
        while self.is_term:
            words.append(self.take().text)
        return Words(" ".join(words))

    @property
    def is_term(self) -> bool:
        """Whether a further word to look for comes next."""
        return self.token.kind in ("word", "quoted") and not self.token.is_word("and", "or", "not", "sortby")

    def is_relation(self, index: Token) -> bool:
        """Whether a sign comes next; words that could be looked for are signs behind the name of a field alone."""
        if self.token.kind == "symbol":
            return self.token.text in SIGNS
        if not self.token.is_word(*SIGN_WORDS) or index.kind != "word":
            return False
        name = index.text.casefold()
        return name in ANYWHERE or any(name in (one.key.casefold(), one.label.casefold()) for one in self.fields)

    def modifiers(self, relation: Token) -> tuple[str, int]:
        """The sign with its modifier, and the number of the entry that is meant; 0 where there is none."""
        sign, entry = relation.text.casefold(), 0
        while self.token.kind == "symbol" and self.token.text == "/":
            self.take()
            name = self.take()
            if name.is_word(*MODIFIERS):
                sign = f"{sign}/{name.text.casefold()}"
                continue
            equals, number = self.take(), self.take()
            if not name.is_word("entry") or equals.text != "=" or not re.fullmatch(r"\d{1,12}", number.text):
                hint = f"Known are /entry=12, /{', /'.join(MODIFIERS)}."
                raise BadQuery("query-modifier", f"“{relation.text}/{name.text}” is unknown.", name.position, hint)
            entry = int(number.text)
        return sign, entry

    def condition(self, index: Token, relation: Token) -> Node:
        sign, entry = self.modifiers(relation)
        term = self.take()
        if term.kind not in ("word", "quoted"):
            raise BadQuery("query-term", f"After “{relation.text}” a value is missing.", term.position, 'Blank is "".')
        if index.text.casefold() in ANYWHERE:
            return phrase(term.text) if sign in ("adj", "==") else Words(term.text)
        field = self.field(index)
        if not term.text.strip() and sign in ("=", "==", "<>"):
            return Condition(field, Relation.NOT_EMPTY if sign == "<>" else Relation.EMPTY)
        meaning = field.kind.signs.get(sign)
        if meaning is None:
            known = " ".join(field.kind.signs)
            hint = f"A field of the kind {field.kind.name} can be asked with: {known}."
            raise BadQuery("query-relation", f"“{field.key} {sign}” cannot be asked.", relation.position, hint)
        value = term.text.strip()
        if (
            sign == "within" and self.token.text == "/" and self.token.kind == "symbol"
        ):  # 1890/1914 without quotation marks
            self.take()
            value = f"{value}/{self.take().text}"
        meaning = by_value(meaning, value)
        try:
            check_value(field, meaning, value, self.fields)
        except UserError as error:
            raise BadQuery(error.slug, error.message, term.position, error.way_out) from error
        return Condition(field, meaning, usual(meaning, value), entry if field.kind.is_linked else 0)

    def field(self, token: Token) -> Field:
        try:
            return find_field(self.fields, token.text)
        except UserError as error:
            raise BadQuery(error.slug, error.message, token.position, error.way_out) from error


def phrase(text: str) -> Words:
    """A text in quotation marks; a single word is one however it is written."""
    return Words(text, is_phrase=len(text.split()) > 1)


def by_value(meaning: Relation, value: str) -> Relation:
    """What a sign means with what stands behind it; see SAID."""
    if meaning is Relation.LAST and value.casefold() in SPANS:
        return Relation.THIS
    if meaning is Relation.LAST and ("/" in value or " " in value):
        return Relation.BETWEEN
    if meaning is Relation.BEFORE and value[:1] in "Pp" and read_period(value) is not None:
        return Relation.OLDER
    return meaning


def usual(meaning: Relation, value: str) -> str:
    """A value in the form in which it is written."""
    period = read_period(value) if meaning.wants_period else None
    if period is not None:
        return period.written
    if meaning is Relation.BETWEEN:
        return "/".join(both_ends(value))
    return value.casefold() if meaning in (Relation.THIS, Relation.HOLDS, Relation.HOLDS_NO) else value


def both_ends(text: str) -> tuple[str, str]:
    """The two ends of "1890/1914" or "1890 1914".

    Raises:
        UserError: there are not two.
    """
    first, sign, last = text.partition("/") if "/" in text else text.partition(" ")
    if not sign or not first.strip() or not last.strip():
        raise UserError("no-span", f"“{text}” has no two ends.", "Write it like 1890/1914.")
    return first.strip(), last.strip()


def check_value(field: Field, relation: Relation, text: str, fields: Sequence[Field] = ()) -> Value:
    """The value that a condition compares with; of a list or a span, its parts.

    Args:
        fields: of the place, among which another one may be named.

    Raises:
        UserError: the text is no value that this field could have.
    """
    if relation.wants_period:
        if read_period(text) is None:
            raise UserError(
                "query-period",
                f"“{text}” is no length of time.",
                "Write it like P14D, P2W, P3M, P1Y; or this-week, or 1890/1914.",
            )
        return text
    if relation is Relation.THIS:
        return text
    if relation is Relation.BETWEEN:
        return tuple(str(one_value(field, end)) for end in both_ends(text))
    if relation.wants_many:
        found = field.kind.read(text) if field.kind.is_many else tuple(filter(None, map(str.strip, text.split(";"))))
        return found if isinstance(found, tuple) and found else one_value(field, "")
    if relation is Relation.SAME:
        other = find_field(fields, text) if fields else None
        if other is not None and (other.kind is not field.kind or not other.is_stored):
            raise UserError(
                "other-kind", f"{other.label} cannot be held against {field.label}.", "Name a field of its kind."
            )
        return text
    if relation in (Relation.CONTAINS, Relation.CONTAINS_NOT, Relation.BEGINS) or field.kind.is_address:
        return text
    return one_value(field, text)


def one_value(field: Field, text: str) -> Value:
    """The value of a text.

    Raises:
        UserError: it is none that this field could have.
    """
    value = field.kind.read(text)
    if isinstance(value, tuple):
        return value[0]
    if value is None:
        raise UserError("no-value", f"A value for {field.label} is missing.", "Ask whether it is empty instead.")
    return value


def write(question: Question) -> str:
    """The text of a question; `parse` of it gives the same question again."""
    parts = [write_node(question.filter)] if question.filter else []
    keys = [quote(one.field.key) + "/group" + (f"={one.step}" if one.step else "") for one in question.groups]
    keys += [quote(key.field.key) + ("/descending" if key.descending else "") for key in question.sort]
    if keys:
        parts.append("sortBy " + " ".join(keys))
    return " ".join(parts)


def write_node(node: Node) -> str:
    """The text of one part."""
    match node:
        case Words(text, is_phrase):
            return f"cql.anywhere {'adj' if is_phrase else '='} {quote(text)}"
        case Condition():
            return write_condition(node)
        case AtLeast(field, _):
            raise MagpieError("query-least", f"CQL has no word for how many {field.label} there are.")
        case And(parts):
            out = write_first(parts[0])
            for part in parts[1:]:
                out += f" not {write_part(part.part)}" if isinstance(part, Not) else f" and {write_part(part)}"
            return out
        case Or(parts):
            return " or ".join([write_first(parts[0]), *map(write_part, parts[1:])])
        case Not(part):
            return f"not {write_part(part)}"


def write_first(node: Node) -> str:
    """The part that a longer filter begins with."""
    return write_node(node) if isinstance(node, Not) else write_part(node)


def write_part(node: Node) -> str:
    """A part of a longer filter: in brackets where the order of reading would be another one."""
    return f"({write_node(node)})" if isinstance(node, And | Or | Not) else write_node(node)


def write_condition(condition: Condition) -> str:
    """One condition."""
    key = quote(condition.field.key)
    if condition.relation in (Relation.EMPTY, Relation.NOT_EMPTY):
        return f'{key} {"=" if condition.relation is Relation.EMPTY else "<>"} ""'
    meant = condition.relation
    sign = SAID.get(meant) if condition.field.kind.is_dated else None
    if sign is None:
        sign = next(sign for sign, meaning in condition.field.kind.signs.items() if meaning is meant)
    entry = f"/entry={condition.entry}" if condition.entry else ""
    return f"{key} {sign}{entry} {quote(condition.value)}"
