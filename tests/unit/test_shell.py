"""What scripts rely on: JSON Lines on standard output, messages apart, exit codes 0, 1 and 2."""

import csv
import io
import json
import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import HERON
from wily_magpie.app import main
from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.events import NotesComing
from wily_magpie.core.templates.open_form import to_json
from wily_magpie.core.templates.template import Body, Template
from wily_magpie.demo.web import addresses
from wily_magpie.shell.output import tell_reading

TITLE = "Heron Mill turns again after ninety years"
CAPTURED = ["address", "place", "entry", "title", "status", "message"]
EXTRACTED = [
    "path", "address", "title", "authors", "published", "modified", "site", "description", "language", "kind", "image",
    "markdown", "text", "findings", "notice", "status", "pictures", "seconds",
]  # fmt: skip


class Shell:
    """Runs commands over one library and keeps what they print."""

    def __init__(self, library: Path, capsysbinary: pytest.CaptureFixture[bytes]) -> None:
        self.library = library
        self.capsys = capsysbinary
        self.code = 0
        self.messages = ""

    def __call__(self, *words: str) -> str:
        own = ("capture", "find", "marks", "places", "add", "set", "write", "check", "backup", "templates", "lists")
        more = ["--library", str(self.library)] if words[0] in own else []
        self.code = main([words[0], *more, *words[1:]])
        out, messages = self.capsys.readouterr()
        self.messages = messages.decode()
        return out.decode()

    def objects(self, *words: str) -> list[dict[str, object]]:
        return [json.loads(line) for line in self(*words).splitlines()]


@pytest.fixture
def shell(tmp_path: Path, capsysbinary: pytest.CaptureFixture[bytes]) -> Shell:
    return Shell(tmp_path / "library", capsysbinary)


def test_an_address_of_the_stand_in_web_needs_nothing_started(shell: Shell) -> None:
    (kept,) = shell.objects("capture", HERON, "--set", "tags=law; tides", "--set", "summary=Mine")
    assert list(kept) == CAPTURED
    assert (kept["address"], kept["place"], kept["status"], shell.code) == (HERON, "Sources", "kept", 0)
    (again,) = shell.objects("capture", HERON)
    assert (again["status"], again["entry"], shell.code) == ("known", kept["entry"], 0)
    (updated,) = shell.objects("capture", HERON, "--update")
    assert (updated["status"], updated["entry"]) == ("updated", kept["entry"])
    (row,) = shell.objects("find", "tags = law", "--format", "json")
    assert (row["id"], row["summary"], row["tags"]) == (kept["entry"], "Mine", ["law", "tides"])


def test_a_folder_is_taken_in_when_it_is_captured_to_and_a_running_note_knows_its_pages(
    shell: Shell, tmp_path: Path
) -> None:
    folder = tmp_path / "Clips"
    folder.mkdir()
    (kept,) = shell.objects("capture", HERON, "--to", str(folder))
    assert (kept["place"], kept["status"], len(list(folder.glob("*.md")))) == ("Clips", "kept", 1)
    (second,) = shell.objects("capture", HERON, "--to", "Sources")
    assert second["status"] == "kept"
    assert "It is kept in Clips, too." in str(second["message"])
    way = NoteTarget("Log.md", InsertPosition())
    template = Template("Log", "Clips", way=way, body=Body("nothing", after="- {{ page.title }}"))
    (tmp_path / "log.json").write_text(to_json(template))
    shell("templates", "import", "--yes", str(tmp_path / "log.json"))
    told = [shell.objects("capture", HERON, "--template", "Log")[0] for _ in range(2)]
    assert [(one["place"], one["status"]) for one in told] == [("Clips", "kept"), ("Clips", "known")]
    assert "Log.md" in str(told[1]["message"])
    (tmp_path / "list.txt").write_text(HERON)
    (listed,) = shell.objects("capture", "--from", str(tmp_path / "list.txt"), "--template", "Log")
    assert listed["status"] == "known"
    assert (folder / "Log.md").read_text().count(HERON) == 1


def test_what_a_field_is_for_can_be_said(shell: Shell) -> None:
    places = shell.objects("places", "--takes", "picture=address", "--in", "Sources")
    fields = {one["key"]: one for one in places[0]["fields"]}  # type: ignore[attr-defined]
    assert fields["picture"]["taken_for"] == "address"
    shell("places", "--takes", "picture=moon")
    assert (shell.code, "moon" in shell.messages) == (1, True)
    shell("places", "--in", "Sources")
    assert shell.code == 1


