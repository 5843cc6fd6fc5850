"""The page on which a copy of the library is looked at and brought back, and what is offered where a library does not open."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QFileDialog, QMessageBox, QPushButton, QTableWidgetItem, QWidget

from wily_magpie.core.errors import NO_ROOM, EnvironmentFailure, MagpieError
from wily_magpie.core.session.restore import CopyLook, look_at_copy
from wily_magpie.qt.style.parts import alone, foot_of, head_of, label
from wily_magpie.qt.waiting import wait_for
from wily_magpie.qt.window_pages import table_of

ABOUT = (
    "A copy of the library takes its place. The library as it is now is not lost: it is moved into a folder of its own beside it. "
    "Notes folders stay as they are."
)
LOST = ("library-missing", "library-damaged", "log-damaged", "sql")
"""Why a library cannot be opened that a copy would help."""
RESTORE, LOOK_ONLY, CLOSE = "restore", "look only", "close"


class RestorePage(QDialog):
    """Shows what a copy holds beside what is there.

    Attributes:
        chosen: the copy that the person wants back, once the page is accepted.
    """

    def __init__(self, folder: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.folder = folder
        self.chosen: Path | None = None
        self.look: CopyLook | None = None
        column = head_of(self, "Bring a copy back", ABOUT)
        self.told = label("Choose the folder that the library was copied to.", wraps=True)
        self.told.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        column.addWidget(self.told)
        self.table = table_of(["Collection", "In the copy", "Here now"], "What the copy holds", {1: 120, 2: 120})
        for at in (1, 2):
            head = self.table.horizontalHeaderItem(at)
            if head is not None:
                head.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        column.addWidget(self.table, 1)
        self.problem = label("", "problem", wraps=True)
        self.problem.hide()
        column.addWidget(self.problem)
        choose = QPushButton("Choose a folder …")
        choose.clicked.connect(self.ask_folder)
        self.bring = QPushButton("Bring this copy back")
        self.bring.setObjectName("main")
        self.bring.setEnabled(False)
        self.bring.clicked.connect(self.take)
        column.addLayout(foot_of(self, choose, self.bring))
        self.resize(620, 460)

    def ask_folder(self) -> None:
        """Has a folder chosen."""
        given = QFileDialog.getExistingDirectory(self, "The folder with the copy", str(self.folder.parent))
        if given:
            self.show_copy(Path(given))

    def show_copy(self, copy: Path) -> None:
        """Looks at a copy and shows what it holds, or why it is none."""
        looks: list[CopyLook] = []
        problem = ""
        try:
            wait_for("Looking at the copy …", lambda progress: looks.append(look_at_copy(copy, self.folder, progress)))
        except MagpieError as error:
            problem = str(error)
        self.look = looks[0] if looks else None
        self.bring.setEnabled(self.look is not None)
        self.table.setRowCount(0)
        if self.look is not None:
            self.fill(self.look)
            problem = missing_in(self.look)
        else:
            self.told.setText(f"{copy}")
        self.problem.setText(problem)
        self.problem.setVisible(bool(problem))

    def fill(self, look: CopyLook) -> None:
        """Shows what it holds."""
        made = look.made.replace("T", " ").rstrip("Z")
        known = "" if look.places else " It is of an earlier version; what it holds is seen once it is opened."
        aside = f" What is here now would be moved to “{look.aside.name}”." if look.aside else ""
        self.told.setText(f"{look.copy}, of {made} UTC.{known}{aside}")
        here = look.here or {}
        names = list(dict.fromkeys([*look.places, *here]))
        self.table.setRowCount(len(names))
        for row, name in enumerate(names):
            for at, text in enumerate((name, counted(look.places.get(name)), counted(here.get(name)))):
                item = QTableWidgetItem(text)
                if at:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, at, item)

    def take(self) -> None:
        """The person wants it back."""
        if self.look is not None:
            self.chosen = self.look.copy
            self.accept()


def counted(number: int | None) -> str:
    """How many entries, as shown; none where there is no such collection."""
    return "—" if number is None else f"{number:,}"


def missing_in(look: CopyLook) -> str:
    """That files are missing in the copy itself, or damaged; or ""."""
    count = len(look.missing)
    files = "One kept file is" if count == 1 else f"{count:,} kept files are"
    lacking = f"{files} missing in the copy itself; entries would lack them." if count else ""
    return f"{lacking} {look.told_damaged}".strip()


def ask_after_failure(error: MagpieError) -> str:
    """What is to be done where a library does not open: RESTORE, LOOK_ONLY or CLOSE."""
    box = failure_box(error)
    box.exec()
    clicked = box.clickedButton()
    return str(clicked.property("answer")) if clicked is not None else CLOSE


def failure_box(error: MagpieError) -> QMessageBox:
    """The question, with a button for each answer that helps."""
    box = alone(QMessageBox.Icon.Critical, error.message)
    box.setInformativeText(error.way_out)
    answers = [(RESTORE, "Bring a copy back …")] if error.slug in LOST else []
    answers += [(LOOK_ONLY, "Look only")] if isinstance(error, EnvironmentFailure) and error.slug in NO_ROOM else []
    for answer, text in (*answers, (CLOSE, "Close")):
        role = QMessageBox.ButtonRole.RejectRole if answer == CLOSE else QMessageBox.ButtonRole.AcceptRole
        button = box.addButton(text, role)
        if button is not None:
            button.setProperty("answer", answer)
    return box
