"""What a process under test answers: sound and unsound work, by name."""

import ctypes
import os
import signal
import sys
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from wily_magpie.core.errors import UserError

HELD: list[object] = []


def refuse(text: str) -> None:
    raise UserError("no", text, "Try another.")


def spin() -> None:
    while True:
        pass


def spin_in_c() -> int:
    return int("7" * 4000) ** 4_000_000


def grow() -> int:
    return len("x" * 10_000_000_000)


def hold(megabytes: int) -> int:
    HELD.append(b"x" * megabytes * 1_000_000)
    return os.getpid()


def crash() -> None:
    ctypes.string_at(0)


def leave() -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def chatter() -> str:
    os.write(1, b"what a library prints")
    sys.stdout.write("and what Python prints")
    return "said"


def write(path: str) -> None:
    Path(path).write_text("x")


ANSWERS: Mapping[str, Callable[..., Any]] = {
    "add": lambda one, other: one + other, "pid": os.getpid, "refuse": refuse, "spin": spin, "spin in C": spin_in_c,
    "grow": grow, "hold": hold, "crash": crash, "leave": leave, "chatter": chatter, "write": write,
    "set": lambda: {1, 2},
}  # fmt: skip
