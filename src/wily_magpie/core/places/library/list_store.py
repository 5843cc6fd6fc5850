"""Lists of addresses that are captured, with how far each is. They are no steps, and nothing of them is undone."""

import json
from collections.abc import Sequence

from wily_magpie.core.entries.capture_list import LATER, CaptureList, ItemState, ListItem, ListWanted
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.stored_json import read_object
from wily_magpie.core.places.table import now

OF_LATER = """FROM capture_item WHERE place = ? AND entry = ? AND state IN ('kept', 'known')
  AND list IN (SELECT id FROM capture_list WHERE label = ?)"""
"""Of the list of addresses that were kept alone, what has been filled."""


class ListStore:
    """The tables of that name."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def make(self, label: str, wanted: ListWanted, addresses: Sequence[tuple[str, str]]) -> int:
        """A new list; its number."""
        told = json.dumps(
            {"template": wanted.template, "place": wanted.place, "values": wanted.values, "later": wanted.is_later}
        )
        with self.database.writing() as connection:
            connection.execute("INSERT INTO capture_list (label, made, wanted) VALUES (?, ?, ?)", (label, now(), told))
            number = connection.last_insert_rowid()
            connection.executemany(
                "INSERT INTO capture_item (list, position, address, title, state) VALUES (?, ?, ?, ?, 'waiting')",
                [(number, at, address, title) for at, (address, title) in enumerate(addresses, 1)],
            )
        return number

    def add_later(self, address: str, title: str) -> None:
        """Adds an address to the list of those that are kept alone so far; one that waits there already is not added again."""
        number = self.database.one("SELECT id FROM capture_list WHERE label = ? ORDER BY id DESC", (LATER,))
        if number is None:
            self.make(LATER, ListWanted(is_later=True), [(address, title)])
            return
        with self.database.writing() as connection:
            connection.execute("DELETE FROM capture_item WHERE list = ? AND address = ?", (number, address))
            connection.execute(
                "INSERT INTO capture_item (list, position, address, title, state)"
                " SELECT ?1, coalesce(max(position), 0) + 1, ?2, ?3, 'waiting' FROM capture_item WHERE list = ?1",
                (number, address, title),
            )

    def all(self) -> list[CaptureList]:
        """All of them, the latest first."""
        counts: dict[int, dict[ItemState, int]] = {}
        for number, state, count in self.database.rows("SELECT list, state, count(*) FROM capture_item GROUP BY 1, 2"):
            counts.setdefault(int(str(number)), {})[ItemState(str(state))] = int(str(count))
        rows = self.database.rows("SELECT id, label, made, wanted FROM capture_list ORDER BY id DESC")
        return [
            CaptureList(
                int(str(row[0])), str(row[1]), str(row[2]), wanted_from(str(row[3])), counts.get(int(str(row[0])), {})
            )
            for row in rows
        ]

    def find(self, number: int) -> CaptureList | None:
        """One of them."""
        return next((one for one in self.all() if one.id == number), None)

    def items(self, number: int) -> list[ListItem]:
        """The addresses of a list, in their order."""
        rows = self.database.rows(
            "SELECT position, address, title, state, said, place, entry FROM capture_item WHERE list = ? ORDER BY position",
            (number,),
        )
        return [
            ListItem(
                int(str(at)), str(address), str(title), ItemState(str(state)), str(said), str(place), int(str(entry))
            )
            for at, address, title, state, said, place, entry in rows
        ]

    def note(self, number: int, items: Sequence[ListItem]) -> None:
        """Writes down how far some addresses are."""
        with self.database.writing() as connection:
            connection.executemany(
                "UPDATE capture_item SET title = ?, state = ?, said = ?, place = ?, entry = ? WHERE list = ? AND position = ?",
                [(one.title, one.state, one.said, one.place, one.entry_id, number, one.position) for one in items],
            )

    def is_to_be_read(self, place: str, entry_id: int) -> bool:
        """Whether an entry was kept for later, filled from its page, and not read since."""
        return bool(self.database.one(f"SELECT count(*) {OF_LATER}", (place, entry_id, LATER)))

    def note_read(self, place: str, entry_id: int) -> None:
        """An entry that was kept for later is read: it goes from the list, and the list with its last one."""
        with self.database.writing() as connection:
            connection.execute(f"DELETE {OF_LATER}", (place, entry_id, LATER))
            connection.execute(
                "DELETE FROM capture_list WHERE label = ? AND id NOT IN (SELECT list FROM capture_item)", (LATER,)
            )

    def remove(self, number: int) -> None:
        """Forgets a list; what was kept by it stays."""
        with self.database.writing() as connection:
            connection.execute("DELETE FROM capture_item WHERE list = ?", (number,))
            connection.execute("DELETE FROM capture_list WHERE id = ?", (number,))


def wanted_from(stored: str) -> ListWanted:
    """What is wanted of a list, from JSON."""
    told = read_object(stored)
    values = told.get("values")
    return ListWanted(
        str(told.get("template") or ""),
        str(told.get("place") or ""),
        tuple((str(one[0]), str(one[1])) for one in values if isinstance(one, list) and len(one) == 2)
        if isinstance(values, list)
        else (),
        bool(told.get("later")),
    )
