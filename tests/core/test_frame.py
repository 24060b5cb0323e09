"""One job computed: what the screen shows, from what is known."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import BankDesign, JobState, Nameplate, Proof, frame, preview
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.verdict import Verdict

SWEEP = JobState(
    kind=MotorKind.PSC,
    nameplate=Nameplate(poles=16, rated_voltage_v=230, rated_frequency_hz=50, run_capacitance_f=2.5e-6),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(
        ("auxiliary_resistance_ohm", 290.0),
        ("input_power_w", 73.0),
        ("line_current_a", 0.318),
        ("main_resistance_ohm", 260.0),
        ("speed_rpm", 330.0),
    ),
    wanted_rpm=(118.0, 196.0, 277.0, 330.0),
)
BANK = BankDesign(1.8e-6, 2.7e-6, ("A", "B", "A∥B", "direct"))
WALL = JobState(
    kind=MotorKind.SHADED_POLE,
    nameplate=Nameplate(poles=4, rated_voltage_v=230, rated_frequency_hz=50),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(("input_power_w", 38.0), ("line_current_a", 0.375), ("speed_rpm", 1270.0)),
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
        (replace(SWEEP, kind=MotorKind.DC_4_WIRE), "refused", "no meaning"),
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
    assert found.aims[1].needed_f == pytest.approx(2.65e-6, rel=0.03)
    assert "hand estimate" in found.aims[1].hand_text
    assert found.banks[0].text == "1.8 + 2.7 µF"


def test_part_tolerance_widens_the_bands_of_a_bank() -> None:
    loose = frame(replace(SWEEP, design=BANK)).marks[1].predicted
    tight = frame(replace(SWEEP, design=replace(BANK, tolerance=0.01))).marks[1].predicted
    assert loose is not None
    assert tight is not None
    assert (loose.high or 0) - (loose.low or 0) > (tight.high or 0) - (tight.low or 0)


def test_power_at_every_step_adds_up_along_the_path() -> None:
    for path in frame(replace(SWEEP, design=BANK)).paths:
        assert path.runs
        parts = path.regulator_loss_w + path.motor_loss_w + path.friction_w + path.air_w
        assert parts == pytest.approx(path.supply_w, rel=1e-9)
        assert "±" in path.blades[0]


def test_each_part_shows_its_worst_step_and_the_rating_it_needs() -> None:
    a, b = frame(replace(SWEEP, design=BANK)).parts
    assert (a.worst_step, b.worst_step) == (1, 2)
    assert a.voltage_v == pytest.approx(227, abs=2)
    assert b.voltage_v == pytest.approx(213, abs=3)
    assert a.required_voltage_v >= 1.1 * 230


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
    found = frame(replace(WALL, wanted_rpm=(700.0, 1270.0), design=BankDesign(1.5e-6, 3.9e-6, ("A", "B"))))
    assert any("resonates" in z.text for z in found.zones)
    barred = found.marks[1]
    assert barred.verdict is StepVerdict.BARRED
    assert barred.predicted is None
    assert not found.paths[1].runs
    assert found.curve_steps[1].speed_rpm is None
    assert found.parts[1].voltage_text == "not used"  # no stress is shown for a step that is barred
    assert "barred" in found.parts[1].required_text
    assert found.waits_for == "step 2 is barred: choose again"
    assert found.waits_kind == "size"
    assert found.paths[1].motor == ()
    assert any(p.state == "barred" and p.speed_rpm == 0 for p in found.curve)
    assert all(r.step != 2 for r in found.proofs)


def test_a_speed_nothing_gives_says_why_and_what_is_nearest() -> None:
    aim = frame(replace(SWEEP, wanted_rpm=(25.0, 330.0))).aims[0]
    assert aim.needed_text == "none"
    assert "would not start" in aim.reason
    assert aim.nearest_rpm == pytest.approx(50, abs=4)


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


def test_trying_a_bank_changes_nothing_but_the_answer() -> None:
    tried = preview(SWEEP, None, BANK)
    assert tried.marks[0].label == "A"
    assert frame(SWEEP).marks[0].label == ""
    moved = preview(SWEEP, [130.0, 330.0], None)
    assert [m.wanted_rpm for m in moved.marks] == [130.0, 330.0]
    assert moved == preview(SWEEP, [130.0, 330.0], None)
