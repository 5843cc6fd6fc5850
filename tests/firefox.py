"""Firefox, driven by WebDriver BiDi (W3C) over one WebSocket, with no driver program."""

import contextlib
import json
import re
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from websockets.sync.client import connect

from chromium import wait_until

PATIENCE_S = 20.0


class Firefox:
    """A running one, with the companion in it.

    Args:
        profile: the folder of its settings; its hosts are told in the home folder of the environment.
    """

    name = "Firefox"

    def __init__(
        self,
        extension: Path,
        identity: str,
        profile: Path,
        environment: Mapping[str, str],
        proxy: str,
        *,
        is_headless: bool = True,
    ) -> None:
        self.identity = identity
        profile.mkdir(parents=True, exist_ok=True)
        settings = {
            "browser.shell.checkDefaultBrowser": False, "browser.aboutwelcome.enabled": False, "browser.startup.page": 0,
            "datareporting.policy.dataSubmissionEnabled": False, "toolkit.telemetry.reportingpolicy.firstRun": False,
            "app.update.enabled": False, "extensions.webextOptionalPermissionPrompts": not is_headless, "network.proxy.type": 1,
            "network.proxy.http": "127.0.0.1", "network.proxy.http_port": urlsplit(proxy).port, "network.captive-portal-service.enabled": False,
            "dom.security.https_first": False, "dom.security.https_only_mode": False,
        }  # fmt: skip
        lines = [f"user_pref({json.dumps(name)}, {json.dumps(value)});\n" for name, value in settings.items()]
        profile.joinpath("user.js").write_text("".join(lines))
        told = profile / "stderr"
        with told.open("w") as stderr:
            self.process = subprocess.Popen(
                ["firefox-esr", "--no-remote", "--profile", str(profile), "--remote-debugging-port", "0", "--width", "1000",
                 "--height", "800", "--remote-allow-system-access", *(["--headless"] if is_headless else []), "about:blank"],
                env={**environment, "MOZ_CRASHREPORTER_DISABLE": "1"}, stdout=subprocess.DEVNULL, stderr=stderr,
            )  # fmt: skip
        found = wait_until(lambda: re.findall(r"listening on (ws://\S+)", told.read_text()), "Firefox")
        self.things = contextlib.ExitStack()
        self.socket = self.things.enter_context(connect(found[0] + "/session", max_size=None, compression=None))
        self.number = 0
        self.call("session.new", capabilities={})
        self.call("webExtension.install", extensionData={"type": "path", "path": str(extension)})
        self.window = self.call("browsingContext.getTree", **{"moz:scope": "chrome"})["contexts"][0]["context"]
        host = self.evaluate(self.window, f"WebExtensionPolicy.getByID('{identity}').mozExtensionHostname")
        self.page = self.call("browsingContext.getTree")["contexts"][0]["context"]
        # a page of the extension in a tab behind: from there its background and its slip are reached by the public API
        self.stage = self.call("browsingContext.create", type="tab", background=True)["context"]
        self.call(
            "browsingContext.navigate", context=self.stage, url=f"moz-extension://{host}/options.html", wait="complete"
        )

    def call(self, method: str, **given: Any) -> dict[str, Any]:
        self.number += 1
        self.socket.send(json.dumps({"id": self.number, "method": method, "params": given}))
        while True:
            told = json.loads(self.socket.recv(timeout=PATIENCE_S))
            if told.get("id") == self.number:
                if told["type"] == "error":
                    raise RuntimeError(f"{told['error']}: {told['message']}")
                result: dict[str, Any] = told["result"]
                return result

    def evaluate(self, context: str, script: str) -> Any:
        told = self.call(
            "script.evaluate", expression=script, target={"context": context}, awaitPromise=True,
            serializationOptions={"maxObjectDepth": 8},
        )  # fmt: skip
        if told["type"] == "exception":
            raise RuntimeError(told["exceptionDetails"]["text"])
        return plain(told["result"])

    # what tests do

    def open(self, address: str) -> None:
        """Opens an address in the tab in front."""
        self.visit(address)

    def visit(self, address: str) -> None:
        """Goes to an address in the same tab."""
        self.call("browsingContext.navigate", context=self.page, url=address, wait="complete")
        self.call("browsingContext.activate", context=self.page)

    def in_page(self, script: str) -> Any:
        """An expression in the page's own world."""
        return self.evaluate(self.page, script)

    def press(self) -> None:
        """Presses the companion's button."""
        action = f"gUnifiedExtensions.browserActionFor(WebExtensionPolicy.getByID('{self.identity}'))"
        self.evaluate(self.window, f"{action}.triggerAction(window)")

    def in_slip(self, script: str) -> Any:
        """An expression over `w`, the window of the slip."""
        find = "w = browser.extension.getViews({type: 'popup'})[0]"
        is_there = "w?.document?.readyState == 'complete' && w.location.href != 'about:blank'"
        wait = f"for (let at = 0; at < 600 && !({is_there}); at++) {{ await new Promise((go) => setTimeout(go, 30)); {find}; }}"
        return self.evaluate(self.stage, f"(async () => {{ let w; {wait} return ({script}); }})()")

    def has_slip(self) -> bool:
        """Whether the slip is open."""
        return bool(self.evaluate(self.stage, "browser.extension.getViews({type: 'popup'}).length > 0"))

    def close_slip(self) -> None:
        self.evaluate(self.stage, "browser.extension.getViews({type: 'popup'}).forEach((w) => w.close())")

    def in_background(self, script: str) -> Any:
        """An expression over `bg`, the companion's background, and `api`."""
        asked = f"browser.runtime.getBackgroundPage().then(async (bg) => {{ const api = browser; return ({script}); }})"
        return self.evaluate(self.stage, asked)

    def by_click(self, script: str) -> None:
        """Does what only a person's click may do: in the tab behind."""
        self.call("browsingContext.activate", context=self.stage)
        self.evaluate(
            self.stage,
            f"(() => {{ window.asked = 0; document.onclick = () => {script}.then(() => {{ window.asked = 1; }}); }})()",
        )
        moves = [
            {"type": "pointerMove", "x": 60, "y": 40},
            {"type": "pointerDown", "button": 0},
            {"type": "pointerUp", "button": 0},
        ]
        pointer = {"type": "pointer", "id": "mouse", "actions": moves}
        self.call("input.performActions", context=self.stage, actions=[pointer])
        wait_until(lambda: self.evaluate(self.stage, "window.asked"), "the click")
        self.call("browsingContext.activate", context=self.page)

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self.call("browser.close")
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        self.things.close()


def plain(told: dict[str, Any]) -> Any:
    """A value as the protocol writes it."""
    kind = told["type"]
    if kind in ("undefined", "null"):
        return None
    if kind == "array":
        return [plain(one) for one in told.get("value", [])]
    if kind == "object":
        return {name: plain(one) for name, one in told.get("value", [])}
    return told.get("value")
