"""Templates from nothing to a kept entry, on the bench, by mouse and by keyboard; corrected on the slip; held against changes."""

import json
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from helpers import add_sample
from wily_magpie.core.commands.templates import Accept, OrderTemplates, RemoveSample, SaveTemplate
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.bench import ACCEPTED, DIFFERS
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.main_window import MainWindow
from wily_magpie.qt.station_stack import CAPTURE, TEMPLATES
from wily_magpie.qt.stations.templates.bench import Bench
from wily_magpie.qt.stations.templates.station import TemplatesStation

if TYPE_CHECKING:
    from PyQt6.QtWebEngineCore import QWebEnginePage

PATIENCE_MS = 20_000
CONTROL = Qt.KeyboardModifier.ControlModifier
HERON = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
AID = "http://county-record-office.example/finding-aids/d-114"


def station_of(window: MainWindow) -> TemplatesStation:
    window.go(TEMPLATES)
    return window.stack.templates


def opened(qtbot: QtBot, window: MainWindow, name: str) -> TemplatesStation:
    """The station with a template that is open."""
    station = station_of(window)
    qtbot.waitUntil(lambda: station.template is not None and name in station.list.names(), timeout=PATIENCE_MS)
    station.open(name)
    bench = station.bench
    qtbot.waitUntil(lambda: bench.template is not None and bench.template.name == name, timeout=PATIENCE_MS)
    return station


def row_of(bench: Bench, key: str) -> int:
    return next(at for at, field in enumerate(bench.fields) if bench.key_of(field) == key)


def point_at(bench: Bench, key: str, sample: int = 0) -> None:
    bench.table.setCurrentCell(row_of(bench, key), 2 + sample)


def wait_for(qtbot: QtBot, bench: Bench, samples: int) -> None:
    qtbot.waitUntil(
        lambda: len(bench.samples) == samples and len(bench.cells) == len(bench.fields), timeout=PATIENCE_MS
    )


def focus() -> QWidget:
    widget = QApplication.focusWidget()
    assert widget is not None
    return widget


def test_a_template_is_made_for_an_unknown_page_by_keyboard_and_used(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    station = station_of(window)
    qtbot.keyClick(window, Qt.Key.Key_T, CONTROL | Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: station.pages.currentWidget() is station.new, timeout=PATIENCE_MS)
    qtbot.keyClicks(station.new.name, "Finding aids")
    station.new.address.setFocus()
    qtbot.keyClicks(station.new.address, AID)
    qtbot.keyClick(station.new.address, Qt.Key.Key_Return)
    bench = station.bench
    qtbot.waitUntil(lambda: bench.template is not None and bench.template.name == "Finding aids", timeout=PATIENCE_MS)
    wait_for(qtbot, bench, 1)
    # the row of the summary gets an expression, with a mistake on the way
    point_at(bench, "summary")
    bench.table.setFocus()
    qtbot.keyClick(bench.table, Qt.Key.Key_Return)
    bench.strip.source.setCurrentIndex(bench.strip.source.findData("expression"))
    bench.strip.source.activated.emit(bench.strip.source.currentIndex())
    line = bench.strip.expression
    line.selectAll()
    qtbot.keyClicks(line, "page.tilte")
    qtbot.waitUntil(lambda: "Did you mean title?" in bench.strip.told.text(), timeout=PATIENCE_MS)
    assert line.extraSelections()
    line.selectAll()
    qtbot.keyClicks(line, "page.title | upper")
    row = row_of(bench, "summary")
    qtbot.waitUntil(lambda: "PELL" in bench.cells[row][0].text, timeout=PATIENCE_MS)
    qtbot.keyClick(line, Qt.Key.Key_Return)
    qtbot.waitUntil(
        lambda: (
            session.reader.templates.template("Finding aids").fields["summary"]
            == Rule("expression", ("page.title | upper",))
        ),
        timeout=PATIENCE_MS,
    )
    # what it gives is right, by the space bar; then a page is kept with it
    bench.table.setFocus()
    point_at(bench, "summary")
    qtbot.keyClick(bench.table, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: bench.cells[row_of(bench, "summary")][0].state == ACCEPTED, timeout=PATIENCE_MS)
    session.do(OrderTemplates(["Finding aids", *[n for n in session.reader.templates.names() if n != "Finding aids"]]))
    window.go(CAPTURE)
    window.stack.capture.open(AID)
    card = window.stack.capture.card
    qtbot.waitUntil(lambda: card.slip is not None, timeout=PATIENCE_MS)
    assert card.head.template.currentText() == "Finding aids"
    assert card.head.reason.text() == ("chosen since the host is county-record-office.example; Article would match too")
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: place.listing(Question()).total == 1, timeout=PATIENCE_MS)
    (entry,) = place.rows(list(place.listing(Question()).ids))
    assert str(entry.value("summary")) == entry.title.upper()
    # the site changes: its title is another one now, and the template's test says so
    row_kept = session._library.templates.samples("Finding aids")[0]
    reading = session.reader.templates.reading(row_kept)
    assert reading is not None
    changed = replace(reading.page, html=reading.page.html.replace(entry.title, "Moved to another shelf"))
    session.do(RemoveSample(row_kept.id))
    number = add_sample(session, "Finding aids", changed)
    session.do(Accept("Finding aids", [(number, key, text) for key, text in row_kept.accepted.items()]))
    count, faults = session.reader.templates.test(["Finding aids"])
    assert (count, [fault.label for fault in faults]) == (1, ["Summary"])
    assert entry.title.upper() in str(faults[0])
    window.go(TEMPLATES)
    qtbot.waitUntil(
        lambda: len(bench.cells.get(row, [])) == 1 and bench.cells[row][0].state == DIFFERS, timeout=PATIENCE_MS
    )


