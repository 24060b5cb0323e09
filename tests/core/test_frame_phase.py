"""A job regulated by phase angle: steps, marks, proofs, rules, straying, explanations, tables."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import fields, replace

import numpy as np
import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, Proof, frame, live, why
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.study import study
from fenwit.core.frame.tables import changes, snapshot, tables
from fenwit.core.job.steps import PlaceKind
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.phase_angle import PHASE_ANGLE
from fenwit.core.methods.phase_angle.angles import (
    aimed_angles,
    angles_for,
    curve_of,
    design_for,
    glance_table,
    glanced_angles,
    glanced_at,
    point_of,
    solved_at,
    travel,
    unbanded,
    waveforms_of,
)
from fenwit.core.methods.phase_angle.design import Edge, FiredBy, PhaseDesign, Pulse, Unit
from fenwit.core.methods.phase_angle.steps import where_at
from fenwit.core.methods.phase_angle.surface import ERROR, RIPPLE_ERROR
from fenwit.core.methods.phase_angle.triac import TriacPart
from fenwit.core.methods.phase_angle.view import PhaseShown, table_of
from fenwit.core.methods.phase_angle.view import phase as phase_of_fan
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.capture import FORM_FACTOR
from fenwit.core.prove.verdict import Verdict
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.core.regulator.firing import Spacing
from tests.core.shapes import balance, fan_of, place
from tests.core.test_frame import BANK, SWEEP, WALL

AIMED = replace(SWEEP, sizing=replace(SWEEP.sizing, method=Method.PHASE_ANGLE))
NETWORK = DiacNetwork(4.7e3, 500e3, 100e-9)


def control(state: JobState) -> PhaseDesign:
    assert isinstance(state.design, PhaseDesign)
    return state.design


def phase(state: JobState, step: int = 1) -> PhaseShown:
    fan = PHASE_ANGLE.subject(state)
    assert not isinstance(fan, Refused | Lacking)
    design = state.design if isinstance(state.design, PhaseDesign) else None
    return phase_of_fan(fan, design, state.wanted_rpm, step)


def chosen(state: JobState = SWEEP, **changes: object) -> JobState:
    """The state with a control whose angles are set for its wanted speeds."""
    design = PhaseDesign(**{"firing_deg": (0.0,), **changes})  # type: ignore[arg-type]
    return replace(state, design=design_for(fan_of(state), state.wanted_rpm, design))


TABLE = chosen()
KNOB = chosen(fired_by=FiredBy.KNOB, network=NETWORK)
DRYING = replace(WALL, wanted_rpm=(520.0, 740.0, 1270.0))


def test_the_method_is_that_of_the_choice_else_that_which_is_aimed_with() -> None:
    assert SWEEP.method is Method.SERIES_CAPACITOR
    assert AIMED.method is Method.PHASE_ANGLE
    assert replace(AIMED, design=BANK).method is Method.SERIES_CAPACITOR
    assert TABLE.method is Method.PHASE_ANGLE
    assert frame(AIMED).waits_for == "phase-angle control to be sized"
    with pytest.raises(InputError, match="no parts are sized"):
        frame(replace(SWEEP, sizing=replace(SWEEP.sizing, method=Method.VARIABLE_FREQUENCY)))


@pytest.mark.parametrize("state", [AIMED, TABLE, KNOB])
def test_every_step_stands_where_it_was_wanted(state: JobState) -> None:
    found = frame(state)
    assert found.method is Method.PHASE_ANGLE
    for mark in found.marks[:-1]:
        assert mark.verdict is StepVerdict.OK
        assert mark.predicted is not None
        assert mark.predicted.value == pytest.approx(mark.wanted_rpm, abs=0.3)
        assert mark.predicted.low is not None
        assert mark.predicted.low < mark.predicted.value
        assert mark.label.endswith("°")
    full = found.marks[-1]
    assert full.label == ("12°" if state is KNOB else "full on")
    for path in found.paths:
        into, out = balance(path)
        assert into == pytest.approx(out, rel=1e-6)
        assert place(path, PlaceKind.REGULATOR).values[1].text.endswith("W heat")
    assert [a.needed_text for a in found.aims[:-1]] == [m.label for m in found.marks[:-1]]
    assert found.zones[0].text == "will not start from rest"


def test_a_shaded_pole_fan_goes_the_same_way() -> None:
    found = frame(chosen(DRYING))
    assert [m.predicted.value for m in found.marks if m.predicted] == pytest.approx([520, 740, 1268], abs=2)
    assert found.waits_for == "step 1 to be read"
    assert found.cautions


def test_a_speed_that_no_angle_gives_says_so_and_the_latest_angle_stands_in() -> None:
    slow = replace(AIMED, wanted_rpm=(20.0, 200.0))
    found = frame(slow)
    assert found.marks[0].verdict is StepVerdict.DOES_NOT_START
    assert "does not run slower than" in found.marks[0].reasons[0]
    assert found.aims[0].needed_text == "none"
    built = frame(chosen(slow))
    assert built.marks[0].predicted is None or built.marks[0].predicted.value > 40
    # Held after a kick it runs slower than it would start.
    held = frame(chosen(replace(slow, wanted_rpm=(45.0, 200.0)), kick=True))
    assert held.marks[0].verdict is StepVerdict.OK
    assert held.marks[0].predicted is not None
    assert held.marks[0].predicted.value == pytest.approx(45, abs=1)
    assert held.zones[0].text == "does not hold, even coming down"
    assert held.zones[0].high_rpm < built.zones[0].high_rpm


def test_a_short_pulse_before_the_load_angle_is_barred_a_train_or_a_diac_is_not() -> None:
    early = (5.0,)
    assert curve_of(fan_of(SWEEP)).least_safe_deg > 5
    short = frame(replace(SWEEP, wanted_rpm=(329.0,), design=PhaseDesign(early)))
    assert short.marks[0].verdict is StepVerdict.BARRED
    assert "half-cycle" in short.marks[0].reasons[0]
    assert not short.paths[0].runs
    assert short.waits_kind == "size"
    train = PhaseDesign(early, unit=Unit(pulse=Pulse.TRAIN))
    assert frame(replace(SWEEP, wanted_rpm=(329.0,), design=train)).marks[0].verdict is StepVerdict.OK


def test_a_knob_that_does_not_reach_a_step_says_so() -> None:
    narrow = DiacNetwork(4.7e3, 47e3, 100e-9)
    found = frame(replace(KNOB, design=PhaseDesign((120.0, 30.0), FiredBy.KNOB, narrow)))
    assert found.marks[0].verdict is StepVerdict.DOES_NOT_START
    assert "does not reach 120°" in found.marks[0].reasons[0]
    assert found.marks[1].verdict is StepVerdict.OK


def test_more_speeds_than_angles_leave_steps_without_a_position() -> None:
    found = frame(replace(SWEEP, design=PhaseDesign((120.0,))))
    assert [m.label for m in found.marks] == ["120°", "no position", "no position", "no position"]


@pytest.mark.parametrize("held", [False, True])
@pytest.mark.parametrize("state", [SWEEP, DRYING])
def test_angle_and_speed_go_round(state: JobState, held: bool) -> None:
    fan = fan_of(state)
    for share in (0.35, 0.5, 0.7, 0.9):
        wanted = share * fan.full_rpm
        (angle,) = angles_for(fan, curve_of(fan), [wanted], held)
        assert angle is not None
        point = point_of(solved_at(fan, [angle], held)[angle].solution, held)
        assert point is not None
        # A hundredth of a degree is what an angle is rounded to.
        assert point.speed_rpm == pytest.approx(wanted, abs=0.12 * fan.full_rpm / 330)
    assert angles_for(fan, curve_of(fan), [0.01 * fan.full_rpm, 1.2 * fan.full_rpm], held) == (
        None,
        None,
    )


@pytest.mark.parametrize(("state", "held"), [(SWEEP, True), (DRYING, False)])
def test_a_glance_sees_what_is_solved_in_full(state: JobState, held: bool) -> None:
    fan = fan_of(state)
    for angle in (66.31, 104.73, 116.29):
        quick, whole = glanced_at(fan, [angle], held)[angle], solved_at(fan, [angle], held)[angle]
        a, b = point_of(quick.solution, held), point_of(whole.solution, held)
        assert a is not None
        assert b is not None
        for name in (
            "speed_rpm",
            "motor_voltage_v",
            "line_current_a",
            "input_power_w",
            "extinction_angle_deg",
        ):
            assert getattr(a, name) == pytest.approx(getattr(b, name), rel=1e-4)
        assert quick.solution.start_margin == pytest.approx(whole.solution.start_margin, rel=ERROR)
        width = whole.bands.speed_rpm.half_width
        assert quick.bands.speed_rpm.low == pytest.approx(whole.bands.speed_rpm.low, abs=0.2 * width)
        assert quick.bands.speed_rpm.high == pytest.approx(whole.bands.speed_rpm.high, abs=0.2 * width)


def test_a_glance_at_the_edge_of_what_starts_is_solved_in_full() -> None:
    fan = fan_of(SWEEP)
    curve = curve_of(fan)
    last = curve.latest_start_deg
    assert last is not None
    between = float(last) + 0.3 * float(curve.firing_deg[1] - curve.firing_deg[0])
    quick, whole = glanced_at(fan, [between], False)[between], solved_at(fan, [between], False)[between]
    assert (quick.solution.running is None) == (whole.solution.running is None)
    if quick.solution.running and whole.solution.running:
        assert quick.solution.running.speed_rpm == pytest.approx(whole.solution.running.speed_rpm, abs=0.5)


def test_a_drag_shows_what_is_then_kept() -> None:
    moved = replace(AIMED, wanted_rpm=(131.0, 196.0, 277.0, 330.0))
    quick, whole = live(moved), frame(moved)
    for a, b in zip(quick.marks, whole.marks, strict=True):
        assert a.label == b.label
        assert a.predicted is not None
        assert b.predicted is not None
        assert a.predicted.value == pytest.approx(b.predicted.value, rel=1e-4)
    assert [a.needed_text for a in quick.aims] == [a.needed_text for a in whole.aims]
    assert [m.at for m in quick.marks] == [m.at for m in whole.marks]


def test_two_that_ask_at_once_get_the_same_answer() -> None:
    # Another supply, so that nothing of this fan is remembered yet.
    state = replace(AIMED, supply_voltage_v=228.5)
    with ThreadPoolExecutor(2) as pool:
        answers = list(pool.map(lambda _: [m.label for m in frame(state).marks], range(2)))
    assert all(a == answers[0] for a in answers)
    assert "full on" not in answers[0][:-1]
    fan = fan_of(state)
    assert aimed_angles(fan, [100.0, 100.0], False) == aimed_angles(fan, [100.0], False)


# ---------------------------------------------------------------- parts, rules, straying


def test_every_part_says_what_it_bears_and_too_small_a_triac_is_refused() -> None:
    for state in (TABLE, KNOB):
        parts = frame(state).parts
        assert {"S", "F", "L1", "T", "RS", "CS", "CX", "RV"} <= {p.name for p in parts}
        assert not [p.name for p in parts if p.refusal]
        assert all(s.holds == (s.share <= 1 + 1e-9) for p in parts for s in p.stresses)
    weak = chosen(triac=TriacPart(off_state_v=400.0, dvdt_v_us=1.0))
    found = frame(weak)
    triac = next(p for p in found.parts if p.name == "T")
    assert "off-state volts" in triac.refusal
    assert found.waits_for.startswith("a part that bears it")


def test_what_is_left_out_is_said() -> None:
    bare = chosen(fired_by=FiredBy.KNOB, network=NETWORK, fused=False, snubbed=False, filtered=False)
    found = frame(bare)
    assert {p.name for p in found.parts} == {"S", "T", "R1", "P", "C1", "D"}
    assert [w.text.split(":")[0] for w in found.wiring if w.lug == "△"] == [
        "no fuse",
        "no suppression",
        "no snubber",
    ]
    assert "fire by itself" in next(p.note for p in found.parts if p.name == "T")
    assert any(c.key == "triac" for c in found.cautions)


def test_a_knob_drifts_with_the_mains_where_a_table_does_not() -> None:
    def widths(state: JobState) -> list[float]:
        return [float(s.mains.split()[1]) for s in frame(state).spreads][:2]

    assert all(k > 1.5 * t for k, t in zip(widths(KNOB), widths(TABLE), strict=True))
    for state in (KNOB, TABLE):
        for row in frame(state).spreads:
            assert row.together.low is not None
            assert row.together.high is not None
            assert row.together.low <= row.together.value <= row.together.high
    # A counted edge that wanders is a tolerance of the parts.
    rising = chosen(unit=Unit(edge=Edge.RISING))
    assert next(s.parts for s in frame(TABLE).spreads) == "± 0 rpm"
    assert float(frame(rising).spreads[0].parts.split()[1]) > 0


def test_the_profile_is_judged_and_a_kick_starts_every_step() -> None:
    rules = {r.key.value: r for r in frame(TABLE).rules}
    assert rules["lowest"].met
    assert rules["motor-volts"].met
    kicked = {r.key.value: r for r in frame(chosen(kick=True)).rules}
    assert float(kicked["start-margin"].value_text.split()[0]) > float(
        rules["start-margin"].value_text.split()[0]
    )


def test_where_a_step_is_set() -> None:
    fan = fan_of(SWEEP)
    table, knob = control(TABLE), control(KNOB)
    assert where_at(fan, table, 90.0) == "delay 5.00 ms"
    assert where_at(fan, table, 0.0) == "gate held on"
    way = travel(NETWORK, fan.belief, fan.supply)
    half = float(np.interp(0.5, way.turn, way.firing_deg))
    assert where_at(fan, knob, half) == "knob at 50 %"
    assert where_at(fan, knob, 3.0) == ""


# ---------------------------------------------------------------- proofs


def proved(state: JobState, *proofs: tuple[int, str, float]) -> Frame:
    return frame(replace(state, proofs=tuple(Proof(*p) for p in proofs)))


def row_of(found: Frame, step: int, quantity: str):  # type: ignore[no-untyped-def]
    return next(r for r in found.proofs if r.step == step and r.quantity == quantity)


def test_what_a_scope_shows_is_asked_for_beside_speed_volts_and_amps() -> None:
    rows = [r for r in frame(TABLE).proofs if r.step == 1]
    assert [r.quantity for r in rows if not r.captured] == ["speed_rpm", "motor_voltage_v", "line_current_a"]
    assert {r.quantity for r in rows if r.captured} == {
        "firing_angle_deg",
        "extinction_angle_deg",
        "symmetry_deg",
        "frequency_hz",
    }
    assert not [r for r in frame(TABLE).proofs if r.step == 4 and r.captured]
    middle = [(r.step, r.quantity, (r.low + r.high) / 2) for r in frame(TABLE).proofs]
    assert {r.verdict for r in proved(TABLE, *middle).proofs} == {Verdict.PASS}
    assert proved(TABLE, *middle).waits_for == "proved"


@pytest.mark.parametrize(
    ("quantity", "value", "words"),
    [
        ("speed_rpm", 190.0, "as if fired at"),
        ("speed_rpm", 330.0, "shorted"),
        ("speed_rpm", 20.0, "no firing angle would explain"),
        ("speed_rpm", 0.0, "the program or the opto-triac"),
        ("symmetry_deg", 8.0, "one half fires later"),
        ("firing_angle_deg", 131.0, "the delay in the program"),
        ("line_current_a", 0.5, "Check the meter"),
    ],
)
def test_a_miss_is_explained_as_what_stands_behind_a_triac(quantity: str, value: float, words: str) -> None:
    row = row_of(proved(TABLE, (1, quantity, value)), 1, quantity)
    assert row.verdict is Verdict.FAIL
    assert words in row.words


def test_halves_that_do_not_differ_hold() -> None:
    assert row_of(proved(TABLE, (1, "symmetry_deg", 0.0)), 1, "symmetry_deg").verdict is Verdict.PASS


def test_a_meter_that_is_not_true_rms_is_recognised_by_what_it_shows() -> None:
    fan = fan_of(SWEEP)
    angle = control(TABLE).firing_deg[0]
    point = point_of(solved_at(fan, [angle], False)[angle].solution, False)
    assert point is not None
    average = FORM_FACTOR * float(np.abs(waveforms_of(fan, point).motor_v).mean())
    row = row_of(proved(TABLE, (1, "motor_voltage_v", average)), 1, "motor_voltage_v")
    assert "not true-rms" in row.words


# ---------------------------------------------------------------- explained, in tables, refused


@pytest.mark.parametrize("state", [TABLE, KNOB])
def test_every_number_is_explained(state: JobState) -> None:
    found = frame(state)
    for what in (
        "speed", "motor-volts", "amps", "watts", "motor-heat", "regulator-heat", "regulator-volts", "rise", "flow",
        "noise", "needed", "start", "slip", "power-factor", "torque", "distortion",
    ):  # fmt: skip
        told = why(state, f"step:2:{what}")
        assert told.equation
        assert told.numbers
        assert any(ch.isdigit() for ch in told.value)
    assert found.marks[1].predicted is not None
    assert why(state, "step:2:speed").value == found.marks[1].predicted.text
    for part in found.parts:
        for stress in part.stresses:
            told = why(state, f"part:{part.name}:{stress.burden}")
            assert told.value == stress.text
            assert told.equation != "stress ≤ rating" or stress.burden in ("volts", "crest volts", "amps")
    for rule in found.rules:
        assert rule.value_text in why(state, f"rule:{rule.key}").value
    for spread in found.spreads:
        assert why(state, f"spread:{spread.step}").value == spread.together.text
    assert "of full speed" in why(state, "miss").value
    with pytest.raises(InputError):
        why(replace(SWEEP, design=BANK), "step:2:distortion")
    for key in ("part:Q:watts", "part:T:noise", "spread:9", "step:4:needed"):
        with pytest.raises(InputError):
            why(state, key)


def test_the_numbers_behind_the_pictures_are_in_tables() -> None:
    found = {t.key: t for t in tables(TABLE)}
    assert set(found) == {"steps", "curve", "wave-1", "wave-2", "wave-3", "wave-4", "parts"}
    assert found["steps"].rows[0][1] == "126°"
    assert len(found["curve"].rows) > 60
    assert len(found["wave-1"].rows) == 72
    assert len(found["wave-1"].columns) == len(found["wave-1"].rows[0])
    assert "wave-1" in {t.key for t in tables(AIMED)}
    kept = snapshot(frame(TABLE))
    assert changes(kept, frame(TABLE)) == ()
    moved = replace(
        TABLE, readings=tuple((n, v * (1.08 if n == "input_power_w" else 1)) for n, v in TABLE.readings)
    )
    assert changes(kept, frame(moved))


def test_the_view_shows_what_is_tried_and_refuses_what_must_not_be() -> None:
    shown = phase(TABLE, 2)
    assert shown.wave is not None
    assert shown.wave.step == 2
    assert shown.steps[1].facts[0].startswith("delay ")
    assert phase(KNOB, 1).steps[0].facts[0].startswith("knob at ")
    # Both halves are alike, so the even orders are missing; the odd ones are the distortion.
    harmonics = np.array(shown.wave.harmonics)
    assert harmonics[::2].max() < 0.01
    point = next(
        s for s in (solved_at(fan_of(SWEEP), [shown.wave.firing_deg], False).values())
    ).solution.running
    assert point is not None
    assert np.sqrt((harmonics**2).sum()) == pytest.approx(point.current_thd, rel=0.05)  # type: ignore[attr-defined]
    assert "3rd" in " ".join(shown.wave.facts)
    assert "past the open triac" in shown.leak_text
    beside = phase(replace(SWEEP, design=BANK), 1)
    assert [s.firing_deg for s in beside.steps] == [s.firing_deg for s in phase(AIMED).steps]
    for kind in (MotorKind.CAPACITOR_START, MotorKind.DC_4_WIRE):
        assert isinstance(PHASE_ANGLE.subject(replace(SWEEP, kind=kind)), Refused)
    unread = replace(AIMED, readings=())
    assert isinstance(PHASE_ANGLE.subject(unread), Lacking)
    with pytest.raises(InputError, match="nothing is computed yet: it needs full-speed rpm"):
        must_know(unread)


def test_the_table_of_the_chosen_steps_has_their_angles() -> None:
    fan, design = fan_of(TABLE), control(TABLE)
    table = table_of(fan, design, Spacing.STEPS, 4)
    assert [r.firing_deg for r in table.rows[:3]] == list(design.firing_deg[:3])
    rising = table_of(fan, design, Spacing.STEPS, 4, Unit(edge=Edge.RISING))
    # The edge comes before the zero, so every delay is longer by the same time.
    longer = [b.delay_us - a.delay_us for a, b in zip(table.rows, rising.rows, strict=True)]
    assert min(longer) > 0
    assert longer == pytest.approx([longer[0]] * 4)
    with pytest.raises(InputError):
        table_of(fan, None, Spacing.STEPS, 4)
    started = table_of(fan, design, Spacing.SPEED, 8, kick=False)
    assert all(r.starts for r in started.rows)


def test_measure_looks_at_a_job_by_phase_angle_as_at_any_other() -> None:
    for state in (TABLE, KNOB):
        shown = study(state, 2, ["line_current_a", "input_power_w"])
        assert shown.next
        widths = [s.high_rpm - s.low_rpm for s in shown.shrinks]
        assert len(widths) >= 2
        # Readings that do not quite agree may widen a little what they do not tell of.
        assert widths[-1] <= 1.05 * widths[0]
        assert shown.plot is not None
        steps = {m.step for m in shown.plot.motors if m.step}
        assert 1 in steps


@pytest.mark.parametrize("state", [SWEEP, WALL])
@pytest.mark.parametrize("kick", [False, True])
def test_every_value_at_a_glance_is_as_near_as_is_said(state: JobState, kick: bool) -> None:
    fan = fan_of(state)
    table = glance_table(fan, kick)
    assert table is not None
    # Over nearly all the angles at which it runs, between the solved ones.
    runs = curve_of(fan).firing_deg[(curve_of(fan).kicked_rpm if kick else curve_of(fan).speed_rpm) > 0]
    assert table.angle_deg[-1] > runs.max() - 5
    angles = np.linspace(table.angle_deg[0] + 0.01, table.angle_deg[-1] - 0.01, 41).tolist()
    exact = unbanded(fan, angles)
    rows = []
    for angle, quick in zip(angles, table.solutions(fan, angles), strict=True):
        whole, point = point_of(exact[angle], kick), point_of(quick, kick)
        assert whole is not None
        assert point is not None
        assert point.conduction == whole.conduction
        assert point.input_power_w == pytest.approx(
            point.shaft_power_w + point.motor_loss_w + point.series_loss_w, rel=1e-6
        )
        names = [
            f.name
            for f in fields(whole)
            if isinstance(getattr(whole, f.name), float) and f.name != "growth_per_s"
        ]
        rows.append([[getattr(p, n) for n in names] for p in (whole, point)])
    true, found = np.array(rows).transpose(1, 2, 0)
    error = np.abs(found - true).max(axis=1) / np.maximum(np.abs(true).max(axis=1), 1e-9)
    allowed = [RIPPLE_ERROR if n == "torque_ripple_nm" else ERROR for n in names]
    assert dict(zip(names, error <= allowed, strict=True)) == dict.fromkeys(names, True)


def test_a_glance_answers_with_the_angle_that_is_kept_on_release() -> None:
    fan = fan_of(SWEEP)
    for wanted in (130.0, 201.0, 288.0):
        (quick,) = glanced_angles(fan, [wanted + 0.37], False).values()
        (kept,) = aimed_angles(fan, [wanted + 0.37], False).values()
        assert quick == pytest.approx(kept, abs=0.011)
