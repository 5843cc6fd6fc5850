"""Places are set up and changed without losing a value, each change as one step that can be taken back."""

import json
import random
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import FieldPlan, Settings, SummaryPlan
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields import Link, Option
from wily_magpie.core.fields.summary import Measure
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.api import Place, PlaceSettings
from wily_magpie.core.places.conversion import MADE_KINDS
from wily_magpie.core.places.sheet import from_text, guess_kinds, read_sheet
from wily_magpie.core.places.starters import STARTERS, starter
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.open_form import from_json, to_json


def ids(session: Session, place: Place, question: str = "") -> list[int]:
    """The ids that answer a question of a place as it is now."""
    return list(session.place(place.key).listing(session.question(place.key, question)).ids)


def value(session: Session, place: Place, entry_id: int, key: str) -> object:
    """A value of an entry as it is now."""
    return session.place(place.key).rows([entry_id])[0].value(key)


@pytest.fixture
def sources(session: Session) -> Place:
    return session.place("Sources")


@pytest.fixture
def chapters(session: Session, sources: Place) -> Place:
    """Chapters, with a reference from the sources that is seen from both ends."""
    made = session.arranging.new_collection("Chapters", starter("Chapters of a text") or STARTERS[0])
    plan = FieldPlan("chapters", "Chapters", "reference", settings=Settings(target=made.key))
    session.arranging.add_field(sources.key, plan)
    return session.place("Chapters")


@pytest.mark.parametrize("name", [one.name for one in STARTERS])
def test_every_starter_makes_a_collection_that_can_be_used(session: Session, name: str) -> None:
    made = starter(name)
    assert made
    place = session.arranging.new_collection(f"My {name}", made)
    session.arranging.change_place(place.key, place.settings)  # its rules are understood
    for view in session.views(place.key):
        session.question(place.key, view.question)
    entry_id = session.add_entry(place.key, "Heron Mill")
    assert ids(session, place) == [entry_id]
    for _ in range(3):
        session.undo()
    assert [one.name for one in session.places()] == ["Sources"]
    for _ in range(3):
        session.redo()
    assert ids(session, place) == [entry_id]


@pytest.mark.parametrize("kind", [kind for kind in MADE_KINDS if kind not in ("reference", "summary")])
def test_a_field_of_every_kind_is_added_renamed_hidden_and_deleted(session: Session, sources: Place, kind: str) -> None:
    entry_id = session.add_entry(sources.key, "Mill")
    field = session.arranging.add_field(sources.key, FieldPlan("", "Depth of water", kind))
    assert field.key == "depth_of_water"
    texts = {
        "number": "3",
        "amount": "3 m",
        "yes/no": "yes",
        "address": "http://a.example/",
        "date": "1811",
        "files": "",
    }
    session.set_text(sources.key, [entry_id], field.key, texts.get(kind, "deep"))
    kept = value(session, sources, entry_id, field.key)
    session.arranging.change_field(sources.key, field.key, label="Depth")
    session.arranging.change_field(sources.key, field.key, settings=Settings(description="In metres", is_hidden=True))
    assert session.place("Sources").fields[-2].settings.is_hidden
    session.arranging.delete_field(sources.key, field.key)
    assert "Depth" not in [one.label for one in session.place("Sources").fields]
    session.undo()
    assert value(session, sources, entry_id, field.key) == kept
    assert session.undo_label() == "Change field Depth"


def test_a_deleted_fields_key_is_free_and_its_values_do_not_come_back(session: Session, sources: Place) -> None:
    entry_id = session.add_entry(sources.key, "Mill", {"site": "Wick"})
    assert session.search("wick")
    session.arranging.delete_field(sources.key, "site")
    assert not session.search("wick")
    session.arranging.add_field(sources.key, FieldPlan("site", "Site", "number"))
    assert value(session, sources, entry_id, "site") is None
    session.set_text(sources.key, [entry_id], "site", "7")
    for _ in range(3):
        session.undo()
    assert value(session, sources, entry_id, "site") == "Wick"
    assert session.search("wick")


