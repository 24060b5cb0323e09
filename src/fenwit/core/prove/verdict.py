"""Verdicts on readings taken at a step."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError, check_range


class Verdict(StrEnum):
    """How a reading compares with what was expected."""

    PASS = "pass"
    NEAR = "near"
    FAIL = "fail"


NEAR_FACTOR = 1.5
"""A reading up to this many widened half bands away is near, not failed [-]"""


@dataclass(frozen=True)
class Judgement:
    """A verdict with the limits it rests on."""

    verdict: Verdict
    low: float
    """Lowest reading that passes: the band widened by the meter's own error"""
    high: float
    distance: float
    """Distance from the middle over the widened half width; up to 1 passes [-]"""
    slow: bool
    """The reading lies below the middle of the band"""


def judge(field: str, reading: float, expected: Band, meter_error: float) -> Judgement:
    """Compare a reading with its expected band.

    Parameters
    ----------
    field : str
        Name of the quantity, for messages [-]
    reading : float
        What was read [any]
    expected : Band
        Where it was expected, in the unit of the reading [any]
    meter_error : float
        The meter's own relative error [-]

    Returns
    -------
    Judgement
        Pass inside the widened band, near up to 1.5 half widths, else fail; a reading of zero (the fan stands)
        always fails where something above zero was expected [-]

    Raises
    ------
    InputError
        Negative or unreal reading, or nothing was expected.
    """
    check_range(field, reading, 0.0, 1e6, "")
    check_range("meter_error", meter_error, 0.0, 0.5, "")
    if expected.high <= 0:
        raise InputError(
            field, reading, "a step that runs", "nothing is expected at a step that does not run"
        )
    low = expected.low * (1 - meter_error)
    high = expected.high * (1 + meter_error)
    middle, half = (low + high) / 2, (high - low) / 2
    distance = abs(reading - middle) / half
    # Rounding at the very edge of the band must not fail a reading that equals the printed limit.
    if reading <= 0 or distance > NEAR_FACTOR + 1e-9:
        verdict = Verdict.FAIL
    else:
        verdict = Verdict.PASS if distance <= 1 + 1e-9 else Verdict.NEAR
    return Judgement(verdict, low, high, distance, reading < middle)
