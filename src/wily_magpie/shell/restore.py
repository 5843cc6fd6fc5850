"""`wily-magpie restore`: a copy of the library is looked at, and with --yes brought back."""

import argparse
from pathlib import Path

from wily_magpie.core.session.restore import look_at_copy, restore
from wily_magpie.shell.output import DONE, ENVIRONMENT_FAILURE, emit, say


def run(args: argparse.Namespace, folder: Path) -> int:
    """Prints what the copy holds, and whether it was brought back; what was there is moved aside."""
    look = restore(args.copy, folder) if args.yes else look_at_copy(args.copy, folder)
    emit(
        {
            "copy": str(look.copy), "made": look.made, "places": look.places, "missing": list(look.missing),
            "damaged": list(look.damaged),
            "library": str(folder), "there": look.here, "aside": str(look.aside) if look.aside else None, "restored": args.yes,
        }
    )  # fmt: skip
    if not args.yes:
        say("Nothing was changed; --yes brings it back.")
    elif look.aside:
        say(f"What was there is now in {look.aside}.")
    if look.missing:
        say(f"{len(look.missing)} kept files are missing in the copy itself, such as {look.missing[0]}.")
    if look.strays:
        say(f"{look.strays:,} files in it belong to no entry; they are left out.")
    if look.damaged:
        say(look.told_damaged)
    return ENVIRONMENT_FAILURE if look.missing or look.damaged else DONE
