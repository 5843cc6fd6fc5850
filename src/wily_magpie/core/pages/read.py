"""From a page to all that it says."""

import re

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.pages.content import content_of
from wily_magpie.core.pages.findings.gather import gather
from wily_magpie.core.pages.page import Page, Reading


def read_page(page: Page) -> Reading:
    """Findings, main content and the canonical address of a page. Takes up to a second for a long page."""
    root = tree.parse(page.html)
    findings, data = gather(root, page.address)
    descriptions = [finding.value for finding in findings if finding.name == "description"]
    content = content_of(root, page.html, page.address, descriptions)
    told = next((finding.value for finding in findings if finding.name == "canonical"), "")
    return Reading(page, findings, content, honest_canonical(page.address, told), data)


def honest_canonical(address: str, told: str) -> str:
    """The canonical form of a page's address: of the one that the page tells where that can be true.

    A page that names its site's front page, or another host, as its canonical address is not believed.
    """
    own, declared = canonical(address), canonical(told) if told else ""
    if not declared:
        return own
    host = own.split("/")[0].split("?")[0]
    is_front = not re.search(r"[/?]", declared)
    return declared if not own or (declared.split("/")[0] == host and not is_front) else own
