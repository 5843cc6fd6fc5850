"""Why a page could not be had, as sentences with a way out: the same whoever asked for it."""

import time
from urllib.parse import urlsplit

from wily_magpie.core.errors import PageFailure


def patience_of(header: str) -> float:
    """How many seconds a server asks for (RFC 9110, Retry-After: seconds, or a moment); 0 where it says nothing."""
    if header.strip().isdigit():
        return float(header.strip()[:6])
    from email.utils import parsedate_to_datetime  # seldom asked for, and not at a start

    try:
        moment = parsedate_to_datetime(header)
    except (TypeError, ValueError):
        return 0.0
    return max(0.0, moment.timestamp() - time.time())


def status_failure(address: str, status: int) -> PageFailure:
    """What an HTTP status above 399 means to a person."""
    match status:
        case 404 | 410:
            return PageFailure(
                "page-missing",
                f"There is no page at {address} (the server answered {status}).",
                "Check the address, or look for the title in the site's own search.",
            )
        case 401 | 403 | 407 | 451:
            return PageFailure(
                "page-forbidden",
                f"{address} is not open to us (the server answered {status}).",
                "Open it in your browser, where you are signed in.",
            )
        case 502 if (urlsplit(address).hostname or "").endswith(".example"):
            host = urlsplit(address).hostname
            return PageFailure(
                "no-host",
                f"There is no host {host} in the stand-in web.",
                "Its pages are listed by: wily-magpie demo-web --list",
            )
        case 429 | 503:
            return PageFailure(
                "server-busy", f"The server of {address} is busy (it answered {status}).", "Try again in a while."
            )
        case _:
            return PageFailure(
                "server-failed", f"The server of {address} failed (it answered {status}).", "Try again in a while."
            )


def no_answer(host: str) -> PageFailure:
    """A server that says nothing."""
    return PageFailure("no-answer", f"{host} does not answer.", "Try again, or keep only the address for later.")


def connect_failure(host: str, reason: str) -> PageFailure:
    """A connection that did not come about, by the system's own reason."""
    low = reason.casefold()
    if "refused" in low:
        return PageFailure("refused", f"{host} refuses the connection.", "Check the address and its port.")
    if any(
        word in low for word in ("name or service", "nodename", "no address", "resolution", "getaddrinfo", "not known")
    ):
        return PageFailure("no-host", f"There is no host {host}.", "Check the spelling and your network.")
    if "certificate" in low or "ssl" in low:
        return PageFailure(
            "bad-certificate",
            f"{host} cannot prove that it is {host} (its certificate is not valid).",
            "Do not give it anything secret; if it is your own network, see its notes on certificates.",
        )
    return PageFailure("no-connection", f"{host} cannot be reached.", "Check your network and try again.")


def too_large(address: str, most_bytes: int) -> PageFailure:
    """More than we take."""
    return PageFailure(
        "too-large",
        f"{address} is larger than {most_bytes // 1_000_000} MB.",
        "Keep only the address, or save it by hand.",
    )


def redirect_loop(address: str) -> PageFailure:
    """A page that leads back to itself."""
    return PageFailure(
        "redirect-loop", f"{address} sends us round in a circle.", "Try the address without what stands behind ? or #."
    )


def broken_answer(host: str) -> PageFailure:
    """A connection that ended in the middle."""
    return PageFailure(
        "broken-answer", f"{host} closed the connection without a whole answer.", "Try again, or open it in a browser."
    )


def not_a_page(address: str, media_type: str) -> PageFailure:
    """Something that can neither be read as a page nor as a file of a kind that we know."""
    return PageFailure(
        "not-a-page", f"{address} is not a web page but {media_type}.", "Keep its address, and save the file by hand."
    )


def into_the_local_network(host: str) -> PageFailure:
    """A host of this machine or the local network that nobody typed."""
    return PageFailure(
        "local-redirect",
        f"We are sent into the local network, to {host[:200]}.",
        "If you trust it, type that address yourself.",
    )


def no_address(address: str) -> PageFailure:
    """What is no address of the web."""
    return PageFailure("bad-redirect", f"We are sent to {address[:200]!r}, which is no page of the web.")
