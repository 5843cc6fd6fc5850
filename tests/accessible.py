"""What a screen reader is told: a bus of its own with the accessibility registry (AT-SPI 2), asked over D-Bus."""

import os
import re
import subprocess
import tempfile
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from types import TracebackType

LAUNCHERS = ("/usr/libexec/at-spi-bus-launcher", "/usr/lib/at-spi2-core/at-spi-bus-launcher")
REFERENCE = re.compile(r"'(:[\d.]+|org[\w.]+)', (?:objectpath )?'(/[^']+)'")
ACCESSIBLE, TEXT = "org.a11y.atspi.Accessible", "org.a11y.atspi.Text"
MOST = 1_500


def launcher() -> str | None:
    """The program that starts the bus of accessibility."""
    return next((one for one in LAUNCHERS if Path(one).exists()), None)


class Bus:
    """Both buses, for as long as it is open; `surroundings` are for the programs that are to be heard."""

    def __init__(self, display: str) -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="bus")
        surroundings = {**os.environ, "DISPLAY": display, "XDG_RUNTIME_DIR": self.folder.name}
        asked = ["dbus-daemon", "--session", "--nofork", "--print-address"]
        self.session = subprocess.Popen(
            asked, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=surroundings
        )
        assert self.session.stdout is not None
        self.address = self.session.stdout.readline().strip()
        self.surroundings = {
            **surroundings,
            "DBUS_SESSION_BUS_ADDRESS": self.address,
            "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1",
            "QT_QPA_PLATFORM": "xcb",
        }

    def __enter__(self) -> "Bus":
        return self

    def __exit__(
        self, _kind: type[BaseException] | None, _error: BaseException | None, _trace: TracebackType | None
    ) -> None:
        self.session.terminate()
        self.session.wait()
        if self.session.stdout is not None:
            self.session.stdout.close()
        self.folder.cleanup()

    def call(self, name: str, path: str, method: str, *given: str, on: str = "") -> str:
        """What a method answers, as text; "" where nobody does."""
        asked = ["gdbus", "call", "--address", on or self.registry, "--dest", name, "--object-path", path]
        told = subprocess.run(
            [*asked, "--method", method, *given], capture_output=True, text=True, check=False, timeout=20
        )
        return told.stdout.strip()

    @cached_property
    def registry(self) -> str:
        """The address of the bus of accessibility, which this one starts when it is asked for."""
        told = self.call("org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus.GetAddress", on=self.address)
        found = re.search(r"'([^']+)'", told)
        return found[1] if found is not None else self.address

    def children(self, name: str, path: str) -> list[tuple[str, str]]:
        """What lies in an object."""
        return REFERENCE.findall(self.call(name, path, f"{ACCESSIBLE}.GetChildren"))

    def name(self, name: str, path: str) -> str:
        """What an object is called."""
        told = self.call(name, path, "org.freedesktop.DBus.Properties.Get", ACCESSIBLE, "Name")
        found = re.search(r"<[\"'](.*)[\"']>", told, re.DOTALL)
        return found[1] if found is not None else ""

    def text(self, name: str, path: str) -> str:
        """The words of an object."""
        return self.call(name, path, f"{TEXT}.GetText", "--", "0", "-1")

    def all(self) -> Iterator[tuple[str, str, str]]:
        """(name, bus name, path) of all objects of all programs, from outside to inside."""
        todo = [("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")]
        for _ in range(MOST):
            if not todo:
                return
            owner, path = todo.pop(0)
            yield self.name(owner, path), owner, path
            todo += self.children(owner, path)
