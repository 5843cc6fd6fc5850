"""Notes folders: the files are the truth, and all that nobody changed in them stays byte for byte."""

import os
from pathlib import Path

import pytest
import yaml
from hypothesis import given
from hypothesis import strategies as st

from helpers import redo, undo
from wily_magpie.core.commands.entries import RemoveEntries, SetBody, SetText
from wily_magpie.core.entries.entry import Draft
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.fields.base import Plain
from wily_magpie.core.places.notes import note_file
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session

# a file, the keys that are set, the file afterwards
EDITS: list[tuple[str, dict[str, Plain], str]] = [
    ("---\na: 1 # why\nb:   'two'\n---\nbody\n", {"a": "3"}, "---\na: '3'\nb:   'two'\n---\nbody\n"),
    ("---\na: 1\nb: [x,  y]  # odd\n---\n", {"a": None}, "---\nb: [x,  y]  # odd\n---\n"),
    ("---\na: 1\n---\n", {"date": "2024-05-06"}, "---\na: 1\ndate: 2024-05-06\n---\n"),
    ("body only\n", {"a": "x"}, "---\na: x\n---\n\nbody only\n"),
    ("---\r\na: 1\r\nb: 2\r\n---\r\nbody\r\n", {"b": "x"}, "---\r\na: 1\r\nb: x\r\n---\r\nbody\r\n"),
    ("\ufeff---\na: 1\n---\nbody", {"a": "x"}, "\ufeff---\na: x\n---\nbody"),
    ("---\na: |\n  two\n  lines\n\n# about b\nb: 2\n---\n", {"a": "x"}, "---\na: x\n\n# about b\nb: 2\n---\n"),
    ("---\na:\n  - x\n  - y\nb: 2\n---\n", {"a": ["z"]}, "---\na: [z]\nb: 2\n---\n"),
    ('---\n"a": 1\nb: {c: 1}\n---\n', {"a": "yes"}, "---\na: 'yes'\nb: {c: 1}\n---\n"),
    ("---\n---\nbody\n", {"a": "x"}, "---\na: x\n---\nbody\n"),
    ("", {"a": "x"}, "---\na: x\n---\n"),
]  # fmt: skip


@pytest.mark.parametrize(("before", "values", "after"), EDITS)
def test_only_what_is_set_changes(before: str, values: dict[str, Plain], after: str) -> None:
    assert note_file.set_values(note_file.parse(before), values) == after


REFUSED = [
    ("---\na: [1\nb: 2\n---\n", "line 3"),
    ("---\n- a\n- b\n---\n", "not a list of keys"),
    ("---\na: &x 1\nb: *x\n---\n", "without touching"),
    ("---\n{a: 1, b: 2}\n---\n", "without touching"),
]


@pytest.mark.parametrize(("text", "said"), REFUSED)
def test_what_cannot_be_changed_safely_is_refused(text: str, said: str) -> None:
    with pytest.raises(UserError) as told:
        note_file.set_values(note_file.parse(text), {"a": "x"})
    assert said in told.value.message


@given(
    st.lists(
        st.tuples(
            st.sampled_from(["a", "b-c", "_d", "null", "e f", "<<", "ö"]),
            st.sampled_from([": ", ":", ":  ", " : "]),
            st.text(alphabet="ab1 .,:[]{}#'\"-~&*!|>%@`=?/é\t", max_size=10)
            | st.sampled_from(["null", "[a, b c]", "[]", "[~]", "http://a.example/b?c=d", "yes", "2024-05-06 "]),
        ),
        max_size=4,
    )
)
def test_the_quick_reading_of_plain_front_matter_says_what_yaml_says(lines: list[tuple[str, str, str]]) -> None:
    text = "".join(f"{key}{colon}{value}\n" for key, colon, value in lines)
    quick = note_file.quick_matter(text)
    if quick is not None:
        loaded = yaml.load(text, note_file.Loader) or {}
        assert quick == {str(key): note_file.plain(value) for key, value in loaded.items()}


def test_yaml_does_not_guess() -> None:
    matter = note_file.parse("---\na: yes\nb: 012\nc: 12:30:45\nd: 2024-05-06\ne: ~\nf: [no, 1]\n---\n").matter
    assert matter == {"a": "yes", "b": "012", "c": "12:30:45", "d": "2024-05-06", "e": None, "f": ["no", "1"]}


PLAIN = st.text(alphabet=st.characters(blacklist_categories=("Cs", "Cc")), max_size=30) | st.lists(
    st.text(alphabet="ab,;:#[]{}'\"- é", min_size=1, max_size=8).map(str.strip).filter(bool), min_size=1, max_size=3
)


