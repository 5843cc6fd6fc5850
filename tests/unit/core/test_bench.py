"""The bench: samples kept with templates, cells and their states, proposals, tests; templates in order, in and out."""

import base64
import gzip
import json
from pathlib import Path

import pytest

from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.bench import ACCEPTED, BLANK, DIFFERS, FAILED, FILLED, UNSET, work_out, work_out_body
from wily_magpie.core.templates.open_form import to_plain
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Body, Template

HERON = "http://estuary-courier.example/2025/03/14/heron-mill-turns-again"
PAPER = "http://tidal-studies.example/article/9/1/7"
BOOK = "http://quayside-books.example/books/the-miller-and-the-moon"
AID = "http://county-record-office.example/finding-aids/d-114"


def add(session: Session, name: str, *addresses: str) -> list[int]:
    return [session.templating.add_sample(name, session.fetcher.page(address)) for address in addresses]


def cell(session: Session, name: str, key: str, at: int = 0):  # type: ignore[no-untyped-def]
    template = session.template(name)
    fields = {one.key: one for one in session.templating.fields_of(template)}
    return work_out(template, fields[key], session.templating.samples(name)[at])


def test_samples_are_kept_with_the_template_and_need_no_network(session: Session) -> None:
    add(session, "Article", HERON, AID)
    session.fetcher = Fetcher(lambda _address: "http://127.0.0.1:1")  # nothing can be fetched any more
    session.templating.readings.clear()
    assert (
        next(one.title for one in session.templating.samples("Article")) == "Heron Mill turns again after ninety years"
    )
    assert cell(session, "Article", "authors").text == "Penhallow, Ada; Varley, Tom"
    assert cell(session, "Article", "authors", 1).state == BLANK
    session.undo()
    assert len(session.templating.samples("Article")) == 1
    session.redo()
    session.library.blobs.sweep()  # clears up what nothing needs any more
    assert len(session.templating.samples("Article")) == 2


def test_cells_tell_what_a_field_gets(session: Session) -> None:
    (number,) = add(session, "Article", HERON)
    session.templating.set_rule("Article", "price", Rule("expression", ("page.title | number + 'x'",)))
    assert cell(session, "Article", "price").state == FAILED
    assert cell(session, "Article", "summary").state == UNSET
    assert (cell(session, "Article", "site").state, cell(session, "Article", "status").text) == (FILLED, "to read")
    session.templating.accept("Article", [(number, "site", "The Ostrel Estuary Courier"), (number, "kind", "essay")])
    assert (cell(session, "Article", "site").state, cell(session, "Article", "kind").state) == (ACCEPTED, DIFFERS)
    session.templating.accept("Article", [(number, "kind", None)])
    assert cell(session, "Article", "kind").state == FILLED
    assert (
        "driven by the tide"
        in work_out_body(session.template("Article"), session.templating.samples("Article")[0]).text
    )


def test_a_template_is_held_against_what_was_accepted(session: Session) -> None:
    (number,) = add(session, "Article", HERON)
    count = session.templating.accept_all("Article", number)
    assert session.templating.test() == (count, [])
    assert count > 6
    session.templating.set_rule("Article", "site", Rule("finding", ("publisher", "title")))
    session.templating.set_rule("Article", "published", Rule("expression", ("page.published | date('nonsense')",)))
    _, faults = session.templating.test(["article"])
    assert {(one.key, one.accepted[:10]) for one in faults} == {("published", "2025-03-14")}
    assert "date knows" in str(faults[0])
    assert session.templating.test(["Video"]) == (0, [])


