"""What the table paints, looked at pixel by pixel: who is chosen, what is missing, groups, pinned columns, other looks."""

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QPoint, QRect, Qt
from PyQt6.QtGui import QColor, QImage, QTextDocument
from PyQt6.QtWidgets import QApplication, QMainWindow, QTableView
from pytestqt.qtbot import QtBot

from wily_magpie.core.commands.entries import AddEntry, SetValues
from wily_magpie.core.entries.field import find_field
from wily_magpie.core.entries.layout import Layout
from wily_magpie.core.query import cql
from wily_magpie.core.session.session import Session
from wily_magpie.qt.editors.spine import BAR_PX
from wily_magpie.qt.stations.sources.cell_painting import PADDING_PX
from wily_magpie.qt.stations.sources.table import EntryTableView
from wily_magpie.qt.style.parts import PlainLabel, label, plain_tip
from wily_magpie.qt.style.theme import THEME

PATIENCE_MS = 15_000
KEY, COUNT = "collection:1", 6
COLUMNS, WIDTHS = ("title", "status", "price", "site", "published"), (180, 110, 90, 160, 170)
GROUPED = "sortBy status/group title"
LACKING = 4
"""The number of the entry that has no address, which sources must have."""
FLAGS = QItemSelectionModel.SelectionFlag


@pytest.fixture
def table(qtbot: QtBot, session: Session) -> Iterator[EntryTableView]:
    """Six entries by title in a table that is wide enough for their columns; the cursor is in the first cell."""
    for number in range(COUNT):
        values = {"status": "read" if number % 2 else "to read", "price": 10.0 + number, "site": f"Site {number}"}
        if number != LACKING:
            values["address"] = f"https://mill.example/{number}"
        session.do(AddEntry(KEY, f"Mill {number}", values))
    view = EntryTableView(lambda _ids, take: take([]), lambda *_: None, lambda _error: None)
    window = QMainWindow()
    window.setCentralWidget(view)
    THEME.dress(window)
    qtbot.addWidget(window)
    window.resize(790, 420)
    show(session, view, "sortBy title")
    window.show()
    qtbot.waitUntil(window.isVisible, timeout=PATIENCE_MS)
    view.setFocus()
    view.choose(view.table.id_at(0))
    qtbot.waitUntil(view.hasFocus, timeout=PATIENCE_MS)
    yield view
    THEME.apply(application(), "light")


def application() -> QApplication:
    """The one that runs."""
    running = QApplication.instance()
    assert isinstance(running, QApplication)
    return running


def show(session: Session, view: EntryTableView, text: str, layout: Layout | None = None) -> None:
    """Shows the answer to a question, with some of the columns."""
    place = session.overview.place(KEY)
    question = cql.parse(text, place.askable)
    listing = session.reader.entries.listing(KEY, question)
    columns = [find_field(place.fields, key) for key in COLUMNS]
    rows = session.reader.entries.rows(KEY, listing.ids)
    view.show_listing(place, columns, listing, rows, 0, layout)
    for number, width in enumerate(WIDTHS):
        view.setColumnWidth(number, width)
    if view.has_pinned:
        view.pinned.place()
    QApplication.processEvents()


def column_of(view: QTableView, key: str) -> int:
    """The number of a field's column."""
    table = view if isinstance(view, EntryTableView) else view.parent()
    assert isinstance(table, EntryTableView)
    return next(number for number, field in enumerate(table.table.columns) if field.key == key)


def picture(view: QTableView) -> QImage:
    """What the cells look like."""
    port = view.viewport()
    assert port is not None
    return port.grab().toImage()


def cell(view: QTableView, row: int, key: str) -> QRect:
    """Where a cell is in that picture."""
    column = column_of(view, key)
    return QRect(
        view.columnViewportPosition(column),
        view.rowViewportPosition(row),
        view.columnWidth(column),
        view.rowHeight(row),
    )


def colour_at(image: QImage, x: int, y: int) -> str:
    """The colour of a pixel, as the looks have it."""
    return QColor(image.pixel(x, y)).name().upper()


def ground_of(image: QImage, rect: QRect) -> str:
    """The colour behind the text of a cell: that of its right edge, inside of a frame."""
    return colour_at(image, rect.right() - 3, rect.top() + 4)


