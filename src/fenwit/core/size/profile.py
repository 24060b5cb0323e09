"""The acceptance profile: what a set of steps has to keep to, and by how much it does or does not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import check_range


@dataclass(frozen=True)
class Profile:
    """Limits a regulator is accepted by; kept with the job."""

    lowest_share: float = 0.55
    """Lowest step at or below this share of full speed [-]"""
    start_margin: float = 0.15
    """Torque at rest above break-away at the lowest step, over it [-]"""
    evenness: float = 0.35
    """Departure of a difference between steps from the ideal one, over it [-]"""
    motor_voltage: float = 1.05
    """Motor volts over rated volts, the mains being at their stated value [-]"""
    mains: float = 0.10
    """How far the mains may be off [-]"""
    doubt: float = 0.05
    """Share of cases in which a step may fail to start [-]"""
    bands_apart: bool = True
    """Neighbouring steps must differ whatever motor of the cloud it is"""
    starts_low: bool = True
    """Every step must start from rest on low mains"""

    def __post_init__(self) -> None:
        check_range("profile.lowest_share", self.lowest_share, 0.05, 1.0, "")
        check_range("profile.start_margin", self.start_margin, 0.0, 5.0, "")
        check_range("profile.evenness", self.evenness, 0.01, 2.0, "")
        check_range("profile.motor_voltage", self.motor_voltage, 0.5, 1.05, "")
        check_range("profile.mains", self.mains, 0.0, 0.10, "")
        check_range("profile.doubt", self.doubt, 0.0, 0.5, "")


class RuleKey(StrEnum):
    """The rules of a profile."""

    LOWEST = "lowest"
    START_MARGIN = "start-margin"
    EVENNESS = "evenness"
    BANDS_APART = "bands-apart"
    MOTOR_VOLTS = "motor-volts"
    MOTOR_VOLTS_HIGH = "motor-volts-high"
    STARTS_LOW = "starts-low"
    DOUBT = "doubt"
    """In how many cases a step does not start"""


@dataclass(frozen=True)
class StepFacts:
    """What the rules look at of one step."""

    number: int
    speed_rpm: float
    band: Band | None
    start_margin: float | None
    """Torque at rest over break-away torque; None: no such model [-]"""
    motor_voltage_v: float | None
    motor_voltage_high_v: float | None
    """On high mains [V]"""
    starts_low: bool
    start_margin_low: float | None
    """Torque at rest over break-away torque on low mains [-]"""
    may_not_start: float = 0.0
    """Share of the likely fans that would not start or hold it [-]"""


@dataclass(frozen=True)
class RuleResult:
    """One rule, met or missed, and by how much."""

    key: RuleKey
    met: bool
    value: float
    limit: float
    """In the unit of the value; what is better lies on the side `better` says [any]"""
    step: int | None
    """The step that decides it"""

    @property
    def by(self) -> float:
        """Distance between value and limit."""
        return abs(self.value - self.limit)


def judge_profile(
    profile: Profile,
    steps: Sequence[StepFacts],
    full_speed_rpm: float,
    rated_voltage_v: float,
) -> tuple[RuleResult, ...]:
    """Hold the steps against every rule of a profile.

    The ideal difference between steps is (n_max − n_min)/(steps − 1). Motor volts on high mains are held against a
    limit that rises with the mains: what the regulator adds is judged, not the mains themselves.

    Parameters
    ----------
    profile : Profile
        The limits [-]
    steps : sequence of StepFacts
        All usable steps, slowest first [-]
    full_speed_rpm : float
        Full speed [rpm]
    rated_voltage_v : float
        Rated motor volts [V]

    Returns
    -------
    tuple of RuleResult
        One for each rule that says something about so many steps [-]

    Raises
    ------
    InputError
        Full speed or rated volts that cannot be real.
    """
    check_range("full_speed_rpm", full_speed_rpm, 1.0, 40000.0, "rpm")
    check_range("rated_voltage_v", rated_voltage_v, 1.0, 1000.0, "V")
    if not steps:
        return ()
    found = []
    low = steps[0]
    share = low.speed_rpm / full_speed_rpm
    found.append(
        RuleResult(
            RuleKey.LOWEST, share <= profile.lowest_share + 1e-9, share, profile.lowest_share, low.number
        )
    )
    least = 1 + profile.start_margin
    if low.start_margin is not None:
        found.append(
            RuleResult(RuleKey.START_MARGIN, low.start_margin >= least, low.start_margin, least, low.number)
        )
    speeds = np.array([s.speed_rpm for s in steps])
    gaps = np.diff(speeds)
    if len(gaps) >= 2 and speeds[-1] > speeds[0]:
        off = np.abs(gaps / ((speeds[-1] - speeds[0]) / len(gaps)) - 1)
        at = int(np.argmax(off))
        found.append(
            RuleResult(
                RuleKey.EVENNESS,
                bool(off[at] <= profile.evenness + 1e-9),
                float(off[at]),
                profile.evenness,
                steps[at + 1].number,
            )
        )
    banded = [(s.number, s.band) for s in steps if s.band is not None]
    if profile.bands_apart and len(banded) >= 2:
        between = [(b.low - a.high, k) for (_, a), (k, b) in pairwise(banded)]
        apart, at = min(between)
        found.append(RuleResult(RuleKey.BANDS_APART, apart > 0, apart, 0.0, at))
    limit = profile.motor_voltage * rated_voltage_v
    fed = [(s.motor_voltage_v, s.number) for s in steps if s.motor_voltage_v is not None]
    if fed:
        volts, at = max(fed)
        found.append(RuleResult(RuleKey.MOTOR_VOLTS, volts <= limit * (1 + 1e-9), volts, limit, at))
    high = [(s.motor_voltage_high_v, s.number) for s in steps if s.motor_voltage_high_v is not None]
    if high:
        volts, at = max(high)
        limit *= 1 + profile.mains
        found.append(RuleResult(RuleKey.MOTOR_VOLTS_HIGH, volts <= limit * (1 + 1e-9), volts, limit, at))
    margins = [(s.start_margin_low, s.number) for s in steps if s.start_margin_low is not None]
    if profile.starts_low and margins:
        margin, at = min(margins)
        found.append(RuleResult(RuleKey.STARTS_LOW, all(s.starts_low for s in steps), margin, 1.0, at))
    doubt, at = max((s.may_not_start, s.number) for s in steps)
    found.append(RuleResult(RuleKey.DOUBT, doubt <= profile.doubt + 1e-9, doubt, profile.doubt, at))
    return tuple(found)


def unevenness(speed_rpm: Sequence[float] | NDArray[np.float64]) -> float:
    """How far the differences between neighbouring steps depart from their mean.

    Parameters
    ----------
    speed_rpm : sequence of float
        Step speeds, rising [rpm]

    Returns
    -------
    float
        Largest departure over the mean difference; 0 for fewer than three steps [-]
    """
    gaps = np.diff(np.asarray(speed_rpm, dtype=np.float64))
    if len(gaps) < 2 or gaps.mean() <= 0:
        return 0.0
    return float(np.abs(gaps / gaps.mean() - 1).max())