def test_a_failed_capture_is_told_and_the_others_go_on(shell: Shell) -> None:
    failed, refused, kept = shell.objects(
        "capture", "http://estuary-courier.example/2018/06/01/withdrawn", "no address", "http://estuarine-lexicon.example/tide-mill"
    )  # fmt: skip
    assert (failed["status"], failed["entry"]) == ("failed", None)
    assert "There is no page" in str(failed["message"])
    assert refused["status"] == "failed"
    assert kept["status"] == "kept"
    assert shell.code == 2
    assert "There is no page" in shell.messages


LETTER = (
    "From: Ada <ada@mills.example>\nSubject: Letter {0}\nMessage-ID: <{0}@mills.example>\n"
    "Date: Mon, 2 Mar 2026 10:00:00 +0000\n\nThe pond is full, Tom. http://{1}:{2}/unsubscribe?{0}\n"
)


@pytest.mark.parametrize("word", [(), ("--from",)])
def test_all_letters_of_a_mailbox_are_kept_and_nothing_in_them_is_asked_for(
    shell: Shell, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, word: tuple[str, ...]
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    box = tmp_path / "box.mbox"
    with socket.create_server(("127.0.0.1", 0)) as host:
        host.setblocking(False)
        letters = [LETTER.format(at, *host.getsockname()) for at in range(4)]
        box.write_text("".join(f"From ada Mon Mar  2 10:00:00 2026\n{one}\n" for one in letters))
        told = shell.objects("capture", *word, str(box))
        assert [(one["title"], one["status"]) for one in told] == [(f"Letter {at}", "kept") for at in range(4)]
        assert "Not an address" not in shell.messages
        with pytest.raises(BlockingIOError):
            host.accept()
    assert [one["status"] for one in shell.objects("capture", *word, str(box))] == ["known"] * 4
    assert len(shell.objects("find", "--format", "json")) == 4


def test_a_list_of_many_addresses_is_no_page(shell: Shell, tmp_path: Path) -> None:
    marks = tmp_path / "marks"
    marks.write_text(
        "<!DOCTYPE NETSCAPE-Bookmark-file-1><DL><DT><A HREF='http://a.example/'>a</A><DT><A HREF='http://b.example/'>b</A></DL>"
    )
    (told,) = shell.objects("capture", str(marks))
    assert (told["error"], shell.code) == ("a-list", 1)
    assert "--from" in shell.messages


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("capture", HERON, "--set", "tags"), "is not FIELD=VALUE"),
        (("capture", HERON, "--template", "Nothing"), "There are: Object of a collection"),
        (("capture", HERON, "--to", "Nowhere"), "There are: Sources"),
        (("find", "moon = full"), "moon = full\n  ^"),
        (("find", "--view", "Nothing"), "There are: To read"),
        (("find", "--in", "Nowhere"), "There are: Sources"),
        (("extract", "no-such-file"), "There is no file"),
    ],
)
def test_a_users_error_is_said_with_the_way_out(shell: Shell, words: tuple[str, ...], said: str) -> None:
    shell(*words)
    assert shell.code == 1
    assert said in shell.messages


def test_a_capture_can_go_elsewhere_by_another_template(shell: Shell) -> None:
    (kept,) = shell.objects("capture", HERON, "--template", "video", "--to", "sources")
    (row,) = shell.objects("find", "--format", "json")
    assert kept["status"] == "kept"
    assert (row["kind"], row["status"]) == ("video", "to watch")


def test_words_that_the_page_lacks_cannot_be_marked_and_nothing_is_kept(shell: Shell) -> None:
    (failed,) = shell.objects("capture", HERON, "--mark", "The wheel", "--mark", "words that nobody wrote")
    assert (failed["status"], failed["error"]) == ("failed", "mark-missing")
    assert "words that nobody wrote" in str(failed["message"])
    assert shell.objects("find", "--format", "json") == []
    (kept,) = shell.objects("capture", HERON, "--mark", "The wheel")
    assert kept["status"] == "kept"


