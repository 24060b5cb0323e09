"""Set-up killed at any moment is repaired by the next start. Its tools are stand-ins that can be made to hang."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import time
from pathlib import Path

import pytest

from tests.conftest import ROOT

STAND_IN = """#!/usr/bin/env bash
# A stand-in for a tool: leaves half of what it makes, hangs there when told to, then makes the rest.
half() {
  if [ "$HANG_AT" = "$1" ]; then echo "$1" > "$HUNG"; sleep 600; fi
}
case "$(basename "$0") $*" in
  "python3 -V") echo "Python 3.11.7" ;;
  "python3 -c"*) exit 0 ;;
  "python3 -m venv"*)
    mkdir -p "$3/bin"; half venv
    cp "$0" "$3/bin/python"; cp "$0" "$3/bin/uv" ;;
  "python -m pip"*) half pip ;;
  "uv pip sync"*) echo half > "$(dirname "$0")/../packages"; half sync; echo whole > "$(dirname "$0")/../packages" ;;
  "python -m fenwit openapi") echo '{"a":'; half openapi; echo '1}' ;;
  "node -p"*) echo 20 ;;
  "npm ci"*)
    mkdir -p node_modules; echo half > node_modules/packages; half npm; echo "whole $*" > node_modules/packages ;;
  "npm run -s types"*) echo half > "$7"; half types; echo whole > "$7" ;;
  "npm run -s build"*) mkdir -p "$6"; echo half > "$6/index.html"; half build; echo whole > "$6/index.html" ;;
  *) echo "nobody stands in for: $(basename "$0") $*" >&2; exit 9 ;;
esac
"""
STAGES = ("venv", "pip", "sync", "npm", "openapi", "types", "build")


@pytest.fixture
def place(tmp_path: Path) -> Path:
    """A copy of what set-up reads, with stand-ins for what it calls."""
    found = tmp_path / "fenwit"
    shutil.copytree(ROOT / "bin", found / "bin")
    shutil.copytree(ROOT / "requirements", found / "requirements")
    (found / "frontend" / "src" / "api").mkdir(parents=True)
    for name in ("package.json", "package-lock.json", "index.html", "vite.config.ts"):
        shutil.copy(ROOT / "frontend" / name, found / "frontend")
    tools = tmp_path / "tools"
    tools.mkdir()
    for name in ("python3", "node", "npm"):
        (tools / name).write_text(STAND_IN)
        (tools / name).chmod(0o755)
    return found


def set_up(place: Path, kind: str = "run", hang_at: str = "") -> subprocess.CompletedProcess[str]:
    """Run set-up; where it hangs it is killed with all its children."""
    hung = place.parent / "hung"
    hung.unlink(missing_ok=True)
    path = f"{place.parent / 'tools'}:{os.environ['PATH']}"
    process = subprocess.Popen(
        ["bash", "-c", f". bin/setup.sh; debian_packages() {{ :; }}; set_up {kind}"],
        cwd=place,
        env={**os.environ, "PATH": path, "HANG_AT": hang_at, "HUNG": str(hung)},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        start_new_session=True,
    )
    deadline = time.monotonic() + 60
    while hang_at and not hung.exists() and process.poll() is None and time.monotonic() < deadline:
        time.sleep(0.02)
    if hang_at:
        assert hung.exists(), "it never came to where it should hang"
        os.killpg(process.pid, signal.SIGKILL)
    out, _ = process.communicate(timeout=60)
    return subprocess.CompletedProcess(process.args, process.returncode, out)


def whole(place: Path) -> bool:
    """Whether everything there is was made to its end."""
    made = (
        place / ".venv" / "packages",
        place / "frontend" / "node_modules" / "packages",
        place / "frontend" / "src" / "api" / "schema.d.ts",
        place / "frontend" / "dist" / "index.html",
    )
    return all(file.exists() and file.read_text().startswith("whole") for file in made)


def left_over(place: Path) -> list[str]:
    found = [f for f in place.rglob("*") if f.name.endswith((".new", ".old", ".part")) or f.name == ".beside"]
    return [str(f.relative_to(place)) for f in found]


@pytest.mark.parametrize("stage", STAGES)
def test_a_start_killed_at_any_stage_is_repaired_by_the_next(place: Path, stage: str) -> None:
    set_up(place, hang_at=stage)
    assert not whole(place)
    again = set_up(place)
    assert again.returncode == 0, again.stdout
    assert whole(place)
    assert left_over(place) == []
    assert len(list((place / ".fenwit" / "environments").iterdir())) == 1
    assert set_up(place).stdout == ""  # nothing is left to do


@pytest.mark.parametrize("stage", STAGES)
def test_what_stood_stays_whole_while_the_new_one_is_made(place: Path, stage: str) -> None:
    assert set_up(place).returncode == 0
    (place / "requirements" / "run.lock").write_text("another")
    (place / "frontend" / "package-lock.json").write_text("{}")
    (place / "frontend" / "src" / "api" / "schema.d.ts").unlink()
    set_up(place, hang_at=stage)
    for made in (".venv/packages", "frontend/node_modules/packages", "frontend/dist/index.html"):
        assert (place / made).read_text().startswith("whole"), made
    assert set_up(place).returncode == 0
    assert whole(place)
    assert left_over(place) == []


def test_the_tools_of_the_checks_come_only_with_the_checks(place: Path) -> None:
    assert set_up(place, "run").returncode == 0
    assert "--omit=dev" in (place / "frontend" / "node_modules" / "packages").read_text()
    assert os.readlink(place / ".venv").startswith(".fenwit/environments/run-")
    assert set_up(place, "all").returncode == 0
    assert "--omit=dev" not in (place / "frontend" / "node_modules" / "packages").read_text()
    assert os.readlink(place / ".venv").startswith(".fenwit/environments/all-")
    # What can check can also run.
    assert set_up(place, "run").stdout == ""
    assert os.readlink(place / ".venv").startswith(".fenwit/environments/all-")


def test_an_environment_of_an_earlier_version_gives_way(place: Path) -> None:
    (place / ".venv" / "bin").mkdir(parents=True)
    assert set_up(place).returncode == 0
    assert (place / ".venv").is_symlink()
    assert whole(place)
