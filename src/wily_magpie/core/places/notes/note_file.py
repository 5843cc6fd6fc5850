"""One Markdown file: read into front matter and body, written so that all that nobody changed stays byte for byte."""

import json
import re
from collections.abc import Iterator, Mapping, Sequence

import yaml

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UserError
from wily_magpie.core.fields.base import Plain

FENCE = re.compile(r"\A(\ufeff?)---[ \t]*\r?\n(.*?)(?:^(?:---|\.\.\.)[ \t]*(?:\r?\n|\Z))", re.DOTALL | re.MULTILINE)
OPEN = re.compile(r"\A\ufeff?---[ \t]*\r?\n(?:[ \t]*(?:#[^\n]*)?\r?\n)*[\w-][^\n:#]*:(?=\s|\Z)")
"""What begins like front matter: three dashes, and a key on the next line that says anything."""
DEEPEST = 200
DEEPEST_PART = 4
"""Parts of parts of front matter that are fields."""
NOT_CLOSED = "The front matter is never closed: it wants a line of three dashes at its end."
NULLS = ("null", "Null", "NULL", "~")
PLAIN_ITEM = r"\w[\w./'-]*(?: [\w./'-]+)*"
PLAIN_LINE = re.compile(
    rf"([A-Za-z_][\w-]*): +(?:\[ *({PLAIN_ITEM}(?: *, *{PLAIN_ITEM})*)? *\]|(\w(?:[\w .,/()'’–&+%;!?=@-]|:(?=[^\s]))*))"
)


class Loader(yaml.CSafeLoader):
    """YAML whose plain scalars stay text: what they mean is said by the field, not by YAML's guess."""


Loader.yaml_implicit_resolvers = {
    first: [(tag, pattern) for tag, pattern in resolvers if tag == "tag:yaml.org,2002:null"]
    for first, resolvers in yaml.CSafeLoader.yaml_implicit_resolvers.items()
}


class DuplicateKey(ValueError):
    """A key that is there twice."""


def construct_mapping(loader: Loader, node: yaml.MappingNode) -> dict[object, object]:
    """A mapping; DuplicateKey where a key is there twice, of which YAML's readers would take the last without a word."""
    seen: set[str] = set()
    for name, _ in node.value:
        if isinstance(name, yaml.ScalarNode):
            if name.value in seen:
                raise DuplicateKey(f"line {name.start_mark.line + 2}: the key “{name.value}” is there twice")
            seen.add(name.value)
    loader.flatten_mapping(node)
    return loader.construct_mapping(node, deep=True)


Loader.add_constructor("tag:yaml.org,2002:map", construct_mapping)


@dataclass(frozen=True)
class NoteFile:
    """A file in its parts; `text` is all of it.

    Attributes:
        yaml_start, yaml_end: where the YAML stands in the text; both 0 where the file has no front matter.
        body_start: where the body begins.
        matter: keys and values; values that are neither text nor a list of texts are shown as YAML text, and their parts
            have keys of their own, such as "book.year".
        fault: why the front matter could not be read, or "".
        encoding: in which the file is written.
    """

    text: str
    yaml_start: int
    yaml_end: int
    body_start: int
    matter: Mapping[str, str | list[str] | None]
    fault: str = ""
    encoding: str = "utf-8"

    @property
    def body(self) -> str:
        return self.text[self.body_start :]

    @property
    def newline(self) -> str:
        return "\r\n" if "\r\n" in self.text[:2000] else "\n"


def parse(text: str) -> NoteFile:
    """A file's parts. Never fails: what is wrong with the front matter stands in `fault`."""
    found = FENCE.match(text)
    if not found:
        start = 1 if text.startswith("\ufeff") else 0
        return NoteFile(text, 0, 0, start, {}, NOT_CLOSED if OPEN.match(text) else "")
    start, end, after = found.start(2), found.end(2), found.end()
    quick = quick_matter(found[2])
    if quick is not None:
        return NoteFile(text, start, end, after, quick)
    if depth_of(found[2]) > DEEPEST:  # the reader and the writer of YAML would eat the stack
        return NoteFile(text, start, end, after, {}, f"The front matter is nested more than {DEEPEST} deep.")
    try:
        loaded = yaml.load(found[2], Loader)  # noqa: S506 - a subclass of the safe loader
    except DuplicateKey as error:
        return NoteFile(text, start, end, after, {}, f"The front matter cannot be trusted: {error}.")
    except (yaml.YAMLError, ValueError, RecursionError) as error:
        return NoteFile(text, start, end, after, {}, f"The front matter is not YAML: {explain(error)}")
    if loaded is None:
        return NoteFile(text, start, end, after, {})
    if not isinstance(loaded, dict):
        return NoteFile(text, start, end, after, {}, "The front matter is not a list of keys and values.")
    return NoteFile(text, start, end, after, dict(with_parts(loaded)))


