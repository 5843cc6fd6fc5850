"""Pages and pictures had by HTTP, bounded in size, time and redirects, never from the local network unasked."""

import time
import zlib
from collections.abc import Callable, Collection, Iterable, Iterator
from typing import TYPE_CHECKING
from urllib.parse import unquote, urljoin, urlsplit

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import PageFailure

if TYPE_CHECKING:
    import httpcore

    from wily_magpie.core.pages.page import Page

LARGEST_PICTURE_BYTES = 12_000_000
MOST_REDIRECTS = 10
MOST_CODINGS = 2
"""A body may be compressed, and what that gives once more."""
PIECE_BYTES = 65_536
SILENCE_S = 15.0
WHOLE_S = 60.0
"""An answer must be there as a whole by then, its head and what it redirects to included."""
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
        silence_s: how long a server may say nothing; whole_s: how long an answer may take.
    """

    def __init__(
        self,
        proxy_for: Callable[[str], str | None] = lambda _: None,
        silence_s: float = SILENCE_S,
        whole_s: float = WHOLE_S,
    ) -> None:
        self.proxy_for = proxy_for
        self.silence_s, self.whole_s = silence_s, whole_s

    def page(self, address: str, cancelled: Callable[[], bool] = lambda: False, *, by: str = "") -> "Page":
        """The page of an address.

        Args:
            by: the address of the page that leads there; "" where the person typed it, who may go anywhere.

        Raises:
            PageFailure: with a slug for each way in which it can fail, and a sentence with a way out.
        """
        from wily_magpie.core.pages.page import LARGEST_PAGE_BYTES  # nothing is fetched at start

        typed = {host_in(by or address)}
        answer = self.get(address, LARGEST_PAGE_BYTES, "text/html,application/xhtml+xml,*/*;q=0.5", cancelled, typed)
        from wily_magpie.core.pages.apart import page_of
        from wily_magpie.core.pages.files.recognise import Given, name_of

        name = name_of(answer.address)
        given = Given(answer.content, answer.media_type, answer.charset, name, answer.address, "fetched", address)
        page = page_of(given)
        if page is None:
            from wily_magpie.core.network import failures

            raise failures.not_a_page(address, answer.media_type or "a file of an unknown kind")
        return page

    def picture(self, address: str, page: str, cancelled: Callable[[], bool] = lambda: False) -> Answer:
        """A picture's bytes.

        Args:
            page: the address of the page that shows it; one of the web may show none of the local network.

        Raises:
            PageFailure: as for pages, or because it is no picture.
        """
        answer = self.get(address, LARGEST_PICTURE_BYTES, "image/*", cancelled, {host_in(page)})
        if not answer.media_type.startswith("image/"):
            raise PageFailure("not-a-picture", f"{address} is not a picture but {answer.media_type or 'unnamed'}.")
        return answer

    def get(
        self, address: str, most_bytes: int, accept: str, cancelled: Callable[[], bool], typed: Collection[str]
    ) -> Answer:
        """Follows redirects one by one, so that each is held against the rules.

        Args:
            typed: hosts that may be anywhere.
        """
        from wily_magpie.core.network import failures

        first, seen = address, {address}
        deadline = time.monotonic() + self.whole_s
        for _ in range(MOST_REDIRECTS + 1):
            answer = Exchange(self, address, typed, deadline, cancelled).answer(accept, most_bytes)
            if isinstance(answer, Answer):
                return answer
            address = answer
            if address in seen:
                break
            seen.add(address)
        raise failures.redirect_loop(first)


class Exchange:
    """One question to one server.

    Args:
        typed: hosts that may be anywhere.
        deadline: of time.monotonic().
    """

    def __init__(
        self, fetcher: Fetcher, address: str, typed: Collection[str], deadline: float, cancelled: Callable[[], bool]
    ) -> None:
        self.fetcher, self.address, self.typed = fetcher, address, typed
        self.deadline, self.cancelled = deadline, cancelled
        self.host = host_in(address) or address[:200]

    def answer(self, accept: str, most_bytes: int) -> Answer | str:
        """The answer, or the address to which it redirects.

        Raises:
            PageFailure: for whatever reason there is none.
        """
        import httpcore  # takes long to load; nothing is fetched at start

        from wily_magpie.core.network import failures, reach, transport

        url = transport.url_of(self.address)
        headers = {
            "User-Agent": AGENT, "Accept": accept, "Accept-Language": "en,*;q=0.5", "Accept-Encoding": "gzip, deflate",
        }  # fmt: skip
        silence = self.fetcher.silence_s
        waits = {"connect": min(reach.CONNECT_S, silence), "read": silence, "write": silence, "pool": silence}
        try:
            with (
                self.pool() as pool,
                pool.stream("GET", url, headers=list(headers.items()), extensions={"timeout": waits}) as response,
            ):
                return self.taken(response, most_bytes)
        except httpcore.TimeoutException as error:
            raise failures.no_answer(self.host) from error
        except httpcore.ConnectError as error:
            raise failures.connect_failure(self.host, str(error)) from error
        except (httpcore.NetworkError, httpcore.ProtocolError, httpcore.ProxyError, zlib.error, ValueError) as error:
            raise failures.broken_answer(self.host) from error

    def pool(self) -> "httpcore.ConnectionPool":
        """The way to the server: the stand-in web's, the system's own proxy, or straight."""
        import httpcore

        from wily_magpie.core.network import reach, transport

        def backend(typed: Collection[str]) -> transport.CheckedBackend:
            return transport.CheckedBackend(typed, self.deadline, self.cancelled)

        proxy = self.fetcher.proxy_for(self.address)
        if proxy is None and (proxy := transport.system_proxy(self.address)) is not None:
            parts = urlsplit(self.address)
            reach.check_name(self.host, parts.port or 443, self.typed)
        if proxy is None:
            return httpcore.ConnectionPool(transport.trusted(), network_backend=backend(self.typed))
        parts = urlsplit(proxy)
        auth = (unquote(parts.username), unquote(parts.password or "")) if parts.username else None
        return httpcore.HTTPProxy(
            f"{parts.scheme}://{parts.hostname}:{parts.port or 80}",
            proxy_auth=auth,
            ssl_context=transport.trusted(),
            network_backend=backend({(parts.hostname or "").casefold()}),
        )

    def taken(self, response: "httpcore.Response", most_bytes: int) -> Answer | str:
        """What a response holds."""
        from wily_magpie.core.network import failures

        headers = {name.decode("latin-1").casefold(): text_of(value) for name, value in response.headers}
        if response.status in (301, 302, 303, 307, 308) and "location" in headers:
            return urljoin(self.address, headers["location"].strip())
        if response.status >= 400:
            failure = failures.status_failure(self.address, response.status)
            failure.retry_after_s = failures.patience_of(headers.get("retry-after", ""))
            raise failure
        told_size = headers.get("content-length", "")
        if told_size.isdigit() and int(told_size) > most_bytes:
            raise failures.too_large(self.address, most_bytes)
        content = self.body_of(response.iter_stream(), headers.get("content-encoding", ""), most_bytes)
        media_type, _, parameters = headers.get("content-type", "").partition(";")
        charset = parameters.partition("charset=")[2].strip(" \"'").partition(";")[0]
        return Answer(self.address, content, media_type.strip().casefold(), charset)

    def body_of(self, pieces: Iterable[bytes], codings: str, most_bytes: int) -> bytes:
        """A body, as far as it may go, decompressed piece by piece.

        Raises:
            PageFailure: it is too large, takes too long, was cancelled, or is compressed in a way that nobody asked for.
        """
        from wily_magpie.core.network import failures

        names = [name for one in codings.split(",") if (name := one.strip().casefold()) not in ("", "identity")]
        if len(names) > MOST_CODINGS or not set(names) <= {"gzip", "x-gzip", "deflate"}:
            raise failures.broken_answer(self.host)
        for _ in names:
            pieces = self.bounded(inflated(pieces), most_bytes)
        return b"".join(self.bounded(pieces, most_bytes))

    def bounded(self, pieces: Iterable[bytes], most_bytes: int) -> Iterator[bytes]:
        """Pieces, as long as they are not too many, nor too late."""
        from wily_magpie.core.network import failures

        size = 0
        for piece in pieces:
            size += len(piece)
            if size > most_bytes:
                raise failures.too_large(self.address, most_bytes)
            if self.cancelled():
                raise PageFailure("cancelled", f"Fetching {self.address} was cancelled.")
            if time.monotonic() > self.deadline:
                raise failures.no_answer(self.host)
            yield piece


def inflated(pieces: Iterable[bytes]) -> Iterator[bytes]:
    """What gzip or deflate packed (RFC 1952, 1950, 1951), in pieces of bounded size."""
    unpacked = zlib.decompressobj(zlib.MAX_WBITS | 32)
    is_first = True
    for piece in pieces:
        data = piece
        while data:
            try:
                out = unpacked.decompress(data, PIECE_BYTES)
            except zlib.error:
                if not is_first:
                    raise
                unpacked = zlib.decompressobj(-zlib.MAX_WBITS)  # deflate without a head, as some servers send it
                out = unpacked.decompress(data, PIECE_BYTES)
            is_first = False
            yield out
            data = unpacked.unconsumed_tail
            if unpacked.eof and unpacked.unused_data:
                data, unpacked = unpacked.unused_data, zlib.decompressobj(zlib.MAX_WBITS | 32)
    yield unpacked.flush(PIECE_BYTES)


def text_of(value: bytes) -> str:
    """The text of a header."""
    try:
        return value.decode()
    except UnicodeDecodeError:
        return value.decode("latin-1")


def host_in(address: str) -> str:
    """The host of an address; "" where it has none."""
    try:
        return (urlsplit(address).hostname or "").casefold()
    except ValueError:
        return ""
