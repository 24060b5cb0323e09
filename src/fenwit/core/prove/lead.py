"""A scope's capture of a control lead: frequency, duty, levels, edges, and the tachometer beside it, each with its doubt.

Everything is read at half the height between the two levels. Edges are found with a dead zone, so that ringing and noise
count once, and laid between two samples by a straight line.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.motor.tachometer import Tach
from fenwit.core.prove.capture import checked
from fenwit.core.prove.scope import Found

FloatArray = NDArray[np.float64]
_DEAD = 0.15
"""An edge counts once it is this share of the height beyond the middle [-]"""
_LEAST_SWING_V = 0.3
"""Less between the levels is no signal [V]"""
_OVER = 0.15
"""Ringing beyond a level, over the height, that is told [-]"""
_RISES = 200
"""So many edges are looked at for the rise"""
_UNEVEN = 0.03
"""Spread of the periods, over their mean, that is told [-]"""


@dataclass(frozen=True)
class LeadCapture:
    """What was read from a capture of a control lead."""

    frequency_hz: float | None
    """None where it stands at one level [Hz]"""
    frequency_doubt_hz: float
    duty: float | None
    """Share of the time above half height; None where it stands [-]"""
    duty_doubt: float
    low_v: float
    high_v: float
    """Levels; both the same where it stands [V]"""
    rise_s: float | None
    """From a tenth to nine tenths of the height [s]"""
    sample_s: float
    periods: int
    tach_hz: float | None
    """Of the tachometer, where it was captured and turned [Hz]"""
    tach_doubt_hz: float
    words: tuple[str, ...]


def read_lead(time_s: FloatArray, lead_v: FloatArray, tach_v: FloatArray | None = None) -> LeadCapture:
    """Read a capture of a control lead.

    Parameters
    ----------
    time_s : array
        Rising times, evenly spread, shape (n,) [s]
    lead_v : array
        Volts of the lead against the fan's ground, shape (n,) [V]
    tach_v : array or None
        Volts of the tachometer at the same times [V]

    Returns
    -------
    LeadCapture
        Values with their doubt: the spread over the periods, or a share of a sample, whichever is more [-]

    Raises
    ------
    InputError
        Too few samples, uneven times, or fewer than two periods.
    """
    t, v = checked(time_s, lead_v)
    sample = float(t[1] - t[0])
    low, high = _levels(v)
    tach_hz, tach_doubt, said = (None, 0.0, "") if tach_v is None else _turns(*checked(time_s, tach_v))
    words = [said] if said else []
    if high - low < _LEAST_SWING_V:
        level = float(np.median(v))
        words.insert(
            0, f"the lead stands at {level:.2f} V: nothing drives it, or it is on or off all the time"
        )
        return LeadCapture(
            None, 0.0, None, 0.0, level, level, None, sample, 0, tach_hz, tach_doubt, tuple(words)
        )
    up, down = _crossings(t, v, low, high)
    if len(up) < 3:
        raise InputError(
            "time", float(t[-1] - t[0]), "two periods of the signal or more", "the capture is too short"
        )
    period = np.diff(up)
    falls = down[np.searchsorted(down, up[:-1], side="right").clip(max=len(down) - 1)]
    duties = (falls - up[:-1]) / period
    mean = float(period.mean())
    # Noise and time steps move an edge by less than a third of a sample.
    edge = sample / 3
    count = len(period)
    rise = _rise(t, v, low, high, up)
    height = high - low
    if float(np.std(period)) > _UNEVEN * mean:
        words.append(
            f"periods differ by {100 * float(np.std(period)) / mean:.0f} %: a timer that jitters, or noise"
        )
    if (
        float(np.percentile(v, 99.5)) > high + _OVER * height
        or float(np.percentile(v, 0.5)) < low - _OVER * height
    ):
        words.append("edges ring far beyond the levels: ground the probe at the fan's own plug")
    if rise is not None and rise > 0.1 * mean:
        words.append("the rise takes more than a tenth of the period: a stiffer pull-up, or less cable")
    if sample > 0.01 * mean:
        words.append("fewer than a hundred samples a period: the duty is coarse")
    return LeadCapture(
        1 / mean,
        float(max(np.std(period) / np.sqrt(count), edge / count) / mean**2),
        float(duties.mean()),
        float(max(np.std(duties) / np.sqrt(count), edge / mean)),
        low, high, rise, sample, count, tach_hz, tach_doubt, tuple(words),
    )  # fmt: skip


def faster_first(time_s: FloatArray, one: FloatArray, other: FloatArray) -> bool:
    """Whether of two channels the first has more edges: it is the lead then, and the other the tachometer.

    Parameters
    ----------
    time_s : array
        Rising times [s]
    one : array
        Volts of the first channel at them [V]
    other : array
        Volts of the second [V]

    Returns
    -------
    bool
        True also where both have as many [-]
    """
    counts = [len(_crossings(time_s, v, *_levels(v))[0]) for v in (one, other)]
    return counts[0] >= counts[1]


def _levels(v: FloatArray) -> tuple[float, float]:
    """The two levels: middles of what lies well below and well above half height."""
    low, high = (float(p) for p in np.percentile(v, [0.5, 99.5]))
    below, above = v[v < low + 0.25 * (high - low)], v[v > high - 0.25 * (high - low)]
    if high - low < 1e-9 or not len(below) or not len(above):
        return low, high
    return float(np.median(below)), float(np.median(above))


def _crossings(t: FloatArray, v: FloatArray, low: float, high: float) -> tuple[FloatArray, FloatArray]:
    """Times at which the volts rise and fall through half height."""
    middle, dead = (low + high) / 2, _DEAD * (high - low)
    side = np.where(v > middle + dead, 1, np.where(v < middle - dead, -1, 0))
    marked = np.flatnonzero(side)
    if len(marked) < 2:
        return np.empty(0), np.empty(0)
    change = np.flatnonzero(np.diff(side[marked]))
    end = marked[change + 1]
    rising = side[end] > 0
    # Where it passes the middle last before it is beyond it: a straight line from the sample before.
    over = v > middle
    passes = np.flatnonzero(over[1:] != over[:-1])
    i = passes[np.searchsorted(passes, end) - 1]
    crossed = t[i] + (middle - v[i]) / (v[i + 1] - v[i]) * (t[i + 1] - t[i])
    return crossed[rising], crossed[~rising]


def _rise(t: FloatArray, v: FloatArray, low: float, high: float, up: FloatArray) -> float | None:
    """Middle of the times from a tenth to nine tenths; None where no rise is whole."""
    tenth, nine = low + 0.1 * (high - low), low + 0.9 * (high - low)
    found = []
    reach = int((up[1] - up[0]) / (t[1] - t[0])) + 1
    for at in up[:_RISES].tolist():
        i = int(np.searchsorted(t, at))
        first = max(0, i - reach)
        before = np.flatnonzero(v[first:i] <= tenth)
        after = np.flatnonzero(v[i : i + reach] >= nine)
        if not len(before) or not len(after):
            continue
        a, b = first + int(before[-1]), i + int(after[0])
        start = t[a] + (tenth - v[a]) / max(v[a + 1] - v[a], 1e-12) * (t[a + 1] - t[a])
        end = t[b - 1] + (nine - v[b - 1]) / max(v[b] - v[b - 1], 1e-12) * (t[b] - t[b - 1])
        found.append(max(0.0, float(end - start)))
    return float(np.median(found)) if found else None


def _turns(t: FloatArray, v: FloatArray) -> tuple[float | None, float, str]:
    """Frequency of a tachometer with its doubt, or why there is none."""
    low, high = _levels(v)
    if high - low < _LEAST_SWING_V:
        return None, 0.0, "the tachometer stands: no pull-up, or a fan that stands"
    _, falls = _crossings(t, v, low, high)
    if len(falls) < 3:
        return None, 0.0, "fewer than two pulses of the tachometer: capture longer for the speed"
    period = np.diff(falls)
    mean, count = float(period.mean()), len(period)
    doubt = max(float(np.std(period)) / np.sqrt(count), (float(t[1] - t[0])) / 3 / count) / mean**2
    return 1 / mean, float(doubt), ""


@dataclass(frozen=True)
class LeadShown:
    """A capture of a control lead as it is drawn: a few periods, and what was read from all of them."""

    time_us: tuple[float, ...]
    lead_v: tuple[float, ...]
    low_v: float
    high_v: float
    found: tuple[Found, ...]
    words: tuple[str, ...]


def show_lead(
    time_s: FloatArray, lead_v: FloatArray, tach_v: FloatArray | None = None, pulses_per_rev: float = 2.0
) -> LeadShown:
    """Read a capture of a control lead and cut two periods out of it to draw.

    Parameters
    ----------
    time_s : array
        Rising times [s]
    lead_v : array
        Volts of the lead at them [V]
    tach_v : array or None
        Volts of the tachometer [V]
    pulses_per_rev : float
        Of the tachometer [-]

    Returns
    -------
    LeadShown
        Two periods from shortly before a rise, and the values [-]

    Raises
    ------
    InputError
        As `read_lead`; pulses that cannot be.
    """
    read = read_lead(time_s, lead_v, tach_v)
    tach = Tach(pulses_per_rev)
    length = len(time_s)
    first, last = 0, length
    if read.frequency_hz is not None:
        up, _ = _crossings(time_s, lead_v, read.low_v, read.high_v)
        start = float(up[0]) - 0.15 / read.frequency_hz
        first = int(np.searchsorted(time_s, start))
        last = int(np.searchsorted(time_s, start + _DRAWN / read.frequency_hz))
    every = slice(first, last, 1 + (last - first) // _MOST_POINTS)
    return LeadShown(
        tuple(float(f"{1e6 * (x - time_s[first]):.5g}") for x in time_s[every]),
        tuple(float(f"{x:.4g}") for x in lead_v[every]),
        read.low_v, read.high_v, _found(read, tach), read.words,
    )  # fmt: skip


_TIME_BASE = 5e-4
"""What a scope's own clock is trusted to [-]"""
_DRAWN, _MOST_POINTS = 2.3, 480


