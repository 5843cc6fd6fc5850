"""What pages say: those of the stand-in web, small ones for each origin, and hostile ones."""

import ctypes
import json
import re
import subprocess
import sys
import threading
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
import yaml
from hypothesis import given, settings
from hypothesis import strategies as st

from wily_magpie.core.fields.people import given_first
from wily_magpie.core.pages import budget as budgets
from wily_magpie.core.pages import extractors, tree
from wily_magpie.core.pages.budget import Budget, OutOfTime
from wily_magpie.core.pages.charset import decode
from wily_magpie.core.pages.extractors import consensus_of
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.inline_runs import wrap_inline_runs
from wily_magpie.core.pages.markdown import to_markdown
from wily_magpie.core.pages.notice import Front, notice_of
from wily_magpie.core.pages.page import STILL_LOADING, Page, Reading
from wily_magpie.core.pages.pictures import addresses_in
from wily_magpie.core.pages.read import read_page
from wily_magpie.core.pages.repair import with_later_sections
from wily_magpie.core.pages.text_blocks import leaves
from wily_magpie.core.pages.tree import parse
from wily_magpie.core.pages.words import word_count
from wily_magpie.demo.web import addresses

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "readings.yaml").read_text("utf-8"))
"""Of each page of the stand-in web: what it says, the kinds of its kept blocks ("…" for many), reasons of those left out,
texts that its Markdown has and lacks, pictures with size and caption."""
NOT_READ = ("silent", "hangup", "short-links", "withdrawn", "/failed", "/members", "levels.zip", "/go?to")


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["address"].removeprefix("http://"))
def test_what_the_pages_of_the_stand_in_web_say(fetcher: Fetcher, case: dict[str, Any]) -> None:
    reading = read_page(fetcher.page(case["address"]))
    said = {name: reading.best(name) for name in ("title", "published", "kind")}
    assert said == {name: case[name] for name in said}
    assert list(reading.authors) == case["authors"]
    assert {name: reading.best(name) for name in case.get("findings", {})} == case.get("findings", {})
    assert reading.notice == case.get("notice", "")
    assert all(finding.origin for finding in reading.findings)
    kept = [block for block in reading.content.blocks if block.is_kept]
    kinds = " ".join(block.kind for block in kept)
    assert kinds == case["blocks"] or (case["blocks"].endswith("…") and kinds.startswith(case["blocks"][:-2]))
    reasons = {block.reason for block in reading.content.blocks if not block.is_kept}
    assert reasons == set(case.get("left out", []))
    markdown = reading.content.markdown
    assert [piece for piece in case.get("has", []) if piece not in markdown] == []
    assert [piece for piece in case.get("lacks", []) if piece in markdown] == []
    pictures = [[p.address.rsplit("/", 1)[-1], p.width, p.height, p.caption] for p in reading.pictures]
    assert "pictures" not in case or pictures == case["pictures"]


def test_every_page_of_the_stand_in_web_has_its_case() -> None:
    there = {address for address in addresses() if not any(part in address for part in NOT_READ)}
    assert there == {case["address"] for case in CASES}


def page(head: str = "", body: str = "<p>Some text of the page, long enough to be read.</p>") -> Reading:
    """A reading of a small page."""
    return read_page(
        Page("https://mills.example/2024/05/06/a", f"<html><head>{head}</head><body>{body}</body></html>", "file")
    )


def meta(**pairs: str) -> str:
    return "".join(f'<meta name="{name.replace("__", ":")}" content="{value}">' for name, value in pairs.items())


def ld(**item: object) -> str:
    return f'<script type="application/ld+json">{json.dumps({"@type": "Article", **item})}</script>'


