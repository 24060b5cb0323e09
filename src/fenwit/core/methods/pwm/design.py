"""What makes the duty on the control lead: a microcontroller's timer, a timer IC, or a bench controller."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import ClassVar

import numpy as np

from fenwit.core.circuit.copper import TRACK_UM
from fenwit.core.errors import InputError, check_range
from fenwit.core.job.state import MAX_STEPS
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.control_lead import DRIVER_A, HIGH_V, NOMINAL_HZ
from fenwit.core.regulator.registers import PRESCALERS, TimerMode

MOST_STAGES = 4


LOGIC_A = 0.03
"""What the logic takes, while nobody says [A]"""


class Maker(StrEnum):
    """What makes the duty."""

    MICROCONTROLLER = "microcontroller"
    STEERED = "timer-diodes"
    """A timer IC whose pot stands between steering diodes"""
    PLAIN = "timer-plain"
    """A timer IC whose pot has its wiper on the discharge pin, without diodes"""
    ONE_SHOT = "one-shot"
    """A clock and a one-shot"""
    BENCH = "bench"
    """An adjustable controller for the bench"""

    @property
    def drawn(self) -> bool:
        """Whether resistors and a capacitor make it, drawn over a pot's travel; else a program does [-]"""
        return self not in (Maker.MICROCONTROLLER, Maker.BENCH)


class Drive(StrEnum):
    """What drives the lead."""

    OPEN_DRAIN = "open-drain"
    PUSH_PULL = "push-pull"


class PickedBy(StrEnum):
    """What a person picks a step by, where a program reads it."""

    JUMPERS = "jumpers"
    DIP = "dip"
    KNOB = "knob"
    ENCODER = "encoder"


@dataclass(frozen=True)
class Controller:
    """The timer of a microcontroller."""

    clock_hz: float = 16e6
    bits: int = 8
    prescalers: tuple[int, ...] = PRESCALERS
    mode: TimerMode | None = None
    choice: int = 0
    """Which of the settings that come near, the best first [-]"""
    picked_by: PickedBy = PickedBy.DIP
    time_out_s: float = 2.0
    """After which a lost set point means full speed [s]"""

    def __post_init__(self) -> None:
        check_range("clock_hz", self.clock_hz, 1e3, 1e9, "Hz")
        check_range("bits", self.bits, 6, 32, "")
        check_range("prescalers", np.array(self.prescalers or (0,), dtype=float), 1, 65536, "")
        check_range("choice", self.choice, 0, 100, "")
        check_range("time_out_s", self.time_out_s, 0.1, 600.0, "s")


@dataclass(frozen=True)
class TimerParts:
    """Resistors and capacitor around timer ICs."""

    high_ohm: float = 1e3
    low_ohm: float = 1e3
    pot_ohm: float = 100e3
    capacitance_f: float = 330e-12
    supply_v: float = 12.0
    rail_to_rail: bool = True
    """Whether what charges reaches the supply: CMOS, or a resistor from it; a bipolar output stays 1.5 V below [-]"""
    saturation_v: float = 0.1
    delay_s: float = 2e-7
    stray_f: float = 15e-12
    minimum_pulse_s: float = 5e-7
    """Shorter ones vanish in the next stage [s]"""
    trigger_low_s: float = 1e-6

    def __post_init__(self) -> None:
        for name in ("high_ohm", "low_ohm", "pot_ohm"):
            check_range(name, getattr(self, name), 10.0, 1e8, "Ω")
        check_range("capacitance_f", self.capacitance_f, 1e-12, 1e-3, "F")
        check_range("supply_v", self.supply_v, 3.0, 18.0, "V")
        check_range("saturation_v", self.saturation_v, 0.0, 2.0, "V")
        check_range("delay_s", self.delay_s, 0.0, 1e-4, "s")
        check_range("stray_f", self.stray_f, 0.0, 1e-9, "F")
        check_range("minimum_pulse_s", self.minimum_pulse_s, 0.0, 1e-3, "s")
        check_range("trigger_low_s", self.trigger_low_s, 0.0, 1e-2, "s")

    @property
    def charged_v(self) -> float:
        """What the capacitor charges from [V]"""
        return self.supply_v if self.rail_to_rail else self.supply_v - 1.5