def _found(read: LeadCapture, tach: Tach) -> tuple[Found, ...]:
    found = []
    if read.frequency_hz is not None and read.duty is not None:
        hertz, doubt = read.frequency_hz, max(read.frequency_doubt_hz, _TIME_BASE * read.frequency_hz)
        found += [
            Found("lead_hz", "frequency", hertz, q.with_uncertainty(hertz / 1e3, doubt / 1e3, "kHz")),
            Found("lead_duty", "duty at half height", 100 * read.duty,
                  q.with_uncertainty(100 * read.duty, max(100 * read.duty_doubt, 0.05), "%")),
            Found("lead_low_v", "low level", max(0.0, read.low_v), f"{q.signed(read.low_v, 2).lstrip('+')} V"),
            Found("lead_high_v", "high level", read.high_v, f"{read.high_v:.2f} V"),
        ]  # fmt: skip
        if read.rise_s is not None:
            fine = read.rise_s > 2 * read.sample_s
            text = (
                f"{q.plain(1e6 * read.rise_s, 2)} µs"
                if fine
                else f"under {q.plain(2e6 * read.sample_s, 2)} µs"
            )
            found.append(Found("lead_rise_us", "rise, 10 to 90 %", 1e6 * read.rise_s, text))
    if read.tach_hz is not None:
        rpm = float(tach.speed_rpm(read.tach_hz))
        spread = max(float(tach.speed_rpm(read.tach_doubt_hz)), 0.05)
        found.append(
            Found("speed_rpm", "speed by its tachometer", rpm, q.with_uncertainty(rpm, spread, "rpm"))
        )
    return tuple(found)
