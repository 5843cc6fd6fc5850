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
        self.cookies: dict[str, dict[str, str]] = {}
        self.told = timer(self, lambda: told(self.cookies))
        if self.store is not None:
            self.store.cookieAdded.connect(self._on_added)
            self.store.cookieRemoved.connect(self._on_removed)

    def fill(self, sites: Collection[str], cookies: Cookies) -> None:
        """Says which sites there are, and puts what was kept of them into the profile."""
        self.sites = sites
        self.cookies = {site: {**cookies.get(site, {}), **self.cookies.get(site, {})} for site in sites}
        for site, held in cookies.items():
            for raw in held.values():
                for cookie in QNetworkCookie.parseCookies(raw.encode()):
                    domain = cookie.domain().lstrip(".") or site
                    if self.store is not None:
                        self.store.setCookie(cookie, QUrl(f"https://{domain}/"))
        if self.store is not None:
            self.store.loadAllCookies()  # those that the profile has already are told, too

    def _on_added(self, cookie: QNetworkCookie) -> None:
        site = site_of(cookie.domain(), self.sites)
        if site:
            if cookie.isSessionCookie():  # it would end with the program, which is not what the person wants
                cookie = QNetworkCookie(cookie)
                cookie.setExpirationDate(QDateTime.currentDateTime().addYears(1))
            raw = bytes(cookie.toRawForm().data()).decode("utf-8", "replace")
            if self.cookies.setdefault(site, {}).get(name_of(cookie)) != raw:
                self.cookies[site][name_of(cookie)] = raw
                self.told.start(AFTER_MS)

    def _on_removed(self, cookie: QNetworkCookie) -> None:
        held = self.cookies.get(site_of(cookie.domain(), self.sites), {})
        if held.pop(name_of(cookie), None) is not None:
            self.told.start(AFTER_MS)


def name_of(cookie: QNetworkCookie) -> str:
    """By what a cookie is told from others of its site."""
    return f"{cookie.domain()} {cookie.path()} {bytes(cookie.name().data()).decode('latin-1')}"
