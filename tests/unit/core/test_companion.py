"""The companion's desk, door and host, without a browser: what it answers, what it refuses, and what is written for browsers."""

import base64
import json
import os
import socket
import stat
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from io import BytesIO
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as some

from conftest import HERON
from wily_magpie.core.commands.drafts import SaveDraft
from wily_magpie.core.companion import desktop
from wily_magpie.core.companion.alone import StartsWindow
from wily_magpie.core.companion.browsers import BROWSERS, Companion, chromium_id, find_browser, identities, manifest
from wily_magpie.core.companion.desk import CompanionDesk
from wily_magpie.core.companion.door import LONGEST_BASE, MOST_CALLERS, Door, call, doors_folder
from wily_magpie.core.companion.messages import MESSAGES, WHOLES, checked
from wily_magpie.core.companion.scheme import EntryCall, Visit, entry_call, visit_of
from wily_magpie.core.companion.wire import LARGEST_IN, LARGEST_OUT, frame, read_frame
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand, Typed
from wily_magpie.shell.parser import understood

PICTURE = "http://estuary-courier.example/pictures/heron-mill.svg"


class Front:
    def __init__(self) -> None:
        self.opened: list[object] = []

    def come_up(self) -> None:
        self.opened.append("up")

    def open_address(self, visit: Visit) -> None:
        self.opened.append(visit)

    def open_entry(self, place: str, entry_id: int) -> None:
        self.opened.append((place, entry_id))


@pytest.fixture
def desk(session: Session) -> Iterator[CompanionDesk]:
    made = CompanionDesk(session, Front())
    yield made
    made.close(10)


def said(desk: CompanionDesk, what: str, **parts: Any) -> dict[str, Any]:
    return desk.answer({"id": 7, "what": what, **parts})


def handed(
    desk: CompanionDesk, fetcher: Fetcher, address: str = HERON, piece: int = 100_000, **more: Any
) -> dict[str, Any]:
    """Hands a page over in pieces, as the extension does."""
    whole = json.dumps({"kind": "page", "address": address, "title": "", "html": fetcher.page(address).html, **more})
    pieces = [whole[at : at + piece] for at in range(0, len(whole), piece)]
    for index, text in enumerate(pieces):
        told = said(desk, "piece", of="one", index=index, count=len(pieces), text=text)
        assert told["ok"], told
    return told


def test_a_page_is_handed_over_filled_changed_kept_and_taken_back(
    desk: CompanionDesk, session: Session, fetcher: Fetcher
) -> None:
    slip = handed(desk, fetcher, piece=2_000, marks=[{"exact": "the wheel at Heron Mill", "kind": "idea"}])
    texts = {one["key"]: (one["text"], one["letters"]) for one in slip["fields"]}
    assert texts["title"][0] == "Heron Mill turns again after ninety years"
    assert texts["authors"] == ("Penhallow, Ada; Varley, Tom", "ld")
    assert (slip["place"], slip["template"], slip["reason"]) == (
        "collection:1",
        "Article",
        "the structured type is NewsArticle",
    )
    assert slip["own"] == "summary"
    assert len(frame(slip)) < LARGEST_OUT
    hand = {**slip["hand"], "values": {"summary": ["The wheel again.", "typed"]}}
    filled = said(desk, "fill", capture=slip["capture"], hand=hand)
    assert next(one for one in filled["fields"] if one["key"] == "summary")["letters"] == "you"
    assert [one.title for one in session.reader.drafts.waiting()] == ["Heron Mill turns again after ninety years"]
    kept = said(desk, "keep", capture=slip["capture"], hand=hand, **{"as": "new"})
    entry = session.reader.entries.entry("collection:1", kept["kept"]["entry"])
    assert entry
    assert entry.value("summary") == "The wheel again."
    assert [one.kind for one in session.reader.entries.marks("collection:1", entry.id)] == ["idea"]
    assert session.reader.drafts.waiting() == []
    again = said(desk, "keep", capture=slip["capture"], hand=hand, **{"as": "new"})
    assert again["error"] == "kept-already"
    assert said(desk, "known", address=HERON + "#top")["known"][0][:2] == ["Sources", entry.title]
    assert said(desk, "undo", step=kept["kept"]["step"])["undone"].startswith("Keep")
    assert said(desk, "known", address=HERON)["known"] == []


