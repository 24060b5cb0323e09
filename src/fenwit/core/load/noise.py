"""Noise of fans: sums, backgrounds, distance, tones (docs/air.md). Levels are in dB over one and the same reference."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from fenwit.core.errors import InputError, check_range

JUST_HEARD_DB = 3.0
"""Least difference that an ear notices, and least distance from a background that can be taken off well [dB]"""
NEAR_RESONANCE = 0.05
"""How close a tone may come to a resonance, over it, before the speed is one to avoid [-]"""


def sum_db(levels_db: Sequence[float]) -> float:
    """Of sources that do not know of each other, 10 log10 Σ 10^(L/10) [dB]"""
    levels = np.asarray(levels_db, dtype=np.float64)
    if not levels.size:
        raise InputError("levels_db", "", "one level and more", "nothing to sum")
    check_range("levels_db", levels, -200.0, 300.0, "dB")
    top = float(levels.max())
    return top + 10 * math.log10(float(np.sum(10 ** ((levels - top) / 10))))


def alike_db(count: float) -> float:
    """What so many alike sources add to one of them, 10 log10 N [- → dB]"""
    return float(10 * math.log10(check_range("count", count, 1e-3, 1e6, "")))


def without_background_db(total_db: float, background_db: float) -> float:
    """What is left of a level once a background is taken off in powers [dB]"""
    check_range("background_db", background_db, -200.0, 300.0, "dB")
    check_range("total_db", total_db, -200.0, 300.0, "dB")
    if total_db <= background_db:
        raise InputError(
            "total_db", total_db, f"above {background_db:g} dB", "the background alone is as loud as that"
        )
    return total_db + 10 * math.log10(-math.expm1((background_db - total_db) * math.log(10) / 10))


def at_distance_db(level_db: float, from_m: float, to_m: float) -> float:
    """A level elsewhere in the open, − 20 log10(r2/r1); in a room it falls less [dB, m, m → dB]"""
    check_range("distance_1_m", from_m, 1e-3, 1e5, "m")
    check_range("distance_2_m", to_m, 1e-3, 1e5, "m")
    return level_db - 20 * math.log10(to_m / from_m)


def blade_pass_hz(speed_rpm: float, blades: float) -> float:
    """Tone of the blades, B n/60 [rpm, - → Hz]"""
    check_range("blades", blades, 1.0, 1000.0, "")
    return float(blades * check_range("speed_rpm", speed_rpm, 0.0, 1e6, "rpm") / 60)
