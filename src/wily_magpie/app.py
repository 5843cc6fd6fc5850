"""The composition root: the only place that knows the core and all that stands around it."""

import argparse
import gc
import importlib
import os
import sys
import threading
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import urlsplit

from wily_magpie.core.catalogue import find_act
from wily_magpie.core.errors import NO_ROOM, EnvironmentFailure, MagpieError
from wily_magpie.shell.output import exit_code, say, tell_reading
from wily_magpie.shell.parser import understood
from wily_magpie.shell.words import MODULES, WORDS

if TYPE_CHECKING:
    from collections.abc import Callable

    from wily_magpie.core.commands.command import Progress
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.pages.page import Page


class StandInRoute:
    """Sends addresses under .example to the stand-in web, which starts when it is first needed."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.proxy_address: str | None = None

    def proxy(self) -> str:
        """The stand-in's address as a proxy."""
        with self.lock:
            if self.proxy_address is None:
                from wily_magpie.demo.server import StandInWeb

                self.web = StandInWeb()
                self.proxy_address = self.web.proxy
            return self.proxy_address

    def __call__(self, address: str) -> str | None:
        """The proxy for an address; None: the system's own way."""
        host = (urlsplit(address).hostname or "").casefold()
        return self.proxy() if host.endswith(".example") else None


USUAL_PACE = (700, 10, 10)
"""How often Python looks for objects that nothing uses, once what was put off for the start is done (its own default)."""


def default_library() -> Path:
    """Where the library lives when none is named (XDG base directories)."""
    return Path(os.environ.get("WILY_MAGPIE_LIBRARY") or data_folder() / "library")


def data_folder() -> Path:
    """Where a person's data lives (XDG base directories)."""
    import platformdirs

    return Path(platformdirs.user_data_dir("wily-magpie"))


def demo_library() -> Path:
    """Where the demo library lives."""
    return data_folder() / "demo"


def main(words: list[str] | None = None) -> int:
    """Runs what the command line asks for; the exit code."""
    try:
        args = understood(words)
        return COMMANDS.get(args.command, run_with_session)(args)
    except MagpieError as error:
        say(str(error))
        return exit_code(error)
    except BrokenPipeError:  # the reader of our output has seen enough
        sys.stderr.close()
        return 0
    except KeyboardInterrupt:
        return 130


def fetcher(*, is_live: bool = False) -> "Fetcher":
    """Fetches from the web, and from the stand-in web.

    Args:
        is_live: whether pages are opened in the web engine, so that their scripts run.
    """
    from wily_magpie.core.pages.fetch import Fetcher

    if not is_live:
        return Fetcher(StandInRoute())
    from wily_magpie.qt.web.windowless import live_page  # the web engine, which few words of the shell want

    class LiveFetcher(Fetcher):
        """Has the engine open pages; files and pictures come by HTTP, as usual."""

        def page(self, address: str, cancelled: "Callable[[], bool]" = lambda: False, *, by: str = "") -> "Page":
            found = live_page(address, self.proxy_for, cancelled)
            return super().page(found, cancelled, by=by or address) if isinstance(found, str) else found

    return LiveFetcher(StandInRoute())


def run_over_pages(args: argparse.Namespace) -> int:
    """Prints what pages say, or HTML files as Markdown; no library is opened."""
    module = importlib.import_module(f"wily_magpie.shell.{args.command}")
    return int(module.run(args, fetcher(is_live=getattr(args, "live", False))))


def run_with_session(args: argparse.Namespace) -> int:
    """Does what a word of the shell says over an open library; only the module of that word is loaded."""
    from wily_magpie.core.session.session import Session

    folder = args.library or default_library()
    act = find_act(WORDS, args.command)
    part = find_act(act.parts, args.act or act.parts[0].id) if act.parts else act
    only_looks = part.only_looks and folder.exists() and not os.access(folder, os.W_OK)
    module = importlib.import_module(f"wily_magpie.shell.{MODULES.get(args.command, args.command)}")
    try:
        by = fetcher(is_live=getattr(args, "live", False))
        session = Session(folder, by, is_read_only=only_looks, origin="shell")
    except EnvironmentFailure as error:
        if not part.only_looks or error.slug not in NO_ROOM:
            raise
        session = Session(folder, fetcher(), is_read_only=True, origin="shell")
    gc.set_threshold(*USUAL_PACE)
    session.subscribe(tell_reading)
    for failure in session.told:
        say(str(failure))
    try:
        return int(module.run(args, session))
    finally:
        session.close()


