"""A fan that holds flow, pressure or speed by itself: the loop in time, its tuning, its hunting (docs/loops.md).

Air follows at once (the working point of fan and system), speed by ds/dt = clip((u − s)/τ_fan, ±ramp), the sensor by
dy/dt = (x − y)/τ_s. Every T_s the controller takes e = (set − y)/span, v = K_p e + I, u = clip(v, u_min, 1), then
I += K_p T_s/T_i e, unless v is beyond a limit and e would push it further.

Between samples speed is exact: a straight piece along the ramp, then an exponential. The sensor's convolution is taken
by Gauss quadrature on each smooth piece. Flow over speed needs no root: with φ = q/s, s = √(p_fixed/(p_c(φ) − k φ²)).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range
from fenwit.core.load.curve import Air, System

FloatArray = NDArray[np.float64]
MOST_SAMPLES = 200_000
"""Of one run [-]"""
_NEAR = 0.02
"""Within so much of the set point it counts as settled [-]"""
_STILL, _STILL_SAMPLES = 1e-11, 5
"""A loop that has moved less for so many samples stays where it is [-]"""
_PLACES = 4096
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(4)
_GAUSS = tuple((float(x + 1) / 2, float(w) / 2) for x, w in zip(_NODES, _WEIGHTS, strict=True))
_AT = tuple(place for place, _ in _GAUSS)


class Held(StrEnum):
    """What a loop holds."""

    SPEED = "speed"
    FLOW = "flow"
    PRESSURE = "pressure"


@dataclass(frozen=True)
class Controller:
    """How the loop is set; also how the fan and its sensor answer."""

    gain_kp: float = 0.5
    """Of the command, over the error as a share of the span [-]"""
    integral_s: float = 4.0
    sample_s: float = 0.5
    fan_lag_s: float = 2.0
    ramp_per_s: float = 0.1
    """Most of full speed a second [1/s]"""
    sensor_lag_s: float = 1.0
    least: float = 0.1
    """Lowest command [-]"""
    clamped: bool = True
    """Whether the integral rests while the command is at its end [-]"""
    reversed: bool = False
    """Whether the sensor, or its tubes, are the wrong way round [-]"""

    def __post_init__(self) -> None:
        check_range("gain_kp", self.gain_kp, 1e-6, 1e4, "")
        check_range("integral_s", self.integral_s, 1e-3, 1e6, "s")
        check_range("sample_s", self.sample_s, 1e-3, 600.0, "s")
        check_range("fan_lag_s", self.fan_lag_s, 0.0, 1e4, "s")
        check_range("ramp_per_s", self.ramp_per_s, 1e-5, 1e4, "1/s")
        check_range("sensor_lag_s", self.sensor_lag_s, 0.0, 1e4, "s")
        check_range("minimum_speed", self.least, 0.0, 0.99, "")


@dataclass(frozen=True)
class Damper:
    """What closes and opens again: the system's resistance times a factor."""

    factor: float = 2.5
    at_s: float = 10.0
    back_at_s: float | None = None

    def __post_init__(self) -> None:
        check_range("damper_factor", self.factor, 1e-3, 1e4, "")
        check_range("damper_at_s", self.at_s, 0.0, 1e6, "s")
        if self.back_at_s is not None and self.back_at_s <= self.at_s:
            raise InputError(
                "damper_back_at_s",
                self.back_at_s,
                f"after {self.at_s:g} s",
                "it cannot come back before it moved",
            )


# ---------------------------------------------------------------- the air as the loop sees it


@dataclass(frozen=True, eq=False)
class Plant:
    """Flow and system pressure over speed at one position of the damper."""

    fixed_pa: float
    resistance: float
    """k of the system as it stands [Pa·s²/m⁶]"""
    per_speed: float
    """Flow at full speed where the plain law holds; 0: it does not [m³/s]"""
    least: float
    """Speed below which no air moves [-]"""
    table: tuple[float, ...]
    """Flow at even speeds from `least` to 1 [m³/s]"""

    def flow_m3_s(self, speed: float) -> float:
        """Flow at a share of the curve's speed, 0 to 1 [- → m³/s]"""
        if self.per_speed:
            return self.per_speed * speed
        if speed <= self.least:
            return 0.0
        at = (speed - self.least) / (1.0 - self.least) * (_PLACES - 1)
        i = min(int(at), _PLACES - 2)
        return self.table[i] + (at - i) * (self.table[i + 1] - self.table[i])

    def pressure_pa(self, speed: float) -> float:
        """System pressure at a share of the curve's speed [- → Pa]"""
        flow = self.flow_m3_s(speed)
        return self.fixed_pa + self.resistance * flow * flow


