"""Drafts, pages that are kept already, and what of a page would replace what of its entry."""

import json
import os
import random
import signal
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import undo
from processes import Child
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.capture import KeepSlip
from wily_magpie.core.commands.drafts import DropDraft, SaveDraft
from wily_magpie.core.commands.entries import AddEntry, ChangeEntry
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import CAME_LATE, Page
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.slip_blocks import with_late_blocks
from wily_magpie.core.templates.update import ChosenUpdate, blocks_of

TEXTS = st.text(max_size=30)
MARKS = st.tuples(st.builds(Mark, TEXTS, TEXTS, TEXTS, TEXTS, TEXTS, TEXTS))
HANDS = st.builds(
    ByHand,
    template=TEXTS,
    place=TEXTS,
    values=st.dictionaries(TEXTS, st.builds(Typed, TEXTS, TEXTS), max_size=3),
    body=st.none() | TEXTS,
    marks=MARKS,
    removed=MARKS,
    picture=TEXTS,
    shots=st.tuples(st.binary(max_size=20)),
)


def page(text: str, address: str = "https://mills.example/ebb") -> Page:
    body = "".join(
        f"<p>{one} and so the tide turned in the creek once more, as it does every day.</p>" for one in text.split("|")
    )
    return Page(
        address,
        f"<html><head><title>The ebb</title></head><body><article><h1>The ebb</h1>{body}</article></body></html>",
        "file",
    )


def slip_of(session: Session, source: Page, **more: object) -> Slip:
    return session.reader.slips.slip(read_page(source), **more)  # type: ignore[arg-type]


def text_of(slip: Slip, key: str) -> str:
    return next(line.text for line in slip.lines if line.field.key == key)


@given(HANDS)
def test_what_was_done_is_written_down_and_read_again_as_it_was(hand: ByHand) -> None:
    assert ByHand.from_plain(json.loads(hand.to_json())) == hand


@pytest.mark.parametrize("stored", [{}, {"values": [], "marks": 3}, {"values": {"a": "b"}, "marks": [1], "body": 7}])
def test_a_damaged_draft_loses_only_what_is_damaged(stored: dict[str, object]) -> None:
    assert ByHand.from_plain(stored) == ByHand()


def test_a_draft_comes_back_as_it_was_in_another_session(session: Session, tmp_path: Path) -> None:
    mark = Mark("First", "idea", "which one?")
    slip = slip_of(session, page("First|Second"), hand=ByHand(marks=(mark,))).with_text("summary", "Mine")
    session.do(SaveDraft(replace(slip, body="All my own", is_body_typed=True, screenshot=b"PNG")))
    assert [(one.title, one.address) for one in session.reader.drafts.waiting()] == [
        ("The ebb", "https://mills.example/ebb")
    ]
    again = Session(session.folder, session.fetcher, origin="other")
    draft = again.reader.drafts.find("https://mills.example/ebb#part")
    assert draft is not None
    assert draft.page == page("First|Second")
    back = again.reader.slips.restored(read_page(draft.page), draft.hand, draft.screenshot)
    assert (text_of(back, "summary"), back.body, back.marks, back.screenshot) == ("Mine", "All my own", (mark,), b"PNG")
    again.close()


def test_a_draft_ends_when_it_is_kept_dropped_or_nothing_is_done_any_more(session: Session) -> None:
    slip = slip_of(session, page("First")).with_text("summary", "Mine")
    session.do(SaveDraft(slip))
    session.do(KeepSlip(slip))
    assert session.reader.drafts.waiting() == []
    session.do(SaveDraft(slip))
    session.do(DropDraft(slip.reading.page.address))
    assert session.reader.drafts.waiting() == []
    session.do(DropDraft(slip.reading.page.address, is_dropped=False))
    assert len(session.reader.drafts.waiting()) == 1
    session.do(SaveDraft(slip_of(session, page("First"))))
    assert session.reader.drafts.waiting() == []


