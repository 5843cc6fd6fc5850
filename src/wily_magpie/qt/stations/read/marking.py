"""Marking in the text that is read, by mouse and by keyboard: choosing words, and changing the marks that there are."""

from dataclasses import replace

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt
from PyQt6.QtGui import QCursor, QKeyEvent, QMouseEvent, QTextCursor
from PyQt6.QtWidgets import QApplication

from wily_magpie.core.commands.mark_uses import UseMarks
from wily_magpie.core.commands.marks import ChangeMark, PutMark, RemoveMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.exchange.quoting import Quotable, Quotation, Source, quotation
from wily_magpie.core.queries.entries import WholeEntry
from wily_magpie.core.queries.reader import Reader
from wily_magpie.core.settings.known import QUOTATION
from wily_magpie.qt.marked_text import chosen_in
from wily_magpie.qt.reading import ReadingView
from wily_magpie.qt.station_context import StationContext
from wily_magpie.qt.stations.read.mark_strip import MarkStrip
from wily_magpie.qt.stations.read.quotations import mime_of
from wily_magpie.qt.style.mark_looks import LOOKS

END_PX = 7
"""How near to the end of a mark one takes hold of it."""
ONLY_THE_TEXT = "Only the kept text can be marked: title and facts above it are fields of the entry."
NOTHING_CHOSEN = "No words are chosen: drag over some, or F7 and Shift with the arrows."