def with_parts(
    loaded: Mapping[object, object], above: str = "", deep: int = 0
) -> Iterator[tuple[str, str | list[str] | None]]:
    """(key, value) of front matter; behind a key with parts come those, as "book.year"."""
    for key, value in loaded.items():
        yield f"{above}{key}", plain(value)
        if isinstance(value, dict) and deep < DEEPEST_PART:
            yield from with_parts(value, f"{above}{key}.", deep + 1)


def depth_of(text: str) -> int:
    """How deep YAML could be nested: by brackets, or by the spaces that its lines begin with. Never less than it is."""
    brackets = deepest = 0
    for sign in re.findall(r"[\[\]{}]", text):
        brackets += 1 if sign in "[{" else -1
        deepest = max(deepest, brackets)
    dashes = max((len(found) for found in re.findall(r"^[ \t]*(?:- *)*", text, re.MULTILINE)), default=0)
    return max(deepest, dashes)


def quick_matter(text: str) -> dict[str, str | list[str] | None] | None:
    """Front matter of plain keys with plain words or a list of such in brackets; None where only YAML's own reader knows.

    Most front matter is like that, and this is ten times as quick; a test holds it against YAML's reader.
    """
    out: dict[str, str | list[str] | None] = {}
    for line in text.split("\n"):
        if not line.strip(" \r"):
            continue
        found = PLAIN_LINE.fullmatch(line.rstrip(" \r"))
        if found is None or found[1] in NULLS or found[1] in out:
            return None
        if found[3] is not None:
            out[found[1]] = found[3] if found[3] not in NULLS else None
        else:
            items = [item.strip() for item in (found[2] or "").split(",")] if found[2] else []
            if any(item in NULLS for item in items):
                return None
            out[found[1]] = list(items)
    return out


def explain(error: Exception) -> str:
    """A YAML error in a line, with the file's own line number."""
    mark = getattr(error, "problem_mark", None)
    where = f"line {mark.line + 2}: " if mark else ""
    return where + str(getattr(error, "problem", None) or error).splitlines()[0]


def plain(value: object) -> str | list[str] | None:
    """A loaded value as text or texts."""
    if value is None or isinstance(value, str):
        return value
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        return value
    return yaml.safe_dump(value, default_flow_style=True, allow_unicode=True, width=10**6).strip()


def to_yaml(key: str, value: Plain) -> str:
    """One key with its value as YAML lines, ending with a newline.

    Texts that older readers would take for something else (yes, 012, 1:30) are quoted; numbers and dates are not.
    """
    if isinstance(value, list):
        inner = yaml.safe_dump(value, default_flow_style=True, allow_unicode=True, width=10**6).strip()
        return f"{to_yaml_key(key)}: {inner}\n"
    if isinstance(value, str) and re.fullmatch(r"\d{4}(-\d\d(-\d\d(T\d\d:\d\dZ?)?)?)?", value):
        return f"{to_yaml_key(key)}: {value}\n"
    return str(yaml.safe_dump({key: value}, allow_unicode=True, width=10**6, sort_keys=False, default_flow_style=False))


def to_yaml_key(key: str) -> str:
    """A key as YAML, quoted where it must be."""
    return str(yaml.safe_dump(key, allow_unicode=True, width=10**6)).removesuffix("...\n").strip()


def set_values(note: NoteFile, values: Mapping[str, Plain]) -> str:
    """The file's text with some keys set (None: taken out); every byte that is not theirs stays.

    Raises:
        UserError: the front matter cannot be read or not be changed safely.
    """
    if note.fault:
        raise UserError("note-unreadable", note.fault, "Mend it in a text editor first; nothing was changed.")
    text = note.text
    for key, value in values.items():
        text = with_key(parse(text), key, value)
    again = parse(text)
    rest_before = {key: value for key, value in note.matter.items() if not is_of(key, values)}
    rest_after = {key: value for key, value in again.matter.items() if not is_of(key, values)}
    added = again.body.removesuffix(note.body)  # a new front matter is parted from the body by a blank line
    if again.fault or rest_before != rest_after or added.strip("\r\n") or not again.body.endswith(note.body):
        raise UserError(
            "note-unchangeable",
            "This front matter cannot be changed without touching other parts of it.",
            "Change it in a text editor; nothing was changed.",
        )
    return text


def is_of(key: str, values: Mapping[str, Plain]) -> bool:
    """Whether a key is one of these, a part of one, or what one is a part of."""
    return any(key == one or key.startswith(f"{one}.") or one.startswith(f"{key}.") for one in values)


