"""What SQLite's write-ahead log held before a database was opened, held against what SQLite took from it.

SQLite reads its log (WAL) up to the first frame whose checksum is wrong, and says nothing of what stands behind that: after a
crash this is a change that was not finished. Where a finished one stands behind it, the log is damaged, and changes are lost.
The format is told in https://www.sqlite.org/fileformat2.html, section 4.
"""

import struct
from pathlib import Path

from wily_magpie.core.dataclass import dataclass

HEADER, FRAME = struct.Struct(">8I"), struct.Struct(">6I")
LARGEST_BYTES = 256_000_000
ASIDE = "damaged-log-"


@dataclass(frozen=True)
class LogBefore:
    """A log as it was read.

    Attributes:
        finished: the number of the last frame that ends a change, among those of the log's present round.
    """

    content: bytes
    finished: int

    @property
    def header(self) -> bytes:
        """By which one round of the log is told from another."""
        return self.content[: HEADER.size]


def read_log(database: Path) -> LogBefore | None:
    """The log beside a database; None where there is none, or nothing in it."""
    try:
        path = log_of(database)
        if not HEADER.size < path.stat().st_size <= LARGEST_BYTES:
            return None
        content = path.read_bytes()
    except OSError:
        return None
    page_bytes, salts = HEADER.unpack_from(content)[2], HEADER.unpack_from(content)[4:6]
    if page_bytes == 1:  # so 65,536 is written
        page_bytes = 65_536
    if not 512 <= page_bytes <= 65_536:
        return LogBefore(content, 1)  # its very head is damaged
    step = FRAME.size + page_bytes
    frames = [FRAME.unpack_from(content, at) for at in range(HEADER.size, len(content) - step + 1, step)]
    if frames and not any(frame[2:4] == salts for frame in frames):
        salts = frames[0][2:4]
    ends = [number for number, frame in enumerate(frames, 1) if frame[2:4] == salts and frame[1]]
    return LogBefore(content, max(ends, default=0))


def log_of(database: Path) -> Path:
    """The file of the log beside a database."""
    return database.with_name(f"{database.name}-wal")


def set_aside_damaged(before: LogBefore | None, database: Path, taken: int, moment: str) -> Path | None:
    """Keeps a log of which SQLite took less than was finished; the file, or None where nothing is wrong.

    Args:
        taken: how many frames SQLite took.
        moment: for the name of the file.
    """
    if before is None or taken >= before.finished:
        return None
    now = log_of(database)
    if now.is_file() and now.read_bytes()[: HEADER.size] != before.header:
        return None  # others have begun another round meanwhile
    aside = database.with_name(f"{ASIDE}{moment}")
    aside.write_bytes(before.content)
    return aside
