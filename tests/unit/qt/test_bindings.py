"""Qt's classes are whole before two threads meet them."""

import subprocess
import sys

TOGETHER = """
import sys, threading
from PyQt6 import QtCore, QtGui, QtWidgets
{before}
sys.setswitchinterval(1e-6)
classes = [one for module in (QtCore, QtGui, QtWidgets) for one in list(vars(module).values()) if isinstance(one, type)]
gate, held = threading.Barrier(2), ([], [])
def run(mine):
    for one in classes:
        gate.wait()
        getattr(one, "__doc__")
        mine.append([id(inner) for inner in vars(one).values() if isinstance(inner, type)])
threads = [threading.Thread(target=run, args=(mine,)) for mine in held]
for thread in threads:
    thread.start()
for thread in threads:
    thread.join()
print(sum(one != other for one, other in zip(*held)))
"""
WHOLE = "from wily_magpie.qt.bindings import made_whole; list(made_whole())"


def differing(before: str) -> int:
    """Of how many classes two threads hold different enumerations."""
    told = subprocess.run(
        [sys.executable, "-c", TOGETHER.format(before=before)], capture_output=True, text=True, check=True
    )
    return int(told.stdout)


def test_two_threads_hold_the_same_enumerations() -> None:
    assert differing(WHOLE) == 0
    assert differing("") > 0, "else the bindings have learned it, and bindings.py can go"
