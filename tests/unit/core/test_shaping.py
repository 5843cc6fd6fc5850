"""Places are set up and changed without losing a value, each change as one step that can be taken back."""

import json
import random
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from helpers import redo, undo, undo_label
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.command import UNWATCHED
from wily_magpie.core.commands.entries import (
    AddEntry,
    BringBackState,
    RemoveEntries,
    RestoreEntries,
    SetBody,
    SetText,
    SetTexts,
)
from wily_magpie.core.commands.fields import AddField, ChangeField, ChangeKind, DeleteField, MakeReference, SetOptions
from wily_magpie.core.commands.files import AttachFiles
from wily_magpie.core.commands.places import ChangePlace, DeletePlace, NewCollection, RenamePlace
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import FieldPlan, Settings, SummaryPlan
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.exchange.importers import from_text, preview
from wily_magpie.core.exchange.into import arrival, matched
from wily_magpie.core.exchange.sheet import guess_kinds
from wily_magpie.core.exchange.tables import take_in
from wily_magpie.core.fields import Link, Option
from wily_magpie.core.fields.summary import Measure
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.api import MADE_KINDS, Place, PlaceSettings
from wily_magpie.core.places.starters import STARTERS, starter
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.open_form import from_json, to_json


def ids(session: Session, place: Place, question: str = "") -> list[int]:
    """The ids that answer a question of a place as it is now."""
    return list(session._library.place(place.key).listing(session.reader.entries.question(place.key, question)).ids)


def value(session: Session, place: Place, entry_id: int, key: str) -> object:
    """A value of an entry as it is now."""
    return session._library.place(place.key).rows([entry_id])[0].value(key)


@pytest.fixture
def sources(session: Session) -> Place:
    return session._library.place("Sources")


@pytest.fixture
def chapters(session: Session, sources: Place) -> Place:
    """Chapters, with a reference from the sources that is seen from both ends."""
    made = session.do(NewCollection("Chapters", starter("Chapters of a text") or STARTERS[0]))
    plan = FieldPlan("chapters", "Chapters", "reference", settings=Settings(target=made.key))
    session.do(AddField(sources.key, plan))
    return session._library.place("Chapters")


@pytest.mark.parametrize("name", [one.name for one in STARTERS])
def test_every_starter_makes_a_collection_that_can_be_used(session: Session, name: str) -> None:
    made = starter(name)
    assert made
    place = session.do(NewCollection(f"My {name}", made))
    session.do(ChangePlace(place.key, place.settings))  # its rules are understood
    for view in session.reader.entries.views(place.key):
        session.reader.entries.question(place.key, view.question)
    entry_id = session.do(AddEntry(place.key, "Heron Mill"))
    assert ids(session, session._library.place(place.key)) == [entry_id]
    for _ in range(3):
        undo(session)
    assert [one.name for one in session._library.places()] == ["Sources"]
    for _ in range(3):
        redo(session)
    assert ids(session, session._library.place(place.key)) == [entry_id]


@pytest.mark.parametrize("kind", [kind for kind in MADE_KINDS if kind not in ("reference", "summary")])
def test_a_field_of_every_kind_is_added_renamed_hidden_and_deleted(session: Session, sources: Place, kind: str) -> None:
    entry_id = session.do(AddEntry(sources.key, "Mill"))
    field = session.do(AddField(sources.key, FieldPlan("", "Depth of water", kind)))
    assert field.key == "depth_of_water"
    texts = {
        "number": "3",
        "amount": "3 m",
        "yes/no": "yes",
        "address": "http://a.example/",
        "date": "1811",
        "duration": "48 min",
        "files": "",
    }
    session.do(SetText(sources.key, [entry_id], field.key, texts.get(kind, "deep")))
    kept = value(session, sources, entry_id, field.key)
    session.do(ChangeField(sources.key, field.key, {"label": "Depth"}))
    session.do(ChangeField(sources.key, field.key, {"settings": Settings(description="In metres", is_hidden=True)}))
    assert session._library.place("Sources").fields[-2].settings.is_hidden
    session.do(DeleteField(sources.key, field.key))
    assert "Depth" not in [one.label for one in session._library.place("Sources").fields]
    undo(session)
    assert value(session, sources, entry_id, field.key) == kept
    assert undo_label(session) == "Change field Depth"


