"""Search over everything kept: best first, with the lines around the hit, the true count, and what it can be narrowed by."""

import mimetypes
import re
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.mark import bare
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.folding import IS_UNSPACED, folded
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.places.library.word_store import MOST_RANKED, WordDocument
from wily_magpie.core.query.nodes import And, Node, Not, Question, Words, all_of

BATCH, GIVE_WAY_S, MOST_AT_ONCE = 40, 0.005, 200
LARGEST_FILE_BYTES, LONGEST_BODY = 20_000_000, 2_000_000
READ_FILES = ("application/pdf", "text/plain", "text/markdown", "text/html", "text/csv")
PIECE = re.compile(r'(-?)(?:"([^"]*)"?|(\S+))')
MOST_TERMS, LONGEST_TERM, LONGEST_LINE = 40, 100, 4_000
"""Words that are looked for; letters of one, and of the line in which they stand."""
AROUND, LONGEST_SNIPPET = 70, 220
PICTURE = re.compile(r"!\[[^\]]*\]\([^)]*\)|!\[\[[^\]]*\]\]")
WORD = re.compile(r"[\w\u0300-\u036f]+")


@dataclass(frozen=True)
class Wanted:
    """What is looked for.

    Attributes:
        words, phrases: all of which must stand there; without: none of which may.
        is_open: whether the last word may still be typed on: what begins with it counts.
        left_out: how many more words there were than are looked for.
    """

    words: tuple[str, ...] = ()
    phrases: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    is_open: bool = False
    left_out: int = 0

    @property
    def told(self) -> str:
        """What is said of words that are not looked for, or ""."""
        if not self.left_out:
            return ""
        return f"Only the first {MOST_TERMS} different words are looked for; {self.left_out:,} more are not."

    @property
    def is_empty(self) -> bool:
        """Whether nothing is looked for."""
        return not self.words and not self.phrases

    @property
    def match(self) -> str:
        """As an expression of FTS5; each word is quoted, so that no character of a person's text is syntax."""
        last = len(self.words) - 1
        parts = [
            quoted(word.rstrip("*")) + ("*" if word.endswith("*") or (self.is_open and number == last) else "")
            for number, word in enumerate(self.words)
        ]
        parts += [quoted(one) for one in self.phrases]
        return " AND ".join(parts) + "".join(f" NOT {quoted(one)}" for one in self.without)

    @property
    def node(self) -> Node | None:
        """The same as a condition of a view."""
        nodes: list[Node] = [Words(" ".join(self.words))] if self.words else []
        nodes += [Words(one, is_phrase=True) for one in self.phrases]
        nodes += [Not(Words(one, is_phrase=" " in one)) for one in self.without]
        return all_of(tuple(nodes))


def quoted(text: str) -> str:
    """A string of FTS5."""
    return '"' + text.replace('"', '""') + '"'


def understood(text: str, *, is_open: bool = False) -> Wanted:
    """What a person's line looks for: words, "phrases", -without, begin*; each once, and no more of them than a person means.

    A text that was pasted by mistake would keep SQLite busy for many seconds, which cannot be stopped.
    """
    found: dict[str, dict[str, None]] = {"words": {}, "phrases": {}, "without": {}}
    left_out, room = 0, MOST_TERMS
    line = (
        text if len(text) <= LONGEST_LINE else text[:LONGEST_LINE].rpartition(" ")[0]
    )  # no half of a word is looked for
    for minus, phrase, word in PIECE.findall(line):
        given = (phrase or word.strip('"'))[:LONGEST_TERM]
        count = len(WORD.findall(given))
        kind = found["without" if minus else "phrases" if phrase and count > 1 else "words"]
        if not count or given in kind:
            continue
        if count > room:
            left_out += count
            continue
        room -= count
        kind[given] = None
    left_out += len(text[len(line) :].split())
    words, phrases, without = (tuple(one) for one in found.values())
    return Wanted(words, phrases, without, is_open and bool(words) and text[-1:].isalnum() and not left_out, left_out)


