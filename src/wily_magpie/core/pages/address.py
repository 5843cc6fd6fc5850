"""Addresses: what a person types, and the canonical form by which a page is known again."""

import re
from urllib.parse import parse_qsl, quote, unquote, urlencode, urlsplit, urlunsplit

from wily_magpie.core.errors import UserError
from wily_magpie.core.patterns import pattern

TRACKING = pattern(
    r"(utm_\w+|fbclid|gclid|dclid|msclkid|yclid|igshid|mc_[ce]id|_ga|_gl|ref_src|ref_url|mkt_tok|vero_id|oly_\w+_id|"
    r"wickedid|s_cid|ns_\w+|at_(campaign|medium|custom\d)|cmpid|xtor|spm|ncid)",
    re.IGNORECASE,
)
DEFAULT_PORTS = {"http": 80, "https": 443}
LONGEST = 8_000
HOST = pattern(r"(localhost|[\w-]+(\.[\w-]+)+|\[[0-9a-f:.]+\])(:\d{1,5})?(/|\?|#|$)", re.IGNORECASE)


def looks_like_address(typed: str) -> bool:
    """Whether a typed text is meant as an address rather than as words to look for."""
    typed = typed.strip()
    return not re.search(r"\s", typed) and bool(re.match(r"https?://", typed, re.IGNORECASE) or HOST.match(typed))


def from_typed(typed: str) -> str:
    """The address that a person means; without a scheme it is https, for addresses of the stand-in web http.

    Raises:
        UserError: it is no address of the web.
    """
    text = typed.strip()
    if not re.match(r"[a-z][a-z0-9+.-]*://", text, re.IGNORECASE) and HOST.match(text):
        host = text.split("/")[0].split(":")[0].casefold()
        local = host.endswith(".example") or host in ("localhost", "127.0.0.1")
        text = ("http://" if local else "https://") + text
    try:
        parts = urlsplit(text)
        good = (
            parts.scheme.casefold() in DEFAULT_PORTS and bool(parts.hostname) and not re.search(r"[\s\x00-\x1f]", text)
        )
        _ = parts.port
    except ValueError:
        good = False
    if not good or len(text) > LONGEST:
        raise UserError(
            "bad-address",
            f"“{typed.strip()[:120]}” is not an address of the web.",
            "Write one like https://host.example/page.",
        )
    return urlunsplit(
        parts._replace(scheme=parts.scheme.casefold(), netloc=parts.netloc.casefold(), path=parts.path or "/")
    )


def canonical(address: str) -> str:
    """The form in which the same page always looks the same: no scheme, www, tracking, fragment, closing slash.

    A fragment stays where it is a route of a script (#!/…, #/…). It is for comparing, not for opening.

    >>> canonical("https://www.Mills.example/a/?utm_source=x&b=2&a=1#top")
    'mills.example/a?a=1&b=2'
    """
    try:
        parts = urlsplit(address.strip())
        host, port = (parts.hostname or "").casefold(), parts.port
    except ValueError:
        return address.strip()
    host = re.sub(r"^(www\d?|m|mobile|amp)\.(?=[^.]+\.)", "", host.rstrip("."))
    if port and port != DEFAULT_PORTS.get(parts.scheme):
        host += f":{port}"
    path = quote(unquote(parts.path), safe="/:@!$&'()*+,;=~-._%")
    path = re.sub(r"/(index\.(html?|php)|amp)?$", "", path)
    pairs = [(k, v) for k, v in parse_qsl(parts.query, keep_blank_values=True) if not TRACKING.fullmatch(k)]
    query = "?" + urlencode(sorted(pairs)) if pairs else ""
    fragment = f"#{parts.fragment}" if parts.fragment.startswith(("!", "/")) else ""
    return f"{host}{path}{query}{fragment}"


def host_of(address: str) -> str:
    """The host of an address, without www."""
    try:
        return re.sub(r"^www\.", "", urlsplit(address).hostname or "")
    except ValueError:
        return ""


def path_of(address: str) -> str:
    """The path of an address, "" where it has none or is none."""
    try:
        return urlsplit(address).path
    except ValueError:
        return ""
