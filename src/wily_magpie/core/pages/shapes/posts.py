"""The posts of a discussion, the answers to a question: declared ones, else the repeated parts of the page itself."""

import copy
import html
import re
from collections.abc import Iterator
from typing import Any

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages import tree
from wily_magpie.core.pages.boilerplate import names_of
from wily_magpie.core.pages.findings.dates import in_words, read_date
from wily_magpie.core.pages.findings.sources import VISIBLE, Sources, texts
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import Element, named, squash, text_of

POST = named(r"post|message|reply|answer|comment|response")
OPENING = named(r"post|message")
ITEM = re.compile(r"/(Comment|Answer)$")
AUTHOR = named(r"author|user|username|poster|nick|nickname|creator|fn")
BODY = named(r"body|text|content|message|entry|prose")
ACCEPTED = named(r"accepted|best-?answer|solution|solved")
COMMENT = named(r"comments?|respond|disqus")
LEAST_POSTS = 3
LEAST_POST = 12
MOST_POSTS = 500
LEAST_SIGNED = 0.7
"""The share of repeated parts that must tell who wrote them."""


@dataclass(frozen=True)
class Post:
    """One post beside the first.

    Attributes:
        author, date: as the page tells them; "" where it does not. The date is ISO 8601.
        body: HTML.
        depth: 0 for an answer to the first post, 1 for an answer to that.
        path: to its element in the page, "" where it was only declared.
    """

    author: str
    date: str
    body: str
    depth: int = 0
    path: str = ""
    is_accepted: bool = False

    def html(self) -> str:
        """As a quotation with its author and date, within others by its depth."""
        signed = ", ".join(
            filter(
                None,
                [
                    f"<strong>{html.escape(self.author)}</strong>" if self.author else "",
                    self.date[:16].replace("T", " "),
                ],
            )
        )
        inner = f"<blockquote>{f'<p>{signed}</p>' if signed else ''}{self.body}</blockquote>"
        return "<blockquote>" * self.depth + inner + "</blockquote>" * self.depth


def take_posts(sources: Sources) -> list[Post]:
    """The posts that follow the first one; those found in the page are emptied, so that the text is that of the first.

    Where the first one is a post like the others, who wrote it and when is added to the findings.
    """
    members = repeated(sources.root)
    if not members:
        return [*declared(sources.items)][:MOST_POSTS]
    if OPENING.search(names_of(members[0])) and not holds_text_before(members[0]):
        first, *members = members
        sources.add("author", author_of(first), f"{VISIBLE} (first post)", first)
        sources.add("published", date_of(first), f"{VISIBLE} (first post)", first)
    among = set(members)
    posts = [post_of(member, among) for member in members]
    for member in members:
        for child in list(member):
            member.remove(child)
        member.text = None
    return [post for post in posts if post.body][:MOST_POSTS]


def holds_posts(root: Element) -> bool:
    """Whether a page that declares no kind is a discussion: by three signed posts that are no comments on something else."""
    members = repeated(root)
    return len(members) >= LEAST_POSTS and not any(
        COMMENT.search(names_of(up)) for up in (members[0], *members[0].iterancestors())
    )


def repeated(root: Element) -> list[Element]:
    """The parts of a page that are posts: of the same tag and names, most of them signed; [] where there are none."""
    groups: dict[tuple[str, str], list[Element]] = {}
    for element in root.iter("div", "li", "article", "section", "tr", "dd"):
        is_item = ITEM.search(element.get("itemtype") or "")
        if (is_item or POST.search(names_of(element))) and len(text_of(element)) >= LEAST_POST:
            words = " ".join(
                sorted(word for word in (element.get("class") or "").split() if not re.search(r"\d", word))
            )
            groups.setdefault((str(element.tag), "Item" if is_item else stem(words)), []).append(element)
    signed = [
        group
        for group in groups.values()
        if sum(bool(author_of(one)) for one in group) >= LEAST_SIGNED * len(group) and not is_listing(group)
    ]
    return max(signed, key=lambda group: (len(group) > 1, sum(len(text_of(one)) for one in group)), default=[])


def stem(words: str) -> str:
    """Names without those that tell of one post only: that it is the accepted one, the first, an odd one."""
    plain = re.sub(ACCEPTED, " ", words)
    return " ".join(word for word in plain.split() if word not in ("odd", "even", "first", "last", "highlighted"))


def is_listing(group: list[Element]) -> bool:
    """Whether the parts are teasers: each with a heading that leads elsewhere."""
    leading = sum(bool(one.xpath(".//h1//a | .//h2//a | .//h3//a | .//a//h2 | .//a//h3")) for one in group)
    return 2 * leading > len(group)


