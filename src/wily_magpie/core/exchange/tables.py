"""Taking a table in: a new collection from a sheet, batch by batch, as one step."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol, TypeVar

from wily_magpie.core.commands.command import Command, Progress
from wily_magpie.core.commands.imports import AddRows, BeginTable, DropRows, FinishTable
from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.exchange.sheet import Sheet
from wily_magpie.core.fields import KINDS, Value
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.places.file_lock import FileLock
from wily_magpie.core.places.library.arriving import lock_path
from wily_magpie.core.places.library.schema_changes import key_for

SKIPPED, TITLE_COLUMN = "", "title"
"""Instead of a kind: of a column that is not taken in, and of the one that names the entries."""
ROWS_A_TICK, ROWS_A_BATCH = 500, 250
T = TypeVar("T")


class Doer(Protocol):
    """What does commands: a session."""

    folder: Path

    def do(self, command: Command[T], progress: Progress | None = None) -> T:
        """Does a command and waits for it."""


@dataclass
class Columns:
    """How the columns of a sheet become fields.

    Attributes:
        title: number of the column that names the entries; None: there is none.
        keys: of fields, by the number of their column; rest_keys: of the text fields for what does not fit.
    """

    title: int | None
    plans: list[FieldPlan] = field(default_factory=list)
    keys: dict[int, str] = field(default_factory=dict)
    rest_keys: dict[int, str] = field(default_factory=dict)


def take_in(
    session: Doer, sheet: Sheet, kinds: Sequence[str], name: str, progress: Progress
) -> tuple[PlaceInfo, list[str]]:
    """A new collection from a sheet, as one step, and what could not be read of it.

    Args:
        kinds: of each column; TITLE_COLUMN for one of them, SKIPPED for those that are left out.

    What does not fit its column's kind is kept in a text field beside it. Cancelled, nothing of it stays.
    """
    failed = misfits(sheet, kinds, progress.tick)
    columns = planned(sheet, kinds, failed)
    number = session.do(BeginTable(name, columns.plans))
    lock = FileLock(lock_path(session.folder, number))
    lock.take()
    try:
        options = add_rows(session, number, sheet, kinds, columns, progress)
        place = session.do(FinishTable(number, name, options), progress)
    except BaseException:
        while session.do(DropRows(number)):
            pass
        raise
    finally:
        lock.path.unlink(missing_ok=True)
        lock.close()
    told = [
        f"{len(rows)} of {len(sheet.rows)} in “{sheet.names[n]}” are no {kinds[n]}; they are kept as text."
        for n, rows in failed.items()
    ]
    return place, [*sheet.faults, *told, *doubtful(sheet, kinds)]


def doubtful(sheet: Sheet, kinds: Sequence[str]) -> list[str]:
    """What is kept as it stands but is no good value of its column's kind, such as "undated", a sentence a column."""
    out = []
    for n, kind in enumerate(kinds):
        if kind in (SKIPPED, TITLE_COLUMN):
            continue
        texts = [text for text in sheet.column(n) if is_doubtful(kind, text)]
        if texts:
            some = ", ".join(f"“{one}”" for one in dict.fromkeys(texts[:3]))
            out.append(
                f"{len(texts)} of {len(sheet.rows)} in “{sheet.names[n]}” are no {kind}: {some}; they are kept as they stand."
            )
    return out


def is_doubtful(kind: str, text: str) -> bool:
    """Whether a text is kept by a kind with a warning."""
    try:
        return bool(KINDS[kind].take(text)[1])
    except UnreadableValue:
        return False


def planned(sheet: Sheet, kinds: Sequence[str], failed: dict[int, set[int]]) -> Columns:
    """The fields of the collection."""
    columns = Columns(next((n for n, kind in enumerate(kinds) if kind == TITLE_COLUMN), None))
    taken: set[str] = {"title", "gaps"}
    for n, kind in enumerate(kinds):
        if kind in (SKIPPED, TITLE_COLUMN):
            continue
        columns.keys[n] = key_for(sheet.names[n], taken)
        taken.add(columns.keys[n])
        columns.plans.append(FieldPlan(columns.keys[n], label_of(sheet.names[n]), kind))
        if n in failed:
            columns.rest_keys[n] = key_for(f"{sheet.names[n]} as text", taken)
            taken.add(columns.rest_keys[n])
            rest = FieldPlan(columns.rest_keys[n], f"{label_of(sheet.names[n])} (as text)", "long text")
            columns.plans.append(rest)
    return columns


def add_rows(
    session: Doer, number: int, sheet: Sheet, kinds: Sequence[str], columns: Columns, progress: Progress
) -> dict[str, list[str]]:
    """Brings the rows in; the options of choices, by key."""
    names: dict[str, dict[str, None]] = {}
    drafts: list[Draft] = []
    for at, row in enumerate(sheet.rows):
        if at % ROWS_A_TICK == 0:
            progress.tick(at, len(sheet.rows))
        drafts.append(draft_of(row, at, kinds, columns, names))
        if len(drafts) == ROWS_A_BATCH:
            session.do(AddRows(number, drafts))
            drafts = []
    session.do(AddRows(number, drafts))
    return {key: list(options) for key, options in names.items()}


def draft_of(
    row: Sequence[str], at: int, kinds: Sequence[str], columns: Columns, names: dict[str, dict[str, None]]
) -> Draft:
    """The entry of a row; `names` gets the options that it has."""
    values: dict[str, Value] = {}
    for n, key in columns.keys.items():
        kind = KINDS[kinds[n]]
        try:
            value = kind.take(row[n])[0]
        except UnreadableValue:
            values[columns.rest_keys[n]] = row[n].strip()
            continue
        values[key] = value
        if kind.has_options and value is not None:
            found = value if isinstance(value, tuple) else (str(value),)
            names.setdefault(key, {}).update(dict.fromkeys(found))
    text = row[columns.title].strip() if columns.title is not None else ""
    return Draft(" ".join(text.split()) or f"Row {at + 1}", values)


def misfits(
    sheet: Sheet, kinds: Sequence[str], tick: Callable[[int, int], None] = lambda _done, _total: None
) -> dict[int, set[int]]:
    """The rows, by their columns, whose cells cannot be kept as the kinds chosen; columns without such are left out."""
    out: dict[int, set[int]] = {}
    for column, kind in enumerate(kinds):
        if kind in (SKIPPED, TITLE_COLUMN):
            continue
        for row, cells in enumerate(sheet.rows):
            if row % ROWS_A_TICK == 0:
                tick(0, 0)
            try:
                KINDS[kind].take(cells[column])
            except UnreadableValue:
                out.setdefault(column, set()).add(row)
    return out


def label_of(name: str) -> str:
    """A column's name as a label."""
    return "Title (column)" if name.casefold() == "title" else name
