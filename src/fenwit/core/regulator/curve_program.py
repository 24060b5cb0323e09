"""A thermal curve for a program: command over temperature, and what a converter reads over temperature (docs/heat.md)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.regulator.sensor import COLDEST_C, WARMEST_C
from fenwit.core.regulator.thermal import Curve

FloatArray = NDArray[np.float64]
ROWS = 17
"""Of the curve, between start and full [-]"""
CELLS = 65
"""Of the sensor's table over the converter's range [-]"""


@dataclass(frozen=True)
class CurveRow:
    """One row of the curve."""

    temperature_c: float
    speed: float
    """Over full speed [-]"""
    command: float
    """What the fan is told for it [any]"""


def curve_rows(curve: Curve, command_for: Callable[[float], float], rows: int = ROWS) -> tuple[CurveRow, ...]:
    """The curve between start and full: temperature, speed, and the command for it [-]"""
    found = []
    for at in np.linspace(curve.start_c, curve.full_c, rows):
        speed = curve.speed(float(at))
        found.append(CurveRow(float(at), speed, command_for(speed)))
    return tuple(found)


def sensor_cells(
    counts: int, temperature_of: Callable[[float], float], cells: int = CELLS
) -> tuple[tuple[int, float], ...]:
    """Temperature over what a converter reads, clipped to where it is believed: counts and °C, linear in between [-]"""
    found = []
    # Whole counts first: the temperature is that of the count which stands in the table.
    for at in np.rint(np.linspace(0, counts, cells)):
        # At both ends a divider is shorted or open; no temperature stands behind them.
        share = min(1 - 1e-6, max(1e-6, at / counts))
        found.append((int(at), min(WARMEST_C + 50, max(COLDEST_C - 20, temperature_of(share)))))
    return tuple(found)