def plant(air: Air, factor: float = 1.0) -> Plant:
    """The air at one position of the damper.

    Parameters
    ----------
    air : Air
        Fan and system [-]
    factor : float
        Of the system's resistance [-]

    Returns
    -------
    Plant
        Flow over speed [-]

    Raises
    ------
    InputError
        A curve with a rising piece; a system the fan does not blow into.
    """
    if air.curve.stall_flow_m3_s > 0:
        raise InputError(
            "pressures_pa", list(air.curve.pressures_pa), "falling with flow",
            "where pressure rises with flow two flows belong to one speed, and no loop holds either",
        )  # fmt: skip
    fixed, k = air.system.fixed_pa, air.resistance * factor
    if fixed == 0:
        moved = replace(air.system, pressure_pa=air.system.pressure_pa * factor)
        return Plant(0.0, k, replace(air, system=moved).reached().flow_m3_s, 0.0, ())
    least = air.least_speed()
    if least >= 1:
        raise InputError(
            "fixed_pressure_pa",
            fixed,
            f"below {fixed / least**2:.4g} Pa",
            "no air: the fan does not overcome it",
        )
    full = _moved(air, factor).reached().flow_m3_s
    phi = np.linspace(0.0, full / air.parallel, _PLACES)
    left = air.fan_pa(phi * air.parallel) - k * (phi * air.parallel) ** 2
    speed = np.sqrt(fixed / np.maximum(left, 1e-300))
    even = np.linspace(least, 1.0, _PLACES)
    # Between places of φ the relation is smooth: straight pieces of 1/4096 are good to seven digits.
    flows = np.interp(even, speed, phi * speed * air.parallel)
    return Plant(fixed, k, 0.0, least, tuple(flows.tolist()))


def _moved(air: Air, factor: float) -> Air:
    system = air.system
    return replace(
        air, system=System(
            system.flow_m3_s, system.fixed_pa + (system.pressure_pa - system.fixed_pa) * factor, system.fixed_pa
        )
    )  # fmt: skip


def speed_for(air: Air, held: Held, set_point: float) -> float:
    """Share of full speed at which a set point is held.

    Parameters
    ----------
    air : Air
        Fan and system [-]
    held : Held
        What is held [-]
    set_point : float
        Speed, flow or system pressure [-|m³/s|Pa]

    Returns
    -------
    float
        Share [-]

    Raises
    ------
    InputError
        A set point the fan does not reach; the field is that of the set point.
    """
    name, unit = _SET[held]
    if held is Held.SPEED:
        return float(check_range(name, set_point, 0.0, 1.0, ""))
    check_range(name, set_point, 1e-9, 1e6, unit)
    at = plant(air)
    most_flow = at.flow_m3_s(1.0)
    most = most_flow if held is Held.FLOW else at.pressure_pa(1.0)
    flow = set_point
    if held is Held.PRESSURE:
        if set_point <= air.system.fixed_pa or air.resistance == 0:
            reason = "this pressure stands there without any flow"
            raise InputError(name, set_point, f"above {air.system.fixed_pa:g}, up to {most:.4g} Pa", reason)
        flow = air.system.flow_at_m3_s(set_point, air.density_kg_m3)
    if flow > most_flow * (1 + 1e-12):
        shown = f"up to {most:.4g} {unit}"
        raise InputError(name, set_point, shown, "more than the fan gives at full speed on this system")
    if at.per_speed:
        return flow / at.per_speed
    try:
        return min(1.0, air.speed_for_flow(flow))
    except InputError as error:
        raise InputError(name, set_point, error.allowed, error.reason) from None


_SET = {
    Held.SPEED: ("set_speed", ""),
    Held.FLOW: ("set_flow_m3_s", "m³/s"),
    Held.PRESSURE: ("set_pressure_pa", "Pa"),
}


# ---------------------------------------------------------------- the run


