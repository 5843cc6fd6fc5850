"""Names in by-lines: what is a person's name in a text that a page shows or declares, and what is none.

The rules speak of words and of their form; none of any site. Labels ("posted by", "Von"), job titles, times and what stands
behind the name are taken off; names that are joined by a word or by nothing are parted.
"""

import re

from wily_magpie.core.fields.people import ORGANISATION, PARTICLES, PEOPLE, THINGS, family_first, given_first
from wily_magpie.core.pages.tree import squash

NOT_NAMES = re.compile(
    r"(admin|administrator|editors?|staff|webmaster|user|guest|author|unknown|null|none|by|n/a|name|e-?mail|website|default|"
    r"redaktion|redaction|rédaction|la rédaction|redacción|redazione|redactie|anonymous|anonym|super user|home|about|share|"
    r"follow|more|posts?|comments?|read|news|blog|team|profile|login|contact|kontakt|impressum|archives?|updated|published|"
    r"posted|written|menu|search|subscribe|print|drucken|teilen|via|twitter|facebook|instagram|linkedin|rss|uhr|edit|root|"
    r"letzte aktualisierung|last updated?|dernière mise à jour|última actualización|ultimo aggiornamento|reading time|lesezeit|"
    r"autor(?:en|in|es|a|i)?|auteure?s?|authors|"
    r"photo|foto|image|video|credit|copyright|source|quelle|advertisement|anzeige|sponsored|gastautor|gastbeitrag)",
    re.IGNORECASE,
)
LEAD = re.compile(
    r"^\W*(?:\(\w+\)\s*)?(?:"
    r"(?:view |see |read |show )?(?:all |more )?(?:posts?|articles?|stories|entries|content|works?) (?:by|from|of)|"
    r"(?:alle |mehr |weitere )?(?:artikel|beiträge|posts?) (?:von|des autors)|(?:voir )?(?:tous )?(?:les )?articles (?:de|par)|"
    r"(?:(?:a |an |ein |eine |un |una )?(?:[^\W\d_]+ )?(?:written|posted|published|submitted|added|created|updated|uploaded|story|"
    r"words|text|texte|texto|testo|tekst|report|reported|reporting|review|reviewed|edited|article|beitrag|artikel|kommentar|"
    r"kolumne|interview|essay|analyse|analysis|opinion|gastbeitrag|geschrieben|verfasst|veröffentlicht|gespeichert|erstellt|"
    r"eingestellt|publié|publiée|écrit|ajouté|posté|proposé|escrito|publicado|enviado|scritto|pubblicato|inserito|geschreven|"
    r"geplaatst|skrevet|skriven|napisał|dodał))\s+(?:by|von|par|por|di|da|door|af|av|przez)\b|"
    r"(?:by|von|par|por|door|durch)\b|"
    r"(?:authors?|autor(?:innen|in|en|es|a|e|i)?|auteure?s?|autore|autrice|autori|skribent|forfatter|författare|toimittaja|автор|"
    r"著者|作者|文)(?:/in)?\b\s*:?|"
    r"(?:text|texte|texto|testo|tekst|words|story|reporter|written|posted)\s*:)[:\s]+",
    re.IGNORECASE,
)
NO_CREDIT = re.compile(
    r"^(?:last\s+|zuletzt\s+)?(?:updated?|modified|published|posted|aktualisiert|veröffentlicht|stand|mis à jour|actualizado|"
    r"aggiornato)\b"
    r"(?!.*\b(?:by|von|par|por)\b)|\b(?:polic(?:y|ies)|standards|guidelines|ethics|privacy|terms of|disclaimer|corrections|cookies?|"
    r"datenschutz|richtlinien|nutzungsbedingungen|confidentialité|mentions légales|privacidad)\b",
    re.IGNORECASE,
)
"""When it was changed, and what leads to rules of the house, are no by-lines."""
SHORT_LEAD = re.compile(r"^(?:di|de|da|af|av|af|przez)\s+(?=(?-i:[A-ZÀ-Þ]))", re.IGNORECASE)
JOB = (
    r"(?:senior|chief|staff|deputy|associate|assistant|managing|executive|contributing|political|foreign|special|guest|"
    r"freelance|news|sports?|business|science|technology|tech|health|environment|culture|arts?|data|digital|web|lead|head of|"
    r"global|national|international|investigative|leitende[rn]?|stellvertretende[rn]?|freie[rn]?)"
)
JOB_NOUN = (
    r"(?:reporters?|editors?|correspondents?|writers?|journalists?|journaliste|columnists?|contributors?|bloggers?|producers?|"
    r"analysts?|critics?|photographers?|fotograf(?:in)?|redakteur(?:in)?|redaktör|redacteur|rédact\w+|redactor\w*|redattore|"
    r"korrespondent(?:in)?|autor(?:in)?|auteure?|journalist(?:in)?|ressortleiter(?:in)?|chefredakteur(?:in)?|herausgeber(?:in)?|"
    r"volontär(?:in)?|professor(?:in)?|lecturer|researcher|founder|co-founder|ceo|director|manager|publisher|intern|attorney|"
    r"lawyer|md|phd|ph\.d\.|m\.d\.|rn)"
)
TITLE_BEHIND = re.compile(
    rf"[\s,–—|(-]+(?:the\s+)?(?:{JOB}\s+(?:[^\W\d_]+\s+){{0,2}})?(?:{JOB}\s+)*{JOB_NOUN}\b.*$", re.IGNORECASE
)
TITLE_BEFORE = re.compile(rf"^(?:{JOB}\s+)*{JOB_NOUN}\s*[:,]?\s+(?=(?-i:[A-ZÀ-Þ]))", re.IGNORECASE)
IS_JOB = re.compile(rf"^(?:the\s+)?(?:{JOB}\s+)*{JOB_NOUN}\b", re.IGNORECASE)
TAIL = re.compile(
    r"\s*[|•·–—/›»]\s.*$|\s+(?:on|at|am|um|le|el|il|den|op|w|dated|dne)\s+(?=\d|[^\W\d_]+[ .,]+\d|[^\W\d_]+day|[^\W\d_]+tag).*$|"
    r",?\s+(?:mon|tues?|wed(?:nes)?|thu(?:rs)?|fri|sat(?:ur)?|sun)(?:day)?\b.*$|"
    r",?\s+\d{1,2}\.?\s?[^\W\d_]+\.?,?\s\d{4}.*$|,?\s+[^\W\d_]{3,9}\.? \d{1,2}(?:st|nd|rd|th)?,? \d{4}.*$|"
    r"\s+\d{1,2}[./-]\d{1,2}[./-]\d{2,4}.*$|,?\s+\d{4}-\d\d-\d\d.*$|,?\s+\d{1,2}[:.]\d\d\b.*$|\s+\d+ (?:min|hour|day|std|stunden|"
    r"tage|minuten|ago|views|comments?).*$|\s*\(.*\)\s*$|(?-i:,\s*[A-Z]{2,5}$)|\s+(?:for|für|pour|para)\s+(?:the\s+)?(?-i:[A-ZÀ-Þ]).*$|"
    r"\s+(?:updated|published|posted|aktualisiert|veröffentlicht|last modified|modified|publié|mis à jour|actualizado)\b.*$|"
    r"\s*(?:follow|folgen|twitter|facebook|instagram|e-?mail|share|@).*$|(?-i:,\s+[A-Z][^\W\d_]+(?: [^\W\d_]+)?, [A-Z][\w ]+$)|"
    r"\s+in\s+(?-i:[A-ZÀ-Þ]).*$",
    re.IGNORECASE,
)
STRANGE = re.compile(r"://|[@#*<>{}=%$€£\[\]_]|www\.|\.(com|org|net|de|fr|info|io)\b|\d{2}|\d:\d", re.IGNORECASE)
BETWEEN = re.compile(r"\s*(?:;|\||•|·|\s/\s|\n)\s*")
JOINED = re.compile(r"\s*,?\s+(?:and|und|et|y|e|og|och|en|i|ja|&|\+)\s+", re.IGNORECASE)
GLUED = re.compile(r"(?<=[a-zà-ÿ])(?=[A-ZÀ-Þ][a-zà-ÿ’'-]+ [A-ZÀ-Þ])")
NOT_GLUED = re.compile(r"(?:\b|['’-])(?:Mc|Mac|De|Di|La|Le|Fitz|Van|Von|Du|Da|Del|O['’])$")
WORD = re.compile(r"[^\W\d_][^\s,;]*")
AGENCIES = frozenset(
    "dpa afp reuters ap apa sda ansa efe tass ria xinhua kyodo pa belga anp ritzau ntb tt stt upi pti ians epd kna sid ots "
    "presseportal dapd bloomberg".split()
)
AGENCY_BEHIND = re.compile(rf"\s*(?:[/|,–—-]\s*|\s|\()(?:{'|'.join(sorted(AGENCIES))})\)?$", re.IGNORECASE)
EAST_ASIAN = re.compile(r"[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af・]+")
NOT_A_PERSON = re.compile(r"(?:社|新聞|通信|編集部|編集局|取材班|委員会|大学|协会|报|网|台|部|局|통신|일보|신문)$")
PEN_NAME = re.compile(r"[^\W\d_][\w.-]{2,23}")
LONGEST_NAME, LONGEST_TEXT, MOST_WORDS = 60, 200, 5


