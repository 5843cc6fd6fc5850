"""Every command: one step with a name, one event that says what changed and who did it, undo and redo without a trace."""

import importlib
import inspect
import pkgutil
import shutil
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Any

import pytest

from helpers import add_notes, redo, undo
from wily_magpie.core import commands
from wily_magpie.core.commands import (
    capture,
    drafts,
    entries,
    fields,
    files,
    history,
    imports,
    lists,
    living,
    mark_uses,
    marks,
    mirror,
    notes,
    places,
    reading,
    templates,
    upkeep,
    views,
)
from wily_magpie.core.commands import settings as set_up
from wily_magpie.core.commands.command import Command, Noted, StepCommand
from wily_magpie.core.entries.dropped import Dropped
from wily_magpie.core.entries.field import FieldPlan
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.entries.layout import Column, Layout
from wily_magpie.core.entries.living_list import ListForm
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.events import Changed, Event, OverviewChanged
from wily_magpie.core.fields import Option
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Page
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.queries.marks import MarkScope
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import fill
from wily_magpie.core.templates.template import Template

PAGE = Page(
    "https://mills.example/heron", "<title>Heron Mill</title><h1>Heron Mill</h1><p>It turns again.</p>", "fetched"
)
NOT_UNDONE = (
    "history",
    "history_file",
    "finished_step",
    "sqlite_sequence",
    "file",
    "page_file",
    "picture",
    "site_icon",
    "capture_list",
    "capture_item",
    "list_stop",
)
"""Tables of steps, and of what is kept for as long as undo may want it."""
INDEXES = ("entry_text", "body_text")
"""Made from the others by triggers; how words lie in them depends on the order in which they came."""
MARK = Mark("turns", "evidence", "at last", "It ", " again")


@dataclass
class Stage:
    """A library with one thing of each kind.

    Attributes:
        shop: key of a collection with fields and an entry; folder: of a notes folder with a note.
        entry, note: their ids.
    """

    session: Session
    path: Path
    shop: str
    entry: int
    folder: str
    note: int
    view: int
    sample: int

    def question(self, text: str) -> Question:
        return cql.parse(text, self.session.overview.place(self.shop).fields)

    @property
    def kept_view(self) -> Any:
        return next(one for one in self.session.overview.views if one.id == self.view)

    @property
    def template(self) -> Template:
        return self.session.reader.templates.template("Mills")


@dataclass(frozen=True)
class Made:
    """The stage as it is made once: where it lies, and the copy that each test begins with."""

    work: Path
    kept: Path
    numbers: dict[str, Any]


@pytest.fixture(scope="module")
def made_stage(tmp_path_factory: pytest.TempPathFactory) -> Made:
    """Makes the stage, which takes its time, once; a notes folder is known by its path, so that it stays at the same one."""
    folder = tmp_path_factory.mktemp("stage")
    work, kept = folder / "work", folder / "kept"
    work.mkdir()
    session = Session(work / "library", Fetcher())
    numbers = filled(session, work)
    session.close()
    shutil.copytree(work, kept)
    return Made(work, kept, numbers)


def filled(session: Session, folder: Path) -> dict[str, Any]:
    """Fills the stage; the numbers by which tests know what is there."""
    shop = session.do(places.NewCollection("Shop", STARTERS[0])).key
    for plan in (
        FieldPlan("word", "Word", "choice", (Option("one"), Option("two"))),
        FieldPlan("plans", "Plans", "files"),
    ):
        session.do(fields.AddField(shop, plan))
    entry = session.do(entries.AddEntry(shop, "Heron Mill", {"word": "one"}, "It turns again."))
    session.do(entries.SetText(shop, (entry,), "word", "two"))
    session.do(marks.PutMark(shop, entry, Mark("It turns")))
    (folder / "Notes").mkdir()
    (folder / "Notes" / "log.md").write_text("---\nstatus: open\n---\n# Log\n\nOne line.\n", "utf-8")
    (folder / "plan.txt").write_text("a wheel", "utf-8")
    notes_folder = add_notes(session, "Notes", folder / "Notes").key
    session.index_notes(notes_folder).result()
    (note,) = session.reader.entries.listing(notes_folder, cql.parse("", ())).ids
    view = session.do(views.KeepView(shop, "Twos", cql.parse("word = two", session.overview.place(shop).fields)))
    template = Template("Mills", "Shop", fields={"summary": Rule("finding", ("title",))})
    session.do(templates.SaveTemplate(template))
    sample = session.do(templates.AddSample("Mills", PAGE, read_page(PAGE)))
    other = session.do(entries.AddEntry(shop, "Gone"))
    session.do(entries.RemoveEntries(shop, (other,)))
    return {"shop": shop, "entry": entry, "folder": notes_folder, "note": note, "view": view, "sample": sample}