def test_the_page_of_an_entry_becomes_a_sample(session: Session) -> None:
    slip = session.capturing.slip(session.capturing.read(session.fetcher.page(HERON)))
    kept = session.capturing.keep(slip.with_text("title", "As I call it"))
    assert session.templating.kept_pages() == [(kept.place, kept.entry_id, "As I call it")]
    session.templating.add_sample_of("Paper", kept.place, kept.entry_id)
    sample = session.templating.samples("Paper")[0]
    assert sample.title == "As I call it"
    assert sample.material.reading.best("title") == "Heron Mill turns again after ninety years"
    by_hand = session.add_entry("collection:1", "By hand")
    with pytest.raises(UserError, match="No page was kept"):
        session.templating.add_sample_of("Paper", "collection:1", by_hand)


NAMED = {
    "Written by": ("people", "authors"), "Publication date": ("date", "published"), "URL": ("address", "address"),
    "Newspaper": ("text", "site"), "Headline": ("text", "title"), "Tags": ("choices", "keywords"), "DOI": ("text", "doi"),
    "Journal": ("text", "journal"), "Abstract": ("long text", "abstract"), "Cover": ("address", "lead"), "Retrieved": ("date", "now"),
    "Chapter": ("choice", ""), "Pages": ("text", "pages"),
}  # fmt: skip


def test_rules_are_proposed_from_names_kinds_and_samples(session: Session) -> None:
    plans = [FieldPlan("", label, kind) for label, (kind, _) in NAMED.items()]
    place = session.library.add_collection(
        "Readings", [FieldPlan(f"k{n}", p.label, p.kind) for n, p in enumerate(plans)]
    )
    session.templating.save(Template("Mine", "Readings"))
    add(session, "Mine", PAPER, HERON)
    template = session.template("Mine")
    found = session.templating.propose(template, session.templating.samples("Mine"))
    labels = {field.key: field.label for field in place.fields}
    given = {labels[key]: one.rule for key, one in found.items() if key != "title"}
    assert {label: given[label].text for label in NAMED} == {label: word for label, (_, word) in NAMED.items()}
    assert given["Chapter"].source == "question"
    assert all(0 < one.certainty <= 1 and one.why for one in found.values())


def test_a_collection_is_proposed_for_a_page(session: Session) -> None:
    name = session.templating.make_with_sample(Template("Books to buy"), session.fetcher.page(BOOK), is_new_place=True)
    place = session.place("Books to buy")
    kinds = {field.label: field.kind.name for field in place.fields}
    assert (kinds["Price"], kinds["Authors"], kinds["Address"]) == ("amount", "people", "address")
    assert "DOI" not in kinds
    slip = session.capturing.slip(session.capturing.read(session.fetcher.page(BOOK)), name)
    values = {line.field.label: line.text for line in slip.lines}
    assert (values["Price"], values["Status"]) == ("24.5 GBP", "to read")
    assert session.template(name).reason(slip.reading) == "the host is quayside-books.example"
    session.undo()
    with pytest.raises(UserError, match="no template"):
        session.template(name)
    with pytest.raises(UserError, match="no place"):
        session.place("Books to buy")


def test_templates_are_copied_ordered_switched_renamed_deleted_each_with_undo(session: Session) -> None:
    templating = session.templating
    add(session, "Paper", PAPER)
    assert templating.copy("Paper") == "Paper copy"
    assert len(templating.samples("Paper copy")) == 1
    names = session.template_names()
    templating.order([names[-1], *names[:-1]])
    assert session.template_names()[0] == "Paper copy"
    templating.switch("Paper copy", is_on=False)
    assert not session.template("Paper copy").is_on
    copied = session.template("Paper copy")
    templating.save(Template("Letters", copied.writes, fields=copied.fields), "Paper copy")
    with pytest.raises(UserError, match="already"):
        templating.save(Template("video"), "Letters")
    assert len(templating.samples("Letters")) == 1
    templating.remove("Letters")
    for _ in range(5):
        session.undo()
    assert session.template_names() == [name for name in names if name != "Paper copy"]


def test_a_template_goes_back_to_its_starter(session: Session) -> None:
    before = session.template("Video")
    session.templating.set_rule("Video", "site", Rule("fixed", ("mine",)))
    session.templating.back_to_starter("Video")
    assert session.template("Video") == before
    session.templating.save(Template("Own"))
    with pytest.raises(UserError, match="not made from a starter"):
        session.templating.back_to_starter("Own")