def test_a_deleted_fields_key_is_free_and_its_values_do_not_come_back(session: Session, sources: Place) -> None:
    entry_id = session.do(AddEntry(sources.key, "Mill", {"site": "Wick"}))
    assert session.reader.entries.search("wick").entries
    session.do(DeleteField(sources.key, "site"))
    assert not session.reader.entries.search("wick").entries
    session.do(AddField(sources.key, FieldPlan("site", "Site", "number")))
    assert value(session, sources, entry_id, "site") is None
    session.do(SetText(sources.key, [entry_id], "site", "7"))
    for _ in range(3):
        undo(session)
    assert value(session, sources, entry_id, "site") == "Wick"
    assert session.reader.entries.search("wick").entries


def test_a_new_field_has_its_default_and_needs_a_name_of_its_own(session: Session, sources: Place) -> None:
    session.do(AddField(sources.key, FieldPlan("", "Rights", "choice", settings=Settings(default="unknown"))))
    assert value(session, sources, session.do(AddEntry(sources.key, "Mill")), "rights") == "unknown"
    for label in ("", "  ", "status", "Title"):
        with pytest.raises(UserError):
            session.do(AddField(sources.key, FieldPlan("", label, "text")))


def test_a_change_of_kind_is_seen_before_it_is_done_and_loses_nothing(session: Session, sources: Place) -> None:
    texts = ["1811", "12 March 1926", "before the flood", "", "about the war"]
    field = session.do(AddField(sources.key, FieldPlan("when", "When", "text")))
    kept = [session.do(AddEntry(sources.key, f"Mill {n}", {field.key: text or None})) for n, text in enumerate(texts)]
    before = undo_label(session)
    seen = session.reader.look_at_conversion(sources.key, "when", "date")
    assert (seen.total, seen.count_converted, seen.count_lost) == (4, 2, 2)
    assert seen.converted == (("1811", "1811"), ("12 March 1926", "1926-03-12"))
    assert seen.lost == ("before the flood", "about the war")
    assert undo_label(session) == before
    session.do(ChangeKind(sources.key, "when", "date"))
    assert [value(session, sources, one, "when") for one in kept] == ["1811", "1926-03-12", None, None, None]
    assert [value(session, sources, one, "when_as_text") for one in kept] == [
        None,
        None,
        "before the flood",
        None,
        "about the war",
    ]
    assert [one.label for one in session._library.place("Sources").fields[-3:-1]] == ["When", "When (as text)"]
    undo(session)
    assert [value(session, sources, one, "when") for one in kept] == [text or None for text in texts]
    redo(session)
    assert ids(session, sources, "when < 1900") == kept[:1]


def test_text_becomes_a_choice_with_its_options(session: Session, sources: Place) -> None:
    for site in ("Wick", "Saltern", "Wick"):
        session.do(AddEntry(sources.key, "Mill", {"site": site}))
    session.do(ChangeKind(sources.key, "site", "choice"))
    field = next(one for one in session._library.place("Sources").fields if one.key == "site")
    assert [one.name for one in field.options] == ["Wick", "Saltern"]
    with pytest.raises(UserError, match="cannot become"):
        session.reader.look_at_conversion(sources.key, "site", "reference")


def test_options_are_renamed_merged_and_deleted_everywhere_at_once(session: Session, sources: Place) -> None:
    first, second, third = (
        session.do(AddEntry(sources.key, s, {"status": s})) for s in ("to read", "to watch", "read")
    )
    session.do(SetText(sources.key, [first, second], "tags", "law; tides"))
    session.do(SetOptions(sources.key, "status", [("to read", Option("to see", "brass")), ("to watch", Option("to see", "brass")), ("read", None), ("", Option("new"))]))  # fmt: skip
    assert [value(session, sources, one, "status") for one in (first, second, third)] == ["to see", "to see", None]
    assert session.reader.entries.views(sources.key)[0].question.startswith('status = "to see"')
    session.do(SetOptions(sources.key, "tags", [("law", Option("tides")), ("tides", Option("tides"))]))
    assert value(session, sources, first, "tags") == ("tides",)
    assert ids(session, sources, "tags = tides") == [first, second]
    undo(session)
    undo(session)
    assert [value(session, sources, one, "status") for one in (first, second, third)] == ["to read", "to watch", "read"]


