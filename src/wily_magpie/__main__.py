"""`python -m wily_magpie`, and the command wily-magpie."""

import gc
import os
import sys

from wily_magpie.core.late import loaded

AT_START = 200_000
"""So many new objects are made before unused ones are looked for: 700, as usual, is a tenth of the time of a start.

The window comes back to a usual pace once it is there, and leaves aside what was made until then.
"""


def make_ready() -> None:
    """What is done before all else is loaded."""
    gc.set_threshold(AT_START)
    loaded("urllib.parse", later="ipaddress")  # which it wants for addresses in brackets


def main() -> None:
    """Runs the program."""
    make_ready()
    from wily_magpie.app import main as run  # what it loads is loaded by this pace already

    code = run()
    if "PyQt6.QtWidgets" in sys.modules:
        sys.exit(code)
    leave(code)


def leave(code: int) -> None:
    """Ends a word of the shell, whose library is closed: taking every module down takes as long as loading a third of them."""
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (BrokenPipeError, ValueError):  # nobody reads it any more
            continue
    os._exit(code)


if __name__ == "__main__":
    main()
