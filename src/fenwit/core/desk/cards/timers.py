"""Timer cards: a microcontroller's registers, timer ICs, the edge behind a pull-up."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np

from fenwit.core.desk import (
    Answer,
    Call,
    Card,
    Group,
    Warned,
    at_least_0,
    choice,
    count,
    numbers,
    positive,
    share,
)  # fmt: skip
from fenwit.core.desk.typed import shown
from fenwit.core.errors import InputError

if TYPE_CHECKING:
    from fenwit.core.regulator.timers import Beat, Chip, Steered

_PRESCALERS = (1.0, 8.0, 64.0, 256.0, 1024.0)
_CHIP = (
    positive("supply_voltage_v", default=12.0),
    at_least_0("saturation_voltage_v", "left across its discharge transistor", default=0.0),
    at_least_0("delay_s", "of its comparators", default=0.0),
    at_least_0("stray_capacitance_f", "of the board, 10 to 20 pF", default=0.0),
)  # fmt: skip


def _chip(call: Call) -> Chip:
    from fenwit.core.regulator.timers import Chip

    return Chip(
        call.number("supply_voltage_v"), call.number("saturation_voltage_v"), call.number("delay_s"),
        call.number("stray_capacitance_f"),
    )  # fmt: skip


def _registers(call: Call) -> Answer:
    from fenwit.core.regulator.registers import TimerMode, timer_choices

    word, wanted = call.word("mode"), call.number("frequency_hz")
    prescalers = call.numbers("prescalers")
    if any(p != round(p) or p < 1 for p in prescalers):
        raise InputError(
            "prescalers", list(prescalers), "whole numbers from 1", "a timer divides by whole numbers"
        )
    clock, bits = call.number("clock_hz"), call.whole("bits")
    choices = timer_choices(
        clock, wanted, bits, [round(p) for p in prescalers], None if word == "any" else TimerMode(word)
    )
    best = choices[0]
    outputs: dict[str, Any] = {
        "mode": best.mode.value, "prescaler": best.prescaler, "top": best.top,
        "actual_frequency_hz": best.actual_frequency_hz, "frequency_error": best.frequency_error, "levels": best.levels,
        "duty_resolution": best.duty_resolution,
    }  # fmt: skip
    if call.has("duty"):
        compare = best.compare(call.number("duty"))
        outputs |= {"compare": compare, "actual_duty": best.actual_duty(compare)}
    outputs["candidates"] = [
        {
            "mode": c.mode.value, "prescaler": c.prescaler, "top": c.top, "actual_frequency_hz": c.actual_frequency_hz,
            "frequency_error": c.frequency_error, "levels": c.levels,
        }
        for c in choices
    ]  # fmt: skip
    turn = (
        f"{best.prescaler} · ({best.top} + 1)"
        if best.mode is TimerMode.FAST
        else f"2 · {best.prescaler} · {best.top}"
    )
    relation = f"f = {shown('f_hz', clock)}/({turn}) = {shown('f_hz', best.actual_frequency_hz, 5)}"
    warnings: tuple[Warned, ...] = ()
    if abs(best.frequency_error) > _NEAR:
        warnings = (
            Warned("off", f"{100 * best.frequency_error:+.2g} % off what is wanted".replace("-", "−")),
        )
    return Answer(outputs, ("mode", "prescaler", "top"), relation, warnings)


_NEAR = 0.02


def _beat_outputs(beat: Beat) -> dict[str, Any]:
    return {
        "time_high_s": float(beat.high_s), "time_low_s": float(beat.low_s), "frequency_hz": float(beat.frequency_hz),
        "duty": float(beat.duty),
    }  # fmt: skip


_OHM, _FARAD = (1e-2, 1e11), (1e-15, 1e-1)


def _astable(call: Call) -> Answer:
    from fenwit.core.regulator.timers import Astable, astable_for, solved

    chip = _chip(call)
    parts = ("resistance_a_ohm", "resistance_b_ohm", "capacitance_f")
    wanted = tuple(n for n in ("frequency_hz", "duty") if call.has(n))
    given = tuple(n for n in parts if call.has(n))
    blank = tuple(n for n in parts if n not in given)
    if len(blank) > len(wanted):
        raise InputError(blank[0], "", "three of parts, frequency and duty", "too little is given")
    if len(blank) < len(wanted):
        name = wanted[-1]
        raise InputError(
            name, call.given[name], "left blank", "one value too many: it follows from the parts"
        )
    value = {n: call.number(n) for n in given}
    goal = {n: call.number(n) for n in wanted}
    if goal.get("duty", 0.9) <= 0.5:
        reason = "the capacitor charges through both resistors and empties through one"
        raise InputError("duty", goal["duty"], "above 0.5, below 1", reason)

    def made(**more: float) -> Astable:
        v = {**value, **more}
        return Astable(v["resistance_a_ohm"], v["resistance_b_ohm"], v["capacitance_f"], chip)

    if blank == ("resistance_a_ohm", "resistance_b_ohm"):
        circuit = astable_for(goal["frequency_hz"], goal["duty"], value["capacitance_f"], chip)
    elif len(blank) == 2:
        raise InputError(
            blank[0], "", "given", "frequency and duty together give both resistors, from a capacitor"
        )
    elif not blank:
        circuit = made()
    else:
        of, name = wanted[0], blank[0]
        if of == "duty" and name == "capacitance_f":
            raise InputError("duty", goal[of], "left blank", "the resistors decide it, not the capacitor")
        ends = _FARAD if name == "capacitance_f" else _OHM
        unit = "Hz" if of == "frequency_hz" else ""
        circuit = made(**{
            name: solved("part", goal[of], *ends, lambda x: float(getattr(made(**{name: x}).beat, of)), of, unit)
        })  # fmt: skip
    outputs = _beat_outputs(circuit.beat)
    for name in wanted:
        outputs.pop(name)
    for name in blank:
        outputs[name] = float(np.asarray(getattr(circuit, name)))
    outputs["shop_frequency_hz"] = float(circuit.shop_hz)
    beat = circuit.beat
    relation = (
        f"t_high = (R_A + R_B) C ln((V − v_valley)/(V/3)) + t_d = {shown('t_s', float(beat.high_s))}, "
        f"t_low = R_B C ln((v_peak − V_sat)/(V/3 − V_sat)) + t_d = {shown('t_s', float(beat.low_s))}: "
        f"{shown('f_hz', float(beat.frequency_hz))}"
    )
    return Answer(outputs, blank or ("frequency_hz", "duty"), relation)


def _steered(call: Call) -> Answer:
    from fenwit.core.regulator.timers import Steered

    chip = _chip(call)
    charge, discharge, pot = (
        call.number(n) for n in ("resistance_high_ohm", "resistance_low_ohm", "pot_ohm")
    )
    diode, high = call.number("diode_drop_v"), call.assume("high_voltage_v", float(chip.supply_v))
    if call.has("travel"):
        call.forbid(("duty",), "the travel decides the duty: leave one of the two blank")
    if call.has("capacitance_f"):
        call.forbid(("frequency_hz",), "the capacitor decides the frequency: leave one of the two blank")
    blank = tuple(
        n
        for n, w in (("travel", "duty"), ("capacitance_f", "frequency_hz"))
        if not call.has(n) and call.number(w) >= 0
    )
    travel = call.number("travel") if call.has("travel") else 0.5
    farads = call.number("capacitance_f") if call.has("capacitance_f") else 1e-9

    def made(c: float) -> Steered:
        return Steered(charge, discharge, pot, c, chip, diode, high)

    # With a late comparator each depends a little on the other.
    for _ in range(60):
        was = (travel, farads)
        if "travel" in blank:
            travel = _travel_for(made(farads), call.number("duty"))
        if "capacitance_f" in blank:
            wanted = call.number("frequency_hz")
            farads = _farads_for(made, travel, wanted)
        if abs(travel - was[0]) + abs(farads / was[1] - 1) < 1e-13 or len(blank) < 2:
            break
    circuit = made(farads)
    beat, over = circuit.beat(travel), circuit.beat(np.linspace(0.0, 1.0, 101))
    outputs = _beat_outputs(beat)
    for name, value in (("travel", travel), ("capacitance_f", farads)):
        if name in blank:
            outputs.pop("duty" if name == "travel" else "frequency_hz")
            outputs[name] = value
    shortest = min(float(beat.high_s), float(beat.low_s))
    outputs |= {
        "shop_frequency_hz": float(circuit.shop_hz), "frequency_low_hz": float(over.frequency_hz.min()),
        "frequency_high_hz": float(over.frequency_hz.max()), "duty_at_0": float(over.duty[0]),
        "duty_at_1": float(over.duty[-1]),
        "collapsed": shortest < call.number("minimum_pulse_s"),
    }  # fmt: skip
    relation = (
        f"t_high = (R_high + x R_pot) C ln(…) = {shown('t_s', float(beat.high_s))}, "
        f"t_low = (R_low + (1 − x) R_pot) C ln(…) = "
        f"{shown('t_s', float(beat.low_s))}: {shown('f_hz', float(beat.frequency_hz))} at travel {travel:.4g}"
    )
    warnings: tuple[Warned, ...] = ()
    if outputs["collapsed"]:
        warnings = (
            Warned(
                "collapsed", "a pulse too short for the next stage vanishes: its output stands at one level"
            ),
        )
    return Answer(outputs, blank or ("frequency_hz", "duty"), relation, warnings)


def _farads_for(made: Callable[[float], Steered], travel: float, frequency_hz: float) -> float:
    from fenwit.core.regulator.timers import solved

    return solved(
        "capacitor",
        frequency_hz,
        *_FARAD,
        lambda c: float(made(c).beat(travel).frequency_hz),
        "frequency_hz",
        "Hz",
    )


def _travel_for(circuit: Steered, duty: float) -> float:
    from scipy.optimize import brentq

    low, high = (float(circuit.beat(x).duty) for x in (0.0, 1.0))
    if not low <= duty <= high:
        raise InputError(
            "duty", duty, f"{low:.4g} to {high:.4g}", "the end resistors keep the travel within these"
        )
    return float(brentq(lambda x: float(circuit.beat(x).duty) - duty, 0.0, 1.0, xtol=1e-15, rtol=1e-14))


def _one_shot(call: Call) -> Answer:
    from fenwit.core.regulator.timers import OneShot

    chip, clock, low = _chip(call), call.number("clock_frequency_hz"), call.number("trigger_low_s")
    blank = call.blank_of(("resistance_ohm", "capacitance_f", "duty"))
    ohm = call.number("resistance_ohm") if blank != "resistance_ohm" else 1e4
    farads = call.number("capacitance_f") if blank != "capacitance_f" else 1e-9
    shot = OneShot(clock, ohm, farads, low, chip)
    if blank != "duty":
        duty = call.number("duty")
        if not low * clock < duty < 1:
            raise InputError(
                "duty",
                duty,
                f"above {low * clock:.4g}, below 1",
                "shorter than the trigger or longer than a period it cannot be",
            )
        part = float(shot.ohm_for(duty) if blank == "resistance_ohm" else shot.farad_for(duty))
        if part <= 0:
            raise InputError(
                "duty", duty, "longer pulses", "the delay, or the stray capacitance, alone makes a longer one"
            )
        shot = (
            OneShot(clock, part, farads, low, chip)
            if blank == "resistance_ohm"
            else OneShot(clock, ohm, part, low, chip)
        )
    steady = bool(shot.steady)
    outputs: dict[str, Any] = {
        "width_s": float(shot.width_s), "pulse_s": float(shot.pulse_s), "edges_per_pulse": int(shot.edges),
        "swallowed": int(shot.edges) - 1, "frequency_hz": None if steady else float(shot.frequency_hz),
        "duty": float(shot.duty),
        "steady": steady, "longest_resistance_ohm": float(shot.longest_ohm),
    }  # fmt: skip
    if blank != "duty":
        outputs.pop("duty")
        outputs[blank] = float(np.asarray(getattr(shot, blank)))
    warnings: tuple[Warned, ...] = ()
    if shot.edges > 1:
        text = "the pulse is longer than a period: triggers that come meanwhile are swallowed, duty and frequency drop"
        warnings = (Warned("swallowed", text),)
    relation = (
        f"W = R C ln((V − V_sat)/(V/3)) + t_d = {shown('w_s', float(shot.width_s))} of {shown('t_s', 1 / clock)}: "
        f"duty {float(shot.duty):.4g}"
    )
    return Answer(outputs, (blank,), relation, warnings)


def _edge(call: Call) -> Answer:
    from fenwit.core.regulator.control_lead import PulledUp

    lead = PulledUp(
        call.number("pull_up_ohm"), call.number("load_capacitance_f"), call.number("threshold_v"),
        call.number("supply_voltage_v"),
    )  # fmt: skip
    duty, f = call.number("duty"), call.number("frequency_hz")
    seen = lead.seen_duty(duty, f)
    outputs = {
        "rise_delay_s": lead.rise_delay_s, "seen_duty": seen, "lost": seen <= 0,
        "sink_current_a": lead.sink_a(call.number("fans")),
    }  # fmt: skip
    relation = (
        f"t = R C ln(V/(V − V_thr)) = {shown('r_ohm', lead.pull_up_ohm)} · {shown('c_f', lead.load_f)} · "
        f"ln({lead.supply_v:g}/({lead.supply_v:g} − {lead.threshold_v:g})) = {shown('t_s', lead.rise_delay_s)}; "
        f"duty {duty:.4g} − t f = {seen:.4g}"
    )
    warnings: tuple[Warned, ...] = ()
    if seen <= 0:
        warnings = (
            Warned("lost", "the lead never reaches its threshold: the pulse is lost and it stands low"),
        )
    return Answer(outputs, ("seen_duty",), relation, warnings)


CARDS = (
    Card(
        "timer-registers", "registers of a microcontroller's timer", Group.TIMERS,
        "f = f_clk/(N (TOP + 1)), phase-correct f_clk/(2 N TOP)",
        (
            positive("clock_hz"), positive("frequency_hz"), count("bits", default=8.0, low=2.0, high=64.0),
            numbers("prescalers", default=_PRESCALERS),
            choice("mode", ("any", "fast", "phase-correct"), default="any"), share("duty"),
        ),
        _registers, "timers that switch after the compare count; others give compare/(TOP + 1)",
        "microcontroller pwm prescaler top compare",
        {"clock_hz": "16M", "frequency_hz": "25k", "duty": "0.4"}, ("actual_frequency_hz", "levels", "actual_duty"),
        picked=("prescaler", "top", "levels", "compare"),
    ),
    Card(
        "timer-astable", "timer IC, plain", Group.TIMERS, "t_high = (R_A + R_B) C ln 2, t_low = R_B C ln 2",
        (
            positive("resistance_a_ohm"), positive("resistance_b_ohm"), positive("capacitance_f"),
            positive("frequency_hz"),
            share("duty"), *_CHIP,
        ),
        _astable, "thresholds at a third and two thirds of its supply", "555 oscillator multivibrator frequency duty",
        {"resistance_a_ohm": "26k", "resistance_b_ohm": "26k", "capacitance_f": "1n"}, ("frequency_hz", "duty"),
    ),
    Card(
        "timer-astable-diodes", "timer IC with steering diodes and pot", Group.TIMERS,
        "t_high = (R_high + x R_pot) C ln(…), t_low = (R_low + (1 − x) R_pot) C ln(…)",
        (
            positive("resistance_high_ohm", "end resistor that charges"),
            positive("resistance_low_ohm", "end resistor that discharges"),
            positive("pot_ohm"), share("travel"), share("duty"), positive("capacitance_f"), positive("frequency_hz"),
            at_least_0("diode_drop_v", default=0.6),
            positive("high_voltage_v",
            "what the charge comes from; left out: the supply. A bipolar output: 1.5 V less"),
            at_least_0("minimum_pulse_s", "shorter ones vanish in the next stage", default=0.0), *_CHIP,
        ),
        _steered, "diodes as a constant drop: real ones run 5 to 10 % faster at small currents",
        "555 pwm potentiometer knob duty",
        {"resistance_high_ohm": "1k", "resistance_low_ohm": "1k", "pot_ohm": "50k", "travel": "0.5",
        "capacitance_f": "1n"},
        ("frequency_hz", "duty"),
    ),
    Card(
        "timer-one-shot-pwm", "clock and one-shot", Group.TIMERS, "W = R C ln((V − V_sat)/(V/3)) + t_d",
        (
            positive("clock_frequency_hz"), positive("resistance_ohm"), positive("capacitance_f"), share("duty"),
            at_least_0("trigger_low_s", "how long the trigger stays low", default=0.0), *_CHIP,
        ),
        _one_shot, "a level-triggered one-shot", "555 monostable pulse width swallowed",
        {"clock_frequency_hz": "25k", "resistance_ohm": "18k", "capacitance_f": "1n"},
        ("duty", "frequency_hz", "pulse_s"), picked=("edges_per_pulse", "swallowed"),
    ),
    Card(
        "pull-up-edge", "rising edge behind a pull-up", Group.TIMERS, "t = R C ln(V/(V − V_thr))",
        (
            positive("pull_up_ohm"), positive("load_capacitance_f"), at_least_0("threshold_v"),
            positive("supply_voltage_v", default=5.0),
            positive("frequency_hz"), share("duty", default=0.5), count("fans", default=1.0),
        ),
        _edge, "an ideal open drain; one lead's own pull-up and load", "open drain collector rise time lost pulse sink",
        {"pull_up_ohm": "4k7", "load_capacitance_f": "330p", "threshold_v": "2", "frequency_hz": "25k", "duty": "0.3"},
        ("seen_duty", "rise_delay_s"),
    ),
)  # fmt: skip
