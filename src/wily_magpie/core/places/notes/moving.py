"""Renaming and moving a note: links to it follow, and its own links still lead where they led."""

from collections.abc import Sequence
from pathlib import Path
from posixpath import normpath, relpath

from wily_magpie.core.entries.note_move import Move
from wily_magpie.core.errors import UserError
from wily_magpie.core.places.atomic import make_folder, read_bytes
from wily_magpie.core.places.notes.disk import stamp_of
from wily_magpie.core.places.notes.encoding import decode, encode
from wily_magpie.core.places.notes.folder import NotesFolder
from wily_magpie.core.places.notes.outline import NoteLink, names_of, outline, written


def look_at_move(notes: NotesFolder, entry_id: int, new: str) -> Move:
    """What would be rewritten; nothing is changed.

    Raises:
        UserError: the note is gone, or the new path is taken or none.
    """
    old = notes.index.path(entry_id)
    if old is None or not (notes.path / old).is_file():
        raise UserError("note-gone", "This note is no longer there.", "Another program has removed or renamed it.")
    target = notes.inside(new)
    name = target.relative_to(notes.path).as_posix()
    if target.exists() and name != old and not same_file(target, notes.path / old):
        raise UserError("note-there", f"There is a note {name} already.", "Choose another name.")
    changes = []
    for path in touched(notes, old):
        text = decode(read_bytes(notes.path / path) or b"", notes.settings.other_encoding).text
        count = relinked(notes, text, path, old, name)[1]
        if count:
            changes.append((path, count))
    return Move(old, name, tuple(changes))


def same_file(one: Path, other: Path) -> bool:
    """Whether two names lead to the same file, as on disks that do not tell capitals apart."""
    return one.exists() and other.exists() and one.samefile(other)


def touched(notes: NotesFolder, old: str) -> list[str]:
    """The notes whose links may change: those that link to it, and itself."""
    return list(dict.fromkeys([*(path for _, path in notes.index.links.leading_to(old)), old]))


def move(notes: NotesFolder, entry_id: int, new: str) -> Move:
    """Moves a note and rewrites the links; part of the step under way."""
    plan = look_at_move(notes, entry_id, new)
    texts = {}
    for path, _ in plan.changes:
        content = read_bytes(notes.path / path) or b""
        text = notes.text_of(notes.path / path, content)
        texts[path] = (content, relinked(notes, text, path, plan.old, plan.new)[0])
    for path, (before, after) in texts.items():
        if path != plan.old:
            notes.rewrite(notes.path / path, before, after)
    if plan.new == plan.old:
        return plan
    source, target = notes.path / plan.old, notes.path / plan.new
    before = read_bytes(source) or b""
    moved = before
    if plan.old in texts:
        moved = encode(texts[plan.old][1], decode(before, notes.settings.other_encoding).encoding, source.name)
    make_folder(target.parent)
    mode = source.stat().st_mode & 0o7777
    notes.history.put_file(source, before, None)
    notes.history.put_file(target, None, moved)
    target.chmod(mode)
    notes.index.move(plan.old, plan.new, stamp_of(target.stat()))
    notes.take_in(target)
    return plan


def into_folder(notes: NotesFolder, ids: Sequence[int], folder: str, inside: str) -> list[tuple[int, str]]:
    """(id, new path) of notes that are moved into a folder; those that lie there already are left out."""
    out = []
    for entry_id in ids:
        old = notes.index.path(entry_id)
        if old is not None:
            kept = old.removeprefix(f"{inside}/") if inside and old.startswith(f"{inside}/") else old.rpartition("/")[2]
            new = f"{folder.strip('/')}/{kept}" if folder.strip("/") else kept
            if new != old:
                out.append((entry_id, new))
    return out


def point_links(notes: NotesFolder, entry_id: int, target: str, new: str) -> int:
    """Has the links of a note that lead to a target lead to a note of another path; how many they are."""
    from wily_magpie.core.places.notes import note_file  # as below

    path, before, text = notes.whole_text(entry_id)
    folder = path.relative_to(notes.path).parent.as_posix()
    start, count = note_file.parse(text).body_start, 0
    for link in reversed(outline(text[start:]).links):
        if link.target != target:
            continue
        bare = new.removesuffix(".md")
        name = bare if "/" in target or notes.index.shared_names([new]) else bare.rpartition("/")[2]
        shown = name if link.is_double else relpath(new, folder)
        text = text[: start + link.start] + written(link, shown) + text[start + link.end :]
        count += 1
    notes.rewrite(path, before, text)
    return count


def relinked(notes: NotesFolder, text: str, path: str, old: str, new: str) -> tuple[str, int]:
    """A note's text with its links as they must be after the move of `old` to `new`, and how many of them changed."""
    from wily_magpie.core.places.notes import note_file  # YAML is needed only where a file is read

    start = note_file.parse(text).body_start
    out, count = text, 0
    for link in reversed(outline(text[start:]).links):
        target = moved_target(notes, link, path, old, new)
        if target is not None and target != link.target:
            out = out[: start + link.start] + written(link, target) + out[start + link.end :]
            count += 1
    return out, count


def moved_target(notes: NotesFolder, link: NoteLink, path: str, old: str, new: str) -> str | None:
    """What a link must say after the move; None where it leads to another place that did not move."""
    folder = path.rpartition("/")[0]
    if link.is_double:
        return new_double(notes, link.target, old, new) if link.target.casefold() in names_of(old) else None
    leads_to = normpath(f"{folder}/{link.target}" if folder else link.target)
    if leads_to == old:
        there = new
    elif path == old:
        there = leads_to  # its own links are seen from another folder now
    else:
        return None
    new_folder = (new if path == old else path).rpartition("/")[0]
    moved = relpath(there, new_folder or ".")
    return link.target if normpath(f"{new_folder}/{link.target}" if new_folder else link.target) == there else moved


def new_double(notes: NotesFolder, target: str, old: str, new: str) -> str:
    """The new name in double brackets, in the form of the old one; with its folders where the name alone is not enough."""
    bare = new.rpartition(".")[0]
    has_ending = target.casefold().endswith((".md", ".markdown"))
    stem = bare.rpartition("/")[2]
    is_alone = not any(stem.casefold() in names_of(path) for path in notes.index.paths() if path not in (old, new))
    shown = bare if "/" in target or not is_alone else stem
    return f"{shown}.{new.rpartition('.')[2]}" if has_ending else shown
