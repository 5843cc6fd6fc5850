"""HTML as Markdown: the cases, and that what is written is read again by a CommonMark parser."""

import html
import re
from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st
from markdown_it import MarkdownIt

from wily_magpie.core.pages.markdown import to_markdown
from wily_magpie.core.pages.tree import parse, parse_exactly

CASES = yaml.safe_load((Path(__file__).parents[2] / "cases" / "markdown.yaml").read_text("utf-8"))
READER = MarkdownIt("commonmark").enable(["table", "strikethrough"])


def convert(source: str, address: str = "") -> str:
    root = parse(source) if address else parse_exactly(source)
    body = root.find("body")
    return to_markdown(root if body is None else body, address, is_exact=not address)


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["html"][:50])
def test_says_the_same(case: dict[str, str]) -> None:
    assert convert(case["html"]) == case["markdown"]


def test_addresses_become_absolute_where_the_pages_own_is_known() -> None:
    text = convert(
        '<p><a href="b?c=1">x</a> <a href="#note">y</a> <img src="../p.png" alt=""></p>', "https://mills.example/d/e"
    )
    assert text == "[x](https://mills.example/d/b?c=1) y ![](https://mills.example/p.png)"


def words_of(rendered: str) -> str:
    """The text of rendered HTML, with its white space as a browser shows it."""
    text = re.sub(r"<br ?/?>", "\n", rendered)
    return " ".join(html.unescape(re.sub(r"<[^>]+>", "", text)).split())


TEXT = st.text(alphabet="ab1 .:!?-+*_~`#>|\\[]()<&;\"'/=\n", max_size=24) | st.text(max_size=20)


@given(st.lists(TEXT, min_size=1, max_size=3))
def test_any_text_comes_back_as_it_was(lines: list[str]) -> None:
    lines = [re.sub("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\u200b\ufeff]", "", line) for line in lines]
    source = "".join(f"<p>{html.escape(line)}</p>" for line in lines)
    wanted = words_of(source.replace("</p>", "\n"))
    assert words_of(READER.render(convert(source))) == wanted


MARKED = st.recursive(
    TEXT.map(html.escape),
    lambda inner: st.lists(
        inner
        | st.tuples(st.sampled_from(["b", "i", "s", "code"]), inner).map(
            lambda pair: f"<{pair[0]}>{pair[1]}</{pair[0]}>"
        ),
        max_size=3,
    ).map("".join),
    max_leaves=6,
)


@given(MARKED)
def test_emphasis_never_leaves_its_marks_in_the_text(inner: str) -> None:
    rendered = READER.render(convert(f"<p>{inner}</p>"))
    plain = re.sub(r"<[^>]+>", "", inner)
    letters = re.sub(r"[^a-z0-9]", "", html.unescape(plain))
    assert re.sub(r"[^a-z0-9]", "", words_of(rendered)) == letters
    if not set(html.unescape(plain)) & set("*_~`"):
        assert not set(words_of(rendered)) & set("*_~`")


@given(st.text(alphabet="<>/=\"' abdefilnpqrtu123-", max_size=80))
def test_any_html_gives_some_markdown(source: str) -> None:
    assert isinstance(convert(source, "https://mills.example/"), str)
