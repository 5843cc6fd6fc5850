"""What a person should know about a page before keeping it: that it hides its text, or was only read in part."""

import re
from typing import Self

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages import tree
from wily_magpie.core.pages.tree import UNREAD_TAGS, Element

LONGEST_BEGINNING = 4_000
"""Characters that are looked through for the words of a wall."""
LEAST_TEXT = 300
SHORT = 1_200
"""Characters of text up to which a page may be nothing but a wall."""
CONSENT = re.compile(
    r"before you continue|we value your privacy|consent|cookies?\b|privacy settings|datenschutz|zustimmung|einwilligung|"
    r"consentement|vie privée|consentimiento|privacidad|consenso",
    re.IGNORECASE,
)
LOGIN = re.compile(
    r"log ?in|sign ?in|anmelden|einloggen|connexion|se connecter|iniciar sesión|accedi|inloggen", re.IGNORECASE
)


@dataclass(frozen=True)
class Front:
    """What a page shows of a wall, taken before its text is cut out.

    Attributes:
        shown: the beginning of all its text.
    """

    shown: str = ""
    has_password: bool = False
    has_buttons: bool = False

    @classmethod
    def of(cls, root: Element) -> Self:
        """What a page shows."""
        fields = list(root.iter("input"))
        has_password = any((field.get("type") or "").casefold() == "password" for field in fields)
        return cls(beginning(root), has_password, bool(fields) or next(root.iter("button"), None) is not None)


def beginning(root: Element) -> str:
    """The words that a page shows first."""
    parts: list[str] = []
    size = 0
    body = root.find("body")
    for node in tree.elements(root if body is None else body):
        for text in (node.tail,) if node.tag in UNREAD_TAGS else (node.text, node.tail):
            if text:
                parts.append(text)
                size += len(text)
        if size > LONGEST_BEGINNING:
            break
    return tree.squash(" ".join(parts))


def notice_of(front: Front, text: str, title: str, *, is_cut: bool) -> str:
    """One sentence, or "".

    Args:
        text: the main content.
        is_cut: whether it was only read in part.
    """
    if is_cut:
        return "This page takes long to read: some of its text may be missing."
    if len(text) > SHORT:
        return ""
    shown = f"{title} {text[:SHORT]}"
    if front.has_password and LOGIN.search(f"{shown} {front.shown}"):
        return "This looks like a login page: what you wanted to keep may be behind it."
    is_all = len(text) < LEAST_TEXT and len(front.shown) < SHORT  # the page is hardly more than what asks
    if front.has_buttons and len(CONSENT.findall(front.shown if is_all else shown)) >= 3:
        return "This looks like a page that asks for consent: what you wanted to keep may be behind it."
    if not text.strip():
        return "No text was found on this page."
    return ""
