"""The way to the web: what may be reached, by what we fetch and through the gate; nothing of this machine unasked."""

import base64
import gzip
import socket
import threading
import zlib
from collections.abc import Callable, Iterator

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loopback import Server
from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import reach
from wily_magpie.core.network.gate import USER, Gate
from wily_magpie.core.pages.fetch import PIECE_BYTES, Fetcher, inflated

LOCAL = [
    "127.0.0.1", "127.1", "2130706433", "0x7f000001", "0x7f.1", "0.0.0.0", "10.1.2.3", "172.16.0.1", "192.168.7.7",
    "169.254.169.254", "100.64.0.1", "224.0.0.1", "255.255.255.255", "localhost", "LOCALHOST", "a.localhost", "localhost.",
    "router", "printer.local", "nas.lan", "x.internal", "x.home.arpa", "::1", "[::1]", "fe80::1", "fe80::1%eth0", "fc00::1",
    "::", "::ffff:127.0.0.1", "::ffff:10.0.0.1", "64:ff9b::7f00:1", "2002:7f00:1::", "ff02::1",
]  # fmt: skip
PUBLIC = [
    "mills.example", "mills.example.", "8.8.8.8", "1.1.1.1", "2001:4860:4860::8888", "::ffff:8.8.8.8", "64:ff9b::808:808",
    "xn--mhle-0ra.example", "a.b.c.example", "local.example",
]  # fmt: skip


@pytest.mark.parametrize("host", LOCAL)
def test_what_is_of_the_local_network(host: str) -> None:
    assert reach.is_local(host)
    with pytest.raises(PageFailure, match="into the local network"):
        reach.reachable(host, 80, ())


@pytest.mark.parametrize("host", PUBLIC)
def test_what_is_of_the_web(host: str) -> None:
    assert not reach.is_local(host)


@given(st.ip_addresses())
def test_no_private_number_is_of_the_web(number: reach.Number) -> None:
    if number.is_private or number.is_loopback or number.is_link_local or number.is_multicast or number.is_unspecified:
        assert not reach.is_public(number)


def resolves_to(monkeypatch: pytest.MonkeyPatch, *answers: list[str]) -> list[str]:
    """Has names resolved to these, one answer a question; the names that were asked for."""
    asked: list[str] = []
    left = list(answers)
    usual = socket.getaddrinfo

    def found(host: str, port: int, *_flags: object, **_more: object) -> list[tuple[object, ...]]:
        if host == "127.0.0.1":  # this test itself
            return [tuple(info) for info in usual(host, port)]
        asked.append(host)
        numbers = left.pop(0) if len(left) > 1 else left[0]
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", (number, port)) for number in numbers]

    monkeypatch.setattr(socket, "getaddrinfo", found)
    return asked


def test_of_several_numbers_the_private_ones_are_left_out(monkeypatch: pytest.MonkeyPatch) -> None:
    resolves_to(monkeypatch, ["10.0.0.1", "8.8.8.8"])
    assert [number for _, number in reach.reachable("mills.example", 80, ())] == ["8.8.8.8"]


def test_a_name_of_the_web_that_leads_inside_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    resolves_to(monkeypatch, ["127.0.0.1"])
    with pytest.raises(PageFailure, match="into the local network"):
        reach.connect("rebind.example", 80, (), 1e12)
    with pytest.raises(PageFailure, match="into the local network"):
        reach.check_name("rebind.example", 80, ())


@pytest.fixture
def private() -> Iterator[Server]:
    """Something of the person's own."""
    server = Server()
    yield server
    server.close()


@pytest.fixture
def web_of_one() -> Iterator[Server]:
    """A proxy that answers for all names under .example: the web, as far as this test goes."""
    server = Server()
    yield server
    server.close()


@pytest.fixture
def web_fetcher(web_of_one: Server) -> Fetcher:
    """Fetches names under .example from it, and the rest straight."""
    return Fetcher(lambda address: web_of_one.address if ".example" in address else None, silence_s=2.0)


def spelled(port: int) -> list[str]:
    """Addresses that lead to a port of this machine."""
    hosts = ("127.0.0.1", "localhost", "LocalHost", "127.1", "2130706433", "0x7f.1", "localhost.", "[::ffff:127.0.0.1]")
    return [f"http://{host}:{port}/secret" for host in hosts]


def test_no_redirect_leads_inside_and_nothing_is_asked_there(
    web_of_one: Server, web_fetcher: Fetcher, private: Server
) -> None:
    for number, target in enumerate(spelled(private.port)):
        page = f"http://mills.example/{number}"
        web_of_one.answers[page] = (302, {"Location": target}, b"")
        with pytest.raises(PageFailure, match="into the local network") as told:
            web_fetcher.page(page)
        assert told.value.way_out
    assert private.asked == []


