"""A switch that chops the supply of fans without a control lead; with a choke and a diode they see direct volts."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.job.state import MAX_STEPS
from fenwit.core.motor.kinds import Method


class Tach(StrEnum):
    """What is done about a tachometer whose supply is chopped."""

    NONE = "none"
    """Nothing: it is not read"""
    BRIDGED = "bridged"
    """Gaps shorter than a limit are ignored"""
    STRETCHED = "stretched"
    """Every few seconds the supply is held on while two pulses are read"""


@dataclass(frozen=True)
class ChopDesign:
    """Duties of the supply, slowest step first, and what chops it."""

    method: ClassVar[Method] = Method.CHOPPED_SUPPLY

    duties: tuple[float, ...]
    frequency_hz: float = 25e3
    filtered: bool = True
    """A choke and a diode behind the switch: the fans see direct volts [-]"""
    on_ohm: float = 0.03
    rise_s: float = 50e-9
    fall_s: float = 50e-9
    junction_k_w: float = 60.0
    ambient_c: float = 40.0
    diode_v: float = 0.7
    tach: Tach = Tach.NONE
    every_s: float = 2.0
    """Between two readings of a stretched tachometer [s]"""
    settle_s: float = 0.0
    fuse_a: float | None = None
    """Where set by hand [A]"""

    def __post_init__(self) -> None:
        if not 1 <= len(self.duties) <= MAX_STEPS:
            raise InputError("duties", len(self.duties), f"1 to {MAX_STEPS}", "at least one step is wanted")
        check_range("duties", np.array(self.duties), 0.0, 1.0, "", reason="a duty lies between 0 and 100 %")
        check_range(
            "frequency_hz",
            self.frequency_hz,
            20.0,
            200e3,
            "Hz",
            reason="too slow to be chopping, or too fast",
        )
        check_range("on_ohm", self.on_ohm, 1e-4, 100.0, "Ω")
        check_range("rise_s", self.rise_s, 0.0, 1e-4, "s")
        check_range("fall_s", self.fall_s, 0.0, 1e-4, "s")
        check_range("junction_k_w", self.junction_k_w, 0.1, 500.0, "K/W")
        check_range("ambient_c", self.ambient_c, -40.0, 85.0, "°C")
        check_range("diode_v", self.diode_v, 0.1, 5.0, "V")
        check_range("every_s", self.every_s, 0.2, 600.0, "s")
        check_range("settle_s", self.settle_s, 0.0, 10.0, "s")
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 50.0, "A")