def test_a_draft_of_the_browser_is_there_when_the_page_is_handed_over_again(
    desk: CompanionDesk, session: Session, fetcher: Fetcher
) -> None:
    slip = handed(desk, fetcher)
    said(desk, "fill", capture=slip["capture"], hand={**slip["hand"], "values": {"title": ["Mine", "typed"]}})
    fresh = CompanionDesk(session, Front())
    assert said(fresh, "fill", capture=slip["capture"], hand=slip["hand"])["error"] == "capture-gone"
    again = handed(fresh, fetcher)
    assert again["is_draft"]
    assert again["fields"][0]["text"] == "Mine"


def test_words_without_a_field_of_their_own_go_above_the_text(
    desk: CompanionDesk, session: Session, notes_path: Path, fetcher: Fetcher
) -> None:
    session.look_around(is_own=True)
    slip = handed(desk, fetcher)
    hand = {**slip["hand"], "place": session.place("Notebook").key}
    assert said(desk, "fill", capture=slip["capture"], hand=hand)["own"] == ""
    kept = said(desk, "keep", capture=slip["capture"], hand=hand, words="To be checked in March.", **{"as": "new"})
    assert kept["ok"], kept
    (note,) = notes_path.glob("*.md")
    assert (
        note.read_text().partition("---\n")[2].partition("---\n")[2].lstrip().startswith("To be checked in March.\n\n")
    )


def test_pictures_come_along_as_bytes_and_the_others_are_fetched(
    desk: CompanionDesk, session: Session, fetcher: Fetcher
) -> None:
    slip = handed(desk, fetcher)
    kept = said(desk, "keep", capture=slip["capture"], hand=slip["hand"], **{"as": "new"})
    assert PICTURE in kept["wants"]
    own = b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>"
    pictures = [
        {"address": PICTURE, "type": "image/svg+xml", "data": base64.b64encode(own).decode()},
        {"address": PICTURE + "2", "type": "text/html", "data": "aGk="}, {"address": 3}, "no picture",
        {"address": PICTURE + "3", "type": "image/png", "data": "not base64"},
    ]  # fmt: skip
    whole = json.dumps({"kind": "pictures", "capture": slip["capture"], "pictures": pictures})
    assert said(desk, "piece", of="p", index=0, count=1, text=whole)["taken"] == 1
    desk.close(10)
    assert session.reader.entries.picture(PICTURE) == own
    assert session.reader.entries.has_icon("estuary-courier.example"), "what did not come along is fetched"


