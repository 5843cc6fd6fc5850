"""What a text shows besides words: pictures that are enlarged, wide tables, formulas, boxes, words parted at the ends of lines."""

from pathlib import Path

from PyQt6.QtCore import QPoint, Qt, QUrl
from PyQt6.QtGui import QColor, QImage, QTextDocument
from pytestqt.qtbot import QtBot

from wily_magpie.core.entries.hyphens import hyphenated
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.rendering import Rendered, formulas_in, to_safe_html
from wily_magpie.core.pages.formulas import drawn_by
from wily_magpie.core.session.session import Session
from wily_magpie.qt.marked_text import Words, chosen_in, cursor_at
from wily_magpie.qt.over_text import PlateView
from wily_magpie.qt.reading import ReadingView, Shown, shown
from wily_magpie.qt.style.reading_look import ReadingLook
from wily_magpie.qt.style.tokens import DARK

PICTURE = QImage(40, 30, QImage.Format.Format_RGB32)


def test_a_picture_is_enlarged_with_its_caption(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    view.resize(600, 400)
    view.show()
    safe = to_safe_html("![The first](https://m.example/a.png)\n\nWords.\n\n![The second](https://m.example/b.png)\n")
    view.show_text(Shown(Rendered("x", safe), {f"https://m.example/{name}.png": PICTURE for name in "ab"}))
    assert not view.enlarge_at(QPoint(300, 350))
    qtbot.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(15, 15))
    plate = view.findChild(PlateView)
    assert plate is not None
    assert plate.accessibleName() == "The first"
    qtbot.keyClick(plate, Qt.Key.Key_Right)
    assert plate.accessibleName() == "The second"
    plate.grab()
    qtbot.mouseClick(plate, Qt.MouseButton.LeftButton)
    assert not plate.isVisible()


def test_a_table_wider_than_the_measure_scrolls(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    view.resize(600, 400)
    view.show()
    row = "|" + " unsplittable |" * 20
    table = f"{row}\n|{' --- |' * 20}\n{row}\n"
    view.show_text(Shown(Rendered(table, to_safe_html(table))))
    bar = view.horizontalScrollBar()
    assert bar is not None
    qtbot.waitUntil(lambda: bar.maximum() > 300)


def test_formulas_are_drawn_in_the_colour_of_the_letters(qtbot: QtBot) -> None:
    view = ReadingView(look=ReadingLook(ground="dark"))
    qtbot.addWidget(view)
    text = "Height $h = z^2$, and $\\badly{$ typed."
    safe = to_safe_html(text)
    formulas = drawn_by(formulas_in(safe))
    view.show_text(shown(Rendered(text, safe, {name: one for name, one in formulas.items() if one})))
    (address,) = [name for name in view.shown.images if "h" in name]
    image = view.loadResource(QTextDocument.ResourceType.ImageResource.value, QUrl(address))
    assert isinstance(image, QImage)
    ink = QColor(DARK.ink)
    solid = [image.pixelColor(x, y) for x in range(image.width()) for y in range(image.height())]
    assert any(one.alpha() == 255 and abs(one.red() - ink.red()) < 3 for one in solid)
    assert not any(one.alpha() == 255 and one.red() < 100 for one in solid)
    assert "\\badly{" in view.toPlainText()


def test_words_are_parted_and_found_all_the_same(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    text = "🐦 Extraordinary circumstances of the waterwheel.\n\nThe `waterwheel` again: waterwheel."
    view.show_text(shown(Rendered(text, to_safe_html(text)), "en-GB"))
    assert "wa\u00adter\u00adwheel" in view.toPlainText()
    words = Words(view)
    assert words.text.strip() == "🐦 Extraordinary circumstances of the waterwheel.\nThe waterwheel again: waterwheel."
    cursor = cursor_at(words, Mark("waterwheel", prefix="again: "))
    assert cursor is not None
    view.setTextCursor(cursor)
    mark = chosen_in(view)
    assert mark is not None
    assert (mark.exact, mark.prefix[-7:]) == ("waterwheel", "again: ")
    assert all(words.index(words.position(at)) == at for at in range(len(words.text)))
    assert hyphenated("<p>waterwheel</p>", "xx") == "<p>waterwheel</p>"


def test_boxes_and_pictures_of_notes(session: Session, notes_path: Path) -> None:
    """“[!note]” begins a box; ![[…]] shows a file of the folder, wherever it lies in it."""
    text = "> [!tip] Mind the *gap*\n> Only **now**.\n\n> [!note]\n> Words.\n\n> said [!note] late\n\n![[wheel.png|200]] ![[log]]\n"
    safe = to_safe_html(text)
    assert safe.count('<table class="box">') == 2
    assert "<b>Mind the *gap*</b></p>\n<p>Only <strong>now</strong>.</p>" in safe
    assert "<b>Note</b></p>\n<p>Words.</p>" in safe
    assert "<blockquote>\n<p>said [!note] late</p>" in safe
    assert '<a href="log.md">log</a>' in safe
    (notes_path / "pictures" / "2026").mkdir(parents=True)
    (notes_path / "pictures" / "2026" / "wheel.png").write_bytes(b"png")
    (notes_path / "days").mkdir()
    (notes_path / "days" / "log.md").write_text(text, "utf-8")
    place = session.reader.entries.place("Notebook")
    session.index_notes(place.key).result()
    note = session.reader.entries.entry(place.key, session.reader.notes.id_of(place.key, "days/log.md") or 0)
    assert note is not None
    assert session.reader.entries.rendered(text, note).pictures == {"wheel.png": b"png"}


def test_a_text_from_right_to_left_is_laid_so(qtbot: QtBot) -> None:
    view = ReadingView()
    qtbot.addWidget(view)
    view.resize(600, 300)
    view.show()
    text = "طاحونة المد تدور مرتين في اليوم.\n\nThe mill turns."
    view.show_text(Shown(Rendered(text, to_safe_html(text))))
    document = view.document()
    assert document is not None
    first = document.begin()
    layouts = [block.layout() for block in (first, first.next())]
    begins = [one.lineAt(0).naturalTextRect().left() for one in layouts if one is not None]
    assert begins[0] > 100
    assert begins[1] < 5