def test_a_new_field_has_its_default_and_needs_a_name_of_its_own(session: Session, sources: Place) -> None:
    session.arranging.add_field(sources.key, FieldPlan("", "Rights", "choice", settings=Settings(default="unknown")))
    assert value(session, sources, session.add_entry(sources.key, "Mill"), "rights") == "unknown"
    for label in ("", "  ", "status", "Title"):
        with pytest.raises(UserError):
            session.arranging.add_field(sources.key, FieldPlan("", label, "text"))


def test_a_change_of_kind_is_seen_before_it_is_done_and_loses_nothing(session: Session, sources: Place) -> None:
    texts = ["1811", "12 March 1926", "spring 1880", "", "about the war"]
    field = session.arranging.add_field(sources.key, FieldPlan("when", "When", "text"))
    kept = [session.add_entry(sources.key, f"Mill {n}", {field.key: text or None}) for n, text in enumerate(texts)]
    before = session.undo_label()
    seen = session.arranging.look_at_conversion(sources.key, "when", "date")
    assert (seen.total, seen.count_converted, seen.count_lost) == (4, 2, 2)
    assert seen.converted == (("1811", "1811"), ("12 March 1926", "1926-03-12"))
    assert seen.lost == ("spring 1880", "about the war")
    assert session.undo_label() == before
    session.arranging.change_kind(sources.key, "when", "date")
    assert [value(session, sources, one, "when") for one in kept] == ["1811", "1926-03-12", None, None, None]
    assert [value(session, sources, one, "when_as_text") for one in kept] == [
        None,
        None,
        "spring 1880",
        None,
        "about the war",
    ]
    assert [one.label for one in session.place("Sources").fields[-3:-1]] == ["When", "When (as text)"]
    session.undo()
    assert [value(session, sources, one, "when") for one in kept] == [text or None for text in texts]
    session.redo()
    assert ids(session, sources, "when < 1900") == kept[:1]


def test_text_becomes_a_choice_with_its_options(session: Session, sources: Place) -> None:
    for site in ("Wick", "Saltern", "Wick"):
        session.add_entry(sources.key, "Mill", {"site": site})
    session.arranging.change_kind(sources.key, "site", "choice")
    field = next(one for one in session.place("Sources").fields if one.key == "site")
    assert [one.name for one in field.options] == ["Wick", "Saltern"]
    with pytest.raises(UserError, match="cannot become"):
        session.arranging.look_at_conversion(sources.key, "site", "reference")


def test_options_are_renamed_merged_and_deleted_everywhere_at_once(session: Session, sources: Place) -> None:
    first, second, third = (session.add_entry(sources.key, s, {"status": s}) for s in ("to read", "to watch", "read"))
    session.set_text(sources.key, [first, second], "tags", "law; tides")
    session.arranging.set_options(
        sources.key, "status",
        [("to read", Option("to see", "brass")), ("to watch", Option("to see", "brass")), ("read", None), ("", Option("new"))],
    )  # fmt: skip
    assert [value(session, sources, one, "status") for one in (first, second, third)] == ["to see", "to see", None]
    assert session.views(sources.key)[0].question.startswith('status = "to see"')
    session.arranging.set_options(sources.key, "tags", [("law", Option("tides")), ("tides", Option("tides"))])
    assert value(session, sources, first, "tags") == ("tides",)
    assert ids(session, sources, "tags = tides") == [first, second]
    session.undo()
    session.undo()
    assert [value(session, sources, one, "status") for one in (first, second, third)] == ["to read", "to watch", "read"]


def test_a_reference_is_seen_and_written_from_both_ends(session: Session, sources: Place, chapters: Place) -> None:
    source = session.add_entry(sources.key, "Charter")
    session.set_text(sources.key, [source], "chapters", "The law; Millers")
    law, millers = ids(session, chapters, "sortBy title/descending")[::-1]
    back = next(field.key for field in session.place("Chapters").fields if field.settings.is_back)
    assert value(session, sources, source, "chapters") == ("The law", "Millers")
    assert value(session, chapters, law, back) == ("Charter",)
    session.set_text(chapters.key, [millers], back, "")
    assert value(session, sources, source, "chapters") == ("The law",)
    session.set_text(chapters.key, [millers], back, "charter; Day book")
    assert ids(session, sources, 'chapters == "Millers"') == [source, max(ids(session, sources))]
    session.set_text(sources.key, [source], "title", "The charter")
    assert value(session, chapters, law, back) == ("The charter",)
    assert ids(session, sources, 'chapters = ""') == []
    assert ids(session, chapters, f'{back} = "day"') == [millers]
    session.remove_entries(chapters.key, [millers])
    assert value(session, sources, source, "chapters") == ("The law",)
    session.arranging.restore([session.library.trash.all()[0].id])
    assert value(session, chapters, millers, back) == ("The charter", "Day book")
    session.arranging.delete_field(chapters.key, back)
    assert "chapters" not in [field.key for field in session.place("Sources").fields]
    session.undo()
    assert value(session, sources, source, "chapters") == ("The law", "Millers")


