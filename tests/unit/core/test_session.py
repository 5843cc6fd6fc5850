"""The counter that interfaces call: capturing, changing, searching, undoing, long work."""

import threading
from pathlib import Path

import pytest

from conftest import HERON
from helpers import redo, undo, undo_label
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.capture import KeepAddress, KeepSlip
from wily_magpie.core.commands.entries import AddEntry, RemoveEntries, SetBody, SetText
from wily_magpie.core.commands.places import AddNotesFolder
from wily_magpie.core.commands.views import DeleteView, KeepView, RenameView
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.errors import BugError, EnvironmentFailure, PageFailure, UserError
from wily_magpie.core.events import Changed, Event, OverviewChanged
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.page import Page
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.jobs import Cancelled, Job, State
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.slip import Slip


def slip_of(session: Session, address: str = HERON, **texts: str) -> Slip:
    """The slip of a page of the stand-in web, with some values typed."""
    slip = session.reader.slips.slip(read_page(session.fetcher.page(address)))
    for key, text in texts.items():
        slip = slip.with_text(key, text)
    return slip


def count(session: Session, place: str = "Sources") -> int:
    return session._library.place(place).listing(Question()).total


def test_an_address_becomes_an_entry_with_its_page_and_pictures(session: Session) -> None:
    slip = slip_of(session)
    assert slip.template.name == "Article"
    assert slip.reason == "the structured type is NewsArticle"
    kept = session.do(KeepSlip(slip))
    assert (kept.place_name, kept.status) == ("Sources", "kept")
    entry = session._library.place(kept.place).entry(kept.entry_id)
    assert entry
    assert entry.title == "Heron Mill turns again after ninety years"
    assert entry.value("authors") == ("Penhallow, Ada", "Varley, Tom")
    assert entry.value("status") == "to read"
    assert entry.body
    assert "Two tides a day" in entry.body
    assert CaptureRun(session).pictures(slip, kept) == []
    picture = session.reader.entries.picture(str(entry.value("picture")))
    assert picture
    assert picture.startswith(b"<svg")
    assert len(list((session._library.folder / "pages").iterdir())) == 1
    assert undo_label(session) == "Keep “Heron Mill turns again after ninety years”"
    undo(session)
    assert count(session) == 0
    redo(session)
    assert session._library.place(kept.place).entry(kept.entry_id) == entry


def test_the_same_page_is_known_again_by_any_of_its_addresses(session: Session) -> None:
    kept = session.do(KeepSlip(slip_of(session, chapter="", status="read")))
    again = slip_of(session, "http://short-links.example/t/heron")
    assert again.known
    assert again.known.id == kept.entry_id
    assert len(again.known_when) == 10
    line = next(line for line in again.lines if line.field.key == "status")
    assert (line.text, line.origin) == ("read", "the kept entry")
    assert session.do(KeepSlip(again.with_text("summary", "In my own words"), KeepAs.UPDATE)) == Kept(
        kept.place, "Sources", kept.entry_id, kept.title, "updated"
    )
    assert count(session) == 1
    second = session.do(KeepSlip(again))
    assert second.entry_id != kept.entry_id
    assert count(session) == 2


def test_a_page_is_kept_in_a_notes_folder_as_well(session: Session, notes_path: Path) -> None:
    reading = read_page(session.fetcher.page(HERON))
    kept = session.do(KeepSlip(session.reader.slips.slip(reading, "Article", session._library.place("Notebook").key)))
    path = notes_path / "Heron Mill turns again after ninety years.md"
    text = path.read_text("utf-8")
    assert text.startswith("---\ntitle: Heron Mill turns again after ninety years\nstatus: to read\n")
    assert "authors: ['Penhallow, Ada', 'Varley, Tom']" in text or "authors:" in text
    assert "## Two tides a day" in text
    assert session.reader.slips.slip(reading, "Article", kept.place).known
    undo(session)
    assert not path.exists()


def test_only_the_address_is_kept_for_later(session: Session) -> None:
    kept = session.do(KeepAddress(HERON))
    assert kept.status == "kept"
    entry = session._library.place(kept.place).entry(kept.entry_id)
    assert entry
    assert (entry.title, entry.value("address"), entry.value("status")) == (HERON, HERON, "to read")
    assert session.do(KeepAddress(HERON + "?utm_source=x")).status == "known"
    assert slip_of(session).known == entry


