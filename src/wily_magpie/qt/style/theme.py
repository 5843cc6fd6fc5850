"""Puts the tokens on the application: fonts, palette and one style sheet."""

from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QGuiApplication, QIcon, QPalette
from PyQt6.QtWidgets import QAbstractButton, QApplication, QWidget

from wily_magpie.qt.style import icons, tokens
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.tokens import DARK, LIGHT, Colours

DRESSED = "dressed"
"""Of a window that has the style sheet, and gets the next one."""
SHEET = """
QMainWindow, QDialog, QWidget#ground {{ background: {ground}; }}
QWidget#card, QFrame#card {{ background: {card}; border: 1px solid {rule}; border-radius: 2px; }}
QLabel#slate, QLabel#reason {{ color: {slate}; }}
QLabel#reason, QLabel#origin {{ font-size: {small}pt; }}
QLabel#origin {{ color: {brass}; }}
QLabel#problem {{ color: {alarm}; font-size: {small}pt; }}
QLabel#heading {{ font-size: 15pt; font-weight: 600; }}
QLabel#empty {{ color: {slate}; font-size: 12pt; }}
QLineEdit, QPlainTextEdit, QTextEdit, QComboBox, QSpinBox, QDateEdit {{
  background: {card}; border: 1px solid {rule}; border-radius: 2px; padding: 4px 6px;
  selection-background-color: {petrol}; selection-color: {card}; }}
QLineEdit:focus, QPlainTextEdit:focus, QComboBox:focus, QTextEdit:focus {{ border: 1px solid {petrol}; }}
QLineEdit[problem="true"], QPlainTextEdit[problem="true"] {{ border: 1px solid {alarm}; }}
QLineEdit:read-only {{ background: {ground}; }}
QComboBox::drop-down {{ border: none; width: 20px; }}
QComboBox::down-arrow {{ image: url("{caret}"); width: 10px; height: 6px; }}
QComboBox QAbstractItemView {{ background: {card}; border: 1px solid {rule}; outline: none;
  selection-background-color: {wash}; selection-color: {ink}; }}
QPushButton {{ background: {card}; border: 1px solid {rule}; border-radius: 2px; padding: 5px 12px; }}
QPushButton:hover {{ border-color: {petrol}; }}
QPushButton:focus {{ border: 1px solid {petrol}; }}
QPushButton:disabled {{ color: {slate}; background: {ground}; }}
QPushButton#main {{ background: {petrol}; color: {card}; border: 1px solid {petrol}; font-weight: 600; }}
QPushButton#main:disabled {{ background: {rule}; border-color: {rule}; color: {slate}; }}
QPushButton#main:focus {{ border: 2px solid {ink}; padding: 4px 11px; }}
QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: 2px; padding: 4px 6px; }}
QToolButton:hover {{ border-color: {rule}; }}
QToolButton:focus {{ border-color: {petrol}; }}
QToolButton:disabled {{ color: {slate}; }}
QToolButton::menu-indicator {{ image: none; width: 0; }}
QToolButton::menu-button {{ border: none; }}
QToolButton#station {{ border: none; border-bottom: 3px solid transparent; border-radius: 0; padding: 10px 4px 8px 4px;
  margin: 0 8px; color: {slate}; }}
QToolButton#way {{ border: none; border-bottom: 2px solid transparent; border-radius: 0; color: {slate}; }}
QToolButton#way:checked {{ color: {ink}; border-bottom: 2px solid {petrol}; }}
QToolButton#way:focus {{ background: {wash}; }}
QToolButton#station:checked {{ color: {ink}; border-bottom: 3px solid {petrol}; font-weight: 600; }}
QToolButton#station:hover, QToolButton#station:focus {{ color: {petrol}; }}
QPushButton#piece, QPushButton#verb, QPushButton#add, QPushButton#joint, QPushButton#cross {{
  background: transparent; border: none; border-radius: 0;
  padding: 2px 1px; margin: 0 3px; min-width: 0; }}
QPushButton#piece {{ font-weight: 600; color: {petrol}; border-bottom: 1px solid {petrol}; }}
QPushButton#verb {{ border-bottom: 1px dotted {slate}; }}
QPushButton#add {{ color: {slate}; }}
QPushButton#narrow, QPushButton#narrowed {{ background: transparent; border: none; padding: 3px 4px; text-align: left; }}
QPushButton#narrow {{ color: {petrol}; }}
QPushButton#narrowed {{ background: {wash}; color: {ink}; }}
QPushButton#narrow:hover, QPushButton#narrow:focus {{ background: {wash}; }}
QFrame#drop {{ background: {card}; border: 1px solid {petrol}; }}
QFrame#drop QListWidget {{ border: none; }}
QPushButton#joint {{ border-bottom: 1px dotted {rule}; }}
QPushButton#cross {{ color: {slate}; margin: 0 4px 0 0; padding: 0 2px; }}
QPushButton#joint:hover, QPushButton#joint:focus {{ background: {wash}; color: {ink}; }}
QPushButton#cross:hover {{ background: {wash}; color: {alarm}; }}
QPushButton#piece:hover, QPushButton#piece:focus, QPushButton#verb:hover, QPushButton#verb:focus, QPushButton#add:hover,
QPushButton#add:focus {{ background: {wash}; color: {ink}; }}
QWidget#topline {{ background: {ground}; border-bottom: 1px solid {rule}; }}
QWidget#footline {{ border-top: 1px solid {rule}; }}
QToolButton#day {{ padding: 0; }}
QToolButton#day[written="true"] {{ color: {petrol}; font-weight: 600; border-bottom: 2px solid {petrol}; }}
QToolButton#day[today="true"] {{ border: 1px solid {slate}; }}
QToolButton#day:checked {{ background: {wash}; }}
QToolButton#beside:checked {{ background: {wash}; border-bottom: 2px solid {petrol}; }}
QListView#queue {{ border: none; background: {ground}; }}
QWidget#markstrip {{ background: {card}; border: 1px solid {slate}; border-radius: 2px; }}
QWidget#notice {{ background: {wash}; border: 1px solid {petrol}; border-radius: 2px; }}
QWidget#notice[alarm="true"] {{ background: {card}; border: 1px solid {alarm}; }}
QWidget#known {{ background: {wash}; border-left: 3px solid {petrol}; }}
QTableView, QTreeView, QListView, QTextBrowser {{ background: {card}; border: 1px solid {rule}; outline: none;
  selection-background-color: {wash}; selection-color: {ink}; gridline-color: {rule}; alternate-background-color: {card}; }}
QTreeView#places {{ background: {ground}; border: none; border-right: 1px solid {rule}; }}
QListView#templates {{ background: {ground}; border: none; border-right: 1px solid {rule}; }}
QTreeView#places {{ show-decoration-selected: 1; }}
QTreeView#places::item {{ padding: 4px 2px; }}
QListView::item {{ padding: 5px 8px; }}
QTreeView::item:selected, QListView::item:selected, QTableView::item:selected {{ background: {wash}; color: {ink}; }}
QTreeView::branch {{ background: {ground}; }}
QTreeView::branch:selected {{ background: {wash}; }}
QTableWidget::item {{ padding: 3px 6px; }}
QHeaderView {{ background: {ground}; }}
QHeaderView::section {{ background: {ground}; color: {slate}; border: none; border-right: 1px solid {rule};
  border-bottom: 1px solid {rule}; padding: 5px 6px; }}
QTableCornerButton::section {{ background: {ground}; border: none; }}
QWidget#slipline QLineEdit, QWidget#slipline QComboBox, QWidget#slipline QPlainTextEdit {{ border: none;
  border-bottom: 1px solid {rule}; border-radius: 0; padding: 2px 4px; min-height: 20px; }}
QWidget#slipline QLineEdit:focus, QWidget#slipline QComboBox:focus, QWidget#slipline QPlainTextEdit:focus {{
  border-bottom: 2px solid {petrol}; padding-bottom: 1px; }}
QWidget#slipline QLineEdit[problem="true"], QWidget#slipline QPlainTextEdit[problem="true"] {{
  border-bottom: 2px solid {alarm}; }}
QToolButton#small {{ font-size: {small}pt; padding: 1px 4px; color: {slate}; text-align: left; }}
QToolButton#markkind {{ font-size: {small}pt; padding: 1px 4px 1px 0; color: {slate}; }}
QToolButton#small:hover, QToolButton#small:focus {{ color: {ink}; background: {wash}; }}
QToolButton#markkind:hover, QToolButton#markkind:focus {{ color: {ink}; background: {wash}; }}
QLineEdit#comment {{ border: none; border-bottom: 1px dotted {rule}; border-radius: 0; padding: 1px 4px; }}
QLabel#newname {{ background: {card}; color: {brass}; border: 1px solid {brass}; border-radius: 2px; padding: 3px 6px; }}
QLabel#done {{ color: {moss}; }}
QLabel#ink {{ color: {ink}; }}
QSplitter::handle:vertical {{ height: 5px; background: {ground}; border-top: 1px solid {rule}; border-bottom: 1px solid {rule}; }}
QScrollArea {{ border: none; background: transparent; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {rule}; border-radius: 2px; min-height: 28px; min-width: 28px; margin: 2px; }}
QScrollBar::handle:hover {{ background: {slate}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QSplitter::handle {{ background: {rule}; }}
QSplitter::handle:horizontal {{ width: 1px; }}
QMenu {{ background: {card}; border: 1px solid {rule}; padding: 4px; }}
QMenu::item {{ padding: 5px 22px 5px 14px; }}
QMenu::item:selected {{ background: {wash}; color: {ink}; }}
QMenu::item:disabled {{ color: {slate}; }}
QMenu::separator {{ height: 1px; background: {rule}; margin: 4px 8px; }}
QToolTip {{ background: {card}; color: {ink}; border: 1px solid {rule}; padding: 3px; }}
QProgressBar {{ background: transparent; border: none; max-height: 3px; }}
QProgressBar::chunk {{ background: {petrol}; }}
QCheckBox::indicator, QListView::indicator {{ width: 13px; height: 13px; border: 1px solid {slate}; background: {card}; }}
QCheckBox::indicator:checked, QListView::indicator:checked {{ border: 1px solid {petrol}; image: url("{check}"); }}
"""