def test_fields_over_all_templates(session: Session) -> None:
    session.templating.set_rule("Video", "moon", Rule("fixed", ("full",)))
    uses = {(use.key, use.is_there): use for use in session.field_uses.all()}
    assert "Article" in uses["site", True].templates
    assert uses["summary", True].templates == ()
    assert uses["moon", False].templates == ("Video",)
    session.field_uses.rename("collection:1", "moon", "Summary")
    assert session.template("Video").fields["summary"] == Rule("fixed", ("full",))
    with pytest.raises(UserError, match="no field"):
        session.field_uses.rename("collection:1", "summary", "Nothing")
    session.field_uses.drop("collection:1", "summary")
    assert "summary" not in session.template("Video").fields


def test_capture_settings_are_brought_to_another_machine(session: Session, tmp_path: Path, fetcher: Fetcher) -> None:
    session.arranging.add_field("collection:1", FieldPlan("", "Wheel", "choice"))
    name = session.templating.make_with_sample(Template("Books"), session.fetcher.page(BOOK), is_new_place=True)
    session.templating.accept_all(name, session.library.templates.samples(name)[0].id)
    session.templating.switch("Video", is_on=False)
    path = tmp_path / "settings.json"
    assert session.exchange.write(path) == len(session.template_names())
    text = path.read_text("utf-8")
    other = Session(tmp_path / "other", fetcher)
    incoming = other.exchange.look_at_import(text)
    assert [one.template.name for one in incoming if not one.is_known] == ["Books"]
    assert "a collection of that name is made" in incoming[-1].told[0]
    assert other.template_names() == [n for n in session.template_names() if n != "Books"]  # nothing is changed yet
    other.exchange.take_in(incoming, text)
    assert [to_plain(one) for one in other.templates()] == [to_plain(one) for one in session.templates()]
    assert [f.kind.name for f in other.place("Books").fields] == [f.kind.name for f in session.place("Books").fields]
    count, faults = other.templating.test(["Books"])
    assert count > 5
    assert faults == []
    other.undo()
    assert "Books" not in other.template_names()
    other.close()


