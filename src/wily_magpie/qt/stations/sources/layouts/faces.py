"""The faces of an answer: table, cards, lanes, list, time line. One is shown; each is made when it is first asked for."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property, partial

from PyQt6.QtCore import QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QMenu, QStackedWidget, QWidget

from wily_magpie.core.commands.entries import SetText
from wily_magpie.core.commands.views import MoveToLane
from wily_magpie.core.entries.layout import Lane, LayoutKind
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.fields import Relation
from wily_magpie.core.places.api import Listing
from wily_magpie.core.query import changing
from wily_magpie.core.query.nodes import And, Condition, Node
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.sources.layouts.canvas import EntryCanvas
from wily_magpie.qt.stations.sources.layouts.cards import CardsView
from wily_magpie.qt.stations.sources.layouts.lanes import LanesView
from wily_magpie.qt.stations.sources.layouts.queue_list import ListView
from wily_magpie.qt.stations.sources.layouts.timeline import TimelineView
from wily_magpie.qt.stations.sources.model import SourcesState
from wily_magpie.qt.stations.sources.table import EntryTableView

ROW_KEYS = ("read-entry", "copy-cells", "delete-entries")
MOST_LIMIT = 9_999


class Faces(QObject):
    """See the module.

    Args:
        stack: in which they are shown.
        state: gives what is shown now.

    Signals:
        opened: the id of an entry to be read. menu_asked: a place on the screen.
        dropped: what was dropped, and the id of the entry that it was dropped on, or None.
        arranged: another layout is to be kept.
        filter_asked: another filter is to be asked.
        asked_again: the same is to be asked again.
    """

    opened = pyqtSignal(int)
    menu_asked = pyqtSignal(object)
    dropped = pyqtSignal(object, object)
    arranged = pyqtSignal(object)
    filter_asked = pyqtSignal(object)
    asked_again = pyqtSignal()

    def __init__(
        self, desk: StationContext, table: EntryTableView, stack: QStackedWidget, state: Callable[[], SourcesState]
    ) -> None:
        super().__init__(stack)
        self.desk, self.table, self.stack, self.state = desk, table, stack, state

    def put(self, face: EntryCanvas) -> None:
        """Takes a face into the stack and connects it."""
        self.stack.addWidget(face)
        face.opened.connect(self.opened)
        face.menu_asked.connect(self.menu_asked)
        face.dropped.connect(self.dropped)
        face.status_asked.connect(self.set_status)
        for name in ROW_KEYS:
            face.addAction(self.desk.commands.action(name, face, Qt.ShortcutContext.WidgetShortcut))

    @cached_property
    def cards(self) -> CardsView:
        """Cards."""
        cards = CardsView(self.table, self.desk.bridge.ask)
        self.put(cards)
        self.desk.bridge.entries_changed.connect(lambda _place, ids: cards.forget(ids))
        self.desk.bridge.pictures_kept.connect(lambda _place: cards.forget(()))
        return cards

    @cached_property
    def lanes(self) -> LanesView:
        """Lanes."""
        lanes = LanesView(self.table)
        self.put(lanes)
        lanes.moved.connect(self.move)
        lanes.fold_asked.connect(lambda lane: self.change_lane(replace(lane, is_folded=not lane.is_folded)))
        lanes.lane_menu_asked.connect(self.ask_lane)
        return lanes

    @cached_property
    def queue(self) -> ListView:
        """The list."""
        queue = ListView(self.table, self.desk.bridge.ask)
        self.put(queue)
        self.desk.bridge.entries_changed.connect(lambda _place, ids: queue.forget(ids))
        return queue

    @cached_property
    def timeline(self) -> TimelineView:
        """The time line."""
        timeline = TimelineView(self.table, LastAsked(self.desk.bridge))
        self.put(timeline)
        timeline.span_chosen.connect(self.filter_span)
        timeline.undated_asked.connect(self.filter_undated)
        return timeline

    def show(self) -> QWidget:
        """The face of the layout that is in force, with the answer that the table has."""
        state = self.state()
        layout = state.layout
        if layout.kind is LayoutKind.CARDS:
            self.cards.show_layout(layout)
            return self.cards
        if layout.kind is LayoutKind.LANES and layout.lane_field(state.place.fields if state.place else ()) is not None:
            self.lanes.show_layout(layout)
            return self.lanes
        if layout.kind is LayoutKind.LIST:
            self.queue.show_layout(layout)
            return self.queue
        if layout.kind is LayoutKind.TIMELINE:
            self.timeline.show_question(layout, state.asked_question)
            return self.timeline
        return self.table

    # what is done

    def set_status(self, number: int) -> None:
        """Sets the option of a number in what is chosen; 0 blanks it."""
        state, ids = self.state(), self.table.chosen_ids()
        fields = [one for one in (state.place.fields if state.place is not None else ()) if one.kind.has_spine]
        field = next((one for one in fields if one.key == "status"), None) or next(iter(fields), None)
        if state.place is None or field is None or not ids or number > len(field.options):
            return
        if self.desk.overview.is_read_only:
            return
        name = field.options[number - 1].name if number else ""
        said = f"{field.label}: {name or 'blank'}"

        def done(warning: str) -> None:
            self.desk.say(warning or said, self.desk.undoing())

        self.desk.bridge.do(SetText(state.place.key, tuple(ids), field.key, name), done)

    def move(self, ids: Sequence[int], name: str, before: int | None) -> None:
        """Moves entries into a lane, as one step; the order by hand goes along where it is in force, or begins with it."""
        state = self.state()
        field = self.lanes.field
        if state.place is None or field is None:
            return
        layout, is_within = state.layout, before is not None and self.is_within(ids, name)
        ordered = None
        if before is not None and (layout.by_hand or is_within):
            ordered = replace(layout, by_hand=self.reordered(list(ids), name, before))
        text = name if not field.kind.is_linked else field.kind.show((name,)) if name else ""
        command = MoveToLane(state.place.key, tuple(ids), field.key, text, state.layout_view, ordered)
        self.show_moved(list(ids), name, before)
        many = "One entry is" if len(ids) == 1 else f"{len(ids)} entries are"
        said = f"{many} in {name or 'blank'} now."
        told = lambda _none: None if is_within else self.desk.say(said, self.desk.undoing())  # noqa: E731
        self.desk.bridge.do(command, told, self.refused)

    def refused(self, error: MagpieError) -> None:
        """It could not be moved: what is there is shown again."""
        self.desk.complain(error)
        self.asked_again.emit()

    def show_moved(self, ids: list[int], name: str, before: int | None) -> None:
        """Shows entries in their new lane at once; the answer of the library follows."""
        table = self.table.table
        place, listing = table.place, moved(table.listing, ids, name, before)
        if place is not None and listing is not None:
            current = self.table.table.id_at(self.table.currentIndex().row())
            table.show(place, table.columns, listing, (), 0, table.layout)
            self.table.choose(current)

    def is_within(self, ids: Sequence[int], name: str) -> bool:
        """Whether entries stand in a lane already."""
        column = next((one for one in self.lanes.columns if one.lane.name == name), None)
        return column is not None and set(ids) <= set(self.lanes.ids_of(column))

    def reordered(self, ids: list[int], name: str, before: int) -> tuple[int, ...]:
        """All ids in the order by hand, with some of them put before another one of their lane; 0: behind all of it."""
        out: list[int] = []
        for column in self.lanes.columns:
            run = [one for one in self.lanes.ids_of(column) if one not in ids]
            if column.lane.name == name:
                at = run.index(before) if before in run else len(run)
                run[at:at] = ids
            out += run
        return tuple(out)

    def change_lane(self, lane: Lane) -> None:
        """Keeps what is said of a lane; all of them have their places from then on."""
        lanes = tuple(lane if one.name == lane.name else one for one in self.lanes.lanes())
        self.arranged.emit(replace(self.state().layout, lanes=lanes))

    def shift_lane(self, lane: Lane, by: int) -> None:
        """Puts a lane one further."""
        lanes = self.lanes.lanes()
        at = next(number for number, one in enumerate(lanes) if one.name == lane.name)
        lanes.insert(min(max(at + by, 0), len(lanes) - 1), lanes.pop(at))
        self.arranged.emit(replace(self.state().layout, lanes=tuple(lanes)))

    def ask_lane(self, lane: Lane, at: QPoint) -> None:
        """What can be done with a lane."""
        menu = QMenu(self.stack)
        fold = replace(lane, is_folded=not lane.is_folded)
        add_choice(menu, "Show this lane" if lane.is_folded else "Fold this lane", partial(self.change_lane, fold))
        add_choice(menu, "Fold the empty ones", self.fold_empty)
        menu.addSeparator()
        add_choice(menu, "At most so many …", partial(self.ask_limit, lane))
        if lane.limit:
            add_choice(menu, "Any number", partial(self.change_lane, replace(lane, limit=0)))
        menu.addSeparator()
        add_choice(menu, "Further to the left", partial(self.shift_lane, lane, -1))
        add_choice(menu, "Further to the right", partial(self.shift_lane, lane, 1))
        if self.state().layout.lanes:
            add_choice(
                menu, "All as their options are", lambda: self.arranged.emit(replace(self.state().layout, lanes=()))
            )
        menu.exec(at)

    def fold_empty(self) -> None:
        """Folds the lanes in which nothing stands."""
        counts = {one.lane.name: one.count for one in self.lanes.columns}
        lanes = tuple(replace(one, is_folded=one.is_folded or not counts.get(one.name)) for one in self.lanes.lanes())
        self.arranged.emit(replace(self.state().layout, lanes=lanes))

    def ask_limit(self, lane: Lane) -> None:
        """Asks how many should stand in a lane at most."""
        title = f"At most so many in “{lane.name or 'blank'}”"
        number, is_given = QInputDialog.getInt(
            self.stack, title, "Entries; it is only shown:", lane.limit or 3, 1, MOST_LIMIT
        )
        if is_given:
            self.change_lane(replace(lane, limit=number))

    def filter_span(self, span: str) -> None:
        """Asks only for what lies in a span of the axis."""
        self.add_condition(Relation.BETWEEN, span)

    def filter_undated(self) -> None:
        """Asks only for what has no date."""
        self.add_condition(Relation.EMPTY, "")

    def add_condition(self, relation: Relation, value: str) -> None:
        """Adds a condition over the dates of the axis; one of that kind that stands there is another one now."""
        state = self.state()
        field = state.layout.time_field(state.place.fields) if state.place is not None else None
        if field is None:
            return
        new: Node = Condition(field, relation, value)
        for number, node in enumerate(state.question.conditions):
            if isinstance(node, Condition) and node.field.key == field.key and node.relation is relation:
                path = (number,) if len(state.question.conditions) > 1 else ()
                self.filter_asked.emit(changing.put(state.question.filter, path, new))
                return
        self.filter_asked.emit(changing.add(state.question.filter, (), new, And))


def moved(listing: Listing, ids: Sequence[int], name: str, before: int | None) -> Listing | None:
    """An answer in lanes with some entries in another lane; None where nothing stands in that lane yet.

    Args:
        before: the entry before which they are put; None or one that is not there: behind all.
    """
    if all(group.name != name for group in listing.groups):
        return None
    out: list[int] = []
    groups, at = [], 0
    for group in listing.groups:
        run = [one for one in listing.ids[at : at + group.rows] if one not in ids]
        at += group.rows
        if group.name == name:
            place = run.index(before) if before in run else len(run)
            run[place:place] = ids
        out += run
        groups.append(replace(group, size=len(run), rows=len(run)))
    return replace(listing, ids=out, groups=tuple(groups))
