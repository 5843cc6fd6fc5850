"""All marks of a view, a place or the library, and beside them what is gathered for a chapter, in the order of its draft."""

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.commands.mark_uses import GatherMarks, LeaveMarks, OrderMarks
from wily_magpie.core.entries.entry import short
from wily_magpie.core.queries.marks import BY_DAY, BY_ENTRY, BY_KIND, FoundMark, MarkScope, groups_of
from wily_magpie.qt.actions import add_choice, tip_of
from wily_magpie.qt.last_asked import LastAsked
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.mark_list import MarkList
from wily_magpie.qt.stations.read.quotations import PatternPage
from wily_magpie.qt.stations.read.using import MarkUsing
from wily_magpie.qt.style.mark_looks import LOOKS
from wily_magpie.qt.style.parts import label, text_button, timer

REST_MS = 150
EVERYTHING = "the whole library"
USED = (("used or not", None), ("not used yet", False), ("used", True))
GROUPS = ((BY_ENTRY, "entry"), (BY_KIND, "kind"), (BY_DAY, "day"))
NO_MARKS = "There are no marks here yet.\n\nChoose words in a text that you read, and press 1 to 4."
NONE_FITS = "No mark fits what is asked for above."
NO_CHAPTER = (
    "Marks are gathered here for a chapter, in the order of its draft.\n\n"
    "Choose the chapter above: a note, or any entry. Then drag marks here, or press Ctrl+Return."
)
NOTHING_GATHERED = "Nothing is gathered yet.\n\nDrag marks here, or choose some and press Ctrl+Return."


