"""The stand-in web's server: a loopback HTTP proxy that answers for *.example itself.

Everything else is passed on to the real web (RFC 9110, section 3.7: forwarding proxy; CONNECT for https), or refused
where `passes_on` is off, as in tests. Pages of the web are never given a way to this machine by it.
"""

import select
import socket
import threading
import time
from http.client import HTTPConnection, HTTPException
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import urlsplit

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import reach
from wily_magpie.demo.web import StandInPage, page_for

SILENT_S = 600
PASSED_ON_S = 30.0
TUNNEL_IDLE_S = 120
PASSED_ON = ("content-type", "content-length", "location", "cache-control", "etag", "last-modified", "set-cookie")


class StandInWeb:
    """The running stand-in web.

    Attributes:
        proxy: its address, to be set as HTTP proxy.
        log: (method, address) of each request for a page of ours, in order.
    """

    def __init__(self, port: int = 0, *, passes_on: bool = True) -> None:
        self.log: list[tuple[str, str]] = []
        self.stopping = threading.Event()
        web = self

        class Handler(StandInHandler):
            stand_in = web

        Handler.passes_on = passes_on
        self.server = ThreadingHTTPServer(("127.0.0.1", port), Handler)
        self.server.daemon_threads = True
        self.port = int(self.server.server_address[1])
        self.proxy = f"http://127.0.0.1:{self.port}"
        self.thread = threading.Thread(target=self.server.serve_forever, args=(0.1,), name="stand-in web", daemon=True)
        self.thread.start()

    def close(self) -> None:
        """Stops answering."""
        self.stopping.set()
        self.server.shutdown()
        self.server.server_close()


class StandInHandler(BaseHTTPRequestHandler):
    """One connection."""

    stand_in: StandInWeb
    passes_on = True
    protocol_version = "HTTP/1.1"
    disable_nagle_algorithm = True  # else every answer on a kept connection waits 40 ms
    wbufsize = 1 << 16

    def log_message(self, format: str, *args: Any) -> None:  # noqa: A002 - the name is the library's
        """Silent: what was asked for stands in StandInWeb.log."""

    def do_GET(self) -> None:
        self.answer(with_body=True)

    def do_HEAD(self) -> None:
        self.answer(with_body=False)

    def answer(self, *, with_body: bool) -> None:
        parts = urlsplit(self.path)
        host = (parts.hostname or "").casefold()
        if parts.scheme != "http" or not host:
            self.refuse(400, "This is the stand-in web's proxy; set it as HTTP proxy and ask for http://HOST.example/.")
        elif host.endswith(".example"):
            self.stand_in.log.append((self.command, self.path))
            page = page_for(self.path, self.headers.get("Cookie") or "")
            if page is None:
                self.refuse(502, f"There is no host {host} in the stand-in web.")
            else:
                self.send_page(page, with_body=with_body)
        elif self.may_pass(host):
            self.forward(parts.hostname or "", parts.port or 80)
        else:
            self.refuse(502, f"{host} is not reached through here.")

    def may_pass(self, host: str) -> bool:
        return self.passes_on and not reach.is_local(host)

    @staticmethod
    def reached(host: str, port: int) -> socket.socket:
        """A connection to the real web."""
        return reach.connect(host, port, (), time.monotonic() + PASSED_ON_S)

    def refuse(self, status: int, text: str) -> None:
        self.send_page(StandInPage(text.encode(), "text/plain; charset=utf-8", status), with_body=True)

    def send_page(self, page: StandInPage, *, with_body: bool) -> None:
        if page.is_silent:
            self.stand_in.stopping.wait(SILENT_S)
            self.close_connection = True
            return
        if page.breaks_off:
            self.close_connection = True
            self.connection.shutdown(socket.SHUT_RDWR)
            return
        if page.delay_s:
            time.sleep(page.delay_s)
        self.send_response(page.status)
        if page.location:
            self.send_header("Location", page.location)
        if page.cookie:
            self.send_header("Set-Cookie", page.cookie)
        if page.media_type:
            self.send_header("Content-Type", page.media_type)
        self.send_header("Content-Length", str(len(page.content)))
        self.end_headers()
        if with_body:
            self.wfile.write(page.content)

    def forward(self, host: str, port: int) -> None:
        """A plain http request of the real web, passed on as it came."""
        parts = urlsplit(self.path)
        target = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        skipped = ("proxy-connection", "connection", "proxy-authorization", "accept-encoding")
        headers = {name: value for name, value in self.headers.items() if name.casefold() not in skipped}
        connection = HTTPConnection(host, port, timeout=PASSED_ON_S)
        try:
            connection.sock = self.reached(host, port)
            connection.request(self.command, target, headers=headers)
            response = connection.getresponse()
            body = response.read()
        except (OSError, HTTPException, PageFailure) as error:
            self.refuse(502, f"{host} cannot be reached: {error}")
            return
        finally:
            connection.close()
        self.send_response(response.status)
        for name, value in response.getheaders():
            if name.casefold() in PASSED_ON and name.casefold() != "content-length":
                self.send_header(name, value)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def do_CONNECT(self) -> None:
        """A tunnel for https of the real web; the stand-in web itself speaks plain http."""
        host, _, port = self.path.rpartition(":")
        if host.casefold().endswith(".example") or not self.may_pass(host) or not port.isdigit():
            self.refuse(502, f"{host} is not reached through here.")
            return
        try:
            other = self.reached(host, int(port))
        except (OSError, PageFailure) as error:
            self.refuse(502, f"{host} cannot be reached: {error}")
            return
        with other:
            self.send_response(200, "Connection established")
            self.end_headers()
            self.wfile.flush()
            self.pump(self.connection, other)
        self.close_connection = True

    def pump(self, one: socket.socket, other: socket.socket) -> None:
        while not self.stand_in.stopping.is_set():
            ready, _, _ = select.select([one, other], [], [], TUNNEL_IDLE_S)
            if not ready:
                return
            for end in ready:
                piece = end.recv(65536)
                if not piece:
                    return
                (other if end is one else one).sendall(piece)
