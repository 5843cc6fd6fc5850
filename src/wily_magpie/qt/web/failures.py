"""What the web engine's failures mean to a person: the same sentences as when we fetch by ourselves."""

from urllib.parse import urlsplit

from PyQt6.QtWebEngineCore import QWebEngineLoadingInfo

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures

# net error codes of Chromium (net/base/net_error_list.h)
TIMED_OUT = {-7, -118}
REFUSED = {-102, -312}  # -312: a port that the engine never speaks the web's language to
NO_HOST = {-105, -137}
REDIRECTS = {-310}
BLOCKED = {-10, -20, -21, -22}
ABORTED = {-3}


def failure_of(info: QWebEngineLoadingInfo, address: str) -> PageFailure | None:
    """The failure of a load; None for one that was merely given up for another."""
    host = urlsplit(address).hostname or address
    domain, code = info.errorDomain(), info.errorCode()
    if domain == QWebEngineLoadingInfo.ErrorDomain.HttpStatusCodeDomain:
        return failures.status_failure(address, code)
    if code in ABORTED:
        return None
    if code in TIMED_OUT:
        return failures.no_answer(host)
    if code in REFUSED:
        return failures.connect_failure(host, "refused")
    if code in NO_HOST:
        return failures.connect_failure(host, "getaddrinfo")
    if code in REDIRECTS:
        return failures.redirect_loop(address)
    if -220 <= code <= -200:
        return failures.connect_failure(host, "certificate")
    if code in BLOCKED:
        return PageFailure(
            "local-redirect", f"{address} leads into the local network.", "If you trust it, type that address yourself."
        )
    return failures.broken_answer(host)
