"""Bands behind a triac: every draw solved exactly."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fenwit.core.calibrate.bands import step_bands
from fenwit.core.calibrate.fit import Belief, Datum, Measured, believe
from fenwit.core.errors import InputError
from fenwit.core.methods.phase_angle.bands import phase_bands
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.operating import solve
from fenwit.core.regulator.firing_points import phase_solutions
from tests.core.test_calibrate import READ
from tests.known.machines import AT_WORK_LOAD, MAINS, R4, R4_LOAD, S16_AT_WORK

ANGLES = [0, 60, 90, 105, 120, 135, 155]


@pytest.fixture(scope="module")
def belief() -> Belief:
    return believe(replace(READ, capacitor_voltage_v=Measured(415, 0.01)))


def test_the_bands_hold_the_true_fan_at_every_angle(belief: Belief) -> None:
    bands = phase_bands(belief, MAINS, ANGLES, 1.1)
    for band, true in zip(bands, phase_solutions(S16_AT_WORK, AT_WORK_LOAD, MAINS, ANGLES, 1.1), strict=True):
        if true.running is None:
            assert band.may_not_start > 0.5
            continue
        assert band.speed_rpm.holds(true.running.speed_rpm)
        assert band.line_current_a.holds(true.running.line_current_a)
        assert band.input_power_w.holds(true.running.input_power_w)
    assert 0.05 < bands[5].may_not_start < 0.9
    assert bands[6].speed_rpm.high == 0


def test_fired_at_nought_it_is_the_direct_step(belief: Belief) -> None:
    """Eighty draws against two hundred: the edges agree within a fraction of the width."""
    (here,), (direct,) = phase_bands(belief, MAINS, [0.0]), step_bands(belief, MAINS, [0j])
    assert here.speed_rpm.low == pytest.approx(direct.speed_rpm.low, abs=0.8)
    assert here.speed_rpm.high == pytest.approx(direct.speed_rpm.high, abs=0.8)
    assert here.motor_loss_w.low == pytest.approx(direct.motor_loss_w.low, rel=0.05)


def test_each_draw_is_solved_as_if_alone(belief: Belief) -> None:
    """The middle of five motors of the cloud, each with the plain solver."""
    few = replace(belief, theta=belief.theta[:, :41])
    (band,) = phase_bands(few, MAINS, [100.0])
    speeds = []
    for i in range(41):
        motor = few.model.motor(few.theta[:, i])
        load = few.model.load(few.theta[:, i : i + 1])
        plain = type(load)(*(float(np.ravel(v)[0]) for v in vars(load).values()))
        found = phase_solutions(motor, plain, MAINS, [100.0])[0].running
        assert found is not None
        speeds.append(found.speed_rpm)
    assert band.middle_speed_rpm == pytest.approx(float(np.median(speeds)), abs=0.05)


def test_a_shaded_pole_fan_has_bands_too_and_nonsense_is_refused(belief: Belief) -> None:
    (true,) = phase_solutions(R4, R4_LOAD, MAINS, [70.0])
    assert true.running is not None
    direct = solve(R4, R4_LOAD, [MAINS])[0].running
    assert direct is not None
    wall = believe(
        Datum(
            MotorKind.SHADED_POLE, 4, 230, 50, 230, 50, Measured(direct.speed_rpm, 0.003),
            line_current_a=Measured(direct.line_current_a, 0.01), input_power_w=Measured(direct.input_power_w, 0.015),
            main_resistance_ohm=Measured(79, 0.02),
        )
    )  # fmt: skip
    (band,) = phase_bands(wall, MAINS, [70.0])
    assert band.speed_rpm.holds(true.running.speed_rpm)
    assert phase_bands(belief, MAINS, []) == ()
    with pytest.raises(InputError):
        phase_bands(belief, MAINS, [200.0])
