"""A microcontroller's timer as the source of a duty: register values for a frequency, compare values for duties.

    fast           f = f_clk/(N (TOP + 1))     duty = (compare + 1)/(TOP + 1)     compare −1: output off
    phase-correct  f = f_clk/(2 N TOP)         duty = compare/TOP

The rule is that of timers which switch after the compare count (docs/duty.md).
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
PRESCALERS = (1, 8, 64, 256, 1024)
_LEAST_TOP, _ALIKE = 3, 1e-9


class TimerMode(StrEnum):
    """How the counter runs."""

    FAST = "fast"
    PHASE_CORRECT = "phase-correct"


@dataclass(frozen=True)
class TimerChoice:
    """One way to set the timer."""

    mode: TimerMode
    prescaler: int
    top: int
    actual_frequency_hz: float
    frequency_error: float
    """Actual over wanted, less 1 [-]"""

    @property
    def levels(self) -> int:
        """How many duties there are [-]"""
        return self.top + 1

    @property
    def duty_resolution(self) -> float:
        """Smallest step of duty [-]"""
        return 1 / (self.top + 1) if self.mode is TimerMode.FAST else 1 / self.top

    def compare(self, duty: float) -> int | None:
        """Compare value nearest to a duty; None: output off [-]"""
        check_range("duty", duty, 0.0, 1.0, "")
        if self.mode is TimerMode.PHASE_CORRECT:
            return math.floor(duty * self.top + 0.5)
        found = math.floor(duty * (self.top + 1) + 0.5) - 1
        return None if found < 0 else found

    def actual_duty(self, compare: int | None) -> float:
        """Duty that a compare value makes [-]"""
        if compare is None:
            return 0.0
        return compare / self.top if self.mode is TimerMode.PHASE_CORRECT else (compare + 1) / (self.top + 1)


def timer_choices(
    clock_hz: float,
    frequency_hz: float,
    bits: int = 8,
    prescalers: Sequence[int] = PRESCALERS,
    mode: TimerMode | None = None,
) -> tuple[TimerChoice, ...]:
    """Every setting of a timer near a frequency, the best first.

    Nearest frequency first; of equally near ones that with more levels, then the fast mode.

    Parameters
    ----------
    clock_hz : float
        Of the timer before its prescaler [Hz]
    frequency_hz : float
        Wanted [Hz]
    bits : int
        Width of the counter [-]
    prescalers : sequence of int
        What it can be divided by [-]
    mode : TimerMode or None
        Only this one [-]

    Returns
    -------
    tuple of TimerChoice
        At least one [-]

    Raises
    ------
    InputError
        Values that cannot be, or a frequency that no setting gives.
    """
    check_range("clock_hz", clock_hz, 1e-3, 1e12, "Hz")
    check_range("frequency_hz", frequency_hz, 1e-6, 1e12, "Hz", reason="above 0 Hz is wanted")
    check_range("bits", bits, 2, 64, "")
    if not prescalers:
        raise InputError("prescalers", "", "one and more", "the timer divides by 1 at least")
    check_range("prescalers", np.array(prescalers, dtype=np.float64), 1, 1e9, "")
    most = 2 ** int(bits) - 1
    found: list[TimerChoice] = []
    for way in TimerMode if mode is None else (mode,):
        for prescaler in sorted(set(prescalers)):
            turn = prescaler * (1 if way is TimerMode.FAST else 2)
            exact = clock_hz / (turn * frequency_hz) - (1 if way is TimerMode.FAST else 0)
            near = round(exact)
            tops = {near} if abs(exact - near) <= 1e-9 * abs(exact) else {math.floor(exact), math.ceil(exact)}
            for top in sorted(tops):
                if _LEAST_TOP <= top <= most:
                    actual = clock_hz / (turn * (top + 1 if way is TimerMode.FAST else top))
                    found.append(TimerChoice(way, prescaler, top, actual, actual / frequency_hz - 1))
    if not found:
        steps = np.array([p * (1.0 if w is TimerMode.FAST else 2.0) for p in prescalers for w in TimerMode])
        low, high = clock_hz / (steps.max() * most), clock_hz / (steps.min() * _LEAST_TOP)
        raise InputError(
            "frequency_hz", frequency_hz, f"about {low:.4g} to {high:.4g} Hz",
            "no setting of this timer comes near it with four levels of duty and more",
        )  # fmt: skip
    return tuple(sorted(found, key=functools.cmp_to_key(_better)))


def _better(a: TimerChoice, b: TimerChoice) -> int:
    apart = abs(a.frequency_error) - abs(b.frequency_error)
    if abs(apart) > _ALIKE:
        return -1 if apart < 0 else 1
    if a.levels != b.levels:
        return b.levels - a.levels
    return (a.mode is not TimerMode.FAST) - (b.mode is not TimerMode.FAST)