def test_no_picture_of_a_page_is_asked_for_inside(web_fetcher: Fetcher, private: Server) -> None:
    for address in (*spelled(private.port), "http://router/x.png", "file:///etc/passwd", "data:image/png;base64,AA"):
        with pytest.raises(PageFailure, match="We are sent"):
            web_fetcher.picture(address, "http://mills.example/a")
    assert private.asked == []


def test_what_the_person_typed_may_be_anywhere_and_shows_its_own_pictures_alone(private: Server) -> None:
    other = Server()
    try:
        private.answers["/p.png"] = (200, {"Content-Type": "image/png"}, b"\x89PNG")
        private.answers["/away"] = (302, {"Location": f"http://localhost:{other.port}/"}, b"")
        fetcher = Fetcher()
        assert "A page" in fetcher.page(f"{private.address}/a").html
        assert fetcher.picture(f"{private.address}/p.png", f"{private.address}/a").content == b"\x89PNG"
        with pytest.raises(PageFailure, match="into the local network"):
            fetcher.page(f"{private.address}/away")
        with pytest.raises(PageFailure, match="into the local network"):
            fetcher.page(f"{private.address}/b", by="http://mills.example/leads-there")
        assert other.asked == []
    finally:
        other.close()


@pytest.mark.parametrize(
    "target", ["file:///etc/passwd", "ftp://mills.example/", "javascript:1", "http://", "http://[::1"]
)
def test_a_redirect_stays_on_the_web(web_of_one: Server, web_fetcher: Fetcher, target: str) -> None:
    web_of_one.answers["http://mills.example/"] = (302, {"Location": target}, b"")
    with pytest.raises(PageFailure):
        web_fetcher.page("http://mills.example/")


PACKED: dict[str, Callable[[bytes], bytes]] = {
    "gzip": gzip.compress,
    "deflate": zlib.compress,
    "raw deflate": lambda content: (packer := zlib.compressobj(wbits=-15)).compress(content) + packer.flush(),
    "gzip, gzip": lambda content: gzip.compress(gzip.compress(content)),
    "identity": bytes,
}


@pytest.mark.parametrize("coding", PACKED)
def test_bodies_are_unpacked(private: Server, coding: str) -> None:
    body = PACKED[coding](b"<p>Heron Mill</p>" * 5000)
    private.answers["/a"] = (
        200,
        {"Content-Encoding": coding.removeprefix("raw "), "Content-Length": str(len(body))},
        body,
    )
    assert Fetcher().page(f"{private.address}/a").html.count("Heron Mill") == 5000


