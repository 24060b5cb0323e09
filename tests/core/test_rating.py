"""What parts bear: known answers of the bank chapter, refusals, balances, acceptance and tolerance."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.calibrate.bands import Band
from fenwit.core.circuit.contacts import passages, truth_table
from fenwit.core.circuit.drawing import draw
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError
from fenwit.core.methods.series_capacitor.design import BankDesign, bank_circuit
from fenwit.core.methods.series_capacitor.rating import Rated, rate
from fenwit.core.operating import Source, solve
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import FUSES_A, PartClass, check_capacitor, next_fuse, next_watts
from fenwit.core.size.profile import Profile, RuleKey, StepFacts, judge_profile
from fenwit.core.size.rated import MAINS as MAINS_SHARES
from fenwit.core.size.rated import Burden, Moment, Stress
from fenwit.core.size.small_parts import (
    bleed_limit_ohm,
    capacitor_loss_w,
    equalising_current_a,
    limiter_least_ohm,
    surge_energy_j,
)
from fenwit.core.size.switch import Switch
from tests.known.machines import MAINS, P4, P4_LOAD, S16, S16_LOAD

PAIR = BankDesign((Capacitor(1.8e-6), Capacitor(2.7e-6)), ("A", "B", "A∥B", "direct"))
HUB = BankDesign(
    tuple(Capacitor(c) for c in (1.2e-6, 2.7e-6, 5.6e-6)), ("B–C", "B", "A∥B", "direct"), Switch(4)
)


def rated(design: BankDesign = PAIR) -> Rated:
    return rate(S16, S16_LOAD, MAINS, design)


def test_the_bleed_of_the_known_answer() -> None:
    """Published: 2.7 µF on 230 V +10 %, 34 V in 1 s: at most 157.4 kΩ; two 75 kΩ in series, 0.21 W each, 0.5 W."""
    crest = np.sqrt(2) * 1.1 * 230
    assert bleed_limit_ohm(2.7e-6, crest, 34.0, 1.0) == pytest.approx(157.4e3, rel=1e-3)
    parts = {p.name: p for p in rated().parts}
    bleed = parts["DB"]
    assert (bleed.value, bleed.pieces, bleed.rating) == (75e3, 2, 0.5)
    watts = next(s for s in bleed.stresses if s.burden is Burden.WATTS)
    assert watts.value == pytest.approx(0.213, abs=0.001)
    assert watts.mains == 1.1


def test_a_bleed_empties_its_capacitor_in_time() -> None:
    """Independent: the exponential itself."""
    for c, safe, time in ((2.7e-6, 34.0, 1.0), (4.7e-6, 60.0, 60.0)):
        ohms = bleed_limit_ohm(c, 357.8, safe, time)
        assert 357.8 * np.exp(-time / (ohms * c)) == pytest.approx(safe)


def test_an_enclosed_regulator_takes_larger_bleeds() -> None:
    open_, closed = (
        next(p for p in rated(d).parts if p.name == "DB") for d in (PAIR, replace(PAIR, enclosed=True))
    )
    assert closed.value > 5 * open_.value
    assert closed.pieces == open_.pieces


def test_limiter_surge_and_loss_by_hand() -> None:
    step = 2 * np.sqrt(2) * 253
    assert limiter_least_ohm(step, 80.0) == pytest.approx(8.94, abs=0.01)
    assert surge_energy_j(2.7e-6, step) == pytest.approx(0.691, abs=0.001)
    assert capacitor_loss_w(2.7e-6, np.array(230.0), 50, 0.001) == pytest.approx(0.0449, abs=1e-4)
    assert equalising_current_a(358, 358, 10, 10) == pytest.approx(35.8)
    limiter = next(p for p in rated().parts if p.name == "RB")
    assert limiter.value == 10.0  # next E12 above 8.94 Ω
    surge = next(s for s in limiter.stresses if s.burden is Burden.SURGE)
    assert surge.value == pytest.approx(0.691, abs=0.001)
    assert surge.moment is Moment.SWITCHING


def test_the_fuse_is_the_next_standard_value_above_1_6_times_the_worst_amps() -> None:
    full = solve(S16, S16_LOAD, [Source(253, 50)])[0].running
    assert full is not None
    fuse = next(p for p in rated().parts if p.name == "F")
    assert fuse.limit == pytest.approx(1.6 * full.line_current_a, rel=1e-6)
    assert fuse.value == 0.63
    assert next_fuse(0.5) == 0.5
    assert next_fuse(0.5001) == 0.63
    with pytest.raises(InputError, match="large enough"):
        next_fuse(FUSES_A[-1] + 1)
    assert next_watts(PartClass.METAL_FILM, 0.426) == 0.5


def test_capacitor_volts_are_worst_with_high_mains_and_include_standing_still() -> None:
    a = next(p for p in rated().parts if p.name == "A")
    volts = next(s for s in a.stresses if s.burden is Burden.VOLTS)
    assert (volts.position, volts.mains, volts.moment) == ("1", 1.1, Moment.AT_REST)
    running = solve(S16, S16_LOAD, [Source(253, 50, 1 / (1j * 2 * np.pi * 50 * 1.8e-6))])[0].running
    assert running is not None
    assert volts.value > 0.99 * running.series_voltage_v


def test_resonance_shows_in_the_volts_of_the_capacitor() -> None:
    """2.7 µF in front of the wall fan stands at far more than the supply; an X2 part will not do."""
    design = BankDesign((Capacitor(2.7e-6), Capacitor(1.5e-6)), ("B", "A"), Switch(2))
    found = rate(P4, P4_LOAD, MAINS, design)
    a = next(p for p in found.parts if p.name == "A")
    volts = next(s for s in a.stresses if s.burden is Burden.VOLTS)
    assert volts.value > 1.5 * 253
    assert "under-rated" in a.refusal
    assert "305 V" in a.refusal
    # Its bleed has to be laid out for those volts too.
    bleed = next(p for p in found.parts if p.name == "DA")
    crest = next(s for s in bleed.stresses if s.burden is Burden.CREST)
    assert crest.value * bleed.pieces == pytest.approx(np.sqrt(2) * volts.value, rel=0.02)
    assert crest.holds


def test_barred_steps_give_no_stress() -> None:
    design = BankDesign((Capacitor(1.5e-6), Capacitor(4.7e-6)), ("A", "B"), Switch(2))
    found = rate(P4, P4_LOAD, MAINS, design)
    assert found.usable == (True, False)
    b = next(p for p in found.parts if p.name == "B")
    assert b.stresses[0].value == 0


@pytest.mark.parametrize("design", [PAIR, HUB, replace(PAIR, switch=Switch(4, 2, True, True))])
def test_power_into_the_regulator_is_the_heat_of_its_parts(design: BankDesign) -> None:
    found = rated(design)
    for position, solution in zip(found.positions, found.nominal, strict=True):
        point = solution.running
        assert point is not None
        heat = sum(
            (position.part_voltage_v_per_a[p.name] * np.conj(position.part_current_a_per_a[p.name])).real
            for p in found.circuit.valued_parts
        )
        assert float(heat) * point.line_current_a**2 == pytest.approx(
            point.series_loss_w, rel=1e-9, abs=1e-12
        )
        total = point.shaft_power_w + point.rotor_loss_w + point.winding_loss_w + point.series_loss_w
        assert point.input_power_w == pytest.approx(total, rel=1e-9)


def test_bleeds_and_limiters_hardly_change_the_speed() -> None:
    found = rated()
    bare = solve_bank(bank_circuit(PAIR), 50)[1:]
    for with_all, without in zip(found.positions[:3], bare[:3], strict=True):
        assert abs(complex(with_all.impedance_ohm)) == pytest.approx(
            abs(complex(without.impedance_ohm)), rel=0.01
        )


def test_joined_and_bridged_capacitors_equalise_through_their_limiters() -> None:

    def peak(design: BankDesign) -> Stress:
        switch = next(p for p in rated(design).parts if p.name == "S")
        return next(s for s in switch.stresses if s.burden is Burden.EQUALISING)

    joined = peak(PAIR)
    assert joined.position == "3"
    assert joined.value == pytest.approx(2 * np.sqrt(2) * 253 / 20, rel=1e-6)
    make_first = replace(PAIR, switch=Switch(4, 2, True, True))
    assert {p.name for p in passages(rated(make_first).circuit, True) if p.paralleled or p.shorted} >= {
        "3", "1 to 2", "2 to 3", "3 to 4",
    }  # fmt: skip
    lone = BankDesign((Capacitor(1.8e-6),), ("A", "direct"), Switch(2))
    switch = next(p for p in rated(lone).parts if p.name == "S")
    assert all(s.burden is not Burden.EQUALISING for s in switch.stresses)
    # A alone, on a two-pole hub, bridges B.
    bridged = replace(PAIR, patterns=("A–B", "A", "B", "direct"))
    circuit = rated(bridged).circuit
    shorted = {p.name: p.shorted for p in passages(circuit, False)}
    assert any(shorted[str(i)] for i in (1, 2, 3))
    assert peak(bridged).value == pytest.approx(np.sqrt(2) * 253 / 10, rel=1e-6)


def test_the_truth_table_names_lugs_as_they_stand() -> None:
    table = dict(truth_table(rated().circuit))
    assert table["Off"] == ()
    assert table["3"] == ("1.3", "2.3")
    assert table["4"] == ("1.4",)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"bleed_ohm": (470e3, None)}, "more than 34 V after 1 s"),
        ({"limiter_ohm": (2.2, None)}, "may close on 80 A"),
        ({"fuse_a": 0.25}, "under-rated"),
    ],
)
def test_small_parts_set_by_hand_are_weighed_too(change: dict[str, object], words: str) -> None:
    found = rated(replace(PAIR, **change))  # type: ignore[arg-type]
    refused = [p for p in found.parts if p.refusal]
    assert refused[0].by_hand
    assert words in refused[0].refusal
    # What follows from it is said of the switch, and of nothing else.
    assert {p.name for p in refused[1:]} <= {"S"}


def test_classes_that_may_not_stand_in_line_say_why() -> None:
    with pytest.raises(InputError, match="DC volts"):
        check_capacitor("a", PartClass.DC_FILM)
    with pytest.raises(InputError, match="bursts"):
        check_capacitor("a", PartClass.ELECTROLYTIC)
    with pytest.raises(InputError, match="not a capacitor"):
        check_capacitor("a", PartClass.FUSE)


def test_every_part_and_joint_of_the_circuit_is_on_the_schematic() -> None:
    for design in (
        PAIR,
        HUB,
        BankDesign((Capacitor(1e-6),), ("A", "direct"), Switch(2, 1)),
        BankDesign((Capacitor(1e-6), Capacitor(2e-6)), ("A–B", "A"), Switch(2, 1)),
    ):
        circuit = rated(design).circuit
        drawing = draw(circuit)
        assert sorted(p.part for p in drawing.placed) == sorted(p.name for p in circuit.parts)
        boxes = [(p.x1, p.x2, p.y) for p in drawing.placed]
        for i, (x1, x2, y) in enumerate(boxes):
            assert x1 < x2
            # No two parts overlap, and no upright wire runs through one.
            assert all(not (y == v and x1 < b and a < x2) for a, b, v in boxes[i + 1 :])
            for w in drawing.wires:
                if w.x1 == w.x2 and min(w.y1, w.y2) < y < max(w.y1, w.y2):
                    assert not x1 + 1e-9 < w.x1 < x2 - 1e-9, (design.patterns, w)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.5e-6, 6e-6), st.floats(0.5e-6, 6e-6), st.sampled_from(["A", "B", "A∥B", "A–B"]))
def test_more_mains_never_means_less_stress(a: float, b: float, pattern: str) -> None:
    design = BankDesign((Capacitor(a), Capacitor(b)), (pattern, "direct"), Switch(2))
    low, high = (rate(S16, S16_LOAD, Source(v, 50), design) for v in (200.0, 230.0))
    for before, after in zip(low.parts[:1], high.parts[:1], strict=True):
        assert after.stresses[0].value >= before.stresses[0].value * (1 - 1e-6)
    assert len(low.solutions) == len(MAINS_SHARES)


# ---------------------------------------------------------------- acceptance


def step(speed: float, **changes: object) -> StepFacts:
    facts = StepFacts(1, speed, Band(speed - 10, speed + 10), 3.0, 100.0, 110.0, True, 2.5)
    return replace(facts, **changes)  # type: ignore[arg-type]


def numbered(steps: list[StepFacts], first: int = 1) -> list[StepFacts]:
    return [replace(s, number=k) for k, s in enumerate(steps, start=first)]


def test_every_rule_says_by_how_much_it_is_met_or_missed() -> None:
    steps = [step(120), step(200), step(280), step(330, motor_voltage_v=230.0, motor_voltage_high_v=253.0)]
    found = {r.key: r for r in judge_profile(Profile(), numbered(steps), 330.0, 230.0)}
    assert set(found) == set(RuleKey)
    assert all(r.met for r in found.values())
    assert found[RuleKey.LOWEST].by == pytest.approx(0.55 - 120 / 330)
    # ideal difference 70; the last one is 50
    assert found[RuleKey.EVENNESS].value == pytest.approx(20 / 70)
    assert found[RuleKey.EVENNESS].step == 4
    assert found[RuleKey.BANDS_APART].value == pytest.approx(30)
    assert found[RuleKey.MOTOR_VOLTS_HIGH].limit == pytest.approx(1.05 * 1.1 * 230)


@pytest.mark.parametrize(
    ("steps", "key", "at"),
    [
        ([step(200), step(330)], RuleKey.LOWEST, 1),
        ([step(120, start_margin=1.1), step(330)], RuleKey.START_MARGIN, 1),
        ([step(120), step(140), step(330)], RuleKey.EVENNESS, 2),
        ([step(120), step(135), step(330)], RuleKey.BANDS_APART, 2),
        ([step(120), step(330, motor_voltage_v=245.0)], RuleKey.MOTOR_VOLTS, 2),
        ([step(120), step(330, motor_voltage_high_v=270.0)], RuleKey.MOTOR_VOLTS_HIGH, 2),
        ([step(120, starts_low=False, start_margin_low=0.9), step(330)], RuleKey.STARTS_LOW, 1),
    ],
)
def test_a_rule_that_is_missed_names_the_step(steps: list[StepFacts], key: RuleKey, at: int) -> None:
    found = next(r for r in judge_profile(Profile(), numbered(steps), 330.0, 230.0) if r.key is key)
    assert not found.met
    assert found.step == at
    assert found.by > 0
    # Where the steps before them cannot be used, theirs are still their own numbers.
    later = next(r for r in judge_profile(Profile(), numbered(steps, 3), 330.0, 230.0) if r.key is key)
    assert later.step == at + 2


def test_rules_that_say_nothing_are_left_out() -> None:
    found = {
        r.key for r in judge_profile(Profile(bands_apart=False, starts_low=False), [step(100)], 330.0, 230.0)
    }
    always = {
        RuleKey.LOWEST,
        RuleKey.START_MARGIN,
        RuleKey.MOTOR_VOLTS,
        RuleKey.MOTOR_VOLTS_HIGH,
        RuleKey.DOUBT,
    }
    assert found == always
    assert judge_profile(Profile(), [], 330.0, 230.0) == ()
    with pytest.raises(InputError, match="outside"):
        Profile(evenness=3.0)
