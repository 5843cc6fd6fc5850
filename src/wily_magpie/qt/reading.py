"""Kept Markdown for the eyes: sanitised, in the reading face, without a single request to the web.

Qt's text browser has no scripts, forms or frames; of the HTML only what nh3 lets through reaches it, and pictures come
from the library alone.
"""

import html
import re
from collections.abc import Callable

import nh3
from markdown_it import MarkdownIt
from PyQt6.QtCore import QByteArray, QUrl, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetricsF, QImage, QKeyEvent, QResizeEvent, QTextDocument
from PyQt6.QtWidgets import QTextBrowser, QWidget

from wily_magpie.qt.style.theme import THEME
from wily_magpie.qt.style.tokens import MEASURE_CHARACTERS, MONO_FONT, READING_FONT, READING_SIZE_PT

TAGS = set(
    "a abbr b blockquote br caption cite code dd del div dl dt em figcaption figure h1 h2 h3 h4 h5 h6 hr i img ins kbd li mark ol"
    " p pre q s samp small span strong sub sup table tbody td tfoot th thead tr u ul var".split()
)
ATTRIBUTES = {"a": {"href", "title"}, "img": {"src", "alt", "title"}, "td": {"align"}, "th": {"align"}, "ol": {"start"}}
PARSER = MarkdownIt("gfm-like", {"linkify": False, "html": True})
LONGEST = 600_000
"""Characters past which a text is shown in parts: laying out more would stop the window for seconds."""


def to_safe_html(markdown: str) -> str:
    """Sanitised HTML of a Markdown text."""
    return nh3.clean(
        PARSER.render(markdown),
        tags=TAGS,
        attributes=ATTRIBUTES,
        url_schemes={"http", "https", "mailto"},
        link_rel=None,
        strip_comments=True,
    )


class ReadingView(QTextBrowser):
    """Shows Markdown. `followed` tells the address of a link that was clicked; nothing is opened by itself.

    Args:
        picture_of: gives a kept picture's bytes by its address; None where it was not kept.
    """

    followed = pyqtSignal(str)

    def __init__(self, picture_of: Callable[[str], bytes | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.picture_of = picture_of
        self.markdown = ""
        self.head = ""
        self.setOpenLinks(False)
        self.setOpenExternalLinks(False)
        self.anchorClicked.connect(lambda url: self.followed.emit(url.toString()))
        self.setAccessibleName("Kept text")

    def show_markdown(self, markdown: str, head: str = "") -> None:
        """Shows a text.

        Args:
            head: HTML of our own above it.
        """
        self.markdown, self.head = markdown, head
        cut = markdown[:LONGEST]
        note = "" if cut == markdown else "<p><i>The text is longer; the rest stands in the kept entry.</i></p>"
        document = self.document()
        if document is not None:
            document.setDefaultStyleSheet(self.sheet())
            document.setDefaultFont(QFont(READING_FONT, round(READING_SIZE_PT)))
            document.setDocumentMargin(0)
        self.setHtml(head + self.with_placeholders(to_safe_html(cut)) + note)
        self.fit()

    def with_placeholders(self, safe: str) -> str:
        """The HTML with a word in the place of each picture that was not kept."""

        def one(found: re.Match[str]) -> str:
            source = re.search(r'src="([^"]*)"', found[0])
            alt = re.search(r'alt="([^"]*)"', found[0])
            address = html.unescape(source[1]) if source else ""
            if address and self.picture_of(address) is not None:
                width = min(self.text_width(), 640)
                return f'<img src="{html.escape(address)}" width="{width}">'
            return f'<span class="missing">[picture not kept: {alt[1] if alt and alt[1] else "no description"}]</span>'

        return re.sub(r"<img\b[^>]*>", one, safe)

    def sheet(self) -> str:
        """The reading face."""
        c = THEME.colours
        return (
            f"body, p, li, td {{ color: {c.ink}; line-height: 145%; }} a {{ color: {c.petrol}; }}"
            f" h1, h2, h3, h4 {{ font-weight: 600; margin-top: 18px; margin-bottom: 4px; }} h1 {{ font-size: 22pt; }}"
            f" h2 {{ font-size: 16pt; }} h3 {{ font-size: 13.5pt; }}"
            f' pre, code {{ font-family: "{MONO_FONT}"; font-size: 10pt; background: {c.ground}; }}'
            f" blockquote {{ color: {c.slate}; margin-left: 22px; }} td, th {{ padding: 3px 10px 3px 0; }}"
            f" .missing {{ color: {c.slate}; font-size: 10pt; }} .meta {{ color: {c.slate}; font-size: 11pt; }}"
        )

    def text_width(self) -> int:
        """The reading measure in pixels, where there is room for it."""
        measure = self.letter_width() * MEASURE_CHARACTERS
        return int(min(measure, max(200, self.width() - 48)))

    def letter_width(self) -> float:
        """The average width of a letter of the reading face, in pixels."""
        return QFontMetricsF(QFont(READING_FONT, round(READING_SIZE_PT))).averageCharWidth()

    def fit(self) -> None:
        """Sets the margins so that lines have the measure."""
        margin = max(24, (self.width() - self.text_width()) // 2)
        self.setViewportMargins(margin, 20, margin, 12)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit()

    def loadResource(self, kind: int, name: QUrl) -> object:
        """Pictures of the library; nothing else, from nowhere else."""
        if kind == QTextDocument.ResourceType.ImageResource.value:
            content = self.picture_of(name.toString())
            if content is not None:
                image = QImage.fromData(QByteArray(content))
                if image.width() > 1600:
                    image = image.scaledToWidth(1600)
                return image
        return QByteArray()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.text() == " ":  # the reader's page down
            bar = self.verticalScrollBar()
            if bar is not None:
                bar.triggerAction(bar.SliderAction.SliderPageStepAdd)
            return
        super().keyPressEvent(event)
