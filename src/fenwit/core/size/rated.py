"""What a part bears at worst, against its rating: the shapes every switched regulator in the line shares."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenwit.core.quantity import preferred
from fenwit.core.size.classes import PartClass

FloatArray = NDArray[np.float64]

MAINS = (0.9, 1.0, 1.1)
"""Mains volts over their stated value at which a bank is judged [-]"""
WIRE_A, WIRE_V = 6.0, 300.0
"""0.75 mm² copper with 300/500 V insulation: amps, and volts to earth [A, V]"""


class Moment(StrEnum):
    """When a part bears its worst."""

    RUNNING = "running"
    AT_REST = "at rest"
    SWITCHING = "switching"


class Burden(StrEnum):
    """What a part bears."""

    VOLTS = "volts"
    CREST = "crest volts"
    AMPS = "amps"
    PEAK = "peak amps"
    EQUALISING = "equalising amps"
    WATTS = "watts"
    SURGE = "surge"
    MELTING = "melting"
    HEAT = "case"


UNITS = {
    Burden.VOLTS: "V",
    Burden.CREST: "V",
    Burden.AMPS: "A",
    Burden.PEAK: "A",
    Burden.EQUALISING: "A",
    Burden.WATTS: "W",
    Burden.SURGE: "J",
    Burden.MELTING: "A²s",
    Burden.HEAT: "°C",
}


@dataclass(frozen=True)
class Stress:
    """One burden of one part at its worst."""

    burden: Burden
    value: float
    rating: float
    position: str
    """Name of the worst position, or of the passage between two"""
    mains: float
    """Mains volts over their stated value at the worst [-]"""
    moment: Moment
    passage: bool = False
    """The position is a passage between two, by its name"""

    @property
    def share(self) -> float:
        """Stress over rating [-]"""
        return self.value / self.rating

    @property
    def holds(self) -> bool:
        """Whether the part bears it."""
        return self.share <= 1 + 1e-9


class RatedKind(StrEnum):
    """What a rated part does in its regulator."""

    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    BLEED = "bleed"
    LIMITER = "limiter"
    FUSE = "fuse"
    SWITCH = "switch"
    WIRE = "wire"


@dataclass(frozen=True)
class RatedPart:
    """A part of a regulator with its rating and what it bears."""

    name: str
    """As on the schematic"""
    kind: RatedKind
    of: str
    """The part it serves; empty where it serves all [-]"""
    part_class: PartClass | None
    """None for wire"""
    value: float
    """Farads, ohms or amps; positions of the switch; 0 for wire [F|Ω|A|-]"""
    pieces: int
    """How many in series make it up [-]"""
    rating: float
    """Volts of a capacitor, watts of a resistor, volts of fuse, switch and wire [V|W]"""
    stresses: tuple[Stress, ...]
    limit: float | None = None
    """Highest ohms of a bleed, lowest ohms of a limiter, lowest amps of a fuse [Ω|A]"""
    by_hand: bool = False
    refusal: str = ""
    """Why it will not do; empty when it will [-]"""

    @property
    def worst(self) -> Stress | None:
        """The burden nearest to its limit."""
        return max(self.stresses, key=lambda s: s.share, default=None)


@lru_cache(maxsize=4)
def _ohms(series: str) -> FloatArray:
    return preferred(series, 0.1, 1e8)


def at_most(series: str, ohms: float) -> float:
    """The largest preferred value not above so many ohms."""
    return float(_ohms(series)[np.searchsorted(_ohms(series), ohms * (1 + 1e-9), side="right") - 1])


def at_least(series: str, ohms: float) -> float:
    """The smallest preferred value not below so many ohms."""
    return float(_ohms(series)[np.searchsorted(_ohms(series), ohms * (1 - 1e-9))])


def judged(part: RatedPart) -> RatedPart:
    """The part with a refusal where a burden passes its rating."""
    over = [s for s in part.stresses if not s.holds]
    if part.refusal or not over:
        return part
    worst = max(over, key=lambda s: s.share)
    unit = UNITS[worst.burden]
    words = (
        f"under-rated: {worst.value:.3g} {unit} {worst.burden} at step {worst.position}, "
        f"where it bears {worst.rating:.3g} {unit}"
    )
    return replace(part, refusal=words)
