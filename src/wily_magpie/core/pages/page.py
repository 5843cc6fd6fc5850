"""A web page as it was seen, and what was read from it."""

from collections.abc import Iterable, Sequence
from dataclasses import field, replace
from functools import cached_property
from itertools import count
from typing import Any

from wily_magpie.core.dataclass import dataclass

LARGEST_PAGE_BYTES = 25_000_000
REPLIES, ANSWERS = "replies", "other answers"
"""Reasons of posts that are left out until they are asked for."""
CAME_LATE = "came late"
"""The reason of blocks that are left out of a text that a person has settled, since they came after it."""
DECLARED = ("structured data", "citation tag", "meta tag")
"""How the origins of values begin that are declared for programs, rather than shown to people."""
LABELLED = "visible text (label)"
"""The origin of a finding whose name is the label that the page shows beside its value."""
BY_SCRIPTS = "This page seems to be built by scripts, which were not run: little of its text is here."
LOGIN_WALL = "This looks like a login page: what you wanted to keep may be behind it."
CONSENT_WALL = "This looks like a page that asks for consent: what you wanted to keep may be behind it."
NO_TEXT = "No text was found on this page."
STILL_LOADING = "This page still says that it is loading: its text is not here yet."
THIN = (STILL_LOADING, BY_SCRIPTS, LOGIN_WALL, CONSENT_WALL, NO_TEXT)
"""Notices of pages whose text is not here."""
NUMBERS = count(1)


@dataclass(frozen=True)
class Page:
    """A page as it was seen.

    Attributes:
        address: where it was found in the end, after redirects; "" for a file of unknown origin.
        html: the whole page.
        way: "fetched", "rendered" or "file".
        asked: the address that was asked for, where it is another one.
        file: of what is no page of HTML, the file itself; html is then a document that stands for it.
        notice: what a person should know of it, or "".
        identity: by which it is known again where it has no address: "mid:…" of an e-mail, "sha256:…" of another file.
    """

    address: str
    html: str = field(repr=False)
    way: str
    asked: str = ""
    file: bytes = field(default=b"", repr=False)
    media_type: str = "text/html"
    notice: str = ""
    identity: str = ""


@dataclass(frozen=True)
class EnclosedFile:
    """A file that came with a page: within an e-mail.

    Attributes:
        address: by which the text shows it, `mid:MESSAGE/CONTENT` (RFC 2392); "" for one that is only attached.
    """

    name: str
    media_type: str
    content: bytes = field(repr=False)
    address: str = ""


@dataclass(frozen=True)
class Finding:
    """One value that a page offers for a name.

    Attributes:
        origin: where it stands, for people to read.
        path: to its element, of what the page shows (XPath); "" for what it only declares.
    """

    name: str
    value: str
    origin: str
    path: str = ""

    @property
    def is_declared(self) -> bool:
        """Whether it is declared for programs, and so read by the standard of that."""
        return self.origin.startswith(DECLARED)


@dataclass(frozen=True)
class Block:
    """One piece of a page's main content, or of what stands beside it.

    Attributes:
        kind: heading, paragraph, list, picture, table, code, quotation, player, footnote or rule.
        level: of a heading, 1 to 6; else 0.
        path: to its element in the page (XPath; loose text counts as an element of its own).
        is_kept: whether it is part of the text.
        reason: why it is not, or "".
        address: of the page, by which its links and pictures are found.
        written: its Markdown, if it is made already.
        score: the share of the libraries asked that take it for text, 0 to 1; of what has no words, that of its neighbours.
    """

    kind: str
    level: int
    html: str
    text: str
    path: str
    is_kept: bool
    reason: str
    address: str
    written: str | None = None
    score: float = 0.0

    @cached_property
    def markdown(self) -> str:
        """It as Markdown; of what was left out it is made when somebody asks for it, which is seldom."""
        if self.written is not None:
            return self.written
        from wily_magpie.core.pages.markdown import to_markdown  # lxml is not needed by all who hold a page
        from wily_magpie.core.pages.tree import fragment

        return to_markdown(fragment(self.html), self.address)


