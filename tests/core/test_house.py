"""The house stays as it was built: nobody but a method's own room, and the registries, names a method."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from fenwit.core.methods import REGULATIONS
from fenwit.core.motor.kinds import Method
from fenwit.web.methods import DOORS, door_of
from tests.conftest import ROOT

SOURCE, SCREEN = ROOT / "src" / "fenwit", ROOT / "frontend" / "src"
SHARED = (
    *(SOURCE / "core" / "frame").rglob("*.py"),
    *(SOURCE / "core" / "job").rglob("*.py"),
    *(p for p in (SOURCE / "report").rglob("*") if p.is_file() and "methods" not in p.parts),
    *(p for p in (SOURCE / "web").rglob("*.py") if "methods" not in p.parts),
    *(p for p in SCREEN.rglob("*.ts*") if SCREEN / "methods" not in p.parents and p.name != "schema.d.ts"),
    *(SCREEN / "methods" / "shared").rglob("*.ts*"),
)
ROOMS = tuple(method.value.replace("-", "_") for method in REGULATIONS)
# Any spelling of a method: its key, its folder, its member of the enumeration, its class in camels.
NAMED = re.compile(
    "|".join(
        [
            *(f"(?i:{m.value.replace('-', '[-_ ]?')})" for m in Method),
            r"\bMethod\.[A-Z]",
            r"\b[Bb]anks?\b",
        ]
    ),
)
# What the motor itself is called, what is read on it and what stands on paper of older versions is no method.
NO_METHOD = re.compile(r"winding[-_ ]?taps?|dc[-_ ]?voltage|supply_voltage|control voltage", re.IGNORECASE)


def lines_naming(path: Path, pattern: re.Pattern[str]) -> list[str]:
    if path.suffix not in (".py", ".html", ".css", ".ts", ".tsx", ".svg"):
        return []
    return [
        f"{path.relative_to(ROOT)}:{number}: {line.strip()}"
        for number, line in enumerate(path.read_text().splitlines(), start=1)
        if pattern.search(NO_METHOD.sub("", line))
    ]


def test_shared_code_names_no_method() -> None:
    assert len(SHARED) > 100
    found = [line for path in SHARED for line in lines_naming(path, NAMED)]
    assert not found, "\n".join(found)


def test_the_test_finds_a_name() -> None:
    for line in (
        "if method is Method.PHASE_ANGLE:",
        "method === 'series-capacitor'",
        "import SeriesResistor",
        "a bank of",
    ):
        assert NAMED.search(line)


@pytest.mark.parametrize("room", ROOMS)
def test_a_room_names_no_other(room: str) -> None:
    others = re.compile("|".join(other.replace("_", "[-_]") for other in ROOMS if other != room))
    folders = (
        SOURCE / "core" / "methods" / room,
        SOURCE / "web" / "methods" / room,
        SCREEN / "methods" / room.replace("_", "-"),
    )
    for folder in folders:
        assert folder.is_dir()
        found = [line for path in folder.rglob("*") for line in lines_naming(path, others)]
        assert not found, "\n".join(found)


def test_every_room_is_held_apart_by_the_import_contracts() -> None:
    contracts = (ROOT / "pyproject.toml").read_text()
    for room in ROOMS:
        assert f'"fenwit.core.methods.{room}"' in contracts
        assert f'"fenwit.web.methods.{room}.edit"' in contracts


def test_the_registries_agree() -> None:
    assert [d.key for d in DOORS] == list(REGULATIONS)
    for key, regulation in REGULATIONS.items():
        assert regulation.key is key
        assert regulation.design.method is key
        assert set(regulation.upgrades) == set(range(regulation.form)) or not regulation.told_by
        assert door_of(key).key is key


IMPORT = re.compile(r"""^(?:import|export)\s[^'"]*?from\s+'(\.[^']+)'|^import\s+'(\.[^']+)'""", re.MULTILINE)


def screen_imports() -> dict[Path, set[Path]]:
    """Who of the front end imports whom, types included; what is loaded when first needed does not count."""
    files = {p for p in SCREEN.rglob("*.ts*") if ".test." not in p.name}
    found: dict[Path, set[Path]] = {}
    for path in files:
        found[path] = set()
        for names in IMPORT.findall(path.read_text()):
            base = (path.parent / (names[0] or names[1])).resolve()
            options = [base.with_name(base.name + end) for end in (".ts", ".tsx", ".d.ts")]
            found[path] |= {p for p in (*options, base / "index.ts", base / "index.tsx") if p in files}
    return found


def test_the_front_end_has_no_import_circle() -> None:
    imports = screen_imports()
    assert sum(map(len, imports.values())) > 200
    done: set[Path] = set()

    def walk(path: Path, trail: tuple[Path, ...]) -> None:
        assert path not in trail, " → ".join(p.name for p in (*trail[trail.index(path) :], path))
        if path not in done:
            for other in sorted(imports[path]):
                walk(other, (*trail, path))
            done.add(path)

    for path in sorted(imports):
        walk(path, ())


def test_a_stage_reaches_a_room_only_through_the_registry() -> None:
    rooms = {SCREEN / "methods" / room.replace("_", "-") for room in ROOMS}
    for path, others in screen_imports().items():
        inside = next((room for room in rooms if room in path.parents), None)
        for other in others:
            owner = next((room for room in rooms if room in other.parents), None)
            assert owner in (None, inside) or path == SCREEN / "methods" / "index.ts", (
                f"{path.name} imports {other}"
            )
