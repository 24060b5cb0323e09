"""Tachometer leads: pulses to rpm, how finely, and whether the pulses per revolution are right (docs/duty.md)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import check_range

PULSES = 2.0
"""Per revolution of most fans [-]"""
_WEIGHTS = {2: 0.70, 4: 0.10, 1: 0.08, 3: 0.05, 6: 0.03}
_OTHER, _MOST, _SIGMA, _FIRM = 0.008, 10, 0.05, 10.0
"""How usual pulses per revolution are; how far a fan may be off its expected speed; when an answer is firm"""


@dataclass(frozen=True)
class Tach:
    """A tachometer signal and how it is read."""

    pulses: float = PULSES
    """Per revolution, as it is set [-]"""
    gate_s: float = 1.0
    """For how long pulses are counted [s]"""

    def __post_init__(self) -> None:
        check_range("pulses_per_rev", self.pulses, 1e-3, 1000.0, "", reason="at least one pulse is wanted")
        check_range("gate_s", self.gate_s, 1e-6, 1e4, "s")

    def speed_rpm(self, frequency_hz: float) -> float:
        """60 f/p [Hz → rpm]"""
        return 60 * float(check_range("frequency_hz", frequency_hz, 0.0, 1e7, "Hz")) / self.pulses

    def frequency_hz(self, speed_rpm: float) -> float:
        """p n/60 [rpm → Hz]"""
        return float(check_range("speed_rpm", speed_rpm, 0.0, 1e7, "rpm")) * self.pulses / 60

    @property
    def count_resolution_rpm(self) -> float:
        """One pulse more or less in the gate, 60/(p t) [rpm]"""
        return 60 / (self.pulses * self.gate_s)

    def period_resolution_rpm(self, speed_rpm: float, clock_hz: float) -> float:
        """One tick more or less in one period, n² p/(60 f_c) [rpm, Hz → rpm]"""
        return speed_rpm**2 * self.pulses / (60 * clock_hz)

    def crossover_rpm(self, clock_hz: float) -> float:
        """Speed where counting and timing resolve alike, (60/p) √(f_c/t) [Hz → rpm]"""
        return 60 / self.pulses * math.sqrt(clock_hz / self.gate_s)

    def lowest_rpm(self, clock_hz: float, bits: int) -> float:
        """Slowest before the counter of a period is full, 60 f_c/(p (2^bits − 1)) [Hz, - → rpm]"""
        return float(60 * clock_hz / (self.pulses * (2**bits - 1)))

    def silent_after_s(self, slowest_rpm: float) -> float:
        """How long without an edge means that it stands: a second, or two periods at the lowest speed [rpm → s]"""
        return max(1.0, 2 / self.frequency_hz(slowest_rpm)) if slowest_rpm > 0 else 1.0


class PulseVerdict(StrEnum):
    """What a reading says of the pulses per revolution."""

    FITS = "fits"
    OTHER = "other"
    NONE = "none"
    """No count of pulses explains it: look for another cause"""


@dataclass(frozen=True)
class PulseFinding:
    """What was found of the pulses per revolution."""

    ratio: float
    """Shown over expected speed [-]"""
    likely: int | None
    verdict: PulseVerdict
    firm: bool
    """Ten times likelier than the next [-]"""


def pulses_from(shown_rpm: float, expected_rpm: float, pulses: float = PULSES) -> PulseFinding:
    """Which pulses per revolution explain what is shown.

    Parameters
    ----------
    shown_rpm : float
        By the instrument [rpm]
    expected_rpm : float
        By anything else: plate, step, another instrument [rpm]
    pulses : float
        Per revolution, as the instrument is set [-]

    Returns
    -------
    PulseFinding
        The likeliest count with a verdict [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("expected_rpm", expected_rpm, 1e-3, 1e6, "rpm")
    check_range("speed_rpm", shown_rpm, 0.0, 1e8, "rpm")
    check_range("pulses_per_rev", pulses, 1e-3, 1000.0, "")
    ratio = shown_rpm / expected_rpm
    if ratio == 0:
        return PulseFinding(0.0, None, PulseVerdict.NONE, False)
    counts = np.arange(1, _MOST + 1)
    off = np.log(ratio * pulses / counts) / _SIGMA
    score = np.log([_WEIGHTS.get(int(p), _OTHER) for p in counts]) - 0.5 * off**2
    first, second = np.argsort(-score)[:2]
    likely = int(counts[first])
    if abs(off[first]) > 3:
        return PulseFinding(ratio, likely, PulseVerdict.NONE, False)
    firm = bool(score[first] - score[second] >= math.log(_FIRM))
    return PulseFinding(ratio, likely, PulseVerdict.FITS if likely == pulses else PulseVerdict.OTHER, firm)


def chopped_edges_hz(low_share: float, pwm_hz: float, duty: float, tach_hz: float) -> float:
    """Edges a second of a tachometer whose fan's supply is chopped, λ f_pwm + d f_tach: no speed at all [Hz]"""
    check_range("low_share", low_share, 0.0, 1.0, "")
    check_range("duty", duty, 0.0, 1.0, "")
    return low_share * float(check_range("frequency_hz", pwm_hz, 0.0, 1e7, "Hz")) + duty * tach_hz


def bridging_s(duty: float, pwm_hz: float, tach_hz: float, low_share: float = 0.5) -> tuple[float, float]:
    """Gap that a one-shot must bridge on a chopped supply: longer than the first, shorter than the second [-, Hz → s]"""
    check_range("frequency_hz", pwm_hz, 1e-3, 1e7, "Hz")
    check_range("tach_hz", tach_hz, 1e-6, 1e6, "Hz")
    return (1 - float(check_range("duty", duty, 0.0, 1.0, ""))) / pwm_hz, (1 - low_share) / tach_hz


def stretched_duty(
    duty: float, slowest_tach_hz: float, every_s: float, settle_s: float = 0.0
) -> tuple[float, float]:
    """Time for which the supply is held on to read two pulses, and the duty that it makes of one [-, Hz, s, s → s, -]"""
    check_range("tach_hz", slowest_tach_hz, 1e-6, 1e6, "Hz")
    check_range("every_s", every_s, 1e-3, 1e5, "s")
    held = settle_s + 2 / slowest_tach_hz
    share = min(held / every_s, 1.0)
    return held, share + (1 - share) * float(check_range("duty", duty, 0.0, 1.0, ""))
