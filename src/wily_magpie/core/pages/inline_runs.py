"""Runs of text: what stands loose between blocks gets an element of its own, so that every text can be judged alone.

`<div>one<br><br>two<p>three</p>four</div>` becomes a div of four paragraphs. Loose text in list items and cells becomes a
span, which leaves the item what it is, unless empty lines part it.
"""

from itertools import pairwise

from wily_magpie.core.pages.tree import BLOCK_TAGS, UNREAD_TAGS, Element, squash

KEPT_INLINE = frozenset("li td th dd dt caption summary figcaption".split())
NO_CONTAINERS = frozenset("pre ul ol dl table tbody thead tfoot tr select h1 h2 h3 h4 h5 h6".split())
LOOSE_MEDIA = frozenset("img picture video audio iframe svg math".split())


def wrap_inline_runs(root: Element) -> set[Element]:
    """Wraps loose text in place.

    Returns:
        The elements that are blocks or hold some.
    """
    elements = [element for element in root.iter() if isinstance(element.tag, str)]
    blockish: set[Element] = set()
    for element in reversed(elements):
        if element.tag in BLOCK_TAGS or any(child in blockish for child in element):
            blockish.add(element)
    for element in elements:
        if element.tag in NO_CONTAINERS or element.tag in UNREAD_TAGS or element not in blockish:
            continue
        if any(child in blockish for child in element) or has_empty_line(element):
            rebuild(element, blockish)
    return blockish


def has_empty_line(element: Element) -> bool:
    """Whether two line breaks follow each other."""
    children = list(element)
    pairs = pairwise(children)
    return any(one.tag == "br" and other.tag == "br" and not squash(one.tail) for one, other in pairs)


def rebuild(element: Element, blockish: set[Element]) -> None:
    """Sorts an element's contents into blocks and wrapped runs."""
    name = "span" if element.tag in KEPT_INLINE and not has_empty_line(element) else "p"
    text, children = element.text, list(element)
    element.text = None
    if not squash(text) and all(child in blockish and not squash(child.tail) for child in children):
        for child in children:
            child.tail = None
        return
    for child in children:
        element.remove(child)
    run = Run(element, name, blockish, text)
    for child in children:
        tail, child.tail = child.tail, None
        if child in blockish:
            run.end(tail)
            element.append(child)
        elif child.tag == "br" and run.ends_with_break():
            run.end(tail)
        else:
            child.tail = tail
            run.nodes.append(child)
    run.end(None)


class Run:
    """Inline nodes that belong together, with the text before them.

    Args:
        element: where they go, wrapped in an element of that name.
        lead: the text that the first run begins with.
    """

    def __init__(self, element: Element, name: str, blockish: set[Element], lead: str | None) -> None:
        self.element, self.name, self.blockish = element, name, blockish
        self.lead = lead
        self.nodes: list[Element] = []

    def ends_with_break(self) -> bool:
        """Whether a line break is the last of them."""
        return bool(self.nodes) and self.nodes[-1].tag == "br" and not squash(self.nodes[-1].tail)

    def end(self, lead: str | None) -> None:
        """Puts what there is where it goes; the next run begins with some text."""
        while self.ends_with_break():
            self.nodes.pop()
        if not squash(self.lead) and all(one.tag in LOOSE_MEDIA and not squash(one.tail) for one in self.nodes):
            for one in self.nodes:
                one.tail = None
                self.element.append(one)
        elif squash(self.lead) or any(one.tag != "br" or squash(one.tail) for one in self.nodes):
            self.wrap()
        self.nodes, self.lead = [], lead

    def wrap(self) -> None:
        """Wraps them."""
        wrapper = self.element.makeelement(self.name)
        wrapper.text = self.lead
        for one in self.nodes:
            wrapper.append(one)
        self.element.append(wrapper)
        if self.name == "p":
            self.blockish.add(wrapper)