@pytest.fixture
def stage(made_stage: Made, fetcher: Fetcher) -> Iterator[Stage]:
    """The stage as it was made."""
    shutil.rmtree(made_stage.work)
    shutil.copytree(made_stage.kept, made_stage.work)
    session = Session(made_stage.work / "library", fetcher)
    yield Stage(session, made_stage.work, **made_stage.numbers)
    session.close()


@dataclass
class Case:
    """A command, the name of its step, and what its event says that changed."""

    make: Callable[[Stage], Command[Any]]
    label: str
    entries: str = ""
    """"entry", "note", "new" (one of the collection), "new note", "any note", or "" for none."""
    fields: tuple[str, ...] = ()
    of: str = ""
    """"places", "templates", "settings"; several with spaces between them."""


def slip(stage: Stage) -> Any:
    context = RuleContext(read_page(PAGE), "2026-01-02T03:04Z")
    return fill(stage.template, "", context, stage.shop, stage.session.overview.place(stage.shop).fields)


def happening(stage: Stage) -> Any:
    return stage.session.reader.entries.history_of(stage.shop, stage.entry)[0]


def trashed(stage: Stage) -> int:
    return stage.session.reader.entries.trash()[0].id


def made(path: Path) -> Path:
    path.mkdir()
    return path


def other_page() -> Page:
    return Page("https://mills.example/pond", "<title>Pond</title><h1>Pond</h1><p>It is full.</p>", "fetched")


def with_a_list(stage: Stage) -> Command[Any]:
    """A note with a list that holds nothing yet, to be filled."""
    path = stage.path / "Notes" / "log.md"
    path.write_text(f"{path.read_text('utf-8')}\n<!-- list -->\n<!-- end of list -->\n", "utf-8")
    stage.session.refresh_notes(stage.folder)
    return living.FillLists(stage.folder, ("log.md",))


def with_another_form(stage: Stage) -> Command[Any]:
    """A note with a list that is to show something else."""
    with_a_list(stage)
    return living.ChangeList(stage.folder, "log.md", "0 <!-- list -->", ListForm(shape="count"))


def with_a_link(stage: Stage) -> Command[Any]:
    """A note with a link to one that is called otherwise."""
    path = stage.path / "Notes" / "log.md"
    path.write_text(f"{path.read_text('utf-8')}\nSee [[Pnd]].\n", "utf-8")
    stage.session.refresh_notes(stage.folder)
    return notes.PointLinks(stage.folder, stage.note, "Pnd", "Pond.md")


def in_latin_1(stage: Stage) -> Command[Any]:
    """A note in another encoding, which its folder reads."""
    (stage.path / "Notes" / "log.md").write_bytes("Ébb\n".encode("cp1252"))
    stage.session._library.change_place(stage.folder, PlaceSettings(other_encoding="cp1252"))
    stage.session.refresh_notes(stage.folder)
    return notes.WriteInUtf8(stage.folder, (stage.session._library.notes(stage.folder).index.id_of("log.md") or 0,))


def changed_starter(stage: Stage) -> Command[Any]:
    stage.session.do(templates.SetRule("Article", "title", Rule("fixed", ("Always",))))
    return templates.BackToStarter("Article")


def sample_of(stage: Stage) -> Command[Any]:
    kept = stage.session.do(capture.KeepSlip(slip(stage)))
    return templates.AddSampleOf("Mills", stage.shop, kept.entry_id)


