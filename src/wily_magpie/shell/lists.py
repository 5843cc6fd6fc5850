"""`wily-magpie lists`: the living lists of notes, filled, or only looked at."""

import argparse
from pathlib import Path

from wily_magpie.core.errors import UserError
from wily_magpie.core.queries.living import DIFFERENT, EDITED, FAULTY, Asked, FilledNote
from wily_magpie.core.session.session import Session
from wily_magpie.shell.output import DONE, USER_ERROR, emit, looked_through, say


def run(args: argparse.Namespace, session: Session) -> int:
    """Fills the lists that are meant."""
    return update(args, session)


def update(args: argparse.Namespace, session: Session) -> int:
    """Fills them, or says which would change."""
    looked_through(session)
    asked = Asked(args.edits, is_wanted=True)
    count = 0
    for key, paths in meant(session, args.place).items():
        filled = [session.reader.living.filled(key, path, asked) for path in paths]
        changed = [one for one in filled if one.after != one.before]
        if changed and not args.check:
            from wily_magpie.core.commands.living import WriteLists  # not needed to look

            session.do(WriteLists(key, tuple(changed), is_wanted=True))
        for one in filled:
            tell(session, key, one, is_check=args.check)
        count += len(changed)
    return USER_ERROR if args.check and count else DONE


def tell(session: Session, key: str, note: FilledNote, *, is_check: bool) -> None:
    """A note as an object; what cannot be filled also as a message."""
    lists = [{"line": one.line, "state": one.state, "told": one.told} for one in note.states]
    is_other = note.after != note.before
    emit(
        {
            "place": session.place(key).name,
            "note": note.path,
            "would change" if is_check else "written": is_other,
            "lists": lists,
        }
    )
    for one in note.states:
        if one.state in (FAULTY, EDITED):
            say(f"{note.path}, list {one.line}: {one.told}")
        elif one.state == DIFFERENT and is_check:
            say(f"{note.path}, list {one.line}: other rows than it holds.")


def meant(session: Session, name: str | None) -> dict[str, list[str]]:
    """The paths of the notes that are meant, by the keys of their folders.

    Raises:
        UserError: there is no such place or folder.
    """
    living = session.reader.living
    if name is None:
        return living.notes_with_lists()
    inside = folder_in(session, name)
    if inside is not None:
        key, folder = inside
        paths = living.notes_with_lists(key)[key]
        return {key: [path for path in paths if path.startswith(folder)]}
    place = session.place(name)
    return living.notes_with_lists(place.key) if place.path else living.notes_asking(place.key)


def folder_in(session: Session, name: str) -> tuple[str, str] | None:
    """The notes folder that a folder on disk lies in, and its path there; None where the name is none of a folder."""
    path = Path(name).expanduser().absolute()
    if "/" not in name and not path.is_dir():
        return None
    for place in session.overview.places:
        if place.path and path.is_relative_to(place.path):
            folder = path.relative_to(place.path).as_posix()
            return place.key, "" if folder == "." else f"{folder}/"
    if "/" in name:
        raise UserError(
            "no-notes", f"{path} lies in no notes folder of this library.", "Add the folder to the library first."
        )
    return None