ORIGINS = [
    (ld(headline="From JSON-LD"), "title", "From JSON-LD", "structured data Article.headline"),
    ("<title>The mill | Mills</title>" + meta(og__site_name="Mills"), "title", "The mill", "page title"),
    (meta(citation_title="Cited"), "title", "Cited", "citation tag citation_title"),
    (meta(og__title="Shared"), "title", "Shared", "meta tag og:title"),
    (
        ld(author={"@type": "Person", "name": "Ada Penhallow"}),
        "author",
        "Penhallow, Ada",
        "structured data Article.author",
    ),
    (ld(author=["Ada Penhallow", "Tom Varley"]), "author", "Penhallow, Ada", "structured data Article.author"),
    (meta(author="By Ada Penhallow"), "author", "Penhallow, Ada", "meta tag author"),
    (meta(citation_author="Okafor, Ngozi"), "author", "Okafor, Ngozi", "citation tag citation_author"),
    (
        ld(datePublished="2024-05-06T10:00:00+02:00"),
        "published",
        "2024-05-06T10:00+02:00",
        "structured data Article.datePublished",
    ),
    (meta(citation_publication_date="2021/09"), "published", "2021-09", "citation tag citation_publication_date"),
    (meta(article__published_time="2020-01-02"), "published", "2020-01-02", "meta tag article:published_time"),
    ("", "published", "2024-05-06", "address"),
    (meta(description="About it"), "description", "About it", "meta tag description"),
    (meta(og__image="/a.png"), "image", "https://mills.example/a.png", "meta tag og:image"),
    (ld(keywords="law, tides"), "keyword", "law", "structured data Article.keywords"),
    ("", "site", "mills.example", "address"),
    (meta(citation_doi="doi:10.5555/jts.1"), "doi", "10.5555/jts.1", "citation tag citation_doi"),
    (ld(sameAs="https://arxiv.org/abs/2101.00001"), "arxiv", "2101.00001", "structured data Article.sameAs"),
    (meta(citation_arxiv_id="2101.00002"), "arxiv", "2101.00002", "citation tag citation_arxiv_id"),
    (ld(sameAs="https://doi.org/10.5555/abc"), "doi", "10.5555/abc", "structured data Article.sameAs"),
    (meta(citation_issn="1234-567X") + meta(citation_title="x"), "issn", "1234-567X", "citation tag citation_issn"),
    (meta(citation_firstpage="4", citation_lastpage="9"), "pages", "4–9", "citation tag citation_firstpage"),
    (ld(articleSection="Shore"), "section", "Shore", "structured data Article.articleSection"),
    (
        ld(license="https://licences.example/by"),
        "license",
        "https://licences.example/by",
        "structured data Article.license",
    ),
    (ld(aggregateRating={"ratingValue": 4.5}), "rating", "4.5", "structured data Article.aggregateRating"),
    (ld(publisher={"name": "Quayside"}), "publisher", "Quayside", "structured data Article.publisher"),
    ('<link rel="shortcut icon" href="/i.png">', "icon", "https://mills.example/i.png", "link icon"),
    ('<link rel="canonical" href="/b">', "canonical", "https://mills.example/b", "link canonical"),
]


@pytest.mark.parametrize(("head", "name", "value", "origin"), ORIGINS)
def test_every_value_tells_its_origin(head: str, name: str, value: str, origin: str) -> None:
    finding = page(head).all(name)[0]
    assert (finding.value, finding.origin) == (value, origin)


def test_microdata_is_read() -> None:
    body = (
        '<div itemscope itemtype="https://schema.org/Product"><h1 itemprop="name">Flour scoop</h1>'
        '<div itemprop="offers" itemscope itemtype="https://schema.org/Offer"><meta itemprop="priceCurrency" content="GBP">'
        '<span itemprop="price" content="12.50">£12.50</span></div></div>'
    )
    reading = page(body=body)
    assert (reading.best("price"), reading.best("currency"), reading.best("kind")) == ("12.50", "GBP", "product")


NOTICES = [
    ("<h1>Sign in</h1><form><input name=u><input type=password><button>Log in</button></form>", "login page"),
    (
        "<h1>Before you continue</h1><p>We use cookies and need your consent.</p><button>Accept</button>",
        "asks for consent",
    ),
    ("<img src='/p.png'>", "No text was found"),
    ("<p>" + "The ebb turns the wheel for five hours. " * 60 + "</p><form><input type=password>Log in</form>", ""),
    ("<p>A short note about cookies that are eaten with tea.</p>", ""),
]


