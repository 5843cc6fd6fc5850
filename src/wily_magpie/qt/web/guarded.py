"""A web engine page on a short leash: no dialogs, permissions, downloads or windows, nothing from the local network."""

from collections.abc import Callable, Iterable

from PyQt6.QtCore import QObject, QUrl
from PyQt6.QtNetwork import QAuthenticator
from PyQt6.QtWebEngineCore import (
    QWebEngineDownloadRequest,
    QWebEnginePage,
    QWebEnginePermission,
    QWebEngineProfile,
    QWebEngineSettings,
    QWebEngineUrlRequestInfo,
    QWebEngineUrlRequestInterceptor,
)

from wily_magpie.core.network.gate import USER
from wily_magpie.core.network.reach import is_local

SCHEMES = ("http", "https", "data", "blob", "ws", "wss", "about")


class Interceptor(QWebEngineUrlRequestInterceptor):
    """Stops what a page would fetch from this machine or the local network, unless the person typed that host and port."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.asked: set[tuple[str, int]] = set()

    def interceptRequest(self, info: QWebEngineUrlRequestInfo) -> None:
        url = info.requestUrl()
        scheme, host = url.scheme(), url.host()
        is_strange = scheme not in SCHEMES
        if is_strange or (host and is_local(host) and not self.may_be_local(info)):
            info.block(True)
        elif scheme == "https" and host.endswith(".example"):  # the stand-in web speaks plain http
            url.setScheme("http")
            info.redirect(url)

    def may_be_local(self, info: QWebEngineUrlRequestInfo) -> bool:
        """Whether something of this machine or the local network was typed, or belongs to a page there that was."""
        is_page = info.resourceType() == QWebEngineUrlRequestInfo.ResourceType.ResourceTypeMainFrame
        first = info.firstPartyUrl()
        by = info.initiator()
        is_own = first.host() == info.requestUrl().host() or (is_page and not by.host())
        return origin_of(info.requestUrl()) in self.asked and (is_own or by.host() == info.requestUrl().host())


def origin_of(url: QUrl) -> tuple[str, int]:
    """The host and port that an address leads to."""
    return url.host(), url.port(443 if url.scheme() == "https" else 80)


BY_THE_PERSON = (
    QWebEnginePage.NavigationType.NavigationTypeLinkClicked,
    QWebEnginePage.NavigationType.NavigationTypeTyped,
    QWebEnginePage.NavigationType.NavigationTypeBackForward,
)


class GuardedPage(QWebEnginePage):
    """One page of the person's browsing in the Capture station.

    Attributes:
        is_held: whether it was stopped, and may not go anywhere by itself; the person may.
        went: told of addresses to which the person goes.
    """

    is_held = False
    went: Callable[[QUrl], None] = staticmethod(lambda _url: None)

    def acceptNavigationRequest(self, url: QUrl, navigation: QWebEnginePage.NavigationType, isMainFrame: bool) -> bool:
        is_wanted = navigation in BY_THE_PERSON
        if self.is_held and not is_wanted:
            return False
        if isMainFrame and is_wanted:
            self.went(url)
        return url.scheme() in (("http", "https", "about") if isMainFrame else SCHEMES)

    def createWindow(self, kind: QWebEnginePage.WebWindowType) -> QWebEnginePage:
        return self

    def javaScriptAlert(self, origin: QUrl, message: str | None) -> None:
        """Silent."""

    def javaScriptConfirm(self, origin: QUrl, message: str | None) -> bool:
        return False

    def javaScriptPrompt(self, origin: QUrl, message: str | None, default: str | None) -> tuple[bool, str]:
        return False, ""

    def javaScriptConsoleMessage(
        self, level: QWebEnginePage.JavaScriptConsoleMessageLevel, message: str | None, line: int, source: str | None
    ) -> None:
        """Silent: a page's complaints are not ours."""

    def chooseFiles(
        self, mode: QWebEnginePage.FileSelectionMode, old: Iterable[str | None], types: Iterable[str | None]
    ) -> list[str]:
        return []


def make_profile(parent: QObject, on_download: Callable[[str, str], None]) -> tuple[QWebEngineProfile, Interceptor]:
    """A profile that keeps nothing on disk.

    Args:
        on_download: is told (address, media type) of what a page wanted to have saved; nothing is.
    """
    profile = QWebEngineProfile(parent)
    interceptor = Interceptor(profile)
    profile.setUrlRequestInterceptor(interceptor)

    def refuse(request: QWebEngineDownloadRequest) -> None:
        address, media_type = request.url().toString(), request.mimeType()
        request.cancel()
        on_download(address, media_type)

    profile.downloadRequested.connect(refuse)
    return profile, interceptor


def make_page(profile: QWebEngineProfile, parent: QObject, password: str) -> GuardedPage:
    """A page with everything off that capturing does not need; `password` is the gate's."""
    page = GuardedPage(profile, parent)
    settings = page.settings()
    off = QWebEngineSettings.WebAttribute
    if settings is not None:
        for attribute in (
            off.PluginsEnabled, off.JavascriptCanOpenWindows, off.JavascriptCanAccessClipboard, off.ScreenCaptureEnabled,
            off.LocalContentCanAccessFileUrls, off.LocalContentCanAccessRemoteUrls, off.FullScreenSupportEnabled,
        ):  # fmt: skip
            settings.setAttribute(attribute, False)
        settings.setAttribute(off.PlaybackRequiresUserGesture, True)
        settings.setAttribute(off.WebRTCPublicInterfacesOnly, True)
    page.permissionRequested.connect(deny)

    def tell(_url: QUrl, wanted: QAuthenticator, _host: str) -> None:
        wanted.setUser(USER)
        wanted.setPassword(password)

    page.proxyAuthenticationRequired.connect(tell)
    return page


def deny(permission: QWebEnginePermission) -> None:
    """No page gets the camera, the microphone, the place, notifications."""
    permission.deny()
