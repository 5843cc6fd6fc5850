"""Lists of addresses: how they are understood, and how they are captured: politely, once, and on after whatever ended them."""

import json
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from email.message import EmailMessage
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as some

from conftest import HERON
from helpers import undo
from wily_magpie.core.capture.many import HOSTS_AT_A_TIME, ListRun, going_on
from wily_magpie.core.capture.run import Captured, CaptureRun, Wanted
from wily_magpie.core.commands.capture import KeepAddress
from wily_magpie.core.commands.drafts import SaveDraft
from wily_magpie.core.commands.lists import DropList, MakeList, NoteRead, WaitAgain
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.errors import UserError
from wily_magpie.core.exchange.addresses import addresses_in_text, addresses_of, read_bounded
from wily_magpie.core.exchange.given_files import understood_files, understood_input
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.page import Reading
from wily_magpie.core.places.library.list_lock import list_lock
from wily_magpie.core.query.nodes import Question
from wily_magpie.core.session.session import Session
from wily_magpie.core.templates.by_hand import ByHand
from wily_magpie.demo.web import samples

ONE, TWO = "https://mills.example/a", "https://mills.example/b"
FORMS = {
    "lines": ("", f"{ONE}\n\n# a remark\nmills.example/b\nnot an address\n{ONE}?utm_source=x\n", ["", ""], 1, 1),
    "a text": ("", f"See {ONE}, then ({TWO}).", ["", ""], 0, 0),
    "csv": ("l.csv", f"Title;Link\nThe pond;{ONE}\nThe wheel;{TWO}\n", ["The pond", "The wheel"], 0, 0),
    "csv without a head": ("l.csv", f"{ONE},1\n{TWO},2\n", ["", ""], 0, 0),
    "bookmarks": (
        "b.html", f'<!DOCTYPE NETSCAPE-Bookmark-file-1><DL><DT><A HREF="{ONE}" ADD_DATE="1">The pond</A><DT><A HREF="{TWO}">W</A>'
        '<DT><A HREF="javascript:alert(1)">x</A><DT><A HREF="place:y">y</A></DL>', ["The pond", "W"], 0, 0),
    "opml": (
        "f.opml", f'<?xml version="1.0"?><!DOCTYPE opml [<!ENTITY e SYSTEM "file:///etc/passwd">]><opml><body><outline text="&e;">'
        f'<outline title="The pond" xmlUrl="{ONE}"/><outline text="W" htmlUrl="{TWO}" xmlUrl="{ONE}"/></outline></body></opml>',
        ["The pond", "W"], 0, 0),
    "url": ("p.url", f"[InternetShortcut]\r\nURL={ONE}\r\n", [""], 0, 0),
    "desktop": ("p.desktop", f"[Desktop Entry]\nType=Link\nName=The pond\nURL={ONE}\n", ["The pond"], 0, 0),
    "a broken table": ("l.csv", f'a,"{ONE}\n{TWO}', ["", ""], 0, 0),
    "nothing": ("l.csv", "", [], 0, 0),
}  # fmt: skip


@pytest.mark.parametrize("form", list(FORMS))
def test_lists_of_all_forms_are_understood(form: str) -> None:
    name, text, titles, doubles, others = FORMS[form]
    found = addresses_of(text, name)
    assert [title for _, title in found.addresses] == titles
    assert [address.rpartition("//")[2] for address, _ in found.addresses] == ["mills.example/a", "mills.example/b"][
        : len(titles)
    ]
    assert (found.doubles, len(found.others)) == (doubles, others)


@given(some.text(max_size=200), some.sampled_from(["", "l.csv", "b.html", "f.opml", "p.url", "p.desktop"]))
def test_no_text_breaks_it(text: str, name: str) -> None:
    found = addresses_of(text, name)
    assert all(address.startswith(("http://", "https://")) for address, _ in found.addresses)


@given(some.lists(some.sampled_from([ONE, TWO, "http://mills.example/wiki/Mill_(tide)"]), min_size=1, unique=True))
def test_addresses_amid_words_are_found_whole(addresses: list[str]) -> None:
    text = ". ".join(f"As {one} says" for one in addresses) + ", and so on"
    assert [one for one, _ in addresses_in_text(text).addresses] == addresses


def mail(number: int, subject: str) -> str:
    return f"From: Ada <ada@mills.example>\nTo: tom@mills.example\nSubject: {subject}\nDate: Mon, 2 Mar 2026 10:00:00 +0000\nMessage-ID: <{number}@mills.example>\n\nThe pond is full, Tom, and the ebb will be early on the day of the fair.\n"


