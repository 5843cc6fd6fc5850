"""Questions as text: a part of CQL, the Contextual Query Language (Library of Congress / OASIS).

    query    = [ filter ] [ "sortBy" key { key } ]
    filter   = clause { ("and" | "or" | "not") clause }      equal rank, from left to right, as in CQL
    clause   = "(" filter ")" | index relation term | term { term }
    relation = "=" | "==" | "<>" | "<" | ">" | "<=" | ">=" | "within" [ "/entry=" number ]
    key      = index { "/" modifier }                         /descending, /ascending, /group

A term without an index is looked for everywhere; `field = ""` asks for blank ones; `date within P14D` (a period
of ISO 8601) for the last fourteen days. What a relation means depends on the kind of the field: `signs`. Of a reference,
/entry=12 (a relation modifier) says which entry is meant, so that a kept question goes on to mean it when its title is
another one.
"""

import re
from collections.abc import Sequence

from wily_magpie.core.entries.field import Field, find_field
from wily_magpie.core.errors import BadQuery, MagpieError, UserError
from wily_magpie.core.fields import Relation, Value
from wily_magpie.core.query.lexer import Token, quote, tokens
from wily_magpie.core.query.nodes import And, AtLeast, Condition, Node, Not, Or, Question, SortKey, Words

ANYWHERE = ("cql.anywhere", "cql.serverchoice", "anywhere")
PERIOD = re.compile(r"P(\d{1,5})D", re.IGNORECASE)
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
        group: Field | None = None
        if self.token.is_word("sortby"):
            self.take()
            if self.token.kind == "end":
                raise BadQuery("query-sort", "After “sortBy” a field is missing.", self.token.position)
            while self.token.kind in ("word", "quoted"):
                key, is_group = self.sort_key()
                if is_group:
                    group = key.field
                else:
                    sort.append(key)
        if self.token.kind != "end":
            raise BadQuery(
                "query-rest",
                f"“{self.token.text}” is not expected here.",
                self.token.position,
                "Join with and, or, not.",
            )
        return Question(node, tuple(sort), group)

    def sort_key(self) -> tuple[SortKey, bool]:
        field = self.field(self.take())
        descending = is_group = False
        while self.token.text == "/" and self.token.kind == "symbol":
            self.take()
            modifier = self.take()
            word = modifier.text.casefold().removeprefix("sort.")
            if word not in ("descending", "ascending", "group"):
                hint = "Known are /descending, /ascending and /group."
                raise BadQuery("query-modifier", f"“/{modifier.text}” is unknown.", modifier.position, hint)
            descending |= word == "descending"
            is_group |= word == "group"
        return SortKey(field, descending), is_group

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

    def clause(self) -> Node:
        first = self.token
        if first.kind == "symbol" and first.text == "(":
            self.take()
            self.depth += 1
            if self.depth > DEEPEST:
                raise BadQuery("query-depth", "The brackets are nested too deeply.", first.position)
            node = self.filter()
            self.depth -= 1
            if self.token.text != ")" or self.token.kind != "symbol":
                raise BadQuery("query-bracket", "A bracket is not closed.", first.position, "Put ) at its end.")
            self.take()
            return node
        if first.kind not in ("word", "quoted") or first.is_word("and", "or", "not", "sortby"):
            what = f"“{first.text}” stands" if first.text else "The query ends"
            raise BadQuery("query-clause", f"{what} where a condition is expected.", first.position)
        self.take()
        if (self.token.kind == "symbol" and self.token.text in ("=", "==", "<>", "<", ">", "<=", ">=")) or (
            self.token.is_word("within") and first.kind == "word"
        ):
            return self.condition(first, self.take())
        words = [first.text]
        while self.token.kind in ("word", "quoted") and not self.token.is_word("and", "or", "not", "sortby"):
            words.append(self.take().text)
        return Words(" ".join(words))

    def entry(self, relation: Token) -> int:
        """The number behind a relation that says which entry is meant; 0 where there is none."""
        if self.token.kind != "symbol" or self.token.text != "/":
            return 0
        self.take()
        name, sign, number = self.take(), self.take(), self.take()
        if not name.is_word("entry") or sign.text != "=" or not re.fullmatch(r"\d{1,12}", number.text):
            raise BadQuery(
                "query-modifier", f"“{relation.text}/{name.text}” is unknown.", name.position, "Known is /entry=12."
            )
        return int(number.text)

    def condition(self, index: Token, relation: Token) -> Node:
        entry = self.entry(relation)
        term = self.take()
        if term.kind not in ("word", "quoted"):
            raise BadQuery("query-term", f"After “{relation.text}” a value is missing.", term.position, 'Blank is "".')
        if index.text.casefold() in ANYWHERE:
            return Words(term.text)
        field = self.field(index)
        sign = relation.text.casefold()
        if not term.text.strip() and sign in ("=", "==", "<>"):
            return Condition(field, Relation.NOT_EMPTY if sign == "<>" else Relation.EMPTY)
        meaning = field.kind.signs.get(sign)
        if meaning is None:
            known = " ".join(field.kind.signs)
            hint = f"A field of the kind {field.kind.name} can be asked with: {known}."
            raise BadQuery("query-relation", f"“{field.key} {relation.text}” cannot be asked.", relation.position, hint)
        value = term.text.strip()
        if meaning is Relation.LAST_DAYS:
            period = PERIOD.fullmatch(value)
            if not period:
                raise BadQuery(
                    "query-period", f"“{value}” is not a period of days.", term.position, "Write it like P14D."
                )
            value = str(int(period[1]))
        else:
            try:
                check_value(field, meaning, value)
            except UserError as error:
                raise BadQuery(error.slug, error.message, term.position, error.way_out) from error
        return Condition(field, meaning, value, entry if field.kind.is_linked else 0)

    def field(self, token: Token) -> Field:
        try:
            return find_field(self.fields, token.text)
        except UserError as error:
            raise BadQuery(error.slug, error.message, token.position, error.way_out) from error


