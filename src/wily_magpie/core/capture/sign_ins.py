"""Sign-ins on live pages that the person wants to last: the cookies of chosen sites, in a file of the library's folder.

Only the sites that are named in the library's settings have any; those of others end with the program. The file is the
person's alone (0600), is no part of copies of the library, and a site that is no longer named is taken out of it.
"""

import json
from collections.abc import Collection, Mapping
from pathlib import Path

from wily_magpie.core.places.atomic import read_bytes, write_bytes

FILE = "sign-ins.json"
MOST_COOKIES = 500
Cookies = Mapping[str, Mapping[str, str]]
"""By site: cookies as their servers wrote them, by what tells one from another."""


def read_sign_ins(folder: Path) -> dict[str, dict[str, str]]:
    """What is kept, by site; nothing of a file that is damaged."""
    content = read_bytes(folder / FILE)
    try:
        stored = json.loads(content) if content is not None else {}
    except ValueError:
        return {}
    found = stored if isinstance(stored, dict) else {}
    return {
        str(site): {str(name): str(raw) for name, raw in cookies.items()}
        for site, cookies in found.items()
        if isinstance(cookies, dict)
    }


def write_sign_ins(folder: Path, cookies: Cookies) -> None:
    """Writes down what is to last; where there is nothing, there is no file."""
    path = folder / FILE
    wanted = {site: dict(list(held.items())[-MOST_COOKIES:]) for site, held in cookies.items() if held}
    if not wanted:
        path.unlink(missing_ok=True)
        return
    write_bytes(path, json.dumps(wanted, ensure_ascii=False).encode(), mode=0o600)


def site_of(host: str, sites: Collection[str]) -> str:
    """The named site that a host, or the domain of a cookie, belongs to; "" where it is none of them."""
    plain = host.casefold().strip(".").removeprefix("www.")
    return next((site for site in sites if plain == site or plain.endswith(f".{site}")), "")


def read_sites(text: str) -> tuple[str, ...]:
    """The sites that are named, one a line."""
    lines = (line.strip().casefold().removeprefix("www.").strip("./") for line in text.splitlines())
    return tuple(dict.fromkeys(line for line in lines if line))
