"""Fans with electronics of their own: duty on the lead, lowered volts, a chopped supply, from map to verdict."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.caution import Stage
from fenwit.core.errors import InputError
from fenwit.core.frame import JobState, Nameplate, frame, live
from fenwit.core.frame.asked import as_by, must_know
from fenwit.core.frame.choose import choose
from fenwit.core.frame.why import explain
from fenwit.core.job.commanded import Commanded, CommandSheet, OpenLead
from fenwit.core.job.state import InLine, RunState, check_supply, commanded_of, with_usual_method
from fenwit.core.job.steps import PlaceKind
from fenwit.core.methods import of
from fenwit.core.methods.chopped_supply.design import ChopDesign, Tach
from fenwit.core.methods.chopped_supply.steps import setting as chopped
from fenwit.core.methods.chopped_supply.steps import tach_words
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.pwm.design import Controller, Drive, DutyDesign, Maker, PickedBy, TimerParts
from fenwit.core.methods.pwm.parts import discharge_a, gate_ohm
from fenwit.core.methods.pwm.program import header, plan_lines, table
from fenwit.core.methods.pwm.search import centred, one_shot_parts
from fenwit.core.methods.pwm.signal import safe_pull, setting, tolerances, travelled
from fenwit.core.methods.seam import Missed, ZoneKind
from fenwit.core.motor.duty import Below, polarity
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.operating import StepVerdict
from fenwit.core.regulator.direct_supply import ohm_for
from tests.core.test_frame import place

PLATE = Nameplate(rated_voltage_v=12.0, rated_speed_rpm=2400.0, rated_current_a=0.25)
DATA = CommandSheet(
    slowest_rpm=600.0, least_duty=0.2, inverted=False, pull_up_ohm=4.7e3, fans=3, limit_a=2.0, lead_m=2.0
)


def job(method: Method = Method.PWM, kind: MotorKind = MotorKind.DC_4_WIRE, **more: object) -> JobState:
    state = JobState(kind, PLATE, 12.0, 50.0, wanted_rpm=(900.0, 1500.0, 2400.0), commanded=DATA)
    return as_by(replace(state, **more), method)  # type: ignore[arg-type]


def usual(state: JobState) -> JobState:
    asked = must_know(state)
    return replace(state, design=asked.regulation.usual(asked.subject, state.wanted_rpm, state))


THREE = MotorKind.DC_3_WIRE
STATES = [job(), job(Method.DC_VOLTAGE), job(Method.CHOPPED_SUPPLY, THREE), job(Method.DC_VOLTAGE, THREE)]


@pytest.mark.parametrize("state", STATES)
def test_the_usual_design_makes_the_wanted_speeds(state: JobState) -> None:
    found = frame(usual(state))
    assert [m.verdict for m in found.marks] == [StepVerdict.OK] * 3
    for mark, rpm in zip(found.marks, state.wanted_rpm, strict=True):
        assert mark.predicted is not None
        assert mark.predicted.value == pytest.approx(rpm, rel=0.02)
        assert mark.predicted.low is not None
        assert mark.predicted.low < rpm < (mark.predicted.high or 0) * 1.001
    assert found.parts
    assert not [p for p in found.parts if p.refusal]
    for path in found.paths:
        supply, regulator, blades = (
            place(path, k) for k in (PlaceKind.SUPPLY, PlaceKind.REGULATOR, PlaceKind.BLADES)
        )
        # Watts of the supply are those of the fans and of what stands between.
        assert supply.power_w == pytest.approx(blades.power_w + regulator.loss_w)
    assert {r.key.value for r in found.rules} == {"lowest", "evenness", "bands-apart", "doubt"}


@pytest.mark.parametrize("state", STATES)
def test_every_number_explains_itself(state: JobState) -> None:
    built = usual(state)
    asked, shown = must_know(built), frame(built)
    for path in shown.paths:
        for spot in path.places:
            for told in (*spot.values, *([spot.loss] if spot.loss else [])):
                if told.why:
                    why = explain(asked, f"step:{path.step}:{told.why}")
                    assert why.numbers, told
    for part in shown.parts:
        for stress in part.stresses:
            assert explain(asked, f"part:{part.name}:{stress.burden}").value == stress.text
    with pytest.raises(InputError):
        explain(asked, "part:moon:value")


@pytest.mark.parametrize("state", STATES)
def test_a_drag_frame_follows(state: JobState) -> None:
    shown = live(replace(state, wanted_rpm=(1000.0, 1600.0, 2400.0)))
    assert [round(m.predicted.value) for m in shown.marks if m.predicted] == [1000, 1600, 2400]


def test_readings_replace_what_is_usual_step_by_step() -> None:
    bare = job(commanded=CommandSheet())
    assert "as usual for such fans" in " ".join(frame(bare).assumptions)
    assert "nobody" in " ".join(frame(bare).assumptions) or "find out" in " ".join(frame(bare).assumptions)
    typed = frame(job())
    runs = tuple(
        RunState(i, InLine.DUTY, d, (("speed_rpm", n),))
        for i, (d, n) in enumerate([(0.25, 700.0), (0.5, 1350.0), (0.75, 1950.0), (1.0, 2400.0)], start=1)
    )
    read = frame(job(runs=runs))
    widths = [f.marks[1].predicted for f in (frame(bare), typed, read)]
    halves = [(w.high or 0) - (w.low or 0) for w in widths if w]
    assert halves[0] > halves[1] > halves[2]
    assert "4 readings" in read.assumptions[0]
    # Nothing is known below the readings.
    low = frame(job(runs=runs, wanted_rpm=(650.0, 1500.0)))
    assert low.aims[0].reason.startswith("nobody read it below 700 rpm")
    assert any(z.kind is ZoneKind.GAP for z in low.zones)


def test_a_map_that_is_not_monotone_names_the_pair() -> None:
    pairs = [(0.2, 520.0), (0.4, 1100.0), (0.6, 900.0), (1.0, 2400.0)]
    runs = tuple(RunState(i, InLine.DUTY, d, (("speed_rpm", n),)) for i, (d, n) in enumerate(pairs, start=1))
    assert "read it again" in frame(job(runs=runs)).assumptions[-1]


@pytest.mark.parametrize("inverted", [False, True])
@pytest.mark.parametrize("stages", [0, 1, 2])
@pytest.mark.parametrize("maker", [Maker.MICROCONTROLLER, Maker.STEERED, Maker.ONE_SHOT])
def test_inverted_leads_and_stages_cancel(inverted: bool, stages: int, maker: Maker) -> None:
    state = job(commanded=replace(DATA, inverted=inverted, pull_up_ohm=None), wanted_rpm=(1500.0,))
    fan = of(Method.PWM).subject(state)
    asked = 0.6 if not inverted else 0.4
    design = DutyDesign(maker, (asked,), stages=stages)
    if maker is Maker.ONE_SHOT:
        design = replace(design, timer=one_shot_parts(design))
    found = setting(fan, design, asked)
    assert found.made == pytest.approx(asked, abs=0.012)
    speed = frame(replace(state, design=design)).marks[0].predicted
    assert speed is not None
    assert speed.value == pytest.approx(1500, rel=0.03)


def test_the_late_edge_is_made_up_for() -> None:
    fan = of(Method.PWM).subject(job())
    design = usual(job()).design
    assert isinstance(design, DutyDesign)
    exact = fan.speeds.command_for(900.0).command
    # 0.79 µs behind 4.7 kΩ and 330 pF: 2 % at 25 kHz.
    assert design.duties[0] - exact == pytest.approx(0.0198, abs=2e-4)
    assert setting(fan, design, design.duties[0]).seen == pytest.approx(exact, abs=0.007)
    pushed = replace(design, drive=Drive.PUSH_PULL)
    assert setting(fan, pushed, 0.5).seen == setting(fan, pushed, 0.5).made


def test_steps_on_one_compare_value_and_frequencies_outside_the_band_are_told() -> None:
    design = DutyDesign(Maker.MICROCONTROLLER, (0.500, 0.503, 1.0))
    found = frame(job(design=design))
    assert "the same setting as step 2" in " ".join(found.marks[0].reasons)
    slow = frame(job(design=replace(design, frequency_hz=2e3)))
    assert "ripples" in " ".join(slow.marks[0].reasons)
    with pytest.raises(InputError, match="no setting of this timer"):
        frame(job(design=replace(design, frequency_hz=100e3, controller=Controller(clock_hz=200e3))))


def test_what_stops_below_its_least_duty_needs_a_kick() -> None:
    state = job(commanded=replace(DATA, below=Below.STOPS, pull_up_ohm=None))
    found = frame(replace(state, design=DutyDesign(Maker.MICROCONTROLLER, (0.1, 0.25, 1.0))))
    assert found.marks[0].verdict is StepVerdict.DOES_NOT_START
    assert "it stops" in found.marks[0].reasons[0]
    assert "holds, does not start" in " ".join(found.marks[1].reasons)
    assert ZoneKind.NO_START in [z.kind for z in found.zones]


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"duties": (1.4,)}, "duties"),
        ({"duties": ()}, "duties"),
        ({"frequency_hz": 0.0}, "frequency_hz"),
        ({"drive": Drive.PUSH_PULL, "high_v": 12.0}, "high_v"),
        ({"stages": 9}, "stages"),
    ],
)
def test_a_signal_that_cannot_be_is_refused(values: dict[str, object], field: str) -> None:
    with pytest.raises(InputError) as refused:
        replace(DutyDesign(Maker.MICROCONTROLLER, (0.5,)), **values)
    assert refused.value.field == field


def test_a_supply_above_the_limit_is_refused_and_pulses_cannot_be_nought() -> None:
    with pytest.raises(InputError, match="kill the fan's electronics") as refused:
        check_supply(replace(job(), supply_voltage_v=24.0))
    assert refused.value.field == "supply_voltage"
    assert frame(replace(job(), supply_voltage_v=24.0)).waits_for.startswith(
        "needs the volts of its DC supply"
    )
    with pytest.raises(InputError) as refused:
        CommandSheet(pulses_per_rev=0.0)
    assert refused.value.field == "pulses_per_rev"


# ---------------------------------------------------------------- timers, program


def test_a_capacitor_is_picked_that_centres_the_band() -> None:
    design = DutyDesign(Maker.STEERED, (0.5,), timer=TimerParts(capacitance_f=2.2e-9))
    better = centred(design)
    over = travelled(replace(design, timer=better), np.array([0.0, 0.5, 1.0]))
    assert 21e3 < over.frequency_hz[1] < 28e3
    # A bipolar output that drives the pot: no capacitor holds the band over the whole travel.
    bipolar = replace(design, timer=replace(better, rail_to_rail=False))
    ends = travelled(bipolar, np.array([0.0, 1.0])).frequency_hz
    assert ends.max() / ends.min() > 28 / 21


def test_tolerances_over_the_travel() -> None:
    parts = TimerParts(capacitance_f=470e-12, saturation_v=0.0, delay_s=0.0, stray_f=0.0)
    found = tolerances(DutyDesign(Maker.STEERED, (0.5,), timer=parts), 4000)
    # Independent prototype: 22.0 – 26.9 – 33.5 kHz at mid travel.
    assert found.frequency_hz[:, 25] / 1e3 == pytest.approx([22.0, 26.9, 33.5], rel=0.02)
    assert (np.diff(found.frequency_hz, axis=0) > 0).all()
    quick = tolerances(DutyDesign(Maker.STEERED, (0.5,), timer=parts), 500)
    assert quick.frequency_hz[:, 25] == pytest.approx(found.frequency_hz[:, 25], rel=0.03)


@pytest.mark.parametrize("picked", PickedBy)
def test_the_header_makes_the_duties_it_says(picked: PickedBy) -> None:
    state = usual(job())
    design = replace(state.design, controller=Controller(picked_by=picked))  # type: ignore[type-var]
    fan = of(Method.PWM).subject(state)
    steps = of(Method.PWM).steps(fan, design, state.wanted_rpm, False)
    text = header(fan, design, steps, "Ring */ one")
    assert "Ring * / one" in text
    assert "#define FAN_TOP 79" in text
    assert text.count("/* step ") == 3
    rows = table(steps)
    # By the rule in the header: the pin makes 1 − duty through one stage.
    for row in rows[:2]:
        assert (int(row[3]) + 1) / 80 == pytest.approx(1 - float(row[4]))
    assert rows[2][3] == ""
    assert "FAN_OFF, /* step 3" in text
    if picked is PickedBy.DIP:
        assert "fan_step_of_code[4] = {0, 0, 1, 2}" in text
    assert all(ord(c) < 127 for c in text)


def test_power_up_and_reset_stand_at_full_speed() -> None:
    for inverted in (False, True):
        for stages in (0, 1):
            state = job(commanded=replace(DATA, inverted=inverted, pull_up_ohm=None))
            fan = of(Method.PWM).subject(state)
            design = DutyDesign(Maker.MICROCONTROLLER, (0.5,), stages=stages)
            steps = of(Method.PWM).steps(fan, design, (1500.0,), False)
            pull = "pull-up" if "Fit a pull-up" in header(fan, design, steps, "x") else "pull-down"
            lead_high = (pull == "pull-up") != (stages == 1)
            # High on the lead is full speed of a normal fan, low that of an inverted one.
            assert lead_high is not inverted


@given(st.floats(100, 3000), st.floats(-400, 400))
def test_polarity_is_told_only_where_it_can_be(at_half: float, apart: float) -> None:
    found = polarity([(0.6, at_half + apart), (0.5, at_half)], 20.0)
    assert (found.inverted is None) == (abs((at_half + apart) - at_half) < 3 * np.sqrt(2) * 20)
    if found.inverted is None:
        assert found.next_duty == 0.7
    else:
        assert found.inverted == (apart < 0)


def test_polarity_begins_at_half_duty_and_goes_on_until_the_speeds_lie_apart() -> None:
    assert polarity([], 12.0).next_duty == 0.5
    assert polarity([(0.9, 2000.0)], 12.0).next_duty == 0.5
    assert polarity([(0.5, 1400.0)], 12.0).next_duty == 0.6
    close = [(0.5, 1400.0), (0.5, 1404.0), (0.6, 1410.0)]
    assert polarity([*close, (0.7, 1420.0), (0.8, 1430.0)], 12.0).next_duty is None
    told = polarity([*close, (0.7, 1100.0)], 12.0)
    assert (told.inverted, told.half_rpm, told.later) == (True, 1402.0, (0.7, 1100.0))


def test_the_plan_asks_for_what_this_fan_leaves_open() -> None:
    def plan(sheet: CommandSheet, hertz: float = 25e3) -> str:
        state = job(commanded=sheet)
        return " ".join(plan_lines(of(Method.PWM).subject(state), DutyDesign(Maker.BENCH, (0.5,), hertz)))

    assert "Polarity" not in plan(DATA)
    assert "Begin at 50 %" in plan(replace(DATA, inverted=None))
    assert "Sweep" not in plan(DATA)
    assert "1, 2, 5, 10, 15, 20, 25, 30 kHz" in plan(DATA, 12e3)
    assert "it must run at full speed" in plan(DATA)
    assert "no safe state" in plan(replace(DATA, open_lead=OpenLead.STOPS))
    # Two periods at the slowest speed, where that is more than a second: 600 rpm give an edge every 0.05 s.
    assert "No pulse for 1 s" in plan(DATA)
    assert "No pulse for 2.4 s" in plan(replace(DATA, pulses_per_rev=0.5, slowest_rpm=100.0))


def test_misses_point_to_their_cause() -> None:
    state = usual(job())
    room, fan = of(Method.PWM), of(Method.PWM).subject(state)
    steps = room.steps(fan, state.design, state.wanted_rpm, False)
    speed = steps[0].shown.speed_rpm if steps[0].shown else 0.0

    def said(rpm: float) -> str:
        return room.missed(fan, state.design, steps[0], Missed(room.quantities[0], rpm, rpm < speed, False))

    assert "ratio of 4 to 2 pulses" in said(2 * speed)
    assert "lead open" in said(2390.0)
    assert "stands, or its tachometer" in said(0.0)


# ---------------------------------------------------------------- lowered volts, chopping


def test_a_resistor_that_holds_but_does_not_start_is_told_and_a_regulator_starts() -> None:
    state = job(Method.DC_VOLTAGE, THREE, commanded=CommandSheet(start_v=6.0, hold_v=4.2))
    found = frame(replace(state, design=VoltsDesign(Way.RESISTOR, (47.0, 22.0, 0.0))))
    # Known answers of the card: 47 Ω leaves 6.889 V and 1284.9 rpm, 4.06 V to a fan that stands.
    assert found.marks[0].predicted is not None
    assert found.marks[0].predicted.value == pytest.approx(1284.9, abs=0.5)
    assert "does not start: standing it gets 4.06 V" in " ".join(found.marks[0].reasons)
    assert not found.marks[1].reasons
    stands = frame(replace(state, design=VoltsDesign(Way.RESISTOR, (220.0, 22.0, 0.0))))
    assert stands.marks[0].verdict is StepVerdict.DOES_NOT_START
    regulated = frame(replace(state, design=VoltsDesign(Way.SWITCHING, (6.9, 8.8, 12.0))))
    assert not regulated.marks[0].reasons


def test_one_reading_at_lowered_volts_replaces_the_usual_line() -> None:
    state = job(Method.DC_VOLTAGE, THREE)
    run = RunState(1, InLine.VOLTAGE, 7.0, (("speed_rpm", 1450.0), ("line_current_a", 0.10)))
    usual_band, read = (frame(replace(state, runs=r, wanted_rpm=(1450.0,))) for r in ((), (run,)))
    assert read.aims[0].needed_text == "7 V"
    assert usual_band.aims[0].needed_text != "7 V"
    first, second = usual_band.marks[0].predicted, read.marks[0].predicted
    assert first is not None
    assert second is not None
    assert (second.high or 0) - (second.low or 0) < (first.high or 0) - (first.low or 0)


def test_a_chopped_tachometer_reads_no_speed_and_stretching_raises_the_duty() -> None:
    fan = of(Method.CHOPPED_SUPPLY).subject(job(Method.CHOPPED_SUPPLY, THREE, commanded=CommandSheet()))
    raw = ChopDesign((0.5, 1.0), 100.0, filtered=False, tach=Tach.STRETCHED)
    assert "no speed" not in " ".join(tach_words(fan, replace(raw, filtered=True)))
    assert "its edges are those of the chopping" in tach_words(fan, raw)[0]
    assert chopped(fan, raw, 0.5).mean_duty > 0.5
    assert chopped(fan, replace(raw, tach=Tach.NONE), 0.5).mean_duty == 0.5
    wide = frame(job(Method.CHOPPED_SUPPLY, THREE, design=replace(raw, tach=Tach.NONE)))
    close = frame(job(Method.CHOPPED_SUPPLY, THREE, design=ChopDesign((0.5, 1.0))))
    bands = [f.marks[0].predicted for f in (wide, close)]
    assert bands[0] is not None
    assert bands[1] is not None
    assert (bands[0].high or 0) - (bands[0].low or 0) > (bands[1].high or 0) - (bands[1].low or 0)


def test_a_control_lead_is_never_chopped() -> None:
    found = frame(job(Method.CHOPPED_SUPPLY))
    assert "upsets its electronics" in found.refused


def test_both_schools_stand_side_by_side() -> None:
    rows = {r.name: r for r in choose(job()).rows}
    assert {"duty on the control lead", "switching regulator"} <= set(rows)
    lead, volts = rows["duty on the control lead"], rows["switching regulator"]
    assert lead.live.marks[0].predicted is not None
    assert volts.live.marks[0].predicted is not None
    assert lead.live.marks[0].predicted.value == pytest.approx(volts.live.marks[0].predicted.value, rel=0.02)
    rise = next(m for m in lead.merits if m.key.value == "rise")
    assert rise.text == "unknown"


def test_a_kind_brings_its_own_method_where_none_was_picked() -> None:
    state = replace(job(), sizing=replace(job().sizing, method=Method.SERIES_CAPACITOR))
    assert with_usual_method(state).method is Method.PWM
    assert with_usual_method(replace(state, kind=MotorKind.PSC)).method is Method.SERIES_CAPACITOR
    assert with_usual_method(replace(state, kind=THREE)).method is Method.DC_VOLTAGE


VOLTS = st.floats(6.5, 11.5)
AMPS = st.floats(0.05, 1.0)


@given(VOLTS, AMPS, st.floats(0.5, 0.98), st.integers(1, 6), st.sampled_from(Way))
def test_power_balances_whatever_lowers_the_volts(
    volts: float, amps: float, efficiency: float, fans: int, way: Way
) -> None:
    plate = replace(PLATE, rated_current_a=amps)
    state = job(Method.DC_VOLTAGE, commanded=replace(DATA, fans=fans, limit_a=None), nameplate=plate)
    fan = must_know(state).subject
    ohm = ohm_for(fan.direct, 12.0, volts, fans)
    design = VoltsDesign(way, (ohm if way is Way.RESISTOR else volts,), efficiency)
    (step,) = of(Method.DC_VOLTAGE).steps(fan, design, (), False)
    assert step.shown is not None
    path = {p.kind: p for p in step.shown.places}
    band = step.bands["line_current_a"]
    drawn = 12.0 * (band.low + band.high) / 2
    # What the supply gives is what the fans take and what stays in between, by the supply's own amps too.
    assert path[PlaceKind.SUPPLY].power_w == pytest.approx(
        path[PlaceKind.BLADES].power_w + path[PlaceKind.REGULATOR].loss_w, rel=1e-6
    )
    assert drawn == pytest.approx(path[PlaceKind.SUPPLY].power_w, rel=1e-6)
    if way is Way.SWITCHING:
        assert path[PlaceKind.BLADES].power_w == pytest.approx(efficiency * drawn, rel=1e-6)


@given(st.floats(0.55, 0.99), st.booleans())
def test_speed_rises_with_the_duty_of_a_chopped_supply(duty: float, filtered: bool) -> None:
    state = job(Method.CHOPPED_SUPPLY, THREE)
    room, fan = of(Method.CHOPPED_SUPPLY), must_know(state).subject
    slow, fast = room.steps(fan, ChopDesign((duty, min(1.0, duty + 0.01)), filtered=filtered), (), False)
    assert slow.shown is not None
    assert fast.shown is not None
    assert slow.shown.speed_rpm < fast.shown.speed_rpm
    assert slow.speed_band is not None
    assert (slow.speed_band.half_width > 0.1 * fan.full_rpm) is not filtered


@pytest.mark.parametrize("volts", [12.0, 24.0, 60.0])
def test_the_heat_of_the_logic_is_that_of_its_regulator(volts: float) -> None:
    """*Chapter 7*: 30 mA for 5 V take 0.21 W out of 12 V and 1.65 W out of 60 V."""
    plate = replace(PLATE, rated_voltage_v=volts)
    state = job(supply_voltage_v=volts, nameplate=plate)
    (row,) = of(Method.PWM).compared(must_know(state).subject, state, False)
    assert row.merits.hottest_w == pytest.approx((volts - 5) * 0.03)
    assert row.merits.hottest.startswith("logic regulator")


@pytest.mark.parametrize("state", STATES)
def test_the_curve_is_listed_with_its_band_and_the_staff_says_where_it_stops(state: JobState) -> None:
    asked = must_know(state)
    (listed,) = asked.regulation.tables(asked.subject, ())
    columns = [c.name for c in listed.columns]
    assert columns[1:4] == ["speed", "low", "high"]
    rows = [[float(cell) for cell in row[:4]] for row in listed.rows]
    assert all(low <= speed <= high for _, speed, low, high in rows)
    assert [r[1] for r in rows] == sorted(r[1] for r in rows)
    drawn = asked.regulation.reach(asked.subject)
    assert len(drawn.points) == len(drawn.band) == 101
    assert drawn.points[-1].speed_rpm == pytest.approx(asked.full_rpm, rel=1e-6)
    for zone in asked.regulation.zones(asked.subject, None):
        assert zone.low_rpm < zone.high_rpm


def test_a_pot_without_diodes_moves_the_frequency_with_the_duty() -> None:
    """14.0 kHz at 50 %, 27.2 kHz at 98 %: wiper on the discharge pin, 1 kΩ ends, 50 kΩ, 1 nF."""
    parts = TimerParts(
        high_ohm=1e3, low_ohm=1e3, pot_ohm=50e3, capacitance_f=1e-9, saturation_v=0.0, delay_s=0.0, stray_f=0.0
    )  # fmt: skip
    design = DutyDesign(Maker.PLAIN, (0.6,), stages=0, timer=parts)
    over = travelled(design)
    assert over.frequency_hz[[0, -1]] == pytest.approx([14.0e3, 27.2e3], rel=5e-3)
    assert over.duty[[0, -1]] == pytest.approx([52 / 103, 52 / 53], rel=1e-6)
    assert (np.diff(over.duty) > 0).all()
    # The one with diodes keeps its frequency over the travel within a few per cent.
    steady = travelled(replace(design, maker=Maker.STEERED)).frequency_hz
    assert steady.max() / steady.min() < 1.1 < over.frequency_hz.max() / over.frequency_hz.min()
    # Through an inverting stage the fan gets the other side.
    turned = travelled(replace(design, stages=1))
    assert turned.duty == pytest.approx(1 - over.duty)
    drawn = tolerances(design)
    middle = np.interp(drawn.travel, over.travel, over.frequency_hz)
    assert (drawn.frequency_hz[0] < middle).all()
    assert (drawn.frequency_hz[2] > middle).all()


def test_a_duty_beyond_the_pots_travel_is_told_with_what_it_makes() -> None:
    design = DutyDesign(Maker.PLAIN, (0.3, 0.9), stages=1, timer=TimerParts(capacitance_f=330e-12))
    first, second = frame(job(design=design)).marks[:2]
    assert not any("its pot makes" in r for r in first.reasons)
    assert any("nearest to 90 %" in r for r in second.reasons)


def test_a_timer_ic_is_held_to_what_its_pins_bear() -> None:
    def of_timer(maker: Maker, **more: float) -> DutyDesign:
        return DutyDesign(maker, (0.5,), timer=TimerParts(**more))  # type: ignore[arg-type]

    # By hand, 12 V: 8 V over 1 kΩ; with 12 V over 101 kΩ beside it; 12 V over 1 kΩ of a one-shot.
    assert discharge_a(of_timer(Maker.STEERED)) == pytest.approx(8e-3)
    assert discharge_a(of_timer(Maker.PLAIN)) == pytest.approx(12e-3 + 8 / 101e3)
    assert discharge_a(of_timer(Maker.ONE_SHOT)) == pytest.approx(12e-3)
    thin = replace(job(), design=of_timer(Maker.STEERED, low_ohm=33.0))
    row = next(p for p in frame(thin).parts if p.name == "U")
    assert "larger end resistors" in row.refusal
    assert explain(must_know(thin), "part:U:discharge").value == row.stresses[0].text
    # 12 V over half of 200 mA: 120 Ω, the next E12; a bipolar output stays 1.5 V lower.
    assert gate_ohm(of_timer(Maker.STEERED)) == 120.0
    assert gate_ohm(of_timer(Maker.STEERED, rail_to_rail=False)) == 120.0
    assert gate_ohm(of_timer(Maker.STEERED, supply_v=5.0)) == 56.0
    assert [p.bench for p in frame(thin).parts if p.name == "RG"] == ["120R"]
    pushed = replace(thin, design=replace(of_timer(Maker.STEERED), drive=Drive.PUSH_PULL))
    assert not [p for p in frame(pushed).parts if p.name == "RG"]


def test_the_plan_tells_what_the_tachometer_resolves() -> None:
    asked = must_know(usual(job()))
    lines = " ".join(plan_lines(asked.subject, asked.design))  # type: ignore[arg-type]
    # 60/(2 · 1 s), and 2400² · 2/(60 · 250 kHz).
    assert "resolves 30 rpm" in lines
    assert "0.77 rpm at full speed" in lines


FALLING = CommandSheet(duties=(0.0, 0.5, 0.9), speeds_rpm=(2400.0, 1400.0, 700.0))


def test_a_falling_data_sheet_says_which_way_round_by_itself() -> None:
    """Nobody typed its sense: full speed stands at no duty, and the pull must leave the lead there."""
    state = usual(job(commanded=FALLING))
    asked = must_know(state)
    assert isinstance(state.design, DutyDesign)
    assert not asked.subject.rising
    assert state.design.duties[-1] == 0.0
    assert frame(state).marks[-1].predicted is not None
    # One stage turns it over: a high pin pulls the lead low, which is full speed of this fan.
    assert safe_pull(asked.subject, state.design) == "pull-up"
    assert not any("begin at 50 %" in g for g in asked.subject.assumptions)


@pytest.mark.parametrize("typed", [False, True])
def test_a_map_counts_before_a_sense_that_contradicts_it(typed: bool) -> None:
    state = job(commanded=replace(FALLING, inverted=typed))
    known = commanded_of(state)
    assert isinstance(known, Commanded)
    assert known.inverted
    assert known.contradicted is not typed
    told = any("typed the other way round" in a for a in frame(usual(state)).assumptions)
    assert told is not typed
    # Readings count before the data sheet, once they lie apart.
    runs = tuple(
        RunState(i, InLine.DUTY, d, (("speed_rpm", n),))
        for i, (d, n) in enumerate(((0.3, 900.0), (0.7, 1900.0)))
    )
    read = commanded_of(replace(state, runs=runs))
    assert isinstance(read, Commanded)
    assert not read.inverted
    assert read.contradicted is typed


def test_full_speed_beyond_a_map_is_its_fastest_end() -> None:
    sheet = replace(FALLING, duties=(0.1, 0.5, 0.9))
    state = usual(job(commanded=sheet))
    last = frame(state).marks[-1].predicted
    assert last is not None
    assert last.value == pytest.approx(2400.0, rel=0.02)


@pytest.mark.parametrize("state", STATES)
def test_the_cautions_of_a_dc_fan_are_shown_before_it_is_fed(state: JobState) -> None:
    bare = {c.key: c for c in frame(replace(state, design=None)).cautions}
    for key in ("supply-polarity", "held-blades"):
        assert Stage.MEASURE in bare[key].stages
    assert not {"isolate", "line-potential", "bench-supply"} & bare.keys()


def test_what_a_way_of_feeding_brings_is_cautioned_on_low_volts_too() -> None:
    def keys(state: JobState) -> set[str]:
        return {c.key for c in frame(state).cautions}

    assert "control-lead" in keys(usual(job()))
    assert "control-lead" not in keys(job())
    volts = usual(job(Method.DC_VOLTAGE))
    assert "hot-resistors" not in keys(volts)
    assert "hot-resistors" in keys(replace(volts, design=VoltsDesign(Way.RESISTOR, (47.0, 22.0, 0.0))))
    chopped = usual(job(Method.CHOPPED_SUPPLY, THREE))
    assert isinstance(chopped.design, ChopDesign)
    assert "chopped-tach" in keys(replace(chopped, design=replace(chopped.design, filtered=False)))
    assert "chopped-tach" not in keys(replace(chopped, design=replace(chopped.design, filtered=True)))
