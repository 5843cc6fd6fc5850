"""What happened to one note: what our own steps made of its file."""

from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.entries.field import Field
from wily_magpie.core.entries.happening import FieldChange, Happening
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import Value
from wily_magpie.core.places.history import History

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile


def text_of(content: object) -> str:
    """The text of a file's bytes."""
    return content.decode("utf-8", "replace") if isinstance(content, bytes) else ""


def plainly(value: object) -> str:
    """A value of front matter in a line."""
    return "; ".join(map(str, value)) if isinstance(value, list) else str(value or "")


def of_note(history: History, path: Path, fields: Mapping[str, Field]) -> Iterator[Happening]:
    """Of a note: what our own steps made of its file."""
    sql = (
        "SELECT history.id, label, at, before, after FROM history JOIN history_file ON history_id = history.id"
        " WHERE state <> 1 AND path = ? ORDER BY history.id DESC"
    )
    for step, label, at, before, after in history.database.rows(sql, (str(path),)):
        old, new = parsed(before), parsed(after)
        changes = [
            FieldChange(fields[key], plainly(old.matter.get(key)), plainly(new.matter.get(key)))
            for key in dict.fromkeys([*old.matter, *new.matter])
            if key in fields and old.matter.get(key) != new.matter.get(key)
        ]
        texts = [note.body.strip("\r\n") for note in (old, new)]
        if texts[0] != texts[1]:
            changes.append(FieldChange(None, *texts))
        if changes:
            values = values_of(old, fields, new)
            yield Happening(int(str(step)), str(label), str(at), tuple(changes), values, texts[0], before is None)


def parsed(content: object) -> "NoteFile":
    """The note that a file's bytes are."""
    from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file is read

    return note_file.parse(text_of(content))


def values_of(old: "NoteFile", fields: Mapping[str, Field], new: "NoteFile") -> dict[str, Value]:
    """The values of a note before a step, of all keys that it had before or behind it and that can be read."""
    values: dict[str, Value] = {}
    for key in [*old.matter, *new.matter]:
        if key in fields:
            with suppress(UnreadableValue):
                values[key] = fields[key].kind.from_plain(old.matter.get(key))
    return values
