"""Templates in files: brought out to other machines and people, and in from them; a part of the session."""

import base64
import gzip
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wily_magpie.core.entries.entry import short
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import KINDS
from wily_magpie.core.places.atomic import read_bytes, write_bytes
from wily_magpie.core.places.library.template_store import SampleRow
from wily_magpie.core.session.templating import page_of_copy
from wily_magpie.core.templates.open_form import bad, from_plain, parsed, to_json, to_plain
from wily_magpie.core.templates.template import Template

if TYPE_CHECKING:
    from wily_magpie.core.session.session import Session

SETTINGS_FORMAT = 1
LARGEST_IMPORT, LARGEST_SAMPLE = 50_000_000, 20_000_000
"""Characters of a file; bytes of a sample page in it."""


@dataclass(frozen=True)
class Incoming:
    """A template in a file that is to be brought in.

    Attributes:
        is_known: whether there is one of that name, which it would replace.
        told: what a person should know of it.
    """

    template: Template
    samples: tuple[tuple[SampleRow, bytes], ...]
    is_known: bool
    told: tuple[str, ...]


class Exchange:
    """See the module; what comes in is looked at first, and is one undoable step."""

    def __init__(self, session: "Session") -> None:
        self.session = session
        self.library = session.library

    def export(self, names: Sequence[str] = (), *, with_samples: bool = False) -> str:
        """Templates as one readable JSON text; none named: all of them, which are the capture settings as a whole."""
        wanted = [one for one in self.session.templates() if not names or one.name in names]
        if names and len(wanted) < len(set(names)):
            missing = next(name for name in names if name not in {one.name for one in wanted})
            raise UserError("unknown-template", f"There is no template “{missing}”.", "Look at the list of templates.")
        out = []
        for template in wanted:
            plain = to_plain(template)
            rows = self.library.templates.samples(template.name) if with_samples else []
            copies = [(row, self.library.blobs.copy_of(row.sha256, row.media_type)) for row in rows]
            plain["samples"] = [sample_form(row, content) for row, content in copies if content is not None]
            out.append({key: value for key, value in plain.items() if key != "samples" or value})
        places = {one.writes: self.session.templating.fields_of(one) for one in wanted}
        shapes = {
            name: [
                {"key": one.key, "label": one.label, "kind": one.kind.name}
                for one in fields[1:]
                if one.is_writable and one.kind.name != "reference"
            ]
            for name, fields in places.items()
            if name and fields
        }
        whole = {"wily_magpie": "templates", "format": SETTINGS_FORMAT, "templates": out, "places": shapes}
        return json.dumps(whole, ensure_ascii=False, indent=2) + "\n"

    def write(self, path: Path, names: Sequence[str] = ()) -> int:
        """Writes templates with their samples into a file; how many they are."""
        write_bytes(path, self.export(names, with_samples=True).encode())
        return len(names) or len(self.session.template_names())

    @staticmethod
    def read(path: Path) -> str:
        """The text of a file; EnvironmentFailure where it cannot be read."""
        content = read_bytes(path)
        if content is None:
            raise EnvironmentFailure("file-unread", f"{path} cannot be read.", "Check its name and rights.")
        return content.decode("utf-8", "replace")

    def look_at_import(self, text: str) -> list[Incoming]:
        """What a file would bring in; nothing is changed.

        Raises:
            UserError: it holds no templates, or one has a fault: the place and the reason are told.
        """
        if len(text) > LARGEST_IMPORT:
            raise bad("The text", "is too large")
        raw = parsed(text)
        is_many = isinstance(raw, dict) and "templates" in raw
        many = raw["templates"] if is_many else [raw]
        if is_many and raw.get("format") != SETTINGS_FORMAT:
            raise bad("format", f"is {raw.get('format')}, and this version reads {SETTINGS_FORMAT}")
        if not isinstance(many, list) or len(many) > 1000:
            raise bad("templates", "must be a list of templates")
        there = {name.casefold() for name in self.session.template_names()}
        out, seen = [], set()
        for at, one in enumerate(many):
            where = f"templates[{at}]." if is_many else ""
            template = from_plain(one, where)
            if template.name.casefold() in seen:
                raise bad(f"{where}name", f"“{template.name}” stands there twice")
            seen.add(template.name.casefold())
            samples = tuple(
                read_sample(sample, f"{where}samples[{n}].") for n, sample in enumerate(samples_in(one, where))
            )
            out.append(Incoming(template, samples, template.name.casefold() in there, self.told_of(template)))
        return out

    def told_of(self, template: Template) -> tuple[str, ...]:
        """What a person should know before a template is brought in."""
        told = []
        try:
            keys = {one.key for one in self.session.templating.place_of(template).fields}
        except UserError:
            told.append(f"There is no place “{template.writes}” here; a collection of that name is made.")
        else:
            lost = [key for key in template.fields if key not in keys]
            if lost:
                told.append(
                    f"{template.writes or 'Its place'} has no field {', '.join(lost)}; their rules stay without effect."
                )
        return tuple(told)

    def take_in(self, incoming: Sequence[Incoming], text: str = "") -> list[str]:
        """Brings templates in, as one step; those of names that are there replace them. Their names.

        Args:
            text: the file that they came from, which knows the shapes of places that are missing here.
        """
        raw = parsed(text) if text else {}
        given = raw.get("places") if isinstance(raw, dict) else None
        shapes = given if isinstance(given, dict) else {}
        with self.library.step(f"Bring in {len(incoming)} templates" if len(incoming) != 1 else
                               f"Bring in template “{short(incoming[0].template.name)}”"):  # fmt: skip
            for one in incoming:
                self.make_place(one.template, shapes)
                name = one.template.name
                if one.is_known:
                    for row in self.library.templates.samples(name) if one.samples else ():
                        self.library.templates.remove_sample(row.id)
                self.library.templates.put(name, to_json(one.template))
                for row, content in one.samples:
                    page = page_of_copy(row, content)
                    if page is not None:
                        kept = replace(row, sha256=self.library.blobs.keep_copy(page))
                        self.library.templates.add_sample(name, kept)
        self.session.arranging.tell()
        self.session.templating.tell()
        return [one.template.name for one in incoming]

    def make_place(self, template: Template, shapes: dict[str, Any]) -> None:
        """Makes the collection that a template writes to, where there is no such place."""
        try:
            self.session.templating.place_of(template)
        except UserError:
            given = shapes.get(template.writes)
            plans = [plan for one in given if (plan := read_plan(one)) is not None] if isinstance(given, list) else []
            if plans:
                self.library.add_collection(template.writes, plans)
            else:
                self.session.arranging.collection_for(template.writes, template)


