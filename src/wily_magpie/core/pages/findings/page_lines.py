"""The short lines of a page, and which of them belong to something else: to comments, to teasers of other texts."""

from collections.abc import Iterator
from itertools import islice

from wily_magpie.core.pages.tree import BLOCK_TAGS, UNREAD_TAGS, Element, named, remembered, spaced

ELSEWHERE = named(
    r"comments?|comentarios?|kommentare?|commentaires?|respond|related|sidebar|recommend(ed|ations)?|teasers?|popular|trending|"
    r"latest|recent|most-?read|more-?(stories|posts|articles|from)|reviews|ratings?|bewertung(en)?|testimonials?|newsletter|promo|carousel|slider|read-?next|staff|team|"
    r"masthead|imprint|impressum|site-footer|reply|replies"
)
LONGEST_LINE = 100
BEFORE, BEHIND = 5, 16
"""How many lines before and behind the heading may name who wrote it."""


def lines_around(root: Element, heading: Element | None) -> tuple[list[Element], list[Element]]:
    """The short lines right before and right behind the heading."""
    if heading is None:
        return [], list(islice(leaf_lines(root), BEHIND))
    before: list[Element] = []
    behind: list[Element] = []
    is_behind = False
    inside = set(heading.iter())
    for tag in leaf_lines(root):
        if tag in inside or any(one is heading for one in tag.iter("h1", "h2", "h3")):
            is_behind = True
        elif is_behind:
            behind.append(tag)
            if len(behind) >= BEHIND:
                break
        else:
            before.append(tag)
    return before[-BEFORE:], behind


def leaf_lines(root: Element) -> Iterator[Element]:
    """Elements that are one short line each, in the order of the page."""
    body = root.find("body")
    for tag in (root if body is None else body).iter():
        if not isinstance(tag.tag, str) or tag.tag in UNREAD_TAGS:
            continue
        if tag.tag not in BLOCK_TAGS and not (tag.tag in ("small", "cite") and stands_alone(tag)):
            continue
        if any(isinstance(one.tag, str) and one.tag in BLOCK_TAGS for one in islice(tag.iterdescendants(), 60)):
            continue
        if 2 < len(spaced(tag)) <= LONGEST_LINE:
            yield tag


def stands_alone(tag: Element) -> bool:
    """Whether no letters stand beside an element in its line."""
    around, before = tag.getparent(), tag.getprevious()
    said = before.tail if before is not None else around.text if around is not None else ""
    return not (said or "").strip() and not (tag.tail or "").strip()


def is_elsewhere(tag: Element, heading: Element | None) -> bool:
    """Whether it stands in a part of the page that is about something else; what holds the heading, too, is none."""
    for up in (tag, *tag.iterancestors()):
        if up.tag in ("body", "html") or (heading is not None and holds(up, heading)):
            return False
        if is_apart(up):
            return True
    return False


def holds(box: Element, heading: Element) -> bool:
    """Whether the heading stands in an element."""
    return box is heading or any(up is box for up in heading.iterancestors())


@remembered
def is_apart(tag: Element) -> bool:
    """Whether an element holds what is about something else."""
    is_foot = tag.tag == "footer" and not any(up.tag in ("article", "main") for up in tag.iterancestors())
    return (
        tag.tag in ("nav", "aside")
        or is_foot
        or bool(ELSEWHERE.search(f"{tag.get('class') or ''} {tag.get('id') or ''}"))
    )


def is_teaser(tag: Element, heading: Element | None) -> bool:
    """Whether it belongs to a teaser of another text: the nearest box with a heading that is a link, and not the page's own."""
    if heading is None:
        return False
    for up in islice(tag.iterancestors(), 8):
        if up.tag in ("body", "html") or holds(up, heading):
            return False
        if up.tag in ("article", "li", "section", "div") and is_linked_heading(up):
            return True
        if up.tag == "li" and is_of_links(up):
            return True
    return False


@remembered
def is_of_links(item: Element) -> bool:
    """Whether an item of a list leads to another page, as its neighbours do."""
    around = item.getparent()
    items = [one for one in around if one.tag == "li"] if around is not None else []
    return len(items) > 1 and all(one.find(".//a") is not None for one in items)


@remembered
def is_linked_heading(box: Element) -> bool:
    """Whether a box has a heading that leads to another page."""
    return any(
        one.find(".//a") is not None or (one.getparent() is not None and one.getparent().tag == "a")
        for one in islice(box.iter("h2", "h3", "h4"), 3)
    )
