"""Chromium, driven over its debugging pipe (Chrome DevTools Protocol: JSON ended by NUL on descriptors 3 and 4)."""

import contextlib
import json
import os
import select
import subprocess
import sys
import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any, TypeVar

T = TypeVar("T")
PATIENCE_S = 15.0
BECOME = """import os, sys
one, other = os.dup(int(sys.argv[1])), os.dup(int(sys.argv[2]))
os.dup2(one, 3), os.dup2(other, 4), os.set_inheritable(3, True), os.set_inheritable(4, True)
os.execvp(sys.argv[3], sys.argv[3:])"""
"""Becomes a program whose descriptors 3 and 4 are those that are told."""


class Chromium:
    """A running one, with the companion in it.

    Args:
        profile: the folder of its settings, in which its hosts are told already.
    """

    name = "Chromium"

    def __init__(
        self,
        extension: Path,
        identity: str,
        profile: Path,
        environment: Mapping[str, str],
        proxy: str,
        flags: Sequence[str] = (),
    ) -> None:
        self.identity = identity
        profile.joinpath("Default").mkdir(parents=True, exist_ok=True)
        profile.joinpath("Default", "Preferences").write_text(
            json.dumps({"extensions": {"pinned_extensions": [identity]}})
        )
        to_read, self.write_end = os.pipe()
        self.read_end, to_write = os.pipe()

        words = [
            "chromium", f"--user-data-dir={profile}", "--no-first-run", "--remote-debugging-pipe", "--enable-unsafe-extension-debugging",
            "--window-size=1000,800", "--window-position=0,0", "--disable-background-networking", "--disable-component-update",
            "--disable-sync", "--password-store=basic", f"--proxy-server={proxy}", *flags, "about:blank",
        ]  # fmt: skip
        if os.geteuid() == 0:
            words.insert(1, "--no-sandbox")
        self.process = subprocess.Popen(
            [sys.executable, "-c", BECOME, str(to_read), str(to_write), *words], pass_fds=(to_read, to_write),
            env=dict(environment), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(to_read)
        os.close(to_write)
        self.buffer, self.number = b"", 0
        self.events: list[dict[str, Any]] = []
        try:
            assert self.call("Extensions.loadUnpacked", path=str(extension))["id"] == identity
        except BaseException:
            self.close()
            raise
        self.page = self.session = ""

    def read(self) -> dict[str, Any]:
        end = time.monotonic() + PATIENCE_S
        while b"\0" not in self.buffer:
            left = end - time.monotonic()
            if left <= 0 or not select.select([self.read_end], [], [], left)[0]:
                raise TimeoutError
            self.buffer += os.read(self.read_end, 1 << 20)
        message, self.buffer = self.buffer.split(b"\0", 1)
        told: dict[str, Any] = json.loads(message)
        return told

    def call(self, method: str, session: str = "", **given: Any) -> dict[str, Any]:
        self.number += 1
        number = self.number
        message = {"id": number, "method": method, "params": given, **({"sessionId": session} if session else {})}
        data = json.dumps(message).encode() + b"\0"
        while data:
            data = data[os.write(self.write_end, data) :]
        while True:
            told = self.read()
            if told.get("id") == number:
                if "error" in told:
                    raise RuntimeError(told["error"])
                result: dict[str, Any] = told["result"]
                return result
            self.events.append(told)

    def targets(self, kind: str) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = self.call("Target.getTargets", filter=[{"type": kind}])["targetInfos"]
        return found

    def attach(self, target: str) -> str:
        return str(self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"])

    def find(self, kind: str, part: str) -> str:
        return wait_until(
            lambda: next((str(one["targetId"]) for one in self.targets(kind) if part in one["url"]), ""), part
        )

    def evaluate(self, session: str, script: str) -> Any:
        told = self.call("Runtime.evaluate", session, expression=script, awaitPromise=True, returnByValue=True)
        if "exceptionDetails" in told:
            raise RuntimeError(told["exceptionDetails"])
        return told["result"].get("value")

    # what tests do

    def open(self, address: str) -> None:
        """Opens an address in a tab of its own."""
        self.page = str(self.call("Target.createTarget", url="about:blank")["targetId"])
        self.session = self.attach(self.page)
        self.call("Page.enable", self.session)
        self.visit(address)

    def visit(self, address: str) -> None:
        """Goes to an address in the same tab."""
        self.events.clear()
        self.call("Page.navigate", self.session, url=address)
        while not any(
            one.get("method") == "Page.loadEventFired" and one.get("sessionId") == self.session for one in self.events
        ):
            self.events.append(self.read())
        self.call("Page.bringToFront", self.session)

    def in_page(self, script: str) -> Any:
        """An expression in the page's own world."""
        return self.evaluate(self.session, script)

    def press(self) -> None:
        """Presses the companion's button."""
        address = next(one["url"] for one in self.targets("page") if one["targetId"] == self.page)
        tab = next(one["targetId"] for one in self.targets("tab") if one["url"] == address)
        self.call("Extensions.triggerAction", id=self.identity, targetId=tab)

    def in_slip(self, script: str) -> Any:
        """An expression over `w`, the window of the slip."""
        session = self.attach(self.find("page", "slip.html"))
        ready = (
            "location.href != 'about:blank' && document.readyState == 'complete' && !!document.body?.childElementCount"
        )
        wait_until(lambda: self.evaluate(session, ready), "the slip")
        return self.evaluate(session, f"(async () => {{ const w = window; return ({script}); }})()")

    def has_slip(self) -> bool:
        """Whether the slip is open."""
        return any("slip.html" in one["url"] for one in self.targets("page"))

    def close_slip(self) -> None:
        for one in self.targets("page"):
            if "slip.html" in one["url"]:
                self.call("Target.closeTarget", targetId=one["targetId"])

    def in_background(self, script: str) -> Any:
        """An expression over `bg`, the companion's background, and `api`."""
        session = self.attach(self.find("service_worker", self.identity))
        return self.evaluate(session, f"(async () => {{ const bg = globalThis, api = chrome; return ({script}); }})()")

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self.call("Browser.close")
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        os.close(self.write_end)
        os.close(self.read_end)


def wait_until(ask: Callable[[], T], what: str, patience_s: float = PATIENCE_S) -> T:
    """Waits until something is there."""
    end = time.monotonic() + patience_s
    while not (found := ask()):
        assert time.monotonic() < end, f"{what} did not come"
        time.sleep(0.03)
    return found
