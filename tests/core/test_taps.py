"""Winding taps as a way of regulating: which position feeds which tap, never two, idle leads, tap per duty."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import frame, why
from fenwit.core.frame.study import study
from fenwit.core.job.findings import Findings
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, SPEED
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.load.air import air_density_kg_m3, flow_from_rise_m3_s
from fenwit.core.methods.common.duty import Duty, DutySheet, duties
from fenwit.core.methods.seam import Missed
from fenwit.core.methods.winding_tap import WINDING_TAP
from fenwit.core.methods.winding_tap.design import TapsDesign, taps_circuit
from fenwit.core.methods.winding_tap.fan import TappedFan
from fenwit.core.methods.winding_tap.rating import rate
from fenwit.core.methods.winding_tap.search import usual
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.taps import StartBranch
from fenwit.core.operating import StepVerdict
from fenwit.core.size.switch import Switch
from tests.core.shapes import balance
from tests.core.test_frame import SWEEP, WALL
from tests.core.test_frame_identify import HALL

TAPS = TapsDesign((("low",), ("medium",), ("high",)), branch=StartBranch.WHOLE_SUPPLY)
BLOWER = replace(
    HALL,
    design=TAPS,
    wanted_rpm=(1100.0, 1200.0, 1300.0),
    sizing=replace(HALL.sizing, method=Method.WINDING_TAP),
)
SHEET = DutySheet(9000.0, 20.0, 42.0, 2, 15.0, 30.0, 820.0)


def tapped(state: JobState = BLOWER) -> TappedFan:
    found = WINDING_TAP.subject(state)
    assert isinstance(found, TappedFan)
    return found


# ---------------------------------------------------------------- the subject


def test_taps_want_found_leads_and_a_motor_that_has_them() -> None:
    bare = WINDING_TAP.subject(replace(BLOWER, findings=Findings(), readings=BLOWER.readings[-2:]))
    assert isinstance(bare, Lacking)
    assert bare.missing[0].field == "leads"
    assert isinstance(WINDING_TAP.subject(WALL), Refused)
    assert isinstance(WINDING_TAP.subject(SWEEP), Lacking)
    fan = tapped()
    assert [t.name for t in fan.taps] == ["high", "medium", "low"]
    assert fan.leads == ("R", "S", "T")
    assert fan.common == "Q"


def test_nothing_is_said_of_how_the_start_branch_hangs_until_somebody_knows() -> None:
    open_ = replace(BLOWER, design=replace(TAPS, branch=None))
    fan = tapped(open_)
    assert len(fan.branches(None)) == 2
    both = WINDING_TAP.steps(fan, open_.design, (), False)[0]  # type: ignore[arg-type]
    one = WINDING_TAP.steps(fan, TAPS, (), False)[0]
    assert both.bands[SPEED.key].low <= one.bands[SPEED.key].low
    assert both.bands[SPEED.key].half_width > one.bands[SPEED.key].half_width
    assert "start branch not known" in both.reasons[-1].words


# ---------------------------------------------------------------- never two at once, by the circuit


def test_each_position_closes_the_contact_of_its_tap() -> None:
    fan = tapped()
    circuit = taps_circuit(TAPS, fan.taps, 21.5)
    assert [sorted(p.closed) for p in circuit.positions] == [[], ["1.1"], ["1.2"], ["1.3"]]
    assert [(p.net_a, p.net_b) for p in circuit.parts if p.name.startswith("1.")] == [
        ("fed", "low"), ("fed", "medium"), ("fed", "high"),
    ]  # fmt: skip
    assert not rate(fan, TAPS).joined


def test_a_position_that_feeds_two_taps_is_barred_with_what_runs_round() -> None:
    wrong = replace(TAPS, positions=(("low",), ("low", "medium"), ("high",)))
    fan = tapped()
    steps = WINDING_TAP.steps(fan, wrong, BLOWER.wanted_rpm, False)
    assert [s.verdict for s in steps] == [StepVerdict.OK, StepVerdict.BARRED, StepVerdict.OK]
    assert "two taps alive" in steps[1].reasons[0].words
    assert steps[1].shown is None
    joined = rate(fan, wrong).at(2)
    assert joined is not None
    assert joined.alive.current_a > 1.0
    shown = frame(replace(BLOWER, design=wrong))
    assert "step 2 is barred" in shown.waits_for
    assert WINDING_TAP.where(fan, wrong, steps[1]) == "1.2 + 2.2"


def test_a_switch_that_makes_before_it_breaks_is_refused_by_what_its_circuit_does() -> None:
    bad = replace(TAPS, switch=Switch(positions=3, make_before_break=True, rated_voltage_v=400.0))
    rated = rate(tapped(), bad)
    assert [j.where for j in rated.joined] == ["1 to 2", "2 to 3"]
    assert all(j.passing for j in rated.joined)
    assert "take a switch that breaks first" in next(p.refusal for p in rated.parts if p.name == "S")


@pytest.mark.parametrize(
    ("change", "field", "reason"),
    [
        ({"positions": ()}, "positions", "one to six"),
        ({"positions": (("low",), ())}, "p2", "feeds nothing"),
        ({"positions": (("low", "low"),)}, "p1", "twice"),
        ({"switch": Switch(positions=2)}, "switch.positions", "3 steps need"),
        ({"fuse_a": 99.0}, "fuse_a", ""),
    ],
)
def test_a_switch_that_cannot_be(change: dict[str, object], field: str, reason: str) -> None:
    with pytest.raises(InputError) as caught:
        replace(TAPS, **change)  # type: ignore[arg-type]
    assert caught.value.field == field
    assert reason in str(caught.value)


def test_a_tap_the_motor_has_not_is_named() -> None:
    with pytest.raises(InputError, match="no such tap"):
        rate(tapped(), replace(TAPS, positions=(("turbo",),)))


# ---------------------------------------------------------------- idle leads, and through the frame


def test_unused_leads_are_capped_for_the_volts_they_stand_at() -> None:
    two = replace(TAPS, positions=(("low",), ("high",)))
    rated = rate(tapped(), two)
    assert rated.unused == ("medium",)
    # Fed at the fastest, the slower leads stand above the supply.
    assert rated.idle_v > 1.1 * 230
    shown = frame(replace(BLOWER, design=two))
    assert [p.name for p in shown.parts] == ["F", "S", "W", "K"]
    assert "S (medium)" in shown.parts[-1].text
    assert any("a cap of its own" in lug.text for lug in shown.wiring)
    low_gap = replace(two, switch=Switch(positions=2, rated_voltage_v=250.0))
    assert "under-rated" in next(p.refusal for p in rate(tapped(), low_gap).parts if p.name == "S")


def test_a_job_on_taps_is_told_like_any_other() -> None:
    shown = frame(BLOWER)
    assert [m.label for m in shown.marks] == ["low", "medium", "high"]
    speeds = [m.predicted.value for m in shown.marks if m.predicted]
    assert len(speeds) == 3
    assert all(a < b for a, b in pairwise(speeds))
    for path in shown.paths:
        into, out = balance(path)
        assert into == pytest.approx(out, rel=1e-6)
    assert {"two-taps", "idle-leads"} <= {c.key for c in shown.cautions}
    assert len(shown.spreads) == 3
    plot = study(BLOWER).plot
    assert plot is not None
    assert len(plot.motors) == 3
    assert shown.aims[0].needed_text == "low tap"
    assert WINDING_TAP.reach(tapped()).points[0].at == 1.0


def test_every_number_of_it_explains_itself() -> None:
    shown = frame(BLOWER)
    for of in ["speed", "turns", "amps", "idle-volts", "watts", "motor-heat", "needed", "start"]:
        assert why(BLOWER, f"step:1:{of}").numbers
    for part in shown.parts:
        for s in part.stresses:
            assert why(BLOWER, f"part:{part.name}:{s.burden}").equation
    assert why(BLOWER, "part:F:value").numbers
    with pytest.raises(InputError):
        why(BLOWER, "part:S:value")


def test_the_usual_switch_feeds_the_nearest_taps() -> None:
    fan = tapped()
    assert usual(fan, BLOWER.wanted_rpm, BLOWER).positions == (("low",), ("medium",), ("high",))
    assert usual(fan, (1290.0,), BLOWER).positions == (("high",),)
    assert usual(fan, (600.0, 1295.0), BLOWER).positions == (("low",), ("high",))
    far = WINDING_TAP.ideal(fan, (600.0,), False)[0]
    assert far.need is not None
    assert "nothing between" in far.need.reason


def test_what_a_miss_points_to() -> None:
    fan = tapped()
    steps = WINDING_TAP.steps(fan, TAPS, BLOWER.wanted_rpm, False)
    ran = [s.shown.speed_rpm for s in steps if s.shown]

    def said(number: int, value: float, quantity=SPEED, low: bool = True) -> str:  # type: ignore[no-untyped-def]
        return WINDING_TAP.missed(fan, TAPS, steps[number - 1], Missed(quantity, value, low, True))

    assert "may be live" in said(1, 0.0)
    assert "high tap were fed" in said(1, ran[2], low=False)
    assert "the fan itself is sound" in said(1, ran[0] * 0.7)
    assert "two taps alive" in said(2, 9.0, LINE_CURRENT, low=False)


# ---------------------------------------------------------------- tap per duty


def test_air_from_a_temperature_rise() -> None:
    """*Independent*: 820 m, 20 °C → 1.0916 kg/m³; 9.4 kW and 22 K → 0.38909 m³/s."""
    density = air_density_kg_m3(820.0, 20.0)
    assert density == pytest.approx(1.0916, abs=5e-5)
    assert flow_from_rise_m3_s(9400.0, 22.0, density) == pytest.approx(0.38909, abs=5e-5)
    for bad in ((0.0, 22.0), (9400.0, 0.0)):
        with pytest.raises(InputError):
            flow_from_rise_m3_s(*bad, density)


def test_a_tap_for_each_duty() -> None:
    fan = tapped()
    steps = WINDING_TAP.steps(fan, TAPS, BLOWER.wanted_rpm, False)
    found = duties(fan, SHEET, steps)
    picks = {duty: step for duty, step, _ in found.picks}
    assert picks[Duty.COOLING] == 3
    assert picks[Duty.CIRCULATION] == 1
    assert picks[Duty.HEATING] in (1, 2, 3)
    flows = [sum(s.flow_m3_s) / 2 for s in found.steps]
    assert all(a < b for a, b in pairwise(flows))
    rises = [sum(s.rise_k) / 2 for s in found.steps]
    assert all(a > b for a, b in pairwise(rises))
    # At the step that was read the same rise comes out again, within its own doubt.
    assert found.steps[1].rise_k[0] < 22.0 < found.steps[1].rise_k[1]
    narrow = duties(fan, replace(SHEET, rise_low_k=40.0, rise_high_k=45.0), steps)
    heating = next(p for p in narrow.picks if p[0] is Duty.HEATING)
    assert heating[1] is None
    assert "no step" in heating[2]
    with pytest.raises(InputError, match="not all of it"):
        duties(fan, DutySheet(9000.0), steps)
    with pytest.raises(InputError, match="does not run"):
        duties(fan, replace(SHEET, at_step=7), steps)
    (annex,) = WINDING_TAP.annexes(fan, replace(TAPS, duty=SHEET), steps)
    assert any(line.startswith("cooling: step 3") for line in annex.lines)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"supply_c": 20.5}, "supply_c"),
        ({"heat_w": 0.0}, "heat_w"),
        ({"rise_high_k": 10.0}, "rise_high_k"),
        ({"at_step": 0}, "at_step"),
        ({"altitude_m": 20000.0}, "altitude_m"),
    ],
)
def test_a_duty_sheet_that_cannot_be(change: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as caught:
        replace(SHEET, **change)
    assert caught.value.field == field
