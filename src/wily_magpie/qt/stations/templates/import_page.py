"""What a file of templates would bring in, to be looked at before anything is added."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.exchange.templates import Incoming, Look, bringing_in, look_at_import, read
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.templates.open_form import to_json
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.parts import button, in_row, label
from wily_magpie.qt.style.tokens import MONO_FONT


class ImportPage(QWidget):
    """Shows the templates of a file, each to be taken or left.

    Args:
        done: called with the names that were brought in, and without any where the person went back.
    """

    def __init__(self, desk: StationContext, done: Callable[[list[str]], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.done = done
        self.text = ""
        self.found = Look(())
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 14, 20, 12)
        column.setSpacing(8)
        column.addWidget(label("Bring templates in", "heading"))
        self.about = label("", wraps=True)
        column.addWidget(self.about)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        self.list = QListWidget()
        self.list.setAccessibleName("Templates in the file")
        self.list.currentRowChanged.connect(self.show_one)
        self.list.itemChanged.connect(lambda _item: self.count())
        self.form = QPlainTextEdit()
        self.form.setReadOnly(True)
        self.form.setAccessibleName("The chosen template")
        self.form.setStyleSheet(f'font-family: "{font_family(MONO_FONT)}"; font-size: 9pt;')
        splitter.addWidget(self.list)
        splitter.addWidget(self.form)
        splitter.setSizes([360, 560])
        column.addWidget(splitter, 1)
        self.told = label("", "origin", wraps=True)
        column.addWidget(self.told)
        self.take = button("Bring in", self.take_in, is_main=True)
        every = button("Tick all", self.tick_all)
        column.addLayout(in_row(self.take, every, button("Leave it", lambda: self.done([]))))

    def look_at(self, path: Path, shown: Callable[[], None]) -> None:
        """Shows what is in a file, and tells when it does; one that holds no templates is said."""

        def work(reader: Reader) -> tuple[str, Look]:
            text = read(path)
            return text, look_at_import(reader, text)

        def done(found: tuple[str, Look]) -> None:
            self.show_incoming(path, *found)
            shown()

        self.desk.bridge.ask(work, done)

    def show_incoming(self, path: Path, text: str, found: Look) -> None:
        """Lists the templates of a file."""
        self.text, self.found = text, found
        holds = f"{path.name} holds {len(found.templates)} templates"
        if found.is_whole:
            names = ", ".join(place.name for place in found.places)
            holds = f"{holds}, all capture settings, and the places {names}; ticked all, it becomes as it was there"
        self.about.setText(f"{holds}. Nothing is changed until you bring them in. {' '.join(found.faults)}")
        self.list.clear()
        for one in found.templates:
            word = "replaces the one that is here" if one.is_known else "new"
            item = QListWidgetItem(f"{one.template.name}  ·  {word}")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked if one.is_known else Qt.CheckState.Checked)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        self.count()

    def chosen(self) -> list[Incoming]:
        """Those that are ticked."""
        return [
            one
            for row, one in enumerate(self.found.templates)
            if (item := self.list.item(row)) is not None and item.checkState() == Qt.CheckState.Checked
        ]

    def tick_all(self) -> None:
        """Ticks all of them."""
        for row in range(self.list.count()):
            item = self.list.item(row)
            if item is not None:
                item.setCheckState(Qt.CheckState.Checked)

    def count(self) -> None:
        """Says how many are ticked."""
        count = len(self.chosen())
        self.take.setText(f"Bring in {count} template{'' if count == 1 else 's'}")
        self.take.setEnabled(count > 0)

    def show_one(self, row: int) -> None:
        """Shows one whole."""
        if 0 <= row < len(self.found.templates):
            one = self.found.templates[row]
            self.form.setPlainText(to_json(one.template))
            samples = f"It comes with {len(one.samples)} sample pages." if one.samples else ""
            self.told.setText(" ".join(filter(None, (*one.told, samples))))

    def take_in(self) -> None:
        """Brings the ticked ones in."""
        self.take.setEnabled(False)
        self.desk.bridge.start_command(bringing_in(self.found, self.text, self.chosen()), self.done, self._on_failed)

    def _on_failed(self, error: MagpieError) -> None:
        self.take.setEnabled(True)
        self.desk.complain(error)
