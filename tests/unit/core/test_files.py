"""What is no page of HTML: e-mails, PDF, tables, JSON, Markdown, pictures; recognised by bytes, type and name."""

from email.message import EmailMessage

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.files.mail import plain_to_html
from wily_magpie.core.pages.files.pdf import joined
from wily_magpie.core.pages.files.recognise import Given, is_readable, media_type_of, page_of
from wily_magpie.core.pages.page import Reading
from wily_magpie.demo.leaflet import leaflet


def reading_of(content: bytes, name: str = "", media_type: str = "", address: str = "") -> Reading:
    page = page_of(Given(content, media_type, name=name, address=address))
    assert page is not None
    return read_page(page)


RECOGNISED = [
    (b"%PDF-1.7", "text/html", "a.html", "application/pdf"),
    (b"\x89PNG\r\n\x1a\n", "", "", "image/png"),
    (b"a,b\n", "text/plain", "a.csv", "text/csv"),
    (b"a,b\n", "text/csv", "a", "text/csv"),
    (b"From: a@mills.example\nDate: Tue, 3 Mar 2026 21:14:05 +0000\n\nx", "", "saved", "message/rfc822"),
    (b"From here on it is uphill.", "", "", ""),
    (b"{}", "application/octet-stream", "a.json", "application/json"),
]


@pytest.mark.parametrize(("content", "told", "name", "media_type"), RECOGNISED)
def test_a_file_is_recognised(content: bytes, told: str, name: str, media_type: str) -> None:
    assert media_type_of(Given(content, told, name=name)) == media_type


def test_what_cannot_be_read_is_none() -> None:
    assert page_of(Given(b"PK\x03\x04\0\0", name="a.zip")) is None
    assert not is_readable("application/zip")
    assert is_readable("application/pdf")


def mail(**headers: str) -> EmailMessage:
    message = EmailMessage()
    for name, value in headers.items():
        message[name.replace("_", "-")] = value
    return message


def test_an_html_mail_gives_its_text_and_its_files() -> None:
    message = mail(From="Jürgen Größl <j@mills.example>", Subject="Zwei Mühlen", Date="Mon, 2 Mar 2026 10:00:00 +0100",
                   Message_ID="<7@mills.example>")  # fmt: skip
    message.set_content("plain words")
    message.add_alternative(
        "<html><body><h1>Two mills</h1><p onclick=x>and <b>one</b> tide</p><script>x</script>", "html"
    )
    message.add_attachment(b"1,2\n", maintype="text", subtype="csv", filename="a.csv")
    reading = reading_of(message.as_bytes(), "saved.eml")
    assert reading.best("title") == "Zwei Mühlen"
    assert reading.authors == ("Größl, Jürgen",)
    assert reading.best("published") == "2026-03-02T10:00+01:00"
    assert reading.best("attachment") == "a.csv"
    assert reading.canonical == "mid:7@mills.example", "it is known again without an address"
    assert reading.content.markdown.startswith("# Two mills\n\nand **one** tide")
    assert "a.csv (text/csv, 4 bytes)" in reading.content.markdown
    assert reading.page.file == message.as_bytes()
    assert {one.origin for one in reading.findings if one.name == "author"} == {"the file: sender"}


NESTED = "".join(f"Content-Type: multipart/mixed; boundary=b{at}\n\n--b{at}\n" for at in range(1_000))
FORWARDED = "Content-Type: message/rfc822\n\nFrom: a@b\nSubject: y\n" * 2_000
BROKEN = [
    b"From: \nDate: never\nSubject: =?utf-8?q?=FF?=\n\n\xff\xfe",
    b"From: a\nSubject: x\nContent-Type: text/plain; charset=no-such\n\nwords",
    b"From: a@b\nTo: ,,;\nContent-Type: multipart/mixed; boundary=x\n\n--x\n",
    b"From: a@b\nSubject: x\nContent-Transfer-Encoding: base64\n\n****",
    b"From: " + b"(" * 100_000 + b"a@b\nSubject: x\n\nx",
    f"From: a@b\nSubject: x\nMIME-Version: 1.0\n{NESTED}Content-Type: text/plain\n\nx".encode(),
    f"From: a@b\nSubject: x\n{FORWARDED}\nx".encode(),
    b"From: a@b\nSubject: " + b"=?utf-8?q?" + b"x" * 2_000_000 + b"?=\n\nx",
]


