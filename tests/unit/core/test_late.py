"""Standard modules are loaded without what they seldom use, and do as they always do when it is wanted."""

import subprocess
import sys

import pytest

CASES = {
    "a dataclass has its signature in its docstring": """
from wily_magpie.core.dataclass import dataclass
import dataclasses
assert "inspect" not in sys.modules
@dataclasses.dataclass
class Plain:
    x: int
assert Plain.__doc__ == "Plain(x: int)", Plain.__doc__
import inspect
assert str(inspect.signature(Plain)) == "(x: int) -> None"
""",
    "a fault is written with where it came from": """
from wily_magpie.core.faults import logger, start_log
assert "traceback" not in sys.modules
start_log(Path(sys.argv[1]) / "faults.log")
try:
    1 / 0
except ZeroDivisionError:
    logger("wily_magpie.tried").exception("tried")
told = (Path(sys.argv[1]) / "faults.log").read_text("utf-8")
assert "tried\\nTraceback (most recent call last):" in told and "ZeroDivisionError" in told, told
""",
    "an address of numbers is still looked at": """
assert "ipaddress" not in sys.modules
from urllib.parse import urlsplit
assert urlsplit("http://[::1]:80/a").hostname == "::1"
for wrong in ("http://[::zz]/", "http://[1.2.3.4]/"):
    try:
        urlsplit(wrong)
    except ValueError as error:
        assert "IPv" in str(error), error
    else:
        raise AssertionError(wrong)
""",
    "who has the other module already has it everywhere": """
import inspect, traceback
import dataclasses, logging
from wily_magpie.core import dataclass, faults
assert dataclass.dataclasses.inspect is inspect and faults.logging.traceback is traceback
""",
    "nobody else gets the stand-in": """
from wily_magpie.core import dataclass, faults
import inspect, traceback
assert inspect.getsource(faults.logger).startswith("def logger")
assert traceback.format_exception_only(ValueError("x")) == ["ValueError: x\\n"]
""",
    "what a module lacks is said as ever": """
from wily_magpie.core.dataclass import dataclasses
try:
    dataclasses.inspect.no_such_thing
except AttributeError as error:
    assert "no_such_thing" in str(error)
else:
    raise AssertionError("it has it")
""",
}


@pytest.mark.parametrize("case", CASES)
def test_what_was_left_aside_is_there_when_it_is_wanted(case: str, tmp_path: object) -> None:
    ready = "import sys\nfrom wily_magpie.__main__ import make_ready\nmake_ready()\nfrom pathlib import Path\n"
    code = CASES[case] if case.startswith("who has") else ready + CASES[case]
    ended = subprocess.run([sys.executable, "-c", code, str(tmp_path)], capture_output=True, text=True, check=False)
    assert ended.returncode == 0, ended.stderr