def test_a_reference_is_seen_and_written_from_both_ends(session: Session, sources: Place, chapters: Place) -> None:
    source = session.do(AddEntry(sources.key, "Charter"))
    session.do(SetText(sources.key, [source], "chapters", "The law; Millers"))
    law, millers = ids(session, chapters, "sortBy title/descending")[::-1]
    back = next(field.key for field in session._library.place("Chapters").fields if field.settings.is_back)
    assert value(session, sources, source, "chapters") == ("The law", "Millers")
    assert value(session, chapters, law, back) == ("Charter",)
    session.do(SetText(chapters.key, [millers], back, ""))
    assert value(session, sources, source, "chapters") == ("The law",)
    session.do(SetText(chapters.key, [millers], back, "charter; Day book"))
    assert ids(session, sources, 'chapters == "Millers"') == [source, max(ids(session, sources))]
    session.do(SetText(sources.key, [source], "title", "The charter"))
    assert value(session, chapters, law, back) == ("The charter",)
    assert ids(session, sources, 'chapters = ""') == []
    assert ids(session, chapters, f'{back} = "day"') == [millers]
    session.do(RemoveEntries(chapters.key, [millers]))
    assert value(session, sources, source, "chapters") == ("The law",)
    session.do(RestoreEntries([session._library.trash.all()[0].id]))
    assert value(session, chapters, millers, back) == ("The charter", "Day book")
    session.do(DeleteField(chapters.key, back))
    assert "chapters" not in [field.key for field in session._library.place("Sources").fields]
    undo(session)
    assert value(session, sources, source, "chapters") == ("The law", "Millers")


def test_summaries_count_add_up_and_list_what_refers_here(session: Session, sources: Place, chapters: Place) -> None:
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    session.do(AddField(sources.key, FieldPlan("cost", "Cost", "amount")))
    plans = {
        "count": SummaryPlan(back),
        "unread": SummaryPlan(back, where='status = "to read"'),
        "read_share": SummaryPlan(back, Measure.SHARE, where="status = read"),
        "cost": SummaryPlan(back, Measure.SUM, "cost"),
        "first": SummaryPlan(back, Measure.EARLIEST, "published"),
        "last": SummaryPlan(back, Measure.LATEST, "published"),
        "sites": SummaryPlan(back, Measure.LIST, "site"),
        "tags": SummaryPlan(back, Measure.LIST, "tags"),
    }
    for key, plan in plans.items():
        session.do(AddField(chapters.key, FieldPlan(key, key, "summary", settings=Settings(summary=plan))))
    for number, (status, cost, published) in enumerate(
        [
            ("to read", "3 EUR", "1811"),
            ("read", "4.5 EUR", "1926-03"),
            ("to read", "", "before 1700"),
            ("read", "1 EUR", ""),
        ]
    ):
        entry_id = session.do(AddEntry(sources.key, f"Source {number}"))
        for key, text in {
            "status": status,
            "cost": cost,
            "published": published,
            "chapters": "Law",
            "site": f"S{number % 2}",
        }.items():
            session.do(SetText(sources.key, [entry_id], key, text))
        session.do(SetText(sources.key, [entry_id], "tags", "b; a" if number else "a"))
    (law,) = ids(session, chapters)
    session.do(AddEntry(chapters.key, "Empty"))
    entry = session._library.place("Chapters").rows([law])[0]
    assert {key: entry.value(key) for key in plans} == {
        "count": 4.0, "unread": 2.0, "read_share": 50.0, "cost": "8.5 EUR", "first": "1811", "last": "1926-03",
        "sites": "S0; S1", "tags": "a; b",
    }  # fmt: skip
    assert ids(session, chapters, "count >= 4 sortBy unread") == [law]
    with pytest.raises(UserError, match="worked out"):
        session.do(SetText(chapters.key, [law], "count", "9"))
    session.do(SetText(sources.key, [entry_id], "cost", "1 GBP"))
    assert value(session, chapters, law, "cost") is None  # pounds and euros are not added up


