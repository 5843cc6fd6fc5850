"""What a right click in the live page offers: what can be done with what stands there, and nothing that leaves the slip."""

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication, QMenu, QToolButton

from wily_magpie.core.pages.address import host_of
from wily_magpie.core.templates.slip import CHOSEN_BY_YOU
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.capture.marking import Marking
from wily_magpie.qt.stations.capture.shots import Shots
from wily_magpie.qt.stations.capture.signing import Signing
from wily_magpie.qt.stations.capture.slip_card import SlipCard
from wily_magpie.qt.style.mark_looks import LOOKS

if TYPE_CHECKING:
    from PyQt6.QtWebEngineCore import QWebEngineContextMenuRequest

    from wily_magpie.qt.web.page_view import PageView

LONGEST_SHOWN = 40


class AroundPage(Protocol):
    """What the menu reaches the rest of the station by."""

    desk: StationContext
    view: "PageView | None"
    card: SlipCard
    marking: Marking
    signing: Signing
    shots: Shots
    back: QToolButton
    reload: QToolButton

    @property
    def address(self) -> str:
        """The address of the page."""

    def open(self, typed: str) -> None:
        """Loads an address."""

    def ask_reading(self) -> None:
        """Has the page read as it stands now."""


class PageMenu:
    """The menu of the live page.

    Attributes:
        shown: the one that was opened last.
    """

    def __init__(self, station: AroundPage) -> None:
        self.station = station
        self.shown: QMenu | None = None

    def open(self, request: "QWebEngineContextMenuRequest", at: QPoint) -> None:
        """Opens it for what stands at a point of the page.

        Args:
            at: on the screen.
        """
        menu = self.shown = QMenu(self.station.card)
        words = request.selectedText().strip()
        is_picture = request.mediaType() == request.MediaType.MediaTypeImage
        if words:
            self.add_words(menu, words)
        if is_picture:
            self.add_picture(menu, request.mediaUrl().toString(), request.position())
        if link := request.linkUrl().toString():
            self.add_link(menu, link)
        station = self.station
        for name, do in (
            ("Back", station.back.click),
            ("Reload", station.reload.click),
            ("Read again", station.ask_reading),
            ("Open this page in the browser", lambda: station.desk.open_outside(station.address)),
        ):
            add_choice(menu, name, do)
        inner = menu.addMenu("Keep a picture of the page")
        if inner is not None:
            add_choice(inner, "What is visible", station.shots.take_visible)
            add_choice(inner, "A part, drawn with the mouse", station.shots.take_part)
            add_choice(inner, "The whole page", station.shots.take_whole)
        host, is_kept = host_of(station.address), station.signing.is_kept(station.address)
        if host:
            name = f"Do not stay signed in on {host}" if is_kept else f"Stay signed in on {host}"
            add_choice(menu, name, lambda: station.signing.turn(station.address))
        menu.popup(at)

    def add_words(self, menu: QMenu, words: str) -> None:
        """What can be done with chosen words."""
        for kind in LOOKS.names:
            add_choice(menu, f"Mark as {kind}", partial(self.station.marking.mark_chosen, kind))
        add_fields(menu, f"Take “{shortened(words)}” as", words, self.fields(), self.take)
        add_choice(menu, "Copy", partial(copy, words))
        menu.addSeparator()

    def add_picture(self, menu: QMenu, address: str, at: QPoint) -> None:
        """What can be done with a picture."""
        for kind in LOOKS.names:
            add_choice(menu, f"Mark this picture as {kind}", partial(self.mark_picture, kind, at))
        for key, label in self.picture_fields():
            add_choice(menu, f"Take this picture as {label}", partial(self.take, key, address))
        add_choice(menu, "Copy the picture’s address", partial(copy, address))
        menu.addSeparator()

    def add_link(self, menu: QMenu, address: str) -> None:
        """What can be done with a link."""
        add_fields(menu, "Take this link as", address, self.fields(), self.take)
        add_choice(menu, "Open the link here", partial(self.station.open, address))
        add_choice(menu, "Open the link in the browser", partial(self.station.desk.open_outside, address))
        add_choice(menu, "Copy the link’s address", partial(copy, address))
        menu.addSeparator()

    def fields(self) -> list[tuple[str, str]]:
        """(key, label) of the fields that a value of the page can be put into."""
        slip = self.station.card.slip
        found = [line.field for line in slip.lines] if slip is not None else []
        return [(one.key, one.label) for one in found if not one.kind.holds_files]

    def picture_fields(self) -> list[tuple[str, str]]:
        """The same of a picture."""
        slip = self.station.card.slip
        found = [line.field for line in slip.lines] if slip is not None else []
        wanted = [one for one in found if one.key == "picture" or one.kind.holds_files]
        return [(one.key, "lead picture" if one.key == "picture" else f"a file in {one.label}") for one in wanted]

    def take(self, key: str, text: str) -> None:
        """Puts a value of the page into a field."""
        card = self.station.card
        if card.slip is not None:
            line = next(one for one in card.slip.lines if one.field.key == key)
            if line.field.kind.holds_files:  # which may be several
                text = f"{line.text} {text}".strip()
            card.fields.enter(key)
            card.fields.chosen.emit(key, text, CHOSEN_BY_YOU)

    def mark_picture(self, kind: str, at: QPoint) -> None:
        """Marks the picture at a point of the page."""
        view = self.station.view
        if view is not None:
            zoom = view.view.zoomFactor()
            call = f"picture_at({round(at.x() / zoom)}, {round(at.y() / zoom)})"
            view.ask_marking(call, lambda told: self.station.marking.add(kind, told))


def add_fields(
    menu: QMenu, title: str, value: str, fields: Sequence[tuple[str, str]], take: Callable[[str, str], None]
) -> None:
    """A part of the menu with all fields."""
    inner = menu.addMenu(title.replace("&", "&&"))
    for key, label in fields if inner is not None else ():
        add_choice(inner, label, partial(take, key, value))  # type: ignore[arg-type]


def shortened(text: str) -> str:
    """A text that fits into a menu."""
    plain = " ".join(text.split())
    return plain if len(plain) <= LONGEST_SHOWN else f"{plain[: LONGEST_SHOWN - 1]}…"


def copy(text: str) -> None:
    """Puts a text on the clipboard."""
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)
