"""Where our own faults are written down: one log file of bounded size, under XDG_STATE_HOME."""

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

LARGEST_BYTES, KEPT_FILES = 1_000_000, 2


def log_path() -> Path:
    """Where the log is."""
    import platformdirs  # not needed by most commands

    return Path(platformdirs.user_state_dir("wily-magpie")) / "faults.log"


def start_log(path: Path) -> logging.Handler | None:
    """Writes warnings and faults of this process into the log, from now on; None where it cannot be written."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            path, maxBytes=LARGEST_BYTES, backupCount=KEPT_FILES, encoding="utf-8", delay=True
        )
    except OSError:
        return None
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    handler.setLevel(logging.WARNING)
    logging.getLogger("wily_magpie").addHandler(handler)
    return handler