@pytest.mark.parametrize(("body", "said"), NOTICES)
def test_walls_are_recognised_and_said(body: str, said: str) -> None:
    notice = page(body=body).notice
    assert said in notice if said else notice == ""


def test_a_text_file_is_kept_as_it_is(fetcher: Fetcher) -> None:
    reading = read_page(fetcher.page("http://gauge-office.example/readme.txt"))
    assert reading.best("title") == "readme.txt"
    assert "text file" in reading.notice
    assert reading.content.markdown == "```\nLevels are in metres above chart datum.\n\n1 & 2 < 3: times are UTC.\n```"


def test_reading_ends_when_its_time_is_spent() -> None:
    spent = Budget(limit_s=-1)
    assert consensus_of("<html><body><p>" + "Some text. " * 40 + "</p></body></html>", "", spent).believed is not None
    assert spent.has_cut
    assert "takes long to read" in notice_of(Front(), "text", "", is_cut=spent.has_cut)


def test_words_are_counted_in_every_script() -> None:
    assert page(body="<p>one two three four five six seven eight nine ten</p>").best("word_count") == "10"
    assert word_count("水車は潮で回る") == 3


DECLARED = {"@type": "NewsArticle", "headline": "The new wheel", "articleBody": "The wheel turns again. " * 12}


def test_a_text_that_is_only_declared_is_read_where_the_page_shows_none() -> None:
    head = ld(**DECLARED)
    assert page(head, "<div id='app'></div><script>start()</script>").content.markdown.startswith(
        "The wheel turns again."
    )
    shown = page(head, f"<article>{END * 4}</article>").content.text
    assert "The mill turns" in shown
    assert "The wheel" not in shown


@pytest.mark.parametrize("strange", ["\0", "\x01", "\ud800", "\ufffe"])
def test_a_declared_text_goes_on_behind_what_no_text_may_hold(strange: str) -> None:
    body = f"The wheel{strange} turns. {'It has turned before. ' * 12}"
    assert page(ld(articleBody=body), "<p></p>").content.text.startswith("The wheel turns. It has")


def test_contradicting_values_are_all_kept() -> None:
    reading = page(ld(headline="One") + meta(og__title="Two") + "<title>Three</title>")
    assert [finding.value for finding in reading.all("title")] == ["One", "Two", "Three"]


@pytest.mark.parametrize("data", ["{", '{"@type": "Article", "headline": "A",}', "[]", "null", '"x"', "[" * 9000])
def test_faulty_structured_data_does_no_harm(data: str) -> None:
    assert page(f'<script type="application/ld+json">{data}</script><title>T</title>').best("title") in ("T", "A")


MARKDOWN = [
    ('<p>a <a href="b?c=1">link</a></p>', "a [link](https://mills.example/x/b?c=1)"),
    ('<p><a href="javascript:alert(1)">text</a></p>', "text"),
    ('<img src="p.png" alt="A wheel">', "![A wheel](https://mills.example/x/p.png)"),
    ('<img src="data:image/gif;base64,R0" data-src="/real.png" alt="">', "![](https://mills.example/real.png)"),
    ("<ul><li>one<ul><li>two</li></ul></li></ul>", "- one"),
    ("<blockquote><p>said</p></blockquote>", "> said"),
    ('<p><a href="b"><b>more</b><br></a>next</p>', "[**more**](https://mills.example/x/b)\\\nnext"),
    ("<h2>Head</h2>", "## Head"),
    ("<table><tr><th>a</th><th>b</th></tr><tr><td>1</td><td>2</td></tr></table>", "| a | b |"),
    ('<pre><code class="language-python">x = 1\n</code></pre>', "```python\nx = 1\n```"),
]


@pytest.mark.parametrize(("html", "markdown"), MARKDOWN)
def test_markdown(html: str, markdown: str) -> None:
    assert markdown in to_markdown(parse(html).find("body"), "https://mills.example/x/y")


