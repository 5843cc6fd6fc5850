"""The process itself: `python -m wily_magpie.core.worker.serve MODULE SECONDS MEGABYTES`.

Each question names one of the module's `ANSWERS`; each answer is an object with "value", or "error" (what a person is told),
"ended" (why it could not be finished) or "fault" (of ours). Before it stands twice its length, and one more where the
process is not to be asked again.
"""

import gc
import importlib
import json
import math
import os
import pickle
import resource
import sys
import time
import traceback
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, BinaryIO

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.worker.process import HEAD_BYTES, TOLD

KEPT_SHARE = 0.5
"""A process that still holds more than this share of its memory after an answer is not asked again."""


def main() -> None:
    """Answers until nobody asks any more."""
    module, seconds, megabytes = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    questions, answers = pipes()
    functions: Mapping[str, Callable[..., Any]] = importlib.import_module(module).ANSWERS
    resource.setrlimit(resource.RLIMIT_AS, (megabytes * 1_000_000,) * 2)
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))  # it writes no files
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    gc.freeze()
    while head := questions.read(HEAD_BYTES):
        resource.setrlimit(resource.RLIMIT_CPU, (math.ceil(time.process_time()) + seconds, resource.RLIM_INFINITY))
        answer = answered(functions, questions.read(int.from_bytes(head, "big")))
        is_last = answer is None or held_bytes() > KEPT_SHARE * megabytes * 1_000_000
        written = answer or json.dumps({"ended": "needs too much memory"}).encode()
        answers.write((len(written) * 2 + is_last).to_bytes(HEAD_BYTES, "big") + written)
        answers.flush()


def pipes() -> tuple[BinaryIO, BinaryIO]:
    """Where questions come from and answers go; what a library prints goes nowhere."""
    questions, answers = os.fdopen(os.dup(0), "rb"), os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    nothing = os.open(os.devnull, os.O_RDONLY)
    os.dup2(nothing, 0)
    os.close(nothing)
    return questions, answers


def answered(functions: Mapping[str, Callable[..., Any]], question: bytes) -> bytes | None:
    """The answer to a question; None where there is not enough memory for it."""
    try:
        name, given = pickle.loads(question)  # noqa: S301 - of the program's own making
        return json.dumps({"value": functions[name](*given)}).encode()
    except MagpieError as error:
        if type(error).__name__ in TOLD:
            return json.dumps({"error": [type(error).__name__, error.slug, error.message, error.way_out]}).encode()
        return json.dumps({"fault": traceback.format_exc()}).encode()
    except MemoryError:
        return None
    except Exception:  # noqa: BLE001 - told, and raised again where it was asked
        return json.dumps({"fault": traceback.format_exc()}).encode()


def held_bytes() -> int:
    """The memory that this process holds."""
    pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
    return pages * resource.getpagesize()


if __name__ == "__main__":
    main()
