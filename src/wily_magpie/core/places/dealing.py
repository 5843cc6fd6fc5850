"""Entries dealt out to the options of a field, in the order that they have: of very many, half as long as sorting by both. NumPy."""

from array import array
from collections.abc import Sequence

from wily_magpie.core.fields import Option


def dealt(
    ordered: "array[int]", ids: "array[int]", stored: Sequence[str], options: Sequence[Option]
) -> "tuple[array[int], list[tuple[str | None, int]]]":
    """The ids group by group, and (value, how many) of each group: options in their order, other values behind, blank ones last.

    Args:
        ordered: the ids as they are sorted. ids, stored: the same ids in any order, each with its value, "" for none.
    """
    import numpy as np  # here, since few places have so many entries

    rank = {option.name: place for place, option in enumerate(options)}
    names = sorted(set(stored), key=lambda name: (not name, rank.get(name, len(rank)), name))
    number_of = {name: number for number, name in enumerate(names)}
    numbers = np.zeros(max(ids, default=0) + 1, np.int32)
    numbers[np.asarray(ids, np.uint32)] = np.fromiter(map(number_of.__getitem__, stored), np.int32, len(stored))
    wanted = np.asarray(ordered, np.uint32)
    groups = numbers[wanted]
    sizes = np.bincount(groups, minlength=len(names)).tolist()
    in_groups = array("I", wanted[np.argsort(groups, kind="stable")].tobytes())
    return in_groups, [(name or None, size) for name, size in zip(names, sizes, strict=True)]
