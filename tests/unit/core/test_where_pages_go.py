"""Where a page goes: its address always goes in, by what a place's fields are for; what is learnt is by site and kind."""

import json
from dataclasses import replace
from pathlib import Path

import pytest

from helpers import undo
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.capture import KeepAddress, KeepSlip
from wily_magpie.core.commands.places import AddNotesFolder, NewCollection, SetRole
from wily_magpie.core.commands.settings import ForgetHabit
from wily_magpie.core.commands.templates import SaveTemplate
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.fields import Option
from wily_magpie.core.pages.page import Page, Reading
from wily_magpie.core.pages.read import read_page
from wily_magpie.core.places.starters import Starter
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.core.templates.slip import Slip, habit_of
from wily_magpie.core.templates.slip_blocks import shown_content, with_blocks
from wily_magpie.core.templates.template import Body, Template

ADDRESS = "https://mills.example/ebb"


def reading_of(address: str = ADDRESS, kind: str = "NewsArticle") -> Reading:
    declared = json.dumps(
        {"@type": kind, "headline": "The mill at ebb", "author": {"@type": "Person", "name": "Ada Penhallow"}}
    )
    html = (
        f'<title>The mill at ebb</title><script type="application/ld+json">{declared}</script><h1>The mill at ebb</h1>'
    )
    return read_page(Page(address, f"{html}<p>{'It turns by the tide, twice a day. ' * 20}</p>", "fetched"))


def made(session: Session, *fields: FieldPlan, name: str = "Clips") -> str:
    keyed = tuple(replace(one, key=one.key or one.label.casefold().replace(" ", "_")) for one in fields)
    return session.do(NewCollection(name, Starter(name, "", keyed))).key


def text_of(slip: Slip, key: str) -> str:
    return next(line.text for line in slip.lines if line.field.key == key)


@pytest.mark.parametrize("label", ["Link", "Source page", "Webadresse", "Enlace", "Where it stood"])
def test_the_address_goes_into_the_field_that_is_for_it(session: Session, label: str) -> None:
    place = made(session, FieldPlan("", label, "address"), FieldPlan("", "Saved", "date"))
    slip = session.reader.slips.slip(reading_of(), place=place)
    line = next(one for one in slip.lines if one.field.label == label)
    assert (line.text, line.note, slip.told) == (ADDRESS, "taken for the address", ())
    assert next(one.text for one in slip.lines if one.field.label == "Saved") != ""
    kept = session.do(KeepSlip(slip))
    entry = session.reader.entries.entry(place, kept.entry_id)
    assert entry is not None
    assert entry.value(line.field.key) == ADDRESS
    assert session.reader.slips.slip(reading_of(), place=place).known is not None


def test_what_a_field_is_taken_for_is_corrected_once_for_its_place(session: Session) -> None:
    place = made(session, FieldPlan("where", "Where", "address"), FieldPlan("shop", "Shop", "address"))
    session.do(SetRole(place, "shop", "address"))
    slip = session.reader.slips.slip(reading_of(), place=place)
    assert (text_of(slip, "shop"), text_of(slip, "where")) == (ADDRESS, "")
    session.do(SetRole(place, "where", "address"))
    assert text_of(session.reader.slips.slip(reading_of(), place=place), "where") == ADDRESS
    undo(session)
    assert text_of(session.reader.slips.slip(reading_of(), place=place), "shop") == ADDRESS
    session.do(SetRole(place, "shop", "nothing"))
    assert text_of(session.reader.slips.slip(reading_of(), place=place), "shop") == ""


def test_what_is_said_to_be_for_nothing_stays_blank_whatever_its_key(session: Session) -> None:
    session.do(SetRole("collection:1", "site", "nothing"))
    slip = session.reader.slips.slip(reading_of(), place="collection:1")
    assert (text_of(slip, "site"), text_of(slip, "address")) == ("", ADDRESS)


def test_a_collection_that_cannot_hold_an_address_gets_a_field_and_says_so(session: Session) -> None:
    place = made(session, FieldPlan("", "Remark", "text"))
    slip = session.reader.slips.slip(reading_of(), place=place)
    assert "Makes the field Address in Clips, which has none that could hold it." in slip.told
    kept = session.do(KeepSlip(slip))
    entry = session.reader.entries.entry(place, kept.entry_id)
    assert entry is not None
    assert entry.value("address") == ADDRESS
    assert not session.reader.slips.slip(reading_of("https://mills.example/flood"), place=place).new_keys
    undo(session)
    assert not session.overview.place(place).has("address")


def test_notes_with_a_source_get_one(session: Session, tmp_path: Path) -> None:
    folder = tmp_path / "Mine"
    folder.mkdir()
    (folder / "Before.md").write_text(
        "---\nsource: https://quay.example/a\ncreated: 2026-01-02\nstatus: open\n---\nOld.\n"
    )
    notes = session.do(AddNotesFolder(folder)).key
    session.refresh_notes()
    kept = session.do(KeepSlip(session.reader.slips.slip(reading_of(), place=notes)))
    text = (folder / "The mill at ebb.md").read_text()
    assert f"source: {ADDRESS}" in text
    assert "created: 20" in text
    assert "\naddress:" not in text
    session.refresh_notes()
    again = session.reader.slips.slip(reading_of())
    assert again.known is not None
    assert (again.place, again.known.id) == (notes, kept.entry_id)