def test_summaries_count_add_up_and_list_what_refers_here(session: Session, sources: Place, chapters: Place) -> None:
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    session.arranging.add_field(sources.key, FieldPlan("cost", "Cost", "amount"))
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
        session.arranging.add_field(chapters.key, FieldPlan(key, key, "summary", settings=Settings(summary=plan)))
    for number, (status, cost, published) in enumerate(
        [
            ("to read", "3 EUR", "1811"),
            ("read", "4.5 EUR", "1926-03"),
            ("to read", "", "spring 1700"),
            ("read", "1 EUR", ""),
        ]
    ):
        entry_id = session.add_entry(sources.key, f"Source {number}")
        for key, text in {
            "status": status,
            "cost": cost,
            "published": published,
            "chapters": "Law",
            "site": f"S{number % 2}",
        }.items():
            session.set_text(sources.key, [entry_id], key, text)
        session.set_text(sources.key, [entry_id], "tags", "b; a" if number else "a")
    (law,) = ids(session, chapters)
    session.add_entry(chapters.key, "Empty")
    entry = session.place("Chapters").rows([law])[0]
    assert {key: entry.value(key) for key in plans} == {
        "count": 4.0, "unread": 2.0, "read_share": 50.0, "cost": "8.5 EUR", "first": "1811", "last": "1926-03",
        "sites": "S0; S1", "tags": "a; b",
    }  # fmt: skip
    assert ids(session, chapters, "count >= 4 sortBy unread") == [law]
    with pytest.raises(UserError, match="worked out"):
        session.set_text(chapters.key, [law], "count", "9")
    session.set_text(sources.key, [entry_id], "cost", "1 GBP")
    assert value(session, chapters, law, "cost") is None  # pounds and euros are not added up


def test_an_entry_that_breaks_a_rule_has_a_gap_until_it_is_mended(
    session: Session, sources: Place, chapters: Place
) -> None:
    rules = ("address or files must be there", "if kind is interview: published and authors", "at least 2 chapters")
    session.arranging.change_place(sources.key, PlaceSettings(rules=rules))
    entry_id = session.add_entry(sources.key, "Interview", {"kind": "interview"})
    assert value(session, sources, entry_id, "gaps") == "; ".join(rules)
    session.set_text(sources.key, [entry_id], "address", "http://a.example/")
    session.set_text(sources.key, [entry_id], "authors", "Strick, Wenna")
    assert value(session, sources, entry_id, "gaps") == "; ".join(rules[1:])
    session.set_text(sources.key, [entry_id], "published", "2025")
    session.set_text(sources.key, [entry_id], "chapters", "One; Two")
    assert ids(session, sources, 'gaps <> ""') == []
    session.set_text(sources.key, [entry_id], "chapters", "One")
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
        session.arranging.change_place(sources.key, PlaceSettings(rules=(rule,)))
    assert session.undo_label() is None


def test_titles_can_be_made_of_fields(session: Session, sources: Place) -> None:
    entry_id = session.add_entry(
        sources.key, "x", {"authors": ("Strick, Wenna", "Pell, Isaac"), "published": "1868-02"}
    )
    pattern = "{authors.family}, {published.year}: {site}"
    session.arranging.change_place(sources.key, PlaceSettings(title_pattern=pattern))
    assert value(session, sources, entry_id, "title") == "Strick and Pell, 1868"
    session.set_text(sources.key, [entry_id], "site", "Wick")
    assert value(session, sources, entry_id, "title") == "Strick and Pell, 1868: Wick"
    with pytest.raises(UserError, match="made from other fields"):
        session.set_text(sources.key, [entry_id], "title", "y")
    for bad in ("no slots", "{moon}", "{title}!"):
        with pytest.raises(UserError):
            session.arranging.change_place(sources.key, PlaceSettings(title_pattern=bad))


