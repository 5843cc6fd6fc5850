"""Notifications of the desktop (freedesktop.org: Desktop Notifications), where a desktop shows them."""


def notify(title: str, text: str) -> None:
    """Says something where the window is not in front; silent where the desktop has no notifications."""
    import shutil
    import subprocess  # seldom needed

    found = shutil.which("notify-send")
    if found is not None:
        subprocess.Popen(  # noqa: S603 - a program of the desktop; the texts are arguments of their own
            [found, "--app-name=Wily Magpie", "--icon=wily-magpie", "--", title, text],
            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
