"""Markdown in colour while it is written."""

import re
from time import perf_counter

from PyQt6.QtGui import QColor, QFont, QSyntaxHighlighter, QTextCharFormat, QTextDocument

from wily_magpie.qt.style.parts import timer
from wily_magpie.qt.style.theme import THEME

FENCE = re.compile(r" {0,3}(```|~~~)")
HEADING = re.compile(r" {0,3}#{1,6}[ \t].*")
PARTS = (
    ("comment", re.compile(r"<!--.*?-->")),
    ("mark", re.compile(r"^[ \t]*(?:[-*+]|\d{1,9}[.)])[ \t]+(?:\[[ xX]\])?|^[ \t]*>+|^[ \t]*\||\|[ \t]*$")),
    ("strong", re.compile(r"\*\*[^*\n]+\*\*|__[^_\n]+__")),
    ("emphasis", re.compile(r"(?<![*\w])\*[^*\s][^*\n]*\*(?!\*)|(?<![_\w])_[^_\s][^_\n]*_(?!\w)")),
    ("link", re.compile(r"!?\[\[[^\]\n]*\]\]|!?\[[^\]\n]*\]\([^)\n]*\)|https?://[^\s)>]+")),
    ("tag", re.compile(r"(?<![\w/#&\[(])#[^\W\d_][\w/-]*")),
    ("code", re.compile(r"`[^`\n]+`|\$[^$\n]+\$")),
)
"""What is shown in its own way; later ones over earlier ones."""
PLAIN, IN_CODE = 0, 1
SHARE_S = 0.006
"""Of the window's time that is taken at once."""


class MarkdownColours(QSyntaxHighlighter):
    """Of one document; follows the theme when it is looked at anew.

    A text that is put in is coloured a few lines at a time, so that the window waits for none of any length.
    """

    def __init__(self, document: QTextDocument | None) -> None:
        super().__init__(document)
        self.is_waiting = False
        self.at = 0
        self.turn = timer(self, self.colour_some)
        self.take_theme()

    def colour_all(self) -> None:
        """Colours the document from its beginning on."""
        self.at = 0
        self.turn.start(0)

    def colour_some(self) -> None:
        """The next lines of it."""
        document = self.document()
        if document is None:
            return
        block, begun = document.findBlockByNumber(self.at), perf_counter()
        before = document.blockSignals(True)  # else it would tell of each line that its text is another
        while block.isValid() and perf_counter() - begun < SHARE_S:
            self.rehighlightBlock(block)
            block = block.next()
            self.at += 1
        document.blockSignals(before)
        if block.isValid():
            self.turn.start(0)

    def take_theme(self) -> None:
        """Takes the colours of the theme that holds now."""
        c = THEME.colours
        self.formats = {
            "comment": made(c.slate, is_italic=True),
            "mark": made(c.brass),
            "strong": made(c.ink, is_bold=True),
            "emphasis": made(c.ink, is_italic=True),
            "link": made(c.petrol),
            "tag": made(c.moss),
            "code": made(c.brass),
            "heading": made(c.petrol, is_bold=True),
        }

    def highlightBlock(self, text: str | None) -> None:
        if self.is_waiting:
            return
        line = text or ""
        fence, before = FENCE.match(line), self.previousBlockState() == IN_CODE
        self.setCurrentBlockState(IN_CODE if before != bool(fence) else PLAIN)
        if before or fence:
            self.setFormat(0, len(line), self.formats["code"])
            return
        if HEADING.fullmatch(line):
            self.setFormat(0, len(line), self.formats["heading"])
            return
        for name, pattern in PARTS:
            for found in pattern.finditer(line):
                self.setFormat(found.start(), len(found[0]), self.formats[name])


def made(colour: str, *, is_bold: bool = False, is_italic: bool = False) -> QTextCharFormat:
    """A look of letters."""
    out = QTextCharFormat()
    out.setForeground(QColor(colour))
    out.setFontItalic(is_italic)
    if is_bold:
        out.setFontWeight(QFont.Weight.Bold)
    return out