def sample_form(row: SampleRow, content: bytes) -> dict[str, Any]:
    """A sample page in a file: what was accepted, and the page itself, packed."""
    packed = base64.b64encode(gzip.compress(content, 6, mtime=0)).decode()
    return {
        "address": row.address, "title": row.title, "captured": row.captured, "media_type": row.media_type,
        "accepted": dict(row.accepted), "page": packed,
    }  # fmt: skip


def samples_in(raw: Any, where: str) -> list[Any]:
    """The samples of a template in a file."""
    found = raw.get("samples") or []
    if not isinstance(found, list) or len(found) > 200:
        raise bad(f"{where}samples", "must be a list of at most 200")
    return found


def read_sample(raw: Any, where: str) -> tuple[SampleRow, bytes]:
    """A sample page from its open form."""
    texts = ("address", "title", "captured", "media_type", "page")
    if not isinstance(raw, dict) or not all(isinstance(raw.get(key), str) for key in texts):
        raise bad(where.rstrip("."), f"must have the texts {', '.join(texts)}")
    accepted = raw.get("accepted") or {}
    if not isinstance(accepted, dict) or not all(isinstance(one, str) for one in accepted.values()):
        raise bad(f"{where}accepted", "must be an object of texts")
    try:
        content = unpacked(base64.b64decode(raw["page"], validate=True))
    except (ValueError, OSError, EOFError) as error:
        raise bad(f"{where}page", "is not a packed page") from error
    row = SampleRow(0, raw["address"], raw["title"], raw["captured"], "", raw["media_type"], accepted)
    return row, content


def unpacked(packed: bytes) -> bytes:
    """Content from gzip; ValueError where it is larger than a sample may be, without unpacking all of it."""
    with gzip.GzipFile(fileobj=BytesIO(packed)) as file:
        content = file.read(LARGEST_SAMPLE + 1)
    if len(content) > LARGEST_SAMPLE:
        raise ValueError("too large")
    return content


def read_plan(raw: Any) -> FieldPlan | None:
    """A field of a place's shape in a file; None where it is none that can be made."""
    if not isinstance(raw, dict) or not all(
        isinstance(raw.get(key), str) and raw[key] for key in ("key", "label", "kind")
    ):
        return None
    if raw["kind"] not in KINDS or raw["kind"] in ("reference", "summary") or raw["key"] == "title":
        return None
    return FieldPlan(raw["key"][:60], raw["label"][:60], raw["kind"])
