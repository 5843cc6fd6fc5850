"""Home pages to begin with: a note with living lists over what there is in the library."""

from collections.abc import Callable, Sequence

from wily_magpie.core.entries.living_list import ListForm, Shown, comment_of
from wily_magpie.core.places.api import PlaceInfo

Part = tuple[str, ListForm | str]
"""A heading, and what stands below it: a list, or words."""
UNREAD, READING = "to read", "reading"


def home_page(kind: str, title: str, places: Sequence[PlaceInfo]) -> str:
    """The text of a home page; its lists hold nothing yet.

    Args:
        kind: one of STARTERS.
    """
    parts = STARTERS[kind](places)
    out = [f"# {title}"]
    for heading, part in parts:
        below = part if isinstance(part, str) else f"{comment_of(part)}\n<!-- end of list -->"
        out.append(f"## {heading}\n\n{below}")
    return "\n\n".join(out) + "\n"


def with_fields(places: Sequence[PlaceInfo], *keys: str) -> PlaceInfo | None:
    """The first place that has all of some fields."""
    return next((one for one in places if all(one.has(key) for key in keys)), None)


def with_option(places: Sequence[PlaceInfo], key: str, option: str) -> PlaceInfo | None:
    """The first place in which a choice has an option."""
    return next(
        (
            one
            for one in places
            if any(field.key == key and any(each.name == option for each in field.options) for field in one.fields)
        ),
        None,
    )


def shown(place: PlaceInfo, *keys: str) -> tuple[Shown, ...]:
    """The title and those of some fields that a place has."""
    return (Shown("title"), *(Shown(key) for key in keys if place.has(key)))


def to_read(places: Sequence[PlaceInfo], shape: str = "list", most: int = 10) -> list[Part]:
    """What is still to be read, the latest first."""
    place = with_option(places, "status", UNREAD)
    if place is None:
        return []
    form = ListForm(
        place.name, f'status = "{UNREAD}"', "captured/descending" if place.has("captured") else "", "",
        shown(place, "kind", "chapter", "captured"), shape, most=most,
    )  # fmt: skip
    return [("To read", form)]


def being_read(places: Sequence[PlaceInfo]) -> list[Part]:
    """What is being read."""
    place = with_option(places, "status", READING)
    return (
        [("Being read", ListForm(place.name, f"status = {READING}", "title", shown=shown(place, "authors")))]
        if place
        else []
    )


def kept_lately(places: Sequence[PlaceInfo]) -> list[Part]:
    """What was kept in the last week."""
    place = with_fields(places, "captured")
    if place is None:
        return []
    form = ListForm(
        place.name, "captured within P7D", "captured/descending", shown=shown(place, "captured", "site"), most=15
    )
    return [("Kept in the last seven days", form)]


def changed_notes(most: int = 8) -> list[Part]:
    """The notes that were written in lately."""
    return [
        (
            "Written in lately",
            ListForm("", "", "entry.changed/descending", shown=(Shown("title"), Shown("entry.changed")), most=most),
        )
    ]


def tasks() -> list[Part]:
    """Notes with tasks that are open."""
    fields = (Shown("title"), Shown("note.tasks_open", "open"), Shown("note.tasks_done", "done"))
    return [("Tasks", ListForm("", "note.tasks_open > 0", "note.tasks_open/descending", shown=fields, most=20))]


def broken() -> list[Part]:
    """Notes whose links lead nowhere."""
    fields = (Shown("title"), Shown("note.broken_links", "links that lead nowhere"))
    return [
        ("To be mended", ListForm("", "note.broken_links > 0", "note.broken_links/descending", shown=fields, most=10))
    ]


def chapters(places: Sequence[PlaceInfo]) -> list[Part]:
    """The chapters, where there is a collection of them, else the sources by chapter."""
    own = next((one for one in places if "chapter" in one.name.casefold()), None)
    if own is not None and not own.path:
        order = "number" if own.has("number") else ""
        return [("Chapters", ListForm(own.name, "", order, shown=shown(own, "state", "words", "due"), shape="table"))]
    place = with_fields(places, "chapter")
    return [("Chapters", ListForm(place.name, "", "", "chapter", shape="count"))] if place else []


def by_kind(places: Sequence[PlaceInfo]) -> list[Part]:
    """How much there is of each kind."""
    place = with_fields(places, "kind")
    return [(f"{place.name} by kind", ListForm(place.name, "", "", "kind", shape="count"))] if place else []


STARTERS: dict[str, Callable[[Sequence[PlaceInfo]], list[Part]]] = {
    "a book": lambda places: [
        *chapters(places), *being_read(places), *to_read(places), *changed_notes(), *tasks(), *broken()
    ],
    "a day": lambda places: [
        ("Now", "- [ ] "), *being_read(places), *to_read(places, most=5), *kept_lately(places), *changed_notes(5), *tasks()
    ],
    "a reading list": lambda places: [
        *being_read(places), *to_read(places, "table", 40), *by_kind(places), *kept_lately(places)
    ],
    "a course": lambda places: [
        ("This week", "- [ ] "), *tasks(), *changed_notes(), *to_read(places), *by_kind(places), *broken()
    ],
}  # fmt: skip
"""Home pages to begin with, by their names."""