def test_new_options_are_learnt_and_unlearnt(session: Session) -> None:
    kept = session.do(KeepSlip(slip_of(session, status="to be quoted")))
    names = [option.name for option in session._library.place("Sources").fields[1].options]
    assert names[-1] == "to be quoted"
    undo(session)
    assert "to be quoted" not in [option.name for option in session._library.place("Sources").fields[1].options]
    assert kept.status == "kept"


def test_changing_entries_is_one_named_step(session: Session) -> None:
    place = session._library.place("Sources").key
    ids = [session.do(AddEntry(place, f"Mill {number}")) for number in range(3)]
    session.do(SetText(place, ids, "tags", "law; tides"))
    assert undo_label(session) == "Change tags of 3 entries"
    session.do(SetText(place, ids[:1], "title", "Wick Mill"))
    assert undo_label(session) == "Change title of “Mill 0”"
    session.do(RemoveEntries(place, ids))
    assert count(session) == 0
    for _ in range(2):
        undo(session)
    assert [entry.title for entry in session._library.place(place).rows(ids)] == ["Mill 0", "Mill 1", "Mill 2"]
    undo(session)
    assert all(entry.value("tags") is None for entry in session._library.place(place).rows(ids))


@pytest.mark.parametrize(
    ("key", "text", "said"),
    [
        ("price", "soon", "Price: “soon” is not a number"),
        ("title", " ", "cannot be blank"),
        ("moon", "x", "no field"),
    ],
)
def test_a_bad_value_changes_nothing(session: Session, key: str, text: str, said: str) -> None:
    place = session._library.place("Sources").key
    entry_id = session.do(AddEntry(place, "Mill"))
    with pytest.raises(UserError, match=said):
        session.do(SetText(place, [entry_id], key, text))
    assert undo_label(session) == "New entry “Mill”"


def test_a_date_that_is_none_is_kept_as_it_was_written_and_said(session: Session) -> None:
    place = session._library.place("Sources")
    early, late = (session.do(AddEntry(place.key, title)) for title in ("Early", "Late"))
    assert "cannot" not in session.do(SetText(place.key, [early], "published", "12 March 1880"))
    assert "“after the flood” is not a date" in session.do(SetText(place.key, [late], "published", "after the flood"))
    assert place.rows([late])[0].value("published") == "after the flood"
    for question, found in (
        ("published > 1500", [early]),
        ("published < 1900", [early]),
        ("published within P90000D", [early]),
    ):
        assert list(place.listing(session.reader.entries.question(place.key, question)).ids) == found


def test_an_entry_that_is_gone_is_said(session: Session) -> None:
    with pytest.raises(UserError, match="no longer there"):
        session.do(SetText("collection:1", [99], "title", "x"))


def test_search_looks_everywhere_titles_first(session: Session, notes_path: Path) -> None:
    place = session._library.place("Sources").key
    session.do(SetBody(place, session.do(AddEntry(place, "Of millers")), "They wait for the ebb."))
    session.do(AddEntry(place, "The ebb", {"summary": "short"}))
    (notes_path / "Note.md").write_text("---\ntags: [ebb]\n---\n")
    session.refresh_notes()
    assert [entry.title for entry in session.reader.entries.search("ebb").entries] == ["The ebb", "Of millers", "Note"]
    assert session.reader.entries.search("ebb flow").entries == ()
    assert session.reader.entries.search('"ebb (').entries == session.reader.entries.search("ebb").entries


def test_views_are_steps_too(session: Session) -> None:
    place = session._library.place("Sources")
    number = session.do(KeepView(place.key, "Law", session.reader.entries.question(place.key, "tags = law")))
    view = next(view for view in session.reader.entries.views(place.key) if view.id == number)
    session.do(RenameView(view, "The law"))
    session.do(DeleteView(view))
    assert undo_label(session) == "Delete view “Law”"
    undo(session)
    assert "The law" in [view.name for view in session.reader.entries.views()]
    undo(session)
    undo(session)
    assert "Law" not in [view.name for view in session.reader.entries.views()]


def test_events_say_what_happened(session: Session) -> None:
    heard: list[Event] = []
    session.subscribe(heard.append)
    entry_id = session.do(AddEntry("collection:1", "Mill"))
    overview, changed = heard
    assert isinstance(overview, OverviewChanged)
    assert overview.overview.undo is not None
    assert overview.overview.undo.label == "New entry “Mill”"
    assert isinstance(changed, Changed)
    assert (changed.step.label, changed.step.origin, changed.is_own) == ("New entry “Mill”", "window", True)
    assert changed.entries == {"collection:1": {entry_id}}
    assert not changed.is_of_places
    heard.clear()
    session.do(SetText("collection:1", [entry_id], "site", "Mill news"))
    assert [one.fields for one in heard if isinstance(one, Changed)] == [{"collection:1": {"site"}}]
    heard.clear()
    undo(session)
    assert [one.entries for one in heard if isinstance(one, Changed)] == [{"collection:1": {entry_id}}]


