"""A scope capture of a chopped wave: true rms, frequency, firing and extinction angle, symmetry, each with its doubt.

With the supply on a second channel the triac's own volts tell when it conducts. Without it the two jumps in every
half-cycle are looked for, and a sine is laid through the higher of the two pieces between them: that is the supply.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]

LEAST_SAMPLES, MOST_SAMPLES = 200, 2_000_000
FORM_FACTOR = np.pi / (2 * np.sqrt(2))
"""Of a sine: by which an average-responding meter multiplies [-]"""
_JUMP = 0.10
"""A jump is at least this much of the highest volts [-]"""
_SHORTEST_DEG = 10.0
_CLOSED = 0.025
"""The triac conducts while its own volts stay below this share of the crest, or below the noise [-]"""


@dataclass(frozen=True)
class Angle:
    """An angle over all half-cycles of a capture."""

    deg: float
    spread_deg: float
    """Standard deviation from half-cycle to half-cycle, or half a sample, whichever is more [°]"""


@dataclass(frozen=True)
class Capture:
    """What was read from a capture."""

    frequency_hz: float
    frequency_sigma_hz: float
    rms_v: float
    """True rms over whole periods [V]"""
    average_meter_v: float
    """What an average-responding meter would show [V]"""
    mean_v: float
    """Direct volts [V]"""
    firing: Angle | None
    """None where no firing is seen: full conduction, or none [-]"""
    extinction: Angle | None
    asymmetry_deg: float
    """Firing of the positive half-cycles less that of the negative ones [°]"""
    missing_share: float
    """Of the half-cycles in which nothing fires [-]"""
    supply_rms_v: float
    """Of the supply, read or laid through the conducting parts [V]"""
    sample_deg: float
    half_cycles: int
    words: tuple[str, ...]
    phase_rad: float
    """Of the supply at time zero: its rising zeros are where 2π f t and this make a whole turn [rad]"""


def read_capture(time_s: FloatArray, motor_v: FloatArray, supply_v: FloatArray | None = None) -> Capture:
    """Read a chopped wave.

    Parameters
    ----------
    time_s : array
        Rising times, evenly spread, shape (n,) [s]
    motor_v : array
        Volts across the motor, shape (n,) [V]
    supply_v : array or None
        Volts of the supply at the same times [V]

    Returns
    -------
    Capture
        Values with their spread [-]

    Raises
    ------
    InputError
        Too few samples, uneven times, less than two periods, or no wave at all.
    """
    t, v = checked(time_s, motor_v)
    crest = float(np.abs(v).max())
    if crest < 1e-3:
        raise InputError("volts", crest, "a wave", "there is nothing in this capture but zero")
    jumps = _jumps(v, crest)
    if supply_v is not None:
        _, u = checked(time_s, supply_v)
        omega, phase, height, sigma = _sine(t, u, _guess_hz(t, u))
        across = u - v
        noise = float(np.median(np.abs(np.diff(across)))) / (0.6745 * np.sqrt(2))
        closed = np.abs(across) < max(_CLOSED * height, 4 * noise)
    else:
        hz = _period_hz(t, v, jumps)
        closed = _between(v, jumps)
        omega, phase, height, sigma = (
            _sine(t[closed], v[closed], hz) if closed.sum() > 20 else _sine(t, v, hz)
        )
    periods = (t[-1] - t[0]) * omega / (2 * np.pi)
    if periods < 1.9:
        raise InputError(
            "time", float(t[-1] - t[0]), "two periods of the mains or more", "the capture is too short"
        )
    theta = omega * t + phase
    # Whole periods only, so that the mean is not of a cut wave.
    whole = (t - t[0]) * omega < 2 * np.pi * np.floor(periods + 1e-6)
    sample = float(np.degrees(omega * (t[1] - t[0])))
    firing, extinction, asymmetry, missing, count = _angles(
        theta, _tidy(closed, round(_SHORTEST_DEG / sample))
    )
    words = []
    mean = float(v[whole].mean())
    if missing > 0.05:
        words.append(
            f"{missing:.0%} of the half-cycles do not fire: direct current in the motor, hum and heat"
        )
    if abs(asymmetry) > max(2.0, 3 * sample):
        words.append(
            f"the halves fire {abs(asymmetry):.1f}° apart: a worn diac, or a gate that differs by quadrant"
        )
    if abs(mean) > 0.02 * height:
        words.append(
            f"{q.signed(mean, 1)} V of direct volts: check for a half that is missing, and the scope's own offset"
        )
    if firing is None:
        words.append("no firing is seen: it conducts all the way, or not at all")
    rms = float(np.sqrt(np.mean(v[whole] ** 2)))
    return Capture(
        omega / (2 * np.pi), sigma / (2 * np.pi), rms, float(FORM_FACTOR * np.abs(v[whole]).mean()), mean,
        _angle(firing, sample), _angle(extinction, sample), asymmetry, missing, float(height / np.sqrt(2)), sample, count,
        tuple(words), phase,
    )  # fmt: skip


def checked(time_s: FloatArray, volts: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Samples as arrays of floats.

    Parameters
    ----------
    time_s : array
        Rising times, evenly spread, shape (n,) [s]
    volts : array
        At them, shape (n,) [V]

    Returns
    -------
    tuple of array
        Both [s, V]

    Raises
    ------
    InputError
        Too few samples or too many, gaps, uneven times, or volts that cannot be.
    """
    t, v = np.asarray(time_s, dtype=np.float64), np.asarray(volts, dtype=np.float64)
    if t.ndim != 1 or t.shape != v.shape or not LEAST_SAMPLES <= len(t) <= MOST_SAMPLES:
        raise InputError(
            "samples", len(np.atleast_1d(t)), f"{LEAST_SAMPLES} to {MOST_SAMPLES}, as many volts as times",
            "so few or so uneven samples tell nothing",
        )  # fmt: skip
    if not (np.isfinite(t).all() and np.isfinite(v).all()):
        raise InputError("samples", "gaps", "numbers throughout", "there are gaps in the capture")
    check_range("volts", float(np.abs(v).max()), 0.0, 5000.0, "V")
    steps = np.diff(t)
    if steps.min() <= 0 or steps.max() > 1.5 * steps.min() + 1e-12:
        raise InputError("time", float(steps.min()), "rising, evenly spread times", "the times are not even")
    return t, v