def test_a_draft_whose_template_and_place_are_gone_says_so(session: Session) -> None:
    hand = ByHand("No such template", "collection:77", {"summary": Typed("Mine")})
    slip = session.reader.slips.restored(read_page(page("First")), hand)
    assert [told for told in slip.told if "gone" in told] == [
        "The template “No such template” that was chosen is gone.",
        "The place that was chosen is gone.",
    ]
    assert text_of(slip, "summary") == "Mine"


def test_what_was_typed_waits_where_the_place_in_between_lacks_its_field(session: Session, notes_path: Path) -> None:
    session.look_around(is_own=True)
    reading = read_page(page("First"))
    slip = (
        session.reader.slips.slip(reading)
        .with_text("summary", "Mine")
        .with_text("price", "12", "structured data price")
    )
    there = session.reader.slips.slip(reading, hand=replace(slip.by_hand, place="notes:1"))
    assert all(line.field.key not in ("summary", "price") for line in there.lines)
    back = session.reader.slips.slip(reading, hand=replace(there.by_hand, place="collection:1"))
    assert (text_of(back, "summary"), text_of(back, "price")) == ("Mine", "12")
    assert next(line.origin for line in back.lines if line.field.key == "price") == "structured data price"


def test_the_place_that_was_chosen_last_for_a_template_is_proposed(session: Session, notes_path: Path) -> None:
    session.look_around(is_own=True)
    slip = slip_of(session, page("First"), hand=ByHand(place="notes:1"))
    session.do(KeepSlip(slip))
    other = page("Second", "https://mills.example/other")
    assert slip_of(session, other, is_habit=True).place == "notes:1"
    assert slip_of(session, other).place == "collection:1", "a script is told where"
    undo(session)
    assert slip_of(session, other, is_habit=True).place == "collection:1"


def kept(session: Session, source: Page, **typed: str) -> tuple[Slip, Kept]:
    slip = slip_of(session, source)
    for key, text in typed.items():
        slip = slip.with_text(key, text)
    return slip, session.do(KeepSlip(slip))


def test_a_page_is_known_in_all_places_and_by_the_address_in_a_note(session: Session, notes_path: Path) -> None:
    (notes_path / "By hand.md").write_text(
        "---\nsource: https://www.mills.example/ebb/?utm_source=x\n---\nMine.\n", "utf-8"
    )
    session.look_around(is_own=True)
    session.refresh_notes()
    slip = slip_of(session, page("First"))
    assert slip.known is not None
    assert (slip.place, slip.known.title, slip.body.strip()) == ("notes:1", "By hand", "Mine.")
    here = slip_of(session, page("First"), place="collection:1")
    assert here.known is None
    assert [(one.place_name, one.entry.title) for one in here.elsewhere] == [("Notebook", "By hand")]
    session.do(KeepSlip(here))
    both = slip_of(session, page("First"), place="collection:1")
    assert both.known is not None
    assert [one.place for one in both.elsewhere] == ["notes:1"]


def test_adding_to_an_entry_leaves_its_text_and_joins_marks_and_tags(session: Session) -> None:
    _, where = kept(session, page("First|Second"), summary="As it was", tags="ebb")
    session.do(ChangeEntry(where.place, where.entry_id, {}, "My own text.\n\nFirst"))
    session.do(PutMark(where.place, where.entry_id, Mark("First", "idea")))
    slip = slip_of(
        session, page("Third"), hand=ByHand(marks=(Mark("Third", "question"), Mark("First", "idea", "indeed")))
    )
    assert (slip.body, [mark.exact for mark in slip.all_marks]) == ("My own text.\n\nFirst", ["Third", "First"])
    slip = slip.with_text("tags", f"{text_of(slip, 'tags')}; flood")
    assert CaptureRun(session).keep(slip, KeepAs.ADDITION).status == "added"
    entry = session.reader.entries.entry(where.place, where.entry_id)
    assert entry is not None
    assert (entry.body, entry.value("summary"), entry.value("tags")) == (
        "My own text.\n\nFirst",
        "As it was",
        ("ebb", "flood"),
    )
    marks = session.reader.entries.marks(where.place, where.entry_id)
    assert {(mark.exact, mark.comment) for mark in marks} == {("Third", ""), ("First", "indeed")}
    undo(session)
    assert [mark.exact for mark in session.reader.entries.marks(where.place, where.entry_id)] == ["First"]


