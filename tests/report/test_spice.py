"""Netlists run in ngspice give the volts and amps computed, within one per cent. Known answers, *independent*."""

from __future__ import annotations

import re
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.netted import Knob, Netted
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import as_by
from fenwit.core.frame.spice import place_netted, step_netted
from fenwit.core.methods import REGULATIONS
from fenwit.core.motor.kinds import Method, MotorKind, answer_for, has_model
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.motor.taps import StartBranch, TapFedMotor
from fenwit.core.regulator.firing_points import at_speed
from fenwit.demo.scenario import JOBS
from fenwit.report.spice import netlist
from tests.core.test_frame import SWEEP
from tests.known.machines import MAINS, P4, R4, S16

TAPPED = next(j for j in JOBS if j.name == "Hall return air").state()
BEHIND_TRIAC = Circuit(
    "L",
    "M",
    (Part("S", PartKind.CONTACT, "L", "s"), Part("T", PartKind.TRIAC, "s", "M", 4.0, net_gate="g")),
    (Position("On", frozenset({"S"})),),
)


_MEASURED = re.compile(r"^(motor_[va](?:_ac)?|watts|supply_w_ac)\s*=\s*([-+0-9.eE]+)", re.M)


def simulated(step: Netted, path: Path) -> dict[str, float]:
    """What ngspice measures."""
    file = path / "step.cir"
    file.write_text(netlist(step))
    done = subprocess.run(
        ["ngspice", "-b", str(file)], capture_output=True, text=True, timeout=120, check=False
    )
    found = re.findall(
        r"^(motor_v|motor_a|watts|motor_v_ac|motor_a_ac|supply_w_ac)\s*=\s*([-+0-9.eE]+)", done.stdout, re.M
    )
    assert found, done.stdout[-2000:] + done.stderr[-1000:]
    return {name: float(value) for name, value in found}


def behind(series: Part) -> Circuit:
    return Circuit("L", "M", (series,), (Position("1", frozenset()),))


def test_a_series_capacitor_by_phasors_and_over_time(tmp_path: Path) -> None:
    bank = behind(Part("C", PartKind.CAPACITOR, "L", "M", 2.7e-6))
    found = simulated(Netted("2.7 uF", S16, 201.861, 230.0, 50.0, 106.793, 0.18078, bank, "1"), tmp_path)
    for volts, amps, watts in (("motor_v_ac", "motor_a_ac", "supply_w_ac"), ("motor_v", "motor_a", "watts")):
        assert found[volts] == pytest.approx(106.793, rel=2e-4)
        assert found[amps] == pytest.approx(0.18078, rel=2e-4)
        assert found[watts] == pytest.approx(19.234, rel=5e-4)


def test_timed_triacs(tmp_path: Path) -> None:
    c16 = TwoWindingMotor(**{**vars(S16)})
    point = at_speed(c16, MAINS, 281.0, 90.0)
    assert point is not None
    step = Netted(
        "90 deg",
        c16,
        281.0,
        230.0,
        50.0,
        point.motor_voltage_v,
        point.line_current_a,
        BEHIND_TRIAC,
        "On",
        90.0,
        conduction_deg=point.conduction_angle_deg,
    )
    found = simulated(step, tmp_path)
    assert found["motor_v"] == pytest.approx(point.motor_voltage_v, rel=0.005)
    assert found["motor_a"] == pytest.approx(point.line_current_a, rel=0.005)
    assert found["watts"] == pytest.approx(point.input_power_w, rel=0.005)
    # P4 at 100°, as worked out apart from this code.
    single = Netted(
        "P4", P4, 1029.03, 230.0, 50.0, 166.64, 0.24061, BEHIND_TRIAC, "On", 100.0, conduction_deg=129.2
    )
    found = simulated(single, tmp_path)
    assert found["motor_v"] == pytest.approx(166.64, rel=0.005)
    assert found["motor_a"] == pytest.approx(0.24061, rel=0.002)
    assert found["watts"] == pytest.approx(17.849, rel=0.002)


def test_a_shading_ring_behind_a_triac(tmp_path: Path) -> None:
    point = at_speed(R4, MAINS, 1100.0, 100.0)
    assert point is not None
    step = Netted(
        "ring",
        R4,
        1100.0,
        230.0,
        50.0,
        point.motor_voltage_v,
        point.line_current_a,
        BEHIND_TRIAC,
        "On",
        100.0,
        conduction_deg=point.conduction_angle_deg,
    )
    found = simulated(step, tmp_path)
    assert found["motor_v"] == pytest.approx(point.motor_voltage_v, rel=0.01)
    assert found["motor_a"] == pytest.approx(point.line_current_a, rel=0.01)


