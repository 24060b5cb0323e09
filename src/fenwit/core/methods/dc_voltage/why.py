"""Why this number: of DC fans on lowered volts."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.mapped import air_why, amps_why, part_why, running, speed_why
from fenwit.core.methods.dc_voltage.design import VoltsDesign
from fenwit.core.methods.dc_voltage.parts import built
from fenwit.core.methods.dc_voltage.steps import VoltsSetting
from fenwit.core.methods.seam import Case, Explained, Why

_VALID = "between the volts it holds and those it is made for; a running fan"
_SOURCE = "DC fans on a lower supply (docs/duty.md)"


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    direct, volts = case.subject.direct, step.at or 0.0
    line = (
        f"{direct.full_speed_rpm:.0f} · ({q.plain(volts)} − {q.plain(direct.zero_v)})/"
        f"({q.plain(direct.full_voltage_v)} − {q.plain(direct.zero_v)})"
    )
    return speed_why(case, step, "n = n_full (V − V_0)/(V_full − V_0)", (line,), _VALID)


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    direct, volts = case.subject.direct, step.at or 0.0
    share = f"({q.plain(volts)}/{q.plain(direct.full_voltage_v)})^{direct.current_exponent:.2f}"
    line = f"{case.subject.count} · {q.show(direct.full_current_a, q.CURRENT)} · {share}"
    return amps_why(case, step, "I = N I_full (V/V_full)^q", (line,))


def _volts(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    mine = step.setting
    assert isinstance(mine, VoltsSetting)
    numbers = [f"{q.plain(mine.volts)} V while it runs, {q.plain(mine.rest_v)} V while it stands"]
    law = "as set"
    if mine.ohm is not None:
        law = "V_s − V = N I(V) R, one root"
        amps = case.subject.current_a(mine.volts)
        drop = f"{q.show(amps, q.CURRENT)} · {q.show(mine.ohm, q.RESISTANCE)}"
        numbers.insert(0, f"{case.subject.supply_voltage_v:g} V − {q.plain(mine.volts)} V = {drop}")
    return Why(
        f"Volts at step {step.number}",
        f"{q.plain(mine.volts)} V",
        law,
        tuple(numbers),
        case.subject.assumptions,
        _VALID,
        _SOURCE,
    )


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None or step.wanted_rpm is None:
        raise InputError("of", "needed", "a wanted step", "nothing gives this speed")
    return Why(
        f"Volts for {step.wanted_rpm:.0f} rpm", need.text, "V = V_0 + (V_full − V_0) n/n_full",
        (f"{need.text} at the fans",),
        case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _heat(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    mine = step.setting
    assert isinstance(mine, VoltsSetting)
    return Why(
        f"Heat beside the fans at step {step.number}", q.show(mine.loss_w, q.POWER, 2), "(V_s − V) I, or V I (1/η − 1)",
        (f"{q.show(mine.loss_w, q.POWER)} at {q.plain(mine.volts)} V",), case.subject.assumptions, "amps as estimated",
        _SOURCE,
    )  # fmt: skip


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    assert isinstance(case.design, VoltsDesign)
    return part_why(built(case.subject, case.design).parts, name, what, _VALID)


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    return (
        "line of the fan, what takes the volts, and the supply added in squares",
        ("resistors ± 5 %, regulators and the supply ± 2 %", *case.subject.assumptions),
        _SOURCE,
    )


EXPLAINED = Explained(
    step={
        "speed": _speed, "watts": _amps, "amps": _amps, "needed": _needed, "volts": _volts, "heat": _heat,
        "flow": air_why,
        "noise": air_why,
    },
    part=_part,
    as_built=("the supply as typed, whatever the fans take",),
    spread=_spread,
    validity=_VALID,
)  # fmt: skip