def test_a_mark_of_the_kept_entry_can_be_taken_away_on_the_slip(session: Session) -> None:
    _, where = kept(session, page("First"))
    session.do(PutMark(where.place, where.entry_id, Mark("First", "idea")))
    slip = slip_of(session, page("First"), hand=ByHand(removed=(Mark("First", "idea"),)))
    assert slip.all_marks == ()
    CaptureRun(session).keep(slip, KeepAs.ADDITION)
    assert session.reader.entries.marks(where.place, where.entry_id) == ()


def test_an_update_takes_what_came_from_the_page_and_leaves_ones_own_words(session: Session) -> None:
    _, where = kept(session, page("First|Second"), summary="Mine")
    entry = session.reader.entries.entry(where.place, where.entry_id)
    assert entry is not None
    first, second = blocks_of(entry.body or "")[-2:]
    session.do(
        ChangeEntry(where.place, where.entry_id, {"title": "As I call it"}, f"{first}\n\nMy own words.\n\n{second}")
    )
    run = CaptureRun(session)
    slip = slip_of(session, page("First|Second, mended|Third"))
    update = run.update_of(slip)
    said = {(one.label, one.now[:12], one.then[:12]): one.is_proposed for one in update.changes}
    assert said[("Title", "As I call it", "The ebb")] is False, "a title of one's own is not replaced unasked"
    run.keep(slip, KeepAs.UPDATE)
    after = session.reader.entries.entry(where.place, where.entry_id)
    assert after is not None
    assert (after.title, after.value("summary")) == ("As I call it", "Mine")
    assert "My own words." in (after.body or "")
    lost = [at for at, one in enumerate(update.changes) if one.key == "" and "My own words" in one.now]
    chosen = run.keep(slip, KeepAs.UPDATE, ChosenUpdate(update, [*update.proposed, *lost]))
    assert chosen.status == "updated"
    body = session.reader.entries.entry(where.place, where.entry_id)
    assert body is not None
    assert "Third" in (body.body or "")
    assert "Second, mended" in (body.body or "")


def test_a_corrected_paragraph_is_taken_over_by_an_update(session: Session) -> None:
    _, where = kept(session, page("First|Second"))
    slip = slip_of(session, page("First|Second, mended"))
    CaptureRun(session).keep(slip, KeepAs.UPDATE)
    entry = session.reader.entries.entry(where.place, where.entry_id)
    assert entry is not None
    assert [one.split(" and so")[0] for one in blocks_of(entry.body or "")][-2:] == ["First", "Second, mended"]


def test_a_second_one_is_the_page_and_not_its_first_entry(session: Session) -> None:
    _, where = kept(session, page("First"), summary="Mine")
    session.do(ChangeEntry(where.place, where.entry_id, {}, "My own text."))
    second = CaptureRun(session).keep(slip_of(session, page("First")), KeepAs.NEW)
    entry = session.reader.entries.entry(second.place, second.entry_id)
    assert entry is not None
    assert second.entry_id != where.entry_id
    assert entry.value("summary") is None
    assert "First" in (entry.body or "")
    assert "My own" not in (entry.body or "")


