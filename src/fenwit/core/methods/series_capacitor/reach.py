"""Speed over series capacitance: the curve of a fan, its zones, and the capacitor a wanted speed asks for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands, step_bands
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Hint
from fenwit.core.memory import remembered
from fenwit.core.methods.common.curve import banded
from fenwit.core.methods.common.series import HUNTING_TEXT, Aimed, AimMemory, asked_once
from fenwit.core.methods.seam import Axis, Reach, ReachBand, ReachPoint, ReachState, Zone, ZoneKind
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT
from fenwit.core.regulator.series import (
    HandEstimate,
    SpeedCurve,
    capacitor_impedance,
    inverse_and_hand,
    speed_curve,
)

AXIS = Axis("in the line", "µF", 1e6, logarithmic=True)


@remembered
def curve_of(fan: MachineFan) -> SpeedCurve:
    """Speed over capacitance of the likeliest motor, once for each fan."""
    return speed_curve(fan.belief.motor, fan.belief.load, fan.supply)


@remembered
def _memory(fan: MachineFan) -> AimMemory:
    return AimMemory()


def aimed(fan: MachineFan, speeds_rpm: Sequence[float]) -> dict[float, Aimed]:
    """What each wanted speed below full speed asks for.

    Remembered: while one notch is dragged the other steps stay as they are.
    """

    def ask(new: list[float]) -> dict[float, Aimed]:
        supply, belief = fan.supply, fan.belief
        asked = inverse_and_hand(belief.motor, belief.load, supply, new, curve_of(fan), fan.direct.running)
        z = [complex(capacitor_impedance(i.value, supply.frequency_hz)) if i.value else 0j for i, _ in asked]
        bands = step_bands(belief, supply, z)
        return {
            w: Aimed(inverse, impedance, band if inverse.value else None, _hint(hand, fan.motor_limit_v))
            for w, (inverse, hand), impedance, band in zip(new, asked, z, bands, strict=True)
        }

    return asked_once(_memory(fan), speeds_rpm, ask)


def _hint(hand: HandEstimate | None, motor_limit_v: float) -> Hint | None:
    if hand is None:
        return None
    value = q.show(hand.capacitance_f, q.CAPACITANCE)
    if hand.gives_motor_voltage_v is not None and hand.gives_motor_voltage_v > motor_limit_v:
        return Hint(hand.capacitance_f, f"hand estimate {value}: barred, it resonates")
    if hand.gives_speed_rpm is None or hand.miss_rpm is None:
        return Hint(hand.capacitance_f, f"hand estimate {value}: would not start")
    words = f"hand estimate {value}: really {hand.gives_speed_rpm:.0f} rpm, {q.signed(hand.miss_rpm, 0)}"
    return Hint(hand.capacitance_f, words)


def barred_at(fan: MachineFan, capacitance_f: float) -> bool:
    """Whether a series capacitance lies where it resonates, on the stated or on high mains."""
    curve = curve_of(fan)
    right = int(np.clip(np.searchsorted(curve.value, capacitance_f), 1, len(curve.value) - 1))
    return bool(curve.barred[right] or curve.barred[right - 1])


def barred_range(fan: MachineFan) -> str:
    """The capacitances that resonate, in words; empty when none does."""
    curve = curve_of(fan)
    values = curve.value[curve.barred & ~curve.hunts]
    if not len(values):
        return ""
    low, high = (q.show(float(v), q.CAPACITANCE, 2) for v in (values[0], values[-1]))
    return f"{low} and up" if curve.barred[-1] else f"{low} to {high}"


def _barred_words(fan: MachineFan) -> str:
    return (
        f"barred: only {barred_range(fan)} would give it, and these resonate: on the stated or on high mains "
        f"the motor would get more than {MOTOR_VOLTAGE_LIMIT:g} × its volts, so nothing is predicted"
    )


@remembered
def zones(fan: MachineFan) -> tuple[Zone, ...]:
    """Speeds that no capacitor gives: below the start limit, between two branches, or only with too many volts."""
    curve, full = curve_of(fan), fan.full_rpm
    speeds = curve.scan.speed_rpm
    reached = sorted(
        (float(speeds[a:b].min()), float(speeds[a:b].max())) for a, b in _stretches(curve.usable)
    )
    found: list[Zone] = []
    floor = 0.0
    for low, high in reached:
        if low - floor > 0.015 * full:
            found.append(Zone(floor, low, *_between(curve, floor, low)))
        floor = max(floor, high)
    barred = speeds[curve.barred & ~curve.hunts]
    if len(barred) and floor < full and full - floor > 0.015 * full:
        found.append(Zone(floor, full, _barred_words(fan), ZoneKind.BARRED))
    elif len(barred) and float(barred.max()) > full:
        found.append(Zone(full, float(barred.max()), _barred_words(fan), ZoneKind.BARRED))
    return tuple(found)


def _between(curve: SpeedCurve, low: float, high: float) -> tuple[str, ZoneKind]:
    """Why no capacitor gives the speeds of a stretch."""
    swinging = curve.scan.speed_rpm[curve.hunts]
    if ((swinging >= low) & (swinging <= high)).any():
        return HUNTING_TEXT, ZoneKind.BARRED
    if low == 0:
        return "will not start from rest", ZoneKind.NO_START
    return "no capacitor holds a speed here", ZoneKind.GAP


def _stretches(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Start and end of each unbroken stretch of true values."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


@remembered
def reach(fan: MachineFan) -> Reach:
    """Speed over capacitance; barred values get no speed: the model is outside its linear range there."""
    curve = curve_of(fan)
    state = np.where(
        ~curve.scan.runs, ReachState.STALL, np.where(curve.barred, ReachState.BARRED, ReachState.OK)
    )
    speed = np.where(curve.usable, curve.scan.speed_rpm, 0.0)
    points = tuple(
        ReachPoint(float(c), float(n), ReachState(s))
        for c, n, s in zip(curve.value, speed, state, strict=True)
    )
    return Reach(AXIS, points, _banded(fan, curve), _why_barred(fan, curve))


def _why_barred(fan: MachineFan, curve: SpeedCurve) -> str:
    resonates = _barred_words(fan) if (curve.barred & ~curve.hunts).any() else ""
    return "; ".join(words for words in (resonates, HUNTING_TEXT if curve.hunts.any() else "") if words)


def _banded(fan: MachineFan, curve: SpeedCurve) -> tuple[ReachBand, ...]:
    def bands(values: list[float]) -> Sequence[StepBands]:
        z = [complex(capacitor_impedance(c, fan.supply.frequency_hz)) for c in values]
        return step_bands(fan.belief, fan.supply, z)

    return banded(curve, bands)
