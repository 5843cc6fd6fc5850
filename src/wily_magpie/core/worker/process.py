"""Work that is done in a process of its own, which the system ends where it takes too long or too much.

Libraries that read pages, and those that work out expressions, are in C for as long and with as much memory as it takes; a
thread cannot be stopped there, a process can. It is started when it is first needed and kept; one that was ended is
started anew for the next question.

Questions are pickled, since we make them. Answers are JSON: whoever breaks the process by a page could write anything.
"""

import atexit
import json
import pickle
import select
import signal
import subprocess
import sys
import threading
import time
from typing import Any

from wily_magpie.core import errors
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.faults import logger
from wily_magpie.core.guard import GUARD

log = logger(__name__)
HEAD_BYTES = 8
"""What stands before each question and each answer: its length, of an answer as `serve` has it."""
PIECE_BYTES = 1_000_000
PATIENCE = 4
"""How many seconds pass for each second of the processor, where others want the processor too, until it is taken to hang."""
START_S = 30.0
TOLD = {one.__name__: one for one in (errors.UserError, errors.UnreadableValue, errors.EnvironmentFailure,
                                      errors.PageFailure)}  # fmt: skip
"""What work may raise for a person to read."""


class Ended(Exception):
    """The process was ended in the midst of its work; the text says why, as the end of a sentence."""


class Broken(Exception):
    """A fault of ours in the process; the text is its traceback."""


@dataclass(frozen=True)
class Limits:
    """What one question may take.

    Attributes:
        seconds: of the processor.
        megabytes: of address space, for the process as a whole.
    """

    seconds: int
    megabytes: int


class Worker:
    """Answers questions one after another; may be asked from any thread but the interface's.

    Args:
        module: what has the functions that are asked for by name, see `serve`.
    """

    def __init__(self, module: str, limits: Limits) -> None:
        self.module, self.limits = module, limits
        self.lock = threading.Lock()
        self.process: subprocess.Popen[bytes] | None = None
        atexit.register(self.close)

    def ask(self, name: str, *given: object) -> Any:
        """What a function of the module gives, as JSON has it.

        Raises:
            MagpieError: the function raised it.
            Ended: it took too long or too much memory, or broke the process.
            Broken: it failed in any other way.
        """
        GUARD.check(f"asking {self.module}")
        question = pickle.dumps((name, given), pickle.HIGHEST_PROTOCOL)
        with self.lock:
            try:
                written, is_last = self.exchange(self.running(), question)
            except BaseException:
                self.close()
                raise
            if is_last:
                self.close()
        return result_of(json.loads(written))

    def prepare(self) -> None:
        """Starts the process, so that it is there when the first question comes."""
        with self.lock:
            self.running()

    def running(self) -> subprocess.Popen[bytes]:
        """The process."""
        if self.process is None or self.process.poll() is not None:
            self.close()
            limits = [str(self.limits.seconds), str(self.limits.megabytes)]
            # -P: modules are not looked for where the person happens to be; the very file that runs is started, wherever it is
            command = [sys.executable, "-P", "-m", "wily_magpie.core.worker.serve", self.module, *limits]
            self.process = subprocess.Popen(  # noqa: S603 - the program itself
                command,
                executable="/proc/self/exe",
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
            )
        return self.process

    def exchange(self, process: subprocess.Popen[bytes], question: bytes) -> tuple[bytes, bool]:
        """The answer to a question, and whether the process is not to be asked again."""
        assert process.stdin is not None  # noqa: S101 - both are pipes
        deadline = time.monotonic() + START_S + PATIENCE * self.limits.seconds
        try:
            process.stdin.write(len(question).to_bytes(HEAD_BYTES, "big") + question)
            process.stdin.flush()
            size, is_last = divmod(int.from_bytes(self.taken(process, HEAD_BYTES, deadline), "big"), 2)
            return self.taken(process, size, deadline), bool(is_last)
        except (BrokenPipeError, EOFError) as error:
            raise Ended(reason_of(process.wait())) from error

    def taken(self, process: subprocess.Popen[bytes], size: int, deadline: float) -> bytes:
        """So many bytes of what the process writes.

        Raises:
            EOFError: it ended before.
            Ended: it writes nothing.
        """
        assert process.stdout is not None  # noqa: S101
        out = bytearray()
        while len(out) < size:
            wait_s = max(0.0, deadline - time.monotonic())
            if not select.select([process.stdout], [], [], wait_s)[0]:
                raise Ended("takes too long")
            piece = process.stdout.read1(min(PIECE_BYTES, size - len(out)))  # type: ignore[attr-defined]
            if not piece:
                raise EOFError
            out += piece
        return bytes(out)

    def close(self) -> None:
        """Ends the process."""
        process, self.process = self.process, None
        if process is not None:
            process.kill()
            process.communicate()


def result_of(answer: Any) -> Any:
    """What an answer holds, or the error that it tells."""
    if "error" in answer:
        kind, *words = answer["error"]
        raise TOLD[kind](*words)
    if "ended" in answer:
        raise Ended(answer["ended"])
    if "fault" in answer:
        log.error("in a process apart: %s", answer["fault"])
        raise Broken(answer["fault"])
    return answer["value"]


def reason_of(code: int) -> str:
    """Why a process ended by itself."""
    if code == -signal.SIGXCPU:
        return "takes too long"
    return "needs too much memory" if code == -signal.SIGKILL else "breaks what should read it"
