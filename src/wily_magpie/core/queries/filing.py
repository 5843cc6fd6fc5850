"""What is proposed for a slip from entries that were filed before, and what is learned when it is kept."""

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.entry import Entry
from wily_magpie.core.entries.field import IN_FOLDER, Field
from wily_magpie.core.entries.proposal import Proposal
from wily_magpie.core.pages.address import host_of
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.library.filing_store import MOST_DOCUMENTS, Document
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.templates.slip import Slip

if TYPE_CHECKING:
    from wily_magpie.core.filing.certainty import Certainty
    from wily_magpie.core.filing.neighbours import Around
    from wily_magpie.core.filing.words import Documents

MOST_OF_HOST, LEAST_LIKENESS, GROWN_BY = 60, 0.05, 1.15
BATCH, REPLAYED, GROWN = 20, 300, 10
MOST_AT_ONCE, GIVE_WAY_S = 200, 0.01


@dataclass(frozen=True)
class Shelf:
    """The documents of a place, ready to be held against a text."""

    version: object
    documents: Sequence[Document]
    vectors: "Documents"


class FilingQueries:
    """See the module. May be used from any thread."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.shelves: dict[str, Shelf] = {}
        self.certainty: Certainty | None = None
        self.fitted_with = 0
        self.replayed: dict[str, int] = {}
        """By the place, how many documents it had when it was learned from them."""

    def with_candidates(self, slip: Slip) -> Slip:
        """A slip with what could be proposed for its blank fields; those that are sure enough are marked so."""
        if not self._library.has_filing or slip.known is not None:
            return slip
        place = self._library.place(slip.place)
        wanted = [line.field for line in slip.lines if is_filed(line.field) and not line.text and not line.is_typed]
        if not wanted:
            return slip
        from wily_magpie.core.filing.words import vector_of  # loads NumPy, which nobody needs at a start

        people = slip.reading.authors
        vector = vector_of(slip.title, slip.reading.content.text)
        found = self.candidates(place, wanted, host_of(slip.reading.page.address), people, vector)
        return replace(slip, candidates=tuple(self.judged(one) for one in found))

    def judged(self, one: Proposal) -> Proposal:
        """A candidate with its certainty."""
        certainty = self.fitted()
        if certainty is None:
            return one
        sure = certainty(one.features)
        return replace(one, certainty=sure, is_sure=sure >= certainty.threshold)

    def fitted(self) -> "Certainty | None":
        """The program's own record, fitted anew when it grew by a seventh."""
        store = self._library.filing
        count = store.count_of_records()
        if self.certainty is None or count >= self.fitted_with * GROWN_BY or count < self.fitted_with:
            from wily_magpie.core.filing.certainty import Certainty  # as above

            self.certainty, self.fitted_with = Certainty.of(store.records()), count
        return self.certainty

    def candidates(
        self,
        place: Place,
        fields: Sequence[Field],
        host: str,
        people: Sequence[str],
        vector: bytes,
        most: int | None = None,
    ) -> list[Proposal]:
        """The likeliest value of each field, where its neighbours have any.

        Args:
            most: only so many of the first documents are looked at; None for all.
        """
        from wily_magpie.core.filing.neighbours import likeliest  # as above

        shelf = self.shelf(place)
        if shelf is None:
            return []
        documents = shelf.documents if most is None else shelf.documents[:most]
        around = around_of(shelf, documents, host, people, vector)
        entries = self.entries(place, [documents[one].owner for one in sorted(around.all)])
        by_number = {at: entries.get(documents[at].owner) for at in around.all}
        out = []
        for field in fields:
            values = {at: values_of(field, entry) for at, entry in by_number.items() if entry is not None}
            found = likeliest(around, values)
            if found is not None:
                out.append(Proposal(field.key, found.value, found.reason, 0.0, found.features))
        return out

    def shelf(self, place: Place) -> Shelf | None:
        """The documents of a place; None where there are none."""
        store = self._library.filing
        version, there = store.version(place.key), self.shelves.get(place.key)
        if there is None or there.version != version:
            from wily_magpie.core.filing.words import Documents  # as above

            documents = store.documents(place.key)
            if not documents:
                return None
            there = self.shelves[place.key] = Shelf(version, documents, Documents.of([one.vector for one in documents]))
        return there

    @staticmethod
    def entries(place: Place, owners: Sequence[str]) -> dict[str, Entry]:
        """Entries by their owners; those that are gone are left out."""
        numbers = {number: owner for owner in owners if (number := place.id_of(owner)) is not None}
        return {numbers[entry.id]: entry for entry in place.rows(list(numbers))}

    # learning

    def learn(self, slip: Slip, place: Place, entry_id: int) -> None:
        """A slip was kept: its entry is a neighbour from now on, and what was proposed was right or wrong."""
        entry = place.entry(entry_id)
        if entry is None:
            return
        fields = {line.field.key: line.field for line in slip.lines}
        records = []
        for one in slip.candidates:
            values = values_of(fields[one.key], entry) if one.key in fields else ()
            if values:  # what a person left blank says nothing
                records.append((one.features, one.value in values))
        self._library.filing.add_records(records)
        self._library.filing.put(place.key, [document_of(place, entry)])

    def refresh(
        self, place: Place, ids: Sequence[int] | None = None, is_over: Callable[[], bool] = lambda: False
    ) -> None:
        """Brings the documents of a place in step with its entries; other threads are let go on in between.

        Args:
            ids: of those that changed; None, or more than a few: it is looked which are missing, and which are gone.
            is_over: asked in between, whether to end.
        """
        store = self._library.filing
        after = store.emptied(place.key)
        if ids is None or len(ids) > MOST_AT_ONCE:
            from wily_magpie.core.query.nodes import Question  # seldom needed

            latest = sorted(one for one in place.listing(Question()).ids if one > after)[-MOST_DOCUMENTS:]
            there = {place.owner_of(one): one for one in latest}
            known = store.owners(place.key)
            store.remove(place.key, sorted(known - there.keys()))
            ids = sorted(one for owner, one in there.items() if owner not in known)
        ids = [one for one in ids if one > after]
        for at in range(0, len(ids), BATCH):
            if is_over():
                return
            time.sleep(GIVE_WAY_S if at else 0)
            found = [place.entry(one) for one in ids[at : at + BATCH]]
            store.put(place.key, [document_of(place, one) for one in found if one is not None])

    def replay(self, place: Place, is_over: Callable[[], bool] = lambda: False) -> None:
        """Learns how sure proposals are from entries that were there before: each is proposed for from those before it.

        It is done anew, now and then, as long as the record is too short to say anything.
        """
        from wily_magpie.core.filing.certainty import LEAST_RECORDS  # as above

        store = self._library.filing
        count = store.count_of_documents(place.key)
        if count < self.replayed.get(place.key, 0) + GROWN or store.count_of_records() >= LEAST_RECORDS:
            return
        self.replayed[place.key] = count
        shelf = self.shelf(place)
        if shelf is None:
            return
        fields = [one for one in place.fields if is_filed(one)]
        begin = max(1, len(shelf.documents) - REPLAYED)
        records = []
        entries = self.entries(place, [one.owner for one in shelf.documents[begin:]])
        for at in range(begin, len(shelf.documents)):
            one = shelf.documents[at]
            entry = entries.get(one.owner)
            if entry is None:
                continue
            if is_over():
                return
            for found in self.candidates(place, fields, one.host, one.people, one.vector, at):
                values = values_of(next(field for field in fields if field.key == found.key), entry)
                if values:
                    records.append((found.features, found.value in values))
        if len(records) > store.count_of_records():
            store.replace_records(records)


