"""One job computed: what the screen shows, from what is known."""

from __future__ import annotations

import importlib
from dataclasses import replace

import numpy as np
import pytest

from fenwit.core.calibrate.bands import step_bands
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, Nameplate, Proof, frame, live, reach
from fenwit.core.frame.steps import even_speeds
from fenwit.core.frame.study import study
from fenwit.core.job.state import InLine, RunState
from fenwit.core.job.steps import PlaceKind
from fenwit.core.methods.seam import ReachState, ZoneKind
from fenwit.core.methods.series_capacitor.banks import banks
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.reach import barred_at
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.operating import StepVerdict, solve
from fenwit.core.prove.verdict import Verdict
from fenwit.core.regulator.series import capacitor_impedance
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import PartClass
from fenwit.core.size.profile import RuleKey
from fenwit.core.size.sizing import Sizing
from fenwit.core.size.switch import Switch
from tests.core.shapes import balance, fan_of, place
from tests.known.machines import P4, P4_LOAD, with_capacitor

SWEEP = JobState(
    kind=MotorKind.PSC,
    nameplate=Nameplate(poles=16, rated_voltage_v=230, rated_frequency_hz=50, run_capacitance_f=2.5e-6),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(
        ("auxiliary_resistance_ohm", 290.0),
        ("input_power_w", 73.0),
        ("line_current_a", 0.318),
        ("main_resistance_ohm", 215.0),
        ("speed_rpm", 330.0),
    ),
    wanted_rpm=(118.0, 196.0, 277.0, 330.0),
)
BANK = BankDesign((Capacitor(1.8e-6), Capacitor(2.7e-6)), ("A", "B", "A∥B", "direct"))
HIGH = Sizing(Switch(3, rated_voltage_v=400.0))
WALL = JobState(
    kind=MotorKind.SHADED_POLE,
    nameplate=Nameplate(poles=4, rated_voltage_v=230, rated_frequency_hz=50),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(("input_power_w", 52.0), ("line_current_a", 0.375), ("speed_rpm", 1270.0)),
)


@pytest.mark.parametrize(
    ("state", "waits", "text"),
    [
        (replace(SWEEP, kind=None), "identify", "kind of motor"),
        (
            replace(SWEEP, nameplate=Nameplate(rated_voltage_v=230, run_capacitance_f=2.5e-6)),
            "identify",
            "poles",
        ),
        (replace(SWEEP, readings=()), "reading", "full-speed rpm"),
        (
            replace(SWEEP, nameplate=replace(SWEEP.nameplate, run_capacitance_f=None)),
            "identify",
            "microfarads",
        ),
        (replace(SWEEP, wanted_rpm=()), "aim", "speeds to be set"),
        (SWEEP, "size", "bank to be sized"),
        (replace(SWEEP, design=BANK), "prove", "step 1 to be read"),
        (replace(SWEEP, kind=MotorKind.CAPACITOR_START), "refused", "start switch"),
        (replace(SWEEP, kind=MotorKind.DC_4_WIRE), "refused", "no meaning for this kind of motor"),
        (replace(SWEEP, kind=MotorKind.EC_CONTROL), "refused", "electronics on the motor"),
        (replace(SWEEP, kind=MotorKind.UNIVERSAL), "unsized", "suits, not sized here yet"),
        (replace(SWEEP, kind=MotorKind.THREE_PHASE), "refused", "three phases"),
    ],
)
def test_a_job_says_what_it_waits_for(state: JobState, waits: str, text: str) -> None:
    found = frame(state)
    assert found.waits_kind == waits
    assert text in found.waits_for


def test_marks_are_the_wanted_speeds_until_a_bank_is_chosen() -> None:
    found = frame(SWEEP)
    assert [m.wanted_rpm for m in found.marks] == [118, 196, 277, 330]
    for mark in found.marks:
        assert mark.predicted is not None
        assert mark.predicted.value == pytest.approx(mark.wanted_rpm, rel=1e-3)
        assert mark.predicted.low is not None
        assert mark.predicted.low < mark.predicted.value < (mark.predicted.high or 0)
    assert [a.needed_text for a in found.aims][-1] == "direct"
    assert found.marks[1].at == pytest.approx(2.65e-6, rel=0.12)
    assert "hand estimate" in found.aims[1].hint_text
    assert len(banks(fan_of(SWEEP), SWEEP, ()).candidates) == 10


