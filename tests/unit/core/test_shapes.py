"""What kinds of pages add to their text: posts, answers, chapters, facts, files; and how a page's kind is found."""

import json
from collections.abc import Mapping

import pytest

from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.findings.media import clock, timed
from wily_magpie.core.pages.findings.offers import shown_number
from wily_magpie.core.pages.page import Page, Reading

WORDS = "The paddles of the wheel are cut from elm that has lain in the mud of the creek for a winter. " * 3


def reading_of(body: str, head: str = "", item: Mapping[str, object] | None = None) -> Reading:
    script = f'<script type="application/ld+json">{json.dumps(item)}</script>' if item else ""
    html = f'<html lang="en"><head><title>A page of the mill</title>{head}{script}</head><body>{body}</body></html>'
    return read_page(Page("https://mills.example/a", html, "file"))


def ld(kind: str, **more: object) -> dict[str, object]:
    return {"@type": kind, "name": "A page of the mill", **more}


def test_replies_within_replies_keep_their_depth() -> None:
    inner = '<div class="reply"><b class="author">gudgeon</b> <p class="text">Deeper.</p></div>'
    posts = f'<div class="reply"><b class="author">pintle</b> <p class="text">Elm it is, I say.</p>{inner}</div>'
    reading = reading_of(f"<h1>A page of the mill</h1><p>{WORDS}</p>{posts * 2}", item=ld("DiscussionForumPosting"))
    replies = [block for block in reading.content.blocks if block.reason == "replies"]
    assert [block.markdown for block in replies[:2]] == [
        "> **pintle**\n>\n> Elm it is, I say.",
        "> > **gudgeon**\n> >\n> > Deeper.",
    ]
    assert all(block.path.startswith("/html/body/div") for block in replies)
    assert "Elm it is" not in reading.content.markdown
    assert "Elm it is" in reading.with_posts().content.markdown


def test_declared_answers_are_used_where_the_page_shows_none() -> None:
    answer = {
        "@type": "Answer",
        "text": "With <b>paper</b>.",
        "author": {"name": "brayer"},
        "datePublished": "2025-02-04",
    }
    other = {"@type": "Answer", "text": "By ear.\nAlways."}
    reading = reading_of(
        "<div>loading</div>",
        item=ld(
            "Question",
            text="How is the gap between the stones measured?",
            acceptedAnswer=answer,
            suggestedAnswer=[other],
        ),
    )
    assert "How is the gap" in reading.content.markdown
    assert "## Accepted answer\n\n> **brayer**, 2025-02-04\n>\n> With **paper**." in reading.content.markdown
    assert [block.text for block in reading.content.blocks if block.reason == "other answers"] == ["By ear. Always."]


def test_a_list_of_other_pages_is_no_discussion() -> None:
    teaser = '<article class="post"><h2><a href="/x">A mill</a></h2><span class="author">Ada</span><p>Some words.</p></article>'
    assert reading_of(f"<main>{teaser * 4}</main>").best("kind") != "discussion"


def test_comments_on_an_article_make_no_discussion() -> None:
    comment = '<li class="comment"><b class="author">a</b><p class="text">Some words of a reader.</p></li>'
    reading = reading_of(f"<article><h1>A mill</h1><p>{WORDS}</p></article><ol class='comments'>{comment * 4}</ol>")
    assert reading.best("kind") != "discussion"
    assert "words of a reader" not in reading.content.markdown


def test_chapters_come_from_clips_or_from_lines_that_begin_at_nought() -> None:
    parts = [
        {"@type": "Clip", "name": "Lifting", "startOffset": 0},
        {"@type": "Clip", "name": "Ebb", "startOffset": 3730},
    ]
    reading = reading_of(f"<p>{WORDS}</p>", item=ld("VideoObject", hasPart=parts, embedUrl="/embed/1"))
    assert reading.content.markdown.startswith("[A page of the mill](https://mills.example/embed/1)")
    assert reading.content.markdown.endswith("## Chapters\n\n- 0:00 Lifting\n- 1:02:10 Ebb")
    assert [one.value for one in reading.all("chapter")] == ["0:00 Lifting", "1:02:10 Ebb"]
    assert [one.name for one in timed(["0:00 One", "words", "2:30 - Two"])] == ["One", "Two"]
    assert timed(["at 9:30", "9:30 the doors open", "18:00 they close"]) == [], "an opening hour is no chapter"
    assert clock(59) == "0:59"


def test_chapters_that_the_text_has_are_not_added() -> None:
    body = f"<p>{WORDS}</p><ul><li>0:00 Lifting</li><li>9:40 The furrows</li></ul>"
    assert "## Chapters" not in reading_of(body, item=ld("VideoObject")).content.markdown