def _jumps(v: FloatArray, crest: float) -> NDArray[np.int64]:
    """Samples after which the volts jump; neighbours count once."""
    found = np.flatnonzero(np.abs(np.diff(v)) > _JUMP * crest)
    if not len(found):
        return found
    return np.asarray(found[np.concatenate([[True], np.diff(found) > 2])], dtype=np.int64)


def _guess_hz(t: FloatArray, v: FloatArray) -> float:
    """Frequency from the crossings of the mean, of which the outermost are far apart."""
    # With a dead zone, so that noise near zero does not count.
    centred = v - np.median(v)
    far = 0.25 * float(np.percentile(np.abs(centred), 98))
    side = np.where(centred > far, 1, np.where(centred < -far, -1, 0))
    marked = np.flatnonzero(side)
    rises = marked[1:][(side[marked[1:]] == 1) & (side[marked[:-1]] == -1)]
    if len(rises) < 2:
        raise InputError("time", float(t[-1] - t[0]), "two periods of the mains or more", "no period is seen")
    return float((len(rises) - 1) / (t[rises[-1]] - t[rises[0]]))


def _period_hz(t: FloatArray, v: FloatArray, jumps: NDArray[np.int64]) -> float:
    """Frequency from the repeats of jumps of one sign and size; from the crossings where there are none."""
    steps = np.diff(v)[jumps] if len(jumps) else np.empty(0)
    if len(steps):
        largest = jumps[(steps > 0) & (steps > 0.7 * steps.max())]
        if len(largest) >= 2:
            gaps = np.diff(t[largest])
            hz = float(1 / np.median(gaps))
            if 10 < hz < 1000:
                return hz
    return _guess_hz(t, v)


