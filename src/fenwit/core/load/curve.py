"""Fan curve and system: every working point, the one that is reached, and the speed that a flow asks for (docs/air.md).

A curve belongs to one speed and one density. At the share s of that speed and another density it is
p = p_c(q/s) s² ρ/ρ_c; the system is p = p_fixed + k q|q|. Fans in parallel share the pressure, fans in series the flow.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range
from fenwit.core.load.air import REFERENCE_KG_M3

FloatArray = NDArray[np.float64]
SCANNED = 2000
"""Points of flow that are looked at before a root is bracketed [-]"""
FASTEST = 2.0
"""Shares of the curve's speed beyond which nothing is sought [-]"""
_FREE = 1e-9
"""How near to nothing pressure counts as none, over that at no flow [-]"""


@dataclass(frozen=True)
class FanCurve:
    """Pressure and shaft power of one fan over its flow, at the speed and density it was taken at."""

    flows_m3_s: tuple[float, ...]
    """Rising from 0 [m³/s]"""
    pressures_pa: tuple[float, ...]
    """Static; above 0 at no flow [Pa]"""
    shafts_w: tuple[float, ...] = ()
    """Power at the shaft; empty where it is not known [W]"""
    density_kg_m3: float = REFERENCE_KG_M3

    def __post_init__(self) -> None:
        flows, pressures = np.array(self.flows_m3_s), np.array(self.pressures_pa)
        if len(flows) < 3:
            raise InputError("flows_m3_s", len(flows), "three points and more", "a curve needs three points")
        if len(pressures) != len(flows):
            raise InputError(
                "pressures_pa", len(pressures), f"{len(flows)} values", "one pressure for each flow"
            )
        check_range("flows_m3_s", flows, 0.0, 1e4, "m³/s")
        check_range("pressures_pa", pressures, 0.0, 1e6, "Pa")
        check_range("density_kg_m3", self.density_kg_m3, 1e-3, 20.0, "kg/m³")
        if flows[0] != 0 or (np.diff(flows) <= 0).any():
            raise InputError(
                "flows_m3_s",
                list(self.flows_m3_s),
                "rising from 0",
                "a curve begins at no flow and goes on rising",
            )
        if pressures[0] <= 0:
            raise InputError(
                "pressures_pa", float(pressures[0]), "above 0 Pa at no flow", "a shut fan makes pressure"
            )
        rising = np.diff(pressures) > 0
        if np.count_nonzero(rising & ~np.append(False, rising[:-1])) > 1:
            raise InputError(
                "pressures_pa", list(self.pressures_pa), "one rising stretch at most",
                "pressure rises and falls again twice: read these points once more",
            )  # fmt: skip
        if self.shafts_w:
            if len(self.shafts_w) != len(flows):
                raise InputError(
                    "shafts_w", len(self.shafts_w), f"{len(flows)} values", "one power for each flow"
                )
            check_range("shafts_w", np.array(self.shafts_w), 1e-9, 1e7, "W")

    @property
    def free_flow_m3_s(self) -> float:
        """Where the curve ends [m³/s]"""
        return self.flows_m3_s[-1]

    @property
    def shut_pa(self) -> float:
        """At no flow [Pa]"""
        return self.pressures_pa[0]

    @property
    def stall_flow_m3_s(self) -> float:
        """Left of it lies the stall region; 0 where pressure only falls [m³/s]"""
        rising = np.flatnonzero(np.diff(self.pressures_pa) > 0)
        return self.flows_m3_s[int(rising[-1]) + 1] if len(rising) else 0.0

    @cached_property
    def _pressure(self) -> PchipInterpolator:
        return PchipInterpolator(np.array(self.flows_m3_s), np.array(self.pressures_pa))

    @cached_property
    def _shaft(self) -> PchipInterpolator:
        return PchipInterpolator(np.array(self.flows_m3_s), np.array(self.shafts_w))

    def pressure_pa(self, flow: FloatArray, slope: bool = False) -> FloatArray:
        """Pressure at flows within the curve, or its slope [m³/s → Pa | Pa·s/m³]"""
        return np.asarray(self._pressure(flow, int(slope)))

    def shaft_w(self, flow: FloatArray, slope: bool = False) -> FloatArray:
        """Power at flows within the curve, or its slope; it must be known [m³/s → W | W·s/m³]"""
        return np.asarray(self._shaft(flow, int(slope)))


