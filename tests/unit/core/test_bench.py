"""The bench: samples kept with templates, cells and their states, proposals, tests; templates in order, in and out."""

import base64
import gzip
import json
from pathlib import Path

import pytest

from helpers import accept_all, add_sample, make_with_sample, redo, undo
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.marks import PutMark, RemoveMark
from wily_magpie.core.commands.templates import (
    Accept,
    AddSampleOf,
    BackToStarter,
    CopyTemplate,
    DropRules,
    OrderTemplates,
    RemoveTemplate,
    RenameRules,
    SaveTemplate,
    SetRule,
    SwitchTemplate,
)
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.exchange.templates import bringing_in, look_at_import, write
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.bench import ACCEPTED, BLANK, DIFFERS, FAILED, FILLED, UNSET, work_out, work_out_body
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.core.templates.open_form import to_plain
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Body, Template

HERON = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
PAPER = "http://tidal-studies.example/article/9/1/7"
BOOK = "http://quayside-books.example/books/the-miller-and-the-moon"
AID = "http://county-record-office.example/finding-aids/d-114"


def add(session: Session, name: str, *addresses: str) -> list[int]:
    return [add_sample(session, name, session.fetcher.page(address)) for address in addresses]


def cell(session: Session, name: str, key: str, at: int = 0):  # type: ignore[no-untyped-def]
    template = session.reader.templates.template(name)
    fields = {one.key: one for one in session.reader.templates.fields_of(template)}
    return work_out(template, fields[key], session.reader.templates.samples(name)[at])


def test_samples_are_kept_with_the_template_and_need_no_network(session: Session) -> None:
    add(session, "Article", HERON, AID)
    session.fetcher = Fetcher(lambda _address: "http://127.0.0.1:1")  # nothing can be fetched any more
    session.reader.templates.readings.known.clear()
    assert (
        next(one.title for one in session.reader.templates.samples("Article"))
        == "Heron Mill turns again after ninety years"
    )
    assert cell(session, "Article", "authors").text == "Penhallow, Ada; Varley, Tom"
    assert cell(session, "Article", "authors", 1).state == BLANK
    undo(session)
    assert len(session.reader.templates.samples("Article")) == 1
    redo(session)
    session._library.blobs.sweep()  # clears up what nothing needs any more
    assert len(session.reader.templates.samples("Article")) == 2


def test_cells_tell_what_a_field_gets(session: Session) -> None:
    (number,) = add(session, "Article", HERON)
    session.do(SetRule("Article", "price", Rule("expression", ("page.title | number + 'x'",))))
    assert cell(session, "Article", "price").state == FAILED
    assert cell(session, "Article", "summary").state == UNSET
    assert (cell(session, "Article", "site").state, cell(session, "Article", "status").text) == (FILLED, "to read")
    session.do(Accept("Article", [(number, "site", "The Ostrel Estuary Courier"), (number, "kind", "essay")]))
    assert (cell(session, "Article", "site").state, cell(session, "Article", "kind").state) == (ACCEPTED, DIFFERS)
    session.do(Accept("Article", [(number, "kind", None)]))
    assert cell(session, "Article", "kind").state == FILLED
    assert (
        "driven by the tide"
        in work_out_body(
            session.reader.templates.template("Article"), session.reader.templates.samples("Article")[0]
        ).text
    )


def test_a_template_is_held_against_what_was_accepted(session: Session) -> None:
    (number,) = add(session, "Article", HERON)
    count = accept_all(session, "Article", number)
    assert session.reader.templates.test() == (count, [])
    assert count > 6
    session.do(SetRule("Article", "site", Rule("finding", ("publisher", "title"))))
    session.do(SetRule("Article", "published", Rule("expression", ("page.published | date('nonsense')",))))
    _, faults = session.reader.templates.test(["article"])
    assert {(one.key, one.accepted[:10]) for one in faults} == {("published", "2025-03-14")}
    assert "date knows" in str(faults[0])
    assert session.reader.templates.test(["Video"]) == (0, [])


