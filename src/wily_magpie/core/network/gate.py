"""The gate: a proxy on loopback through which all that the web engine asks for goes (RFC 9110, 9.3.6 and 7.6).

It resolves names itself, holds the numbers against the rule of `reach.py`, and connects to what it has checked: pages,
their parts, workers, WebSockets and what the engine does ahead of time alike. Nobody else may use it: it has a random port
and wants a password.
"""

import base64
import hmac
import secrets
import selectors
import socket
import threading
import time
from collections.abc import Callable
from urllib.parse import urlsplit

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures, reach
from wily_magpie.core.network.transport import system_proxy

USER = "magpie"
LARGEST_HEAD = 262_144
HEAD_S = 30.0
IDLE_S = 300.0
MOST_REMEMBERED = 500
PIECE_BYTES = 65_536
HOP_BY_HOP = ("proxy-connection", "proxy-authorization", "connection", "keep-alive")
ASKS_FOR_PASSWORD = (
    b'HTTP/1.1 407 Proxy Authentication Required\r\nProxy-Authenticate: Basic realm="gate"\r\n'
    b"Content-Length: 0\r\nConnection: close\r\n\r\n"
)


class Gate:
    """The running gate. May be used from any thread.

    Attributes:
        proxy_for: another proxy through which an address is reached: the stand-in web's; None: straight.
        typed: hosts that the person typed, which may be anywhere.
        password: what it asks for.
    """

    def __init__(self, proxy_for: Callable[[str], str | None] = lambda _: None) -> None:
        self.proxy_for = proxy_for
        self.typed: set[str] = set()
        self.password = secrets.token_urlsafe(24)
        self.reasons: dict[str, PageFailure] = {}
        self.server = socket.create_server(("127.0.0.1", 0), backlog=128)
        self.port = int(self.server.getsockname()[1])
        threading.Thread(target=self.serve, name="gate", daemon=True).start()

    @property
    def address(self) -> str:
        """Where it is, without the password."""
        return f"http://127.0.0.1:{self.port}"

    def why(self, host: str) -> PageFailure | None:
        """Why a host could not be reached, when it was asked for last; None where it could."""
        return self.reasons.get(host.casefold())

    def close(self) -> None:
        """Lets nothing more through."""
        self.server.close()

    def serve(self) -> None:
        """Takes connections, each on a thread of its own."""
        while True:
            try:
                asking, _ = self.server.accept()
            except OSError:
                return
            threading.Thread(target=self.take, args=(asking,), name="gate", daemon=True).start()

    def take(self, asking: socket.socket) -> None:
        """One connection, to its end."""
        with asking:
            try:
                asking.settimeout(HEAD_S)
                asking.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                self.answer(asking, read_head(asking))
            except (OSError, ValueError):
                return  # it went away, or speaks no HTTP

    def answer(self, asking: socket.socket, asked: "Head") -> None:
        """Lets one request through, or says why not."""
        if not self.is_known(asked):
            asking.sendall(ASKS_FOR_PASSWORD)
            return
        is_tunnel = asked.method == "CONNECT"
        address = f"https://{asked.target}/" if is_tunnel else asked.target
        parts = urlsplit(address)
        host, port = parts.hostname or "", parts.port or (443 if is_tunnel else 80)
        try:
            if not host or (not is_tunnel and parts.scheme != "http"):
                raise failures.no_address(address)
            made, is_proxied = self.connected(address, host, port)
        except PageFailure as failure:
            self.remember(host, failure)
            asking.sendall(refusal(failure))
            return
        self.reasons.pop(host.casefold(), None)
        with made:
            if is_tunnel and not is_proxied:
                asking.sendall(b"HTTP/1.1 200 Connection established\r\n\r\n")
                made.sendall(asked.rest)
            else:
                made.sendall(asked.passed_on(is_proxied=is_proxied) + asked.rest)
                if not is_tunnel:
                    asking.sendall(ending(read_head(made)))
            pump(asking, made)

    def connected(self, address: str, host: str, port: int) -> tuple[socket.socket, bool]:
        """A connection to a host, or to the proxy through which it is reached; whether it is that."""
        deadline = time.monotonic() + reach.CONNECT_S * 2
        proxy = self.proxy_for(address)
        if proxy is None and (proxy := system_proxy(address)) is not None:
            reach.check_name(host, port, self.typed)
        if proxy is None:
            return reach.connect(host, port, self.typed, deadline), False
        parts = urlsplit(proxy)
        name = (parts.hostname or "").casefold()
        return reach.connect(name, parts.port or 80, {name}, deadline), True

    def is_known(self, asked: "Head") -> bool:
        """Whether a request has the password."""
        kind, _, given = asked.header("proxy-authorization").partition(" ")
        wanted = base64.b64encode(f"{USER}:{self.password}".encode())
        return kind.casefold() == "basic" and hmac.compare_digest(given.strip().encode(), wanted)

    def remember(self, host: str, failure: PageFailure) -> None:
        """Why a host could not be reached."""
        if len(self.reasons) > MOST_REMEMBERED:
            self.reasons.clear()
        self.reasons[host.casefold()] = failure


