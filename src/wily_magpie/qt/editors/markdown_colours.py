"""Markdown in colour while it is written."""

import re

from PyQt6.QtGui import QColor, QFont, QSyntaxHighlighter, QTextCharFormat, QTextDocument

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


class MarkdownColours(QSyntaxHighlighter):
    """Of one document; follows the theme when it is looked at anew."""

    def __init__(self, document: QTextDocument | None) -> None:
        super().__init__(document)
        self.take_theme()

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
