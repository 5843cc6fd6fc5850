"""Where one can go from anywhere: commands, places, views, the entries that were looked at last, what a search found."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QLineEdit, QWidget

from wily_magpie.core.commands.mirror import KeepInStep
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import UserError
from wily_magpie.core.events import ListsLeft, OutOfStep
from wily_magpie.core.pages.address import looks_like_address
from wily_magpie.core.queries.mirror import FROM_ENTRY, FROM_NOTE
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.station_stack import READ, SOURCES, StationStack

if TYPE_CHECKING:
    from wily_magpie.core.companion.scheme import EntryCall
    from wily_magpie.core.queries.marks import MarkScope
    from wily_magpie.core.queries.reader import Reader
    from wily_magpie.core.queries.search import Hit, Wanted
    from wily_magpie.qt.finder import Choice
    from wily_magpie.qt.search_drop import SearchDrop

MOST_RECENT, BELOW_PX = 12, 48


class Goals:
    """See the module.

    Args:
        line: the address line, in which is typed what is looked for.
        go: shows a station.
        window: over which lists open.
    """

    def __init__(
        self, desk: StationContext, stack: StationStack, line: QLineEdit, go: Callable[[int], None], window: QWidget
    ) -> None:
        self.desk, self.stack, self.line, self.go, self.window = desk, stack, line, go, window
        self.drop: SearchDrop | None = None
        self.seen: dict[tuple[str, int], str] = {}
        """Titles of the entries that were looked at, the latest last."""
        line.textEdited.connect(self._on_edited)
        stack.looked_at.connect(self.note)

    def note(self, place: str, entry_id: int, title: str) -> None:
        """An entry is looked at."""
        self.seen.pop((place, entry_id), None)
        self.seen[place, entry_id] = title
        while len(self.seen) > MOST_RECENT:
            del self.seen[next(iter(self.seen))]

    def all(self) -> "list[Choice]":
        """Places, views and commands."""
        from wily_magpie.qt.finder import Choice, choice_of  # seldom needed

        overview = self.desk.overview
        out = []
        for place in overview.places:
            out.append(Choice(place.name, place.nature.noun, partial(self.open_place, place.key)))
            views = overview.views_of(place.key)
            out += [Choice(view.name, f"view of {place.name}", partial(self.open_view, view)) for view in views]
        return [*out, *(choice_of(one) for one in self.desk.commands.all() if one.act.id != "find")]

    def recent(self) -> "list[Choice]":
        """The entries that were looked at last, the latest first."""
        from wily_magpie.qt.finder import Choice  # as above

        names = {place.key: place.name for place in self.desk.overview.places}
        return [
            Choice(title, f"entry in {names[key]}", partial(self.desk.show_entry, key, entry_id))
            for (key, entry_id), title in reversed(self.seen.items())
            if key in names
        ]

    def open_finder(self) -> None:
        """Opens the finder below the top line."""
        from wily_magpie.qt.finder import CommandFinder  # as above

        self.finder = CommandFinder([*self.recent(), *self.all()], self.window)
        at = self.window.mapToGlobal(QPoint(0, 0))
        self.finder.move(at.x() + (self.window.width() - self.finder.width()) // 2, at.y() + BELOW_PX)
        self.finder.show()

    def open_place(self, key: str) -> None:
        """Shows all of a place."""
        self.go(SOURCES)
        self.stack.sources.open_place(key)

    def open_view(self, view: View) -> None:
        """Shows a view."""
        self.go(SOURCES)
        self.stack.sources.open_view(view)

    # search

    def read_hit(self, hit: "Hit", wanted: "Wanted") -> None:
        """Opens what a search found for reading, at the hit."""
        self.note(hit.entry.place, hit.entry.id, hit.entry.title)
        self.go(READ)
        self.stack.read.open(hit.entry.place, hit.entry.id, (), wanted)

    def show_all_marks(self, name: str = "", scope: "MarkScope | None" = None) -> None:
        """Shows marks; without a scope, those of what one looks at: the entries in Sources, the queue in Read."""
        if scope is None:
            name, scope = self.marks_here()
        self.go(READ)
        self.stack.read.show_marks(name, scope)

    def marks_here(self) -> "tuple[str, MarkScope | None]":
        """Of which entries marks are wanted, by where one is; None for those that were shown last."""
        from wily_magpie.core.queries.marks import MarkScope  # seldom needed

        if self.stack.currentIndex() == SOURCES:
            state = self.stack.sources.state
            place, view = state.place, state.view
            if place is not None and (view is not None or state.question.filter is not None):
                ids = tuple(self.stack.sources.table.table.listing.ids)
                return (
                    f"{place.name}: {view.name if view is not None else 'what is shown'}",
                    MarkScope(place.key, ids),
                )
            return "", MarkScope(place.key) if place is not None else MarkScope()
        if self.stack.currentIndex() == READ and self.stack.read.shows_text:
            read = self.stack.read
            if len(read.around) > 1:
                return "the queue", MarkScope(read.place, tuple(read.around))
            return "", MarkScope(read.place)
        return "", None

    def show_found(self) -> None:
        """Shows what a search found, as it was."""
        self.go(SOURCES)
        self.stack.sources.show_found()

    def _on_edited(self, text: str) -> None:
        """Words are looked for while they are typed; what shows them is made for the first."""
        if self.drop is None and not looks_like_address(text):
            from wily_magpie.qt.search_drop import SearchDrop  # as above

            self.drop = SearchDrop(self.desk, self.line, self.all, self.window)
            self.drop.hit_chosen.connect(self.read_hit)
            self.drop.take_edit(text)

    def tell_of_list(self, left: ListsLeft) -> None:
        """Says that a living list is not kept filled, and why."""
        look = ("Look at it", lambda: self.show_note_at(left.place, left.path))
        self.desk.say(f"A list in {left.path}: {left.told}", (look,))

    def show_note_at(self, place: str, path: str) -> None:
        """Shows the note at a path, where there is one."""
        find = lambda reader: reader.notes.id_of(place, path)  # noqa: E731
        self.desk.bridge.ask(find, lambda number: self.desk.show_note(place, number) if number else None)

    def tell_out_of_step(self, left: OutOfStep) -> None:
        """Says what could not be put together of an entry and its note; asks what is to become of both where that is open."""

        def settle(answer: str) -> Callable[[], object]:
            command = KeepInStep(left.place, (left.entry,), is_wanted=True, answer=answer)
            done = lambda _pairs: self.desk.say("They are in step again.", self.desk.undoing())  # noqa: E731
            return lambda: self.desk.bridge.do(command, done)

        look = (("Look at it", lambda: self.show_note_at(left.place, left.path)),) if left.path else ()
        if not left.is_asked:
            self.desk.say(left.told, look)
            return
        answers = (("Write it again from the entry", settle(FROM_ENTRY)), ("As in the note", settle(FROM_NOTE)))
        self.desk.say(f"{left.told} The entry is as it was.", (*answers, *look))

    def show_call(self, call: "EntryCall") -> None:
        """Shows an entry that an address leads to."""
        place = self.desk.bridge.overview.find_place(call.place)
        gone = UserError(
            "entry-gone", "What this address leads to is not here.", "It may be in another library, or in the trash."
        )
        if place is None:
            self.desk.complain(gone)
            return

        def work(reader: "Reader") -> int | None:
            number = reader.notes.id_of(place.key, call.note) if call.note else call.entry
            return number if number and reader.entries.rows(place.key, [number]) else None

        show = self.desk.show_note if call.note else self.desk.show_entry
        self.desk.bridge.ask(work, lambda number: show(place.key, number) if number else self.desk.complain(gone))
