"""Pages of the window itself: the settings, the steps, the list of keys."""

from collections.abc import Callable, Mapping
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QGridLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.catalogue import WINDOW_ACTS, Where
from wily_magpie.core.commands.history import UndoTo
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.entries.step import Step
from wily_magpie.core.errors import MagpieError, UserError
from wily_magpie.core.settings.known import LIBRARY_SETTINGS, PERSON_SETTINGS, value_of
from wily_magpie.core.settings.person import PersonSettings
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.companion_part import CompanionPart
from wily_magpie.qt.editors.field_editor import FieldEditor
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.style.parts import PlainLabel, foot_of, head_of, label, plain_tip, scroll_area

STATES = ("", "undone", "passed over")
NAME_PX, BELOW_PX = 130, 8
"""So that the names of all parts end at one line."""

STEP_ROLE = int(Qt.ItemDataRole.UserRole)


def table_of(heads: list[str], name: str, widths: dict[int, int]) -> QTableWidget:
    """A table to be read; its first column takes the room that is left."""
    table = QTableWidget(0, len(heads))
    table.setAccessibleName(name)
    table.setHorizontalHeaderLabels(heads)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setShowGrid(False)
    rows, header = table.verticalHeader(), table.horizontalHeader()
    if rows is not None and header is not None:
        rows.hide()
        header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        header.setHighlightSections(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for column, width in widths.items():
            header.resizeSection(column, width)
    return table


def bold(title: str) -> QLabel:
    """The head of a part."""
    head = PlainLabel(title)
    font = head.font()
    font.setBold(True)
    head.setFont(font)
    head.setContentsMargins(0, 12, 0, 2)
    return head


class SettingsPage(QDialog):
    """All settings, each with its sentence, made from what the core knows of them; each holds at once."""

    def __init__(
        self, bridge: Bridge, person: PersonSettings, hold: Callable[[Setting], None], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.bridge, self.person, self.hold = bridge, person, hold
        column = head_of(self, "Settings", "What is changed here holds at once. Blank is as usual.")
        self.editors: dict[str, FieldEditor] = {}
        self.told = label("", "problem", wraps=True)
        inside = QWidget()
        form = QVBoxLayout(inside)
        form.setContentsMargins(0, 0, 0, 0)
        form.addLayout(self.part("Yours, in every library", PERSON_SETTINGS, person.texts, self.set_person))
        library = bridge.overview.settings
        form.addLayout(self.part("Of this library", LIBRARY_SETTINGS, library, self.set_library))
        form.addWidget(bold("The companion in your browsers"))
        form.addWidget(CompanionPart(bridge))
        form.addWidget(label(f"Yours stand in {person.path}.", "reason", wraps=True))
        form.addStretch(1)
        column.addWidget(scroll_area(inside), 1)
        column.addWidget(self.told)
        column.addLayout(foot_of(self))
        self.resize(580, 640)

    def part(
        self, title: str, settings: tuple[Setting, ...], texts: Mapping[str, str], act: Callable[[Setting], None]
    ) -> QGridLayout:
        """The settings of one owner."""
        form = QGridLayout()  # and no form layout: there a sentence is as high as Qt would have wrapped it
        form.setVerticalSpacing(2)
        form.setHorizontalSpacing(14)
        form.setColumnStretch(1, 1)
        form.addWidget(bold(title), 0, 0, 1, 2)
        for setting in settings:
            editor = self.editors[setting.name] = FieldEditor(setting.field)
            editor.setAccessibleName(setting.title)
            editor.set_text(setting.kind.show(value_of(setting, texts)))
            editor.finished.connect(partial(act, setting))
            name = label(setting.title)
            name.setMinimumWidth(NAME_PX)
            row = form.rowCount()
            form.addWidget(name, row, 0)
            form.addWidget(editor, row, 1)
            about = label(setting.about, "reason", wraps=True)
            about.setContentsMargins(0, 0, 0, BELOW_PX)
            form.addWidget(about, row + 1, 1)
        return form

    def set_person(self, setting: Setting) -> None:
        """Sets one of the person's."""
        editor = self.editors[setting.name]
        text = editor.text()

        def done(_nothing: object) -> None:
            self.told.setText("")
            editor.set_problem(False)
            self.hold(setting)

        self.bridge.write(lambda: self.person.set(setting.name, text), done, partial(self.refuse, editor))

    def set_library(self, setting: Setting) -> None:
        """Sets one of the library's."""
        editor = self.editors[setting.name]
        command = SetSetting(setting.name, editor.text())
        self.bridge.do(command, lambda _none: self.told.setText(""), partial(self.refuse, editor))

    def refuse(self, editor: FieldEditor, error: MagpieError) -> None:
        """Says why something cannot be set."""
        editor.set_problem(True)
        self.told.setText(str(error))


class StepsPage(QDialog):
    """What was done, when, by whom; one goes back to the point before a step."""

    def __init__(self, bridge: Bridge, say: Callable[[str, tuple[()]], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bridge, self.say, self.asking = bridge, say, LastAsked(bridge)
        about = (
            "The latest stands first. Going back takes a step and all above it back, the latest first, whoever did them; "
            "it stops, and says so, at one that cannot be."
        )
        column = head_of(self, "Steps", about)
        self.table = table_of(["What", "When", "By", "State"], "Steps", {1: 150, 2: 110, 3: 90})
        self.table.itemSelectionChanged.connect(self.show_button)
        column.addWidget(self.table, 1)
        self.back = QPushButton("Go back to before this")
        self.back.setObjectName("main")
        self.back.clicked.connect(self.go_back)
        column.addLayout(foot_of(self, self.back))
        self.resize(760, 520)
        bridge.history_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Lists them as they are now."""
        self.asking.ask(lambda reader: reader.steps(), self.show_steps)

    def show_steps(self, steps: list[Step]) -> None:
        """Shows them."""
        at = self.table.currentRow()
        self.table.setRowCount(len(steps))
        for row, step in enumerate(steps):
            by = {"window": "a window", "shell": "the shell", "companion": "a browser"}.get(step.origin, step.origin)
            for column, text in enumerate((step.label, step.at[:16].replace("T", " "), by, STATES[step.state])):
                item = QTableWidgetItem(text)
                item.setToolTip(plain_tip(text))
                item.setData(STEP_ROLE, step)
                self.table.setItem(row, column, item)
        if steps:
            self.table.selectRow(min(max(0, at), len(steps) - 1))
        self.show_button()

    def chosen(self) -> Step | None:
        """The chosen step."""
        item = self.table.item(self.table.currentRow(), 0)
        step = item.data(STEP_ROLE) if item is not None else None
        return step if isinstance(step, Step) else None

    def show_button(self) -> None:
        """Only what is done can be taken back."""
        step = self.chosen()
        self.back.setEnabled(step is not None and step.state == 0 and not self.bridge.overview.is_read_only)

    def go_back(self) -> None:
        """Takes the chosen step and all above it back."""
        step = self.chosen()
        if step is not None:
            self.bridge.start_command(UndoTo(step.id), self._on_back)

    def _on_back(self, ended: tuple[int, UserError | None]) -> None:
        count, error = ended
        steps = f"{count} steps are" if count != 1 else "One step is"
        self.say(f"{steps} taken back.{f' It stopped: {error}' if error is not None else ''}", ())


class KeysPage(QDialog):
    """All commands with their keys, by where they hold."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = head_of(self, "Keys", "Every command can also be found by its name: Ctrl+K.")
        self.table = table_of(["Command", "Keys", "Where"], "Keys", {1: 190, 2: 190})
        acts = [(where, act) for where in Where for act in WINDOW_ACTS if act.where is where]
        self.table.setRowCount(len(acts))
        for row, (where, act) in enumerate(acts):
            for at, text in enumerate((act.title, " or ".join(act.keys), where)):
                self.table.setItem(row, at, QTableWidgetItem(text))
        column.addWidget(self.table, 1)
        column.addLayout(foot_of(self))
        self.resize(760, 560)
