"""Whether a fan follows falling volts without a jump, and how a load of constant torque would."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fenwit.core.job.machine import MachineFan
from fenwit.core.load import FanLoad
from fenwit.core.operating import Solution, Source, solve

_SCANNED = 48
_JUMP = 0.06
"""A gap between neighbouring stable speeds wider than this share of full speed is one nobody can use [-]"""


def falling_words(fan: MachineFan) -> tuple[str, ...]:
    """Whether speed follows falling volts, and what the fan's own law is worth in that."""
    volts = fan.supply.voltage_v * np.linspace(0.08, 1.0, _SCANNED)
    found = _solved(fan, [Source(float(v), fan.supply.frequency_hz) for v in volts])
    gap = falling_gap(fan, volts, found)
    follows = (
        f"falling volts leave no stable speed between {gap[0]:.0f} and {gap[1]:.0f} rpm"
        if gap
        else "speed follows the volts without a jump, from full speed down"
    )
    return follows, _constant_torque(fan)


def falling_gap(
    fan: MachineFan, volts: NDArray[np.float64], found: Sequence[Solution]
) -> tuple[float, float] | None:
    """The widest gap that no falling voltage holds a speed in; None where speed follows the volts.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    volts : array
        Rising supplies [V]
    found : sequence of Solution
        The fan on each [-]

    Returns
    -------
    tuple of float or None
        Lower and upper edge [rpm]
    """
    speed = np.array([r.points[r.from_full].speed_rpm if r.from_full is not None else 0.0 for r in found])
    wide = _JUMP * fan.full_rpm
    best: tuple[float, float] | None = None
    for i in np.flatnonzero((np.diff(speed) > wide) & (speed[:-1] > 0)):
        # A steep stretch is no gap: between the two supplies the speeds between must be missing too.
        between = np.linspace(volts[i], volts[i + 1], 17)
        fine = _solved(fan, [Source(float(v), fan.supply.frequency_hz) for v in between])
        inner = np.array([r.points[r.from_full].speed_rpm if r.from_full is not None else 0.0 for r in fine])
        at = int(np.argmax(np.diff(inner)))
        low, high = float(inner[at]), float(inner[at + 1])
        if high - low > 0.6 * (speed[i + 1] - speed[i]) and (best is None or high - low > best[1] - best[0]):
            best = (low, high)
    return best


def _constant_torque(fan: MachineFan) -> str:
    """The same motor with a load that does not ease off: what a fan's square law is worth."""
    load = fan.belief.load
    stubborn = FanLoad(float(load.full_speed_rpm), float(load.full_speed_torque_nm), 1.0, 0.0, 1.0)
    half = Source(0.6 * fan.supply.voltage_v, fan.supply.frequency_hz)
    as_fan = solve(fan.belief.motor, load, [half])[0]
    as_other = solve(fan.belief.motor, stubborn, [half])[0]
    fan_runs = [p for p in as_fan.points if p.stable]
    other_runs = [p for p in as_other.points if p.stable]
    if fan_runs and not other_runs:
        return (
            f"for fans only: at 60 % of its volts this fan holds {fan_runs[-1].speed_rpm:.0f} rpm, a load of constant "
            "torque would stall it"
        )
    if fan_runs:
        return (
            f"at 60 % of its volts this fan holds {fan_runs[-1].speed_rpm:.0f} rpm, a load of constant torque "
            f"{other_runs[-1].speed_rpm:.0f} rpm"
        )
    return "at 60 % of its volts it stands still"


def _solved(fan: MachineFan, sources: list[Source]) -> tuple[Solution, ...]:
    return solve(fan.belief.motor, fan.belief.load, sources)
