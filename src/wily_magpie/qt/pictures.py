"""Pictures of pages made ready to be shown: looked at before they are decoded, and never larger than they are shown.

To be called off the interface's thread: decoding takes its time.
"""

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QSize, Qt
from PyQt6.QtGui import QImage, QImageReader

MOST_PIXELS = 50_000_000
"""A picture with more is not decoded: it would take 200 MB."""
HEAD_BYTES = 4096
SIGNS: tuple[tuple[bytes, bytes], ...] = (
    (b"\x89PNG\r\n\x1a\n", b"png"), (b"\xff\xd8\xff", b"jpeg"), (b"GIF8", b"gif"), (b"BM", b"bmp"),
    (b"\x00\x00\x01\x00", b"ico"), (b"II*\x00", b"tiff"), (b"MM\x00*", b"tiff"),
)  # fmt: skip


def format_of(content: bytes) -> bytes:
    """The format of a picture by its first bytes, as Qt names it; nothing where it is none that we decode."""
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return b"webp"
    known = next((name for sign, name in SIGNS if content.startswith(sign)), b"")
    return known or (b"svg" if b"<svg" in content[:HEAD_BYTES].lower() else b"")


def decoded(content: bytes, widest: int, highest: int) -> QImage:
    """A picture, made smaller where it is larger than that; a null one where it cannot be, or may not be, decoded."""
    name = format_of(content)
    if name == b"svg":
        from wily_magpie.core.pages.svg import safe_svg  # what parses it is not needed at start

        content = safe_svg(content)
    if not name or not content:
        return QImage()
    held = QByteArray(content)
    buffer = QBuffer(held)
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer, QByteArray(name))
    reader.setAutoTransform(True)
    size = reader.size()
    if not size.isValid() or (name != b"svg" and size.width() * size.height() > MOST_PIXELS):
        return QImage()
    reader.setScaledSize(fitted(size, widest, highest))
    return reader.read()


def fitted(size: QSize, widest: int, highest: int) -> QSize:
    """A size within bounds, of the same shape; a smaller one stays."""
    if size.width() <= widest and size.height() <= highest:
        return size
    return size.scaled(widest, highest, Qt.AspectRatioMode.KeepAspectRatio).expandedTo(QSize(1, 1))
