"""Alike fans side by side of which some stand (docs/air.md).

Whoever stands is a way back for the air: p = k_d q² either way, unless a shutter falls shut.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range
from fenwit.core.load.air import REFERENCE_KG_M3
from fenwit.core.load.curve import SCANNED, Air, FanCurve

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Left:
    """What is left of the air where some fans stand."""

    flow_m3_s: float
    pressure_pa: float
    running_flow_m3_s: float
    """Through each fan that runs [m³/s]"""
    back_flow_m3_s: float
    """Through each that stands, positive backwards [m³/s]"""
    share: float
    """Over the flow while all of them run [-]"""


def standing_resistance(curve: FanCurve, density_kg_m3: float = REFERENCE_KG_M3) -> float:
    """Of a fan that stands, p(0)/q_free² in air of that density; an estimate until it is measured [Pa·s²/m⁶]"""
    return curve.shut_pa / curve.free_flow_m3_s**2 * density_kg_m3 / REFERENCE_KG_M3


@dataclass(frozen=True)
class Group:
    """Alike fans side by side, some of which stand."""

    air: Air
    """Of one fan; `parallel` and `series` of it are not looked at [-]"""
    alive: int
    dead: int = 0
    shutters: bool = False
    standing: float | None = None
    """Resistance of one that stands; None: estimated [Pa·s²/m⁶]"""

    def __post_init__(self) -> None:
        for name, least in (("alive", 1), ("dead", 0)):
            value = check_range(name, getattr(self, name), least, 1000, "")
            if value != int(value):
                raise InputError(name, value, "whole numbers", "fans are counted")
        if self.standing is not None:
            check_range("dead_coefficient", self.standing, 1e-9, 1e15, "Pa/(m³/s)²")

    def left(self, speed: float = 1.0) -> Left:
        """What flows at a share of the curve's speed.

        They ran when the others died, so the point furthest to the right is the one they hold.

        Parameters
        ----------
        speed : float
            Share of the curve's speed [-]

        Returns
        -------
        Left
            Flows and what they are of the whole [-]

        Raises
        ------
        InputError
            No air moves, or the working point lies beyond the curve.
        """
        flow, pressure, each, back = self._point(self.alive, self.dead, speed)
        whole = self._point(self.alive + self.dead, 0, speed)[0] if self.dead else flow
        return Left(flow, pressure, each, back, flow / whole)

    def _point(self, alive: int, dead: int, speed: float) -> tuple[float, float, float, float]:
        check_range("speed_fraction", speed, 1e-6, 2.0, "")
        air, rho = self.air, self.air.density_kg_m3
        curve, thin = air.curve, rho / air.curve.density_kg_m3
        k_d = standing_resistance(curve, rho) if self.standing is None else self.standing
        leaks = 0 if self.shutters else dead

        def through(each: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
            pressure = thin * speed**2 * curve.pressure_pa(each / speed)
            back = np.sqrt(np.maximum(pressure, 0.0) / k_d) if leaks else np.zeros_like(pressure)
            return pressure, back, alive * each - leaks * back

        def over(each: FloatArray) -> FloatArray:
            pressure, _, flow = through(each)
            return pressure - air.system.pressure_at_pa(flow, rho)

        flows = np.linspace(0.0, speed * curve.free_flow_m3_s, SCANNED + 1)
        gap = over(flows)
        gap[-1] = 0.0 if abs(gap[-1]) <= 1e-9 * curve.shut_pa * speed**2 else gap[-1]
        if gap[-1] > 0:
            raise InputError(
                "system_pressure_pa", air.system.pressure_pa, "within the curve",
                "the working point lies beyond the last point of the fan's curve: type it down to no pressure",
            )  # fmt: skip
        falls = np.flatnonzero((gap[:-1] > 0) & (gap[1:] <= 0))
        if not len(falls):
            raise InputError(
                "fixed_pressure_pa", air.system.fixed_pa, f"below {thin * speed**2 * max(curve.pressures_pa):.4g} Pa",
                "no air moves against it",
            )  # fmt: skip
        i = int(falls[-1])
        at = float(flows[i + 1])
        if gap[i + 1] < 0:
            at = float(
                brentq(lambda q: float(over(np.array(q))), flows[i], flows[i + 1], xtol=1e-15, rtol=1e-13)
            )
        pressure, back, flow = (float(v) for v in through(np.array(at)))
        return flow, pressure, at, back