def mark_numbers(stage: Stage) -> tuple[int, ...]:
    """Of the marks that there are, the latest first."""
    found = stage.session.reader.marks.found(MarkScope(stage.shop))
    return tuple(sorted((one.number for one in found), reverse=True))


def gathered(stage: Stage, *more: Mark) -> tuple[str, int, tuple[int, ...]]:
    """All marks, gathered for an entry in the order in which they were made."""
    for mark in more:
        stage.session.do(marks.PutMark(stage.shop, stage.entry, mark))
    stage.session.do(mark_uses.GatherMarks(stage.shop, stage.entry, mark_numbers(stage)[::-1]))
    return stage.shop, stage.entry, mark_numbers(stage)


STEPS: dict[type[Command[Any]], Case] = {
    entries.AddEntry: Case(lambda s: entries.AddEntry(s.shop, "New"), "New entry “New”", "new"),
    entries.SetText: Case(
        lambda s: entries.SetText(s.shop, (s.entry,), "word", "one"), "Change word of “Heron Mill”", "entry", ("word",)),
    entries.SetValues: Case(
        lambda s: entries.SetValues(s.shop, {s.entry: {"tags": ("law",)}}), "Change of “Heron Mill”", "entry", ("tags",)),
    entries.ChangeEntry: Case(
        lambda s: entries.ChangeEntry(s.shop, s.entry, {"word": "one"}, "Another text."), "Change “Heron Mill”", "entry",
        ("word", "body")),
    entries.SetTexts: Case(
        lambda s: entries.SetTexts(s.shop, ((s.entry, {"word": "one"}),), "Paste"), "Paste", "entry", ("word",)),
    entries.SetBody: Case(
        lambda s: entries.SetBody(s.shop, s.entry, "New text."), "Change the text of “Heron Mill”", "entry", ("body",)),
    entries.RemoveEntries: Case(lambda s: entries.RemoveEntries(s.shop, (s.entry,)), "Delete “Heron Mill”", "entry"),
    entries.BringBackState: Case(
        lambda s: entries.BringBackState(s.shop, s.entry, happening(s)), "Bring back “Heron Mill” as it was", "entry"),
    entries.RestoreEntries: Case(lambda s: entries.RestoreEntries((trashed(s),)), "Restore “Gone”", "new"),
    entries.EmptyTrash: Case(lambda _: entries.EmptyTrash(), "Empty the trash"),
    fields.AddField: Case(
        lambda s: fields.AddField(s.shop, FieldPlan("", "Weight", "number")), "New field Weight", of="places"),
    fields.ChangeField: Case(
        lambda s: fields.ChangeField(s.shop, "word", {"label": "Term"}), "Rename field Word to Term", of="places"),
    fields.OrderFields: Case(
        lambda s: fields.OrderFields(s.shop, ("plans", "word")), "Reorder fields", of="places"),
    fields.DeleteField: Case(lambda s: fields.DeleteField(s.shop, "plans"), "Delete field Plans", of="places"),
    fields.SetOptions: Case(
        lambda s: fields.SetOptions(s.shop, "word", (("two", Option("second")), ("one", Option("one")))),
        "Change the options of Word", "entry", ("word",), of="places"),
    fields.MakeReference: Case(
        lambda s: fields.MakeReference(s.shop, "word", "collection:1"), "Make Word a reference to Sources", of="places"),
    fields.ChangeKind: Case(
        lambda s: fields.ChangeKind(s.shop, "word", "text"), "Make Word a field of the kind text", of="places"),
    files.TakeDropped: Case(
        lambda s: files.TakeDropped(s.shop, Dropped(text="A new thing\nwith a line")), "Take in", "new"),
    files.AttachFiles: Case(
        lambda s: files.AttachFiles(s.shop, s.entry, "plans", (s.path / "plan.txt",)), "Attach “plan.txt”", "entry", ("plans",)),
    capture.KeepSlip: Case(lambda s: capture.KeepSlip(slip(s)), "Keep “Heron Mill”", "new"),
    capture.KeepAddress: Case(
        lambda s: capture.KeepAddress("https://mills.example/later", "Later", s.shop), "Keep “Later” for later", "new"),
    marks.PutMark: Case(lambda s: marks.PutMark(s.shop, s.entry, MARK), "Mark in “Heron Mill”", "entry"),
    marks.ChangeMark: Case(
        lambda s: marks.ChangeMark(s.shop, s.entry, Mark("It turns"), Mark("turns", "idea")), "Change a mark of “Heron Mill”", "entry"),
    marks.RemoveMark: Case(
        lambda s: marks.RemoveMark(s.shop, s.entry, Mark("It turns")), "Remove a mark of “Heron Mill”", "entry"),
    mark_uses.GatherMarks: Case(
        lambda s: mark_uses.GatherMarks(s.shop, s.entry, mark_numbers(s)), "Add a mark to “Heron Mill”", "entry"),
    mark_uses.LeaveMarks: Case(lambda s: mark_uses.LeaveMarks(*gathered(s)), "Take a mark out of “Heron Mill”", "entry"),
    mark_uses.OrderMarks: Case(
        lambda s: mark_uses.OrderMarks(*gathered(s, MARK)), "Order the marks of “Heron Mill”", "entry"),
    mark_uses.WriteDraft: Case(
        lambda s: mark_uses.WriteDraft(s.shop, s.entry, mark_numbers(s), "> It turns"), "Write a mark into “Heron Mill”", "entry"),
    mark_uses.MarksIntoJournal: Case(
        lambda s: mark_uses.MarksIntoJournal(s.folder, "> It turns", mark_numbers(s)), "Write a mark into today's page of Notes",
        "new note"),
    mark_uses.NoteFromMarks: Case(
        lambda s: mark_uses.NoteFromMarks(s.folder, "It turns", "> It turns", mark_numbers(s)), "New note “It turns” from a mark",
        "new note"),
    notes.WriteNote: Case(lambda s: notes.WriteNote(s.folder, "log.md", "Two lines."), "Write into log", "note"),
    notes.WriteJournal: Case(
        lambda s: notes.WriteJournal(s.folder, "A line.", day=date(2026, 1, 2)), "Write into 2026-01-02", "new note"),
    notes.MoveNote: Case(lambda s: notes.MoveNote(s.folder, s.note, "old/log.md"), "Move log.md to old/log.md", "any note"),
    places.NewCollection: Case(
        lambda _: places.NewCollection("Finds", STARTERS[0]), "New collection Finds", of="places"),
    places.PlaceFor: Case(
        lambda s: places.PlaceFor("Finds", (FieldPlan("word", "Word", "text"),)), "New collection Finds", of="places"),
    mirror.MirrorInto: Case(
        lambda s: mirror.MirrorInto(s.folder, s.shop, "title"), "Keep Shop in step with Notes", of="places"),
    living.PutList: Case(
        lambda s: living.PutList(s.folder, "log.md", ListForm(shape="count")), "Put a list into log", "note"),
    living.ChangeList: Case(with_another_form, "Change a list of log", "note"),
    living.FillLists: Case(with_a_list, "Fill the lists of log", "note"),
    living.MakeHomePage: Case(
        lambda s: living.MakeHomePage(s.folder, "a book", "Home"), "Make the home page Home", "new note"),
    notes.MakeDay: Case(lambda s: notes.MakeDay(s.folder, date(2026, 1, 2)), "Make 2026-01-02", "new note"),
    notes.MakeNote: Case(lambda s: notes.MakeNote(s.folder, "Pond"), "Make Pond", "new note"),
    notes.MoveNotes: Case(lambda s: notes.MoveNotes(s.folder, (s.note,), "old"), "Move a note to old", "any note"),
    notes.PointLinks: Case(with_a_link, "Have links to Pnd lead to Pond.md", "note"),
    notes.WriteInUtf8: Case(in_latin_1, "Write a note as UTF-8", "note"),
    notes.MakeHeading: Case(
        lambda s: notes.MakeHeading(s.folder, NoteTarget("log.md", InsertPosition("Kept"))),
        "Make the heading “Kept” in Notes", "note"),
    places.AddNotesFolder: Case(
        lambda s: places.AddNotesFolder(made(s.path / "More")), "New notes folder More", of="places"),
    places.RenamePlace: Case(lambda s: places.RenamePlace(s.shop, "Stall"), "Rename Shop to Stall", of="places"),
    places.DeletePlace: Case(lambda s: places.DeletePlace(s.shop), "Delete Shop", of="places"),
    places.SetRole: Case(
        lambda s: places.SetRole(s.shop, "address", "nothing"), "Say what “Address” is for", of="places"),
    places.ChangePlace: Case(
        lambda s: places.ChangePlace(s.shop, PlaceSettings(description="What is sold")), "Change Shop", of="places"),
    set_up.SetSetting: Case(
        lambda _: set_up.SetSetting("pictures_a_page", "7"), "Set “Pictures a page”", of="settings"),
    templates.SaveTemplate: Case(
        lambda _: templates.SaveTemplate(Template("Ponds")), "New template “Ponds”", of="templates"),
    templates.CopyTemplate: Case(lambda _: templates.CopyTemplate("Mills"), "Copy template “Mills”", of="templates"),
    templates.RemoveTemplate: Case(lambda _: templates.RemoveTemplate("Mills"), "Delete template “Mills”", of="templates"),
    templates.OrderTemplates: Case(
        lambda s: templates.OrderTemplates(s.session.overview.templates[::-1]), "Order templates", of="templates"),
    templates.SwitchTemplate: Case(
        lambda _: templates.SwitchTemplate("Mills", is_on=False), "Switch off template “Mills”", of="templates"),
    templates.BackToStarter: Case(
        changed_starter, "Back to the starter of “Article”", of="templates"),
    templates.SetRule: Case(
        lambda _: templates.SetRule("Mills", "word", Rule("fixed", ("one",))), "Change template “Mills”", of="templates"),
    templates.AddSample: Case(
        lambda _: templates.AddSample("Mills", other_page(), read_page(other_page())), "New sample page “Pond”", of="templates"),
    templates.AddSampleOf: Case(sample_of, "New sample page “Heron Mill”", of="templates"),
    templates.RemoveSample: Case(lambda s: templates.RemoveSample(s.sample), "Remove a sample page", of="templates"),
    templates.Accept: Case(
        lambda s: templates.Accept("Mills", ((s.sample, "title", "Heron Mill"),)), "Accept values of template “Mills”",
        of="templates"),
    templates.MakeWithSample: Case(
        lambda s: templates.MakeWithSample(Template("Weirs", "Shop"), other_page(), read_page(other_page()), is_new_place=False),
        "New template “Weirs”", of="templates"),
    templates.DropRules: Case(lambda s: templates.DropRules(s.shop, "summary"), "Remove the rules for summary", of="templates"),
    templates.RenameRules: Case(
        lambda s: templates.RenameRules(s.shop, "summary", "word"), "Rename summary to word", of="templates"),
    views.KeepView: Case(lambda s: views.KeepView(s.shop, "Ones", s.question("word = one")), "Keep view “Ones”", of="places"),
    views.RenameView: Case(lambda s: views.RenameView(s.kept_view, "Pairs"), "Rename view “Twos”", of="places"),
    views.DeleteView: Case(lambda s: views.DeleteView(s.kept_view), "Delete view “Twos”", of="places"),
    views.CopyView: Case(
        lambda s: views.CopyView(s.kept_view), "Copy view “Twos”", of="places"),
    views.OrderViews: Case(
        lambda s: views.OrderViews(s.shop, (s.view,)), "Order the views of Shop", of="places"),
    views.MoveToLane: Case(
        lambda s: views.MoveToLane(s.shop, (s.entry,), "word", "one", s.view, Layout(by_hand=(s.entry,))),
        "Move “Heron Mill” to one", "entry", ("word",), of="places"),
    views.SetLayout: Case(
        lambda s: views.SetLayout(s.shop, s.view, Layout(columns=(Column("word", "Term", 12),))), "Arrange “Twos”", of="places"),
}  # fmt: skip
OTHERS = {
    capture.KeepPictures, history.MoveInHistory, history.Undo, history.Redo, history.PassOver, history.UndoTo,
    drafts.SaveDraft, drafts.DropDraft, imports.BeginTable, imports.AddRows, imports.FinishTable, imports.DropRows, upkeep.Sweep, upkeep.ForgetSteps, upkeep.EmptyFiling,
    fields.FieldCommand, mark_uses.ChapterCommand, mark_uses.UseMarks, living.WriteLists, mirror.KeepInStep, notes.LayFile, lists.MakeList, lists.NoteItems, lists.WaitAgain, lists.DropList, lists.NoteRead, reading.NoteStop, places.UseFolder,
    set_up.ForgetHabit,
}  # fmt: skip
"""No steps of their own, or parts of a longer work; they have tests of their own."""


