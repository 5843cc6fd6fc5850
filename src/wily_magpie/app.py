"""The composition root: the only place that knows the core and all that stands around it."""

import argparse
import os
import sys
import threading
from pathlib import Path
from urllib.parse import urlsplit

import platformdirs

from wily_magpie import __version__
from wily_magpie.core.errors import EnvironmentFailure, MagpieError
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.shell.output import exit_code, say


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


def default_library() -> Path:
    """Where the library lives when none is named (XDG base directories)."""
    return Path(os.environ.get("WILY_MAGPIE_LIBRARY") or Path(platformdirs.user_data_dir("wily-magpie")) / "library")


def demo_library() -> Path:
    """Where the demo library lives."""
    return Path(platformdirs.user_data_dir("wily-magpie")) / "demo"


def main(words: list[str] | None = None) -> int:
    """Runs what the command line asks for; the exit code."""
    args = parser().parse_args(words)
    try:
        return COMMANDS[args.command](args)
    except MagpieError as error:
        say(str(error))
        return exit_code(error)
    except BrokenPipeError:  # the reader of our output has seen enough
        sys.stderr.close()
        return 0
    except KeyboardInterrupt:
        return 130


def parser() -> argparse.ArgumentParser:
    """The words of the command line."""
    from wily_magpie.shell import capture, extract, find, markdown, places, templates

    top = argparse.ArgumentParser(
        prog="wily-magpie", description="Captures web pages into typed collections and notes folders."
    )
    top.add_argument("--version", action="version", version=f"wily-magpie {__version__}")
    top.add_argument("--library", type=Path, metavar="DIR", help="the library's folder; made if it is not there")
    top.set_defaults(command="window")
    commands = top.add_subparsers(dest="command", metavar="COMMAND")
    demo = commands.add_parser("demo", help="open the demo library with the stand-in web")
    demo.add_argument("--reset", action="store_true", help="make the demo library anew first")
    demo.add_argument("--library", type=Path, metavar="DIR", help="another folder for the demo library")
    web = commands.add_parser("demo-web", help="only run the stand-in web; prints its address")
    web.add_argument("--port", type=int, default=0, metavar="N")
    web.add_argument("--list", action="store_true", help="print the addresses of all its pages, one a line, and end")
    for module in (extract, markdown, capture, find, places, templates):
        module.add_parser(commands)
    return top


def run_extract(args: argparse.Namespace) -> int:
    """Prints what pages say."""
    from wily_magpie.shell import extract

    return extract.run(args, Fetcher(StandInRoute()))


def run_markdown(args: argparse.Namespace) -> int:
    """Prints HTML files as Markdown."""
    from wily_magpie.shell import markdown

    return markdown.run(args, Fetcher(StandInRoute()))


LOOKING = ("find", "places", "check", "list", "show", "try", "test", "export")
"""Commands, and acts of `templates`, that change nothing, and also answer of a library that may not be written to."""


def run_with_session(args: argparse.Namespace) -> int:
    """Captures, or asks a question, over an open library."""
    from wily_magpie.core.session.session import Session
    from wily_magpie.shell import capture, find, places, templates

    runs = {"capture": capture.run, "find": find.run, "templates": templates.run}
    folder = args.library or default_library()
    asked = (args.act or "list") if args.command == "templates" else args.command
    only_looks = asked in LOOKING and folder.exists() and not os.access(folder, os.W_OK)
    session = Session(folder, Fetcher(StandInRoute()), is_read_only=only_looks)
    try:
        return runs.get(args.command, places.run)(args, session)
    finally:
        session.close()


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


def run_window(args: argparse.Namespace) -> int:
    """Opens the window."""
    from wily_magpie.core.session.session import Session
    from wily_magpie.qt.application import run

    need_display()
    route = StandInRoute()
    folder = args.library or default_library()
    return run(folder, lambda is_read_only: Session(folder, Fetcher(route), is_read_only=is_read_only), route)


def run_demo(args: argparse.Namespace) -> int:
    """Makes the demo library where it is not there yet, and opens it."""
    from wily_magpie.core.session.session import Session
    from wily_magpie.demo.library import make_demo
    from wily_magpie.demo.web import samples
    from wily_magpie.qt.application import run

    folder = args.library or demo_library()
    route = StandInRoute()
    make_demo(folder, Fetcher(route), reset=args.reset)
    need_display()
    return run(
        folder,
        lambda is_read_only: Session(folder, Fetcher(route), is_read_only=is_read_only),
        route,
        samples(),
        is_demo=True,
    )


COMMANDS = {
    "window": run_window,
    None: run_window,
    "demo": run_demo,
    "demo-web": run_demo_web,
    "extract": run_extract,
    "markdown": run_markdown,
    "capture": run_with_session,
    "find": run_with_session,
    "places": run_with_session,
    "add": run_with_session,
    "set": run_with_session,
    "write": run_with_session,
    "check": run_with_session,
    "backup": run_with_session,
    "templates": run_with_session,
}