SHEET = """Title;Year;Pages;Price;Seen;Link;Kind;Remarks
Heron Mill;1811;120;12,50 €;yes;http://a.example/1;book;"a
line"
Wick Mill;1868;90;3 EUR;no;;book;
Saltern;about 1700;many;free;yes;http://a.example/2;map;
Fourth;1900;10;1 EUR;no;;map;x
"""


def test_a_table_is_taken_in_with_guessed_kinds_and_nothing_of_it_is_lost(session: Session, tmp_path: Path) -> None:
    path = tmp_path / "mills.csv"
    path.write_bytes(("\ufeff" + SHEET).replace("\n", "\r\n").encode())
    sheet = read_sheet(path)
    assert guess_kinds(sheet) == ("title", "text", "text", "text", "yes/no", "address", "choice", "long text")
    kinds = ["title", "date", "number", "amount", "yes/no", "address", "choice", "long text"]
    place, faults = session.arranging.take_in(sheet, kinds, "Mills")
    assert [fault.split(" ", 3)[0] for fault in faults] == ["1", "1"]
    rows = [place.rows([one])[0] for one in ids(session, place, "sortBy title")]
    assert [one.value("year") for one in rows] == ["1900", "1811", "about 1700", "1868"]
    assert [one.value("pages_as_text") for one in rows] == [None, None, "many", None]
    assert [one.value("price") for one in rows] == ["1 EUR", "12.5 EUR", None, "3 EUR"]
    session.undo()
    assert [one.name for one in session.places()] == ["Sources"]


def test_sheets_of_other_forms(tmp_path: Path) -> None:
    (tmp_path / "a.jsonl").write_text(
        '{"name": "A", "tags": ["x", "y"], "n": 1}\n{"name": "B", "more": true}\n', "utf-8"
    )
    sheet = read_sheet(tmp_path / "a.jsonl")
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
    source = session.add_entry(sources.key, "Charter")
    session.set_text(sources.key, [source], "chapters", "The law")
    session.arranging.rename_place(sources.key, "Readings")
    assert {template.writes for template in session.templates() if template.writes} == {"Readings"}
    with pytest.raises(UserError, match="already"):
        session.arranging.rename_place(sources.key, "chapters")
    session.arranging.delete_place(chapters.key)
    assert "chapters" not in [field.key for field in session.place("Readings").fields]
    session.undo()
    assert value(session, sources, source, "chapters") == ("The law",)
    assert session.place("Chapters").listing(Question()).total == 1


def test_anything_done_to_places_can_be_taken_back_and_done_again(
    session: Session, sources: Place, chapters: Place
) -> None:
    """Random walks over all commands: undone to the beginning and redone to the end, each state is met again."""
    chance = random.Random(4)
    back = next(field.key for field in chapters.fields if field.settings.is_back)
    session.library.history.forget()

    def state() -> list[object]:
        out: list[object] = []
        for place in session.places():
            fields = place.fields
            rows = place.rows(list(place.listing(Question()).ids))
            out.append(
                (
                    place.name,
                    [(f.key, f.label, f.kind.name, f.options) for f in fields],
                    [(r.id, r.title, dict(r.values)) for r in rows],
                )
            )
        return [*out, session.library.trash.all(), session.views()]

    def one_step() -> None:
        arranging = session.arranging
        place = chance.choice(session.places())
        there = list(place.listing(Question()).ids)
        fields = [field for field in place.fields[1:] if field.is_stored]
        match chance.randrange(9):
            case 0:
                session.add_entry(place.key, f"Entry {chance.randrange(50)}")
            case 1 if there:
                session.set_text(place.key, chance.sample(there, 1), "title", f"Title {chance.randrange(99)}")
            case 2 if there:
                session.set_text(
                    sources.key, ids(session, sources)[:2], "chapters", "; ".join(chance.sample(["A", "B", "C"], 2))
                )
            case 3 if there:
                session.remove_entries(place.key, chance.sample(there, 1))
            case 4:
                arranging.add_field(
                    place.key,
                    FieldPlan("", f"Field {chance.randrange(10**6)}", chance.choice(["text", "choices", "number"])),
                )
            case 5 if fields:
                arranging.delete_field(place.key, chance.choice(fields).key)
            case 6 if session.library.trash.all():
                arranging.restore([chance.choice(session.library.trash.all()).id])
            case 7 if fields and there:
                field = chance.choice(fields)
                if field.kind.name in ("text", "choices", "number"):
                    session.set_text(place.key, there, field.key, str(chance.randrange(5)))
                    arranging.change_kind(
                        place.key, field.key, chance.choice(["text", "choice", "number", "long text"])
                    )
            case _ if ids(session, chapters):
                session.set_text(chapters.key, ids(session, chapters)[:1], back, f"Source {chance.randrange(4)}")

    first = state()
    for _ in range(120):
        one_step()
    last = state()
    states = [last]
    while session.undo():
        states.append(state())
    assert states[-1] == first
    for before in reversed(states[:-1]):
        session.redo()
        assert state() == before
    assert session.library.database.faults() == []


