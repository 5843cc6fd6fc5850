"""What the places of one library share: its database, its steps, its trash."""

from collections.abc import Callable
from pathlib import Path

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.database import Database
from wily_magpie.core.places.history import History
from wily_magpie.core.places.own_folders import OwnFolders
from wily_magpie.core.places.trash import Trash


@dataclass(frozen=True)
class PlaceContext:
    """See the module.

    Attributes:
        index_folder: where the indexes of notes folders live; they may be deleted at any time.
        own_folders: those that this person has set up.
        keep_file: keeps a file of an entry in the library: (name, contents, where it came from) → its value.
    """

    database: Database
    history: History
    trash: Trash
    index_folder: Path
    own_folders: OwnFolders
    keep_file: Callable[[str, bytes, str], str]
