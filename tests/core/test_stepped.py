"""Transformers with taps: known answers, balance, what the winding bears, joined taps, and a job told like any other."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.circuit import Position
from fenwit.core.circuit.fed import fed, joined_taps, port
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError
from fenwit.core.frame import frame, why
from fenwit.core.frame.study import study
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED
from fenwit.core.methods.seam import Missed
from fenwit.core.methods.stepped_voltage import STEPPED_VOLTAGE
from fenwit.core.methods.stepped_voltage.design import SteppedDesign, Tap, tapped_circuit
from fenwit.core.methods.stepped_voltage.rating import rate
from fenwit.core.methods.stepped_voltage.search import design_for, offers
from fenwit.core.methods.stepped_voltage.settings import TappedPoint, aimed, ideal_unit, on_taps
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import Source, StepVerdict, solve
from fenwit.core.regulator.transformer import (
    Measured,
    Winding,
    check_taps,
    first_rush,
    mains_side,
    neutral_open,
    transformer,
)
from fenwit.core.size.switch import Switch
from tests.core.shapes import balance, fan_of
from tests.core.test_frame import SWEEP
from tests.known.machines import MAINS, S16, S16_LOAD

WANTED = (150.0, 225.0, 290.0)
AUTO = SteppedDesign(Winding.AUTO, (Tap(85), Tap(122), Tap(167)), direct=True)
APART = SteppedDesign(Winding.SEPARATE, (Tap(86), Tap(125), Tap(178)), whole_v=180.0, va=63.0)
BUILT = replace(
    SWEEP,
    design=AUTO,
    sizing=replace(SWEEP.sizing, method=Method.STEPPED_VOLTAGE),
    wanted_rpm=(*WANTED, 330.0),
)


@pytest.fixture(scope="module")
def exact() -> MachineFan:
    """S16 itself in place of what was fitted."""
    fan = fan_of(SWEEP)
    belief = replace(fan.belief, motor=S16, load=S16_LOAD)
    return MachineFan(belief, MAINS, solve(S16, S16_LOAD, [MAINS])[0], fan.direct_bands)


# ---------------------------------------------------------------- known answers


@pytest.mark.parametrize(
    ("winding", "va", "whole", "tap", "known"),
    [
        # Independent prototype: Z_T, rpm, motor V, I_2, copper W, P_in W, I_1, power factor
        ("auto", 25, None, 85, (19.10, 3.70, 147.9, 82.21, 0.1438, 0.395, 14.55, 0.0752, 0.842)),
        ("auto", 25, None, 122, (20.42, 3.95, 224.0, 117.95, 0.1959, 0.783, 26.22, 0.1219, 0.935)),
        ("auto", 25, None, 167, (16.31, 3.16, 288.7, 162.93, 0.2476, 1.000, 43.71, 0.1950, 0.975)),
        ("separate", 63, 180, 86, (19.06, 2.93, 150.2, 83.20, 0.1453, 0.403, 16.83, 0.0968, 0.756)),
        ("separate", 63, 180, 125, (31.77, 6.20, 225.4, 118.67, 0.1968, 1.230, 28.92, 0.1421, 0.885)),
        ("separate", 63, 180, 180, (54.00, 12.86, 291.9, 166.28, 0.2512, 3.407, 49.53, 0.2262, 0.952)),
    ],
)
def test_a_fan_on_a_tap(
    exact: MachineFan, winding: str, va: float, whole: float | None, tap: float, known: tuple[float, ...]
) -> None:
    unit = transformer(Winding(winding), va, 230, 50, whole)
    z = unit.impedance_ohm(tap, 50)
    (solution,) = on_taps(exact, unit, [tap])
    p = solution.running
    assert isinstance(p, TappedPoint)
    found = (z.real, z.imag, p.speed_rpm, p.motor_voltage_v, p.line_current_a, p.copper_w)
    assert (*found, p.input_power_w, p.mains_current_a, p.power_factor) == pytest.approx(
        known, rel=5e-4, abs=6e-3
    )


@pytest.mark.parametrize(
    ("winding", "va", "taps", "watts", "loss", "amps", "factor"),
    [
        (
            Winding.AUTO, 25, (85.9, 122.5, 168.3), (14.81, 26.41, 44.27), (2.8, 3.2, 3.4),
            (0.0761, 0.1226, 0.1974), (0.845, 0.936, 0.975),
        ),
        (
            Winding.SEPARATE, 63, (85.9, 124.8, 177.6), (16.80, 28.84, 48.56), (4.8, 5.6, 7.7),
            (0.0967, 0.1418, 0.2221), (0.755, 0.884, 0.950),
        ),
    ],
)  # fmt: skip
def test_the_tap_of_three_speeds(
    exact: MachineFan,
    winding: Winding,
    va: float,
    taps: tuple[float, ...],
    watts: tuple[float, ...],
    loss: tuple[float, ...],
    amps: tuple[float, ...],
    factor: tuple[float, ...],
) -> None:
    """*Independent*: chapter "choosing", S16 at 150, 225 and 290 rpm, smallest frame that bears it."""
    unit = ideal_unit(exact, winding, WANTED)
    assert unit.va == va
    needed = [a.needed for a in aimed(exact, unit, WANTED).values()]
    points = [n.solution.running for n in needed if n.solution]
    assert [n.value for n in needed] == pytest.approx(taps, abs=0.06)
    assert [p.input_power_w for p in points if p] == pytest.approx(watts, abs=0.006)
    assert [p.series_loss_w for p in points if p] == pytest.approx(loss, abs=0.06)
    assert [p.mains_current_a for p in points if isinstance(p, TappedPoint)] == pytest.approx(amps, abs=6e-5)
    assert [p.power_factor for p in points if p] == pytest.approx(factor, abs=6e-4)


def test_the_first_rush_of_two_frames() -> None:
    """*Independent*: auto 25 VA 2.4 A, 0.027 A²s, never above 4.3 A; separate 63 VA 4.0 A, 0.078 A²s, 8.0 A."""
    auto = first_rush(transformer(Winding.AUTO, 25, 230, 50), 253, 50)
    apart = first_rush(transformer(Winding.SEPARATE, 63, 230, 50, 180), 253, 50)
    assert (auto.crest_a, auto.i2t_a2s, auto.bound_a) == pytest.approx((2.40, 0.0267, 4.34), rel=0.01)
    assert (apart.crest_a, apart.i2t_a2s, apart.bound_a) == pytest.approx((4.00, 0.078, 8.03), rel=0.01)


def test_the_neutral_end_open_is_a_choke() -> None:
    """*Independent*: 1458 Ω behind the 122 V tap, 145 rpm while linear, 207 V on a section meant for 108."""
    off = neutral_open(transformer(Winding.AUTO, 25, 230, 50), 122, 50)
    assert off is not None
    assert (off.choke_ohm, off.section_v) == pytest.approx((1458, 108), rel=1e-3)
    point = solve(S16, S16_LOAD, [Source(230, 50, 1j * off.choke_ohm)])[0].running
    assert point is not None
    assert point.speed_rpm == pytest.approx(145, abs=0.6)
    assert point.series_voltage_v == pytest.approx(207, abs=0.6)
    assert neutral_open(transformer(Winding.SEPARATE, 63, 230, 50, 180), 122, 50) is None


def test_two_taps_joined_carry_the_same_whatever_lies_between(exact: MachineFan) -> None:
    """*Independent*: V over the whole winding's ohms, 230/82 = 2.8 A against 0.217 rated, by the circuit itself."""
    unit = transformer(Winding.AUTO, 25, 230, 50)
    circuit = tapped_circuit(AUTO, unit)
    assert not joined_taps(circuit, make_before_break=False)
    states = joined_taps(circuit, make_before_break=True)
    assert [s.name for s in states] == ["1 to 2", "2 to 3", "3 to 4"]
    for state in states:
        through = fed(circuit, 50, state, 230).part_a
        assert max(abs(a) for a in through.values()) == pytest.approx(
            230 / abs(unit.primary_ohm + 1j * unit.primary_leakage_ohm), rel=0.01
        )
    made = rate(exact, replace(AUTO, switch=Switch(positions=4, make_before_break=True)))
    refused = next(p.refusal for p in made.parts if p.name == "S")
    assert "2.7 A run round in a winding made for 0.22 A" in refused


