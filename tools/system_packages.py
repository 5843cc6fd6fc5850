"""Says which libraries of the system Qt and its web engine still lack, and installs them where it may.

Each library is asked for by its file name, since the names of packages differ between releases. With `--tests` it does the same of
the programs that some tests drive: the browsers and a screen of their own. Tests that lack theirs are skipped, and say so.
"""

import ctypes
import os
import shutil
import subprocess
import sys

# library file -> packages that bring it, the newer release's name first
NEEDED = {
    "libEGL.so.1": ["libegl1"],
    "libGL.so.1": ["libgl1"],
    "libglib-2.0.so.0": ["libglib2.0-0t64", "libglib2.0-0"],
    "libdbus-1.so.3": ["libdbus-1-3"],
    "libfontconfig.so.1": ["libfontconfig1"],
    "libxkbcommon.so.0": ["libxkbcommon0"],
    "libgssapi_krb5.so.2": ["libgssapi-krb5-2"],
    "libxcb-cursor.so.0": ["libxcb-cursor0"],
    "libxcb-icccm.so.4": ["libxcb-icccm4"],
    "libxcb-keysyms.so.1": ["libxcb-keysyms1"],
    "libxcb-shape.so.0": ["libxcb-shape0"],
    "libxkbcommon-x11.so.0": ["libxkbcommon-x11-0"],
    "libX11-xcb.so.1": ["libx11-xcb1"],
    "libxcb-image.so.0": ["libxcb-image0"],
    "libxcb-randr.so.0": ["libxcb-randr0"],
    "libxcb-render-util.so.0": ["libxcb-render-util0"],
    "libxcb-shm.so.0": ["libxcb-shm0"],
    "libxcb-sync.so.1": ["libxcb-sync1"],
    "libxcb-xfixes.so.0": ["libxcb-xfixes0"],
    "libxcb-xkb.so.1": ["libxcb-xkb1"],
    "libwayland-client.so.0": ["libwayland-client0"],
    "libwayland-cursor.so.0": ["libwayland-cursor0"],
    "libwayland-egl.so.1": ["libwayland-egl1"],
    "libnss3.so": ["libnss3"],
    "libnspr4.so": ["libnspr4"],
    "libasound.so.2": ["libasound2t64", "libasound2"],
    "libXcomposite.so.1": ["libxcomposite1"],
    "libXdamage.so.1": ["libxdamage1"],
    "libXext.so.6": ["libxext6"],
    "libXfixes.so.3": ["libxfixes3"],
    "libXrandr.so.2": ["libxrandr2"],
    "libXtst.so.6": ["libxtst6"],
    "libxkbfile.so.1": ["libxkbfile1"],
    "libxcb-dri3.so.0": ["libxcb-dri3-0"],
    "libgbm.so.1": ["libgbm1"],
    "libudev.so.1": ["libudev1"],
    "libexpat.so.1": ["libexpat1"],
}
DRIVEN = {
    "chromium": "chromium",
    "firefox-esr": "firefox-esr",
    "Xvfb": "xvfb",
    "openbox": "openbox",
    "xdotool": "xdotool",
    "dbus-daemon": "dbus",
    "gdbus": "libglib2.0-bin",
}
"""Programs that tests drive -> packages that bring them."""


def missing() -> list[str]:
    """Library files that the loader cannot find."""
    out = []
    for name in NEEDED:
        try:
            ctypes.CDLL(name)
        except OSError:
            out.append(name)
    return out


def known(package: str) -> bool:
    """Whether this release has a package of that name."""
    told = subprocess.run(["apt-cache", "policy", package], capture_output=True, text=True, check=False).stdout
    return "Candidate:" in told and "Candidate: (none)" not in told


def may_install() -> bool:
    """Whether packages can be installed here."""
    return shutil.which("apt-get") is not None and os.geteuid() == 0


def install(names: list[list[str]]) -> None:
    """Installs packages, each the first of its names that this release knows."""
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    subprocess.run(["apt-get", "update", "-qq"], check=False, env=environment, stdout=sys.stderr)
    packages = [next(filter(known, one), one[-1]) for one in names]
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *packages]
    subprocess.run(command, check=False, env=environment, stdout=sys.stderr)


def for_tests() -> int:
    """Installs what tests drive, or says what is lacking; never fails."""
    lacking = [name for name in DRIVEN if shutil.which(name) is None]
    if lacking and may_install():
        sys.stderr.write(f"magpie: installing what tests drive: {', '.join(lacking)} …\n")
        install([[DRIVEN[name]] for name in lacking])
        lacking = [name for name in lacking if shutil.which(name) is None]
    if lacking:
        packages = " ".join(DRIVEN[name] for name in lacking)
        sys.stderr.write(
            f"magpie: {', '.join(lacking)} not found: the tests that drive them are skipped."
            f" On Debian and Ubuntu: sudo apt-get install {packages}\n"
        )
    return 0


def main() -> int:
    """0 when nothing is missing (any more)."""
    if "--tests" in sys.argv[1:]:
        return for_tests()
    lacking = missing()
    if not lacking:
        return 0
    if may_install():
        sys.stderr.write(f"magpie: installing {len(lacking)} libraries of the system …\n")
        install([NEEDED[name] for name in lacking])
        lacking = missing()
        if not lacking:
            return 0
    packages = sorted({" or ".join(NEEDED[name]) for name in lacking})
    sys.stderr.write(
        "magpie: the system lacks libraries that Qt and its web engine need.\n"
        "On Debian and Ubuntu these packages bring them:\n  " + "\n  ".join(packages) + "\n"
        "Install them with: sudo apt-get install PACKAGE…, then start again.\n"
    )
    return 1


if __name__ == "__main__":
    sys.exit(main())