def test_part_tolerance_widens_the_bands_of_a_bank() -> None:
    loose = frame(replace(SWEEP, design=BANK)).marks[1].predicted
    close = tuple(replace(c, tolerance=0.01) for c in BANK.capacitors)
    tight = frame(replace(SWEEP, design=replace(BANK, capacitors=close))).marks[1].predicted
    assert loose is not None
    assert tight is not None
    assert (loose.high or 0) - (loose.low or 0) > (tight.high or 0) - (tight.low or 0)


def test_power_at_every_step_adds_up_along_the_path() -> None:
    for path in frame(replace(SWEEP, design=BANK)).paths:
        assert path.runs
        into, out = balance(path)
        assert out == pytest.approx(into, rel=1e-9)
        assert "±" in place(path, PlaceKind.BLADES).values[0].text


def test_a_measured_capacitor_narrows_its_step_as_if_it_were_close() -> None:
    printed = frame(replace(SWEEP, design=BANK))
    measured = (BANK.capacitors[0], replace(BANK.capacitors[1], measured_f=2.66e-6))
    found = frame(replace(SWEEP, design=replace(BANK, capacitors=measured)))

    def width(f: Frame, step: int) -> float:
        shown = f.marks[step - 1].predicted
        assert shown is not None
        return (shown.high or 0) - (shown.low or 0)

    assert width(found, 2) < width(printed, 2)
    assert width(found, 1) == pytest.approx(width(printed, 1))
    # Parts alone: from ±10 % of the part to the meter's 1.5 %.
    before, after = (float(f.spreads[1].parts.strip("± rpm")) for f in (printed, found))
    assert after < 0.25 * before


def test_each_part_shows_its_worst_step_and_what_it_bears() -> None:
    parts = {p.name: p for p in frame(replace(SWEEP, design=BANK)).parts}
    assert list(parts)[:2] == ["A", "B"]
    assert set(parts) == {"A", "B", "DA", "DB", "RA", "RB", "F", "S", "W"}
    assert "step 1" in parts["A"].stresses[0].where
    assert "step 2" in parts["B"].stresses[0].where
    assert parts["A"].stresses[0].text.endswith("of 305 V")
    assert all(s.holds for p in parts.values() for s in p.stresses)
    assert all(p.refusal == "" for p in parts.values())


def test_a_failed_step_names_the_capacitance_it_behaves_like() -> None:
    proofs = (Proof(1, "speed_rpm", 52.0), Proof(2, "speed_rpm", 201.0), Proof(4, "speed_rpm", 330.0))
    found = frame(replace(SWEEP, design=BANK, proofs=proofs))
    row = next(r for r in found.proofs if r.step == 1 and r.quantity == "speed_rpm")
    assert row.verdict is Verdict.FAIL
    assert "instead of 1.8 µF" in row.words
    assert "other steps hold" in row.words
    assert found.marks[0].measured_verdict is Verdict.FAIL
    assert found.proof_summary == "step 1 fails"
    assert found.waits_for == "step 1 is slow: find out why"


@pytest.mark.parametrize(
    ("value", "words"),
    [(0.0, "the fan stands"), (330.0, "as fast as without a regulator"), (300.0, "instead of 1.8 µF")],
)
def test_other_ways_to_fail_have_their_own_words(value: float, words: str) -> None:
    found = frame(replace(SWEEP, design=BANK, proofs=(Proof(1, "speed_rpm", value),)))
    row = next(r for r in found.proofs if r.step == 1 and r.quantity == "speed_rpm")
    assert row.verdict is Verdict.FAIL
    assert words in row.words


def test_a_reading_is_judged_by_the_band_kept_with_it() -> None:
    proof = Proof(2, "speed_rpm", 230.0, expected_low=190.0, expected_high=200.0)
    found = frame(replace(SWEEP, design=BANK, proofs=(proof,)))
    assert found.marks[1].measured_verdict is Verdict.FAIL


