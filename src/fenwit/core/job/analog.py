"""What is known of a fan's low-voltage terminals: map over the control voltage, outputs, start (docs/ec.md)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.analog import HIGH_V, LOW_V, OFF_V, ON_V, SOFT_LAG_S, SOFT_RAMP_PER_S, SPAN_V, VoltLine
from fenwit.core.regulator.control_volts import INPUT_OHM, REFERENCE_A, REFERENCE_V

AUX_V, AUX_A = 24.0, 0.05
"""The sensor supply of such a fan, while nobody read it [V, A]"""
LEAKAGE_A, WAIT_MIN = 3.5e-3, 5.0
"""Earth leakage of each fan, and how long its DC link stays charged, while nobody read it [A, min]"""


class OpenInput(StrEnum):
    """What a fan does whose control wire is broken off."""

    STOPS = "stops"
    HOLDS = "holds"
    """It goes on as slowly as it can"""
    FULL = "full"


@dataclass(frozen=True)
class AnalogSheet:
    """What was typed of the terminals; None and empty: not known."""

    off_v: float | None = None
    on_v: float | None = None
    low_v: float | None = None
    high_v: float | None = None
    inverse: bool | None = None
    """Whether fewer volts mean more speed; None: nobody tried [-]"""
    volts: tuple[float, ...] = ()
    speeds_rpm: tuple[float, ...] = ()
    """Off its data sheet, at these volts [rpm]"""
    open_input: OpenInput = OpenInput.STOPS
    input_ohm: float | None = None
    reference_v: float = REFERENCE_V
    reference_a: float | None = None
    """What its 10 V output gives [A]"""
    aux_v: float = AUX_V
    aux_a: float | None = None
    """What its sensor supply gives [A]"""
    lag_s: float | None = None
    ramp_per_s: float | None = None
    """Most of full speed a second [1/s]"""
    leakage_a: float | None = None
    wait_min: float | None = None

    def __post_init__(self) -> None:
        for name, low, high, unit in _LIMITS:
            value = getattr(self, name)
            if value is not None:
                check_range(name, value, low, high, unit)
        if len(self.volts) != len(self.speeds_rpm):
            raise InputError(
                "speeds_rpm", len(self.speeds_rpm), f"{len(self.volts)} values", "one speed for each voltage"
            )
        if self.volts:
            check_range("volts", np.array(self.volts), 0.0, SPAN_V, "V")
            check_range("speeds_rpm", np.array(self.speeds_rpm), 0.0, 1e6, "rpm")
            if len(set(self.volts)) < 2:
                raise InputError(
                    "volts", len(set(self.volts)), "two and more", "a map needs two different voltages"
                )
        # Built here, so that a map that cannot be is refused where it is typed.
        _ = self.line(0.0, 1.0)

    def line(self, slowest_rpm: float, fastest_rpm: float, inverse: bool | None = None) -> VoltLine:
        """The line of its data, what is missing as usual. Raises InputError for bands that contradict each other."""
        low = LOW_V if self.low_v is None else self.low_v
        high = HIGH_V if self.high_v is None else self.high_v
        off = min(OFF_V, low) if self.off_v is None else self.off_v
        on = max(off, min(ON_V, high)) if self.on_v is None else self.on_v
        turned = bool(self.inverse) if inverse is None else inverse
        return VoltLine(slowest_rpm, fastest_rpm, off, on, low, high, turned)

    @property
    def takes_ohm(self) -> float:
        """Resistance of its input [Ω]"""
        return self.input_ohm or INPUT_OHM

    @property
    def gives_a(self) -> float:
        """What its 10 V output gives [A]"""
        return self.reference_a or REFERENCE_A

    @property
    def follows_s(self) -> float:
        """Its lag [s]"""
        return SOFT_LAG_S if self.lag_s is None else self.lag_s

    @property
    def ramps_per_s(self) -> float:
        """Its ramp [1/s]"""
        return SOFT_RAMP_PER_S if self.ramp_per_s is None else self.ramp_per_s


_LIMITS = (
    ("off_v", 0.0, SPAN_V, "V"),
    ("on_v", 0.0, SPAN_V, "V"),
    ("low_v", 0.0, SPAN_V, "V"),
    ("high_v", 0.0, SPAN_V, "V"),
    ("input_ohm", 100.0, 1e8, "Ω"),
    ("reference_v", 1.0, 30.0, "V"),
    ("reference_a", 1e-4, 1.0, "A"),
    ("aux_v", 1.0, 60.0, "V"),
    ("aux_a", 1e-4, 10.0, "A"),
    ("lag_s", 0.0, 120.0, "s"),
    ("ramp_per_s", 1e-3, 100.0, "1/s"),
    ("leakage_a", 0.0, 0.1, "A"),
    ("wait_min", 0.0, 60.0, "min"),
)
