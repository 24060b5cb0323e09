"""A sweep of frequencies on the control lead: which ones a fan takes rightly, and what the signal's room makes of it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.frame import JobState, frame
from fenwit.core.frame.asked import must_know
from fenwit.core.job.commanded import Commanded
from fenwit.core.job.state import InLine, RunState, commanded_of
from fenwit.core.methods.pwm.program import plan_lines
from fenwit.core.regulator.control_lead import SWEEP_DUTY, SWEEP_HZ
from fenwit.core.regulator.sweep import Sweep, SweepVerdict, sweep, sweep_words
from tests.core.test_commanded import DATA, job, usual

GOOD, OFF, UNREAD = SweepVerdict.GOOD, SweepVerdict.OFF, SweepVerdict.UNREAD
RIGHT = {0.3: 900.0, 0.5: 1400.0, 0.7: 1900.0}
Readings = list[tuple[float, float, float]]


def readings(scale: dict[float, float] | None = None, hertz: tuple[float, ...] = SWEEP_HZ) -> Readings:
    """What a fan reads that is right everywhere but where a scale stands."""
    return [(f, d, RIGHT[d] * (scale or {}).get(f, 1.0)) for f in hertz for d in SWEEP_DUTY]


def verdicts(told: Sweep) -> list[SweepVerdict]:
    return [r.verdict for r in told.rows]


def test_frequencies_within_three_per_cent_of_25_khz_are_good() -> None:
    told = sweep(readings({1e3: 0.8, 2e3: 0.96, 5e3: 0.975, 10e3: 1.02}))
    assert told.reference_hz == 25e3
    assert verdicts(told) == [OFF, OFF, GOOD, GOOD, GOOD, GOOD, GOOD, GOOD]
    assert told.rows[0].off_share == pytest.approx(0.2)
    assert sweep_words(told).startswith("takes 5, 10, 15, 20, 25, 30 kHz rightly")
    # All three speeds count, not their mean.
    odd = [(f, d, n * (1.06 if f == 5e3 and d == 0.5 else 1)) for f, d, n in readings()]
    assert verdicts(sweep(odd))[2] is OFF


def test_a_fan_that_misreads_25_khz_is_held_against_the_middle_of_what_agrees() -> None:
    # Above 10 kHz it runs full, and at 25 kHz it does as it likes: 1 to 10 kHz are the longest run.
    told = sweep(readings({15e3: 1.5, 20e3: 1.7, 25e3: 2.0, 30e3: 2.3}))
    assert told.reference_hz == 5e3
    assert told.good_hz == (1e3, 2e3, 5e3, 10e3)
    # A neighbour that agrees with 25 kHz keeps it the reference, however long another run is.
    told = sweep(readings({f: 0.5 for f in SWEEP_HZ if f < 20e3}))
    assert told.reference_hz == 25e3
    assert told.good_hz == (20e3, 25e3, 30e3)


def test_what_is_not_read_is_not_told() -> None:
    assert verdicts(sweep([])) == [UNREAD] * 8
    assert sweep_words(sweep([])) == "0 of 24 speeds read"
    told = sweep(readings(hertz=(20e3, 25e3))[:-1])
    assert told.reference_hz is None
    assert (told.read, told.whole) == (5, 24)
    told = sweep(readings(hertz=(20e3, 25e3)))
    assert [told.at(f) for f in (10e3, 20e3, 22e3, 25e3, 28e3, 40e3)] == [
        UNREAD,
        GOOD,
        GOOD,
        GOOD,
        UNREAD,
        UNREAD,
    ]
    assert sweep_words(told).endswith("6 of 24 read")
    # Where no two agree 25 kHz stands alone; without it nothing is told.
    scale = {f: 1 + 0.2 * i for i, f in enumerate(SWEEP_HZ)}
    assert sweep(readings(scale)).good_hz == (25e3,)
    wild = sweep(readings(scale, hertz=SWEEP_HZ[:5]))
    assert verdicts(wild) == [UNREAD] * 8
    assert sweep_words(wild) == "15 of 24 speeds read"
    with pytest.raises(InputError):
        told.at(0.0)
    with pytest.raises(InputError):
        sweep([(25e3, 0.5, -3.0)])


def test_between_two_frequencies_the_worse_of_them_counts() -> None:
    told = sweep(readings({10e3: 0.7}))
    assert [told.at(f) for f in (7e3, 12e3, 17e3, 10.2e3)] == [OFF, OFF, GOOD, OFF]


@given(st.floats(0.5, 2.0), st.permutations(readings({5e3: 0.9})))
def test_scale_and_order_do_not_matter(scale: float, read: Readings) -> None:
    told = sweep([(f, d, n * scale) for f, d, n in read])
    assert verdicts(told) == verdicts(sweep(readings({5e3: 0.9})))


def swept_job(scale: dict[float, float], frequency_hz: float = 25e3) -> JobState:
    runs = tuple(
        RunState(i, InLine.DUTY, d, (("speed_rpm", n),), frequency_hz=f)
        for i, (f, d, n) in enumerate(readings(scale), start=1)
    )
    state = usual(job(runs=runs))
    assert state.design is not None
    return replace(state, design=replace(state.design, frequency_hz=frequency_hz))


def test_the_signals_room_takes_the_sweep_before_the_usual_band() -> None:
    def said(state: JobState) -> str:
        return " ".join(r for m in frame(state).marks for r in m.reasons)

    fine, bad = swept_job({}, 10e3), swept_job({20e3: 1.4, 15e3: 1.4, 10e3: 1.4}, 10e3)
    assert "lies outside" in said(replace(fine, runs=()))
    assert "lies outside" not in said(fine)
    assert "misreads the duty, by its sweep" in said(bad)
    job_ = must_know(bad)
    assert any("Sweep of frequency: takes" in line for line in plan_lines(job_.subject, job_.design))  # type: ignore[arg-type]


def test_a_sweep_draws_no_map() -> None:
    known = commanded_of(swept_job({10e3: 0.5}))
    assert not isinstance(known, tuple)
    assert known.at_duty == ()
    assert len(known.swept) == 24


def test_full_speed_as_read_ends_a_map_of_readings() -> None:
    runs = tuple(
        RunState(i, InLine.DUTY, d, (("speed_rpm", n),)) for i, (d, n) in enumerate(RIGHT.items(), start=1)
    )

    def known(**more: object) -> Commanded:
        found = commanded_of(job(runs=runs, **more))
        assert isinstance(found, Commanded)
        return found

    # By its label only, what it does beyond the last reading is not known.
    assert known().over_duty.command[-1] == 0.7
    read = known(readings=(("speed_rpm", 2380.0),))
    assert read.over_duty.command[-1] == 1.0
    assert float(read.over_duty.speed_at(1.0)) == pytest.approx(2380.0)
    # Inverted, its full speed stands at no duty.
    turned = tuple(replace(r, value=1 - (r.value or 0)) for r in runs)
    sheet = replace(DATA, inverted=True)
    other = commanded_of(job(runs=turned, readings=(("speed_rpm", 2380.0),), commanded=sheet))
    assert isinstance(other, Commanded)
    assert other.over_duty.command[0] == 0.0
    assert float(other.over_duty.speed_at(0.0)) == pytest.approx(2380.0)
