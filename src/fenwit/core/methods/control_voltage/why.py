"""Why this number: of a fan on its control input."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import LINE_CURRENT, Step, shown_amps
from fenwit.core.methods.common.mapped import air_why, part_why, running, speed_why
from fenwit.core.methods.control_voltage.design import ControlDesign, Source
from fenwit.core.methods.control_voltage.parts import built
from fenwit.core.methods.control_voltage.signal import ControlSetting, feeding
from fenwit.core.methods.control_voltage.steps import clear_words
from fenwit.core.methods.seam import Case, Explained, Why

_SOURCE = "Map of speeds over the control voltage (docs/ec.md)"
_VALID = "between the volts that are known; a running fan on its full supply, its soft start waited out"


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    at = step.at or 0.0
    line = case.subject.line
    numbers = [f"{at:.3f} V at its own terminals", clear_words(case.subject, at)]
    if line.inverse:
        numbers.append("its input is inverse: fewer volts, more speed")
    law = "n = n_min + (n_max − n_min) clip((v − V_lo)/(V_hi − V_lo), 0, 1), or the map through its readings"
    return speed_why(case, step, law, tuple(numbers), _VALID)


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    found, fan = running(step), case.subject
    amps = fan.amps(found.speed_rpm)
    if amps is None:
        raise InputError("of", "amps", "a fan whose amps and watts are known", "nobody read or typed them")
    full = fan.amps(fan.full_rpm)
    return Why(
        f"Amps at step {step.number}", shown_amps(amps, step.bands.get(LINE_CURRENT.key)).text,
        "P = P_full (0.1 + 0.9 (n/n_full)³), I = I_full P/P_full",
        (f"I_full = {q.show(full, q.CURRENT)}", f"n/n_full = {found.speed_rpm / fan.full_rpm:.3f}"),
        fan.assumptions, "an estimate, within a third: the power factor falls at low speed",
        "Amps of such fans (docs/ec.md)",
    )  # fmt: skip


def _watts(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    found = running(step)
    if found.input_power_w is None:
        raise InputError("of", "watts", "a fan whose watts are known", "nobody read or typed them")
    full, share = case.subject.rated_power_w or 0.0, found.speed_rpm / case.subject.full_rpm
    return Why(
        f"Watts at step {step.number}", f"{q.plain(found.input_power_w, 2)} W", "P = P_full (0.1 + 0.9 (n/n_full)³)",
        (f"{q.plain(full)} W · (0.1 + 0.9 · {share:.3f}³)",), case.subject.assumptions, "an estimate, within a third",
        "Watts of such fans (docs/ec.md)",
    )  # fmt: skip


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None or step.wanted_rpm is None:
        raise InputError("of", "needed", "a wanted step", "nothing gives this speed")
    return Why(
        f"Volts for {step.wanted_rpm:.0f} rpm", need.text, "v = V_lo + (n − n_min)/(n_max − n_min) (V_hi − V_lo)",
        (f"n({need.text}) = {step.wanted_rpm:.0f} rpm",), case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _volts(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running(step)
    mine, design, fan = step.setting, case.design, case.subject
    if not isinstance(mine, ControlSetting) or not isinstance(design, ControlDesign):
        return _needed(case, step)
    source, travel, duty = feeding(fan, design, step.number - 1)
    numbers = [f"source open {source.open_v:.3f} V behind {q.show(source.ohm, q.RESISTANCE)}"]
    if travel is not None:
        numbers.append(f"knob at {100 * travel:.1f} % of its turn")
    if duty is not None:
        f = design.filter
        numbers.append(f"duty {duty:.4f} · {f.amplitude_v:g} V · gain {f.gain:g}")
    numbers.append(f"the inputs take {q.show(mine.source_a, q.CURRENT, 2)} in all")
    numbers += [
        f"fan {k}: {told.volts:.3f} V, {told.speed_rpm:.0f} rpm" for k, told in enumerate(mine.fans, start=1)
    ]
    law = {
        Source.KNOB: "V = V_ref x/(1 + x(1 − x) R/Z), with what stands at its ends",
        Source.STEPS: "tap of a chain of resistors, loaded by the inputs",
        Source.FILTER: "mean = d V g",
        Source.ANALOG: "as its output is set, behind its own ohms",
    }[design.source]
    return Why(
        f"Volts at step {step.number}", f"{mine.made_v:.2f} V", law, tuple(numbers),
        (f"each input takes {q.show(fan.analog.takes_ohm, q.RESISTANCE)}",), "at the first fan's own terminals",
        "Where the volts come from (docs/ec.md)",
    )  # fmt: skip


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    assert isinstance(case.design, ControlDesign)
    return part_why(built(case.subject, case.design).parts, name, what, _VALID)


def _spread(case: Case[Any, Any, Any]) -> tuple[str, tuple[str, ...], str]:
    design = case.design
    pot = f"pots ± {100 * design.knob.spread:.0f} %, " if isinstance(design, ControlDesign) else ""
    return (
        "map of speeds and the parts of the source added in squares",
        (f"{pot}resistors ± 1 %, amplifier as its offset and gain error say", *case.subject.assumptions),
        "Where the volts come from (docs/ec.md)",
    )


EXPLAINED = Explained(
    step={
        "speed": _speed, "watts": _watts, "amps": _amps, "needed": _needed, "volts": _volts, "flow": air_why,
        "noise": air_why,
    },
    part=_part,
    as_built=("the fan on its full supply, soft start waited out, enable closed",),
    spread=_spread,
    validity=_VALID,
)  # fmt: skip