HOSTILE = {
    "not json": "{", "a list": "[1]", "empty": "{}", "of the future": '{"wily_magpie": "templates", "format": 9, "templates": []}',
    "unknown part": '{"name": "x", "run": "rm -rf"}', "unknown source": '{"name": "x", "fields": {"a": {"shell": "ls"}}}',
    "bad expression": '{"name": "x", "fields": {"a": {"expression": "page.__class__.__mro__ | attr(1)"}}}',
    "bad match": '{"name": "x", "match": ["the moon is full"]}', "two alike": '{"format": 1, "templates": [{"name": "x"}, {"name": "X"}]}',
    "bad page": '{"name": "x", "samples": [{"address": "", "title": "", "captured": "", "media_type": "text/html", "page": "!!"}]}',
    "bad body": '{"name": "x", "body": {"part": "everything"}}', "deep": '{"name": ' + "[" * 100_000 + "]" * 100_000 + "}",
    "bad flag": '{"name": "x", "opens": "yes"}', "bad picture": '{"name": "x", "fields": {"a": {"picture": "all"}}}',
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_files_are_refused_with_the_place(session: Session, name: str) -> None:
    before = session.template_names()
    with pytest.raises(UserError, match=r"not a template|expression of"):
        session.exchange.look_at_import(HOSTILE[name])
    assert session.template_names() == before


def test_a_sample_of_any_bytes_is_read(session: Session) -> None:
    page = base64.b64encode(gzip.compress(b"<title>\xff\xfe mill</title>" + bytes(range(256)))).decode()
    sample = {"address": "", "title": "x", "captured": "", "media_type": "text/html", "page": page}
    text = json.dumps({"name": "Odd", "samples": [sample]})
    session.exchange.take_in(session.exchange.look_at_import(text), text)
    assert len(session.templating.samples("Odd")) == 1
    bomb = {**sample, "page": base64.b64encode(gzip.compress(bytes(30_000_000))).decode()}
    with pytest.raises(UserError, match="not a packed page"):
        session.exchange.look_at_import(json.dumps({"name": "Bomb", "samples": [bomb]}))


def test_one_template_of_a_file_without_a_place_is_told(session: Session) -> None:
    text = json.dumps(
        {"name": "Wheels", "writes": "Wheel book", "fields": {"diameter": {"expression": "page.title | number"}}}
    )
    (one,) = session.exchange.look_at_import(text)
    session.exchange.take_in([one], text)
    assert "diameter" in {field.key for field in session.place("Wheel book").fields}


def test_marks_and_icons_are_kept_with_the_entry(session: Session) -> None:
    reading = session.capturing.read(session.fetcher.page(HERON))
    marks = (Mark("the sluice was raised by hand", "evidence", "By whom?"), Mark("two thirds", "question"))
    slip = session.capturing.slip(reading, marks=marks)
    kept = session.capturing.keep(slip)
    assert session.marking.of(kept.place, kept.entry_id) == marks
    session.marking.put(kept.place, kept.entry_id, Mark("two thirds", "question", "Who counted?"))
    session.marking.remove(kept.place, kept.entry_id, marks[0])
    assert session.marking.of(kept.place, kept.entry_id) == (Mark("two thirds", "question", "Who counted?"),)
    session.undo()
    session.undo()
    assert session.marking.of(kept.place, kept.entry_id) == marks
    entry = session.place(kept.place).entry(kept.entry_id)
    assert entry is not None
    assert session.icon_of(entry) is None
    session.capturing.keep_pictures(slip, kept)
    assert (session.icon_of(entry) or b"").startswith(b"<svg")


def test_notes_are_linked_made_and_named_by_the_template(session: Session, notes_path: Path) -> None:
    template = Template(
        "Note", "Notebook", fields={"status": Rule("fixed", ("open",))}, note_name="{{ page.site | file_name }}/{{ title }}",
        body=Body("marks or content", before="{{ page.authors | first | note_link(make=true) }}"),
    )  # fmt: skip
    session.templating.save(template)
    reading = session.capturing.read(session.fetcher.page(HERON))
    slip = session.capturing.slip(reading, "Note", marks=[Mark("one paddle dipped", "quotation")])
    assert slip.told == ("Makes the note “Penhallow, Ada”.",)
    session.capturing.keep(slip)
    path = notes_path / "The Ostrel Estuary Courier" / "Heron Mill turns again after ninety years.md"
    assert path.read_text("utf-8").endswith("[[Penhallow, Ada]]\n\n> one paddle dipped\n")
    assert (notes_path / "Penhallow, Ada.md").exists()
    assert session.capturing.slip(reading, "Note").told == ()
    session.undo()
    assert list(notes_path.rglob("*.md")) == []


def test_a_picture_of_the_page_becomes_a_file_of_the_entry(session: Session) -> None:
    session.templating.set_rule("Article", "files", Rule("picture", ("lead",)))
    reading = session.capturing.read(session.fetcher.page(HERON))
    slip = session.capturing.slip(reading)
    kept = session.capturing.keep(slip)
    session.capturing.keep_pictures(slip, kept)
    entry = session.place(kept.place).entry(kept.entry_id)
    assert entry is not None
    assert str(entry.value("files")).endswith("/heron-mill.svg',)")
    session.templating.set_rule("Article", "files", Rule("picture", ("screenshot",)))
    shot = session.capturing.slip(reading, screenshot=b"\x89PNG what was visible")
    seen = session.place(kept.place).entry(session.capturing.keep(shot).entry_id)
    assert seen is not None
    assert str(seen.value("files")).endswith("/what was visible.png',)")
