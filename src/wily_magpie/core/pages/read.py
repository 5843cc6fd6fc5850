"""From a page to all that it says."""

import re
from urllib.parse import unquote, urlsplit

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.pages.content import content_of
from wily_magpie.core.pages.findings.gather import gather
from wily_magpie.core.pages.notice import Budget, Front, is_bare_text, notice_of
from wily_magpie.core.pages.page import Finding, Page, Reading

WORDS_A_MINUTE = 230
WIDE = re.compile("[\u0e00-\u0eff\u1000-\u109f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\uf900-\ufaff]")


def read_page(page: Page) -> Reading:
    """Findings, main content and the canonical address of a page. Takes up to a second for a long page."""
    budget = Budget()
    root = tree.parse(page.html)
    findings, data = gather(root, page.address)
    is_text = is_bare_text(root)
    name = unquote(urlsplit(page.address).path.rsplit("/", 1)[-1])
    if is_text and name:
        findings += (Finding("title", name, "address"),)
    title = next((finding.value for finding in findings if finding.name == "title"), "")
    descriptions = [finding.value for finding in findings if finding.name == "description"]
    front = Front.of(root)
    content = content_of(root, page.html, page.address, descriptions, budget)
    notice = notice_of(front, content.text, title, is_cut=budget.has_cut)
    if is_text and not notice:
        notice = "This is a text file rather than a web page; it is kept as it is."
    words = word_count(content.text)
    findings += (
        Finding("word_count", str(words), "counted"),
        Finding("reading_minutes", str(max(1, round(words / WORDS_A_MINUTE))), "counted"),
    )
    told = next((finding.value for finding in findings if finding.name == "canonical"), "")
    return Reading(page, findings, content, honest_canonical(page.address, told), data, notice)


def word_count(text: str) -> int:
    """Words; in scripts without spaces two letters count as one."""
    without_spaces = len(WIDE.findall(text))
    return len(WIDE.sub(" ", text).split()) + without_spaces // 2


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
