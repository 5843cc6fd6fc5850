"""The browsers of this person: what the companion needs in each, written, looked at, tried, and taken away again.

Native messaging, as both families of browsers document it: a file of JSON in a folder of the browser's tells where the host is and
which extension may start it. Everything lies in the person's own folders.
"""

import base64
import contextlib
import hashlib
import io
import json
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Sequence
from dataclasses import field
from importlib import resources
from pathlib import Path
from typing import Any

from wily_magpie.core.companion.wire import frame, read_frame
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import EnvironmentFailure, MagpieError, UserError

HOST = "example.wily_magpie"
TRIAL = "a trial"
"""What calls itself so is no browser."""
TRIAL_S = 20.0
FONTS = ("AtkinsonHyperlegibleNext_400Regular.ttf", "AtkinsonHyperlegibleNext_600SemiBold.ttf")
SOURCE = resources.files("wily_magpie.companion")


@dataclass(frozen=True)
class Browser:
    """One that is known.

    Attributes:
        key: by which it is named; name: as people call it.
        is_firefox: of which family it is.
        settings: folders of its settings, from the home folder on, or from that of all settings (XDG) for "$": the first one also
            holds its hosts.
        programs: names by which it is started.
        steps: what is left for a person to do.
    """

    key: str
    name: str
    is_firefox: bool
    settings: tuple[str, ...]
    hosts: str
    programs: tuple[str, ...]
    steps: tuple[str, ...] = field(default=())

    def folder(self, profile: Path | None = None) -> Path:
        """Where its hosts are told."""
        if self.is_firefox:
            return Path.home() / self.hosts
        return (profile or in_home(self.settings[0])) / self.hosts

    @property
    def is_there(self) -> bool:
        """Whether the person has it."""
        return any(map(shutil.which, self.programs)) or any(in_home(one).is_dir() for one in self.settings)


IN_CHROMIUM = (
    "Open chrome://extensions and turn on Developer mode, at the top right.",
    "Choose “Load unpacked” and the folder {extension}",
)
IN_FIREFOX = (
    "Until the companion is signed, Firefox takes it for one session: open about:debugging#/runtime/this-firefox,"
    " choose “Load Temporary Add-on” and the file {extension}/manifest.json",
    "In Firefox ESR it can stay: set xpinstall.signatures.required to false in about:config, then about:addons, the gear,"
    " “Install Add-on From File” and {packed}",
)
BROWSERS = (
    Browser("firefox", "Firefox", True, (".mozilla", "$/mozilla"), ".mozilla/native-messaging-hosts",
            ("firefox-esr", "firefox"), IN_FIREFOX),
    Browser("chromium", "Chromium", False, ("$/chromium",), "NativeMessagingHosts",
            ("chromium", "chromium-browser"), IN_CHROMIUM),
    Browser("chrome", "Chrome", False, ("$/google-chrome",), "NativeMessagingHosts",
            ("google-chrome", "google-chrome-stable"), IN_CHROMIUM),
)  # fmt: skip


def in_home(path: str) -> Path:
    """A folder of the person's."""
    if path.startswith("$/"):
        return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / path[2:]
    return Path.home() / path


def find_browser(key: str) -> Browser:
    """The browser of that name.

    Raises:
        UserError: none is known by it.
    """
    found = next((one for one in BROWSERS if key.casefold() in (one.key, one.name.casefold())), None)
    if found is None:
        there = ", ".join(one.key for one in BROWSERS)
        raise UserError("unknown-browser", f"No browser “{key}” is known.", f"There are: {there}.")
    return found


def manifest() -> dict[str, Any]:
    """The extension's own manifest."""
    told: dict[str, Any] = json.loads((SOURCE / "manifest.json").read_text("utf-8"))
    return told


def chromium_id(key: str) -> str:
    """The id that Chromium gives an extension of that public key: the first half of its SHA-256 in the letters a to p."""
    digest = hashlib.sha256(base64.b64decode(key)).hexdigest()
    return "".join(chr(ord("a") + int(figure, 16)) for figure in digest[:32])


def identities() -> tuple[str, str]:
    """The extension's ids: in Chromium, in Firefox."""
    told = manifest()
    return chromium_id(told["key"]), told["browser_specific_settings"]["gecko"]["id"]