@given(
    rest=st.lists(st.sampled_from(["a: 1", "b: 'x'  # c", "# lone", "", "c: [1, 2]", "d: |\n  text\n  more", "e:\n  f: 1"]), max_size=5, unique=True),
    value=PLAIN,
    key=st.sampled_from(["status", "a", "d", "e", "new key", "c"]),
    body=st.sampled_from(["", "text\n", "\n\n# head\n\n---\nrule"]),
    newline=st.sampled_from(["\n", "\r\n"]),
)  # fmt: skip
def test_any_edit_keeps_the_other_keys_and_the_body(
    rest: list[str], value: Plain, key: str, body: str, newline: str
) -> None:
    text = "\n".join(["---", *rest, "---", body]).replace("\n", newline)
    before = note_file.parse(text)
    after = note_file.parse(note_file.set_values(before, {key: value}))
    assert after.body == before.body
    others = [{k: v for k, v in note.matter.items() if not f"{k}.".startswith(f"{key}.")} for note in (before, after)]
    assert others[0] == others[1]
    assert after.matter[key] == value or (value in ("", []) and after.matter[key] in (None, ""))
    for line in rest:
        if not line.startswith(f"{key}:") and "\n" not in line:
            assert line in after.text.splitlines()


@pytest.fixture
def notes(session: Session, notes_path: Path) -> Path:
    return notes_path


def titles(session: Session, text: str = "sortBy title") -> list[str]:
    place = session._library.place("Notebook")
    return [entry.title for entry in place.rows(place.listing(cql.parse(text, place.fields)).ids)]


def test_a_note_is_a_file_of_its_own(session: Session, notes: Path) -> None:
    place = session._library.place("Notebook")
    draft = Draft(
        "Mills: a/b?", {"tags": ("law", "yes"), "published": "1926", "captured": "2026-01-02T03:04Z"}, "Text."
    )
    with session._library.step("keep"):
        place.add(draft)
        place.add(draft)
    assert sorted(path.name for path in notes.iterdir()) == ["Mills a b 2.md", "Mills a b.md"]
    text = (notes / "Mills a b.md").read_text()
    assert (
        text
        == "---\ntitle: 'Mills: a/b?'\ntags: [law, 'yes']\npublished: 1926\ncaptured: 2026-01-02T03:04Z\n---\n\nText.\n"
    )
    found = place.known("nothing")
    assert found is None
    entry = place.entry(place.listing(Question()).ids[0])
    assert entry
    assert entry.body == "Text."
    assert entry.values["tags"] == ("law", "yes")


def test_files_of_others_are_read_as_they_are(session: Session, notes: Path) -> None:
    (notes / "sub").mkdir()
    (notes / "sub" / "One.md").write_text("---\nrating: 5\nsource: https://mills.example/a\n---\nthe ebb\n")
    (notes / "Two.markdown").write_text("no front matter\n")
    (notes / "Broken.md").write_text("---\na: [1\n---\nstill text\n")
    (notes / ".hidden").mkdir()
    (notes / ".hidden" / "No.md").write_text("x")
    (notes / "latin.md").write_bytes(b"M\xfchle")
    (notes / "empty.md").write_bytes(b"")
    before = {path: path.read_bytes() for path in notes.rglob("*.m*")}
    assert session.refresh_notes() == 5
    assert titles(session) == ["Broken", "empty", "latin", "One", "Two"]
    assert titles(session, "still text") == ["Broken"]
    assert titles(session, "rating > 4") == ["One"]
    assert session.refresh_notes() == 0
    assert {path: path.read_bytes() for path in notes.rglob("*.m*")} == before


def test_changes_by_others_are_noticed(session: Session, notes: Path) -> None:
    (notes / "One.md").write_text("first")
    session.refresh_notes()
    (notes / "One.md").write_text("---\ntitle: Another title\n---\nsecond")
    os.utime(notes / "One.md", ns=(1, 1))
    (notes / "Two.md").write_text("new")
    assert session.refresh_notes() == 2
    assert titles(session) == ["Another title", "Two"]
    (notes / "One.md").unlink()
    assert session.refresh_notes() == 1
    assert titles(session, "second") == []


def test_the_index_can_be_thrown_away(session: Session, notes: Path) -> None:
    (notes / "One.md").write_text("---\nstatus: open\n---\n")
    session.refresh_notes()
    place = session._library.place("Notebook")
    session._library.notes_by_id.clear()
    for path in (session._library.folder / "index").iterdir():
        path.write_bytes(b"damaged" if path.suffix == ".sqlite" else b"")
    session.refresh_notes()
    assert titles(session, "status = open") == ["One"]
    assert session._library.place("Notebook") is not place


