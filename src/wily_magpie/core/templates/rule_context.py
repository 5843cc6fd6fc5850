"""What rules and expressions may use: a page's reading, the reader's marks, the moment, the place."""

from collections.abc import Iterator, Mapping
from functools import cached_property
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.pages.page import Finding, Reading
from wily_magpie.core.pages.structured import types_of

DEEPEST, MOST_OFFERS, LONGEST_OFFER = 6, 2000, 4000
MANY_NAMES = {"authors": "author", "keywords": "keyword"}
"""Names of all values of a finding, and the finding's own name."""
MANY_OF = {own: name for name, own in MANY_NAMES.items()}
KNOWN_NAMES = (
    "title", "subtitle", "authors", "published", "modified", "site", "publisher", "description", "language", "canonical",
    "address", "image", "icon", "kind", "type", "doi", "isbn", "issn", "arxiv", "journal", "volume", "issue", "pages", "price",
    "currency", "availability", "rating", "duration", "start", "end", "place", "license", "section", "keywords", "abstract",
    "player", "channel", "chapter", "file", "recipient", "attachment", "word_count", "reading_minutes", "author", "keyword",
    "markdown", "text", "pictures",
)  # fmt: skip
"""All names after “page.”; docs/templates.md explains each."""


class Declared(str):
    """A text that is declared for programs: its figures are read by the standard of that, not by the page's language."""

    __slots__ = ()


def said(finding: Finding) -> str:
    """The value of a finding, as expressions are given it."""
    return Declared(finding.value) if finding.is_declared else finding.value


class Many(list[Any]):
    """Values of structured data; a name asks each of them for it: data.Article.author.name."""

    def __getitem__(self, key: Any) -> Any:
        if not isinstance(key, str):
            return super().__getitem__(key)
        found = [one[key] for one in self if isinstance(one, Mapping) and key in one]
        flat = [item for one in found for item in (one if isinstance(one, list) else [one])]
        if not flat:
            raise KeyError(key)
        return flat[0] if len(flat) == 1 else many(flat)


def many(value: Any) -> Any:
    """Structured data whose lists can be asked by name."""
    if isinstance(value, list):
        return Many(many(one) for one in value)
    if isinstance(value, str):
        return Declared(value)
    return {key: many(one) for key, one in value.items()} if isinstance(value, dict) else value


@dataclass(frozen=True)
class RuleContext:
    """See the module.

    Attributes:
        now: the moment, ISO 8601.
        place: name of the place that is written to.
        picture: the address of the picture that the person chose, or "".
        has_screenshot: whether there is a picture of what is visible.
        title: the entry's title, once it is known, for names of files.
    """

    reading: Reading
    now: str
    place: str = ""
    marks: tuple[Mark, ...] = ()
    picture: str = ""
    has_screenshot: bool = False
    title: str = ""

    @cached_property
    def worked(self) -> dict[str, Any]:
        """What expressions gave; `apart` has it filled."""
        return {}

    @cached_property
    def data(self) -> dict[str, Any]:
        """Raw structured data, also by type: data.NewsArticle, and data.Article for any type that ends so."""
        raw = self.reading.data
        out: dict[str, Any] = {name: many(value) for name, value in raw.items()}
        for item in (*raw.get("jsonld", ()), *raw.get("microdata", ())):
            if isinstance(item, dict):
                for kind in types_of(item):
                    for name in dict.fromkeys((kind, *(end for end in ENDS if kind.endswith(end)))):
                        out.setdefault(name, Many())
                        if isinstance(out[name], Many):
                            out[name].append(many(item))
        return {name: value[0] if isinstance(value, Many) and len(value) == 1 and name not in raw else value
                for name, value in out.items()}  # fmt: skip

    @cached_property
    def found(self) -> dict[str, str]:
        """The best value of each finding, and of each meta tag."""
        meta = {str(name): Declared(value) for name, value in self.reading.data.get("meta", {}).items()}
        return {**meta, **{name: said(all_of[0]) for name, all_of in self.reading.by_name.items()}}

    @cached_property
    def every(self) -> dict[str, list[str]]:
        """All values of each finding."""
        return {name: [said(one) for one in found] for name, found in self.reading.by_name.items()}

    @property
    def pictures(self) -> tuple[Finding, ...]:
        """The pictures that the page shows."""
        return tuple(
            Finding("image", one.address, f"picture {one.caption or one.alternative}".strip())
            for one in self.reading.pictures
        )

    @cached_property
    def offers(self) -> tuple[Finding, ...]:
        """All that the page says, findings first, then meta tags and the leaves of structured data that are none yet."""
        own = [Finding("address", self.reading.page.address, "address")] if self.reading.page.address else []
        out = [*own, *self.reading.findings]
        known = {(one.value, one.origin.rpartition(" ")[2]) for one in out}
        meta = self.reading.data.get("meta", {})
        more = [Finding(str(name), str(value), f"meta tag {name}") for name, value in meta.items()]
        for item in (*self.reading.data.get("jsonld", ()), *self.reading.data.get("microdata", ())):
            kind = next(iter(types_of(item)), "") if isinstance(item, dict) else ""
            if kind:
                more += leaves(item, kind)
        out += [one for one in more if one.value.strip() and (one.value, one.name) not in known]
        return tuple(dict.fromkeys(out[:MOST_OFFERS]))

    def name_for(self, finding: Finding) -> str:
        """The name under which a rule finds a value: that of its finding where it is the first there, else its own tag or path."""
        name = MANY_OF.get(finding.name, finding.name)
        found = self.look_up(name)
        if any(one.value == finding.value and one.origin == found[0].origin for one in found):
            return name
        own = finding.origin.rpartition(" ")[2]
        return own if any(one.value == finding.value for one in self.look_up(own)) else name

    def look_up(self, name: str) -> list[Finding]:
        """All values of a name: of a finding, a meta tag, or a path into structured data (Article.author.name)."""
        own = MANY_NAMES.get(name, name)
        if own == "address":
            return [Finding("address", self.reading.page.address, "address")]
        if own in self.reading.by_name:
            return self.reading.all(own)
        meta = self.reading.data.get("meta", {})
        if name in meta:
            return [Finding(name, str(meta[name]), f"meta tag {name}")]
        value: Any = self.data
        for part in name.split("."):
            try:
                value = value[part]
            except (KeyError, TypeError, IndexError):
                return []
        values = value if isinstance(value, list) else [value]
        return [
            Finding(name, str(one), f"structured data {name}")
            for one in values
            if isinstance(one, str | int | float) and str(one).strip()
        ]


ENDS = ("Article", "Posting", "Event", "Organization", "CreativeWork")
"""Ends of schema.org's types by which their kin can be asked together."""


def leaves(item: Any, path: str, depth: int = 0) -> Iterator[Finding]:
    """The plain values in structured data, each with its path."""
    if isinstance(item, Mapping) and depth < DEEPEST:
        for key, value in item.items():
            if not str(key).startswith("@"):
                yield from leaves(value, f"{path}.{key}", depth + 1)
    elif isinstance(item, list):
        for one in item[:50]:
            yield from leaves(one, path, depth + 1)
    elif isinstance(item, str | int | float):
        yield Finding(path, str(item)[:LONGEST_OFFER], f"structured data {path}")
