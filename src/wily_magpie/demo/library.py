"""The demo library: a writer's material for a book about the tide mills of a made-up estuary.

What comes from the stand-in web is captured by the same way as any page; the rest stands in library.yaml.
"""

import shutil
import sys
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from importlib import resources
from pathlib import Path
from typing import Any

import yaml

from wily_magpie.core.entries.field import FieldPlan, Settings, SummaryPlan
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields import Option
from wily_magpie.core.fields.summary import Measure
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.api import PlaceSettings
from wily_magpie.core.places.library import schema_changes
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.session.seed import seed
from wily_magpie.core.session.session import Session
from wily_magpie.demo.web import earlier

MARK = "demo-library"
"""A file that tells a demo library from a person's own, which --reset must never touch."""


def make_demo(folder: Path, fetcher: Fetcher, *, reset: bool = False) -> None:
    """Makes the demo library where it is not there; with reset, anew.

    Raises:
        UserError: the folder holds something that is not a demo library.
    """
    is_demo = (folder / MARK).exists()
    if folder.exists() and any(folder.iterdir()) and not is_demo:
        raise UserError("not-demo", f"{folder} holds something that is not the demo library.", "Name another folder.")
    if is_demo and not reset:
        return
    if folder.exists():
        shutil.rmtree(folder)
    folder.mkdir(parents=True)
    sys.stderr.write("wily-magpie: making the demo library …\n")
    (folder / MARK).write_text(
        "Made by “wily-magpie demo”; “--reset” deletes this folder and makes it anew.\n", "utf-8"
    )
    plan = yaml.safe_load((resources.files("wily_magpie.demo") / "library.yaml").read_text("utf-8"))
    session = Session(folder, fetcher, lambda library: seed_demo(library, plan))
    try:
        fill(session, plan)
        session.library.history.forget()
    finally:
        session.close()


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
        schema_changes.add_field(library, library.place(one["place"]).key, field)
    for one in plan["summaries"]:
        summary = SummaryPlan(
            one["over"], Measure(one.get("measure", "count")), one.get("of", ""), one.get("where", "")
        )
        field = FieldPlan(one["key"], one["label"], "summary", settings=Settings(summary=summary))
        schema_changes.add_field(library, library.place(one["place"]).key, field)
    for place, said in plan["settings"].items():
        kept = PlaceSettings(**{**said, "rules": tuple(said.get("rules", ()))})
        library.change_place(library.place(place).key, kept)
    for place, views in plan["views"].items():
        for name, question in views.items():
            library.keep_view(library.place(place).key, name, question)


def fill(session: Session, plan: dict[str, Any]) -> None:
    """The entries."""
    today = datetime.now(UTC)
    firsts = {one["to"] for one in plan["references"] if one["place"] == "Sources"}  # what captures refer to
    for name in firsts:
        add_entries(session, name, plan["entries"][name], today)
    for one in plan["captures"]:
        page = session.fetcher.page(one["address"])
        if one.pop("as it was last year", False):
            page = replace(page, html=earlier(page.address))
        marks = [Mark(**mark) for mark in one.pop("marks", [])]
        slip = session.capturing.slip(session.capturing.read(page), marks=marks)
        for key, text in {**one, "captured": days_ago(today, one["captured"])}.items():
            if key != "address":
                slip = slip.with_text(key, str(text))
        kept = session.capturing.keep(slip)
        session.capturing.keep_pictures(slip, kept)
    for name in plan["entries"]:
        if name not in firsts:
            add_entries(session, name, plan["entries"][name], today)
    for name, text in plan["notes"].items():
        path = session.library.folder / "Notebook" / f"{name}.md"
        path.parent.mkdir(exist_ok=True)
        path.write_text(text, "utf-8")
    session.refresh_notes()
    add_samples(session, plan["samples"])


def add_entries(session: Session, name: str, entries: list[dict[str, Any]], today: datetime) -> None:
    """The entries of one collection that are made by hand."""
    place = session.place(name)
    for one in entries:
        body = str(one.pop("body", ""))
        if "captured" in one:
            one["captured"] = days_ago(today, one["captured"])
        fields = {field.key: field for field in place.fields}
        values = {key: fields[key].kind.from_plain(value) for key, value in one.items() if key != "title"}
        entry_id = session.add_entry(place.key, one["title"], values)
        if body:
            session.set_body(place.key, entry_id, body)


def add_samples(session: Session, plan: dict[str, Any]) -> None:
    """Sample pages of templates, some of them with accepted values; one of those was another when it was accepted."""
    templating = session.templating
    for name, pages in plan.items():
        numbers = {
            a: templating.add_sample(name, session.fetcher.page(a)) for a in (*pages["accepted"], *pages["others"])
        }
        for address in pages["accepted"]:
            templating.accept_all(name, numbers[address])
        changed = pages.get("changed")
        if changed:
            templating.accept(name, [(numbers[changed["address"]], changed["field"], changed["text"])])


def days_ago(today: datetime, days: int) -> str:
    """A moment some days before today, as dates are written."""
    return (today - timedelta(days=days, minutes=days * 37)).strftime("%Y-%m-%dT%H:%MZ")
