"""Blocks of a page: what is kept and what is not with its reason, in the page's order; taken in and out by a person."""

import pytest

from conftest import HERON
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.inline_runs import wrap_inline_runs
from wily_magpie.core.pages.page import Content, Page, Reading
from wily_magpie.core.pages.tree import parse, text_of
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.slip_blocks import with_blocks

REASONS = {
    "We use cookies": "cookie notice",
    "By Ada Penhallow": "byline",
    "Share this": "share bar",
    "A letter with every spring tide": "subscription",
    "2 comments": "comments",
    "Good to see the wheel": "comments",
    "Council votes": "related links",
    "Imprint": "navigation",
}


@pytest.fixture(scope="module")
def content(web: object) -> Content:
    return read_page(Fetcher(lambda _: web.proxy).page(HERON)).content  # type: ignore[attr-defined]


@pytest.mark.parametrize("words", REASONS)
def test_what_is_left_out_says_why(content: Content, words: str) -> None:
    block = next(block for block in content.blocks if words in block.text)
    assert (block.is_kept, block.reason) == (False, REASONS[words])


def test_kept_blocks_are_the_text_in_order(content: Content) -> None:
    kept = [block for block in content.blocks if block.is_kept]
    assert [block.kind for block in kept] == [
        "heading", "picture", "paragraph", "paragraph", "heading", "paragraph", "quotation", "paragraph", "heading", "list",
        "paragraph",
    ]  # fmt: skip
    assert "\n\n".join(block.markdown for block in kept) == content.markdown
    assert [block.level for block in kept if block.kind == "heading"] == [1, 2, 2]
    assert all(block.path.startswith("/html/body/") for block in content.blocks)
    assert len({block.path for block in kept}) == len(kept)


def test_taking_a_block_out_and_in_again_gives_the_same(content: Content) -> None:
    number = next(at for at, block in enumerate(content.blocks) if block.kind == "quotation")
    without = content.with_blocks([number], is_kept=False)
    assert "> My great-grandfather" not in without.markdown
    assert "My great-grandfather" not in without.text + without.html
    again = without.with_blocks([number], is_kept=True)
    assert again.markdown == content.markdown
    assert again.blocks == content.blocks


def test_a_persons_own_text_stays_when_blocks_come_and_go(session: Session) -> None:
    slip = session.reader.slips.slip(read_page(session.fetcher.page(HERON)))
    number = next(at for at, block in enumerate(slip.reading.content.blocks) if "Good to see the wheel" in block.text)
    slip = with_blocks(slip, [number], is_kept=True)
    assert "Good to see the wheel" in slip.body
    own = type(slip)(**{**vars(slip), "body": "My own beginning.\n\n" + slip.body})
    lead = next(
        at for at, block in enumerate(own.reading.content.blocks) if block.text.startswith("For the first time")
    )
    own = with_blocks(own, [lead], is_kept=False)
    assert own.body.startswith("My own beginning.")
    assert "For the first time" not in own.body
    back = with_blocks(own, [lead], is_kept=True)
    assert back.body.index("![") < back.body.index("For the first time") < back.body.index("About sixty")
    refilled = session.reader.slips.slip(read_page(session.fetcher.page(HERON)), hand=back.by_hand)
    assert refilled.body == back.body
    assert refilled.reading.content.blocks[number].is_kept


RUNS = [
    ("<div>one<br><br>two<p>three</p>four</div>", ["one", "two", "three", "four"]),
    ("<div>one <b>bold</b> run<div>block</div></div>", ["one bold run", "block"]),
    ("<ul><li>item<ul><li>inner</li></ul></li></ul>", ["item", "inner"]),
    ("<div>line<br>broken</div>", ["line broken"]),
]


@pytest.mark.parametrize(("html", "pieces"), RUNS)
def test_loose_text_gets_an_element_of_its_own(html: str, pieces: list[str]) -> None:
    root = parse(html)
    blockish = wrap_inline_runs(root)
    found = [
        text_of(e) for e in root.iter() if isinstance(e.tag, str) and text_of(e) and not any(c in blockish for c in e)
    ]
    assert [text for text in found if text in pieces] == pieces


def page(body: str, description: str = "") -> Reading:
    head = f'<meta name="description" content="{description}"><title>The dam at Saltern</title>'
    return read_page(Page("https://mills.example/a", f"<html><head>{head}</head><body>{body}</body></html>", "file"))


LONG = (
    "The dam at Saltern went under in the storm of 1703 and nobody built it again, though its stones can be walked on. "
)


def test_pointers_and_teasers_are_not_part_of_the_text() -> None:
    teasers = "".join(f"<h2>Another story {n}</h2><p>{LONG}{n}</p><a href='/{n}'>Read the rest</a>" for n in range(3))
    reading = page(
        f"<article><h1>The dam at Saltern</h1><p>{LONG * 3}</p><p>{LONG * 2}</p><p>Read more: <a href='/x'>the mills of Wick</a></p>"
        f"<p>{LONG * 2}</p></article>{teasers}"
    )
    assert "Read more" not in reading.content.markdown
    assert "Another story" not in reading.content.markdown
    assert reading.content.markdown.count("nobody built it") == 7


def test_a_repeated_reading_is_the_same() -> None:
    body = f"<main><h1>The dam at Saltern</h1><p>{LONG}</p><ul><li>{LONG}</li><li>short</li></ul><pre>code</pre></main>"
    assert page(body).content == page(body).content
