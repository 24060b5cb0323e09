"""What a sensor says, over volts or as a thermistor, and when it must not be believed (docs/ec.md)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from fenwit.core.errors import InputError, check_range

MARGIN = 0.05
"""How far beyond its range a signal may lie, over the span [-]"""
KELVIN = 273.15
COLDEST_C, WARMEST_C = -40.0, 150.0
"""Beyond them a thermistor counts as broken [°C]"""


class SensorState(StrEnum):
    """Whether a signal may be believed."""

    OK = "ok"
    UNSURE = "unsure"
    """At the bottom of a range that starts at 0: nothing there, or a broken wire"""
    BROKEN = "broken"
    """Below its live zero"""
    HIGH = "high"


@dataclass(frozen=True)
class Sensor:
    """A linear sensor: its range in volts, and what the ends mean."""

    range_low_v: float
    range_high_v: float
    value_low: float
    value_high: float
    margin: float = MARGIN

    def __post_init__(self) -> None:
        check_range("range_low_v", self.range_low_v, 0.0, 100.0, "V")
        check_range("range_high_v", self.range_high_v, 0.0, 100.0, "V")
        check_range("value_low", self.value_low, -1e9, 1e9, "")
        check_range("value_high", self.value_high, -1e9, 1e9, "")
        check_range("margin", self.margin, 0.0, 0.5, "")
        if self.range_high_v <= self.range_low_v:
            raise InputError(
                "range_high_v",
                self.range_high_v,
                f"above {self.range_low_v:g} V",
                "a range of nothing tells nothing",
            )
        if self.value_high == self.value_low:
            raise InputError(
                "value_high",
                self.value_high,
                f"not {self.value_low:g}",
                "both ends of its range mean the same",
            )

    @property
    def live_zero(self) -> bool:
        """Whether a broken wire shows by its level [-]"""
        return self.range_low_v > 0

    def state(self, voltage_v: float) -> SensorState:
        """Whether a signal may be believed [V → -]"""
        m = self.margin * (self.range_high_v - self.range_low_v)
        if voltage_v > self.range_high_v + m:
            return SensorState.HIGH
        if self.live_zero and voltage_v < self.range_low_v - m:
            return SensorState.BROKEN
        if not self.live_zero and voltage_v <= m:
            return SensorState.UNSURE
        return SensorState.OK

    def value(self, voltage_v: float) -> float | None:
        """What a signal means; None where it must not be believed [V → any]"""
        if self.state(voltage_v) in (SensorState.HIGH, SensorState.BROKEN):
            return None
        share = (voltage_v - self.range_low_v) / (self.range_high_v - self.range_low_v)
        return self.value_low + (self.value_high - self.value_low) * share

    def voltage_v(self, value: float) -> float:
        """Signal for a value [any → V]; raises InputError beyond its range."""
        share = (value - self.value_low) / (self.value_high - self.value_low)
        if not -self.margin <= share <= 1 + self.margin:
            low, high = sorted((self.value_low, self.value_high))
            raise InputError("value", value, f"{low:g} to {high:g}", "beyond its range")
        return self.range_low_v + share * (self.range_high_v - self.range_low_v)


@dataclass(frozen=True)
class Thermistor:
    """A resistor that falls as it warms: R = R25 e^(B (1/T − 1/298.15))."""

    r25_ohm: float
    beta_k: float

    def __post_init__(self) -> None:
        check_range("r25_ohm", self.r25_ohm, 1e-2, 1e9, "Ω")
        check_range("beta_k", self.beta_k, 100.0, 2e4, "K")

    def resistance_ohm(self, temperature_c: float) -> float:
        """At a temperature [°C → Ω]"""
        check_range("temperature_c", temperature_c, -100.0, 500.0, "°C")
        return self.r25_ohm * math.exp(self.beta_k * (1 / (temperature_c + KELVIN) - 1 / (25 + KELVIN)))

    def temperature_c(self, resistance_ohm: float) -> float:
        """From a resistance [Ω → °C]; raises InputError where no temperature gives it."""
        check_range("resistance_ohm", resistance_ohm, 1e-9, 1e15, "Ω")
        inverse = math.log(resistance_ohm / self.r25_ohm) / self.beta_k + 1 / (25 + KELVIN)
        if inverse <= 1 / 2000:
            raise InputError("resistance_ohm", resistance_ohm, "more", "no temperature gives so few ohms")
        return 1 / inverse - KELVIN

    @staticmethod
    def believed(temperature_c: float) -> bool:
        """Whether a temperature can be one: an open thermistor reads as deep cold and would stop a fan [°C → -]"""
        return COLDEST_C <= temperature_c <= WARMEST_C