# ---------------------------------------------------------------- the circuit and the formula agree


def test_each_position_is_the_source_that_is_reckoned_with() -> None:
    unit = transformer(Winding.AUTO, 25, 230, 50)
    circuit = tapped_circuit(AUTO, unit)
    assert port(circuit, 50, circuit.positions[0], 230) is None
    for position, volts in zip(circuit.positions[1:], AUTO.step_v, strict=True):
        found = port(circuit, 50, position, 230)
        assert found is not None
        assert found.open_v == pytest.approx(volts, rel=1e-9)
        assert found.impedance_ohm == pytest.approx(unit.impedance_ohm(volts, 50), abs=1e-9)
    # A separate one drops some volts for its magnetising current, which the formula leaves out.
    apart = transformer(Winding.SEPARATE, 63, 230, 50, 180)
    circuit = tapped_circuit(APART, apart)
    for position, volts in zip(circuit.positions[1:], APART.step_v, strict=True):
        found = port(circuit, 50, position, 230)
        assert found is not None
        assert abs(found.open_v) == pytest.approx(volts, rel=0.01)
        assert found.impedance_ohm.real == pytest.approx(apart.impedance_ohm(volts, 50).real, rel=0.01)


def test_the_explicit_winding_takes_what_the_formula_says(exact: MachineFan) -> None:
    """The mesh of both sections with its iron: the motor's volts to rounding, I_1 and P_in within 0.2 %."""
    unit = transformer(Winding.AUTO, 25, 230, 50)
    design = replace(AUTO, direct=False)
    circuit = tapped_circuit(design, unit)
    for k, volts in enumerate(design.step_v):
        (solution,) = on_taps(exact, unit, [volts])
        point = solution.running
        assert isinstance(point, TappedPoint)
        y = complex(S16.respond(np.asarray(point.slip), 50).admittance_s)
        drawn = volts * y / (1 + unit.impedance_ohm(volts, 50) * y)
        whole = fed(circuit, 50, circuit.positions[k + 1], 230, {"M": drawn})
        assert abs(whole.net_v["M"]) == pytest.approx(point.motor_voltage_v, rel=1e-9)
        line = whole.part_a["W4"]
        assert abs(line) == pytest.approx(point.mains_current_a, rel=2e-3)
        assert 230 * line.real == pytest.approx(point.input_power_w, abs=0.1)


