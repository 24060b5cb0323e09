"""Why this number: of a fan on its control lead."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import LINE_CURRENT, Step, shown, shown_amps
from fenwit.core.methods.pwm.design import DutyDesign
from fenwit.core.methods.pwm.parts import built
from fenwit.core.methods.pwm.signal import DutySetting
from fenwit.core.methods.seam import Case, Explained, Why

_SOURCE = "Map of speeds over the duty on the lead (docs/duty.md)"
_VALID = "between the duties that are known; a running fan on its full supply"


def _running(step: Step[Any]) -> Any:
    if step.shown is None or step.at is None:
        raise InputError("of", f"step {step.number}", "a step that runs", "nothing is predicted here")
    return step.shown


def _speed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running = _running(step)
    mine = step.setting
    seen = mine.seen if isinstance(mine, DutySetting) else step.at or 0.0
    at = step.at or 0.0
    numbers = [f"{100 * at:.2f} % on the lead"]
    if isinstance(mine, DutySetting) and abs(mine.seen - mine.made) > 1e-6:
        numbers.append(f"{100 * mine.seen:.2f} % seen by the fan: its rising edge comes late")
    band = step.speed_band
    half = f", nine in ten within {band.half_width:.0f} rpm" if band else ""
    numbers.append(f"n({100 * seen:.2f} %) = {running.speed_rpm:.0f} rpm{half}")
    return Why(
        f"Speed at step {step.number}", shown(running.speed_rpm, band, "rpm").text, "n = n(d)",
        tuple(n for n in numbers if n),
        case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _amps(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running = _running(step)
    watts = running.input_power_w
    if watts is None:
        raise InputError("of", "amps", "a fan whose amps are known", "nobody read or typed its amps")
    volts = case.subject.supply_voltage_v
    share = running.speed_rpm / case.subject.full_rpm
    full = case.subject.rated_power_w
    return Why(
        f"Amps at step {step.number}", shown_amps(watts / volts, step.bands.get(LINE_CURRENT.key)).text,
        "P = P_full (0.1 + 0.9 (n/n_full)³), I = P/V",
        (f"{q.plain(full)} W · (0.1 + 0.9 · {share:.3f}³) = {q.plain(watts)} W", f"{q.plain(watts)} W / {volts:g} V"),
        case.subject.assumptions, "an estimate, within a third",
        "Cube law with the electronics' own share (docs/duty.md)",
    )  # fmt: skip


def _needed(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    need = step.need
    if need is None or need.setting is None or step.wanted_rpm is None:
        raise InputError("of", "needed", "a wanted step", "nothing gives this speed")
    return Why(
        f"Duty for {step.wanted_rpm:.0f} rpm", need.text, "n(d) = n_wanted, by bracketing",
        (f"n({need.text}) = {step.wanted_rpm:.0f} rpm",), case.subject.assumptions, _VALID, _SOURCE,
    )  # fmt: skip


def _duty(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    _running(step)
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


def _air(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    running = _running(step)
    share = running.speed_rpm / case.subject.full_rpm
    return Why(
        f"Air at step {step.number}", f"{100 * share:.0f} % of full speed", "q ∝ n, level + 55 log10(n/n_full)",
        (f"n/n_full = {share:.3f}",),
        ("one system curve through the origin, where nothing else is typed under air",), "fan laws",
        "Fan laws (docs/air.md)",
    )  # fmt: skip


def _part(case: Case[Any, Any, Any], name: str, what: str) -> Why:
    assert isinstance(case.design, DutyDesign)
    row = next((p for p in built(case.subject, case.design).parts if p.name == name), None)
    stress = next((s for s in row.stresses if s.burden == what), None) if row else None
    if row is None or (stress is None and what != "value"):
        raise InputError("of", f"part:{name}:{what}", "a part of this list", "there is no such part")
    if stress is None:
        return Why(
            f"{name}: {row.role}",
            row.text,
            "",
            (row.note or row.limit_text,),
            (),
            _VALID,
            "Parts around a commanded fan (docs/duty.md)",
        )
    return Why(
        f"{name}, {stress.burden}", stress.text, "what it bears over its rating", (f"{stress.text}: {stress.where}",),
        (row.note,) if row.note else (),
        "amps of the fans as typed or read", "Board and harness (docs/duty.md)",
    )  # fmt: skip


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
        "flow": _air,
        "noise": _air,
    },
    part=_part,
    as_built=("the fan on its full supply, its lead driven as set",),
    spread=_spread,
    validity=_VALID,
)  # fmt: skip
