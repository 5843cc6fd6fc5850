"""Written questions: what they mean, what is said of faulty ones, and that writing and reading agree."""

from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.entries.field import TITLE, Field, Settings
from wily_magpie.core.errors import BadQuery
from wily_magpie.core.fields import KINDS, Option, Relation
from wily_magpie.core.query import cql
from wily_magpie.core.query.askable import askable, beyond_of
from wily_magpie.core.query.nodes import And, Condition, Grouping, Node, Not, Or, Question, SortKey, Words, all_of
from wily_magpie.core.query.periods import SPANS
from wily_magpie.core.query.sentence import in_words, sort_words, wording

STATUS = Field("status", "Status", KINDS["choice"], "f1", (Option("to read"), Option("read")))
FIELDS = (
    TITLE,
    STATUS,
    Field("tags", "Tags", KINDS["choices"], "f2"),
    Field("published", "Published", KINDS["date"], "f3"),
    Field("price", "Price", KINDS["number"], "f4"),
    Field("seen", "Seen", KINDS["yes/no"], "f5"),
    Field("authors", "Authors", KINDS["people"], "f6"),
    Field("summary", "Its summary", KINDS["long text"], "f7"),
    Field("address", "Address", KINDS["address"], "f8"),
)
ASKED = askable(
    FIELDS,
    beyond_of(Field("chapter", "Chapter", KINDS["reference"], "", settings=Settings(target="collection:2")), FIELDS),
)
BY_KEY = {field.key: field for field in FIELDS}

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "questions.yaml").read_text("utf-8"))
MEANT = [case for case in CASES if "means" in case]
FAULTY = [case for case in CASES if "fault" in case]


def asked(case: dict[str, Any]) -> str:
    return str(case["ask"])[:60]


@pytest.mark.parametrize("case", MEANT, ids=asked)
def test_means(case: dict[str, Any]) -> None:
    question = cql.parse(case["ask"], ASKED)
    assert question.filter is not None
    assert in_words(question.filter) == case["means"]
    assert cql.write(question) == case.get("written", case["ask"])


@pytest.mark.parametrize("case", FAULTY, ids=asked)
def test_a_fault_is_told_with_its_place(case: dict[str, Any]) -> None:
    with pytest.raises(BadQuery) as told:
        cql.parse(case["ask"], ASKED)
    assert (told.value.slug, told.value.position) == (case["fault"], case["at"])
    assert case["said"] in str(told.value)


def test_a_sign_that_is_none_is_a_word_to_look_for() -> None:
    assert cql.parse("status ! read", FIELDS).filter == Words("status ! read")


def test_sorts_and_groups() -> None:
    question = cql.parse("status = read sortBy status/group published/descending title", FIELDS)
    assert question.groups == (Grouping(STATUS),)
    assert question.sort == (SortKey(BY_KEY["published"], descending=True), SortKey(TITLE))
    assert sort_words(question.sort[0]) == ("newest", "published")
    assert sort_words(question.sort[1]) == ("A to Z by", "title")
    assert cql.parse("sortBy title", FIELDS).filter is None


def test_wording_of_one_condition_in_pieces() -> None:
    said = wording(Condition(BY_KEY["published"], Relation.LAST, "P1D"))
    assert (said.field, said.verb, said.value) == ("published", "is in the last", "day")


VALUES = {
    "text": st.text(min_size=1, max_size=12).map(lambda text: " ".join(text.replace("\0", "").split())).filter(bool),
    "date": st.dates().map(str) | st.integers(1000, 2100).map(str),
    "number": st.integers(-1000, 1000).map(str),
    "yes/no": st.sampled_from(["yes", "no"]),
}


@st.composite
def conditions(draw: st.DrawFn) -> Condition:
    """Any condition that the sentence can make."""
    field = draw(st.sampled_from(ASKED))
    relation = draw(st.sampled_from(field.kind.relations))
    if not relation.wants_value:
        return Condition(field, relation)
    if relation.wants_period:
        return Condition(field, relation, f"P{draw(st.integers(1, 9999))}{draw(st.sampled_from('DWMY'))}")
    if relation is Relation.THIS:
        return Condition(field, relation, draw(st.sampled_from(list(SPANS))))
    if relation is Relation.SAME:
        return Condition(field, relation, field.key)
    words = VALUES.get(field.kind.name, VALUES["text"])
    value = draw(words)
    if relation is Relation.BETWEEN:
        return Condition(field, relation, f"{value}/{draw(words)}")
    if relation.wants_many:
        return Condition(field, relation, "law; tides")
    if relation in (Relation.HOLDS, Relation.HOLDS_NO):
        return Condition(field, relation, draw(st.sampled_from(field.kind.fixed_texts)))
    if field.kind.name in ("choices", "people") and not isinstance(field.kind.read(value), tuple):
        value = "law"
    return Condition(field, relation, value)


def flat(node: Node | None) -> Node | None:
    """The same with "a and (b and c)" as one list, in whatever brackets it was."""
    if isinstance(node, Not):
        part = flat(node.part)
        return Not(part) if part is not None else None
    if not isinstance(node, And | Or):
        return node
    parts: list[Node] = []
    for part in node.parts:
        inner = flat(part)
        if isinstance(inner, type(node)) and not parts:
            parts += inner.parts
        elif inner is not None:
            parts.append(inner)
    return type(node)(tuple(parts))


WORDS = VALUES["text"].map(Words) | st.just(Words("tide mill", is_phrase=True))
NODES: st.SearchStrategy[Node] = st.recursive(
    conditions() | WORDS,
    lambda inner: (
        st.lists(inner, min_size=2, max_size=3).map(lambda parts: And(tuple(parts)))
        | st.lists(inner, min_size=2, max_size=3).map(lambda parts: Or(tuple(parts)))
        | inner.map(Not)
    ),
    max_leaves=6,
)


GROUPS = [(), (Grouping(STATUS),), (Grouping(BY_KEY["published"], "decade"), Grouping(BY_KEY["price"], "12.5"))]


@given(node=NODES | st.none(), groups=st.sampled_from(GROUPS))
def test_what_is_written_is_read_again(node: Node | None, groups: tuple[Grouping, ...]) -> None:
    question = Question(node, (SortKey(BY_KEY["published"], descending=True), SortKey(TITLE)), groups)
    again = cql.parse(cql.write(question), ASKED)
    assert (flat(again.filter), again.sort, again.groups) == (flat(node), question.sort, groups)


@given(st.text(max_size=40) | st.text(alphabet='ab ()=<>"/\\andor', max_size=30))
def test_any_text_is_a_question_or_a_told_fault(text: str) -> None:
    try:
        cql.parse(text, FIELDS)
    except BadQuery as error:
        assert 0 <= error.position <= len(text)


def test_conditions_can_be_changed_one_by_one() -> None:
    question = cql.parse("status = read and tags = law", FIELDS)
    assert len(question.conditions) == 2
    assert cql.write(question.with_conditions(question.conditions[:1])) == "status = read"
    assert all_of(()) is None
