"""Speed over the duty on a control lead, as a fan's data give it: a line between two duties, and what happens below.

n(d) = n_min + (n_max − n_min) clip((e − d_min)/(d_full − d_min), 0, 1), with e = d, or 1 − d for an inverted input
(docs/duty.md). Measured pairs are a `SpeedMap` instead.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
KICK_DUTY = 0.10
"""How much more duty a standing fan asks for than a running one, while nobody has read it [-]"""


class Below(StrEnum):
    """What a fan does below its least duty."""

    HOLDS = "holds"
    """It keeps its slowest speed"""
    STOPS = "stops"
    FULL = "full"


@dataclass(frozen=True)
class DutyLine:
    """A fan's speed over the duty of the signal on its control lead."""

    slowest_rpm: float
    fastest_rpm: float
    least: float = 0.2
    """Duty where the line begins [-]"""
    full: float = 1.0
    """Duty where it ends [-]"""
    below: Below = Below.HOLDS
    inverted: bool = False
    """Whether less duty means more speed [-]"""

    def __post_init__(self) -> None:
        check_range("minimum_speed_rpm", self.slowest_rpm, 0.0, 1e6, "rpm")
        check_range("maximum_speed_rpm", self.fastest_rpm, 1e-6, 1e6, "rpm")
        check_range("minimum_duty", self.least, 0.0, 1.0, "")
        check_range("full_duty", self.full, 0.0, 1.0, "")
        if self.fastest_rpm <= self.slowest_rpm:
            raise InputError(
                "maximum_speed_rpm",
                self.fastest_rpm,
                f"above {self.slowest_rpm:g} rpm",
                "not faster than the slowest speed",
            )
        if self.full <= self.least:
            raise InputError(
                "full_duty", self.full, f"above {self.least:g}", "the line ends before it begins"
            )

    def speed_rpm(self, duty: FloatArray) -> FloatArray:
        """Speed of a running fan at duties of the signal, any shape.

        Parameters
        ----------
        duty : array
            0 to 1 [-]

        Returns
        -------
        array
            Speed; 0 where it stops [rpm]

        Raises
        ------
        InputError
            A duty outside 0 to 1.
        """
        asked = np.asarray(check_range("duty", np.asarray(duty, dtype=np.float64), 0.0, 1.0, ""))
        meant = 1 - asked if self.inverted else asked
        share = np.clip((meant - self.least) / (self.full - self.least), 0.0, 1.0)
        speed = self.slowest_rpm + (self.fastest_rpm - self.slowest_rpm) * share
        if self.below is Below.HOLDS:
            return speed
        return np.where(meant < self.least, 0.0 if self.below is Below.STOPS else self.fastest_rpm, speed)

    def duty_for(self, speed_rpm: float) -> float:
        """Duty of the signal that gives a speed on the line.

        Parameters
        ----------
        speed_rpm : float
            Wanted [rpm]

        Returns
        -------
        float
            Duty, that of the line's end where it runs flat beyond it [-]

        Raises
        ------
        InputError
            A speed the line does not reach.
        """
        check_range(
            "speed_rpm",
            speed_rpm,
            self.slowest_rpm,
            self.fastest_rpm,
            "rpm",
            reason="no duty gives this speed",
        )
        share = (speed_rpm - self.slowest_rpm) / (self.fastest_rpm - self.slowest_rpm)
        meant = self.least + (self.full - self.least) * share
        return 1 - meant if self.inverted else meant


POLARITY_WORDS = (
    "Begin at 50 %, where both senses give the same speed, and wait until three readings agree. Then 60 %: faster is "
    "normal, slower is inverted. Too close to tell: 70, then 80 %. Never begin at 0 or 100 %."
)
POLARITY_DUTIES = (0.5, 0.6, 0.7, 0.8)
_SAME_DUTY = 0.02


@dataclass(frozen=True)
class Polarity:
    """Which way round a control lead is taken, by its readings."""

    inverted: bool | None
    """None: not told yet [-]"""
    next_duty: float | None
    """What to read next; None: nothing more [-]"""
    half_rpm: float | None = None
    later: tuple[float, float] | None = None
    """Duty and speed that were held against those at half [-, rpm]"""


def polarity(pairs: Sequence[tuple[float, float]], sigma_rpm: float) -> Polarity:
    """Which way round a lead is taken: speeds at half duty against those further on, until they lie apart.

    At half duty both senses give the same speed, so nothing is risked there.

    Parameters
    ----------
    pairs : sequence of tuple
        Duty and speed as read, in any order [-, rpm]
    sigma_rpm : float
        Standard error of one reading [rpm]

    Returns
    -------
    Polarity
        A difference under 3 √2 σ tells nothing [-]

    Raises
    ------
    InputError
        An error that is none.
    """
    check_range("sigma_rpm", sigma_rpm, 0.0, 1e5, "rpm")

    def mean(duty: float) -> float | None:
        found = [n for d, n in pairs if abs(d - duty) <= _SAME_DUTY]
        return sum(found) / len(found) if found else None

    half = mean(POLARITY_DUTIES[0])
    if half is None:
        return Polarity(None, POLARITY_DUTIES[0])
    later = None
    for duty in POLARITY_DUTIES[1:]:
        speed = mean(duty)
        if speed is None:
            continue
        later = (duty, speed)
        if abs(speed - half) >= 3 * math.sqrt(2) * sigma_rpm:
            return Polarity(speed < half, None, half, later)
    following = next((d for d in POLARITY_DUTIES[1:] if later is None or d > later[0]), None)
    return Polarity(None, following, half, later)