@dataclass(frozen=True)
class Picture:
    """A picture of a page.

    Attributes:
        width, height: in pixels as the page tells them, 0 where it does not.
        caption: what stands under it; alternative: what is said to those who do not see it; "" for none.
        path: to its element (XPath).
    """

    address: str
    width: int
    height: int
    caption: str
    alternative: str
    path: str


@dataclass(frozen=True)
class Content:
    """The main content: HTML cut out of the page, as Markdown and as plain text; and all blocks, those left out too."""

    html: str
    markdown: str
    text: str
    blocks: tuple[Block, ...] = ()

    def with_blocks(self, numbers: Iterable[int], *, is_kept: bool) -> "Content":
        """The content with some blocks taken in or out."""
        chosen = set(numbers)
        return Content.of_blocks(
            tuple(replace(one, is_kept=is_kept) if at in chosen else one for at, one in enumerate(self.blocks))
        )

    def as_read(self) -> "Content":
        """The content as it was read, whatever a person took in or out."""
        return self.with_ticks([block.reason in ("", CAME_LATE) for block in self.blocks]) if self.blocks else self

    def with_ticks(self, ticks: Iterable[bool]) -> "Content":
        """The content with each block in or out."""
        return Content.of_blocks(
            tuple(replace(one, is_kept=kept) for one, kept in zip(self.blocks, ticks, strict=True))
        )

    @property
    def posts(self) -> list[int]:
        """The numbers of the blocks that are replies or other answers, which are left out until they are asked for."""
        return [at for at, block in enumerate(self.blocks) if block.reason in (REPLIES, ANSWERS)]

    @classmethod
    def of_blocks(cls, blocks: tuple[Block, ...]) -> "Content":
        """The content that the kept ones of some blocks make."""
        kept = [block for block in blocks if block.is_kept]
        return cls(
            "".join(block.html for block in kept),
            "\n\n".join(block.markdown for block in kept if block.markdown),
            "\n".join(block.text for block in kept if block.text),
            blocks,
        )


def most_exact(codes: Sequence[str]) -> str:
    """The first of some codes of languages, or one of the others that tells its country, too."""
    first = codes[0] if codes else ""
    return next((one for one in codes if one.casefold().startswith(f"{first.casefold()}-")), first)


@dataclass(frozen=True)
class Reading:
    """All that a page says.

    Attributes:
        findings: by name in order of trust.
        data: raw structured data: {"jsonld": […], "microdata": […], "meta": {…}}.
        canonical: by which the page is known again.
        notice: what a person should know before keeping it, or "".
        pictures: all that are larger than a mark, those of the main content first.
    """

    page: Page
    findings: tuple[Finding, ...]
    content: Content
    canonical: str
    data: dict[str, Any] = field(default_factory=dict)
    notice: str = ""
    pictures: tuple[Picture, ...] = ()

    @property
    def is_thin(self) -> bool:
        """Whether its text seems to be somewhere else: built by scripts, or behind a wall."""
        return self.notice in THIN

    @cached_property
    def number(self) -> int:
        """By which it is told from every other of this process."""
        return next(NUMBERS)

    def with_posts(self) -> "Reading":
        """The same with all replies in its text."""
        return replace(self, content=self.content.with_blocks(self.content.posts, is_kept=True))

    @cached_property
    def by_name(self) -> dict[str, list[Finding]]:
        """Findings of each name, the most trusted first."""
        out: dict[str, list[Finding]] = {}
        for finding in self.findings:
            out.setdefault(finding.name, []).append(finding)
        return out

    def all(self, name: str) -> list[Finding]:
        """All findings of a name."""
        return self.by_name.get(name, [])

    def best(self, name: str) -> str:
        """The most trusted value of a name; "" where there is none."""
        found = self.all(name)
        return found[0].value if found else ""

    @cached_property
    def language(self) -> str:
        """The language by which figures are read, as exactly as the page tells it (BCP 47); "" where it does not."""
        return most_exact([one.value for one in self.all("language")])

    @property
    def authors(self) -> tuple[str, ...]:
        """The authors that the most trusted origin names."""
        found = self.all("author")
        return tuple(one.value for one in found if one.origin == found[0].origin) if found else ()
