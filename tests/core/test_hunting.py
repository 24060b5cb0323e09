"""Points whose torque slopes are stable and whose speed will not hold all the same."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from fenwit.core.load import FanLoad
from fenwit.core.motor.hunting import growth_per_s
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.operating import (
    OperatingPoint,
    Source,
    StepVerdict,
    judge_step,
    load_at_datum,
    solve,
    voltage_limit_v,
)
from fenwit.core.regulator.series import SettingKind, speed_curve, values_for_speeds
from tests.known.machines import MAINS, R4, R4_LOAD, S16, S16_LOAD

H6 = TwoWindingMotor(120, 60, 6, 26, 25, 200, 25, 20, 1.21, 46, 36, 12.68e-6)
"""A 6-pole blower that leaves its field little slip: behind some capacitors it hunts."""
H6_LOAD = load_at_datum(H6, 1130, 120, 60)
SUPPLY = Source(120, 60)


def behind(ohms: float) -> Source:
    return Source(120, 60, -1j * ohms)


def integrated(
    motor: TwoWindingMotor, load: FanLoad, series_ohm: float, seconds: float
) -> tuple[float, float, float]:
    """*Independent*: the run-up from rest by plain time steps; mean speed, its spread and rms motor volts at the end.

    Flux linkages of both windings and of the rotor in fixed axes, run and series capacitor, and the blades' inertia.
    """
    w, pairs = 2 * np.pi * motor.rated_frequency_hz, motor.poles / 2
    lm, l1, l2 = (float(x) / w for x in (
        motor.magnetising_reactance_ohm, motor.main_leakage_reactance_ohm, motor.rotor_leakage_reactance_ohm
    ))  # fmt: skip
    la, a, c_s = (
        float(motor.auxiliary_leakage_reactance_ohm) / w,
        float(motor.turns_ratio),
        1 / (w * series_ohm),
    )
    r1, ra, r2 = (float(x) for x in (
        motor.main_resistance_ohm, motor.auxiliary_resistance_ohm, motor.rotor_resistance_ohm
    ))  # fmt: skip
    turns = np.diag([1.0, a])
    stator = np.diag([l1, la]) + lm * turns @ turns
    whole = np.block([[stator, lm * turns], [lm * turns, (lm + l2) * np.eye(2)]])
    inverse = np.linalg.inv(whole)
    inertia = 1.5e-3

    def slope(t: float, y: np.ndarray) -> np.ndarray:
        i = inverse @ y[:4]
        v_run, v_series, speed = y[4:]
        volts = np.sqrt(2) * 120 * np.sin(w * t) - v_series
        turning = pairs * speed
        flux = (
            volts - r1 * i[0],
            volts - v_run - ra * i[1],
            -r2 * i[2] + turning * y[3],
            -r2 * i[3] - turning * y[2],
        )
        torque = pairs * (y[2] * i[3] - y[3] * i[2])
        rpm = max(speed * 30 / np.pi, 0.0)
        drag = float(load.torque_nm(np.array(rpm)))
        return np.array([
            *flux, i[1] / float(motor.run_capacitance_f), (i[0] + i[1]) / c_s, (torque - drag * (speed > 0)) / inertia
        ])  # fmt: skip

    run = solve_ivp(slope, (0, seconds), np.zeros(7), max_step=4e-4, rtol=1e-6, atol=1e-8)
    late = run.t > seconds - 1.0
    t, y = run.t[late], run.y[:, late]
    rpm = y[6] * 30 / np.pi
    volts = np.sqrt(2) * 120 * np.sin(w * t) - y[5]
    mean = float(np.trapezoid(rpm, t) / (t[-1] - t[0]))
    return mean, float(rpm.max() - rpm.min()), float(np.sqrt(np.trapezoid(volts**2, t) / (t[-1] - t[0])))


def held(ohms: float) -> OperatingPoint:
    point = solve(H6, H6_LOAD, [behind(ohms)])[0].running
    assert point is not None
    return point


def test_a_run_up_by_time_steps_ends_elsewhere_where_a_point_hunts_and_there_where_it_does_not() -> None:
    swings, calm = held(70.0), held(25.0)
    assert swings.hunts
    assert swings.growth_per_s > 2.0
    assert not calm.hunts
    mean, spread, volts = integrated(H6, H6_LOAD, 25.0, 4.0)
    assert mean == pytest.approx(calm.speed_rpm, rel=0.005)
    assert volts == pytest.approx(calm.motor_voltage_v, rel=0.01)
    mean, wide, volts = integrated(H6, H6_LOAD, 70.0, 6.0)
    assert abs(mean / swings.speed_rpm - 1) > 0.02 or wide > 4 * spread
    assert abs(volts / swings.motor_voltage_v - 1) > 0.02


def test_a_point_that_hunts_is_barred_with_its_reason() -> None:
    solution = solve(H6, H6_LOAD, [behind(70.0)])[0]
    verdict, reasons = judge_step(solution, voltage_limit_v(H6, 60), float(H6_LOAD.friction_nm))
    assert verdict is StepVerdict.BARRED
    assert reasons[0].startswith("hunts")


def test_the_curve_shows_the_stretch_and_no_value_is_offered_from_it() -> None:
    curve = speed_curve(H6, H6_LOAD, SUPPLY)
    assert curve.hunts.any()
    assert not (curve.usable & curve.hunts).any()
    speed = held(70.0).speed_rpm
    (answer,) = values_for_speeds(H6, H6_LOAD, SUPPLY, SettingKind.CAPACITANCE, [speed])
    assert answer.value is None
    assert "hunt" in answer.reason


@pytest.mark.parametrize(("motor", "load"), [(S16, S16_LOAD), (R4, R4_LOAD)])
def test_sweep_fans_and_rings_hold_their_speed(motor: TwoWindingMotor, load: FanLoad) -> None:
    for setting in (SettingKind.CAPACITANCE, SettingKind.RESISTANCE):
        assert not speed_curve(motor, load, MAINS, setting=setting).hunts.any()


def test_growth_is_that_of_the_slowest_decay_of_a_coil() -> None:
    """By hand: with the rotor all but open, stator currents die away with R/(L1 + Lm); nothing grows."""
    bare = S16.with_values(rotor_resistance_ohm=2e4, run_capacitance_f=1e-3)
    rate = growth_per_s(bare, np.array([0.0]), 50.0, np.array([0j]))[0]
    tau = (180 + 700) / (2 * np.pi * 50 * 260)
    assert -1.05 / tau < rate < 0


def test_a_slower_supply_lowers_the_limit() -> None:
    at_60 = replace(S16, rated_frequency_hz=60)
    assert voltage_limit_v(at_60, 50) == pytest.approx(201.25)
    assert voltage_limit_v(S16, 60) == pytest.approx(241.5)
