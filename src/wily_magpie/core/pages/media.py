"""What belongs to a text though it has no words of its own: pictures, tables of data, players, code."""

from itertools import islice

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.boilerplate import in_junk, names_of
from wily_magpie.core.pages.tree import Element, named

MOST_CAPTION = 80
"""Characters beside a picture past which the element around both is a teaser rather than a picture with its caption."""
GALLERY = named(r"gallery|slideshow|slides?|slider|carousel|galerie|bildstrecke")
PICTURES = ("img", "picture", "figure")
MEDIA_TAGS = frozenset("img picture figure video audio table pre hr iframe math".split())
CAPTIONED = named(r"wp-caption|figure|captioned|caption-container|image-caption")


def is_wanted_media(element: Element, sound: set[Element]) -> bool:
    """Whether a picture, table, player or code belongs to the text around it, though no library gives it."""
    if not holds_media(element) or is_teaser(element):
        return False
    return not in_junk(element, sound) or (element.tag in PICTURES and is_in_gallery(element))


def is_in_gallery(element: Element) -> bool:
    """Whether a picture is one of a series, whose parts are often called teasers."""
    return any(GALLERY.search(names_of(up)) for up in islice(element.iterancestors(), 6))


def is_teaser(element: Element) -> bool:
    """Whether a picture stands in a link that also holds words: it leads to another page."""
    link = next((up for up in element.iterancestors("a")), None)
    return link is not None and len(tree.text_of(link)) > len(tree.text_of(element)) + 3


def holds_media(element: Element) -> bool:
    """Whether it is a picture with or without a caption, a table of data, a player or code."""
    if element.tag == "table":
        return is_data_table(element)
    if element.tag == "figure" or CAPTIONED.search(element.get("class") or ""):
        has_media = any(True for _ in element.iter("img", "picture", "video", "audio", "iframe", "pre", "svg"))
        return has_media and len(tree.text_of(element)) < 3 * MOST_CAPTION
    return element.tag in MEDIA_TAGS


def is_data_table(element: Element) -> bool:
    """Whether it is a table of data rather than one for layout: flat, with several cells a row and little text in each."""
    if element.tag != "table" or any(True for _ in element.iterdescendants("table")):
        return False
    rows = list(element.iter("tr"))
    cells = list(element.iter("td", "th"))
    return len(rows) > 1 and len(cells) >= 2 * len(rows) and len(tree.text_of(element)) < 120 * len(cells)