def test_an_entry_that_breaks_a_rule_has_a_gap_until_it_is_mended(
    session: Session, sources: Place, chapters: Place
) -> None:
    rules = ("address or files must be there", "if kind is interview: published and authors", "at least 2 chapters")
    session.do(ChangePlace(sources.key, PlaceSettings(rules=rules)))
    entry_id = session.do(AddEntry(sources.key, "Interview", {"kind": "interview"}))
    assert value(session, sources, entry_id, "gaps") == "; ".join(rules)
    session.do(SetText(sources.key, [entry_id], "address", "http://a.example/"))
    session.do(SetText(sources.key, [entry_id], "authors", "Strick, Wenna"))
    assert value(session, sources, entry_id, "gaps") == "; ".join(rules[1:])
    session.do(SetText(sources.key, [entry_id], "published", "2025"))
    session.do(SetText(sources.key, [entry_id], "chapters", "One; Two"))
    assert ids(session, sources, 'gaps <> ""') == []
    session.do(SetText(sources.key, [entry_id], "chapters", "One"))
    assert ids(session, sources, 'gaps <> ""') == [entry_id]


@pytest.mark.parametrize(
    ("rule", "said"),
    [
        ("moon must be there", "no field “moon”"),
        ("at least 3 status", "cannot be counted"),
        ("", "says nothing"),
        ("if title is x: moon", "moon"),
    ],
)
def test_a_rule_that_says_nothing_is_refused(session: Session, sources: Place, rule: str, said: str) -> None:
    with pytest.raises(UserError, match=said):
        session.do(ChangePlace(sources.key, PlaceSettings(rules=(rule,))))
    assert undo_label(session) is None


def test_titles_can_be_made_of_fields(session: Session, sources: Place) -> None:
    entry_id = session.do(
        AddEntry(sources.key, "x", {"authors": ("Strick, Wenna", "Pell, Isaac"), "published": "1868-02"})
    )
    pattern = "{authors.family}, {published.year}: {site}"
    session.do(ChangePlace(sources.key, PlaceSettings(title_pattern=pattern)))
    assert value(session, sources, entry_id, "title") == "Strick and Pell, 1868"
    session.do(SetText(sources.key, [entry_id], "site", "Wick"))
    assert value(session, sources, entry_id, "title") == "Strick and Pell, 1868: Wick"
    with pytest.raises(UserError, match="made from other fields"):
        session.do(SetText(sources.key, [entry_id], "title", "y"))
    for bad in ("no slots", "{moon}", "{title}!"):
        with pytest.raises(UserError):
            session.do(ChangePlace(sources.key, PlaceSettings(title_pattern=bad)))


SHEET = """Title;Year;Pages;Price;Seen;Link;Kind;Remarks
Heron Mill;1811;120;12,50 €;yes;http://a.example/1;book;"a
line"
Wick Mill;1868;90;3 EUR;no;;book;
Saltern;before 1700;many;free;yes;http://a.example/2;map;
Fourth;1900;10;1 EUR;no;;map;x
"""


def test_a_table_is_taken_in_with_guessed_kinds_and_nothing_of_it_is_lost(session: Session, tmp_path: Path) -> None:
    path = tmp_path / "mills.csv"
    path.write_bytes(("\ufeff" + SHEET).replace("\n", "\r\n").encode())
    sheet = preview(path).sheet
    assert guess_kinds(sheet) == ("title", "text", "text", "text", "yes/no", "address", "choice", "long text")
    kinds = ["title", "date", "number", "amount", "yes/no", "address", "choice", "long text"]
    made, faults = take_in(session, sheet, kinds, "Mills", UNWATCHED)
    place = session._library.place(made.key)
    assert [fault.split(" ", 3)[0] for fault in faults] == ["1", "1", "1"], "“before 1700” is told, too"
    rows = [place.rows([one])[0] for one in ids(session, place, "sortBy title")]
    assert [one.value("year") for one in rows] == ["1900", "1811", "before 1700", "1868"]
    assert [one.value("pages_as_text") for one in rows] == [None, None, "many", None]
    assert [one.value("price") for one in rows] == ["1 EUR", "12.5 EUR", None, "3 EUR"]
    undo(session)
    assert [one.name for one in session._library.places()] == ["Sources"]


