"""Formulas of TeX as pictures, drawn in a process apart: a formula of a page may be made to take for ever."""

from collections.abc import Mapping, Sequence

from wily_magpie.core.worker.process import Broken, Ended, Limits, Worker

LIMITS = Limits(seconds=3, megabytes=500)
WORKER = Worker("wily_magpie.core.pages.formulas_drawn", LIMITS)
LONGEST = 2_000
"""Characters of a formula; a longer one is shown as it is written."""
EM_PX = 96
"""The size of the letters in the pictures."""
MOST_AT_ONCE, MOST_KNOWN = 40, 2_000
KNOWN: dict[str, bytes] = {}


def drawn_by(formulas: Mapping[str, str]) -> dict[str, bytes | None]:
    """Formulas as SVG by some name of theirs, for letters of EM_PX; None where one cannot be drawn. They are remembered."""
    known = {
        tex: picture for tex in set(formulas.values()) if (picture := KNOWN.get(tex)) is not None
    }  # many threads ask
    fresh = [tex for tex in dict.fromkeys(formulas.values()) if tex not in known]
    known |= zip(fresh, draw_all(fresh), strict=True)
    if len(KNOWN) > MOST_KNOWN:
        KNOWN.clear()
    KNOWN.update(known)
    return {name: known[tex] or None for name, tex in formulas.items()}


def draw_all(formulas: Sequence[str]) -> list[bytes]:
    """The same of several, with one question; where one breaks the process, each is asked by itself."""
    short = [tex if len(tex) <= LONGEST else "" for tex in formulas]
    out: list[bytes] = []
    for at in range(0, len(short), MOST_AT_ONCE):
        some = short[at : at + MOST_AT_ONCE]
        try:
            out += (text.encode() for text in WORKER.ask("draw", some, EM_PX))
        except (Ended, Broken):
            out += [b""] if len(some) == 1 else [draw_all([tex])[0] for tex in some]
    return out