def test_pictures_that_cannot_be_had_are_told(session: Session) -> None:
    page = Page("http://mills.example/a", "<title>T</title><p>x</p>", "file")
    slip = session.reader.slips.slip(read_page(page)).with_text("picture", "http://nowhere.example/p.png")
    failures = CaptureRun(session).pictures(slip, Kept("collection:1", "Sources", 1, "T", "kept"))
    assert len(failures) == 1
    assert "nowhere.example" in failures[0]


def test_a_notes_folder_is_added_once(session: Session, notes_path: Path) -> None:
    with pytest.raises(UserError, match="already"):
        session.do(AddNotesFolder(notes_path))
    with pytest.raises(UserError, match="is not a folder"):
        session.do(AddNotesFolder(notes_path / "none"))


def test_unknown_templates_are_said(session: Session) -> None:
    with pytest.raises(UserError, match=r"There are: .*Video, .*Article"):
        session.reader.templates.template("Newspaper")


def run(session: Session, work: object) -> Job:
    """A job that has ended."""
    ended = threading.Event()
    session.subscribe(lambda _event: ended.set() if session.jobs.all and last(session).is_over else None)
    job = session.start("A job", work)  # type: ignore[arg-type]
    assert ended.wait(20)
    return job


def last(session: Session) -> Job:
    """The job that was started last."""
    return max(session.jobs.all.values(), key=lambda job: job.number)


def test_a_job_tells_its_progress_and_result(session: Session) -> None:
    seen: list[tuple[int, int]] = []

    def work(job: Job) -> str:
        job.tick(1, 2)
        seen.append((job.done, job.total))
        return "done"

    job = run(session, work)
    assert (job.state, job.future.result(), seen) == (State.DONE, "done", [(1, 2)])


def test_a_job_can_be_cancelled(session: Session) -> None:
    is_going, may_go_on = threading.Event(), threading.Event()

    def work(job: Job) -> None:
        is_going.set()
        may_go_on.wait(10)
        job.tick(1, 2)

    job = session.start("Long", work)
    is_going.wait(10)
    assert job.cancel()
    may_go_on.set()
    with pytest.raises(Cancelled):
        job.future.result(timeout=10)
    assert job.state is State.CANCELLED


def test_what_is_committed_is_past_cancelling_and_says_so(session: Session) -> None:
    is_settled, may_end = threading.Event(), threading.Event()

    def work(job: Job) -> str:
        session.do(AddEntry("collection:1", "Kept"), job)
        is_settled.set()
        may_end.wait(10)
        return "kept"

    job = session.start("Keeping", work)
    assert is_settled.wait(10)
    assert not job.cancel()
    may_end.set()
    assert job.future.result(timeout=10) == "kept"
    assert job.came_too_late
    assert count(session) == 1


def test_what_was_cancelled_in_time_has_changed_nothing(session: Session) -> None:
    def work(job: Job) -> None:
        assert job.cancel()
        session.do(AddEntry("collection:1", "Never"), job)

    job = session.start("Cancelled before its commit", work)
    with pytest.raises(Cancelled):
        job.future.result(timeout=10)
    assert count(session) == 0
    assert session.overview.undo is None


def test_a_failed_job_says_why_and_can_be_tried_again(session: Session) -> None:
    tries: list[int] = []

    def work(job: Job) -> int:
        tries.append(1)
        if len(tries) == 1:
            raise EnvironmentFailure("disk-full", "The disk is full.", "Free some space.")
        return 7

    job = run(session, work)
    assert (job.state, str(job.error)) == (State.FAILED, "The disk is full. Free some space.")
    again = session.jobs.retry(job.number)
    assert again.future.result(timeout=10) == 7
    assert job.number not in session.jobs.all


def test_our_own_faults_are_told_not_lost(session: Session, caplog: pytest.LogCaptureFixture) -> None:
    job = run(session, lambda _job: 1 / 0)
    assert isinstance(job.error, BugError)
    assert "division" in str(job.error)
    assert "division" in caplog.text


def test_a_cancelled_fetch_is_a_cancelled_job(session: Session) -> None:
    def work(job: Job) -> None:
        raise PageFailure("cancelled", "Fetching was cancelled.")

    assert run(session, work).state is State.CANCELLED