def test_pictures_of_a_page_that_is_forgotten_meanwhile_are_fetched(
    desk: CompanionDesk, session: Session, fetcher: Fetcher, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wily_magpie.core.companion.desk.MOST_OPEN", 1)
    slip = handed(desk, fetcher)
    assert said(desk, "keep", capture=slip["capture"], hand=slip["hand"], **{"as": "new"})["ok"]
    handed(desk, fetcher, "http://slow-letters.example/essays/the-mill-at-night")
    assert said(desk, "fill", capture=slip["capture"], hand=slip["hand"])["error"] == "capture-gone"
    desk.close(10)
    assert session.reader.entries.picture(PICTURE)


def test_marks_go_into_the_entry_that_is_there(desk: CompanionDesk, fetcher: Fetcher) -> None:
    assert said(desk, "mark", address=HERON, put=[{"exact": "the wheel"}])["error"] == "not-known"
    slip = handed(desk, fetcher)
    said(desk, "keep", capture=slip["capture"], hand=slip["hand"], **{"as": "new"})
    told = said(desk, "mark", address=HERON, put=[{"exact": "the wheel", "kind": "question", "comment": "Which?"}])
    assert told["marks"] == [{"exact": "the wheel", "kind": "question", "comment": "Which?"}]
    assert said(desk, "mark", address=HERON, remove=told["marks"])["marks"] == []


def test_a_link_is_fetched_by_the_program_and_never_from_the_local_network(desk: CompanionDesk) -> None:
    assert said(desk, "fetch", address=HERON, by="http://slow-letters.example/")["fields"][0]["text"].startswith(
        "Heron Mill"
    )
    refused = said(desk, "fetch", address="http://127.0.0.1:9/private", by="http://slow-letters.example/")
    assert not refused["ok"]


BAD: tuple[object, ...] = (
    None, [], {}, {"what": 3}, {"what": "keep"}, {"what": "undo", "step": "1"}, {"what": "undo", "step": True},
    {"what": "known", "address": "x" * 9_000}, {"what": "hello", "browser": "F" * 300, "version": "1"},
    {"what": "keep", "capture": "a", "hand": [], "as": "new"}, {"what": "piece", "of": "a", "index": 0, "count": 900, "text": ""},
    {"what": "piece", "of": "a", "index": 3, "count": 9, "text": "x"}, {"what": "__init__"}, {"what": "answer"},
    {"what": "piece", "of": "a", "index": 0, "count": 1, "text": "[" * 90_000},
    {"what": "piece", "of": "a", "index": 0, "count": 1, "text": '{"kind": "page", "address": "file:///etc/passwd", "html": "x"}'},
)  # fmt: skip


@pytest.mark.parametrize("message", BAD)
def test_what_it_may_not_say_is_refused(desk: CompanionDesk, message: object) -> None:
    told = desk.answer(message)
    assert not told["ok"]
    assert told["error"] in ("companion-refused", "bad-address")


plain = some.recursive(
    some.none() | some.booleans() | some.integers() | some.text(max_size=8),
    lambda inner: some.lists(inner, max_size=3) | some.dictionaries(some.text(max_size=8), inner, max_size=3),
)


@given(
    some.sampled_from([*MESSAGES]),
    some.dictionaries(some.sampled_from(["address", "hand", "capture", "put", "as"]), plain),
)
def test_no_message_passes_whose_parts_are_of_another_kind(what: str, parts: dict[str, object]) -> None:
    try:
        told = checked({"what": what, **parts}, MESSAGES, "what")
    except UserError as error:
        assert error.slug == "companion-refused"
        return
    for key, part in MESSAGES[what].items():
        assert told[key] is None or type(told[key]) is part.kind


@given(plain)
def test_the_desk_answers_whatever_comes(session: Session, message: object) -> None:
    assert not CompanionDesk(session, Front()).answer({"what": "fill", "capture": "a", "hand": {}, "words": message})[
        "ok"
    ]
    with pytest.raises(UserError):
        checked(message, WHOLES, "kind")


def test_frames_are_bounded() -> None:
    assert read_frame(BytesIO(frame({"a": "ä"})).read) == {"a": "ä"}
    assert read_frame(BytesIO(frame({})[:-1]).read) is None
    for bad in (
        struct.pack("=I", LARGEST_IN + 1),
        struct.pack("=I", 4) + b"nope",
        struct.pack("=I", 200_000) + b"[" * 200_000,
    ):
        with pytest.raises(UserError):
            read_frame(BytesIO(bad).read)


@pytest.fixture
def runtime(monkeypatch: pytest.MonkeyPatch, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A home folder of its own."""
    home = tmp_path_factory.mktemp("home")
    for name in ("XDG_RUNTIME_DIR", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        (home / name).mkdir()
        monkeypatch.setenv(name, str(home / name))
    monkeypatch.setenv("HOME", str(home))
    assert len(str(home / "XDG_RUNTIME_DIR")) <= LONGEST_BASE
    return home


def test_the_door_is_its_owners_alone(desk: CompanionDesk, runtime: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    door = Door(desk.answer)
    assert stat.S_IMODE(door.path.stat().st_mode) == 0o600
    assert stat.S_IMODE(door.path.parent.stat().st_mode) == 0o700
    told = call(str(door.path), {"id": 1, "what": "known", "address": HERON})
    assert told
    assert told["known"] == []
    with socket.socket(socket.AF_UNIX) as caller:  # one that says nonsense is sent away, and the door stays open
        caller.connect(str(door.path))
        caller.sendall(struct.pack("=I", 1 << 31))
        assert caller.recv(1) == b""
    user = os.getuid()
    monkeypatch.setattr("wily_magpie.core.companion.door.os.getuid", lambda: user + 1)
    assert call(str(door.path), {"what": "known", "address": HERON}) is None, "another user is not let in"
    monkeypatch.undo()
    door.close()
    assert not door.path.exists()
    assert call(str(door.path), {"what": "show"}) is None


def test_idle_callers_lock_nobody_out(desk: CompanionDesk, runtime: Path) -> None:
    door = Door(desk.answer)
    idle = [socket.socket(socket.AF_UNIX) for _ in range(MOST_CALLERS + 3)]
    try:
        for one in idle:
            one.connect(str(door.path))
        told = call(str(door.path), {"id": 1, "what": "known", "address": HERON})
        assert told
        assert told["ok"]
        assert idle[0].recv(1) == b"", "whoever said nothing for the longest time went"
    finally:
        for one in idle:
            one.close()
        door.close()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can make a folder of another user")
def test_a_folder_that_somebody_else_made_first_is_no_door(runtime: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    base = runtime / "XDG_RUNTIME_DIR"
    os.chown(base, 65534, 65534)
    theirs = Path(f"/tmp/wily-magpie-{os.getuid()}")
    kept = theirs.with_name(f"{theirs.name} of before {os.getpid()}")
    if theirs.exists():
        theirs.rename(kept)
    try:
        theirs.mkdir(mode=0o777)
        os.chown(theirs, 65534, 65534)
        with pytest.raises(EnvironmentFailure, match="not yours alone"):
            doors_folder()
        theirs.rmdir()
        theirs.mkdir()
        theirs.chmod(0o777)
        with pytest.raises(EnvironmentFailure, match="not yours alone"):
            doors_folder()
    finally:
        theirs.rmdir()
        if kept.exists():
            kept.rename(theirs)


def test_nobody_is_told_anything_who_is_another_user(
    desk: CompanionDesk, runtime: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    heard: list[object] = []
    with socket.socket(socket.AF_UNIX) as theirs:
        path = runtime / "door"
        theirs.bind(str(path))
        theirs.listen()
        monkeypatch.setattr("wily_magpie.core.companion.door.user_of", lambda _caller: 65534)
        assert call(str(path), {"what": "visit", "address": "http://secret.example/token"}) is None
        connection, _ = theirs.accept()
        heard.append(connection.recv(100))
        connection.close()
    assert heard == [b""]


def test_a_text_that_was_settled_by_hand_is_of_any_length(
    desk: CompanionDesk, session: Session, fetcher: Fetcher
) -> None:
    reading = read_page(fetcher.page(HERON))
    text, value = "My own text. " * 100_000, "A long summary. " * 100_000
    hand = ByHand(body=text, values={"summary": Typed(value)})
    session.do(SaveDraft(session.reader.slips.restored(reading, hand)))
    told = handed(desk, fetcher)
    assert len(json.dumps(told)) < LARGEST_OUT
    hand_now = {**told["hand"], "values": {**told["hand"]["values"], "title": ["Another title", "typed"]}}
    filled = said(desk, "fill", capture=told["capture"], hand=hand_now)
    assert filled["ok"]
    assert len(json.dumps(filled)) < LARGEST_OUT
    kept = said(desk, "keep", capture=told["capture"], hand=hand_now, **{"as": "new"})["kept"]
    entry = session.reader.entries.entry(kept["place"], kept["entry"])
    assert entry
    assert entry.title == "Another title"
    assert (entry.body or "").strip() == text.strip()
    assert str(entry.value("summary")).strip() == value.strip()


def test_half_letters_are_no_fault_of_ours(desk: CompanionDesk, session: Session) -> None:
    mill = "\U0001f3ed"
    page = {"kind": "page", "address": "http://halves.example/", "title": "\ud800", "html": f"<title>A {mill} \ud800</title><article><p>"
            f"{'The mill turns with the tide. ' * 20}\udfff</article>"}  # fmt: skip
    whole = json.dumps(page, ensure_ascii=False)
    first, second = mill.encode("utf-16-be", "surrogatepass")[:2], mill.encode("utf-16-be", "surrogatepass")[2:]
    halves = [half.decode("utf-16-be", "surrogatepass") for half in (first, second)]
    at = whole.index(mill)
    parts = [whole[:at] + halves[0], halves[1] + whole[at + 1 :]]
    for index, text in enumerate(parts):
        told = desk.answer({"id": 1, "what": "piece", "of": "p", "index": index, "count": 2, "text": text})
    assert told["ok"], told
    title = next(one["text"] for one in told["fields"] if one["key"] == "title")
    assert mill in title, "a letter that was parted between two pieces is whole again"
    hand = {**told["hand"], "values": {"title": ["A \ud800 mill", "typed"]}}
    kept = said(desk, "keep", capture=told["capture"], hand=hand, **{"as": "new"})
    assert kept["ok"], kept
    assert kept["kept"]["title"] == "A \ufffd mill"


def test_the_host_passes_messages_to_the_window_and_is_for_the_companion_alone(
    desk: CompanionDesk, runtime: Path, tmp_path: Path
) -> None:
    companion = Companion()
    companion.install(tmp_path / "books", [])
    door = Door(desk.answer)
    library, _ = companion.tried()
    assert library == ""
    door.close()
    library, _ = companion.tried()
    assert library == "books", "without a window it is the program itself"
    for words in ([], ["chrome-extension://somebodyelse/"]):
        ended = subprocess.run([companion.host, *words], input=b"", capture_output=True, check=False)
        assert (ended.returncode, ended.stdout) == (1, b"")
    assert not companion.heard_file.exists(), "a trial is no browser"


def test_what_browsers_are_told_is_written_and_taken_away_again(runtime: Path, tmp_path: Path) -> None:
    companion = Companion()
    chromium, firefox = identities()
    companion.install(None, BROWSERS, tmp_path / "profile")
    told = {one.key: json.loads(companion.manifest_of(one).read_text()) for one in BROWSERS}
    assert told["firefox"]["allowed_extensions"] == [firefox]
    assert "allowed_origins" not in told["firefox"]
    assert told["chromium"]["allowed_origins"] == [f"chrome-extension://{chromium}/"]
    assert companion.manifest_of(find_browser("chromium")).parent == tmp_path / "profile" / "NativeMessagingHosts"
    assert {one["fault"] for one in companion.status()} == {""}
    there = {path.name for path in companion.extension.iterdir()}
    assert {"manifest.json", "worker.js", "seen.js", "marking.js", "shown.js", "icon-48.png"} <= there
    desktop.install()
    entry = (runtime / "XDG_DATA_HOME" / "applications" / "wily-magpie.desktop").read_text()
    assert f'Exec="{sys.executable}" "-m" "wily_magpie" %u' in entry
    assert "MimeType=x-scheme-handler/wily-magpie;" in entry
    companion.hear("Firefox", "0.1.0")
    assert next(one for one in companion.status() if one["browser"] == "firefox")["version"] == "0.1.0"
    companion.host.unlink()
    assert all("gone" in one["fault"] for one in companion.status())
    defaults = runtime / "XDG_CONFIG_HOME" / "mimeapps.list"
    defaults.write_text(
        "[Default Applications]\nx-scheme-handler/wily-magpie=wily-magpie.desktop\ntext/html=other.desktop\n"
    )
    companion.remove()
    desktop.remove()
    left = [
        path for path in runtime.rglob("*") if path.is_file() and path.name not in ("mimeinfo.cache", "mimeapps.list")
    ]
    assert left == []
    assert "wily-magpie" not in defaults.read_text()
    assert not list((tmp_path / "profile").rglob("*.json"))


def test_the_extension_asks_for_as_little_as_can_be() -> None:
    told = manifest()
    assert told["permissions"] == ["activeTab", "scripting", "nativeMessaging", "contextMenus", "storage"]
    assert "host_permissions" not in told
    assert "web_accessible_resources" not in told
    assert "externally_connectable" not in told
    assert "'none'" in told["content_security_policy"]["extension_pages"]
    assert chromium_id(told["key"]) == identities()[0]
    source = Path(sys.modules["wily_magpie"].__file__ or "").parent / "companion"
    for script in source.glob("*.js"):
        text = script.read_text()
        for way in ("innerHTML", "eval(", "XMLHttpRequest", "import(", "sendBeacon", "WebSocket"):
            assert way not in text, f"{script.name} uses {way}"


CALLS = {
    "wily-magpie:keep?url=https%3A%2F%2Fmills.example%2Fa&title=T&words=The%20pond": Visit("https://mills.example/a", "The pond", is_typed=False),
    "wily-magpie://keep?url=http://mills.example/": Visit("http://mills.example/", "", is_typed=False),
}  # fmt: skip


@pytest.mark.parametrize("call_of", list(CALLS))
def test_a_call_opens_a_slip(call_of: str) -> None:
    assert visit_of(call_of) == CALLS[call_of]
    assert understood([call_of]).visit == CALLS[call_of]


@pytest.mark.parametrize(
    ("call_of", "leads_to"),
    [
        ("wily-magpie:open?place=Sources&entry=12", EntryCall("Sources", 12)),
        ("wily-magpie:open?place=My%20notes&note=Days%2F2026-03-12.md", EntryCall("My notes", 0, "Days/2026-03-12.md")),
        ("wily-magpie:open?place=Sources&entry=twelve", None),
        ("wily-magpie:open?entry=12", None),
        ("wily-magpie:keep?url=http://mills.example/", None),
        ("https://mills.example/open?place=Sources&entry=12", None),
    ],
)
def test_an_address_of_an_entry_leads_to_it(call_of: str, leads_to: EntryCall | None) -> None:
    assert entry_call(call_of) == leads_to
    if leads_to is not None:
        assert understood([call_of]).visit == Visit(call_of, is_typed=False)


@pytest.mark.parametrize(
    "call_of",
    ["wily-magpie:keep", "wily-magpie:open?place=Sources&entry=x", "wily-magpie:delete?url=https://a.example/", "wily-magpie:keep?url=file:///etc/passwd",
     "wily-magpie:keep?url=javascript:alert(1)", "wily-magpie:keep?url=http://127.0.0.1:8080/", "wily-magpie:keep?url=http://router/",
     "wily-magpie:keep?url=http://[::1]/", "wily-magpie:keep?url=http://2130706433/", "wily-magpie:keep?" + "&".join(["url=x"] * 90)],
)  # fmt: skip
def test_a_call_that_asks_for_more_is_refused(call_of: str) -> None:
    with pytest.raises(UserError):
        visit_of(call_of)


def test_an_address_on_the_command_line_is_opened_in_the_window(tmp_path: Path) -> None:
    args = understood(["--library", str(tmp_path), "mills.example/a"])
    assert (args.visit, args.library) == (Visit("http://mills.example/a"), tmp_path)
    assert understood(["--words", "The pond", "https://mills.example/"]).visit == Visit(
        "https://mills.example/", "The pond"
    )
    assert understood(["capture", "https://mills.example/"]).visit is None
    with pytest.raises(UserError):
        understood(["https://mills.example/", "places"])


def test_two_callers_at_once(desk: CompanionDesk, session: Session, fetcher: Fetcher, runtime: Path) -> None:
    """A page that is kept twice at the same moment is kept once."""
    slip = handed(desk, fetcher)
    told: list[dict[str, Any]] = []
    keep: Callable[[], None] = lambda: told.append(  # noqa: E731
        said(desk, "keep", capture=slip["capture"], hand=slip["hand"], **{"as": "new"})
    )
    threads = [threading.Thread(target=keep) for _ in range(4)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert sorted(one["ok"] for one in told) == [False, False, False, True]
    place = session._library.place("Sources")
    assert len(place.listing(session.reader.entries.question(place.key, "")).ids) == 1


def test_without_a_window_one_is_started_with_the_page(
    runtime: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The host alone opens the program itself where something is to be seen in it."""
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    front = StartsWindow(tmp_path / "library")
    front.open_address(Visit(HERON, "the wheel"))
    doors = runtime / "XDG_RUNTIME_DIR" / "wily-magpie"
    end = time.monotonic() + 30
    while not (found := list(doors.glob("*.sock")) if doors.is_dir() else []):
        assert time.monotonic() < end, "no window came"
        time.sleep(0.05)
    told = call(str(found[0]), {"id": 1, "what": "hello", "browser": "a trial", "version": "0"}, 10)
    assert told
    assert told["ok"]
    front.started[0].terminate()
    front.started[0].wait(20)
