"""The state of the Sources station, without a widget: which place, which question, how its answer is looked at."""

from dataclasses import replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.layout import Layout, LayoutKind
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.events import Overview
from wily_magpie.core.places.api import NEWEST_FIRST, PlaceInfo
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Grouping, Question, SortKey

GAPS_ID = 0
"""The id of the built-in view of what still lacks something."""
NO_QUESTION = Question()


def all_views(overview: Overview, place: PlaceInfo) -> list[View]:
    """The views of a place; first, where it has rules, the one of the entries that break them."""
    has_rules = any(field.kind.is_of_rules for field in place.fields)
    gaps = [View(GAPS_ID, place.key, "Gaps", 'gaps <> ""', place.layout)] if has_rules else []
    return [*gaps, *overview.views_of(place.key)]


def usual_question(place: PlaceInfo) -> Question:
    """A place without a question: newest captured first, else by title."""
    keys = {field.key: field for field in place.fields}
    if "number" in keys:
        return Question(None, (SortKey(keys["number"]),))
    return Question(None, (SortKey(keys[NEWEST_FIRST], True),) if NEWEST_FIRST in keys else (SortKey(keys["title"]),))


@dataclass(frozen=True)
class SourcesState:
    """One moment of the station; each thing that happens makes another one.

    Attributes:
        place: None where the library has none.
        view: the one that is open, or None.
        lacking: why the open view cannot be asked (a field of it is gone); then nothing is shown.
    """

    place: PlaceInfo | None = None
    view: View | None = None
    question: Question = NO_QUESTION
    lacking: str = ""

    @property
    def layout(self) -> Layout:
        """How the answer is looked at: as the view has it, else the place."""
        if self.place is None:
            return Layout()
        return self.view.layout if self.view is not None and self.view.id != GAPS_ID else self.place.layout

    @property
    def layout_view(self) -> int | None:
        """The view whose layout that is; None: the place's own."""
        return self.view.id if self.view is not None and self.view.id != GAPS_ID else None

    @property
    def columns(self) -> list[Field]:
        """The fields that are shown."""
        if self.place is None:
            return []
        grouped = {one.field.key for one in self.question.groups if not one.step}
        return [field for field in self.layout.of(self.place.fields) if field.key not in grouped]

    @property
    def asked_question(self) -> Question:
        """The question as it is asked: grouped by the lanes, or not at all on a time line."""
        if self.place is None or self.layout.kind not in (LayoutKind.LANES, LayoutKind.TIMELINE):
            return self.question
        field = self.layout.lane_field(self.place.fields) if self.layout.kind is LayoutKind.LANES else None
        return replace(self.question, groups=(Grouping(field),) if field is not None else ())

    @property
    def is_changed(self) -> bool:
        """Whether the question is another than the open view's, which could be kept."""
        if self.view is None or self.view.id == GAPS_ID or self.lacking:
            return False
        return cql.write(self.question) != self.view.question

    @property
    def may_be_kept(self) -> bool:
        """Whether the question could become a view of its own."""
        return self.place is not None and not self.lacking and (self.view is None or self.is_changed)

    def opened(self, place: PlaceInfo, question: Question | None = None) -> "SourcesState":
        """A place is opened: all of it, newest first, or a question over it."""
        return SourcesState(place, None, question or usual_question(place))

    def opened_view(self, place: PlaceInfo, view: View) -> "SourcesState":
        """A view is opened; one that asks for what is no longer there says so and asks nothing."""
        try:
            return SourcesState(place, view, cql.parse(view.question, place.askable))
        except MagpieError as error:
            return SourcesState(place, view, NO_QUESTION, f"“{view.name}” cannot be asked any more: {error}")

    def asked(self, question: Question) -> "SourcesState":
        """Another question over the same place."""
        return replace(self, question=question, lacking="")

    def after(self, overview: Overview) -> "SourcesState":
        """Places, fields or views are others now."""
        place = overview.find_place(self.place.key) if self.place is not None else None
        if place is None:
            first = next(iter(overview.places), None)
            return self.opened(first) if first is not None else SourcesState()
        views = all_views(overview, place)
        view = next((one for one in views if self.view is not None and one.id == self.view.id), None)
        if self.lacking and view is not None:
            return self.opened_view(place, view)
        try:
            was_asked = view is not None and self.view is not None and not self.is_changed
            text = view.question if was_asked and view is not None else cql.write(self.question)
            return SourcesState(place, view, cql.parse(text, place.askable))
        except MagpieError as error:  # it asks for a field that is no longer there
            if view is not None:
                return self.opened_view(place, view)
            return SourcesState(place, None, usual_question(place), f"The question cannot be asked any more: {error}")
