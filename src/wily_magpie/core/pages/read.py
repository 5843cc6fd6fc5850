"""From a page to all that it says."""

import re
from dataclasses import replace

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.address import canonical
from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.content import content_of
from wily_magpie.core.pages.files.recognise import Given, name_of, page_of
from wily_magpie.core.pages.findings.gather import gather
from wily_magpie.core.pages.findings.kinds import DERIVED, kind_by_text
from wily_magpie.core.pages.findings.pictures import all_pictures
from wily_magpie.core.pages.findings.sources import VISIBLE
from wily_magpie.core.pages.notice import Front, notice_of
from wily_magpie.core.pages.page import Content, Finding, Page, Picture, Reading
from wily_magpie.core.pages.shapes.posts import holds_posts, take_posts
from wily_magpie.core.pages.shapes.shaped import shaped
from wily_magpie.core.pages.words import WORDS_A_MINUTE, word_count

MAIL = "message/rfc822"
WITH_POSTS = ("discussion", "question")


def read_page(page: Page) -> Reading:
    """Findings, main content and the canonical address of a page. Takes up to a second for a long page."""
    budget = Budget()
    given = tree.bounded(page.html)
    budget.has_cut = given != page.html
    root = tree.parse(given)
    file = bare_file(root, page)
    if file is not None:
        page, given = file, tree.bounded(file.html)
        budget.has_cut |= given != file.html
        root = tree.parse(given)
    held = list(root.iter())  # lxml makes an element's object anew each time, unless somebody holds it
    with tree.unchanged():
        sources = gather(root, page.address, budget)
        pictures = all_pictures(root, sources.base)
        front = Front.of(root)
        if not sources.best("kind") and budget.within(lambda: holds_posts(root)):
            sources.add("kind", "discussion", f"{DERIVED} its posts")
    descriptions = [finding.value for finding in sources.found if finding.name == "description"]
    html, kind = given, sources.best("kind")
    posts = (budget.within(lambda: take_posts(sources)) or []) if kind in WITH_POSTS else []
    if posts or tree.is_deeper(root, tree.DEEPEST - 2):
        html = tree.outer(root)  # without the posts, and without the depth that libraries choke on
    content = content_of(
        root, html, page.address, descriptions, budget, is_file=bool(page.file), is_mail=page.media_type == MAIL
    )
    content = shaped(content, kind, sources, posts)
    if not page.file:
        kind_by_text(sources, content)
    notice = page.notice or notice_of(
        front, content.text, sources.best("title"), is_cut=budget.has_cut, is_rendered=page.way == "rendered"
    )
    findings = tuple(sources.found)
    if page.file:
        told = (one for one in findings if not one.origin.startswith(VISIBLE))  # its words are not about itself
        findings = tuple(replace(one, origin=file_origin(one.origin)) for one in told)
    words = word_count(content.text)
    findings += (
        Finding("word_count", str(words), "counted"),
        Finding("reading_minutes", str(max(1, round(words / WORDS_A_MINUTE))), "counted"),
    )
    held.clear()
    declared = sources.best("canonical")
    canonical_address = page.identity or honest_canonical(page.address, declared)
    return Reading(page, findings, content, canonical_address, sources.data, notice, in_order(pictures, content))


def in_order(pictures: tuple[Picture, ...], content: Content) -> tuple[Picture, ...]:
    """All pictures, those of the text first."""
    kept = " ".join(block.markdown for block in content.blocks if block.is_kept)
    return tuple(sorted(pictures, key=lambda one: one.address not in kept))


def file_origin(origin: str) -> str:
    """What people call the origin of a finding that a file tells of itself."""
    told = re.fullmatch(r"structured data(?: \w+)?(?:\.(\w+))?", origin)
    name = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", told[1] or "").casefold() if told else ""
    return f"the file: {name}" if name else "the file" if told else "file name" if origin == "page title" else origin


def bare_file(root: tree.Element, page: Page) -> Page | None:
    """The file that an engine shows as a page of its own making: a text, JSON, a picture; None for a page."""
    if page.file or page.way != "rendered":
        return None
    if page.html.lstrip()[:4].casefold() == "<svg":
        svg = page.html.encode("utf-8", "replace")
        return page_of(Given(svg, "image/svg+xml", "utf-8", name_of(page.address), page.address, page.way, page.asked))
    body = root.find("body")
    children = [one for one in body if isinstance(one.tag, str)] if body is not None else []
    shown = [one for one in children if "json-formatter-container" not in (one.get("class") or "")]
    if len(shown) != 1 or tree.squash(body.text) or (root.find(".//title") is not None and shown[0].tag == "pre"):
        return None
    name = name_of(page.address)
    if shown[0].tag == "pre":
        content, media_type = str(shown[0].text_content()).encode("utf-8", "replace"), "text/plain"
    elif shown[0].tag == "img" and shown[0].get("src") == page.address:
        content, media_type = b"", "image/*"
    else:
        return None
    return page_of(Given(content, media_type, "utf-8", name, page.address, page.way, page.asked))


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
