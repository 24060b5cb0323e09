"""Capacitors as they are printed, measured, kept on the shelf and bought."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.errors import check_range
from fenwit.core.size.classes import CLASSES, PartClass

METER_TOLERANCE = 0.015
"""How far a measured capacitance may still be off: an ordinary meter [-]"""
CLASS_RANGE_F = {PartClass.X2_FILM: (0.1e-6, 10e-6), PartClass.MOTOR_RUN: (1e-6, 47e-6)}
"""Values a class of capacitors is made in [F]"""


@dataclass(frozen=True)
class Capacitor:
    """One capacitor of a bank, with what is printed on it and what was measured."""

    nominal_f: float
    part_class: PartClass = PartClass.X2_FILM
    rated_v: float = CLASSES[PartClass.X2_FILM].rated_v
    tolerance: float = CLASSES[PartClass.X2_FILM].tolerance
    measured_f: float | None = None
    shelf_id: int | None = None
    """Which part on the shelf it is, if any; means nothing to the core"""

    def __post_init__(self) -> None:
        check_range("capacitance", self.nominal_f, 1e-9, 1e-3, "F")
        check_range("rated_v", self.rated_v, 1.0, 5000.0, "V")
        check_range("tolerance", self.tolerance, 0.0, 0.9, "")
        if self.measured_f is not None:
            check_range(
                "measured",
                self.measured_f,
                0.3 * self.nominal_f,
                1.7 * self.nominal_f,
                "F",
                reason="too far from what is printed on it: another part, a slip in the unit, or a dead one",
            )

    @property
    def value_f(self) -> float:
        """Measured if it was, else as printed [F]"""
        return self.nominal_f if self.measured_f is None else self.measured_f

    @property
    def spread(self) -> float:
        """How far the true value may be from `value_f`, relative [-]"""
        return self.tolerance if self.measured_f is None else METER_TOLERANCE


@dataclass(frozen=True)
class Choice:
    """A capacitor the search may take."""

    capacitor: Capacitor
    at_hand: int = 0
    """How many of it lie on the shelf, free for this job; 0: to be bought [-]"""

    @property
    def cost(self) -> float:
        """Relative cost of one [-]"""
        return CLASSES[self.capacitor.part_class].cost * (1 + self.capacitor.nominal_f * 1e6)


def shelf_refusal(capacitor: Capacitor, supply_voltage_v: float) -> str:
    """Why a capacitor may not stand in series with this supply; empty when it may."""
    facts = CLASSES[capacitor.part_class]
    if facts.refused:
        return facts.refused
    if capacitor.rated_v < 1.1 * supply_voltage_v:
        return f"rated {capacitor.rated_v:g} V AC, below {1.1 * supply_voltage_v:.0f} V: the supply at +10 %"
    return ""