def test_a_page_whose_first_tags_close_themselves_is_read_whole() -> None:
    html = (
        f'<!DOCTYPE html PUBLIC "x" /><html lang="en" /><head /><title>A mill</title><body class="a" />{END * 4}</body>'
    )
    reading = read_page(Page("https://mills.example/", html, "file"))
    assert reading.best("title") == "A mill"
    assert reading.content.text.count("The mill turns") == 4


@pytest.mark.parametrize("html", ["<p>end<br></p>", "<p>end<br>&nbsp;<br></p>", "<p>end<br><b></b></p>"])
def test_a_line_break_that_nothing_follows_is_none(html: str) -> None:
    assert to_markdown(parse(html).find("body"), "") == "end"


def test_pictures_of_a_text_are_found() -> None:
    text = "![a](https://mills.example/1.png) and ![b](/relative.png)\n\n`![c](https://mills.example/code.png)`"
    assert addresses_in(text) == ["https://mills.example/1.png"]


HOSTILE = {
    "empty": b"",
    "blank": b"   \n",
    "only zeros": b"\0" * 2000,
    "not html": bytes(range(256)) * 40,
    "json": b'{"a": [1, 2, 3]}',
    "deep": b"<div>" * 20_000 + b"at the bottom of it all" + b"</div>" * 20_000,
    "deep inline": b"<b><i>" * 5_000 + b"at the bottom of it all",
    "open tag": b"<p title='" + b"x" * 50_000,
    "entities": b"&" * 50_000 + b"&#xD800; &#0; &#x110000;",
    "an html comment only": b"<!-- " + b"- " * 20_000,
    "many attributes": b"<p " + b"a=1 " * 20_000 + b">text</p>",
    "doctype bomb": b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><p>&b;</p>',
}


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_pages_are_read_or_left_blank_but_soon(name: str) -> None:
    start = time.monotonic()
    reading = read_page(Page("https://mills.example/", decode(HOSTILE[name]), "file"))
    assert isinstance(reading.content.markdown, str)
    assert time.monotonic() - start < 30, "a page must not hold up the program"
    if name.startswith("deep"):
        assert "at the bottom of it all" in reading.content.text


def test_a_library_that_takes_too_long_is_stopped_in_its_midst(monkeypatch: pytest.MonkeyPatch) -> None:
    def slow(_html: str, _address: str) -> str:
        while True:
            with suppress(Exception):
                sum(range(100))

    monkeypatch.setitem(extractors.EXTRACTORS, "plain", slow)
    budget = Budget(limit_s=0.4)
    start = time.thread_time()
    told = extractors.consensus_of("<html><body><p>Some text.</p></body></html>", "", budget)
    assert time.thread_time() - start < 10
    assert budget.has_cut
    assert told.believed is None
    assert "takes long" in notice_of(Front(), "", "", is_cut=budget.has_cut)


def test_the_end_of_the_time_arrives_nowhere_else(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(budgets, "AGAIN_S", 0.01)

    def stubborn() -> None:
        began_s = time.thread_time()
        while time.thread_time() - began_s < 0.02:
            with suppress(BaseException):
                sum(range(300))
        ctypes.pythonapi.PyThreadState_SetAsyncExc(
            ctypes.c_ulong(threading.get_ident()), ctypes.py_object(OutOfTime)
        )  # and one more at the very last moment

    for _ in range(20):
        budget = Budget(limit_s=0.01)
        budget.within(stubborn, 1.0)
        assert budget.has_cut
        assert sum(range(30_000)) == 449_985_000
    assert "reading in time" not in {thread.name for thread in threading.enumerate()}


def test_python_looks_for_nothing_more_when_the_work_is_done() -> None:
    """Else it would be slower ever after, and this would go on for good: a trace meets what it looks for again and again."""
    code = """
import sys
from wily_magpie.core.pages.budget import Budget
Budget(limit_s=0.01).within(lambda: [sum(range(100)) for _ in range(200_000)], 1.0)
Budget().within(lambda: sum(range(100)))
sys.settrace(lambda *_: None)
(lambda: None)()
"""
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)


