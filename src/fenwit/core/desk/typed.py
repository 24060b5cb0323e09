"""What is typed on the Desk: the unit is in a field's name, bench notation carries its own, ± says how sure it is."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.quantity import Dimension

_ANY = (-1e300, 1e300)
"""Limits are the field's, not the unit's"""


def _dimension(name: str, unit: str, names: tuple[str, ...], prefixes: str, example: str) -> Dimension:
    return Dimension(name, unit, names, prefixes, *_ANY, example)


_CFM = 0.0254**3 * 12**3 / 60
_FLOWS = (("m3/s", 1.0), ("m3/h", 1 / 3600), ("l/s", 1e-3), ("l/min", 1e-3 / 60), ("cfm", _CFM))
_PRESSURES = (
    ("hPa", 100.0, 0.0), ("mbar", 100.0, 0.0), ("bar", 1e5, 0.0), ("mmH2O", 9.80665, 0.0), ("inH2O", 249.08891, 0.0),
    ("psi", 6894.757293168, 0.0),
)  # fmt: skip
_TIMES = (("min", 60.0, 0.0), ("h", 3600.0, 0.0))
_LENGTHS = (("cm", 0.01, 0.0), ("in", 0.0254, 0.0), ("ft", 0.3048, 0.0), ('"', 0.0254, 0.0))


def _open(dimension: Dimension) -> Dimension:
    return replace(dimension, low=_ANY[0], high=_ANY[1])


PLAIN = _dimension("a number", "", (), "", "like 3")
SHARE = Dimension("a share", "", (), "", *_ANY, "like 0.3 or 30 %", others=(("%", 0.01, 0.0),))
SCALED = _dimension("a value", "", (), "pnumkM", "like 3.385u or 9k6")

UNITS: Mapping[str, Dimension] = {
    "m3_s": Dimension(
        "cubic metres a second", "m³/s", ("m3/s",), "", *_ANY, "like 0.39, 1400 m³/h or 820 cfm",
        others=tuple((n, f, 0.0) for n, f in _FLOWS[1:]),
    ),
    "m3_h": Dimension(
        "cubic metres an hour", "m³/h", ("m3/h",), "", *_ANY, "like 1400, 0.39 m³/s or 820 cfm",
        others=tuple((n, f * 3600, 0.0) for n, f in _FLOWS if n != "m3/h"),
    ),
    "kg_m3": _dimension("kilograms a cubic metre", "kg/m³", ("kg/m3",), "", "like 1.2"),
    "ohm_per_m": _dimension("ohms a metre", "Ω/m", ("ohm/m",), "m", "like 0.49"),
    "k_w": _open(q.THERMAL),
    "j_k": _dimension("joules per kelvin", "J/K", ("J/K",), "k", "like 200"),
    "a2s": _dimension("amps squared seconds", "A²s", ("A2s",), "m", "like 12"),
    "mm2": _dimension("square millimetres", "mm²", ("mm2",), "", "like 0.5"),
    "kwh": _dimension("kilowatt-hours", "kWh", ("kWh",), "", "like 180"),
    "var": _dimension("volt-amps reactive", "var", ("var",), "k", "like 45"),
    "ohm": replace(_open(q.RESISTANCE), prefixes="mkM"),
    "rpm": replace(_open(q.SPEED), prefixes="k"),
    "deg": _open(q.ANGLE),
    "hz": replace(_open(q.FREQUENCY), prefixes="mkM", example="like 50, 25k or 16M"),
    "pa": Dimension("pascals", "Pa", ("Pa",), "k", *_ANY, "like 120 or 0.5 inH2O", others=_PRESSURES),
    "db": _dimension("decibels", "dB", ("dB",), "", "like 38"),
    "mm": _dimension("millimetres", "mm", ("mm",), "", "like 1.2"),
    "um": _dimension("micrometres", "µm", ("um",), "", "like 35"),
    "f": replace(_open(q.CAPACITANCE), example="like 2u7, 470p or 2.7 µF"),
    "h": replace(_open(q.INDUCTANCE), prefixes="num"),
    "v": replace(_open(q.VOLTAGE), prefixes="umk"),
    "a": replace(_open(q.CURRENT), prefixes="um"),
    "w": Dimension("watts", "W", ("W", "watt", "watts"), "umkM", *_ANY, "like 9.4k or 73",
                   others=(("hp", 745.69987158227, 0.0), ("BTU/h", 1055.05585262 / 3600, 0.0))),
    "s": Dimension("seconds", "s", ("s", "sec"), "num", *_ANY, "like 1.5, 40u or 2 min", others=_TIMES),
    "k": _dimension("kelvins", "K", ("K",), "", "like 22"),
    "c": replace(_open(q.TEMPERATURE), prefixes=""),
    "m": Dimension("metres", "m", ("m",), "mk", *_ANY, "like 4 or 820", others=_LENGTHS),
    "j": _dimension("joules", "J", ("J",), "um", "like 0.17"),
}  # fmt: skip
"""By the ending of a field's name"""
_SHARES = re.compile(
    r"(?:^|_)(?:duty|travel|share|fraction|tolerance|efficiency|factor|humidity|error|likelihood)(?:_|$)"
)


