"""What a right click in the live page offers: what can be done with what stands there, and nothing that leaves the slip."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QPoint
from PyQt6.QtWebEngineCore import QWebEngineContextMenuRequest
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.style.mark_looks import LOOKS

LONGEST_SHOWN = 40


@dataclass(frozen=True)
class PageActs:
    """What the menu can have done.

    Attributes:
        mark: what is chosen is marked, as a kind; mark_picture: the picture at a point.
        take: a value is put into a field (key, text).
        fields: (key, label) of the slip's fields; picture_fields: of those that take a picture, the lead picture's first.
        open, open_outside: an address is opened here, or in the system's browser.
        others: commands of the page: (name, what it does).
    """

    mark: Callable[[str], None]
    mark_picture: Callable[[str, QPoint], None]
    take: Callable[[str, str], None]
    fields: Callable[[], Sequence[tuple[str, str]]]
    picture_fields: Callable[[], Sequence[tuple[str, str]]]
    open: Callable[[str], None]
    open_outside: Callable[[str], None]
    others: Sequence[tuple[str, Callable[[], object]]]


def page_menu(request: QWebEngineContextMenuRequest, acts: PageActs, parent: QWidget) -> QMenu:
    """The menu for what stands at a point of the page."""
    menu = QMenu(parent)
    words = request.selectedText().strip()
    link = request.linkUrl().toString()
    is_picture = request.mediaType() == QWebEngineContextMenuRequest.MediaType.MediaTypeImage
    picture = request.mediaUrl().toString() if is_picture else ""
    if words:
        for kind in LOOKS.names:
            add_choice(menu, f"Mark as {kind}", partial(acts.mark, kind))
        add_fields(menu, f"Take “{shortened(words)}” as", words, acts.fields(), acts.take)
        add_choice(menu, "Copy", partial(copy, words))
        menu.addSeparator()
    if picture:
        for kind in LOOKS.names:
            add_choice(menu, f"Mark this picture as {kind}", partial(acts.mark_picture, kind, request.position()))
        for key, label in acts.picture_fields():
            add_choice(menu, f"Take this picture as {label}", partial(acts.take, key, picture))
        add_choice(menu, "Copy the picture’s address", partial(copy, picture))
        menu.addSeparator()
    if link:
        add_fields(menu, "Take this link as", link, acts.fields(), acts.take)
        add_choice(menu, "Open the link here", partial(acts.open, link))
        add_choice(menu, "Open the link in the browser", partial(acts.open_outside, link))
        add_choice(menu, "Copy the link’s address", partial(copy, link))
        menu.addSeparator()
    for name, do in acts.others:
        add_choice(menu, name, do)
    return menu


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
