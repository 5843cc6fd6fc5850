"""What a person should know about a page before keeping it: that it hides its text, or was only read in part."""

import re
from typing import Self

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.pages import tree
from wily_magpie.core.pages.page import BY_SCRIPTS, CONSENT_WALL, LOGIN_WALL, NO_TEXT, STILL_LOADING
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
        is_scripted: whether it seems to be built by scripts: it has some, and says that they are needed or has an empty frame.
    """

    shown: str = ""
    has_password: bool = False
    has_buttons: bool = False
    is_scripted: bool = False

    @classmethod
    def of(cls, root: Element) -> Self:
        """What a page shows."""
        fields = list(root.iter("input"))
        has_password = any((field.get("type") or "").casefold() == "password" for field in fields)
        has_buttons = bool(fields) or next(root.iter("button"), None) is not None
        return cls(beginning(root), has_password, has_buttons, is_scripted(root))


def is_scripted(root: Element) -> bool:
    """Whether a page has scripts, and either says that it needs them or has an empty frame for what they make."""
    if not any(tag.get("src") or tree.squash(tag.text) for tag in root.iter("script")):
        return False
    needs = any(NEEDS_SCRIPTS.search(" ".join(tag.itertext())) for tag in root.iter("noscript"))
    frames = (tag for tag in root.iter("div", "main", "body") if FRAME.fullmatch(tag.get("id") or ""))
    return needs or any(len(tree.text_of(tag)) < EMPTY for tag in frames)


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


LOADING = re.compile(
    r"^\W*((please wait|one moment|just a moment)\W+)?"
    r"((is |still |now )?loading( (the |this |your )?\w+)?|please wait|one moment( please)?|"
    r"just a moment|(\w+ )?wird geladen|lädt|(bitte )?(einen moment|warten)( bitte)?|chargement( en cours)?|veuillez patienter|"
    r"cargando|espere( un momento)?|caricamento( in corso)?|attendere prego|carregando|aguarde|(bezig met )?laden|even geduld|"
    r"ładowanie|laddar|indlæser|lastes inn|загрузка|読み込み中|加载中|載入中|로딩 중)\W*$",
    re.IGNORECASE | re.MULTILINE,
)
"""What a page shows in the place of a text that has not come yet."""
NEEDS_SCRIPTS = re.compile(r"javascript", re.IGNORECASE)
FRAME = re.compile(r"root|app|__next|__nuxt|main|application|react-root|app-root|gatsby", re.IGNORECASE)
EMPTY = 200
"""Characters up to which a frame holds nothing but a word on loading."""


def notice_of(front: Front, text: str, title: str, *, is_cut: bool, is_rendered: bool = False) -> str:
    """One sentence, or "".

    Args:
        text: the main content.
        is_cut: whether it was only read in part; is_rendered: whether its scripts have run.
    """
    if is_cut:
        return "This page takes long to read: some of its text may be missing."
    if len(text) > SHORT:
        return ""
    shown = f"{title} {text[:SHORT]}"
    if front.has_password and LOGIN.search(f"{shown} {front.shown}"):
        return LOGIN_WALL
    is_all = len(text) < LEAST_TEXT and len(front.shown) < SHORT  # the page is hardly more than what asks
    if front.has_buttons and len(CONSENT.findall(front.shown if is_all else shown)) >= 3:
        return CONSENT_WALL
    if front.is_scripted and len(text) < LEAST_TEXT and not is_rendered:
        return BY_SCRIPTS
    if len(text) < LEAST_TEXT and LOADING.search(text or front.shown):
        return STILL_LOADING
    if not text.strip():
        return NO_TEXT
    return ""
