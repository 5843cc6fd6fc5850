"""What a library keeps beside its tables: copies of pages, pictures, and files of entries, each once by its SHA-256."""

import zlib
from pathlib import Path
from typing import TYPE_CHECKING

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.places.api import Place
from wily_magpie.core.places.atomic import read_bytes, sha256_of, write_bytes
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.recovery_journal import sweep
from wily_magpie.core.places.table import now

if TYPE_CHECKING:
    from wily_magpie.core.pages.page import Page

LARGEST_FILE_BYTES = 2_000_000_000


@dataclass(frozen=True)
class KeptPage:
    """A page that an entry was kept from."""

    address: str
    captured: str
    sha256: str
    media_type: str


class BlobStore:
    """The folders `pages` and `files` of a library, and the tables that know what lies in them.

    A file is written within the transaction that tells the database of it, so that whoever sweeps away what nothing knows,
    in whichever process, meets either both or neither.
    """

    def __init__(self, folder: Path, database: Database) -> None:
        self.folder = folder
        self.database = database

    def keep_copy(self, page: "Page") -> str:
        """Keeps a copy of a page, or of the file that it stands for; its SHA-256, by which it is found again."""
        import gzip  # here, as below, since a window begins without them

        content = page.file or page.html.encode("utf-8", "surrogatepass")
        packed = gzip.compress(content, 6, mtime=0)
        sha256 = sha256_of(packed)
        with self.database.writing() as connection:
            self.put(self.copy_path(sha256, page.media_type), packed)
            connection.execute("INSERT OR IGNORE INTO page_file VALUES (?)", (sha256,))
        return sha256

    @staticmethod
    def put(path: Path, content: bytes) -> None:
        """Writes a file that is known by its contents, unless it is there."""
        if not path.exists():
            write_bytes(path, content)

    def copy_path(self, sha256: str, media_type: str) -> Path:
        """Where the copy of a page of some type lies."""
        import mimetypes

        suffix = ".html" if media_type == "text/html" else mimetypes.guess_extension(media_type) or ".bin"
        return self.folder / "pages" / f"{sha256}{suffix}.gz"

    def copy_of(self, sha256: str, media_type: str) -> bytes | None:
        """A kept copy of a page; None where it is missing."""
        import gzip

        try:
            return gzip.decompress(self.copy_path(sha256, media_type).read_bytes())
        except (OSError, EOFError, zlib.error):
            return None

    def keep_page(self, place: Place, entry_id: int, page: "Page", canonical: str) -> None:
        """Keeps a copy of the page that an entry came from."""
        sha256 = self.keep_copy(page)
        with self.database.writing() as connection:
            connection.execute(
                "INSERT INTO page (entry_id, place, address, canonical, captured, sha256, media_type)"
                " VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    place.page_owner(entry_id),
                    place.key,
                    page.address,
                    canonical,
                    now(),
                    sha256,
                    page.media_type,
                ),
            )

    def page_of(self, place: Place, entry_id: int, canonical: str = "") -> KeptPage | None:
        """The page that an entry was kept from last; None where none was kept.

        Args:
            canonical: of a note, by which address its page is known.
        """
        sql = (
            "SELECT address, captured, sha256, media_type FROM page"
            " WHERE place = ? AND (entry_id = ? OR (entry_id IS NULL AND canonical = nullif(?, '')))"
            " ORDER BY id DESC LIMIT 1"
        )
        rows = self.database.rows(sql, (place.key, place.page_owner(entry_id), canonical))
        return KeptPage(*map(str, rows[0])) if rows else None

    def entries_with_page(self, most: int) -> list[tuple[str, int]]:
        """(place, id) of the entries of collections with a kept page, the latest first."""
        sql = "SELECT DISTINCT place, entry_id FROM page WHERE entry_id IS NOT NULL ORDER BY id DESC LIMIT ?"
        return [(str(place), int(str(entry_id))) for place, entry_id in self.database.rows(sql, (most,))]

    def keep_picture(self, address: str, content: bytes, media_type: str) -> None:
        """Keeps a picture under the address that pages know it by."""
        sha256 = sha256_of(content)
        with self.database.writing() as connection:
            self.put(self.folder / "files" / sha256, content)
            connection.execute(
                "INSERT OR REPLACE INTO picture VALUES (?, ?, ?, ?)", (address, sha256, media_type, len(content))
            )

    def picture(self, address: str) -> bytes | None:
        """A kept picture; None where it was not kept."""
        path = self.picture_path(address)
        return path.read_bytes() if path is not None else None

    def picture_path(self, address: str) -> Path | None:
        """Where a kept picture lies; None where it was not kept."""
        sha256 = self.database.one("SELECT sha256 FROM picture WHERE address = ?", (address,))
        path = self.folder / "files" / str(sha256)
        return path if sha256 is not None and path.is_file() else None

    def keep_icon(self, host: str, address: str) -> None:
        """Remembers which kept picture is the icon of a site."""
        with self.database.writing() as connection:
            connection.execute("INSERT OR REPLACE INTO site_icon VALUES (?, ?)", (host, address))

    def icon(self, host: str) -> bytes | None:
        """The icon of a site; None where none was kept."""
        address = self.database.one("SELECT address FROM site_icon WHERE host = ?", (host,))
        return self.picture(str(address)) if address is not None else None

    def keep_file(self, name: str, content: bytes, origin: str = "") -> str:
        """Keeps a file of an entry; its value in a field of files.

        Args:
            origin: the address or path that it came from.
        """
        import mimetypes

        sha256 = sha256_of(content)
        name = Path(name.replace("/", " ").replace("\0", "")).name[-255:] or "file"
        media_type = mimetypes.guess_type(name)[0] or "application/octet-stream"
        with self.database.writing() as connection:
            self.put(self.folder / "files" / sha256, content)
            connection.execute(
                "INSERT OR IGNORE INTO file VALUES (?, ?, ?, ?)", (sha256, media_type, len(content), origin)
            )
        return f"{sha256}/{name}"

    @staticmethod
    def file_at(path: Path) -> tuple[str, bytes, str]:
        """Name, contents and origin of a file on disk.

        Raises:
            UserError: there is none, it is a folder, or too large.
        """
        if not path.is_file():
            raise UserError("no-file", f"There is no file {path}.", "Check its name and place.")
        if path.stat().st_size > LARGEST_FILE_BYTES:
            raise UserError("file-too-large", f"{path.name} is larger than 2 GB.", "Keep its path as a text instead.")
        content = read_bytes(path)
        if content is None:
            raise EnvironmentFailure("file-unread", f"{path} cannot be read.", "Check its rights.")
        return path.name, content, path.absolute().as_uri()

    def sweep(self) -> int:
        """Removes files that were written but never told to the database; how many."""
        with self.database.writing():  # nobody is in the middle of keeping one now
            files = self.database.rows("SELECT sha256 FROM file UNION SELECT sha256 FROM picture")
            pages = self.database.rows(
                "SELECT sha256 FROM page_file UNION SELECT sha256 FROM page UNION SELECT sha256 FROM sample"
            )
            return sweep(self.folder / "files", {str(row[0]) for row in files}) + sweep(
                self.folder / "pages", {str(row[0]) for row in pages}
            )

    def file_path(self, stored: str) -> Path | None:
        """Where a stored file lies; None where it is missing."""
        path = self.folder / "files" / stored.partition("/")[0]
        return path if path.is_file() else None
