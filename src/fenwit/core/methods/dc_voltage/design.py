"""What lowers the volts of DC fans: a resistor for each step, a linear or a switching regulator."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.job.state import MAX_STEPS
from fenwit.core.motor.kinds import Method

TACH = "the tachometer stays valid while it runs, pulled up to the logic's own supply"
"""What becomes of it [-]"""


class Way(StrEnum):
    """What takes the rest of the volts."""

    RESISTOR = "resistor"
    LINEAR = "linear"
    SWITCHING = "switching"


@dataclass(frozen=True)
class VoltsDesign:
    """A resistor or volts for each step, slowest first."""

    method: ClassVar[Method] = Method.DC_VOLTAGE

    way: Way
    settings: tuple[float, ...]
    """Ohms, 0 for a step on the supply itself; or volts at the fans [Ω|V]"""
    efficiency: float = 0.85
    """Of a switching regulator [-]"""
    dropout_v: float = 2.0
    """Of a linear one [V]"""
    ambient_c: float = 40.0
    junction_limit_c: float = 125.0
    case_k_w: float = 3.0
    """Junction to heat sink [K/W]"""
    fuse_a: float | None = None
    """Where set by hand [A]"""

    def __post_init__(self) -> None:
        if not 1 <= len(self.settings) <= MAX_STEPS:
            raise InputError(
                "settings", len(self.settings), f"1 to {MAX_STEPS}", "at least one step is wanted"
            )
        if self.way is Way.RESISTOR:
            check_range("settings", np.array(self.settings), 0.0, 1e5, "Ω")
        else:
            check_range("settings", np.array(self.settings), 0.5, 400.0, "V")
        check_range("efficiency", self.efficiency, 0.3, 0.99, "")
        check_range("dropout_v", self.dropout_v, 0.05, 10.0, "V")
        check_range("ambient_c", self.ambient_c, -40.0, 85.0, "°C")
        check_range("junction_limit_c", self.junction_limit_c, 60.0, 200.0, "°C")
        check_range("case_k_w", self.case_k_w, 0.0, 100.0, "K/W")
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 50.0, "A")
