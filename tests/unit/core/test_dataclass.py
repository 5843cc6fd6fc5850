"""Our frozen dataclass behaves as the standard library's: held against it, case by case."""

import copy
import dataclasses
import pickle
from collections.abc import Callable
from dataclasses import FrozenInstanceError, field
from functools import cached_property
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core import dataclass as ours

Decorator = Callable[[type], type]
STANDARD: Decorator = dataclasses.dataclass(frozen=True)
OURS: Decorator = ours.dataclass(frozen=True)


def point(decorator: Decorator) -> Any:
    @decorator
    class Point:
        """A place on a map."""

        east: int
        north: int
        name: str = "somewhere"
        tags: list[str] = field(default_factory=list)
        secret: str = field(default="", repr=False, compare=False)

        @cached_property
        def sum(self) -> int:
            return self.east + self.north

    return Point


def derived(decorator: Decorator) -> Any:
    base = point(decorator)

    class Height(base):  # type: ignore[misc, valid-type]
        """With a height, and another default for the name."""

        name: str = "a hill"
        height: float = 1.5

    return decorator(Height)


MAKERS = (point, derived)
GIVEN: list[tuple[tuple[object, ...], dict[str, object]]] = [
    ((1, 2), {}), ((1, 2, "a"), {}), ((1, 2, "a", ["x"], "s"), {}), ((1,), {"north": 2}), ((), {"north": 2, "east": 1}),
    ((1, 2), {"secret": "s"}), ((1, 2), {"tags": ["y"]}), ((), {}), ((1,), {}), ((1, 2), {"east": 1}), ((1, 2), {"nowhere": 1}),
    ((1, 2, "a", [], "s", 2.5, 7), {}), ((1, 2, "a", [], "s", 2.5), {}),
]  # fmt: skip


def outcome(cls: Any, args: tuple[object, ...], given: dict[str, object]) -> object:
    """What is made, as plain data; the kind of fault where nothing is."""
    try:
        made = cls(*args, **given)
    except TypeError:
        return TypeError
    return dataclasses.asdict(made), repr(made).rpartition(".")[2]


@pytest.mark.parametrize("make", MAKERS)
@pytest.mark.parametrize(("args", "given"), GIVEN)
def test_it_is_made_of_the_same_values(make: Any, args: tuple[object, ...], given: dict[str, object]) -> None:
    assert outcome(make(OURS), args, given) == outcome(make(STANDARD), args, given)


@pytest.mark.parametrize(
    ("args", "given", "said"),
    [
        ((), {}, "lacks east, north"),
        ((1, 2), {"nowhere": 1}, "nowhere"),
        ((1, 2), {"east": 1}, "east"),
        ((1, 2, "a", [], "s", 2), {}, "takes 5 values, not 6"),
    ],
)
def test_what_is_wrong_with_the_values_is_said(args: tuple[object, ...], given: dict[str, object], said: str) -> None:
    with pytest.raises(TypeError, match=said):
        point(OURS)(*args, **given)


@pytest.mark.parametrize("make", MAKERS)
def test_it_cannot_be_changed(make: Any) -> None:
    one = make(OURS)(1, 2)
    for name in ("east", "other"):
        with pytest.raises(FrozenInstanceError):
            setattr(one, name, 3)
    with pytest.raises(FrozenInstanceError):
        del one.east
    assert one.east == 1


NUMBERS = st.integers(0, 2)


@given(a=NUMBERS, b=NUMBERS, c=NUMBERS, d=NUMBERS, first=st.text(max_size=1), second=st.text(max_size=1))
def test_two_are_equal_where_the_standard_ones_are(a: int, b: int, c: int, d: int, first: str, second: str) -> None:
    mine, theirs = point(OURS), point(STANDARD)
    one, other = (cls(a, b, "x", (), first) for cls in (mine, theirs))
    two, second_other = (cls(c, d, "x", (), second) for cls in (mine, theirs))
    assert (one == two) == (other == second_other)
    assert one != other  # another class
    assert one == two or hash(one) != hash(two) or (a, b) != (c, d)
    if one == two:
        assert hash(one) == hash(two)
        assert len({one, two}) == 1


@pytest.mark.parametrize("make", MAKERS)
def test_the_standard_librarys_functions_know_it(make: Any) -> None:
    mine, theirs = make(OURS), make(STANDARD)
    assert [one.name for one in dataclasses.fields(mine)] == [one.name for one in dataclasses.fields(theirs)]
    assert mine.__match_args__ == theirs.__match_args__
    one: Any = mine(1, 2, tags=["x"])
    changed: Any = dataclasses.replace(one, east=5)
    assert (changed.east, changed.north, one.east) == (5, 2, 1)
    assert dataclasses.asdict(one) == dataclasses.asdict(theirs(1, 2, tags=["x"]))
    assert dataclasses.is_dataclass(mine)
    assert copy.copy(one) == one
    deep = copy.deepcopy(one)
    assert (deep == one, deep.tags is one.tags) == (True, False)
    assert one.sum == 3
    assert copy.copy(one) == one  # what was worked out meanwhile makes no difference


@ours.dataclass(frozen=True)
class Kept:
    """One that has a place in a module, as all of the program's have."""

    name: str
    parts: tuple[int, ...] = ()


def test_it_is_sent_and_matched() -> None:
    one = Kept("a", (1, 2))
    assert pickle.loads(pickle.dumps(one)) == one
    match one:
        case Kept(name, parts):
            assert (name, parts) == ("a", (1, 2))


def test_a_method_of_its_own_stays() -> None:
    @ours.dataclass(frozen=True)
    class Loose:
        """Equal whatever it holds."""

        value: int

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Loose)

        def __hash__(self) -> int:
            return 7

    assert Loose(1) == Loose(2)
    assert hash(Loose(1)) == 7


def test_what_it_does_not_serve_is_refused() -> None:
    with pytest.raises(TypeError, match="standard library"):
        ours.dataclass(frozen=False)