def test_the_same_words_at_two_places_are_two_marks_in_the_order_of_the_page(session: Session) -> None:
    added = session.do(AddEntry("collection:1", "Words", {}, "The ebb, then the flood, then the ebb again, at last."))
    place, number = "collection:1", added
    for mark in (Mark("the flood"), Mark("the ebb", prefix="then ", suffix=" again"), Mark("The ebb", suffix=", then"),
                 Mark("the ebb", "idea", prefix="then ", suffix=" again")):  # fmt: skip
        session.do(PutMark(place, number, mark))
    assert [(one.exact, one.kind) for one in session.reader.entries.marks(place, number)] == [
        ("The ebb", "evidence"), ("the flood", "evidence"), ("the ebb", "idea"),
    ]  # fmt: skip


@pytest.mark.parametrize(("is_asked", "has_it"), [(True, True), (False, False)])
def test_text_that_comes_late_is_seen_to_be_new_in_a_text_that_was_edited(
    session: Session, is_asked: bool, has_it: bool
) -> None:
    early = slip_of(session, page("First|Second"))
    edited = replace(early, body=f"Mine.\n\n{blocks_of(early.body)[-2]}", is_body_typed=True)
    late = session.reader.slips.slip(read_page(page("First|Second|Third")), hand=edited.by_hand)
    told = with_late_blocks(late, edited.reading.content, are_taken=is_asked)
    assert told.body.startswith("Mine.")
    assert ("Third" in told.body) is has_it
    assert "Second" not in told.body, "what was taken out by hand stays out"
    fresh = [block for block in told.reading.content.blocks if block.reason == CAME_LATE]
    assert [block.text.split(" and")[0] for block in fresh] == ([] if has_it else ["Third"])


def test_pictures_that_were_taken_of_the_page_are_kept_with_it(session: Session, notes_path: Path) -> None:
    session.look_around(is_own=True)
    hand = ByHand(shots=(b"one", b"two"))
    slip = slip_of(session, page("First"), hand=hand)
    assert "2 pictures of the page will be kept with it." in slip.told
    where = session.do(KeepSlip(slip))
    entry = session.reader.entries.entry(where.place, where.entry_id)
    assert entry is not None
    files = entry.value("files")
    assert isinstance(files, tuple)
    assert [one.partition("/")[2] for one in files] == ["The ebb, seen 1.png", "The ebb, seen 2.png"]
    session.do(KeepSlip(slip_of(session, page("First"), hand=replace(hand, place="notes:1"))))
    assert "![The ebb, seen 1.png](Files/The%20ebb%2C%20seen%201.png)" in (notes_path / "The ebb.md").read_text("utf-8")


def test_a_kill_in_the_midst_of_keeping_leaves_the_draft_or_the_entry(tmp_path: Path) -> None:
    folder = tmp_path / "library"
    before = Session(
        folder, Fetcher(lambda _address: None)
    )  # what reads pages is asked here: children must not share it
    sources = [page("First", f"https://mills.example/{number}") for number in range(12)]
    slips = [slip_of(before, source).with_text("summary", "Mine") for source in sources]
    before.close()
    children = []
    for each in slips:

        def work(tell: Callable[[int], object], slip: Slip = each) -> None:
            child = Session(folder, Fetcher(lambda _address: None), origin="other")
            child.do(SaveDraft(slip))
            tell(1)
            child.do(KeepSlip(slip))
            tell(2)
            time.sleep(60)

        children.append(Child(work))
    for child in children:
        child.go()
        while os.read(child.reading, 8) != (1).to_bytes(8, "little"):
            continue
        time.sleep(random.random() / 20)
        os.kill(child.number, signal.SIGKILL)
        os.waitpid(child.number, 0)
        os.close(child.reading)
    after = Session(folder, Fetcher(lambda _address: None))
    waiting = {one.address for one in after.reader.drafts.waiting()}
    entries = after.reader.entries
    listing = entries.listing("collection:1", entries.question("collection:1", ""))
    kept_ones = {str(entry.value("address")) for entry in entries.rows("collection:1", list(listing.ids))}
    assert waiting | kept_ones == {f"https://mills.example/{number}" for number in range(12)}
    assert not waiting & kept_ones
    assert after.reader.check() == []
    after.close()
