"""The Templates station."""

from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QMenu,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.command import Command
from wily_magpie.core.commands.templates import (
    BackToStarter,
    CopyTemplate,
    OrderTemplates,
    RemoveTemplate,
    SaveTemplate,
    SwitchTemplate,
)
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.exchange.templates import write
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.actions import tip_of
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.templates.bench import Bench
from wily_magpie.qt.stations.templates.fields_page import FieldsPage
from wily_magpie.qt.stations.templates.import_page import ImportPage
from wily_magpie.qt.stations.templates.model import KnownTemplates, TemplatesState, look
from wily_magpie.qt.stations.templates.new_page import NewPage
from wily_magpie.qt.stations.templates.settings_page import SettingsPage
from wily_magpie.qt.stations.templates.template_list import TemplateList
from wily_magpie.qt.style.parts import icon_button, label, text_button

BENCH, SETTINGS = range(2)


class TemplatesStation(QWidget):
    """The list of templates, and the chosen one: its bench, and its settings."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.asking, self.asking_chosen = desk, LastAsked(desk.bridge), LastAsked(desk.bridge)
        self.state = TemplatesState()
        self.opening = ""
        """The name of a template that is to be opened when the next answer is there, which knows it."""
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.addWidget(self.make_left())
        self.splitter.addWidget(self.make_middle())
        self.splitter.setStretchFactor(1, 1)
        self.splitter.setSizes([215, 1065])
        layout.addWidget(self.splitter)
        desk.bridge.templates_changed.connect(self.fill)
        desk.bridge.places_changed.connect(self.fill)

    def make_left(self) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.list = TemplateList()
        self.list.chosen.connect(self.open)
        self.list.switched.connect(lambda name, is_on: self.do(SwitchTemplate(name, is_on)))
        self.list.ordered.connect(lambda names: self.do(OrderTemplates(tuple(names))))
        self.list.delete_asked.connect(self.delete)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 2)
        row.setSpacing(2)
        row.addWidget(text_button("New template", "plus", self.open_new))
        row.addStretch(1)
        row.addWidget(icon_button("copy", tip_of("copy-template"), self.copy))
        row.addWidget(icon_button("trash", tip_of("delete-template"), self.delete))
        column.addLayout(row)
        more = QHBoxLayout()
        more.setContentsMargins(8, 0, 8, 8)
        more.setSpacing(2)
        more.addWidget(text_button("Fields", "list-bullets", self.open_fields))
        self.more = text_button("In and out", "arrows-left-right")
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.more.setMenu(self.make_menu())
        more.addWidget(self.more)
        more.addStretch(1)
        column.addLayout(more)
        return left

    def make_menu(self) -> QMenu:
        menu = QMenu(self)
        menu.aboutToShow.connect(self.fill_menu)
        return menu

    def fill_menu(self) -> None:
        """What can be done with templates besides."""
        menu = self.more.menu()
        if menu is not None:
            menu.clear()
            for name in ("bring-in", "bring-one-out", "bring-out", "back-to-starter"):
                self.desk.commands.add_to(menu, name)

    def make_middle(self) -> QWidget:
        self.pages = QStackedWidget()
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(16, 10, 12, 2)
        head.setSpacing(12)
        self.heading = label("", "heading")
        head.addWidget(self.heading)
        self.about = label("")
        head.addWidget(self.about, 1)
        self.ways = [text_button(name) for name in ("Bench", "Pages and keeping")]
        for at, way in enumerate(self.ways):
            way.setObjectName("way")
            way.setCheckable(True)
            way.clicked.connect(lambda _checked, at=at: self.turn(at))
            head.addWidget(way)
        column.addLayout(head)
        self.bench = Bench(self.desk)
        self.settings = SettingsPage(self.desk)
        self.bench.edited.connect(self.keep)
        self.bench.text_asked.connect(lambda: self.turn(SETTINGS))
        self.settings.edited.connect(self.keep)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.bench)
        self.stack.addWidget(self.settings)
        column.addWidget(self.stack, 1)
        self.fields = FieldsPage(self.desk)
        self.incoming = ImportPage(self.desk, self._on_brought_in)
        self.new = NewPage(self.desk, self._on_made)
        for page in (whole, self.fields, self.incoming, self.new):
            self.pages.addWidget(page)
        self.whole = whole
        self.turn(BENCH)
        return self.pages

    def turn(self, at: int) -> None:
        """Shows the bench, or the settings."""
        for number, way in enumerate(self.ways):
            way.setChecked(number == at)
        self.stack.setCurrentIndex(at)

    @property
    def template(self) -> Template | None:
        """The chosen one."""
        return self.state.template

    def do(self, command: Command[Any]) -> None:
        """Does something that may be refused; then the list shows what holds."""
        self.desk.bridge.do(command, None, self.refuse)

    def refuse(self, error: MagpieError) -> None:
        """Says what was refused."""
        self.desk.complain(error)
        self.fill()

    # what is shown

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.fill()

    def fill(self) -> None:
        """Lists the templates in the order in which they are tried, if anybody looks."""
        if self.isVisible():
            self.asking.ask(look, self.show_known)
            if self.pages.currentWidget() is self.fields:
                self.fields.refresh()

    def show_known(self, known: KnownTemplates) -> None:
        """The templates have come."""
        self.state = self.state.after(known)
        if self.opening:
            self.state, self.opening = self.state.opened(self.opening), ""
        self.list.show_templates(known.templates, self.template.name if self.template is not None else "")
        self.show_chosen()

    def open(self, name: str) -> None:
        """Opens a template, by its name, as the library has it now."""
        self.bench.keep()
        self.pages.setCurrentWidget(self.whole)
        self.state = self.state.opened(name)
        self.list.choose(name)
        self.show_chosen()
        self.opening = name
        self.asking.ask(look, self.show_known)

    def show_chosen(self) -> None:
        """Shows the chosen template."""
        template = self.template
        self.stack.setVisible(template is not None)
        if template is None:
            self.asking_chosen.forget()
            self.heading.setText("No templates yet")
            self.about.setText("“New template” below begins one, with no rules or like a starter.")
            return
        self.heading.setText(template.name)
        off = "" if template.is_on else " · switched off"
        about = f"writes to {template.writes or 'the first place'}{off}"
        self.about.setText(about)
        self.asking_chosen.ask(
            lambda reader: (
                len(reader.templates.sample_rows(template.name)),
                *reader.templates.chosen_on(template.name),
            ),
            lambda found: self.say_where_chosen(about, *found),
            lambda _error: None,
        )
        self.bench.show_template(template, self.state.fields)
        self.settings.show_template(template, self.state.fields)

    def say_where_chosen(self, about: str, total: int, count: int, others: tuple[str, ...]) -> None:
        """Says on which of its samples the template would be proposed by itself."""
        rest = f"; {' and '.join(others)} would be on the rest" if others else ""
        if total:
            self.about.setText(f"{about} · proposed by itself on {count} of its {total} samples{rest}")

    # what is done

    def keep(self, template: Template) -> None:
        """Keeps a changed template; what is refused is said, and the template shown as the library has it."""
        before = self.template.name if self.template is not None else ""
        self.state = self.state.sent(template)

        def done(_: object) -> None:
            self.state = self.state.arrived()
            self.fill()

        def failed(error: MagpieError) -> None:
            self.state = self.state.arrived().opened(before)
            self.settings.refuse(error)
            self.refuse(error)

        self.desk.bridge.do(SaveTemplate(template, before), done, failed)

    def open_new(self) -> None:
        """Shows the ways in which a new template begins."""
        self.new.begin()
        self.pages.setCurrentWidget(self.new)

    def open_fields(self) -> None:
        """Shows the fields of all templates."""
        self.fields.refresh()
        self.pages.setCurrentWidget(self.fields)

    def copy(self) -> None:
        """Copies the chosen template."""
        if self.template is not None:
            self.desk.bridge.do(CopyTemplate(self.template.name), self.open)

    def delete(self) -> None:
        """Deletes the chosen template; undo brings it back."""
        if self.template is not None:
            name = self.template.name
            self.desk.bridge.do(RemoveTemplate(name), lambda _: self.say(f"“{name}” is deleted, with its samples."))

    def say(self, text: str) -> None:
        """Says what was done, with the way to take it back."""
        self.desk.say(text, self.desk.undoing())

    def back_to_starter(self) -> None:
        """Makes the chosen template what its starter says."""
        if self.template is not None:
            name = self.template.name
            said = f"“{name}” is again as its starter says."
            self.desk.bridge.do(BackToStarter(name), lambda _: self.say(said), self.refuse)

    def ask_import(self) -> None:
        """Asks for a file and shows what is in it."""
        path, _ = QFileDialog.getOpenFileName(self, "Bring templates in", "", "Templates (*.json);;All files (*)")
        if path:
            self.look_at(Path(path))

    def look_at(self, path: Path) -> None:
        """Shows what a file would bring in."""
        self.incoming.look_at(path, partial(self.pages.setCurrentWidget, self.incoming))

    def ask_export(self, *, is_whole: bool) -> None:
        """Asks where to, and writes the chosen template or all of them there, with their samples."""
        if self.template is None:
            return
        usual = "capture settings.json" if is_whole else f"{self.template.name}.json"
        path, _ = QFileDialog.getSaveFileName(self, "Bring templates out", usual, "Templates (*.json)")
        if path:
            self.bring_out(Path(path), is_whole=is_whole)

    def bring_out(self, path: Path, *, is_whole: bool) -> None:
        """Writes templates into a file."""
        names = () if is_whole or self.template is None else (self.template.name,)
        self.desk.bridge.start(
            f"Bring templates out into {path.name}",
            lambda counter, _job: write(counter.reader, path, names),
            lambda count: self.desk.say(f"{count} templates are in {path.name}.", ()),
        )

    def _on_brought_in(self, names: list[str]) -> None:
        self.pages.setCurrentWidget(self.whole)
        if names:
            self.say(f"{len(names)} templates are brought in." if len(names) > 1 else f"“{names[0]}” is brought in.")
            self.open(names[0])

    def _on_made(self, name: str) -> None:
        self.pages.setCurrentWidget(self.whole)
        if name:
            self.open(name)
