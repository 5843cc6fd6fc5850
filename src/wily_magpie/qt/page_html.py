"""The HTML of a text as Qt lays it out: in the person's letters, with pictures that were kept, formulas drawn, boxes as boxes."""

import html
import re
from collections.abc import Mapping

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QColor, QImage, QPainter

from wily_magpie.core.entries.rendering import FORMULA
from wily_magpie.core.pages.formulas import EM_PX
from wily_magpie.qt.style.fonts import font_family
from wily_magpie.qt.style.reading_look import ReadingLook
from wily_magpie.qt.style.tokens import MONO_FONT

PX_A_POINT = 96 / 72
AMONG_LETTERS = 1.12
"""The letters of formulas are smaller than those of the reading faces of the same size."""


def laid(safe: str, images: Mapping[str, QImage], picture_width: int, column_px: float, look: ReadingLook) -> str:
    """Sanitised HTML with a word in the place of each picture that was not kept, and sizes for those that were.

    Args:
        column_px: that a column of a table has at least, so that one with many of them is wider than the text.
    """

    def one(found: re.Match[str]) -> str:
        source = re.search(r'src="([^"]*)"', found[0])
        alt = re.search(r'alt="([^"]*)"', found[0])
        address, told = html.unescape(source[1]) if source else "", alt[1] if alt else ""
        image = images.get(address)
        if address.startswith(FORMULA):
            if image is None:
                return f"<code>{told}</code>"
            size = formula_size(image, look)
            shown = f'<img src="{html.escape(address)}" width="{size.width()}" height="{size.height()}"'
            return f'{shown} style="vertical-align: middle">'
        if image is not None:
            width = min(picture_width, image.width()) if image.width() < SMALL_PX else picture_width
            return f'<img src="{html.escape(address)}" width="{width}">'
        return f'<span class="missing">[picture not kept: {told or "no description"}]</span>'

    def wide(found: re.Match[str]) -> str:
        return f'<table width="{round(column_px * len(re.findall("<t[hd]", found[1])))}">{found[1]}'

    shown = re.sub(r"<img\b[^>]*>", one, safe)
    shown = re.sub(MANY_COLUMNS, wide, shown)
    shown = re.sub(
        r'<div>\s*<span class="block">(.*?)</span>\s*</div>', r'<p align="center">\1</p>', shown, flags=re.DOTALL
    )
    # a line is as much higher than its picture as than its letters: a third of an empty screen below each
    return re.sub(
        r"<(p|li|td)>(?=\s*(?:<a [^>]*>)?\s*<img\b(?![^>]*vertical-align))", r'<\1 style="line-height: 100%">', shown
    )


MANY_COLUMNS = re.compile(
    r"<table>(\s*(?:<thead>)?\s*<tr>(?:(?!</tr>).)*?(?:<t[hd](?:(?!</tr>).)*?){8,}</tr>)", re.DOTALL
)
"""The beginning of a table of eight columns or more, up to the end of its first row."""
SMALL_PX = 160
"""A picture that is not wider than this is shown as wide as it is: an icon, a sign."""


def formula_size(image: QImage, look: ReadingLook) -> QSize:
    """How large a formula is among letters of a size, in pixels."""
    scale = look.size_pt * PX_A_POINT / EM_PX * AMONG_LETTERS
    return QSize(max(1, round(image.width() * scale)), max(1, round(image.height() * scale)))


def formula_image(image: QImage, look: ReadingLook, ratio: float) -> QImage:
    """A formula in the colour of the letters, in the size in which it is shown.

    Args:
        ratio: pixels of the screen for one of ours.
    """
    size = formula_size(image, look) * ratio
    made = image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied).scaled(
        size, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
    painter = QPainter(made)
    painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceIn)
    painter.fillRect(made.rect(), QColor(look.colours.ink))
    painter.end()
    return made


def sheet(look: ReadingLook) -> str:
    """The style of it."""
    c, size, line = look.colours, look.size_pt, round(look.line_percent)
    indent = (
        f" p {{ text-indent: {round(size * 1.6)}px; margin-top: 0px; margin-bottom: 0px; }} .box p, li p, td p"
        " { text-indent: 0px; }" if look.is_indented else ""
    )  # fmt: skip
    return (
        f"body, p, li, td {{ color: {c.ink}; line-height: {line}%; }} a {{ color: {c.petrol}; }}"
        f" h1, h2, h3, h4 {{ font-weight: 600; margin-top: 18px; margin-bottom: 4px; }}"
        f" h1 {{ font-size: {size * 1.63:.0f}pt; }} h2 {{ font-size: {size * 1.19:.0f}pt; }}"
        f" h3 {{ font-size: {size}pt; }}{indent}"
        f' pre, code {{ font-family: "{font_family(MONO_FONT)}"; font-size: 10pt; background: {c.ground}; }}'
        f" blockquote {{ color: {c.slate}; margin-left: 22px; }} td, th {{ padding: 3px 10px 3px 0; }}"
        f" .box td {{ background: {c.wash}; padding: 8px 14px; }}"
        f" .missing {{ color: {c.slate}; font-size: 10pt; }} .meta {{ color: {c.slate}; font-size: 11pt; }}"
    )


def footnote(safe: str, name: str) -> str:
    """What a footnote of sanitised HTML says, without the way back; "" where there is none of that name."""
    found = re.search(rf'<li[^>]*\bid="{re.escape(name)}"[^>]*>(.*?)</li>', safe, re.DOTALL)
    return re.sub(r'<a[^>]*href="#[^"]*"[^>]*>[^<]*</a>', "", found[1]).strip() if found else ""
