"""What the benches share: works by turns, and a line of a result."""

import statistics
import time
from collections.abc import Callable


def by_turns(runs: int, **works: Callable[[], float]) -> dict[str, list[float]]:
    """Seconds of each work, run by turns so that the machine's moods meet all alike; a first round does not count."""
    for work in works.values():
        work()
    out: dict[str, list[float]] = {name: [] for name in works}
    for _ in range(runs):
        for name, work in works.items():
            out[name].append(work())
    return out


def timed(work: Callable[[], object]) -> Callable[[], float]:
    """The same work, telling its seconds."""

    def run() -> float:
        begun = time.perf_counter()
        work()
        return time.perf_counter() - begun

    return run


def tell(what: str, ours: list[float], floor: list[float], floor_name: str, aim: str = "") -> None:
    """One line of the result."""
    quarters = statistics.quantiles(ours, n=4) if len(ours) > 3 else [min(ours), 0, max(ours)]
    mine, theirs = statistics.median(ours), statistics.median(floor)
    print(
        f"{what:<34} {mine * 1000:9.1f} ms ({quarters[0] * 1000:.1f} to {quarters[2] * 1000:.1f})"
        f"   {mine / theirs:6.2f} x {floor_name} ({theirs * 1000:.1f} ms){f'   aim: {aim}' if aim else ''}",
        flush=True,
    )
