"""The foot of the slip: what stands in the way, and what can become of it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wily_magpie.core.entries.kept import KeepAs
from wily_magpie.core.templates.slip import Lack, Slip
from wily_magpie.qt.style.flow import clear
from wily_magpie.qt.style.parts import WrappedLabel, label, plain_tip


class SlipFoot(QWidget):
    """See the module.

    Signals:
        asked: the slip is to be kept (as what, or None for what is usual); open_asked: and opened afterwards.
        update_asked: what of the page would replace what of the entry is to be shown.
        later_asked: only the address is to be kept.
        make_asked: what the template wants and is not there is to be made.
        again_asked: the page is to be read again, since its text was not there.
    """

    asked = pyqtSignal(object)
    update_asked = pyqtSignal()
    later_asked = pyqtSignal()
    open_asked = pyqtSignal()
    make_asked = pyqtSignal(object)
    again_asked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 16, 10)
        column.setSpacing(4)
        self.problem = WrappedLabel()
        self.problem.setObjectName("problem")
        self.about_file = label(wraps=True)
        self.makes = label(wraps=True)
        self.makes.setObjectName("origin")
        self.again = QPushButton("Read again")
        self.again.setToolTip("Fill the slip anew from the page as it stands by now; what you typed stays")
        self.again.clicked.connect(self.again_asked)
        told = QHBoxLayout()
        told.addWidget(self.problem, 1)
        told.addWidget(self.again)
        column.addLayout(told)
        for line in (self.about_file, self.makes):
            column.addWidget(line)
        for widget in (self.problem, self.again, self.about_file, self.makes):
            widget.hide()
        self.lacks = QVBoxLayout()
        self.lacks.setSpacing(2)
        column.addLayout(self.lacks)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.keep = QPushButton("Keep")
        self.keep.setObjectName("main")
        self.keep.setToolTip("Ctrl+Return")
        self.keep_open = QPushButton("Keep and open")
        self.update_entry = QPushButton("Update …")
        self.update_entry.setToolTip("Choose what of the page as it is today is taken over into the entry")
        self.keep_second = QPushButton("Keep a second one")
        self.later = QPushButton("Later")
        self.later.setToolTip("Keep only the address, to be read later")
        self.keep.clicked.connect(lambda: self.asked.emit(None))
        self.keep_open.clicked.connect(self.open_asked)
        self.update_entry.clicked.connect(self.update_asked)
        self.keep_second.clicked.connect(lambda: self.asked.emit(KeepAs.NEW))
        self.later.clicked.connect(self.later_asked)
        for button in (self.keep, self.keep_open, self.update_entry, self.keep_second):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.later)
        column.addLayout(row)

    def clear(self, *, has_address: bool) -> None:
        """There is no slip.

        Args:
            has_address: whether an address is there that could be kept alone.
        """
        for widget in (self.problem, self.again, self.about_file, self.makes):
            widget.hide()
        clear(self.lacks)
        self.later.setEnabled(has_address)
        self.later.show()

    def set_enabled(self, *, is_enabled: bool, slip: Slip | None) -> None:
        """Whether there is anything to keep, and how it could be."""
        is_known = slip is not None and slip.known is not None
        for widget in (self.keep, self.keep_open, self.update_entry, self.keep_second):
            widget.setEnabled(is_enabled)
        self.update_entry.setVisible(is_known)
        self.keep_second.setVisible(is_known)
        self.keep_open.setVisible(not is_known)
        self.later.setVisible(not is_known)
        makes = slip is not None and any(
            told.endswith(" will be made.") or told.startswith("Makes") for told in slip.told
        )
        self.keep.setText("Add to it" if is_known else "Keep and make that" if makes else "Keep")
        addition = "Add what you typed and marked to that entry; its text stays (Ctrl+Return)"
        self.keep.setToolTip(plain_tip(addition if is_known else "Ctrl+Return"))

    def show_slip(self, slip: Slip) -> None:
        """Says what is to be known of a slip before it is kept."""
        is_file = bool(slip.reading.page.file)
        self.problem.setText(slip.reading.notice)
        self.problem.setVisible(bool(slip.reading.notice) and not is_file)
        self.again.setVisible(slip.reading.is_thin and slip.reading.page.way == "rendered")
        self.about_file.setText(slip.reading.notice)
        self.about_file.setVisible(is_file)
        self.makes.setText(" ".join(slip.told))
        self.makes.setVisible(bool(slip.told))
        clear(self.lacks)
        for lack in slip.lacks:
            self.lacks.addWidget(self.lack_row(lack))
        self.later.setEnabled(True)

    def lack_row(self, lack: Lack) -> QWidget:
        """What is not there, and the way out."""
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(label(lack.text, "problem", wraps=True), 1)
        if lack.what:
            make = QPushButton("Make them" if len(lack.keys) > 1 else "Make it")
            make.setAccessibleName(f"Make it: {lack.text}")
            make.clicked.connect(lambda: self.make_asked.emit(lack))
            row.addWidget(make)
        return box

    def complain(self, text: str) -> None:
        """Says what stands in the way."""
        self.problem.setText(text)
        self.problem.show()