def test_a_link_knows_its_entry() -> None:
    link = Link("The law", 7)
    assert link == "The law"
    assert link.id == 7


def test_a_full_disk_is_said_and_loses_nothing(session: Session, sources: Place) -> None:
    entry_id = session.add_entry(sources.key, "Mill")
    writer = session.library.database.writer
    pages = next(iter(writer.execute("PRAGMA page_count")))[0]
    list(writer.execute(f"PRAGMA max_page_count = {pages}"))
    with pytest.raises(EnvironmentFailure, match="disk is full"):
        session.set_body(sources.key, entry_id, "ebb " * 200_000)
    with pytest.raises(EnvironmentFailure, match="disk is full"):
        for number in range(5_000):
            session.add_entry(sources.key, f"Mill {number}", {"description": "ebb " * 200})
    list(writer.execute("PRAGMA max_page_count = 1000000"))
    assert session.check() == []
    session.set_body(sources.key, entry_id, "after")
    assert (sources.entry(entry_id) or Entry("", 0, "", {})).body == "after"


def test_a_damaged_library_says_so_and_a_copy_of_it_is_refused(
    session: Session, sources: Place, tmp_path: Path
) -> None:
    for number in range(300):
        session.add_entry(sources.key, f"Mill {number}", {"description": "ebb " * 50})
    folder = session.library.folder
    session.close()
    path = folder / "library.sqlite"
    content = bytearray(path.read_bytes())
    content[-60_000:-20_000] = b"\xff" * 40_000
    path.write_bytes(content)
    damaged = Session(folder, Fetcher())
    assert [fault.where for fault in damaged.check()][:1] == ["library.sqlite"]
    with pytest.raises(EnvironmentFailure, match="not sound"):
        damaged.back_up(tmp_path / "copy")
    assert not (tmp_path / "copy" / "library.sqlite").exists()
    damaged.close()
    path.write_bytes(b"no library at all, but a text that is long enough to be looked at" * 20)
    with pytest.raises(EnvironmentFailure, match=r"is not a library|is damaged"):
        Session(folder, Fetcher())


def test_a_files_field_shows_what_is_missing(session: Session, sources: Place, tmp_path: Path) -> None:
    entry_id = session.add_entry(sources.key, "Mill")
    paths = [tmp_path / "plan.txt", tmp_path / "copy of the plan.txt"]
    for path in paths:
        path.write_text("the same plan")
    session.dropping.attach(sources.key, entry_id, "files", paths)
    stored = value(session, sources, entry_id, "files")
    assert isinstance(stored, tuple)
    assert session.place("Sources").fields[8].kind.show(stored) == "plan.txt; copy of the plan.txt"
    kept = [session.library.blobs.file_path(one) for one in stored]
    assert kept[0] == kept[1]
    assert kept[0] is not None
    kept[0].unlink()
    assert session.library.blobs.file_path(stored[0]) is None
    assert [fault.what for fault in session.check()][:2] == [
        "“Mill” lacks its file plan.txt.",
        "“Mill” lacks its file copy of the plan.txt.",
    ]
    with pytest.raises(UserError, match="no file"):
        session.dropping.attach(sources.key, entry_id, "files", [tmp_path / "gone.txt"])