@dataclass(frozen=True)
class Hit:
    """One entry that was found.

    Attributes:
        where: in what the words stand: "title", "fields", "text", "marks", "a file".
        snippet: the lines around; marked: where in it the words stand, (begin, end).
    """

    entry: Entry
    place_name: str
    where: str
    snippet: str
    marked: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Narrowing:
    """By what is narrowed: names of facets with their values; a year may be a decade, such as "199"."""

    values: Mapping[str, str] = field(default_factory=dict)

    def sql(self) -> tuple[str, list[object]]:
        """A condition over documents."""
        parts, values = [], list[object]()
        for name, value in self.values.items():
            parts.append("year LIKE ? || '%'" if name == "year" and value else f"{name} = ?")
            values.append(value)
        return " AND ".join(parts), values


NOTHING = Narrowing()


@dataclass(frozen=True)
class SearchAnswer:
    """What was found.

    Attributes:
        total: how many there are in all.
        facets: how many of them there are of each place, kind, status, year; only where that was asked.
        is_newest: whether so many were found that only the newest are in order of fitting.
        unread: how many entries are not in the index yet.
    """

    wanted: Wanted
    hits: tuple[Hit, ...] = ()
    total: int = 0
    facets: Mapping[str, Sequence[tuple[str, int]]] = field(default_factory=dict)
    is_newest: bool = False
    unread: int = 0


