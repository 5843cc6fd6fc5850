"""A collection kept in step with notes: both sides are edited, and both say the same afterwards; nothing is lost."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import add_notes, undo
from wily_magpie.core.commands.entries import AddEntry, ChangeEntry, RemoveEntries, SetText
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.commands.mirror import KeepInStep, MirrorInto
from wily_magpie.core.commands.notes import MoveNote
from wily_magpie.core.entries.mark import Mark, as_markdown
from wily_magpie.core.entries.mark_merging import put_together, quotation_of, read_quotations
from wily_magpie.core.events import OutOfStep
from wily_magpie.core.places.library.collection import Collection
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.queries.mirror import FROM_ENTRY, FROM_NOTE, parts_of
from wily_magpie.core.session.session import Session

FIELDS = "title, status as state, tags, published"


@pytest.fixture
def notes(session: Session, tmp_path: Path) -> NotesFolder:
    folder = tmp_path / "Notes"
    folder.mkdir()
    return add_notes(session, "Notes", folder)


@pytest.fixture
def sources(session: Session) -> str:
    return session.place("Sources").key


def kept(session: Session, notes: NotesFolder, sources: str) -> int:
    """An entry, and the collection in step with the folder; the id of the entry."""
    made = session.do(
        AddEntry(sources, "Heron Mill", {"status": "to read", "tags": ("law",)}, "One.\n\nTwo.\n\nThree.")
    )
    session.do(MirrorInto(notes.key, sources, FIELDS))
    return made


def path_of(notes: NotesFolder, name: str = "Heron Mill") -> Path:
    return notes.path / "Sources" / f"{name}.md"


def edit(session: Session, notes: NotesFolder, old: str, new: str) -> None:
    """The note is changed by another program, and both are brought in step."""
    path = path_of(notes)
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new))
    session.refresh_notes(notes.key)
    session.do(KeepInStep(notes.key))


def entry(session: Session, sources: str, number: int) -> tuple[object, object, str]:
    found = session.reader.entries.entry(sources, number)
    assert found is not None
    return found.value("status"), found.value("tags"), found.body or ""


def test_a_look_first_and_then_a_note_for_each_entry(session: Session, notes: NotesFolder, sources: str) -> None:
    number = session.do(AddEntry(sources, "Heron Mill", {"status": "read", "tags": ("law", "ebb")}, "Text."))
    session.do(PutMark(sources, number, Mark("Text", "evidence", "mine")))
    looked = session.reader.notes.look_at_mirror(notes.key, sources, FIELDS)
    assert [(one.title, list(one.what)) for one in looked] == [("Heron Mill", ["made"])]
    assert not path_of(notes).exists()
    session.do(MirrorInto(notes.key, sources, FIELDS))
    text = path_of(notes).read_text()
    assert text.startswith(
        f"---\nmagpie: {sources}/{number}\ntitle: Heron Mill\nstate: read\ntags: [law, ebb]\n---\n\nText.\n"
    )
    assert "<!-- marks -->\n\n> Text\n\nmine\n\n<!-- end of marks " in text
    assert session.do(KeepInStep(notes.key)) == []
    undo(session)
    assert not path_of(notes).exists()


def test_what_one_side_changed_goes_to_the_other(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    session.do(SetText(sources, (number,), "status", "read"))
    session.do(KeepInStep(notes.key))
    assert "state: read\n" in path_of(notes).read_text()
    edit(session, notes, "state: read", "state: quoted # said twice\nown: mine")
    edit(session, notes, "Two.", "Two, by hand.")
    assert entry(session, sources, number) == ("quoted", ("law",), "One.\n\nTwo, by hand.\n\nThree.")
    session.do(ChangeEntry(sources, number, {}, "One.\n\nTwo, by hand.\n\nThree, too."))
    session.do(KeepInStep(notes.key))
    text = path_of(notes).read_text()
    assert "Three, too." in text
    assert "state: quoted # said twice\nown: mine\n" in text, "what is not ours stays byte for byte"


def test_both_changed_different_lines(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    session.do(ChangeEntry(sources, number, {"tags": ("law", "ebb")}, "One!\n\nTwo.\n\nThree."))
    edit(session, notes, "Three.", "Three!")
    assert entry(session, sources, number) == ("to read", ("law", "ebb"), "One!\n\nTwo.\n\nThree!")
    assert "One!\n\nTwo.\n\nThree!" in path_of(notes).read_text()


def test_conflicts_stay_and_are_said_until_they_are_none(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    session.do(ChangeEntry(sources, number, {"status": "read"}, "One, mine.\n\nTwo.\n\nThree."))
    path = path_of(notes)
    path.write_text(path.read_text().replace("state: to read", "state: quoted").replace("One.", "One, theirs."))
    session.refresh_notes(notes.key)
    for _ in range(2):
        (pair,) = session.do(KeepInStep(notes.key))
        assert pair.told == (
            ["state is “read” in the entry and “quoted” in the note.",
             "The text was changed in the same lines on both sides; it stays as it is on either."]
        )  # fmt: skip
        assert entry(session, sources, number)[0] == "read"
        assert "state: quoted" in path.read_text()
        assert "One, theirs." in path.read_text()
    session.do(SetText(sources, (number,), "status", "quoted"))
    path.write_text(path.read_text().replace("One, theirs.", "One, mine."))
    session.refresh_notes(notes.key)
    assert [list(pair.told) for pair in session.do(KeepInStep(notes.key))] == [[]]
    assert session.do(KeepInStep(notes.key)) == []


def test_moved_removed_and_deleted(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    session.do(MoveNote(notes.key, notes.index.id_of("Sources/Heron Mill.md") or 0, "Mills/heron.md"))
    session.do(SetText(sources, (number,), "status", "read"))
    session.do(KeepInStep(notes.key))
    moved = notes.path / "Mills" / "heron.md"
    assert "state: read" in moved.read_text()
    other = notes.path / "elsewhere.md"  # by another program, which tells nobody
    moved.rename(other)
    notes.refresh()
    session.do(SetText(sources, (number,), "status", "quoted"))
    session.do(KeepInStep(notes.key))
    assert "state: quoted" in other.read_text()
    other.unlink()
    notes.refresh()
    (pair,) = session.do(KeepInStep(notes.key))
    assert list(pair.what) == ["left"]
    assert session.do(KeepInStep(notes.key)) == [], "the entry stays, and no note is made of it again"
    second = session.do(AddEntry(sources, "Wick Mill"))
    third = session.do(AddEntry(sources, "Saltern"))
    session.do(KeepInStep(notes.key))
    path_of(notes, "Saltern").write_text(path_of(notes, "Saltern").read_text() + "\nMine.\n")
    session.refresh_notes(notes.key)
    session.do(RemoveEntries(sources, (second, third)))
    told = [said for pair in session.do(KeepInStep(notes.key)) for said in pair.told]
    assert not path_of(notes, "Wick Mill").exists()
    assert path_of(notes, "Saltern").exists()
    assert "was changed since, and stays" in told[0]


LOSSES: dict[str, Callable[[str], str]] = {
    "emptied": lambda _text: "",
    "blank lines": lambda _text: "\n\n",
    "no front matter": lambda text: text.partition("---\n\n")[2],
    "its key is gone": lambda text: text.replace("magpie:", "other:"),
    "carriage returns alone": lambda text: text.replace("\n", "\r"),
    "no text": lambda text: text.partition("---\n\n")[0] + "---\n",
}


@pytest.mark.parametrize("fields", [FIELDS, "status as state, tags, published"])
@pytest.mark.parametrize("name", LOSSES)
def test_a_note_that_lost_what_it_had_blanks_nothing_and_is_asked_about(
    session: Session, notes: NotesFolder, sources: str, name: str, fields: str
) -> None:
    number = kept(session, notes, sources)
    session.do(MirrorInto(notes.key, sources, fields))
    other = session.do(AddEntry(sources, "Wick Mill", {"status": "to read"}, "Four."))
    session.do(KeepInStep(notes.key))
    before, path = path_of(notes).read_text(), path_of(notes)
    path.write_bytes(LOSSES[name](before).encode())
    lost = path.read_bytes()
    session.refresh_notes(notes.key)
    session.do(SetText(sources, (other,), "status", "read"))
    pairs = session.do(KeepInStep(notes.key))
    (asked,) = (one for one in pairs if one.entry == number)
    assert list(asked.what) == ["asked"]
    assert asked.path in asked.told[0]
    assert entry(session, sources, number) == ("to read", ("law",), "One.\n\nTwo.\n\nThree.")
    assert path.read_bytes() == lost
    assert "state: read" in path_of(notes, "Wick Mill").read_text(), "it costs itself alone"
    session.do(KeepInStep(notes.key, (number,), is_wanted=True, answer=FROM_ENTRY))
    assert "One.\n\nTwo.\n\nThree." in path.read_text()
    assert session.do(KeepInStep(notes.key)) == []
    undo(session)
    assert path.read_bytes() == lost, "the person's own step is the person's to undo"
    session.refresh_notes(notes.key)
    session.do(KeepInStep(notes.key, (number,), is_wanted=True, answer=FROM_NOTE))
    assert session.reader.entries.entry(sources, number).title == "Heron Mill"  # type: ignore[union-attr]
    if name == "no text":
        assert entry(session, sources, number)[2] == "", "as the person said"
    assert [one.what for one in session.do(KeepInStep(notes.key)) if "asked" in one.what] == []


def test_a_title_is_never_blanked(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    for old, new in (("title: Heron Mill\n", ""), ("state: to read", "title:\nstate: read")):
        edit(session, notes, old, new)
        (pair,) = session.do(KeepInStep(notes.key))
        assert "the entry keeps “Heron Mill”" in pair.told[0]
        found = session.reader.entries.entry(sources, number)
        assert found
        assert found.title == "Heron Mill"
    assert entry(session, sources, number)[0] == "read", "what else was changed there is taken"


def test_a_copied_note_takes_nothing_over(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    copy = notes.path / "Aaa, a copy.md"
    copy.write_text(path_of(notes).read_text().replace("One.", "Other."))
    session.refresh_notes(notes.key)
    (pair,) = session.do(KeepInStep(notes.key))
    assert pair.told[0].startswith("Aaa, a copy.md says that it is the same entry as Sources/Heron Mill.md")
    assert entry(session, sources, number)[2].startswith("One.")
    edit(session, notes, "Two.", "Two!")
    assert "Two!" in entry(session, sources, number)[2]
    assert "Other." in copy.read_text()
    path_of(notes).unlink()
    session.refresh_notes(notes.key)
    session.do(KeepInStep(notes.key))
    assert entry(session, sources, number)[2].startswith("Other."), "the one that is left is its note: it was moved"


BODIES = st.lists(
    st.sampled_from(["a", " ", "\t", "\n", "\r", "\ufeff", "<!-- marks -->\n", "\n<!-- end of marks -->", "> q", "\n\n", "---\n", "Ä"]),
    max_size=12,
).map("".join)  # fmt: skip


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(body=BODIES, is_marked=st.booleans())
def test_mirroring_alone_changes_no_entry(
    session: Session, notes: NotesFolder, sources: str, body: str, is_marked: bool
) -> None:
    number = session.do(AddEntry(sources, "A mill", {}, body))
    if is_marked:
        session.do(PutMark(sources, number, Mark("a", "evidence", "mine")))
    before = session.reader.entries.entry(sources, number)
    session.do(MirrorInto(notes.key, sources, FIELDS))
    session.refresh_notes(notes.key)
    assert session.do(KeepInStep(notes.key, (number,))) == [], "both say the same at once"
    assert session.reader.entries.entry(sources, number) == before
    assert len(marks_of(session, sources, number)) == is_marked


def test_one_note_that_cannot_be_kept_in_step_costs_itself(
    session: Session, notes: NotesFolder, sources: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    numbers = [session.do(AddEntry(sources, f"Mill {at}", {}, "Text.")) for at in range(25)]
    session.do(MirrorInto(notes.key, sources, FIELDS))
    told: list[OutOfStep] = []
    session.subscribe(lambda event: told.append(event) if isinstance(event, OutOfStep) else None)
    session.keep_lists_filled()
    settled(session)
    change = Collection.change

    def failing(self: Collection, number: int, *given: object) -> None:
        if number == numbers[3]:
            raise RuntimeError("broken")
        change(self, number, *given)  # type: ignore[arg-type]

    monkeypatch.setattr(Collection, "change", failing)
    for path in (notes.path / "Sources").glob("*.md"):
        path.write_text(path.read_text().replace("Text.", "Another."))
    session.refresh_notes(notes.key)
    settled(session)
    bodies = [entry(session, sources, number)[2] for number in numbers]
    assert [at for at, body in enumerate(bodies) if body != "Another."] == [3]
    assert ["Mill 3.md" in one.told for one in told] == [True]


def test_it_follows_by_itself(session: Session, notes: NotesFolder, sources: str) -> None:
    number = kept(session, notes, sources)
    session.keep_lists_filled()
    settled(session)
    session.do(SetText(sources, (number,), "status", "read"))
    settled(session)
    assert "state: read" in path_of(notes).read_text()
    path = path_of(notes)
    path.write_text(path.read_text().replace("state: read", "state: quoted"))
    session.refresh_notes(notes.key)
    settled(session)
    assert entry(session, sources, number)[0] == "quoted"
    assert session.overview.undo is not None
    assert session.overview.undo.label.startswith("Change status"), (
        "what is done by itself is nobody's to undo by a key"
    )


def test_marks_follow_by_themselves_both_ways(session: Session, notes: NotesFolder, sources: str, marked: int) -> None:
    session.keep_lists_filled()
    settled(session)
    path = path_of(notes)
    path.write_text(path.read_text().replace("> Two.", "> Two.\n\nby hand"))
    session.refresh_notes(notes.key)
    settled(session)
    assert marks_of(session, sources, marked)[1] == replace(MARKS[1], comment="by hand")
    session.do(PutMark(sources, marked, replace(MARKS[0], comment="in the library")))
    settled(session)
    assert "in the library" in path.read_text()
    assert "by hand" in path.read_text()
    assert session.overview.undo is not None
    assert session.overview.undo.label.startswith("Mark in"), "what is done by itself is nobody's to undo by a key"


def settled(session: Session) -> None:
    session.lanes.indexer.submit(lambda: None).result(20)
    assert session.filling is not None
    assert session.filling.idle.wait(20)


MARKS = (Mark("One.", "evidence", "first"), Mark("Two.", "quotation"), Mark("Three.", "idea", "third, at\n\nlength"))


@pytest.fixture
def marked(session: Session, notes: NotesFolder, sources: str) -> int:
    """An entry with three marks, in step with its note."""
    number = session.do(AddEntry(sources, "Heron Mill", {"status": "to read"}, "One.\n\nTwo.\n\nThree."))
    for mark in MARKS:
        session.do(PutMark(sources, number, mark))
    session.do(MirrorInto(notes.key, sources, FIELDS))
    return number


def marks_of(session: Session, sources: str, number: int) -> list[Mark]:
    return list(session._library.marks.of(sources, str(number)))


EDITS = {
    "a comment": ("> Two.", "> Two.\n\nsecond", [MARKS[0], replace(MARKS[1], comment="second"), MARKS[2]]),
    "another comment": ("first", "first, by hand", [replace(MARKS[0], comment="first, by hand"), *MARKS[1:]]),
    "one more": ("> Two.", "> Two.\n\n> Four,\n> by hand\n\nmine", [*MARKS, Mark("Four,\nby hand", comment="mine")]),
    "a picture": ("> Two.", "> Two.\n\n> ![The mill](<http://mill.example/a b.png>)",
                  [*MARKS, Mark("The mill", picture="http://mill.example/a b.png")]),
    "one less": ("> Two.\n\n", "", [MARKS[0], MARKS[2]]),
    "spaces": ("> Two.", "> Two.  \n\n\n", list(MARKS)),
}  # fmt: skip


@pytest.mark.parametrize("name", EDITS)
def test_what_is_changed_among_the_marks_of_a_note_goes_to_the_entry(
    session: Session, notes: NotesFolder, sources: str, marked: int, name: str
) -> None:
    old, new, wanted = EDITS[name]
    edit(session, notes, old, new)
    assert sorted(marks_of(session, sources, marked), key=str) == sorted(wanted, key=str)
    assert session.do(KeepInStep(notes.key)) == [], "both say the same now"
    assert read_quotations(parts_of(path_of(notes).read_text())[1] or "") == [
        (quotation_of(mark), mark.comment) for mark in marks_of(session, sources, marked)
    ]


def test_a_mark_that_both_changed_stays_on_either_side_and_is_said(
    session: Session, notes: NotesFolder, sources: str, marked: int
) -> None:
    session.do(PutMark(sources, marked, replace(MARKS[0], comment="mine")))
    path = path_of(notes)
    path.write_text(path.read_text().replace("first", "theirs").replace("state: to read", "state: read"))
    session.refresh_notes(notes.key)
    for _ in range(2):
        (pair,) = session.do(KeepInStep(notes.key))
        assert list(pair.told) == ["The mark “One.” was changed on both sides; it stays as it is on either."]
        assert marks_of(session, sources, marked)[0].comment == "mine"
        assert "theirs" in path.read_text()
        assert entry(session, sources, marked)[0] == "read"
    session.do(PutMark(sources, marked, replace(MARKS[0], comment="theirs")))
    assert [list(pair.told) for pair in session.do(KeepInStep(notes.key))] == [[]]


def test_marks_that_are_taken_out_as_a_whole_are_written_again(
    session: Session, notes: NotesFolder, sources: str, marked: int
) -> None:
    path = path_of(notes)
    text = path.read_text()
    edit(session, notes, text[text.index("<!-- marks") :], "")
    assert marks_of(session, sources, marked) == list(MARKS)
    assert path.read_text() == text


COMMENTS = st.dictionaries(
    st.sampled_from(["One.", "Two.", "Three."]), st.sampled_from(["", "a", "b\n\nc", "> no"]), max_size=3
)


@given(base=COMMENTS, ours=COMMENTS, theirs=COMMENTS)
def test_marks_are_put_together_as_their_plain_meaning(
    base: dict[str, str], ours: dict[str, str], theirs: dict[str, str]
) -> None:
    def marks(said: dict[str, str]) -> tuple[Mark, ...]:
        return tuple(Mark(words, comment=comment) for words, comment in said.items())

    own = marks(ours)
    found = put_together(as_markdown(marks(base)), own, as_markdown(marks(theirs)), "One. Two. Three.")
    if found.told or any(">" in one for said in (base, ours, theirs) for one in said.values()):
        assert found.told == () or (found.marks == own and not found.changes), "what cannot be told is left alone"
        return
    wanted = {
        key: ours.get(key) if theirs.get(key) == base.get(key) else theirs.get(key) for key in {*base, *ours, *theirs}
    }
    assert {mark.exact: mark.comment for mark in found.marks} == {k: v for k, v in wanted.items() if v is not None}


SIDES = st.tuples(
    st.sampled_from(["to read", "read", "quoted"]),
    st.lists(st.sampled_from(["One.", "Two.", "Three.", "A", "B"]), min_size=1, max_size=4).map("\n\n".join),
)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)
@given(ours=SIDES, theirs=SIDES)
def test_whatever_both_say_nothing_is_lost(
    session: Session, notes: NotesFolder, sources: str, ours: tuple[str, str], theirs: tuple[str, str]
) -> None:
    title = f"Mill {len(session._library.mirrors.of(notes.key))}"
    number = session.do(AddEntry(sources, title, {"status": "to watch"}, "One.\n\nTwo."))
    session.do(MirrorInto(notes.key, sources, FIELDS))
    path = path_of(notes, title)
    session.do(ChangeEntry(sources, number, {"status": ours[0]}, ours[1]))
    path.write_text(path.read_text().replace("to watch", theirs[0]).replace("One.\n\nTwo.", theirs[1]))
    session.refresh_notes(notes.key)
    said = [one for pair in session.do(KeepInStep(notes.key, (number,))) for one in pair.told]
    (status, _, body), note = entry(session, sources, number), path.read_text()
    if any("state is" in one for one in said):
        assert (status, f"state: {theirs[0]}\n" in note) == (ours[0], True)
    else:
        assert f"state: {status}\n" in note
    if any("same lines" in one for one in said):
        assert (body.strip(), note.endswith(f"---\n\n{theirs[1]}\n")) == (ours[1], True)
    else:
        assert note.endswith(f"---\n\n{body.strip()}\n")
