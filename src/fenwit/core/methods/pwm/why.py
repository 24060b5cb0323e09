"""Why this number: of a fan on its control lead."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.mapped import air_why, amps_why, part_why, running, speed_why
from fenwit.core.methods.pwm.design import DutyDesign
from fenwit.core.methods.pwm.parts import built
from fenwit.core.methods.pwm.signal import DutySetting
from fenwit.core.methods.seam import Case, Explained, Why

_SOURCE = "Map of speeds over the duty on the lead (docs/duty.md)"
_VALID = "between the duties that are known; a running fan on its full supply"


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    mine, at = step.setting, step.at or 0.0
    seen = mine.seen if isinstance(mine, DutySetting) else at
    numbers = [f"{100 * at:.2f} % on the lead"]
    if abs(seen - at) > 1e-6:
        numbers.append(f"{100 * seen:.2f} % seen by the fan: its rising edge comes late")
    return speed_why(case, step, "n = n(d)", tuple(numbers), _VALID)


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    found = running(step)
    full, share = case.subject.rated_power_w, found.speed_rpm / case.subject.full_rpm
    numbers: tuple[str, ...] = ()
    if full is not None:
        watts = q.plain(found.input_power_w or 0.0)
        numbers = (f"{q.plain(full)} W · (0.1 + 0.9 · {share:.3f}³) = {watts} W",)
    return amps_why(case, step, "P = P_full (0.1 + 0.9 (n/n_full)³), I = P/V", numbers)


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None or step.wanted_rpm is None:
        raise InputError("of", "needed", "a wanted step", "nothing gives this speed")
    return Why(
        f"Duty for {step.wanted_rpm:.0f} rpm", need.text, "n(d) = n_wanted, by bracketing",
        (f"n({need.text}) = {step.wanted_rpm:.0f} rpm",), case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _duty(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    mine = step.setting
    if not isinstance(mine, DutySetting):
        return _needed(case, step)
    design = case.design
    assert isinstance(design, DutyDesign)
    numbers = [f"asked for {100 * mine.asked:.2f} % on the lead"]
    if design.turned:
        numbers.append(f"{design.stages} inverting: {100 * (1 - mine.asked):.2f} % from what makes it")
    if mine.compare is not None:
        numbers.append(f"compare {mine.compare} makes {100 * mine.made:.3f} %")
    if mine.travel is not None:
        numbers.append(f"pot at {100 * mine.travel:.1f} % of its travel")
    return Why(
        f"Duty at step {step.number}", f"{100 * mine.made:.2f} %", "d = t_high f", tuple(numbers), (),
        "at the fan's plug",
        "Registers and timer ICs (docs/duty.md)",
    )  # fmt: skip


def _frequency(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    why = _duty(case, step)
    hertz = step.setting.frequency_hz if isinstance(step.setting, DutySetting) else 25e3
    return Why(
        "Frequency on the lead", f"{hertz / 1e3:.4g} kHz", "f_clk/(N (TOP + 1)), f_clk/(2 N TOP), 1/(t_high + t_low)",
        why.numbers, (),
        why.validity, why.source,
    )  # fmt: skip


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    assert isinstance(case.design, DutyDesign)
    return part_why(built(case.subject, case.design).parts, name, what, _VALID)


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "map of speeds and parts of a timer added in squares",
        (
            "resistors ± 5 %, capacitors ± 10 %, pots ± 20 %, uniform and independent",
            *case.subject.assumptions,
        ),
        "Tolerances over the travel (docs/duty.md)",
    )


EXPLAINED = Explained(
    step={
        "speed": _speed, "watts": _amps, "amps": _amps, "needed": _needed, "duty": _duty, "frequency": _frequency,
        "flow": air_why,
        "noise": air_why,
    },
    part=_part,
    as_built=("the fan on its full supply, its lead driven as set",),
    spread=_spread,
    validity=_VALID,
)  # fmt: skip
