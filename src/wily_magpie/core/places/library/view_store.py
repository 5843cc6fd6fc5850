"""The kept views of a library: questions under names, each with a layout. Whoever changes something is inside a step."""

import re
from collections.abc import Callable, Sequence
from dataclasses import replace

from wily_magpie.core.entries.layout import Layout, read_layout, write_layout
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Relation
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.table import sort_key
from wily_magpie.core.places.to_sql import table_of
from wily_magpie.core.query.lexer import quote
from wily_magpie.core.query.nodes import Condition, Question, mapped


class ViewStore:
    """The table of that name.

    Args:
        usual_layout: how a place is looked at, by its key.
    """

    def __init__(self, database: Database, usual_layout: Callable[[str], Layout]) -> None:
        self.database = database
        self.usual_layout = usual_layout

    def all(self, place: str | None = None) -> list[View]:
        """The views of one place, or all, in order."""
        rows = self.database.rows(
            "SELECT id, place, name, question, layout FROM view WHERE ?1 IS NULL OR place = ?1 ORDER BY position, id",
            (place,),
        )
        return [
            View(int(str(i)), str(where), str(name), self.named_anew(str(question)), read_layout(str(layout)))
            for i, where, name, question, layout in rows
        ]

    def identified(self, question: Question) -> Question:
        """A question that knows the entries that it asks for by reference, so that they may be renamed."""

        def one(condition: Condition) -> Condition:
            field = condition.field
            if not field.kind.is_linked or condition.relation not in (Relation.HAS, Relation.HAS_NOT):
                return condition
            table = table_of(field.settings.target)
            sql = f"SELECT id FROM {table} WHERE title_key = ? AND casefold(title) = ?"
            found = self.database.rows(sql, (sort_key(condition.value), condition.value.casefold()))
            return replace(condition, entry=int(str(found[0][0]))) if len(found) == 1 else condition

        return replace(question, filter=mapped(question.filter, one)) if question.filter is not None else question

    def title_of_any(self, entry_id: int) -> str | None:
        """The title of an entry of whichever collection; None where it is gone."""
        number = self.database.one("SELECT collection_id FROM content WHERE entry_id = ?", (entry_id,))
        title = self.database.one(f"SELECT title FROM c{number} WHERE id = ?", (entry_id,)) if number else None
        return None if title is None else str(title)

    def named_anew(self, question: str) -> str:
        """A kept question with the titles that the entries which it asks for have now."""

        def one(found: re.Match[str]) -> str:
            title = self.title_of_any(int(found[1]))
            return f"/entry={found[1]} {quote(title)}" if title is not None else found[0]

        return re.sub(r'/entry=(\d+) ("(?:[^"\\]|\\.)*"|[^\s()]+)', one, question)

    def keep(
        self, place: str, name: str, question: str, view_id: int | None = None, layout: Layout | None = None
    ) -> int:
        """Keeps a question under a name; with an id, that view is changed. The view's id.

        Args:
            layout: how its answer is looked at; None: as it was, or as the place is.
        """
        name = " ".join(name.split())
        if not name:
            raise UserError("view-nameless", "A view needs a name.", "Write one.")
        if any(view.name.casefold() == name.casefold() and view.id != view_id for view in self.all(place)):
            raise UserError("view-known", f"There is a view “{name}” already.", "Choose another name.")
        with self.database.writing() as connection:
            if view_id is not None:
                connection.execute("UPDATE view SET name = ?, question = ? WHERE id = ?", (name, question, view_id))
                if layout is not None:
                    self.set_layout(view_id, layout)
                return view_id
            seen = layout if layout is not None else self.usual_layout(place)
            connection.execute(
                "INSERT INTO view (place, name, question, position, layout) VALUES (?, ?, ?, ?, ?)",
                (
                    place,
                    name,
                    question,
                    self.next_position(),
                    write_layout(seen),
                ),
            )
            return connection.last_insert_rowid()

    def next_position(self) -> float:
        """Behind all views."""
        return float(str(self.database.one("SELECT coalesce(max(position), 0) + 1 FROM view")))

    def order(self, ids: Sequence[int]) -> None:
        """Puts views into an order; the others stay where they are, in front of them."""
        first = self.next_position()
        with self.database.writing() as connection:
            for at, view_id in enumerate(ids):
                connection.execute("UPDATE view SET position = ? WHERE id = ?", (first + at, view_id))

    def set_layout(self, view_id: int, layout: Layout) -> None:
        """Sets how the answer of a view is looked at."""
        with self.database.writing() as connection:
            connection.execute("UPDATE view SET layout = ? WHERE id = ?", (write_layout(layout), view_id))

    def delete(self, view_id: int) -> None:
        """Takes a view out; its entries stay."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM view WHERE id = ?", (view_id,))
