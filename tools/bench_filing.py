"""`./magpie bench filing`: how often what is proposed is right, and how well its certainty is calibrated, learning as one goes.

The material is made here: entries of six chapters, each with words of its own amid words that all share, some on sites and by
authors that belong to one chapter. The floor is the option that was the most frequent so far.
"""

import random
import tempfile
import time
from collections import Counter
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.fields import AddField
from wily_magpie.core.entries.field import FieldPlan, find_field
from wily_magpie.core.fields import Option
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.queries.filing import FilingQueries, document_of
from wily_magpie.core.session.session import Session

ENTRIES, CHAPTERS, OWN_WORDS, COMMON_WORDS, LENGTH = 2_000, 6, 400, 1_500, 220
LEARNT, BY_CHANCE = 500, 200
"""From which entry on it is judged; how often it is tried what error chance alone makes."""
PLACE, BINS = "collection:1", 10


def bench_filing() -> None:
    """Prints the figures for texts alone, and with sites and authors."""
    for share, name in ((0.0, "texts alone"), (0.6, "with sites and authors")):
        measure(share, name)


def made(number: int, share: float, chance: random.Random) -> tuple[str, dict[str, object], str]:
    """An entry: title, values, text."""
    chapter = min(CHAPTERS - 1, int(chance.expovariate(0.45)))  # some chapters have many entries, some few
    own = 0.01 + 0.07 * chance.random()  # hard enough that much of it cannot be known
    kinds = [chance.random() < own for _ in range(LENGTH)]
    words = [
        f"own{chapter}x{int(OWN_WORDS * chance.random() ** 3)}"
        if is_own
        else f"word{int(COMMON_WORDS * chance.random() ** 3)}"
        for is_own in kinds
    ]
    host = f"site{chapter}n{chance.randrange(4)}" if chance.random() < share else f"site{chance.randrange(60)}"
    author = f"Writer {chapter} {chance.randrange(5)}" if chance.random() < share else f"Writer {chance.randrange(90)}"
    values: dict[str, object] = {
        "chapter": f"Chapter {chapter}", "address": f"http://{host}.example/{number}", "authors": (author,),
    }  # fmt: skip
    return " ".join(words[:6]), values, " ".join(words)


def measure(share: float, name: str) -> None:
    """One setting."""
    chance = random.Random(11)
    with tempfile.TemporaryDirectory() as folder:
        session = Session(Path(folder) / "library", Fetcher())
        options = tuple(Option(f"Chapter {number}") for number in range(CHAPTERS))
        session.do(AddField(PLACE, FieldPlan("chapter", "Chapter", "choice", options)))
        library = session._library
        place, filing = library.place(PLACE), FilingQueries(library)
        field = find_field(place.fields, "chapter")
        so_far: Counter[str] = Counter()
        told: list[tuple[float, bool, bool]] = []
        usual, seconds = [], []
        for number in range(ENTRIES):
            title, values, text = made(number, share, chance)
            session.do(AddEntry(PLACE, title, values, text))  # type: ignore[arg-type]
            entry = place.entry(max(place.listing(session.reader.entries.question(PLACE, "")).ids))
            if entry is None:
                continue
            document = document_of(place, entry)
            right = str(values["chapter"])
            begun = time.perf_counter()
            found = filing.candidates(place, [field], document.host, document.people, document.vector)
            judged = [filing.judged(one) for one in found]
            seconds.append(time.perf_counter() - begun)
            for one in judged:
                library.filing.add_records([(one.features, one.value == right)])
                told.append((one.certainty, one.is_sure, one.value == right))
                usual.append(so_far.most_common(1)[0][0] == right)
            library.filing.put(PLACE, [document])
            so_far[right] += 1
        report(name, told[LEARNT:], usual[LEARNT:], seconds)
        session.close()


def report(name: str, told: list[tuple[float, bool, bool]], usual: list[bool], seconds: list[float]) -> None:
    """One line each."""
    rights = np.array([right for _, _, right in told])
    sure = np.array([is_sure for _, is_sure, _ in told])
    certainty = np.array([one for one, _, _ in told])
    chance = np.random.default_rng(7)
    alone = np.median(
        [calibration_error(certainty, chance.random(len(certainty)) < certainty) for _ in range(BY_CHANCE)]
    )
    error = calibration_error(certainty, rights)
    print(f"filing, {name}: right {rights.mean():.2f} (the most frequent so far {np.mean(usual):.2f});"
          f" said {sure.mean():.2f}, of these right {rights[sure].mean():.2f} (aim: 0.85);"
          f" calibration error {error:.3f} (aim: 0.05; by chance alone {alone:.3f});"
          f" {1000 * float(np.median(seconds)):.1f} ms a slip")  # fmt: skip


def calibration_error(certainty: NDArray[np.float64], rights: NDArray[np.bool_]) -> float:
    """How far certainty and share of right ones lie apart, bin by bin (expected calibration error, Naeini et al. 2015)."""
    bins = np.minimum((certainty * BINS).astype(int), BINS - 1)
    return float(sum(
        abs(certainty[bins == one].mean() - rights[bins == one].mean()) * (bins == one).mean()
        for one in range(BINS) if (bins == one).any()
    ))  # fmt: skip
