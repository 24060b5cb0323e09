"""How wire-wound resistors are built, what each build carries in warm air, and how hot it gets."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import FloatOrArray, check_range

COOLING_EXPONENT = 0.8
"""Rise of a body in still air over its heat: convection and radiation together [-]"""
TOUCH_C = 60.0
"""Hotter than this burns the skin before the hand is away [°C]"""
BURNS_C = 90.0
"""Wood, paint and insulation near the regulator stay below this [°C]"""
FILM_W_M2K = 10.0
"""Heat that a wall in still room air gives off again [W/m²K]"""
_LEAST_MM = 20.0


class Build(StrEnum):
    """How a resistor is built."""

    CEMENT = "cement"
    TUBE = "tube"
    CLAD = "clad"


@dataclass(frozen=True)
class BuildFacts:
    """What is taken for granted of a build until a maker's data sheet says otherwise."""

    name: str
    short: str
    """The same beside others of its kind [-]"""
    watts: tuple[float, ...]
    """Sizes it comes in [W]"""
    air_c: float
    """Air up to which it carries its rated watts [°C]"""
    hottest_c: float
    """Of its surface [°C]"""
    working_v: float
    range_ohm: tuple[float, float]
    tolerance: float
    mounting: str


BUILDS: dict[Build, BuildFacts] = {
    Build.CEMENT: BuildFacts(
        "wire-wound in cement",
        "in cement",
        (5.0, 7.0, 10.0, 15.0, 20.0, 25.0),
        40.0,
        275.0,
        500.0,
        (0.1, 10e3),
        0.05,
        "standing off the board on its leads, never lying on it",
    ),
    Build.TUBE: BuildFacts(
        "wire-wound on a ceramic tube",
        "on a tube",
        (10.0, 15.0, 25.0, 50.0, 100.0, 160.0, 250.0),
        40.0,
        375.0,
        1000.0,
        (1.0, 47e3),
        0.05,
        "on brackets, level or upright with air through the tube",
    ),
    Build.CLAD: BuildFacts(
        "aluminium-clad wire-wound",
        "aluminium-clad",
        (10.0, 25.0, 50.0, 100.0),
        25.0,
        200.0,
        550.0,
        (0.1, 47e3),
        0.05,
        "bolted to bonded sheet metal with heat paste; without the plate it carries a third",
    ),
}


class Enclosure(StrEnum):
    """What stands around the resistors."""

    OPEN = "open"
    VENTED = "vented"
    CLOSED = "closed"


ENCLOSURES = {
    Enclosure.OPEN: ("open, guarded", 0.0),
    Enclosure.VENTED: ("slotted housing", 1.0),
    Enclosure.CLOSED: ("closed housing", 3.0),
}
"""In words, and by how much the air inside is warmer for each watt in it: estimates for a housing of a litre and a
half with 0.08 m² of walls, 10 W/m²K inside and outside [-, K/W]"""
WIRING_C = 70.0
"""Air that switch, fuse and ordinary wire in the same housing bear [°C]"""


def carries_w(build: Build, rated_w: FloatOrArray, air_c: FloatOrArray) -> FloatOrArray:
    """Watts a resistor carries for good in air of a temperature.

    Falls in a straight line from its rated watts at the air it is rated for to nothing at its hottest surface.

    Parameters
    ----------
    build : Build
        How it is built [-]
    rated_w : float or array
        Rated watts [W]
    air_c : float or array
        Air around it [°C]

    Returns
    -------
    float or array
        Watts [W]

    Raises
    ------
    InputError
        Air colder than −50 or hotter than 1000 °C.
    """
    check_range("air_c", air_c, -50.0, 1000.0, "°C")
    facts = BUILDS[build]
    share = (facts.hottest_c - np.asarray(air_c)) / (facts.hottest_c - facts.air_c)
    return rated_w * np.clip(share, 0.0, 1.0)


def surface_c(build: Build, rated_w: float, watts: FloatOrArray, air_c: FloatOrArray) -> FloatOrArray:
    """Surface of a resistor: ΔT = ΔT_rated (P/P_rated)^0.8 over the air around it.

    Parameters
    ----------
    build : Build
        How it is built [-]
    rated_w : float
        Rated watts [W]
    watts : float or array
        Heat it makes [W]
    air_c : float or array
        Air around it [°C]

    Returns
    -------
    float or array
        Hottest surface: an estimate [°C]

    Raises
    ------
    InputError
        Watts below zero.
    """
    check_range("watts", watts, 0.0, 1e6, "W")
    facts = BUILDS[build]
    return air_c + (facts.hottest_c - facts.air_c) * (np.asarray(watts) / rated_w) ** COOLING_EXPONENT


def clearance_m(watts: float, room_c: float) -> float:
    """Distance sideways at which what can burn stays below 90 °C, were all heat radiated: d = √(P / 4π h ΔT).

    Parameters
    ----------
    watts : float
        Heat [W]
    room_c : float
        Air of the room [°C]

    Returns
    -------
    float
        Rounded up to a centimetre, at least two [m]

    Raises
    ------
    InputError
        A room above 60 °C.
    """
    check_range("room_c", room_c, -40.0, 60.0, "°C")
    check_range("watts", watts, 0.0, 1e6, "W")
    bare_mm = 1000 * np.sqrt(watts / (4 * np.pi * FILM_W_M2K * (BURNS_C - room_c)))
    return float(max(_LEAST_MM, 10 * np.ceil(bare_mm / 10))) / 1000