def is_command(one: object) -> bool:
    return inspect.isclass(one) and issubclass(one, Command) and one not in (Command, StepCommand, Noted)


def test_every_command_is_here() -> None:
    known = set()
    for found in pkgutil.iter_modules(commands.__path__):
        module = importlib.import_module(f"{commands.__name__}.{found.name}")
        known |= {one for one in vars(module).values() if is_command(one) and one.__module__ == module.__name__}
    assert known == STEPS.keys() | OTHERS


def contents(stage: Stage) -> dict[str, object]:
    """All that is kept: rows of all tables, files of the notes folder."""
    database = stage.session._library.database
    names = [str(name) for (name,) in database.rows("SELECT name FROM sqlite_schema WHERE type = 'table'")]
    kept = [name for name in names if name not in NOT_UNDONE and not name.startswith(INDEXES)]
    rows: dict[str, object] = {}
    for name in kept:
        columns = [str(row[1]) for row in database.rows(f"PRAGMA table_info({name})")]
        found = database.rows(f"SELECT * FROM {name}")
        if filled := sorted(  # a column that was added stays, blank, when that is undone
            str({key: value for key, value in zip(columns, row, strict=True) if value is not None}) for row in found
        ):
            rows[name] = filled
    notes_folder = stage.path / "Notes"
    rows["files"] = {str(one.relative_to(notes_folder)): one.read_bytes() for one in notes_folder.rglob("*.md")}
    return rows