def test_the_page_of_an_entry_becomes_a_sample(session: Session) -> None:
    slip = session.reader.slips.slip(read_page(session.fetcher.page(HERON)))
    kept = session.do(KeepSlip(slip.with_text("title", "As I call it")))
    assert session.reader.templates.kept_pages() == [(kept.place, kept.entry_id, "As I call it")]
    session.do(AddSampleOf("Paper", kept.place, kept.entry_id))
    sample = session.reader.templates.samples("Paper")[0]
    assert sample.title == "As I call it"
    assert sample.context.reading.best("title") == "Heron Mill turns again after ninety years"
    by_hand = session.do(AddEntry("collection:1", "By hand"))
    with pytest.raises(UserError, match="No page was kept"):
        session.do(AddSampleOf("Paper", "collection:1", by_hand))


NAMED = {
    "Written by": ("people", "authors"), "Publication date": ("date", "published"), "URL": ("address", "address"),
    "Newspaper": ("text", "site"), "Headline": ("text", "title"), "Tags": ("choices", "keywords"), "DOI": ("text", "doi"),
    "Journal": ("text", "journal"), "Abstract": ("long text", "abstract"), "Cover": ("address", "lead"), "Retrieved": ("date", "now"),
    "Chapter": ("choice", ""), "Pages": ("text", "pages"),
}  # fmt: skip


def test_rules_are_proposed_from_names_kinds_and_samples(session: Session) -> None:
    plans = [FieldPlan("", label, kind) for label, (kind, _) in NAMED.items()]
    place = session._library.add_collection(
        "Readings", [FieldPlan(f"k{n}", p.label, p.kind) for n, p in enumerate(plans)]
    )
    session.do(SaveTemplate(Template("Mine", "Readings")))
    add(session, "Mine", PAPER, HERON)
    template = session.reader.templates.template("Mine")
    found = session.reader.templates.propose(template, session.reader.templates.samples("Mine"))
    labels = {field.key: field.label for field in place.fields}
    given = {labels[key]: one.rule for key, one in found.items() if key != "title"}
    assert {label: given[label].text for label in NAMED} == {label: word for label, (_, word) in NAMED.items()}
    assert given["Chapter"].source == "question"
    assert all(0 < one.certainty <= 1 and one.why for one in found.values())


def test_a_collection_is_proposed_for_a_page(session: Session) -> None:
    name = make_with_sample(session, Template("Books to buy"), session.fetcher.page(BOOK), is_new_place=True)
    place = session._library.place("Books to buy")
    kinds = {field.label: field.kind.name for field in place.fields}
    assert (kinds["Price"], kinds["Authors"], kinds["Address"]) == ("amount", "people", "address")
    assert "DOI" not in kinds
    slip = session.reader.slips.slip(read_page(session.fetcher.page(BOOK)), name)
    values = {line.field.label: line.text for line in slip.lines}
    assert (values["Price"], values["Status"]) == ("24.5 GBP", "to read")
    assert session.reader.templates.template(name).reason(slip.reading) == "the host is quayside-books.example"
    undo(session)
    with pytest.raises(UserError, match="no template"):
        session.reader.templates.template(name)
    with pytest.raises(UserError, match="no place"):
        session._library.place("Books to buy")


def test_templates_are_copied_ordered_switched_renamed_deleted_each_with_undo(session: Session) -> None:
    samples = session.reader.templates.samples
    add(session, "Paper", PAPER)
    assert session.do(CopyTemplate("Paper")) == "Paper copy"
    assert len(samples("Paper copy")) == 1
    names = session.reader.templates.names()
    session.do(OrderTemplates([names[-1], *names[:-1]]))
    assert session.reader.templates.names()[0] == "Paper copy"
    session.do(SwitchTemplate("Paper copy", False))
    assert not session.reader.templates.template("Paper copy").is_on
    copied = session.reader.templates.template("Paper copy")
    session.do(SaveTemplate(Template("Letters", copied.writes, fields=copied.fields), "Paper copy"))
    with pytest.raises(UserError, match="already"):
        session.do(SaveTemplate(Template("video"), "Letters"))
    assert len(samples("Letters")) == 1
    session.do(RemoveTemplate("Letters"))
    for _ in range(5):
        undo(session)
    assert session.reader.templates.names() == [name for name in names if name != "Paper copy"]