@dataclass(frozen=True, eq=False)
class LoopRun:
    """What a loop did, at its samples."""

    time_s: FloatArray
    speed: FloatArray
    """Share of full speed [-]"""
    command: FloatArray
    held: FloatArray
    """What is held, as it truly is [m³/s|Pa]"""
    sensed: FloatArray
    """As its sensor says [m³/s|Pa]"""
    set_point: float
    start_speed: float
    final_flow_m3_s: float
    final_pressure_pa: float
    final_speed: float
    peak_deviation: float
    """Signed, the largest by size after the last move of the damper, over the set point [-]"""
    overshoot: float
    """The largest of the other sign [-]"""
    settling_s: float | None
    """From that move until it stays within 2 %; None where it never does [s]"""
    saturated: bool
    hunting: bool


def loop_run(
    air: Air,
    held: Held,
    set_point: float,
    controller: Controller,
    damper: Damper,
    total_s: float = 120.0,
) -> LoopRun:
    """The loop from rest at its set point over a move of the damper.

    Parameters
    ----------
    air : Air
        Fan and system; the curve must fall [-]
    held : Held
        What is held [-]
    set_point : float
        Speed, flow or system pressure [-|m³/s|Pa]
    controller : Controller
        How it is set [-]
    damper : Damper
        What moves [-]
    total_s : float
        Length [s]

    Returns
    -------
    LoopRun
        Lines and figures [-]

    Raises
    ------
    InputError
        A set point out of reach, a rising curve, more samples than can be run.
    """
    check_range("total_s", total_s, 1e-3, 1e6, "s")
    count = math.floor(total_s / controller.sample_s + 1e-9) + 1
    if count > MOST_SAMPLES:
        raise InputError(
            "total_s", total_s, f"up to {MOST_SAMPLES * controller.sample_s:g} s", "too many samples"
        )
    start = speed_for(air, held, set_point)
    name, unit = _SET[held]
    if start < controller.least - 1e-12 and held is not Held.SPEED:
        least = plant(air)
        low = least.flow_m3_s(controller.least) if held is Held.FLOW else least.pressure_pa(controller.least)
        raise InputError(
            name, set_point, f"at least {low:.4g} {unit}", "its lowest command gives more than that"
        )
    lines = _run(air, held, set_point, start, controller, damper, total_s, count)
    return _judged(lines, held, set_point, start, controller, damper)


@dataclass(frozen=True, eq=False)
class _Lines:
    time_s: FloatArray
    speed: FloatArray
    command: FloatArray
    held: FloatArray
    sensed: FloatArray
    flow_m3_s: float
    pressure_pa: float


def _moves(damper: Damper) -> list[tuple[float, float]]:
    moves = [(damper.at_s, damper.factor)]
    if damper.back_at_s is not None:
        moves.append((damper.back_at_s, 1.0))
    return moves


def _run(
    air: Air, held: Held, set_point: float, start: float, c: Controller, damper: Damper, total_s: float, count: int
) -> _Lines:  # fmt: skip
    plants = {1.0: plant(air), damper.factor: plant(air, damper.factor)}
    now = plants[1.0]
    flows = held is not Held.PRESSURE
    seen: Callable[[float], float] = now.flow_m3_s if flows else now.pressure_pa
    span = air.free_m3_s() if flows else float(air.fan_pa(np.zeros(1))[0])
    loops = held is not Held.SPEED
    s, u, integral = start, start, start
    y = seen(s)
    sign = -1.0 if c.reversed else 1.0
    moves = _moves(damper)
    pending = 0
    rows = np.empty((5, count))
    rows[0] = np.arange(count) * c.sample_s
    still, last = 0, (math.inf, math.inf, math.inf)
    t = 0.0
    step = c.sample_s
    i = 0
    while i < count:
        at = i * step
        while pending < len(moves) and moves[pending][0] <= at + 1e-9:
            s, y = _advance(seen, s, y, u, moves[pending][0] - t, c)
            t = max(t, moves[pending][0])
            now = plants[moves[pending][1]]
            seen = now.flow_m3_s if flows else now.pressure_pa
            pending += 1
            still = 0
        s, y = _advance(seen, s, y, u, at - t, c)
        t = at
        if loops:
            e = sign * (set_point - y) / span
            v = c.gain_kp * e + integral
            u = min(1.0, max(c.least, v))
            pushed = (v > 1.0 and e > 0) or (v < c.least and e < 0)
            if not (c.clamped and pushed):
                integral += c.gain_kp * step / c.integral_s * e
        rows[1:, i] = (s, u, seen(s), y)
        quiet = abs(s - last[0]) <= _STILL and abs(integral - last[2]) <= _STILL
        still = still + 1 if quiet and abs(y - last[1]) <= _STILL * span else 0
        last = (s, y, integral)
        i += 1
        if still >= _STILL_SAMPLES:
            until = moves[pending][0] if pending < len(moves) else math.inf
            stop = min(count, math.ceil(until / step - 1e-9) if math.isfinite(until) else count)
            if stop > i:
                rows[1:, i:stop] = rows[1:, i - 1 : i]
                t = (stop - 1) * step
                i = stop
            still = 0
    return _Lines(rows[0], rows[1], rows[2], rows[3], rows[4], now.flow_m3_s(s), now.pressure_pa(s))