def frame_of(image: QImage, rect: QRect) -> str:
    """The colour of a cell's upper edge."""
    return colour_at(image, rect.center().x(), rect.top() + 1)


def has(image: QImage, rect: QRect, colour: str) -> bool:
    """Whether anything in a cell has a colour, at least nearly: text is smoothed."""
    wanted = QColor(colour)
    for x in range(max(0, rect.left()), min(rect.right(), image.width() - 1)):
        for y in range(max(0, rect.top()), min(rect.bottom(), image.height() - 1)):
            found = QColor(image.pixel(x, y))
            if max(abs(a - b) for a, b in zip(found.getRgb()[:3], wanted.getRgb()[:3], strict=True)) < 24:
                return True
    return False


def test_the_row_of_the_current_cell_is_tinted_and_the_cell_has_a_frame(table: EntryTableView) -> None:
    table.setCurrentIndex(table.table.index(2, column_of(table, "site")))
    image, c = picture(table), THEME.colours
    assert [ground_of(image, cell(table, row, "title")) for row in (1, 2, 3)] == [c.card, c.wash, c.card]
    assert frame_of(image, cell(table, 2, "site")) == c.petrol
    assert frame_of(image, cell(table, 2, "title")) == c.wash


def test_the_frame_goes_where_the_keys_go(qtbot: QtBot, table: EntryTableView) -> None:
    title = cell(table, 0, "title")
    assert frame_of(picture(table), title) == THEME.colours.petrol
    table.clearFocus()
    qtbot.waitUntil(lambda: not table.hasFocus(), timeout=PATIENCE_MS)
    assert frame_of(picture(table), title) == THEME.colours.wash


def test_selected_cells_are_tinted_and_no_others(table: EntryTableView) -> None:
    selection = table.selectionModel()
    assert selection is not None
    site, price = column_of(table, "site"), column_of(table, "price")
    table.setCurrentIndex(table.table.index(0, site))
    chosen = QItemSelection(table.table.index(3, site), table.table.index(4, site))
    chosen.select(table.table.index(1, price), table.table.index(1, price))
    selection.select(chosen, FLAGS.Select)
    image = picture(table)
    tinted = {
        (row, key)
        for row in range(1, COUNT)
        for key in COLUMNS
        if ground_of(image, cell(table, row, key)) == THEME.colours.wash
    }
    assert tinted == {(3, "site"), (4, "site"), (1, "price")}


