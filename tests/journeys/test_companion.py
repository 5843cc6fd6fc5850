"""The companion in real browsers of both families: what a person does there ends in the library, and what a page does does not."""

import contextlib
import re
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from chromium import wait_until
from companion_browser import CHROMIUM, FIREFOX, Browser, Desk, Home, desks, start
from firefox import Firefox
from loopback import Server
from screen import Screen
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.demo.pictures import draw
from wily_magpie.demo.reading_room import HOST, LETTER, SCAN
from wily_magpie.demo.server import StandInWeb

HERON = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
PETROL = (10, 92, 107)
SECRET = "8f2c-not-for-others"
TEXT = "<p>The pond fills at the flood, and the mill stands still until the ebb has run for an hour or more.</p>" * 3


@pytest.fixture(scope="session")
def homes(tmp_path_factory: pytest.TempPathFactory, web: StandInWeb) -> Iterator[Callable[[str], tuple[Home, Browser]]]:
    """Browsers, each started when it is first needed and closed at the end."""
    there: dict[str, tuple[Home, Browser]] = {}

    def home(key: str) -> tuple[Home, Browser]:
        if key not in there:
            there[key] = start(key, tmp_path_factory.mktemp(key), web)
        return there[key]

    yield home
    for _, browser in there.values():
        browser.close()


@pytest.fixture(params=[CHROMIUM, FIREFOX])
def desk(
    request: pytest.FixtureRequest, homes: Callable[[str], tuple[Home, Browser]], tmp_path: Path, web: StandInWeb
) -> Iterator[Desk]:
    yield from desks(homes, request.param, tmp_path, web)


@pytest.fixture
def server() -> Iterator[Server]:
    made = Server()
    yield made
    made.close()


def test_a_page_is_kept_by_its_slip_and_taken_back(desk: Desk) -> None:
    desk.browser.open(HERON)
    desk.browser.in_page("getSelection().selectAllChildren(document.querySelectorAll('article p')[1])")
    slip = desk.slip()
    assert slip["title"] == "Heron Mill turns again after ninety years"
    assert slip["why"] == "Chosen since the structured type is NewsArticle."
    assert (slip["status"], slip["marks"]) == ("to read", "Marks: 1")
    desk.browser.in_slip("Object.assign(w.document.getElementById('words'), {value: 'The wheel again.'}).oninput()")
    wait_until(lambda: [one.title for one in desk.session.reader.drafts.waiting()], "the draft")
    desk.click("keep")
    desk.after("is kept in Sources")
    entry = desk.kept()
    assert (entry.value("summary"), entry.value("status")) == ("The wheel again.", "to read")
    marks = desk.session.reader.entries.marks(entry.place, entry.id)
    assert [mark.exact[:31] for mark in marks] == ["For the first time since 1934 t"]
    picture = str(entry.value("picture"))
    wait_until(lambda: desk.session.reader.entries.picture(picture), "the picture")
    assert desk.session.reader.drafts.waiting() == []
    desk.browser.in_slip(
        "[...w.document.querySelectorAll('#help button')].find((one) => one.textContent === 'Undo').click()"
    )
    desk.after("is not kept")
    assert desk.entries() == []


def test_a_page_is_kept_at_once_and_known_again(desk: Desk) -> None:
    desk.browser.open(HERON)
    at_once = "bg.keep_at_once((await api.tabs.query({active: true, lastFocusedWindow: true}))[0]).then(() => 1)"
    desk.browser.press()  # the person's act, which lets the companion see the page
    desk.shown()
    desk.browser.close_slip()
    desk.browser.in_background(at_once)
    assert desk.kept().title == "Heron Mill turns again after ninety years"
    assert "is kept in Sources" in desk.shown()["said"]
    desk.browser.close_slip()
    desk.browser.in_background(at_once)
    assert "is kept already, in Sources" in desk.shown()["said"]
    assert len(desk.entries()) == 1
    desk.browser.close_slip()
    assert "Kept already on" in desk.slip()["told"]


def test_a_signed_in_page_comes_with_its_pictures_and_without_its_secrets(desk: Desk, web: StandInWeb) -> None:
    desk.browser.open(f"http://{HOST}/sign-in?reader=Ada&word=ebb")
    desk.browser.in_page("document.querySelector('[name=note]').value = 'Ask about March'")
    asked = len(web.log)
    slip = desk.slip()
    assert slip["title"] == "Nathaniel Pell to his daughter, 1931", slip
    desk.click("keep")
    entry = desk.kept()
    assert "count the herons" in (entry.body or "")
    picture = wait_until(lambda: desk.session.reader.entries.picture(f"http://{HOST}{SCAN}"), "the picture")
    assert picture == draw("pell-letter.svg")
    page = desk.session.reader.templates.kept_page(entry, f"{HOST}{LETTER}")
    assert page
    assert SECRET not in page.html
    assert "Ask about March" not in page.html, "what a person typed stays in the page"
    assert ("GET", f"http://{HOST}{LETTER}") not in web.log[asked:], "nothing of it is fetched again"


