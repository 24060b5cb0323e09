"""Fan laws: one fan of one size at two speeds and two densities, along one system curve through the origin."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fenwit.core.errors import check_range

NOISE_FACTOR = 55.0
"""Decibels for ten times the speed; 50 to 60 are met [dB]"""


@dataclass(frozen=True)
class Ratio:
    """By what the speed and the density change; everything else follows.

    q ∝ n, p ∝ n² ρ, P ∝ n³ ρ, level + K log10(n2/n1) (docs/air.md).
    """

    speed: float
    """n2/n1 [-]"""
    density: float = 1.0
    """ρ2/ρ1 [-]"""

    def __post_init__(self) -> None:
        check_range("speed_ratio", self.speed, 1e-6, 1e6, "")
        check_range("density_ratio", self.density, 1e-6, 1e6, "")

    @property
    def flow(self) -> float:
        """q2/q1 [-]"""
        return self.speed

    @property
    def pressure(self) -> float:
        """p2/p1 [-]"""
        return self.speed**2 * self.density

    @property
    def power(self) -> float:
        """P2/P1 of the shaft [-]"""
        return self.speed**3 * self.density

    def level_db(self, factor: float = NOISE_FACTOR) -> float:
        """Change of level [dB]"""
        return factor * math.log10(self.speed)


def speed_ratio_for(pressure: float | None = None, power: float | None = None, density: float = 1.0) -> float:
    """Speed ratio that gives a ratio of pressure, or one of power, at a ratio of densities [-]"""
    if pressure is not None:
        return float(math.sqrt(check_range("pressure_ratio", pressure / density, 1e-12, 1e12, "")))
    assert power is not None
    return float(math.cbrt(check_range("power_ratio", power / density, 1e-18, 1e18, "")))


def speed_ratio_for_level(change_db: float, factor: float = NOISE_FACTOR) -> float:
    """Speed ratio that gives a change of level, 10^(ΔL/K) [dB, dB → -]"""
    check_range("noise_factor", factor, 1.0, 200.0, "dB")
    check_range("level_change_db", change_db, -5 * factor, 5 * factor, "dB")
    return float(10 ** (change_db / factor))
