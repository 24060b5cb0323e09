"""A controller for the bench: its frequencies as its timer makes them, and what its board, pins and logic supply bear."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import JobState, frame
from fenwit.core.frame.asked import must_know
from fenwit.core.methods.pwm.box import frequencies
from fenwit.core.methods.pwm.design import BenchBox, DutyDesign, Maker
from fenwit.core.methods.pwm.parts import budget, logic_loss_w
from fenwit.core.methods.pwm.program import header
from fenwit.core.methods.seam import PartRow
from fenwit.core.regulator.direct_supply import LimitKind
from fenwit.core.regulator.registers import TimerMode
from fenwit.core.regulator.sweep import SweepVerdict
from tests.core.test_commanded import DATA, job, usual
from tests.core.test_sweep import swept_job


def boxed(state: JobState | None = None, box: BenchBox | None = None, **more: Any) -> JobState:
    built = state or usual(job())
    assert isinstance(built.design, DutyDesign)
    design = replace(built.design, maker=Maker.BENCH, box=box or BenchBox(), **more)
    return replace(built, design=design)


def part(state: JobState, name: str) -> PartRow:
    return next(p for p in frame(state).parts if p.name == name)


def test_every_frequency_of_the_box_is_told_as_the_timer_makes_it() -> None:
    asked = must_know(boxed())
    found = frequencies(asked.subject, asked.design)  # type: ignore[arg-type]
    assert [f.asked_hz for f in found] == [2000.0 + 500 * i for i in range(57)]
    control = asked.design.controller  # type: ignore[union-attr]
    for f in found:
        # By the rule of registers, independently of who chose them.
        steps = 2 * f.top if f.mode is TimerMode.PHASE_CORRECT else f.top + 1
        assert f.made_hz == pytest.approx(control.clock_hz / (f.prescaler * steps))
        assert f.error == pytest.approx(f.made_hz / f.asked_hz - 1)
        assert abs(f.error) < 0.0065
    kilo = [f for f in found if f.asked_hz % 1000 == 0 and f.asked_hz <= 25e3]
    # Whole kilohertz up to 25: within 0.40 %, at least 80 levels.
    assert max(abs(f.error) for f in kilo) <= 0.0041
    assert min(f.levels for f in kilo) >= 80
    # By the fan's band where nobody swept it, by its sweep where somebody did.
    assert {f.asked_hz for f in found if f.taken is SweepVerdict.GOOD} == {21e3 + 500 * i for i in range(15)}
    swept = must_know(boxed(swept_job({10e3: 0.7})))
    told = {f.asked_hz: f.taken for f in frequencies(swept.subject, swept.design)}  # type: ignore[arg-type]
    assert told[9500.0] is SweepVerdict.OFF
    assert told[17000.0] is SweepVerdict.GOOD


def test_the_header_of_a_box_holds_every_frequency() -> None:
    asked = must_know(boxed(one_by_one=True))
    steps = asked.regulation.steps(asked.subject, asked.design, asked.state.wanted_rpm, False)
    text = header(asked.subject, asked.design, steps, "ring")  # type: ignore[arg-type]
    assert "#define FAN_FREQUENCIES 57" in text
    assert text.count("UL, ") >= 57
    assert "{25000UL, 8, 79UL, 0}" in text
    assert "FAN_STAGGER_MS 1000UL" in text
    plain = must_know(usual(job()))
    assert "FAN_FREQUENCIES" not in header(plain.subject, plain.design, steps, "ring")  # type: ignore[arg-type]


def test_a_frequency_between_its_steps_is_refused() -> None:
    for hertz in (25.2e3, 1.5e3, 30.5e3):
        with pytest.raises(InputError, match="cannot be set") as caught:
            boxed(frequency_hz=hertz)
        assert caught.value.field == "frequency_hz"
    boxed(frequency_hz=24.5e3)
    boxed(box=BenchBox(step_hz=200.0), frequency_hz=25.2e3)
    with pytest.raises(InputError, match="too many"):
        BenchBox(step_hz=10.0)
    with pytest.raises(InputError):
        BenchBox(low_hz=5e3, high_hz=4e3)


def test_a_wide_supply_heats_the_logic_and_wants_parts_that_bear_it() -> None:
    # (60 − 5) V · 30 mA; 12 V: 0.21 W (both of the known answers of the logic supply).
    assert logic_loss_w(60.0, 0.03) == pytest.approx(1.65)
    assert logic_loss_w(12.0, 0.03) == pytest.approx(0.21)
    assert not part(boxed(), "VR").refusal
    wide = part(boxed(box=BenchBox(top_v=60.0)), "VR")
    assert "switching" in wide.refusal
    assert "75 V" in wide.limit_text
    cool = part(boxed(box=BenchBox(top_v=60.0), logic_switching=True), "VR")
    assert not cool.refusal
    # Power balance of the switching one: what goes in less what comes out.
    assert logic_loss_w(60.0, 0.03, True) == pytest.approx(5 * 0.03 / 0.85 - 5 * 0.03)
    # A narrower top than the job's own supply counts for nothing.
    assert "15 V" in part(boxed(box=BenchBox(top_v=5.0)), "VR").limit_text


def test_a_fan_of_its_own_counts_in_the_budget_and_against_its_output() -> None:
    assert not [p for p in frame(boxed()).parts if p.name == "M0"]
    small = boxed(box=BenchBox(own_fan_a=0.08))
    assert not part(small, "M0").refusal
    assert part(small, "VR").refusal
    assert "fan that takes less" in part(boxed(box=BenchBox(own_fan_a=0.8)), "M0").refusal


def test_a_track_too_thin_is_named_with_the_width_that_does() -> None:
    many = boxed(
        usual(job(commanded=replace(DATA, fans=10, limit_a=None))), box=BenchBox(track_mm=0.5, pin_a=10.0)
    )
    thin = part(many, "X")
    assert "mm at least" in thin.refusal
    wide = boxed(
        usual(job(commanded=replace(DATA, fans=10, limit_a=None))), box=BenchBox(track_mm=2.5, pin_a=10.0)
    )
    assert not part(wide, "X").refusal


def test_fans_that_start_one_by_one_ask_less_of_supply_and_pins() -> None:
    sheet = replace(DATA, fans=6, limit_a=2.0, limit_kind=LimitKind.HICCUP)
    together, apart = usual(job(commanded=sheet)), usual(job(commanded=sheet))
    assert isinstance(apart.design, DutyDesign)
    apart = replace(apart, design=replace(apart.design, one_by_one=True))
    fan = must_know(apart).subject
    # 6 × 0.25 A running; together twice that, one by one only one of them twice.
    assert budget(fan, False).starting_a == pytest.approx(3.0)  # type: ignore[arg-type, union-attr]
    assert budget(fan, True).starting_a == pytest.approx(1.75)  # type: ignore[arg-type, union-attr]
    assert "one after the other" in part(together, "PS").refusal
    assert not part(apart, "PS").refusal
    short = replace(apart, commanded=replace(sheet, limit_a=1.6))
    assert "does not start beside the others" in part(short, "PS").refusal