def test_marks_are_made_in_the_page_and_seen_again(desk: Desk) -> None:
    browser = desk.browser
    browser.open(HERON)
    mark = "bg.mark_in_page((await api.tabs.query({active: true, lastFocusedWindow: true}))[0])"
    choose = "getSelection().selectAllChildren(document.querySelectorAll('article p')[{}])"
    browser.press()
    desk.shown()
    browser.close_slip()
    browser.in_page(choose.format(2))
    browser.in_background(mark)
    wait_until(lambda: browser.in_page("[...CSS.highlights.values()].some((one) => one.size == 1)"), "the mark")
    before = browser.in_page("document.documentElement.outerHTML.length")
    assert desk.slip()["marks"] == "Marks: 1"
    desk.click("keep")
    entry = desk.kept()
    browser.close_slip()
    browser.in_page(choose.format(3))
    browser.in_background(mark)
    entries = desk.session.reader.entries
    wait_until(lambda: len(entries.marks(entry.place, entry.id)) == 2, "the second mark in the entry")
    assert browser.in_page("document.documentElement.outerHTML.length") == before, "nothing of the page is changed"
    browser.visit(HERON)
    browser.press()
    desk.shown()
    browser.close_slip()
    browser.in_background(mark)  # with nothing chosen: the marking mode, which shows what there is
    wait_until(lambda: browser.in_page("[...CSS.highlights.values()].some((one) => one.size == 2)"), "both marks")


def test_marks_are_shown_by_themselves_on_sites_that_were_allowed(desk: Desk) -> None:
    browser = desk.browser
    if not isinstance(browser, Firefox):
        pytest.skip("its question, whether a site is allowed, is answered on a screen: see test_real_keys_and_clicks")
    browser.open(HERON)
    browser.in_page("getSelection().selectAllChildren(document.querySelectorAll('article p')[2])")
    desk.slip()
    desk.click("keep")
    desk.kept()
    browser.close_slip()
    browser.by_click("browser.permissions.request({origins: ['http://estuary-courier.example/*']})")
    shows_its_marks_by_itself(browser)


def shows_its_marks_by_itself(browser: Browser) -> None:
    """The mark of a page is there again when the page is, until the site is taken back."""
    count = "(await api.scripting.getRegisteredContentScripts()).length"
    wait_until(lambda: browser.in_background(f"{count} == 1"), "what shows it")
    browser.visit(HERON)
    wait_until(lambda: browser.in_page("[...CSS.highlights.values()].some((one) => one.size == 1)"), "the mark")
    text_of = (
        "await api.action.getBadgeText({tabId: (await api.tabs.query({active: true, lastFocusedWindow: true}))[0].id})"
    )
    wait_until(lambda: browser.in_background(text_of) == "✓", "the badge")
    browser.in_background("await api.permissions.remove({origins: ['http://estuary-courier.example/*']})")
    wait_until(lambda: browser.in_background(f"{count} == 0"), "its end")


SHADOWS = """<!doctype html><title>Gauges</title><article><h1>Gauges</h1><gauge-card><b slot="name">Saltern</b></gauge-card><shut-card></shut-card>
TEXT<form id="f"><input name="localName"><input name="shadowRoot"><input type="password" id="p">
<input autocomplete="billing cc-number" value="secret-1"><input autocomplete="section-a current-password" value="secret-2" type="text">
<input type="hidden" value="secret-3"><template><input type="hidden" value="secret-4"></template><noscript><input type="hidden" value="secret-5"></noscript>
<textarea>secret-6</textarea><input id="typed"><iframe srcdoc="<input type=hidden value=secret-7>" hidden></iframe>
<input readonly value="https://gauges.example/cite"><input readonly autocomplete="cc-number" value="secret-8"></form></article><script>
const put = (name, mode, html) => customElements.define(name, class extends HTMLElement {
  constructor() { super(); this.attachShadow({mode}).innerHTML = html; } });
put("gauge-card", "open", "<h2>Gauge of <slot name=name></slot></h2><p>The float has stood here since the winter of 1904, and is read twice a day.</p>");
put("shut-card", "closed", "<p>What is told here is told in a closed root, as many boxes on the web are by now.</p>");
document.getElementById("p").value = "sesame";
document.getElementById("typed").value = "secret-9";
</script>""".replace("TEXT", TEXT)


