"""Lets sign-ins on chosen sites last: their cookies are put into the live page's profile, and told when they change."""

from collections.abc import Callable, Collection

from PyQt6.QtCore import QDateTime, QObject, QUrl
from PyQt6.QtNetwork import QNetworkCookie
from PyQt6.QtWebEngineCore import QWebEngineProfile

from wily_magpie.core.capture.sign_ins import Cookies, site_of
from wily_magpie.qt.style.parts import timer

AFTER_MS = 800
"""How long after a cookie has changed they are told, since they come many at once."""


class SignIns(QObject):
    """Of one profile, which keeps nothing on disk by itself.

    Args:
        told: is handed all cookies of the chosen sites when one of them is another.
    """

    def __init__(self, profile: QWebEngineProfile, told: Callable[[Cookies], None], parent: QObject) -> None:
        super().__init__(parent)
        self.store = profile.cookieStore()
        self.sites: Collection[str] = ()
        self.every: dict[str, QNetworkCookie] = {}
        """All cookies of this start of the program, since a site may be chosen after one has signed in; never on disk."""
        self.told_last: Cookies = {}
        self.tell_all = told
        self.told = timer(self, self.tell)
        if self.store is not None:
            self.store.cookieAdded.connect(self._on_added)
            self.store.cookieRemoved.connect(self._on_removed)

    @property
    def cookies(self) -> dict[str, dict[str, str]]:
        """Those of the chosen sites, as they are written down."""
        out: dict[str, dict[str, str]] = {site: {} for site in self.sites}
        for name, cookie in self.every.items():
            site = site_of(cookie.domain(), self.sites)
            if site:
                out[site][name] = bytes(lasting(cookie).toRawForm().data()).decode("utf-8", "replace")
        return out

    def fill(self, sites: Collection[str], cookies: Cookies) -> None:
        """Says which sites there are, and puts what was kept of them into the profile."""
        self.sites = sites
        for site, held in cookies.items():
            for raw in held.values():
                for cookie in QNetworkCookie.parseCookies(raw.encode()):
                    if name_of(cookie) not in self.every and self.store is not None:
                        self.every[name_of(cookie)] = cookie
                        self.store.setCookie(cookie, QUrl(f"https://{cookie.domain().lstrip('.') or site}/"))
        self.told_last = cookies
        self.told.start(AFTER_MS)

    def tell(self) -> None:
        """Tells the cookies, where they are others than the last time."""
        now = {site: held for site, held in self.cookies.items() if held}
        if now != self.told_last:
            self.told_last = now
            self.tell_all(now)

    def _on_added(self, cookie: QNetworkCookie) -> None:
        self.every[name_of(cookie)] = QNetworkCookie(cookie)
        self.told.start(AFTER_MS)

    def _on_removed(self, cookie: QNetworkCookie) -> None:
        if self.every.pop(name_of(cookie), None) is not None:
            self.told.start(AFTER_MS)


def lasting(cookie: QNetworkCookie) -> QNetworkCookie:
    """A cookie that does not end with the program, since that is what the person wants of its site."""
    if not cookie.isSessionCookie():
        return cookie
    kept = QNetworkCookie(cookie)
    kept.setExpirationDate(QDateTime.currentDateTime().addYears(1))
    return kept


def name_of(cookie: QNetworkCookie) -> str:
    """By what a cookie is told from others of its site."""
    return f"{cookie.domain()} {cookie.path()} {bytes(cookie.name().data()).decode('latin-1')}"
