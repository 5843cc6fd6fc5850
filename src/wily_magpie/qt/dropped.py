"""What lies in a drag or in the clipboard, in the core's words."""

import json
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMimeData
from PyQt6.QtGui import QImage

from wily_magpie.core.entries.dropped import Dropped

WEB = ("http", "https")
TABLE_FILES = "Tables (*.csv *.tsv *.txt *.json *.jsonl *.ndjson);;All files (*)"
TITLED = "text/x-moz-url"
"""What browsers of one family add: address and title in two lines, UTF-16."""
ENTRIES = "application/x-wily-magpie-entries"
"""Entries that are dragged within the window: JSON of the key of their place and their ids."""


def is_welcome(data: QMimeData | None) -> bool:
    """Whether there is anything in it that could be kept."""
    if data is None or data.hasFormat(ENTRIES):
        return False
    return data.hasUrls() or data.hasText() or data.hasHtml() or data.hasImage()


def of_entries(place: str, ids: Sequence[int], titles: Sequence[str]) -> QMimeData:
    """Entries as they are dragged: by their ids in the window, by their titles in other programs."""
    data = QMimeData()
    data.setData(ENTRIES, json.dumps([place, list(ids)]).encode())
    data.setText("\n".join(titles))
    return data


def entries_in(data: QMimeData | None, place: str) -> tuple[int, ...]:
    """The ids of the entries of a place that are dragged; none where it is anything else."""
    if data is None or not data.hasFormat(ENTRIES):
        return ()
    try:
        key, ids = json.loads(bytes(data.data(ENTRIES).data()))
    except (ValueError, TypeError):  # somebody else's
        return ()
    return tuple(one for one in ids if isinstance(one, int)) if key == place and isinstance(ids, list) else ()


def from_mime(data: QMimeData) -> Dropped:
    """All of it that can be kept. Addresses and files count before text that only repeats them."""
    urls = data.urls()
    addresses = [url.toString() for url in urls if url.scheme() in WEB]
    files = tuple(Path(url.toLocalFile()) for url in urls if url.isLocalFile())
    title, source = "", ""
    if data.hasFormat(TITLED):
        lines = bytes(data.data(TITLED).data()).decode("utf-16-le", "ignore").strip("\0").splitlines()
        title = lines[1].strip() if len(lines) > 1 and lines[1].strip() not in addresses else ""
    picture = png(data) if data.hasImage() and not files else b""
    if picture or data.hasHtml():
        source = addresses[0] if addresses else ""
    has_more = bool(addresses or files or picture)
    text = data.text()
    is_link = has_more and (not data.hasHtml() or len(text.split()) <= 1 or bool(title))
    return Dropped(
        () if picture else tuple((address, title if len(addresses) == 1 else "") for address in addresses),
        files,
        picture,
        "" if is_link else text,
        "" if is_link or picture else data.html() if data.hasHtml() else "",
        source,
    )


def png(data: QMimeData) -> bytes:
    """The picture in it as PNG; nothing, where there is none."""
    image = data.imageData()
    if not isinstance(image, QImage) or image.isNull():
        return b""
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(content.data())