def run_restore(args: argparse.Namespace) -> int:
    """Brings a copy of the library back; no library is opened."""
    from wily_magpie.shell import restore

    return restore.run(args, args.library or default_library())


def run_companion(args: argparse.Namespace) -> int:
    """Sets the companion up for browsers; or is the host of one, with the library open."""
    if args.act != "serve":
        from wily_magpie.shell import companion

        return companion.run(args)
    from wily_magpie.core.companion.alone import serve
    from wily_magpie.core.companion.browsers import Companion
    from wily_magpie.core.session.session import Session

    folder = args.library or default_library()
    gc.set_threshold(*USUAL_PACE)
    return serve(lambda: Session(folder, fetcher(), origin="companion"), folder, Companion().hear)


def run_demo_web(args: argparse.Namespace) -> int:
    """Runs the stand-in web until it is stopped, or lists its pages."""
    from wily_magpie.demo.server import StandInWeb
    from wily_magpie.demo.web import addresses

    if args.list:
        for address in addresses():
            sys.stdout.write(address + "\n")
        return 0
    web = StandInWeb(args.port)
    sys.stdout.write(web.proxy + "\n")
    sys.stdout.flush()
    say("The stand-in web runs; set this address as HTTP proxy. Ctrl+C ends it.")
    try:
        threading.Event().wait()
    finally:
        web.close()
    return 0


def need_display() -> None:
    """Says that there is no screen; Qt itself would only abort.

    Raises:
        EnvironmentFailure: there is none.
    """
    told = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    if sys.platform == "linux" and not any(os.environ.get(name) for name in told):
        raise EnvironmentFailure(
            "no-display",
            "There is no screen to open a window on.",
            "Start it in a desktop session, or use the shell commands.",
        )


def goes_to_open_window(args: argparse.Namespace, folder: "Path") -> bool:
    """Whether the library is open in a window that opens what this start was asked for."""
    from wily_magpie.core.companion.door import visit_window

    return (args.visit is not None or bool(args.entry)) and visit_window(folder, args.visit, args.entry)


def run_window(args: argparse.Namespace) -> int:
    """Opens the window; what the program was started with is opened in the one that is there."""
    folder = args.library or default_library()
    if goes_to_open_window(args, folder):
        return 0
    need_display()
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.qt.application import Opens, run

    route = StandInRoute()
    return run(
        folder,
        lambda is_read_only: Session(folder, Fetcher(route), is_read_only=is_read_only),
        route,
        opens=Opens(args.visit, args.entry or ""),
    )


def run_demo(args: argparse.Namespace) -> int:
    """Makes the demo library where it is not there yet, and opens it."""
    from wily_magpie.demo.mark import is_demo, need_demo_or_nothing

    folder = args.library or demo_library()
    need_demo_or_nothing(folder)
    need_display()
    from wily_magpie.core.pages.fetch import Fetcher
    from wily_magpie.core.session.session import Session
    from wily_magpie.demo.web import samples
    from wily_magpie.qt.application import run

    route = StandInRoute()

    def prepare(progress: "Progress") -> None:
        from wily_magpie.demo.library import make_demo  # reads pages, which takes a second to load

        make_demo(folder, Fetcher(route), reset=args.reset, progress=progress)

    return run(
        folder,
        lambda is_read_only: Session(folder, Fetcher(route), is_read_only=is_read_only),
        route,
        samples(),
        is_demo=True,
        is_guarded=args.guard,
        prepare=prepare if args.reset or not is_demo(folder) else None,
    )


COMMANDS = {
    "window": run_window,
    None: run_window,
    "demo": run_demo,
    "demo-web": run_demo_web,
    "extract": run_over_pages,
    "markdown": run_over_pages,
    "restore": run_restore,
    "companion": run_companion,
}
"""What is no word over a library."""