def test_a_choice_has_the_bar_of_its_option_and_a_number_stands_at_the_right(table: EntryTableView) -> None:
    image, c = picture(table), THEME.colours
    status = table.table.columns[column_of(table, "status")]
    for row in (1, 2):
        option = status.option("read" if row % 2 else "to read")
        assert option is not None
        rect = cell(table, row, "status")
        assert colour_at(image, rect.left() + PADDING_PX + BAR_PX, rect.center().y()) == c.spine(option.colour)
    price = cell(table, 2, "price")
    left_part = QRect(price.left() + 2, price.top(), price.width() // 3, price.height())
    assert not has(image, left_part, c.slate)
    assert has(image, price, c.slate)


def test_what_is_no_value_has_another_ink(table: EntryTableView, session: Session) -> None:
    brass = THEME.colours.brass
    assert not has(picture(table), cell(table, 3, "published"), brass)
    entry_id = table.table.id_at(3)
    assert entry_id is not None
    session.do(SetValues(KEY, {entry_id: {"published": "before the flood"}}))
    show(session, table, "sortBy title")
    assert table.table.cell(3, column_of(table, "published"))[0] == "before the flood"
    assert has(picture(table), cell(table, 3, "published"), brass)
    assert not has(picture(table), cell(table, 3, "site"), brass)


def test_an_entry_that_breaks_a_rule_has_a_folded_corner(table: EntryTableView) -> None:
    image, c = picture(table), THEME.colours
    corners = [cell(table, row, "title").topLeft() + QPoint(1, 1) for row in range(1, COUNT)]
    wanted = [c.brass if row == LACKING else c.card for row in range(1, COUNT)]
    assert [colour_at(image, corner.x(), corner.y()) for corner in corners] == wanted


def test_a_heading_goes_across_all_columns_whatever_their_order(table: EntryTableView, session: Session) -> None:
    show(session, table, GROUPED)
    assert len(table.table.heads) == 2
    header = table.horizontalHeader()
    assert header is not None
    header.moveSection(0, 2)
    QApplication.processEvents()
    image, row = picture(table), table.table.heads[1]
    y = table.rowViewportPosition(row) + 2
    assert {colour_at(image, x, y) for x in range(0, header.length(), 7)} == {THEME.colours.ground}
    assert has(image, QRect(0, y, header.length(), table.rowHeight(row) - 4), THEME.colours.ink)


def test_pinned_columns_lie_exactly_above_the_tables_own(table: EntryTableView, session: Session) -> None:
    table.clearFocus()
    port = table.viewport()
    assert port is not None
    top = port.mapTo(table, QPoint(0, 0))
    before = table.grab().toImage()
    show(session, table, "sortBy title", Layout(pinned=1))
    assert table.pinned.isVisible()
    header = table.horizontalHeader()
    assert header is not None
    above = QRect(top.x(), top.y() - header.height(), WIDTHS[0] - 3, header.height() + COUNT * table.rowHeight(0))
    assert table.grab().toImage().copy(above) == before.copy(above)


def test_pinned_columns_stay_when_the_rest_is_scrolled_sideways(table: EntryTableView, session: Session) -> None:
    show(session, table, "sortBy title", Layout(pinned=1))
    table.setColumnWidth(column_of(table, "site"), 900)
    QApplication.processEvents()
    bar = table.horizontalScrollBar()
    assert bar is not None
    assert bar.maximum() > 100
    pinned, rest = picture(table.pinned), picture(table)
    bar.setValue(100)
    QApplication.processEvents()
    assert picture(table.pinned) == pinned
    assert picture(table) != rest
    table.setCurrentIndex(table.table.index(4, column_of(table, "title")))
    QApplication.processEvents()
    assert ground_of(picture(table.pinned), cell(table.pinned, 4, "title")) == THEME.colours.wash


def test_an_area_is_painted_as_the_whole_is(table: EntryTableView) -> None:
    full, port = picture(table), table.viewport()
    assert port is not None
    for row, key in ((0, "title"), (2, "status"), (5, "published")):
        area = cell(table, row, key)
        assert port.grab(area).toImage() == full.copy(area)


def test_another_look_paints_the_same_in_other_colours(table: EntryTableView) -> None:
    light = THEME.colours
    assert ground_of(picture(table), cell(table, 1, "site")) == light.card
    THEME.apply(application(), "dark")
    QApplication.processEvents()
    image = picture(table)
    assert light.card != THEME.colours.card
    assert ground_of(image, cell(table, 1, "site")) == THEME.colours.card
    assert ground_of(image, cell(table, 0, "site")) == THEME.colours.wash
    assert has(image, cell(table, 1, "title"), THEME.colours.ink)


HOSTILE = '<img src="/dev/zero"><b>Mill</b>'
"""A title that Qt would lay out, and read the machine's files for."""


def test_a_title_that_is_html_is_told_as_it_is(table: EntryTableView, session: Session, qtbot: QtBot) -> None:
    session.do(AddEntry(KEY, HOSTILE))
    show(session, table, "sortBy title")
    row = next(at for at in range(COUNT + 1) if table.table.cell(at, 0)[0] == HOSTILE)
    tip = str(table.table.index(row, 0).data(Qt.ItemDataRole.ToolTipRole))
    laid_out = QTextDocument()
    laid_out.setHtml(tip)
    assert laid_out.toPlainText().startswith(HOSTILE)
    assert "<img" not in tip
    for made in (label(HOSTILE), label(HOSTILE, wraps=True), PlainLabel(HOSTILE)):
        qtbot.addWidget(made)
        assert made.textFormat() is Qt.TextFormat.PlainText


@pytest.mark.parametrize("text", ["The mill", "a & b", "two\nlines", "1 < 2", "<b>bold</b>\nand  two   spaces", ""])
def test_a_tip_says_what_it_was_given(text: str) -> None:
    tip = plain_tip(text)
    if "<" not in text:
        assert tip == text
        return
    laid_out = QTextDocument()
    laid_out.setHtml(tip)
    assert laid_out.toPlainText() == text