@dataclass(frozen=True)
class BenchBox:
    """A controller for the bench: what it can be set to, and what its board bears."""

    low_hz: float = 2e3
    high_hz: float = 30e3
    step_hz: float = 500.0
    top_v: float | None = None
    """Most volts of its supply; None: those of the job [V]"""
    own_fan_a: float = 0.0
    """Of a fan that cools the box, from its logic supply; 0: none [A]"""
    own_limit_a: float = 0.5
    """What the switched output for that fan gives [A]"""
    track_mm: float | None = None
    """Of the track that carries the fans; None: not laid yet [mm]"""
    copper_um: float = TRACK_UM
    pin_a: float = 3.0
    """What one pin of its connectors bears [A]"""

    def __post_init__(self) -> None:
        check_range("low_hz", self.low_hz, 20.0, 200e3, "Hz")
        check_range("high_hz", self.high_hz, self.low_hz, 200e3, "Hz")
        check_range("step_hz", self.step_hz, 1.0, 100e3, "Hz")
        if self.count > MOST_FREQUENCIES:
            raise InputError(
                "step_hz",
                self.step_hz,
                f"so that there are at most {MOST_FREQUENCIES}",
                "too many frequencies to set",
            )
        for name, low, high, unit in (
            ("top_v", 3.0, 400.0, "V"), ("own_fan_a", 0.0, 20.0, "A"), ("own_limit_a", 0.01, 20.0, "A"),
            ("track_mm", 0.1, 100.0, "mm"), ("copper_um", 5.0, 500.0, "µm"), ("pin_a", 0.1, 100.0, "A"),
        ):  # fmt: skip
            value = getattr(self, name)
            if value is not None:
                check_range(name, value, low, high, unit)

    @property
    def count(self) -> int:
        """How many frequencies it can be set to [-]"""
        return int((self.high_hz - self.low_hz) / self.step_hz + 1e-9) + 1

    @property
    def frequencies_hz(self) -> tuple[float, ...]:
        """All of them, rising [Hz]"""
        return tuple(self.low_hz + i * self.step_hz for i in range(self.count))


MOST_FREQUENCIES = 200


@dataclass(frozen=True)
class DutyDesign:
    """Duties on the control lead, slowest step first, and what makes them."""

    method: ClassVar[Method] = Method.PWM

    maker: Maker
    duties: tuple[float, ...]
    """On the lead, as asked for [-]"""
    frequency_hz: float = NOMINAL_HZ
    stages: int = 1
    """Inverting stages between what makes the duty and the lead [-]"""
    drive: Drive = Drive.OPEN_DRAIN
    high_v: float = 5.0
    """What a push-pull driver puts on the lead [V]"""
    driver_a: float = DRIVER_A
    """What the driver sinks [A]"""
    controller: Controller = field(default_factory=Controller)
    timer: TimerParts = field(default_factory=TimerParts)
    logic_a: float = LOGIC_A
    """What the logic takes from its regulator [A]"""
    fuse_a: float | None = None
    """Where set by hand [A]"""
    logic_switching: bool = False
    """Whether a switching regulator feeds the logic; else a linear one [-]"""
    one_by_one: bool = False
    """Whether the fans start one after the other, each by a switch or a lead of its own [-]"""
    box: BenchBox = field(default_factory=BenchBox)

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
            reason="nothing that a fan takes for a signal",
        )
        check_range("stages", self.stages, 0, MOST_STAGES, "")
        check_range("high_v", self.high_v, 1.0, 60.0, "V")
        check_range("driver_a", self.driver_a, 1e-4, 10.0, "A")
        check_range("logic_a", self.logic_a, 0.0, 5.0, "A")
        if self.drive is Drive.PUSH_PULL and self.high_v > HIGH_V:
            raise InputError(
                "high_v",
                self.high_v,
                f"up to {HIGH_V:g} V",
                "the control lead bears no more: take an open drain, or lower volts",
            )
        if self.maker is Maker.BENCH and not any(
            abs(self.frequency_hz - f) < 0.5 for f in self.box.frequencies_hz
        ):
            box = self.box
            raise InputError(
                "frequency_hz",
                self.frequency_hz,
                f"{box.low_hz / 1e3:g} to {box.high_hz / 1e3:g} kHz in steps of {box.step_hz:g} Hz",
                "the box cannot be set to it",
            )
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 50.0, "A")

    @property
    def turned(self) -> bool:
        """Whether an odd number of stages turns the duty over [-]"""
        return self.stages % 2 == 1
