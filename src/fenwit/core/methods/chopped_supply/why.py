"""Why this number: of fans whose supply is chopped."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import Step
from fenwit.core.methods.chopped_supply.design import ChopDesign
from fenwit.core.methods.chopped_supply.parts import built
from fenwit.core.methods.chopped_supply.steps import ChopSetting, chopper
from fenwit.core.methods.common.mapped import air_why, amps_why, part_why, running, speed_why
from fenwit.core.methods.seam import Case, Explained, Why

_VALID = "mean volts between those it holds and those it is made for; raw chopping only roughly"
_SOURCE = "Chopping a supply (docs/duty.md)"


def _mine(step: Step[Any]) -> ChopSetting:
    running(step)
    if not isinstance(step.setting, ChopSetting):
        raise InputError("of", f"step {step.number}", "a step with a duty", "nothing is set here")
    return step.setting


def _mean(case: Case[Any, Any, Any], mine: ChopSetting) -> str:
    volts = case.subject.supply_voltage_v
    return f"{100 * mine.mean_duty:.1f} % · {volts:g} V = {q.plain(mine.mean_duty * volts)} V"


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    return speed_why(
        case, step, "n = n_full (d V_s − V_0)/(V_full − V_0)", (_mean(case, _mine(step)),), _VALID
    )


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    return amps_why(case, step, "I = d N I_full (d V_s/V_full)^q", (_mean(case, _mine(step)),))


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None or step.wanted_rpm is None:
        raise InputError("of", "needed", "a wanted step", "nothing gives this speed")
    return Why(
        f"Duty for {step.wanted_rpm:.0f} rpm", need.text, "d = (V_0 + (V_full − V_0) n/n_full)/V_s",
        (_mean(case, need.setting),),
        case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _duty(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    mine = _mine(step)
    return Why(
        f"Duty at step {step.number}",
        f"{100 * mine.duty:.1f} %",
        "d = t_on f",
        (_mean(case, mine),),
        (),
        _VALID,
        _SOURCE,
    )


def _heat(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    mine = _mine(step)
    design = case.design if isinstance(case.design, ChopDesign) else ChopDesign((mine.duty,))
    switch = chopper(case.subject, design)
    parts = (
        f"conduction {q.show(switch.conduction_w(mine.duty), q.POWER, 2)}",
        f"switching {q.show(switch.switching_w(mine.duty), q.POWER, 2)}",
        f"diode {q.show(switch.diode_w(mine.duty), q.POWER, 2)}",
    )
    return Why(
        f"Heat of switch and diode at step {step.number}", q.show(mine.loss_w, q.POWER, 2),
        "I² R_on h d + ½ V I (t_r + t_f) f + (1 − d) I V_f",
        parts, case.subject.assumptions, "hard switching", _SOURCE,
    )  # fmt: skip


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    assert isinstance(case.design, ChopDesign)
    return part_why(built(case.subject, case.design).parts, name, what, _VALID)


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "line of the fan and its supply added in squares",
        ("the supply ± 2 %", *case.subject.assumptions),
        _SOURCE,
    )


EXPLAINED = Explained(
    step={
        "speed": _speed, "watts": _amps, "amps": _amps, "needed": _needed, "duty": _duty, "volts": _duty, "heat": _heat,
        "flow": air_why, "noise": air_why,
    },
    part=_part,
    as_built=("mean volts count; the supply as typed",),
    spread=_spread,
    validity=_VALID,
)  # fmt: skip
