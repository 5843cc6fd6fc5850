"""Completing what is typed from names that are there already; where several stand with semicolons, the last of them."""

from PyQt6.QtCore import QModelIndex, QObject, Qt
from PyQt6.QtWidgets import QCompleter

from wily_magpie.qt.style.theme import THEME


def dressed(completer: QCompleter) -> QCompleter:
    """With the look of the window, to which the list of a completer does not belong."""
    popup = completer.popup()
    if popup is not None:
        THEME.dress(popup)
    return completer


def plain_completer(names: list[str], parent: QObject) -> QCompleter:
    """Completes a whole text; the typed letters may stand anywhere in a name."""
    made = QCompleter(names, parent)
    made.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
    made.setFilterMode(Qt.MatchFlag.MatchContains)
    return dressed(made)


class PieceCompleter(QCompleter):
    """Completes the piece behind the last semicolon."""

    def __init__(self, names: list[str], parent: QObject) -> None:
        super().__init__(names, parent)
        self.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setFilterMode(Qt.MatchFlag.MatchContains)
        self.before = ""
        dressed(self)

    def splitPath(self, path: str | None) -> list[str]:
        """What is to be completed."""
        before, semicolon, piece = (path or "").rpartition(";")
        self.before = f"{before}; " if semicolon else ""
        return [piece.strip()]

    def pathFromIndex(self, index: QModelIndex) -> str:
        """What stands in the line once a name was chosen."""
        return f"{self.before}{index.data()}"
