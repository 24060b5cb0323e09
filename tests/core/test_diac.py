"""The diac network: steady angles, the first half-cycle, snap-on and its cures."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.regulator.diac import (
    DiacNetwork,
    Taper,
    cures,
    firing,
    ohm_for_angle,
    propose,
    snap_on,
    tolerance,
)

PLAIN = DiacNetwork(3.3e3, 500e3, 100e-9, breakover_v=32, breakback_v=10)
# *Independent*: resistance in kΩ, settled angle, angle in the first half-cycle; resistive load, 230 V 50 Hz.
STEADY = {
    10: 16.5,
    22: 23.5,
    47: 34.9,
    68: 43.4,
    100: 55.2,
    150: 71.8,
    180: 81.2,
    220: 93.6,
    270: 109.8,
    330: 133.0,
}
FIRST = {100: 48.6, 220: 74.1, 330: 94.6}


def test_settled_and_first_angles() -> None:
    ohm = np.array(list(STEADY)) * 1e3
    found = firing(PLAIN, ohm, 230, 50)
    np.testing.assert_allclose(np.degrees(found.down_rad), list(STEADY.values()), atol=0.06)
    first = dict(zip(STEADY, np.degrees(found.first_rad), strict=True))
    assert {k: first[k] for k in FIRST} == pytest.approx(FIRST, abs=0.06)
    # On the way up the slowest of them does not come on at all: that is the snap-on.
    assert np.isinf(found.up_rad[-1])
    np.testing.assert_allclose(np.degrees(found.up_rad[:-1]), list(STEADY.values())[:-1], atol=0.06)


def test_nothing_remembered_without_break_back_to_remember() -> None:
    """When the diac empties the capacitor each half-cycle is the first one."""
    empty = replace(PLAIN, breakback_v=32.0)
    found = firing(empty, np.array([47e3, 100e3, 220e3]), 230, 50)
    np.testing.assert_allclose(found.down_rad, found.first_rad, atol=1e-6)
    np.testing.assert_allclose(found.up_rad, found.down_rad, atol=1e-6)


@settings(max_examples=30, deadline=None)
@given(
    ohm=st.floats(5e3, 3e5), farads=st.floats(30e-9, 300e-9), back=st.floats(2, 20), volts=st.floats(100, 260)
)
def test_later_with_more_ohms_and_never_before_the_first(
    ohm: float, farads: float, back: float, volts: float
) -> None:
    network = DiacNetwork(1e3, 1e5, farads, breakback_v=back)
    found = firing(network, np.array([ohm, 1.05 * ohm]), volts, 50)
    down = found.down_rad
    if np.isfinite(down).all():
        assert down[1] > down[0]
    if np.isfinite(down[0]):
        # What is left over from the half-cycle before has the wrong sign and only delays.
        assert down[0] >= found.first_rad[0] - 1e-9
    # Coming from off it never fires where it would not stay on coming from firing.
    assert not (np.isfinite(found.up_rad) & np.isinf(down)).any()


def test_the_knob_snaps_on_and_a_second_time_constant_cures_most_of_it() -> None:
    now = snap_on(PLAIN, 230, 50)
    assert now is not None
    assert now.gap_turn > 0.05
    assert now.latest_deg > now.on_deg + 15
    ways = cures(PLAIN, 230, 50)
    assert ways
    gaps = [w.after.gap_turn for w in ways]
    assert gaps == sorted(gaps)
    assert gaps[0] < 0.3 * now.gap_turn
    double = next(w for w in ways if "second time constant" in w.words)
    assert double.after.gap_turn < 0.3 * now.gap_turn
    assert snap_on(replace(PLAIN, least_ohm=5e6), 230, 50) is None


def test_a_motors_current_that_goes_on_past_the_zero_delays_the_firing() -> None:
    ohm = np.array([47e3, 100e3, 180e3])
    lamp = firing(PLAIN, ohm, 230, 50).down_rad
    motor = firing(PLAIN, ohm, 230, 50, lambda alpha: np.full(alpha.shape, np.radians(187.0))).down_rad
    leading = firing(PLAIN, ohm, 230, 50, lambda alpha: np.full(alpha.shape, np.radians(176.0))).down_rad
    assert (motor > lamp).all()
    # Ending before the zero, it lets the network see the old half-cycle a little longer.
    assert ((leading > lamp) & (leading < motor)).all()


def test_tolerances_span_the_nominal_angle() -> None:
    band = tolerance(PLAIN, np.array([0.7]), 230, 50)[0]
    assert band.low_deg < band.nominal_deg < band.high_deg
    narrow = tolerance(PLAIN, np.array([0.7]), 230, 50, knob=0.05, capacitor=0.05, breakover=1.0)[0]
    assert band.low_deg < narrow.low_deg
    assert narrow.high_deg < band.high_deg
    exact = tolerance(PLAIN, np.array([0.7]), 230, 50, knob=0, capacitor=0, breakover=0)[0]
    assert exact.low_deg == exact.high_deg == pytest.approx(narrow.nominal_deg)


def test_ohms_for_an_angle_and_back() -> None:
    wanted = np.array([30.0, 60.0, 90.0, 120.0])
    ohm = ohm_for_angle(PLAIN, wanted, 230, 50)
    np.testing.assert_allclose(np.degrees(firing(PLAIN, ohm, 230, 50).down_rad), wanted, atol=0.15)
    assert np.isinf(ohm_for_angle(PLAIN, 179.0, 230, 50)[0])


def test_preferred_values_reach_the_wanted_range() -> None:
    found = propose(30, 130, 230, 50)
    assert found[0].miss_deg < 2
    assert [p.miss_deg for p in found] == sorted(p.miss_deg for p in found)
    for p in found:
        ends = firing(p.network, p.network.first_ohm(np.array([1.0, 0.0])), 230, 50).down_rad
        assert np.degrees(ends).tolist() == pytest.approx([p.fast_deg, p.slow_deg])


def test_the_track_of_the_knob() -> None:
    turn = np.linspace(0, 1, 11)
    for taper in Taper:
        ohm = replace(PLAIN, taper=taper).first_ohm(turn)
        assert ohm[0] == pytest.approx(503.3e3)
        assert ohm[-1] == pytest.approx(3.3e3)
        assert (np.diff(ohm) < 0).all()
    half = {t: float(replace(PLAIN, taper=t).first_ohm(np.array([0.5]))[0]) for t in Taper}
    assert half[Taper.LOG] < half[Taper.LINEAR] < half[Taper.REVERSE_LOG]
    across = replace(PLAIN, across_ohm=500e3).first_ohm(np.array([0.0]))
    assert across[0] == pytest.approx(253.3e3)


@pytest.mark.parametrize(
    "bad",
    [
        lambda: replace(PLAIN, least_ohm=0),
        lambda: replace(PLAIN, capacitance_f=1.0),
        lambda: replace(PLAIN, breakback_v=40),
        lambda: replace(PLAIN, second_ohm=1e4),
        lambda: PLAIN.first_ohm(np.array([1.5])),
        lambda: firing(PLAIN, np.array([-1.0]), 230, 50),
        lambda: firing(PLAIN, np.array([1e5]), 0, 50),
        lambda: propose(90, 60, 230, 50),
        lambda: propose(20, 174.9, 24, 50),
        lambda: tolerance(PLAIN, np.array([0.5]), 230, 50, breakover=30),
        lambda: ohm_for_angle(PLAIN, 200.0, 230, 50),
    ],
)
def test_nonsense_is_refused(bad: object) -> None:
    with pytest.raises(InputError):
        bad()  # type: ignore[operator]