class Theme:
    """The look in force; `colours` is what painters of our own use."""

    def __init__(self) -> None:
        self.colours: Colours = LIGHT
        self.sheet = ""
        self.buttons: list[tuple[QAbstractButton, str]] = []

    def is_dark(self) -> bool:
        """Whether dark colours are in force."""
        return self.colours is DARK

    def apply(self, application: QApplication, choice: str = "system") -> None:
        """Puts a look on the application: "light", "dark" or "system"."""
        hints = QGuiApplication.styleHints()
        system_is_dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
        self.colours = DARK if choice == "dark" or (choice == "system" and system_is_dark) else LIGHT
        application.setFont(QFont(font_family(tokens.UI_FONT), round(tokens.UI_SIZE_PT)))
        application.setPalette(self.palette())
        look = "dark" if self.is_dark() else "light"
        images = {name: str(Path(__file__).parent / f"{name}-{look}.svg") for name in ("caret", "check")}
        fonts = {"ui": tokens.UI_FONT, "small": tokens.SMALL_SIZE_PT, **images}
        self.sheet = SHEET.format(**fonts, **vars(self.colours))
        for window in application.topLevelWidgets():
            if window.property(DRESSED):
                window.setStyleSheet(self.sheet)
        self.buttons = [(button, name) for button, name in self.buttons if not sip.isdeleted(button)]
        for button, name in self.buttons:
            button.setIcon(self.icon(name))

    def dress(self, window: QWidget) -> None:
        """Puts the style sheet on a window and all that belongs to it.

        It is not the application's: that would be worked out anew for each part that is put into another one on the way to a window,
        which is a third of what it takes to make a station.
        """
        window.setProperty(DRESSED, True)
        window.setStyleSheet(self.sheet)

    def palette(self) -> QPalette:
        """The same colours for what the style sheet does not reach."""
        c, palette = self.colours, QPalette()
        roles = {
            QPalette.ColorRole.Window: c.ground, QPalette.ColorRole.WindowText: c.ink, QPalette.ColorRole.Base: c.card,
            QPalette.ColorRole.AlternateBase: c.ground, QPalette.ColorRole.Text: c.ink, QPalette.ColorRole.Button: c.card,
            QPalette.ColorRole.ButtonText: c.ink, QPalette.ColorRole.Highlight: c.wash,
            QPalette.ColorRole.HighlightedText: c.ink, QPalette.ColorRole.Link: c.petrol,
            QPalette.ColorRole.PlaceholderText: c.slate, QPalette.ColorRole.ToolTipBase: c.card,
            QPalette.ColorRole.ToolTipText: c.ink, QPalette.ColorRole.Mid: c.rule, QPalette.ColorRole.Accent: c.petrol,
        }  # fmt: skip
        for role, colour in roles.items():
            palette.setColor(role, QColor(colour))
        return palette

    def set_icon(self, button: QAbstractButton, name: str) -> None:
        """Gives a button an icon that follows the look."""
        button.setIcon(self.icon(name))
        self.buttons.append((button, name))

    def icon(self, name: str) -> QIcon:
        """An icon of the Phosphor set, in ink; slate where it is disabled."""
        return icons.icon(name, self.colours.ink, self.colours.slate)


THEME = Theme()