def test_every_step_in_its_band_is_proved() -> None:
    state = replace(SWEEP, design=BANK)
    proofs = tuple(Proof(m.step, "speed_rpm", m.predicted.value) for m in frame(state).marks if m.predicted)
    found = frame(replace(state, proofs=proofs))
    assert found.waits_for == "proved"
    assert found.proof_summary == "every step proved"


def test_resonant_speeds_are_hatched_and_get_no_prediction() -> None:
    pair = tuple(Capacitor(c, PartClass.MOTOR_RUN, 450.0, 0.05) for c in (2.2e-6, 6.0e-6))
    found = frame(replace(WALL, wanted_rpm=(700.0, 1270.0), design=BankDesign(pair, ("A", "B"))))
    zone = next(z for z in found.zones if z.kind is ZoneKind.BARRED)
    assert "resonate" in zone.text
    assert "nothing is predicted" in zone.text
    barred = found.marks[1]
    assert barred.verdict is StepVerdict.BARRED
    assert barred.predicted is None
    assert not found.paths[1].runs
    part = next(p for p in found.parts if p.name == "B")
    assert part.stresses[0].where == "not used"  # no stress is shown for a step that is barred
    assert "barred" in part.note
    assert found.waits_for == "step 2 is barred: choose again"
    assert found.waits_kind == "size"
    assert place(found.paths[1], PlaceKind.MOTOR).values == ()
    curve = reach(replace(WALL, wanted_rpm=(700.0, 1270.0)))
    assert curve is not None
    assert any(p.state is ReachState.BARRED and p.speed_rpm == 0 for p in curve.points)
    assert all(r.step != 2 for r in found.proofs)


def test_a_speed_nothing_gives_says_why_and_what_is_nearest() -> None:
    aim = frame(replace(SWEEP, wanted_rpm=(25.0, 330.0))).aims[0]
    assert aim.needed_text == "none"
    assert "would not start" in aim.reason
    assert aim.nearest_rpm == pytest.approx(46, abs=5)


def test_more_steps_than_positions_is_said_on_the_mark() -> None:
    found = frame(replace(SWEEP, wanted_rpm=(100.0, 150.0, 200.0, 277.0, 330.0), design=BANK))
    assert "no position" in found.marks[4].reasons[0]


@pytest.mark.parametrize(
    ("wanted", "reason"),
    [
        ((400.0,), "only slows a fan down"),
        ((-1.0,), "only slows a fan down"),
        ((200.0, 200.5), "same speed"),
        (tuple(float(v) for v in range(100, 190, 10)), "too many steps"),
    ],
)
def test_unreal_wishes_are_refused(wanted: tuple[float, ...], reason: str) -> None:
    with pytest.raises(InputError, match=reason):
        frame(replace(SWEEP, wanted_rpm=wanted))


def test_what_is_live_is_what_the_frame_shows() -> None:
    for state in (SWEEP, replace(SWEEP, design=BANK), WALL, replace(SWEEP, readings=())):
        whole, moving = frame(state), live(state)
        for name in vars(moving):
            assert getattr(whole, name) == getattr(moving, name) or not moving.marks
    assert live(replace(SWEEP, design=BANK)).marks[0].label == "A"
    assert live(replace(SWEEP, wanted_rpm=(130.0, 330.0))).marks[0].wanted_rpm == 130.0


INDUCTIVE = replace(
    WALL,
    readings=(
        ("input_power_w", 52.0), ("line_current_a", 0.375), ("main_resistance_ohm", 150.0), ("speed_rpm", 1270.0),
    ),
)  # fmt: skip


def test_motors_that_would_get_too_many_volts_are_counted_and_leave_the_band() -> None:
    fan = fan_of(INDUCTIVE)
    near, far = step_bands(
        fan.belief, fan.supply, [complex(capacitor_impedance(c, 50)) for c in (3.3e-6, 2.0e-6)]
    )
    assert near.may_exceed > 0.05
    assert near.motor_voltage_v.high < 1.1 * 1.05 * 230
    assert far.may_exceed == 0