def holds_text_before(member: Element) -> bool:
    """Whether a paragraph of some length stands before the first post: then that is the opening one."""
    body = member.getroottree().getroot().find("body")
    for element in body.iter("p") if body is not None else ():
        if member in element.iterancestors():
            return False
        if len(text_of(element)) > 80:
            return True
    return False


def post_of(member: Element, members: set[Element]) -> Post:
    """What one part says, without the posts within it."""
    depth = sum(up in members for up in member.iterancestors())
    path = str(member.getroottree().getpath(member))
    twin = copy.deepcopy(member)
    inner = [
        one for one, told in zip(twin.iter(), member.iter(), strict=True) if told is not member and told in members
    ]
    for one in inner:
        if one.getparent() is not None:
            one.drop_tree()
    accepted = bool(ACCEPTED.search(names_of(member))) or member.get("itemprop") == "acceptedAnswer"
    author, date = author_of(twin), date_of(twin)
    return Post(author, date, body_of(twin, author), depth, path, accepted)


def author_of(member: Element) -> str:
    """Who wrote a post; "" where it does not tell."""
    for element in member.iter("a", "span", "div", "b", "strong", "p", "cite", "h3", "h4", "h5", "td", "address"):
        is_told = (
            AUTHOR.search(names_of(element)) or element.get("rel") == "author" or element.get("itemprop") == "author"
        )
        name = text_of(element)
        if is_told and 0 < len(name) <= 40:
            return re.sub(r"^(by|von|par|por)\s+", "", name, flags=re.IGNORECASE).strip(" :,·")
    first = next((one for one in member.iter("b", "strong") if text_of(one)), None)
    if first is not None and len(text_of(first)) <= 30 and text_of(member).startswith(text_of(first)):
        return text_of(first).strip(" :,·")
    return ""


def date_of(member: Element) -> str:
    """When a post was written, as ISO 8601; "" where it does not tell."""
    for element in member.iter("time"):
        date = read_date(element.get("datetime") or text_of(element))
        if date:
            return date
    return in_words(text_of(member)[:160], member.getroottree().getroot().get("lang") or "")


def body_of(member: Element, author: str) -> str:
    """The HTML of what a post says, without who wrote it and when."""
    bodies = [one for one in member.iterdescendants("div", "section", "p", "td") if BODY.search(names_of(one))]
    if bodies:
        part = max(bodies, key=lambda one: len(text_of(one)))
        return tree.outer(part) if part.tag == "p" else tree.inner(part)
    for one in [*member.iter("header", "footer", "time", "form", "button", "nav")]:
        if one is not member and one.getparent() is not None:
            one.drop_tree()
    for one in list(member.iterdescendants()):
        if isinstance(one.tag, str) and one.getparent() is not None and text_of(one).strip(" :,·") == author and author:
            tail = re.sub(
                r"^[\s,:·]*(?:\d{1,2}\.? \w+ \d{4}|\w+ \d{1,2}, \d{4}|\d{4}-\d\d-\d\d)?[\s,:·]*", "", one.tail or ""
            )
            one.tail = tail
            one.drop_tree()
            break
    return tree.inner(member)


def declared(items: list[tuple[dict[str, Any], str]]) -> Iterator[Post]:
    """Posts of structured data: answers to a question, comments on a posting."""
    for item, _ in items:
        if {"Question", "DiscussionForumPosting", "SocialMediaPosting", "Conversation"} & set(types_of(item)):
            for name in ("acceptedAnswer", "suggestedAnswer", "comment"):
                yield from answers(item.get(name), 0, is_accepted=name == "acceptedAnswer")
            return


def answers(value: object, depth: int, *, is_accepted: bool) -> Iterator[Post]:
    """The posts in a value of structured data, answers to answers too."""
    for one in value if isinstance(value, list) else [value]:
        if isinstance(one, dict) and (one.get("text") or one.get("articleBody")):
            author = next(iter(texts(one.get("author"))), "")
            date = read_date(str(one.get("datePublished") or one.get("dateCreated") or ""))
            yield Post(author, date, as_html(str(one.get("text") or one.get("articleBody"))), depth, "", is_accepted)
            if depth < 10:
                yield from answers(one.get("comment"), depth + 1, is_accepted=False)


def as_html(text: str) -> str:
    """A declared text as paragraphs; one that holds elements is taken as HTML."""
    if re.search(r"</?(p|br|a|b|i|em|strong|ul|ol|li|pre|code|span|div|blockquote)\b", text, re.IGNORECASE):
        return tree.inner(tree.fragment(text))
    return "".join(f"<p>{html.escape(squash(part))}</p>" for part in text.split("\n") if part.strip())
