"""Chooses among places, or templates, by name: what is typed filters them, arrows move among them and into nothing else."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QCompleter, QWidget

from wily_magpie.qt.editors.completing import dressed


class NameBox(QComboBox):
    """See the module.

    Signals:
        picked: what stands for the name that the person chose.
        missed: a text was typed that names nothing; what was chosen before is shown again.
    """

    picked = pyqtSignal(str)
    missed = pyqtSignal(str)

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName(name)
        self.setEditable(True)
        self.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.shown = ""
        self.is_entered = False
        """Whether the keyboard has just come in: what is typed then replaces the name."""
        completer = QCompleter(self.model(), self)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
        self.setCompleter(dressed(completer))
        self.activated.connect(lambda index: self.pick(str(self.itemData(index))))
        line = self.lineEdit()
        if line is not None:
            line.editingFinished.connect(self.settle)
            line.installEventFilter(self)
        self.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Wheel:
            event.ignore()  # scrolling past it must not choose another one
            return True
        line = self.lineEdit()
        if event is not None and line is not None and watched is line:
            if event.type() == QEvent.Type.FocusIn:
                line.selectAll()
                self.is_entered = True
            elif event.type() == QEvent.Type.MouseButtonRelease and self.is_entered:
                self.is_entered = False  # the click that came in has put the cursor where it was
                line.selectAll()
        return super().eventFilter(watched, event)

    def show_names(self, names: Sequence[tuple[str, str]]) -> None:
        """Offers (what stands for it, name)."""
        self.clear()
        for key, name in names:
            self.addItem(name, key)
        self.show_chosen(self.shown)

    def show_chosen(self, key: str) -> None:
        """Shows the one that is chosen; what is being typed meanwhile is left alone."""
        self.shown = key
        line = self.lineEdit()
        if line is not None and line.hasFocus() and line.isModified():
            return
        at = self.findData(key)
        self.setCurrentIndex(at)
        self.setEditText(self.itemText(at) if at >= 0 else "")
        if line is not None:
            line.setModified(False)
            line.setCursorPosition(0)
            if line.hasFocus():
                line.selectAll()

    def pick(self, key: str) -> None:
        """The person chose one."""
        is_other = key != self.shown
        self.put_back(key)
        if is_other:
            self.picked.emit(key)

    def put_back(self, key: str) -> None:
        """Shows the chosen one in the place of what was typed."""
        line = self.lineEdit()
        if line is not None:
            line.setModified(False)
        self.show_chosen(key)

    def settle(self) -> None:
        """What was typed is the name of one, or begins or is a part of only one; else it is told."""
        typed = self.currentText().strip().casefold()
        names = [(str(self.itemData(at)), self.itemText(at).casefold()) for at in range(self.count())]
        exact = [key for key, name in names if name == typed]
        part = exact or [key for key, name in names if typed and typed in name]
        if exact or len(part) == 1:
            self.pick(part[0])
        elif typed:
            self.missed.emit(self.currentText().strip())
        self.put_back(self.shown)
