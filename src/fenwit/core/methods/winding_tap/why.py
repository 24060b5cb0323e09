"""Why this number: of a motor's steps on its taps, and of what stands around it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import LINE_CURRENT, Step, shown, shown_amps
from fenwit.core.methods.common.machine import EXPLAINED as AT_STEP
from fenwit.core.methods.common.machine import LINEAR, load_words, point_of, start_words
from fenwit.core.methods.common.parts import chosen_words, found_stress, fuse_why, part_why
from fenwit.core.methods.seam import Case, Explain, Explained, Why
from fenwit.core.methods.winding_tap.fan import idle_v, on
from fenwit.core.methods.winding_tap.parts import CAP_V
from fenwit.core.methods.winding_tap.rating import CAP, Rated, rate
from fenwit.core.methods.winding_tap.steps import FedTap, TapStep, branch_words
from fenwit.core.motor.taps import StartBranch, as_warm
from fenwit.core.size.classes import FUSE_FACTOR, FUSE_MELTING
from fenwit.core.size.rated import Burden, RatedKind, RatedPart, Stress

_Stressed = tuple[str, tuple[str, ...], tuple[str, ...]]
_SOURCE = "Both fields on the tap's own turns (docs/taps.md)"
_GAUGE = "turns go with ohms: one gauge of wire, or the factors given in Identify"


def _on_tap(step: Step[Any]) -> tuple[TapStep, FedTap]:
    if not isinstance(step, TapStep) or step.setting is None:
        raise InputError("of", f"step {step.number}", "a step on a tap", "no tap is fed here")
    return step, step.setting


def _how(branch: StartBranch) -> str:
    return "the whole supply" if branch is StartBranch.WHOLE_SUPPLY else "the main section only"


def _assumed(case: Case[Any, Any, Any], step: TapStep) -> tuple[str, ...]:
    hung = f"start branch across {_how(step.branches[0])}"
    if len(step.branches) > 1:
        assert step.setting is not None
        hung = (
            f"shown with the start branch across {_how(step.branches[0])}, the band holds both ways: "
            f"{branch_words(case.subject, step.setting.name)}"
        )
    return (*case.subject.assumptions, _GAUGE, hung)


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    point = point_of(step)
    mine, fed = _on_tap(step)
    ohm = as_warm(case.subject.base, case.subject.tap(fed.name)).extra_ohm
    return Why(
        f"Speed at step {step.number}, {step.joins}",
        shown(point.speed_rpm, step.speed_band, "rpm").text,
        "T_motor(n; t) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"t = {fed.turns:.3f} turns, {q.show(ohm, q.RESISTANCE)} beyond the fastest tap, warm",
            f"{q.plain(point.torque_nm)} N·m = {load_words(case, point.speed_rpm)}",
        ),
        _assumed(case, mine),
        LINEAR,
        _SOURCE,
    )


def _turns(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    mine, fed = _on_tap(step)
    main = float(case.subject.base.main_resistance_ohm)
    ohm = as_warm(case.subject.base, case.subject.tap(fed.name)).extra_ohm
    return Why(
        f"Turns of the {fed.name} tap, lead {fed.lead}",
        f"{fed.turns:.2f} × those of the main winding",
        "t = 1 + Σ g r / R_main",
        (f"{q.show(ohm, q.RESISTANCE)} beyond {q.show(main, q.RESISTANCE)}, both warm",),
        _assumed(case, mine),
        "As good as the ohms it is read from.",
        _SOURCE,
    )


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    point = point_of(step)
    mine, _ = _on_tap(step)
    parts = (point.main_current_a or 0.0, point.auxiliary_current_a or 0.0)
    return Why(
        f"Line amps at step {step.number}",
        shown_amps(point.line_current_a, step.bands.get(LINE_CURRENT.key)).text,
        "I = |I_m + I_a|",
        (
            f"main {q.show(parts[0], q.CURRENT)} and start branch {q.show(parts[1], q.CURRENT)}, as phasors "
            f"{q.show(point.line_current_a, q.CURRENT)}",
        ),
        _assumed(case, mine),
        LINEAR,
        _SOURCE,
    )


def _idle(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    mine, fed = _on_tap(step)
    fan, branch = case.subject, mine.branches[0]
    at_once, high = idle_v(fan, fed.name, branch), dict(idle_v(fan, fed.name, branch, 1.1))
    if not at_once:
        raise InputError("of", f"step {step.number}", "a step that runs", "no number is given here")
    most = max(v for _, v in at_once)
    return Why(
        f"Volts at idle leads at step {step.number}",
        f"up to {most:.0f} V",
        "V_t = |V + (t − t_fed) E|,  E = (V − R1m I_m − r I_x) / t_fed",
        tuple(
            f"lead {fan.lead(name)} ({name}): {v:.0f} V to common, {high[name]:.0f} V on mains +10 %"
            for name, v in at_once
        ),
        _assumed(case, mine),
        "While the fan runs; a lead with a bad cap bites at any step.",
        "The winding is an autotransformer (docs/taps.md)",
    )


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None:
        raise InputError("of", f"step {step.number}", "a wanted speed", "no speed is wanted of this step")
    fan = case.subject
    branch = fan.branches(case.design.branch if case.design else None)[0]
    said = []
    for tap in fan.taps:
        point = on(fan, tap.name, branch).running
        said.append(f"{tap.name}: {point.speed_rpm:.0f} rpm" if point else f"{tap.name}: stands")
    return Why(
        f"Which tap step {step.number} asks for",
        need.text,
        "the tap whose speed is nearest",
        tuple(said),
        (_GAUGE,),
        "A motor has the taps it has: nothing lies between them.",
        _SOURCE,
    )


def _start(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    mine, _ = _on_tap(step)
    if mine.solution is None:
        raise InputError("of", f"step {step.number}", "a step on a tap", "no tap is fed here")
    value, numbers = start_words(case, mine.solution, step.bands.get("start_margin"))
    return Why(
        f"Torque at rest at step {step.number}, over break-away",
        value,
        "T(n = 0) / (1.5 T_f)",
        (numbers,),
        _assumed(case, mine),
        "A bearing that has stood, or cold grease, may hold faster.",
        "docs/decisions/0004-starting.md",
    )


_STEP: dict[str, Explain] = {
    **AT_STEP,
    "speed": _speed,
    "turns": _turns,
    "amps": _amps,
    "idle-volts": _idle,
    "needed": _needed,
    "start": _start,
}


# ---------------------------------------------------------------- parts


def _rated(case: Case[Any, Any, Any]) -> Rated:
    if case.design is None:
        raise InputError("of", "part", "chosen taps", "none are chosen yet")
    return rate(case.subject, case.design)


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    rated = _rated(case)
    if name == CAP and rated.unused:
        return Why(
            "Volts across the caps of idle leads",
            f"{rated.idle_v:.0f} of {CAP_V:g} V",
            "V_t = |V + (t − t_fed) E|",
            (f"worst lead, mains +10 %: {rated.idle_v:.0f} V to common",),
            (_GAUGE,),
            "While the fan runs.",
            "The winding is an autotransformer (docs/taps.md)",
        )
    part, stress = found_stress(rated.parts, name, what)
    if stress is not None:
        equation, numbers, assumptions = _STRESS[stress.burden](rated, part, stress)
        return part_why(part.kind.value.capitalize(), part, stress, equation, numbers, assumptions)
    if part.kind is RatedKind.FUSE:
        return fuse_why(part, chosen_words(part), "I_n ≥ 1.6 I_running, and 3 I_n² ≥ I²t of the first period")
    raise InputError("of", part.name, "the fuse", "this value is chosen, not computed")


def _part_amps(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    extra = f"; the limit is rated amps / {FUSE_FACTOR:g}" if part.kind is RatedKind.FUSE else ""
    return "I of the motor while the fan runs", (f"{q.show(s.value, q.CURRENT)}{extra}",), ()


def _part_volts(rated: Rated, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "V_t = |V + (t − t_fed) E|: an idle lead stands above the supply",
        (f"{s.value:.0f} V to common and to earth, against {s.rating:g} V",),
        ("on mains +10 %, running on the fastest tap that a contact feeds",),
    )


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
    Burden.AMPS: _part_amps,
    Burden.VOLTS: _part_volts,
    Burden.PEAK: _peak,
    Burden.MELTING: _melting,
}


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "percentiles 5 and 95 of n over sampled mains and motors",
        (
            f"mains evenly within ±{100 * case.mains:.0f} %",
            "a tap has no parts of its own that could be off; its ohms are as they were read",
            f"{case.subject.belief.draws_kept} motors that fit the readings",
        ),
        "Sampling, seeded, so that the same job gives the same band (docs/calibration.md)",
    )


EXPLAINED = Explained(
    step=_STEP,
    part=_part,
    as_built=(
        "turns from ohms, nominal mains, the likeliest motor",
        "full-speed readings count as taken on the fastest tap",
    ),
    spread=_spread,
    validity=LINEAR,
)
