"""Speed over the ohms in the line: what a resistor can do with a fan at all, and which one a wanted speed asks for."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import step_bands
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.series import HUNTING_TEXT, Aimed, AimMemory
from fenwit.core.methods.seam import Axis, Reach, ReachBand, ReachPoint, ReachState, Zone, ZoneKind
from fenwit.core.regulator.series import SettingKind, SpeedCurve, speed_curve, values_for_speeds

AXIS = Axis("in the line", "Ω", 1.0, logarithmic=True)
_BAND_POINTS = 26
_GAP = 0.015
"""Of full speed, from which a stretch nobody can hold is worth a mark [-]"""


@remembered
def curve_of(fan: MachineFan) -> SpeedCurve:
    """Speed over resistance of the likeliest motor, once for each fan."""
    return speed_curve(fan.belief.motor, fan.belief.load, fan.supply, setting=SettingKind.RESISTANCE)


@remembered
def _memory(fan: MachineFan) -> AimMemory:
    return AimMemory()


def aimed(fan: MachineFan, speeds_rpm: Sequence[float]) -> dict[float, Aimed]:
    """What each wanted speed below full speed asks for, remembered."""
    memory = _memory(fan)
    found = {w: memory.known[w] for w in speeds_rpm if w in memory.known}
    new = [w for w in speeds_rpm if w not in found]
    if new:
        asked = values_for_speeds(
            fan.belief.motor, fan.belief.load, fan.supply, SettingKind.RESISTANCE, new, curve_of(fan)
        )
        bands = step_bands(fan.belief, fan.supply, [complex(i.value or 0.0) for i in asked])
        fresh = {
            w: Aimed(inverse, complex(inverse.value or 0.0), band if inverse.value else None)
            for w, inverse, band in zip(new, asked, bands, strict=True)
        }
        memory.remember(fresh)
        found |= fresh
    return found


def _reached(fan: MachineFan) -> list[NDArray[np.float64]]:
    """Speeds of each unbroken stretch of resistances that start and hold the fan."""
    curve = curve_of(fan)
    usable = np.flatnonzero(curve.usable)
    runs = np.split(usable, np.flatnonzero(np.diff(usable) > 1) + 1)
    return [curve.scan.speed_rpm[run] for run in runs if len(run)]


@remembered
def zones(fan: MachineFan) -> tuple[Zone, ...]:
    """Speeds that no resistor gives: below the start limit, or between two branches."""
    curve = curve_of(fan)
    found: list[Zone] = []
    floor = 0.0
    for low, high in sorted((float(n.min()), float(n.max())) for n in _reached(fan)):
        if low - floor > _GAP * fan.full_rpm:
            kind = ZoneKind.GAP if found else ZoneKind.NO_START
            words = "no resistor holds a speed here" if found else "will not start from rest"
            swinging = curve.scan.speed_rpm[curve.hunts]
            if ((swinging >= floor) & (swinging <= low)).any():
                kind, words = ZoneKind.BARRED, HUNTING_TEXT
            found.append(Zone(floor, low, words, kind))
        floor = max(floor, high)
    return tuple(found)


@remembered
def reach(fan: MachineFan) -> Reach:
    """Speed over resistance, with its band."""
    curve = curve_of(fan)
    points = tuple(
        ReachPoint(
            float(ohm),
            float(speed) if ok else 0.0,
            ReachState.OK if ok else ReachState.BARRED if barred else ReachState.STALL,
        )
        for ohm, speed, ok, barred in zip(
            curve.value, curve.scan.speed_rpm, curve.usable, curve.barred & curve.scan.runs, strict=True
        )
    )
    usable = curve.value[curve.usable]
    picked = (
        usable[np.unique(np.linspace(0, len(usable) - 1, _BAND_POINTS).astype(int))]
        if len(usable)
        else usable
    )
    found = step_bands(fan.belief, fan.supply, [complex(v) for v in picked])
    bands = tuple(
        ReachBand(float(ohm), b.speed_rpm.low, b.speed_rpm.high)
        for ohm, b in zip(picked, found, strict=True)
        if b.speed_rpm.high > 0
    )
    return Reach(AXIS, points, bands, HUNTING_TEXT if curve.hunts.any() else "")