def test_sheets_of_other_forms(tmp_path: Path) -> None:
    (tmp_path / "a.jsonl").write_text(
        '{"name": "A", "tags": ["x", "y"], "n": 1}\n{"name": "B", "more": true}\n', "utf-8"
    )
    sheet = preview(tmp_path / "a.jsonl").sheet
    assert sheet.rows == (("A", "x; y", "1", ""), ("B", "", "", "yes"))
    assert guess_kinds(sheet)[0] == "title"
    uneven = from_text("a\tb\ta\n1\t2\t3\t4\n5\n")
    assert uneven.names == ("a", "b", "a 2", "Column 4")
    assert uneven.rows == (("1", "2", "3", "4"), ("5", "", "", ""))
    assert uneven.faults
    for text in ("", "   \n"):
        with pytest.raises(UserError, match="holds nothing"):
            from_text(text)


def test_places_are_renamed_and_deleted_without_breaking_what_knows_them(
    session: Session, sources: Place, chapters: Place
) -> None:
    source = session.do(AddEntry(sources.key, "Charter"))
    session.do(SetText(sources.key, [source], "chapters", "The law"))
    session.do(RenamePlace(sources.key, "Readings"))
    assert {template.writes for template in session.reader.templates.templates() if template.writes} == {"Readings"}
    with pytest.raises(UserError, match="already"):
        session.do(RenamePlace(sources.key, "chapters"))
    session.do(DeletePlace(chapters.key))
    assert "chapters" not in [field.key for field in session._library.place("Readings").fields]
    undo(session)
    assert value(session, sources, source, "chapters") == ("The law",)
    assert session._library.place("Chapters").listing(Question()).total == 1


def test_anything_done_to_places_can_be_taken_back_and_done_again(
    session: Session, sources: Place, chapters: Place
) -> None:
    """Random walks over all commands: undone to the beginning and redone to the end, each state is met again."""
    chance = random.Random(4)
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    session._library.history.forget()

    def state() -> list[object]:
        out: list[object] = []
        for place in session._library.places():
            fields = place.fields
            rows = place.rows(list(place.listing(Question()).ids))
            out.append(
                (
                    place.name,
                    [(f.key, f.label, f.kind.name, f.options) for f in fields],
                    [(r.id, r.title, dict(r.values)) for r in rows],
                )
            )
        return [*out, session._library.trash.all(), session.reader.entries.views()]

    def one_step() -> None:
        place = chance.choice(session._library.places())
        there = list(place.listing(Question()).ids)
        fields = [field for field in place.fields[1:] if field.is_stored]
        match chance.randrange(9):
            case 0:
                session.do(AddEntry(place.key, f"Entry {chance.randrange(50)}"))
            case 1 if there:
                session.do(SetText(place.key, chance.sample(there, 1), "title", f"Title {chance.randrange(99)}"))
            case 2 if there:
                session.do(
                    SetText(
                        sources.key, ids(session, sources)[:2], "chapters", "; ".join(chance.sample(["A", "B", "C"], 2))
                    )
                )
            case 3 if there:
                session.do(RemoveEntries(place.key, chance.sample(there, 1)))
            case 4:
                session.do(
                    AddField(
                        place.key,
                        FieldPlan("", f"Field {chance.randrange(10**6)}", chance.choice(["text", "choices", "number"])),
                    )
                )
            case 5 if fields:
                session.do(DeleteField(place.key, chance.choice(fields).key))
            case 6 if session._library.trash.all():
                session.do(RestoreEntries([chance.choice(session._library.trash.all()).id]))
            case 7 if fields and there:
                field = chance.choice(fields)
                if field.kind.name in ("text", "choices", "number"):
                    session.do(SetText(place.key, there, field.key, str(chance.randrange(5))))
                    session.do(
                        ChangeKind(place.key, field.key, chance.choice(["text", "choice", "number", "long text"]))
                    )
            case _ if ids(session, chapters):
                session.do(SetText(chapters.key, ids(session, chapters)[:1], back, f"Source {chance.randrange(4)}"))

    first = state()
    for _ in range(120):
        one_step()
    last = state()
    states = [last]
    while undo(session):
        states.append(state())
    assert states[-1] == first
    for before in reversed(states[:-1]):
        redo(session)
        assert state() == before
    assert session._library.database.faults() == []


