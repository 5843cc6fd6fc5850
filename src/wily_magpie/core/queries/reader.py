"""What an interface is given to ask with: all questions, by subject. Nothing behind it can be reached that writes."""

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property
from typing import TYPE_CHECKING

from wily_magpie.core.entries.field import Field, FieldPlan
from wily_magpie.core.entries.step import Step
from wily_magpie.core.events import Overview
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.queries.entries import EntryQueries

if TYPE_CHECKING:
    from wily_magpie.core.places.conversion import Conversion, ReferenceConversion
    from wily_magpie.core.places.library.integrity import Fault
    from wily_magpie.core.places.library.template_store import SampleRow
    from wily_magpie.core.queries.drafts import DraftQueries
    from wily_magpie.core.queries.lists import ListQueries
    from wily_magpie.core.queries.living import LivingQueries
    from wily_magpie.core.queries.looks import LookQueries
    from wily_magpie.core.queries.marks import MarkQueries
    from wily_magpie.core.queries.notes import NoteQueries
    from wily_magpie.core.queries.review import ReviewQueries
    from wily_magpie.core.queries.search import SearchQueries
    from wily_magpie.core.queries.slips import SlipQueries
    from wily_magpie.core.queries.templates import TemplateQueries


class Reader:
    """May be used from any thread that may wait."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.entries = EntryQueries(library)

    @cached_property
    def notes(self) -> "NoteQueries":
        """Over notes folders."""
        from wily_magpie.core.queries.notes import NoteQueries  # each part is loaded when it is first asked

        return NoteQueries(self._library)

    @cached_property
    def living(self) -> "LivingQueries":
        """Over living lists."""
        from wily_magpie.core.queries.living import LivingQueries

        return LivingQueries(self._library)

    @cached_property
    def templates(self) -> "TemplateQueries":
        """Over templates and sample pages."""
        from wily_magpie.core.queries.templates import TemplateQueries

        return TemplateQueries(self._library)

    @cached_property
    def slips(self) -> "SlipQueries":
        """Slips filled from pages."""
        from wily_magpie.core.queries.slips import SlipQueries

        return SlipQueries(self._library, self.templates)

    @cached_property
    def drafts(self) -> "DraftQueries":
        """Slips that were touched and are not kept yet."""
        from wily_magpie.core.queries.drafts import DraftQueries

        return DraftQueries(self._library)

    @cached_property
    def lists(self) -> "ListQueries":
        """Lists of addresses."""
        from wily_magpie.core.queries.lists import ListQueries

        return ListQueries(self._library)

    @cached_property
    def search(self) -> "SearchQueries":
        """Over the words of everything kept."""
        from wily_magpie.core.queries.search import SearchQueries

        return SearchQueries(self._library)

    @cached_property
    def marks(self) -> "MarkQueries":
        """Over marks, wherever they are."""
        from wily_magpie.core.queries.marks import MarkQueries

        return MarkQueries(self._library)

    @cached_property
    def looks(self) -> "LookQueries":
        """What layouts show besides fields."""
        from wily_magpie.core.queries.looks import LookQueries

        return LookQueries(self._library)

    @cached_property
    def review(self) -> "ReviewQueries":
        """The figures of Review."""
        from wily_magpie.core.queries.review import ReviewQueries

        return ReviewQueries(self._library)

    def overview(self, before: Overview | None = None) -> Overview:
        """What there is.

        Args:
            before: where only the steps can be others than they were.
        """
        library = self._library
        if before is not None:
            return replace(before, undo=library.history.next_undo(), redo=library.history.next_redo())
        return Overview(
            tuple(self.entries.places()),
            tuple(library.views.all()),
            tuple(name for name, _ in library.templates.texts()),
            library.history.next_undo(),
            library.history.next_redo(),
            library.settings.all(),
            library.is_read_only,
        )

    def settings(self) -> dict[str, str]:
        """The library's own settings that are not as usual, by name, as text."""
        return self._library.settings.all()

    def steps(self) -> list[Step]:
        """The steps that are still known, the latest first."""
        return self._library.history.steps()

    def look_at_conversion(self, place: str, key: str, kind: str) -> "Conversion":
        """What a change of kind would do."""
        from wily_magpie.core.places.library import schema_changes

        return schema_changes.look_at_conversion(self._library, place, key, kind)

    def look_at_reference(self, place: str, key: str, target: str) -> "ReferenceConversion":
        """What making a field a reference would do."""
        from wily_magpie.core.places.library import schema_changes

        return schema_changes.look_at_reference(self._library, place, key, target)

    def check(self, tick: Callable[[int, int], None] | None = None) -> "list[Fault]":
        """What is wrong with the library; takes its time."""
        from wily_magpie.core.places.library.integrity import Fault, check  # not needed at start

        way_out = "Delete it and make it again, or bring back a copy of the library."
        templates = [Fault(f"Template “{name}”", why, way_out) for name, why in self.templates.damaged()]
        return [*check(self._library, tick), *templates]

    def shape_of(self, place: str) -> list[FieldPlan]:
        """The fields of a place as another library could make them."""
        return [
            FieldPlan(one.key, one.label, one.kind.name)
            for one in self._library.place(place).fields[1:]
            if one.is_writable and not one.kind.is_linked
        ]

    def declared_fields(self, place: str) -> tuple[Field, ...]:
        """The fields of a place that the person set up, as they stand in their rows; those found in files are not."""
        return self._library.fields.of(place)

    def sample_forms(self, template: str) -> "list[tuple[SampleRow, bytes]]":
        """The sample pages of a template with their contents; those whose copy is missing are left out."""
        rows = self._library.templates.samples(template)
        copies = [(row, self._library.blobs.copy_of(row.sha256, row.media_type)) for row in rows]
        return [(row, content) for row, content in copies if content is not None]
