"""What tells a demo library from a person's own, which `--reset` must never touch."""

from pathlib import Path

from wily_magpie.core.errors import UserError

MARK = "demo-library"
"""The name of a file in it."""


def is_demo(folder: Path) -> bool:
    """Whether a folder holds a demo library."""
    return (folder / MARK).exists()


def need_demo_or_nothing(folder: Path) -> None:
    """Sees to it that nothing of a person's own is in the way.

    Raises:
        UserError: the folder holds something that is not a demo library.
    """
    if folder.exists() and any(folder.iterdir()) and not is_demo(folder):
        raise UserError("not-demo", f"{folder} holds something that is not the demo library.", "Name another folder.")
