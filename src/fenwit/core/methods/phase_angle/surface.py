"""A fan behind a triac as a table solved once: everything of a running point over its speed, for answers at a glance.

At one speed one firing angle holds the fan, so speed is what everything is a function of, over a fold too. It is taken
as u = √(1 − n/n_top): the angle leaves the end of full conduction with a root, and in u all is smooth. Between solved
speeds a cubic spline goes through every value; sums that hold at the solved ones, like the balance of power, hold
between them as well.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline, PchipInterpolator

from fenwit.core.job.machine import MachineFan
from fenwit.core.operating import Solution, solutions_of
from fenwit.core.regulator.firing import FiringCurve
from fenwit.core.regulator.firing_points import PhasePoint, angle_at_speed, solution_there
from fenwit.core.regulator.phase import Conduction

FloatArray = NDArray[np.float64]

ERROR, RIPPLE_ERROR = 1e-3, 0.03
"""How far a glance may lie from what is solved in full, over the largest value there is; the ripple's peaks have corners
over the angle, and nothing is judged by them [-]"""
_FIRST_U = 0.035
_SPEEDS = 48
_LEFT_OUT = ("stable", "conduction", "growth_per_s")


@dataclass(frozen=True, eq=False)
class Surface:
    """Running points over speed."""

    top_rpm: float
    """Fully on [rpm]"""
    first_u: float
    last_u: float
    angle_deg: FloatArray
    """At the solved speeds, rising [°]"""
    u_of_angle: PchipInterpolator
    values: CubicSpline
    """Over u: torque at rest less friction, then the fields of a point in `names` [any]"""
    names: tuple[str, ...]
    missing: tuple[str, ...]
    """Fields this motor's model has no value for [-]"""

    def u_at(self, speed_rpm: FloatArray) -> FloatArray:
        """Where a speed lies; NaN-free only below the top [-]"""
        return np.asarray(np.sqrt(np.clip(1 - speed_rpm / self.top_rpm, 0.0, 1.0)))

    def angles_for(self, speed_rpm: Sequence[float]) -> tuple[float | None, ...]:
        """Firing angle of each speed; None outside the table [°]"""
        u = self.u_at(np.asarray(speed_rpm, dtype=float))
        angle = self.values(u)[..., 1 + self.names.index("firing_angle_deg")]
        inside = (u >= self.first_u) & (u <= self.last_u)
        return tuple(float(a) if ok else None for a, ok in zip(angle, inside, strict=True))

    def holds(self, firing_deg: float) -> bool:
        """Whether an angle lies in the table."""
        return bool(self.angle_deg[0] <= firing_deg <= self.angle_deg[-1])

    def solutions(self, fan: MachineFan, firing_deg: Sequence[float]) -> tuple[Solution, ...]:
        """The fan at angles of the table, each with the one point it runs at."""
        asked = np.asarray(firing_deg, dtype=float)
        column = 1 + self.names.index("firing_angle_deg")
        u = np.asarray(self.u_of_angle(asked), dtype=float)
        # The inverse is drawn between few angles; one step on the table itself puts it right.
        slope = self.values(u, 1)[..., column]
        u = np.clip(u - (self.values(u)[..., column] - asked) / slope, self.first_u, self.last_u)
        rows = self.values(u)
        points = [self._point(row, angle) for row, angle in zip(rows, asked.tolist(), strict=True)]
        return solutions_of(fan.belief.load, rows[:, 0], np.arange(len(points)), points)

    def _point(self, row: FloatArray, firing_deg: float) -> PhasePoint:
        found: dict[str, Any] = dict(zip(self.names, row[1:].tolist(), strict=True))
        found |= dict.fromkeys(self.missing)
        found |= {"firing_angle_deg": firing_deg, "stable": True, "conduction": Conduction.DISCONTINUOUS}
        return PhasePoint(**found)


def surface_of(fan: MachineFan, curve: FiringCurve, kick: bool, on_state_v: float) -> Surface | None:
    """Solve a fan at many speeds, from nearly fully on to as slow as it runs.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    curve : FiringCurve
        The same over firing angle; it says where to look [-]
    kick : bool
        Coming down from full speed, instead of from rest [-]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    Surface or None
        None where it hardly runs, or at no stretch of speeds in one kind of conduction [-]

    Raises
    ------
    InputError
        As `solution_there`.
    """
    whole = curve.kicked_rpm if kick else curve.speed_rpm
    runs = whole > 0
    deg, speed = curve.firing_deg[runs], np.minimum.accumulate(whole[runs])
    if len(deg) < 8:
        return None
    top, slowest = float(speed[0]), float(speed[-1])
    u = np.linspace(_FIRST_U, np.sqrt(max(1 - slowest / top, 0.0)), _SPEEDS)
    if u[-1] < 4 * _FIRST_U:
        return None
    speeds = top * (1 - u**2)
    guess = np.interp(-speeds, -speed, deg)
    conducts = np.interp(guess, curve.firing_deg, curve.extinction_deg) - guess
    belief, supply = fan.belief, fan.supply
    angle = angle_at_speed(belief.motor, belief.load, supply, speeds, guess, conducts, on_state_v)
    solved = solution_there(belief.motor, belief.load, supply, speeds, angle, conducts, on_state_v)
    points = [s.points[0] for s in solved]
    load = belief.load.torque_nm(speeds)
    scale = 1e-3 * float(belief.load.full_speed_torque_nm)
    good = np.array(
        [
            isinstance(p, PhasePoint)
            and p.conduction is Conduction.DISCONTINUOUS
            and abs(p.torque_nm - t) < scale
            for p, t in zip(points, load, strict=True)
        ]
    )
    # One branch only: where the angle turns back the fan jumps, and a glance must not lead across that.
    good[1:] &= np.diff(angle) > 0
    count = _SPEEDS if good.all() else int(np.argmin(good))
    return _drawn(top, u[:count], solved[:count], angle[:count]) if count >= 8 else None


def _drawn(top: float, u: FloatArray, solved: Sequence[Solution], angle: FloatArray) -> Surface:
    points = [s.points[0] for s in solved]
    every = [f.name for f in fields(PhasePoint) if f.name not in _LEFT_OUT]
    missing = tuple(name for name in every if getattr(points[0], name) is None)
    names = tuple(name for name in every if name not in missing)
    rows = np.array(
        [
            [s.net_starting_torque_nm, *(float(getattr(p, n)) for n in names)]
            for s, p in zip(solved, points, strict=True)
        ]
    )
    return Surface(
        top,
        float(u[0]),
        float(u[-1]),
        angle,
        PchipInterpolator(angle, u),
        CubicSpline(u, rows),
        names,
        missing,
    )
