"""Says which libraries of the system Qt and its web engine still lack, and installs them where it may.

Each library is asked for by its file name, since the names of packages differ between releases.
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


def main() -> int:
    """0 when nothing is missing (any more)."""
    lacking = missing()
    if not lacking:
        return 0
    if shutil.which("apt-get") and os.geteuid() == 0:
        sys.stderr.write(f"magpie: installing {len(lacking)} libraries of the system …\n")
        environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        subprocess.run(["apt-get", "update", "-qq"], check=False, env=environment, stdout=sys.stderr)
        packages = [next(filter(known, NEEDED[name]), NEEDED[name][-1]) for name in lacking]
        subprocess.run(["apt-get", "install", "-y", "-qq", *packages], check=False, env=environment, stdout=sys.stderr)
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