def names_in(text: str, *, is_one: bool = False, is_strong: bool = False) -> tuple[str, ...]:
    """The names in a by-line as "Family, Given"; none where it does not look like names.

    Args:
        is_one: whether it is a single name, of which "and" is a part.
        is_strong: whether something else says that it is a name, so that one word alone may be one.
    """
    if NO_CREDIT.search(squash(text)):
        return ()
    plain, is_led = cleaned(text), LEAD.match(squash(text)) is not None
    is_pen_name = is_strong and PEN_NAME.fullmatch(plain) is not None
    if not plain or (STRANGE.search(plain) and not is_pen_name) or len(plain) > LONGEST_TEXT:
        return ()
    if is_one:
        return (family_first(plain),) if is_name(plain, is_strong=is_strong) else ()
    found = [family_first(one) for one in parted(plain, is_led=is_led) if is_name(one, is_strong=is_strong)]
    if is_led and found and is_person(found[0]):  # whom a label leads to; behind it stands where that person works
        found = [one for one in found if not is_organisation(one)]
    return tuple(dict.fromkeys(found))


def cleaned(text: str) -> str:
    """A by-line without labels, job titles and what stands behind its names."""
    plain = squash(text).strip(" ,:|·•–—-")
    for _ in range(3):
        before = plain
        plain = LEAD.sub("", plain)
        plain = TITLE_BEFORE.sub("", plain)
        plain = AGENCY_BEHIND.sub("", plain)
        plain = TAIL.sub("", plain)
        plain = TITLE_BEHIND.sub("", plain).strip(" ,:|·•–—-")
        if plain == before:
            break
    return plain


