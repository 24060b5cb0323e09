"""A resistive load behind a triac: share of power over the firing angle, (π − α + ½ sin 2α)/π."""

from __future__ import annotations

import math

from scipy.optimize import brentq

from fenwit.core.errors import check_range


def power_share(firing_deg: float) -> float:
    """Power over that of full conduction [° → -]"""
    alpha = math.radians(float(check_range("firing_angle_deg", firing_deg, 0.0, 180.0, "°")))
    return max(0.0, (math.pi - alpha + 0.5 * math.sin(2 * alpha)) / math.pi) if firing_deg < 180 else 0.0


def firing_for_deg(share: float) -> float:
    """Angle that gives a share of full power [- → °]"""
    check_range("power_fraction", share, 0.0, 1.0, "", reason="a triac gives full power at the most")
    if share in (0.0, 1.0):
        return 180.0 if share == 0 else 0.0
    return float(brentq(lambda a: power_share(a) - share, 0.0, 180.0, xtol=1e-13, rtol=1e-14))
