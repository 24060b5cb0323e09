"""Two capacitors and a switch: which pairs of preferred values come nearest to the wanted speeds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.errors import InputError, check_range
from fenwit.core.quantity import preferred
from fenwit.core.regulator.series import SpeedCurve

FloatArray = NDArray[np.float64]

PATTERNS = ("A–B", "A", "B", "A∥B", "direct")
"""What two capacitors can make, slowest first when A is the smaller: in series, alone, together, bridged."""

_CLOSED = {
    "A–B": frozenset({"K1", "K5"}),
    "A": frozenset({"K1", "K2"}),
    "B": frozenset({"K3"}),
    "A∥B": frozenset({"K1", "K2", "K3"}),
    "direct": frozenset({"K4"}),
}
TOLERANCE = 0.10
"""Tolerance class assumed for a film capacitor that was not measured [-]"""


def two_capacitor_bank(
    a_f: float, b_f: float, patterns: Sequence[str], tolerance: float = TOLERANCE
) -> Circuit:
    """The circuit of a two-capacitor regulator: Off, then one position for each pattern.

    K1 feeds A and K2 takes it to the motor; K3 feeds B, which stands at the motor; K4 bridges both; K5 leads from A
    into B for the series step.

    Parameters
    ----------
    a_f : float
        Capacitor A, the smaller one [F]
    b_f : float
        Capacitor B [F]
    patterns : sequence of str
        What each step joins, from `PATTERNS` [-]
    tolerance : float
        Tolerance of both parts, relative [-]

    Returns
    -------
    Circuit
        Positions "Off", "1" … "n" [-]

    Raises
    ------
    InputError
        Unknown pattern or unreal value.
    """
    for pattern in patterns:
        if pattern not in _CLOSED:
            raise InputError("patterns", pattern, ", ".join(PATTERNS), "no such pattern")
    used = frozenset().union(*(_CLOSED[p] for p in patterns))
    contacts = {
        "K1": ("line", "a1"),
        "K2": ("a2", "motor"),
        "K3": ("line", "b1"),
        "K4": ("line", "motor"),
        "K5": ("a2", "b1"),
    }
    parts = [
        Part("A", PartKind.CAPACITOR, "a1", "a2", a_f, tolerance),
        Part("B", PartKind.CAPACITOR, "b1", "motor", b_f, tolerance),
        *(Part(name, PartKind.CONTACT, *nets) for name, nets in contacts.items() if name in used),
    ]
    positions = [Position("Off", frozenset())]
    positions += [Position(str(i + 1), _CLOSED[pattern]) for i, pattern in enumerate(patterns)]
    return Circuit("line", "motor", tuple(parts), tuple(positions))


@dataclass(frozen=True)
class BankCandidate:
    """A pair of capacitors with the step each pattern serves."""

    a_f: float
    b_f: float
    patterns: tuple[str, ...]
    """One for each wanted speed, slowest first"""
    speed_rpm: tuple[float, ...]
    miss_rpm: tuple[float, ...]
    """Speed less wanted speed [rpm]"""
    worst_miss: float
    """Largest miss over full speed [-]"""
    unevenness: float
    """Largest departure of a difference between neighbours from their mean difference, over it; 0 is even [-]"""


def search_two_capacitors(
    curve: SpeedCurve,
    direct_speed_rpm: float | None,
    wanted_rpm: Sequence[float],
    full_speed_rpm: float,
    *,
    series: str = "E12",
    best: int = 10,
) -> tuple[BankCandidate, ...]:
    """Rank all pairs of preferred values by their worst miss, then evenness.

    Speed over capacitance is read off a curve; positions that do not start or are barred are never used.

    Parameters
    ----------
    curve : SpeedCurve
        Speed over series capacitance of this fan [-]
    direct_speed_rpm : float or None
        Speed without anything in the line; None bars that position [rpm]
    wanted_rpm : sequence of float
        Wanted speeds, rising, one to five [rpm]
    full_speed_rpm : float
        Full speed [rpm]
    series : str
        Series of preferred values [-]
    best : int
        How many to return [-]

    Returns
    -------
    tuple of BankCandidate
        Best first; empty when no pair serves all wanted speeds [-]

    Raises
    ------
    InputError
        No or too many wanted speeds, or not rising.
    """
    wanted = np.asarray(wanted_rpm, dtype=np.float64)
    if not 1 <= len(wanted) <= len(PATTERNS):
        raise InputError(
            "wanted_rpm",
            len(wanted),
            f"1 to {len(PATTERNS)} steps",
            "two capacitors make at most five speeds",
        )
    if (np.diff(wanted) <= 0).any():
        raise InputError("wanted_rpm", wanted.tolist(), "rising speeds", "two steps ask for the same speed")
    check_range("full_speed_rpm", full_speed_rpm, 1.0, 40000.0, "rpm")
    values = preferred(series, float(curve.capacitance_f[0]), float(curve.capacitance_f[-1]))
    first, second = np.triu_indices(len(values))
    a, b = values[first], values[second]
    speed = np.stack(
        [
            _read_off(curve, a * b / (a + b)),
            _read_off(curve, a),
            _read_off(curve, b),
            _read_off(curve, a + b),
            np.full(a.shape, direct_speed_rpm or 0.0),
        ]
    )
    cost, chosen = np.full(a.shape, np.inf), np.zeros(a.shape, dtype=np.int64)
    choices = list(combinations(range(len(PATTERNS)), len(wanted)))
    for k, choice in enumerate(choices):
        steps = speed[list(choice)]
        # Equal capacitors alone give one speed, not two: the steps must differ to count.
        usable = (steps > 0).all(axis=0) & (np.diff(steps, axis=0) > 0).all(axis=0)
        worst = np.where(usable, np.abs(steps - wanted[:, None]).max(axis=0), np.inf)
        better = worst < cost - 1e-9
        cost, chosen = np.where(better, worst, cost), np.where(better, k, chosen)
    order = np.argsort(cost, kind="stable")[: 3 * best]
    found = [
        _candidate(a[i], b[i], choices[chosen[i]], speed[:, i], wanted, full_speed_rpm)
        for i in order
        if np.isfinite(cost[i])
    ]
    # Misses within half a per cent of full speed are alike; evenness decides between them.
    found.sort(key=lambda c: (round(c.worst_miss * 200), c.unevenness, c.worst_miss))
    return tuple(found[:best])


def _read_off(curve: SpeedCurve, capacitance_f: FloatArray) -> FloatArray:
    """Speed at capacitances between the curve's own; 0 where either neighbour is not usable."""
    x, at = np.log(capacitance_f), np.log(curve.capacitance_f)
    right = np.clip(np.searchsorted(at, x), 1, len(at) - 1)
    good = curve.usable[right] & curve.usable[right - 1] & (x >= at[0] - 1e-9) & (x <= at[-1] + 1e-9)
    return np.where(good, np.interp(x, at, curve.scan.speed_rpm), 0.0)


def _candidate(
    a: float, b: float, choice: tuple[int, ...], speed: FloatArray, wanted: FloatArray, full_speed_rpm: float
) -> BankCandidate:
    steps = speed[list(choice)]
    miss = steps - wanted
    return BankCandidate(
        float(a),
        float(b),
        tuple(PATTERNS[i] for i in choice),
        tuple(float(v) for v in steps),
        tuple(float(v) for v in miss),
        float(np.abs(miss).max() / full_speed_rpm),
        unevenness(steps),
    )


def unevenness(speed_rpm: Sequence[float] | FloatArray) -> float:
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
