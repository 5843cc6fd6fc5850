"""Marked words on their way to another text: where they stand, how their source is named, in a pattern of the person's."""

import pytest

from helpers import undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.mark_uses import GatherMarks, NoteFromMarks, OrderMarks, UseMarks, WriteDraft
from wily_magpie.core.commands.marks import PutMark, RemoveMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.exchange.quoting import EXAMPLE, Quotable, Source, check_pattern, quotation
from wily_magpie.core.fields import Value
from wily_magpie.core.queries.marks import FoundMark, MarkScope
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.apart import Mistake

TEXT = """# The weir

The weir was raised in 1298.

![The weir](https://mills.example/weir.png)

Nobody knows *by whom*.

> “A door, and the sea opens it.”
"""
PLACE = "collection:1"


@pytest.fixture
def weir(session: Session) -> int:
    """An entry with two marks."""
    values: dict[str, Value] = {
        "address": "https://mills.example/weir",
        "published": "1998-04",
        "authors": ("Pell, Ada", "Quill, Bo"),
        "status": "read",
    }
    made = session.do(AddEntry(PLACE, "The [old] weir", values, TEXT))
    session.do(PutMark(PLACE, made, Mark("raised in 1298", "evidence", "by the charter?")))
    session.do(PutMark(PLACE, made, Mark("by whom", "question")))
    return made


def source_of(session: Session, entry_id: int) -> Source:
    whole = session.reader.entries.whole(PLACE, entry_id)
    assert whole is not None
    return Source(whole.place, whole.entry, whole.entry.body or "")


def found(session: Session, **scope: object) -> list[FoundMark]:
    return session.reader.marks.found(MarkScope(**scope))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("mark", "where"),
    [
        (Mark("raised in 1298"), "§ 1"),
        (Mark("by whom"), "§ 2"),
        (Mark("the sea opens it"), "§ 3"),
        (Mark("struck out"), ""),
        (Mark("raised in 1298", locator="p. 5"), "p. 5"),
        (Mark("", picture="https://mills.example/weir.png"), ""),
    ],
)
def test_where_a_mark_stands(session: Session, weir: int, mark: Mark, where: str) -> None:
    assert source_of(session, weir).where(mark) == where


KEYS: list[tuple[dict[str, Value], str]] = [
    ({"authors": ("Pell, Ada",), "published": "1998"}, "pell1998"),
    ({"authors": ("Ada Pell",), "published": "1998"}, "pell1998"),
    ({"authors": ("Åström, Bo",)}, "astrom"),
    ({"authors": ("水車",)}, "水車"),
    ({"published": "1998"}, "weir1998"),
    ({}, "weir"),
]


@pytest.mark.parametrize(("values", "key"), KEYS)
def test_citations_name_a_source(session: Session, values: dict[str, Value], key: str) -> None:
    made = session.do(AddEntry(PLACE, "The weir", values))
    assert source_of(session, made).key == key


def test_marks_of_one_source_have_it_once(session: Session, weir: int) -> None:
    source = source_of(session, weir)
    made = quotation(
        [Quotable(source, Mark("raised in 1298", comment="by the charter?")), Quotable(source, Mark("by whom"))]
    )
    named = "Ada Pell, Bo Quill: [The \\[old\\] weir](<https://mills.example/weir>) (1998) [@pell1998, § 1, § 2]"
    assert made.markdown == f"> raised in 1298\n\nby the charter?\n\n> by whom\n\n— {named}\n"
    assert (
        made.plain.splitlines()[-1]
        == "— Ada Pell, Bo Quill: The [old] weir (1998), § 1, § 2, https://mills.example/weir"
    )
    assert made.html.count("<blockquote>") == 2
    assert '<a href="https://mills.example/weir">The [old] weir</a>' in made.html


PATTERNS = [
    ("{{ quote }} {{ cite }}", "> raised in 1298 [@pell1998, § 1]"),
    ('words ~ " (" ~ entry.status ~ ", " ~ kind ~ ")"', "raised in 1298 (read, evidence)"),
    ("{{ comment }}\n\n\n\n{{ year }}", "by the charter?\n\n1998"),
    ("{{ authors | join(' & ') }}", "Ada Pell & Bo Quill"),
]


