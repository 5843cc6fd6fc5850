"""The links of a notes folder: which there are, what they count, which lead nowhere."""

import json
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager

from wily_magpie.core.places.database import Database
from wily_magpie.core.places.notes.facts import bare_name, double_name

MOST_LINKED = 400
"""Links whose ends are looked at one by one; of more, all notes are counted anew."""
MOST_LOOKED = 20_000
"""Files that are looked at for where such lie."""
BESIDE = "."
"""Said of files that lie each in the folder of its note."""
LINKS_SQL = """
CREATE TABLE beside (path TEXT PRIMARY KEY, name TEXT NOT NULL) STRICT, WITHOUT ROWID;   -- files that are no notes
CREATE INDEX beside_name ON beside (name);
CREATE TABLE link (
  note_id INTEGER NOT NULL, target TEXT NOT NULL, is_double INTEGER NOT NULL,
  is_own INTEGER NOT NULL) STRICT;              -- 0: it stands in a list, which the program filled
CREATE INDEX link_target ON link (target, is_double);
CREATE INDEX link_note ON link (note_id);
"""
LEADS = """CASE WHEN link.is_double
    THEN EXISTS (SELECT 1 FROM note AS n WHERE n.name = link.target OR n.bare = link.target)
      OR EXISTS (SELECT 1 FROM beside AS b WHERE b.name = link.target OR b.path = link.target)
    ELSE EXISTS (SELECT 1 FROM note AS n WHERE n.path = link.target)
      OR EXISTS (SELECT 1 FROM beside AS b WHERE b.path = link.target) END"""
"""Whether a link leads to a file of the folder."""
COUNTS_SQL = f"""UPDATE notes SET g_links_in = found.come, g_broken_links = found.broken FROM (
  SELECT note.id AS id, CAST(
      (SELECT count(DISTINCT note_id) FROM link WHERE is_own AND note_id <> note.id AND (
        (NOT is_double AND target = note.path) OR (is_double AND target IN (note.name, note.bare)))) AS REAL) AS come,
    CAST((SELECT count(*) FROM link WHERE note_id = note.id AND is_own AND NOT ({LEADS})) AS REAL) AS broken
  FROM note WHERE {{which}}) AS found
  WHERE notes.id = found.id AND (g_links_in IS NOT found.come OR g_broken_links IS NOT found.broken)"""


class NoteLinks:
    """The part of the index about them; written within the transaction under way."""

    def __init__(self, database: Database) -> None:
        self.database = database
        self.is_counting = self.is_uncounted = False

    def of(self, ids: Sequence[int]) -> list[tuple[str, int]]:
        """(target, whether in double brackets) of the links that stand in notes; none where they are too many to look at."""
        sql = f"SELECT target, is_double FROM link WHERE note_id IN (SELECT value FROM json_each(?)) LIMIT {MOST_LINKED + 1}"
        return [(str(target), int(str(double))) for target, double in self.database.rows(sql, (json.dumps(list(ids)),))]

    def settle(self, ids: Sequence[int], links: Sequence[tuple[str, int]], paths: Sequence[str]) -> None:
        """Counts anew which links come in and which are broken, of all notes that a change can have touched.

        Args:
            ids: of notes that changed. links: what these link to, or did. paths: of files that came or went.
        """
        if self.is_counting:
            self.is_uncounted = True
            return
        with self.database.writing() as connection:
            if len(links) + len(paths) > MOST_LINKED:
                connection.execute(COUNTS_SQL.format(which="1"))
                return
            names = [(path, 0) for path in paths]
            names += [(name, 1) for path in paths for name in (bare_name(path), double_name(path), path.casefold())]
            names += [(path.rpartition("/")[2].casefold(), 1) for path in paths]
            which = (
                "note.id IN (SELECT value FROM json_each(?1))"
                " OR note.path IN (SELECT value ->> 0 FROM json_each(?2) WHERE NOT value ->> 1)"
                " OR note.name IN (SELECT value ->> 0 FROM json_each(?2) WHERE value ->> 1)"
                " OR note.bare IN (SELECT value ->> 0 FROM json_each(?2) WHERE value ->> 1)"
                " OR note.id IN (SELECT note_id FROM json_each(?3) JOIN link ON target = value ->> 0 AND is_double = value ->> 1)"
            )
            given = (json.dumps(list(ids)), json.dumps(links), json.dumps(names))
            connection.execute(COUNTS_SQL.format(which=which), given)

    @contextmanager
    def counting_late(self) -> Iterator[None]:
        """Many files are taken in: what links count is settled once, behind them."""
        self.is_counting, self.is_uncounted = True, False
        try:
            yield
        finally:
            self.is_counting = False
            if self.is_uncounted:
                with self.database.writing() as connection:
                    connection.execute(COUNTS_SQL.format(which="1"))

    def is_beside(self, path: str) -> bool:
        """Whether there is another file of that path, or of that name in any folder."""
        sql = "SELECT 1 FROM beside WHERE path = ?1 OR name = ?2"
        return self.database.one(sql, (path, path.rpartition("/")[2].casefold())) is not None

    def habit(self, endings: Sequence[str]) -> str | None:
        """The folder in which files with these endings lie for the most part; BESIDE where each lies by its notes, None for none."""
        rows = self.database.rows(f"SELECT path FROM beside LIMIT {MOST_LOOKED}")
        paths = [str(path) for (path,) in rows if str(path).casefold().endswith(tuple(endings))]
        if not paths:
            return None
        folder, many = Counter(path.rpartition("/")[0] for path in paths).most_common(1)[0]
        return folder if many * 2 > len(paths) else BESIDE

    def put_beside(self, paths: Sequence[str]) -> None:
        """Takes over which other files there are in the folder."""
        known = {str(path) for (path,) in self.database.rows("SELECT path FROM beside")}
        fresh, gone = [path for path in paths if path not in known], known.difference(paths)
        if not fresh and not gone:
            return
        with self.database.writing() as connection:
            named = [(path, path.rpartition("/")[2].casefold()) for path in fresh]
            connection.executemany("INSERT OR IGNORE INTO beside VALUES (?, ?)", named)
            connection.executemany("DELETE FROM beside WHERE path = ?", [(path,) for path in gone])
            self.settle((), (), [*fresh, *gone])

    @property
    def has_brackets(self) -> bool:
        """Whether notes link by double brackets more than by paths."""
        sql = "SELECT total(is_double), count(*) FROM (SELECT is_double FROM link WHERE is_own LIMIT 1000)"
        ((double, many),) = self.database.rows(sql)
        return float(str(double)) * 2 > float(str(many))

    def leading_to(self, path: str, *, are_own: bool = False) -> list[tuple[int, str]]:
        """(id, path) of the notes that link to a path.

        Args:
            are_own: whether only links count that people wrote, and none that stand in living lists.
        """
        sql = (
            "SELECT DISTINCT note.id, note.path FROM link JOIN note ON note.id = note_id WHERE ((target = ? AND NOT is_double)"
            f" OR (is_double AND target IN (?, ?))){' AND is_own' if are_own else ''} ORDER BY note.path"
        )
        rows = self.database.rows(sql, (path, bare_name(path), double_name(path)))
        return [(int(str(number)), str(where)) for number, where in rows]