def root_of(note: NoteFile) -> yaml.MappingNode | None:
    """The front matter as YAML's nodes, which know where they stand; None where it is blank or no list of keys."""
    text = note.text[note.yaml_start : note.yaml_end]
    root = yaml.compose(text, Loader) if text.strip() else None
    return root if isinstance(root, yaml.MappingNode) and not root.flow_style else None


def part_node(root: yaml.MappingNode, path: Sequence[str]) -> tuple[yaml.MappingNode, yaml.Node | None] | None:
    """The mapping that a part stands in, and its value there, or None; None where there is no such mapping."""
    for name, value in root.value:
        if name.value == path[0] and len(path) > 1 and isinstance(value, yaml.MappingNode):
            return part_node(value, path[1:])
        if name.value == path[0] and len(path) == 1:
            return root, value
    return (root, None) if len(path) == 1 else None


def with_part(note: NoteFile, key: str, value: Plain) -> str | None:
    """A part of a key set, such as "book.year"; None where the front matter has no such key with parts.

    Raises:
        UserError: it stands where only its present value could be replaced.
    """
    root = root_of(note)
    path = key.split(".")
    if root is None or len(path) < 2 or any(name.value == key for name, _ in root.value):
        return None
    found = part_node(root, path)
    if found is None or found[0] is root:
        return None
    mapping, node = found
    at = note.yaml_start
    scalar = to_yaml("k", value).removeprefix("k:").strip() if value is not None else ""
    if mapping.flow_style and isinstance(value, str):  # there, commas and brackets mean something
        scalar = json.dumps(value, ensure_ascii=False)
    if node is not None and isinstance(node, yaml.ScalarNode) and node.style not in ("|", ">"):
        return note.text[: at + node.start_mark.index] + scalar + note.text[at + node.end_mark.index :]
    if node is None and value is not None and not mapping.flow_style and mapping.value:
        last = mapping.value[-1][1].end_mark.index
        indent = " " * mapping.value[0][0].start_mark.column
        stop = note.text.find("\n", at + last - 1, note.yaml_end)
        stop = note.yaml_end if stop < 0 else stop + 1
        gap = "" if note.text[stop - 1] == "\n" else note.newline
        return f"{note.text[:stop]}{gap}{indent}{to_yaml_key(path[-1])}: {scalar}{note.newline}{note.text[stop:]}"
    if node is None and value is None:
        return note.text
    raise UserError(
        "note-unchangeable", f"“{key}” stands in a part of the front matter that cannot be changed here.",
        "Change it in a text editor; nothing was changed.",
    )  # fmt: skip


def with_key(note: NoteFile, key: str, value: Plain) -> str:
    """One key set, by replacing the span of its present lines, or by adding lines at the end."""
    part = with_part(note, key, value) if "." in key else None
    if part is not None:
        return part
    lines = to_yaml(key, value).replace("\n", note.newline) if value is not None else ""
    span = key_span(note, key)
    if span:
        return note.text[: span[0]] + lines + note.text[span[1] :]
    start, stop = note.yaml_start, note.yaml_end
    if note.body_start and stop >= start > 0:
        gap = "" if stop == start or note.text[stop - 1] == "\n" else note.newline
        return note.text[:stop] + gap + lines + note.text[stop:]
    if value is None:
        return note.text
    mark = note.text[: note.body_start]
    body = note.text[note.body_start :]
    fence = f"---{note.newline}"
    return mark + fence + lines + fence + (note.newline if body and not body.startswith(("\n", "\r")) else "") + body


def key_span(note: NoteFile, key: str) -> tuple[int, int] | None:
    """Where a key with its value stands in the file, whole lines; None where it is not (or not alone on its lines)."""
    yaml_text = note.text[note.yaml_start : note.yaml_end]
    root = root_of(note)
    if root is None:
        return None
    for name, value in root.value:
        if name.value == key:
            begin, stop = name.start_mark.index, value.end_mark.index
            line_start = yaml_text.rfind("\n", 0, begin) + 1
            if yaml_text[stop - 1 : stop] != "\n":
                line_end = yaml_text.find("\n", stop)
                stop = len(yaml_text) if line_end < 0 else line_end + 1
            else:  # block scalars and sequences end behind blank lines and comments that are not theirs
                kept = yaml_text[begin:stop].splitlines(keepends=True)
                while len(kept) > 1 and (not kept[-1].strip() or kept[-1].lstrip().startswith("#")):
                    stop -= len(kept.pop())
            return note.yaml_start + line_start, note.yaml_start + stop
    return None


def compose(values: Mapping[str, Plain], body: str) -> str:
    """A new file: front matter of all values that are not blank, then the body, without the blank lines around it."""
    lines = "".join(to_yaml(key, value) for key, value in values.items() if value not in (None, "", []))
    text = body.strip("\r\n")
    return f"---\n{lines}---\n\n{text}\n" if lines else f"{text}\n"
