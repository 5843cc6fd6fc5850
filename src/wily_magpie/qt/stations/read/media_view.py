"""A film or a recording that is kept: played in the station, with its chapters, at any speed, and marked at a moment."""

from PyQt6.QtCore import QObject, Qt, QTimer, QUrl, pyqtSignal
from PyQt6.QtMultimedia import QAudioOutput, QMediaPlayer
from PyQt6.QtMultimediaWidgets import QVideoWidget
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.moments import chapters_of, moment, seconds_of
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import label, text_button

SPEEDS = ("0.75", "1", "1.25", "1.5", "1.75", "2")
BACK_MS, LIST_PX = 10_000, 150


def look_for_overrides(one: QObject) -> None:
    """Has the bindings look now whether Python overrides what Qt calls when signals are connected and disconnected.

    They look once for each object, which wants Python's lock. Left to the player's threads, which disconnect when it is stopped,
    it would wait for a lock that is ours while we wait for them.
    """
    one.destroyed.connect(one.objectName)
    one.destroyed.disconnect(one.objectName)


class MediaView(QWidget):
    """See the module.

    Signals:
        left: back to the text.
    """

    left = pyqtSignal()

    def __init__(self, desk: StationContext) -> None:
        super().__init__()
        self.desk = desk
        self.whole: WholeEntry | None = None
        self.begin_ms = 0
        self.player, self.sound, self.film = QMediaPlayer(self), QAudioOutput(self), QVideoWidget()
        for one in (self.player, self.sound, self.film):
            look_for_overrides(one)
        self.player.setAudioOutput(self.sound)
        self.player.setVideoOutput(self.film)
        self.player.positionChanged.connect(self.show_moment)
        self.player.durationChanged.connect(self._on_length)
        self.player.playingChanged.connect(lambda is_on: self.play.setText("Pause" if is_on else "Play"))
        self.player.hasVideoChanged.connect(self.film.setVisible)
        self.player.errorChanged.connect(self._on_error)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment")
        self.slider.sliderMoved.connect(self.player.setPosition)
        self.told = label()
        self.play = text_button("Play", "", self.turn)
        self.play.setToolTip("Play or pause (Space)")
        self.speed = QComboBox()
        self.speed.setAccessibleName("Speed")
        self.speed.addItems([f"{speed} ×" for speed in SPEEDS])
        self.speed.setCurrentIndex(1)
        self.speed.activated.connect(lambda at: self.player.setPlaybackRate(float(SPEEDS[at])))
        back = text_button("10 s back", "", lambda: self.go_to_ms(self.player.position() - BACK_MS))
        as_text = text_button("As text", "", self.left.emit)
        row = QHBoxLayout()
        row.setContentsMargins(12, 4, 12, 4)
        for widget in (self.play, back, self.speed):
            row.addWidget(widget)
        row.addWidget(self.slider, 1)
        row.addWidget(self.told)
        row.addWidget(as_text)
        self.chapters = QListWidget()
        self.chapters.setAccessibleName("Chapters and marks")
        self.chapters.setMaximumHeight(LIST_PX)
        self.chapters.itemActivated.connect(self._on_chapter)
        self.chapters.itemClicked.connect(self._on_chapter)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.film, 1)
        column.addLayout(row)
        column.addLayout(self.make_marking())
        column.addWidget(self.chapters)

    def make_marking(self) -> QHBoxLayout:
        """A mark at the moment that is played."""
        self.comment, self.kind = QLineEdit(), QComboBox()
        self.comment.setPlaceholderText("your words on this moment, then Return")
        self.comment.setAccessibleName("Words on this moment")
        self.comment.returnPressed.connect(self.mark)
        self.kind.setAccessibleName("Kind of mark")
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 12, 6)
        row.addWidget(text_button("Mark this moment", "", self.mark))
        row.addWidget(self.kind)
        row.addWidget(self.comment, 1)
        return row

    def show_file(self, whole: WholeEntry, path: str, seconds: int) -> None:
        """Shows a film or a recording of an entry, ready at a moment."""
        self.begin_ms = seconds * 1000
        self.kind.clear()
        self.kind.addItems(LOOKS.names)
        self.show_entry(whole)
        self.film.hide()
        self.player.setSource(QUrl.fromLocalFile(path))
        self.play.setFocus()

    def show_entry(self, whole: WholeEntry) -> None:
        """Chapters that the text tells, and marks, in the order of their moments."""
        self.whole = whole
        lines = [(seconds, words, "") for seconds, words in chapters_of(whole.entry.body or "")]
        lines += [
            (at, mark.comment or mark.exact, mark.kind)
            for mark in whole.marks
            if (at := seconds_of(mark.locator)) is not None
        ]
        self.chapters.clear()
        for seconds, words, kind in sorted(lines):
            item = QListWidgetItem(f"{moment(seconds)}  {words}{f'  ({kind})' if kind else ''}")
            item.setData(Qt.ItemDataRole.UserRole, seconds)
            self.chapters.addItem(item)
        self.chapters.setVisible(bool(lines))
        for widget in (self.comment, self.kind):
            widget.setEnabled(not self.desk.overview.is_read_only)

    def _on_error(self) -> None:
        if told := self.player.errorString():
            self.desk.say(f"This cannot be played: {told}", ())

    def _on_length(self, length: int) -> None:
        """It is loaded, and its length known."""
        self.slider.setRange(0, length)
        if length and self.begin_ms:
            QTimer.singleShot(0, self.begin)  # the player has not ended loading before this returns

    def begin(self) -> None:
        """Goes to where one comes in; a player that was not begun knows no moments."""
        self.player.pause()
        self.go_to_ms(self.begin_ms)
        self.begin_ms = 0

    def _on_chapter(self, item: QListWidgetItem) -> None:
        self.go_to_ms(int(item.data(Qt.ItemDataRole.UserRole)) * 1000)

    def go_to_ms(self, at: int) -> None:
        """Goes to a moment."""
        self.player.setPosition(max(0, at))

    def turn(self) -> None:
        """Plays, or pauses."""
        if self.player.isPlaying():
            self.player.pause()
        else:
            self.player.play()

    def stop(self) -> None:
        """Plays no more, and lets go of the file."""
        self.player.stop()
        self.player.setSource(QUrl())

    @property
    def seconds(self) -> int:
        """The moment that is played."""
        return self.player.position() // 1000

    def show_moment(self, at: int) -> None:
        """Shows where one is."""
        if not self.slider.isSliderDown():
            self.slider.setValue(at)
        self.told.setText(f"{moment(at // 1000)} of {moment(self.player.duration() // 1000)}")

    def show_mark(self, mark: Mark) -> bool:
        """Goes to the moment of a mark; whether it has one."""
        at = seconds_of(mark.locator)
        if at is not None:
            self.go_to_ms(at * 1000)
        return at is not None

    def mark(self) -> None:
        """Marks the moment, with what was typed."""
        whole, at = self.whole, moment(self.seconds)
        if whole is None or self.desk.overview.is_read_only:
            return
        words = self.comment.text().strip()
        made = Mark(f"{whole.entry.title}, {at}", self.kind.currentText(), words, locator=at)
        self.desk.bridge.do(PutMark(whole.place.key, whole.entry.id, made), lambda _none: self.comment.clear())
