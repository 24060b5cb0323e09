"""Fans and systems: fan laws, every working point, dead fans, noise; as laws that hold for any of them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.load import noise
from fenwit.core.load.air import (
    air_density_kg_m3,
    altitude_of_m,
    moist_density_kg_m3,
    temperature_for_density_c,
)
from fenwit.core.load.curve import Air, FanCurve, System
from fenwit.core.load.dead import Group, standing_resistance
from fenwit.core.load.energy import energy_kwh, payback_years
from tests.core.test_desk import CURVES, given_of


def curve_of(key: str) -> FanCurve:
    lists = {k: tuple(float(x) for x in v.split(",")) for k, v in given_of([key]).items()}
    return FanCurve(lists["flows_m3_s"], lists["pressures_pa"], lists["shafts_w"])


E1, R6, S3 = (curve_of(key) for key in CURVES)


def test_there_are_three_curves() -> None:
    assert list(CURVES) == ["E1", "R6", "S3"]


@settings(max_examples=60, deadline=None)
@given(st.floats(0.05, 0.3), st.floats(20.0, 400.0), st.floats(0.3, 1.5), st.floats(0.8, 1.3))
def test_without_fixed_pressure_the_plain_laws_hold(
    flow: float, pressure: float, s: float, rho: float
) -> None:
    air = Air(E1, System(flow, pressure), rho)
    full, slow = air.reached(), air.reached(s)
    assert full.point is not None
    assert slow.point is not None
    assert slow.flow_m3_s == pytest.approx(s * full.flow_m3_s, rel=1e-9)
    assert slow.point.pressure_pa == pytest.approx(s**2 * full.point.pressure_pa, rel=1e-9)
    assert slow.shaft_w == pytest.approx(s**3 * float(full.shaft_w or 0), rel=1e-8)
    # Resistance and pressure go with density alike: the flow does not know of it.
    assert full.flow_m3_s == pytest.approx(replace(air, density_kg_m3=1.2).reached().flow_m3_s, rel=1e-9)
    assert slow.load_exponent == 2


@settings(max_examples=40, deadline=None)
@given(st.floats(0.05, 0.3), st.floats(50.0, 400.0), st.floats(0.05, 0.9), st.floats(0.5, 1.5))
def test_a_speed_is_found_back_from_its_flow(flow: float, pressure: float, fixed: float, s: float) -> None:
    air = Air(E1, System(flow, pressure, fixed * pressure))
    reached = air.reached(s)
    if reached.point is None:
        assert s <= air.least_speed() + 1e-9
        return
    assert air.speed_for_flow(reached.flow_m3_s) == pytest.approx(s, rel=1e-6)
    # A part of the pressure that stands makes flow fall faster than speed.
    assert (reached.flow_m3_s / s - air.reached().flow_m3_s) * (s - 1) >= -1e-9
    assert air.flows_m3_s(np.array([s, 1.0])) == pytest.approx(
        [reached.flow_m3_s, air.reached().flow_m3_s], rel=2e-4
    )


@settings(max_examples=40, deadline=None)
@given(st.floats(0.55, 1.0), st.floats(0.2, 0.95))
def test_the_load_exponent_is_the_slope_of_the_torque(s: float, fixed: float) -> None:
    air = Air(E1, System(0.2, 300.0, fixed * 300.0))
    step = 1e-4
    shafts = [air.reached(s * (1 + sign * step)).shaft_w for sign in (-1, 1)]
    exponent = air.reached(s).load_exponent
    if None in shafts or exponent is None:
        return
    # Torque is shaft power over speed.
    slope = (np.log(shafts[1]) - np.log(shafts[0])) / np.log((1 + step) / (1 - step)) - 1  # type: ignore[arg-type]
    assert exponent == pytest.approx(slope, rel=2e-3)


def test_air_power_never_exceeds_the_shaft() -> None:
    for curve in (E1, R6, S3):
        for q in np.linspace(0.02, 0.98, 25) * curve.free_flow_m3_s:
            system = System(float(q), float(curve.pressure_pa(q)))
            at = Air(curve, system).reached()
            assert at.point is not None
            assert at.point.pressure_pa * at.flow_m3_s < (at.shaft_w or 0)


def test_stall_shows_all_points_and_the_one_from_still_air() -> None:
    # Independent prototype: 0.0465 (stable, in stall), 0.0806 (unstable), 0.1369 m³/s against a fixed 116 Pa.
    at = Air(S3, System(0.12, 116.0, 116.0)).reached()
    assert at.point is not None
    assert (at.point.flow_m3_s, at.point.stalled) == (pytest.approx(0.0465, abs=1e-4), True)
    assert [(round(p.flow_m3_s, 4), p.stable) for p in at.others] == [(0.0806, False), (0.1369, True)]


def test_no_air_against_too_much_fixed_pressure() -> None:
    air = Air(E1, System(0.2, 300, 120))
    # Independent prototype: below s = 0.53 no air at all; e 2.10, 2.22, 3.48 at 1, 0.8, 0.6.
    assert air.least_speed() == pytest.approx(0.53, abs=0.005)
    assert air.reached(0.52).point is None
    exponents = [air.reached(s).load_exponent for s in (1.0, 0.8, 0.6)]
    assert exponents == pytest.approx([2.10, 2.22, 3.48], abs=0.006)
    assert list(air.flows_m3_s(np.array([0.0, 0.3]))) == [0, 0]


def test_dead_fans_leak_and_shutters_help() -> None:
    ring = Air(R6, System(0.09, 22.0))
    shares = [Group(ring, 6 - n, n, shut).left().share for n in (1, 3) for shut in (False, True)]
    assert shares == pytest.approx([0.857, 0.935, 0.477, 0.693], abs=6e-4)  # independent prototype
    assert Group(ring, 6).left().share == 1
    air = Group(ring, 3, 3).left()
    assert air.flow_m3_s == pytest.approx(3 * air.running_flow_m3_s - 3 * air.back_flow_m3_s)
    # One pressure for all: of the system, of each that runs, and of what flows back through each that stands.
    assert air.pressure_pa == pytest.approx(
        float(ring.system.pressure_at_pa(np.array(air.flow_m3_s))), rel=1e-6
    )
    assert air.pressure_pa == pytest.approx(float(R6.pressure_pa(np.array(air.running_flow_m3_s))), rel=1e-6)
    assert air.pressure_pa == pytest.approx(standing_resistance(R6) * air.back_flow_m3_s**2, rel=1e-6)
    held = Group(ring, 3, 3, True).left()
    assert held.back_flow_m3_s == 0
    assert held.pressure_pa == pytest.approx(
        float(ring.system.pressure_at_pa(np.array(held.flow_m3_s))), rel=1e-6
    )


@settings(max_examples=40, deadline=None)
@given(st.floats(0.0, 4000.0), st.floats(-30.0, 60.0), st.floats(0.0, 1.0))
def test_density_and_what_it_is_found_from(h: float, t: float, rh: float) -> None:
    rho = air_density_kg_m3(h, t, rh)
    assert rho <= air_density_kg_m3(h, t)
    pressure = moist_density_kg_m3(1e5, t) * 287.05 * (t + 273.15)
    assert pressure == pytest.approx(1e5)
    p = 101325 * (1 - 2.25577e-5 * h) ** 5.2559
    assert altitude_of_m(p) == pytest.approx(h, abs=1e-6)
    assert temperature_for_density_c(rho, p, rh) == pytest.approx(t, abs=1e-8)


def test_noise_adds_in_powers() -> None:
    assert noise.sum_db([40.0, 40.0]) == pytest.approx(43.01, abs=0.01)
    assert noise.sum_db([40.0] * 7) == pytest.approx(40 + noise.alike_db(7))
    assert noise.without_background_db(noise.sum_db([44.0, 38.0]), 38.0) == pytest.approx(44.0)
    with pytest.raises(InputError, match="as loud"):
        noise.without_background_db(40, 40)


def test_a_saving_pays_or_does_not() -> None:
    assert energy_kwh([100.0], [24.0]) == pytest.approx(876.0)
    assert payback_years(40, 0) is None
    assert payback_years(40, 20) == 2
    with pytest.raises(InputError, match="no more hours"):
        energy_kwh([1, 1], [20, 6])


@pytest.mark.parametrize(
    ("flows", "pressures", "field"),
    [
        ((0, 1), (10, 0), "flows_m3_s"),
        ((0.1, 1, 2), (10, 5, 0), "flows_m3_s"),
        ((0, 2, 1), (10, 5, 0), "flows_m3_s"),
        ((0, 1, 2), (0, 5, 0), "pressures_pa"),
        ((0, 1, 2), (10, 5), "pressures_pa"),
        ((0, 1, 2, 3, 4, 5), (10, 8, 9, 7, 8, 0), "pressures_pa"),
        ((0, 1, 2), (10, -5, 0), "pressures_pa"),
    ],
)
def test_a_curve_that_cannot_be_is_refused(
    flows: tuple[float, ...], pressures: tuple[float, ...], field: str
) -> None:
    with pytest.raises(InputError) as refused:
        FanCurve(flows, pressures)
    assert refused.value.field == field


def test_a_curve_that_ends_too_early_is_refused() -> None:
    with pytest.raises(InputError, match="beyond the last point"):
        Air(FanCurve((0, 1, 2), (100, 90, 70)), System(4, 20)).reached()
