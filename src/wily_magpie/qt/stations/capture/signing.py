"""Sign-ins on the live page that last, for the sites that the person chose in this library."""

from typing import TYPE_CHECKING

from wily_magpie.core.capture.sign_ins import Cookies, read_sign_ins, read_sites, site_of, write_sign_ins
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.settings.known import SIGNED_IN, value_of
from wily_magpie.qt.station_context import StationContext

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView


class Signing:
    """The hands for it."""

    def __init__(self, desk: StationContext, view: "PageView") -> None:
        from wily_magpie.qt.web.sign_ins import SignIns  # with the web engine

        self.desk = desk
        self.kept = SignIns(view.profile, self.write, view)
        self.sites: tuple[str, ...] = ()
        desk.bridge.settings_changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Lets the sites be those of the settings; what is kept of others is forgotten."""
        sites = read_sites(str(value_of(SIGNED_IN, self.desk.overview.settings)))
        if sites == self.sites:
            return
        folder, self.sites = self.desk.bridge.folder, sites
        self.desk.bridge.write(lambda: read_sign_ins(folder), lambda cookies: self.kept.fill(sites, cookies))

    def write(self, cookies: Cookies) -> None:
        """Has what is to last written down."""
        folder, held = self.desk.bridge.folder, {site: dict(some) for site, some in cookies.items()}
        self.desk.bridge.write(lambda: write_sign_ins(folder, held))

    def is_kept(self, address: str) -> bool:
        """Whether a sign-in on the site of an address lasts."""
        return bool(site_of(host_of(address), self.sites))

    def turn(self, address: str) -> None:
        """Lets a sign-in on a site last, or end with the program."""
        host = host_of(address)
        named = site_of(host, self.sites)  # which may be the site that the host is a part of
        if named:
            sites = [site for site in self.sites if site != named]
            said = f"A sign-in on {named} ends with the program again, and what was kept of it is forgotten."
        else:
            sites = [*self.sites, host]
            said = f"A sign-in on {host} lasts from now on; the settings have the list."
        command = SetSetting(SIGNED_IN.name, "\n".join(sites))
        self.desk.bridge.do(command, lambda _none: self.desk.say(said, self.desk.undoing()))
