"""Cards: a cover found by itself, the title in the reading face, a few chosen fields, the status as the rule at the edge."""

import bisect
from collections.abc import Callable, Iterable, Sequence

from PyQt6.QtCore import QBuffer, QIODevice, QRect, QSize, Qt
from PyQt6.QtGui import QFont, QImage, QPainter, QPixmap
from PyQt6.QtWidgets import QWidget

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.queries.looks import Cover
from wily_magpie.core.queries.reader import Reader
from wily_magpie.qt.pictures import decoded
from wily_magpie.qt.stations.sources.cell_painting import colour_of
from wily_magpie.qt.stations.sources.layouts.canvas import (
    HEADING_PX,
    EntryCanvas,
    paint_lines,
    reading_font,
    shown_texts,
)
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.theme import THEME

GAP_PX, MARGIN_PX, PADDING_PX = 14, 16, 10
COVER_SHAPE, COVER_LEFT_SHARE, ICON_PX = 0.56, 0.36, 32
MOST_COVERS, AT_ONCE = 4_000, 48
Ask = Callable[[Callable[[Reader], object], Callable[..., object]], None]
"""Asks off the thread and hands the answer over."""


@dataclass(frozen=True)
class Section:
    """A run of cards under one heading.

    Attributes:
        head: the row of the heading; -1 for none. first: the row of the first card. count: how many they are.
        top: where the heading begins. cards_top: where the cards begin.
    """

    head: int
    first: int
    count: int
    top: int
    cards_top: int


@dataclass(frozen=True)
class Shown:
    """A cover ready to be painted."""

    picture: QPixmap
    is_icon: bool
    words: str


def shrunk(content: bytes, size_px: int) -> bytes:
    """A picture as small as it is shown; b"" where it is none. May be called off the thread."""
    image = decoded(content, size_px, size_px)
    if image.isNull():
        return b""
    held = QBuffer()
    held.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(held, "PNG" if image.hasAlphaChannel() else "JPEG", -1 if image.hasAlphaChannel() else 88)
    return held.data().data()