END = "<p>The mill turns twice a day, and has done so for as long as anybody can say, with one pause.</p>"
NOTES = """<p>The mill of Wick had two wheels and one pond, of which the keeper wrote in the spring: One<sup><a href="#f1">1</a></sup> and two<a href="#f2" role="doc-noteref">*</a>, <a href="#top">not this</a>.</p>
<p>And more words, so that there is a text here that is worth its notes and is found as such by everybody.</p>
<ol><li id="f1">First. <a href="#r1">↩</a></li><li id="f2"><p>Second.</p><p>Its other part.</p></li></ol>"""


def test_footnotes_are_marks_and_notes() -> None:
    reading = page(body=f"<article>{END * 4}{NOTES}</article>")
    assert "One[^1] and two[^2], not this." in reading.content.markdown
    assert "[^1]: First.\n\n[^2]: Second.\n\n    Its other part." in reading.content.markdown
    assert [block.kind for block in reading.content.blocks if block.is_kept][-1] == "footnote"


LATE_PICTURES = [
    ('<img src="data:x" data-src="/a.png">', "/a.png"),
    ('<noscript><img src="/a.png"></noscript>', "/a.png"),
    ('<img class="lazy"><noscript><img src="/a.png"></noscript>', "/a.png"),
    ('<picture><source srcset="/s.png 100w, /a.png 900w"><img></picture>', "/a.png"),
    ('<img srcset="/s.png 1x, /a.png 2x">', "/a.png"),
]


@pytest.mark.parametrize(("html", "address"), LATE_PICTURES)
def test_pictures_that_are_loaded_late_have_their_address(html: str, address: str) -> None:
    text = "<p>Some words about the gate of the mill, of which there is a picture below.</p>" * 3
    reading = page(body=f"<article>{text}<figure>{html}</figure>{text}</article>")
    assert reading.content.markdown.count(f"(https://mills.example{address})") == 1
    assert reading.pictures[0].address == f"https://mills.example{address}"


def test_blocks_have_the_share_of_libraries_that_take_them_for_text() -> None:
    text = "".join(
        f"<p>Paragraph {n} about the mill, the tide and the long patience of its keepers.</p>" for n in range(8)
    )
    blocks = page(body=f"<nav><a href='/'>Home</a></nav><article><h1>A mill</h1>{text}</article>").content.blocks
    assert {block.score for block in blocks if block.kind == "paragraph" and block.is_kept} == {1.0}
    assert [block.score for block in blocks if block.reason == "navigation"] == [0.0]


JUNK_AT_THE_END = [
    "<h3>You may like</h3><ul><li><a href='/1'>A long headline about another mill</a></li>"
    "<li><a href='/2'>And one more headline of that length</a></li></ul>",
    "<div class='author-box'><p>Ada Penhallow writes about mills and lives in one of them.</p></div>",
    "<p><em>This page has affiliate links.</em></p>",
    "<form><p>Comments have to be polite and are read by us before they are shown.</p></form>",
    "<span class='sr-only'>Said only to those who hear the page</span>",
]


@pytest.mark.parametrize("junk", JUNK_AT_THE_END)
def test_what_stands_behind_a_text_is_left_out(junk: str) -> None:
    reading = page(body=f"<article><h1>A mill</h1>{END * 5}{junk}</article>")
    words = parse(junk).text_content().split()[-3:]
    assert " ".join(words) not in reading.content.text
    assert reading.content.text.count("The mill turns") == 5


SPEAKERS = ["<footer>Ada Penhallow, miller</footer>", "<p><a href='/ada'>Ada Penhallow, miller</a></p>"]


@pytest.mark.parametrize("speaker", SPEAKERS)
def test_a_quotation_keeps_who_said_it(speaker: str) -> None:
    said = f"<blockquote><p>{TURN}</p>{speaker}</blockquote>"
    reading = page(body=f"<article><h1>A mill</h1>{END * 3}{said}{END}</article><footer>Imprint</footer>")
    assert re.search(r"^> \[?Ada Penhallow, miller", reading.content.markdown, re.MULTILINE)
    assert "Imprint" not in reading.content.text


