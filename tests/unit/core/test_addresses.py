"""Addresses: what people type, how a page is known again, what is local."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.errors import UserError
from wily_magpie.core.network.reach import is_local
from wily_magpie.core.pages.address import canonical, from_typed, host_of, looks_like_address
from wily_magpie.core.pages.page import Page
from wily_magpie.core.pages.read import honest_canonical, read_page

SAME = [
    ("https://www.Mills.example/a/", "http://mills.example/a"),
    ("https://mills.example/a?utm_source=x&b=2&a=1#top", "https://mills.example/a?a=1&b=2"),
    ("https://m.mills.example/a?fbclid=1", "https://mills.example/a"),
    ("https://mills.example/index.html", "https://mills.example"),
    ("https://mills.example/a%20b", "https://mills.example/a b"),
    ("https://mills.example:443/a", "https://mills.example/a"),
    ("https://mills.example/a/amp", "https://mills.example/a/"),
]
OTHER = [
    ("https://mills.example/a?id=1", "https://mills.example/a?id=2"),
    ("https://mills.example/#/one", "https://mills.example/#/two"),
    ("https://mills.example/A", "https://mills.example/a"),
    ("https://mills.example:8080/a", "https://mills.example/a"),
    ("https://m.example/a", "https://mills.example/a"),
]


@pytest.mark.parametrize(("one", "other"), SAME)
def test_the_same_page_looks_the_same(one: str, other: str) -> None:
    assert canonical(one) == canonical(other)


@pytest.mark.parametrize(("one", "other"), OTHER)
def test_another_page_looks_different(one: str, other: str) -> None:
    assert canonical(one) != canonical(other)


@given(
    st.text(max_size=60) | st.text(alphabet="htps:/.example[]@?#&=%", max_size=40).map(lambda rest: "http://" + rest)
)
def test_canonical_never_fails(text: str) -> None:
    assert isinstance(canonical(text), str)
    assert isinstance(host_of(text), str)
    assert looks_like_address(text) in (True, False)


@pytest.mark.parametrize(
    ("typed", "address"),
    [
        ("  mills.example/a ", "http://mills.example/a"),
        ("tide-mills.org", "https://tide-mills.org/"),
        ("HTTPS://Tide-Mills.org/A", "https://tide-mills.org/A"),
        ("localhost:8000/x", "http://localhost:8000/x"),
    ],
)
def test_what_is_typed_becomes_an_address(typed: str, address: str) -> None:
    assert looks_like_address(typed)
    assert from_typed(typed) == address


@pytest.mark.parametrize(
    "typed", ["tide mills", "ftp://mills.example", "http://", "javascript:alert(1)", "http://a b/", ""]
)
def test_what_is_none_is_said(typed: str) -> None:
    with pytest.raises(UserError, match="not an address of the web"):
        from_typed(typed)


@pytest.mark.parametrize("typed", ["tide mills", "mill", "status=read", "e.g. this"])
def test_words_are_no_address(typed: str) -> None:
    assert not looks_like_address(typed)


@pytest.mark.parametrize(
    "host",
    ["localhost", "printer.local", "127.0.0.1", "10.1.2.3", "192.168.0.1", "169.254.1.1", "[::1]", "fe80::1", "0x7f000001",
     "2130706433", "127.1", "db.internal", "::ffff:10.0.0.1", "0.0.0.0"],
)  # fmt: skip
def test_local_hosts_are_known(host: str) -> None:
    assert is_local(host)


@pytest.mark.parametrize("host", ["mills.example", "8.8.8.8", "2606:4700::1111", "localhosts.org"])
def test_other_hosts_are_not_local(host: str) -> None:
    assert not is_local(host)


@pytest.mark.parametrize(
    ("told", "known"),
    [
        ("https://mills.example/real", "mills.example/real"),
        ("https://mills.example/", "mills.example/a"),
        ("https://elsewhere.example/a", "mills.example/a"),
        ("", "mills.example/a"),
    ],
)
def test_a_declared_address_is_believed_where_it_can_be_true(told: str, known: str) -> None:
    assert honest_canonical("https://mills.example/a?x=1", told).startswith(known)


def test_a_pages_own_canonical_link_counts() -> None:
    html = '<link rel="canonical" href="/real"><title>x</title><p>Some text of the page.</p>'
    assert read_page(Page("https://mills.example/a?session=9", html, "file")).canonical == "mills.example/real"
