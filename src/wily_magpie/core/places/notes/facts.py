"""What every note has by its file alone, as fields: nobody writes them, all can be asked for and shown.

Of a note with living lists, what these hold is left out: it is the program's own, and would make the facts of a note follow those
of others.
"""

import re
from collections.abc import Mapping
from typing import TYPE_CHECKING

from wily_magpie.core.entries.field import IN_FOLDER, Field, Settings
from wily_magpie.core.entries.note_text import plain_lines
from wily_magpie.core.fields import CHOICES, DATE, NUMBER, FieldKind, Value
from wily_magpie.core.fields.choice import NestedChoices
from wily_magpie.core.fields.text import LongText, Text
from wily_magpie.core.places.notes.encoding import UTF_8, name_of
from wily_magpie.core.places.notes.outline import Outline

if TYPE_CHECKING:
    from wily_magpie.core.places.notes.note_file import NoteFile

TASK = re.compile(r"\s*(?:[-*+]|\d{1,9}[.)])\s+\[([ xX])\](?=\s)")
LONE = {"#": "\n#", "*": "\n* ", ">": "\n> ", "|": " | "}
"""Signs of Markdown that stand like words: of headings, items, quotations, tables."""
UNSPACED = re.compile("[\u0e00-\u0e7f\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]")
COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)
ENTRY_KEY = "magpie"
"""The key of front matter that says which entry a note is kept in step with; nobody reads it but the program."""
TAG_KEYS = ("tags", "tag")


class Name(Text):
    """A text that search does not look into: it stands in the file's name, or is in the text already."""

    is_worded = False


class Names(LongText):
    """Likewise, of several lines."""

    is_worded = False


class Tags(NestedChoices):
    """Likewise."""

    is_worded = False


def given(key: str, label: str, kind: FieldKind, column: str, *, is_hidden: bool = True) -> Field:
    """A field that every note has."""
    return Field(key, label, kind, column, settings=Settings(is_given=True, is_hidden=is_hidden))


FOLDER = given(IN_FOLDER, "Folder", Text(), IN_FOLDER, is_hidden=False)
INLINE_TAGS = given("inline_tags", "Tags in the text", NestedChoices(), "inline_tags", is_hidden=False)
PATH = given("note.path", "Path", Name(), "g_path")
CREATED = given("note.created", "Created", DATE, "g_created")
SIZE = given("note.size", "Size", NUMBER, "g_size")
WORDS = given("note.words", "Words", NUMBER, "g_words")
TAGS = given("note.tags", "All tags", Tags(), "g_tags")
HEADINGS = given("note.headings", "Headings", Names(), "g_headings")
LINKS_OUT = given("note.links_out", "Links out", NUMBER, "g_links_out")
LINKS_IN = given("note.links_in", "Links in", NUMBER, "g_links_in")
BROKEN_LINKS = given("note.broken_links", "Broken links", NUMBER, "g_broken_links")
TASKS_OPEN = given("note.tasks_open", "Tasks open", NUMBER, "g_tasks_open")
TASKS_DONE = given("note.tasks_done", "Tasks done", NUMBER, "g_tasks_done")
ENCODING = given("note.encoding", "Encoding", Name(), "g_encoding")
GIVEN = (
    FOLDER, INLINE_TAGS, PATH, CREATED, SIZE, WORDS, TAGS, HEADINGS, LINKS_OUT, LINKS_IN, BROKEN_LINKS, TASKS_OPEN, TASKS_DONE,
    ENCODING,
)  # fmt: skip
"""What every note has without its front matter saying so. What links count is worked out over all notes (index.settle_links)."""


def facts(path: str, size: int, note: "NoteFile", outside: str, found: Outline) -> dict[str, Value]:
    """The values of these fields that a file tells by itself.

    Args:
        size: of it in bytes, without what its lists hold.
        outside: its text without that; found: what there is in it.
    """
    folder = path.rpartition("/")[0]
    has_tasks = "[" in outside and ("[ ]" in outside or "[x]" in outside or "[X]" in outside)
    tasks = (
        [line[1] for _, text in plain_lines(outside) if "[" in text and (line := TASK.match(text))] if has_tasks else []
    )
    own = note.matter
    of_matter = [tag for key in TAG_KEYS for tag in tags_of(own, key)]
    return {
        FOLDER.key: folder or None,
        INLINE_TAGS.key: found.tags or None,
        PATH.key: path,
        SIZE.key: float(size),
        WORDS.key: float(words_of(COMMENT.sub("", outside) if "<!--" in outside else outside)),
        TAGS.key: tuple(dict.fromkeys([*of_matter, *found.tags])) or None,
        HEADINGS.key: "\n".join(one.text for one in found.headings if one.text) or None,
        TASKS_OPEN.key: float(tasks.count(" ")),
        TASKS_DONE.key: float(len(tasks) - tasks.count(" ")),
        ENCODING.key: name_of(note.encoding) if note.encoding != UTF_8 else None,
    }


def words_of(text: str) -> int:
    """How many words a text has: what stands between spaces; of scripts without spaces, signs."""
    lone = text.count("\n- ") + text.startswith(("#", "- ", "> ", "* "))
    lone += sum([text.count(found) for sign, found in LONE.items() if sign in text])  # most texts have few of them
    count = len(text.split()) - lone
    return count if text.isascii() else count + len(UNSPACED.findall(text))


def tags_of(matter: Mapping[str, str | list[str] | None], key: str) -> list[str]:
    """The tags of a key of front matter, without the sign that some write before them."""
    value = matter.get(key)
    if isinstance(value, str):
        found = CHOICES.read(value)
        value = list(found) if isinstance(found, tuple) else []
    return [bare for tag in value or () if (bare := tag.strip().removeprefix("#"))]


def double_name(target: str) -> str:
    """What a name in double brackets is found by: folded, without the ending of a note."""
    folded = target.casefold()
    return folded.removesuffix(".md") if folded.endswith(".md") else folded.removesuffix(".markdown")


def bare_name(path: str) -> str:
    """The name of a note's file as double brackets have it."""
    return double_name(path.rpartition("/")[2])


def stem_of(path: str) -> str:
    """The name of a note's file without its ending."""
    name = path.rpartition("/")[2]
    return name.rpartition(".")[0] or name


def title_of(matter: Mapping[str, object], path: str) -> str:
    """The title of a note: what its front matter says, else the name of its file."""
    given = matter.get("title")
    return given if isinstance(given, str) and given.strip() else stem_of(path)
