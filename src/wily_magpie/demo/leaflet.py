"""The PDF files of the stand-in web: made from their lines when they are asked for."""

import io
from functools import cache

from pypdf import PdfWriter
from pypdf.generic import DecodedStreamObject, DictionaryObject, NameObject

WIDTH_PT, HEIGHT_PT = 420, 595
"""A5."""
TWO_SEAS = (
    "Mills between two seas",
    "Tregear, R., Quill, H. M. doi:10.5555/jts.2023.1401.3",
    "",
    "Where two tides meet behind an island, a pond can be filled",
    "four times a day. We describe the only three mills that are",
    "known to have done so.",
    "",
    "The first stood on the sound between Ostrel and the isle of",
    "Merrow. Its pond was filled from the north by the early flood",
    "and from the south by the late one; its toll book for 1804",
    "counts eight grindings on a day of spring tide.",
)


@cache
def leaflet() -> bytes:
    """The full text of an article of the Journal of Tidal Studies."""
    writer = PdfWriter()
    page = writer.add_blank_page(WIDTH_PT, HEIGHT_PT)
    font = {"/Type": "/Font", "/Subtype": "/Type1", "/BaseFont": "/Times-Roman"}
    fonts = DictionaryObject({NameObject(key): NameObject(value) for key, value in font.items()})
    page[NameObject("/Resources")] = DictionaryObject(
        {NameObject("/Font"): DictionaryObject({NameObject("/F1"): writer._add_object(fonts)})}  # noqa: SLF001 - its own manual does
    )
    rows = "".join(f"({line.replace('(', '').replace(')', '')}) Tj T* " for line in TWO_SEAS)
    stream = DecodedStreamObject()
    stream.set_data(f"BT /F1 13 Tf 17 TL 40 540 Td {rows} ET".encode("latin-1"))
    page[NameObject("/Contents")] = writer._add_object(stream)  # noqa: SLF001
    writer.add_metadata({"/Title": "Mills between two seas", "/Author": "Ruan Tregear; Hester M. Quill"})
    out = io.BytesIO()
    writer.write(out)
    return out.getvalue()