def test_find_answers_in_three_forms(shell: Shell) -> None:
    shell("capture", HERON, "http://estuarine-lexicon.example/tide-mill")
    table = shell("find", "sortBy title")
    assert table.splitlines()[0].startswith("Title")
    assert "Heron Mill turns again" in table
    assert "2 of 2 entries" in shell.messages
    rows = list(csv.DictReader(io.StringIO(shell("find", "title = heron", "--format", "csv"))))
    assert [row["authors"] for row in rows] == ["Penhallow, Ada; Varley, Tom"]
    assert len(shell.objects("find", "--view", "to read", "--format", "json")) == 2
    assert len(shell.objects("find", "title = heron", "--view", "to read", "--format", "json")) == 1
    assert shell.objects("find", "price > 5", "--format", "json") == []


def test_extract_says_what_pages_say(shell: Shell, tmp_path: Path) -> None:
    path, table = tmp_path / "page.html", tmp_path / "addresses.tsv"
    path.write_bytes('<title>M\xfchle</title><p><a href="b">text</a> of it</p>'.encode("latin-1"))
    table.write_text(f"{path}\thttps://mills.example/a\nother\thttp://x.example/\n")
    saved, live = shell.objects(
        "extract", str(path), "http://tidal-studies.example/article/9/1/7", "--addresses", str(table)
    )
    assert list(saved) == list(live) == EXTRACTED
    assert (saved["title"], saved["address"], saved["published"]) == ("Mühle", "https://mills.example/a", None)
    assert "https://mills.example/b" in str(saved["markdown"])
    assert live["authors"] == ["Hester M. Quill"]
    assert {"name", "value", "origin"} == set(live["findings"][0])  # type: ignore[index]


def test_a_page_that_fails_does_not_stop_the_others(shell: Shell, tmp_path: Path) -> None:
    path = tmp_path / "zeros.html"
    path.write_bytes(b"\0" * 1000)
    missing, zeros = shell.objects("extract", "http://short-links.example/loop", str(path))
    assert missing["error"] == "redirect-loop"
    assert zeros["text"] == ""
    assert shell.code == 2


def test_the_stand_in_web_lists_its_pages(shell: Shell) -> None:
    listed = shell("demo-web", "--list").splitlines()
    assert listed == list(addresses())
    assert len(listed) >= 16


def test_the_command_itself(tmp_path: Path) -> None:
    """One run as a script would do it: a process of its own, bytes on its pipes."""
    command = [sys.executable, "-m", "wily_magpie", "capture", HERON, "--library", str(tmp_path / "l")]
    ended = subprocess.run(command, capture_output=True, check=False, env={**os.environ, "PYTHONIOENCODING": "ascii"})
    assert ended.returncode == 0, ended.stderr
    assert json.loads(ended.stdout)["title"] == "Heron Mill turns again after ninety years"