def test_an_address_for_later_goes_where_it_is_to_go(session: Session, notes_path: Path) -> None:
    place = made(session, FieldPlan("", "Link", "address"))
    bare = made(session, FieldPlan("", "Remark", "text"), name="Bare")
    for key in (place, bare, "notes:1"):
        kept = CaptureRun(session).keep_address(ADDRESS, "The mill at ebb", key)
        assert kept.place == key
        assert any(one.place == key for one in session.reader.slips.known_anywhere(ADDRESS.removeprefix("https://")))
    assert f"address: {ADDRESS}" in next(notes_path.glob("*.md")).read_text()
    assert session.do(KeepAddress(ADDRESS, "", place)).status == "known"


def test_a_place_is_learnt_by_site_and_kind_and_forgotten_by_one_step(session: Session) -> None:
    place = made(session, FieldPlan("", "Address", "address"))
    hand = ByHand(place=place)
    session.do(KeepSlip(session.reader.slips.slip(reading_of(), hand=hand)))
    next_one = session.reader.slips.slip(reading_of("https://mills.example/flood"), is_habit=True)
    assert (next_one.place, next_one.place_reason) == (place, "as the last article of mills.example")
    assert session.reader.slips.slip(reading_of("https://quay.example/flood"), is_habit=True).place == "collection:1"
    assert (
        session.reader.slips.slip(reading_of("https://mills.example/a", "Product"), is_habit=True).place
        == "collection:1"
    )
    session.do(ForgetHabit(habit_of(next_one.reading)))
    assert session.reader.slips.slip(next_one.reading, is_habit=True).place == "collection:1"
    undo(session)
    assert session.reader.slips.slip(next_one.reading, is_habit=True).place == place


def test_a_template_that_writes_elsewhere_is_followed_though_the_page_is_kept(session: Session) -> None:
    place = made(session, FieldPlan("", "Address", "address"))
    session.do(SaveTemplate(Template("Clip", "Clips")))
    session.do(KeepSlip(session.reader.slips.slip(reading_of())))
    slip = session.reader.slips.slip(reading_of(), hand=ByHand(template="Clip"), is_habit=True)
    assert (slip.place, [one.place for one in slip.elsewhere]) == (place, ["collection:1"])


def test_a_part_of_a_note_shows_no_fields_that_it_will_not_get(session: Session, notes_path: Path) -> None:
    way = NoteTarget("Log.md", InsertPosition())
    session.do(SaveTemplate(Template("Log", "Notebook", way=way, body=Body("nothing", after="- {{ page.title }}"))))
    session.do(KeepSlip(session.reader.slips.slip(reading_of())))
    hand = ByHand(template="Log", values={"tags": Typed("ebb")})
    slip = session.reader.slips.slip(reading_of(), hand=hand)
    assert [line.field.key for line in slip.lines] == ["title"]
    assert slip.by_hand.values["tags"].text == "ebb"
    assert [one.place_name for one in slip.elsewhere] == ["Sources"]


def test_a_text_of_nothing_shows_no_ticked_blocks_until_one_is_taken(session: Session) -> None:
    session.do(SaveTemplate(Template("Bare", "Sources", body=Body("nothing"))))
    slip = session.reader.slips.slip(reading_of(), "Bare")
    assert not any(block.is_kept for block in shown_content(slip).blocks)
    at = next(at for at, block in enumerate(slip.reading.content.blocks) if block.kind == "paragraph")
    taken = with_blocks(slip, [at], is_kept=True)
    assert taken.body == slip.reading.content.blocks[at].markdown
    assert [block.is_kept for block in shown_content(taken).blocks].count(True) == 1


def test_new_options_are_said_and_one_undo_takes_them(session: Session) -> None:
    place = made(session, FieldPlan("", "Address", "address"), FieldPlan("state", "State", "choice", (Option("new"),)))
    slip = session.reader.slips.slip(reading_of(), place=place)
    assert "State gets the new option “to read”." in slip.told
    session.do(KeepSlip(slip))
    undo(session)
    assert [one.name for one in session.reader.entries.place(place).fields[2].options] == ["new"]


def test_why_a_template_was_chosen_is_said_as_it_is(session: Session) -> None:
    assert session.reader.slips.slip(reading_of()).reason == "the structured type is NewsArticle"
    plain = read_page(
        Page(
            ADDRESS,
            f"<title>Ebb</title><h1>Ebb</h1><time>2026-01-02</time><p>{'It turns by the tide. ' * 60}</p>",
            "fetched",
        )
    )
    assert session.reader.slips.slip(plain).reason == "the page seems to be of the kind “article”"