def test_what_only_the_browser_sees_comes_along(desk: Desk, server: Server) -> None:
    server.answers["/gauges"] = (200, {}, SHADOWS.encode())
    desk.browser.open(f"{server.address}/gauges")
    slip = desk.slip()
    assert slip["title"] == "Gauges", slip
    desk.click("keep")
    entry = desk.kept()
    body = entry.body or ""
    assert "Gauge of **Saltern**" in body
    assert "since the winter of 1904" in body
    assert "in a closed root" in body
    page = desk.session.reader.templates.kept_page(entry, "")
    assert page
    assert "sesame" not in page.html
    assert re.findall(r"secret-\d", page.html) == [], "no value that somebody typed or the site hid comes along"
    assert "https://gauges.example/cite" in page.html


def test_a_page_of_five_megabytes(desk: Desk, server: Server) -> None:
    said = "the gauge stood there, and the wind was light from the sea; " * 12
    rows = "".join(f"<p>Row {number}: {said}</p>" for number in range(7_000))
    server.answers["/long"] = (
        200,
        {},
        f"<!doctype html><title>Long</title><article><h1>Long</h1>{rows}</article>".encode(),
    )
    assert len(rows) > 5_000_000
    desk.browser.open(f"{server.address}/long")
    assert desk.slip()["title"] == "Long"
    desk.click("keep")
    assert "Row 61: the gauge" in (desk.kept().body or "")


TALKS = """<!doctype html><title>Bait</title><article><h1>Bait</h1>TEXT</article><script>
window.tried = (async () => {
  const out = [], api = globalThis.browser ?? globalThis.chrome, message = {what: "keep", tab: 1, message: {capture: "a", hand: {}, as: "new"}};
  out.push(typeof api?.runtime?.sendNativeMessage, typeof api?.runtime?.connectNative);
  for (const id of ["CHROMIUM", "FIREFOX"]) {
    try { await api.runtime.sendMessage(id, message); out.push("answered"); } catch { out.push("refused"); }
    try { out.push((await fetch(`chrome-extension://${id}/slip.html`)).ok); } catch { out.push("no page"); }
  }
  postMessage(message, "*");
  for (const key of ["1", "Enter"]) dispatchEvent(new KeyboardEvent("keydown", {key, bubbles: true}));
  document.body.dispatchEvent(new MouseEvent("mouseup", {bubbles: true, button: 0, clientX: 60, clientY: 60}));
  dispatchEvent(new KeyboardEvent("keydown", {key: "K", altKey: true, shiftKey: true, bubbles: true}));
  return out;
})();
</script>""".replace("TEXT", TEXT)


def test_a_page_cannot_talk_to_the_program(desk: Desk, server: Server) -> None:
    heard: list[object] = []
    answer = desk.desk.answer
    desk.close_door()

    def listening(message: object) -> dict[str, Any]:
        heard.append(message)
        return answer(message)

    desk.desk.answer = listening  # type: ignore[method-assign]
    desk.open_door()
    server.answers["/bait"] = (200, {}, TALKS.encode())
    desk.browser.open(f"{server.address}/bait")
    told = desk.browser.in_page("window.tried")
    assert "answered" not in told
    assert True not in told
    assert "function" not in told
    assert heard == []
    assert desk.entries() == []


def test_without_a_window_the_host_keeps_the_page_itself(desk: Desk, fetcher: Fetcher) -> None:
    desk.close_door()
    desk.browser.open(HERON)
    slip = desk.slip()
    assert slip["title"] == "Heron Mill turns again after ninety years"
    assert "Library: books." in slip["why"]
    desk.click("keep")
    assert "(books)" in desk.after("is kept in Sources")
    alone = Session(desk.home.library, fetcher)
    assert desk.entries(alone)[-1].title == "Heron Mill turns again after ninety years"
    for entry in desk.entries(alone):
        alone._library.place("Sources").remove([entry.id])
    alone.close()
    assert desk.entries() == []


def test_a_program_that_goes_in_the_middle_is_handed_the_page_again(desk: Desk, fetcher: Fetcher) -> None:
    desk.browser.open(HERON)
    desk.slip()
    desk.browser.in_slip("Object.assign(w.document.getElementById('title'), {value: 'My title'}).oninput()")
    wait_until(desk.session.reader.drafts.waiting, "the draft")
    desk.close_door()  # the window is gone, and with it all that it was handed
    desk.desk.pages.clear()
    desk.open_door()
    desk.click("keep")
    desk.after("is kept in Sources")
    assert desk.kept().title == "My title"