def parted(text: str, *, is_led: bool = False) -> list[str]:
    """The single names of a list of them.

    Args:
        is_led: whether a label such as "By" stands before it, after which no name is turned round.
    """
    out: list[str] = []
    for piece in BETWEEN.split(text):
        for one in unglued(piece):
            out += by_words(one, is_led=is_led)
    return [cleaned(one) for one in out if one.strip()]


def unglued(text: str) -> list[str]:
    """Two names with nothing between them: "Ada PenhallowTom Varley"."""
    for found in GLUED.finditer(text):
        left, right = text[: found.start()], text[found.start() :]
        if " " in left.strip() and not NOT_GLUED.search(left):
            return [left, *unglued(right)]
    return [text]


def by_words(text: str, *, is_led: bool = False) -> list[str]:
    """Names parted by "and" and the like, and by commas where no comma can be that of one name."""
    joined = [one.strip(" ,") for one in JOINED.split(text)]
    if len(joined) > 1 and not all(looks_whole(one) for one in joined if one and "," not in one):
        value = PEOPLE.read(text)  # such as the name of a firm
        return list(value) if isinstance(value, tuple) else []
    out: list[str] = []
    for one in joined:
        pieces = [piece.strip() for piece in one.split(",") if piece.strip()]
        is_list = len(pieces) > 1 and all(looks_whole(piece) for piece in pieces)
        is_turned = len(pieces) == 2 and not is_list
        if is_led and is_turned and looks_whole(pieces[0]):
            pieces, is_turned = pieces[:1], False  # the other is a town
        out += pieces if is_list or is_led or (len(pieces) > 2 and not is_turned) else [one]
    return out


def looks_whole(text: str) -> bool:
    """Whether a text has the form of a whole name: two words or more, or one of East Asia."""
    return len(text.split()) > 1 or bool(EAST_ASIAN.fullmatch(text))


def is_name(text: str, *, is_strong: bool = False) -> bool:
    """Whether a text has the form of a name, of a person or of what publishes."""
    if not text or len(text) > LONGEST_NAME or NOT_NAMES.fullmatch(text) or IS_JOB.match(text):
        return False
    if EAST_ASIAN.search(text):
        return len(text) <= 12
    words = text.replace(",", " ").split()
    if not any(WORD.match(word) for word in words) or len(words) > MOST_WORDS + 1:
        return False
    if len(words) == 1:
        return is_strong and 2 < len(text) <= 24 and text.casefold() not in THINGS
    is_small = is_strong and len(words) == 2 and all(word.isalpha() and word.islower() for word in words)
    return is_person(text) or is_organisation(text) or is_small


def is_person(name: str) -> bool:
    """Whether a name has the form of a person's: two to five words that begin with capitals, none of an organisation."""
    plain = given_first(name)
    if EAST_ASIAN.fullmatch(plain):
        return 2 <= len(plain) <= 8 and not NOT_A_PERSON.search(plain)
    words = plain.split()
    if not 2 <= len(words) <= MOST_WORDS or is_organisation(name) or NOT_NAMES.fullmatch(plain):
        return False
    return all(not word[0].islower() or word.casefold() in PARTICLES for word in words)


def is_organisation(name: str) -> bool:
    """Whether a name is that of an organisation or agency, by its words."""
    words = name.casefold().replace(",", " ").split()
    is_agency = any(word.strip("./()") in AGENCIES for word in words)
    return is_agency or bool(ORGANISATION.search(name)) or (bool(words) and words[-1] in THINGS)
