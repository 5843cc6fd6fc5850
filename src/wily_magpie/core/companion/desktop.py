"""The program's entry in the desktop, which also takes addresses of its scheme (freedesktop.org: desktop entries, MIME actions)."""

import contextlib
import os
import shutil
import subprocess
import sys
from importlib import resources
from pathlib import Path

from wily_magpie.core.companion.scheme import SCHEME

NAME = "wily-magpie"
PATIENCE_S = 10
ENTRY = """[Desktop Entry]
Type=Application
Name=Wily Magpie
GenericName=Web research library
Comment=Captures web pages into collections and notes
Exec={program} %u
Icon={name}
Terminal=false
Categories=Office;Network;
MimeType=x-scheme-handler/{scheme};
StartupNotify=true
StartupWMClass={name}
"""


def data_home() -> Path:
    """Where desktops look for entries of a person (XDG base directories)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def parts() -> tuple[Path, Path]:
    """The files of the entry and of its icon."""
    home = data_home()
    return home / "applications" / f"{NAME}.desktop", home / "icons" / "hicolor" / "scalable" / "apps" / f"{NAME}.svg"


def quoted(word: str) -> str:
    """A word of a command line as entries have it."""
    for sign in ("\\", '"', "`", "$"):
        word = word.replace(sign, f"\\{sign}")
    return f'"{word}"'.replace("\\", "\\\\").replace("%", "%%")


def install() -> list[Path]:
    """Writes the entry, and has addresses of the scheme come to it; what was written."""
    entry, icon = parts()
    for path in (entry, icon):
        path.parent.mkdir(parents=True, exist_ok=True)
    program = " ".join(map(quoted, (sys.executable, "-m", "wily_magpie")))
    entry.write_text(ENTRY.format(program=program, name=NAME, scheme=SCHEME), "utf-8")
    icon.write_bytes((resources.files("wily_magpie.companion") / "icon.svg").read_bytes())
    tell("update-desktop-database", str(entry.parent))
    tell("xdg-mime", "default", entry.name, f"x-scheme-handler/{SCHEME}")
    return [entry, icon]


def remove() -> list[Path]:
    """Takes the entry away; what that was."""
    gone = [path for path in parts() if path.exists()]
    for path in gone:
        path.unlink()
    if gone:
        tell("update-desktop-database", str(parts()[0].parent))
    forget_scheme()
    return gone


def forget_scheme() -> None:
    """Takes what `xdg-mime` has noted of our scheme out of the person's list of default programs."""
    path = Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "mimeapps.list"
    with contextlib.suppress(OSError):
        lines = path.read_text("utf-8").splitlines(keepends=True)
        ours = f"x-scheme-handler/{SCHEME}={NAME}.desktop"
        left = [line for line in lines if line.strip().rstrip(";") != ours]
        if left == lines:
            return
        if any(line.strip() and not line.startswith("[") for line in left):
            path.write_text("".join(left), "utf-8")
        else:  # it was there for our scheme alone
            path.unlink()


def tell(program: str, *words: str) -> None:
    """Runs a program of the desktop, where it is there."""
    found = shutil.which(program)
    if found is not None:
        with contextlib.suppress(OSError, subprocess.SubprocessError):
            subprocess.run([found, *words], check=False, capture_output=True, timeout=PATIENCE_S)  # noqa: S603
