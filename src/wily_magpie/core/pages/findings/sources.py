"""What the rules of findings read, and how they add to what was found."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from html import unescape
from typing import Any
from urllib.parse import urljoin

from wily_magpie.core.pages.page import DECLARED, Finding, most_exact
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import Element, squash

STRUCTURED, CITATION, META = DECLARED
VISIBLE, ADDRESS = "visible text", "address"
KINDS = {
    "article": "Article NewsArticle BlogPosting Report OpinionNewsArticle TechArticle AdvertiserContentArticle ReviewNewsArticle"
    " AnalysisNewsArticle ReportageNewsArticle LiveBlogPosting Review",
    "video": "VideoObject Movie TVEpisode Clip",
    "discussion": "DiscussionForumPosting Conversation SocialMediaPosting",
    "question": "QAPage Question",
    "product": "Product Book ProductGroup IndividualProduct Offer Vehicle SoftwareApplication",
    "event": "Event BusinessEvent ExhibitionEvent Festival MusicEvent EducationEvent SocialEvent TheaterEvent",
    "podcast episode": "PodcastEpisode RadioEpisode",
    "recipe": "Recipe",
    "data set": "Dataset",
    "object": "VisualArtwork Sculpture Painting Photograph Map ArchiveComponent Thing",
    "paper": "ScholarlyArticle MedicalScholarlyArticle Thesis",
    "reference work": "DefinedTerm",
    "e-mail": "EmailMessage",
    "listing": "CollectionPage ItemList SearchResultsPage",
}
KIND_OF = {kind: ours for ours, kinds in KINDS.items() for kind in kinds.split()}


@dataclass
class Sources:
    """What the rules read: the parsed page and its declared data."""

    root: Element
    address: str
    items: list[tuple[dict[str, Any], str]]
    meta: dict[str, list[str]]
    base: str = ""
    found: list[Finding] = field(default_factory=list)
    about: dict[str, str] = field(default_factory=dict)
    """What is said of an address that was found: the type and size of a file."""

    @property
    def language(self) -> str:
        """The page's language, as exactly as the page tells it (BCP 47); "" where it does not."""
        return most_exact([one.value for one in self.found if one.name == "language"])

    @property
    def data(self) -> dict[str, Any]:
        """Raw structured data for templates."""
        by_form: dict[str, Any] = {"jsonld": [], "microdata": []}
        for item, origin in self.items:
            by_form["microdata" if "microdata" in origin else "jsonld"].append(item)
        return {**by_form, "meta": {key: values[0] for key, values in self.meta.items()}}

    def best(self, name: str) -> str:
        """The most trusted value of a name so far, or ""."""
        return next((one.value for one in self.found if one.name == name), "")

    def add(self, name: str, value: object, origin: str, element: Element | None = None) -> None:
        """A finding, unless it is blank or found from the same origin already."""
        text = squash(str(value)) if isinstance(value, str | int | float) and not isinstance(value, bool) else ""
        if text and not any((one.name, one.value, one.origin) == (name, text, origin) for one in self.found):
            path = str(element.getroottree().getpath(element)) if element is not None else ""
            self.found.append(Finding(name, text, origin, path))

    def from_meta(self, name: str, keys: str, origin: str = META) -> None:
        """The contents of meta tags, by their names in order."""
        for key in keys.split():
            for value in self.meta.get(key, []):
                self.add(name, value, f"{origin} {key}")

    def linked(self, relation: str, *tags: str) -> Iterator[Element]:
        """The links of some tags that say so of what they lead to."""
        for tag in self.root.iter(*tags):
            if tag.get("href") and relation in (tag.get("rel") or "").casefold().split():
                yield tag

    def address_of(self, value: str) -> str:
        """An absolute address of the web, or ""."""
        try:
            absolute = urljoin(self.base, value.strip())
        except ValueError:
            return ""
        return absolute if absolute.startswith(("http://", "https://")) else ""


def meta_tags(root: Element) -> dict[str, list[str]]:
    """Contents of meta tags by name or property, in lower case."""
    out: dict[str, list[str]] = {}
    for tag in root.iter("meta"):
        key = squash(tag.get("property") or tag.get("name") or tag.get("http-equiv")).casefold()
        content = squash(unescape(tag.get("content") or ""))
        if key and content:
            out.setdefault(key, []).append(content)
    return out


def texts(value: object, key: str = "name") -> Iterator[str]:
    """The texts in a value of structured data: texts themselves, and the names of things."""
    if isinstance(value, str | int | float) and not isinstance(value, bool):
        yield unescape(str(value))  # many write letters as a page does
    elif isinstance(value, list):
        for one in value:
            yield from texts(one, key)
    elif isinstance(value, dict):
        yield from texts(value.get(key) or value.get("@value") or value.get("url"), key)


def main_items(sources: Sources) -> list[tuple[dict[str, Any], str]]:
    """Items of which the page is about, by their types; things that stand within another one come last."""
    return [(item, origin) for item, origin in sources.items if any(kind in KIND_OF for kind in types_of(item))]


def from_items(sources: Sources, name: str, properties: str, key: str = "name") -> None:
    """A property of the main items."""
    for item, origin in main_items(sources)[:8]:
        for one in properties.split():
            for text in texts(item.get(one), key):
                sources.add(name, text, f"{origin} {types_of(item)[0]}.{one}")