@pytest.mark.parametrize("coding", [one for one in PACKED if one != "identity"])
def test_a_bomb_is_not_unpacked_beyond_what_is_taken(
    private: Server, coding: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wily_magpie.core.pages.page.LARGEST_PAGE_BYTES", 1_000_000)
    body = PACKED[coding](bytes(60_000_000))
    private.answers["/a"] = (
        200,
        {"Content-Encoding": coding.removeprefix("raw "), "Content-Length": str(len(body))},
        body,
    )
    with pytest.raises(PageFailure, match="larger than 1 MB"):
        Fetcher().page(f"{private.address}/a")


def test_what_nobody_asked_for_is_not_unpacked(private: Server) -> None:
    for coding, body in (("br", b"\x0b\x00\x80x\x03"), ("gzip, gzip, gzip", b"x"), ("gzip", b"no gzip at all")):
        private.answers["/a"] = (200, {"Content-Encoding": coding, "Content-Length": str(len(body))}, body)
        with pytest.raises(PageFailure, match="without a whole answer"):
            Fetcher().page(f"{private.address}/a")


@given(st.binary(max_size=400_000), st.integers(1, 5000))
def test_pieces_of_any_size_give_the_same_and_none_is_large(content: bytes, size: int) -> None:
    packed = gzip.compress(content)
    pieces = list(inflated(packed[at : at + size] for at in range(0, len(packed), size)))
    assert b"".join(pieces) == content
    assert all(len(piece) <= PIECE_BYTES for piece in pieces)


@pytest.mark.parametrize("part", ["head", "body"])
def test_a_server_that_drips_is_given_up_at_the_deadline(part: str) -> None:
    """A byte now and then keeps every wait short; the whole has a deadline all the same."""
    listening = socket.create_server(("127.0.0.1", 0))
    gone = threading.Event()

    def drip() -> None:
        made, _ = listening.accept()
        with made:
            made.recv(65536)
            head = (
                b"HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n\r\n" if part == "body" else b"HTTP/1.1 200 OK\r\nX: "
            )
            try:
                made.sendall(head)
                while not gone.wait(0.05):
                    made.sendall(b"a")
            except OSError:
                return

    dripping = threading.Thread(target=drip)
    dripping.start()
    try:
        with pytest.raises(PageFailure, match="does not answer"):
            Fetcher(silence_s=5.0, whole_s=0.6).page(f"http://127.0.0.1:{listening.getsockname()[1]}/")
    finally:
        gone.set()
        dripping.join()
        listening.close()


# the gate


@pytest.fixture
def gate(web_of_one: Server) -> Iterator[Gate]:
    opened = Gate(lambda address: web_of_one.address if ".example" in address else None)
    yield opened
    opened.close()


def through(gate: Gate, first: str, headers: str = "", password: str | None = None, more: bytes = b"") -> bytes:
    """What the gate answers to a request, to its end."""
    token = base64.b64encode(f"{USER}:{gate.password if password is None else password}".encode()).decode()
    known = f"Proxy-Authorization: Basic {token}\r\n" if password != "" else ""
    with socket.create_connection(("127.0.0.1", gate.port), timeout=10) as made:
        made.sendall(f"{first} HTTP/1.1\r\nHost: x\r\n{known}{headers}\r\n".encode() + more)
        answer = b""
        while piece := made.recv(65536):
            answer += piece
        return answer


@pytest.mark.parametrize("password", ["", "wrong"])
def test_nobody_else_goes_through_the_gate(gate: Gate, private: Server, password: str) -> None:
    gate.typed.add("127.0.0.1")
    assert b" 407 " in through(gate, f"GET {private.address}/a", password=password).split(b"\r\n")[0]
    assert b" 407 " in through(gate, f"CONNECT 127.0.0.1:{private.port}", password=password).split(b"\r\n")[0]
    assert private.asked == []


def test_the_gate_lets_nothing_inside(gate: Gate, private: Server) -> None:
    for address in spelled(private.port):
        assert b" 403 " in through(gate, f"GET {address}").split(b"\r\n")[0]
        tunnel = address.removeprefix("http://").partition("/")[0]
        assert b" 403 " in through(gate, f"CONNECT {tunnel}").split(b"\r\n")[0]
    assert private.asked == []
    why = gate.why("localhost")
    assert why is not None
    assert why.slug == "local-redirect"


def test_the_gate_connects_to_the_number_that_it_checked(
    gate: Gate, private: Server, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The name leads to the web when it is looked at, and would lead inside if it were asked for once more."""
    asked = resolves_to(monkeypatch, ["8.8.8.8"], ["127.0.0.1"])
    reached: list[str] = []
    usual = socket.socket.connect

    def connect(made: socket.socket, address: tuple[str, int]) -> None:
        if address[1] == gate.port:
            usual(made, address)
            return
        reached.append(address[0])
        raise ConnectionRefusedError(111, "Connection refused")

    monkeypatch.setattr(socket.socket, "connect", connect)
    assert b" 502 " in through(gate, f"GET http://rebind.test.org:{private.port}/secret").split(b"\r\n")[0]
    assert (asked, reached, private.asked) == (["rebind.test.org"], ["8.8.8.8"], [])


def test_what_was_typed_goes_through_and_nothing_behind_it_on_the_same_connection(gate: Gate, private: Server) -> None:
    gate.typed.add("127.0.0.1")
    second = f"GET {private.address}/second HTTP/1.1\r\nHost: x\r\n\r\n".encode()
    answer = through(gate, f"GET {private.address}/first?a=1", "Connection: keep-alive\r\nX-Own: yes\r\n", more=b"")
    assert b"A page." in answer
    assert b"connection: close" in answer.lower()
    through(gate, f"GET {private.address}/third", more=second)
    assert private.asked == ["/first?a=1", "/third"]


def test_a_tunnel_passes_all_on(gate: Gate, private: Server) -> None:
    gate.typed.add("localhost")
    asked = b"GET /through HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n"
    answer = through(gate, f"CONNECT localhost:{private.port}", more=asked)
    assert answer.startswith(b"HTTP/1.1 200")
    assert b"A page." in answer
    assert private.asked == ["/through"]


def test_the_stand_in_web_is_reached_through_it(gate: Gate, web_of_one: Server) -> None:
    assert b"A page." in through(gate, "GET http://mills.example/a")
    assert web_of_one.asked == ["http://mills.example/a"]
    web_of_one.close()
    assert b" 502 " in through(gate, "GET http://mills.example/b").split(b"\r\n")[0]
    why = gate.why("mills.example")
    assert why is not None
    assert why.slug == "refused"


@given(st.binary(max_size=200))
def test_whatever_is_said_to_the_gate_it_goes_on(said: bytes) -> None:
    opened = Gate()
    try:
        with socket.create_connection(("127.0.0.1", opened.port), timeout=10) as made:
            made.sendall(said + b"\r\n\r\n")
            made.shutdown(socket.SHUT_WR)
            while made.recv(65536):
                pass
        assert b" 407 " in through(opened, "GET http://127.0.0.1/", password="").split(b"\r\n")[0]
    finally:
        opened.close()