def _between(v: FloatArray, jumps: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Samples between a jump away from zero and the next jump: there the motor has the supply."""
    closed = np.zeros(len(v), dtype=bool)
    if len(jumps) < 2:
        return np.ones(len(v), dtype=bool)
    edges = [*jumps.tolist(), len(v) - 1]
    highest = np.array([np.abs(v[a + 1 : b + 1]).max(initial=0.0) for a, b in pairwise(edges)])
    if len(highest) < 2:
        return np.ones(len(v), dtype=bool)
    # Fed from the supply it reaches higher than the motor's own volts do in the open time.
    limit = 0.5 * float(np.median(highest[::2]) + np.median(highest[1::2]))
    for (a, b), most in zip(pairwise(edges), highest, strict=True):
        if most > limit:
            closed[a + 1 : b + 1] = True
    return closed


def _tidy(closed: NDArray[np.bool_], least: int) -> NDArray[np.bool_]:
    """Without the pieces too short to be meant: where two waves just cross, or where noise opens a gap."""
    for wanted in (False, True):
        edges = np.flatnonzero(np.diff(closed)) + 1
        for a, b in pairwise([0, *edges.tolist(), len(closed)]):
            if b - a < least and closed[a] != wanted and a > 0 and b < len(closed):
                closed = closed.copy()
                closed[a:b] = wanted
    return closed


def _sine(t: FloatArray, v: FloatArray, hz: float) -> tuple[float, float, float, float]:
    """ω, phase, height and the standard uncertainty of ω of a sine through samples, slips weighed down."""
    omega = 2 * np.pi * hz
    middle = float(t.mean())
    basis = np.column_stack([np.sin(omega * (t - middle)), np.cos(omega * (t - middle))])
    a, b = np.linalg.lstsq(basis, v, rcond=None)[0]
    scale = max(float(np.hypot(a, b)), 1e-6)

    def miss(p: FloatArray) -> FloatArray:
        w = omega * (1 + p[2])
        return np.asarray((p[0] * np.sin(w * (t - middle)) + p[1] * np.cos(w * (t - middle)) - v) / scale)

    found = least_squares(miss, [a, b, 0.0], loss="soft_l1", f_scale=0.02, x_scale=[scale, scale, 1e-3])
    a, b, shift = found.x.tolist()
    w = omega * (1 + shift)
    freedom = max(len(t) - 3, 1)
    covariance = np.linalg.pinv(found.jac.T @ found.jac) * float((found.fun**2).sum()) / freedom
    return (
        float(w),
        float(np.arctan2(b, a) - w * middle),
        float(np.hypot(a, b)),
        float(omega * np.sqrt(covariance[2, 2])),
    )


def _angles(
    theta: FloatArray, closed: NDArray[np.bool_]
) -> tuple[list[float] | None, list[float] | None, float, float, int]:
    """Firing and extinction of every whole half-cycle, how far its halves are apart, and how many do not fire."""
    first, last = int(np.ceil(theta[0] / np.pi)), int(np.floor(theta[-1] / np.pi))
    starts = np.flatnonzero(~closed[:-1] & closed[1:])
    stops = np.flatnonzero(closed[:-1] & ~closed[1:])
    at, until = 0.5 * (theta[starts] + theta[starts + 1]), 0.5 * (theta[stops] + theta[stops + 1])
    firing: list[float] = []
    ends: list[float] = []
    by_half: tuple[list[float], list[float]] = ([], [])
    missing = count = 0
    for half in range(first, last):
        zero = half * np.pi
        mine = at[(at >= zero + 0.02) & (at < zero + np.pi)]
        count += 1
        if not len(mine):
            missing += 1
            continue
        # The last one counts: ringing at the extinction before looks like a short closing.
        alpha = float(mine[-1])
        firing.append(alpha - zero)
        by_half[half % 2].append(alpha - zero)
        after = until[until > alpha]
        if len(after) and after[0] < zero + 2 * np.pi:
            ends.append(float(after[0]) - zero)
    if not firing:
        return None, None, 0.0, 0.0 if closed.mean() > 0.9 else 1.0, count
    halves = [np.mean(h) if h else None for h in by_half]
    apart = 0.0 if halves[0] is None or halves[1] is None else float(np.degrees(halves[0] - halves[1]))
    return firing, ends or None, apart, missing / max(count, 1), count


def _angle(values: list[float] | None, sample_deg: float) -> Angle | None:
    if not values:
        return None
    return Angle(float(np.degrees(np.mean(values))), max(float(np.degrees(np.std(values))), sample_deg / 2))
