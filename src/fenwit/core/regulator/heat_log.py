"""A heat sink from a logged warm-up and cool-down: R_nat, R_forced and C by least squares (docs/heat.md)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError, check_range
from fenwit.core.regulator.thermal import FLOW_EXPONENT

FloatArray = NDArray[np.float64]
MOST_ROWS = 20_000
_T90 = 1.645
_ON = 0.05
"""Speed from which the fan counts as running [-]"""


@dataclass(frozen=True, eq=False)
class HeatLog:
    """What was logged of a sink: what went in is held until the next row."""

    time_s: FloatArray
    sink_c: FloatArray
    speed: FloatArray
    """Over full speed [-]"""
    power_w: FloatArray
    ambient_c: float

    def __post_init__(self) -> None:
        count = len(self.time_s)
        if count < 8:
            raise InputError("time_s", count, "eight rows and more", "a sink is not known from so few")
        if count > MOST_ROWS:
            raise InputError("time_s", count, f"up to {MOST_ROWS} rows", "too many rows")
        for name in ("sink_c", "speed", "power_w"):
            if len(getattr(self, name)) != count:
                raise InputError(name, len(getattr(self, name)), f"{count} rows", "one value for each time")
        check_range("time_s", self.time_s, -1e9, 1e10, "s")
        back = np.flatnonzero(np.diff(self.time_s) <= 0)
        if len(back):
            i = int(back[0])
            raise InputError(
                "time_s",
                float(self.time_s[i + 1]),
                f"after {self.time_s[i]:g} s",
                f"time runs backwards in row {i + 2}",
            )
        check_range("sink_c", self.sink_c, -60.0, 400.0, "°C")
        check_range("speed_fraction", self.speed, 0.0, 1.0, "")
        check_range("power_w", self.power_w, 0.0, 1e6, "W")
        check_range("ambient_c", self.ambient_c, -60.0, 100.0, "°C")
        if (self.speed > _ON).all() or not (self.speed > _ON).any():
            have = "running" if (self.speed > _ON).all() else "standing"
            raise InputError(
                "speed_fraction", have, "a stretch with the fan off and one with it on",
                "natural and forced cooling cannot be told apart",
            )  # fmt: skip
        if self.power_w.max() <= 0:
            raise InputError("power_w", 0.0, "above 0 W somewhere", "nothing warmed it")


@dataclass(frozen=True)
class SinkFit:
    """A sink as its log tells it."""

    natural_k_w: float
    forced_k_w: float
    capacity_j_k: float
    bands: tuple[Band, Band, Band]
    """Where nine in ten lie, of the three in this order [K/W, K/W, J/K]"""
    misfit_k: float
    """Root of the mean square of what is left [K]"""
    short: tuple[str, ...]
    """Stretches shorter than one time constant: `off`, `on` [-]"""


def sink_fit(log: HeatLog, flow_exponent: float = FLOW_EXPONENT) -> SinkFit:
    """The sink behind a log.

    Parameters
    ----------
    log : HeatLog
        At least one stretch with the fan off and one with it on [-]
    flow_exponent : float
        Of the forced conductance over speed [-]

    Returns
    -------
    SinkFit
        With bands [-]

    Raises
    ------
    InputError
        A log from which no sink follows.
    """
    dt = np.diff(log.time_s)
    flow = np.where(log.speed > 0, log.speed, 0.0) ** flow_exponent
    flow = np.where(log.speed > 0, flow, 0.0)

    def model(x: FloatArray) -> FloatArray:
        natural, forced, capacity = np.exp(x[:3])
        g = 1 / natural + flow[:-1] / forced
        end = log.ambient_c + log.power_w[:-1] / g
        left = np.exp(-dt * g / capacity)
        out = np.empty(len(log.time_s))
        at = out[0] = x[3]
        for i, (e, share) in enumerate(zip(end.tolist(), left.tolist(), strict=True), start=1):
            at = e + (at - e) * share
            out[i] = at
        return out

    rise = max(1.0, float(log.sink_c.max() - log.ambient_c))
    guess = max(0.01, rise / max(1e-3, float(log.power_w.max())))
    start = np.array([math.log(2 * guess), math.log(guess), math.log(200.0), float(log.sink_c[0])])
    best = None
    for capacity in (20.0, 200.0, 2000.0):
        start[2] = math.log(capacity)
        found = least_squares(
            lambda x: model(x) - log.sink_c,
            start,
            x_scale=[1, 1, 1, 5],
            bounds=([-9, -9, -4, -100], [9, 9, 18, 400]),
        )
        best = found if best is None or found.cost < best.cost else best
    assert best is not None
    free = max(1, len(log.time_s) - 4)
    variance = 2 * best.cost / free
    curvature = best.jac.T @ best.jac
    if np.linalg.cond(curvature) > 1e14:
        raise InputError(
            "power_w", "too little", "a longer warm-up and cool-down", "the log does not tell them apart"
        )
    spread = np.sqrt(np.diag(np.linalg.inv(curvature)) * variance)
    values = np.exp(best.x[:3])
    if (spread[:3] > 1.0).any():
        name = ("natural_k_w", "forced_k_w", "capacity_j_k")[int(np.argmax(spread[:3]))]
        raise InputError(
            name, float(values[int(np.argmax(spread[:3]))]), "a longer log", "it is not told by this log"
        )
    bands = tuple(
        Band(float(v * math.exp(-_T90 * s)), float(v * math.exp(_T90 * s)))
        for v, s in zip(values, spread, strict=False)
    )
    on = log.speed[:-1] > _ON
    tau_off = values[2] * values[0]
    mean_on = float(np.mean(flow[:-1][on]))
    tau_on = values[2] / (1 / values[0] + mean_on / values[1])
    longest = {name: _longest(dt, where) for name, where in (("off", ~on), ("on", on))}
    short = tuple(n for n, tau in (("off", tau_off), ("on", tau_on)) if longest[n] < tau)
    return SinkFit(
        float(values[0]), float(values[1]), float(values[2]), (bands[0], bands[1], bands[2]),
        math.sqrt(2 * best.cost / len(log.time_s)), short,
    )  # fmt: skip


def _longest(dt: FloatArray, where: NDArray[np.bool_]) -> float:
    """Longest time without a break in which something holds [s]."""
    longest = run = 0.0
    for step, holds in zip(dt.tolist(), where.tolist(), strict=True):
        run = run + step if holds else 0.0
        longest = max(longest, run)
    return longest
