"""Kinds by evidence, taps from ohms, warm windings, run-up, meters, drift."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.calibrate.drift import drift
from fenwit.core.calibrate.instruments import Instrument, MeterRange, relative_sigma
from fenwit.core.calibrate.warm import inertia_kg_m2, run_up_s, winding_rise
from fenwit.core.errors import InputError
from fenwit.core.load import FanLoad
from fenwit.core.motor.evidence import DUTIES, OBSERVATIONS, speaks, weigh
from fenwit.core.motor.kinds import KINDS, MotorKind
from fenwit.core.motor.taps import (
    StartBranch,
    Tap,
    TapFedMotor,
    TwoTapsFed,
    on_tap,
    referred,
    tap_turns,
    two_taps_alive,
)
from fenwit.core.operating import Source, solve
from tests.known.machines import MAINS, P4, P4_LOAD, S16, S16_AT_WORK, S16_LOAD

K = MotorKind


@pytest.mark.parametrize(
    ("seen", "kind"),
    [
        ({"run-capacitor": True, "slow-sweep": True}, K.PSC),
        ({"run-capacitor": True, "many-leads": True, "tapped-ohms": True}, K.PSC_TAPPED),
        ({"copper-rings": True, "two-leads": True, "run-capacitor": False}, K.SHADED_POLE),
        ({"click": True, "hump-capacitor": True, "run-capacitor": False}, K.CAPACITOR_START),
        ({"click": True, "hump-capacitor": True, "run-capacitor": True}, K.CAPACITOR_START_RUN),
        ({"click": True, "hump-capacitor": False, "run-capacitor": False}, K.SPLIT_PHASE),
        ({"brushes": True, "runs-on-both": True}, K.UNIVERSAL),
        ({"three-phase-supply": True, "equal-thirds": True}, K.THREE_PHASE),
        ({"electronics": True, "control-terminals": True, "supply-dc": False}, K.EC_CONTROL),
        ({"electronics": True, "speed-inputs": True, "supply-dc": False}, K.EC_REPLACEMENT),
        ({"supply-dc": True, "plug-4": True}, K.DC_4_WIRE),
        ({"supply-dc": True, "plug-3": True}, K.DC_3_WIRE),
        ({"supply-dc": True, "plug-2": True, "cogging": True}, K.DC_2_WIRE),
        ({"supply-dc": True, "brushes": True}, K.DC_BRUSHED),
    ],
)
def test_each_kind_is_known_by_its_signs(seen: dict[str, bool], kind: MotorKind) -> None:
    found = weigh(seen)
    assert found.ranks[0].kind is kind
    assert sum(r.likelihood for r in found.ranks) == pytest.approx(1)
    assert found.ranks[0].speaks_for


def test_the_observation_asked_for_turns_the_ranking() -> None:
    seen = {"run-capacitor": True}
    found = weigh(seen)
    ask = found.separating
    assert ask is not None
    assert ask.key not in seen
    likely = {r.kind: r.likelihood for r in found.ranks}
    so = {r.kind: r.likelihood for r in weigh({**seen, ask.key: True}).ranks}
    not_so = {r.kind: r.likelihood for r in weigh({**seen, ask.key: False}).ranks}
    assert so[ask.if_so] > likely[ask.if_so]
    assert not_so[ask.if_not] > likely[ask.if_not]


def test_every_observation_says_something_and_weak_ones_say_little() -> None:
    for o in OBSERVATIONS:
        weights = [abs(o.weight(kind, True)) for kind in KINDS]
        assert max(weights) > 0
        if o.weak:
            assert max(weights) < 1
        else:
            for_, against = speaks(o.key)
            assert for_
            assert not set(for_) & set(against)
    with pytest.raises(InputError):
        weigh({"smell": True})
    with pytest.raises(InputError):
        speaks("smell")
    assert all(d.refer for d in DUTIES)


TAP = Tap("low", 1.35, 0.35 * 260)


@pytest.mark.parametrize("branch", StartBranch)
def test_without_extra_turns_a_tap_is_the_motor_itself(branch: StartBranch) -> None:
    slip = np.linspace(0.02, 1.0, 40)
    plain = S16.respond(slip, 50.0)
    tapped = TapFedMotor(S16, 1.0, 0.0, branch).respond(slip, 50.0)
    np.testing.assert_allclose(tapped.admittance_s, plain.admittance_s, rtol=1e-9)
    np.testing.assert_allclose(tapped.torque_nm, plain.torque_nm, rtol=1e-9)
    np.testing.assert_allclose(tapped.winding_loss_w, plain.winding_loss_w, rtol=1e-9)


def test_a_tap_is_the_referred_machine_when_the_start_branch_spans_the_supply() -> None:
    slip = np.linspace(0.02, 1.0, 40)
    tapped = on_tap(S16, TAP, StartBranch.WHOLE_SUPPLY).respond(slip, 50.0)
    other = referred(S16, TAP).respond(slip, 50.0)
    np.testing.assert_allclose(tapped.admittance_s, other.admittance_s, rtol=1e-9)
    np.testing.assert_allclose(tapped.torque_nm, other.torque_nm, rtol=1e-9)


@settings(max_examples=60, deadline=None)
@given(
    turns=st.floats(1.0, 2.5),
    ohm=st.floats(0.0, 400.0),
    slip=st.floats(0.01, 0.99),
    branch=st.sampled_from(list(StartBranch)),
)
def test_what_goes_into_a_tap_comes_out_as_shaft_power_and_heat(
    turns: float, ohm: float, slip: float, branch: StartBranch
) -> None:
    s = np.array([slip])
    unit = TapFedMotor(S16, turns, ohm, branch).respond(s, 50.0)
    shaft = unit.torque_nm * (1 - s) * 4 * np.pi * 50 / 16
    np.testing.assert_allclose(
        unit.admittance_s.real, shaft + unit.rotor_loss_w + unit.winding_loss_w, rtol=1e-9, atol=1e-15
    )


def test_more_turns_run_slower_on_either_connection() -> None:
    taps = tap_turns(260.0, [("high", 0.0), ("medium", 40.0), ("low", 100.0)])
    assert [t.turns for t in taps] == pytest.approx([1.0, 1 + 40 / 260, 1 + 100 / 260])
    for branch in StartBranch:
        speeds = []
        for tap in taps:
            point = solve(on_tap(S16, tap, branch), S16_LOAD, [MAINS])[0].running
            assert point is not None
            speeds.append(point.speed_rpm)
        assert speeds[0] == pytest.approx(330, abs=1)
        assert speeds[0] > speeds[1] > speeds[2]


def test_thinner_wire_means_fewer_turns_for_its_ohms() -> None:
    thin = tap_turns(260.0, [("high", 0.0), ("low", 100.0)], gauge=(0.5,))
    assert thin[1].turns == pytest.approx(1 + 50 / 260)
    for bad in ([("high", 0.0), ("medium", 40.0), ("low", 30.0)], [("high", -1.0)]):
        with pytest.raises(InputError):
            tap_turns(260.0, bad)
    with pytest.raises(InputError):
        tap_turns(260.0, [("high", 0.0), ("low", 100.0)], gauge=(9.0,))


KNOWN_TAPS = [(1.0, 0.0), (1.15, 39.0), (1.30, 78.0), (1.50, 130.0)]


@pytest.mark.parametrize(
    ("branch", "turns", "ohm", "known"),
    [
        # Independent prototype: rpm, A, W, V across the run capacitor, net torque at rest, hum over direct in dB
        (StartBranch.WHOLE_SUPPLY, 1.0, 0.0, (330.0, 0.3178, 73.03, 415, 0.864, 0.0)),
        (StartBranch.WHOLE_SUPPLY, 1.15, 39.0, (320.9, 0.2799, 63.86, 393, 0.776, -0.6)),
        (StartBranch.WHOLE_SUPPLY, 1.3, 78.0, (311.8, 0.2597, 57.59, 377, 0.702, -1.2)),
        (StartBranch.WHOLE_SUPPLY, 1.5, 130.0, (299.8, 0.2461, 51.76, 360, 0.620, -2.1)),
        (StartBranch.MAIN_SECTION, 1.0, 0.0, (330.0, 0.3178, 73.03, 415, 0.864, 0.0)),
        (StartBranch.MAIN_SECTION, 1.15, 39.0, (316.5, 0.2502, 57.21, 339, 0.664, -5.8)),
        (StartBranch.MAIN_SECTION, 1.3, 78.0, (301.5, 0.2042, 46.35, 283, 0.525, -12.2)),
        (StartBranch.MAIN_SECTION, 1.5, 130.0, (279.9, 0.1619, 36.33, 229, 0.396, -22.5)),
    ],
)
def test_a_fan_on_its_taps(branch: StartBranch, turns: float, ohm: float, known: tuple[float, ...]) -> None:
    motor = TapFedMotor(S16, turns, ohm, branch)
    (solution,) = solve(motor, S16_LOAD, [MAINS])
    p = solution.running
    direct = solve(S16, S16_LOAD, [MAINS])[0].running
    assert p is not None
    assert direct is not None
    hum = motor.ripple_nm(np.asarray(p.slip), 50) / S16.ripple_nm(np.asarray(direct.slip), 50)
    found = (p.speed_rpm, p.line_current_a, p.input_power_w, p.capacitor_voltage_v or 0)
    found += (solution.net_starting_torque_nm, 20 * float(np.log10(hum)))
    assert found == pytest.approx(known, rel=2e-3, abs=0.06)


def test_idle_leads_stand_above_the_supply() -> None:
    """*Independent*: fed at tap 1, 261.8, 293.9, 337.0 V, at +10 % 288, 323, 371; fed at the slowest 153.3 … 199.3."""
    slip = np.asarray(1 - 330 / 375)
    motor = TapFedMotor(S16, 1.0, 0.0)
    beyond = [float(motor.idle_lead_v(slip, 50, t, r)) for t, r in KNOWN_TAPS[1:]]
    assert [230 * v for v in beyond] == pytest.approx([261.8, 293.9, 337.0], abs=0.06)
    assert [253 * v for v in beyond] == pytest.approx([288, 323, 371], abs=0.5)
    slow = TapFedMotor(S16, *KNOWN_TAPS[-1])
    point = solve(slow, S16_LOAD, [MAINS])[0].running
    assert point is not None
    before = [230 * float(slow.idle_lead_v(np.asarray(point.slip), 50, t, r)) for t, r in KNOWN_TAPS[:-1]]
    assert before == pytest.approx([153.3, 176.3, 199.3], abs=0.06)
    assert float(slow.idle_lead_v(slip, 50, *KNOWN_TAPS[-1])) == pytest.approx(1.0)


def test_two_taps_alive_drive_a_current_round() -> None:
    """*Independent*: taps 1 and 1.15 at 300 rpm 0.715 A, 19.9 W in 39 Ω, at rest 0.587; 1 and 1.5 0.573 A, 42.6 W."""
    taps = [Tap(f"{t:g}", t, r) for t, r in KNOWN_TAPS]
    near, far = TwoTapsFed(S16, taps[0], taps[1]), TwoTapsFed(S16, taps[0], taps[3])
    found = two_taps_alive(near, 300, 230, 50)
    assert (found.current_a, found.heat_w) == pytest.approx((0.715, 19.9), abs=0.03)
    assert two_taps_alive(near, 0, 230, 50).current_a == pytest.approx(0.587, abs=6e-4)
    far_found = two_taps_alive(far, 300, 230, 50)
    assert (far_found.current_a, far_found.heat_w) == pytest.approx((0.573, 42.6), abs=0.03)
    assert 230**2 * float(near.respond(np.array([0.2]), 50).torque_nm[0]) == pytest.approx(0.755, abs=0.01)
    with pytest.raises(InputError):
        TwoTapsFed(S16, taps[1], taps[1])


@given(st.floats(0.02, 0.98), st.sampled_from(StartBranch), st.floats(1.0, 1.4), st.floats(0.05, 0.5))
def test_two_taps_fed_balance_and_end_where_one_is_fed(
    slip: float, branch: StartBranch, turns: float, more: float
) -> None:
    faster = Tap("a", turns, 260 * (turns - 1))
    s = np.array([slip])
    unit = TwoTapsFed(S16, faster, Tap("b", turns + more, faster.extra_ohm + 260 * more), branch).respond(
        s, 50.0
    )
    shaft = unit.torque_nm * (1 - s) * 4 * np.pi * 50 / 16
    out = shaft + unit.rotor_loss_w + unit.winding_loss_w
    np.testing.assert_allclose(unit.admittance_s.real, out, rtol=1e-9, atol=1e-15)
    # With no end to the ohms between them, the second tap is not there.
    alone = TwoTapsFed(S16, faster, Tap("b", turns + more, 1e12), branch).respond(s, 50.0)
    np.testing.assert_allclose(
        alone.admittance_s, TapFedMotor(S16, turns, faster.extra_ohm, branch).respond(s, 50.0).admittance_s
    )


def test_copper_tells_its_temperature() -> None:
    """By hand: 260 → 320 Ω from 20 °C is 320/260 · 254.5 − 234.5 = 78.7 °C."""
    found = winding_rise(260.0, 320.0, 20.0)
    assert found.temperature_c == pytest.approx(78.73, abs=0.01)
    assert found.rise_k == pytest.approx(58.73, abs=0.01)
    assert winding_rise(260.0, 320.0, 20.0, 25.0).rise_k == pytest.approx(53.73, abs=0.01)
    assert 1.5 < found.rise_sigma_k < 3
    with pytest.raises(InputError, match="swapped"):
        winding_rise(320.0, 260.0, 20.0)
    with pytest.raises(InputError, match="no winding survives"):
        winding_rise(260.0, 900.0, 20.0)


def test_a_run_up_gives_the_inertia_back() -> None:
    for motor, load in ((S16, S16_LOAD), (P4, P4_LOAD)):
        seconds = run_up_s(motor, load, MAINS, 0.02)
        assert seconds > 0
        assert inertia_kg_m2(motor, load, MAINS, seconds) == pytest.approx(0.02)
        assert run_up_s(motor, load, MAINS, 0.04) == pytest.approx(2 * seconds)
    with pytest.raises(InputError, match="does not start"):
        inertia_kg_m2(S16, S16_LOAD, Source(20.0, 50.0), 3.0)
    with pytest.raises(InputError):
        inertia_kg_m2(S16, S16_LOAD, MAINS, 0.0)


def test_a_run_up_by_small_time_steps_takes_as_long() -> None:
    """*Independent*: Euler steps of a thousandth of a second against the integral over speed."""
    inertia, speed, t = 0.05, 0.0, 0.0
    end = solve(S16, S16_LOAD, [MAINS])[0].running
    assert end is not None
    while speed < 0.95 * end.speed_rpm:
        unit = S16.respond(np.array([1 - speed / 375]), 50.0)
        surplus = float(unit.torque_nm[0]) * 230**2 - float(S16_LOAD.torque_nm(np.array(speed)))
        speed += surplus / inertia * 1e-3 * 60 / (2 * np.pi)
        t += 1e-3
    assert run_up_s(S16, S16_LOAD, MAINS, inertia) == pytest.approx(t, rel=0.01)


METER = Instrument(
    "bench meter",
    (
        MeterRange("resistance", 600.0, 0.6, 2, 0.1),
        MeterRange("resistance", 6000.0, 0.6, 2, 1.0),
        MeterRange("current", 6.0, 1.0, 3, 0.001),
    ),
)


def test_a_meters_data_sheet_becomes_an_uncertainty() -> None:
    """By hand: (0.6 % of 260 + 2 × 0.1 Ω) / 260 / √3 = 0.391 %."""
    assert relative_sigma(METER, "main_resistance_ohm", 260.0) == pytest.approx(0.00391, abs=1e-5)
    assert relative_sigma(METER, "main_resistance_ohm", 900.0) == pytest.approx(
        (0.006 + 2 / 900) / 3**0.5, rel=1e-6
    )
    assert relative_sigma(METER, "lead_ohm:k1:k2", 46.0) is not None
    assert relative_sigma(METER, "section_f:A", 1e-6) is None
    assert relative_sigma(METER, "speed_rpm", 330.0) is None
    assert relative_sigma(METER, "line_current_a", 9.0) is None  # beyond its range
    true, average = (relative_sigma(replace(METER, true_rms=t), "line_current_a", 0.3) for t in (True, False))
    assert true is not None
    assert average is not None
    assert average > true
    for bad in (
        ("light", 1.0, 1.0, 1.0, 0.1),
        ("voltage", 600.0, 99.0, 1.0, 0.1),
        ("voltage", 6.0, 1.0, 1.0, 5.0),
    ):
        with pytest.raises(InputError):
            MeterRange(*bad)


def test_a_sinking_section_is_dated_with_its_doubt() -> None:
    """By hand: 2 % a year from 1.00 leaves ±6 % after three years."""
    year = 365.25
    found = drift([0, year, 2 * year], [5.0e-6, 4.9e-6, 4.8e-6], 5.0e-6, 0.06, sigma=0.002)
    assert found is not None
    assert found.per_year == pytest.approx(-0.02, abs=1e-6)
    assert found.leaves_day == pytest.approx(3 * year, abs=5)
    assert found.leaves_low is not None
    assert found.leaves_high is not None
    assert found.leaves_low < 3 * year < found.leaves_high
    assert found.sinking


def test_a_steady_section_is_not_called_sinking_and_one_reading_is_no_history() -> None:
    found = drift([0, 400, 800], [5.0e-6, 5.01e-6, 4.99e-6], 5.0e-6, 0.06)
    assert found is not None
    assert not found.sinking
    assert found.leaves_high is None
    assert drift([3], [5e-6], 5e-6, 0.06) is None
    assert drift([3, 3.2], [5e-6, 5e-6], 5e-6, 0.06) is None
    with pytest.raises(InputError):
        drift([1, 2], [5e-6], 5e-6, 0.06)
    with pytest.raises(InputError):
        drift([1, 400], [5e-6, -1.0], 5e-6, 0.06)


def test_more_readings_narrow_the_date() -> None:
    year, random = 365.25, np.random.default_rng(3)

    def width(count: int) -> float:
        days = [i * year / 2 for i in range(count)]
        values = [5e-6 * (1 - 0.02 * d / year + 0.004 * random.standard_normal()) for d in days]
        found = drift(days, values, 5e-6, 0.2, sigma=0.004)
        assert found is not None
        assert found.leaves_low is not None
        assert found.leaves_high is not None
        return found.leaves_high - found.leaves_low

    assert width(12) < width(5)


def test_a_load_does_not_hide_in_a_tap() -> None:
    """On a slower tap the same blades need less: the operating point lies on the load curve."""
    tap = Tap("low", 1.3, 78.0)
    for branch in StartBranch:
        point = solve(on_tap(S16, tap, branch), S16_LOAD, [MAINS])[0].running
        assert point is not None
        load = FanLoad(330, 0.632, 0.03)
        assert point.torque_nm == pytest.approx(float(load.torque_nm(np.array(point.speed_rpm))), rel=1e-4)


def test_extra_turns_in_service_are_as_warm_as_the_main_winding() -> None:
    """By hand: read at 20 °C, 53 K over it at full speed: (234.5 + 73)/(234.5 + 20) = 1.2083 times the ohms."""
    warm = on_tap(S16_AT_WORK, TAP, StartBranch.WHOLE_SUPPLY)
    assert float(warm.extra_ohm) == pytest.approx(TAP.extra_ohm * 1.2083, rel=1e-4)
    assert on_tap(S16, TAP, StartBranch.WHOLE_SUPPLY).extra_ohm == TAP.extra_ohm