def dimension_of(name: str) -> Dimension:
    """What a field or an answer is in, told by the ending of its name."""
    for ending, dimension in UNITS.items():
        if name.endswith(f"_{ending}") or name == ending:
            return dimension
    return SHARE if _SHARES.search(name) else PLAIN


def label_of(name: str) -> str:
    """A field's or answer's name in words, without its unit."""
    for ending in UNITS:
        if name.endswith(f"_{ending}"):
            name = name.removesuffix(f"_{ending}")
            break
    return name.replace("_", " ")


def shown(name: str, value: float, digits: int = 4) -> str:
    """A number with its unit, by the name of its field."""
    dimension = dimension_of(name)
    if dimension is SHARE or dimension is PLAIN:
        return q.plain(value, digits) if 1e-4 <= abs(value) < 1e9 or value == 0 else _far(value, digits)
    # Thousands of rpm are read as rpm.
    text = q.show(
        value, replace(dimension, prefixes="") if name.endswith("_rpm") else dimension, digits
    ).rstrip()
    number = abs(float(text.split(" ")[0].replace("−", "-")))
    return _far(value, digits, dimension.unit) if value and number == 0 else text


def _far(value: float, digits: int, unit: str = "") -> str:
    mantissa, _, exponent = f"{value:.{digits - 1}e}".partition("e")
    number = mantissa.rstrip("0").rstrip(".") if "." in mantissa else mantissa
    return f"{number} × 10^{int(exponent)} {unit}".rstrip().replace("-", "−")


@dataclass(frozen=True)
class Typed:
    """A number as it was typed, and how far it may be off."""

    value: float
    half: float = 0.0
    """Nine in ten lie within so much of it; 0: taken as exact [as the value]"""


_SURE = re.compile(r"\s*(?:±|\+/-|\+-)\s*")


def read_number(name: str, text: str, dimension: Dimension, bare_scales: bool = False) -> Typed:
    """A number with its unit and, where one is typed, its uncertainty.

    Parameters
    ----------
    name : str
        Of the field [-]
    text : str
        Like ``2u7``, ``4k7 ±5%`` or ``230 ± 10`` [-]
    dimension : Dimension
        What it is in [-]
    bare_scales : bool
        Whether a number alone means what people write it for, as microfarads of a capacitor, and not the unit in the
        field's name [-]

    Returns
    -------
    Typed
        Value in the unit of the name [any]

    Raises
    ------
    InputError
        Text that is no number of this kind.
    """
    if len(text) > 80:
        raise InputError(name, text[:60], dimension.example, "too long for a value")
    parts = _SURE.split(text.strip())
    if len(parts) > 2:
        raise InputError(name, text, "one ±", "how sure it is can be said once")
    if not bare_scales and dimension.bare:
        dimension = replace(dimension, bare="")
    value = _parsed(name, parts[0], dimension)
    if len(parts) == 1:
        return Typed(value)
    sure = parts[1].strip()
    if sure.endswith("%"):
        return Typed(value, abs(value) * _parsed(name, sure[:-1], PLAIN) / 100)
    # A difference has no offset: ± 2 °C is 2 K.
    half = _parsed(name, sure, replace(dimension, others=tuple((n, f, 0.0) for n, f, _ in dimension.others)))
    if half < 0:
        raise InputError(name, text, "0 or more after ±", "an uncertainty is not negative")
    return Typed(value, half)


def _parsed(name: str, text: str, dimension: Dimension) -> float:
    value = q.parse(name, text, dimension)
    if not math.isfinite(value):
        raise InputError(name, text, dimension.example, "a finite number is needed here")
    return value


_YES, _NO = ("yes", "true", "on", "1"), ("no", "false", "off", "0")


def read_yes(name: str, text: str) -> bool:
    """Yes or no. Raises InputError for anything else."""
    word = text.strip().lower()
    if word not in _YES + _NO:
        raise InputError(name, text, "yes, no", "say yes or no")
    return word in _YES


_UNIT = re.compile(r"^[-−+0-9.,eE\s]+([^0-9.\s±].*)$")


def with_shared_unit(parts: list[str]) -> list[str]:
    """Numbers of a list; a unit behind the last one alone is meant for all of them: 0, 100, 200 m³/h."""
    unit = _UNIT.match(parts[-1])
    if unit is None or any(_UNIT.match(p) for p in parts[:-1]):
        return parts
    return [f"{p} {unit[1]}" for p in parts[:-1]] + parts[-1:]
