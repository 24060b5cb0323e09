"""What is shipped: its licences are listed, what runs needs nothing of the checks, and papers name what is there."""

from __future__ import annotations

import ast
import importlib.metadata
import json
import re
import sys

from fenwit.web.settings import SETTINGS
from tests.conftest import ROOT


def locked(name: str) -> set[str]:
    """Packages of a lock file."""
    text = (ROOT / "requirements" / f"{name}.lock").read_text()
    return {m.group(1).lower() for m in re.finditer(r"^([A-Za-z0-9._-]+)==", text, re.MULTILINE)}


def test_every_package_that_runs_is_listed_with_its_licence() -> None:
    text = (ROOT / "docs" / "licences.md").read_text()
    python = text.partition("## What the built front end")[0]
    listed = {m.group(1).lower() for m in re.finditer(r"^\| ([a-z0-9.-]+) \| .+ \|$", python, re.MULTILINE)}
    assert locked("run") == listed - {"package"}
    for package in json.loads((ROOT / "frontend" / "package.json").read_text())["dependencies"]:
        assert re.search(rf"(?<![\w/-]){re.escape(package)}(?![\w/-])", text), package


def test_what_runs_imports_only_what_its_lock_installs() -> None:
    packages = importlib.metadata.packages_distributions()
    run = {re.sub(r"[._-]+", "-", name) for name in locked("run")}
    foreign = set()
    for file in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            names = [a.name for a in node.names] if isinstance(node, ast.Import) else []
            if isinstance(node, ast.ImportFrom) and node.module:
                names = [node.module]
            foreign |= {n.split(".")[0] for n in names} - {"fenwit"} - set(sys.stdlib_module_names)
    assert foreign
    for module in foreign:
        owners = {re.sub(r"[._-]+", "-", name.lower()) for name in packages.get(module, [])}
        assert owners & run, module
    assert run < {re.sub(r"[._-]+", "-", name) for name in locked("all")}


def test_no_lock_names_a_place_of_this_machine() -> None:
    files = [*(ROOT / "requirements").glob("*.lock"), ROOT / "frontend" / "package-lock.json"]
    for file in files:
        text = file.read_text()
        # Whom to pay and where to ask is named by npm's packages; where they were fetched from is not.
        assert '"resolved"' not in text, file.name
        assert "file:" not in text, file.name
        if file.suffix == ".lock":
            assert "://" not in text, file.name


def test_papers_name_what_is_there() -> None:
    for paper in (ROOT / "README.md", ROOT / "SECURITY.md", *(ROOT / "docs").rglob("*.md")):
        for link in re.findall(r"\]\(([^)#:]+)\)", paper.read_text()):
            assert (paper.parent / link).exists(), (paper.name, link)
    for name in re.findall(r"`(tests/[\w/]+(?:\.py)?|test_\w+\.py)`", (ROOT / "SECURITY.md").read_text()):
        assert (
            (ROOT / name).exists()
            or (ROOT / "tests" / "web" / name).exists()
            or (ROOT / "tests" / "store" / name).exists()
        ), name


def test_every_setting_has_a_name_a_default_and_help() -> None:
    for setting in SETTINGS:
        assert re.fullmatch(r"FENWIT_[A-Z_]+", setting.name)
        assert len(setting.help) > 10
