"""What a person did on a slip, as plain data: it is put on another slip of the same page, and written down as a draft."""

import base64
import json
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import field
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark import Mark

TYPED = "typed"
"""The origin of what a person wrote, rather than chose among what the page offers."""


@dataclass(frozen=True)
class Typed:
    """A value that a person gave a field: as it is edited, and where it came from."""

    text: str
    origin: str = TYPED


@dataclass(frozen=True)
class ByHand:
    """See the module. Whatever is blank is left to the template.

    Attributes:
        template, place: name and key of those that the person chose.
        values: by the key of the field, also of fields that the present place lacks.
        body: the text, where the person settled it.
        marks: those that were made or changed; removed: those of the kept entry that are to go.
        picture: address of the picture that was chosen.
        shots: pictures of the page that were taken, PNG.
        new_keys: keys of front matter that the person named, which a notes folder has no field of yet.
    """

    template: str = ""
    place: str = ""
    values: Mapping[str, Typed] = field(default_factory=dict)
    body: str | None = None
    marks: tuple[Mark, ...] = ()
    removed: tuple[Mark, ...] = ()
    picture: str = ""
    new_keys: tuple[str, ...] = ()
    shots: tuple[bytes, ...] = field(default=(), repr=False)

    @property
    def is_blank(self) -> bool:
        """Whether the person did nothing."""
        return self == ByHand()

    def to_json(self) -> str:
        """As it is written down."""
        values = {key: [one.text, one.origin] for key, one in self.values.items()}
        marks, removed = ([one.to_plain() for one in marks] for marks in (self.marks, self.removed))
        return json.dumps(
            {"template": self.template, "place": self.place, "values": values, "body": self.body, "marks": marks,
             "removed": removed, "picture": self.picture, "new_keys": self.new_keys,
             "shots": [base64.b64encode(one).decode() for one in self.shots]}, ensure_ascii=False,
        )  # fmt: skip

    @classmethod
    def from_plain(cls, stored: Mapping[str, Any]) -> "ByHand":
        """From what was written down; what is damaged is left away."""
        values = stored.get("values")
        body = stored.get("body")
        return cls(
            str(stored.get("template") or ""),
            str(stored.get("place") or ""),
            {
                str(key): Typed(str(one[0]), str(one[1]))
                for key, one in (values if isinstance(values, dict) else {}).items()
                if isinstance(one, list) and len(one) == 2
            },
            body if isinstance(body, str) else None,
            marks_in(stored.get("marks")),
            marks_in(stored.get("removed")),
            str(stored.get("picture") or ""),
            tuple(map(str, keys)) if isinstance(keys := stored.get("new_keys"), list) else (),
            shots_in(stored.get("shots")),
        )


def marks_in(stored: object) -> tuple[Mark, ...]:
    """Marks from JSON."""
    return tuple(Mark.from_plain(one) for one in stored if isinstance(one, dict)) if isinstance(stored, list) else ()


def shots_in(stored: object) -> tuple[bytes, ...]:
    """Pictures from JSON."""
    out = []
    for one in stored if isinstance(stored, list) else ():
        with suppress(ValueError):
            out.append(base64.b64decode(str(one), validate=True))
    return tuple(out)
