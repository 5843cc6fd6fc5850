"""Files that belong to an entry: stored once by the SHA-256 of their contents, under the names that they had."""

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import CONTAINED, PARTS, FieldKind, Relation, Value
from wily_magpie.core.patterns import pattern

STORED = pattern(r"[0-9a-f]{64}/[^/\0]{1,255}")


class Files(FieldKind):
    """Each value is "sha256/name"; Library.keep_file makes them."""

    name = "files"
    holds_files = is_fixed = True
    signs = CONTAINED
    relations = (Relation.NOT_EMPTY, Relation.EMPTY, *PARTS)
    is_many = True

    def read(self, text: str) -> Value:
        names = [name.strip() for name in text.replace("\n", ";").split(";") if name.strip()]
        for name in names:
            if not STORED.fullmatch(name):
                raise UnreadableValue(
                    "no-stored-file", f"“{name}” is no file of this library.", "Drop the file itself, or choose it."
                )
        return tuple(dict.fromkeys(names)) or None

    def show(self, value: Value) -> str:
        """The names alone, as a person knows them."""
        return "; ".join(map(file_name, value)) if isinstance(value, tuple) else ""


def file_name(stored: str) -> str:
    """The name of a stored file."""
    return stored.partition("/")[2]


FILES = Files()