@dataclass(frozen=True)
class Head:
    """The head of a request or of an answer.

    Attributes:
        first: its first line; rest: what came behind it.
    """

    first: str
    headers: tuple[tuple[str, str], ...]
    rest: bytes

    @property
    def method(self) -> str:
        """Of a request."""
        return self.first.split(" ", 1)[0].upper()

    @property
    def target(self) -> str:
        """Of a request."""
        return self.first.split(" ")[1]

    def header(self, name: str) -> str:
        """The first of that name; "" where there is none."""
        return next((value for key, value in self.headers if key.casefold() == name), "")

    def passed_on(self, *, is_proxied: bool) -> bytes:
        """As it is sent on: one request a connection, and no word of ours in it."""
        first = self.first
        if not is_proxied:
            parts = urlsplit(self.target)
            path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
            first = f"{self.method} {path} HTTP/1.1"
        kept = [f"{key}: {value}" for key, value in self.headers if key.casefold() not in HOP_BY_HOP]
        ended = [] if self.method == "CONNECT" else ["Connection: close"]
        return "\r\n".join([first, *kept, *ended, "", ""]).encode("latin-1")


def read_head(made: socket.socket) -> Head:
    """The head that comes next.

    Raises:
        ValueError: it is none, or has no end.
    """
    taken = b""
    while b"\r\n\r\n" not in taken:
        piece = made.recv(PIECE_BYTES)
        taken += piece
        if not piece or len(taken) > LARGEST_HEAD:
            raise ValueError("no head")
    head, _, rest = taken.partition(b"\r\n\r\n")
    first, *lines = head.decode("latin-1").split("\r\n")
    if len(first.split(" ")) < 2:
        raise ValueError("no first line")
    pairs = [line.partition(":") for line in lines]
    return Head(first, tuple((key.strip(), value.strip()) for key, _, value in pairs), rest)


def ending(answered: Head) -> bytes:
    """An answer's head, after which the connection ends: the next request may be for another host."""
    kept = [f"{key}: {value}" for key, value in answered.headers if key.casefold() not in HOP_BY_HOP]
    return "\r\n".join([answered.first, *kept, "Connection: close", "", ""]).encode("latin-1") + answered.rest


def refusal(failure: PageFailure) -> bytes:
    """What is answered where nothing is let through."""
    status = "403 Forbidden" if failure.slug == "local-redirect" else "502 Bad Gateway"
    return f"HTTP/1.1 {status}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n".encode()


def pump(one: socket.socket, other: socket.socket) -> None:
    """Passes all on, both ways, until one end is closed or nothing came for long."""
    other.settimeout(HEAD_S)
    with selectors.DefaultSelector() as ready:
        ready.register(one, selectors.EVENT_READ, other)
        ready.register(other, selectors.EVENT_READ, one)
        while found := ready.select(IDLE_S):
            for key, _ in found:
                piece = key.fileobj.recv(PIECE_BYTES)  # type: ignore[union-attr]  # they are sockets
                if not piece:
                    return
                key.data.sendall(piece)
