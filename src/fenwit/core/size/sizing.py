"""What is decided before parts are looked for: the switch, classes and series, the housing."""

from __future__ import annotations

from dataclasses import dataclass, field

from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.kinds import Method
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import PartClass, check_capacitor
from fenwit.core.size.merits import Choosing
from fenwit.core.size.switch import Switch

MOST_CAPACITORS = 3
"""In one regulator [-]"""


@dataclass(frozen=True)
class Sizing:
    """What the technician has decided before anything is chosen; each method takes of it what it needs."""

    switch: Switch = field(default_factory=Switch)
    part_class: PartClass = PartClass.X2_FILM
    """Class of the capacitors that are bought"""
    most: int = 3
    """Most capacitors in a bank [-]"""
    series: str = "E12"
    fixed: tuple[Capacitor, ...] = ()
    """Capacitors that must be in the bank"""
    enclosed: bool = False
    method: Method = Method.SERIES_CAPACITOR
    """What the wanted speeds are reckoned with while nothing is chosen"""
    choosing: Choosing = field(default_factory=Choosing)
    """What matters when ways of regulating are compared"""

    def __post_init__(self) -> None:
        check_range("sizing.most", self.most, 1, MOST_CAPACITORS, "")
        if self.series not in ("E6", "E12"):
            raise InputError("sizing.series", self.series, "E6, E12", "capacitors are made in E6 and E12")
        check_capacitor("sizing.part_class", self.part_class)
        if len(self.fixed) > self.most:
            raise InputError(
                "sizing.fixed", len(self.fixed), f"up to {self.most}", "more fixed than a bank may have"
            )
        for part in self.fixed:
            check_capacitor("sizing.fixed", part.part_class)
