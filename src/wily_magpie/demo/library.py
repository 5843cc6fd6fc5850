"""The demo library: a writer's material for a book about the tide mills of a made-up estuary.

What comes from the stand-in web is captured by the same way as any page; the rest stands in library.yaml.
"""

import shutil
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path
from typing import Any

import yaml

from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.command import UNWATCHED, Progress
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.living import MakeHomePage
from wily_magpie.core.commands.templates import Accept, AddSample
from wily_magpie.core.commands.upkeep import ForgetSteps
from wily_magpie.core.entries.field import FieldPlan, Settings, SummaryPlan
from wily_magpie.core.entries.layout import from_plain
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.fields import Option
from wily_magpie.core.fields.summary import Measure
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.session.seed import seed
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.demo.mark import MARK, is_demo, need_demo_or_nothing
from wily_magpie.demo.web import earlier


def make_demo(folder: Path, fetcher: Fetcher, *, reset: bool = False, progress: Progress = UNWATCHED) -> None:
    """Makes the demo library where it is not there; with reset, anew. It is made beside its place, and there or not.

    Raises:
        UserError: the folder holds something that is not a demo library.
    """
    need_demo_or_nothing(folder)
    if is_demo(folder) and not reset:
        return
    making = folder.with_name(f"{folder.name}.making")
    shutil.rmtree(making, ignore_errors=True)
    making.mkdir(parents=True)
    try:
        fill_new(making, fetcher, progress)
        shutil.rmtree(folder, ignore_errors=True)
        making.replace(folder)
    finally:
        shutil.rmtree(making, ignore_errors=True)
    move_notes(folder, making)


def fill_new(folder: Path, fetcher: Fetcher, progress: Progress) -> None:
    """Makes the library in a folder of its own."""
    (folder / MARK).write_text(
        "Made by “wily-magpie demo”; “--reset” deletes this folder and makes it anew.\n", "utf-8"
    )
    plan = yaml.safe_load((resources.files("wily_magpie.demo") / "library.yaml").read_text("utf-8"))
    session = Session(folder, fetcher, lambda library: seed_demo(library, plan))
    try:
        fill(session, plan, progress)
        session.do(ForgetSteps())
    finally:
        session.close()


def move_notes(folder: Path, before: Path) -> None:
    """Tells a library that its notes folder has moved along with it."""
    library = Library(folder)
    try:
        library.move_notes_folders(before, folder)
    finally:
        library.close()


def field_plans(raw: list[dict[str, Any]]) -> list[FieldPlan]:
    """Fields from their plain form; an option is "name" or "name:colour"."""
    return [
        FieldPlan(one["key"], one["label"], one["kind"], tuple(Option(*o.split(":")) for o in one.get("options", [])))
        for one in raw
    ]


def seed_demo(library: Library, plan: dict[str, Any]) -> None:
    """The starter, with chapters, further collections, a notes folder and views."""
    seed(library, field_plans(plan["source_fields"]))
    for name, fields in plan["collections"].items():
        library.add_collection(name, field_plans(fields))
    notes = library.folder / "Notebook"
    notes.mkdir()
    library.add_notes_folder("Notebook", notes, field_plans(plan["note_fields"]))
    for one in plan["references"]:
        settings = Settings(target=library.place(one["to"]).key)
        field = FieldPlan(one["key"], one["label"], "reference", (), settings, one["back"])
        add_field(library, one["place"], field)
    for one in plan["summaries"]:
        summary = SummaryPlan(
            one["over"], Measure(one.get("measure", "count")), one.get("of", ""), one.get("where", "")
        )
        field = FieldPlan(one["key"], one["label"], "summary", settings=Settings(summary=summary))
        add_field(library, one["place"], field)
    for place, said in plan["settings"].items():
        kept = PlaceSettings(**{**said, "rules": tuple(said.get("rules", ()))})
        library.change_place(library.place(place).key, kept)
    for place, views in plan["views"].items():
        for name, said in views.items():
            asks, layout = (said, None) if isinstance(said, str) else (said["asks"], from_plain(said["layout"]))
            library.views.keep(library.place(place).key, name, asks, None, layout)


def add_field(library: Library, place: str, plan: FieldPlan) -> None:
    """A further field of a place that is being made."""
    schema_changes.add_field(library, schema_changes.plan_field(library, library.place(place).key, plan))


def fill(session: Session, plan: dict[str, Any], progress: Progress) -> None:
    """The entries."""
    run = CaptureRun(session)
    total = len(plan["captures"]) + len(plan["samples"])
    today = datetime.now(UTC)
    firsts = {one["to"] for one in plan["references"] if one["place"] == "Sources"}  # what captures refer to
    for name in firsts:
        add_entries(session, name, plan["entries"][name], today)
    for number, one in enumerate(plan["captures"]):
        progress.tick(number, total)
        page = session.fetcher.page(one["address"])
        if one.pop("as it was last year", False):
            page = replace(page, html=earlier(page.address))
        marks = [Mark(**mark) for mark in one.pop("marks", [])]
        slip = run.slip(run.reading(page), hand=ByHand(marks=tuple(marks)))
        for key, text in {**one, "captured": days_ago(today, one["captured"])}.items():
            if key != "address":
                slip = slip.with_text(key, str(text))
        run.pictures(slip, run.keep(slip))
    for name in plan["entries"]:
        if name not in firsts:
            add_entries(session, name, plan["entries"][name], today)
    for name, text in plan["notes"].items():
        path = session.folder / "Notebook" / f"{name}.md"
        path.parent.mkdir(exist_ok=True)
        path.write_text(text, "utf-8")
    session.refresh_notes()
    session.do(MakeHomePage(session.place("Notebook").key, "a book", "Home"))
    add_samples(session, plan["samples"], progress, total)


def add_entries(session: Session, name: str, entries: list[dict[str, Any]], today: datetime) -> None:
    """The entries of one collection that are made by hand."""
    place = session.place(name)
    for one in entries:
        body = str(one.pop("body", ""))
        if "captured" in one:
            one["captured"] = days_ago(today, one["captured"])
        fields = {field.key: field for field in place.fields}
        values = {key: fields[key].kind.from_plain(value) for key, value in one.items() if key != "title"}
        session.do(AddEntry(place.key, one["title"], values, body))


def add_samples(session: Session, plan: dict[str, Any], progress: Progress, total: int) -> None:
    """Sample pages of templates, some of them with accepted values; one of those was another when it was accepted."""
    for at, (name, pages) in enumerate(plan.items()):
        progress.tick(total - len(plan) + at, total)
        numbers = {}
        for address in (*pages["accepted"], *pages["others"]):
            page = session.fetcher.page(address)
            numbers[address] = session.do(AddSample(name, page, read_page(page)))
        for address in pages["accepted"]:
            session.do(Accept(name, session.reader.templates.given_now(name, numbers[address])))
        changed = pages.get("changed")
        if changed:
            session.do(Accept(name, [(numbers[changed["address"]], changed["field"], changed["text"])]))


def days_ago(today: datetime, days: int) -> str:
    """A moment some days before today, as dates are written."""
    return (today - timedelta(days=days, minutes=days * 37)).strftime("%Y-%m-%dT%H:%MZ")
