"""The signal on a control lead: band, levels, its late rise behind a pull-up, what a driver sinks (docs/duty.md)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fenwit.core.errors import InputError, check_range

NOMINAL_HZ, BAND_HZ, MET_HZ = 25e3, (21e3, 28e3), (1e3, 30e3)
"""Frequency of the lead: nominal, usual band, what fans are met on [Hz]"""
LOW_V, HIGH_V = 0.8, 5.25
"""Most volts that are low, and most that the lead bears [V]"""
SINK_A, DRIVER_A = 5e-3, 20e-3
"""Of one fan's pull-up while nobody knows it, and what a pin sinks [A]"""
WHINE_HZ, RIPPLE_HZ = 18e3, 10e3
"""Below the first it is heard, below the second torque ripples [Hz]"""
SWEEP_HZ, SWEEP_DUTY, SWEEP_NEAR = (1e3, 2e3, 5e3, 10e3, 15e3, 20e3, 25e3, 30e3), (0.3, 0.5, 0.7), 0.03
"""What to try on a fan outside the band, and how near its speeds must come to count as alike"""


@dataclass(frozen=True)
class PulledUp:
    """A lead that an open drain pulls down and a resistor pulls up."""

    pull_up_ohm: float
    load_f: float
    threshold_v: float
    """Above it the lead counts as high: of a Schmitt stage the upper one [V]"""
    supply_v: float = 5.0

    def __post_init__(self) -> None:
        check_range("pull_up_ohm", self.pull_up_ohm, 1e-3, 1e9, "Ω")
        check_range("load_capacitance_f", self.load_f, 0.0, 1.0, "F")
        check_range("supply_voltage_v", self.supply_v, 0.1, 1000.0, "V")
        check_range("threshold_v", self.threshold_v, 0.0, 1000.0, "V")
        if self.threshold_v >= self.supply_v:
            raise InputError(
                "threshold_v",
                self.threshold_v,
                f"below {self.supply_v:g} V",
                "the pull-up never lifts the lead so far",
            )

    @property
    def rise_delay_s(self) -> float:
        """R C ln(V/(V − V_thr)) [s]"""
        return self.pull_up_ohm * self.load_f * math.log(self.supply_v / (self.supply_v - self.threshold_v))

    def seen_duty(self, duty: float, frequency_hz: float) -> float:
        """What is left of a duty once its rising edge comes late; a lead that never falls has no edge [-, Hz → -]"""
        check_range("duty", duty, 0.0, 1.0, "")
        check_range("frequency_hz", frequency_hz, 1e-6, 1e9, "Hz")
        return 1.0 if duty == 1 else max(0.0, duty - self.rise_delay_s * frequency_hz)

    def sink_a(self, fans: float = 1) -> float:
        """What the driver must take, fans · V/R [A]"""
        return float(check_range("fans", fans, 1, 10_000, "")) * self.supply_v / self.pull_up_ohm
