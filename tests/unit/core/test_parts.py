"""A long text in parts: nothing of it is lost, nothing is cut in code, and what belongs together is found."""

from hypothesis import given, settings
from hypothesis import strategies as st

from wily_magpie.core.entries import parts
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.parts import LEAST, PART, Divided

SENTENCE = "The mill turns twice a day, and has done so for as long as anybody can say. "
PIECES = st.lists(
    st.tuples(
        st.sampled_from(["", "# Part\n\n", "```\n", "~~~~\n", "\n \n", "> ", "[^1]: ", "   ", "#no heading"]),
        st.sampled_from([1, 40, 700, 1600]),
        st.sampled_from(["\n\n", "\n", "", "\n```\n\n", "  \n\t\n\n"]),
    ),
    max_size=14,
)


@given(PIECES)
@settings(max_examples=60)
def test_the_parts_are_the_text_and_none_is_endless(pieces: list[tuple[str, int, str]]) -> None:
    text = "".join(f"{before}{SENTENCE * many}{behind}" for before, many, behind in pieces)
    whole = Divided(text)
    assert "".join(whole.raw(part) for part in range(len(whole))) == text
    assert all(whole.raw(part) for part in range(len(whole))) or not text
    assert all(len(whole.raw(part)) <= 2 * PART + parts.FAR + parts.SHORT for part in range(len(whole)))
    assert [whole.part_at(start) for start in whole.starts] == list(range(len(whole)))


def section(number: int, size: int) -> str:
    return f"## Section {number}\n\n" + (SENTENCE * 8 + "\n\n") * (size // (8 * len(SENTENCE)))


def test_parts_end_where_sections_do() -> None:
    whole = Divided("".join(section(number, LEAST + 5_000) for number in range(4)))
    assert [whole.title(part) for part in range(len(whole))] == [f"Section {number}" for number in range(4)]


def test_code_stays_in_one_piece() -> None:
    code = "```\n" + "# no heading\n\nx = 1\n\n" * 3_000 + "```\n\n"
    whole = Divided(f"{section(1, LEAST)}{code}{section(2, LEAST)}{section(3, PART)}")
    assert any(code in whole.raw(part) for part in range(len(whole)))
    assert all("no heading" not in words for part in range(len(whole)) for _, words in whole.headings(part))


def test_footnotes_and_named_addresses_come_along() -> None:
    first = section(1, PART).replace("turns", "turns[^9] and [stands][mill] ", 1)
    whole = Divided(
        f"{first}{section(2, PART)}[^9]: A note.\n\n    Its second part.\n\n[mill]: https://mills.example/\n"
    )
    assert len(whole) == 2
    assert whole.part(0).endswith("[^9]: A note.\n\n    Its second part.\n\n[mill]: https://mills.example/")
    assert whole.part(1) == whole.raw(1).rstrip()


def test_a_mark_is_found_in_its_part() -> None:
    text = "".join(section(number, PART) for number in range(3)).replace("day", "night", 1) + "One **last** word."
    whole = Divided(text)
    assert whole.part_of(Mark("twice a night")) == 0
    assert whole.part_of(Mark("One last word.")) == len(whole) - 1
    assert whole.part_of(Mark("struck out")) is None
    assert whole.part_of(Mark("", picture="https://mills.example/a.png")) is None
    assert Divided("Short.").part_of(Mark("struck out")) == 0  # the view itself says that it is lost
    assert whole.hits("night|last") == [1, *[0] * (len(whole) - 2), 1]


def test_what_is_made_to_take_for_ever_does_not() -> None:
    for text in ("[" * 300_000, "[^1]: a\n" + "  \n" * 60_000, "\n \t\n" * 60_000, "```\n" * 60_000, "# " * 150_000):
        whole = Divided(text)
        assert "".join(whole.raw(part) for part in range(len(whole))) == text
        assert [whole.part(part) for part in range(len(whole))]
        assert len([whole.title(part) for part in range(len(whole))]) == len(whole)