class ReadMarking(QObject):
    """The hands for it.

    Attributes:
        open: the mark whose strip is shown; None where words were chosen that are none yet.
    """

    def __init__(self, desk: StationContext, view: ReadingView) -> None:
        super().__init__(view)
        self.desk, self.view = desk, view
        self.whole: WholeEntry | None = None
        self.open: Mark | None = None
        self.kind = ""
        self.pressed: QPoint | None = None
        self.held: tuple[Mark, int] | None = None
        """The mark one of whose ends is dragged, and where its other end stands."""
        self.strip = MarkStrip(view, self.chosen_rects)
        self.strip.chosen.connect(self.mark)
        self.strip.commented.connect(lambda comment: self.mark(self.usual_kind(), comment))
        self.strip.copied.connect(lambda: self.copy())
        self.strip.removed.connect(self.remove)
        self.strip.left.connect(self.leave)
        view.laid.connect(self.strip.place)
        view.installEventFilter(self)
        bar, port = view.verticalScrollBar(), view.viewport()
        if bar is not None:
            bar.valueChanged.connect(lambda _value: self.strip.place())
        if port is not None:
            port.installEventFilter(self)

    def chosen_rects(self) -> tuple[QRect, QRect]:
        """Where the beginning and the end of what is chosen are seen."""
        cursor = self.view.textCursor()
        begin, end = self.view.textCursor(), self.view.textCursor()
        begin.setPosition(cursor.selectionStart())
        end.setPosition(cursor.selectionEnd())
        return self.view.cursorRect(begin), self.view.cursorRect(end)

    def usual_kind(self) -> str:
        """The kind that a comment alone makes: that of the open mark, else the one used last."""
        return self.open.kind if self.open is not None else self.kind or LOOKS.names[0]

    @property
    def may_change(self) -> bool:
        """Whether marks can be set here."""
        return not self.desk.overview.is_read_only

    def show_entry(self, whole: WholeEntry | None) -> None:
        """The entry that is read from now on; what was typed on the strip of the one before becomes its mark."""
        before = (self.whole.place.key, self.whole.entry.id) if self.whole is not None else None
        if before is not None and (whole is None or (whole.place.key, whole.entry.id) != before):
            self.keep_comment()
            self.close()
        elif self.open is not None and whole is not None and self.open not in whole.marks:
            self.close()
        self.whole = whole

    # what is chosen

    def offer(self, mark: Mark | None = None) -> None:
        """Shows the strip for a mark, or for the words that are chosen."""
        if mark is None and chosen_in(self.view) is None:
            self.close()
            return
        self.open = mark
        self.strip.show_at(mark, may_change=self.may_change)

    def open_at(self, position: int) -> bool:
        """Opens the mark at a position; whether there is one."""
        found = self.view.marked.at(position)
        if found is not None:
            self.view.setTextCursor(found[1])
            self.offer(found[0])
        return found is not None

    def show_mark(self, mark: Mark) -> None:
        """Goes to where a mark stands."""
        self.close()
        self.view.point_at(mark)

    def close(self) -> None:
        """Puts the strip away."""
        self.open = None
        window = self.view.window()
        if window is not None and self.strip.isAncestorOf(window.focusWidget()):
            self.view.setFocus()  # hidden with the keyboard in it, Qt would go on to the first link of the text
        self.strip.hide()

    def leave(self) -> None:
        """Puts the strip away, and nothing is chosen any more."""
        cursor = self.view.textCursor()
        cursor.clearSelection()
        self.view.setTextCursor(cursor)
        self.close()

    # what is done

    def mark(self, kind: str, comment: str | None = None) -> None:
        """Marks what is chosen, or gives the open mark another kind and comment."""
        fresh = self.open or chosen_in(self.view)
        if not self.may_change or self.whole is None:
            return
        if fresh is None:
            self.desk.say(NOTHING_CHOSEN, ())
        elif self.open is None and self.view.textCursor().selectionStart() < self.view.head_end():
            self.desk.say(ONLY_THE_TEXT, ())
        else:
            self.kind = kind
            self.do(replace(fresh, kind=kind, comment=fresh.comment if comment is None else comment))
            self.leave()

    def do(self, fresh: Mark) -> None:
        """Puts a mark, or what the open one becomes."""
        if self.whole is None:
            return
        place, entry = self.whole.place.key, self.whole.entry.id
        if self.open is None:
            self.desk.bridge.do(PutMark(place, entry, fresh))
        elif fresh != self.open:
            self.desk.bridge.do(ChangeMark(place, entry, self.open, fresh))

    def keep_comment(self) -> None:
        """What was typed on the strip is not lost when one goes on without Return."""
        typed = self.strip.comment.text().strip()
        if not self.strip.isHidden() and typed and typed != (self.open.comment if self.open is not None else ""):
            self.mark(self.usual_kind(), typed)

    def remove(self) -> None:
        """Takes the open mark away."""
        if self.open is None or self.whole is None or not self.may_change:
            return
        self.desk.bridge.do(RemoveMark(self.whole.place.key, self.whole.entry.id, self.open))
        self.leave()

    def copy(self, given: Mark | None = None) -> None:
        """Copies a mark, what is chosen, or the open mark, as a quotation with its source: Markdown, and rich text."""
        chosen = given or self.open or chosen_in(self.view)
        clipboard = QApplication.clipboard()
        if chosen is None or self.whole is None or clipboard is None:
            self.desk.say(NOTHING_CHOSEN, ())
            return
        place, entry, pattern = self.whole.place, self.whole.entry, str(self.desk.person.value(QUOTATION))

        def work(reader: Reader) -> tuple[Quotation, int | None]:
            made = quotation([Quotable(Source(place, entry, entry.body or ""), chosen)], pattern)
            return made, reader.marks.number_of(place.key, entry.id, chosen)

        def done(worked: tuple[Quotation, int | None]) -> None:
            clipboard.setMimeData(mime_of(worked[0]))
            if worked[1] is not None and self.may_change:
                self.desk.bridge.do(UseMarks((worked[1],)))
            self.desk.say("Copied as a quotation with its source.", ())

        self.desk.copying.ask(work, done)

    def toggle_cursor(self) -> None:
        """Gives the text a cursor for the keyboard, or takes it away."""
        by_keys = Qt.TextInteractionFlag.TextSelectableByKeyboard
        flags = self.view.textInteractionFlags()
        is_on = not flags & by_keys
        at = self.view.textCursor()
        if is_on and at.position() < self.view.head_end():
            at = self.view.cursorForPosition(QPoint(0, 0))
            at.setPosition(max(at.position(), self.view.head_end()))
        self.view.setTextInteractionFlags(flags | by_keys if is_on else flags & ~by_keys)
        self.view.setTextCursor(at)
        self.view.setFocus()

    # what is pressed

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and watched is self.view:
            return self.on_key(event)
        if isinstance(event, QMouseEvent) and watched is self.view.viewport():
            return self.on_mouse(event)
        return False

    def on_key(self, event: QKeyEvent) -> bool:
        """Whether a key was for marking."""
        if event.type() == QEvent.Type.KeyRelease and event.key() == Qt.Key.Key_Shift:
            if self.view.textCursor().hasSelection() and self.open is None:
                self.offer()
            return False
        if event.type() != QEvent.Type.KeyPress:
            return False
        at = event.key() - Qt.Key.Key_1
        held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if 0 <= at < len(LOOKS.names) and not held and self.view.textCursor().hasSelection():
            self.mark(LOOKS.names[at], self.strip.comment.text() if not self.strip.isHidden() else None)
            return True
        if event.key() == Qt.Key.Key_Delete and self.open is not None:
            self.remove()
            return True
        if event.key() == Qt.Key.Key_Escape and (not self.strip.isHidden() or self.view.textCursor().hasSelection()):
            self.leave()
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not held:
            if self.strip.isHidden() and not self.open_at(self.view.textCursor().position()):
                return False
            self.strip.comment.setFocus()
            return True
        return False

    def on_mouse(self, event: QMouseEvent) -> bool:
        """Whether the mouse holds the end of a mark."""
        at = event.position().toPoint()
        if event.type() == QEvent.Type.MouseMove:
            return self.drag(at, event)
        if event.button() != Qt.MouseButton.LeftButton:
            return False
        if event.type() == QEvent.Type.MouseButtonPress:
            self.pressed = at
            self.held = self.end_at(at)
            if self.held is None:
                self.keep_comment()
                self.close()
            return self.held is not None
        if event.type() == QEvent.Type.MouseButtonRelease:
            return self.release(at)
        return False

    def end_at(self, at: QPoint) -> tuple[Mark, int] | None:
        """The open mark and its other end, where a point is at one of its ends."""
        if self.open is None or not self.may_change:
            return None
        cursor = self.view.textCursor()
        ends = cursor.selectionStart(), cursor.selectionEnd()
        for here, other in (ends, ends[::-1]):
            one = QTextCursor(cursor)
            one.setPosition(here)
            if self.view.cursorRect(one).adjusted(-END_PX, 0, END_PX, 0).contains(at):
                return self.open, other
        return None

    def drag(self, at: QPoint, event: QMouseEvent) -> bool:
        """Moves the end that is held; shows where one can be held."""
        if self.held is None:
            port = self.view.viewport()
            if self.open is not None and port is not None and not event.buttons():
                is_end = self.end_at(at) is not None
                port.setCursor(QCursor(Qt.CursorShape.SizeHorCursor if is_end else Qt.CursorShape.IBeamCursor))
            return False
        cursor = self.view.textCursor()
        cursor.setPosition(self.held[1])
        cursor.setPosition(self.view.cursorForPosition(at).position(), QTextCursor.MoveMode.KeepAnchor)
        self.view.setTextCursor(cursor)
        self.strip.place()
        return True

    def release(self, at: QPoint) -> bool:
        """Ends what the mouse did: an end that was held, words that were dragged over, or a click at a mark."""
        pressed, self.pressed = self.pressed, None
        if self.held is not None:
            old, self.held = self.held[0], None
            fresh = chosen_in(self.view)
            if self.view.textCursor().selectionStart() < self.view.head_end():
                self.desk.say(ONLY_THE_TEXT, ())
            elif fresh is not None:
                self.do(replace(fresh, kind=old.kind, comment=old.comment))
            self.leave()
            return True
        if self.view.textCursor().hasSelection():
            # the view itself ends its choosing behind this
            self.offer()
        elif pressed is not None and (at - pressed).manhattanLength() <= END_PX and not self.view.anchorAt(at):
            self.open_at(self.view.cursorForPosition(at).position())
        return False
