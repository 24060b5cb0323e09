"""Why this number: of steps behind a triac and the parts around it."""

from __future__ import annotations

from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import START
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, Step, shown, shown_amps
from fenwit.core.methods.common.machine import EXPLAINED as SHARED
from fenwit.core.methods.common.machine import MachineCase, load_words, point_of, start_words
from fenwit.core.methods.phase_angle.angles import ON_STATE_V, curve_of, solved_at
from fenwit.core.methods.phase_angle.judged import SPREAD_WORDS
from fenwit.core.methods.phase_angle.parts import built
from fenwit.core.methods.phase_angle.steps import PhaseStep, angle_words
from fenwit.core.methods.phase_angle.triac import Demand
from fenwit.core.methods.seam import Explained, Why
from fenwit.core.regulator.firing_points import PhasePoint

PhaseCase = MachineCase

_CHOPPED = (
    "Steady state of triac and motor solved exactly at one speed, harmonics included (docs/phase-angle.md)"
)
_CHOPPED_VALID = (
    "Iron that does not saturate, mains a pure sine, one speed within the period. A single-winding motor's harmonics "
    "turn nothing in this model."
)


def _phase_point(step: Step[Any]) -> PhasePoint:
    point = point_of(step)
    if not isinstance(point, PhasePoint):
        raise InputError("of", f"step {step.number}", "a step behind a triac", "no triac is in this line")
    return point


def _fires(point: PhasePoint) -> str:
    return (
        f"fires at {point.firing_angle_deg:.1f}°, the current ends at {point.extinction_angle_deg:.1f}°: "
        f"it conducts {point.conduction_angle_deg:.0f}° of 180°"
    )