def test_the_last_line_of_a_quotation_that_points_elsewhere_is_left_out() -> None:
    said = f"<blockquote><p>{TURN}</p><p><a href='/2'>Read more</a></p></blockquote>"
    assert "Read more" not in page(body=f"<article><h1>A mill</h1>{END * 3}{said}{END}</article>").content.text


def test_left_out_blocks_can_be_taken_in_as_they_stand_in_the_page() -> None:
    """Their Markdown is made from their HTML when it is asked for."""
    aside = "<aside><h3>The <em>other</em> mill</h3><ul><li><a href='/2'>It stands</a> at the mouth</li></ul></aside>"
    content = page(body=f"<article><h1>A mill</h1>{END * 4}{aside}{END}</article>").content
    numbers = [at for at, block in enumerate(content.blocks) if not block.is_kept]
    text = content.with_blocks(numbers, is_kept=True).markdown
    assert "### The *other* mill" in text
    assert "[It stands](https://mills.example/2) at the mouth" in text


def box(heading: str, text: str, name: str = "part") -> str:
    """A part of a page that is put together of boxes."""
    return f"<div><div class='{name}'><h2>{heading}</h2><p>{text}</p></div></div>"


TURN = "The wheel turns with the ebb, and what the ebb does not give, no miller of this shore has ever ground. " * 2
LATER_BOXES = [
    (box("The return", TURN), True),
    (
        "<div class='way'><h3>The way</h3><ul><li>over the bridge</li><li>along the dam</li><li>to the mill</li></ul></div>",
        True,
    ),
    (box("The return", TURN, "other"), False),
    (box("<a href='/2'>Another mill</a>", TURN), False),
    (f"<article>{box('Another mill', TURN)}</article>", False),
    (box("The return", "Read more:"), False),
    ("<div class='way'><h3>Pages</h3><ul><li><a href='/1'>one</a></li><li>two</li><li>three</li></ul></div>", False),
]


@pytest.mark.parametrize(("later", "is_part"), LATER_BOXES)
def test_later_boxes_of_a_text_made_of_boxes_belong_to_it(later: str, is_part: bool) -> None:
    root = parse(f"<html><body><main><p>{TURN}</p>{box('The wheel', TURN)}{later}</main></body></html>")
    body = root.find(".//body")
    assert body is not None
    with tree.unchanged():
        pieces = leaves(body, wrap_inline_runs(body))
        kept = with_later_sections(pieces[:3], pieces)
    assert len(kept) == (len(pieces) if is_part else 3)


def test_what_is_like_the_box_of_the_whole_text_is_another_text() -> None:
    root = parse(f"<html><body><main>{box('The wheel', TURN)}{box('The dam', TURN)}</main></body></html>")
    body = root.find(".//body")
    assert body is not None
    with tree.unchanged():
        pieces = leaves(body, wrap_inline_runs(body))
        assert with_later_sections(pieces[:2], pieces) == pieces[:2]


DATES = [
    ("<h1>A mill of the sea</h1><p>12. März 2024</p>", "2024-03-12"),
    ("<p>Mis à jour le 3 février 2021</p><h1>A mill of the sea</h1>", "2021-02-03"),
    ("<h1>A mill of the sea</h1><span>2023年4月5日</span>", "2023-04-05"),
    ("<h1>A mill of the sea</h1><div class='related'>1 May 2020</div>", ""),
]


@pytest.mark.parametrize(("body", "published"), DATES)
def test_a_date_beside_the_heading_is_found(body: str, published: str) -> None:
    html = f"<html><head><title>A mill of the sea</title></head><body>{body}{END * 4}</body></html>"
    assert read_page(Page("https://mills.example/a", html, "file")).best("published") == published