def test_a_host_that_is_killed_is_started_again(desk: Desk, fetcher: Fetcher) -> None:
    desk.close_door()
    desk.browser.open(HERON)
    desk.slip()
    desk.home.end_hosts()
    desk.click("keep")
    desk.after("is kept in Sources")
    alone = Session(desk.home.library, fetcher)
    assert [one.title for one in desk.entries(alone)] == ["Heron Mill turns again after ninety years"]
    alone._library.place("Sources").remove([desk.entries(alone)[0].id])
    alone.close()


def test_a_browser_that_was_not_told_of_the_program_says_what_to_do(desk: Desk) -> None:
    told = desk.home.manifest(CHROMIUM if desk.browser.name == "Chromium" else FIREFOX)
    kept = told.read_text()
    told.unlink()
    desk.home.end_hosts()  # one may have been started since the desk was set up, by what was shown before
    try:
        desk.browser.open(HERON)
        desk.close_door()
        assert "wily-magpie companion install" in desk.slip()["said"]
    finally:
        told.write_text(kept)


@pytest.mark.parametrize("key", [CHROMIUM, FIREFOX])
def test_real_keys_and_clicks(
    key: str, tmp_path: Path, tmp_path_factory: pytest.TempPathFactory, web: StandInWeb, fetcher: Fetcher
) -> None:
    """The button, the key and the menu of the mouse, under a screen of its own."""
    if not all(map(shutil.which, ("Xvfb", "openbox", "xdotool"))):
        pytest.skip("there is no Xvfb, openbox or xdotool here")
    with Screen() as screen:
        home, browser = start(
            key, tmp_path_factory.mktemp("real"), web, is_headless=False, environment={"DISPLAY": screen.display}
        )
        desk = Desk(home, browser, tmp_path, fetcher)
        home.end_hosts()
        desk.open_door()
        try:
            browser.open(HERON)
            screen.click_until(
                lambda: screen.find(PETROL, (0, 0, 1100, 180)), browser.has_slip
            )  # the button, by its colour
            assert desk.shown()["title"]
            screen.click(screen.find(PETROL, (0, 300, 1100, 900), 600))  # Keep
            desk.after("is kept in Sources")
            browser.close_slip()
            browser.visit("http://estuarine-lexicon.example/tide-mill")
            screen.press_until((500, 500), "alt+shift+k", lambda: len(desk.entries()) == 2)
            desk.after("is kept in Sources")
            browser.close_slip()
            browser.visit("http://slow-letters.example/essays/the-mill-at-night")
            screen.click(screen.menu_line((300, 650), PETROL))  # the companion's line of the menu, by its picture
            assert desk.shown()["title"]
            desk.click("later")
            desk.after("is kept in Sources")
            browser.close_slip()
            browser.visit("http://estuarine-lexicon.example/tide-mill")
            screen.press_until((500, 500), "alt+shift+u", browser.has_slip)
            browser.close_slip()
            if key == CHROMIUM:
                allow_site(screen, desk)
                shows_its_marks_by_itself(browser)
        finally:
            browser.close()
            desk.close()


def at_rest(ask: Callable[[], list[float]]) -> list[float]:
    """Where something is, once that stays the same: a slip that fills itself moves what it holds."""
    seen: list[list[float]] = []

    def is_same() -> bool:
        seen.append(ask())
        return len(seen) > 3 and seen[-1] == seen[-4]

    wait_until(is_same, "a place of its own")
    return seen[-1]


def allow_site(screen: Screen, desk: Desk) -> None:
    """Marks a passage, and answers the browser's question whether marks may be shown at each visit: the question closes the slip."""
    browser = desk.browser
    browser.open(HERON)
    browser.in_page("getSelection().selectAllChildren(document.querySelectorAll('article p')[2])")
    desk.slip()
    desk.click("keep")  # adds it to the entry that is there
    desk.after("Sources")
    browser.close_slip()
    desk.slip()
    where = at_rest(
        lambda: browser.in_slip(
            "(() => { const one = w.document.getElementById('always'); one.scrollIntoView();"
            " const box = one.getBoundingClientRect();"
            " return [w.screenX + box.x + box.width / 2, w.screenY + box.y + box.height / 2]; })()"
        )
    )
    is_allowed = "(await api.permissions.getAll()).origins.length == 1"
    screen.click((round(where[0]), round(where[1])))
    for _ in range(40):  # until its question is there
        screen.do("key", "Tab", "Return")
        with contextlib.suppress(AssertionError):
            wait_until(
                lambda: browser.in_background(is_allowed), "the permission", 0.5
            )  # a key came before it was there
            return
    raise AssertionError("the question was not answered")
