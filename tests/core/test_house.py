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
ROOMS = ("series_capacitor", "series_resistor", "phase_angle")
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


def test_the_registries_agree() -> None:
    assert [d.key for d in DOORS] == list(REGULATIONS)
    for key, regulation in REGULATIONS.items():
        assert regulation.key is key
        assert regulation.design.method is key
        assert set(regulation.upgrades) == set(range(regulation.form)) or not regulation.told_by
        assert door_of(key).key is key
