"""Triac and motor in the steady state, against known answers and against plain time integration."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.motor.machine import Machine
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Source, solve
from fenwit.core.regulator.firing_points import PhasePoint, at_speed, phase_solutions
from fenwit.core.regulator.phase import Conduction, TriacFed
from tests.bench.brute import integrated
from tests.known.machines import MAINS, P4, P4_LOAD
from tests.known.triac import B4, B4_LOAD, C16, C16_LOAD, C16_ROWS, C16_SPEEDS, Row


def fed(motor: Machine, speed: float, on_state_v: float = 0.0, choke: complex = 0j) -> TriacFed:
    return TriacFed(switched(motor, np.array([speed]), 50.0, choke.real, choke.imag), 230.0, on_state_v)


def one(states: object, name: str) -> float:
    return float(np.ravel(getattr(states, name))[0])


@pytest.mark.parametrize("row", C16_ROWS)
def test_the_sweep_fan_behind_a_triac(row: Row) -> None:
    s = fed(C16, row.speed_rpm, row.on_state_v).states(np.radians([row.firing_deg]))
    assert s.conduction[0, 0] == (Conduction.FULL if row.full else Conduction.DISCONTINUOUS)
    assert one(s, "motor_voltage_v") == pytest.approx(row.motor_v, rel=1e-4)
    assert one(s, "line_current_a") == pytest.approx(row.line_a, abs=6e-5)
    assert one(s, "main_current_a") == pytest.approx(row.main_a, abs=6e-5)
    assert one(s, "auxiliary_current_a") == pytest.approx(row.auxiliary_a, abs=6e-5)
    assert one(s, "capacitor_voltage_v") == pytest.approx(row.capacitor_v, abs=0.06)
    assert one(s, "input_power_w") == pytest.approx(row.watts, abs=6e-3)
    assert one(s, "torque_nm") == pytest.approx(row.torque_nm, abs=6e-5)
    assert one(s, "torque_ripple_nm") == pytest.approx(row.ripple_nm, abs=2e-4)
    assert one(s, "current_thd") == pytest.approx(row.thd, abs=6e-4)
    assert np.degrees(one(s, "extinction_rad")) == pytest.approx(row.extinction_deg, abs=6e-3)
    assert one(s, "step_v") == pytest.approx(row.step_v, abs=0.01)
    assert one(s, "growth") < 1


def test_the_blower_behind_a_triac_and_the_half_wave_state() -> None:
    s = fed(B4, 1125).states(np.radians([90.0]))
    assert one(s, "motor_voltage_v") == pytest.approx(170.21, abs=0.01)
    assert one(s, "line_current_a") == pytest.approx(0.7462, abs=6e-5)
    assert one(s, "input_power_w") == pytest.approx(111.70, abs=6e-3)
    assert one(s, "torque_nm") == pytest.approx(0.4565, abs=6e-5)
    assert np.degrees(one(s, "extinction_rad")) == pytest.approx(179.06, abs=6e-3)
    assert one(s, "step_v") == pytest.approx(-63.57, abs=0.01)
    # A long train of pulses must end before this, or the triac fires into the other half.
    early = fed(B4, 1320).states(np.radians([90.0]))
    assert np.degrees(one(early, "extinction_rad")) == pytest.approx(175.7, abs=0.06)
    missed = fed(B4, 1200).states(np.radians([10.0]), half_wave=True)
    assert missed.conduction[0, 0] == Conduction.HALF_WAVE
    assert one(missed, "motor_voltage_v") == pytest.approx(192.74, abs=0.01)
    assert one(missed, "line_current_a") == pytest.approx(0.9349, abs=6e-5)
    assert one(missed, "torque_nm") == pytest.approx(0.3296, abs=6e-5)


@pytest.mark.parametrize("motor", [C16, P4, replace(P4, core_loss_resistance_ohm=8000.0)])
def test_firing_at_nought_is_the_phasor_solution(motor: Machine) -> None:
    for speed in (0.0, 0.5, 0.9):
        n = speed * 6000 / motor.poles
        s = fed(motor, n).states(np.zeros(1))
        r = motor.respond(np.array([1 - speed]), 50.0)
        assert s.conduction[0, 0] == Conduction.FULL
        assert one(s, "line_current_a") == pytest.approx(230 * abs(r.admittance_s[0]), rel=1e-6)
        assert one(s, "torque_nm") == pytest.approx(230**2 * float(r.torque_nm[0]), rel=1e-6, abs=1e-9)
        assert one(s, "rotor_loss_w") == pytest.approx(230**2 * float(r.rotor_loss_w[0]), rel=1e-5)
        assert one(s, "winding_loss_w") == pytest.approx(230**2 * float(r.winding_loss_w[0]), rel=1e-5)


@pytest.mark.parametrize(
    ("motor", "speed", "angle", "on_state_v", "choke"),
    [
        (C16, 250.0, 70.0, 1.1, 0j),
        (C16, 120.0, 125.0, 0.0, 4 + 18j),
        (B4, 800.0, 100.0, 1.1, 0j),
        (P4, 900.0, 95.0, 0.0, 0j),
        (replace(P4, core_loss_resistance_ohm=8000.0), 700.0, 110.0, 1.1, 2 + 9j),
    ],
)
def test_the_steady_state_is_what_time_integration_comes_to(
    motor: Machine, speed: float, angle: float, on_state_v: float, choke: complex
) -> None:
    s = fed(motor, speed, on_state_v, choke).states(np.radians([angle]))
    for name, value in integrated(motor, speed, np.radians(angle), on_state_v, choke).items():
        assert one(s, name) == pytest.approx(value, rel=2e-6), name


@settings(max_examples=50, deadline=None)
@given(
    motor=st.sampled_from([C16, B4, P4]),
    share=st.floats(0.0, 0.95),
    angle=st.floats(0.0, 165.0),
    on_state_v=st.sampled_from([0.0, 1.2]),
)
def test_power_in_is_shaft_and_heat_and_the_waveforms_agree(
    motor: Machine, share: float, angle: float, on_state_v: float
) -> None:
    unit = fed(motor, share * 6000 / motor.poles, on_state_v)
    s = unit.states(np.radians([angle]))
    assume(s.runs.all())
    out = sum(one(s, n) for n in ("triac_loss_w", "shaft_power_w", "rotor_loss_w", "winding_loss_w"))
    assert one(s, "input_power_w") == pytest.approx(out, rel=2e-4, abs=1e-4)
    w = unit.waveforms(np.radians(angle), 8000)
    assert np.sqrt(np.mean(w.line_a**2)) == pytest.approx(one(s, "line_current_a"), rel=2e-3, abs=1e-6)
    assert np.sqrt(np.mean(w.motor_v**2)) == pytest.approx(one(s, "motor_voltage_v"), rel=5e-3, abs=0.05)
    assert np.mean(w.line_a) == pytest.approx(0, abs=1e-3 * one(s, "crest_current_a"))
    if w.torque_nm is not None:
        assert np.mean(w.torque_nm) == pytest.approx(one(s, "torque_nm"), rel=2e-3, abs=1e-4)
    # While it conducts, the triac's own volts are all that is missing between supply and motor.
    held = np.abs(w.supply_v - w.motor_v - w.triac_v)
    assert held.max() < 1e-6


def test_torque_alone_is_the_torque_of_the_states() -> None:
    speeds, angles = np.linspace(0, 360, 7), np.radians(np.linspace(5, 160, 9))
    unit = TriacFed(switched(C16, speeds, 50.0), 230.0)
    whole = unit.states(angles[None])
    torque, tau = unit.torques(angles)
    np.testing.assert_allclose(torque, whole.torque_nm, atol=1e-12)
    np.testing.assert_allclose(tau, whole.conduction_rad, atol=1e-12)
    near = TriacFed(switched(C16, speeds, 50.0), 230.0).torques_near(
        np.full(7, angles[4]), whole.conduction_rad[:, 4] * 1.03
    )
    np.testing.assert_allclose(near[0], whole.torque_nm[:, 4], rtol=1e-8)
    np.testing.assert_allclose(near[1], whole.conduction_rad[:, 4], rtol=1e-8)


def test_a_choke_in_the_line_takes_some_of_the_motors_volts() -> None:
    plain = fed(C16, 281).states(np.radians([90.0]))
    choked = fed(C16, 281, choke=10 + 60j).states(np.radians([90.0]))
    assert one(choked, "motor_voltage_v") < one(plain, "motor_voltage_v")
    assert one(choked, "current_thd") < one(plain, "current_thd")


@pytest.mark.parametrize("angle", sorted(C16_SPEEDS))
def test_speed_over_the_knob(angle: int) -> None:
    (found,) = phase_solutions(C16, C16_LOAD, MAINS, [angle])
    assert found.running is not None
    assert found.running.speed_rpm == pytest.approx(C16_SPEEDS[angle], abs=0.06)
    assert isinstance(found.running, PhasePoint)
    assert found.running.stable


def test_a_fan_that_does_not_start_but_keeps_running() -> None:
    (found,) = phase_solutions(B4, B4_LOAD, MAINS, [100])
    assert not found.starts
    assert found.running is None
    assert [(p.stable, round(p.speed_rpm, 1)) for p in found.points] == [(False, 73.8), (True, 922.4)]
    assert found.from_full == 1


def test_points_lie_on_the_load_and_the_first_is_the_direct_one() -> None:
    solutions = phase_solutions(P4, P4_LOAD, MAINS, [0, 60, 90, 120])
    direct = solve(P4, P4_LOAD, [MAINS])[0].running
    assert direct is not None
    assert solutions[0].running is not None
    assert solutions[0].running.speed_rpm == pytest.approx(direct.speed_rpm, abs=0.01)
    for s in solutions:
        for p in s.points:
            assert p.torque_nm == pytest.approx(float(P4_LOAD.torque_nm(np.array(p.speed_rpm))), rel=1e-3)
            assert isinstance(p, PhasePoint)
            assert p.torque_ripple_nm is None
    speeds = [s.running.speed_rpm for s in solutions if s.running]
    assert speeds == sorted(speeds, reverse=True)


def test_held_at_a_speed_and_what_cannot_be() -> None:
    point = at_speed(C16, MAINS, 281, 90)
    assert point is not None
    assert point.torque_nm == pytest.approx(0.4973, abs=6e-5)
    assert point.conduction_angle_deg == pytest.approx(91.02, abs=0.01)
    for bad in (
        lambda: at_speed(C16, MAINS, 400, 90),
        lambda: at_speed(C16, MAINS, 100, 190),
        lambda: at_speed(C16, MAINS, 100, float("nan")),
        lambda: phase_solutions(C16, C16_LOAD, Source(230, 50, -100j), [90]),
        lambda: fed(C16, 100, 50.0),
        lambda: fed(C16, 100).waveforms(0.5, 3),
    ):
        with pytest.raises(InputError):
            bad()
    assert phase_solutions(C16, C16_LOAD, MAINS, []) == ()