def test_a_link_knows_its_entry() -> None:
    link = Link("The law", 7)
    assert link == "The law"
    assert link.id == 7


def test_a_full_disk_is_said_and_loses_nothing(session: Session, sources: Place) -> None:
    entry_id = session.do(AddEntry(sources.key, "Mill"))
    writer = session._library.database.writer
    pages = next(iter(writer.execute("PRAGMA page_count")))[0]
    list(writer.execute(f"PRAGMA max_page_count = {pages}"))
    with pytest.raises(EnvironmentFailure, match="disk is full"):
        session.do(SetBody(sources.key, entry_id, "ebb " * 200_000))
    with pytest.raises(EnvironmentFailure, match="disk is full"):
        for number in range(5_000):
            session.do(AddEntry(sources.key, f"Mill {number}", {"description": "ebb " * 200}))
    list(writer.execute("PRAGMA max_page_count = 1000000"))
    assert session.reader.check() == []
    session.do(SetBody(sources.key, entry_id, "after"))
    assert (sources.entry(entry_id) or Entry("", 0, "", {})).body == "after"


def test_a_damaged_library_says_so_and_a_copy_of_it_is_refused(
    session: Session, sources: Place, tmp_path: Path
) -> None:
    for number in range(300):
        session.do(AddEntry(sources.key, f"Mill {number}", {"description": "ebb " * 50}))
    folder = session._library.folder
    session.close()
    path = folder / "library.sqlite"
    content = bytearray(path.read_bytes())
    content[-60_000:-20_000] = b"\xff" * 40_000
    path.write_bytes(content)
    damaged = Session(folder, Fetcher())
    assert [fault.where for fault in damaged.reader.check()][:1] == ["library.sqlite"]
    with pytest.raises(EnvironmentFailure, match="not sound"):
        damaged.back_up(tmp_path / "copy")
    assert not (tmp_path / "copy" / "library.sqlite").exists()
    damaged.close()
    path.write_bytes(b"no library at all, but a text that is long enough to be looked at" * 20)
    with pytest.raises(EnvironmentFailure, match=r"is not a library|is damaged"):
        Session(folder, Fetcher())


def test_a_files_field_shows_what_is_missing(session: Session, sources: Place, tmp_path: Path) -> None:
    entry_id = session.do(AddEntry(sources.key, "Mill"))
    paths = [tmp_path / "plan.txt", tmp_path / "copy of the plan.txt"]
    for path in paths:
        path.write_text("the same plan")
    session.do(AttachFiles(sources.key, entry_id, "files", paths))
    stored = value(session, sources, entry_id, "files")
    assert isinstance(stored, tuple)
    assert session._library.place("Sources").fields[8].kind.show(stored) == "plan.txt; copy of the plan.txt"
    kept = [session._library.blobs.file_path(one) for one in stored]
    assert kept[0] == kept[1]
    assert kept[0] is not None
    kept[0].unlink()
    assert session._library.blobs.file_path(stored[0]) is None
    assert [fault.what for fault in session.reader.check()][:2] == [
        "“Mill” lacks its file plan.txt.",
        "“Mill” lacks its file copy of the plan.txt.",
    ]
    with pytest.raises(UserError, match="no file"):
        session.do(AttachFiles(sources.key, entry_id, "files", [tmp_path / "gone.txt"]))