@pytest.mark.parametrize("content", BROKEN)
def test_a_broken_mail_is_still_a_mail(content: bytes) -> None:
    reading = reading_of(content, "x.eml")
    assert reading.best("kind") == "e-mail"
    assert reading.best("title")


def test_answers_stand_within_each_other_and_flowed_lines_go_on() -> None:
    made = plain_to_html("one \ntwo\n\n> said\n>> before\n\nend\n-- \nme", is_flowed=True)
    assert made == (
        "<p>one two</p><blockquote><p>said</p><blockquote><p>before</p></blockquote></blockquote><p>end</p><hr><p>me</p>"
    )


def test_a_pdf_tells_its_title_authors_and_text() -> None:
    reading = reading_of(leaflet(), "a.pdf")
    assert reading.best("title") == "Mills between two seas"
    assert reading.authors == ("Tregear, Ruan", "Quill, Hester M.")
    assert reading.best("doi") == "10.5555/jts.2023.1401.3"
    assert "Where two tides meet behind an island, a pond can be filled four times a day." in reading.content.text
    assert "1 page" in reading.notice


def test_lines_of_a_column_become_paragraphs() -> None:
    lines = (
        "A heading\nThe pond of the mill was eleven hec-\ntares when it was full.\nThen the sea came and took the bank."
    )
    assert joined(lines)[:2] == ["A heading", "The pond of the mill was eleven hectares when it was full."]


def test_a_locked_or_broken_pdf_is_kept_as_a_file() -> None:
    reading = reading_of(b"%PDF-1.4 nothing", "plan.pdf")
    assert "cannot be read" in reading.notice
    assert reading.best("title") == "plan.pdf"


def test_a_table_of_values_becomes_a_table() -> None:
    reading = reading_of(b'name,"since, about"\nWick,1904\n"a|b",1\n', "mills.csv")
    assert "| name | since, about |" in reading.content.markdown
    assert "a\\|b" in reading.content.markdown
    assert reading.best("kind") == "data set"
    assert not reading.best("published"), "a date in its cells is not its own"


def test_a_long_table_is_shown_in_part_and_kept_whole() -> None:
    content = b"n\n" + b"".join(b"%d\n" % n for n in range(2000))
    reading = reading_of(content, "n.csv")
    assert "The first 500 of its 2,000 rows are shown." in reading.notice
    assert reading.page.file == content


def test_json_that_tells_of_itself_is_heard() -> None:
    reading = reading_of(b'{"@type": "Dataset", "name": "Levels", "datePublished": "2021-05-01"}', "x.json")
    assert (reading.best("title"), reading.best("published"), reading.best("kind")) == (
        "Levels",
        "2021-05-01",
        "data set",
    )
    assert reading.content.markdown.startswith("```json\n{")


def test_a_text_in_markdown_is_read_as_such() -> None:
    reading = reading_of(b"---\nx: 1\n---\n# Mills\n\nand *tides* <script>x</script>\n", "a.md")
    assert reading.best("title") == "Mills"
    assert "and *tides* \\<script>" in reading.content.markdown


def test_a_picture_alone_keeps_its_address() -> None:
    reading = reading_of(b"\x89PNG\r\n", "gate.png", address="https://mills.example/gate.png")
    assert reading.content.markdown == "![gate.png](https://mills.example/gate.png)"
    assert reading.best("image") == "https://mills.example/gate.png"


@given(st.binary(max_size=300), st.sampled_from(["a.eml", "a.pdf", "a.csv", "a.json", "a.md", "a.txt", "a.png", "a"]))
def test_any_bytes_of_any_name_give_a_page_or_none(content: bytes, name: str) -> None:
    page = page_of(Given(content, name=name))
    assert page is None or isinstance(read_page(page).content.markdown, str)
