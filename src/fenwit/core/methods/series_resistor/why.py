"""Why this number: of a resistor regulator's steps and parts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.machine import LINEAR
from fenwit.core.methods.common.parts import chosen_words, found_stress, fuse_why, part_why
from fenwit.core.methods.common.series import STEP, heat_of, needed_inverse
from fenwit.core.methods.seam import Case, Explained, Why
from fenwit.core.methods.series_resistor.builds import BUILDS, COOLING_EXPONENT, ENCLOSURES
from fenwit.core.methods.series_resistor.design import Resistor, ResistorDesign
from fenwit.core.methods.series_resistor.rating import Rated
from fenwit.core.methods.series_resistor.steps import Ohms, regulated
from fenwit.core.size.classes import DERATING, FUSE_FACTOR, FUSE_MELTING
from fenwit.core.size.rated import Burden, RatedKind, RatedPart, Stress

ResistorCase = Case[MachineFan, ResistorDesign, Ohms]
_Stressed = tuple[str, tuple[str, ...], tuple[str, ...]]


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    inverse = needed_inverse(step)
    solution = inverse.solution if inverse else None
    point = solution.running if solution else None
    if inverse is None or inverse.value is None or point is None:
        reason = inverse.reason if inverse else "full speed needs nothing in the line"
        raise InputError("of", f"step {step.number}", "a step that a resistor gives", reason)
    volts = case.subject.supply.voltage_v
    return Why(
        f"What step {step.number} needs in the line",
        q.show(inverse.value, q.RESISTANCE),
        "|1 + R Y|² = (V / V_m)²",
        (
            f"at {inverse.wanted_speed_rpm:.0f} rpm the motor wants {q.plain(point.motor_voltage_v)} V",
            f"|1 + R Y| = {volts:.0f}/{q.plain(point.motor_voltage_v)} gives R = {q.show(inverse.value, q.RESISTANCE)}",
            f"{q.show(point.line_current_a, q.CURRENT)} through it make {q.plain(point.series_loss_w, 2)} W of heat",
        ),
        case.subject.assumptions,
        "Solved forwards again: stable, reached from rest, within motor volts.",
        "Quadratic in R at a fixed slip (docs/machine.md)",
    )


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "percentiles 5 and 95 of n over sampled parts, mains and motors",
        (
            f"mains evenly within ±{100 * case.mains:.0f} %",
            "parts evenly within their tolerance; a measured one within the meter's 1 %",
            f"{case.subject.belief.draws_kept} motors that fit the readings",
            "ohms as they are cold: a hot wire has up to 4 % more",
        ),
        "Sampling, seeded, so that the same job gives the same band (docs/calibration.md)",
    )


def _rated(case: ResistorCase) -> Rated:
    if case.design is None:
        raise InputError("of", "part", "a job with resistors", "none are chosen yet")
    return regulated(case.subject, case.design).rated


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    rated = _rated(case)
    part, stress = found_stress(rated.parts, name, what)
    if stress is not None:
        equation, numbers, assumptions = _STRESS[stress.burden](rated, part, stress)
        return part_why(_role(part), part, stress, equation, numbers, assumptions)
    if part.kind is RatedKind.FUSE:
        return fuse_why(part, chosen_words(part), "I_n ≥ 1.6 I_running, and 3 I_n² ≥ I²t of the first period")
    if part.kind is RatedKind.RESISTOR:
        return _size(rated, part)
    raise InputError("of", part.name, "a resistor or the fuse", "this value is chosen, not computed")


def _role(part: RatedPart) -> str:
    return f"Resistor {part.name}" if part.kind is RatedKind.RESISTOR else part.kind.value.capitalize()


def _resistor(rated: Rated, part: RatedPart) -> Resistor:
    return rated.design.resistors[rated.design.names.index(part.name)]


def _size(rated: Rated, part: RatedPart) -> Why:
    watts = part.stresses[0]
    chosen = rated.design.resistors[rated.design.names.index(part.name)]
    facts = BUILDS[chosen.build]
    return Why(
        f"Watts of resistor {part.name}",
        f"{part.rating:g} W",
        "P ≤ ½ P_rated (T_max − T_air) / (T_max − T_rated)",
        (
            f"{watts.value:.3g} W at step {watts.position}, where it may carry {watts.rating:.3g} W for good",
            f"its surface then stays below {facts.hottest_c:g} °C, and reaches about "
            f"{rated.hottest_c[rated.design.names.index(part.name)]:.0f} °C at worst, a fan held fast counted",
        ),
        (
            f"T_max = {facts.hottest_c:g} °C, T_rated = {facts.air_c:g} °C for {facts.name}",
            *_air_words(rated),
        ),
        "An estimate: the maker's derating curve goes first.",
        "Straight derating line; half of it for a long life (docs/resistor.md)",
    )


def _air_words(rated: Rated) -> tuple[str, ...]:
    words, per_watt = ENCLOSURES[rated.design.enclosure]
    return (f"room at {rated.design.room_c:g} °C, {words}: {per_watt:g} K warmer inside for each watt",)


def _watts(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    amps = (s.value / part.value) ** 0.5
    return (
        "P = I² R, against ½ of what it carries in that air",
        (f"({amps:.3g} A)² × {q.show(part.value, q.RESISTANCE)} = {s.value:.3g} W",),
        (f"{100 * DERATING:.0f} % of the derated watts are used", *_air_words(rated)),
    )


def _surface(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    if part.kind is RatedKind.WIRE:
        _, per_watt = ENCLOSURES[rated.design.enclosure]
        return (
            "T = T_room + R_th × heat of all resistors",
            (
                f"{rated.design.room_c:g} °C + {per_watt:g} K/W × heat = {s.value:.0f} °C around switch and wire",
            ),
            ("an estimate; feel after an hour, power off", *_air_words(rated)),
        )
    facts = BUILDS[_resistor(rated, part).build]
    return (
        f"T = T_air + (T_max − T_rated)(P/P_rated)^{COOLING_EXPONENT:g}",
        (f"{s.value:.0f} °C; {facts.name} bears {facts.hottest_c:g} °C",),
        ("a fan that is held fast counts", *_air_words(rated)),
    )


def _volts(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "V = I R; a switch: the volts it holds open",
        (f"{q.plain(s.value)} V",),
        ("the fan may be held fast",),
    )


def _amps(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    extra = f"; the limit is rated amps / {FUSE_FACTOR:g}" if part.kind is RatedKind.FUSE else ""
    return "I through the part while the fan runs", (f"{q.show(s.value, q.CURRENT)}{extra}",), ()


def _peak(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = 2 √2 I_rest",
        (f"{s.value:.2g} A at the first crest; the contacts may close on {s.rating:g} A",),
        ("fully offset: closed at the worst instant, no resistance to damp it",),
    )


def _melting(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "I²t = 3 I_rest² / f",
        (f"{s.value:.2g} A²s against {FUSE_MELTING:g} In² = {s.rating:.3g} A²s",),
        ("first period, fully offset",),
    )


_STRESS: dict[Burden, Callable[[Rated, RatedPart, Stress], _Stressed]] = {
    Burden.WATTS: _watts,
    Burden.HEAT: _surface,
    Burden.VOLTS: _volts,
    Burden.AMPS: _amps,
    Burden.PEAK: _peak,
    Burden.MELTING: _melting,
}

EXPLAINED = Explained(
    step={
        **STEP,
        "needed": _needed,
        "regulator-heat": heat_of("the resistors as chosen; wire and contacts left out", "Ohm's law"),
    },
    part=_part,
    as_built=(
        "nominal or measured resistors, cold, nominal mains, the likeliest motor",
        "a hot wire has up to 4 % more ohms: a few rpm slower once warm",
    ),
    spread=_spread,
    validity=LINEAR,
)
