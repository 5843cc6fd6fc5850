"""Pages that no honest site has: what they have too much of is left out, said, and the rest is read."""

import pytest

from wily_magpie.core.pages import pictures, tree
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.markdown import to_markdown
from wily_magpie.core.pages.page import Page

TOO_MUCH = {
    "tags": "<p>Beginning.</p>" + "<b>x</b>" * 200_000,
    "breaks": "<p>Beginning." + "<br>" * 600_000,
    "signs": "<p>Beginning." + "<" * 3_000_000,
    "attributes": "<p>Beginning.</p><p " + " ".join(f"a{n}=1" for n in range(60_000)) + ">End.</p>",
}


@pytest.mark.parametrize("name", TOO_MUCH)
def test_what_is_too_much_is_left_out(name: str) -> None:
    cut = tree.bounded(TOO_MUCH[name])
    assert cut.count("<") <= tree.MOST_TAGS
    assert len(cut) < len(TOO_MUCH[name])
    assert "Beginning." in tree.parse(TOO_MUCH[name]).text_content()


def test_a_tag_with_too_many_attributes_stays_without_them() -> None:
    assert "End." in tree.parse(TOO_MUCH["attributes"]).text_content()


def test_an_honest_page_stays_as_it_is() -> None:
    page = "<p>Text</p>" * 5_000 + f'<img src="data:image/png;base64,{"A" * 200_000}==">'
    assert tree.bounded(page) == page


def test_it_is_said_that_a_page_was_cut() -> None:
    body = "<title>Long</title><h1>Long</h1>" + "<p>A paragraph of some words.</p>" * 2000 + "<i></i>" * 250_000
    reading = read_page(Page("https://mills.example/long", body, "fetched"))
    assert reading.notice
    assert reading.best("title") == "Long"


@pytest.mark.parametrize("sign", ["[", "*", "`", "_", "<", "\\", "~", "!["])
def test_signs_without_end_are_escaped_in_one_go(sign: str) -> None:
    text = sign * 150_000
    escaped = text.replace("<", "&lt;")
    markdown = to_markdown(tree.parse(f"<p>a{escaped}</p>"), "", is_exact=False)
    assert markdown.replace("\\", "").count(sign[0]) in (150_000, 0) or sign == "\\"


def test_pictures_of_a_text_of_millions_of_lines_are_found_without_parsing_it(monkeypatch: pytest.MonkeyPatch) -> None:
    parsed: list[int] = []
    parse = pictures.parser().parse

    def counted(text: str) -> object:
        parsed.append(len(text))
        return parse(text)

    monkeypatch.setattr(pictures.parser(), "parse", counted)
    text = "x\n" * 1_000_000
    assert pictures.addresses_in(text) == []
    text += "\n![A mill](http://mills.example/a.png)\n\n```\n![code](http://mills.example/b.png)\n```\n"
    assert pictures.addresses_in(text) == ["http://mills.example/a.png"]
    assert max(parsed) < 1_000
