"""The house's own rules that no linter knows."""

import ast
import re
from pathlib import Path

import pytest
import yaml

ROOT = Path(__file__).parent.parent.parent
CODE = ROOT / "src" / "wily_magpie"
MODULES = sorted(CODE.rglob("*.py"))
ERRORS = "UserError|StuckStep|UnreadableValue|BadQuery|EnvironmentFailure|FileChanging|PageFailure|BugError|MagpieError"


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


def dynamic_tips(path: Path) -> list[int]:
    """Lines where a tool tip is set that is neither written there nor made plain."""

    def is_safe(node: ast.expr) -> bool:
        if isinstance(node, ast.IfExp):
            return is_safe(node.body) and is_safe(node.orelse)
        called = node.func if isinstance(node, ast.Call) else None
        return isinstance(node, ast.Constant) or (isinstance(called, ast.Name) and called.id in ("plain_tip", "tip_of"))

    calls = [one for one in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(one, ast.Call)]
    tips = [one for one in calls if isinstance(one.func, ast.Attribute) and one.func.attr == "setToolTip"]
    return [one.lineno for one in tips if not is_safe(one.args[-1])]


def test_nothing_that_a_page_says_is_laid_out_as_html_by_a_label_or_a_tool_tip() -> None:
    found = []
    for path in (CODE / "qt").rglob("*.py"):
        text = path.read_text("utf-8")
        found += [f"{path.name}:{line} has a tool tip that may be HTML" for line in dynamic_tips(path)]
        if re.search(r"(?<![A-Za-z])QLabel\(", text) and path.name != "parts.py":
            found.append(f"{path.name} makes a label that may be HTML")
        if "ToolTipRole" in text and "plain_tip(" not in text:
            found.append(f"{path.name} has a model whose tool tips may be HTML")
    assert found == []
