"""Files read and played in the Read station: a PDF with its pages, hits and marks; a recording with moments and chapters."""

import wave
from pathlib import Path

import pytest
from pypdf import PdfWriter
from pypdf.generic import DecodedStreamObject, DictionaryObject, NameObject
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.session.session import Session
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.stations.read.media_view import MediaView
from wily_magpie.qt.stations.read.pdf_view import PdfView
from wily_magpie.qt.stations.read.station import ReadStation

PATIENCE_MS = 15_000
PLACE = "collection:1"
LEFT = Qt.MouseButton.LeftButton


def pdf_of(pages: list[list[str]]) -> PdfWriter:
    """A PDF with some lines on each page."""
    writer = PdfWriter()
    for lines in pages:
        page = writer.add_blank_page(400, 500)
        font = {"/Type": "/Font", "/Subtype": "/Type1", "/BaseFont": "/Helvetica"}
        named = DictionaryObject({NameObject(key): NameObject(value) for key, value in font.items()})
        fonts = DictionaryObject({NameObject("/F1"): writer._add_object(named)})
        page[NameObject("/Resources")] = DictionaryObject({NameObject("/Font"): fonts})
        drawn = "".join(f"({line}) Tj 0 -24 Td " for line in lines)
        stream = DecodedStreamObject()
        stream.set_data(f"BT /F1 16 Tf 40 440 Td {drawn}ET".encode("latin-1"))
        page[NameObject("/Contents")] = writer._add_object(stream)
    return writer


@pytest.fixture
def read(window: MainWindow, session: Session, qtbot: QtBot, tmp_path: Path) -> ReadStation:
    """An entry without a text, with a PDF of three pages."""
    with (tmp_path / "tides.pdf").open("wb") as file:
        pdf_of(
            [["The first page of tides."], ["The gate is a door.", "And the sea opens it."], ["The gate again."]]
        ).write(file)
    entry = session.do(AddEntry(PLACE, "Tides"))
    session.do(AttachFiles(PLACE, entry, "files", (tmp_path / "tides.pdf",)))
    window.read_entry(PLACE, entry, ())
    station = window.stack.read
    qtbot.waitUntil(lambda: station.files.shows_pdf, timeout=PATIENCE_MS)  # there is nothing else to be read
    return station


@pytest.fixture
def pdf(read: ReadStation) -> PdfView:
    assert read.files.pdf is not None
    return read.files.pdf


def drag(pdf: PdfView, qtbot: QtBot, page: int, words: str) -> None:
    """Over some words of a page."""
    at = pdf.pages.text(page).index(words)
    bounds = pdf.pages.document.getSelectionAtIndex(page, at, len(words)).bounds()[0].boundingRect()
    corner = pdf.pages.rect_of(page).topLeft()

    def seen(point: QPointF) -> QPoint:
        return (corner + point * pdf.pages.scale).toPoint()

    start, end = (
        seen(QPointF(bounds.left() + 1, bounds.center().y())),
        seen(QPointF(bounds.right() - 1, bounds.center().y())),
    )
    port = pdf.pages.viewport()
    qtbot.mousePress(port, LEFT, pos=start)
    qtbot.mouseMove(port, end)
    qtbot.mouseRelease(port, LEFT, pos=end)


def test_a_pdf_is_read_and_marked(read: ReadStation, pdf: PdfView, session: Session, qtbot: QtBot) -> None:
    assert (pdf.of.text(), pdf.number.value()) == ("of 3", 1)
    pdf.number.setValue(2)
    drag(pdf, qtbot, 1, "gate is a door")
    assert pdf.strip.isVisible()
    qtbot.keyClick(pdf.pages, Qt.Key.Key_2)
    entry = read.entry
    assert entry is not None

    def marks() -> tuple[Mark, ...]:
        return session.reader.entries.marks(PLACE, entry.id)

    qtbot.waitUntil(lambda: [(one.exact, one.kind, one.locator) for one in marks()] == [("gate is a door", "quotation", "p. 2")],
                    timeout=PATIENCE_MS)  # fmt: skip
    qtbot.waitUntil(lambda: len(pdf.pages.marks_on(1)) == 1, timeout=PATIENCE_MS)
    assert pdf.pages.marks_on(2) == []
    assert read.bar.lost.isHidden()

    pdf.pages.go_to(0)
    read.show_mark(marks()[0])
    assert pdf.pages.page == 1
    placed = pdf.pages.marks_on(1)[0].bounds[0].boundingRect().center()
    spot = (pdf.pages.rect_of(1).topLeft() + placed * pdf.pages.scale).toPoint()
    qtbot.mouseClick(pdf.pages.viewport(), LEFT, pos=spot)
    assert pdf.open == marks()[0]
    read.desk.commands.bound["copy-quotation"].run()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    qtbot.waitUntil(lambda: clipboard.text() == "> gate is a door\n\n— Tides [@tides, p. 2]\n", timeout=PATIENCE_MS)
    rects = pdf.pages.chosen_rects()
    assert rects is not None
    port = pdf.pages.viewport()
    end = QPoint(rects[1].right(), rects[1].center().y())
    qtbot.mousePress(port, LEFT, pos=end)  # at its end, which is dragged to the left
    qtbot.mouseMove(port, end - QPoint(round(30 * pdf.pages.scale), 0))
    qtbot.mouseRelease(port, LEFT, pos=end - QPoint(round(30 * pdf.pages.scale), 0))
    qtbot.waitUntil(
        lambda: [(one.exact, one.kind) for one in marks()] == [("gate is a", "quotation")], timeout=PATIENCE_MS
    )
    pdf.offer(marks()[0])
    qtbot.keyClick(pdf.pages, Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: marks() == (), timeout=PATIENCE_MS)


