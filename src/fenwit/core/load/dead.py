"""Alike fans side by side of which some stand, and different fans that share one pressure (docs/air.md).

Whoever stands is a way back for the air: p = k_d q² either way, unless a shutter falls shut.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range
from fenwit.core.load.air import REFERENCE_KG_M3
from fenwit.core.load.curve import SCANNED, Air, FanCurve, System

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


@dataclass(frozen=True)
class Beside:
    """A fan among different ones that share one pressure."""

    curve: FanCurve
    speed: float
    """Share of its curve's speed; 0: it stands [-]"""
    shutter: bool = False
    standing: float | None = None

    def flow_m3_s(self, pressure_pa: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
        """Its flow at a pressure, on the falling side of its curve; below 0: backwards.

        Parameters
        ----------
        pressure_pa : float
            Across it [Pa]
        density_kg_m3 : float
            Of the air [kg/m³]

        Returns
        -------
        float
            Flow [m³/s]

        Raises
        ------
        InputError
            A pressure that cannot be.
        """
        check_range("pressure_pa", pressure_pa, -1e6, 1e6, "Pa")
        k_d = standing_resistance(self.curve, density_kg_m3) if self.standing is None else self.standing
        if self.speed == 0:
            return 0.0 if self.shutter and pressure_pa > 0 else -_root(pressure_pa / k_d)
        scale = density_kg_m3 / self.curve.density_kg_m3 * self.speed**2
        flows = np.linspace(0.0, self.curve.free_flow_m3_s, SCANNED + 1)
        pressures = scale * self.curve.pressure_pa(flows)
        free, end = self.curve.free_flow_m3_s * self.speed, float(pressures[-1])
        if pressure_pa < end:
            return free + math.sqrt((end - pressure_pa) / k_d)
        above = np.flatnonzero(pressures >= pressure_pa)
        if not len(above):
            return 0.0 if self.shutter else -_root((pressure_pa - float(pressures.max())) / k_d)
        i = int(above[-1])
        if i == SCANNED:
            return free
        part = (pressures[i] - pressure_pa) / (pressures[i] - pressures[i + 1])
        return float((flows[i] + part * (flows[i + 1] - flows[i])) * self.speed)


def _root(value: float) -> float:
    return math.copysign(math.sqrt(abs(value)), value)


def shared_pressure_pa(
    fans: Sequence[Beside], system: System, density_kg_m3: float = REFERENCE_KG_M3
) -> tuple[float, tuple[float, ...]]:
    """Pressure that different fans side by side settle at, and the flow through each.

    Parameters
    ----------
    fans : sequence of Beside
        Each with its speed [-]
    system : System
        What their air must overcome together [-]
    density_kg_m3 : float
        Of the air [kg/m³]

    Returns
    -------
    tuple of float and tuple of float
        The common pressure, and each flow, below 0 backwards [Pa, m³/s]

    Raises
    ------
    InputError
        No fan at all.
    """
    if not fans:
        raise InputError("fans", 0, "one and more", "there is no fan")
    top = 1.01 * max(
        density_kg_m3 / f.curve.density_kg_m3 * max(f.speed, 1e-6) ** 2 * max(f.curve.pressures_pa)
        for f in fans
    )

    def over(pressure: float) -> float:
        flow = sum(f.flow_m3_s(pressure, density_kg_m3) for f in fans)
        return float(system.pressure_at_pa(np.array(flow), density_kg_m3)) - pressure

    # What the fans let through falls with pressure, and with it what the system asks for.
    pressure = float(brentq(over, -top - system.fixed_pa, top + system.fixed_pa, xtol=1e-9, rtol=1e-12))
    return pressure, tuple(f.flow_m3_s(pressure, density_kg_m3) for f in fans)