@pytest.mark.parametrize(("pattern", "text"), PATTERNS)
def test_a_pattern_of_the_persons_own(session: Session, weir: int, pattern: str, text: str) -> None:
    check_pattern(pattern)
    mark = Mark("raised in 1298", "evidence", "by the charter?")
    assert quotation([Quotable(source_of(session, weir), mark)], pattern).markdown == f"{text}\n"


def test_a_pattern_with_a_fault_is_told(session: Session, weir: int) -> None:
    check_pattern(EXAMPLE)
    with pytest.raises(Mistake, match="coment") as told:
        check_pattern("{{ coment }}")
    assert "comment" in told.value.way_out
    with pytest.raises(Mistake, match="page"):
        check_pattern("{{ page.title }}")
    with pytest.raises(UserError, match="pattern"):
        quotation([Quotable(source_of(session, weir), Mark("by whom"))], "{{ 1 / 0 }}")


def test_marks_are_found_by_what_is_asked(session: Session, weir: int) -> None:
    other = session.do(AddEntry(PLACE, "A bridge", {}, "It fell twice."))
    session.do(PutMark(PLACE, other, Mark("fell twice", "évidence")))
    assert [one.mark.exact for one in found(session)] == ["fell twice", "raised in 1298", "by whom"]
    assert next(one.mark.exact for one in found(session, place=PLACE, ids=(weir, other))) == "raised in 1298"
    assert [one.mark.exact for one in found(session, words="CHART")] == ["raised in 1298"]
    assert [one.mark.exact for one in found(session, words="old whom")] == ["by whom"]
    assert found(session, words="harter") == []
    assert [one.mark.exact for one in found(session, kind="question")] == ["by whom"]
    assert {one.group("status") for one in found(session)} == {"", "read"}


def test_what_was_used_is_known_with_where_and_undone_as_one(session: Session, weir: int) -> None:
    chapter = session.do(AddEntry(PLACE, "Chapter", {}, "It begins."))
    first, second = (one.number for one in found(session))
    session.do(GatherMarks(PLACE, chapter, (first, second, first)))
    session.do(OrderMarks(PLACE, chapter, (second,)))
    assert [one.number for one in session.reader.marks.gathered(PLACE, chapter)] == [second, first]
    assert [one.entry.title for one in session.reader.marks.chapters()] == ["Chapter"]
    session.do(WriteDraft(PLACE, chapter, (second, first), "> by whom\n\n> raised"))
    body = session.reader.entries.entry(PLACE, chapter)
    assert body is not None
    assert body.body == "It begins.\n\n> by whom\n\n> raised\n"
    assert [one.uses[0].title for one in found(session, is_used=True)] == ["Chapter", "Chapter"]
    assert {one.name: one.count for one in session.reader.review.figures(PLACE).marks}["never used"] == 0
    undo(session)
    body = session.reader.entries.entry(PLACE, chapter)
    assert body is not None
    assert body.body == "It begins."
    assert found(session, is_used=True) == []


def test_a_mark_that_is_taken_away_leaves_chapters_and_comes_back_to_them(session: Session, weir: int) -> None:
    numbers = [one.number for one in found(session)]
    session.do(GatherMarks(PLACE, weir, numbers))
    session.do(UseMarks(numbers[:1]))
    session.do(RemoveMark(PLACE, weir, Mark("raised in 1298")))
    assert [one.number for one in session.reader.marks.gathered(PLACE, weir)] == numbers[1:]
    undo(session)
    assert [one.number for one in session.reader.marks.gathered(PLACE, weir)] == numbers
    assert [bool(one.uses) for one in found(session)] == [True, False]


def test_a_note_of_marks(session: Session, weir: int, notes_path: object) -> None:
    numbers = [one.number for one in found(session)]
    made = session.do(NoteFromMarks("Notebook", "By whom?", "> by whom", numbers[1:]))
    note = session.reader.entries.entry("Notebook", made)
    assert note is not None
    assert note.title == "By whom?"
    assert (note.body or "").endswith("> by whom")
    assert [one.uses[-1].title for one in found(session, is_used=True)] == ["By whom?"]
