"""The slip's text in three ways: block by block with a tick each, as Markdown to be edited, and as it will read."""

import re
from collections.abc import Callable

from PyQt6.QtCore import QModelIndex, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.pages.page import CAME_LATE, Block, Content, Finding
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.slip_blocks import shown_content
from wily_magpie.qt.editors.findings_list import FindingsList
from wily_magpie.qt.editors.long_text import LongText
from wily_magpie.qt.reading import ReadingView, Shown
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.parts import label, text_button
from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import MONO_FONT

LEAST_PX, ROW_PX, BOX_PX, GAP_PX = 96, 24, 12, 8
BLOCK_ROLE = int(Qt.ItemDataRole.UserRole)
WAYS = ("Blocks", "Markdown", "As it will read")


def said(block: Block) -> str:
    """A block in a line."""
    alternative = re.search(r"!\[([^\]]+)\]", block.markdown)
    text = " ".join(block.text.split())[:200]
    return text or (alternative[1] if alternative else f"a {block.kind}")


class BlockDelegate(QStyledItemDelegate):
    """A tick box, the block's beginning, and at the right what it is or why it was left out."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        block = index.data(BLOCK_ROLE)
        if painter is None or not isinstance(block, Block):
            return
        c, metrics = THEME.colours, option.fontMetrics
        painter.save()
        is_chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.fillRect(option.rect, QColor(c.wash if is_chosen else c.card))
        middle = option.rect.center().y()
        box = QRect(option.rect.left() + GAP_PX, middle - BOX_PX // 2, BOX_PX, BOX_PX)
        painter.setPen(QPen(QColor(c.petrol if block.is_kept else c.slate), 1))
        painter.drawRect(box)
        if block.is_kept:
            painter.setPen(QPen(QColor(c.petrol), 2))
            painter.drawLine(box.left() + 3, middle, box.left() + 5, middle + 3)
            painter.drawLine(box.left() + 5, middle + 3, box.right() - 2, middle - 3)
        about = block.reason or (f"heading {block.level}" if block.kind == "heading" else block.kind)
        about = "" if about == "paragraph" else about
        width = metrics.horizontalAdvance(about)
        right = option.rect.adjusted(0, 0, -GAP_PX, 0)
        painter.setPen(QColor(c.brass))
        painter.drawText(right, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, about)
        rect = option.rect.adjusted(BOX_PX + 2 * GAP_PX, 0, -width - 2 * GAP_PX, 0)
        painter.setPen(QColor(c.ink if block.is_kept else c.slate))
        font = painter.font()
        font.setBold(block.kind == "heading" and block.is_kept)
        painter.setFont(font)
        shown = metrics.elidedText(said(block), Qt.TextElideMode.ElideRight, rect.width())
        painter.drawText(rect, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, ROW_PX)


class BlockList(QListWidget):
    """The blocks; a click or the space bar takes one in or out."""

    toggled = pyqtSignal(int, bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Blocks of the page")
        self.setItemDelegate(BlockDelegate(self))
        self.setUniformItemSizes(True)
        self.setToolTip("A click or the space bar takes a block in or out")
        self.itemClicked.connect(self.toggle)

    def show_blocks(self, blocks: tuple[Block, ...]) -> None:
        """Lists blocks; the current one stays."""
        row = self.currentRow()
        self.clear()
        for block in blocks:
            item = QListWidgetItem(f"{'kept' if block.is_kept else f'left out, {block.reason}'}: {said(block)}")
            item.setData(BLOCK_ROLE, block)
            self.addItem(item)
        self.setCurrentRow(min(row, self.count() - 1))

    def toggle(self, item: QListWidgetItem | None) -> None:
        """Takes a block in or out."""
        block = item.data(BLOCK_ROLE) if item is not None else None
        if item is not None and isinstance(block, Block):
            self.toggled.emit(self.row(item), not block.is_kept)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Space:
            self.toggle(self.currentItem())
            return
        super().keyPressEvent(event)


class SlipText(QWidget):
    """Shows the text of a slip.

    Args:
        render: has a text made ready to be shown; picture_of: gets a picture by its address.

    Signals:
        blocks_toggled: (numbers of blocks, whether they are to be kept).
        finding_taken: of all that the page says, one is to go into the field that the keyboard was in last.
    """

    blocks_toggled = pyqtSignal(list, bool)
    finding_taken = pyqtSignal(object)

    def __init__(
        self,
        render: Callable[[str, Callable[[Shown], None]], None],
        picture_of: Callable[[str, Callable[[QImage], None]], None],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.render_text = render
        self.content = Content("", "", "")
        self.offers: list[Finding] = []
        self.about_text = "Text"
        self.slip_marks: tuple[Mark, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        bar = QHBoxLayout()
        bar.setSpacing(0)
        self.heading = label("Text")
        bar.addWidget(self.heading, 1)
        self.ways = QButtonGroup(self)
        for number, name in enumerate(WAYS):
            button = text_button(name)
            button.setObjectName("way")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setCheckable(True)
            button.setChecked(number == 0)
            self.ways.addButton(button, number)
            bar.addWidget(button)
        column.addLayout(bar)
        self.posts, self.late = QPushButton(), QPushButton()
        self.posts.clicked.connect(self.toggle_posts)
        self.late.clicked.connect(lambda: self.blocks_toggled.emit(self.late_blocks(), True))
        for offer in (self.late, self.posts):
            column.addWidget(offer, 0, Qt.AlignmentFlag.AlignLeft)
        self.stack = QStackedWidget()
        self.stack.setMinimumHeight(LEAST_PX)
        self.blocks = BlockList()
        self.blocks.toggled.connect(lambda number, is_kept: self.blocks_toggled.emit([number], is_kept))
        self.body = LongText()
        self.body.setAccessibleName("Text in Markdown")
        self.body.setStyleSheet(f'font-family: "{font_family(MONO_FONT)}"; font-size: 9pt;')
        self.body.setTabChangesFocus(True)
        self.preview = ReadingView()
        self.findings = FindingsList(picture_of)
        self.findings.taken.connect(self.finding_taken)
        for widget in (self.blocks, self.body, self.preview, self.findings):
            self.stack.addWidget(widget)
        column.addWidget(self.stack, 1)
        self.ways.idClicked.connect(self.show_way)

    def show_slip(self, slip: Slip, *, is_new_body: bool) -> None:
        """Shows a slip's text."""
        if is_new_body:
            self.body.set_text(slip.body)
        problem = f" — {slip.body_problem}" if slip.body_problem else ""
        self.about_text = f"Text, {len(slip.body.split()):,} words{problem}"
        self.content, self.slip_marks = shown_content(slip), slip.marks
        self.blocks.show_blocks(self.content.blocks)
        self.show_posts()
        self.offers = [*slip.context.offers, *slip.context.pictures]
        if self.stack.currentWidget() is self.findings:
            self.findings.show_findings(self.offers)
        else:
            self.show_way(self.ways.checkedId())

    def show_drawer(self, is_shown: bool) -> None:
        """Shows all that the page says in the place of the text, or the text again."""
        if not is_shown:
            self.show_way(max(0, self.ways.checkedId()))
            return
        self.findings.show_findings(self.offers)
        self.stack.setCurrentWidget(self.findings)
        self.heading.setText("A double click or Enter puts one into the field you were in; or drag it")
        self.show_ways(are_shown=False)

    def show_ways(self, *, are_shown: bool) -> None:
        """Shows the ways in which a text is seen, or not, while something else is."""
        for button in self.ways.buttons():
            button.setVisible(are_shown)

    def late_blocks(self) -> list[int]:
        """The numbers of the blocks that came after the text was settled."""
        return [at for at, block in enumerate(self.content.blocks) if block.reason == CAME_LATE and not block.is_kept]

    def show_posts(self) -> None:
        """Offers to take all replies in, or to leave them out."""
        late = len(self.late_blocks())
        self.late.setVisible(late > 0)
        self.late.setText(f"Take in {late} blocks that came late" if late > 1 else "Take in a block that came late")
        posts = [self.content.blocks[number] for number in self.content.posts]
        self.posts.setVisible(bool(posts))
        if posts:
            name = posts[0].reason if len(posts) > 1 else posts[0].reason.removesuffix("s").replace("replie", "reply")
            is_in = all(post.is_kept for post in posts)
            self.posts.setText(f"Leave out {len(posts)} {name}" if is_in else f"Take in {len(posts)} {name}")

    def toggle_posts(self) -> None:
        """Takes all replies in, or out where all are in."""
        numbers = self.content.posts
        self.blocks_toggled.emit(numbers, not all(self.content.blocks[number].is_kept for number in numbers))

    def show_way(self, number: int) -> None:
        """Shows it in one of the ways."""
        self.stack.setCurrentIndex(number)
        self.heading.setText(self.about_text)
        self.show_ways(are_shown=True)
        if number == WAYS.index("As it will read"):
            self.render_text(self.body.text(), self.show_preview)

    def show_preview(self, text: Shown) -> None:
        """The text is ready to be shown."""
        self.preview.show_text(text, "", self.slip_marks)