def test_what_resonates_only_on_high_mains_or_from_full_speed_is_barred_too() -> None:
    """Behind 2.8 µF motor P4 gets 234 V: too near the limit for mains that may be a tenth high."""
    fan = fan_of(INDUCTIVE)
    trap = replace(fan, belief=replace(fan.belief, motor=P4, load=P4_LOAD))
    solution = solve(P4, P4_LOAD, [with_capacitor(2.82)])[0]
    assert solution.running is not None
    assert solution.running.motor_voltage_v < trap.motor_limit_v
    assert barred_at(trap, 2.82e-6)
    assert not barred_at(trap, 2.2e-6)
    wished = replace(INDUCTIVE, wanted_rpm=(520.0, 740.0, 1270.0), sizing=HIGH)
    for bank in banks(fan_of(wished), wished, ()).candidates:
        parts = tuple(
            Capacitor(c) for c in (float(v) * 1e-6 for v in bank.text.removesuffix(" µF").split(" + "))
        )
        design = BankDesign(parts, bank.patterns, HIGH.switch)
        tried = frame(replace(INDUCTIVE, wanted_rpm=(520.0, 740.0, 1270.0), design=design))
        assert all(m.verdict is StepVerdict.OK for m in tried.marks), bank.text
        assert all(p.refusal == "" for p in tried.parts), bank.text


def test_an_under_rated_part_is_said_and_the_job_waits_for_another() -> None:
    weak = (replace(BANK.capacitors[0], rated_v=240.0), BANK.capacitors[1])
    found = frame(replace(SWEEP, design=replace(BANK, capacitors=weak)))
    assert "under-rated" in found.parts[0].refusal
    assert found.waits_kind == "size"


def test_a_class_that_may_not_stand_here_is_refused_with_its_reason() -> None:
    for part_class, words in ((PartClass.DC_FILM, "DC volts"), (PartClass.ELECTROLYTIC, "swells and bursts")):
        with pytest.raises(InputError, match=words):
            replace(BANK, capacitors=(Capacitor(1.8e-6, part_class), BANK.capacitors[1]))


@pytest.mark.parametrize("room", ["series_capacitor", "series_resistor"])
def test_two_thousand_speeds_asked_for_are_all_answered(room: str) -> None:
    """Emptying the memory between two steps of one answer once lost what had just been found."""
    reach = importlib.import_module(f"fenwit.core.methods.{room}.reach")
    fan = fan_of(SWEEP)
    for k in range(2100):
        reach._memory(fan).known.setdefault(100 + k / 100, None)
    speeds = (118.0, 196.0, 277.0)
    assert set(reach.aimed(fan, speeds)) == set(speeds)
    assert all(a is not None for a in reach.aimed(fan, speeds).values())
    reach._memory(fan).known.clear()


@pytest.mark.parametrize(
    ("state", "stage", "field"),
    [
        (replace(SWEEP, kind=None), "identify", "fan:motor_kind"),
        (replace(SWEEP, readings=()), "measure", "reading:speed_rpm"),
        (replace(SWEEP, wanted_rpm=()), "aim", "aim:new"),
        (SWEEP, "size", ""),
        (replace(SWEEP, design=BANK), "prove", "proof:1:speed_rpm"),
    ],
)
def test_what_a_job_waits_for_says_where_it_is_done(state: JobState, stage: str, field: str) -> None:
    found = frame(state)
    assert found.next is not None
    assert (found.next.spot.stage, found.next.spot.field) == (stage, field)
    assert found.next.text == found.waits_for


def test_even_steps_are_even_and_all_start() -> None:
    found = frame(replace(SWEEP, wanted_rpm=()))
    assert found.full
    for count in range(2, 9):
        speeds = even_speeds(found.full.value, found.zones, count)
        assert len(speeds) == count
        assert max(np.diff(speeds)) - min(np.diff(speeds)) <= 1.0
        assert speeds[0] > max(z.high_rpm for z in found.zones if z.kind is ZoneKind.NO_START)
        assert speeds[-1] <= found.full.value
    with pytest.raises(InputError):
        even_speeds(330.0, (), 9)