@given(st.floats(0.06, 0.94))
def test_an_auto_winding_is_the_same_from_both_ends(t: float) -> None:
    unit = transformer(Winding.AUTO, 40, 230, 50)
    assert unit.impedance_ohm(230 * t, 50) == pytest.approx(unit.impedance_ohm(230 * (1 - t), 50))


@given(st.sampled_from([10, 16, 25, 40, 63, 100, 160, 250]))
def test_a_separate_one_at_its_own_volts_has_its_class_s_ohms(va: float) -> None:
    unit = transformer(Winding.SEPARATE, va, 230, 50, 230)
    assert unit.impedance_ohm(230, 50).real == pytest.approx(unit.regulation * 230**2 / va)


@given(st.sampled_from(Winding), st.floats(60, 175), st.floats(0.9, 1.1))
def test_watts_in_are_watts_out(winding: Winding, tap: float, mains: float) -> None:
    unit = transformer(winding, 63, 230, 50, 180)
    supply = Source(230 * mains, 50)
    z = unit.impedance_ohm(tap, 50)
    (solution,) = solve(S16, S16_LOAD, [Source(tap * mains, 50, z)])
    point = solution.running
    assert point is not None
    y = complex(S16.respond(np.asarray(point.slip), 50).admittance_s)
    amps = np.array(tap * mains * y / (1 + z * y))
    motor_w = np.array(point.shaft_power_w + point.rotor_loss_w + point.winding_loss_w)
    side = mains_side(unit, supply.voltage_v, 50, tap, amps, motor_w)
    assert float(side.input_power_w) == pytest.approx(float(motor_w + side.copper_w + side.core_w), rel=1e-12)
    # And as volts times the in-phase part of the line current, but for what the leakage turns.
    line = unit.ratio(tap) * amps + unit.idle_a(supply.voltage_v, 50)
    assert supply.voltage_v * line.real == pytest.approx(float(side.input_power_w), rel=1e-9)


def test_a_two_terminal_solver_refuses_a_circuit_on_the_neutral() -> None:
    with pytest.raises(InputError, match="neutral"):
        solve_bank(tapped_circuit(AUTO, transformer(Winding.AUTO, 25, 230, 50)), 50)


def test_a_fed_circuit_says_what_it_cannot_solve() -> None:
    circuit = tapped_circuit(AUTO, transformer(Winding.AUTO, 25, 230, 50))
    with pytest.raises(InputError, match="nothing feeds it"):
        fed(circuit, 50, circuit.positions[0], 230, {"M": 1.0})
    with pytest.raises(InputError, match="two terminals"):
        fed(replace(circuit, neutral=""), 50, circuit.positions[1], 230)
    short = replace(circuit, neutral="L")
    with pytest.raises(InputError, match="joined"):
        fed(short, 50, Position("1", frozenset({"1.1"})), 230)