def test_an_entrys_history_tells_what_when_from_to(session: Session, sources: Place, chapters: Place) -> None:
    entry_id = session.add_entry(sources.key, "Charter", {"status": "to read"})
    session.set_text(sources.key, [entry_id], "status", "read")
    session.set_text(sources.key, [entry_id], "chapters", "The law")
    session.set_body(sources.key, entry_id, "Text.")
    events = session.history_of(sources.key, entry_id)
    told = [
        (change.field.label if change.field else "Text", change.before, change.after)
        for e in events[:-1]
        for change in e.changes
    ]
    assert told == [("Text", "", "Text."), ("Chapters", "", "The law"), ("Status", "to read", "read")]
    assert events[-1].is_beginning
    session.bring_back_state(sources.key, entry_id, events[2])
    assert value(session, sources, entry_id, "status") == "to read"
    assert session.history_of(sources.key, entry_id)[0].label.startswith("Bring back “Charter”")
    session.undo()
    assert value(session, sources, entry_id, "status") == "read"


def test_a_template_writes_into_a_running_note_or_the_page_of_the_day(session: Session, notes_path: Path) -> None:
    text = session.library.templates.texts()[0][1]
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
    session.library.templates.put("Log", to_json(from_json(json.dumps(plan))))
    slip = session.capturing.slip(session.capturing.read(page), "Log")
    assert slip.told == ("The note Reading log.md will be made.", "The heading “New” will be made in Reading log.md.")
    kept = session.capturing.keep(slip)
    assert (kept.place_name, kept.status) == ("Notebook", "kept")
    session.capturing.keep(session.capturing.slip(slip.reading, "Log"))
    assert (notes_path / "Reading log.md").read_text() == "## New\n\nThe mill\n\nThe mill\n"
    session.library.templates.put(
        "Log", to_json(from_json(json.dumps({**plan, "way": {**way, "heading": "Gone", "level": None}})))
    )
    refused = session.capturing.slip(slip.reading, "Log")
    assert "no heading “Gone”" in refused.told[0]
    with pytest.raises(UserError, match="no heading"):
        session.capturing.keep(refused)
    for bad in ({"note": "a", "journal": True}, {}, {"note": "a", "at": "middle"}, {"journal": True, "level": 9}):
        with pytest.raises(UserError, match="way"):
            from_json(json.dumps({**plan, "way": bad}))


def test_fields_found_in_notes_can_be_set_up(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("---\nrating: 4\nmood: calm\n---\n")
    session.refresh_notes()
    key = session.place("Notebook").key
    session.arranging.change_kind(key, "mood", "choice")
    session.arranging.change_field(key, "rating", label="Stars")
    fields = {field.key: field for field in session.place("Notebook").fields}
    assert (fields["mood"].kind.name, fields["rating"].label) == ("choice", "Stars")
    session.refresh_notes()
    assert list(session.place("Notebook").listing(session.question(key, "mood = calm and rating = 4")).ids) != []
    session.arranging.delete_field(key, "mood")
    assert next(f for f in session.place("Notebook").fields if f.key == "mood").settings.is_hidden
    assert (notes_path / "a.md").read_text() == "---\nrating: 4\nmood: calm\n---\n"
    session.arranging.change_place(key, PlaceSettings(rules=("rating must be there",)))
    (notes_path / "b.md").write_text("bare\n")
    session.refresh_notes()
    assert len(session.place("Notebook").listing(session.question(key, 'gaps <> ""')).ids) == 1


def test_many_may_ask_for_a_notes_folder_whose_fields_have_just_changed(session: Session, notes_path: Path) -> None:
    (notes_path / "a.md").write_text("---\nstatus: open\n---\n")
    key = session.place("Notebook").key
    for number in range(6):
        session.arranging.add_field(key, FieldPlan("", f"Field {number}", "text"))
        with ThreadPoolExecutor(8) as pool:
            seen = list(pool.map(lambda _: (session.refresh_notes(key), session.place(key)), range(16)))
        assert len({id(place) for _, place in seen}) == 1
        assert session.place(key).listing(session.question(key, "status = open")).total == 1
