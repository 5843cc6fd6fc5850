"""All capture settings, brought out of one library and into another, compared as data."""

import json
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import pytest

from helpers import add_notes, undo
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.commands.places import ChangePlace, NewCollection
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.commands.templates import OrderTemplates, RemoveTemplate, SaveTemplate, SwitchTemplate
from wily_magpie.core.commands.views import KeepView, SetLayout
from wily_magpie.core.entries.field import FieldPlan, SummaryPlan
from wily_magpie.core.entries.field import Settings as FieldSettings
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.entries.layout import Column, Layout
from wily_magpie.core.exchange.templates import bringing_in, export, look_at_import
from wily_magpie.core.fields import Option
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.match import read_rule
from wily_magpie.core.templates.open_form import to_plain
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Template


def as_data(session: Session) -> dict[str, Any]:
    """All that capture settings are, without the numbers that a library gives."""
    reader, places = session.reader, {}
    names = {place.key: place.name for place in reader.entries.places()}
    for place in reader.entries.places():
        fields = []
        for field in reader.declared_fields(place.key):
            settings = asdict(replace(field.settings, target=names.get(field.settings.target, ""), link=0))
            fields.append((field.key, field.label, field.kind.name, field.options, settings))
        views = [(view.name, view.question, view.layout) for view in reader.entries.views(place.key)]
        places[place.name] = (place.nature.noun, place.settings, fields, place.layout, views)
    ends = {
        (place, key): (target, field_pair(session, place, key))
        for place, (_, _, fields, _, _) in places.items()
        for key, _, kind, _, settings in fields
        if kind == "reference" and (target := settings["target"])
    }
    templates = [to_plain(one) for one in reader.templates.templates()]
    return {"places": places, "ends": ends, "templates": templates, "settings": reader.settings()}


def field_pair(session: Session, place: str, key: str) -> set[tuple[str, str]]:
    """Both ends of a reference, by place and key."""
    every = [
        (info.name, field)
        for info in session.reader.entries.places()
        for field in session.reader.declared_fields(info.key)
        if field.kind.name == "reference"
    ]
    link = next(field.settings.link for name, field in every if (name, field.key) == (place, key))
    return {(name, field.key) for name, field in every if field.settings.link == link}


@pytest.fixture
def arranged(session: Session, tmp_path: Path) -> Session:
    """A library in which much is otherwise than at first."""
    chapters = session.do(NewCollection("Chapters", STARTERS[1]))
    plan = FieldPlan("chapters", "Chapters", "reference", (), FieldSettings(target=chapters.key), "Sources")
    session.do(AddField("collection:1", plan))
    count = FieldPlan("how_many", "How many", "summary", (), FieldSettings(summary=SummaryPlan("sources")))
    session.do(AddField(chapters.key, count))
    mood = FieldPlan(
        "mood", "Mood", "choice", (Option("calm", "moss"), Option("wild", "alarm")), FieldSettings("how it felt")
    )
    session.do(AddField("collection:1", mood))
    sources = session.place("Sources")
    session.do(ChangePlace(sources.key, replace(sources.settings, rules=("mood must be there",), description="All")))
    session.do(SetLayout(sources.key, None, Layout(columns=(Column("mood", "Felt", 12),), pinned=1)))
    question = session.reader.entries.question(sources.key, "mood = calm")
    session.do(KeepView(sources.key, "Calm ones", question))
    folder = tmp_path / "Notebook"
    folder.mkdir()
    notes = add_notes(session, "Notebook", folder, (FieldPlan("status", "Status", "choice"),))
    info = session.place(notes.key)
    session.do(
        ChangePlace(notes.key, replace(info.settings, journal_pattern="Days/{date}", pictures_folder="Pictures/{year}"))
    )
    log = Template(
        "Log", "Notebook", (read_rule("host is mills.example"),), fields={"status": Rule("fixed", ("read",))},
        way=NoteTarget("Log.md", InsertPosition("Kept", "top", 2)), asks=("status",), only=("status",), is_on=False,
    )  # fmt: skip
    session.do(SaveTemplate(log))
    session.do(SwitchTemplate("Video", is_on=False))
    session.do(RemoveTemplate("Recipe"))
    names = [one.name for one in session.reader.templates.templates()]
    session.do(OrderTemplates(("Log", *(name for name in names if name != "Log"))))
    session.do(SetSetting("mark_kinds", "proof: moss solid\ndoubt: alarm wavy"))
    return session


def test_brought_out_and_in_they_are_the_same(arranged: Session, tmp_path: Path) -> None:
    text = export(arranged.reader, with_samples=True)
    other = Session(tmp_path / "elsewhere" / "library", Fetcher())
    before = as_data(other)
    other.do(bringing_in(look_at_import(other.reader, text), text))
    assert as_data(other) == as_data(arranged)
    assert export(other.reader, with_samples=True) != "", "and can be brought out again"
    undo(other)
    assert as_data(other) == before
    other.close()


def test_what_holds_entries_stays_as_it_is(arranged: Session, tmp_path: Path) -> None:
    text = export(arranged.reader)
    other = Session(tmp_path / "elsewhere" / "library", Fetcher())
    other.do(AddEntry("collection:1", "Mine"))
    fields = other.place("Sources").fields
    other.do(bringing_in(look_at_import(other.reader, text), text))
    assert other.place("Sources").fields[: len(fields)] == fields
    assert other.reader.entries.listing("collection:1", other.reader.entries.question("collection:1", "")).total == 1
    other.close()


def test_one_faulty_template_does_not_keep_the_others_out(arranged: Session, tmp_path: Path) -> None:
    raw = json.loads(export(arranged.reader))
    raw["templates"][1]["match"] = ["the moon is full"]
    raw["templates"].append({"name": raw["templates"][0]["name"].upper()})
    text = json.dumps(raw)
    other = Session(tmp_path / "elsewhere" / "library", Fetcher())
    look = look_at_import(other.reader, text)
    assert len(look.templates) == len(raw["templates"]) - 2
    assert [("moon" in fault, "twice" in fault) for fault in look.faults] == [(True, False), (False, True)]
    other.do(bringing_in(look, text))
    assert "Log" in other.reader.templates.names()
    other.close()


@pytest.mark.parametrize(
    "part",
    [{"places": 7}, {"places": [7, {"name": ""}, {"name": "x", "fields": [7, {"key": "a"}], "settings": [], "views": [1]}]},
     {"settings": []}, {"settings": {"mark_kinds": 7, "no such": "x", "steps": "many"}}],
)  # fmt: skip
def test_damaged_parts_are_left_away(session: Session, part: dict[str, Any]) -> None:
    text = json.dumps({**json.loads(export(session.reader)), **part})
    session.do(bringing_in(look_at_import(session.reader, text), text))
    assert session.reader.templates.names()
