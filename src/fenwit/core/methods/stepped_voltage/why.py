"""Why this number: of a transformer's steps and parts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, Step, shown, shown_amps
from fenwit.core.methods.common.machine import CIRCUIT, LINEAR, admittance_s, load_words, point_of
from fenwit.core.methods.common.parts import chosen_words, found_stress, fuse_why, part_why
from fenwit.core.methods.common.series import STEP, needed_inverse
from fenwit.core.methods.seam import Case, Explain, Explained, Why
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.parts import AMPS, WARMTH
from fenwit.core.methods.stepped_voltage.rating import FUSE_SHARE, NAME, Rated
from fenwit.core.methods.stepped_voltage.settings import TappedPoint
from fenwit.core.methods.stepped_voltage.steps import (
    MOTOR_AMPS,
    TappedStep,
    TapVolts,
    regulated,
    volts_text,
)
from fenwit.core.regulator.transformer import (
    AMBIENT_C,
    FRAMES,
    LEFT_T,
    RISE_K,
    SATURATED_T,
    WORKING_T,
    Transformer,
    Winding,
)
from fenwit.core.size.classes import FUSE_FACTOR, FUSE_MELTING
from fenwit.core.size.rated import Burden, RatedKind, RatedPart, Stress

SteppedCase = Case[MachineFan, SteppedDesign, TapVolts]
_Stressed = tuple[str, tuple[str, ...], tuple[str, ...]]
_SOURCE = "A tap is open volts behind copper and leakage (docs/transformer.md)"


def _behind(step: Step[Any]) -> tuple[TappedPoint, TappedStep, Transformer]:
    point = point_of(step)
    if not isinstance(point, TappedPoint) or not isinstance(step, TappedStep) or step.unit is None:
        raise InputError("of", f"step {step.number}", "a step on a tap", "no tap feeds it")
    return point, step, step.unit


def _z_words(z: complex) -> str:
    return f"{q.plain(z.real)} + j{q.plain(z.imag)} Ω"


def _tap_v(step: TappedStep, unit: Transformer) -> float:
    return step.setting.tap_v if step.setting else unit.supply_v


def _class_words(unit: Transformer) -> str:
    known = (
        "ohms as read"
        if unit.spread < 0.2
        else f"usual of such a frame, ±{100 * unit.spread:.0f} % until it is read"
    )
    return (
        f"{unit.va:g} VA: {100 * unit.regulation:.3g} % of them lost in copper when full, "
        f"{unit.core_loss_w:.3g} W in iron ({known})"
    )


def _speed(case: SteppedCase, step: Step[Any]) -> Why:
    point, tapped, unit = _behind(step)
    volts = _tap_v(tapped, unit)
    return Why(
        f"Speed at step {step.number}, {step.joins}",
        shown(point.speed_rpm, step.speed_band, "rpm").text,
        "T_motor(n, V_m) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"{volts_text(volts)} open behind {_z_words(tapped.impedance_ohm)} leaves V_m = "
            f"{q.plain(point.motor_voltage_v)} V",
            f"{q.plain(point.torque_nm)} N·m = {load_words(case, point.speed_rpm)}",
            f"band: percentiles 5 and 95 of {case.subject.belief.draws_kept} motors that fit the readings, copper within "
            f"±{100 * unit.spread:.0f} %, and the model's own {100 * case.subject.belief.model.speed_error:.2g} %",
        ),
        (*case.subject.assumptions, _class_words(unit)),
        LINEAR,
        _SOURCE,
    )


def _motor_volts(case: SteppedCase, step: Step[Any]) -> Why:
    point, tapped, unit = _behind(step)
    y, volts = admittance_s(case.subject, point), _tap_v(tapped, unit)
    level = case.subject.supply.voltage_v / unit.supply_v
    return Why(
        f"Motor volts at step {step.number}",
        shown(point.motor_voltage_v, step.bands.get(MOTOR_VOLTS.key), "V").text,
        "V_m = t V / |1 + Z_T Y|",
        (
            f"t = {volts:.4g}/{unit.supply_v:g} = {unit.ratio(volts):.3f}, Z_T = {_z_words(tapped.impedance_ohm)}",
            f"{q.plain(volts * level)} V / {abs(1 + tapped.impedance_ohm * y):.3f} = {q.plain(point.motor_voltage_v)} V",
        ),
        (_class_words(unit),),
        LINEAR,
        _SOURCE,
    )


def _amps(case: SteppedCase, step: Step[Any]) -> Why:
    point, _, _ = _behind(step)
    siemens, volts = q.worked(
        point.line_current_a,
        lambda i: q.show(i, q.CURRENT),
        lambda y, v: y * v / 1000,
        1000 * abs(admittance_s(case.subject, point)),
        point.motor_voltage_v,
    )
    return Why(
        f"Motor amps at step {step.number}",
        shown_amps(point.line_current_a, step.bands.get(MOTOR_AMPS)).text,
        "I_2 = |Y| V_m",
        (f"{siemens} mS × {volts} V at slip {point.slip:.2f} = {q.show(point.line_current_a, q.CURRENT)}",),
        case.subject.assumptions,
        LINEAR,
        CIRCUIT,
    )


def _line_amps(case: SteppedCase, step: Step[Any]) -> Why:
    point, tapped, unit = _behind(step)
    supply = case.subject.supply
    t = unit.ratio(_tap_v(tapped, unit))
    idle = unit.idle_a(supply.voltage_v, supply.frequency_hz)
    return Why(
        f"Amps from the mains at step {step.number}",
        shown_amps(point.mains_current_a, step.bands.get(LINE_CURRENT.key)).text,
        "I_1 = t I_2 + V/R_fe + V/jX_mag",
        (
            f"{t:.3f} × {q.show(point.line_current_a, q.CURRENT)} of the motor, turned down by the winding",
            f"idle {q.show(idle.real, q.CURRENT)} for the iron's watts and {q.show(-idle.imag, q.CURRENT)} to "
            "magnetise it",
            f"as phasors {q.show(point.mains_current_a, q.CURRENT)}",
        ),
        (
            _class_words(unit),
            "a magnetising current that is a sine: in life it is peaky, and its harmonics are not reckoned",
        ),
        LINEAR,
        _SOURCE,
    )


def _watts(case: SteppedCase, step: Step[Any]) -> Why:
    point, _, _ = _behind(step)
    return Why(
        f"Input watts at step {step.number}",
        shown(point.input_power_w, step.bands.get("input_power_w"), "W").text,
        "P = T ω + rotor loss + winding loss + |I_2|² Re Z_T + P_fe",
        (
            f"{q.plain(point.shaft_power_w)} + {q.plain(point.rotor_loss_w)} + {q.plain(point.winding_loss_w)} + "
            f"{q.plain(point.copper_w)} + {q.plain(point.core_w)} = {q.plain(point.input_power_w)} W",
        ),
        case.subject.assumptions,
        LINEAR,
        "Power balance; the magnetising current's own copper loss is left out (under 0.1 W here)",
    )


def _power_factor(case: SteppedCase, step: Step[Any]) -> Why:
    point, _, _ = _behind(step)
    return Why(
        f"Power factor at step {step.number}",
        f"{point.power_factor:.2f}",
        "pf = P / (V I_1)",
        (
            f"{q.plain(point.input_power_w)} W / ({case.subject.supply.voltage_v:.0f} V × "
            f"{q.show(point.mains_current_a, q.CURRENT)}) = {point.power_factor:.2f}",
        ),
        case.subject.assumptions,
        LINEAR,
        _SOURCE,
    )


def _heat(case: SteppedCase, step: Step[Any]) -> Why:
    point, tapped, unit = _behind(step)
    supply = case.subject.supply
    return Why(
        f"Heat in the transformer at step {step.number}",
        f"{q.plain(point.series_loss_w, 2)} W",
        "P = I_2² Re Z_T + V²/R_fe",
        (
            f"copper: ({q.show(point.line_current_a, q.CURRENT)})² × {q.plain(tapped.impedance_ohm.real)} Ω = "
            f"{q.plain(point.copper_w, 2)} W",
            f"iron: {unit.core_loss_w:.3g} W at {unit.supply_v:g} V gives {q.plain(point.core_w, 2)} W at "
            f"{supply.voltage_v:g} V; "
            "it stays while the fan stands",
        ),
        (_class_words(unit),),
        "An estimate of its class, until idle watts and ohms are read on it.",
        _SOURCE,
    )


def _volts(case: SteppedCase, step: Step[Any]) -> Why:
    _, tapped, unit = _behind(step)
    volts = _tap_v(tapped, unit)
    return Why(
        f"Open volts of step {step.number}",
        volts_text(volts),
        "V_o = t V",
        (f"{unit.ratio(volts):.3f} × {unit.supply_v:g} V",),
        ("on rated mains, with nothing on the tap",),
        LINEAR,
        _SOURCE,
    )


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    inverse = needed_inverse(step)
    solution = inverse.solution if inverse else None
    point = solution.running if solution else None
    if (
        inverse is None
        or inverse.value is None
        or point is None
        or not isinstance(step, TappedStep)
        or step.unit is None
    ):
        reason = inverse.reason if inverse else "full speed needs no tap"
        raise InputError("of", f"step {step.number}", "a step that a tap gives", reason)
    unit = step.unit
    z = unit.impedance_ohm(inverse.value, case.subject.supply.frequency_hz)
    return Why(
        f"Which tap step {step.number} asks for",
        volts_text(inverse.value),
        "t V = V_m |1 + Z_T(t) Y|",
        (
            f"at {inverse.wanted_speed_rpm:.0f} rpm the motor wants {q.plain(point.motor_voltage_v)} V and takes "
            f"{q.show(point.line_current_a, q.CURRENT)}",
            f"Z_T there is {_z_words(z)}: it drops {q.plain(inverse.value - point.motor_voltage_v, 2)} V of the tap's "
            f"{volts_text(inverse.value)}",
        ),
        (_class_words(unit),),
        "Solved forwards again: stable, reached from rest, within motor volts.",
        _SOURCE,
    )


_STEP: dict[str, Explain] = {
    **STEP,
    "speed": _speed,
    "motor-volts": _motor_volts,
    "amps": _amps,
    "line-amps": _line_amps,
    "watts": _watts,
    "power-factor": _power_factor,
    "regulator-heat": _heat,
    "regulator-volts": _volts,
    "needed": _needed,
}


# ---------------------------------------------------------------- parts


def _rated(case: Case[Any, Any, Any]) -> Rated:
    if case.design is None:
        raise InputError("of", "part", "a chosen transformer", "none is chosen yet")
    return regulated(case.subject, case.design).rated


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    rated = _rated(case)
    if name == NAME:
        return _transformer(case, rated, what)
    part, stress = found_stress(rated.parts, name, what)
    if stress is not None:
        equation, numbers, assumptions = _STRESS[stress.burden](rated, part, stress)
        return part_why(part.kind.value.capitalize(), part, stress, equation, numbers, assumptions)
    if part.kind is RatedKind.FUSE:
        return fuse_why(
            part, chosen_words(part), f"I_n ≥ 1.6 I_1, and {FUSE_SHARE:g} × 3 I_n² ≥ I²t of the first rush"
        )
    raise InputError("of", part.name, "the transformer or the fuse", "this value is chosen, not computed")


def _transformer(case: Case[Any, Any, Any], rated: Rated, what: str) -> Why:
    unit, (amps, hot) = rated.unit, rated.winding
    worst_at = f"worst at step {amps.position}, mains {q.signed(100 * (amps.mains - 1), 0)} %"
    if what == WARMTH:
        rise = RISE_K[rated.design.insulation]
        return Why(
            "Transformer: temperature of its winding",
            f"about {hot.value:.0f} of {hot.rating:.0f} °C",
            "T = T_room + ΔT_class (copper + iron) / (u_R S + P_fe)",
            (
                f"class {rated.design.insulation}: {rise:g} K at "
                f"{q.plain(unit.regulation * unit.va + unit.core_loss_w, 2)} W, "
                f"in air of {AMBIENT_C:g} °C",
                f"{rated.design.room_c:g} °C + {hot.value - rated.design.room_c:.0f} K at step {hot.position}",
            ),
            (_class_words(unit),),
            "An estimate; cold and hot ohms of the winding give the real rise.",
            "Rise goes with its losses",
        )
    auto = unit.winding is Winding.AUTO
    if what == AMPS:
        return Why(
            "Transformer: amps of its winding",
            f"{q.show(amps.value, q.CURRENT)} of {q.show(amps.rating, q.CURRENT)}",
            "max(t, 1 − t) I_2 ≤ 2 S / V" if auto else "I_2 ≤ S / V_2",
            (
                f"the upper section carries t I_2, the lower one (1 − t) I_2: {q.show(amps.value, q.CURRENT)}"
                if auto
                else f"the motor's amps, {q.show(amps.value, q.CURRENT)}",
                worst_at,
            ),
            ("one gauge of wire all along",) if auto else ("one gauge of wire all along the secondary",),
            "Searched over every step, mains at −10 %, 0 and +10 %.",
            _SOURCE,
        )
    if what != "value":
        raise InputError("of", what, f"value, {AMPS}, {WARMTH}", "no such burden")
    points = [p for s in rated.solutions[-1] if isinstance(p := s.running, TappedPoint)]
    if auto:
        shares = [unit.ratio(v) for v in rated.design.step_v]
        by_sections = max(
            unit.supply_v * t * (1 - t) * p.line_current_a for p, t in zip(points, shares, strict=False)
        )
        tail = f"with sections of their own gauge only V t (1 − t) I_2 is transformed: {q.plain(by_sections, 2)} VA"
    else:
        tail = "all that the motor takes passes through its iron"
    return Why(
        "Size of the transformer",
        f"{unit.va:g} VA",
        "S ≥ ½ V max(t, 1 − t) I_2" if auto else "S ≥ V_2 I_2",
        (
            f"{q.show(amps.value, q.CURRENT)} in its winding, {worst_at}; this frame carries "
            f"{q.show(amps.rating, q.CURRENT)}",
            tail,
            f"the next of {', '.join(f'{f.va:g}' for f in FRAMES)} VA that bears it"
            if rated.design.va
            else "",
        ),
        (_class_words(unit),),
        "Frames as usual: the maker's data, or readings on it, go first.",
        _SOURCE,
    )


def _part_amps(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    if part.kind is RatedKind.FUSE:
        return (
            "I_1 from the mains, against rated amps / 1.6",
            (f"{q.show(s.value, q.CURRENT)}; the limit is rated amps / {FUSE_FACTOR:g}",),
            (),
        )
    return "I_2 of the motor while the fan runs", (f"{q.show(s.value, q.CURRENT)}",), ()


def _volts_held(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return "the volts it holds open, or against earth", (f"{q.plain(s.value)} V",), ()


def _peak(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = 2 √2 I_rest",
        (f"{s.value:.2g} A at the first crest; the contacts may close on {s.rating:g} A",),
        ("fully offset: closed at the worst instant, no resistance to damp it",),
    )


def _melting(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    rush = rated.rush
    return (
        "λ' = v − R i; beyond saturation i rises with the inductance in air",
        (
            f"crest {q.plain(rush.crest_a, 2)} A (never above {q.plain(rush.bound_a, 2)} A), I²t {rush.i2t_a2s:.2g} A²s",
            f"{s.value:.2g} A²s against {FUSE_SHARE:g} × {FUSE_MELTING:g} In² = {s.rating:.3g} A²s: it comes every time",
        ),
        (
            f"switched on at the zero of the volts, iron left at {LEFT_T:g} T, works at {WORKING_T:g} T, full "
            f"at {SATURATED_T:g} T",
        ),
    )


_STRESS: dict[Burden, Callable[[Rated, RatedPart, Stress], _Stressed]] = {
    Burden.AMPS: _part_amps,
    Burden.VOLTS: _volts_held,
    Burden.PEAK: _peak,
    Burden.MELTING: _melting,
}


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "percentiles 5 and 95 of n over sampled copper, mains and motors",
        (
            f"mains evenly within ±{100 * case.mains:.0f} %",
            "copper evenly within its doubt, one draw for the whole winding",
            f"{case.subject.belief.draws_kept} motors that fit the readings",
        ),
        "Sampling, seeded, so that the same job gives the same band (docs/calibration.md)",
    )


EXPLAINED = Explained(
    step=_STEP,
    part=_part,
    as_built=(
        "taps as marked, nominal mains, the likeliest motor",
        "transformer as usual of its frame, or as read",
    ),
    spread=_spread,
    validity=LINEAR,
)
