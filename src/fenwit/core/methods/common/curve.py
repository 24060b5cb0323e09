"""What a method can do with a fan at all, read off its curve of speeds over the setting."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import StepBands
from fenwit.core.methods.common.series import HUNTING_TEXT
from fenwit.core.methods.seam import Axis, Reach, ReachBand, ReachPoint, ReachState, Zone, ZoneKind
from fenwit.core.regulator.series import SpeedCurve

_BAND_POINTS = 26
_GAP = 0.015
"""Of full speed, from which a stretch nobody can hold is worth a mark [-]"""
BandsAt = Callable[[list[float]], Sequence[StepBands]]
"""Bands of a step at each of some settings"""


def reached(curve: SpeedCurve) -> list[NDArray[np.float64]]:
    """Speeds of each unbroken stretch of settings that start and hold the fan."""
    usable = np.flatnonzero(curve.usable)
    runs = np.split(usable, np.flatnonzero(np.diff(usable) > 1) + 1)
    return [curve.scan.speed_rpm[run] for run in runs if len(run)]


def zones_of(curve: SpeedCurve, full_rpm: float, gap_words: str) -> tuple[Zone, ...]:
    """Speeds that no setting gives: below the start limit, or between two branches.

    Parameters
    ----------
    curve : SpeedCurve
        Speed over the setting [-]
    full_rpm : float
        Full speed [rpm]
    gap_words : str
        What is said of a stretch between two branches [-]

    Returns
    -------
    tuple of Zone
        Slowest first [-]
    """
    found: list[Zone] = []
    floor = 0.0
    for low, high in sorted((float(n.min()), float(n.max())) for n in reached(curve)):
        if low - floor > _GAP * full_rpm:
            kind = ZoneKind.GAP if found else ZoneKind.NO_START
            words = gap_words if found else "will not start from rest"
            swinging = curve.scan.speed_rpm[curve.hunts]
            if ((swinging >= floor) & (swinging <= low)).any():
                kind, words = ZoneKind.BARRED, HUNTING_TEXT
            found.append(Zone(floor, low, words, kind))
        floor = max(floor, high)
    return tuple(found)


def banded(curve: SpeedCurve, bands_at: BandsAt) -> tuple[ReachBand, ...]:
    """Bands of the speed along a curve, at some of its usable settings."""
    usable = curve.value[curve.usable]
    if not len(usable):
        return ()
    picked = usable[np.unique(np.linspace(0, len(usable) - 1, _BAND_POINTS).astype(int))]
    values = [float(v) for v in picked]
    return tuple(
        ReachBand(v, b.speed_rpm.low, b.speed_rpm.high)
        for v, b in zip(values, bands_at(values), strict=True)
        if b.speed_rpm.high > 0
    )


def reach_of(axis: Axis, curve: SpeedCurve, bands_at: BandsAt) -> Reach:
    """A curve as it is drawn, with its band.

    Parameters
    ----------
    axis : Axis
        Of the setting [-]
    curve : SpeedCurve
        Speed over it [-]
    bands_at : callable
        Bands at some settings [-]

    Returns
    -------
    Reach
        Points and bands [-]
    """
    points = tuple(
        ReachPoint(
            float(value),
            float(speed) if ok else 0.0,
            ReachState.OK if ok else ReachState.BARRED if barred else ReachState.STALL,
        )
        for value, speed, ok, barred in zip(
            curve.value, curve.scan.speed_rpm, curve.usable, curve.barred & curve.scan.runs, strict=True
        )
    )
    return Reach(axis, points, banded(curve, bands_at), HUNTING_TEXT if curve.hunts.any() else "")