@pytest.mark.parametrize(
    ("branch", "speed", "amps", "watts"),
    [(StartBranch.WHOLE_SUPPLY, 311.8, 0.2597, 57.59), (StartBranch.MAIN_SECTION, 301.5, 0.2042, 46.35)],
)
def test_a_winding_tap(tmp_path: Path, branch: StartBranch, speed: float, amps: float, watts: float) -> None:
    motor = TapFedMotor(S16, 1.3, 78.0, branch)
    found = simulated(Netted("tap", motor, speed, 230.0, 50.0, 230.0, amps), tmp_path)
    assert found["motor_a"] == pytest.approx(amps, rel=0.003)
    assert found["watts"] == pytest.approx(watts, rel=0.003)


def test_a_knob_with_its_diac_network(tmp_path: Path) -> None:
    parts = (
        *BEHIND_TRIAC.parts,
        Part("R1", PartKind.RESISTOR, "s", "k", 12e3),
        Part("P", PartKind.KNOB, "k", "c", 330e3),
        Part("C1", PartKind.CAPACITOR, "c", "M", 82e-9),
        Part("D", PartKind.DIAC, "c", "g", 30.0),
    )
    circuit = Circuit("L", "M", parts, BEHIND_TRIAC.positions)
    # Three quarters of the travel: the network itself must find 81.8°.
    point = at_speed(S16, MAINS, 289.9, 81.83, 1.0)
    assert point is not None
    step = Netted(
        "knob",
        S16,
        289.9,
        230.0,
        50.0,
        point.motor_voltage_v,
        point.line_current_a,
        circuit,
        "On",
        None,
        Knob(30.0, 8.0, 247.5e3),
        1.0,
    )
    found = simulated(step, tmp_path)
    assert found["motor_v"] == pytest.approx(point.motor_voltage_v, rel=0.01)
    assert found["motor_a"] == pytest.approx(point.line_current_a, rel=0.01)


DESIGNS = [
    (job.name, i, step)
    for job in JOBS
    if has_model(MotorKind(str(job.fan["motor_kind"])))
    for i, design in enumerate(job.designs)
    for step in ((1,) if "Bunk" in job.name else (1, 3))
]


@pytest.mark.parametrize(("name", "design", "step"), DESIGNS)
def test_designs_of_the_demo_jobs(tmp_path: Path, name: str, design: int, step: int) -> None:
    job = next(j for j in JOBS if j.name == name)
    netted = step_netted(job.state(job.designs[design].regulator), step)
    found = simulated(netted, tmp_path)
    assert found["motor_v"] == pytest.approx(netted.motor_v, rel=0.01)
    assert found["motor_a"] == pytest.approx(netted.motor_a, rel=0.01)


@pytest.mark.parametrize("method", [m for m in REGULATIONS if answer_for(MotorKind.PSC, m)])
def test_a_usual_design_of_every_way(tmp_path: Path, method: Method) -> None:
    state = replace(TAPPED if method is Method.WINDING_TAP else SWEEP, wanted_rpm=(), design=None, proofs=())
    room = REGULATIONS[method]
    fan = room.subject(as_by(state, method))
    wanted = (
        (fan.full_rpm * 0.7, fan.full_rpm * 0.95) if method is not Method.WINDING_TAP else (1130.0, 1200.0)
    )
    by = replace(as_by(state, method), wanted_rpm=wanted)
    netted = step_netted(replace(by, design=room.usual(fan, wanted, by)), 1)
    found = simulated(netted, tmp_path)
    assert found["motor_v"] == pytest.approx(netted.motor_v, rel=0.01)
    assert found["motor_a"] == pytest.approx(netted.motor_a, rel=0.01)


def test_the_control_that_came_in(tmp_path: Path) -> None:
    bunk = next(j for j in JOBS if j.board is not None)
    netted = place_netted(bunk.state(), 0.4)
    assert netted.knob is not None
    found = simulated(netted, tmp_path)
    assert found["motor_v"] == pytest.approx(netted.motor_v, rel=0.01)
    assert found["motor_a"] == pytest.approx(netted.motor_a, rel=0.01)


def test_what_cannot_be_reproduced_is_refused() -> None:
    bunk, reading = JOBS[0], JOBS[1]
    for ask in (
        lambda: step_netted(bunk.state(), 1),
        lambda: step_netted(reading.state(reading.designs[0].regulator), 9),
        lambda: place_netted(bunk.state(), 1.0),
        lambda: place_netted(reading.state(), 0.5),
    ):
        with pytest.raises(InputError):
            ask()
