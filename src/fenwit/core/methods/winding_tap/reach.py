"""Speed over turns: what taps do with a fan, those it has among them."""

from __future__ import annotations

import numpy as np

from fenwit.core.memory import remembered
from fenwit.core.methods.seam import Axis, Reach, ReachBand, ReachPoint, ReachState, Zone, ZoneKind
from fenwit.core.methods.winding_tap.fan import TappedFan, bands_on, on
from fenwit.core.motor.taps import Tap, on_tap
from fenwit.core.operating import solve

AXIS = Axis("of the main winding's turns", "×", 1.0)
_POINTS, _BEYOND = 31, 1.1


@remembered
def reach(fan: TappedFan) -> Reach:
    """Speed over turns as if the winding went on with the same wire; bands where it has a tap."""
    branches = fan.branches(None)
    most = max(t.turns for t in fan.taps)
    ohm_per_turn = max((t.extra_ohm / (t.turns - 1) for t in fan.taps if t.turns > 1), default=0.0)
    points = []
    for turns in np.linspace(1.0, 1 + _BEYOND * (most - 1), _POINTS):
        tap = Tap("", float(turns), ohm_per_turn * float(turns - 1))
        point = solve(on_tap(fan.base, tap, branches[0]), fan.belief.load, [fan.supply])[0].running
        points.append(
            ReachPoint(
                float(turns), point.speed_rpm if point else 0.0, ReachState.OK if point else ReachState.STALL
            )
        )
    bands = []
    for tap in fan.taps:
        found = bands_on(fan, tap.name, branches)
        if found.speed_rpm.high > 0:
            bands.append(ReachBand(tap.turns, found.speed_rpm.low, found.speed_rpm.high))
    return Reach(AXIS, tuple(points), tuple(bands))


@remembered
def zones(fan: TappedFan) -> tuple[Zone, ...]:
    """Speeds below the slowest tap: no contact gives them."""
    branch = fan.branches(None)[0]
    speeds = [p.speed_rpm for t in fan.taps if (p := on(fan, t.name, branch).running)]
    if not speeds:
        return (Zone(0.0, fan.full_rpm, "will not start from rest on any tap", ZoneKind.NO_START),)
    return (Zone(0.0, min(speeds), "slower than its slowest tap", ZoneKind.GAP),)
