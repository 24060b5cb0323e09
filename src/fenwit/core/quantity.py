"""Bench notation, SI values and preferred numbers.

Values are typed as they stand on parts (``2u7``, ``0R47``, ``1/2 W``) and shown to the digits their uncertainty allows.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

_PREFIX = {"p": 1e-12, "n": 1e-9, "u": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6}


@dataclass(frozen=True)
class Dimension:
    """What kind of quantity a field takes."""

    name: str
    unit: str
    """SI unit as shown [-]"""
    names: tuple[str, ...]
    """Unit spellings accepted after the number, without prefix [-]"""
    prefixes: str
    """Prefix letters that make sense here [-]"""
    low: float
    """Smallest value that can be real, in the unit [any]"""
    high: float
    """Largest value that can be real, in the unit [any]"""
    example: str
    """How it is typed [-]"""
    bare: str = ""
    """Prefix understood when only a number is typed [-]"""
    others: tuple[tuple[str, float, float], ...] = ()
    """Other units that are met: name, factor and offset to the unit [-]"""


CAPACITANCE = Dimension("microfarads", "F", ("F",), "pnum", 1e-10, 1e-3, "like 2u7, 2.7 µF or 470n", bare="u")
RESISTANCE = Dimension("ohms", "Ω", ("Ω", "R", "ohm", "ohms"), "mkM", 1e-3, 2e7, "like 260, 1k8 or 0R47")
VOLTAGE = Dimension(
    "volts", "V", ("V", "VAC", "VDC", "V~", "V=", "volt", "volts"), "mk", 0.0, 1000.0, "like 230 or 230V"
)
CURRENT = Dimension("amps", "A", ("A", "amp", "amps"), "um", 1e-6, 100.0, "like 318m, 318 mA or 0.318 A")
POWER = Dimension("watts", "W", ("W", "watt", "watts"), "mk", 1e-3, 1e4, "like 73 or 1/2 W")
APPARENT_POWER = Dimension("volt-amps", "VA", ("VA",), "k", 1.0, 1e4, "like 25 or 25 VA")
INDUCTANCE = Dimension("henries", "H", ("H",), "num", 1e-9, 1e3, "like 3m3 or 470 µH")
FREQUENCY = Dimension("hertz", "Hz", ("Hz",), "k", 10.0, 500.0, "like 50 or 60 Hz")
SPEED = Dimension(
    "rpm",
    "rpm",
    ("rpm", "r/min", "1/min", "/min", "min-1", "rev/min", "r.p.m."),
    "",
    1.0,
    40000.0,
    "like 330",
)
RATIO = Dimension("per cent", "%", ("%", "percent"), "", 0.0, 100.0, "like 61 or 61 %")
TEMPERATURE = Dimension(
    "degrees Celsius", "°C", ("°C", "C", "degC"), "", -40.0, 250.0, "like 20, 20 °C or 68 °F",
    others=(("°F", 5 / 9, -160 / 9), ("F", 5 / 9, -160 / 9), ("degF", 5 / 9, -160 / 9)),
)  # fmt: skip
LENGTH = Dimension(
    "metres", "m", ("m", "metre", "metres"), "m", 0.01, 20.0, "like 1.2 m, 1200 mm or 48 in",
    others=(("cm", 0.01, 0.0), ("in", 0.0254, 0.0), ("inch", 0.0254, 0.0), ("inches", 0.0254, 0.0), ('"', 0.0254, 0.0),
            ("″", 0.0254, 0.0), ("ft", 0.3048, 0.0)),
)  # fmt: skip
AIRFLOW = Dimension(
    "cubic metres a second", "m³/s", ("m3/s",), "", 1e-5, 200.0, "like 1360 m³/h, 800 cfm or 0.38 m³/s",
    others=(("m3/h", 1 / 3600, 0.0), ("cfm", 0.0254**3 * 12**3 / 60, 0.0), ("l/s", 1e-3, 0.0), ("l/min", 1e-3 / 60, 0.0)),
)  # fmt: skip
TIME = Dimension("seconds", "s", ("s", "sec"), "m", 0.01, 3600.0, "like 9 or 9.5 s")
POWER_FACTOR = Dimension("power factor", "", (), "", 0.02, 1.0, "like 0.93")
ANGLE = Dimension("degrees", "°", ("°", "deg", "degree", "degrees"), "", 0.0, 360.0, "like 98 or 98°")
MICROSECONDS = Dimension("microseconds", "µs", ("us",), "", -2000.0, 2000.0, "like 120 or −40 µs")
TRANSFER = Dimension("current transfer", "", (), "", 0.01, 20.0, "like 0.6")
THERMAL = Dimension("kelvins per watt", "K/W", ("K/W",), "", 0.05, 200.0, "like 3 or 3 K/W")
STEEPNESS = Dimension("volts per microsecond", "V/µs", ("V/us",), "", 0.05, 1e4, "like 10 or 10 V/µs")
POLES = Dimension("poles", "poles", ("poles", "pole", "p"), "", 2.0, 48.0, "2, 4, 6 … 48")

_ALL = (CAPACITANCE, RESISTANCE, VOLTAGE, CURRENT, POWER, FREQUENCY, SPEED, RATIO, TEMPERATURE, TIME)
_NUMBER = r"[0-9]+(?:\.[0-9]*)?|\.[0-9]+"
_INFIX = re.compile(r"([0-9]+)([pnumkKMRVAΩ])([0-9]+)\s*([^\s0-9.]*)")
_PLAIN = re.compile(rf"({_NUMBER})(?:e([+-]?[0-9]{{1,2}}))?\s*([^\s0-9.].*)?")
_FRACTION = re.compile(r"([0-9]{1,4})\s*/\s*([0-9]{1,4})\s*(\S*)")


_DECOR = re.compile(r"^(?:max\.?|[≤~≈])\s*|\s*\bmax\.?$", re.IGNORECASE)
"""What labels put around a value"""


def parse(field: str, text: str, dimension: Dimension) -> float:
    """Read a value typed in bench notation.

    Parameters
    ----------
    field : str
        Name of the field for messages [-]
    text : str
        What was typed, such as ``2u7``, ``2,7 µF``, ``180k``, ``0R47``, ``1/2 W`` [-]
    dimension : Dimension
        What the field takes [-]

    Returns
    -------
    float
        The value in the dimension's SI unit; per cent stay per cent, rpm stay rpm [any]

    Raises
    ------
    InputError
        Empty, unreadable, wrong unit, ambiguous or outside what can be real.
    """
    example = dimension.example
    if not isinstance(text, str) or not text.strip():
        raise InputError(field, text, example, f"{dimension.name} are wanted here")
    if len(text) > 40:
        raise InputError(field, text, example, "too long for a value")
    tidy = (
        text.strip()
        .replace("µ", "u")
        .replace("μ", "u")
        .replace("\u2126", "Ω")
        .replace("\u2212", "-")
        .replace("\u00b3", "3")
        .replace("\u207b\u00b9", "-1")
        .replace("\u00a0", " ")
        .replace("\u202f", " ")
    )
    tidy = _DECOR.sub("", tidy).strip()
    below = tidy.startswith("-") and dimension.low < 0
    tidy = tidy[1:].lstrip() if below else tidy
    if tidy.startswith("-"):
        raise InputError(field, text, example, "must not be negative")
    tidy = _decimal_point(field, text, tidy.removeprefix("+").strip(), example)
    value = _read(field, text, tidy, dimension, example, -1 if below else 1)
    if dimension.name == "poles" and (value != round(value) or round(value) % 2):
        raise InputError(field, text, "2, 4, 6 … 48", "poles come in pairs")
    if value == 0 and dimension.low > 0:
        raise InputError(field, text, _range(dimension), "must be above zero")
    if not dimension.low <= value <= dimension.high:
        meant = next((v for v in (value / 1000, value * 1000) if dimension.low < v <= dimension.high), None)
        if not dimension.prefixes:
            meant = None
        raise InputError(
            field,
            text,
            _range(dimension),
            f"reads as {show(value, dimension)}, which cannot be right"
            + ("" if meant is None else "; a slip of a thousand in the unit?"),
            "" if meant is None else show(meant, dimension),
        )
    return value


_BARE = re.compile(r"[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+")
_THOUSAND, _NEAR = 1000.0, 3.0
"""How near a reading must come to what is expected once it is taken a thousand times smaller or larger [-]"""


def meant(text: str, value: float, low: float, high: float, dimension: Dimension) -> str:
    """What a bare number was meant for that lies a thousand times off what is expected.

    Parameters
    ----------
    text : str
        As typed; with a unit it is meant as it stands [-]
    value : float
        As it was read [any]
    low : float
        Where it is expected, lower end [any]
    high : float
        Upper end [any]
    dimension : Dimension
        What it is [-]

    Returns
    -------
    str
        As it would be typed, unit included; empty where nothing speaks for a slip [-]
    """
    if not _BARE.fullmatch(text.strip()) or not dimension.prefixes or not low > 0 or value <= 0:
        return ""
    for other in (value / _THOUSAND, value * _THOUSAND):
        if low / _NEAR <= other <= high * _NEAR:
            return show(other, dimension, 4)
    return ""


_BEYOND = re.compile(r"^(?:o\.?l\.?|over(?:load|range)?|∞|inf(?:inite)?|>\s*[0-9].*)$", re.IGNORECASE)


def beyond_range(text: str) -> bool:
    """Whether a text says that a meter showed nothing but "beyond my range": OL, over, ∞, >200M.

    Parameters
    ----------
    text : str
        As typed [-]

    Returns
    -------
    bool
        True for a reading beyond range [-]
    """
    return _BEYOND.match(text.strip()) is not None


def _range(dimension: Dimension) -> str:
    return f"{show(dimension.low, dimension)} to {show(dimension.high, dimension)}"


def _decimal_point(field: str, text: str, tidy: str, example: str) -> str:
    if "," not in tidy:
        return tidy
    if tidy.count(",") > 1 or "." in tidy:
        raise InputError(field, text, example, "write it without thousands separators")
    if re.match(r"[1-9][0-9]{0,2},[0-9]{3}(?![0-9])", tidy):
        whole, _, rest = tidy.partition(",")
        raise InputError(
            field,
            text,
            example,
            f"can be read as {whole}{rest[:3]} or as {whole}.{rest[:3].rstrip('0') or '0'}: write it without the comma",
        )
    return tidy.replace(",", ".")


def _read(field: str, text: str, tidy: str, dimension: Dimension, example: str, sign: int = 1) -> float:
    if match := _FRACTION.fullmatch(tidy):
        over, under, tail = match.groups()
        if int(under) == 0:
            raise InputError(field, text, example, "cannot divide by zero")
        return sign * int(over) / int(under) * _scale(field, text, tail, dimension, example)
    if match := _INFIX.fullmatch(tidy):
        whole, letter, part, tail = match.groups()
        letter = letter.replace("K", "k")
        number = sign * float(f"{whole}.{part}")
        # The letter stands for the decimal point: a prefix, or the unit itself (0R47, 5V1).
        if letter in _PREFIX:
            return number * _scale(field, text, letter + tail, dimension, example)
        return (
            number
            * _scale(field, text, letter, dimension, example)
            * (1.0 if not tail else _nothing_after(field, text, example))
        )
    if match := _PLAIN.fullmatch(tidy):
        digits, exponent, tail = match.groups()
        number = sign * float(digits) * 10.0 ** int(exponent or 0)
        for name, factor, offset in dimension.others:
            if (tail or "").replace(" ", "").lower() == name.lower():
                return factor * number + offset
        return number * _scale(field, text, (tail or "").strip(), dimension, example)
    raise InputError(field, text, example, "cannot be read as a value")


def _nothing_after(field: str, text: str, example: str) -> float:
    raise InputError(field, text, example, "cannot be read as a value")


def _scale(field: str, text: str, tail: str, dimension: Dimension, example: str) -> float:
    tail = tail.replace(" ", "")
    if not tail:
        return _PREFIX[dimension.bare]
    if dimension is CAPACITANCE and tail.lower() in ("mfd", "ufd"):
        return 1e-6  # as printed on older run capacitors
    found = _unit(tail, dimension)
    if found is not None:
        return found
    for other in _ALL:
        if (
            other is not dimension
            and len(tail) > 0
            and any(_spelled(tail, prefix, name) for prefix in ("", *other.prefixes) for name in other.names)
        ):
            raise InputError(field, text, example, f"is in {other.name}; this field takes {dimension.name}")
    raise InputError(field, text, example, f"“{tail[:12]}” is not a unit this field knows")


def _unit(tail: str, dimension: Dimension) -> float | None:
    for prefix in ("", *dimension.prefixes):
        if prefix and tail in (prefix, prefix.upper() if prefix == "k" else prefix):
            return _PREFIX[prefix]
        if any(_spelled(tail, prefix, name) for name in dimension.names):
            return _PREFIX[prefix]
    return None


def _spelled(tail: str, prefix: str, name: str) -> bool:
    head, rest = tail[: len(prefix)], tail[len(prefix) :]
    return head in (prefix, "K" if prefix == "k" else prefix) and rest.lower() == name.lower()


def show(value: float, dimension: Dimension, digits: int = 3) -> str:
    """Write a value for reading: ``2.7 µF``, ``318 mA``, ``1.8 kΩ``.

    Parameters
    ----------
    value : float
        Value in the dimension's SI unit [any]
    dimension : Dimension
        What it is [-]
    digits : int
        Significant digits at the most [-]

    Returns
    -------
    str
        Number, space, unit [-]
    """
    prefix = _prefix_for(value, dimension)
    number = plain(value / _PREFIX[prefix], digits)
    unit = dimension.unit if dimension is not POLES else "poles"
    return f"{number} {prefix.replace('u', 'µ')}{unit}"


def bench(value: float, dimension: Dimension, digits: int = 3) -> str:
    """Write a value in bench notation: ``2u7``, ``180k``, ``0R47``; `parse` reads it back.

    Parameters
    ----------
    value : float
        Value in the dimension's SI unit [any]
    dimension : Dimension
        What it is [-]
    digits : int
        Significant digits at the most [-]

    Returns
    -------
    str
        Bench notation [-]
    """
    prefix = _prefix_for(value, dimension)
    number = plain(value / _PREFIX[prefix], digits)
    letter = prefix or {"ohms": "R", "volts": "V"}.get(dimension.name, "")
    if not letter:
        return f"{number}{dimension.unit}"
    whole, _, part = number.partition(".")
    return (
        f"{whole}{letter}{part}"
        if dimension in (CAPACITANCE, RESISTANCE)
        else f"{number}{prefix}{dimension.unit}"
    )


def _prefix_for(value: float, dimension: Dimension) -> str:
    usable = sorted(("", *dimension.prefixes), key=lambda p: _PREFIX[p])
    size = abs(value)
    best = usable[0]
    for prefix in usable:
        # Rounding first, so that 999.9 nF moves on to 1 µF.
        if float(f"{size:.3g}") >= _PREFIX[prefix]:
            best = prefix
    if size == 0:
        return dimension.bare
    if dimension is RESISTANCE and best == "m" and size >= 1e-2:
        return ""  # 0R47, as printed
    # Parts carry microfarads down to 0.1: 0.68 µF reads better than 680 nF.
    return "u" if dimension is CAPACITANCE and size >= 0.99e-7 and best == "n" else best


_MOST_PLACES = 6
"""After the point; what is left beyond them of a unit with its prefix is nothing [-]"""


def plain(number: float, digits: int = 3) -> str:
    """Write a number with at most ``digits`` significant digits and no exponent.

    Parameters
    ----------
    number : float
        Any finite number [any]
    digits : int
        Significant digits [-]

    Returns
    -------
    str
        Decimal text without trailing zeros after the point [-]

    Raises
    ------
    InputError
        The number is not finite.
    """
    if not math.isfinite(number):
        raise InputError("number", number, "finite", "not a finite number")
    if number == 0:
        return "0"
    places = min(_MOST_PLACES, max(0, digits - 1 - math.floor(math.log10(abs(number)))))
    text = f"{round(number, places) + 0.0:.{places}f}".replace("-", "−")
    return text.rstrip("0").rstrip(".") if "." in text else text


def signed(number: float, places: int = 0) -> str:
    """Write a number with its sign: ``+12``, ``−0.4``, ``0``.

    Parameters
    ----------
    number : float
        Any finite number [any]
    places : int
        Digits after the point [-]

    Returns
    -------
    str
        Decimal text; nought has no sign [-]

    Raises
    ------
    InputError
        The number is not finite.
    """
    if not math.isfinite(number):
        raise InputError("number", number, "finite", "not a finite number")
    value = round(number, places) + 0.0
    return f"{value:.{places}f}" if value == 0 else f"{value:+.{places}f}".replace("-", "−")


def with_uncertainty(value: float, half_width: float, unit: str) -> str:
    """Write a value to the digits its uncertainty allows: ``241 ± 12 rpm``.

    Parameters
    ----------
    value : float
        The value, in ``unit`` [any]
    half_width : float
        Half the width of its band, in ``unit`` [any]
    unit : str
        Unit as shown [-]

    Returns
    -------
    str
        Text; the uncertainty has two digits when its first is 1 to 2 or when it is above ten, else one [-]

    Raises
    ------
    InputError
        A number is not finite or the half width is negative.
    """
    if not (math.isfinite(value) and math.isfinite(half_width)) or half_width < 0:
        raise InputError("half_width", half_width, "0 or more", "an uncertainty is finite and not negative")
    tail = f" {unit}" if unit else ""
    if half_width == 0:
        return f"{plain(value, 4)}{tail}"
    exponent = math.floor(math.log10(half_width))
    leading = half_width / 10**exponent
    digits = 2 if exponent >= 1 or leading < 2.95 else 1
    places = max(0, digits - 1 - exponent)
    step = 10.0 ** (exponent - digits + 1) if exponent >= 1 else 10.0**-places
    rounded = round(value / step) * step + 0.0
    return f"{rounded:.{places}f} ± {round(half_width / step) * step:.{places}f}{tail}".replace("-", "−")


def worked(
    result: float, say: Callable[[float], str], relation: Callable[..., float], *given: float
) -> tuple[str, ...]:
    """Write what a result is worked out from with so many digits that working it again gives the result as it is said.

    Parameters
    ----------
    result : float
        The result [any]
    say : callable
        How the result is written [-]
    relation : callable
        The relation, of as many numbers as are given [-]
    given : float
        What goes into it [any]

    Returns
    -------
    tuple of str
        Each number, with three digits or as many more as it takes [-]

    Raises
    ------
    InputError
        A number is not finite.
    """
    texts: tuple[str, ...] = ()
    for digits in range(3, 9):
        texts = tuple(plain(v, digits) for v in given)
        if say(relation(*(float(t.replace("−", "-")) for t in texts))) == say(result):
            break
    return texts


_ALIKE = 0.01
"""Ends that lie closer together than this are one number [-]"""


def between(low: float, high: float) -> str:
    """Write where a number lies, to the digits that its width allows: "3–14", "0.28–0.41".

    Parameters
    ----------
    low : float
        Lower end [any]
    high : float
        Upper end [any]

    Returns
    -------
    str
        One number where both ends read alike [-]

    Raises
    ------
    InputError
        Ends that are not finite or the wrong way round.
    """
    if not (math.isfinite(low) and math.isfinite(high)) or low > high:
        raise InputError("low", low, f"at most {high}", "the ends of a band are finite, the lower one first")
    half = (high - low) / 2
    if half <= _ALIKE * max(abs(high), abs(low)):
        return plain((low + high) / 2, 2)
    exponent = math.floor(math.log10(half))
    # The lower end keeps its own first digit: "5–40" says more than "0–40".
    own = min(exponent, math.floor(math.log10(abs(low)))) if low else exponent
    first, last = (
        f"{round(v / 10.0**e) * 10.0**e:.{max(0, -exponent)}f}" if e == exponent else plain(v, 1)
        for v, e in ((low, own), (high, exponent))
    )
    return first if first == last else f"{first}–{last}"


_E24 = (10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91)
SERIES = {"E6": _E24[::4], "E12": _E24[::2], "E24": _E24}
"""Preferred numbers of IEC 60063, as two-digit mantissas."""


def preferred(series: str, low: float, high: float) -> NDArray[np.float64]:
    """All preferred values of a series from ``low`` to ``high``, rising.

    Parameters
    ----------
    series : str
        E6, E12 or E24 [-]
    low : float
        Smallest value wanted, above zero [any]
    high : float
        Largest value wanted [any]

    Returns
    -------
    array
        Values, rising [any]

    Raises
    ------
    InputError
        Unknown series, or a range that is empty or not positive.
    """
    if series not in SERIES:
        raise InputError("series", series, ", ".join(SERIES), "not a series of preferred values")
    check_range("low", low, 1e-15, 1e12, "")
    check_range("high", high, float(low), 1e12, "")
    first, last = math.floor(math.log10(low)) - 1, math.ceil(math.log10(high)) + 1
    # Through decimal text, so that 2.7e-6 is the same float everywhere.
    values = [
        float(f"{mantissa}e{decade - 1}") for decade in range(first, last) for mantissa in SERIES[series]
    ]
    return np.array([v for v in values if low * (1 - 1e-9) <= v <= high * (1 + 1e-9)])


def nearest(series: str, value: float) -> float:
    """The preferred value nearest to ``value`` in ratio.

    Parameters
    ----------
    series : str
        E6, E12 or E24 [-]
    value : float
        Wanted value, above zero [any]

    Returns
    -------
    float
        The preferred value [any]

    Raises
    ------
    InputError
        Unknown series or a value that is not positive.
    """
    check_range("value", value, 1e-14, 1e11, "")
    around = preferred(series, value / 10, value * 10)
    return float(around[np.argmin(np.abs(np.log(around / value)))])
