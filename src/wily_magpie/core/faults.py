"""Where our own faults are written down: one log file of bounded size, under XDG_STATE_HOME."""

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.late import loaded

if TYPE_CHECKING:
    import logging
else:
    logging = loaded("logging", later="traceback")  # which is wanted when there is a fault

LARGEST_BYTES, KEPT_FILES = 1_000_000, 2


def logger(name: str) -> "logging.Logger":
    """What a module writes its faults with."""
    return logging.getLogger(name)


def log_path() -> Path:
    """Where the log is."""
    import platformdirs  # not needed by most commands

    return Path(platformdirs.user_state_dir("wily-magpie")) / "faults.log"


class LogFile(logging.Handler):
    """The log; what writes it is loaded, and the file made, when there is something to write."""

    def __init__(self, path: Path) -> None:
        super().__init__(logging.WARNING)
        self.path = path

    @cached_property
    def writer(self) -> "logging.Handler":
        """What writes it."""
        from logging.handlers import RotatingFileHandler

        writer = RotatingFileHandler(self.path, maxBytes=LARGEST_BYTES, backupCount=KEPT_FILES, encoding="utf-8")
        writer.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        return writer

    def emit(self, record: logging.LogRecord) -> None:
        self.writer.emit(record)

    def close(self) -> None:
        if "writer" in self.__dict__:
            self.writer.close()
        super().close()


def start_log(path: Path) -> "logging.Handler | None":
    """Writes warnings and faults of this process into the log, from now on; None where it cannot be written."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError:
        return None
    handler = LogFile(path)
    logging.getLogger("wily_magpie").addHandler(handler)
    return handler