def test_a_template_goes_back_to_its_starter(session: Session) -> None:
    before = session.reader.templates.template("Video")
    session.do(SetRule("Video", "site", Rule("fixed", ("mine",))))
    session.do(BackToStarter("Video"))
    assert session.reader.templates.template("Video") == before
    session.do(SaveTemplate(Template("Own")))
    with pytest.raises(UserError, match="not made from a starter"):
        session.do(BackToStarter("Own"))


def test_fields_over_all_templates(session: Session) -> None:
    session.do(SetRule("Video", "moon", Rule("fixed", ("full",))))
    uses = {(use.key, use.is_there): use for use in session.reader.templates.field_uses()}
    assert "Article" in uses["site", True].templates
    assert uses["summary", True].templates == ()
    assert uses["moon", False].templates == ("Video",)
    session.do(RenameRules("collection:1", "moon", "Summary"))
    assert session.reader.templates.template("Video").fields["summary"] == Rule("fixed", ("full",))
    with pytest.raises(UserError, match="no field"):
        session.do(RenameRules("collection:1", "summary", "Nothing"))
    session.do(DropRules("collection:1", "summary"))
    assert "summary" not in session.reader.templates.template("Video").fields


def test_capture_settings_are_brought_to_another_machine(session: Session, tmp_path: Path, fetcher: Fetcher) -> None:
    session.do(AddField("collection:1", FieldPlan("", "Wheel", "choice")))
    name = make_with_sample(session, Template("Books"), session.fetcher.page(BOOK), is_new_place=True)
    accept_all(session, name, session._library.templates.samples(name)[0].id)
    session.do(SwitchTemplate("Video", is_on=False))
    path = tmp_path / "settings.json"
    assert write(session.reader, path) == len(session.reader.templates.names())
    text = path.read_text("utf-8")
    other = Session(tmp_path / "other", fetcher)
    look = look_at_import(other.reader, text)
    incoming = look.templates
    assert [one.template.name for one in incoming if not one.is_known] == ["Books"]
    assert "a collection of that name is made" in incoming[-1].told[0]
    assert other.reader.templates.names() == [
        n for n in session.reader.templates.names() if n != "Books"
    ]  # nothing is changed yet
    other.do(bringing_in(look, text))
    assert [to_plain(one) for one in other.reader.templates.templates()] == [
        to_plain(one) for one in session.reader.templates.templates()
    ]
    assert [f.kind.name for f in other._library.place("Books").fields] == [
        f.kind.name for f in session._library.place("Books").fields
    ]
    count, faults = other.reader.templates.test(["Books"])
    assert count > 5
    assert faults == []
    undo(other)
    assert "Books" not in other.reader.templates.names()
    other.close()