def test_a_product_has_its_facts_as_a_table() -> None:
    offer = {
        "@type": "Offer",
        "price": "24.50",
        "priceCurrency": "GBP",
        "availability": "https://schema.org/OutOfStock",
    }
    more = [{"name": "Plates", "value": 48}, {"name": "Weight", "value": 1.2, "unitText": "kg"}]
    reading = reading_of(
        f"<p>{WORDS}</p><table><tr><th>Plates</th><td>48</td></tr><tr><th>Tides</th><td>12</td></tr></table>",
        item=ld("Product", offers=offer, brand={"name": "Quay"}, additionalProperty=more),
    )
    assert "| Price | 24.50 GBP, out of stock |\n| Brand | Quay |\n| Weight | 1.2 kg |" in reading.content.markdown
    assert reading.content.markdown.count("Plates") == 1, "what the page's own table tells is not told again"


@pytest.mark.parametrize(
    ("shown", "price", "currency"),
    [("£24.50", "24.50", "GBP"), ("1.250,00 €", "1250.00", "EUR"), ("$1,250", "1250", "USD"), ("only 3 left", "", "")],
)
def test_a_price_that_is_only_shown_is_read(shown: str, price: str, currency: str) -> None:
    reading = reading_of(f"<p class='price'>{shown}</p><p>{WORDS}</p>", item=ld("Product"))
    assert (reading.best("price"), reading.best("currency")) == (price, currency)


def test_numbers_of_all_countries() -> None:
    assert [shown_number(text, "") for text in ("1 250,5", "1'250.00", "12")] == ["1250.5", "1250.00", "12"]
    assert [shown_number("1,250", language) for language in ("en", "de")] == ["1250", "1.25"]


def test_a_data_set_lists_its_files_and_its_licence() -> None:
    files = [{"@type": "DataDownload", "contentUrl": "/a.csv", "encodingFormat": "text/csv", "contentSize": "2 MB"}]
    reading = reading_of(f"<p>{WORDS}</p>", item=ld("Dataset", distribution=files, license="https://open.example/4"))
    assert "- [a.csv](https://mills.example/a.csv) (text/csv, 2 MB)" in reading.content.markdown
    assert reading.content.markdown.endswith("Licence: <https://open.example/4>")


def test_an_abstract_that_is_only_declared_stands_first() -> None:
    head = '<meta name="citation_title" content="A page of the mill"><meta name="citation_abstract" content="In short: elm.">'
    reading = reading_of(f"<h1>A page of the mill</h1><p>{WORDS}</p>", head)
    assert reading.content.markdown.startswith("## Abstract\n\nIn short: elm.\n\nThe paddles")


def test_a_recipe_has_its_parts() -> None:
    steps = [{"@type": "HowToStep", "text": "Mix."}, {"@type": "HowToStep", "text": "Bake for an hour."}]
    reading = reading_of(
        f"<p>{WORDS}</p>", item=ld("Recipe", recipeIngredient=["500 g flour"], recipeInstructions=steps)
    )
    assert "## Ingredients\n\n- 500 g flour\n\n## Method\n\n1. Mix.\n2. Bake for an hour." in reading.content.markdown


KINDS = [
    ('<meta name="generator" content="SomeWiki 1.2">', "reference work"),
    ('<meta property="og:video" content="/v.mp4">', "video"),
    ('<meta property="product:price:amount" content="3">', "product"),
    ('<meta property="og:audio" content="/a.mp3">', "podcast episode"),
    ('<meta name="author" content="Ada Penhallow"><meta name="date" content="2024-05-06">', "article"),
    ("", ""),
]


@pytest.mark.parametrize(("head", "kind"), KINDS)
def test_a_kind_that_is_not_declared_is_derived(head: str, kind: str) -> None:
    reading = reading_of(f"<h1>A page of the mill</h1><p>{WORDS}</p><p>{WORDS}</p><p>{WORDS}</p>", head)
    assert reading.best("kind") == kind


def test_pictures_have_sizes_and_captions() -> None:
    body = f"""<p>{WORDS}</p><figure><img src="/a.png" width="640" height="480px" alt="A gate"><figcaption>The gate</figcaption>
      </figure><div><img data-src="/b.png" style="width: 50px"><p class="wp-caption-text">A pin</p></div>
      <img src="/dot.png" width="16" height="16"><img src="data:x">"""
    first, second = reading_of(body).pictures
    assert (first.address, first.width, first.height) == ("https://mills.example/a.png", 640, 480)
    assert (first.caption, first.alternative) == ("The gate", "A gate")
    assert (second.address, second.width, second.caption) == ("https://mills.example/b.png", 50, "A pin")