def test_a_library_that_cannot_be_opened_is_an_environments_failure(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    (tmp_path / "library.sqlite").write_bytes(b"no database" * 99)
    assert main(["find", "--library", str(tmp_path)]) == 2
    assert "is not a library" in capsys.readouterr().err


def test_the_demo_never_touches_another_folder(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "mine.txt").write_text("mine")
    assert main(["demo", "--reset", "--library", str(tmp_path)]) == 1
    assert "not the demo library" in capsys.readouterr().err
    assert (tmp_path / "mine.txt").read_text() == "mine"


def test_markdown_turns_whole_files(shell: Shell, tmp_path: Path) -> None:
    whole, fragment = tmp_path / "whole.html", tmp_path / "fragment.html"
    whole.write_text("<html><body><nav><a href='/'>Home</a></nav><h1>Mill</h1><p>a <b>b</b></p></body></html>")
    fragment.write_text("<ul><li>one</li></ul>")
    first, second = shell.objects("markdown", str(whole), str(fragment))
    assert first == {"path": str(whole), "markdown": "[Home](/)\n\n# Mill\n\na **b**"}
    assert second["markdown"] == "- one"
    (absolute,) = shell.objects("markdown", str(whole), "--address", "https://mills.example/x")
    assert str(absolute["markdown"]).startswith("[Home](https://mills.example/)")


def test_extract_can_print_the_blocks(shell: Shell) -> None:
    (page,) = shell.objects("extract", HERON, "--blocks")
    blocks = page["blocks"]
    assert isinstance(blocks, list)
    assert {"kind", "level", "html", "markdown", "text", "path", "is_kept", "reason", "score"} == set(blocks[0])
    assert {block["reason"] for block in blocks if not block["is_kept"]} >= {"comments", "subscription", "share bar"}


def test_extract_can_print_findings_or_the_text_alone(shell: Shell) -> None:
    findings = shell.objects("extract", HERON, "--findings")
    assert {"path", "name", "value", "origin", "element"} == set(findings[0])
    assert any(one["name"] == "author" and one["value"] == "Penhallow, Ada" for one in findings)
    assert shell("extract", HERON, "--format", "markdown").startswith(
        "# Heron Mill turns again after ninety years\n\n!["
    )


def test_without_a_screen_the_window_says_so(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert main(["--library", str(tmp_path / "l")]) == 2
    assert "no screen" in capsys.readouterr().err


def test_places_are_told_with_their_fields(shell: Shell) -> None:
    (sources,) = shell.objects("places")
    assert (sources["key"], sources["name"], sources["kind"], sources["entries"]) == (
        "collection:1",
        "Sources",
        "collection",
        0,
    )
    status = next(field for field in sources["fields"] if field["key"] == "status")  # type: ignore[attr-defined]
    assert status["options"][0] == "to read"


def test_entries_are_added_and_set_by_number_or_title(shell: Shell) -> None:
    (added,) = shell.objects(
        "add", "title=The charter", "authors=Ada Penhallow and Tom Varley", "tags=law; tides", "body=Text."
    )
    assert (added["title"], added["authors"], shell.code) == ("The charter", ["Penhallow, Ada", "Varley, Tom"], 0)
    (changed,) = shell.objects("set", "the charter", "published=before 1298", "tags=", "--in", "Sources")
    assert (changed["published"], changed["tags"]) == ("before 1298", None)
    assert "it is kept as text" in shell.messages
    (again,) = shell.objects("set", str(added["id"]), "title=Charter")
    assert again["title"] == "Charter"
    for words, said in (
        (("set", "moon", "status=read"), "no entry “moon”"),
        (("set", "Charter", "moon=1"), "no field “moon”"),
        (("set", "Charter", "status"), "is not FIELD=VALUE"),
        (("add", "price=dear"), "not a number"),
        (("add", "gaps=none"), "worked out"),
    ):
        assert shell(*words) == ""
        assert said in shell.messages
        assert shell.code == 1
    shell("add", "title=Charter")
    assert shell("set", "Charter", "status=read") == ""
    assert "several entries" in shell.messages


def test_a_notes_folder_is_written_into_by_its_path(
    shell: Shell, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    notes = tmp_path / "Book"
    notes.mkdir()
    (notes / "a.md").write_text("# Log\n\n- one\n")
    (written,) = shell.objects("write", "- two", "--note", "a.md", "--heading", "log", "--in", str(notes))
    assert (written["path"], written["made"]) == ("a.md", [])
    assert (notes / "a.md").read_text() == "# Log\n\n- one\n- two\n"
    monkeypatch.setattr("sys.stdin", io.StringIO("from a pipe"))
    (day,) = shell.objects("write", "-", "--journal", "2026-03-12", "--in", str(notes), "--at", "top")
    assert day["made"] == ["The note Journal/2026-03-12.md will be made."]
    assert (notes / "Journal/2026-03-12.md").read_text() == "from a pipe\n"
    assert shell("write", "x", "--note", "gone", "--existing", "--in", "Book") == ""
    assert "no note gone" in shell.messages
    assert shell("write", "x", "--journal", "someday", "--in", "Book") == ""
    (set_one,) = shell.objects("set", "a.md", "title=A", "--in", str(notes))
    assert set_one["path"] == "a.md"
    assert (notes / "a.md").read_text().startswith("---\ntitle: A\n---\n")


def test_living_lists_are_filled_and_looked_at(shell: Shell, tmp_path: Path) -> None:
    notes = tmp_path / "Book"
    (notes / "Old").mkdir(parents=True)
    for name in ("Home.md", "Old/Home.md"):
        (notes / name).write_text('<!-- list in="Sources" as="count" -->\n<!-- end of list -->\n')
    shell("write", "Begun.", "--note", "a.md", "--in", str(notes))
    shell("add", "title=Heron Mill", "--to", "Sources")
    assert [one["note"] for one in shell.objects("lists", "update", "--check")] == ["Home.md", "Old/Home.md"]
    assert (shell.code, "other rows" in shell.messages) == (1, True)
    assert [one["written"] for one in shell.objects("lists", "update", "--in", str(notes / "Old"))] == [True]
    assert "**1** in Sources" in (notes / "Old" / "Home.md").read_text()
    assert "**1**" not in (notes / "Home.md").read_text()
    shell("lists", "update", "--in", "Sources")
    assert "**1** in Sources" in (notes / "Home.md").read_text()
    assert [one["would change"] for one in shell.objects("lists", "update", "--check")] == [False, False]
    assert shell.code == 0
    (notes / "Home.md").write_text((notes / "Home.md").read_text().replace("**1**", "**One**"))
    assert "by hand" in shell("lists", "update") + shell.messages
    shell("lists", "update", "--edits", "beside")
    text = (notes / "Home.md").read_text()
    assert "**1** in Sources" in text
    assert text.endswith("*This stood in the list above:*\n\n**One** in Sources\n\n")
    shell("lists", "update", "--in", str(tmp_path / "elsewhere"))
    assert (shell.code, "lies in no notes folder" in shell.messages) == (1, True)


def test_faults_are_found_and_copies_are_whole(shell: Shell, tmp_path: Path) -> None:
    shell("capture", HERON)
    assert shell.objects("check") == []
    (made,) = shell.objects("backup", str(tmp_path / "copy"))
    assert made["files"] == len([path for path in (tmp_path / "copy").rglob("*") if path.is_file()])
    picture = next((shell.library / "files").iterdir())
    picture.write_bytes(b"other")
    assert [fault["where"] for fault in shell.objects("check")] == [f"files/{picture.name}"]
    assert shell.code == 1
    page = next((shell.library / "pages").iterdir())
    page.write_bytes(page.read_bytes()[:-1] + b"x")
    assert f"pages/{page.name}" in [fault["where"] for fault in shell.objects("check")]
    copy = Shell(tmp_path / "copy", shell.capsys)
    assert copy.objects("check") == []
    assert [row["title"] for row in copy.objects("find", "--format", "json")]
    (tmp_path / "other").mkdir()
    (tmp_path / "other" / "mine.txt").write_text("mine")
    assert shell("backup", str(tmp_path / "other")) == ""
    assert "holds something" in shell.messages
    assert shell("backup", str(shell.library / "files")) == ""
    assert "inside the library" in shell.messages


def test_templates_are_listed_shown_and_tried(shell: Shell) -> None:
    listed = shell.objects("templates")
    assert listed == shell.objects("templates", "list")
    assert list(listed[0]) == ["name", "writes", "is_on", "match", "fields", "samples"]
    assert "Article" in [one["name"] for one in listed]
    whole = json.loads(shell("templates", "show", "Article"))
    assert (whole["name"], list(whole["fields"])) == (
        "Article",
        next(o for o in listed if o["name"] == "Article")["fields"],
    )
    tried = {str(one["field"]): one for one in shell.objects("templates", "try", HERON)}
    assert "Article (the structured type is NewsArticle), into Sources" in shell.messages
    assert list(tried["title"].values()) == ["title", TITLE, "visible text (heading)", ""]
    assert "one paddle dipped" in str(tried["body"]["value"])
    assert shell.objects("find", "Heron", "--format", "json") == [], "trying a page keeps nothing"
    other = shell.objects("templates", "try", HERON, "--template", "Article")
    assert (list(tried.values()), "chosen" in shell.messages) == (other, True)
    shell("templates", "show", "Artikle")
    assert (shell.code, "Artikle" in shell.messages) == (1, True)


def test_templates_are_held_against_what_was_accepted_and_go_from_library_to_library(
    shell: Shell, tmp_path: Path, capsysbinary: pytest.CaptureFixture[bytes]
) -> None:
    (accepted,) = shell.objects("templates", "sample", "Article", HERON)
    assert int(str(accepted["accepted"])) > 5
    assert shell.objects("templates", "test", "Article") == []
    assert (shell.code, f"{accepted['accepted']} accepted values, 0 differ" in shell.messages) == (0, True)
    whole = json.loads(shell("templates", "export", "Article", "--samples"))
    (article,) = whole["templates"]
    article["title"] = {"fixed": "Another title"}
    file = tmp_path / "templates.json"
    file.write_text(json.dumps(whole))
    other = Shell(tmp_path / "other", capsysbinary)
    (seen,) = other.objects("templates", "import", str(file))
    assert (seen["name"], seen["replaces"], seen["samples"]) == ("Article", True, 1)
    assert "Nothing is changed yet" in other.messages
    assert json.loads(other("templates", "show", "Article"))["title"] == {"finding": ["title"]}
    other("templates", "import", str(file), "--yes")
    (fault,) = other.objects("templates", "test")
    assert (other.code, fault["field"], fault["now"], fault["accepted"]) == (1, "title", "Another title", TITLE)
    broken = tmp_path / "broken.json"
    for rule, said in (('"site": {"run": "x"}', "fields.site"), ('"title": {"fixed": "x"}', "beside “fields”")):
        broken.write_text(f'{{"name": "X", "fields": {{{rule}}}}}')
        other("templates", "import", str(broken), "--yes")
        assert (other.code, said in other.messages) == (1, True)


def test_marks_go_out_in_three_forms_and_with_json(shell: Shell) -> None:
    shell("capture", HERON, "--mark", "the sluice was raised by hand", "--mark", "About sixty people")
    (row,) = shell.objects("find", "", "--format", "json")
    assert [mark["exact"] for mark in row["marks"]] == ["the sluice was raised by hand", "About sixty people"]  # type: ignore[attr-defined]
    text = shell("marks")
    assert text.startswith(
        f"## {TITLE}\n\n[{TITLE}]({HERON})\n\n> the sluice was raised by hand\n\n> About sixty people\n"
    )
    first, second = shell.objects("marks", 'status = "to read"', "--format", "jsonl")
    assert (first["exact"], first["kind"], first["address"]) == ("the sluice was raised by hand", "evidence", HERON)
    page = json.loads(shell("marks", "--in", "Sources", "--format", "annotations"))
    assert (page["@context"], page["type"]) == ("http://www.w3.org/ns/anno.jsonld", "AnnotationPage")
    assert [one["target"]["selector"]["exact"] for one in page["items"]] == [first["exact"], second["exact"]]
    assert len({one["id"] for one in page["items"]}) == 2
    assert json.loads(shell("marks", "status = nothing", "--format", "annotations"))["items"] == []


def test_a_thin_page_is_told_and_the_web_engine_reads_it(shell: Shell, tmp_path: Path) -> None:
    path = tmp_path / "page.html"
    path.write_text("<title>x</title><script src=a.js></script><div id=root>Loading</div>", "utf-8")
    (thin,) = shell.objects("capture", "--address", "https://mills.example/x", str(path))
    assert (thin["status"], thin["address"], shell.code) == ("thin", "https://mills.example/x", 0)
    assert "built by scripts" in str(thin["message"])
    assert "--live" in shell.messages
    (found,) = shell.objects("find", "", "--format", "json")
    assert found["address"] == "https://mills.example/x"


def test_a_page_is_opened_as_a_browser_would(tmp_path: Path) -> None:
    words = [
        "capture",
        "--live",
        "--library",
        str(tmp_path / "l"),
        "http://slow-letters.example/essays/the-mill-at-night",
    ]
    run = subprocess.run([sys.executable, "-m", "wily_magpie", *words], capture_output=True, timeout=120, check=False)
    kept = json.loads(run.stdout.splitlines()[0])
    assert (kept["status"], run.returncode) == ("kept", 0)
    found = subprocess.run(
        [sys.executable, "-m", "wily_magpie", "find", "--library", str(tmp_path / "l"), "beam", "--format", "json"],
        capture_output=True, timeout=60, check=True,
    )  # fmt: skip
    assert json.loads(found.stdout)["title"] == "The mill at night", "its script brought the text after a second"


def test_a_terminal_is_told_how_many_notes_are_read_and_a_script_is_not(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    tell_reading(NotesComing("notes:1", 1_200, 50_000))
    assert capsys.readouterr() == ("", "")
    monkeypatch.setattr(sys.stderr, "isatty", lambda: True, raising=False)
    tell_reading(NotesComing("notes:1", 1_200, 50_000))
    assert "1,200 of 50,000" in capsys.readouterr().err
    tell_reading(NotesComing("notes:1", 50_000, 50_000))
    told = capsys.readouterr()
    assert told.out == ""
    assert told.err.endswith("\x1b[K"), "the line is blank again for what comes"
