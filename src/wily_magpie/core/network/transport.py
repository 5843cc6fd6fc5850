"""HTTP over connections that were checked, with one deadline for all of an answer, its head included."""

import os
import socket
import ssl
import time
import urllib.request
from collections.abc import Callable, Collection, Iterable
from functools import cache
from typing import Any
from urllib.parse import quote, urlsplit

import certifi
import httpcore
import idna

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures, reach

KEPT = "!#$%&'()*+,-./:;=?@[]_~"
"""What stands in an address as it is."""


@cache
def trusted() -> ssl.SSLContext:
    """The authorities whose certificates are believed: Mozilla's, or those of SSL_CERT_FILE; read once."""
    return ssl.create_default_context(cafile=os.environ.get("SSL_CERT_FILE") or certifi.where())


class Wire(httpcore.NetworkStream):
    """One connection; nothing on it takes longer than to the deadline."""

    def __init__(self, made: socket.socket, deadline: float, is_cancelled: Callable[[], bool]) -> None:
        self.socket, self.deadline, self.is_cancelled = made, deadline, is_cancelled

    def seconds(self, timeout: float | None) -> float:
        """How long may be waited now."""
        if self.is_cancelled():
            raise PageFailure("cancelled", "Fetching was cancelled.")
        left = self.deadline - time.monotonic()
        if left <= 0:
            raise httpcore.ReadTimeout("the deadline is over")
        return left if timeout is None else min(left, timeout)

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        self.socket.settimeout(self.seconds(timeout))
        try:
            return self.socket.recv(max_bytes)
        except TimeoutError as error:
            raise httpcore.ReadTimeout(str(error)) from error
        except OSError as error:
            raise httpcore.ReadError(str(error)) from error

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self.socket.settimeout(self.seconds(timeout))
        try:
            self.socket.sendall(buffer)
        except TimeoutError as error:
            raise httpcore.WriteTimeout(str(error)) from error
        except OSError as error:
            raise httpcore.WriteError(str(error)) from error

    def close(self) -> None:
        self.socket.close()

    def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> "Wire":
        self.socket.settimeout(self.seconds(timeout))
        try:
            return Wire(
                ssl_context.wrap_socket(self.socket, server_hostname=server_hostname), self.deadline, self.is_cancelled
            )
        except TimeoutError as error:
            raise httpcore.ConnectTimeout(str(error)) from error
        except OSError as error:  # ssl.SSLError is one
            self.socket.close()
            raise httpcore.ConnectError(f"ssl: {error}") from error

    def get_extra_info(self, info: str) -> Any:
        return self.socket if info == "ssl_object" and isinstance(self.socket, ssl.SSLSocket) else None


class CheckedBackend(httpcore.NetworkBackend):
    """Connects where it may.

    Args:
        typed: hosts that the person typed, and those of proxies.
        deadline: of time.monotonic().
    """

    def __init__(self, typed: Collection[str], deadline: float, is_cancelled: Callable[[], bool]) -> None:
        self.typed, self.deadline, self.is_cancelled = typed, deadline, is_cancelled

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[Any] | None = None,
    ) -> Wire:
        wanted = self.deadline if timeout is None else min(self.deadline, time.monotonic() + timeout)
        return Wire(reach.connect(host, port, self.typed, wanted), self.deadline, self.is_cancelled)

    def connect_unix_socket(
        self, path: str, timeout: float | None = None, socket_options: Iterable[Any] | None = None
    ) -> Wire:
        raise httpcore.UnsupportedProtocol("no sockets of this machine")


def url_of(address: str) -> httpcore.URL:
    """An address as it is sent.

    Raises:
        PageFailure: it cannot be.
    """
    try:
        parts = urlsplit(address)
        host, port = parts.hostname or "", parts.port
        sent = host if host.isascii() else idna.encode(host, uts46=True).decode()
    except (ValueError, idna.IDNAError) as error:
        raise failures.no_address(address) from error
    if parts.scheme not in ("http", "https") or not sent:
        raise failures.no_address(address)
    target = quote(parts.path or "/", safe=KEPT) + (f"?{quote(parts.query, safe=KEPT)}" if parts.query else "")
    return httpcore.URL(scheme=parts.scheme.encode(), host=sent.encode(), port=port, target=target.encode())


def system_proxy(address: str) -> str | None:
    """The proxy that the system has for an address (http_proxy, https_proxy, no_proxy); None where it has none."""
    parts = urlsplit(address)
    known = urllib.request.getproxies()
    found = known.get(parts.scheme) or known.get("all")
    if not found or not found.startswith("http") or urllib.request.proxy_bypass(parts.hostname or ""):
        return None
    return found
