"""The Templates station."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.templates.bench import Bench
from wily_magpie.qt.stations.templates.fields_page import FieldsPage
from wily_magpie.qt.stations.templates.import_page import ImportPage
from wily_magpie.qt.stations.templates.new_page import NewPage
from wily_magpie.qt.stations.templates.settings_page import SettingsPage
from wily_magpie.qt.stations.templates.template_list import TemplateList
from wily_magpie.qt.style.parts import icon_button, label, text_button

BENCH, SETTINGS = range(2)


class TemplatesStation(QWidget):
    """The list of templates, and the chosen one: its bench, and its settings."""

    def __init__(self, desk: StationContext, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.template: Template | None = None
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
        self.list.switched.connect(
            lambda name, is_on: self.do(lambda: self.desk.session.templating.switch(name, is_on=is_on))
        )
        self.list.ordered.connect(lambda names: self.do(lambda: self.desk.session.templating.order(names)))
        self.list.delete_asked.connect(self.delete)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.setContentsMargins(8, 6, 8, 2)
        row.setSpacing(2)
        row.addWidget(text_button("New template", "plus", self.open_new))
        row.addStretch(1)
        row.addWidget(icon_button("copy", "Copy this template", self.copy))
        row.addWidget(icon_button("trash", "Delete this template (Delete)", self.delete))
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
        for name, act in (
            ("Bring templates in …", self.ask_import),
            ("Bring this one out …", lambda: self.ask_export(is_whole=False)),
            ("Bring all capture settings out …", lambda: self.ask_export(is_whole=True)),
            ("Back to the starter", self.back_to_starter),
        ):
            action = menu.addAction(name)
            if action is not None:
                action.triggered.connect(lambda _checked, act=act: act())
        return menu

    def make_middle(self) -> QWidget:
        self.pages = QStackedWidget()
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        head = QHBoxLayout()
        head.setContentsMargins(16, 10, 12, 2)
        head.setSpacing(12)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
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

    def do(self, act: Callable[[], object]) -> None:
        """Does something that may be refused."""
        try:
            act()
        except MagpieError as error:
            self.desk.complain(error)
            self.fill()

    # what is shown

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.fill()

    def fill(self) -> None:
        """Lists the templates in the order in which they are tried, if anybody looks."""
        if not self.isVisible():
            return
        templates = self.desk.session.templates()
        names = [one.name for one in templates]
        name = (
            self.template.name
            if self.template is not None and self.template.name in names
            else names[0]
            if names
            else ""
        )
        self.list.show_templates(templates, name)
        if self.pages.currentWidget() is self.fields:
            self.fields.refresh()
        template = next((one for one in templates if one.name == name), None)
        self.stack.setVisible(template is not None)
        if template is not None:
            self.show_template(template)
        else:
            self.template = None
            self.heading.setText("No templates yet")
            self.about.setText("“New template” below begins one, with no rules or like a starter.")

    def open(self, name: str) -> None:
        """Shows a template, by its name."""
        self.bench.keep()
        self.pages.setCurrentWidget(self.whole)
        self.do(lambda: self.show_template(self.desk.session.template(name)))
        self.list.choose(name)

    def show_template(self, template: Template) -> None:
        """Shows a template."""
        self.template = template
        self.heading.setText(template.name)
        off = "" if template.is_on else " · switched off"
        self.about.setText(f"writes to {template.writes or 'the first place'}{off}")
        self.bench.show_template(template)
        self.settings.show_template(template)

    # what is done

    def keep(self, template: Template) -> None:
        """Keeps a changed template."""
        before = self.template.name if self.template is not None else ""
        self.template = template
        try:
            self.desk.session.templating.save(template, before)
        except MagpieError as error:
            self.settings.refuse(error)
            self.desk.complain(error)
            self.do(lambda: self.show_template(self.desk.session.template(before)))

    def open_new(self) -> None:
        """Shows the ways in which a new template begins."""
        self.new.begin()
        self.pages.setCurrentWidget(self.new)

    def open_fields(self) -> None:
        """Shows the fields of all templates."""
        self.fields.refresh()
        self.pages.setCurrentWidget(self.fields)

    def copy(self) -> None:
        """BlobStore the chosen template."""
        if self.template is not None:
            name = self.template.name

            def act() -> None:
                self.open(self.desk.session.templating.copy(name))
                self.fill()

            self.do(act)

    def delete(self) -> None:
        """Deletes the chosen template; undo brings it back."""
        if self.template is None:
            return
        name = self.template.name

        def act() -> None:
            self.template = None
            self.desk.session.templating.remove(name)
            self.desk.say(f"“{name}” is deleted, with its samples.", (("Undo", self.undo),))

        self.do(act)

    def undo(self) -> None:
        """Takes the last step back."""
        self.do(self.desk.session.undo)

    def back_to_starter(self) -> None:
        """Makes the chosen template what its starter says."""
        if self.template is not None:
            name = self.template.name
            self.do(lambda: self.desk.session.templating.back_to_starter(name))

    def ask_import(self) -> None:
        """Asks for a file and shows what is in it."""
        path, _ = QFileDialog.getOpenFileName(self, "Bring templates in", "", "Templates (*.json);;All files (*)")
        if path:
            self.look_at(Path(path))

    def look_at(self, path: Path) -> None:
        """Shows what a file would bring in."""
        self.incoming.look_at(path, lambda: self.pages.setCurrentWidget(self.incoming))

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
        exchange = self.desk.session.exchange
        self.desk.bridge.start(
            f"Bring templates out into {path.name}",
            lambda _job: exchange.write(path, names),
            lambda count: self.desk.say(f"{count} templates are in {path.name}.", ()),
            self.desk.complain,
        )

    def _on_brought_in(self, names: list[str]) -> None:
        self.pages.setCurrentWidget(self.whole)
        if names:
            self.desk.say(f"{len(names)} templates are brought in.", (("Undo", self.undo),))
            self.open(names[0])
            self.fill()

    def _on_made(self, name: str) -> None:
        self.pages.setCurrentWidget(self.whole)
        if name:
            self.open(name)
            self.fill()
