"""The live page: loads an address, tells when it is quiet, and gives its HTML as rendered."""

import json
import re
from collections.abc import Callable, Sequence
from functools import cache
from importlib import resources
from typing import Any
from urllib.parse import urlsplit

from PyQt6 import sip
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QPoint, Qt, QUrl, pyqtSignal
from PyQt6.QtWebEngineCore import QWebEngineLoadingInfo, QWebEngineScript
from PyQt6.QtWebEngineWidgets import QWebEngineView
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures
from wily_magpie.core.pages.page import LARGEST_PAGE_BYTES, Page
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.web.engine import open_gate
from wily_magpie.qt.web.failures import failure_of
from wily_magpie.qt.web.guarded import make_page, make_profile, origin_of
from wily_magpie.qt.web.renderer import RendererWatch

OUR_WORLD = QWebEngineScript.ScriptWorldId.ApplicationWorld
POLL_MS = 120
IDLE_MS = 450
LONGEST_WAIT_MS = 8_000
WATCHED_MS, OFTEN_MS, SELDOM_MS = 60_000, 12_000, 1_000
"""How long a page that was read is watched for text that comes late: often at first, then every second."""
SILENCE_MS = 15_000
LONGEST_LOAD_MS = 12_000
"""A page that was not read by then is read as it stands, and stopped."""
ANSWER_MS, HANG_MS = 15_000, 3_000
"""A page that tells nothing for so long, asked for its text, hangs."""
NEXT_MS = 1_000
"""A page that was ended for the next one is waited for no longer than this."""
LEAST_TEXT, LONGEST_LOOK = 40, 200_000
"""A page that was stopped with fewer letters than that has told nothing."""
CUT_SHORT = "This page never finished loading; it was stopped, and the slip filled from what was there."
AS_IT_STANDS = """(() => {
  const root = Object.getOwnPropertyDescriptor(Document.prototype, "documentElement").get.call(document);
  return Object.getOwnPropertyDescriptor(Element.prototype, "outerHTML").get.call(root);
})()"""
ASK = "Object.prototype.hasOwnProperty.call(window, 'magpieQuiet') ? magpieQuiet() : ''"


@cache
def script(name: str) -> str:
    """One of the scripts that come along, as text."""
    return (resources.files("wily_magpie.qt.web") / name).read_text("utf-8")


def unheard(_answer: object) -> None:
    """For scripts whose answer nobody wants: without a callback PyQt calls None where a page is closed meanwhile."""


