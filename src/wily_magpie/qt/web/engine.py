"""How the web engine is started: all that it asks for goes through the gate, and nothing past it."""

import os
from functools import cache

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network.gate import Gate


def need_sandbox() -> None:
    """Raises where Chromium would end the whole program.

    Raises:
        PageFailure: the engine's sandbox does not run for root.
    """
    if os.geteuid() == 0 and "QTWEBENGINE_DISABLE_SANDBOX" not in os.environ:
        raise PageFailure(
            "web-engine-root",
            "The live page does not run for root, who has no sandbox.",
            "Start the program as another user, or capture from the shell: wily-magpie capture ADDRESS.",
        )


@cache
def open_gate() -> Gate:
    """The gate of this process, and the engine told of it. To be called before the engine is made for the first time.

    Chromium lets addresses of this machine by any proxy, unless that is taken back (<-loopback>); it would speak UDP past
    it (QUIC, WebRTC), unless that is forbidden.
    """
    gate = Gate()
    flags = [
        os.environ.get("QTWEBENGINE_CHROMIUM_FLAGS", ""),
        f"--proxy-server={gate.address}",
        "--proxy-bypass-list=<-loopback>",
        "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
        "--disable-quic",
    ]
    os.environ["QTWEBENGINE_CHROMIUM_FLAGS"] = " ".join(filter(None, flags))
    return gate