class CardsView(EntryCanvas):
    """See the module.

    Args:
        ask: asks for covers.
    """

    def __init__(self, view: EntryTableView, ask: Ask, parent: QWidget | None = None) -> None:
        super().__init__(view, "Cards", parent)
        self.ask = ask
        self.sections: list[Section] = []
        self.tops: list[int] = []
        self.firsts: list[int] = []
        self.columns = 1
        self.card = QSize(220, 220)
        self.covers: dict[tuple[str, int, str, int], Shown] = {}
        self.wanted: list[int] = []
        self.is_asking = False
        self.soon = timer(self, self.fetch)

    @property
    def size_px(self) -> int:
        """How large a cover is kept: sharp at twice the usual scale, in few sizes, so that they are not made anew at every step."""
        return 320 if self.layout_now.card_px <= 240 else 640

    def show_layout(self, layout: Layout) -> None:
        width = layout.card_px
        lines = min(4, len(layout.shown_fields(self.place.fields))) if self.place is not None else 2
        text = 62 + 18 * lines
        if layout.is_cover_left:
            self.card = QSize(width, max(text, round(width * COVER_LEFT_SHARE * 1.2)))
        else:
            self.card = QSize(width, round(width * COVER_SHAPE) + text)
        super().show_layout(layout)

    def arrange(self, width: int) -> QSize:
        self.columns = max(1, (width - 2 * MARGIN_PX + GAP_PX) // (self.card.width() + GAP_PX))
        heads = self.table.heads
        runs = [(row, row + 1) for row in heads] if heads else [(-1, 0)]
        ends = [*heads[1:], self.table.rowCount()] if heads else [self.table.rowCount()]
        self.sections, top = [], MARGIN_PX
        for (head, first), end in zip(runs, ends, strict=True):
            cards_top = top + (HEADING_PX if head >= 0 else 0)
            count = end - first
            self.sections.append(Section(head, first, count, top, cards_top))
            lines = -(-count // self.columns)
            top = cards_top + lines * (self.card.height() + GAP_PX)
        self.tops = [one.top for one in self.sections]
        self.firsts = [min(one.first, one.head) if one.head >= 0 else one.first for one in self.sections]
        return QSize(0, top + MARGIN_PX)

    def section_of(self, row: int) -> Section | None:
        """The run that a row is in."""
        at = bisect.bisect_right(self.firsts, row) - 1
        return self.sections[at] if 0 <= at < len(self.sections) else None

    def rect_of(self, row: int) -> QRect:
        section = self.section_of(row)
        if section is None:
            return QRect()
        if row == section.head:
            return QRect(MARGIN_PX, section.top, self.surface.width() - 2 * MARGIN_PX, HEADING_PX)
        line, column = divmod(row - section.first, self.columns)
        left = MARGIN_PX + column * (self.card.width() + GAP_PX)
        return QRect(
            left, section.cards_top + line * (self.card.height() + GAP_PX), self.card.width(), self.card.height()
        )

    def rows_in(self, rect: QRect) -> Iterable[int]:
        begin = max(0, bisect.bisect_right(self.tops, rect.top()) - 1)
        step = self.card.height() + GAP_PX
        for section in self.sections[begin:]:
            if section.top > rect.bottom():
                return
            if section.head >= 0:
                yield section.head
            first = max(0, (rect.top() - section.cards_top) // step) * self.columns
            last = min(section.count, ((rect.bottom() - section.cards_top) // step + 1) * self.columns)
            yield from range(section.first + first, section.first + max(first, last))

    def neighbour(self, row: int, key: int) -> int | None:
        """Left and right along the row of cards, up and down to the card above or below, in the next group, too."""
        section = self.section_of(row)
        if section is None:
            return None
        page = max(1, self.surface.height() // (self.card.height() + GAP_PX))
        last = self.table.rowCount() - 1
        along = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Home: -row, Qt.Key.Key_End: last - row}.get(
            Qt.Key(key)
        )
        if along is not None:
            is_onwards = key in (Qt.Key.Key_Right, Qt.Key.Key_Home)
            return self.entry_row(row + along, 1 if is_onwards else -1)
        lines = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -page, Qt.Key.Key_PageDown: page}[
            Qt.Key(key)
        ]
        inside = row - section.first + lines * self.columns
        if 0 <= inside < section.count:
            return section.first + inside
        return self.in_next(section, row - section.first, is_below=lines > 0)

    def in_next(self, section: Section, inside: int, *, is_below: bool) -> int | None:
        """The card below or above the last or first line of a group: in the next group that has any."""
        if is_below and inside // self.columns < (section.count - 1) // self.columns:
            return section.first + section.count - 1  # the last line is shorter
        at = self.sections.index(section)
        others = self.sections[at + 1 :] if is_below else self.sections[:at][::-1]
        other = next((one for one in others if one.count), None)
        if other is None:
            return None
        line = 0 if is_below else (other.count - 1) // self.columns
        return other.first + min(other.count - 1, line * self.columns + inside % self.columns)

    # painting

    def paint_row(self, painter: QPainter, row: int, rect: QRect, entry: Entry) -> None:
        self.paint_box(painter, row, rect, entry)
        inside = rect.adjusted(3, 1, -1, -1)
        if self.layout_now.is_cover_left:
            width = round(rect.width() * COVER_LEFT_SHARE)
            cover = QRect(inside.left(), inside.top(), width, inside.height())
            text = inside.adjusted(width + PADDING_PX, PADDING_PX - 2, -PADDING_PX, -6)
        else:
            height = round(rect.width() * COVER_SHAPE)
            cover = QRect(inside.left(), inside.top(), inside.width(), height)
            text = inside.adjusted(PADDING_PX, height + PADDING_PX - 2, -PADDING_PX, -6)
        self.paint_cover(painter, cover, entry)
        c = THEME.colours
        down = paint_lines(painter, text, entry.title, reading_font(11.5, is_bold=True), c.ink, 2)
        small = QFont(self.font())
        small.setPointSizeF(9.0)
        fields = self.layout_now.shown_fields(self.place.fields) if self.place is not None else []
        rest = text.adjusted(0, down + 4, 0, 0)
        for one in shown_texts(entry, fields):
            if rest.height() < 14:
                break
            rest = rest.adjusted(0, paint_lines(painter, rest, one, small, c.slate, 1) + 1, 0, 0)

    def paint_cover(self, painter: QPainter, rect: QRect, entry: Entry) -> None:
        """The cover: a picture that fills its place; else the first words of the text; else those of the title."""
        c = THEME.colours
        shown = self.cover_of(entry)
        painter.fillRect(rect, colour_of(c.ground))
        if shown is not None and not shown.picture.isNull() and not shown.is_icon:
            size = shown.picture.size().scaled(rect.size(), Qt.AspectRatioMode.KeepAspectRatioByExpanding)
            scale = size.width() / max(1, shown.picture.width())
            part = QSize(round(rect.width() / scale), round(rect.height() / scale))
            left = (shown.picture.width() - part.width()) // 2
            top = (shown.picture.height() - part.height()) // 3  # heads stand in the upper part
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawPixmap(rect, shown.picture, QRect(left, top, part.width(), part.height()))
        elif shown is not None:
            words = shown.words or entry.title
            inner = rect.adjusted(PADDING_PX, PADDING_PX, -PADDING_PX, -PADDING_PX)
            if shown.is_icon:
                painter.drawPixmap(inner.topLeft(), shown.picture)
                inner.adjust(0, ICON_PX + 6, 0, 0)
            face = reading_font(10.5 if shown.words else 15.0)
            face.setItalic(bool(shown.words))
            paint_lines(painter, inner, words, face, c.slate, 12)
        painter.setPen(colour_of(c.rule))
        if self.layout_now.is_cover_left:
            painter.drawLine(rect.topRight(), rect.bottomRight())
        else:
            painter.drawLine(rect.bottomLeft(), rect.bottomRight())

    # covers

    def key_of(self, entry_id: int) -> tuple[str, int, str, int]:
        """By what a cover is known."""
        return (self.place.key if self.place is not None else "", entry_id, self.layout_now.cover, self.size_px)

    def cover_of(self, entry: Entry) -> Shown | None:
        """The cover of an entry; None while it is fetched."""
        found = self.covers.get(self.key_of(entry.id))
        if found is None and entry.id not in self.wanted:
            self.wanted.append(entry.id)
            if not self.is_asking:
                self.soon.start(0)
        return found

    def fetch(self) -> None:
        """Asks for the covers that were wanted last: what is scrolled past is not fetched."""
        place = self.place
        if self.is_asking or not self.wanted or place is None:
            return
        ids, self.wanted = self.wanted[-AT_ONCE:], []
        key, cover, size_px = place.key, self.layout_now.cover, self.size_px
        self.is_asking = True

        def asked(reader: Reader) -> dict[int, tuple[Cover, QImage]]:
            found = reader.looks.covers(key, ids, cover, size_px, lambda content: shrunk(content, size_px))
            return {number: (one, QImage.fromData(one.picture)) for number, one in found.items()}

        self.ask(asked, lambda found: self.take(found, (key, cover, size_px)))

    def take(self, found: "dict[int, tuple[Cover, QImage]]", of: tuple[str, str, int]) -> None:
        """Takes covers in."""
        self.is_asking = False
        place, cover, size_px = of
        for number, (one, image) in found.items():
            picture = QPixmap.fromImage(image)
            if one.is_icon and not picture.isNull():
                picture = picture.scaled(
                    ICON_PX, ICON_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
                )
            self.covers[place, number, cover, size_px] = Shown(picture, one.is_icon, one.words)
        while len(self.covers) > MOST_COVERS:
            del self.covers[next(iter(self.covers))]
        self.surface.update()
        if self.wanted:
            self.soon.start(0)

    def forget(self, ids: Sequence[int]) -> None:
        """Entries changed, of some place; none are named: all may have. Their covers are asked for anew when they are seen."""
        gone = set(ids)
        self.covers = {key: one for key, one in self.covers.items() if gone and key[1] not in gone}
        self.wanted = []
        self.surface.update()
