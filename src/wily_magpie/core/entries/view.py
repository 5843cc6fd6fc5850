"""A view: a kept question over one place."""

from dataclasses import dataclass


@dataclass(frozen=True)
class View:
    """The question is CQL text with its sorting and grouping, which is also how it is stored."""

    id: int
    place: str
    name: str
    question: str
