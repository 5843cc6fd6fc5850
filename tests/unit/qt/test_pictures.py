"""Pictures of pages: looked at before they are decoded; a drawing shows nothing of this machine, and ends."""

import struct
import zlib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QApplication

from wily_magpie.core.pages.svg import safe_svg
from wily_magpie.qt.pictures import decoded, format_of

CANARY = QColor("#ff0102")


def png_of(width: int, height: int, rows: bytes = b"") -> bytes:
    """A PNG that says that it is so large, whatever it holds."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def painted(width: int, height: int, form: str) -> bytes:
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(CANARY)
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    assert image.save(buffer, form)
    return bytes(content.data())


@pytest.mark.parametrize("form", ["PNG", "JPEG", "BMP", "WEBP"])
def test_a_picture_is_shown_no_larger_than_it_is_wanted(qapp: QApplication, form: str) -> None:
    content = painted(300, 200, form)
    assert format_of(content).decode() == form.lower()
    assert (decoded(content, 1000, 1000).width(), decoded(content, 1000, 1000).height()) == (300, 200)
    small = decoded(content, 60, 60)
    assert (small.width(), small.height()) == (60, 40)


@pytest.mark.parametrize("size", [(100_000, 100_000), (60_000_000, 1), (2_000_000_000, 2_000_000_000)])
def test_a_picture_with_too_many_pixels_is_not_decoded(qapp: QApplication, size: tuple[int, int]) -> None:
    assert decoded(png_of(*size, b"\0" * 1000), 100, 100).isNull()


@pytest.mark.qt_log_level_fail("CRITICAL")  # the libraries of pictures say what they think of it
@given(st.binary(max_size=300) | st.binary(max_size=200).map(lambda rest: b"\x89PNG\r\n\x1a\n" + rest))
def test_whatever_is_no_picture_is_none(qapp: QApplication, content: bytes) -> None:
    image = decoded(content, 100, 100)
    assert image.isNull() or image.width() <= 100


def test_a_packed_drawing_is_no_picture(qapp: QApplication) -> None:
    import gzip

    assert format_of(gzip.compress(b"<svg xmlns='http://www.w3.org/2000/svg'/>" * 10)) == b""


SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100" height="100">{}</svg>'


def test_a_drawing_is_drawn(qapp: QApplication) -> None:
    body = '<defs><linearGradient id="g"><stop offset="0" stop-color="#ff0102"/></linearGradient></defs>'
    drawing = SVG.format(body + '<rect id="r" width="50" height="100" fill="url(#g)"/><use href="#r" x="50"/>')
    image = decoded(drawing.encode(), 100, 100)
    assert (image.width(), image.height()) == (100, 100)
    assert {image.pixelColor(x, 50).name() for x in (10, 90)} == {CANARY.name()}


OUTSIDE = [
    '<image href="{}" width="100" height="100"/>', '<image xlink:href="{}" width="100" height="100"/>',
    '<defs><pattern id="p" width="1" height="1"><image href="{}" width="100" height="100"/></pattern></defs>'
    '<rect fill="url(#p)" width="100" height="100"/>',
    '<filter id="f"><feImage href="{}"/></filter><rect filter="url(#f)" width="100" height="100"/>',
    '<use href="{}#a"/>', '<style>rect {{ fill: url({}); }}</style><rect width="100" height="100" class="a"/>',
    '<rect style="fill: url(\'{}\')" width="100" height="100"/>',
    '<foreignObject width="100" height="100"><img xmlns="http://www.w3.org/1999/xhtml" src="{}"/></foreignObject>',
    '<g xml:base="{}"><image href="x.png"/></g>', '<style>@import "{}";</style>', '<a href="{}"><rect/></a>',
    '<script href="{}"/>', '<mask id="m"><image href="{}"/></mask><rect mask="url({}#m)" width="9" height="9"/>',
]  # fmt: skip


@pytest.mark.parametrize("body", OUTSIDE)
def test_a_drawing_loads_nothing(qapp: QApplication, tmp_path: Path, body: str) -> None:
    path = tmp_path / "canary.png"
    path.write_bytes(painted(100, 100, "PNG"))
    for address in (str(path), f"file://{path}", "http://127.0.0.1:9/x.png", "https://evil.example/x.svg"):
        drawing = SVG.format(body.replace("{}", address).replace("{{", "{").replace("}}", "}")).encode()
        safe = safe_svg(drawing)
        assert address.encode() not in safe
        image = decoded(drawing, 100, 100)
        seen = {image.pixelColor(x, y).name() for x in range(0, 100, 9) for y in range(0, 100, 9)}
        assert image.isNull() or CANARY.name() not in seen


def test_entities_are_not_looked_up(tmp_path: Path) -> None:
    secret = tmp_path / "secret"
    secret.write_text("a secret")
    drawing = f'<!DOCTYPE svg [<!ENTITY x SYSTEM "file://{secret}">]>' + SVG.format("<text>&x;</text>")
    assert b"a secret" not in safe_svg(drawing.encode())
    laughs = "".join(f'<!ENTITY l{n} "{f"&l{n - 1};" * 10}">' for n in range(1, 9))
    bomb = f'<!DOCTYPE svg [<!ENTITY l0 "ha">{laughs}]>' + SVG.format("<text>&l8;</text>")
    assert len(safe_svg(bomb.encode())) < 10_000


def chain(length: int, each: int = 10) -> str:
    """Drawings that each draw the one before ten times."""
    parts = ['<g id="a0"><rect width="1" height="1"/></g>']
    parts += [f'<g id="a{n}">' + f'<use href="#a{n - 1}"/>' * each + "</g>" for n in range(1, length)]
    return SVG.format("<defs>" + "".join(parts) + f'</defs><use href="#a{length - 1}"/>')


ENDLESS = {
    "uses": chain(12),
    "itself": SVG.format('<g id="a"><use href="#a"/></g>'),
    "each other": SVG.format('<g id="a"><use href="#b"/></g><g id="b"><use xlink:href="#a"/></g>'),
    "marker": SVG.format(
        '<marker id="m"><path d="M0 0 L1 1" marker-end="url(#m)"/></marker><path marker-end="url(#m)" d="M0 0 L1 1"/>'
    ),
    "deep": SVG.format("<g>" * 5000 + "</g>" * 5000),
    "many": SVG.format("<rect/>" * 30_000),
    "long": SVG.format(f'<path d="{"M0 0 L9 9 " * 500_000}"/>'),
    "no drawing": "<html><svg/></html>",
    "broken": "<svg",
    "no namespace of ours": "<svg:svg/>",
}


@pytest.mark.parametrize("name", ENDLESS)
def test_a_drawing_that_would_not_end_is_not_drawn(qapp: QApplication, name: str) -> None:
    assert safe_svg(ENDLESS[name].encode()) == b""
    assert decoded(ENDLESS[name].encode(), 100, 100).isNull()


def test_a_few_repetitions_are_fine(qapp: QApplication) -> None:
    assert not decoded(chain(4).encode(), 100, 100).isNull()


def test_no_script_stays() -> None:
    hostile = SVG.format('<script>x()</script><rect onload="x()"/><a href="javascript:x()"><text>t</text></a>')
    safe = safe_svg(hostile.encode())
    assert b"x()" not in safe
    assert b"<text>t</text>" in safe or b"text" in safe
