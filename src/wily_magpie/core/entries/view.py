"""A view: a kept question over one place, with how its answer is looked at."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.layout import USUAL_LAYOUT, Layout


@dataclass(frozen=True)
class View:
    """The question is CQL text with its sorting and grouping, which is also how it is stored."""

    id: int
    place: str
    name: str
    question: str
    layout: Layout = USUAL_LAYOUT
