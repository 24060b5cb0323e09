"""Speed over the volts on a 0–10 V input, as a fan's data give it: dead bands, hysteresis, the inverse form (docs/ec.md).

n(v) = n_min + (n_max − n_min) clip((e − V_lo)/(V_hi − V_lo), 0, 1), with e = v, or 10 − v for an inverse input.
A fan at rest stays off until e reaches V_on; a running one runs until e falls below V_off.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
SPAN_V = 10.0
"""Of the signal [V]"""
OFF_V, ON_V, LOW_V, HIGH_V = 0.8, 1.2, 1.2, 9.6
"""As usual where nobody read them [V]"""


@dataclass(frozen=True)
class VoltLine:
    """A fan's speed over its control voltage."""

    slowest_rpm: float
    fastest_rpm: float
    off_v: float = OFF_V
    """Below it a running fan stops [V]"""
    on_v: float = ON_V
    """From it on a fan at rest starts [V]"""
    low_v: float = LOW_V
    """Where speed begins to rise [V]"""
    high_v: float = HIGH_V
    """Where it has reached its end [V]"""
    inverse: bool = False
    """Whether fewer volts mean more speed [-]"""

    def __post_init__(self) -> None:
        check_range("minimum_speed_rpm", self.slowest_rpm, 0.0, 1e6, "rpm")
        check_range("maximum_speed_rpm", self.fastest_rpm, 1e-6, 1e6, "rpm")
        for name in ("off_v", "on_v", "low_v", "high_v"):
            check_range(name, getattr(self, name), 0.0, SPAN_V, "V")
        if self.fastest_rpm <= self.slowest_rpm:
            raise InputError(
                "maximum_speed_rpm", self.fastest_rpm, f"above {self.slowest_rpm:g} rpm",
                "not faster than the slowest speed",
            )  # fmt: skip
        if self.high_v <= self.low_v:
            raise InputError(
                "high_v",
                self.high_v,
                f"above {self.low_v:g} V",
                "the map is reversed: it ends before it begins",
            )
        if self.on_v < self.off_v:
            raise InputError(
                "on_v", self.on_v, f"at least {self.off_v:g} V", "it would stop before it starts"
            )
        if self.on_v > self.high_v:
            raise InputError(
                "on_v", self.on_v, f"up to {self.high_v:g} V", "it would never run but at full speed"
            )

    @property
    def usable_fraction(self) -> float:
        """Share of a bare knob's turn that moves the speed [-]"""
        return (self.high_v - self.low_v) / SPAN_V

    def meant_v(self, voltage_v: FloatArray) -> FloatArray:
        """Volts as the fan means them: turned round by an inverse input [V → V]"""
        return np.asarray(SPAN_V - voltage_v if self.inverse else voltage_v)

    def speed_rpm(self, voltage_v: FloatArray, running: bool = True) -> FloatArray:
        """Speed at volts on its input, any shape.

        Parameters
        ----------
        voltage_v : array
            0 to 10 [V]
        running : bool
            Whether it ran before: between V_off and V_on the answer hangs on it [-]

        Returns
        -------
        array
            Speed; 0 where it stands [rpm]

        Raises
        ------
        InputError
            Volts outside 0 to 10.
        """
        meant = self.meant_v(
            np.asarray(check_range("voltage_v", np.asarray(voltage_v, float), 0.0, SPAN_V, "V"))
        )
        share = np.clip((meant - self.low_v) / (self.high_v - self.low_v), 0.0, 1.0)
        speed = self.slowest_rpm + (self.fastest_rpm - self.slowest_rpm) * share
        return np.where(meant >= (self.off_v if running else self.on_v), speed, 0.0)

    def voltage_v(self, speed_rpm: float) -> float:
        """Volts on its input for a speed.

        Parameters
        ----------
        speed_rpm : float
            0, or from the slowest to the fastest [rpm]

        Returns
        -------
        float
            Volts [V]

        Raises
        ------
        InputError
            A speed the fan jumps over, or one beyond its fastest.
        """
        slow, fast = self.slowest_rpm, self.fastest_rpm
        if speed_rpm == 0:
            meant = 0.0
        elif not math.isfinite(speed_rpm) or not slow <= speed_rpm <= fast:
            reason = "it jumps over what lies between standing and its slowest speed"
            raise InputError(
                "speed_rpm", speed_rpm, f"0, or {slow:g} to {fast:g} rpm",
                reason if 0 < speed_rpm < slow else "faster than it turns" if speed_rpm > fast else "no speed",
            )  # fmt: skip
        else:
            meant = self.low_v + (speed_rpm - slow) / (fast - slow) * (self.high_v - self.low_v)
        return SPAN_V - meant if self.inverse else meant


SOFT_LAG_S, SOFT_RAMP_PER_S = 2.0, 0.1
"""How a fan follows its command while nobody timed it: lag, and the most of full speed a second [s, 1/s]"""


def soft_start_s(
    share: float = 0.98, lag_s: float = SOFT_LAG_S, ramp_per_s: float = SOFT_RAMP_PER_S
) -> float:
    """Time from standstill until a share of full speed is reached.

    Parameters
    ----------
    share : float
        Of the commanded full speed, below 1 [-]
    lag_s : float
        Of the speed behind its command [s]
    ramp_per_s : float
        Most of full speed a second [1/s]

    Returns
    -------
    float
        Time; a step is not judged before [s]

    Raises
    ------
    InputError
        A share of 1, which a lag never reaches; no ramp.
    """
    check_range("share", share, 0.0, 0.9999, "")
    check_range("lag_s", lag_s, 0.0, 1e4, "s")
    check_range("ramp_per_s", ramp_per_s, 1e-6, 1e6, "1/s")
    # While the lag would ask for more than the ramp allows, speed rises along the ramp.
    ramped = max(0.0, 1.0 - lag_s * ramp_per_s)
    if share <= ramped:
        return share / ramp_per_s
    left = 1.0 - ramped
    return ramped / ramp_per_s + lag_s * math.log(left / (1.0 - share))
