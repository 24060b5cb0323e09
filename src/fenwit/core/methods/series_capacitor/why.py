"""Why this number: of a bank's steps and parts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.machine import LINEAR
from fenwit.core.methods.common.parts import chosen_words, found_stress, fuse_why, part_why
from fenwit.core.methods.common.series import STEP, heat_of, needed_inverse
from fenwit.core.methods.seam import Case, Explained, Why
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.rating import Rated
from fenwit.core.methods.series_capacitor.steps import Pattern, regulated
from fenwit.core.size.classes import DERATING, FUSE_FACTOR, FUSE_MELTING
from fenwit.core.size.rated import Burden, RatedKind, RatedPart, Stress
from fenwit.core.size.small_parts import AIR_C, AIR_K_PER_W, ENCLOSED, TOUCHABLE

BankCase = Case[MachineFan, BankDesign, Pattern]


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    inverse = needed_inverse(step)
    if (
        inverse is None
        or inverse.value is None
        or inverse.solution is None
        or inverse.solution.running is None
    ):
        reason = inverse.reason if inverse else "full speed needs nothing in the line"
        raise InputError("of", f"step {step.number}", "a step that a capacitor gives", reason)
    point, supply = inverse.solution.running, case.subject.supply
    x = 1 / (2 * np.pi * supply.frequency_hz * inverse.value)
    numbers = [
        f"at {inverse.wanted_speed_rpm:.0f} rpm the motor wants {q.plain(point.motor_voltage_v)} V",
        f"|1 − jX Y| = {supply.voltage_v:.0f}/{q.plain(point.motor_voltage_v)} gives X = {x:.0f} Ω, "
        f"C = 1/(2π f X) = {q.show(inverse.value, q.CAPACITANCE)}",
    ]
    if step.need and step.need.hint:
        numbers.append(
            f"the pencil rule X = Z_fan (V − V_fan)/V_fan says {q.show(step.need.hint.at, q.CAPACITANCE)}: it adds "
            "volts in a straight line that stand nearly at right angles"
        )
    return Why(
        f"What step {step.number} needs in the line",
        q.show(inverse.value, q.CAPACITANCE, 2),
        "|1 + Z Y|² = (V / V_m)²,  Z = −jX",
        tuple(numbers),
        case.subject.assumptions,
        "Solved forwards again: stable, reached from rest, within motor volts.",
        "Quadratic in X at a fixed slip (docs/machine.md)",
    )


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "percentiles 5 and 95 of n over sampled parts, mains and motors",
        (
            f"mains evenly within ±{100 * case.mains:.0f} %",
            "parts evenly within their tolerance; a measured one within the meter's 1.5 %",
            f"{case.subject.belief.draws_kept} motors that fit the readings",
        ),
        "Sampling, seeded, so that the same job gives the same band (docs/calibration.md)",
    )


# ---------------------------------------------------------------- parts


def _rated(case: BankCase) -> Rated:
    if case.design is None:
        raise InputError("of", "part", "a job with a bank", "no bank is chosen yet")
    return regulated(case.subject, case.design).rated


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    rated = _rated(case)
    part, stress = found_stress(rated.parts, name, what)
    if stress is None:
        if part.kind not in _VALUE:
            allowed = "a bleed, a limiter or the fuse"
            raise InputError("of", part.name, allowed, "this value is chosen, not computed")
        return _VALUE[part.kind](rated, part)
    equation, numbers, assumptions = _STRESS[stress.burden](case, part, stress)
    return part_why(_role(part), part, stress, equation, numbers, assumptions)


def _role(part: RatedPart) -> str:
    if part.of:
        return f"{part.kind.value.capitalize()} of {part.of}"
    return f"Capacitor {part.name}" if part.kind is RatedKind.CAPACITOR else part.kind.value.capitalize()


_Stressed = tuple[str, tuple[str, ...], tuple[str, ...]]


def _volts(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    if part.kind is not RatedKind.CAPACITOR:
        return "volts across what is open, or to earth", (f"{q.plain(s.value)} V",), ()
    hertz = case.subject.supply.frequency_hz
    amps = s.value * 2 * np.pi * hertz * part.value
    return (
        "V_C = I / (2π f C), resonance included",
        (
            f"{q.show(amps, q.CURRENT)} through {q.show(part.value, q.CAPACITANCE)} at "
            f"{hertz:g} Hz = {q.plain(s.value)} V",
        ),
        ("standing still counts: the fan may be held fast",),
    )


def _crest(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "V̂ = √2 V / number in series",
        (f"√2 × {s.value * part.pieces / np.sqrt(2):.0f} V / {part.pieces} = {s.value:.0f} V",),
        (f"one resistor works at up to {s.rating:g} V; that is why {part.pieces} stand in series",),
    )


def _amps(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    extra = f"; the limit is rated amps / {FUSE_FACTOR:g}" if part.kind is RatedKind.FUSE else ""
    return "I through the part while the fan runs", (f"{q.show(s.value, q.CURRENT)}{extra}",), ()


def _watts(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    used = f"chosen so that at most {100 * DERATING:.0f} % of the rated watts are used"
    ohms = q.show(part.value, q.RESISTANCE)
    if part.kind is RatedKind.BLEED:
        volts = np.sqrt(s.value * part.value)
        return "P = V²/R", (f"({volts:.0f} V)² / {ohms} = {s.value:.2g} W each",), (used,)
    amps = np.sqrt(s.value / part.value)
    return "P = I² R", (f"({amps:.3g} A)² × {ohms} = {s.value:.2g} W",), (used,)


def _surge(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    design = _rated(case).design
    c = design.capacitors[design.names.index(part.of)].value_f
    step = np.sqrt(2 * s.value / c)
    return (
        "E = ½ C (2√2 V)²",
        (f"½ × {q.show(c, q.CAPACITANCE)} × ({step:.0f} V)² = {s.value:.2g} J",),
        (
            "switched on at the crest with the capacitor charged the other way; the motor in the loop is left out",
        ),
    )


def _peak(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = V_step / R_limiter",
        (f"{s.value:.0f} A at the first instant; the contacts may close on {s.rating:g} A",),
        ("capacitors charged the worst way round; no help from the motor's inductance",),
    )


def _equalising(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = (V̂_A + V̂_B)/(R_A + R_B); a bridged capacitor: V̂/R",
        (f"{s.value:.0f} A through the limiters; the contacts may close on {s.rating:g} A",),
        ("each capacitor may hold its crest, either way round; bleeds have had no time",),
    )


def _melting(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "I²t = ½ C V_step² / R_limiter",
        (f"{s.value:.2g} A²s against {FUSE_MELTING:g} In² = {s.rating:.3g} A²s",),
        ("both capacitors of a pair rush in at once",),
    )


def _case_heat(case: BankCase, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "case = air + 8 K/W × heat of all parts + R_th × V² ω C tan δ",
        (
            f"{s.value:.0f} °C with air at {AIR_C:g} °C around the housing and {AIR_K_PER_W:g} K/W for the housing",
        ),
        ("an estimate; feel after an hour, power off",),
    )


_STRESS: dict[Burden, Callable[[BankCase, RatedPart, Stress], _Stressed]] = {
    Burden.VOLTS: _volts,
    Burden.CREST: _crest,
    Burden.AMPS: _amps,
    Burden.WATTS: _watts,
    Burden.SURGE: _surge,
    Burden.PEAK: _peak,
    Burden.EQUALISING: _equalising,
    Burden.MELTING: _melting,
    Burden.HEAT: _case_heat,
}


def _bleed_value(rated: Rated, part: RatedPart) -> Why:
    design = rated.design
    safe, time = ENCLOSED if design.enclosed else TOUCHABLE
    crest = next(s for s in part.stresses if s.burden is Burden.CREST).value * part.pieces
    c = design.capacitors[design.names.index(part.of)].value_f
    where = "inside a closed housing" if design.enclosed else "where the pins can be touched"
    return Why(
        f"Bleed of {part.of}",
        " + ".join([q.show(part.value, q.RESISTANCE)] * part.pieces),
        "R ≤ t / (C ln(V̂0 / V_safe))",
        (
            f"{time:g} s / ({q.show(c, q.CAPACITANCE)} × ln({crest:.0f} V / {safe:g} V)) = "
            f"{q.show(part.limit or 0, q.RESISTANCE, 4)}",
            f"{part.pieces} in series, since {crest:.0f} V is more than one resistor works at",
        ),
        (f"at most {safe:g} V after {time:g} s, {where}", chosen_words(part)),
        "Capacitance as stated; a part at the top of its tolerance takes that much longer.",
        "Exponential discharge",
    )


def _limiter_value(rated: Rated, part: RatedPart) -> Why:
    design = rated.design
    surge = next(s for s in part.stresses if s.burden is Burden.SURGE).value
    step = np.sqrt(2 * surge / design.capacitors[design.names.index(part.of)].value_f)
    return Why(
        f"Limiter of {part.of}",
        q.show(part.value, q.RESISTANCE),
        "R ≥ 2√2 V / I_contact",
        (f"{step:.0f} V / {design.switch.make_current_a:g} A = {q.show(part.limit or 0, q.RESISTANCE)}",),
        (
            "mains at +10 %, switched on at the crest, capacitor charged the other way",
            chosen_words(part),
        ),
        "The switch's data sheet says what it may close on.",
        "Ohm's law at the first instant",
    )


def _fuse_value(rated: Rated, part: RatedPart) -> Why:
    return fuse_why(part, chosen_words(part), "I_n ≥ 1.6 I_running, and 3 I_n² ≥ I²t of the first rush")


_VALUE: dict[RatedKind, Callable[[Rated, RatedPart], Why]] = {
    RatedKind.BLEED: _bleed_value,
    RatedKind.LIMITER: _limiter_value,
    RatedKind.FUSE: _fuse_value,
}

EXPLAINED = Explained(
    step={
        **STEP,
        "needed": _needed,
        "regulator-heat": heat_of(
            "limiters, bleeds and the capacitors' tan δ, as fitted; wire and contacts left out",
            "Nodal analysis of the bank's circuit",
        ),
    },
    part=_part,
    as_built=(
        "nominal or measured capacitors, nominal mains, the likeliest motor",
        "bleeds and limiters are in these speeds; the list of banks ranks by capacitors alone and differs a little",
    ),
    spread=_spread,
    validity=LINEAR,
)