def test_a_source_is_chosen_by_pointing_at_what_the_page_says(
    qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path
) -> None:
    session.do(SaveTemplate(Template("Mine", "Sources")))
    station = opened(qtbot, window, "Mine")
    bench = station.bench

    def rule_of(key: str) -> Rule | None:
        return session.reader.templates.template("Mine").fields.get(key)

    qtbot.keyClicks(bench.address, HERON)
    qtbot.keyClick(bench.address, Qt.Key.Key_Return)
    wait_for(qtbot, bench, 1)
    saved = tmp_path / "saved.html"
    saved.write_text(
        "<html><head><title>Saved</title></head><body><h1>Saved</h1><p>By hand, some time ago.</p></body></html>"
    )
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(saved))])
    bench.table.dropEvent(
        QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    wait_for(qtbot, bench, 2)
    point_at(bench, "site")
    bench.panel.search.setText("publisher")
    assert bench.panel.list.count() >= 1
    qtbot.mouseClick(bench.panel.take, Qt.MouseButton.LeftButton)
    row = row_of(bench, "site")
    qtbot.waitUntil(lambda: bench.cells[row][0].text == "The Ostrel Estuary Courier", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: rule_of("site") == Rule("finding", ("site",)), timeout=PATIENCE_MS)
    bench.panel.search.setText("visible heading")
    qtbot.mouseClick(bench.panel.next, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bench.cells[row][1].text == "Saved", timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: rule_of("site") == Rule("finding", ("site", "title")), timeout=PATIENCE_MS)
    qtbot.mouseClick(bench.proposing, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "rules are proposed" in bench.told.text(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: rule_of("authors") == Rule("finding", ("authors",)), timeout=PATIENCE_MS)
    qtbot.mouseClick(bench.panel.whole_way, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Penhallow, Ada" in bench.panel.whole.toPlainText(), timeout=PATIENCE_MS)
    bench.table.selectColumn(2)
    qtbot.mouseClick(bench.panel.accept, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: bench.cells[row][0].state == ACCEPTED, timeout=PATIENCE_MS)
    bench.set_rules({"site": Rule("fixed", ("Another",))})
    qtbot.waitUntil(lambda: bench.cells[row][0].state == DIFFERS, timeout=PATIENCE_MS)
    assert "Accepted before: The Ostrel Estuary Courier" in bench.panel.told.text() or bench.table.currentRow() != row
    header = bench.table.horizontalHeaderItem(2)
    assert header is not None
    qtbot.waitUntil(lambda: header.text().endswith("\n1 differs"), timeout=PATIENCE_MS)
    window.undo()
    qtbot.waitUntil(lambda: bool(bench.cells.get(row)) and bench.cells[row][0].state == ACCEPTED, timeout=PATIENCE_MS)


def asks(page: "QWebEnginePage", script: str, answers: list[object]) -> object:
    """The answer of a page to a script that was asked before, if there is one; and asks again."""
    page.runJavaScript(script, 0, answers.append)
    return answers[-1] if answers else None


def test_a_slip_is_refilled_marked_and_corrected(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    plain = session.reader.templates.template("Article")
    asked = replace(
        plain, fields={**plain.fields, "summary": Rule("passages")}, asks=("status",), status="", hides=("language",)
    )
    session.do(SaveTemplate(asked, "Article"))
    window.go(CAPTURE)
    station = window.stack.capture
    station.open(HERON)
    card = station.card
    qtbot.waitUntil(lambda: card.slip is not None, timeout=PATIENCE_MS)
    assert not card.lines["language"].isVisible()
    qtbot.mouseClick(card.fields.more, Qt.MouseButton.LeftButton)
    assert card.lines["language"].isVisible()
    assert station.view is not None
    chosen: list[object] = []
    script = (
        "const w = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT); let n;"
        "while ((n = w.nextNode())) if (n.data.includes('one paddle dipped')) break;"
        "const r = document.createRange(); const at = n.data.indexOf('one paddle dipped');"
        "r.setStart(n, at); r.setEnd(n, at + 17); getSelection().removeAllRanges(); getSelection().addRange(r); 1"
    )
    station.view.page.runJavaScript(script, 0, chosen.append)
    qtbot.waitUntil(lambda: bool(chosen), timeout=PATIENCE_MS)
    qtbot.keyClick(window, Qt.Key.Key_M, CONTROL)
    qtbot.waitUntil(lambda: bool(card.slip and card.slip.marks), timeout=PATIENCE_MS)
    assert card.slip is not None
    mark = card.slip.marks[0]
    assert (mark.exact, mark.kind, mark.prefix.endswith("Then ")) == ("one paddle dipped", "evidence", True)
    assert card.lines["summary"].editor.text() == "one paddle dipped"
    seen: list[object] = []
    shown = "[...CSS.highlights.values()].flatMap((one) => [...one]).map((one) => one.toString()).join()"
    qtbot.waitUntil(lambda: station.view is None or asks(station.view.page, shown, seen) == "one paddle dipped")
    card.marks.rows.itemAt(0).widget().comment.setText("The first words?")  # type: ignore[union-attr]
    card.marks.rows.itemAt(0).widget().comment.editingFinished.emit()  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: bool(card.slip and card.slip.marks[0].comment), timeout=PATIENCE_MS)
    card.text.show_way(2)
    preview = card.text.preview
    wanted = ["one paddle dipped"]
    qtbot.waitUntil(lambda: [o.cursor.selectedText() for o in preview.extraSelections()] == wanted, timeout=PATIENCE_MS)
    # a value chosen here becomes the template's rule
    station.card._on_chosen("site", "estuary-courier.example", "address")
    card.lines["site"].rule_asked.emit("site")
    qtbot.waitUntil(
        lambda: session.reader.templates.template("Article").fields["site"].words[0] == "site", timeout=PATIENCE_MS
    )
    # what the template asks for is asked for once
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    assert "asks for Status" in card.foot.problem.text()
    assert session._library.place("Sources").listing(Question()).total == 0
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: place.listing(Question()).total == 1, timeout=PATIENCE_MS)
    (entry_id,) = place.listing(Question()).ids
    assert session.reader.entries.marks(place.key, entry_id)[0].comment == "The first words?"


def test_templates_are_listed_switched_described_and_brought_in(
    qtbot: QtBot, window: MainWindow, session: Session, tmp_path: Path
) -> None:
    station = opened(qtbot, window, "Paper")
    item = station.list.item(session.reader.templates.names().index("Paper"))
    assert item is not None
    item.setCheckState(Qt.CheckState.Unchecked)
    qtbot.waitUntil(lambda: not session.reader.templates.template("Paper").is_on, timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.template is not None and not station.template.is_on, timeout=PATIENCE_MS)
    station.list.setFocus()
    before = session.reader.templates.names()
    qtbot.keyClick(station.list, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(
        lambda: session.reader.templates.names().index("Paper") == before.index("Paper") - 1, timeout=PATIENCE_MS
    )
    station.turn(1)
    page = station.settings
    page.match.selectAll()
    qtbot.keyClicks(page.match, "hots is x")
    assert "Did you mean" in page.match_told.text()
    page.match.selectAll()
    qtbot.keyClicks(page.match, "host is tidal-studies.example")
    page.tags.setFocus()
    qtbot.keyClicks(page.tags, "paper, tides")
    qtbot.keyClick(page.tags, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: session.reader.templates.template("Paper").tags == ("paper", "tides"), timeout=PATIENCE_MS)
    assert [str(rule) for rule in session.reader.templates.template("Paper").match] == ["host is tidal-studies.example"]
    qtbot.keyClicks(page.trial, "http://tidal-studies.example/article/9/1/7")
    qtbot.keyClick(page.trial, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "switched off" in page.trial_told.text(), timeout=PATIENCE_MS)
    page.body.kind.setCurrentIndex(2)
    page.body.kind.activated.emit(2)
    page.body.part.setCurrentIndex(1)
    page.body.part.activated.emit(1)
    qtbot.waitUntil(
        lambda: session.reader.templates.template("Paper").body_for("video").part == "marks", timeout=PATIENCE_MS
    )
    assert session.reader.templates.template("Paper").body.part == "content"
    path = tmp_path / "theirs.json"
    path.write_text(json.dumps({"name": "Theirs", "fields": {"site": {"fixed": "x"}}}))
    station.look_at(path)
    qtbot.waitUntil(lambda: station.pages.currentWidget() is station.incoming, timeout=PATIENCE_MS)
    assert '"fixed": "x"' in station.incoming.form.toPlainText()
    qtbot.mouseClick(station.incoming.take, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Theirs" in session.reader.templates.names(), timeout=PATIENCE_MS)
    qtbot.waitUntil(lambda: station.pages.currentWidget() is station.whole, timeout=PATIENCE_MS)  # and this is told
    path.write_text('{"name": "Theirs", "fields": {"site": {"run": "x"}}}')
    station.look_at(path)
    qtbot.waitUntil(lambda: "fields.site" in window.notice.text.text(), timeout=PATIENCE_MS)
    station.open_fields()
    qtbot.waitUntil(lambda: any(one.key == "site" for one in station.fields.uses), timeout=PATIENCE_MS)
    use = next(at for at, one in enumerate(station.fields.uses) if one.key == "site")
    station.fields.table.selectRow(use)
    station.fields.give_name(station.fields.uses[use], "Outlet")
    qtbot.waitUntil(lambda: "Outlet" in {one.label for one in session.place("Sources").fields}, timeout=PATIENCE_MS)
    out = tmp_path / "out.json"
    station.bring_out(out, is_whole=True)
    qtbot.waitUntil(out.exists, timeout=PATIENCE_MS)
    assert len(json.loads(out.read_text())["templates"]) == len(session.reader.templates.names())


def test_wishes_for_a_slip_are_fulfilled_in_their_order_and_then_it_is_kept(
    qtbot: QtBot, window: MainWindow, session: Session
) -> None:
    window.go(CAPTURE)
    station = window.stack.capture
    station.open(HERON)
    card = station.card
    qtbot.waitUntil(lambda: card.slip is not None, timeout=PATIENCE_MS)
    for passage in ("About sixty people", "the sluice was raised"):
        station.marking.add("idea", {"exact": passage, "prefix": "", "suffix": "", "picture": ""})
    for name in ("Video", "Paper"):
        card.head.template_chosen.emit(name)
    qtbot.keyClick(window, Qt.Key.Key_Return, CONTROL)
    place = session._library.place("Sources")
    qtbot.waitUntil(lambda: place.listing(Question()).total == 1, timeout=PATIENCE_MS)
    (entry,) = place.rows(list(place.listing(Question()).ids))
    assert entry.value("status") == "to read"  # of a video it would be “to watch”
    assert [one.exact for one in session.reader.entries.marks(place.key, entry.id)] == [
        "the sluice was raised",
        "About sixty people",
    ]


def test_what_was_wished_of_a_page_ends_with_it(qtbot: QtBot, window: MainWindow, session: Session) -> None:
    window.go(CAPTURE)
    station = window.stack.capture
    station.open(HERON)
    qtbot.waitUntil(lambda: station.card.slip is not None, timeout=PATIENCE_MS)
    station.card.head.template_chosen.emit("Video")
    station.model.keep()
    assert station.model.keep_wanted is not None
    station._on_began(AID)
    qtbot.waitUntil(lambda: not station.model.is_updating, timeout=PATIENCE_MS)
    assert session._library.place("Sources").listing(Question()).total == 0


def test_the_text_row_leads_to_what_the_text_is_made_of(qtbot: QtBot, window: MainWindow) -> None:
    station = opened(qtbot, window, "Article")
    bench = station.bench
    bench.table.setCurrentCell(len(bench.fields) - 1, 0)
    qtbot.keyClick(bench.table, Qt.Key.Key_Return)
    assert station.stack.currentWidget() is station.settings