class Companion:
    """What is installed of it for this person.

    Args:
        data: where it is put; state: where it is noted who called last.
    """

    def __init__(self, data: Path | None = None, state: Path | None = None) -> None:
        import platformdirs  # not needed by most commands

        self.home = (data or Path(platformdirs.user_data_dir("wily-magpie"))) / "companion"
        self.heard_file = (state or Path(platformdirs.user_state_dir("wily-magpie"))) / "companion.json"
        self.extension, self.host = self.home / "extension", self.home / "host"
        self.told_file = self.home / "told.json"
        self.packed = self.home / "wily-magpie-companion.xpi"

    # putting it there

    def install(self, library: Path | None, browsers: Sequence[Browser], profile: Path | None = None) -> None:
        """Writes all that browsers need, or writes it anew.

        Args:
            library: where pages go while no window is open; None: the usual one.
            profile: of a browser of Chromium's family whose settings are not in the usual place.

        Raises:
            EnvironmentFailure: it cannot be written.
        """
        try:
            self.write_extension()
            self.write_host(library)
            for browser in browsers:
                folder = browser.folder(profile)
                folder.mkdir(parents=True, exist_ok=True)
                (folder / f"{HOST}.json").write_text(json.dumps(self.told_to(browser), indent=1), "utf-8")
                self.note(browser, folder)
        except OSError as error:
            raise EnvironmentFailure(
                "companion-unwritten",
                f"The companion could not be set up: {error}.",
                "Check the rights of that folder.",
            ) from error

    def note(self, browser: Browser, folder: Path) -> None:
        """Notes where a browser is told of the host, which need not be the usual place."""
        told = {**read_object(self.told_file), browser.key: str(folder)}
        self.told_file.write_text(json.dumps(told), "utf-8")

    def manifest_of(self, browser: Browser) -> Path:
        """The file that tells a browser of the host."""
        noted = read_object(self.told_file).get(browser.key)
        return (Path(noted) if isinstance(noted, str) else browser.folder()) / f"{HOST}.json"

    def write_extension(self) -> None:
        """The extension, in a folder that stays, and as one file."""
        if self.extension.exists():
            shutil.rmtree(self.extension)
        self.extension.mkdir(parents=True)
        with resources.as_file(SOURCE) as source:
            for part in sorted(source.iterdir()):
                if part.suffix in (".js", ".json", ".html", ".css", ".png") and part.name != "help.html":
                    shutil.copyfile(part, self.extension / part.name)
        for name, text in shared_scripts().items():
            (self.extension / name).write_text(text, "utf-8")
        with resources.as_file(resources.files("wily_magpie.qt.style") / "fonts") as fonts:
            for name in FONTS:
                shutil.copyfile(fonts / name, self.extension / name)
        (self.home / "help.html").write_text((SOURCE / "help.html").read_text("utf-8"), "utf-8")
        made = shutil.make_archive(str(self.packed), "zip", self.extension)
        Path(made).replace(self.packed)

    def write_host(self, library: Path | None) -> None:
        """What browsers start: a shell script, since an interpreter's path may hold blanks, and the relay beside it."""
        ids = identities()
        relay = (SOURCE / "relay.py").read_text("utf-8")
        words = f"--library\0{library.absolute()}" if library is not None else ""
        for name, value in (
            ("CHROMIUM_ID", ids[0]),
            ("FIREFOX_ID", ids[1]),
            ("PYTHON", sys.executable),
            ("LIBRARY", words),
        ):
            relay = relay.replace(f"@{name}@", json.dumps(value)[1:-1])
        (self.home / "relay.py").write_text(relay, "utf-8")
        quoted = [
            f"'{one}'"
            for one in (str(sys.executable).replace("'", "'\\''"), str(self.home / "relay.py").replace("'", "'\\''"))
        ]
        self.host.write_text(f'#!/bin/sh\nexec {quoted[0]} -IS {quoted[1]} "$@"\n', "utf-8")
        self.host.chmod(0o700)

    def told_to(self, browser: Browser) -> dict[str, object]:
        """What a browser is told of the host; each family wants to be told of its own kind of extension alone."""
        chromium, firefox = identities()
        allowed: dict[str, object] = (
            {"allowed_extensions": [firefox]}
            if browser.is_firefox
            else {"allowed_origins": [f"chrome-extension://{chromium}/"]}
        )
        return {
            "name": HOST, "description": "Wily Magpie", "path": str(self.host), "type": "stdio", **allowed,
        }  # fmt: skip

    def steps(self, browser: Browser) -> list[str]:
        """What is left for a person to do in a browser."""
        return [one.format(extension=self.extension, packed=self.packed) for one in browser.steps]

    def remove(self) -> list[Path]:
        """Takes away all that was written; what that was."""
        gone = [path for path in dict.fromkeys(map(self.manifest_of, BROWSERS)) if path.is_file()]
        for path in gone:
            path.unlink()
        if self.home.exists():
            shutil.rmtree(self.home)
            gone.append(self.home)
        if self.heard_file.exists():
            self.heard_file.unlink()
            gone.append(self.heard_file)
        return gone

    # looking at it

    def status(self) -> list[dict[str, Any]]:
        """How it stands with each browser that the person has, or that the host is told to."""
        heard = read_object(self.heard_file)
        out = []
        for browser in BROWSERS:
            fault = self.fault_in(browser)
            if not browser.is_there and fault == NOT_SET_UP:
                continue
            called = heard.get(browser.name) or {}
            out.append(
                {
                    "browser": browser.key, "name": browser.name, "is_set_up": not fault, "fault": fault,
                    "called": called.get("when", ""), "version": called.get("version", ""), "steps": self.steps(browser),
                }
            )  # fmt: skip
        return out

    def fault_in(self, browser: Browser) -> str:
        """What is wrong with what a browser is told; "" where nothing is."""
        path = self.manifest_of(browser)
        try:
            told = json.loads(path.read_text("utf-8"))
        except FileNotFoundError:
            return NOT_SET_UP
        except (OSError, ValueError):
            return f"{path} cannot be read."
        if told != self.told_to(browser):
            return f"{path} tells of another host."
        if not os.access(self.host, os.X_OK):
            return f"{self.host} is gone."
        return (
            "" if str(sys.executable) in self.host.read_text("utf-8") else "It starts a program that has moved since."
        )

    def hear(self, browser: str, version: str) -> None:
        """Notes that a browser has called."""
        if browser == TRIAL:
            return
        now = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
        told = {**read_object(self.heard_file), browser[:40]: {"when": now, "version": version[:20]}}
        with contextlib.suppress(OSError):
            self.heard_file.parent.mkdir(parents=True, exist_ok=True)
            fresh = self.heard_file.with_suffix(f".{os.getpid()}")
            fresh.write_text(json.dumps(told), "utf-8")
            fresh.replace(self.heard_file)

    def tried(self) -> tuple[str, float]:
        """Starts the host as a browser would, and asks it who is there: (the library that pages go to, seconds that it took).

        Raises:
            EnvironmentFailure: it does not answer.
        """
        begun = time.monotonic()
        try:
            with subprocess.Popen(  # noqa: S603 - our own host
                [self.host, f"chrome-extension://{identities()[0]}/"], stdin=subprocess.PIPE, stdout=subprocess.PIPE
            ) as process:
                told, _ = process.communicate(
                    frame({"id": 1, "what": "hello", "browser": TRIAL, "version": "0"}), TRIAL_S
                )
            answer = read_frame(io.BytesIO(told).read)
        except (OSError, subprocess.SubprocessError, MagpieError) as error:
            raise EnvironmentFailure("companion-silent", f"The host does not start: {error}.", SET_UP_ANEW) from error
        if not isinstance(answer, dict) or not answer.get("ok"):
            said = answer.get("message", "") if isinstance(answer, dict) else "it ended without a word"
            raise EnvironmentFailure("companion-silent", f"The host does not answer: {said}.", SET_UP_ANEW)
        return str(answer["library"]), time.monotonic() - begun


def read_object(path: Path) -> dict[str, Any]:
    """An object that was written down; a blank one where it is missing or damaged."""
    try:
        told = json.loads(path.read_text("utf-8"))
    except (OSError, ValueError):
        return {}
    return told if isinstance(told, dict) else {}


def shared_scripts() -> dict[str, str]:
    """What the window's live page and the companion have in common: how marks are made and found again, by their file names."""
    web = resources.files("wily_magpie.qt.web")
    shown = (web / "shown.js").read_text("utf-8").strip()
    once = 'if (!Object.prototype.hasOwnProperty.call(window, "magpieShown"))'
    return {
        "marking.js": (web / "marking.js").read_text("utf-8"),
        "shown.js": f'{once} Object.defineProperty(window, "magpieShown", {{ value:\n{shown}\n}});\nundefined;\n',
    }


NOT_SET_UP = "It is not set up."
SET_UP_ANEW = "Set it up anew: wily-magpie companion install."