def around_of(shelf: Shelf, documents: Sequence[Document], host: str, people: Sequence[str], vector: bytes) -> "Around":
    """The documents around a text."""
    from wily_magpie.core.filing.neighbours import LAST, MOST_NEIGHBOURS, Around  # as above

    likeness = shelf.vectors.likeness(vector)[: len(documents)]
    nearest = [int(one) for one in likeness.argsort()[::-1][:MOST_NEIGHBOURS] if likeness[one] > LEAST_LIKENESS]
    of_host = [at for at, one in enumerate(documents) if host and one.host == host][-MOST_OF_HOST:]
    of_authors = [at for at, one in enumerate(documents) if set(people) & set(one.people)][-MOST_OF_HOST:]
    count = len(documents)
    last = range(max(0, count - LAST), count)
    return Around({one: float(likeness[one]) for one in nearest}, of_host, of_authors, last, count)


def is_filed(field: Field) -> bool:
    """Whether a field says where an entry belongs: it is chosen from options, refers to an entry, or is the folder of a note."""
    return field.key == IN_FOLDER or (field.is_writable and (field.kind.has_options or field.kind.is_linked))


def values_of(field: Field, entry: Entry) -> tuple[str, ...]:
    """The values of an entry in a field, as they are edited, one by one."""
    value = entry.value(field.key)
    if isinstance(value, tuple):
        return tuple(field.kind.show((one,)) for one in value)
    return () if value is None else (field.kind.show(value),)


def document_of(place: Place, entry: Entry) -> Document:
    """An entry as the index knows it."""
    from wily_magpie.core.filing.words import vector_of  # as above

    main = place.info.main_address
    address = entry.value(main.key) if main is not None else ""
    people: Mapping[str, object] = {one.key: entry.value(one.key) for one in place.fields if one.kind.is_people}
    names = next((value for value in people.values() if isinstance(value, tuple)), ())
    host = host_of(address) if isinstance(address, str) else ""
    return Document(place.owner_of(entry.id), host, names, vector_of(entry.title, entry.body or ""))
