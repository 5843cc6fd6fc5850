"""What the benches share: works by turns, a line of a result, the made-up web in a process of its own."""

import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

SERVER = """
from wily_magpie.demo.server import StandInWeb
web = StandInWeb(passes_on=False)
print(web.proxy, flush=True)
input()
web.close()
"""


HALTS = """
import sys, threading, time
over = threading.Event()
threading.Thread(target=lambda: (sys.stdin.read(), over.set()), daemon=True).start()
worst, last = 0.0, time.perf_counter()
while not over.is_set():
    time.sleep(0.005)
    now = time.perf_counter()
    worst, last = max(worst, now - last - 0.005), now
print(worst)
"""


class Halts:
    """The longest time for which this machine itself halted a process that did nothing but wait, meanwhile."""

    def __init__(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-c", HALTS], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def end(self) -> float:
        """Ends it; the seconds."""
        return float(self.process.communicate("")[0])


@contextmanager
def web_apart() -> Iterator[str]:
    """The made-up web, by its proxy's address, in a process of its own: as on a real web, serving takes nothing from the program."""
    with subprocess.Popen(
        [sys.executable, "-c", SERVER], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    ) as served:
        yield served.stdout.readline().strip() if served.stdout is not None else ""
        served.communicate("\n")


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