def test_an_entrys_history_tells_what_when_from_to(session: Session, sources: Place, chapters: Place) -> None:
    entry_id = session.do(AddEntry(sources.key, "Charter", {"status": "to read"}))
    session.do(SetText(sources.key, [entry_id], "status", "read"))
    session.do(SetText(sources.key, [entry_id], "chapters", "The law"))
    session.do(SetBody(sources.key, entry_id, "Text."))
    events = session.reader.entries.history_of(sources.key, entry_id)
    told = [
        (change.field.label if change.field else "Text", change.before, change.after)
        for e in events[:-1]
        for change in e.changes
    ]
    assert told == [("Text", "", "Text."), ("Chapters", "", "The law"), ("Status", "to read", "read")]
    assert events[-1].is_beginning
    session.do(BringBackState(sources.key, entry_id, events[2]))
    assert value(session, sources, entry_id, "status") == "to read"
    assert session.reader.entries.history_of(sources.key, entry_id)[0].label.startswith("Bring back “Charter”")
    undo(session)
    assert value(session, sources, entry_id, "status") == "read"


def test_a_template_writes_into_a_running_note_or_the_page_of_the_day(session: Session, notes_path: Path) -> None:
    text = session._library.templates.texts()[0][1]
    way = {"note": "Reading log", "heading": "New", "at": "top", "level": 2}
    page = Page(
        "http://mill.example/a", "<title>The mill</title><h1>The mill</h1><p>It turns again, twice a day.</p>", "file"
    )
    plan = {
        **json.loads(text),
        "name": "Log",
        "writes": "Notebook",
        "way": way,
        "match": [],
        "body": {"expression": "page.title"},
    }
    session._library.templates.put("Log", to_json(from_json(json.dumps(plan))))
    slip = session.reader.slips.slip(read_page(page), "Log")
    assert slip.told == ("The note Reading log.md will be made.", "The heading “New” will be made in Reading log.md.")
    kept = session.do(KeepSlip(slip))
    assert (kept.place_name, kept.status) == ("Notebook", "kept")
    session.do(KeepSlip(session.reader.slips.slip(slip.reading, "Log")))
    assert (notes_path / "Reading log.md").read_text() == (
        "## New\n\nThe mill ([mill.example](http://mill.example/a))\n\nThe mill ([mill.example](http://mill.example/a))\n"
    )
    session._library.templates.put(
        "Log", to_json(from_json(json.dumps({**plan, "way": {**way, "heading": "Gone", "level": None}})))
    )
    refused = session.reader.slips.slip(slip.reading, "Log")
    assert "no heading “Gone”" in refused.lacks[0].text
    with pytest.raises(UserError, match="no heading"):
        session.do(KeepSlip(refused))
    for bad in ({"note": "a", "journal": True}, {}, {"note": "a", "at": "middle"}, {"journal": True, "level": 9}):
        with pytest.raises(UserError, match="way"):
            from_json(json.dumps({**plan, "way": bad}))


