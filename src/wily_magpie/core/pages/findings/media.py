"""Players, channels and chapters of what is seen and heard."""

import re
from collections.abc import Iterator
from urllib.parse import urljoin

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages.findings.sources import META, VISIBLE, Sources, main_items, texts
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import squash, text_of

TIMED = re.compile(r"^\s*[(\[]?((?:\d{1,2}:)?\d{1,2}:\d\d)[)\]]?\s*[-–—:·]?\s+(\S.{1,120})$")
KINDS = frozenset("VideoObject Movie TVEpisode Clip PodcastEpisode RadioEpisode AudioObject MusicRecording".split())
MOST_CHAPTERS = 200


@dataclass(frozen=True)
class Chapter:
    """A part of a recording: when it begins ("9:40", "1:02:10"), its name, its address or ""."""

    time: str
    name: str
    address: str = ""


def media(sources: Sources) -> None:
    """Adds players, channels and chapters."""
    for item, origin in played(sources):
        kind = f"{origin} {types_of(item)[0]}"
        for name, value in players(item):
            sources.add("player", sources.address_of(value), f"{kind}.{name}")
        for name in ("author", "creator", "publisher", "partOfSeries"):
            for text in texts(item.get(name)):
                sources.add("channel", text, f"{kind}.{name}")
    for key in ("og:video:secure_url", "og:video:url", "og:video", "twitter:player", "og:audio"):
        for value in sources.meta.get(key, [])[:1]:
            sources.add("player", sources.address_of(value), f"{META} {key}")
    for tag in sources.root.xpath("//main//video | //article//video | //main//audio | //article//audio")[:3]:
        source = tag.get("src") or next((one.get("src") for one in tag.iter("source") if one.get("src")), "")
        sources.add("player", sources.address_of(source), f"{VISIBLE} (player)", tag)
    if sources.best("kind") in ("video", "podcast episode"):
        for chapter in chapters(sources):
            sources.add("chapter", f"{chapter.time} {chapter.name}", "chapters")


def players(item: dict[str, object]) -> Iterator[tuple[str, str]]:
    """(property, address) of what plays a recording."""
    for name in ("embedUrl", "contentUrl"):
        for text in texts(item.get(name), "url"):
            yield name, text
    for name in ("associatedMedia", "audio", "video"):
        value = item.get(name)
        if isinstance(value, dict):
            for text in texts(value.get("contentUrl") or value.get("embedUrl"), "url"):
                yield name, text


def played(sources: Sources) -> list[tuple[dict[str, object], str]]:
    """Items that are recordings."""
    return [(item, origin) for item, origin in sources.items if KINDS & set(types_of(item))][:4]


def chapters(sources: Sources) -> list[Chapter]:
    """Declared chapters, else lines that begin with a time, the first of them with nought: in the description, then shown."""
    for item, _ in played(sources):
        parts = item.get("hasPart")
        found = [
            clip(part, sources.base)
            for part in (parts if isinstance(parts, list) else [parts])
            if isinstance(part, dict)
        ]
        named = [one for one in found if one is not None]
        if named:
            return named[:MOST_CHAPTERS]
        for text in texts(item.get("description")):
            listed = timed(text.split("\n"))
            if listed:
                return listed
    return timed([text_of(tag) for tag in sources.root.iter("li", "p")][:2000]) if main_items(sources) else []


def clip(part: dict[str, object], base: str) -> Chapter | None:
    """A chapter of structured data."""
    name, start = str(part.get("name") or ""), part.get("startOffset")
    if not name or not isinstance(start, int | float | str) or not str(start).replace(".", "", 1).isdigit():
        return None
    try:
        address = urljoin(base, str(part.get("url") or "")) if part.get("url") else ""
    except ValueError:
        address = ""
    return Chapter(clock(int(float(start))), squash(name), address)


def timed(lines: list[str]) -> list[Chapter]:
    """Lines that begin with a time, if there are two or more and the first begins at nought."""
    found = [match for line in lines if (match := TIMED.match(line))]
    is_list = len(found) > 1 and not found[0][1].replace(":", "").strip("0")
    return [Chapter(match[1], squash(match[2])) for match in found][:MOST_CHAPTERS] if is_list else []


def clock(seconds: int) -> str:
    """Seconds as 9:40 or 1:02:10."""
    hours, rest = divmod(seconds, 3600)
    return f"{hours}:{rest // 60:02}:{rest % 60:02}" if hours else f"{rest // 60}:{rest % 60:02}"
