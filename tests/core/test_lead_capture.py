"""A scope's capture of a control lead: frequency, duty, levels, rise and tachometer, from waves that are made here."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.asked import must_know
from fenwit.core.job.state import JobState, Proof
from fenwit.core.methods.pwm.design import Drive
from fenwit.core.methods.pwm.steps import DUTY, HIGH, LOW, RISE
from fenwit.core.prove.lead import faster_first, read_lead, show_lead
from fenwit.core.prove.verdict import Verdict
from tests.core.test_commanded import DATA, STATES, job, usual

FloatArray = NDArray[np.float64]


def wave(
    hertz: float = 25e3,
    duty: float = 0.4,
    *,
    tau_s: float = 0.0,
    low: float = 0.1,
    high: float = 5.0,
    noise: float = 0.0,
    each: int = 400,
    periods: int = 30,
    phase: float = 0.13,
) -> tuple[FloatArray, FloatArray]:
    """A lead that an open drain pulls down at once and a resistor pulls up with a time constant."""
    t = np.arange(each * periods) / (hertz * each)
    place = (t * hertz + phase) % 1
    risen = 1.0 if tau_s == 0 else 1 - np.exp(-place / hertz / tau_s)
    v = np.where(place < duty, low + (high - low) * risen, low)
    return t, v + noise * np.random.default_rng(7).normal(size=len(t))


@settings(max_examples=60, deadline=None)
@given(
    st.floats(200.0, 1e5),
    st.floats(0.03, 0.97),
    st.floats(0.0, 1.0),
    st.floats(-0.3, 0.8),
    st.floats(2.5, 12.0),
)
def test_what_was_put_in_is_read_back(
    hertz: float, duty: float, phase: float, low: float, high: float
) -> None:
    read = read_lead(*wave(hertz, duty, phase=phase, low=low, high=high, noise=0.01))
    assert read.frequency_hz == pytest.approx(hertz, rel=1e-3)
    assert read.duty == pytest.approx(duty, abs=0.004)
    assert read.duty is not None
    assert abs(read.duty - duty) < 4 * read.duty_doubt
    assert (read.low_v, read.high_v) == pytest.approx((low, high), abs=0.02)


def test_a_late_edge_is_measured_and_takes_duty() -> None:
    tau = 4.7e3 * 330e-12
    read = read_lead(*wave(tau_s=tau, each=2000))
    assert read.rise_s == pytest.approx(math.log(9) * tau, rel=0.02)
    # At half height the edge comes R C ln 2 late.
    assert read.duty == pytest.approx(0.4 - tau * math.log(2) * 25e3, abs=0.002)


def test_noise_and_ringing_do_not_count_twice_and_are_told() -> None:
    assert read_lead(*wave(noise=0.25)).periods == 29
    t, v = wave()
    since = (t * 25e3 + 0.13) % 1 / 25e3
    ringing = v + 3.0 * np.exp(-since / 2e-6) * np.sin(2 * np.pi * 1e6 * since)
    read = read_lead(t, ringing)
    assert read.periods == 29
    assert any("ring" in w for w in read.words)
    assert any("coarse" in w for w in read_lead(*wave(each=50)).words)


def test_a_steady_lead_is_told_as_such() -> None:
    t, v = wave()
    for level in (4.9, 0.1):
        read = read_lead(t, np.full_like(v, level))
        assert (read.frequency_hz, read.duty, read.low_v) == (None, None, pytest.approx(level))
        assert "stands" in read.words[0]
        assert not show_lead(t, np.full_like(v, level)).found


def test_the_tachometer_beside_it_gives_the_speed() -> None:
    # 1410 rpm, two pulses a turn: 47 Hz, over 0.1 s at 2 µs.
    t = np.arange(50_000) * 2e-6
    lead = np.where(t * 5e3 % 1 < 0.3, 5.0, 0.1)
    tach = np.where((t * 47.0 + 0.2) % 1 < 0.5, 12.0, 0.2)
    assert faster_first(t, lead, tach)
    assert not faster_first(t, tach, lead)
    found = {f.quantity: f for f in show_lead(t, lead, tach).found}
    assert found["speed_rpm"].value == pytest.approx(1410.0, rel=1e-3)
    assert found["lead_duty"].value == pytest.approx(30.0, abs=0.7)
    assert show_lead(t, lead, tach, 4.0).found[-1].value == pytest.approx(705.0, rel=1e-3)
    short = show_lead(t[:10_000], lead[:10_000], tach[:10_000])
    assert "speed_rpm" not in {f.quantity for f in short.found}
    assert any("capture longer" in w for w in short.words)
    dead = show_lead(t, lead, np.full_like(t, 3.3))
    assert any("no pull-up" in w for w in dead.words)


def test_a_drawing_holds_two_periods_and_few_points() -> None:
    shown = show_lead(*wave(each=5000))
    assert len(shown.time_us) == len(shown.lead_v) <= 490
    assert shown.time_us[0] == 0
    assert shown.time_us[-1] == pytest.approx(2.3 * 40, rel=0.01)


def test_nonsense_is_refused() -> None:
    t, v = wave(periods=2, each=200)
    with pytest.raises(InputError, match="too short"):
        read_lead(t[:220], v[:220])
    with pytest.raises(InputError):
        read_lead(t[:50], v[:50])
    with pytest.raises(InputError):
        read_lead(t[::-1], v)
    with pytest.raises(InputError):
        read_lead(t, np.where(v > 1, np.nan, v))
    with pytest.raises(InputError):
        show_lead(t, v, None, 0.0)


# ---------------------------------------------------------------- what is expected at a step


def proved(state: JobState, key: str, value: float, step: int = 1) -> tuple[Verdict | None, str]:
    row = next(
        r
        for r in frame(replace(state, proofs=(Proof(step, key, value),))).proofs
        if (r.step, r.quantity) == (step, key)
    )
    return row.verdict, row.words


def test_a_lead_as_it_should_be_holds_and_another_is_told_why() -> None:
    state = usual(job())
    asked = must_know(state)
    step = asked.regulation.steps(asked.subject, asked.design, state.wanted_rpm, False)[0]
    lead = asked.subject.lead
    tau = lead.pull_up_ohm * lead.load_f
    read = read_lead(*wave(25e3, step.at or 0.0, tau_s=tau, each=2000))
    assert read.duty is not None
    rise = 1e6 * (read.rise_s or 0.0)
    values = {DUTY: 100 * read.duty, LOW: read.low_v, HIGH: read.high_v, RISE: rise}
    for what, value in values.items():
        assert proved(state, what.key, value)[0] is Verdict.PASS, what.name
    assert proved(state, LOW.key, 0.0)[0] is Verdict.PASS
    for what, value, words in ((LOW, 1.9, "does not pull"), (HIGH, 12.0, "take it off"), (RISE, 40.0, "stiffer"),
                               (DUTY, 100 - 100 * (step.at or 0.0), "the other way round")):  # fmt: skip
        verdict, told = proved(state, what.key, value)
        assert verdict is Verdict.FAIL, what.name
        assert words in told


def test_a_driver_that_pushes_is_held_to_its_own_volts() -> None:
    state = usual(job())
    assert state.design is not None
    pushed = replace(state, design=replace(state.design, drive=Drive.PUSH_PULL, high_v=3.3))
    assert proved(pushed, HIGH.key, 3.25)[0] is Verdict.PASS
    assert proved(pushed, HIGH.key, 5.0)[0] is Verdict.FAIL


def test_a_fan_that_pulls_its_lead_up_to_more_is_held_to_that() -> None:
    state = usual(job(commanded=replace(DATA, pull_up_v=12.0, pull_up_ohm=10e3)))
    assert proved(state, HIGH.key, 11.8)[0] is Verdict.PASS
    assert proved(state, HIGH.key, 5.0)[0] is Verdict.FAIL


def test_a_step_at_full_duty_has_no_frequency_to_read() -> None:
    found = {(r.step, r.quantity) for r in frame(usual(job())).proofs}
    assert (3, "speed_rpm") in found
    assert (3, "lead_hz") not in found
    assert (1, "lead_hz") in found


@pytest.mark.parametrize("state", STATES)
def test_every_quantity_that_is_asked_for_can_be_read(state: JobState) -> None:
    built = usual(state)
    for row in frame(built).proofs:
        verdict, _ = proved(built, row.quantity, (row.low + row.high) / 2, row.step)
        assert verdict is Verdict.PASS, row.name
