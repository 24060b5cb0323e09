"""A scope's capture laid over a step: one period from the supply's rising zero, and what is read from it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.prove.capture import Angle, Capture, read_capture

FloatArray = NDArray[np.float64]
_MOST_POINTS = 480


@dataclass(frozen=True)
class Found:
    """One value read from a capture."""

    quantity: str
    """As a reading is filed; empty where it is only told [-]"""
    name: str
    value: float
    text: str


@dataclass(frozen=True)
class CaptureShown:
    """A capture as it is laid over the waveforms."""

    theta_deg: tuple[float, ...]
    motor_v: tuple[float, ...]
    supply_v: tuple[float, ...]
    """Empty where it was not captured [V]"""
    found: tuple[Found, ...]
    words: tuple[str, ...]


def lay_over(time_s: FloatArray, motor_v: FloatArray, supply_v: FloatArray | None = None) -> CaptureShown:
    """Read a capture and cut one period out of it.

    Parameters
    ----------
    time_s : array
        Rising times [s]
    motor_v : array
        Volts across the motor at them [V]
    supply_v : array or None
        Volts of the supply [V]

    Returns
    -------
    CaptureShown
        The period and the values [-]

    Raises
    ------
    InputError
        As `read_capture`.
    """
    capture = read_capture(time_s, motor_v, supply_v)
    theta = np.degrees(2 * np.pi * capture.frequency_hz * time_s + capture.phase_rad)
    first = 360 * np.ceil(theta[0] / 360)
    mine = np.flatnonzero((theta >= first) & (theta < first + 360))
    every = mine[:: max(1, len(mine) // _MOST_POINTS)]
    return CaptureShown(
        _tuple(theta[every] - first),
        _tuple(motor_v[every]),
        () if supply_v is None else _tuple(supply_v[every]),
        _found(capture),
        capture.words,
    )


def _found(c: Capture) -> tuple[Found, ...]:
    found = [
        Found("motor_voltage_v", "motor volts, true rms", c.rms_v, f"{q.plain(c.rms_v, 4)} V"),
        Found("frequency_hz", "mains", c.frequency_hz, f"{c.frequency_hz:.2f} Hz"),
    ]
    for name, said, angle in (
        ("firing_angle_deg", "fires at", c.firing),
        ("extinction_angle_deg", "current ends at", c.extinction),
    ):
        if angle is not None:
            found.append(Found(name, said, angle.deg, _angle(angle)))
    if c.firing is not None:
        found.append(
            Found("symmetry_deg", "halves apart", abs(c.asymmetry_deg), f"{abs(c.asymmetry_deg):.1f}°")
        )
    found += [
        Found(
            "",
            "an average-responding meter would show",
            c.average_meter_v,
            f"{q.plain(c.average_meter_v, 4)} V",
        ),
        Found("", "direct volts", c.mean_v, f"{q.signed(c.mean_v, 1)} V"),
        Found("", "supply", c.supply_rms_v, f"{q.plain(c.supply_rms_v, 4)} V"),
    ]
    return tuple(found)


def _angle(angle: Angle) -> str:
    return f"{angle.deg:.1f}° ± {max(0.1, angle.spread_deg):.1f}°"


def _tuple(values: FloatArray) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in values)
