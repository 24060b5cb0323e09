"""What a reading is worth by the meter that took it: per cent of reading plus digits, in its range."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core.errors import InputError, check_range

QUANTITIES = ("voltage", "current", "resistance", "capacitance", "power", "speed", "frequency", "temperature")
_AVERAGE_SIGMA = 0.01
"""What an average-responding meter misses on a fan's not quite sinusoidal amps and volts [-]"""
KIND_OF = {
    "supply_voltage_v": "voltage", "motor_voltage_v": "voltage", "capacitor_voltage_v": "voltage",
    "line_current_a": "current", "auxiliary_current_a": "current", "locked_rotor_current_a": "current",
    "input_power_w": "power", "speed_rpm": "speed", "full_speed_rpm": "speed", "frequency_hz": "frequency",
    "main_resistance_ohm": "resistance", "auxiliary_resistance_ohm": "resistance", "hot_resistance_ohm": "resistance",
    "run_capacitance_f": "capacitance",
}  # fmt: skip
"""Which function of a meter reads a quantity"""


@dataclass(frozen=True)
class MeterRange:
    """One range of one function."""

    quantity: str
    up_to: float
    """Highest value of the range, in the SI unit of the quantity [any]"""
    percent: float
    """Of reading [%]"""
    digits: float
    """Counts of the last digit [-]"""
    resolution: float
    """What one count of the last digit stands for [any]"""

    def __post_init__(self) -> None:
        if self.quantity not in QUANTITIES:
            raise InputError("quantity", self.quantity, ", ".join(QUANTITIES), "no such function of a meter")
        check_range("up_to", self.up_to, 1e-12, 1e9, "")
        check_range("percent", self.percent, 0.0, 30.0, "%")
        check_range("digits", self.digits, 0.0, 200.0, "")
        check_range("resolution", self.resolution, 0.0, self.up_to / 10, "")


@dataclass(frozen=True)
class Instrument:
    """A meter as its data sheet describes it."""

    name: str
    ranges: tuple[MeterRange, ...]
    true_rms: bool = True


def relative_sigma(instrument: Instrument, quantity: str, value: float) -> float | None:
    """Standard uncertainty of a value read by an instrument: half width over √3, the data sheet's limits being limits.

    Parameters
    ----------
    instrument : Instrument
        The meter [-]
    quantity : str
        What was read, as readings are called [-]
    value : float
        The value, above zero [any]

    Returns
    -------
    float or None
        Relative standard uncertainty; None where the meter has no range for it [-]

    Raises
    ------
    InputError
        A value that is not above zero.
    """
    check_range("value", value, 1e-12, 1e9, "")
    kind = KIND_OF.get(quantity)
    if quantity.startswith(("lead_ohm", "frame_ohm", "section_esr")):
        kind = "resistance"
    if quantity.startswith("section_f"):
        kind = "capacitance"
    fitting = _fitting(instrument.ranges, kind or "", value)
    if fitting is None:
        return None
    half = fitting.percent / 100 + fitting.digits * fitting.resolution / value
    sigma = half / np.sqrt(3)
    if not instrument.true_rms and kind in ("voltage", "current"):
        sigma = np.hypot(sigma, _AVERAGE_SIGMA)
    return float(np.clip(sigma, 1e-4, 1.0))


def _fitting(ranges: Sequence[MeterRange], kind: str, value: float) -> MeterRange | None:
    """The smallest range that still holds the value, as a person would choose it."""
    held = [r for r in ranges if r.quantity == kind and value <= r.up_to]
    return min(held, key=lambda r: r.up_to) if held else None
