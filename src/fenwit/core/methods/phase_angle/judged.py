"""How a phase-angle control's steps are accepted, and how far they stray: parts, mains and motor."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Steps
from fenwit.core.memory import remembered
from fenwit.core.methods.phase_angle.angles import ON_STATE_V, curve_of, extinction_of, point_of, travel
from fenwit.core.methods.phase_angle.design import PhaseDesign
from fenwit.core.methods.phase_angle.steps import PhaseStep, where
from fenwit.core.methods.seam import Stray
from fenwit.core.operating import Solution, Source
from fenwit.core.regulator.diac import (
    BREAKOVER_TOLERANCE_V,
    CAPACITOR_TOLERANCE,
    KNOB_TOLERANCE,
    DiacNetwork,
    going_angle,
    ohm_for_angle,
    tolerance,
)
from fenwit.core.regulator.firing_points import phase_solutions
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.tolerance import Cause

FloatArray = NDArray[np.float64]

SPREAD_WORDS = (
    f"knob ±{KNOB_TOLERANCE:.0%}, timing capacitors ±{CAPACITOR_TOLERANCE:.0%}, diac "
    f"±{BREAKOVER_TOLERANCE_V:g} V"
)


def facts(fan: MachineFan, design: PhaseDesign, steps: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at; on other mains a knob fires elsewhere, and that is reckoned in."""
    usable = _usable(steps)
    angles = tuple(s.setting.firing_deg for s in usable if s.setting)
    low_mains, high_mains = (_on_mains(fan, design, angles, 1 + sign * mains) for sign in (-1, 1))
    found = []
    for step, low, high in zip(usable, low_mains, high_mains, strict=True):
        point, solution = step.shown_point, step.solution
        assert point is not None
        assert solution is not None
        on_high = point_of(high, design.kick) if high else None
        margin = low.start_margin if low else 0.0
        found.append(
            StepFacts(
                step.number,
                point.speed_rpm,
                step.speed_band,
                # A kick starts it at full, whatever the step.
                fan.direct.start_margin if design.kick else solution.start_margin,
                point.motor_voltage_v,
                on_high.motor_voltage_v if on_high else None,
                low is not None and point_of(low, design.kick) is not None,
                fan.direct.start_margin * (1 - mains) ** 2 if design.kick else margin,
                step.may_not_start,
            )
        )
    return tuple(found)


def _usable(steps: Steps) -> list[PhaseStep]:
    return [s for s in steps if isinstance(s, PhaseStep) and s.shown is not None and s.setting is not None]


@remembered
def _on_mains(
    fan: MachineFan, design: PhaseDesign, angles: tuple[float, ...], level: float
) -> tuple[Solution | None, ...]:
    """Each step on other mains; None where the diac then does not fire any more."""
    supply = Source(fan.supply.voltage_v * level, fan.supply.frequency_hz)
    moved = np.array(angles, dtype=np.float64)
    if design.network is not None and len(moved):
        moved = _moved(design.network, fan, moved, supply)
    fires = moved < 180
    belief = fan.belief
    found = iter(phase_solutions(belief.motor, belief.load, supply, moved[fires].tolist(), ON_STATE_V))
    return tuple(next(found) if f else None for f in fires)


@remembered
def _resistances(network: DiacNetwork, fan: MachineFan, angles: tuple[float, ...]) -> tuple[float, ...]:
    """What stands before the capacitor at each angle, on the stated mains [Ω]"""
    ends = extinction_of(curve_of(fan))
    ohm = ohm_for_angle(network, np.array(angles), fan.supply.voltage_v, fan.supply.frequency_hz, ends)
    return tuple(ohm.tolist())


def _moved(network: DiacNetwork, fan: MachineFan, angles: FloatArray, supply: Source) -> FloatArray:
    """Where a knob left as it is fires on other mains, since the diac's volts stay; 180 where it goes out."""
    ends = extinction_of(curve_of(fan))
    ohm = np.array(_resistances(network, fan, tuple(angles.tolist())))
    there = np.isfinite(ohm)
    found = np.full(angles.shape, 180.0)
    down = going_angle(network, ohm[there], supply.voltage_v, supply.frequency_hz, ends)
    found[there] = np.degrees(np.where(np.isfinite(down), down, np.pi))
    return found


def strays(fan: MachineFan, design: PhaseDesign, steps: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each usable step may stray: parts, mains and motor each alone, and joined as independent."""
    usable = _usable(steps)
    angles = tuple(s.setting.firing_deg for s in usable if s.setting)
    low, high = (_on_mains(fan, design, angles, 1 + sign * mains) for sign in (-1, 1))
    rows = []
    for k, (step, by_parts) in enumerate(zip(usable, _by_parts(fan, design, usable), strict=True)):
        point, by_motor = step.shown_point, step.speed_band
        if point is None or by_motor is None:
            continue
        n = point.speed_rpm
        ends = [point_of(s, design.kick) for s in (low[k], high[k]) if s is not None]
        speeds = [p.speed_rpm for p in ends if p is not None]
        stands = len(speeds) < 2
        by_mains = Band(0.0 if stands else min([*speeds, n]), max([*speeds, n]))
        alone = {Cause.PARTS: by_parts, Cause.MAINS: by_mains, Cause.MOTOR: by_motor}
        together = Band(
            max(0.0, n - float(np.sqrt(sum((n - b.low) ** 2 for b in alone.values())))),
            n + float(np.sqrt(sum((b.high - n) ** 2 for b in alone.values()))),
        )
        rows.append(Stray(step.number, where(fan, design, step), together, alone, stands_on_low_mains=stands))
    return tuple(rows)


def _by_parts(fan: MachineFan, design: PhaseDesign, steps: Sequence[PhaseStep]) -> list[Band]:
    """Speed of each step over the tolerance of what fires it."""
    curve = curve_of(fan)
    whole = curve.kicked_rpm if design.kick else curve.speed_rpm
    ends = _fires_between(fan, design, tuple(s.setting.firing_deg for s in steps if s.setting))
    # Relative to the curve itself, so that straight lines between its samples do not show as straying.
    found = []
    for step, (early, late) in zip(steps, ends, strict=True):
        n = step.shown_point.speed_rpm if step.shown_point else 0.0
        at = float(np.interp(step.setting.firing_deg if step.setting else 0.0, curve.firing_deg, whole))
        fast = float(np.interp(early, curve.firing_deg, whole))
        slow = float(np.interp(late, curve.firing_deg, whole, right=0.0))
        found.append(Band(max(0.0, n + min(0.0, slow - at)), n + max(0.0, fast - at)))
    return found


@remembered
def _fires_between(
    fan: MachineFan, design: PhaseDesign, angles: tuple[float, ...]
) -> tuple[tuple[float, float], ...]:
    """Earliest and latest firing of each step over the tolerance of what fires it [°]"""
    if design.network is None:
        doubt = design.unit.edge_doubt_deg(fan.supply)
        return tuple((max(0.0, a - doubt), a + doubt) for a in angles)
    if not angles:
        return ()
    supply, ends = fan.supply, extinction_of(curve_of(fan))
    turns = np.array([travel(design.network, fan.belief, supply).turn_at(a) or 0.0 for a in angles])
    bands = tolerance(design.network, turns, supply.voltage_v, supply.frequency_hz, extinction=ends)
    return tuple((b.low_deg, b.high_deg) for b in bands)