class PageView(QWidget):
    """One live page.

    Signals:
        began: a load began (the address).
        moved: progress in per cent.
        arrived: the page is quiet, or became another one after it was quiet (the page).
        failed: a PageFailure.
        offered: what was loaded is a file rather than a page (its address, its media type).
        moved_on: the address or the history changed.
        menu_asked: a right click in the page: what stands there, and where on the screen.
    """

    began = pyqtSignal(str)
    moved = pyqtSignal(int)
    arrived = pyqtSignal(object)
    failed = pyqtSignal(object)
    offered = pyqtSignal(str, str)
    moved_on = pyqtSignal()
    menu_asked = pyqtSignal(object, object)

    def __init__(self, proxy_for: Callable[[str], str | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.gate = open_gate()
        self.gate.proxy_for = proxy_for
        self.asked = ""
        self.is_loading = False
        self.is_closed = False
        self.read_length = -1
        self.waited_ms = 0
        self.silence_ms, self.longest_load_ms, self.answer_ms = SILENCE_MS, LONGEST_LOAD_MS, ANSWER_MS
        self.notice = ""
        self.before = ""
        self.renderer = RendererWatch()
        self.view = QWebEngineView(self)
        self.profile, self.interceptor = make_profile(self, self._on_download)
        self.page = make_page(self.profile, self.view, self.gate.password)
        self.watcher = script("quiet.js")
        self.page.scripts().insert(self.quiet_script())
        self.page.went = self.go_to
        self.view.setPage(self.page)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._on_menu)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.view)
        self.setFocusProxy(self.view)
        self.page.loadingChanged.connect(self._on_loading_changed)
        self.page.loadProgress.connect(self._on_progress)
        self.page.urlChanged.connect(lambda _url: self.moved_on.emit())
        self.page.renderProcessTerminated.connect(lambda *_: self._on_crash())
        self.page.renderProcessPidChanged.connect(self.renderer.look_at)
        self.poll = timer(self, self._on_poll, POLL_MS)
        self.silence = timer(self, self.cut_short)
        self.bound = timer(self, self.cut_short)
        self.next = timer(self, self.load_asked)
        self.answer = timer(self, lambda: self.renderer.end("It hangs: it did not tell its text, and was ended."))

    def quiet_script(self) -> QWebEngineScript:
        """The watcher, as a script of our own world."""
        made = QWebEngineScript()
        made.setName("quiet")
        made.setSourceCode(self.watcher)
        made.setInjectionPoint(QWebEngineScript.InjectionPoint.DocumentReady)
        made.setWorldId(OUR_WORLD)
        return made

    def close_page(self) -> None:
        """Takes the engine down in the order that it wants: page, then profile."""
        self.is_closed = True  # the engine still calls back with what was asked of the page
        self.stop_timers()
        self.next.stop()
        self.renderer.close()
        if not sip.isdeleted(self.view):
            sip.delete(self.view)
        if not sip.isdeleted(self.profile):
            sip.delete(self.profile)

    @property
    def address(self) -> str:
        """Where the page is now."""
        return self.page.url().toString() or self.asked

    def load(self, address: str, *, is_typed: bool = True) -> None:
        """Loads an address that the person asked for; a page that may hang is ended before.

        Args:
            is_typed: whether the person wrote it; only then it may be of this machine or the local network.
        """
        self.asked, self.is_asked_typed = address, is_typed
        if (self.is_loading or self.answer.isActive()) and self.renderer.pid:
            self.next.start(NEXT_MS)
            self.renderer.end("")
            return
        self.bound.stop()
        if is_typed:
            self.interceptor.asked.add(origin_of(QUrl(address)))
        self.go_to(QUrl(address))
        self.is_loading = True
        self.silence.start(self.silence_ms)
        self.page.load(QUrl(address))

    def load_asked(self) -> None:
        """Loads what the person asked for last."""
        self.load(self.asked, is_typed=self.is_asked_typed)

    def go_to(self, url: QUrl) -> None:
        """The person goes to another page: the gate is open to it, where it was typed, and to nothing else of the local network."""
        self.let_go()
        is_typed = origin_of(url) in self.interceptor.asked
        self.gate.typed = {url.host().casefold()} if is_typed else set()

    def let_go(self) -> None:
        """Lets the page do what it wants, up to the bounds."""
        self.page.is_held = False
        self.gate.reasons.clear()
        self.renderer.reason = ""
        self.notice, self.before = "", self.page.url().toString()
        if not self.bound.isActive():  # a page that clicks its own links does not live longer by that
            self.bound.start(self.longest_load_ms)

    def stop_timers(self) -> None:
        """Waits for nothing any more."""
        for one in (self.poll, self.silence, self.bound, self.answer):
            one.stop()

    def reload(self) -> None:
        """Loads the page anew."""
        if self.page.url().isEmpty() or not self.page.url().scheme().startswith("http"):
            self.load_asked()
        else:
            self.bound.stop()
            self.let_go()
            self.view.reload()

    def stop(self) -> None:
        """Gives the load up; what is there already is read."""
        self.view.stop()

    def ask_marking(self, call: str, done: Callable[[dict[str, Any]], None] | None = None) -> None:
        """Has something done by the script of the marking mode; `done` is told the passage or picture that it gives.

        Args:
            call: of one of its functions, such as `block(1)`.
        """

        def told(answer: object) -> None:
            if done is not None and isinstance(answer, str) and answer and not self.is_closed:
                done(json.loads(answer))

        self.page.runJavaScript(f"{script('marking.js')}; magpieMarking.{call}", OUR_WORLD.value, told)

    def show_marks(self, marks: Sequence[tuple[Mark, str, str]]) -> None:
        """Shows marked passages and pictures in the page, where they stand there.

        Args:
            marks: each with declarations of CSS for its look, as a passage and as a picture.
        """
        looks = list(dict.fromkeys((look, outline) for _, look, outline in marks))
        told = [{**one.to_plain(), "look": looks.index((look, outline))} for one, look, outline in marks]
        given = [{"exact": "", "prefix": "", "suffix": "", "picture": "", **one} for one in told]
        passages, outlines = [look for look, _ in looks], [outline for _, outline in looks]
        call = f"({json.dumps(given)}, {json.dumps(passages)}, {json.dumps(outlines)})"
        self.page.runJavaScript(script("shown.js").rstrip().rstrip(";") + call, OUR_WORLD.value, unheard)

    def watch_marking(self, watcher: QObject) -> None:
        """Has what the person does in the page with mouse and keys told to an event filter, also after it was made anew."""
        target = self.view.focusProxy()
        if target is not None:
            target.removeEventFilter(watcher)
            target.installEventFilter(watcher)

    def picture(self) -> bytes:
        """A picture of what is visible, PNG."""
        content = QByteArray()
        buffer = QBuffer(content)
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        self.view.grab().save(buffer, "PNG")
        return bytes(content.data())

    def read_now(self) -> None:
        """Hands the page over as it stands at this moment."""
        self.read_length = -1
        self.ask_html()

    def ask_html(self) -> None:
        """Asks for the page as it stands."""
        self.answer.start(self.answer_ms)
        if self.notice:  # of a page that was stopped the engine gives an empty one
            self.page.runJavaScript(AS_IT_STANDS, OUR_WORLD.value, self._on_html)
        else:
            self.page.toHtml(self._on_html)

    def cut_short(self) -> None:
        """Stops a page that does not come to its end, and reads what is there, where it is the page that was asked for."""
        if self.read_length >= 0 or self.is_closed:
            return
        self.silence.stop()
        self.bound.stop()
        self.is_loading = False
        self.page.is_held = True
        self.view.stop()
        self.answer.start(min(self.answer_ms, HANG_MS))

        def told(address: object) -> None:
            if self.is_closed or self.renderer.reason:
                return  # that it was ended is told by itself
            self.answer.stop()
            stale = ("about:blank", self.before if self.before != self.asked else "")
            if not isinstance(address, str) or address in stale:
                self.failed.emit(failures.no_answer(urlsplit(self.asked).hostname or self.asked))
                return
            self.notice = CUT_SHORT
            self.ask_html()

        self.page.runJavaScript("location.href", OUR_WORLD.value, told)

    def _on_menu(self, at: QPoint) -> None:
        request = self.view.lastContextMenuRequest()
        if request is not None:
            self.menu_asked.emit(request, self.view.mapToGlobal(at))

    def _on_loading_changed(self, info: QWebEngineLoadingInfo) -> None:
        status = info.status()
        if status == QWebEngineLoadingInfo.LoadStatus.LoadStartedStatus:
            self.is_loading = True
            self.waited_ms, self.read_length = 0, -1
            self.poll.setInterval(POLL_MS)
            self.silence.start(self.silence_ms)
            self.poll.stop()
            self.began.emit(info.url().toString() or self.asked)
            return
        self.is_loading = False
        self.silence.stop()
        if self.page.is_held or self.renderer.reason:
            return  # it was stopped, or its process ended, which is told by itself
        if status == QWebEngineLoadingInfo.LoadStatus.LoadFailedStatus:
            failure = self.gate.why(info.url().host()) or failure_of(info, info.url().toString() or self.asked)
            if failure is not None:
                self.stop_timers()
                self.failed.emit(failure)
            return
        if status == QWebEngineLoadingInfo.LoadStatus.LoadStoppedStatus:
            self.moved.emit(100)
        self.poll.start()
        self.ask_state()

    def _on_progress(self, percent: int) -> None:
        self.renderer.look_at(self.page.renderProcessPid())
        self.moved.emit(percent)
        if self.is_loading:
            self.silence.start(self.silence_ms)

    def _on_crash(self) -> None:
        self.stop_timers()
        self.is_loading = False
        if self.next.isActive():
            self.next.stop()
            self.load_asked()
            return
        said = self.renderer.reason or "It ended by itself."
        self.failed.emit(
            PageFailure("page-crashed", f"The page has crashed. {said}", "Reload it, or keep only the address.")
        )

    def _on_download(self, address: str, media_type: str) -> None:
        self.stop_timers()
        self.is_loading = False
        self.offered.emit(address, media_type)

    def _on_poll(self) -> None:
        self.waited_ms += self.poll.interval()
        if self.waited_ms > OFTEN_MS:
            self.poll.setInterval(SELDOM_MS)
        self.renderer.look_at(self.page.renderProcessPid())
        if self.waited_ms > WATCHED_MS:
            self.poll.stop()
        self.ask_state()

    def ask_state(self) -> None:
        """Asks how far the page is."""
        self.page.runJavaScript(ASK, OUR_WORLD.value, self._on_state)

    def _on_state(self, state: object) -> None:
        if self.is_closed or not isinstance(state, str) or self.is_loading:
            return
        if not state:
            # seen about once in ten first loads that were redirected: the engine forgets to run the script
            self.page.runJavaScript(self.watcher, OUR_WORLD.value, unheard)
            return
        told = json.loads(state)
        # what has nothing that could build it is quiet as soon as it is there
        is_quiet = told["is_ready"] and (told["is_still"] or told["idle_ms"] >= IDLE_MS)
        length = int(told["length"])
        is_new = self.read_length < 0 or abs(length - self.read_length) > 40 + self.read_length * 0.01
        if is_new and (is_quiet or (self.read_length < 0 and self.waited_ms >= LONGEST_WAIT_MS)):
            self.read_length = length
            self.ask_html()

    def _on_html(self, html: str | None) -> None:
        self.answer.stop()
        if self.is_closed or html is None:
            return
        self.bound.stop()
        if self.notice and len(re.sub(r"<[^>]*>|\s+", "", html[:LONGEST_LOOK])) < LEAST_TEXT:
            self.failed.emit(failures.no_answer(urlsplit(self.asked).hostname or self.asked))
            return
        if len(html) > LARGEST_PAGE_BYTES:
            self.failed.emit(failures.too_large(self.address, LARGEST_PAGE_BYTES))
            return
        self.arrived.emit(Page(self.address, html, "rendered", self.asked, notice=self.notice))