class SearchQueries:
    """See the module. May be used from any thread."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.refreshing = threading.Lock()
        self.unread: dict[str, int] = {}

    # the index

    def refresh(
        self, place: Place, ids: Sequence[int] | None = None, is_over: Callable[[], bool] = lambda: False
    ) -> None:
        """Brings the index of a place in step; other threads are let go on in between.

        Args:
            ids: of the entries that changed; None: it is looked which did.
        """
        if place.is_away:
            return
        with self.refreshing:
            store = self._library.words
            there = self.signatures(place, ids if ids is not None and len(ids) <= MOST_AT_ONCE else None)
            known = store.signatures(place.key)
            asked = set(ids) if ids is not None and len(ids) <= MOST_AT_ONCE else known.keys() | there.keys()
            store.drop(place.key, [one for one in asked if one in known and one not in there])
            stale = [one for one in there if one in asked and (ids is not None or known.get(one) != there[one])]
            for at in range(0, len(stale), BATCH):
                self.unread[place.key] = len(stale) - at
                if is_over():
                    return
                time.sleep(GIVE_WAY_S if at else 0)
                store.put(place.key, self.documents(place, stale[at : at + BATCH], there))
            self.unread[place.key] = 0

    def forget_gone(self) -> None:
        """Forgets the places that are gone."""
        self._library.words.drop_places([place.key for place in self._library.places()])

    def signatures(self, place: Place, ids: Sequence[int] | None) -> dict[int, str]:
        """What tells a changed entry, by its id."""
        marks = self._library.marks.signatures(place.key)
        found = place.signatures(ids)
        owners = {place.id_of(owner): told for owner, told in marks.items()}
        return {number: f"{told}|{owners.get(number, '')}" for number, told in found.items()}

    def documents(self, place: Place, ids: Sequence[int], signatures: Mapping[int, str]) -> list[WordDocument]:
        """Entries as the index knows them."""
        marks = self._library.marks.of_many(place.key, [place.owner_of(one) for one in ids])
        out = []
        for entry_id in ids:
            entry = place.entry(entry_id)
            if entry is None:
                continue
            own = [*(one for one in place.fields[1:] if one.kind.is_worded or one.kind.is_linked)]
            fields = "\n".join(one.kind.show(entry.value(one.key)) for one in own if entry.value(one.key) is not None)
            marked = "\n".join(mark.comment for mark in marks.get(place.owner_of(entry_id), ()) if mark.comment)
            date = next((entry.value(one.key) for one in place.fields if one.key == "published"), None)
            out.append(
                WordDocument(
                    entry_id, signatures.get(entry_id, ""), self.facet(place, entry, "kind"), self.facet(place, entry, "status"),
                    str(date or "")[:4], entry.title, fields, (entry.body or "")[:LONGEST_BODY], marked,
                    self.file_words(place, entry),
                )
            )  # fmt: skip
        return out

    @staticmethod
    def facet(place: Place, entry: Entry, key: str) -> str:
        """A value by which is narrowed, as it is shown."""
        one = next((field for field in place.fields if field.key == key), None)
        return one.kind.show(entry.value(key)) if one is not None else ""

    def file_words(self, place: Place, entry: Entry) -> str:
        """The texts of the PDF and text files of an entry."""
        stored = [
            one for field in place.fields
            if field.kind.holds_files and isinstance(value := entry.value(field.key), tuple)
            for one in value if (mimetypes.guess_type(one)[0] or "") in READ_FILES
        ]  # fmt: skip
        return "\n".join(self._library.words.file_words(one, lambda one=one: self.read_file(one)) for one in stored)  # type: ignore[misc]

    def read_file(self, stored: str) -> str:
        """The text of a stored file, read in a process of its own; "" where it has none or cannot be read."""
        from wily_magpie.core.pages.apart import page_of, read_page  # seldom needed
        from wily_magpie.core.pages.files.recognise import Given

        path = self._library.blobs.file_path(stored)
        if path is None or path.stat().st_size > LARGEST_FILE_BYTES:
            return ""
        try:
            page = page_of(Given(path.read_bytes(), name=stored.partition("/")[2]))
            return read_page(page).content.text if page is not None else ""
        except (MagpieError, OSError):
            return ""

    # asking

    def find(
        self, wanted: Wanted, most: int, narrowing: Narrowing = NOTHING, *, with_facets: bool = False
    ) -> SearchAnswer:
        """What has the words, best first.

        Args:
            most: so many are shown.
            with_facets: whether it is counted by what it can be narrowed.
        """
        if wanted.is_empty:
            return SearchAnswer(wanted)
        store = self._library.words
        narrowed, values = narrowing.sql()
        total = store.count(wanted.match, narrowed, values)
        is_many = total > MOST_RANKED
        best = store.best(wanted.match, narrowed, values, most, is_many=is_many)
        facets = store.facets(wanted.match, narrowed, values) if with_facets else {}
        unread = sum(self.unread.values())
        return SearchAnswer(wanted, tuple(self.hits(best, wanted)), total, facets, is_many, unread)

    def hits(self, best: Sequence[tuple[str, int]], wanted: Wanted) -> list[Hit]:
        """The entries with the lines around what was found; those that are gone by now are left out."""
        by_place: dict[str, list[int]] = {}
        for key, entry_id in best:
            by_place.setdefault(key, []).append(entry_id)
        found: dict[tuple[str, int], tuple[Place, Entry]] = {}
        for place in self._library.places():
            for entry_id in by_place.get(place.key, ()):
                entry = place.entry(entry_id)
                if entry is not None:
                    found[place.key, entry_id] = (place, entry)
        return [self.hit(*found[one], wanted) for one in best if one in found]

    def hit(self, place: Place, entry: Entry, wanted: Wanted) -> Hit:
        """One entry with the lines around the first place where most of the words stand."""
        terms = terms_wanted(wanted)
        fields = "  ·  ".join(
            one.kind.show(entry.value(one.key)) for one in place.fields[1:]
            if (one.kind.is_worded or one.kind.is_linked) and entry.value(one.key) is not None
        )  # fmt: skip
        marks = self._library.marks.of(place.key, place.owner_of(entry.id))
        texts: list[tuple[str, Callable[[], str]]] = [
            ("text", lambda: plain(entry)),
            ("fields", lambda: " ".join(fields.split())),
            ("marks", lambda: "  ·  ".join(mark.comment for mark in marks if mark.comment)),
            ("a file", lambda: " ".join(self.file_words(place, entry).split())),
        ]
        for where, text_of in texts:
            text = text_of()
            snippet, marked = snippet_of(text, terms)
            if marked:
                return Hit(entry, place.name, where, snippet, marked)
        text = texts[0][1]()
        cut = text[:LONGEST_SNIPPET]
        return Hit(entry, place.name, "title", cut + (" …" if len(text) > len(cut) else ""), ())

    def question_in(self, wanted: Wanted, narrowing: Narrowing, key: str) -> Question:
        """The same over the place of a key."""
        return self.question(wanted, narrowing, self._library.place(key))

    def question(self, wanted: Wanted, narrowing: Narrowing, place: Place) -> Question:
        """The search over one place as a question that can be kept as a view."""
        from wily_magpie.core.query import cql  # as it is written by a person

        parts = [one for one in (wanted.node,) if one is not None]
        for key in ("kind", "status"):
            value = narrowing.values.get(key)
            if value and any(one.key == key for one in place.fields):
                parts.append(cql.parse(f"{key} = {quoted(value)}", place.fields).filter)  # type: ignore[arg-type]
        question = Question(all_of(tuple(parts)))
        return replace(question, filter=flat(question.filter))


def plain(entry: Entry) -> str:
    """The text of an entry without its signs, its pictures, and the title where it begins with that."""
    words = " ".join(bare(PICTURE.sub("", entry.body or "")).split())
    while entry.title and words.startswith(entry.title):
        words = words.removeprefix(entry.title).lstrip(" .:–-")
    return words


def flat(node: Node | None) -> Node | None:
    """A filter without "and" within "and"."""
    if not isinstance(node, And):
        return node
    parts = [inner for part in node.parts for inner in (part.parts if isinstance(part, And) else (part,))]
    return And(tuple(parts))


def terms_wanted(wanted: Wanted) -> list[tuple[str, bool]]:
    """(folded word, whether what begins with it counts) of all that is looked for."""
    last = len(wanted.words) - 1
    out = []
    for number, word in enumerate(wanted.words):
        is_begin = word.endswith("*") or (wanted.is_open and number == last)
        parts = WORD.findall(word)
        out += [(folded(part), is_begin and part == parts[-1]) for part in parts]
    return out + [(folded(part), False) for one in wanted.phrases for part in WORD.findall(one)]


def places_in(text: str, terms: Sequence[tuple[str, bool]]) -> list[tuple[int, int, str]]:
    """(begin, end, term) of the words of a text that are looked for."""
    out = []
    for found in WORD.finditer(text):
        word = found[0]
        if IS_UNSPACED.search(word):
            bare_word = "".join(folded(sign) for sign in word)
            for term, _ in terms:
                at = bare_word.find(term) if len(bare_word) == len(word) else -1
                if at >= 0:
                    out.append((found.start() + at, found.start() + at + len(term), term))
            continue
        known = folded(word)
        met = next((one for one, is_begin in terms if known == one or (is_begin and known.startswith(one))), None)
        if met is not None:
            out.append((found.start(), found.end(), met))
    return out


def snippet_of(text: str, terms: Sequence[tuple[str, bool]]) -> tuple[str, tuple[tuple[int, int], ...]]:
    """The lines of a text around the place where most of the words stand, and where they stand in it; "" where none does."""
    found = places_in(text, terms)
    if not found:
        return "", ()
    best, most = 0, 0
    for number, (begin, _, _) in enumerate(found):
        near = {term for at, _, term in found[number : number + 40] if at < begin + LONGEST_SNIPPET - AROUND}
        if len(near) > most:
            best, most = number, len(near)
    first = max(0, found[best][0] - AROUND)
    if first:
        space = text.find(" ", first, found[best][0])
        first = space + 1 if space >= 0 else first
    cut = text[first : first + LONGEST_SNIPPET]
    if first + len(cut) < len(text):
        cut = cut[: cut.rfind(" ")] if " " in cut[AROUND:] else cut
    before = "… " if first else ""
    after = " …" if first + len(cut) < len(text) else ""
    marked = tuple(
        (begin - first + len(before), end - first + len(before))
        for begin, end, _ in found if first <= begin and end <= first + len(cut)
    )  # fmt: skip
    return before + cut + after, marked