def check_value(field: Field, relation: Relation, text: str) -> Value:
    """The value that a condition compares with.

    Raises:
        UserError: the text is no value that this field could have.
    """
    if relation is Relation.LAST_DAYS:
        if not text.isdigit() or len(text) > 5:
            raise UserError("no-days", f"“{text}” is not a number of days.", "Write it like 14.")
        return text
    if relation is Relation.CONTAINS or (field.kind.is_address):
        return text
    value = field.kind.read(text)
    if isinstance(value, tuple):
        return value[0]
    if value is None:
        raise UserError("no-value", f"A value for {field.label} is missing.", "Ask whether it is empty instead.")
    return value


def write(question: Question) -> str:
    """The text of a question; `parse` of it gives the same question again."""
    parts = [write_node(question.filter)] if question.filter else []
    keys = [quote(question.group.key) + "/group"] if question.group else []
    keys += [quote(key.field.key) + ("/descending" if key.descending else "") for key in question.sort]
    if keys:
        parts.append("sortBy " + " ".join(keys))
    return " ".join(parts)


def write_node(node: Node) -> str:
    """The text of one part."""
    match node:
        case Words(text):
            return f"cql.anywhere = {quote(text)}"
        case Condition():
            return write_condition(node)
        case AtLeast(field, _):
            raise MagpieError("query-least", f"CQL has no word for how many {field.label} there are.")
        case And(parts):
            out = write_part(parts[0])
            for part in parts[1:]:
                out += f" not {write_part(part.part)}" if isinstance(part, Not) else f" and {write_part(part)}"
            return out
        case Or(parts):
            return " or ".join(map(write_part, parts))
        case Not(part):
            raise MagpieError("query-not", f"CQL has no word for “not {write_node(part)}” alone.")


def write_part(node: Node) -> str:
    """A part of a longer filter: in brackets where the order of reading would be another one."""
    return f"({write_node(node)})" if isinstance(node, And | Or) else write_node(node)


def write_condition(condition: Condition) -> str:
    """One condition."""
    key = quote(condition.field.key)
    if condition.relation in (Relation.EMPTY, Relation.NOT_EMPTY):
        return f'{key} {"=" if condition.relation is Relation.EMPTY else "<>"} ""'
    sign = next(sign for sign, meaning in condition.field.kind.signs.items() if meaning is condition.relation)
    value = f"P{condition.value}D" if condition.relation is Relation.LAST_DAYS else condition.value
    entry = f"/entry={condition.entry}" if condition.entry else ""
    return f"{key} {sign}{entry} {quote(value)}"
