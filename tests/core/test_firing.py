"""Firing tables: limits, spacing, delays, gate time; the zero detector; the cruder estimates and their miss."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest

from fenwit.core.errors import InputError
from fenwit.core.operating import Source
from fenwit.core.regulator.firing import (
    FiringCurve,
    Spacing,
    ZeroDetector,
    crude_estimates,
    firing_curve,
    firing_table,
    zero_pulse,
)
from fenwit.core.regulator.firing_points import phase_solutions
from fenwit.report.methods.firingfile import firing_csv, firing_header
from tests.known.machines import MAINS, P4, P4_LOAD
from tests.known.triac import B4, B4_LOAD, C16, C16_LOAD, C16_SPEEDS


@pytest.fixture(scope="module")
def curve() -> FiringCurve:
    return firing_curve(C16, C16_LOAD, MAINS)


def test_the_curve_goes_through_the_known_speeds_and_knows_its_limits(curve: FiringCurve) -> None:
    for angle, speed in C16_SPEEDS.items():
        assert np.interp(angle, curve.firing_deg, curve.speed_rpm) == pytest.approx(speed, abs=1.5)
    assert 15 < curve.load_angle_deg < 20
    assert curve.least_safe_deg > curve.load_angle_deg
    assert curve.latest_start_deg is not None
    assert 140 < curve.latest_start_deg < 150
    blower = firing_curve(B4, B4_LOAD, MAINS)
    # It keeps running where it no longer starts; its current may end before the mains' zero.
    assert blower.latest_start_deg is not None
    assert blower.latest_kicked_deg is not None
    assert blower.latest_kicked_deg > blower.latest_start_deg
    assert blower.earliest_extinction_deg < 175.7
    assert blower.train_end_deg <= 165


def test_given_angles_are_taken_as_they_are_but_not_before_the_least_safe_one(curve: FiringCurve) -> None:
    table = firing_table(curve, Spacing.STEPS, 3, given_deg=(120.0, 90.0, 0.0))
    assert [r.firing_deg for r in table.rows] == [120.0, 90.0, curve.least_safe_deg]
    for spacing, given in ((Spacing.STEPS, ()), (Spacing.SPEED, (90.0,))):
        with pytest.raises(InputError):
            firing_table(curve, spacing, 3, given_deg=given)


@pytest.mark.parametrize("spacing", [s for s in Spacing if s is not Spacing.STEPS])
def test_steps_are_even_in_what_was_asked_for(curve: FiringCurve, spacing: Spacing) -> None:
    table = firing_table(curve, spacing, 7)
    assert len(table.rows) == 7
    angles = [r.firing_deg for r in table.rows]
    assert angles == sorted(angles, reverse=True)
    assert angles[0] == pytest.approx(table.latest_deg, abs=0.2)
    exact = phase_solutions(C16, C16_LOAD, MAINS, angles)
    points = [s.points[s.from_full] for s in exact if s.from_full is not None]
    value = {
        Spacing.ANGLE: angles,
        Spacing.SPEED: [p.speed_rpm for p in points],
        Spacing.POWER: [p.input_power_w for p in points],
        Spacing.VOLTS: [p.motor_voltage_v for p in points],
    }[spacing]
    steps = np.diff(value)
    assert np.abs(steps - steps.mean()).max() < 0.06 * abs(steps.mean())
    for row, point in zip(table.rows, points, strict=True):
        assert row.speed_rpm == pytest.approx(point.speed_rpm, abs=1.0)


def test_delay_counts_from_the_detectors_edge(curve: FiringCurve) -> None:
    """By hand: 90° at 50 Hz are 5000 µs; an edge 9° early adds 500 µs."""
    plain, early = (firing_table(curve, Spacing.ANGLE, 5, edge_deg=e) for e in (0.0, -9.0))
    for a, b in zip(plain.rows, early.rows, strict=True):
        assert a.delay_us == pytest.approx(a.firing_deg / 360 / 50 * 1e6)
        assert b.delay_us - a.delay_us == pytest.approx(500)


def test_the_gate_lasts_until_the_triac_latches(curve: FiringCurve) -> None:
    """t = L I_L / V: twice the latching current takes twice as long."""
    small, large = (firing_table(curve, Spacing.ANGLE, 5, latching_a=a) for a in (0.02, 0.04))
    for a, b in zip(small.rows, large.rows, strict=True):
        assert b.gate_us == pytest.approx(2 * a.gate_us)
        assert 10 < a.gate_us < 500


def test_without_a_kick_the_slow_steps_end_where_it_starts() -> None:
    blower = firing_curve(B4, B4_LOAD, MAINS)
    kicked, plain = (firing_table(blower, Spacing.SPEED, 6, kick=k) for k in (True, False))
    assert not kicked.rows[0].starts
    assert all(r.starts for r in plain.rows)
    assert plain.rows[0].speed_rpm > kicked.rows[0].speed_rpm
    slow = firing_table(blower, Spacing.SPEED, 6, slowest_rpm=1200)
    assert slow.rows[0].speed_rpm == pytest.approx(1200, abs=12)


def test_sixty_hertz_has_a_table_of_its_own() -> None:
    other = firing_curve(replace(P4, rated_frequency_hz=60), P4_LOAD, Source(230, 60))
    table = firing_table(other, Spacing.ANGLE, 4)
    assert table.rows[0].delay_us == pytest.approx(table.rows[0].firing_deg / 360 / 60 * 1e6)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"steps": 1}, "steps"),
        ({"steps": 1000}, "steps"),
        ({"latching_a": 0.0}, "latching_a"),
        ({"edge_deg": 90.0}, "edge_deg"),
        ({"slowest_rpm": 331.0}, "firing_angle_deg"),
    ],
)
def test_a_table_that_cannot_be_is_refused(curve: FiringCurve, change: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as error:
        firing_table(curve, Spacing.ANGLE, **{"steps": 6, **change})  # type: ignore[arg-type]
    assert error.value.field == field


def test_the_crude_estimates_miss_as_they_are_known_to(curve: FiringCurve) -> None:
    rms, fundamental, halves = crude_estimates(C16, C16_LOAD, curve, [45, 80, 110, 130])
    assert all(m is not None and abs(m) < 0.02 for m in rms.miss[:2])
    assert rms.miss[2] is not None
    assert rms.miss[3] is not None
    assert 0.09 <= rms.miss[2] <= 0.31
    assert 0.36 <= rms.miss[3] <= 1.13
    assert all(m is not None and m < 0 for m in fundamental.miss)
    assert halves.miss[0] is not None
    assert halves.miss[0] < -0.2


def test_a_zero_detectors_pulse_is_wide_by_its_threshold() -> None:
    """By hand: 2.6 V + 47 kΩ · 1 mA / 1 = 49.6 V of 325.3 V: 8.77°, 487 µs."""
    sharp = zero_pulse(ZeroDetector(47e3, 1e-3, 1.0, 1.0), 230, 50)
    assert sharp.half_width_low_us == pytest.approx(487, abs=1)
    assert sharp.edge_spread_deg == 0
    assert sharp.resistor_w == pytest.approx(1.1255, abs=1e-3)
    wide = zero_pulse(ZeroDetector(47e3, 1e-3, 0.5, 2.0), 230, 50)
    assert wide.half_width_low_us < sharp.half_width_low_us < wide.half_width_high_us
    with pytest.raises(InputError, match="no zero any more"):
        zero_pulse(ZeroDetector(470e3, 1e-3, 0.5, 2.0), 230, 50)
    with pytest.raises(InputError):
        ZeroDetector(47e3, 1e-3, 2.0, 0.5)


def test_the_table_as_a_file_and_as_a_header(curve: FiringCurve) -> None:
    tables = [firing_table(curve, Spacing.SPEED, 5)]
    text = firing_csv(tables, "Bunk room */ 2\n=cmd", "3")
    rows = [line for line in text.splitlines() if not line.startswith("#")]
    assert rows[0].startswith("mains (Hz);step;")
    assert len(rows) == 6
    assert "no zero for two half-cycles" in text
    header = firing_header(tables, "Bunk room */ 2\n=cmd", "3")
    assert header.count("*/") == 2  # the notes' end and the one before the table
    assert header.isascii()
    numbers = re.search(r"fan_delay_us_50\[FAN_STEPS\] = \{([^}]*)\}", header)
    assert numbers is not None
    assert [int(n) for n in numbers[1].split(",")] == [round(r.delay_us) for r in tables[0].rows]
    assert "#define FAN_STEPS 5u" in header
