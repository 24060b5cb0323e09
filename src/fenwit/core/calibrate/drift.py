"""A value that sinks a little each year: the line through its readings, and when it will leave its tolerance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
_DRAWS = 4000
_FAR_DAYS = 365.25 * 40


@dataclass(frozen=True)
class Drift:
    """A straight line through readings over time."""

    share_at: tuple[tuple[float, float], ...]
    """Day and measured over rated, oldest first [d, -]"""
    per_year: float
    """Change of measured over rated [1/a]"""
    per_year_sigma: float
    now_share: float
    """The line's value at the last reading [-]"""
    leaves_day: float | None
    """When it is likeliest to leave tolerance; None where it does not within forty years [d]"""
    leaves_low: float | None
    """One in twenty expects it earlier [d]"""
    leaves_high: float | None
    """One in twenty expects it later, None: never [d]"""
    sinking: bool
    """Whether it sinks beyond doubt: nineteen of twenty lines fall [-]"""


def drift(
    days: Sequence[float], measured: Sequence[float], rated: float, tolerance: float, sigma: float = 0.015
) -> Drift | None:
    """Fit a line to a part's readings and say when it leaves its tolerance, with the uncertainty of that date.

    Weighted least squares with the meter's uncertainty; the scatter of the readings widens it where it is larger. The
    dates come from lines drawn from that posterior.

    Parameters
    ----------
    days : sequence of float
        When each was read, days from any start [d]
    measured : sequence of float
        What was read [any]
    rated : float
        What it should be, in the unit of the readings [any]
    tolerance : float
        Half width of the tolerance [-]
    sigma : float
        Standard uncertainty of one reading [-]

    Returns
    -------
    Drift or None
        None with fewer than two readings on different days [-]

    Raises
    ------
    InputError
        Readings and days that do not match, or values that cannot be real.
    """
    if len(days) != len(measured):
        raise InputError("measured", len(measured), f"{len(days)} readings", "one day for each reading")
    check_range("rated", rated, 1e-12, 1e6, "")
    check_range("tolerance", tolerance, 1e-3, 0.9, "")
    check_range("sigma", sigma, 1e-4, 0.5, "")
    for value in measured:
        check_range("measured", value, 0.0, 1e6, "")
    order = np.argsort(np.asarray(days, dtype=np.float64), kind="stable")
    t = np.asarray(days, dtype=np.float64)[order]
    y = np.asarray(measured, dtype=np.float64)[order] / rated
    if len(t) < 2 or t[-1] - t[0] < 1.0:
        return None
    middle = float(t.mean())
    x = np.column_stack([np.ones_like(t), (t - middle) / 365.25])
    solved: FloatArray = np.asarray(np.linalg.lstsq(x, y, rcond=None)[0], dtype=np.float64)
    rest = y - x @ solved
    scatter = float(np.sqrt((rest @ rest) / max(1, len(t) - 2))) if len(t) > 2 else 0.0
    covariance = np.linalg.inv(x.T @ x) * max(sigma, scatter) ** 2
    random = np.random.default_rng(41)
    lines = random.multivariate_normal(solved, covariance, _DRAWS)
    leaves = _leaving(lines[:, 0], lines[:, 1], middle, float(t[-1]), tolerance)
    best = _leaving(solved[:1], solved[1:], middle, float(t[-1]), tolerance)[0]
    # Picked, not interpolated: some lines never leave.
    early, late = np.sort(leaves)[[_DRAWS // 20, _DRAWS - _DRAWS // 20]]
    return Drift(
        share_at=tuple(zip(t.tolist(), y.tolist(), strict=True)),
        per_year=float(solved[1]),
        per_year_sigma=float(np.sqrt(covariance[1, 1])),
        now_share=float(solved[0] + solved[1] * (t[-1] - middle) / 365.25),
        leaves_day=_day(float(best)),
        leaves_low=_day(float(early)),
        leaves_high=_day(float(late)),
        sinking=bool(np.mean(lines[:, 1] < 0) > 0.95),
    )


def _day(value: float) -> float | None:
    return value if np.isfinite(value) else None


def _leaving(
    level: FloatArray, slope: FloatArray,
    middle: float, last: float, tolerance: float,
) -> FloatArray:  # fmt: skip
    """Day on which each line crosses the tolerance it heads for; infinite where it does not within forty years."""
    edge = np.where(slope < 0, 1 - tolerance, 1 + tolerance)
    with np.errstate(divide="ignore", invalid="ignore"):
        day = middle + 365.25 * (edge - level) / slope
    return np.where(np.isfinite(day) & (day < last + _FAR_DAYS), day, np.inf)
