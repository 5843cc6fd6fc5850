"""The pages of the stand-in web: found by their address, put together from their text and their site's skin.

A page is one file, pages/HOST/NAME.html: front matter in YAML, then the HTML of its text. `skins/site.html` puts around
it what its site puts around everything; sites.yaml says what that is. Pages that misbehave are in AWKWARD.
"""

import json
from collections.abc import Iterator
from functools import cache
from importlib import resources
from typing import Any
from urllib.parse import urlsplit

import jinja2
import yaml

from wily_magpie.core.dataclass import dataclass
from wily_magpie.demo import reading_room
from wily_magpie.demo.leaflet import leaflet
from wily_magpie.demo.pictures import draw, draw_icon

HERE = resources.files("wily_magpie.demo")


@dataclass(frozen=True)
class StandInPage:
    """What a request is answered with."""

    content: bytes = b""
    media_type: str = "text/html; charset=utf-8"
    status: int = 200
    location: str = ""
    delay_s: float = 0
    is_silent: bool = False
    breaks_off: bool = False
    cookie: str = ""


@dataclass(frozen=True)
class Source:
    """A page's file in its parts."""

    host: str
    path: str
    matter: dict[str, Any]
    body: str

    @property
    def address(self) -> str:
        return f"http://{self.host}{self.path}"


COURIER = "http://estuary-courier.example"
SHORT = "http://short-links.example"
AWKWARD: dict[str, StandInPage] = {
    f"{SHORT}/t/heron": StandInPage(status=302, location=f"{SHORT}/t/heron-2"),
    f"{SHORT}/t/heron-2": StandInPage(status=301, location=f"{COURIER}/go?to=heron"),
    f"{COURIER}/go?to=heron": StandInPage(status=307, location="/2025/03/14/heron-mill-turns-again?utm_source=short"),
    f"{SHORT}/loop": StandInPage(status=302, location="/loop-back"),
    f"{SHORT}/loop-back": StandInPage(status=302, location="/loop"),
    f"{SHORT}/inside": StandInPage(status=302, location="http://127.0.0.1:8631/private"),
    "http://silent.example/": StandInPage(is_silent=True),
    "http://hangup.example/": StandInPage(breaks_off=True),
    "http://gauge-office.example/failed": StandInPage(b"<h1>500</h1><p>The gauge is under water.</p>", status=500),
    "http://gauge-office.example/levels.csv": StandInPage(
        b"time,level_m\n2026-03-01T00:00Z,1.2\n2026-03-01T06:00Z,4.8\n", "text/csv"
    ),
    "http://gauge-office.example/levels.zip": StandInPage(b"PK\x05\x06" + bytes(18), "application/zip"),
    "http://gauge-office.example/readme.txt": StandInPage(
        b"Levels are in metres above chart datum.\n\n1 & 2 < 3: times are UTC.\n", "text/plain; charset=utf-8"
    ),
    "http://gauge-office.example/stations.json": StandInPage(
        b'{"title": "Stations of the Ostrel", "stations": [{"name": "Ostrelmouth", "since": 1771}, {"name": "Wick", "since": 1904}]}',
        "application/json",
    ),
    "http://county-record-office.example/letters/notebooks.eml": StandInPage(
        (HERE / "files" / "notebooks.eml").read_bytes(), "message/rfc822"
    ),
    "http://gauge-office.example/members": StandInPage(b"<h1>Members only</h1>", status=403),
}
PDF = "http://tidal-studies.example/article/14/1/3.pdf"
MISSING = (f"{COURIER}/2018/06/01/withdrawn",)


@cache
def sites() -> dict[str, dict[str, Any]]:
    """What is said of each host in sites.yaml."""
    return dict(yaml.safe_load((HERE / "sites.yaml").read_text("utf-8")))


@cache
def sources() -> dict[str, Source]:
    """All pages with a file, by their address."""
    out = {}
    for host in sorted((HERE / "pages").iterdir(), key=lambda entry: entry.name):
        for file in sorted(host.iterdir(), key=lambda entry: entry.name):
            _, matter, body = file.read_text("utf-8").split("---\n", 2)
            loaded = yaml.safe_load(matter)
            source = Source(host.name, str(loaded["path"]), loaded, body)
            out[source.address] = source
    return out


@cache
def skin() -> jinja2.Template:
    """What is put around every page's text."""
    environment = jinja2.Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)
    environment.filters["json"] = lambda value: json.dumps(value, ensure_ascii=False, indent=1)
    return environment.from_string((HERE / "skins" / "site.html").read_text("utf-8"))


def addresses() -> Iterator[str]:
    """The addresses of all pages, those that misbehave too."""
    yield from sources()
    yield from AWKWARD
    yield PDF
    yield from MISSING


