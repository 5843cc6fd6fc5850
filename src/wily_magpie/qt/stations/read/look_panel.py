"""The panel in which a person sets how kept texts look; what is set is seen at once."""

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QFormLayout, QFrame, QPushButton, QWidget

from wily_magpie.core.settings.known import READING_SETTINGS, READING_SIZE
from wily_magpie.core.settings.setting import Setting
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.parts import plain_tip, timer

STEPS = {READING_SIZE.name: 0.5}
UNITS = {"reading_size_pt": " pt", "reading_measure": " letters", "reading_line_percent": " %"}

REST_MS = 120


class LookPanel(QFrame):
    """Opens over the text, below a button.

    Signals:
        held: something else holds now.
    """

    held = pyqtSignal()

    def __init__(self, desk: StationContext, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.desk = desk
        self.setObjectName("card")
        self.setAccessibleName("How texts look")
        self.pending: dict[str, str] = {}
        self.rest = timer(self, self.write)
        self.held.connect(self.fill)
        form = QFormLayout(self)
        self.inputs: dict[str, QComboBox | QDoubleSpinBox] = {}
        for setting in READING_SETTINGS:
            made = self.inputs[setting.name] = self.choice(setting) if setting.choices else self.number(setting)
            made.setToolTip(plain_tip(setting.about))
            form.addRow(setting.title, made)
        self.usual = QPushButton("As usual")
        self.usual.clicked.connect(self.set_usual)
        form.addRow("", self.usual)

    def choice(self, setting: Setting) -> QComboBox:
        """The editor of one of several."""
        made = QComboBox()
        made.addItems(setting.choices)
        made.activated.connect(lambda at: self.set(setting, setting.choices[at]))
        return made

    def number(self, setting: Setting) -> QDoubleSpinBox:
        """The editor of a number."""
        made = QDoubleSpinBox()
        made.setRange(setting.least, setting.most)
        made.setDecimals(1 if setting is READING_SIZE else 0)
        made.setSingleStep(STEPS.get(setting.name, 5))
        made.setSuffix(UNITS[setting.name])
        made.valueChanged.connect(lambda value: self.set(setting, f"{value:g}"))
        return made

    def open_below(self, button: QWidget) -> None:
        """Opens it with what holds."""
        self.fill()
        self.adjustSize()
        corner = button.mapToGlobal(QPoint(button.width() - self.width(), button.height() + 4))
        self.move(corner)
        self.show()

    def fill(self) -> None:
        """Shows what holds, unless something else is about to."""
        if self.pending:
            return
        for setting in READING_SETTINGS:
            made, value = self.inputs[setting.name], self.desk.person.value(setting)
            made.blockSignals(True)
            if isinstance(made, QComboBox):
                made.setCurrentText(str(value))
            else:
                made.setValue(float(str(value)))
            made.blockSignals(False)

    def set(self, setting: Setting, text: str) -> None:
        """Sets one, for good, once no other comes at once."""
        self.pending[setting.name] = text
        self.rest.start(REST_MS)

    def write(self) -> None:
        """Sets what was asked for; the file is written elsewhere than in this thread."""
        person, pending = self.desk.person, self.pending
        self.pending = {}
        if not pending:
            return

        def write_all() -> None:
            for name, text in pending.items():
                person.set(name, text)

        self.desk.bridge.write(write_all, lambda _none: self.held.emit(), self.desk.complain)

    def step(self, setting: Setting, by: int) -> None:
        """Sets a number one step further."""
        held = self.pending.get(setting.name) or str(self.desk.person.value(setting))
        now = float(held) + by * STEPS.get(setting.name, 5)
        self.set(setting, f"{min(max(now, setting.least), setting.most):g}")

    def set_usual(self) -> None:
        """Sets all as it is where nobody has said anything."""
        for setting in READING_SETTINGS:
            self.set(setting, "")