def _advance(
    seen: Callable[[float], float], s: float, y: float, u: float, length: float, c: Controller
) -> tuple[float, float]:
    """Speed and sensor after a time in which the command stands still."""
    if length <= 0:
        return s, y
    tau, ramp, sensor = c.fan_lag_s, c.ramp_per_s, c.sensor_lag_s
    off = u - s
    if abs(off) > ramp * tau:
        way = math.copysign(ramp, off)
        ramped = min(length, (abs(off) - ramp * tau) / ramp)
        begun, s = s, s + way * ramped
        if sensor == 0:
            y = seen(s)
        else:
            decay, weights, rest = _kernel(ramped, sensor)
            y = y * decay + rest * seen(s)
            for place, weight in zip(_AT, weights, strict=True):
                y += weight * seen(begun + way * place * ramped)
        length -= ramped
        off = u - s
    if length <= 0:
        return s, y
    if off == 0.0 or tau == 0.0:
        x = seen(u)
        return u, x if sensor == 0 else x + (y - x) * math.exp(-length / sensor)
    if sensor == 0:
        s = u - off * math.exp(-length / tau)
        return s, seen(s)
    # A long piece of an exponential is cut, so that four points of quadrature are enough.
    pieces = max(1, math.ceil(length / (2.0 * min(tau, sensor))))
    decay, weights, rest = _kernel(length / pieces, sensor)
    fades, faded = _fades(length / pieces, tau)
    for _ in range(pieces):
        y *= decay
        for fade, weight in zip(fades, weights, strict=True):
            y += weight * seen(u - off * fade)
        off *= faded
        y += rest * seen(u - off)
    return u - off, y


@lru_cache(maxsize=4096)
def _kernel(length: float, lag: float) -> tuple[float, tuple[float, ...], float]:
    """What is left of a lagging value, weights of what it sees meanwhile, and what they miss of a constant."""
    share = length / lag
    weights = tuple(weight * share * math.exp(-(1 - place) * share) for place, weight in _GAUSS)
    return math.exp(-share), weights, -math.expm1(-share) - sum(weights)


@lru_cache(maxsize=4096)
def _fades(length: float, lag: float) -> tuple[tuple[float, ...], float]:
    """What is left of a gap at the places of quadrature, and at the end."""
    return tuple(math.exp(-place * length / lag) for place in _AT), math.exp(-length / lag)


def _judged(
    lines: _Lines, held: Held, set_point: float, start: float, c: Controller, damper: Damper
) -> LoopRun:
    goal = float(lines.held[-1]) if held is Held.SPEED else set_point
    moved = (
        damper.back_at_s
        if damper.back_at_s is not None and damper.back_at_s <= lines.time_s[-1]
        else damper.at_s
    )
    after = lines.time_s >= moved - 1e-9
    off = (lines.held[after] - goal) / goal if goal else np.zeros(int(after.sum()))
    times = lines.time_s[after]
    peak = overshoot = 0.0
    settling: float | None = 0.0
    if len(off):
        peak = float(off[int(np.argmax(np.abs(off)))])
        other = -off * math.copysign(1.0, peak)
        overshoot = max(0.0, float(other.max()))
        wide = np.flatnonzero(np.abs(off) > _NEAR)
        if len(wide):
            settling = None if wide[-1] == len(off) - 1 else float(times[wide[-1] + 1] - moved)
    loops = held is not Held.SPEED
    saturated = loops and float(lines.command[-1]) >= 1.0 and abs(float(lines.held[-1]) - goal) > 1e-4 * goal
    return LoopRun(
        lines.time_s, lines.speed, lines.command, lines.held, lines.sensed, goal, start, lines.flow_m3_s,
        lines.pressure_pa, float(lines.speed[-1]), peak, overshoot, settling, saturated, loops and is_hunting(off),
    )  # fmt: skip