# ---------------------------------------------------------------- the design and the frame


@pytest.mark.parametrize(
    ("change", "field", "reason"),
    [
        ({"taps": ()}, "taps", "one to six"),
        ({"taps": (Tap(120), Tap(90))}, "taps", "more volts than the one before"),
        ({"taps": (Tap(120), Tap(240))}, "taps", "without a boost section"),
        ({"taps": (Tap(90, 30.0), Tap(120, 25.0))}, "ohms", "further out"),
        ({"taps": (Tap(90, 30.0), Tap(120, 80.0))}, "ohms", "no such winding"),
        ({"taps": (Tap(-5),)}, "taps", ""),
        ({"winding": Winding.SEPARATE}, "direct", "hangs on the mains"),
        ({"switch": Switch(positions=3)}, "switch.positions", "4 steps need"),
        ({"va": 2000.0}, "va", "no fan transformer"),
        ({"room_c": 90.0}, "room_c", ""),
        ({"rated_v": 0.0}, "rated_v", ""),
    ],
)
def test_a_transformer_that_cannot_be(change: dict[str, object], field: str, reason: str) -> None:
    with pytest.raises(InputError) as caught:
        replace(AUTO, **change)  # type: ignore[arg-type]
    assert caught.value.field == field
    assert reason in str(caught.value)


def test_no_tap_beyond_the_whole_secondary() -> None:
    with pytest.raises(InputError, match="than the whole winding"):
        check_taps(Winding.SEPARATE, 230, (90, 190), 180)


@pytest.mark.parametrize(
    ("read", "field"),
    [
        (Measured(idle_w=0.0), "idle_w"),
        (Measured(idle_w=2.4, idle_a=0.005), "idle_a"),
        (Measured(idle_a=3.0), "idle_a"),
        (Measured(primary_ohm=8.2e4), "primary_ohm"),
    ],
)
def test_readings_that_no_such_frame_gives(read: Measured, field: str) -> None:
    with pytest.raises(InputError) as caught:
        transformer(Winding.AUTO, 25, 230, 50, measured=read)
    assert caught.value.field == field


def test_what_was_read_replaces_what_is_usual_and_narrows_the_bands(exact: MachineFan) -> None:
    usual, read = AUTO, replace(AUTO, measured=Measured(2.0, 0.04, 90.0))
    unit = rate(exact, read).unit
    assert (unit.core_loss_w, unit.primary_ohm) == (2.0, 90.0)
    assert abs(unit.idle_a(230, 50)) == pytest.approx(0.04)
    loose, tight = (
        STEPPED_VOLTAGE.steps(exact, d, WANTED, False)[1].bands[LINE_CURRENT.key] for d in (usual, read)
    )
    assert tight.half_width < loose.half_width


def test_the_smallest_frame_that_bears_it_is_taken(exact: MachineFan) -> None:
    rated = rate(exact, AUTO)
    assert rated.unit.va == 25
    assert not rated.refusal
    small = rate(exact, replace(AUTO, va=16.0))
    assert small.refusal.startswith("too small")
    assert all(not p.refusal for p in rated.parts)
    # Direct as well: 1.6 × 0.335 A.
    assert next(p.value for p in rated.parts if p.name == "F") == 0.63
    assert next(p.value for p in rate(exact, replace(AUTO, direct=False)).parts if p.name == "F") == 0.4


def test_a_worse_class_in_warm_air_is_too_hot(exact: MachineFan) -> None:
    hot = rate(exact, replace(AUTO, va=25.0, room_c=60.0))
    cool = rate(exact, replace(AUTO, va=25.0, room_c=20.0))
    assert hot.winding[1].value - cool.winding[1].value == pytest.approx(40.0)
    assert cool.winding[1].holds


def test_a_frame_for_sixty_hertz_saturates_on_fifty() -> None:
    design = replace(AUTO, rated_hz=60.0)
    fan = fan_of(SWEEP)
    steps = STEPPED_VOLTAGE.steps(fan, design, WANTED, False)
    assert {s.verdict for s in steps} == {StepVerdict.BARRED}
    assert "1.20 × its volts per hertz" in steps[0].reasons[0].words
    assert all(s.shown is None for s in steps)


# ---------------------------------------------------------------- choosing, and through the frame


