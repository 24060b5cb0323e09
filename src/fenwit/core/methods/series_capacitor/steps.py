"""The steps of a bank, or of the ideal capacitors while none is chosen; what is read at them, and what a miss means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands, sampled, step_bands
from fenwit.core.circuit.contacts import truth_table
from fenwit.core.circuit.network import ComplexArray
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import SPEED, Need, Step, Steps
from fenwit.core.memory import remembered
from fenwit.core.methods.common.series import (
    Aimed,
    InLine,
    SeriesStep,
    facts_of,
    need_of,
    strays_of,
)
from fenwit.core.methods.common.stepped import built_steps, ideal_steps
from fenwit.core.methods.seam import Missed, Stray
from fenwit.core.methods.series_capacitor.design import BankDesign, pattern_capacitance_f
from fenwit.core.methods.series_capacitor.rating import Rated, rate
from fenwit.core.methods.series_capacitor.reach import aimed, barred_at, curve_of
from fenwit.core.regulator.series import SettingKind, values_for_speeds
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.rated import MAINS
from fenwit.core.size.tolerance import Spread, spreads


@dataclass(frozen=True)
class Pattern:
    """What stands in the line at a step of a bank: a pattern of its capacitors."""

    label: str
    """Empty for the ideal capacitor of a wanted speed [-]"""
    capacitance_f: float | None
    """As one capacitor; None where no single one stands for it [F]"""


@dataclass(frozen=True, eq=False)
class Regulated:
    """A bank on a believed fan: rated, and with the band of every step."""

    rated: Rated
    bands: tuple[StepBands, ...]
    sampled_ohm: tuple[ComplexArray, ...]
    """Impedance of each step with the parts within their tolerance, shape (draws,) or () [Ω]"""


@remembered
def regulated(fan: MachineFan, design: BankDesign) -> Regulated:
    """A bank on a fan; raises InputError as `rate` does."""
    belief, supply = fan.belief, fan.supply
    rated = rate(belief.motor, belief.load, supply, design)
    # Bleeds and limiters hardly vary and hardly matter: what spreads is the bare capacitors.
    draws = np.stack(
        [
            sampled(part.value_f, part.spread, belief.draws_kept, seed)
            for seed, part in enumerate(design.capacitors)
        ]
    )
    stated = np.array([part.value_f for part in design.capacitors])
    omega = 2 * np.pi * supply.frequency_hz
    spread: tuple[ComplexArray, ...] = tuple(
        np.asarray(
            complex(position.impedance_ohm)
            + (1 / pattern_capacitance_f(pattern, draws) - 1 / pattern_capacitance_f(pattern, stated))
            / (1j * omega),
            dtype=np.complex128,
        )
        for pattern, position in zip(design.patterns, rated.positions, strict=True)
    )
    return Regulated(rated, step_bands(belief, supply, spread), spread)


def _asked(fan: MachineFan, wanted_rpm: Sequence[float]) -> dict[float, Aimed]:
    return aimed(fan, [w for w in wanted_rpm if not fan.is_full(w)])


def _need(fan: MachineFan, wanted_rpm: float | None, found: Aimed | None) -> Need[Pattern] | None:
    value = found.needed.value if found else None
    text = q.show(value, q.CAPACITANCE, 2) if value else "none"
    return need_of(fan, wanted_rpm, found, text, Pattern("", value) if value else None)


def ideal(fan: MachineFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[SeriesStep[Pattern], ...]:
    """The capacitor that gives each wanted speed exactly."""
    return ideal_steps(fan, wanted_rpm, _asked(fan, wanted_rpm), partial(_need, fan), partial(_exactly, fan))


def _exactly(fan: MachineFan, aim: Aimed) -> InLine[Pattern]:
    value = aim.needed.value
    return InLine(
        label="",
        joins=q.show(value, q.CAPACITANCE) if value else "direct",
        setting=Pattern("", value) if value else None,
        impedance_ohm=aim.impedance_ohm,
        solution=aim.needed.solution,
        bands=aim.bands,
        at=value,
        barred=value is not None and barred_at(fan, value),
    )


def steps(
    fan: MachineFan, design: BankDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[SeriesStep[Pattern], ...]:
    """The steps of a bank, beside the speeds that were wanted of them."""
    bank = regulated(fan, design)
    lines = [_in_line(fan, design, bank, k) for k in range(len(design.patterns))]
    return built_steps(fan, wanted_rpm, _asked(fan, wanted_rpm), partial(_need, fan), lines, "bank")


def _in_line(fan: MachineFan, design: BankDesign, bank: Regulated, k: int) -> InLine[Pattern]:
    pattern, z = design.patterns[k], complex(bank.rated.positions[k].impedance_ohm)
    omega = 2 * np.pi * fan.supply.frequency_hz
    capacitance = -1 / (omega * z.imag) if -z.imag > 1.0 else None
    joins = pattern if capacitance is None else f"{pattern} = {q.show(capacitance, q.CAPACITANCE)}"
    return InLine(
        label=pattern,
        joins=joins,
        setting=Pattern(pattern, capacitance),
        impedance_ohm=z,
        solution=bank.rated.nominal[k],
        bands=bank.bands[k],
        at=capacitance,
        barred=not bank.rated.usable[k],
    )


def facts(fan: MachineFan, design: BankDesign, found: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at; a bank is solved at ±10 % mains."""
    solutions = regulated(fan, design).rated.solutions
    return facts_of(found, solutions[MAINS.index(0.9)], solutions[MAINS.index(1.1)])


@remembered
def _spreads(fan: MachineFan, design: BankDesign, mains: float) -> tuple[Spread, ...]:
    bank = regulated(fan, design)
    nominal = [complex(p.impedance_ohm) for p in bank.rated.positions]
    return spreads(fan.belief, fan.supply, nominal, bank.sampled_ohm, mains)


def strays(fan: MachineFan, design: BankDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray."""
    return strays_of(found, _spreads(fan, design, mains))


@remembered
def _contacts(fan: MachineFan, design: BankDesign) -> dict[str, tuple[str, ...]]:
    return dict(truth_table(regulated(fan, design).rated.circuit))


def where(fan: MachineFan, design: BankDesign, step: Step[Pattern]) -> str:
    """The contacts that are closed at a step."""
    return ", ".join(_contacts(fan, design).get(str(step.number), ()))


def missed(fan: MachineFan, design: BankDesign | None, step: Step[Pattern], miss: Missed) -> str:
    """What a miss means: as if another capacitor stood in the line."""
    if miss.value == 0:
        return f": the fan stands. Contact of {step.label} not making, or a part of it open."
    capacitance = step.setting.capacitance_f if step.setting else None
    if miss.quantity is not SPEED or capacitance is None:
        return ". Check the meter, the supply volts and the contacts of this step."
    if fan.is_full(miss.value):
        return (
            ": as fast as without a regulator. "
            f"Something bridges {step.label}: a shorted part or a wrong contact."
        )
    (inverse,) = values_for_speeds(
        fan.belief.motor, fan.belief.load, fan.supply, SettingKind.CAPACITANCE, [miss.value], curve_of(fan)
    )
    if inverse.value is None:
        return ", and no capacitor would explain it: look for drag, a wrong tap or low supply volts."
    ratio = inverse.value / capacitance - 1
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return (
        f", as if {q.show(inverse.value, q.CAPACITANCE, 2)} stood in the line instead of "
        f"{q.show(capacitance, q.CAPACITANCE, 2)} ({q.signed(100 * ratio, 0)} %). "
        f"Measure what makes {step.label}, its contacts and joints.{tail}"
    ).replace("(-", "(−")
