"""Nameplates as they are printed: 220–240 V, 50/60 Hz, 1/4 hp, 60 VA, 0.5 A max, 1200 min⁻¹, 48 in, 800 cfm."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

from fenwit.core import quantity as q
from fenwit.core.errors import InputError


@dataclass(frozen=True)
class PlateValue:
    """What a label says, read."""

    values: tuple[tuple[str, float | None], ...]
    """Fields of the nameplate that it sets, SI units [any]"""
    note: str = ""
    """How it was taken; empty where it goes without saying [-]"""


HORSEPOWER_W = 745.7
_SAME_WINDING = 1.25
"""Two printed voltages further apart than this belong to two ways of connecting the windings [-]"""
_RANGE = re.compile(r"^(.*?[0-9][^-–—/…]*?)\s*(?:-|–|—|/|…|\.\.\.|\bto\b)\s*([0-9].*)$")
_HP = re.compile(r"^(.*?)\s*(?:hp|h\.p\.|bhp)$", re.IGNORECASE)
_VA = re.compile(r"^(.*?)\s*(k?)VA$", re.IGNORECASE)
DIMENSIONS = {
    "poles": q.POLES,
    "rated_voltage_v": q.VOLTAGE,
    "rated_frequency_hz": q.FREQUENCY,
    "rated_speed_rpm": q.SPEED,
    "rated_current_a": q.CURRENT,
    "rated_power_w": q.POWER,
    "run_capacitance_f": q.CAPACITANCE,
    "airflow_m3_per_s": q.AIRFLOW,
    "sweep_m": q.LENGTH,
    "ambient_c": q.TEMPERATURE,
}
"""What each printed field takes"""
_POWERS = ("rated_power_w", "shaft_power_w", "apparent_power_va")


def read_plate(field: str, text: str, supply_hertz: float = 50.0) -> PlateValue:
    """Read one field of a nameplate as it is printed.

    Parameters
    ----------
    field : str
        Field of the nameplate [-]
    text : str
        As printed [-]
    supply_hertz : float
        Of the job, for labels that name two frequencies [Hz]

    Returns
    -------
    PlateValue
        What it sets, and how it was taken [-]

    Raises
    ------
    InputError
        No such field, or a text that cannot be read.
    """
    dimension = DIMENSIONS.get(field)
    if dimension is None:
        raise InputError(field, text, ", ".join(DIMENSIONS), "no such field of a nameplate")
    tidy = text.strip()
    if field == "rated_power_w":
        return _power(field, tidy)
    ends = _RANGE.match(tidy) if dimension in (q.VOLTAGE, q.FREQUENCY) else None
    if ends is not None:
        return _between(field, text, ends[1], ends[2], dimension, supply_hertz)
    value = q.parse(field, tidy, dimension)
    if value <= 0 and dimension is not q.TEMPERATURE:
        raise InputError(field, text, "above zero", "must be above zero")
    # Another unit than ours stays as it was printed, beside what it is.
    foreign = any(tidy.lower().replace("³", "3").endswith(name.lower()) for name, _, _ in dimension.others)
    note = f"{text}: {q.show(value, dimension)}" if foreign else ""
    return PlateValue(((field, float(round(value)) if dimension is q.POLES else value),), note)


def _power(field: str, text: str) -> PlateValue:
    """Watts are what it takes, horsepower what the shaft gives, volt-amps what it draws."""
    if found := _HP.match(text):
        power = replace(
            q.POWER, name="horsepower", unit="hp", names=("hp",), prefixes="", low=1e-3, high=10.0
        )
        watts = HORSEPOWER_W * q.parse(field, found[1], replace(power, example="like 1/4 hp or 0.25 hp"))
        note = f"{text}: {watts:.0f} W at the shaft; what it takes is more, and is not known from that"
        return PlateValue(_powers(shaft_power_w=watts), note)
    if found := _VA.match(text):
        va = q.parse(field, f"{found[1]}{found[2]}W", q.POWER)
        note = f"{text}: volts times amps; used for the amps where none are printed"
        return PlateValue(_powers(apparent_power_va=va), note)
    value = q.parse(field, text, q.POWER)
    if value <= 0:
        raise InputError(field, text, "above zero", "must be above zero")
    return PlateValue(_powers(rated_power_w=value))


def _powers(**given: float) -> tuple[tuple[str, float | None], ...]:
    return tuple((name, given.get(name)) for name in _POWERS)


def _between(
    field: str, text: str, first: str, second: str, dimension: q.Dimension, supply_hertz: float
) -> PlateValue:
    """Two values on one label: a range of volts, or hertz it is made for."""
    high = q.parse(field, second, dimension)
    low = q.parse(field, first, dimension)
    if dimension is q.FREQUENCY:
        taken = min((low, high), key=lambda f: abs(f - supply_hertz))
        return PlateValue(((field, taken),), f"{text}: {taken:.0f} Hz is taken, as the supply has")
    if not low < high:
        raise InputError(field, text, "like 220–240 V", "the lower volts come first")
    if high > _SAME_WINDING * low:
        raise InputError(
            field,
            text,
            f"{low:g} V or {high:g} V",
            "this label is for two ways of connecting the windings: type the volts it is connected for",
        )
    middle = 5 * round(math.sqrt(low * high) / 5)
    return PlateValue(((field, float(middle)),), f"{text}: {middle:.0f} V, the middle, is taken")
