"""Pages and pictures had by HTTP, bounded in size, time and redirects, never from the local network unasked."""

import time
from collections.abc import Callable
from typing import TYPE_CHECKING
from urllib.parse import urljoin, urlsplit

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import PageFailure
from wily_magpie.core.pages import failures
from wily_magpie.core.pages.address import is_local

if TYPE_CHECKING:
    import httpx

    from wily_magpie.core.pages.page import Page

LARGEST_PICTURE_BYTES = 12_000_000
MOST_REDIRECTS = 10
CONNECT_S = 10.0
SILENCE_S = 15.0
WHOLE_S = 60.0
AGENT = "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) WilyMagpie/0.1"


@dataclass(frozen=True)
class Answer:
    """What a server answered in the end."""

    address: str
    content: bytes
    media_type: str
    charset: str


class Fetcher:
    """Gets pages. May be used from any thread.

    Args:
        proxy_for: the proxy through which an address is reached, None for the system's own way.
        silence_s: how long a server may say nothing.
    """

    def __init__(self, proxy_for: Callable[[str], str | None] = lambda _: None, silence_s: float = SILENCE_S) -> None:
        self.proxy_for = proxy_for
        self.silence_s = silence_s

    def page(self, address: str, cancelled: Callable[[], bool] = lambda: False) -> "Page":
        """The page of an address.

        Raises:
            PageFailure: with a slug for each way in which it can fail, and a sentence with a way out.
        """
        from wily_magpie.core.pages.page import LARGEST_PAGE_BYTES  # nothing is fetched at start

        answer = self.get(address, LARGEST_PAGE_BYTES, "text/html,application/xhtml+xml,*/*;q=0.5", cancelled)
        from wily_magpie.core.pages.files.recognise import Given, name_of, page_of

        name = name_of(answer.address)
        given = Given(answer.content, answer.media_type, answer.charset, name, answer.address, "fetched", address)
        page = page_of(given)
        if page is None:
            raise failures.not_a_page(address, answer.media_type or "a file of an unknown kind")
        return page

    def picture(self, address: str, page: str, cancelled: Callable[[], bool] = lambda: False) -> Answer:
        """A picture's bytes.

        Args:
            page: the address of the page that shows it; one of the web may show none of the local network.

        Raises:
            PageFailure: as for pages, or because it is no picture.
        """
        check_redirect(page, address, proxied=self.proxy_for(address) is not None)
        answer = self.get(address, LARGEST_PICTURE_BYTES, "image/*", cancelled)
        if not answer.media_type.startswith("image/"):
            raise PageFailure("not-a-picture", f"{address} is not a picture but {answer.media_type or 'unnamed'}.")
        return answer

    def get(self, address: str, most_bytes: int, accept: str, cancelled: Callable[[], bool]) -> Answer:
        """Follows redirects one by one, so that each is held against the rules."""
        first = address
        seen = {address}
        deadline = time.monotonic() + WHOLE_S
        for _ in range(MOST_REDIRECTS + 1):
            if address != first:
                check_redirect(first, address, proxied=self.proxy_for(address) is not None)
            answer = self.get_once(address, most_bytes, accept, cancelled, deadline)
            if isinstance(answer, Answer):
                return answer
            address = answer
            if address in seen:
                break
            seen.add(address)
        raise failures.redirect_loop(first)

    def get_once(
        self, address: str, most_bytes: int, accept: str, cancelled: Callable[[], bool], deadline: float
    ) -> Answer | str:
        """An answer, or the address to which it redirects."""
        import httpx  # takes as long as the whole window; nothing is fetched at start

        timeout = httpx.Timeout(self.silence_s, connect=min(CONNECT_S, self.silence_s))
        host = urlsplit(address).hostname or address
        headers = {"User-Agent": AGENT, "Accept": accept, "Accept-Language": "en,*;q=0.5"}
        try:
            with (
                httpx.Client(proxy=self.proxy_for(address), timeout=timeout, headers=headers) as client,
                client.stream("GET", address) as response,
            ):
                if response.is_redirect and "location" in response.headers:
                    return urljoin(address, response.headers["location"])
                if response.status_code >= 400:
                    raise failures.status_failure(address, response.status_code)
                content = body_of(response, address, most_bytes, cancelled, deadline)
                media_type, _, parameters = response.headers.get("content-type", "").partition(";")
                charset = parameters.partition("charset=")[2].strip(" \"'").partition(";")[0]
                return Answer(address, content, media_type.strip().casefold(), charset)
        except httpx.TimeoutException as error:
            raise failures.no_answer(host) from error
        except httpx.ConnectError as error:
            raise failures.connect_failure(host, str(error)) from error
        except httpx.UnsupportedProtocol as error:
            raise PageFailure(
                "bad-redirect", f"{host} sends us to {address[:200]}, which is not of the web."
            ) from error
        except (httpx.HTTPError, httpx.InvalidURL, ValueError) as error:
            raise failures.broken_answer(host) from error


def body_of(
    response: "httpx.Response", address: str, most_bytes: int, cancelled: Callable[[], bool], deadline: float
) -> bytes:
    """The content of an answer, as far as it may go.

    Raises:
        PageFailure: it is too large, takes too long, or was cancelled.
    """
    told_size = response.headers.get("content-length", "")
    if told_size.isdigit() and int(told_size) > most_bytes:
        raise failures.too_large(address, most_bytes)
    content = bytearray()
    for piece in response.iter_bytes():
        content += piece
        if len(content) > most_bytes:
            raise failures.too_large(address, most_bytes)
        if cancelled():
            raise PageFailure("cancelled", f"Fetching {address} was cancelled.")
        if time.monotonic() > deadline:
            raise failures.no_answer(urlsplit(address).hostname or address)
    return bytes(content)


def check_redirect(first: str, address: str, *, proxied: bool) -> None:
    """A page of the web may not send us into the local network.

    Raises:
        PageFailure: it tries to.
    """
    try:
        parts = urlsplit(address)
        host, from_host = parts.hostname or "", urlsplit(first).hostname or ""
    except ValueError:
        host, from_host, parts = "", "", urlsplit("")
    if parts.scheme not in ("http", "https") or not host:
        raise PageFailure("bad-redirect", f"{first} sends us to {address[:200]!r}, which is no page of the web.")
    if is_local(from_host) or proxied:
        return
    if is_local(host) or any(is_local(number) for number in numbers_of(host)):
        raise PageFailure(
            "local-redirect",
            f"{first} sends us into the local network, to {host}.",
            "If you trust it, type that address yourself.",
        )


def numbers_of(host: str) -> list[str]:
    """The IP numbers of a host; none where it is unknown."""
    import socket  # nothing is fetched at start

    try:
        return [str(info[4][0]).partition("%")[0] for info in socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)]
    except (OSError, UnicodeError):
        return []