HOSTILE = {
    "not json": "{", "a list": "[1]", "empty": "{}", "of the future": '{"wily_magpie": "templates", "format": 9, "templates": []}',
    "unknown part": '{"name": "x", "run": "rm -rf"}', "unknown source": '{"name": "x", "fields": {"a": {"shell": "ls"}}}',
    "bad expression": '{"name": "x", "fields": {"a": {"expression": "page.__class__.__mro__ | attr(1)"}}}',
    "bad match": '{"name": "x", "match": ["the moon is full"]}',
    "bad page": '{"name": "x", "samples": [{"address": "", "title": "", "captured": "", "media_type": "text/html", "page": "!!"}]}',
    "bad body": '{"name": "x", "body": {"part": "everything"}}', "deep": '{"name": ' + "[" * 100_000 + "]" * 100_000 + "}",
    "bad flag": '{"name": "x", "opens": "yes"}', "bad picture": '{"name": "x", "fields": {"a": {"picture": "all"}}}',
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused_with_the_place(session: Session, name: str) -> None:
    before = session.reader.templates.names()
    with pytest.raises(UserError, match=r"not a template|expression of"):
        look_at_import(session.reader, HOSTILE[name])
    assert session.reader.templates.names() == before


def test_a_sample_of_any_bytes_is_read(session: Session) -> None:
    page = base64.b64encode(gzip.compress(b"<title>\xff\xfe mill</title>" + bytes(range(256)))).decode()
    sample = {"address": "", "title": "x", "captured": "", "media_type": "text/html", "page": page}
    text = json.dumps({"name": "Odd", "samples": [sample]})
    session.do(bringing_in(look_at_import(session.reader, text), text))
    assert len(session.reader.templates.samples("Odd")) == 1
    bomb = {**sample, "page": base64.b64encode(gzip.compress(bytes(30_000_000))).decode()}
    with pytest.raises(UserError, match="not a packed page"):
        look_at_import(session.reader, json.dumps({"name": "Bomb", "samples": [bomb]}))


def test_one_template_of_a_file_without_a_place_is_told(session: Session) -> None:
    text = json.dumps(
        {"name": "Wheels", "writes": "Wheel book", "fields": {"diameter": {"expression": "page.title | number"}}}
    )
    session.do(bringing_in(look_at_import(session.reader, text), text))
    assert "diameter" in {field.key for field in session._library.place("Wheel book").fields}


def test_marks_and_icons_are_kept_with_the_entry(session: Session) -> None:
    reading = read_page(session.fetcher.page(HERON))
    marks = (Mark("the sluice was raised by hand", "evidence", "By whom?"), Mark("two thirds", "question"))
    slip = session.reader.slips.slip(reading, hand=ByHand(marks=marks))
    kept = session.do(KeepSlip(slip))
    assert session.reader.entries.marks(kept.place, kept.entry_id) == marks
    session.do(PutMark(kept.place, kept.entry_id, Mark("two thirds", "question", "Who counted?")))
    session.do(RemoveMark(kept.place, kept.entry_id, marks[0]))
    assert session.reader.entries.marks(kept.place, kept.entry_id) == (Mark("two thirds", "question", "Who counted?"),)
    undo(session)
    undo(session)
    assert session.reader.entries.marks(kept.place, kept.entry_id) == marks
    entry = session._library.place(kept.place).entry(kept.entry_id)
    assert entry is not None
    assert session.reader.entries.icon_of(entry) == b""
    CaptureRun(session).pictures(slip, kept)
    assert session.reader.entries.icon_of(entry).startswith(b"<svg")


def test_notes_are_linked_made_and_named_by_the_template(session: Session, notes_path: Path) -> None:
    template = Template(
        "Note", "Notebook", fields={"status": Rule("fixed", ("open",))}, note_name="{{ page.site | file_name }}/{{ title }}",
        body=Body("marks or content", before="{{ page.authors | first | note_link(make=true) }}"),
    )  # fmt: skip
    session.do(SaveTemplate(template))
    reading = read_page(session.fetcher.page(HERON))
    slip = session.reader.slips.slip(reading, "Note", hand=ByHand(marks=(Mark("one paddle dipped", "quotation"),)))
    assert slip.told == (
        "Makes the note “Penhallow, Ada”.", "Status gets the new option “open”.",
        "Tags gets the new options “tide mills”, “restoration”, “Ostrelmouth”.",
    )  # fmt: skip
    session.do(KeepSlip(slip))
    path = notes_path / "The Ostrel Estuary Courier" / "Heron Mill turns again after ninety years.md"
    assert path.read_text("utf-8").endswith("[[Penhallow, Ada]]\n\n> one paddle dipped\n")
    assert (notes_path / "Penhallow, Ada.md").exists()
    assert session.reader.slips.slip(reading, "Note").told == ()
    undo(session)
    assert list(notes_path.rglob("*.md")) == []


def test_a_picture_of_the_page_becomes_a_file_of_the_entry(session: Session) -> None:
    session.do(SetRule("Article", "files", Rule("picture", ("lead",))))
    reading = read_page(session.fetcher.page(HERON))
    slip = session.reader.slips.slip(reading)
    kept = session.do(KeepSlip(slip))
    CaptureRun(session).pictures(slip, kept)
    entry = session._library.place(kept.place).entry(kept.entry_id)
    assert entry is not None
    assert str(entry.value("files")).endswith("/heron-mill.svg',)")
    session.do(SetRule("Article", "files", Rule("picture", ("screenshot",))))
    shot = session.reader.slips.slip(reading, screenshot=b"\x89PNG what was visible")
    seen = session._library.place(kept.place).entry(session.do(KeepSlip(shot)).entry_id)
    assert seen is not None
    assert str(seen.value("files")).endswith("/what was visible.png',)")