def samples() -> list[tuple[str, str]]:
    """(title, address) of the pages to begin with: every one that is a page, and a few that are awkward."""
    order = list(sites())
    plain_first = sorted(
        sources().items(),
        key=lambda one: (
            bool(one[1].matter.get("raw")),
            order.index(one[1].host) if one[1].host in order else len(order),
        ),
    )
    pages = [(str(source.matter["title"]), address) for address, source in plain_first]
    odd = [
        ("The notebooks – first scans (an e-mail)", "http://county-record-office.example/letters/notebooks.eml"),
        ("Mills between two seas (a PDF)", PDF),
        ("Levels at Ostrelmouth (a table)", "http://gauge-office.example/levels.csv"),
        ("A short link that leads round three corners", f"{SHORT}/t/heron"),
        ("A letter for readers who sign in", f"http://{reading_room.HOST}{reading_room.LETTER}"),
        ("A page that is no longer there", MISSING[0]),
        ("A host that never answers", "http://silent.example/"),
        ("A circle of redirects", f"{SHORT}/loop"),
    ]
    return pages + odd


def hosts() -> set[str]:
    """All hosts."""
    return {urlsplit(address).hostname or "" for address in addresses()}


def in_reading_room(address: str, cookie: str) -> StandInPage:
    """What the site answers that wants a sign-in."""
    told = reading_room.answer(address, cookie)
    if told is None:
        return missing(reading_room.HOST)
    if told.picture:
        return StandInPage(draw(told.picture) or b"", "image/svg+xml")
    return StandInPage(told.html.encode(), status=told.status, location=told.location, cookie=told.cookie)


def page_for(address: str, cookie: str = "") -> StandInPage | None:
    """What is answered for an address, where a cookie came along; None for a host that does not exist."""
    parts = urlsplit(address)
    host = (parts.hostname or "").removeprefix("www.")
    plain = f"http://{host}{parts.path or '/'}"
    full = plain + (f"?{parts.query}" if parts.query else "")
    if host == reading_room.HOST:
        return in_reading_room(full, cookie)
    if host not in hosts():
        return None
    if full in AWKWARD or plain in AWKWARD:
        return AWKWARD.get(full) or AWKWARD[plain]
    if plain == PDF:
        return StandInPage(leaflet(), "application/pdf")
    if parts.path == "/icon.svg" and host in sites():
        return StandInPage(
            draw_icon(sites()[host]["name"].removeprefix("The ")[0], sites()[host]["accent"]), "image/svg+xml"
        )
    if parts.path.startswith("/pictures/"):
        picture = draw(parts.path.removeprefix("/pictures/"))
        return StandInPage(picture, "image/svg+xml") if picture else missing(host)
    if plain in sources():
        return render(sources()[plain])
    if parts.path in ("", "/") and host in sites():
        return front(host)
    return missing(host)


def render(source: Source, *, is_earlier: bool = False) -> StandInPage:
    """A page in its site's skin, in its own encoding; is_earlier: as it was last year, where it has changed since."""
    matter = source.matter
    site = sites().get(source.host, {})
    body = str(matter["earlier"]) if is_earlier else source.body
    if "repeat" in matter:  # a page that is large by repetition, so that its file is not
        head, row = body.split("<!-- row -->")
        body = head + "".join(row.replace("{n}", str(n)) for n in range(int(matter["repeat"])))
    mine = [one for one in sources().values() if one.host == source.host and one is not source]
    others = [one for one in mine if not one.matter.get("raw")]
    if matter.get("raw"):
        html = body
    else:
        html = skin().render(site=site, page=matter, body=body, address=source.address, others=others, host=source.host)
    encoding = str(matter.get("encoding", "utf-8"))
    told = "text/html; charset=utf-8" if encoding == "utf-8" else "text/html"
    return StandInPage(html.encode(encoding, "xmlcharrefreplace"), told, delay_s=float(matter.get("delay_s", 0)))


def earlier(address: str) -> str:
    """The HTML of a page as it was last year."""
    return render(sources()[address], is_earlier=True).content.decode()


def front(host: str) -> StandInPage:
    """A site's front page: links to its pages."""
    mine = [one for one in sources().values() if one.host == host]
    links = "".join(f'<li><a href="{one.path}">{one.matter["title"]}</a></li>' for one in mine)
    matter = {"title": sites()[host]["name"], "form": "none", "path": "/"}
    return render(Source(host, "/", matter, f"<ul>{links}</ul>"))


def missing(host: str) -> StandInPage:
    """The page that answers 404."""
    text = f"<!doctype html><title>Not here</title><h1>Not here</h1><p>{host} has no such page.</p>"
    return StandInPage(text.encode(), status=404)
