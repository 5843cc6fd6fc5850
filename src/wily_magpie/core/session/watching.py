"""Sees what other programs change in notes folders, by inotify with a watch a folder (watchdog)."""

import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from watchdog.events import (
    DirCreatedEvent,
    DirDeletedEvent,
    DirModifiedEvent,
    DirMovedEvent,
    FileClosedEvent,
    FileCreatedEvent,
    FileDeletedEvent,
    FileModifiedEvent,
    FileMovedEvent,
    FileSystemEvent,
    FileSystemEventHandler,
)
from watchdog.observers import Observer

from wily_magpie.core.faults import logger
from wily_magpie.core.places.atomic import TEMPORARY

if TYPE_CHECKING:
    from watchdog.observers.api import BaseObserver

QUIET_S = 0.25
"""A burst of changes is told once, this long after its last one, and at least once a second while it lasts."""
LONGEST_WAIT_S = 1.0
CHANGES: list[type[FileSystemEvent]] = [
    DirCreatedEvent, DirDeletedEvent, DirModifiedEvent, DirMovedEvent,
    FileClosedEvent, FileCreatedEvent, FileDeletedEvent, FileModifiedEvent, FileMovedEvent,
]  # fmt: skip
"""What is asked of the system. That a file was only read is not: we read them all, and being told of each took twice as long."""
log = logger(__name__)


class Watching:
    """Watches folders; tells the key of one in which something changed.

    Args:
        changed: called on a thread of its own.
        folders: asked, whenever there may be others, which folders there are, by their keys.
    """

    def __init__(self, changed: Callable[[str], object], folders: Callable[[], dict[str, Path]]) -> None:
        self.changed, self.folders = changed, folders
        self.observer: BaseObserver | None = None
        """Made for the first folder: the system lets a person have only so many."""
        self.is_closed = False
        self.lock = threading.Lock()
        self.watched: dict[str, Path] = {}
        self.debouncers: dict[str, Debouncer] = {}

    def watch(self) -> None:
        """Watches the folders that there are, and no others; one that cannot be watched is looked at when it is opened.

        Takes its time for a folder of many folders.
        """
        with self.lock:  # asked within it: whoever comes last knows what there is last
            self.watch_only(self.folders())

    def watch_only(self, folders: dict[str, Path]) -> None:
        if folders == self.watched or self.is_closed:
            return
        observer = self.observer or self.begun(folders)
        if observer is None:
            return
        observer.unschedule_all()
        self.watched = {}
        for key, path in folders.items():
            debouncer = self.debouncers.setdefault(key, Debouncer(partial(self.changed, key)))
            if self.is_closed:  # meanwhile, by another thread, which does not know of this one
                debouncer.stop()
                return
            try:
                observer.schedule(Handler(debouncer), str(path), recursive=True, event_filter=CHANGES)
                self.watched[key] = path
                debouncer.trigger()  # for what changed before the watch was there
            except OSError as error:  # not there, or more folders than the system lets one watch
                log.warning("%s is not watched: %s", path, error)
        if not observer.is_alive() and self.watched and not self.is_closed:
            observer.start()

    def begun(self, folders: dict[str, Path]) -> "BaseObserver | None":
        """What watches, made for the first folder; None where there is none to be watched, or the system has no more to give."""
        if not folders:
            return None
        try:
            self.observer = Observer()
        except OSError as error:  # too many programs watch already
            log.warning("Notes folders are not watched, and are looked at when they are opened: %s", error)
            return None
        self.observer.daemon = True
        return self.observer

    def close(self) -> None:
        """Ends it."""
        self.is_closed = True
        for debouncer in list(self.debouncers.values()):
            debouncer.stop()
        if self.observer is not None and self.observer.is_alive():
            self.observer.stop()
            self.observer.join(timeout=2)


class Handler(FileSystemEventHandler):
    """Rings a debouncer at each change of a Markdown file, or of a folder."""

    def __init__(self, debouncer: "Debouncer") -> None:
        self.debouncer = debouncer

    def on_any_event(self, event: FileSystemEvent) -> None:
        """Called by watchdog on its own thread."""
        names = (str(event.src_path), str(event.dest_path or ""))
        if event.is_directory or any(
            name.casefold().endswith((".md", ".markdown")) and TEMPORARY not in name for name in names
        ):
            self.debouncer.trigger()


class Debouncer:
    """Calls a function once after a burst of rings."""

    def __init__(self, act: Callable[[], object]) -> None:
        self.act = act
        self.lock = threading.Lock()
        self.timer: threading.Timer | None = None
        self.waited_s = 0.0
        self.acting = threading.Lock()
        self.is_stopped = False

    def trigger(self) -> None:
        """Something happened."""
        with self.lock:
            if self.is_stopped:
                return
            if self.timer is not None:
                if self.waited_s >= LONGEST_WAIT_S:
                    return
                self.timer.cancel()
            self.waited_s += QUIET_S
            self.timer = threading.Timer(QUIET_S, self.fire)
            self.timer.daemon = True
            self.timer.start()

    def fire(self) -> None:
        """The burst is over."""
        with self.lock:
            self.timer, self.waited_s = None, 0.0
        with self.acting:
            if not self.is_stopped:
                self.act()

    def stop(self) -> None:
        """Rings no more; what was rung for is waited for a moment, so that nobody works on what is being closed."""
        with self.lock:
            self.is_stopped = True
            if self.timer is not None:
                self.timer.cancel()
        if self.acting.acquire(timeout=LONGEST_WAIT_S):
            self.acting.release()
