"""A DC fan on a lowered supply: speed, amps, whether it starts and holds. Estimates until it is read (docs/duty.md).

n = n_full (V − V_0)/(V_full − V_0), I = I_full (V/V_full)^q, at rest a resistance V_full/(m I_full).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, InputError, check_range

FloatArray = NDArray[np.float64]
ZERO_SHARE, START_SHARE, HOLD_SHARE = 1 / 12, 0.5, 0.35
"""Volts of no speed, of starting and of holding over rated volts, while nobody has read them [-]"""
EXPONENT, START_RATIO = 1.5, 2.0
"""Of amps over volts, and amps at rest over running ones, likewise [-]"""


@dataclass(frozen=True)
class DirectFan:
    """A DC fan as its supply sees it."""

    full_current_a: float
    full_speed_rpm: float
    full_voltage_v: float = 12.0
    current_exponent: float = EXPONENT
    zero_speed_voltage_v: float | None = None
    """Where the line of speed meets no speed; None: a twelfth of full volts [V]"""
    start_current_ratio: float = START_RATIO
    start_voltage_v: float | None = None
    """None: half of full volts [V]"""
    hold_voltage_v: float | None = None
    """None: 0.35 of full volts [V]"""

    def __post_init__(self) -> None:
        check_range("full_voltage_v", self.full_voltage_v, 0.1, 1000.0, "V")
        check_range("full_current_a", self.full_current_a, 1e-6, 1000.0, "A")
        check_range("full_speed_rpm", self.full_speed_rpm, 1e-3, 1e6, "rpm")
        check_range("current_exponent", self.current_exponent, 0.1, 4.0, "")
        check_range("start_current_ratio", self.start_current_ratio, 0.1, 20.0, "")
        for name in ("zero_speed_voltage_v", "start_voltage_v", "hold_voltage_v"):
            value = getattr(self, name)
            if value is not None:
                # A line that bends upwards meets no speed below nothing at all.
                low, high = (-self.full_voltage_v, 0.999) if name[0] == "z" else (0.0, 1.0)
                check_range(name, value, low, high * self.full_voltage_v, "V")

    @property
    def zero_v(self) -> float:
        """V_0 [V]"""
        return (
            self.full_voltage_v * ZERO_SHARE
            if self.zero_speed_voltage_v is None
            else self.zero_speed_voltage_v
        )

    @property
    def start_v(self) -> float:
        """At which it starts from rest [V]"""
        return self.full_voltage_v * START_SHARE if self.start_voltage_v is None else self.start_voltage_v

    @property
    def hold_v(self) -> float:
        """Below which it stops running [V]"""
        return self.full_voltage_v * HOLD_SHARE if self.hold_voltage_v is None else self.hold_voltage_v

    @property
    def rest_ohm(self) -> float:
        """Of one fan at rest [Ω]"""
        return self.full_voltage_v / (self.start_current_ratio * self.full_current_a)

    def speed_rpm(self, voltage_v: FloatOrArray) -> FloatArray:
        """Speed of a running fan at volts; 0 below those it holds, where it stands [V → rpm]"""
        volts = np.asarray(check_range("fan_voltage_v", voltage_v, 0.0, 2000.0, "V"))
        line = self.full_speed_rpm * (volts - self.zero_v) / (self.full_voltage_v - self.zero_v)
        return np.where(volts < self.hold_v, 0.0, np.maximum(line, 0.0))

    def current_a(self, voltage_v: FloatOrArray) -> FloatArray:
        """Amps of a running fan at volts [V → A]"""
        volts = np.asarray(check_range("fan_voltage_v", voltage_v, 0.0, 2000.0, "V"))
        return np.asarray(self.full_current_a * (volts / self.full_voltage_v) ** self.current_exponent)

    def voltage_for(self, speed_rpm: float, most_v: float) -> float:
        """Volts that give a speed which the fan holds.

        Parameters
        ----------
        speed_rpm : float
            Wanted [rpm]
        most_v : float
            Volts there are [V]

        Returns
        -------
        float
            Volts at the fan [V]

        Raises
        ------
        InputError
            Faster than the volts allow, or slower than it holds.
        """
        slow, fast = (float(self.speed_rpm(v)) for v in (min(self.hold_v, most_v), most_v))
        check_range(
            "speed_rpm",
            speed_rpm,
            slow,
            fast,
            "rpm",
            reason="below it stops, above there are no volts for it",
        )
        return self.zero_v + (self.full_voltage_v - self.zero_v) * speed_rpm / self.full_speed_rpm


def zero_speed_from(first: tuple[float, float], second: tuple[float, float]) -> float:
    """V_0 of the line through two readings of volts and rpm [V, rpm → V]"""
    (v1, n1), (v2, n2) = first, second
    check_range("fan_voltage_v", np.array([v1, v2]), 1e-3, 2000.0, "V")
    check_range("speed_rpm", np.array([n1, n2]), 1e-3, 1e6, "rpm")
    if (v1 - v2) * (n1 - n2) <= 0:
        raise InputError("speed_rpm", n2, "faster at more volts", "these two readings contradict each other")
    found = v1 - n1 * (v2 - v1) / (n2 - n1)
    check_range(
        "speed_rpm",
        found,
        -max(v1, v2),
        0.999 * min(v1, v2),
        "V",
        reason="this line meets no speed nowhere near",
    )
    return found


def exponent_from(first: tuple[float, float], second: tuple[float, float]) -> float:
    """q of amps over volts through two readings, ln(I1/I2)/ln(V1/V2) [V, A → -]"""
    (v1, i1), (v2, i2) = first, second
    check_range("fan_voltage_v", np.array([v1, v2]), 1e-3, 2000.0, "V")
    check_range("current_a", np.array([i1, i2]), 1e-9, 1000.0, "A")
    if abs(np.log(v1 / v2)) < 0.02:
        raise InputError("fan_voltage_v", v2, f"well apart from {v1:g} V", "too close to tell an exponent")
    return float(check_range("current_exponent", float(np.log(i1 / i2) / np.log(v1 / v2)), 0.1, 4.0, ""))
