"""Schematics of DC fans: every part of the circuit once, no two on one another, each lead of the fan at its end."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import pytest

from fenwit.core.circuit.drawing import Drawing
from fenwit.core.frame.asked import must_know
from fenwit.core.job.state import JobState
from fenwit.core.methods.chopped_supply.design import ChopDesign
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.pwm.design import Drive, DutyDesign
from fenwit.core.methods.seam import Built
from fenwit.core.motor.kinds import Method
from fenwit.report.schematic import schematic_picture
from tests.core.test_commanded import THREE, job, usual


def built(state: JobState) -> Built:
    asked = must_know(state)
    return asked.regulation.built(asked.subject, asked.design)


def designed(state: JobState, **change: object) -> JobState:
    assert state.design is not None
    return replace(state, design=replace(state.design, **change))  # type: ignore[arg-type]


PWM, VOLTS = usual(job()), usual(job(Method.DC_VOLTAGE))
CHOPPED = usual(job(Method.CHOPPED_SUPPLY, THREE))
STATES = {
    "open drain": PWM,
    "push-pull": designed(PWM, drive=Drive.PUSH_PULL),
    "regulator": VOLTS,
    "resistors": replace(VOLTS, design=VoltsDesign(Way.RESISTOR, (47.0, 22.0, 0.0))),
    "choke": designed(CHOPPED, filtered=True),
    "raw": designed(CHOPPED, filtered=False),
}


def words(drawing: Drawing) -> set[str]:
    return {drawing.load_name, *(e[0] for e in drawing.ends)}


@pytest.mark.parametrize("state", STATES.values(), ids=STATES.keys())
def test_every_part_stands_once_and_clear_of_the_others(state: JobState) -> None:
    found = built(state)
    drawing = found.drawing
    assert sorted(p.part for p in drawing.placed) == sorted(p.name for p in found.circuit.parts)
    for a, b in combinations(drawing.placed, 2):
        apart = max(a.x1, a.x2) <= min(b.x1, b.x2) or max(b.x1, b.x2) <= min(a.x1, a.x2)
        assert a.y != b.y or apart, (a, b)
    # Nothing runs through a part.
    for wire in drawing.wires:
        for part in drawing.placed:
            inside = min(part.x1, part.x2) + 1e-9, max(part.x1, part.x2) - 1e-9
            level = wire.y1 == wire.y2 == part.y
            assert not (level and min(wire.x1, wire.x2) < inside[1] and max(wire.x1, wire.x2) > inside[0]), (
                wire,
                part,
            )
    assert {"fan +", "fan −", "0 V"} <= words(drawing)
    picture = schematic_picture(drawing, {}, "+  12 V", "of a fan")
    assert "motor" not in str(picture)


def test_each_way_shows_its_own_leads() -> None:
    assert {"control", "tachometer", "5 V"} <= words(built(PWM).drawing)
    assert "from U" in words(built(STATES["push-pull"]).drawing)
    assert "control" not in words(built(VOLTS).drawing)
    assert isinstance(PWM.design, DutyDesign)
    assert isinstance(CHOPPED.design, ChopDesign)


def test_the_freewheel_diode_points_from_the_fans_minus_to_its_plus() -> None:
    drawing = built(STATES["choke"]).drawing
    diode = next(p for p in drawing.placed if p.part == "D")
    # Drawn from its anode at the right to its cathode at the left, where the fuse ends.
    assert diode.x1 > diode.x2
    fuse = next(p for p in drawing.placed if p.part == "F")
    joints = {(w.x1, w.y1, w.y2) for w in drawing.wires if w.x1 == w.x2}
    cathode = next(x for x, top, _ in joints if top == fuse.y)
    assert fuse.x2 < cathode < diode.x2
    assert next(x for x, top, _ in joints if top == diode.y) > diode.x1