def test_words_are_found_in_a_pdf(read: ReadStation, pdf: PdfView, qtbot: QtBot) -> None:
    read.desk.commands.bound["find-in-text"].run()
    qtbot.keyClicks(pdf.line, "gate")
    qtbot.waitUntil(lambda: pdf.told.text() == "1 of 2", timeout=PATIENCE_MS)
    assert pdf.pages.page == 1
    read.desk.commands.bound["next-hit"].run()
    assert (pdf.told.text(), sorted(pdf.pages.found)) == ("2 of 2", [1, 2])
    qtbot.waitUntil(lambda: bool(pdf.pages.images), timeout=PATIENCE_MS)  # pages are drawn elsewhere


def test_a_pdf_opens_at_the_page_where_one_stopped(
    read: ReadStation, pdf: PdfView, qtbot: QtBot, session: Session
) -> None:
    name, entry = read.files.name, read.entry
    assert entry is not None
    pdf.pages.go_to(2)
    qtbot.mouseClick(pdf.as_text, LEFT)
    assert not read.files.name
    qtbot.waitUntil(lambda: session.reader.entries.stopped_at(PLACE, entry.id, name) == 3, timeout=PATIENCE_MS)
    read.files.open(name)
    qtbot.waitUntil(lambda: read.files.shows_pdf and pdf.pages.page == 2, timeout=PATIENCE_MS)


def test_a_broken_pdf_is_said(
    read: ReadStation, window: MainWindow, session: Session, qtbot: QtBot, tmp_path: Path
) -> None:
    (tmp_path / "broken.pdf").write_bytes(b"%PDF-1.7 and nothing more")
    entry = session.do(AddEntry(PLACE, "Broken", {}, "Its text."))
    session.do(AttachFiles(PLACE, entry, "files", (tmp_path / "broken.pdf",)))
    read.open(PLACE, entry, ())
    qtbot.waitUntil(lambda: read.entry is not None and read.entry.title == "Broken", timeout=PATIENCE_MS)
    assert not read.files.name
    read.bar.files_menu.actions()[0].trigger()
    qtbot.waitUntil(lambda: "cannot be read" in window.notice.text.text(), timeout=PATIENCE_MS)
    assert not read.files.name


@pytest.mark.no_qt_log  # the player's threads would wait for the tests' handler of messages, and it for them
def test_a_recording_is_played_and_marked(window: MainWindow, session: Session, qtbot: QtBot, tmp_path: Path) -> None:
    with wave.open(str(tmp_path / "tape.wav"), "wb") as file:
        file.setparams((1, 2, 8_000, 0, "NONE", ""))
        file.writeframes(b"\0\0" * 8_000 * 200)
    entry = session.do(AddEntry(PLACE, "Tape", {}, "- 0:00 Opening\n- 2:10 The gate\n\nAt 1:30 it rains."))
    session.do(AttachFiles(PLACE, entry, "files", (tmp_path / "tape.wav",)))
    window.read_entry(PLACE, entry, ())
    read = window.stack.read
    qtbot.waitUntil(lambda: read.entry is not None and read.entry.id == entry, timeout=PATIENCE_MS)
    assert read.bar.files.text() == "Play"
    assert 'href="#t=90"' in read.view.shown.rendered.html
    read.follow("#t=90")
    qtbot.waitUntil(lambda: read.files.shows_media, timeout=PATIENCE_MS)
    media = read.files.media
    assert isinstance(media, MediaView)
    qtbot.waitUntil(lambda: media.seconds == 90, timeout=PATIENCE_MS)
    assert [media.chapters.item(at).text() for at in range(2)] == ["0:00  Opening", "2:10  The gate"]  # type: ignore[union-attr]
    qtbot.keyClicks(media.comment, "rain on the roof")
    qtbot.keyClick(media.comment, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: media.chapters.count() == 3, timeout=PATIENCE_MS)
    (mark,) = session.reader.entries.marks(PLACE, entry)
    assert (mark.comment, mark.locator) == ("rain on the roof", "1:30")
    read.show_mark(mark)
    media.chapters.itemActivated.emit(media.chapters.item(2))
    qtbot.waitUntil(lambda: media.seconds == 130, timeout=PATIENCE_MS)
    read.files.close()
    qtbot.waitUntil(lambda: read.files.name == "" and read.stack.currentIndex() == 1, timeout=PATIENCE_MS)
