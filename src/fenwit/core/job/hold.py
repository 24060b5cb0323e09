"""What a fan holds by itself, as typed: a flow, a pressure, or the temperature of what it cools (docs/loops.md)."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from fenwit.core.errors import InputError, check_range
from fenwit.core.regulator.loop import Controller, Damper, Held
from fenwit.core.regulator.sensor import Sensor, Thermistor
from fenwit.core.regulator.thermal import MOST_SINKS, Curve, Profile, Sink

MOST_HOURS = 24.0


class Holds(StrEnum):
    """What moves the command."""

    NOTHING = "nothing"
    """Somebody sets it"""
    LOOP = "loop"
    HEAT = "heat"


class Reaction(StrEnum):
    """What happens while a sensor is not to be believed."""

    FULL = "full"
    LEAST = "least"
    STOPS = "stops"


@dataclass(frozen=True)
class LoopSensor:
    """What measures what is held: pressure across an inlet cone, or of the system."""

    range_low_v: float = 2.0
    range_high_v: float = 10.0
    low_pa: float = 0.0
    high_pa: float = 300.0
    supply_v: float = 24.0
    takes_a: float = 0.02
    error_share: float = 0.01
    """Of its range [-]"""
    cone_factor: float | None = None
    """m³/h for each √Pa at 1.2 kg/m³; None: not known [m³/h/√Pa]"""

    def __post_init__(self) -> None:
        _ = self.scale
        check_range("supply_v", self.supply_v, 1.0, 60.0, "V")
        check_range("takes_a", self.takes_a, 0.0, 1.0, "A")
        check_range("error_share", self.error_share, 0.0, 0.2, "")
        if self.cone_factor is not None:
            check_range("cone_factor", self.cone_factor, 1e-3, 1e6, "m³/h/√Pa")

    @property
    def scale(self) -> Sensor:
        """Its volts and what they mean [-]"""
        return Sensor(self.range_low_v, self.range_high_v, self.low_pa, self.high_pa)


@dataclass(frozen=True)
class LoopSheet:
    """A loop as it is set."""

    held: Held = Held.FLOW
    set_point: float | None = None
    """Flow or pressure; a share of full speed where that is held [m³/s|Pa|-]"""
    gain_kp: float = 0.5
    integral_s: float = 4.0
    sample_s: float = 0.5
    sensor_lag_s: float = 1.0
    least: float = 0.1
    """Lowest command, over full speed [-]"""
    clamped: bool = True
    reversed: bool = False
    damper: Damper = field(default_factory=Damper)
    total_s: float = 120.0
    sensor: LoopSensor = field(default_factory=LoopSensor)
    reaction: Reaction = Reaction.FULL

    def __post_init__(self) -> None:
        _ = self.controller(2.0, 0.1)
        check_range("total_s", self.total_s, 1.0, 3600 * MOST_HOURS, "s")
        if self.set_point is not None:
            check_range("set_point", self.set_point, 1e-9, 1e6, "")

    def controller(self, lag_s: float, ramp_per_s: float) -> Controller:
        """Its settings with how the fan follows a command [s, 1/s → -]"""
        return Controller(
            self.gain_kp, self.integral_s, self.sample_s, lag_s, ramp_per_s, self.sensor_lag_s, self.least,
            self.clamped, self.reversed,
        )  # fmt: skip


@dataclass(frozen=True)
class SinkSheet:
    """One heat sink, what it bears, and its load."""

    sink: Sink = field(default_factory=lambda: Sink(2.5, 0.6))
    profile: Profile = field(default_factory=lambda: Profile((10.0,), (3600.0,)))
    name: str = ""
    limit_c: float | None = None
    """Most its device bears; None: not typed [°C]"""

    def __post_init__(self) -> None:
        if self.limit_c is not None:
            check_range("limit_c", self.limit_c, 0.0, 400.0, "°C")
        if len(self.name) > 40:
            raise InputError("name", self.name[:40], "up to 40 characters", "too long")


class HeatSensor(StrEnum):
    """What reads the temperature."""

    NTC = "ntc"
    LINEAR = "linear"


@dataclass(frozen=True)
class Divider:
    """A thermistor under a resistor, or a linear sensor, as a controller reads it."""

    kind: HeatSensor = HeatSensor.NTC
    r25_ohm: float = 10e3
    beta_k: float = 3950.0
    series_ohm: float = 10e3
    supply_v: float = 5.0
    zero_v: float = 0.5
    """Of a linear one at 0 °C [V]"""
    per_k_v: float = 0.01
    bits: int = 10

    def __post_init__(self) -> None:
        _ = Thermistor(self.r25_ohm, self.beta_k)
        check_range("series_ohm", self.series_ohm, 10.0, 1e8, "Ω")
        check_range("supply_v", self.supply_v, 1.0, 30.0, "V")
        check_range("zero_v", self.zero_v, -10.0, 10.0, "V")
        check_range("per_k_v", self.per_k_v, 1e-4, 1.0, "V/K")
        if self.bits not in (8, 10, 12, 16):
            raise InputError("bits", self.bits, "8, 10, 12 or 16", "no converter has so many")


@dataclass(frozen=True)
class Knobs:
    """Ends that are turned: where the fan starts, and where it has its full speed."""

    start_low_c: float = 18.0
    start_high_c: float = 48.0
    full_low_c: float = 38.0
    full_high_c: float = 75.0

    def __post_init__(self) -> None:
        for name in ("start_low_c", "start_high_c", "full_low_c", "full_high_c"):
            check_range(name, getattr(self, name), -40.0, 400.0, "°C")
        if self.start_high_c <= self.start_low_c:
            raise InputError(
                "start_high_c", self.start_high_c, f"above {self.start_low_c:g} °C", "its scale has no length"
            )
        if self.full_high_c <= self.full_low_c:
            raise InputError(
                "full_high_c", self.full_high_c, f"above {self.full_low_c:g} °C", "its scale has no length"
            )


APART_K = 5.0
"""Between start and full of a curve whose ends are turned [K]"""


@dataclass(frozen=True)
class HeatSheet:
    """A fan that follows temperature."""

    curve: Curve = field(default_factory=Curve)
    sinks: tuple[SinkSheet, ...] = field(default_factory=lambda: (SinkSheet(),))
    ambient_c: float = 25.0
    warmest_c: float | None = None
    """Of the surroundings; None: as they are [°C]"""
    total_s: float = 3600.0
    one_each: bool = False
    """Whether every sink has a controller and fan of its own [-]"""
    turned: bool = False
    """Whether both ends are turned by knobs [-]"""
    knobs: Knobs = field(default_factory=Knobs)
    divider: Divider = field(default_factory=Divider)
    reaction: Reaction = Reaction.FULL

    def __post_init__(self) -> None:
        if not 1 <= len(self.sinks) <= MOST_SINKS:
            raise InputError(
                "sinks", len(self.sinks), f"1 to {MOST_SINKS}", "at least one heat sink is needed"
            )
        check_range("ambient_c", self.ambient_c, -60.0, 100.0, "°C")
        if (
            self.warmest_c is not None
            and check_range("warmest_c", self.warmest_c, -60.0, 100.0, "°C") < self.ambient_c
        ):
            raise InputError(
                "warmest_c", self.warmest_c, f"at least {self.ambient_c:g} °C", "it is warmer already"
            )
        check_range("total_s", self.total_s, 10.0, 3600 * MOST_HOURS, "s")
        curve = self.curve
        if self.turned and curve.full_c < curve.start_c + APART_K:
            raise InputError(
                "full_c",
                curve.full_c,
                f"at least {curve.start_c + APART_K:g} °C",
                "knobs are not set closer than that",
            )


@dataclass(frozen=True)
class HoldSheet:
    """All that was typed of it; nothing is forgotten while another thing is held."""

    holds: Holds = Holds.NOTHING
    loop: LoopSheet = field(default_factory=LoopSheet)
    heat: HeatSheet = field(default_factory=HeatSheet)

    @property
    def empty(self) -> bool:
        """Whether nothing was typed [-]"""
        return self == HoldSheet()