@settings(max_examples=60)
@given(
    st.binary(max_size=300)
    | st.lists(
        st.sampled_from(
            ["<p>", "</p>", "<div class=related>", "<table><tr>", "<td>", "<li>", "<pre>", "text of a page ", "&amp;", "<!--",
             "<script type='application/ld+json'>{", "<meta name=author content='", "<time datetime=9>", "<svg>", "<math>",
             "\0", "\ud83d", "<h1>", "<a href='http://[']>", "<base href='http://['>", "<img srcset=',,'>", "<itemscope itemprop>",
             "<div itemscope itemprop=a itemref='x x'>", "<link rel=canonical href='//'>"]
        ),
        max_size=30,
    ).map(lambda parts: "".join(parts).encode("utf-8", "surrogatepass"))
)  # fmt: skip
def test_any_bytes_give_a_reading(content: bytes) -> None:
    reading = read_page(Page("https://mills.example/", decode(content), "file"))
    assert reading.canonical == "mills.example" or reading.all("canonical")


BYLINES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "bylines.yaml").read_text("utf-8"))


@pytest.mark.parametrize("case", BYLINES, ids=lambda case: case["why"])
def test_who_wrote_it_is_read_from_a_byline(case: dict[str, Any]) -> None:
    text = "".join(
        f"<p>The ebb runs for six hours, and mill {number} stands still for as long as the flood.</p>"
        for number in range(6)
    )
    html = (
        f"<html><head><title>The ebb</title>{case.get('head', '')}</head><body><nav><a href='/'>Home</a></nav><main><h1>The ebb</h1>"
        f"{case['body']}{text}{case.get('after', '')}</main></body></html>"
    )
    reading = read_page(Page("https://mills.example/ebb", html, "file"))
    assert [given_first(name) for name in reading.authors] == case["is"]


@pytest.mark.parametrize("tag", ["article", "main", "section", "mill-page", "div"])
def test_a_page_without_the_tags_that_may_be_left_out_is_read(tag: str) -> None:
    text = "<p>The pond fills at the flood, and the mill stands still until the ebb has run for an hour.</p>"
    more = "<p>My grandfather kept two almanacs, one for the saints and one for the moon; he trusted the second.</p>"
    reading = read_page(
        Page(
            "http://mills.example/",
            f"<!doctype html><title>Mill</title><{tag}><h1>Mill</h1>{text}{more}</{tag}>",
            "file",
        )
    )
    assert "two almanacs" in reading.content.text
    assert reading.notice == ""


SHADOW = """<!doctype html><title>Gauges</title><body><article><h1>Gauges</h1>
<gauge-card>loose <template shadowrootmode="open"><h2>Gauge of <slot name="name">nobody</slot></h2><inner-card><template
shadowrootmode="closed"><p>Read twice a day since the winter of 1904, <slot></slot></p></template><slot></slot></inner-card></template>
<b slot="name">Saltern</b><i slot="nowhere">never seen</i></gauge-card><p>The list was made in 1931 and has been kept up since.</p></article>"""


def test_shadow_roots_are_read_where_they_are_seen() -> None:
    content = read_page(Page("http://mills.example/", SHADOW, "file")).content.markdown
    assert "Gauge of **Saltern**" in content
    assert "since the winter of 1904, loose" in content
    assert "never seen" not in content
    assert "nobody" not in content


LOADING = {
    "Loading …": True, "Please wait": True, "Please wait, loading": True, "Loading the article...": True, "Wird geladen …": True,
    "Einen Moment bitte": True, "Chargement en cours": True, "読み込み中": True,
    "Loading and unloading of barges was done at the quay below the mill.": False, "The mill": False,
}  # fmt: skip


@pytest.mark.parametrize("said", list(LOADING))
def test_a_page_that_still_says_it_is_loading_is_thin(said: str) -> None:
    reading = read_page(
        Page("http://mills.example/a", f"<title>A mill</title><h1>A mill</h1><main><p>{said}</p></main>", "fetched")
    )
    assert (reading.notice == STILL_LOADING) is LOADING[said], reading.notice