def _speed(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    return Why(
        f"Speed at step {step.number}, {step.joins}",
        shown(point.speed_rpm, step.speed_band, "rpm").text,
        "mean T_motor(n, α) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            _fires(point),
            f"{q.plain(point.torque_nm)} N·m = {load_words(case, point.speed_rpm)}",
            "band: percentiles 5 and 95 of 80 motors that fit the readings, each solved exactly, and the model's own "
            f"{100 * case.subject.belief.model.speed_error:.2g} %",
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _volts(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    resistive = case.subject.supply.voltage_v * np.sqrt(
        max(
            0.0,
            1 - point.firing_angle_deg / 180 + np.sin(2 * np.radians(point.firing_angle_deg)) / (2 * np.pi),
        )
    )
    return Why(
        f"Motor volts at step {step.number}, true rms",
        shown(point.motor_voltage_v, step.bands.get(MOTOR_VOLTS.key), "V").text,
        "V_m = √(mean of v_m²), the motor's own volts in the open time included",
        (
            _fires(point),
            f"a lamp in its place would get {resistive:.0f} V at this angle",
            "a meter that is not true-rms shows another figure on this wave",
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _amps(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    first, thd = q.worked(
        point.line_current_a,
        lambda i: q.show(i, q.CURRENT),
        lambda i, k: i / 1000 * float(np.sqrt(1 + (k / 100) ** 2)),
        1000 * point.line_current_a / float(np.sqrt(1 + point.current_thd**2)),
        100 * point.current_thd,
    )
    return Why(
        f"Line amps at step {step.number}, true rms",
        shown_amps(point.line_current_a, step.bands.get(LINE_CURRENT.key)).text,
        "I = √(mean of i²) = I_1 √(1 + THD²)",
        (
            _fires(point),
            f"fundamental {first} mA and THD {thd} %: {first} mA × √(1 + ({thd} %)²) = "
            f"{q.show(point.line_current_a, q.CURRENT)}; crest {q.show(point.crest_current_a, q.CURRENT)}",
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _heat(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    return Why(
        f"Heat in the triac at step {step.number}",
        f"{q.plain(point.series_loss_w, 2)} W",
        "P = V_T I_mean",
        (
            f"{ON_STATE_V:g} V × {q.show(point.triac_average_a, q.CURRENT)} = {q.plain(point.triac_loss_w, 2)} W",
        ),
        (f"{ON_STATE_V:g} V across the conducting triac, as a usual one has",),
        "Snubber and what fires the triac are reckoned among the parts.",
        _CHOPPED,
    )


def _ends(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    return Why(
        f"Where the current ends at step {step.number}",
        f"{point.extinction_angle_deg:.1f}°",
        "i(β) = 0, from the firing at α on",
        (
            _fires(point),
            f"then the motor's own volts stand at its terminals, and the triac's jump by "
            f"{abs(point.commutation_step_v):.0f} V",
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _needed(case: PhaseCase, step: Step[Any]) -> Why:
    asked = step.need.setting if step.need else None
    if asked is None or step.wanted_rpm is None:
        reason = (step.need.reason if step.need else "") or "full speed needs no firing angle"
        raise InputError("of", f"step {step.number}", "a speed that an angle gives", reason)
    angle = asked.firing_deg
    curve = curve_of(case.subject)
    crude = 180 * (1 - step.wanted_rpm / case.subject.full_rpm)
    return Why(
        f"Firing angle that step {step.number} needs",
        angle_words(angle),
        "n(α) = n_wanted, on the solved firing curve",
        (
            f"{step.wanted_rpm:.0f} rpm lies at {angle:.1f}°",
            f"“half the angle is half the speed” would say {crude:.0f}°, which really gives "
            f"{float(np.interp(crude, curve.firing_deg, curve.speed_rpm)):.0f} rpm",
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        "Firing curve of 71 angles, one secant on exact states (docs/phase-angle.md)",
    )


def _start(case: PhaseCase, step: Step[Any]) -> Why:
    own = step.solution if isinstance(step, PhaseStep) else None
    asked, kick = step.need, step.setting is not None and step.setting.kick
    solution = own
    if asked is not None and not asked.reason:
        # Full speed asks for the triac fully on.
        angle = asked.setting.firing_deg if asked.setting else 0.0
        solution = solved_at(case.subject, [angle], kick)[angle].solution
    if solution is None:
        raise InputError("of", f"step {step.number}", "a step with an angle", "no angle gives this step")
    value, numbers = start_words(case, solution, step.bands.get(START))
    return Why(
        f"Torque at rest at step {step.number}, over break-away",
        value,
        "mean T(n = 0, α) / (1.5 T_f)",
        (numbers, *(("it is kicked at full first, so this does not decide",) if kick else ())),
        ("friction is an assumption until a run-down is timed",),
        "A bearing that has stood, or cold grease, may hold faster.",
        "docs/decisions/0004-starting.md",
    )


def _distortion(case: PhaseCase, step: Step[Any]) -> Why:
    point = _phase_point(step)
    first = point.line_current_a / np.sqrt(1 + point.current_thd**2)
    return Why(
        f"Distortion of the line current at step {step.number}",
        f"THD {100 * point.current_thd:.0f} %",
        "THD = √(I² − I_1²) / I_1",
        (
            f"√(({q.plain(1e3 * point.line_current_a)} mA)² − ({q.plain(1e3 * first)} mA)²) / "
            f"{q.plain(1e3 * first)} mA = {point.current_thd:.2f}",
            _fires(point),
        ),
        case.subject.assumptions,
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _spread(case: PhaseCase) -> tuple[str, tuple[str, ...], str]:
    knob = case.design is not None and case.design.network is not None
    return (
        "√(Δn_parts² + Δn_mains² + Δn_motor²), each side by itself",
        (
            f"mains ±{100 * case.mains:.0f} %"
            + (": the diac's volts stay as they are, so the angle moves with the mains" if knob else ""),
            SPREAD_WORDS if knob else "parts: the edge of the zero detector over its coupler's band",
        ),
        "Each cause solved at its ends (docs/phase-angle.md)",
    )


# ---------------------------------------------------------------- parts


def _part(case: PhaseCase, name: str, what: str) -> Why:
    if case.design is None:
        raise InputError("of", "part", "a job with a phase-angle control", "no control is chosen yet")
    rows = built(case.subject, case.design).parts
    row = next((r for r in rows if r.name == name), None)
    if row is None:
        raise InputError("of", name, ", ".join(r.name for r in rows), "no such part")
    stress = next((s for s in row.stresses if s.burden == what), None)
    if stress is None:
        raise InputError("of", what, ", ".join(s.burden for s in row.stresses), "no such burden")
    return Why(
        f"{row.role[0].upper()}{row.role[1:]}: {stress.burden}",
        stress.text,
        _RELATION.get(stress.burden, "stress ≤ rating"),
        (row.text, *((f"worst at: {stress.where}",) if stress.where else ())),
        ("the worst of all angles at which the fan runs",),
        "The maker's data go first.",
        "Computed waveforms at every angle of the firing curve (docs/phase-angle.md)",
    )


_RELATION: dict[str, str] = {
    Demand.RMS: "I = √(mean of i²)",
    Demand.START: "Î = √2 V |Y(n = 0)|",
    Demand.OFF_STATE: "V_off ≥ 1.5 √2 V, and room for transients",
    Demand.OVERSHOOT: "peak of the damped step across L, R and C in series",
    Demand.DVDT: "steepest slope of the damped step, with a factor of 2",
    Demand.HOLDING: "smallest half-cycle's crest ≥ I_H",
    Demand.LATCHING: "smallest half-cycle's crest ≥ I_L",
    Demand.JUNCTION: "T_j = T_air + P (R_jc + R_cs + R_sa)",
    Demand.GATE: "(V̂ sin α − 3 V) / R_G at the earliest angle ≥ I_GT",
    Demand.OPTO: "1.1 V̂ / R_G",
    Demand.MELTING: "10 I_n² × 10 ms ≤ ½ I_TSM² × 10 ms",
    Demand.RUNNING: "1.6 I ≤ I_n",
    Demand.CREST_AMPS: "crest of the line current at the worst angle",
    Demand.WATTS: "P = I² R, half the rating at most",
    Demand.ZENER: "P = f C (2√2 V − V_out) V_out",
    Demand.DRAWN: "I = f C (2√2 V − V_out)",
}

EXPLAINED = Explained(
    step={
        **SHARED,
        "distortion": _distortion,
        "speed": _speed,
        "motor-volts": _volts,
        "amps": _amps,
        "regulator-heat": _heat,
        "regulator-volts": _ends,
        "needed": _needed,
        "start": _start,
    },
    part=_part,
    as_built=("angles as chosen, nominal mains, the likeliest motor",),
    spread=_spread,
    validity=_CHOPPED_VALID,
)
