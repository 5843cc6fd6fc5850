"""One window a library: a second one says so, and brings up the first or looks only."""

from pathlib import Path

from PyQt6.QtWidgets import QMessageBox

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.session.window_lock import WindowLock
from wily_magpie.qt.style.parts import alone

SHOW, LOOK_ONLY, NOTHING = "show", "look only", "nothing"


class SingleInstance:
    """Of a library's folder.

    Attributes:
        is_free: whether no other window has the library open, and it can be written to.
        reason: why it is not.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.lock: WindowLock | None = None
        self.reason = ""
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self.lock = WindowLock(folder)
            self.is_free = self.lock.is_mine
        except (OSError, EnvironmentFailure) as error:
            self.is_free, self.reason = False, str(error)

    @property
    def is_taken(self) -> bool:
        """Whether another window has the library open."""
        return self.lock is not None and not self.lock.is_mine

    def ask(self) -> str:
        """Asks what to do where the door is not free; the first window is brought up here already."""
        box = self.question()
        box.exec()
        clicked = box.clickedButton()
        answer = str(clicked.property("answer")) if clicked is not None else NOTHING
        if answer == SHOW and not self.bring_up():
            text = "The other window does not answer. Look for it among your windows."
            alone(QMessageBox.Icon.Information, text).exec()
        return answer

    def question(self) -> QMessageBox:
        """The question, with a button for each answer."""
        box = alone(QMessageBox.Icon.NoIcon)
        if self.is_taken:
            box.setText("This library is open in another window already.")
            box.setInformativeText("Two windows of one library would share one undo. This one can look only.")
        else:
            box.setText("This library cannot be written to.")
            box.setInformativeText(f"{self.reason} It can be looked at.")
        answers = [(SHOW, "Show that window")] if self.is_taken else []
        for answer, text in (*answers, (LOOK_ONLY, "Look only"), (NOTHING, "Close")):
            role = QMessageBox.ButtonRole.RejectRole if answer == NOTHING else QMessageBox.ButtonRole.AcceptRole
            button = box.addButton(text, role)
            if button is not None:
                button.setProperty("answer", answer)
        return box

    def bring_up(self) -> bool:
        """Asks the first window to show itself; whether it answered."""
        from wily_magpie.core.companion.door import call  # seldom needed

        return call(self.lock.told() if self.lock is not None else "", {"what": "show"}) is not None

    def tell(self, path: Path) -> None:
        """Says where this window is reached, to those that come later."""
        if self.is_free and self.lock is not None:
            self.lock.tell(str(path))

    def close(self) -> None:
        """Lets others in."""
        if self.lock is not None:
            self.lock.close()
