"""What an entry's neighbours have in a field: entries with a like text, of the same site, by the same authors, and the last ones."""

from collections import Counter
from collections.abc import Mapping, Sequence

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.filing.certainty import Features, features_of

MOST_NEIGHBOURS, LAST = 15, 3
HOST, AUTHOR, RECENT = 0.6, 0.6, 0.25
"""What the same site, the same authors and the last entries weigh beside the likeness of texts."""


@dataclass(frozen=True)
class Around:
    """The entries around a page: each is known by its place in a list.

    Attributes:
        likeness: of those with the likest texts, the likest first.
        of_host, of_authors, last: those of the same site, by one of the same authors, and the last ones.
        count: of all entries.
    """

    likeness: Mapping[int, float]
    of_host: Sequence[int]
    of_authors: Sequence[int]
    last: Sequence[int]
    count: int

    @property
    def all(self) -> set[int]:
        """All of them."""
        return {*self.likeness, *self.of_host, *self.of_authors, *self.last}


@dataclass(frozen=True)
class Candidate:
    """The likeliest value of a field."""

    value: str
    reason: str
    features: Features


def likeliest(around: Around, values: Mapping[int, Sequence[str]]) -> Candidate | None:
    """The likeliest value; None where no neighbour has any.

    Args:
        values: of the field, by the entry; a blank one has none.
    """
    near, host = shares(around.likeness, values, square=True), counted(around.of_host, values)
    author, last = counted(around.of_authors, values), counted(around.last, values)
    scores: Counter[str] = Counter()
    for share, weight in ((near, 1.0), (host, HOST), (author, AUTHOR), (last, RECENT)):
        for value, part in share.items():
            scores[value] += weight * part  # type: ignore[assignment]
    best = scores.most_common(2)
    if not best:
        return None
    value, score = best[0]
    second = float(best[1][1]) if len(best) > 1 else 0.0
    nearest = max((around.likeness[one] for one in around.likeness if value in values.get(one, ())), default=0.0)
    features = features_of(
        float(score), second, nearest, host.get(value, 0.0), author.get(value, 0.0), last.get(value, 0.0), around.count
    )
    parts = {
        "host": HOST * host.get(value, 0.0),
        "author": AUTHOR * author.get(value, 0.0),
        "near": near.get(value, 0.0),
    }
    return Candidate(value, reason_of(max(parts, key=lambda one: parts[one]), value, around, values), features)


def reason_of(kind: str, value: str, around: Around, values: Mapping[int, Sequence[str]]) -> str:
    """Why, in words."""
    group, what = {
        "host": (around.of_host, "pages of this site"),
        "author": (around.of_authors, "by the same author"),
        "near": (list(around.likeness), "with a like text"),
    }[kind]
    have = sum(value in values.get(one, ()) for one in group)
    return f"like {have} of {len(group)} {what}"


def shares(weights: Mapping[int, float], values: Mapping[int, Sequence[str]], *, square: bool) -> dict[str, float]:
    """The share of each value, by weight."""
    total = sum(weight**2 if square else weight for weight in weights.values()) or 1.0
    out: dict[str, float] = {}
    for one, weight in weights.items():
        for value in values.get(one, ()):
            out[value] = out.get(value, 0.0) + (weight**2 if square else weight) / total
    return out


def counted(group: Sequence[int], values: Mapping[int, Sequence[str]]) -> dict[str, float]:
    """The share of each value in a group, the less the smaller the group is."""
    count = len(group)
    found = Counter(value for one in group for value in values.get(one, ()))
    return {value: many / count * count / (count + 1) for value, many in found.items()} if count else {}
