"""Pages of a list that need the web engine: each is opened by the program itself, without a window, and kept as a browser sees it."""

import json
import subprocess
import sys
from dataclasses import replace

from wily_magpie.core.capture.run import Counter
from wily_magpie.core.commands.command import Progress
from wily_magpie.core.commands.lists import NoteItems
from wily_magpie.core.entries.capture_list import ItemState, ListItem, ListWanted

LONGEST_S = 120


def keep_by_engine(counter: Counter, number: int, wanted: ListWanted, progress: Progress) -> None:
    """Keeps the thin ones of a list, one after another."""
    thin = [one for one in counter.reader.lists.items(number) if one.state is ItemState.THIN]
    for done, item in enumerate(thin):
        progress.tick(done, len(thin))
        counter.do(NoteItems(number, (by_engine(counter, item, wanted),)))


def by_engine(counter: Counter, item: ListItem, wanted: ListWanted) -> ListItem:
    """How one of them ended."""
    words = [sys.executable, "-m", "wily_magpie", "--library", str(counter.folder), "capture", "--live", item.address]
    for option, value in (("--template", wanted.template), ("--to", wanted.place)):
        words += [option, value] if value else []
    for key, text in wanted.values:
        words += ["--set", f"{key}={text}"]
    words += ["--lenient", *(["--update"] if wanted.is_later else [])]
    try:
        ended = subprocess.run(words, capture_output=True, text=True, timeout=LONGEST_S, check=False)  # noqa: S603 - our own
        told = json.loads(ended.stdout.splitlines()[-1])
    except (OSError, subprocess.TimeoutExpired, ValueError, IndexError):
        return replace(item, state=ItemState.FAILED, said="The web engine did not come to an end with it.")
    if told.get("entry") is None:
        return replace(item, state=ItemState.FAILED, said=str(told.get("message", "")))
    state = ItemState.KNOWN if told["status"] == "known" else ItemState.KEPT
    place = counter.reader.entries.place(str(told["place"])).key
    said = str(told.get("message", ""))
    return replace(item, state=state, title=str(told["title"]), said=said, place=place, entry_id=int(told["entry"]))
