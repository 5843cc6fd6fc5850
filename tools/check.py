"""`./magpie test`: all that a change must pass, in the order of how soon it tells: format, lint, imports, types, tests.

The tests run in two halves at once, those with windows and browsers beside all others; what the second half says comes behind the
first.

`./magpie test ARGS…` runs pytest alone, with those arguments.
"""

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parent.parent
BIN = Path(sys.executable).parent
PROBE = """
import importlib, pkgutil, sys
import wily_magpie.core
for found in pkgutil.walk_packages(wily_magpie.core.__path__, "wily_magpie.core."):
    importlib.import_module(found.name)
strangers = sorted(name for name in sys.modules if name.split(".")[0] in ("PyQt6", "PySide6", "qtpy"))
sys.exit(f"the core loaded {strangers[:3]}" if strangers else 0)
"""
CHECKS: dict[str, list[str]] = {
    "format": [str(BIN / "ruff"), "format", "--check", "--quiet", "src", "tests", "tools"],
    "lint": [str(BIN / "ruff"), "check", "--quiet", "src", "tests", "tools"],
    "imports": [str(BIN / "lint-imports"), "--no-cache"],
    "the core alone": [sys.executable, "-c", PROBE],
    "types": [str(BIN / "mypy")],
}
PYTEST = [sys.executable, "-m", "pytest"]
WINDOWS = ["tests/journeys", "tests/unit/qt"]


def environment() -> dict[str, str]:
    """No monitor, and no sandbox for root, for whom Chromium has none."""
    more = {"QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1"}
    if os.geteuid() == 0:
        more["QTWEBENGINE_DISABLE_SANDBOX"] = "1"
    return {**os.environ, **more}


def tests() -> bool:
    """Runs all tests; whether they pass."""
    with tempfile.TemporaryFile("w+") as said:
        others = [*PYTEST, "tests", *(f"--ignore={folder}" for folder in WINDOWS)]
        with subprocess.Popen(others, cwd=ROOT, env=environment(), stdout=said, stderr=subprocess.STDOUT) as beside:
            first = subprocess.run([*PYTEST, *WINDOWS], cwd=ROOT, env=environment(), check=False).returncode
            second = beside.wait()
        said.seek(0)
        sys.stdout.write(said.read())
        sys.stdout.flush()
    return first == second == 0


def main() -> int:
    if sys.argv[1:]:
        return subprocess.run([*PYTEST, *sys.argv[1:]], cwd=ROOT, env=environment(), check=False).returncode
    failed = []
    for name, command in CHECKS.items():
        start = time.monotonic()
        ended = subprocess.run(command, cwd=ROOT, env=environment(), check=False, capture_output=True, text=True)
        if ended.returncode:
            failed.append(name)
            sys.stdout.write(f"{ended.stdout or ''}{ended.stderr or ''}")
        print(f"{name}: {'FAILED' if ended.returncode else 'good'} ({time.monotonic() - start:.1f} s)", flush=True)
    start = time.monotonic()
    failed += [] if tests() else ["tests"]
    print(f"tests: {'FAILED' if 'tests' in failed else 'good'} ({time.monotonic() - start:.1f} s)", flush=True)
    print(f"failed: {', '.join(failed)}" if failed else "All is well.")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