def test_offers_hit_the_wanted_speeds() -> None:
    fan = fan_of(BUILT)
    found = offers(fan, BUILT, None)
    assert {o.design.winding for o in found} == set(Winding)
    for offer in found:
        assert not offer.refusal
        for n, w in zip(offer.speed_rpm, BUILT.wanted_rpm, strict=True):
            assert abs(n - w) < 0.01 * fan.full_rpm
    with pytest.raises(InputError, match="start"):
        design_for(fan, (12.0, 200.0), Winding.AUTO, None, BUILT)
    with pytest.raises(InputError, match="whole volts"):
        design_for(fan, (200.0, 200.2), Winding.AUTO, None, BUILT)
    with pytest.raises(InputError, match="speeds on taps"):
        design_for(fan, (330.0,), Winding.AUTO, None, BUILT)


def test_a_job_on_taps_is_told_like_any_other() -> None:
    shown = frame(BUILT)
    assert [m.label for m in shown.marks] == ["85 V", "122 V", "167 V", "direct"]
    assert all(m.verdict == "ok" for m in shown.marks)
    speeds = [m.predicted.value for m in shown.marks if m.predicted]
    assert all(a < b for a, b in pairwise(speeds))
    for path in shown.paths:
        into, out = balance(path)
        assert into == pytest.approx(out, rel=1e-6)
        assert any("W copper" in v.text for v in path.places[1].values)
        assert any("W iron" in v.text for v in path.places[1].values)
    assert [p.name for p in shown.parts] == ["TR", "F", "S", "W"]
    assert len(shown.rules) >= 4
    assert len(shown.spreads) == 4
    assert {"auto-no-isolation", "idle-taps"} <= {c.key for c in shown.cautions}
    assert study(BUILT).plot is not None
    assert len(study(BUILT).plot.motors) == 4  # type: ignore[union-attr]  # direct is the full curve already


def test_every_number_of_it_explains_itself() -> None:
    shown = frame(BUILT)
    at_step = "speed motor-volts amps line-amps watts power-factor regulator-heat needed start"
    for of in at_step.split():
        assert why(BUILT, f"step:2:{of}").numbers
    for part in shown.parts:
        for s in part.stresses:
            assert why(BUILT, f"part:{part.name}:{s.burden}").equation
    assert "½ V max(t, 1 − t)" in why(BUILT, "part:TR:value").equation
    assert "first rush" in why(BUILT, "part:F:value").equation
    with pytest.raises(InputError):
        why(BUILT, "part:S:value")


def test_motor_side_is_alike_for_every_sine_method(exact: MachineFan) -> None:
    """At one speed a tap leaves the motor what a resistor leaves it."""
    unit = ideal_unit(exact, Winding.AUTO, WANTED)
    for wanted, aim in aimed(exact, unit, WANTED).items():
        tapped = aim.needed.solution.running if aim.needed.solution else None
        (lower,) = solve(S16, S16_LOAD, [Source(float(tapped.motor_voltage_v), 50)]) if tapped else (None,)
        assert tapped is not None
        assert lower is not None
        assert lower.running is not None
        assert lower.running.speed_rpm == pytest.approx(wanted, rel=1e-4)
        assert lower.running.motor_loss_w == pytest.approx(tapped.motor_loss_w, rel=1e-4)


def test_what_a_miss_points_to() -> None:
    fan = fan_of(BUILT)
    steps = STEPPED_VOLTAGE.steps(fan, AUTO, BUILT.wanted_rpm, False)

    def said(number: int, value: float, quantity=SPEED, low: bool = True) -> str:  # type: ignore[no-untyped-def]
        return STEPPED_VOLTAGE.missed(fan, AUTO, steps[number - 1], Missed(quantity, value, low, True))

    assert "thermal cut-out" in said(2, 0.0)
    third = steps[2].shown
    assert third is not None
    assert "167 V tap fed it" in said(2, third.speed_rpm, low=False)
    assert "the fan itself is sound" in said(3, third.speed_rpm * 0.93)
    assert "Check the meter" in said(2, 100.0, MOTOR_VOLTS)


def test_what_it_is_goes_into_the_record() -> None:
    fan = fan_of(BUILT)
    steps = STEPPED_VOLTAGE.steps(fan, AUTO, BUILT.wanted_rpm, False)
    (annex,) = STEPPED_VOLTAGE.annexes(fan, AUTO, steps)
    assert "autotransformer, 25 VA, 230 V 50 Hz, taps 85, 122, 167 V" in annex.lines[0]
    assert any("saturates" in line for line in annex.lines)
    (table,) = STEPPED_VOLTAGE.tables(fan, steps)
    assert len(table.rows) == 160
