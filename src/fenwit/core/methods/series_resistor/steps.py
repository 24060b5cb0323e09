"""The steps of a resistor regulator, or of the ideal resistors while none is chosen; and what a miss at one means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands, sampled, step_bands
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
from fenwit.core.methods.series_resistor.design import ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.rating import Rated, rate
from fenwit.core.methods.series_resistor.reach import aimed, curve_of
from fenwit.core.regulator.series import SettingKind, values_for_speeds
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.rated import MAINS
from fenwit.core.size.tolerance import Spread, spreads


@dataclass(frozen=True)
class Ohms:
    """What stands in the line at a step."""

    label: str
    """Empty for the ideal resistor of a wanted speed [-]"""
    resistance_ohm: float


@dataclass(frozen=True, eq=False)
class Regulated:
    """A resistor regulator on a believed fan: rated, and with the band of every step."""

    rated: Rated
    bands: tuple[StepBands, ...]
    sampled_ohm: tuple[ComplexArray, ...]
    """Of each step with the parts within their tolerance, shape (draws,) [Ω]"""


@remembered
def regulated(fan: MachineFan, design: ResistorDesign) -> Regulated:
    """A regulator on a fan; raises InputError as `rate` does."""
    belief, supply = fan.belief, fan.supply
    rated = rate(belief.motor, belief.load, supply, design)
    draws = np.stack(
        [sampled(r.value_ohm, r.spread, belief.draws_kept, seed) for seed, r in enumerate(design.resistors)]
    )
    spread = tuple(row.astype(np.complex128) for row in design.in_line_ohm(draws))
    return Regulated(rated, step_bands(belief, supply, spread), spread)


def _asked(fan: MachineFan, wanted_rpm: Sequence[float]) -> dict[float, Aimed]:
    return aimed(fan, [w for w in wanted_rpm if not fan.is_full(w)])


def _need(fan: MachineFan, wanted_rpm: float | None, found: Aimed | None) -> Need[Ohms] | None:
    value = found.needed.value if found else None
    return need_of(
        fan,
        wanted_rpm,
        found,
        q.show(value, q.RESISTANCE) if value else "none",
        Ohms("", value) if value else None,
    )


def ideal(fan: MachineFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[SeriesStep[Ohms], ...]:
    """The resistor that gives each wanted speed exactly."""
    return ideal_steps(fan, wanted_rpm, _asked(fan, wanted_rpm), partial(_need, fan), _exactly)


def _exactly(aim: Aimed) -> InLine[Ohms]:
    value = aim.needed.value
    words = q.show(value, q.RESISTANCE) if value else "direct"
    setting = Ohms("", value) if value else None
    return InLine("", words, setting, aim.impedance_ohm, aim.needed.solution, aim.bands, value)


def steps(
    fan: MachineFan, design: ResistorDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[SeriesStep[Ohms], ...]:
    """The steps as built, beside the speeds that were wanted of them."""
    found = regulated(fan, design)
    lines = [_built(design, found, k) for k in range(design.steps)]
    return built_steps(fan, wanted_rpm, _asked(fan, wanted_rpm), partial(_need, fan), lines, "regulator")


def _built(design: ResistorDesign, found: Regulated, k: int) -> InLine[Ohms]:
    label, ohm = design.label(k), found.rated.in_line_ohm[k]
    words = f"{label} = {q.show(ohm, q.RESISTANCE)}" if ohm else label
    return InLine(
        label, words, Ohms(label, ohm), complex(ohm), found.rated.nominal[k], found.bands[k], ohm or None
    )


def facts(fan: MachineFan, design: ResistorDesign, found: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at; solved at ±10 % mains."""
    solutions = regulated(fan, design).rated.solutions
    return facts_of(found, solutions[MAINS.index(0.9)], solutions[MAINS.index(1.1)])


@remembered
def _spreads(fan: MachineFan, design: ResistorDesign, mains: float) -> tuple[Spread, ...]:
    found = regulated(fan, design)
    return spreads(
        fan.belief, fan.supply, [complex(v) for v in found.rated.in_line_ohm], found.sampled_ohm, mains
    )


def strays(fan: MachineFan, design: ResistorDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray."""
    return strays_of(found, _spreads(fan, design, mains))


def where(fan: MachineFan, design: ResistorDesign, step: Step[Ohms]) -> str:
    """The contact that is closed at a step."""
    return f"1.{step.number}" if step.number <= design.steps else ""


def missed(fan: MachineFan, design: ResistorDesign | None, step: Step[Ohms], miss: Missed) -> str:
    """What a miss means: as if other ohms stood in the line."""
    if miss.value == 0:
        slower = design is not None and design.scheme is Scheme.CHAIN and step.number > 1
        tail = " Slower steps stand too? Then it is a resistor they share." if slower else ""
        return f": the fan stands. Contact of {step.label} not making, or a resistor of it burnt open.{tail}"
    ohm = step.setting.resistance_ohm if step.setting else 0.0
    if miss.quantity is not SPEED or not ohm:
        return ". Check the meter, the supply volts and the contact of this step."
    if fan.is_full(miss.value):
        return f": as fast as without a regulator. Something bridges {step.label}: a wrong contact or a joint across it."
    (inverse,) = values_for_speeds(
        fan.belief.motor, fan.belief.load, fan.supply, SettingKind.RESISTANCE, [miss.value], curve_of(fan)
    )
    if inverse.value is None:
        return ", and no resistor would explain it: look for drag, a wrong tap or low supply volts."
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return (
        f", as if {q.show(inverse.value, q.RESISTANCE, 2)} stood in the line instead of {q.show(ohm, q.RESISTANCE)} "
        f"({q.signed(100 * (inverse.value / ohm - 1), 0)} %). Cold and dead, measure {step.label} and its joints.{tail}"
    ).replace("(-", "(−")