@dataclass(frozen=True)
class System:
    """What the air must overcome: one working point, of which a part may be pressure that stands without any flow."""

    flow_m3_s: float
    pressure_pa: float
    """At that flow, in air of 1.2 kg/m³ [Pa]"""
    fixed_pa: float = 0.0
    """A column of water, a pressurised room, wind [Pa]"""

    def __post_init__(self) -> None:
        check_range("system_flow_m3_s", self.flow_m3_s, 1e-9, 1e4, "m³/s")
        check_range("fixed_pressure_pa", self.fixed_pa, 0.0, 1e6, "Pa")
        check_range("system_pressure_pa", self.pressure_pa, 0.0, 1e6, "Pa")
        if self.pressure_pa < self.fixed_pa:
            raise InputError(
                "system_pressure_pa", self.pressure_pa, f"at least {self.fixed_pa:g} Pa",
                "the whole pressure contains the fixed one",
            )  # fmt: skip

    def resistance(self, density_kg_m3: float = REFERENCE_KG_M3) -> float:
        """k of p = p_fixed + k q|q| in air of a density [Pa·s²/m⁶]"""
        return (self.pressure_pa - self.fixed_pa) / self.flow_m3_s**2 * density_kg_m3 / REFERENCE_KG_M3

    def pressure_at_pa(self, flow: FloatArray, density_kg_m3: float = REFERENCE_KG_M3) -> FloatArray:
        """What flows of either sense ask for [m³/s → Pa]"""
        return self.fixed_pa + self.resistance(density_kg_m3) * flow * np.abs(flow)

    def flow_at_m3_s(self, pressure_pa: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
        """Flow at which the system asks for a pressure.

        Parameters
        ----------
        pressure_pa : float
            At the system [Pa]
        density_kg_m3 : float
            Of the air [kg/m³]

        Returns
        -------
        float
            Flow [m³/s]

        Raises
        ------
        InputError
            Less than the fixed pressure, or a system that offers no resistance.
        """
        k = self.resistance(density_kg_m3)
        if k == 0 or pressure_pa < self.fixed_pa:
            raise InputError(
                "pressure_pa",
                pressure_pa,
                f"above {self.fixed_pa:g} Pa",
                "at no flow does this system ask for that",
            )
        return math.sqrt((pressure_pa - self.fixed_pa) / k)


@dataclass(frozen=True)
class Point:
    """Where fans and system agree."""

    flow_m3_s: float
    pressure_pa: float
    stable: bool
    stalled: bool
    """Left of the curve's rightmost peak: loud, unsteady [-]"""


@dataclass(frozen=True)
class Reached:
    """Where fans settle that start in still air, with all other points; no point: no air."""

    point: Point | None
    others: tuple[Point, ...]
    """Every other intersection, flow rising [-]"""
    shaft_w: float | None
    """Of all fans; None where no power is known, or there is no air [W]"""
    load_exponent: float | None
    """Of the torque over speed, at this point [-]"""

    @property
    def flow_m3_s(self) -> float:
        """0 where no air moves [m³/s]"""
        return self.point.flow_m3_s if self.point else 0.0


@dataclass(frozen=True)
class Air:
    """Alike fans on one system, in air of one density."""

    curve: FanCurve
    system: System
    density_kg_m3: float = REFERENCE_KG_M3
    parallel: int = 1
    series: int = 1

    def __post_init__(self) -> None:
        check_range("density_kg_m3", self.density_kg_m3, 1e-3, 20.0, "kg/m³")
        for name in ("parallel", "series"):
            value = check_range(name, getattr(self, name), 1, 1000, "")
            if value != int(value):
                raise InputError(name, value, "whole numbers", "fans are counted")

    @property
    def _thin(self) -> float:
        return self.density_kg_m3 / self.curve.density_kg_m3

    @property
    def resistance(self) -> float:
        """k of the system in this air [Pa·s²/m⁶]"""
        return self.system.resistance(self.density_kg_m3)

    def fan_pa(self, flow: FloatArray, speed: float = 1.0) -> FloatArray:
        """Pressure of the fans together at flows up to their free one, at a share of the curve's speed [m³/s, - → Pa]"""
        return self.series * self._thin * speed**2 * self.curve.pressure_pa(flow / (self.parallel * speed))

    def free_m3_s(self, speed: float = 1.0) -> float:
        """Flow of all fans where the curve ends, at a share of its speed [- → m³/s]"""
        return self.parallel * speed * self.curve.free_flow_m3_s

    def points(self, speed: float = 1.0) -> tuple[Point, ...]:
        """Every intersection with flow above 0, flow rising.

        Parameters
        ----------
        speed : float
            Share of the curve's speed [-]

        Returns
        -------
        tuple of Point
            Each with whether it holds [-]

        Raises
        ------
        InputError
            The system asks for less than the fans still make where their curve ends.
        """
        check_range("speed_fraction", speed, 0.0, FASTEST, "")
        if speed == 0:
            return ()
        free = self.free_m3_s(speed)

        def over(flow: FloatArray) -> FloatArray:
            return self.fan_pa(flow, speed) - self.system.pressure_at_pa(flow, self.density_kg_m3)

        flows = np.linspace(0.0, free, SCANNED + 1)
        gap = over(flows)
        scale = float(self.fan_pa(np.zeros(1), speed)[0])
        # Nothing stands against the air: it flows as it does from a free fan.
        gap[-1] = 0.0 if abs(gap[-1]) <= _FREE * scale else gap[-1]
        if gap[-1] > 0:
            raise InputError(
                "system_pressure_pa", self.system.pressure_pa, "within the curve",
                "the working point lies beyond the last point of the fan's curve: type it down to no pressure",
            )  # fmt: skip
        found: list[Point] = []
        for i in np.flatnonzero((gap[:-1] * gap[1:] < 0) | ((gap[1:] == 0) & (gap[:-1] != 0))):
            at = float(flows[i + 1])
            if gap[i + 1] != 0:
                at = float(
                    brentq(lambda q: float(over(np.array(q))), flows[i], flows[i + 1], xtol=1e-15, rtol=1e-13)
                )
            pressure = float(self.system.pressure_at_pa(np.array(at), self.density_kg_m3))
            stalled = at < self.curve.stall_flow_m3_s * self.parallel * speed
            found.append(Point(at, pressure, bool(gap[i] > 0), stalled))
        return tuple(found)

    def reached(self, speed: float = 1.0) -> Reached:
        """Where fans settle that start in still air: the first point from the left that holds.

        Parameters
        ----------
        speed : float
            Share of the curve's speed [-]

        Returns
        -------
        Reached
            The point, or none [-]

        Raises
        ------
        InputError
            As `points`.
        """
        points = self.points(speed)
        blows = speed > 0 and float(self.fan_pa(np.zeros(1), speed)[0]) > self.system.fixed_pa
        at = next((p for p in points if p.stable), None) if blows else None
        others = tuple(p for p in points if p is not at)
        if at is None or not self.curve.shafts_w:
            return Reached(at, others, None, 2.0 if at and self.system.fixed_pa == 0 else None)
        phi = np.array(at.flow_m3_s / (self.parallel * speed))
        shaft = self.parallel * self.series * self._thin * speed**3 * float(self.curve.shaft_w(phi))
        return Reached(at, others, shaft, self._exponent(float(phi), speed))

    def _exponent(self, phi: float, speed: float) -> float:
        """Torque goes with P/n; flow per speed φ itself moves with speed where a part of the pressure is fixed."""
        if self.system.fixed_pa == 0:
            return 2.0
        at = np.array(phi)
        slope = self.series * self._thin * float(self.curve.pressure_pa(at, True))
        slope -= 2 * self.resistance * self.parallel**2 * phi
        # d ln φ / d ln s, from S p_c(φ) ρ/ρ_c − k N² φ² = p_fixed / s²
        moves = -2 * self.system.fixed_pa / speed**2 / (phi * slope)
        return 2.0 + phi * float(self.curve.shaft_w(at, True)) / float(self.curve.shaft_w(at)) * moves

    def speed_for_flow(self, flow_m3_s: float) -> float:
        """Share of the curve's speed at which a flow is reached from still air.

        Parameters
        ----------
        flow_m3_s : float
            Of all fans [m³/s]

        Returns
        -------
        float
            Least share that gives it [-]

        Raises
        ------
        InputError
            More than twice the curve's speed is asked for, or the fans settle elsewhere.
        """
        check_range("flow_m3_s", flow_m3_s, 1e-9, 1e4, "m³/s")
        wanted = float(self.system.pressure_at_pa(np.array(flow_m3_s), self.density_kg_m3))
        each = flow_m3_s / self.parallel
        least, most = each / FASTEST, self.curve.free_flow_m3_s

        def over(phi: FloatArray) -> FloatArray:
            # In φ = q/s the curve stays where it is, and only what the system asks for is scaled.
            return self.series * self._thin * self.curve.pressure_pa(phi) * (each / phi) ** 2 - wanted

        if least < most:
            phis = np.linspace(most, least, SCANNED + 1)
            gap = over(phis)
            scale = float(np.abs(gap).max()) or 1.0
            if abs(gap[0]) <= _FREE * scale and self._settles(each / most, flow_m3_s):
                return each / most
            for i in np.flatnonzero(gap[:-1] * gap[1:] < 0):
                phi = float(
                    brentq(lambda x: float(over(np.array(x))), phis[i + 1], phis[i], xtol=1e-16, rtol=1e-13)
                )
                if self._settles(each / phi, flow_m3_s):
                    return each / phi
        raise InputError(
            "flow_m3_s", flow_m3_s, f"up to {self._most_m3_s():.4g} m³/s",
            "at twice the speed of the curve it is not reached, or the fans settle elsewhere",
        )  # fmt: skip

    def _settles(self, speed: float, flow_m3_s: float) -> bool:
        return speed <= FASTEST and abs(self.reached(speed).flow_m3_s - flow_m3_s) <= 1e-6 * flow_m3_s

    def _most_m3_s(self) -> float:
        return self.reached(FASTEST).flow_m3_s

    def least_speed(self) -> float:
        """Share of the curve's speed below which no air moves [-]"""
        return math.sqrt(self.system.fixed_pa / (self.series * self._thin * self.curve.shut_pa))

    def flows_m3_s(self, speeds: FloatArray) -> FloatArray:
        """Flow reached from still air, over many speeds at once.

        Parameters
        ----------
        speeds : array
            Shares of the curve's speed, 0 to 2 [-]

        Returns
        -------
        array
            Flow of all fans, 0 where no air moves [m³/s]

        Raises
        ------
        InputError
            Speeds out of range, or a working point beyond the curve.
        """
        speeds = np.asarray(
            check_range("speed_fraction", np.asarray(speeds, dtype=np.float64), 0.0, FASTEST, "")
        )
        if self.system.fixed_pa == 0:
            # One system curve through the origin: the plain law holds.
            return np.asarray(self.reached().flow_m3_s * speeds)
        phi = np.linspace(0.0, self.curve.free_flow_m3_s, SCANNED + 1)
        headroom = (
            self.series * self._thin * self.curve.pressure_pa(phi)
            - self.resistance * self.parallel**2 * phi**2
        )
        want = self.system.fixed_pa / np.maximum(speeds, 1e-9) ** 2
        blows = headroom[0] > want
        # From the left, the first place where what is left over falls to what stands there without flow.
        lowest = np.minimum.accumulate(headroom)
        right = np.searchsorted(-lowest, -want, side="right").clip(1, SCANNED)
        high, low = headroom[right - 1], headroom[right]
        part = np.clip((high - want) / np.where(high > low, high - low, 1.0), 0.0, 1.0)
        found = (phi[right - 1] + part * (phi[right] - phi[right - 1])) * self.parallel * speeds
        return np.where(blows, found, 0.0)
