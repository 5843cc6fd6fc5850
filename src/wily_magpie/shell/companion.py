"""`wily-magpie companion`: sets the companion up for browsers, says how it stands, takes it away."""

import argparse

from wily_magpie.core.companion import desktop
from wily_magpie.core.companion.browsers import BROWSERS, Companion, find_browser
from wily_magpie.core.errors import UserError
from wily_magpie.shell.output import DONE, emit, say


def run(args: argparse.Namespace) -> int:
    """Does what one of them asks for."""
    acts = {"install": install, "status": status, "try": try_host, "remove": remove}
    return acts[args.act](args)


def install(args: argparse.Namespace) -> int:
    """Writes what browsers need; prints an object a browser, and says what is left to a person."""
    named = [find_browser(name) for name in args.browser]
    browsers = named or [browser for browser in BROWSERS if browser.is_there]
    if args.profile is not None and [one.is_firefox for one in browsers] != [False]:
        raise UserError(
            "option-refused", "--profile is for one browser of Chromium's family.", "Name it: --browser chromium."
        )
    companion = Companion()
    companion.install(args.library, browsers, args.profile)
    written = desktop.install()
    keys = {browser.key for browser in browsers}
    for one in companion.status():
        if one["browser"] in keys:
            emit(one)
            say(f"{one['name']}: two steps are left to you.")
            for number, step in enumerate(one["steps"], 1):
                say(f"  {number}. {step}")
    if not browsers:
        names = ", ".join(browser.key for browser in BROWSERS)
        say(f"No browser was found that the companion is for. Name one all the same: --browser {names}.")
    help_page = companion.home / "help.html"
    say(f"Other browsers hand addresses over by {written[0].name}; {help_page} has a bookmark for them.")
    return DONE


def status(_args: argparse.Namespace) -> int:
    """Prints how it stands, one object a browser."""
    found = Companion().status()
    for one in found:
        emit(one)
    if not found:
        say("No browser was found that the companion is for.")
    return DONE


def try_host(_args: argparse.Namespace) -> int:
    """Starts the host as a browser would, and prints what it answers."""
    library, seconds = Companion().tried()
    emit({"library": library, "seconds": round(seconds, 3)})
    return DONE


def remove(_args: argparse.Namespace) -> int:
    """Takes away all that was written; prints what that was."""
    for path in [*Companion().remove(), *desktop.remove()]:
        emit({"removed": str(path)})
    return DONE