class MarksDesk(QWidget):
    """See the module.

    Signals:
        left: back to the text.
        opened: a mark that is to be seen at its place, and the ids of all entries of its place that have marks here.
    """

    left = pyqtSignal()
    opened = pyqtSignal(object, object)

    def __init__(self, desk: StationContext, using: MarkUsing) -> None:
        super().__init__()
        self.desk, self.using = desk, using
        self.scope = MarkScope()
        self.view_scope: tuple[str, MarkScope] | None = None
        self.asking = LastAsked(desk.bridge)
        self.rest = timer(self, self.ask)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 8)
        column.setSpacing(8)
        column.addLayout(self.make_head())
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.addWidget(self.make_left())
        self.splitter.addWidget(self.make_right())
        self.splitter.setSizes([760, 420])
        column.addWidget(self.splitter, 1)
        desk.bridge.entries_changed.connect(lambda _place, _ids: self.refresh())
        desk.bridge.places_changed.connect(self.refresh)
        using.chapter_chosen.connect(self.refresh)
        using.used.connect(self.refresh)

    # what there is

    def make_head(self) -> QHBoxLayout:
        """Of what marks are shown, how they are grouped, and which of them."""
        self.back = text_button("Back to the text", "arrow-left", self.left.emit)
        self.of, self.by, self.kind, self.used = QComboBox(), QComboBox(), QComboBox(), QComboBox()
        for box, name in ((self.of, "Marks of"), (self.by, "Groups"), (self.kind, "Kind"), (self.used, "Used or not")):
            box.setAccessibleName(name)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.activated.connect(self._on_asked)
        for told, is_used in USED:
            self.used.addItem(told, is_used)
        self.words = QLineEdit()
        self.words.setPlaceholderText("Words in passages, comments, titles")
        self.words.setAccessibleName("Words in marks")
        self.words.setClearButtonEnabled(True)
        self.words.textChanged.connect(lambda _text: self.rest.start(REST_MS))
        self.count = label()
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.back)
        for told, box in (("Marks of", self.of), ("by", self.by), ("", self.kind), ("", self.used)):
            if told:
                row.addWidget(label(told))
            row.addWidget(box)
        row.addWidget(self.words, 1)
        row.addWidget(self.count)
        return row

    def make_left(self) -> QWidget:
        """The marks, and what can be done with them."""
        self.list = MarkList("Marks", self.using.as_data, takes=False)
        self.list.opened.connect(self.open)
        self.list.used.connect(self.using.note_use)
        self.list.let_go.connect(self.using.say_let_go)
        self.list.customContextMenuRequested.connect(lambda at: self.show_menu(self.list, at))
        add = self.button("Add to the chapter", "add-to-chapter", lambda: self.using.add(self.list.chosen()))
        copy = self.button("Copy as quotation", "copy-quotation", lambda: self.using.copy(self.chosen()))
        note = self.button("New note", "note-from-marks", lambda: self.using.new_note(self.chosen()))
        pattern = text_button("How to quote …", "", self.open_pattern)
        pattern.setToolTip("The pattern of quotations, tried on what is chosen")
        return framed(self.list, (add, copy, note, pattern))

    def make_right(self) -> QWidget:
        """The chapter."""
        self.choose = text_button("Choose a chapter …", "", self.using.choose_chapter)
        self.choose.setToolTip("The text for which marks are gathered: a note, or any entry")
        self.gathered_count = label()
        self.gathered = MarkList("Gathered for the chapter", self.using.as_data, takes=True)
        self.gathered.opened.connect(self.open)
        self.gathered.used.connect(self.using.note_use)
        self.gathered.let_go.connect(self.using.say_let_go)
        self.gathered.came.connect(self.take)
        self.gathered.customContextMenuRequested.connect(lambda at: self.show_menu(self.gathered, at))
        self.gathered.installEventFilter(self)
        self.write = QPushButton("Write into its text")
        self.write.setObjectName("main")
        self.write.setToolTip("Writes the quotations, in this order, behind the text of the chapter; one step")
        self.write.clicked.connect(lambda: self.using.write(self.gathered.marks.marks()))
        out = text_button("Take out", "", self.take_out)
        out.setToolTip("Takes the chosen marks out of the chapter; they stay where they were made (Delete)")
        head = QHBoxLayout()
        head.setContentsMargins(8, 0, 0, 0)
        head.addWidget(self.choose)
        head.addStretch(1)
        head.addWidget(self.gathered_count)
        box = framed(self.gathered, (self.write, out))
        column = box.layout()
        if isinstance(column, QVBoxLayout):
            column.insertLayout(0, head)
            column.setContentsMargins(8, 0, 0, 0)
        return box

    def button(self, text: str, act: str, do: object) -> QWidget:
        """A button for a command."""
        made = text_button(text, "", do)  # type: ignore[arg-type]
        made.setToolTip(tip_of(act))
        return made

    # what is asked

    def show_scope(self, name: str, scope: MarkScope) -> None:
        """Shows the marks of some entries, or of a place, or all.

        Args:
            name: of a view, or of what the entries are; "" for a whole place or library.
        """
        self.view_scope = (name, MarkScope(scope.place, scope.ids)) if scope.ids is not None else self.view_scope
        self.scope = scope
        self.words.setText(scope.words)
        self.used.setCurrentIndex([is_used for _, is_used in USED].index(scope.is_used))
        self.fill()
        self.kind.setCurrentIndex(max(0, self.kind.findData(scope.kind)))
        self.ask()
        self.list.setFocus()

    def fill(self) -> None:
        """What can be asked for now."""
        self.of.clear()
        if self.view_scope is not None:
            self.of.addItem(*self.view_scope)
        for place in self.desk.overview.places:
            self.of.addItem(place.name, MarkScope(place.key))
        self.of.addItem(EVERYTHING, MarkScope())
        wanted = MarkScope(self.scope.place, self.scope.ids)
        at = next((at for at in range(self.of.count()) if self.of.itemData(at) == wanted), self.of.count() - 1)
        self.of.setCurrentIndex(at)
        by, kind = self.by.currentData() or BY_ENTRY, self.kind.currentData() or ""
        self.by.clear()
        for key, told in GROUPS:
            self.by.addItem(told, key)
        within = [one for one in self.desk.overview.places if self.scope.place in ("", one.key)]
        fields = [field for one in within for field in one.fields]
        for key, told in dict(groups_of(fields)).items():
            self.by.addItem(told.lower(), key)
        self.by.setCurrentIndex(max(0, self.by.findData(by)))
        self.kind.clear()
        self.kind.addItem("every kind", "")
        for name in dict.fromkeys((*LOOKS.names, *filter(None, (kind, self.scope.kind)))):
            self.kind.addItem(name, name)
        self.kind.setCurrentIndex(max(0, self.kind.findData(kind)))

    def _on_asked(self, _at: int) -> None:
        of = self.of.currentData()
        self.scope = of if isinstance(of, MarkScope) else MarkScope()
        self.fill()
        self.ask()

    def refresh(self) -> None:
        """Asks anew, if anybody looks."""
        if self.isVisible():
            self.ask()

    def ask(self) -> None:
        """Asks for the marks, and for those of the chapter."""
        chapter = self.using.chapter
        scope = replace(
            self.scope, words=self.words.text(), kind=self.kind.currentData() or "", is_used=self.used.currentData()
        )

        def done(found: tuple[list[FoundMark], list[FoundMark]]) -> None:
            self.show_marks(scope, found[0])
            self.show_chapter(found[1])

        self.asking.ask(
            lambda reader: (reader.marks.found(scope), reader.marks.gathered(*chapter[:2]) if chapter else []),
            done,
            self.desk.complain,
        )

    def show_marks(self, scope: MarkScope, found: Sequence[FoundMark]) -> None:
        """Shows what was found."""
        keep_chosen(self.list, found, self.by.currentData() or "")
        is_narrowed = bool(scope.words.strip() or scope.kind or scope.is_used is not None)
        self.list.show_hint(NONE_FITS if is_narrowed else NO_MARKS)
        self.count.setText(f"{len(found):,} marks" if len(found) != 1 else "1 mark")

    def show_chapter(self, gathered: Sequence[FoundMark]) -> None:
        """Shows what is gathered."""
        chapter = self.using.chapter
        self.choose.setText(f"For: {short(chapter[2], 36)} …" if chapter is not None else "Choose a chapter …")
        keep_chosen(self.gathered, gathered, "")
        self.gathered.show_hint(NOTHING_GATHERED if chapter is not None else NO_CHAPTER)
        self.gathered_count.setText(f"{len(gathered):,} gathered" if gathered else "")
        self.write.setEnabled(bool(gathered) and self.using.may_change)

    # what is done

    def chosen(self) -> list[FoundMark]:
        """The marks that are chosen in the list that has the keyboard, else in the one of all."""
        return self.gathered.chosen() if self.gathered.hasFocus() else self.list.chosen()

    def open(self, found: FoundMark) -> None:
        """Shows a mark at its place."""
        every = dict.fromkeys(one.entry.id for one in self.list.marks.marks() if one.place.key == found.place.key)
        self.opened.emit(found, list(every))

    def show_menu(self, marks: MarkList, at: QPoint) -> None:
        """What can be done with the chosen marks, by a right click."""
        index = marks.indexAt(at)
        commands, menu = self.desk.commands, QMenu(marks)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        add_choice(menu, "Show at its place\tReturn", lambda: marks.open_at(index))
        for name in ("copy-quotation", "copy-plain", "add-to-chapter", "note-from-marks", "marks-to-journal"):
            commands.add_to(menu, name)
        if marks is self.gathered:
            add_choice(menu, "Take out of the chapter\tDel", self.take_out)
        if marks.chosen():
            menu.popup(marks.mapToGlobal(at))

    def open_pattern(self) -> None:
        """Opens the page of the pattern, with what is chosen, else the first marks."""
        PatternPage(self.desk, self.chosen() or self.list.marks.marks(), self).open()

    def take(self, numbers: list[int], row: int) -> None:
        """Marks were dropped at a row of the chapter: gathered, and put there."""
        there = [one.number for one in self.gathered.marks.marks()]
        order = [
            *(one for one in there[:row] if one not in numbers),
            *numbers,
            *(one for one in there[row:] if one not in numbers),
        ]
        if self.using.chapter is None:
            self.using.choose_chapter(lambda: self.take(numbers, row))
        if self.using.chapter is None or not self.using.may_change:
            return
        place, entry_id, _ = self.using.chapter
        fresh = [one for one in numbers if one not in there]
        command = GatherMarks(place, entry_id, fresh, order) if fresh else OrderMarks(place, entry_id, order)
        self.desk.bridge.do(command)

    def take_out(self) -> None:
        """Takes the chosen marks out of the chapter."""
        chosen = [one.number for one in self.gathered.chosen()]
        if chosen and self.using.chapter is not None and self.using.may_change:
            self.desk.bridge.do(LeaveMarks(*self.using.chapter[:2], chosen))

    def shift(self, step: int) -> None:
        """Moves the chosen marks of the chapter up or down by one."""
        there = [one.number for one in self.gathered.marks.marks()]
        chosen = [one.number for one in self.gathered.chosen()]
        if not chosen or self.using.chapter is None or not self.using.may_change:
            return
        rest = [one for one in there if one not in chosen]
        at = max(0, min(there.index(chosen[0]) + step, len(rest)))
        order = [*rest[:at], *chosen, *rest[at:]]
        if order != there:
            self.desk.bridge.do(OrderMarks(*self.using.chapter[:2], order))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Delete takes marks out of the chapter, Alt with the arrows moves them."""
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return super().eventFilter(watched, event)
        if event.key() == Qt.Key.Key_Delete:
            self.take_out()
            return True
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is not None and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.shift(step)
            return True
        return super().eventFilter(watched, event)


def keep_chosen(view: MarkList, found: Sequence[FoundMark], by: str) -> None:
    """Shows marks; those that were chosen stay chosen, and one stays where one was."""
    chosen = [one.number for one in view.chosen()]
    bar = view.verticalScrollBar()
    at = bar.value() if bar is not None else 0
    view.marks.show(found, by)
    view.choose(chosen)
    if bar is not None:
        bar.setValue(at)


def framed(inside: QWidget, buttons: Sequence[QWidget]) -> QWidget:
    """Something with buttons below it."""
    box = QWidget()
    column = QVBoxLayout(box)
    column.setContentsMargins(0, 0, 8, 0)
    column.setSpacing(6)
    column.addWidget(inside, 1)
    foot = QHBoxLayout()
    foot.setSpacing(4)
    for button in buttons:
        foot.addWidget(button)
    foot.addStretch(1)
    column.addLayout(foot)
    return box