def test_a_step_that_may_not_start_says_so_in_sight() -> None:
    """On the staff, on the path and as a row of acceptance, not only where a pointer rests."""
    shown = frame(replace(SWEEP, design=replace(BANK, capacitors=(Capacitor(1.2e-6), Capacitor(2.7e-6)))))
    doubtful = [m for m in shown.marks if m.doubt_text]
    assert doubtful
    path = next(p for p in shown.paths if p.step == doubtful[0].step)
    warned = [p.warning.text for p in path.places if p.warning]
    assert any("does not start" in w for w in warned)
    row = next(r for r in shown.rules if r.key is RuleKey.DOUBT)
    assert "of 100" in row.value_text


def test_a_contradiction_is_blamed_on_what_resolves_it() -> None:
    """All readings are of the known motor; the run capacitor's label is of another one."""
    wrong = replace(SWEEP, nameplate=replace(SWEEP.nameplate, run_capacitance_f=40e-6))
    with pytest.raises(InputError, match="agree with each other") as refused:
        frame(wrong)
    assert refused.value.field == "run_capacitance_f"
    assert float(refused.value.allowed.removeprefix("about ").removesuffix(" µF")) == pytest.approx(
        2.5, abs=0.4
    )
    # A reading that is off is still the one that is blamed.
    off = replace(
        SWEEP, readings=tuple((k, 2 * v if k == "line_current_a" else v) for k, v in SWEEP.readings)
    )
    assert [c.name for c in study(off).checks if c.odd] == ["line_current_a"]


def test_when_enough_is_read_it_says_so_and_before_that_where_to_read() -> None:
    runs = tuple(
        RunState(i, InLine.CAPACITOR, farads, (("speed_rpm", rpm), ("line_current_a", amps)))
        for i, (farads, rpm, amps) in enumerate(
            ((2.2e-6, 187.0, 0.152), (3.3e-6, 261.0, 0.212), (1.5e-6, 108.0, 0.108)), start=1
        )
    )
    first = study(SWEEP).next[0]
    assert first.spot.new_run is not None
    assert (first.spot.new_run.what, first.spot.field) == ("capacitor", "speed_rpm")
    # A run that is there already is not opened twice.
    opened = replace(SWEEP, runs=(replace(runs[0], readings=()),))
    same = next(n for n in study(opened).next if "2.2 µF" in n.words)
    assert (same.spot.new_run, same.spot.field) == (None, "run:1:speed_rpm")
    done = study(replace(SWEEP, runs=runs))
    assert done.next == ()
    assert "enough is read" in done.enough_text


def test_what_the_label_says_of_air_sweep_and_room_is_used() -> None:
    """By hand: 0.378 m³/s is 1360 m³/h; at 118 of 330 rpm 36 % of it; tips π · 1.2 m · 118 / 60 = 7.4 m/s."""
    plate = replace(SWEEP.nameplate, airflow_m3_per_s=0.3778, sweep_m=1.2, ambient_c=40.0)
    read = (*SWEEP.readings, ("cold_temperature_c", 45.0))
    shown = frame(replace(SWEEP, nameplate=plate, readings=tuple(sorted(read))))
    slowest = shown.paths[0]
    assert [v.text for v in place(slowest, PlaceKind.BLADES).values][-1] == "tips 7.4 m/s"
    air = place(slowest, PlaceKind.AIR).values[0].text
    flow, _, half = air.removesuffix(" m³/h").partition(" ± ")
    # 486 by the plain law; less where the load's exponent says that a part of the pressure stands.
    assert float(flow) <= 490 <= float(flow) + float(half)
    assert "hot-room" in [c.key for c in shown.cautions]
    cool = replace(SWEEP, nameplate=plate, readings=(*SWEEP.readings, ("cold_temperature_c", 21.0)))
    assert "hot-room" not in [c.key for c in frame(cool).cautions]
    assert not any("m³/h" in v.text for p in frame(SWEEP).paths for q in p.places for v in q.values)
