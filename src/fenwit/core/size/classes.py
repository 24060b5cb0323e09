"""Classes of parts: what each may be used for, its usual limits, and why some are refused in series with the mains."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range


class PartClass(StrEnum):
    """What sort of part it is."""

    X2_FILM = "x2-film"
    MOTOR_RUN = "motor-run"
    DC_FILM = "dc-film"
    ELECTROLYTIC = "electrolytic"
    METAL_FILM = "metal-film"
    WIREWOUND = "wirewound"
    FUSE = "fuse"
    SWITCH = "switch"


class Duty(StrEnum):
    """What a class of parts is for."""

    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    FUSE = "fuse"
    SWITCH = "switch"


@dataclass(frozen=True)
class ClassFacts:
    """What is taken for granted of a class until a maker's data sheet says otherwise."""

    name: str
    duty: Duty
    dimension: q.Dimension
    grounds: str
    """Where the figures come from [-]"""
    rated_v: float = 0.0
    """Usual rating: AC volts of a capacitor, working volts of one resistor [V]"""
    tolerance: float = 0.0
    loss_factor: float = 0.0
    """tan δ at mains frequency [-]"""
    current_a: float = 0.0
    """Continuous amps a capacitor of the class is meant for [A]"""
    hottest_c: float = 0.0
    """Highest temperature of the case [°C]"""
    rise_k_per_w: float = 0.0
    """Case over the air around it [K/W]"""
    cost: float = 0.0
    """Relative cost of one piece; of a capacitor for each microfarad on top of one [-]"""
    watts: tuple[float, ...] = ()
    """Sizes a resistor comes in [W]"""
    surge_j_per_w: float = 0.0
    """Energy of one pulse a resistor takes, for each rated watt [J/W]"""
    refused: str = ""
    """Why it may not stand in series with the mains; empty when it may [-]"""


CLASSES: dict[PartClass, ClassFacts] = {
    PartClass.X2_FILM: ClassFacts(
        "film X2",
        Duty.CAPACITOR,
        q.CAPACITANCE,
        "safety class for connection to the mains; 305 V AC and ±10 % are the usual series",
        rated_v=305.0,
        tolerance=0.10,
        loss_factor=0.001,
        current_a=0.5,
        hottest_c=100.0,
        rise_k_per_w=30.0,
        cost=0.6,
    ),
    PartClass.MOTOR_RUN: ClassFacts(
        "motor-run film",
        Duty.CAPACITOR,
        q.CAPACITANCE,
        "made to run continuously at high current; 450 V AC and ±5 % are the usual series",
        rated_v=450.0,
        tolerance=0.05,
        loss_factor=0.002,
        current_a=6.0,
        hottest_c=85.0,
        rise_k_per_w=12.0,
        cost=1.0,
    ),
    PartClass.DC_FILM: ClassFacts(
        "film, DC-rated",
        Duty.CAPACITOR,
        q.CAPACITANCE,
        "rated in DC volts only",
        rated_v=630.0,
        tolerance=0.10,
        refused=(
            "rated in DC volts: it is not built for the discharges that AC makes inside it and may burn; "
            "take an X2 or a motor-run class"
        ),
    ),
    PartClass.ELECTROLYTIC: ClassFacts(
        "electrolytic",
        Duty.CAPACITOR,
        q.CAPACITANCE,
        "polarised, or meant for seconds of AC at the most",
        rated_v=450.0,
        tolerance=0.20,
        refused=(
            "electrolytic: on AC it heats, swells and bursts; start capacitors of this kind last for seconds only"
        ),
    ),
    PartClass.METAL_FILM: ClassFacts(
        "metal film",
        Duty.RESISTOR,
        q.RESISTANCE,
        "leaded resistors work at up to about 350 V each, whatever their watts",
        rated_v=350.0,
        tolerance=0.01,
        cost=0.1,
        watts=(0.25, 0.5, 1.0, 2.0, 3.0),
    ),
    PartClass.WIREWOUND: ClassFacts(
        "wire-wound",
        Duty.RESISTOR,
        q.RESISTANCE,
        "the wire takes about 2 J in one short pulse for each rated watt",
        rated_v=350.0,
        tolerance=0.05,
        cost=0.3,
        watts=(2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 25.0),
        surge_j_per_w=2.0,
    ),
    PartClass.FUSE: ClassFacts(
        "time-lag, high breaking capacity",
        Duty.FUSE,
        q.CURRENT,
        "1500 A breaking capacity at 250 V; melts at about 3 In² A²s in a short pulse",
        rated_v=250.0,
        cost=0.3,
    ),
    PartClass.SWITCH: ClassFacts(
        "rotary or pull switch",
        Duty.SWITCH,
        q.POLES,
        "mains switch for inductive load",
        rated_v=250.0,
        cost=2.0,
    ),
}

FUSES_A = (
    0.05, 0.063, 0.08, 0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0,
    6.3, 8.0, 10.0, 12.5, 16.0, 20.0,
)  # fmt: skip
"""Standard fuse ratings of IEC 60127 [A]"""
FUSE_MELTING = 3.0
"""Melting I²t over the square of rated amps, time-lag class, short pulse [s]"""
FUSE_FACTOR = 1.6
"""Rated amps over worst running amps [-]"""
DERATING = 0.5
"""Share of a resistor's rated watts it is used at [-]"""


def check_capacitor(field: str, part_class: PartClass) -> ClassFacts:
    """The facts of a capacitor class that may stand in series with the mains.

    Parameters
    ----------
    field : str
        Name of the field for messages [-]
    part_class : PartClass
        The class [-]

    Returns
    -------
    ClassFacts
        Its facts [-]

    Raises
    ------
    InputError
        Not a capacitor, or a class that is refused here; the reason says why.
    """
    facts = CLASSES[part_class]
    allowed = ", ".join(f.name for f in CLASSES.values() if f.duty is Duty.CAPACITOR and not f.refused)
    if facts.duty is not Duty.CAPACITOR:
        raise InputError(field, part_class.value, allowed, f"{facts.name} is not a capacitor")
    if facts.refused:
        raise InputError(field, part_class.value, allowed, facts.refused)
    return facts


def next_fuse(least_a: float) -> float:
    """The smallest standard fuse that carries a current.

    Parameters
    ----------
    least_a : float
        Amps it must be rated for [A]

    Returns
    -------
    float
        Standard rating [A]

    Raises
    ------
    InputError
        More than the largest standard fuse.
    """
    check_range("least_a", least_a, 0.0, FUSES_A[-1], "A", reason="no fuse of this kind is large enough")
    return next(a for a in FUSES_A if a >= least_a - 1e-12)


def next_watts(part_class: PartClass, least_w: float) -> float:
    """The smallest size of a resistor class that takes a power; the largest where none does.

    Parameters
    ----------
    part_class : PartClass
        A class of resistors [-]
    least_w : float
        Watts wanted, derating included [W]

    Returns
    -------
    float
        Rated watts [W]

    Raises
    ------
    InputError
        Not a class of resistors.
    """
    sizes = CLASSES[part_class].watts
    if not sizes:
        raise InputError("part_class", part_class.value, "a class of resistors", "this class has no watts")
    at = int(np.searchsorted(sizes, least_w - 1e-12))
    return sizes[min(at, len(sizes) - 1)]
