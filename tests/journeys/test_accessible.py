"""The text that is read, and its marks, as a screen reader is told of them: over AT-SPI, on a screen of its own."""

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from accessible import Bus, launcher
from chromium import wait_until
from screen import Screen
from wily_magpie.core.commands.entries import AddEntry
from wily_magpie.core.commands.marks import PutMark
from wily_magpie.core.entries.mark import Mark
from wily_magpie.core.session.session import Session

CHILD = Path(__file__).parent / "reading_window.py"
PLACE = "collection:1"


def test_a_text_and_its_marks_can_be_followed(session: Session, tmp_path: Path) -> None:
    if launcher() is None or not all(map(shutil.which, ("Xvfb", "openbox", "xdotool", "dbus-daemon", "gdbus"))):
        pytest.skip("there is no Xvfb, openbox, xdotool, dbus-daemon, gdbus or AT-SPI here")
    entry = session.do(AddEntry(PLACE, "The weir", {}, "# Its age\n\nThe weir was raised in 1298.\n"))
    session.do(PutMark(PLACE, entry, Mark("raised in 1298", "evidence", "by whom?")))
    with Screen() as screen, Bus(screen.display) as bus:
        words = [str(one) for one in (session.folder, PLACE, entry, tmp_path)]
        with subprocess.Popen([sys.executable, CHILD, *words], env=bus.surroundings) as child:
            try:
                found = wait_until(lambda: objects(bus), "the text in the accessible tree")
            finally:
                child.terminate()
    assert found is not None
    text, names = found
    assert "The weir was raised in 1298." in text
    assert "raised in 1298" in names  # a mark of the list beside the text
    assert "Comment on the evidence" in names
    assert {"Marks: 1", "Status", "Headings"} <= names


def objects(bus: Bus) -> tuple[str, set[str]] | None:
    """The text that is read, and the names of all that there is; None until it is there."""
    every = list(bus.all())
    text = next((bus.text(owner, path) for name, owner, path in every if name == "Kept text"), "")
    names = {name for name, _, _ in every}
    return (text, names) if "raised in 1298" in text and "raised in 1298" in names else None
