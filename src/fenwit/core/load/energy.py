"""Energy of a year's running, and when a saving has paid for what it cost."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core.errors import InputError, check_range


def energy_kwh(powers_w: Sequence[float], hours_per_day: Sequence[float], days: float = 365.0) -> float:
    """Energy of steps that run so many hours of each day, Σ P h · days/1000 [W, h, - → kWh]"""
    powers, hours = np.asarray(powers_w, dtype=np.float64), np.asarray(hours_per_day, dtype=np.float64)
    if powers.shape != hours.shape or not powers.size:
        raise InputError("hours_per_day", len(hours), f"{len(powers)} values", "one figure for each power")
    check_range("powers_w", powers, 0.0, 1e7, "W")
    check_range("hours_per_day", hours, 0.0, 24.0, "h")
    check_range("days", days, 0.0, 366.0, "")
    total = float(hours.sum())
    if total > 24 * (1 + 1e-9):
        raise InputError("hours_per_day", total, "24 h in all", "a day has no more hours")
    return float((powers * hours).sum() * days / 1000)


def payback_years(extra_cost: float, saving_a_year: float) -> float | None:
    """Years until a saving has paid for itself; None where nothing is saved [any, any/a → a]"""
    check_range("extra_cost", extra_cost, 0.0, 1e9, "")
    return extra_cost / saving_a_year if saving_a_year > 0 else None
