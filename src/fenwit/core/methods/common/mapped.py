"""What the ways of commanding or feeding a fan with electronics of its own share: no torque, no machine, no netlist."""

from __future__ import annotations

from typing import Any

from fenwit.core import quantity as q
from fenwit.core.circuit.netted import Netted
from fenwit.core.errors import InputError
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.steps import LINE_CURRENT, Running, Step, Steps, Told, shown, shown_amps
from fenwit.core.methods.seam import Behind, Case, PartRow, StressShown, Why
from fenwit.core.size.classes import FUSE_FACTOR, next_fuse
from fenwit.core.size.merits import StepMerit
from fenwit.core.size.profile import StepFacts

PIN_A, PIN_PEAK_A = 3.0, 4.0
"""What a 2.54 mm pin bears for good, and for seconds [A]"""
AMPS_SPREAD = 0.30
"""Amps by an estimated law may be off by so much [-]"""

HOLDS_ONLY = Told("holds, does not start from rest")
"""Of a step at which a fan runs on that cannot start there"""


def facts(fan: Any, design: Any, found: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at: such a fan has neither torque at rest nor motor volts of its own.

    Parameters
    ----------
    fan : Any
        The fan [-]
    design : Any
        What is chosen [-]
    found : Steps
        As built [-]
    mains : float
        By how much the mains may be off [-]

    Returns
    -------
    tuple of StepFacts
        Of every step that runs [-]
    """
    return tuple(
        StepFacts(
            s.number,
            s.shown.speed_rpm,
            s.speed_band,
            None,
            None,
            None,
            s.may_not_start == 0,
            None,
            s.may_not_start,
        )
        for s in found
        if s.shown
    )


def behind(fan: Any, step: Step[Any]) -> Behind | None:
    """Measure has no torque curve of such a fan."""
    return None


def netted(fan: Any, design: Any, step: Step[Any]) -> Netted | None:
    """No circuit stands for such a fan in a simulator."""
    return None


def running(step: Step[Any]) -> Running:
    """The state of a step that runs. Raises InputError for one that does not."""
    if step.shown is None:
        raise InputError("of", f"step {step.number}", "a step that runs", "nothing is predicted here")
    return step.shown


def air_why(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
    """Flow and noise by the fan laws."""
    share = running(step).speed_rpm / case.subject.full_rpm
    return Why(
        f"Air at step {step.number}",
        f"{100 * share:.0f} % of full speed",
        "q ∝ n, level + 55 log10(n/n_full)",
        (f"n/n_full = {share:.3f}",),
        ("one system curve through the origin, where nothing else is typed under air",),
        "fan laws",
        "Fan laws (docs/air.md)",
    )


def speed_why(
    case: Case[Any, Any, Any], step: Step[Any], law: str, numbers: tuple[str, ...], validity: str
) -> Why:
    """Speed of a step by its map.

    Parameters
    ----------
    case : Case
        The job [-]
    step : Step
        The step [-]
    law : str
        In symbols [-]
    numbers : tuple of str
        The law with the numbers in it [-]
    validity : str
        Where it holds [-]

    Returns
    -------
    Why
        The explanation [-]

    Raises
    ------
    InputError
        The step does not run.
    """
    found, band = running(step), step.speed_band
    half = f", nine in ten within {band.half_width:.0f} rpm" if band else ""
    return Why(
        f"Speed at step {step.number}",
        shown(found.speed_rpm, band, "rpm").text,
        law,
        (*numbers, f"{found.speed_rpm:.0f} rpm{half}"),
        case.subject.assumptions,
        validity,
        "Speed over the command (docs/duty.md)",
    )


def amps_why(case: Case[Any, Any, Any], step: Step[Any], law: str, numbers: tuple[str, ...]) -> Why:
    """Amps of the supply at a step. Raises InputError where nobody knows them."""
    watts = running(step).input_power_w
    if watts is None:
        raise InputError("of", "amps", "a fan whose amps are known", "nobody read or typed its amps")
    volts = case.subject.supply_voltage_v
    return Why(
        f"Amps at step {step.number}",
        shown_amps(watts / volts, step.bands.get(LINE_CURRENT.key)).text,
        law,
        (*numbers, f"{q.plain(watts)} W / {volts:g} V"),
        case.subject.assumptions,
        "an estimate, within a third",
        "Amps of such fans (docs/duty.md)",
    )


def part_why(parts: tuple[PartRow, ...], name: str, what: str, validity: str) -> Why:
    """A part of the list, or one of its burdens. Raises InputError where there is none."""
    row = next((p for p in parts if p.name == name), None)
    stress = next((s for s in row.stresses if s.burden == what), None) if row else None
    if row is None or (stress is None and what != "value"):
        raise InputError("of", f"part:{name}:{what}", "a part of this list", "there is no such part")
    source = "Board and harness (docs/duty.md)"
    if stress is None:
        return Why(
            f"{name}: {row.role}",
            row.text,
            "",
            tuple(t for t in (row.note, row.limit_text) if t),
            (),
            validity,
            source,
        )
    return Why(
        f"{name}, {stress.burden}",
        stress.text,
        "what it bears over its rating",
        (f"{stress.text}: {stress.where}",),
        (row.note,) if row.note else (),
        "amps of the fans as typed or read",
        source,
    )


def bar(burden: str, value: float, rating: float, unit: q.Dimension, where: str) -> StressShown:
    """A burden over its rating, in words.

    Parameters
    ----------
    burden : str
        Of which kind [-]
    value : float
        What it bears [unit]
    rating : float
        What it may bear [unit]
    unit : Dimension
        Of both [-]
    where : str
        When that is [-]

    Returns
    -------
    StressShown
        With whether it holds [-]
    """
    text = f"{q.show(value, unit, 2)} of {q.show(rating, unit, 2)}"
    return StressShown(burden, value / rating, text, where, value <= rating * (1 + 1e-9))


def fuse_for(by_hand_a: float | None, running_a: float | None) -> float:
    """The fuse that was set, or the next above 1.6 × the running amps [A]"""
    if by_hand_a is not None:
        return by_hand_a
    return next_fuse(min(20.0, FUSE_FACTOR * running_a)) if running_a else 2.0


def merit_of(fan: MappedFan, step: Step[Any], own_w: float) -> StepMerit | None:
    """A step as it is compared: watts of the whole fan, since nothing of its inside is known."""
    found = step.shown
    watts = found.input_power_w if found else None
    if found is None or watts is None or step.wanted_rpm is None:
        return None
    return StepMerit(
        number=step.number,
        wanted_rpm=step.wanted_rpm,
        speed_rpm=found.speed_rpm,
        input_power_w=watts + own_w,
        shaft_w=0.0,
        motor_loss_w=watts,
        regulator_w=own_w,
        line_current_a=(watts + own_w) / fan.supply_voltage_v,
        motor_voltage_v=fan.supply_voltage_v,
        power_factor=1.0,
        rise=None,
        start=None,
        hum_db=None,
        ripple=None,
        thd=0.0,
        full=fan.is_full(step.wanted_rpm),
    )
