"""Real switches: an Off and some positions, and the nets every regulator on one has."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.errors import InputError, check_range

SUPPLY, MOTOR, FED = "L", "M", "fed"
"""Nets: supply terminal, motor terminal, behind the fuse"""
SWITCH_VOLTS = (250.0, 400.0)
"""What mains switches are usually rated for [V]"""


@dataclass(frozen=True)
class Switch:
    """A rotary or pull switch: an Off and some positions."""

    positions: int = 4
    """Positions beside Off [-]"""
    poles: int = 2
    series_pairs: bool = True
    """Wired so that two capacitors can stand in series"""
    make_before_break: bool = False
    rated_current_a: float = 6.0
    rated_voltage_v: float = 250.0
    make_current_a: float = 80.0
    """Peak its contacts may close on [A]"""

    def __post_init__(self) -> None:
        for name, value, low, high in (("positions", self.positions, 2, 6), ("poles", self.poles, 1, 2)):
            if check_range(f"switch.{name}", value, low, high, "") != int(value):
                raise InputError(f"switch.{name}", value, f"{low} to {high}", "a whole number is needed here")
        check_range("switch.rated_current_a", self.rated_current_a, 0.1, 40.0, "A")
        check_range("switch.rated_voltage_v", self.rated_voltage_v, 50.0, 1000.0, "V")
        check_range("switch.make_current_a", self.make_current_a, 1.0, 1000.0, "A")