def test_editing_one_field_and_undoing_it_gives_the_same_bytes(session: Session, notes: Path) -> None:
    path = notes / "One.md"
    before = b"---\r\nstatus:   open   # mine\r\nother: {a: 1}\r\n---\r\n\r\nText without end"
    path.write_bytes(before)
    session.refresh_notes()
    key = session._library.place("Notebook").key
    entry_id = session._library.place(key).listing(Question()).ids[0]
    session.do(SetText(key, [entry_id], "status", "draft"))
    assert path.read_bytes() == before.replace(b"status:   open   # mine", b"status: draft")
    session.do(SetBody(key, entry_id, "Other text"))
    assert path.read_bytes().endswith(b"---\r\n\r\nOther text\r\n")
    undo(session)
    undo(session)
    assert path.read_bytes() == before
    redo(session)
    assert b"status: draft" in path.read_bytes()
    assert titles(session, "status = draft") == ["One"]


def test_deleting_a_note_can_be_undone(session: Session, notes: Path) -> None:
    (notes / "One.md").write_bytes(b"\xef\xbb\xbf---\na: 1\n---\nText")
    session.refresh_notes()
    key = session._library.place("Notebook").key
    session.do(RemoveEntries(key, list(session._library.place(key).listing(Question()).ids)))
    assert not (notes / "One.md").exists()
    undo(session)
    assert (notes / "One.md").read_bytes() == b"\xef\xbb\xbf---\na: 1\n---\nText"
    assert titles(session) == ["One"]


def test_undo_does_not_overwrite_what_others_wrote(session: Session, notes: Path) -> None:
    (notes / "One.md").write_text("---\nstatus: open\n---\n")
    session.refresh_notes()
    key = session._library.place("Notebook").key
    session.do(SetText(key, list(session._library.place(key).listing(Question()).ids), "status", "draft"))
    (notes / "One.md").write_text("rewritten elsewhere")
    with pytest.raises(UserError, match="changed by another program"):
        undo(session)
    assert (notes / "One.md").read_text() == "rewritten elsewhere"


def test_a_folder_that_is_gone_is_said(session: Session, notes: Path) -> None:
    notes.rmdir()
    with pytest.raises(EnvironmentFailure, match="is not there"):
        session.refresh_notes(session._library.place("Notebook").key)


def test_a_note_with_unreadable_front_matter_is_not_written(session: Session, notes: Path) -> None:
    (notes / "Broken.md").write_text("---\na: [1\n---\ntext")
    session.refresh_notes()
    key = session._library.place("Notebook").key
    with pytest.raises(UserError, match="not YAML"):
        session.do(SetText(key, list(session._library.place(key).listing(Question()).ids), "status", "x"))
    assert (notes / "Broken.md").read_text() == "---\na: [1\n---\ntext"


def test_what_a_killed_program_left_behind_is_swept(session: Session, notes: Path) -> None:
    old, fresh = notes / ".Note.md.magpie-writing-1", notes / ".Note.md.magpie-writing-2"
    for path in (old, fresh):
        path.write_text("half")
    os.utime(old, (1, 1))
    session.refresh_notes()
    assert not old.exists()
    assert fresh.exists()
    assert titles(session) == []


def test_many_notes_are_indexed_together_and_changed_ones_anew(session: Session, notes_path: Path) -> None:
    def write(number: int, word: str) -> None:
        text = f"---\ntitle: Note {number}\ntags: [{word}, all]\nrating: {number}\n---\n\nThe {word} turns. See [[Note {number + 1}]] #{word}\n"
        (notes_path / f"Note {number}.md").write_text(text)

    def found(question: str) -> list[str]:
        place = session._library.place("Notebook")
        return [
            entry.title
            for entry in place.rows(list(place.listing(session.reader.entries.question(place.key, question)).ids))
        ]

    for number in range(120):
        write(number, "ebb" if number % 2 else "flood")
    session.refresh_notes()
    assert len(found("tags = ebb")) == len(found('"flood turns"')) == 60
    assert found("rating > 117 sortBy rating") == ["Note 118", "Note 119"]
    before = session._library.notes("Notebook").index.id_of("Note 7.md")
    for number in range(60):
        write(number, "wheel")
    session.refresh_notes()
    assert [len(found(f"tags = {word}")) for word in ("wheel", "ebb", "flood", "all")] == [60, 30, 30, 120]
    assert [len(found(f"inline_tags = {word}")) for word in ("wheel", "ebb")] == [60, 30]
    assert [len(found(f'"{word} turns"')) for word in ("wheel", "ebb", "flood")] == [60, 30, 30]
    index = session._library.notes("Notebook").index
    assert (index.id_of("Note 7.md"), [path for _, path in index.links.leading_to("Note 8.md")]) == (
        before,
        ["Note 7.md"],
    )
    assert index.database.faults() == []