def is_hunting(deviation: FloatArray) -> bool:
    """Whether deviations from a set point, over it, swing on without dying away [- → -]"""
    kept = deviation[np.abs(deviation) > 0.01]
    if not len(kept):
        return False
    cuts = np.flatnonzero(np.diff(np.sign(kept)) != 0) + 1
    peaks = [float(np.abs(run).max()) for run in np.split(kept, cuts)][1:-1]
    return len(peaks) >= 6 and sum(peaks[-2:]) >= 0.7 * sum(peaks[-4:-2])


# ---------------------------------------------------------------- tuning


@dataclass(frozen=True)
class Tuned:
    """What a step test tells of a loop."""

    process_gain: float
    """Share of the span for each unit of command [-]"""
    time_s: float
    delay_s: float
    gain_kp: float
    integral_s: float


TESTED_S = 120.0
"""How long a step is watched [s]"""


def tuned(time_s: FloatArray, sensed: FloatArray, span: float, command_step: float) -> Tuned:
    """Gain and integral time from a step of the command and what the sensor said.

    Parameters
    ----------
    time_s : array
        From the step on, rising [s]
    sensed : array
        Likewise: flow or pressure [m³/s|Pa]
    span : float
        Full span of it [m³/s|Pa]
    command_step : float
        By how much the command was moved [-]

    Returns
    -------
    Tuned
        The process as gain, lag and delay, and what the controller should be set to [-]

    Raises
    ------
    InputError
        Times that run backwards, too few of them, an answer of nothing or to the wrong side.
    """
    times, y = np.asarray(time_s, float), np.asarray(sensed, float)
    if len(times) < 5 or len(times) != len(y):
        raise InputError("time_s", len(times), "five and more", "a step test needs more samples")
    if not np.isfinite(times).all() or not np.isfinite(y).all():
        raise InputError("time_s", "not a number", "numbers", "a value is missing")
    if (np.diff(times) <= 0).any():
        i = int(np.flatnonzero(np.diff(times) <= 0)[0])
        raise InputError("time_s", float(times[i + 1]), f"after {times[i]:g} s", "time runs backwards here")
    check_range("span", span, 1e-12, 1e9, "")
    if command_step == 0 or not math.isfinite(command_step):
        raise InputError("command_step", command_step, "not 0", "the command did not move")
    change = y - y[0]
    end = float(np.mean(change[times >= times[0] + 0.95 * (times[-1] - times[0])]))
    gain = end / span / command_step
    if abs(end) < 0.002 * span:
        raise InputError(
            "sensed", end, "a change", "nothing followed the step: is the sensor connected, the fan enabled?"
        )
    if gain < 0:
        raise InputError(
            "sensed", end, "a change to the same side",
            "it falls when the command rises: the sensor is the wrong way round; such a loop cannot be stable",
        )  # fmt: skip
    share = change / end
    t28, t63 = (_first_at(times, share, level) - float(times[0]) for level in (0.283, 0.632))
    lag = 1.5 * (t63 - t28)
    if lag <= 0:
        raise InputError(
            "time_s", float(times[1] - times[0]), "closer samples", "the answer came between two samples"
        )
    delay = max(0.0, t63 - lag)
    soft = max(lag, 3 * delay)
    return Tuned(gain, lag, delay, lag / (gain * (soft + delay)), lag)


def _first_at(times: FloatArray, share: FloatArray, level: float) -> float:
    i = int(np.flatnonzero(share >= level)[0])
    if i == 0:
        return float(times[0])
    part = (level - share[i - 1]) / (share[i] - share[i - 1])
    return float(times[i - 1] + part * (times[i] - times[i - 1]))