@pytest.mark.parametrize("kind", STEPS, ids=lambda kind: kind.__name__)
def test_it_is_one_step_with_one_event_and_undo_leaves_no_trace(stage: Stage, kind: type[Command[Any]]) -> None:
    case, session = STEPS[kind], stage.session
    command = case.make(stage)
    assert isinstance(command, kind)
    before, told = contents(stage), list[Event]()
    session.subscribe(told.append)
    session.do(command)
    after = contents(stage)
    assert after != before

    (event,) = [one for one in told if isinstance(one, Changed)]
    assert event.step.label.startswith(case.label)
    assert (event.is_own, event.step.origin) == (True, "window")
    of = {name for name in ("places", "templates", "settings") if getattr(event, f"is_of_{name}")}
    assert of >= set(case.of.split())
    place = stage.folder if case.entries.endswith("note") else stage.shop
    match case.entries:
        case "entry":
            assert event.entries[place] == {stage.entry}
        case "note":
            assert stage.note in event.entries[place]
        case "any note":  # its path is another one, and so are the links to it
            assert place in event.entries
        case "new" | "new note":
            assert len(event.entries[place]) == 1
            assert not event.entries[place] & {stage.entry, stage.note}
    if case.fields:
        assert event.fields[place] == set(case.fields)
    shown = [one.overview for one in told if isinstance(one, OverviewChanged)]
    assert shown
    assert shown[-1].undo == event.step

    assert undo(session) == event.step.label
    assert contents(stage) == before
    assert redo(session) == event.step.label
    assert contents(stage) == after


@pytest.mark.parametrize("kind", STEPS, ids=lambda kind: kind.__name__)
def test_a_command_that_is_ended_before_it_is_committed_has_changed_nothing(
    stage: Stage, kind: type[Command[Any]]
) -> None:
    from wily_magpie.core.commands.command import Progress
    from wily_magpie.core.session.jobs import Cancelled

    class Ended(Progress):
        def close(self) -> None:
            raise Cancelled

    command = STEPS[kind].make(stage)
    before, step = contents(stage), stage.session.overview.undo
    with pytest.raises(Cancelled):
        stage.session.do(command, Ended())
    assert contents(stage) == before
    assert stage.session.overview.undo == step
