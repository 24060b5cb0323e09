"""The one error the core raises.

InputError      what was given cannot be used: field, value, allowed range, reason
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatOrArray = float | NDArray[np.float64]


class InputError(ValueError):
    """Input that cannot be used; carries the parts of its message as data."""

    def __init__(self, field: str, value: object, allowed: str, reason: str, meant: str = "") -> None:
        """``meant``: what was probably meant, as it would be typed; empty where that is not known."""
        self.field = field
        self.value = value
        self.allowed = allowed
        self.reason = reason
        self.meant = meant
        super().__init__(f"{field}: {_short(value)}: {reason} (allowed: {allowed})")

    def __reduce__(self) -> tuple[type[InputError], tuple[str, object, str, str, str]]:
        # Exceptions are copied from their message alone unless told otherwise; workers hand this one over whole.
        return InputError, (self.field, self.value, self.allowed, self.reason, self.meant)


def _short(value: object) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "…"


def check_range(
    field: str, value: Any, low: float, high: float, unit: str, *, reason: str | None = None
) -> FloatOrArray:
    """Return ``value`` as a float or float array when every element lies in [low, high].

    Parameters
    ----------
    field : str
        Name of the field, as the caller's input calls it [-]
    value : Any
        Number or array to check, in ``unit`` [any]
    low : float
        Smallest allowed value, in ``unit`` [any]
    high : float
        Largest allowed value, in ``unit`` [any]
    unit : str
        Unit named in the message [-]
    reason : str or None
        Sentence for the message in place of the usual one [-]

    Raises
    ------
    InputError
        Not a number, not finite, or outside the range.
    """
    if type(value) is float and low <= value <= high:
        return value  # the usual case, without writing a message nobody reads
    if isinstance(value, np.ndarray) and value.dtype == np.float64 and value.size:
        lowest, highest = value.min(), value.max()  # not a number if any is
        if low <= lowest and highest <= high:
            return value
    allowed = f"{low:g} to {high:g} {unit}".rstrip()
    if isinstance(value, bool) or value is None or isinstance(value, str):
        raise InputError(field, value, allowed, "a number is needed here")
    if isinstance(value, np.ndarray):
        array = value.astype(np.float64)
        bad = ~(np.isfinite(array) & (array >= low) & (array <= high))
        if bad.any():
            raise InputError(field, float(array[bad].flat[0]), allowed, reason or "outside what can be real")
        return array
    try:
        number = float(value)
    except (TypeError, ValueError, OverflowError):
        raise InputError(field, value, allowed, "a number is needed here") from None
    if not math.isfinite(number):
        raise InputError(field, number, allowed, "a finite number is needed here")
    if not low <= number <= high:
        raise InputError(field, value, allowed, reason or _why_outside(number, low, high))
    return number


def _why_outside(number: float, low: float, high: float) -> str:
    if number <= 0 < low:
        return "must be above zero"
    if low <= number / 1000 <= high or low <= number * 1000 <= high:
        return "outside what can be real; a slip of a thousand in the unit?"
    return "outside what can be real"