def test_fields_found_in_notes_can_be_set_up(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("---\nrating: 4\nmood: calm\n---\n")
    session.refresh_notes()
    key = session._library.place("Notebook").key
    session.do(ChangeKind(key, "mood", "choice"))
    session.do(ChangeField(key, "rating", {"label": "Stars"}))
    fields = {field.key: field for field in session._library.place("Notebook").fields}
    assert (fields["mood"].kind.name, fields["rating"].label) == ("choice", "Stars")
    session.refresh_notes()
    assert (
        list(
            session._library.place("Notebook")
            .listing(session.reader.entries.question(key, "mood = calm and rating = 4"))
            .ids
        )
        != []
    )
    session.do(DeleteField(key, "mood"))
    assert next(f for f in session._library.place("Notebook").fields if f.key == "mood").settings.is_hidden
    assert (notes_path / "a.md").read_text() == "---\nrating: 4\nmood: calm\n---\n"
    session.do(ChangePlace(key, PlaceSettings(rules=("rating must be there",))))
    (notes_path / "b.md").write_text("bare\n")
    session.refresh_notes()
    assert len(session._library.place("Notebook").listing(session.reader.entries.question(key, 'gaps <> ""')).ids) == 1


def test_many_may_ask_for_a_notes_folder_whose_fields_have_just_changed(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("---\nstatus: open\n---\n")
    key = session._library.place("Notebook").key
    for number in range(6):
        session.do(AddField(key, FieldPlan("", f"Field {number}", "text")))
        with ThreadPoolExecutor(8) as pool:
            seen = list(pool.map(lambda _: (session.refresh_notes(key), session._library.place(key)), range(16)))
        assert len({id(place) for _, place in seen}) == 1
        assert session._library.place(key).listing(session.reader.entries.question(key, "status = open")).total == 1


def test_a_choice_becomes_a_reference_and_comes_back(session: Session, sources: Place) -> None:
    made = session.do(NewCollection("Chapters", starter("Chapters of a text") or STARTERS[0]))
    session.do(AddEntry(made.key, "The Law"))
    session.do(AddField(sources.key, FieldPlan("part", "Part", "choices", (Option("the law"), Option("Mills")))))
    one = session.do(AddEntry(sources.key, "Pond", {"part": ("the law", "Mills")}))
    seen = session.reader.look_at_reference(sources.key, "part", made.key)
    assert (seen.total, seen.found, seen.made) == (1, ("the law",), ("Mills",))
    session.do(MakeReference(sources.key, "part", made.key))
    links = value(session, sources, one, "part")
    assert isinstance(links, tuple)
    assert [str(link) for link in links] == ["The Law", "Mills"]
    assert all(isinstance(link, Link) for link in links)
    chapters = session._library.place(made.key)
    assert [entry.title for entry in chapters.rows(ids(session, chapters))] == ["The Law", "Mills"]
    assert session.reader.look_at_conversion(sources.key, "part", "choices").count_converted == 1
    session.do(ChangeKind(sources.key, "part", "choices"))
    assert value(session, sources, one, "part") == ("The Law", "Mills")
    assert not any(field.kind.is_linked for field in session._library.place(made.key).fields), (
        "its other end is gone, too"
    )
    undo(session)
    undo(session)
    assert value(session, sources, one, "part") == ("the law", "Mills")
    assert ids(session, session._library.place(made.key)), "what was there stays"
    with pytest.raises(UserError, match="Files are no texts"):
        session.reader.look_at_conversion(sources.key, "part", "files")


def test_a_few_words_make_no_other_column_of_one_of_dates(session: Session) -> None:
    sheet = from_text("title,published\n" + "\n".join(f"Mill {n},{1800 + n}" for n in range(9)) + "\nOld mill,n. d.\n")
    assert guess_kinds(sheet) == ("title", "date")
    place, told = take_in(session, sheet, ("title", "date"), "Mills", UNWATCHED)
    assert told == ["1 of 10 in “published” are no date: “n. d.”; they are kept as they stand."]
    assert (
        value(
            session, session._library.place(place.key), ids(session, session._library.place(place.key))[-1], "published"
        )
        == "n. d."
    )


def test_a_table_goes_into_a_place_that_is_there_without_doubles(session: Session, sources: Place) -> None:
    session.do(AddEntry(sources.key, "Heron Mill", {"address": "http://mills.example/heron"}))
    text = (
        "Name,Address,Published,Colour\n"
        "Heron again,http://mills.example/heron?utm_source=x,1926,red\n"
        "Wick Mill,http://mills.example/wick,n. d.,\n"
        "Wick Mill,http://mills.example/wick,1811,\n"
        "heron mill,,1900,\n"
        ",,,\n"
    )
    sheet = from_text(text)
    place = session.overview.place(sources.key)
    keys = matched(sheet, place)
    assert keys == ["title", "address", "published", ""]
    found = arrival(session.reader.entries, place, sheet, keys)
    assert found.rows == ({"title": "Wick Mill", "address": "http://mills.example/wick", "published": "n. d."},)
    assert found.doubles == ("Heron again", "Wick Mill", "heron mill")
    made, told = session.do(SetTexts(sources.key, tuple((None, one) for one in found.rows), "Take 1 row in"))
    assert len(made) == 1
    assert "“n. d.”" in told[0]
    assert undo(session) == "Take 1 row in"
