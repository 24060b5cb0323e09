"""Frequencies that a control lead is read right at: three duties at each, held against 25 kHz (docs/duty.md)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range
from fenwit.core.regulator.control_lead import NOMINAL_HZ, SWEEP_DUTY, SWEEP_HZ, SWEEP_NEAR

FloatArray = NDArray[np.float64]
_SAME = 0.03
"""A frequency or a duty this near to one of the sweep's counts as it [-]"""


class SweepVerdict(StrEnum):
    """What a sweep says of a frequency."""

    GOOD = "good"
    OFF = "off"
    UNREAD = "unread"
    """Not all of its duties are read, or there is nothing yet to hold it against"""


@dataclass(frozen=True)
class SweepRow:
    """One frequency of a sweep."""

    frequency_hz: float
    speeds_rpm: tuple[float | None, ...]
    """At each duty of the sweep; None: not read [rpm]"""
    verdict: SweepVerdict
    off_share: float | None = None
    """Largest distance from the reference, over its speed; None where it cannot be told [-]"""


@dataclass(frozen=True)
class Sweep:
    """Speeds over frequency, and what they are held against."""

    rows: tuple[SweepRow, ...]
    reference_hz: float | None
    """25 kHz, or the middle of the longest run of frequencies that agree; None: too little is read [Hz]"""

    @property
    def read(self) -> int:
        """How many of its speeds are read [-]"""
        return sum(n is not None for r in self.rows for n in r.speeds_rpm)

    @property
    def whole(self) -> int:
        """How many speeds it has [-]"""
        return sum(len(r.speeds_rpm) for r in self.rows)

    @property
    def good_hz(self) -> tuple[float, ...]:
        """Frequencies that are read right [Hz]"""
        return tuple(r.frequency_hz for r in self.rows if r.verdict is SweepVerdict.GOOD)

    def at(self, frequency_hz: float) -> SweepVerdict:
        """What it says of any frequency.

        Parameters
        ----------
        frequency_hz : float
            On the lead [Hz]

        Returns
        -------
        SweepVerdict
            Of the frequency itself, or of both that it lies between: off where either is; unread beyond them [-]

        Raises
        ------
        InputError
            No frequency.
        """
        check_range("frequency_hz", frequency_hz, 1e-3, 1e9, "Hz")
        own = next((r for r in self.rows if _near(r.frequency_hz, frequency_hz)), None)
        if own is not None:
            return own.verdict
        below = [r for r in self.rows if r.frequency_hz < frequency_hz]
        above = [r for r in self.rows if r.frequency_hz > frequency_hz]
        if not below or not above:
            return SweepVerdict.UNREAD
        both = {below[-1].verdict, above[0].verdict}
        if SweepVerdict.OFF in both:
            return SweepVerdict.OFF
        return SweepVerdict.UNREAD if SweepVerdict.UNREAD in both else SweepVerdict.GOOD


def sweep(read: Sequence[tuple[float, float, float]]) -> Sweep:
    """Tell by readings which frequencies of a sweep a fan takes rightly.

    Parameters
    ----------
    read : sequence of tuple
        Frequency, duty and speed, in any order; what belongs to no place of the sweep is left out, what was read more
        than once counts by its mean [Hz, -, rpm]

    Returns
    -------
    Sweep
        A row for each frequency of the sweep. One is good where all its speeds lie within 3 % of those at the
        reference: 25 kHz; where that agrees with none beside it, the middle of the longest run of neighbours that
        agree [-]

    Raises
    ------
    InputError
        A speed that cannot be.
    """
    speeds = np.full((len(SWEEP_HZ), len(SWEEP_DUTY)), np.nan)
    for i, hertz in enumerate(SWEEP_HZ):
        for j, duty in enumerate(SWEEP_DUTY):
            mine = [n for f, d, n in read if _near(hertz, f) and abs(d - duty) < _SAME]
            if mine:
                speeds[i, j] = check_range("speed_rpm", float(np.mean(mine)), 0.0, 1e6, "rpm")
    whole = ~np.isnan(speeds).any(axis=1)
    place = _reference(speeds, whole)
    rows = []
    for i, hertz in enumerate(SWEEP_HZ):
        told = tuple(None if math.isnan(n) else float(n) for n in speeds[i])
        if place is None or not whole[i]:
            rows.append(SweepRow(hertz, told, SweepVerdict.UNREAD))
            continue
        off = float(_apart(speeds[i], speeds[place]))
        rows.append(SweepRow(hertz, told, SweepVerdict.GOOD if off <= SWEEP_NEAR else SweepVerdict.OFF, off))
    return Sweep(tuple(rows), None if place is None else SWEEP_HZ[place])


def sweep_words(told: Sweep) -> str:
    """What a sweep tells, in a line."""
    if told.read < told.whole and told.reference_hz is None:
        return f"{told.read} of {told.whole} speeds read"
    if told.reference_hz is None:
        return "no two neighbours agree: the speeds say nothing of the frequency, read them again"
    good = ", ".join(f"{hz / 1e3:g}" for hz in told.good_hz)
    against = f"within {100 * SWEEP_NEAR:.0f} % of those at {told.reference_hz / 1e3:g} kHz"
    words = f"takes {good} kHz rightly: all three speeds lie {against}"
    return words if told.read == told.whole else f"{words}; {told.read} of {told.whole} read"


def _reference(speeds: FloatArray, whole: NDArray[np.bool_]) -> int | None:
    """Row that the others are held against."""
    runs: list[list[int]] = []
    for i in np.flatnonzero(whole).tolist():
        last = runs[-1] if runs else None
        if last and last[-1] == i - 1 and _apart(speeds[i], speeds[i - 1]) <= SWEEP_NEAR:
            last.append(i)
        else:
            runs.append([i])
    if whole.sum() < 2:
        return None
    longest = max(runs, key=len)
    usual = SWEEP_HZ.index(NOMINAL_HZ)
    own = next((r for r in runs if usual in r), None)
    if own is not None and (len(own) > 1 or len(longest) == 1):
        return usual
    return None if len(longest) == 1 else longest[len(longest) // 2]


def _apart(speeds: FloatArray, others: FloatArray) -> float:
    """Largest distance between speeds, over the others; a fan that stands is as far off as can be."""
    return float(np.max(np.abs(speeds - others) / np.maximum(np.maximum(speeds, others), 1e-9)))


def _near(hertz: float, other: float) -> bool:
    return abs(other / hertz - 1) < _SAME
