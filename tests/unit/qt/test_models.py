"""The states of the stations, without a window: what happens in which order, and what stays."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any

import pytest

from conftest import HERON
from helpers import undo
from wily_magpie.core.capture.run import CaptureRun
from wily_magpie.core.commands.drafts import SaveDraft
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField, ChangeField, DeleteField
from wily_magpie.core.commands.places import DeletePlace, NewCollection
from wily_magpie.core.commands.templates import RemoveTemplate, SaveTemplate
from wily_magpie.core.commands.views import DeleteView, KeepView, SetLayout
from wily_magpie.core.entries.field import TITLE, Field, FieldPlan
from wily_magpie.core.entries.kept import KeepAs, Kept
from wily_magpie.core.entries.layout import Column, Layout
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.entries.view import View
from wily_magpie.core.errors import MagpieError, PageFailure
from wily_magpie.core.fields import KINDS
from wily_magpie.core.places.starters import STARTERS
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.propose import Proposal
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.slip import Slip
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.stations.capture.model import CaptureModel, Phase
from wily_magpie.qt.stations.sources.model import SourcesState, all_views, usual_question
from wily_magpie.qt.stations.templates.model import (
    TemplatesState,
    fresh_only,
    from_finding,
    look,
    rows_of,
    told_of,
    with_rule,
)

# Sources


def opened(session: Session) -> SourcesState:
    return SourcesState().opened(session.overview.places[0])


def kept_view(session: Session, name: str, text: str) -> View:
    place = session.overview.places[0]
    number = session.do(KeepView(place.key, name, cql.parse(text, place.fields)))
    return next(view for view in session.overview.views if view.id == number)


def written(state: SourcesState) -> str:
    return cql.write(state.question)


def test_a_place_opens_with_its_newest_first(session: Session) -> None:
    state = opened(session)
    assert written(state) == "sortBy captured/descending"
    assert state.view is None
    assert state.may_be_kept
    assert not state.is_changed


def test_a_view_opens_with_its_question_and_its_layout(session: Session) -> None:
    view = kept_view(session, "Law", "tags = law")
    arranged = Layout(columns=(Column("site"),), pinned=1)
    session.do(SetLayout("collection:1", view.id, arranged))
    view = next(one for one in session.overview.views if one.id == view.id)
    state = opened(session).opened_view(session.overview.places[0], view)
    assert written(state) == "tags = law"
    assert (state.layout, state.layout_view) == (arranged, view.id)
    assert state.columns[0].key == "site"
    assert opened(session).layout_view is None
    asked = state.asked(cql.parse("tags = oak", session.overview.places[0].fields))
    assert asked.is_changed
    assert asked.may_be_kept
    assert not state.asked(state.question).is_changed


def test_a_view_goes_along_with_what_is_changed_elsewhere(session: Session) -> None:
    view = kept_view(session, "Law", "tags = law")
    state = opened(session).opened_view(session.overview.places[0], view)
    place = session.overview.places[0]
    session.do(KeepView(place.key, "Law", cql.parse("tags = oak", place.fields), view.id))
    assert written(state.after(session.overview)) == "tags = oak"
    typed = state.asked(cql.parse("status = read", place.fields))
    assert written(typed.after(session.overview)) == "status = read", "what was asked here stays"
    session.do(DeleteView(view))
    after = state.after(session.overview)
    assert (after.view, written(after)) == (None, "tags = law")


def test_a_view_whose_field_is_gone_says_so_and_asks_nothing(session: Session) -> None:
    session.do(AddField("collection:1", FieldPlan("depth", "Depth", "number")))
    view = kept_view(session, "Deep", "depth > 3")
    state = opened(session).opened_view(session.overview.places[0], view)
    session.do(DeleteField("collection:1", "depth"))
    after = state.after(session.overview)
    assert "“Deep” cannot be asked any more" in after.lacking
    assert "depth" in after.lacking
    assert not after.is_changed, "nothing is offered to be written over it"
    assert not after.may_be_kept
    assert after.view is not None
    assert after.view.question == "depth > 3"
    undo(session)
    again = after.after(session.overview)
    assert (again.lacking, written(again)) == ("", "depth > 3")


def test_a_question_whose_field_is_gone_gives_way_to_all_and_says_so(session: Session) -> None:
    session.do(AddField("collection:1", FieldPlan("depth", "Depth", "number")))
    place = session.overview.places[0]
    state = opened(session).asked(cql.parse("depth > 3", place.fields))
    session.do(DeleteField("collection:1", "depth"))
    assert "cannot be asked any more" in state.after(session.overview).lacking


def test_a_field_that_is_renamed_keeps_the_question(session: Session) -> None:
    state = opened(session)
    state = state.asked(cql.parse("site = Wick", session.overview.places[0].fields))
    session.do(ChangeField("collection:1", "site", {"label": "Outlet"}))
    after = state.after(session.overview)
    assert written(after) == "site = Wick"
    assert next(one.label for one in after.columns if one.key == "site") == "Outlet"


def test_when_its_place_is_deleted_another_is_shown_and_at_last_none(session: Session) -> None:
    session.do(NewCollection("People", STARTERS[1]))
    state = opened(session)
    session.do(DeletePlace("collection:1"))
    after = state.after(session.overview)
    assert after.place is not None
    assert after.place.name == "People"
    session.do(DeletePlace(after.place.key))
    nothing = after.after(session.overview)
    assert (nothing.place, nothing.columns, nothing.may_be_kept) == (None, [], False)
    assert nothing.layout == Layout()
    assert nothing.question == Question()


def test_gaps_are_a_view_that_is_nobodys_to_change(session: Session) -> None:
    place = session.overview.places[0]
    gaps = all_views(session.overview, place)[0]
    assert gaps.name == "Gaps"
    state = opened(session).opened_view(place, gaps)
    assert state.layout_view is None
    assert not state.asked(usual_question(place)).is_changed


# Capture


@dataclass
class Stage:
    """What stands around a Capture station: work waits until it is let run, and what is shown is written down."""

    session: Session
    typed: Callable[[Slip], Slip] = lambda slip: slip
    waiting: deque[Callable[[], None]] = field(default_factory=deque)
    shown: Slip | None = None
    kept: list[tuple[Kept, bool]] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    phases: list[Phase] = field(default_factory=list)
    model: CaptureModel | None = None

    def work(
        self, work: Callable[[CaptureRun], Any], done: Callable[[Any], object], failed: Callable[[MagpieError], object]
    ) -> None:
        def run() -> None:
            try:
                result = work(CaptureRun(self.session))
            except MagpieError as error:
                failed(error)
            else:
                done(result)

        self.waiting.append(run)

    def run(self, most: int = 100) -> None:
        """Lets work run that waits."""
        while self.waiting and most:
            most -= 1
            self.waiting.popleft()()

    def current(self) -> Slip | None:
        return self.typed(self.shown) if self.shown is not None else None

    def changed(self) -> None:
        if self.model is not None:
            self.phases.append(self.model.phase)

    def show_slip(self, slip: Slip) -> None:
        self.shown = slip

    def told_kept(self, kept: Kept, _slip: Slip | None, *, is_opened: bool) -> None:
        self.kept.append((kept, is_opened))

    def complain(self, error: MagpieError) -> None:
        self.told.append(str(error))

    def refuse(self, error: MagpieError) -> None:
        self.told.append(f"refused: {error}")

    def save_draft(self, slip: Slip) -> None:
        self.session.do(SaveDraft(slip))

    def keep_now(self, keep_as: KeepAs, *, is_opened: bool) -> None:
        assert self.model is not None
        self.model.keep(keep_as, is_opened=is_opened)


@pytest.fixture
def stage(session: Session) -> Stage:
    made = Stage(session)
    made.model = CaptureModel(made)
    return made


def arrive(stage: Stage, address: str = HERON) -> CaptureModel:
    """A page has begun and arrived; its reading waits."""
    model = stage.model
    assert model is not None
    model.open(address)
    model.began(address)
    model.arrived(stage.session.fetcher.page(address))
    return model


def count(session: Session) -> int:
    place = session.overview.places[0].key
    return session.reader.entries.listing(place, Question()).total


def test_a_page_goes_from_phase_to_phase(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    assert stage.phases == [Phase.LOADING, Phase.LOADING, Phase.READING, Phase.READY]
    assert stage.shown is not None
    assert stage.shown.title == "Heron Mill turns again after ninety years"
    model.keep()
    stage.run()
    assert stage.phases[4:6] == [Phase.KEEPING, Phase.READY]
    assert count(stage.session) == 1
    assert [kept.status for kept, _ in stage.kept] == ["kept"]
    assert stage.shown.known is not None, "it is seen that the page is kept now"


def test_what_comes_back_for_another_page_is_dropped(stage: Stage) -> None:
    model = arrive(stage)
    model.began("http://estuarine-lexicon.example/tide-mill")
    stage.run()
    assert stage.shown is None
    assert model.phase is Phase.LOADING


def test_what_is_typed_while_the_page_is_read_again_stays(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    model.arrived(stage.session.fetcher.page(HERON))
    stage.typed = lambda slip: slip.with_text("title", "As I call it")
    stage.run()
    assert stage.shown is not None
    assert stage.shown.title == "As I call it"


def test_wishes_are_done_one_after_another_and_then_it_is_kept(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    model.choose_template("Video")
    model.change(lambda hand: replace(hand, marks=(*hand.marks, Mark("Two tides", "idea"))))
    model.keep(is_opened=True)
    assert count(stage.session) == 0, "first the wishes"
    stage.run()
    assert stage.shown is not None
    assert stage.shown.template.name == "Video"
    assert [mark.exact for mark in stage.shown.all_marks] == ["Two tides"]
    assert [is_opened for _, is_opened in stage.kept] == [True]
    assert count(stage.session) == 1


def test_wishes_end_with_their_page(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    model.choose_template("Video")
    model.keep()
    model.began("http://estuarine-lexicon.example/tide-mill")
    stage.run()
    assert count(stage.session) == 0


def test_another_template_has_its_own_place_unless_one_was_chosen(stage: Stage) -> None:
    made = stage.session.do(NewCollection("Papers of mine", STARTERS[1]))
    stage.session.do(
        SaveTemplate(replace(stage.session.reader.templates.template("Paper"), writes="Papers of mine"), "Paper")
    )
    model = arrive(stage)
    stage.run()
    model.choose_template("Paper")
    stage.run()
    assert stage.shown is not None
    assert stage.shown.place == made.key
    model.choose_place("collection:1")
    model.choose_template("Paper")
    stage.run()
    assert stage.shown.place == "collection:1"


def test_what_cannot_be_kept_is_refused_and_nothing_is_done(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    stage.typed = lambda slip: slip.with_text("price", "soon")
    model.keep()
    stage.run()
    assert stage.told[0].startswith("refused: Price: “soon” is not a number")
    assert model.phase is Phase.READY
    assert count(stage.session) == 0


def test_a_wish_that_fails_is_told_and_the_slip_stays(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    before = stage.shown
    model.choose_template("No such thing")
    model.keep()
    stage.run()
    assert "There is no template" in stage.told[0]
    assert stage.shown == before
    assert count(stage.session) == 0, "what was to be kept is not what stands there"
    model.keep()
    stage.run()
    assert count(stage.session) == 1


def test_a_page_that_cannot_be_had_can_be_kept_as_an_address(stage: Stage) -> None:
    model = stage.model
    assert model is not None
    model.open("http://estuary-courier.example/2018/06/01/withdrawn")
    model.began("http://estuary-courier.example/2018/06/01/withdrawn")
    model.failed(PageFailure("gone", "There is no page."))
    assert model.phase is Phase.FAILED
    stage.run()
    model.keep()
    assert not stage.waiting
    model.keep_address()
    stage.run()
    assert count(stage.session) == 1


def test_a_file_that_is_no_page_is_fetched(stage: Stage) -> None:
    model = stage.model
    assert model is not None
    model.began("http://gauge-office.example/levels.csv")
    model.fetch_file()
    stage.run()
    assert stage.shown is not None
    assert stage.shown.title == "levels.csv"
    model.began("http://gauge-office.example/levels.zip")
    model.fetch_file()
    stage.run()
    assert model.phase is Phase.FAILED


def test_a_page_that_somebody_else_keeps_is_known_at_once(stage: Stage) -> None:
    model = arrive(stage)
    stage.run()
    stage.session.do(AddEntry("collection:1", "By the shell", {"address": HERON}))
    model.others_changed()
    stage.run()
    assert stage.phases[-1] is Phase.READY
    assert not model.changes


# Templates


def test_the_first_template_is_shown_and_the_chosen_one_stays(session: Session) -> None:
    state = TemplatesState().after(look(session.reader))
    first = session.overview.templates[0]
    assert state.template is not None
    assert state.template.name == first
    state = state.opened("Paper")
    session.do(SaveTemplate(Template("Another")))
    assert state.after(look(session.reader)).template == state.template
    session.do(RemoveTemplate("Paper"))
    gone = state.after(look(session.reader))
    assert gone.template is not None
    assert gone.template.name == first
    assert state.opened("No such thing") == state


def test_what_is_on_its_way_is_not_written_over_by_what_is_known(session: Session) -> None:
    state = TemplatesState().after(look(session.reader)).opened("Paper")
    assert state.template is not None
    renamed = replace(state.template, name="Papers", status="read")
    sent = state.sent(renamed)
    known_before = look(session.reader)
    assert sent.after(known_before).template == renamed
    assert sent.after(known_before).fields == state.fields
    session.do(SaveTemplate(renamed, "Paper"))
    arrived = sent.arrived().after(look(session.reader))
    assert (arrived.template, arrived.sending) == (renamed, 0)
    back = sent.arrived().after(known_before)
    assert back.template is not None
    assert back.template.name == session.overview.templates[0], "what was refused is not shown any more"


FIELDS = tuple(Field(key, key.capitalize(), KINDS[kind], key) for key, kind in {"site": "text", "picture": "address"}.items())  # fmt: skip


def test_the_rows_of_the_bench() -> None:
    template = Template("Mine", fields={"site": Rule("fixed", ("x",)), "moon": Rule("fixed", ("y",))})
    rows = rows_of(template, (TITLE, *FIELDS))
    assert [one.label if one else None for one in rows] == ["Title", "Site", "Picture", "moon (no such field)", None]


@pytest.mark.parametrize(
    ("before", "key", "name", "is_fallback", "rule"),
    [
        (None, "site", "publisher", False, Rule("finding", ("publisher",))),
        (Rule("finding", ("site",)), "site", "host", True, Rule("finding", ("site", "host"))),
        (Rule("finding", ("site", "host")), "site", "host", True, Rule("finding", ("site", "host"))),
        (Rule("fixed", ("x",)), "site", "host", True, Rule("finding", ("host",))),
        (None, "picture", "image", False, Rule("picture", ("lead",))),
        (None, "picture", "icon", False, Rule("picture", ("icon",))),
        (None, "picture", "image", True, Rule("finding", ("image",))),
        (None, "picture", "og:url", False, Rule("finding", ("og:url",))),
    ],
)
def test_a_finding_becomes_a_rule(before: Rule | None, key: str, name: str, rule: Rule, *, is_fallback: bool) -> None:
    template = Template("Mine", fields={key: before} if before else {})
    one = next(field for field in FIELDS if field.key == key)
    assert from_finding(template, one, name, is_fallback=is_fallback) == rule


def test_rules_are_set_and_taken_out() -> None:
    rule = Rule("fixed", ("x",))
    template = with_rule(Template("Mine"), "site", rule)
    assert template.rule_of("site") == rule
    assert with_rule(template, "site", None).fields == {}
    assert with_rule(template, "title", rule).title == rule
    assert with_rule(template, "title", None).title == Rule("finding", ("title",))


def test_proposals_are_for_what_has_no_rule_and_doubts_are_said() -> None:
    template = Template("Mine", fields={"site": Rule("fixed", ("x",))})
    rule = Rule("finding", ("image",))
    proposals = {"site": Proposal(rule, 1.0, "its name"), "picture": Proposal(rule, 0.6, "its kind")}
    fresh = fresh_only(template, proposals)
    assert list(fresh) == ["picture"]
    assert told_of(fresh, {"picture": "Picture"}) == "1 rules are proposed. Look at: Picture (its kind, 60%)."
    assert told_of({}, {}) == "Every row that something fits has a rule already."