def step_test(
    air: Air, held: Held, controller: Controller, low: float = 0.6, high: float = 0.7
) -> tuple[FloatArray, FloatArray, float]:
    """What a sensor says when the command of a settled fan is stepped: times, values, and the span of them.

    Parameters
    ----------
    air : Air
        Fan and system [-]
    held : Held
        Flow or pressure [-]
    controller : Controller
        Lags, ramp and sample time of it [-]
    low : float
        Command before [-]
    high : float
        Command after [-]

    Returns
    -------
    tuple of array, array and float
        Over 120 s [s, m³/s|Pa, m³/s|Pa]

    Raises
    ------
    InputError
        A rising curve, no air.
    """
    at = plant(air)
    flows = held is not Held.PRESSURE
    seen = at.flow_m3_s if flows else at.pressure_pa
    span = air.free_m3_s() if flows else float(air.fan_pa(np.zeros(1))[0])
    times = np.arange(0.0, TESTED_S + 1e-9, controller.sample_s)
    s, y = low, seen(low)
    rows = [y]
    for _ in times[1:]:
        s, y = _advance(seen, s, y, high, controller.sample_s, controller)
        rows.append(y)
    return times, np.array(rows), span


# ---------------------------------------------------------------- stability


@dataclass(frozen=True)
class Margin:
    """How far a loop is from swinging on its own, for small moves about its set point."""

    largest: float
    """Size of the largest eigenvalue of one sample; from 1 on it never settles [-]"""
    critical_gain: float
    """Gain from which on it swings on, other things alike [-]"""

    @property
    def stable(self) -> bool:
        """Whether it settles at all [-]"""
        return self.largest < 1


def margin(air: Air, held: Held, set_point: float, controller: Controller, factor: float = 1.0) -> Margin:
    """The loop for small moves about its set point, exact between samples.

    Parameters
    ----------
    air : Air
        Fan and system [-]
    held : Held
        Flow or pressure [-]
    set_point : float
        Of it [m³/s|Pa]
    controller : Controller
        How it is set [-]
    factor : float
        Where the damper stands [-]

    Returns
    -------
    Margin
        With the gain at which it would swing [-]

    Raises
    ------
    InputError
        As `speed_for`.
    """
    moved = _moved(air, factor)
    s = speed_for(moved, held, set_point)
    at = plant(air, factor)
    flows = held is not Held.PRESSURE
    seen = at.flow_m3_s if flows else at.pressure_pa
    span = air.free_m3_s() if flows else float(air.fan_pa(np.zeros(1))[0])
    step = 1e-4
    below, above = max(0.0, s - step), min(1.0, s + step)
    slope = (seen(above) - seen(below)) / (above - below) / span
    if controller.reversed:
        slope = -slope

    def largest(gain: float) -> float:
        return float(np.abs(np.linalg.eigvals(_one_sample(slope, controller, gain))).max())

    low, high = 1e-4, 1e4
    if largest(high) < 1:
        critical = math.inf
    elif largest(low) >= 1:
        critical = 0.0
    else:
        for _ in range(60):
            middle = math.sqrt(low * high)
            low, high = (middle, high) if largest(middle) < 1 else (low, middle)
        critical = low
    return Margin(largest(controller.gain_kp), critical)


def _one_sample(slope: float, c: Controller, gain: float) -> FloatArray:
    """Speed, sensor and integral from one sample to the next, as shares."""
    h = c.sample_s
    a = math.exp(-h / c.fan_lag_s) if c.fan_lag_s else 0.0
    b = math.exp(-h / c.sensor_lag_s) if c.sensor_lag_s else 0.0
    if c.sensor_lag_s == 0 or c.fan_lag_s == 0:
        mixed = 0.0
    elif abs(c.fan_lag_s - c.sensor_lag_s) < 1e-9 * c.fan_lag_s:
        mixed = h / c.sensor_lag_s * a
    else:
        mixed = c.fan_lag_s / (c.fan_lag_s - c.sensor_lag_s) * (a - b)
    # u = I − K y; then I −= K h/T_i y. Speed and sensor run on with u, y after the step from s and u exactly.
    if c.sensor_lag_s == 0:
        # The sensor is the air itself: y = slope · s.
        to_s, to_y = np.array([a, 0.0, 0.0]), np.array([a * slope, 0.0, 0.0])
        by_u_s, by_u_y = 1 - a, slope * (1 - a)
    else:
        to_s, to_y = np.array([a, 0.0, 0.0]), np.array([slope * mixed, b, 0.0])
        by_u_s, by_u_y = 1 - a, slope * (1 - b - mixed)
    u = np.array([0.0, -gain, 1.0])
    i = np.array([0.0, -gain * h / c.integral_s, 1.0])
    return np.array([to_s + by_u_s * u, to_y + by_u_y * u, i])
