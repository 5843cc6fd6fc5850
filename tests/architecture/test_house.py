"""The house's own rules that no linter knows."""

import re
from pathlib import Path

import pytest
import yaml

ROOT = Path(__file__).parent.parent.parent
CODE = ROOT / "src" / "wily_magpie"
MODULES = sorted(CODE.rglob("*.py"))
ERRORS = "UserError|StuckStep|UnreadableValue|BadQuery|EnvironmentFailure|PageFailure|BugError|MagpieError"


def slugs() -> set[str]:
    """The names of all errors in the code."""
    found = set()
    for path in MODULES:
        text = path.read_text("utf-8")
        found |= set(re.findall(rf'(?:{ERRORS}|super\(\)\.__init__)\(\s*"([a-z-]+)"', text))
        found |= set(re.findall(r'apsw\.\w+Error: \(\s*"([a-z-]+)"', text))
    return found


def test_every_message_is_explained_and_no_other() -> None:
    explained = set(re.findall(r"`([a-z]+(?:-[a-z]+)*)`", (ROOT / "docs" / "messages.md").read_text("utf-8")))
    assert slugs() - explained == set()
    assert explained - slugs() - {"error", "extract", "capture"} == set()


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(CODE)))
def test_a_module_is_small_and_says_what_it_holds(path: Path) -> None:
    text = path.read_text("utf-8")
    assert text.startswith('"""'), "every module begins with its door sign"
    code = [line for line in text.splitlines() if line.strip() and not line.strip().startswith("#")]
    assert len(code) <= 400, "ask why at 250, stop at 400"


def test_what_a_place_is_is_not_told_by_its_key() -> None:
    outside = [path for path in MODULES if CODE / "core" / "places" not in path.parents]
    assert [
        path for path in outside if re.search(r"startswith\(f?\"(notes|collection):", path.read_text("utf-8"))
    ] == []


def test_the_guides_name_files_that_are_there() -> None:
    for guide in ("ARCHITECTURE.md", "CONTRIBUTING.md", "README.md"):
        text = (ROOT / guide).read_text("utf-8")
        for name in re.findall(r"`((?:core|qt|shell|demo|tools|tests|docs|requirements)/[\w/.-]+)`", text):
            there = [CODE / name, ROOT / name, CODE / f"{name}.py"]
            assert any(path.exists() for path in there), f"{guide} names {name}"
        for link in re.findall(r"\]\((?!http)([\w./-]+)\)", text):
            assert (ROOT / link).exists(), f"{guide} links {link}"


def test_the_lock_names_no_registry() -> None:
    for lock in (ROOT / "requirements").glob("*.txt"):
        assert "://" not in lock.read_text("utf-8")


def test_the_made_up_web_names_only_hosts_that_cannot_be() -> None:
    for path in (CODE / "demo" / "pages").rglob("*.html"):
        assert path.parent.name.endswith(".example")
        hosts = re.findall(r"https?://([\w.-]+)", path.read_text("utf-8"))
        assert all(host.endswith(".example") or host in ("schema.org", "127.0.0.1") for host in hosts), (path, hosts)
    assert all(host.endswith(".example") for host in yaml.safe_load((CODE / "demo" / "sites.yaml").read_text("utf-8")))