def test_mailboxes_are_taken_apart_and_folders_looked_through(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    box = tmp_path / "letters.mbox"
    box.write_text("".join(f"From ada Mon Mar  2 10:00:00 2026\n{mail(at, f'Letter {at}')}\n" for at in range(3)))
    found = understood_files([box])
    assert [title for _, title in found.addresses] == ["Letter 0", "Letter 1", "Letter 2"]
    box.unlink()
    assert all(Path(path).read_text().startswith("From: Ada") for path, _ in found.addresses), (
        "nothing depends on the mailbox"
    )
    for part in ("cur", "new", "tmp"):
        (tmp_path / "mail" / part).mkdir(parents=True)
    (tmp_path / "mail" / "cur" / "1:2,S").write_text(mail(8, "Kept"))
    (tmp_path / "mail" / "new" / "2").write_text(mail(9, "New"))
    assert len(understood_files([tmp_path / "mail"]).addresses) == 2


def test_a_mailbox_is_known_by_its_content_and_text_in_it_is_no_message(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    unquoted = (
        mail(1, "One") + "\nFrom here on the causeway is dry.\n\nFrom there too: look.\n>From the sea it is not.\n"
    )
    box = tmp_path / "letters"
    box.write_text(
        f"From ada Mon Mar  2 10:00:00 2026\n{unquoted}\nFrom tom Mon Mar  2 11:00:00 2026\n{mail(2, 'Two')}"
    )
    found = understood_files([box])
    assert [title for _, title in found.addresses] == ["One", "Two"]
    first = Path(found.addresses[0][0])
    assert "From here on the causeway" in first.read_text()
    assert "\nFrom the sea" in first.read_text(), "what was quoted for the mailbox is as it was written"
    assert first.parent.stat().st_mode & 0o077 == 0, "nobody else reads the copies"
    assert understood_input(box.read_bytes()).addresses, "from standard input, too"
    (tmp_path / "letter").write_text(mail(3, "Three"))
    assert understood_files([tmp_path / "letter"]).addresses == ((str(tmp_path / "letter"), "letter"),)
    many = tmp_path / "many"
    many.mkdir()
    box.rename(many / "box")
    (many / "a.eml").write_text(mail(4, "Four"))
    (many / "b.pdf").write_bytes(b"%PDF-1.7")
    (many / ".hidden.eml").write_text(mail(5, "Five"))
    assert len(understood_files([many]).addresses) == 4


def test_what_a_list_does_not_take_is_said(tmp_path: Path) -> None:
    found = addresses_of("\n".join(f"http://h{at}.example/" for at in range(20_003)))
    assert (len(found.addresses), found.beyond) == (20_000, 3)
    assert "3 behind them are left out" in found.told_beyond
    with pytest.raises(UserError, match="larger than 50 MB"):
        read_bounded(Path("/dev/zero"))


def test_a_list_goes_on_where_it_was_left_and_nobody_else_is_at_it(session: Session) -> None:
    wanted, addresses = ListWanted(), [(HERON, ""), ("http://estuarine-lexicon.example/tide-mill", "")]
    number = going_on(session, "two", addresses, wanted)
    assert going_on(session, "two", addresses, wanted) == number, "what was interrupted is gone on with"
    assert going_on(session, "two", addresses[:1], wanted) != number
    with closing(list_lock(session.folder, number)) as lock:
        assert lock.take()
        assert number not in [one.id for one in session.reader.lists.interrupted()], "somebody is at it"
        with pytest.raises(UserError, match="capturing this list"):
            ListRun(session, number, wanted).run()
        assert going_on(session, "two", addresses, wanted) != number
    assert number in [one.id for one in session.reader.lists.interrupted()]
    assert not list(session.folder.glob("list-*.lock")), "nothing is left of the locks"


def test_two_at_once_keep_a_page_once(session: Session) -> None:
    """Each had filled its slip before the other kept it."""
    reading = read_page(session.fetcher.page(HERON))
    run = CaptureRun(session)
    slips = [run.slip(reading) for _ in range(3)]
    first = run.keep(slips[0], is_seen=False)
    second = run.keep(slips[1], is_seen=False)
    assert (second.status, second.entry_id) == ("known", first.entry_id)
    with pytest.raises(UserError, match="was kept in Sources meanwhile"):
        run.keep(slips[2])
    assert len(session._library.place("Sources").listing(Question()).ids) == 1
    known = run.slip(reading)
    assert run.keep(known).entry_id != first.entry_id, "a second one that a person wants is kept"


BY_PAGE = ListWanted()


def run_list(session: Session, addresses: list[str], wanted: ListWanted = BY_PAGE, **more: object) -> list[ListItem]:
    number = session.do(MakeList("A list", [(one, "") for one in addresses], wanted))
    ListRun(session, number, wanted, pause_s=0.0, **more).run()  # type: ignore[arg-type]
    return session.reader.lists.items(number)


def test_each_address_ends_in_its_state(session: Session) -> None:
    addresses = [
        HERON, "http://estuarine-lexicon.example/tide-mill", "http://short-links.example/t/heron",
        "http://gauge-office.example/account", "http://estuary-courier.example/2018/06/01/withdrawn", "http://127.0.0.1:9/",
    ]  # fmt: skip
    items = run_list(session, addresses, ListWanted("", "", (("tags", "mills; law"), ("no such field", "x"))))
    states = [one.state for one in items]
    kept, known, thin, failed = ItemState.KEPT, ItemState.KNOWN, ItemState.THIN, ItemState.FAILED
    assert sorted(states[at] for at in (0, 2)) == [kept, known], "two addresses lead to one page, which is kept once"
    assert states[1] is kept
    assert states[3:] == [thin, failed, failed]
    assert "local network" in items[5].said
    assert "has no field no such field" in items[1].said
    entry = session.reader.entries.entry(items[1].place, items[1].entry_id)
    assert entry
    assert entry.value("tags") == ("mills", "law")
    assert len(session._library.place("Sources").listing(Question()).ids) == 2
    again = run_list(session, [HERON])
    assert again[0].state is known
    assert undo(session), "each page is a step of its own"


def test_one_page_that_breaks_the_program_costs_itself(session: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    whole_of = CaptureRun.whole_of

    def broken(run: CaptureRun, reading: Reading, wanted: Wanted) -> Captured:
        if reading.page.address == HERON:
            raise OverflowError("an absurd number")
        return whole_of(run, reading, wanted)

    monkeypatch.setattr(CaptureRun, "whole_of", broken)
    items = run_list(session, [HERON, "http://estuarine-lexicon.example/tide-mill"])
    assert [one.state for one in items] == [ItemState.FAILED, ItemState.KEPT]
    assert "fault of the program" in items[0].said


def test_what_a_person_began_on_a_page_waits_on_when_a_list_keeps_it(session: Session) -> None:
    reading = read_page(session.fetcher.page(HERON))
    mark = Mark("the sluice was raised", "idea")
    session.do(SaveDraft(session.reader.slips.slip(reading, hand=ByHand(marks=(mark,)))))
    (item,) = run_list(session, [HERON])
    assert item.state is ItemState.KEPT
    assert [one.title for one in session.reader.drafts.waiting()] == ["Heron Mill turns again after ninety years"]
    draft = session.reader.drafts.find(reading.page.address)
    assert draft is not None
    slip = session.reader.slips.restored(reading, draft.hand)
    assert slip.marks == (mark,)
    assert slip.known is not None
    assert slip.known.id == item.entry_id


def test_e_mails_are_kept_as_what_they_are(session: Session, tmp_path: Path) -> None:
    (tmp_path / "a.eml").write_text(mail(1, "The fair"))
    (item,) = run_list(session, [str(tmp_path / "a.eml")])
    entry = session.reader.entries.entry(item.place, item.entry_id)
    assert entry
    assert (item.state, entry.title, entry.value("authors")) == (ItemState.KEPT, "The fair", ("Ada",))
    assert "the ebb will be early" in (entry.body or "")


PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d49444154789c6360606060000000050001a5f645400000000049454e44ae426082"
)


def letter_with_files(message_id: str = "<7@mills.example>") -> EmailMessage:
    message = EmailMessage()
    message["From"], message["Subject"], message["Message-ID"] = "Ada <ada@mills.example>", "The pond", message_id
    message.set_content("plain words")
    message.add_alternative(
        '<p><a href="http://list.example/v">View this email in your browser</a></p><p>The pond is full, Tom:</p><p><img src="cid:pond@x"></p>'
        "<p>You are receiving this email because you asked. <a href='http://list.example/u'>Unsubscribe</a></p>", "html",
    )  # fmt: skip
    (_, html) = message.iter_parts()
    assert isinstance(html, EmailMessage)
    html.add_related(PIXEL, maintype="image", subtype="png", cid="<pond@x>")
    message.add_attachment(b"tide,height\n1,2\n", maintype="text", subtype="csv", filename="tides.csv")
    return message


@pytest.mark.parametrize("place", ["Sources", "Notebook"])
def test_the_files_of_an_e_mail_are_kept_with_it(
    session: Session, notes_path: Path, tmp_path: Path, place: str
) -> None:
    (tmp_path / "letter").write_bytes(letter_with_files().as_bytes())
    found = session._library.place(place)
    (item,) = run_list(session, [str(tmp_path / "letter")], ListWanted(place=found.key))
    assert item.state is ItemState.KEPT, item.said
    whole = session.reader.entries.whole(item.place, item.entry_id)
    assert whole
    body = whole.entry.body or ""
    assert "Unsubscribe" not in body
    assert "browser" not in body
    if place == "Notebook":
        assert any(path.read_bytes() == PIXEL for path in notes_path.rglob("*.png"))
        assert [path.read_text() for path in notes_path.rglob("tides.csv")] == ["tide,height\n1,2\n"]
        return
    assert "mid:7@mills.example/pond@x" in body
    assert session.reader.entries.picture("mid:7@mills.example/pond@x") == PIXEL
    assert session.reader.entries.rendered(body).pictures, "it is shown where one reads"
    assert [one.partition("/")[2] for one in whole.files] == ["tides.csv"]
    assert undo(session)
    assert session.reader.entries.entry(item.place, item.entry_id) is None


ESSAY = (
    "<p>The pond fills at the flood, and the mill stands still until the ebb has run for an hour. Nobody grinds by the clock.</p>"
    "<p>My grandfather kept two almanacs, one for the saints and one for the moon; he trusted the second, and was seldom late.</p>"
    "<p>When the gate falls you hear it through the whole house, as if somebody had put down a heavy book and gone to bed.</p>"
)


class Busy(BaseHTTPRequestHandler):
    """A site that notes who asks at the same time, and asks for patience once."""

    at_once = most = asked = 0
    lock = threading.Lock()

    def do_GET(self) -> None:
        cls = type(self)
        with cls.lock:
            cls.at_once += 1
            cls.asked += 1
            cls.most = max(cls.most, cls.at_once)
            is_first = cls.asked == 1
        time.sleep(0.02)
        with cls.lock:
            cls.at_once -= 1
        self.send_response(503 if is_first else 200)
        if is_first:
            self.send_header("Retry-After", "1")
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(f"<title>Page {self.path}</title><article><h1>Page {self.path}</h1>{ESSAY}</article>".encode())

    def log_message(self, *_parts: object) -> None:
        """Silent."""


@pytest.fixture
def busy() -> Iterator[tuple[type[Busy], str]]:
    kind = type("BusyOnce", (Busy,), {"lock": threading.Lock()})
    server = ThreadingHTTPServer(("127.0.0.1", 0), kind)
    threading.Thread(target=server.serve_forever, args=(0.05,), daemon=True).start()
    yield kind, f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()


def test_a_host_is_asked_one_at_a_time_and_given_the_patience_it_asks_for(
    session: Session, busy: tuple[type[Busy], str], monkeypatch: pytest.MonkeyPatch
) -> None:
    kind, base = busy
    session.fetcher.proxy_for = lambda _address: base  # all hosts are this one
    begun = time.monotonic()
    items = run_list(session, [f"http://slow.example/{at}" for at in range(4)])
    assert [one.state for one in items] == [ItemState.KEPT] * 4
    assert time.monotonic() - begun > 0.9, "it was left alone for the second that it asked for"
    assert kind.most == 1
    run_list(session, [f"http://host{at}.example/" for at in range(12)])
    assert 1 < kind.most <= HOSTS_AT_A_TIME


def test_a_list_that_was_cancelled_goes_on_where_it_was(session: Session) -> None:
    addresses = [address for _, address in samples()[:12]]
    number = session.do(MakeList("A list", [(one, "") for one in addresses]))
    ended: list[ListItem] = []

    def told(item: ListItem) -> None:
        if item.state not in (ItemState.READING, ItemState.WAITING):
            ended.append(item)

    ListRun(session, number, ListWanted(), is_cancelled=lambda: len(ended) >= 3, told=told, pause_s=0.0).run()
    left = session.reader.lists.find(number)
    assert left
    assert 0 < left.left < 12
    ListRun(session, number, ListWanted(), pause_s=0.0).run()
    whole = session.reader.lists.find(number)
    assert whole
    assert whole.left == 0
    kept = [one.entry_id for one in session.reader.lists.items(number) if one.state is ItemState.KEPT]
    assert len(kept) == len(set(kept)) == len(session._library.place("Sources").listing(Question()).ids)
    session.do(DropList(number))
    assert session.reader.lists.all() == []


def test_those_that_failed_are_tried_again(session: Session, web: object) -> None:
    way, session.fetcher.proxy_for = session.fetcher.proxy_for, lambda _address: "http://127.0.0.1:1"
    number = session.do(MakeList("A list", [(HERON, ""), ("http://estuarine-lexicon.example/tide-mill", "")]))
    ListRun(session, number, ListWanted(), pause_s=0.0).run()
    assert {one.state for one in session.reader.lists.items(number)} == {ItemState.FAILED}
    session.fetcher.proxy_for = way
    assert session.do(WaitAgain(number, positions=[2])) == 1
    ListRun(session, number, ListWanted(), pause_s=0.0).run()
    assert [one.state for one in session.reader.lists.items(number)] == [ItemState.FAILED, ItemState.KEPT]


def test_a_list_of_200_is_killed_and_goes_on(tmp_path: Path, route: Callable[[str], str | None]) -> None:
    """Whatever was told to be kept is, nothing is kept twice, and the rest is captured by the next start."""
    folder = tmp_path / "library"
    pages = [
        "http://estuarine-lexicon.example/tide-mill", "http://slow-letters.example/essays/the-mill-at-night",
        "http://shio-notes.example/suisha", "http://nahr-review.example/tawahin", "http://gauge-office.example/readme.txt",
        "http://county-record-office.example/finding-aids/d-114", "http://estuary-courier.example/2018/06/01/withdrawn",
        "http://tidal-studies.example/article/13/2/11",
    ]  # fmt: skip
    addresses = [f"{pages[at % len(pages)]}?n={at}" for at in range(200)]
    (tmp_path / "list.txt").write_text("\n".join(addresses))
    words = [
        sys.executable,
        "-m",
        "wily_magpie",
        "--library",
        str(folder),
        "capture",
        "--from",
        str(tmp_path / "list.txt"),
    ]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as child:
        assert child.stdout
        told = [json.loads(child.stdout.readline()) for _ in range(25)]
        child.kill()
    session = Session(folder, Fetcher(route, silence_s=1.0))
    (there,) = session.reader.lists.all()
    assert there.left > 0
    items = {one.position: one for one in session.reader.lists.items(there.id)}
    said = [(one["position"], one["status"]) for one in told[:-HOSTS_AT_A_TIME]]
    assert [(at, str(items[at].state)) for at, _ in said] == said
    with ThreadPoolExecutor(1) as lane:
        lane.submit(ListRun(session, there.id, there.wanted, pause_s=0.0).run).result(240)
    assert {one.state for one in session.reader.lists.items(there.id)} <= {
        ItemState.KEPT,
        ItemState.KNOWN,
        ItemState.THIN,
        ItemState.FAILED,
    }
    ids = session._library.place("Sources").listing(Question()).ids
    addresses_kept = [session._library.place("Sources").entry(one) for one in ids]
    known = [one.value("address") for one in addresses_kept if one is not None]
    assert len(known) == len(set(known))
    session.close()


def test_what_is_kept_by_its_address_alone_is_filled_when_there_is_a_network(session: Session) -> None:
    way, session.fetcher.proxy_for = session.fetcher.proxy_for, lambda _address: "http://127.0.0.1:1"
    kept = session.do(KeepAddress(HERON))
    session.do(KeepAddress("http://estuarine-lexicon.example/tide-mill", "To be taken back"))
    undo(session)
    (later,) = session.reader.lists.all()
    assert (later.label, later.wanted.is_later, later.left) == ("Kept for later", True, 2)
    ListRun(session, later.id, later.wanted, pause_s=0.0).run()
    first, second = session.reader.lists.items(later.id)
    assert (first.state, second.said) == (ItemState.WAITING, "It was taken back.")
    assert "It is tried again." in first.said
    session.fetcher.proxy_for = way
    ListRun(session, later.id, later.wanted, pause_s=0.0).run()
    entry = session.reader.entries.entry(kept.place, kept.entry_id)
    assert entry
    assert (entry.title, entry.value("status")) == ("Heron Mill turns again after ninety years", "to read")
    assert entry.value("authors") == ("Penhallow, Ada", "Varley, Tom")
    assert "driven by the tide" in (entry.body or "")
    session.do(KeepAddress(HERON))
    assert session.reader.lists.items(later.id)[0].state is ItemState.KEPT, "what is there already does not wait again"
    assert session.reader.lists.is_to_be_read(kept.place, kept.entry_id)
    session.do(NoteRead(kept.place, kept.entry_id))
    assert [one.position for one in session.reader.lists.items(later.id)] == [2]
    assert not session.reader.lists.is_to_be_read(kept.place, kept.entry_id)
