"""Air of a job: what is known of fan, system and place, what flows at a speed, and the speed that a target asks for."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range
from fenwit.core.load import flow_between
from fenwit.core.load.air import REFERENCE_KG_M3, air_density_kg_m3, flow_from_rise_m3_s, rise_from_flow_k
from fenwit.core.load.curve import Air, FanCurve, System
from fenwit.core.load.laws import NOISE_FACTOR, speed_ratio_for_level
from fenwit.core.load.noise import NEAR_RESONANCE, alike_db, blade_pass_hz

FloatArray = NDArray[np.float64]
CURVE_DOUBT, READ_DOUBT, PLATE_DOUBT = 0.06, 0.05, 0.12
"""How far flow by a typed curve, as read, and off a label may be off: estimates [-]"""
NOISE_SPREAD = 5.0
"""The factor of noise lies within so much of its middle [dB]"""
_SLOW, _FULL = 0.6, 0.995
MOST_RESONANCES = 6


@dataclass(frozen=True)
class AirSheet:
    """What was typed of the air; None and empty: not known."""

    altitude_m: float | None = None
    inlet_c: float | None = None
    humidity: float | None = None
    flows_m3_s: tuple[float, ...] = ()
    pressures_pa: tuple[float, ...] = ()
    shafts_w: tuple[float, ...] = ()
    curve_rpm: float | None = None
    """Speed at which the curve was taken; None: full speed [rpm]"""
    curve_density_kg_m3: float = REFERENCE_KG_M3
    system_flow_m3_s: float | None = None
    system_pressure_pa: float | None = None
    """At that flow, at 1.2 kg/m³ [Pa]"""
    fixed_pressure_pa: float = 0.0
    parallel: int = 1
    series: int = 1
    full_flow_m3_s: float | None = None
    """Read at full speed [m³/s]"""
    heat_w: float | None = None
    """All that warms the air [W]"""
    full_level_db: float | None = None
    """Heard or read at full speed [dB]"""
    level_at_m: float | None = None
    level_fans: int | None = None
    """How many fans were heard; None: all of them [-]"""
    motor_poles: int | None = None
    """Of a motor that commutates by electronics, for its tone [-]"""
    blades: int | None = None
    resonances_hz: tuple[float, ...] = ()
    """Of what the fan stands on [Hz]"""
    least_flow_m3_s: float | None = None
    """Air that safety asks for, all fans together; no step may give less [m³/s]"""

    rise_low_k: float | None = None
    """Least rise of the air that the appliance is made for, by its plate [K]"""
    rise_high_k: float | None = None

    def __post_init__(self) -> None:
        for name, least, most, unit in _LIMITS:
            value = getattr(self, name)
            if value is not None:
                check_range(name, value, least, most, unit)
        low, high = self.rise_low_k, self.rise_high_k
        if low is not None and high is not None and high <= low:
            raise InputError("rise_high_k", high, f"above {low:g} K", "the range ends before it begins")
        if len(self.resonances_hz) > MOST_RESONANCES:
            raise InputError("resonances_hz", len(self.resonances_hz), f"up to {MOST_RESONANCES}", "too many")
        check_range("resonances_hz", np.array(self.resonances_hz or (1.0,)), 0.1, 1e5, "Hz")
        # Built here so that what is typed wrong is refused where it is typed.
        if self.flows_m3_s or self.pressures_pa or self.shafts_w:
            _ = self.curve
        if self.system_flow_m3_s is not None and self.system_pressure_pa is not None:
            _ = self.system

    @property
    def curve(self) -> FanCurve | None:
        """The fan's curve [-]"""
        if not self.flows_m3_s and not self.pressures_pa:
            return None
        return FanCurve(self.flows_m3_s, self.pressures_pa, self.shafts_w, self.curve_density_kg_m3)

    @property
    def system(self) -> System | None:
        """What the air must overcome [-]"""
        if self.system_flow_m3_s is None or self.system_pressure_pa is None:
            return None
        return System(self.system_flow_m3_s, self.system_pressure_pa, self.fixed_pressure_pa)

    @property
    def density_kg_m3(self) -> float:
        """Of the air at the fan's inlet; the usual one where the place is not known [kg/m³]"""
        if self.altitude_m is None and self.inlet_c is None:
            return REFERENCE_KG_M3
        warm = 20.0 if self.inlet_c is None else self.inlet_c
        return air_density_kg_m3(self.altitude_m or 0.0, warm, self.humidity or 0.0)

    @property
    def empty(self) -> bool:
        """Whether nothing was typed [-]"""
        return self == AirSheet()


_LIMITS = (
    ("altitude_m", -500.0, 11000.0, "m"),
    ("inlet_c", -60.0, 400.0, "°C"),
    ("humidity", 0.0, 1.0, ""),
    ("curve_rpm", 1.0, 1e6, "rpm"),
    ("curve_density_kg_m3", 0.01, 20.0, "kg/m³"),
    ("system_flow_m3_s", 1e-6, 1e4, "m³/s"),
    ("system_pressure_pa", 0.0, 1e5, "Pa"),
    ("fixed_pressure_pa", 0.0, 1e5, "Pa"),
    ("parallel", 1, 100, ""),
    ("series", 1, 20, ""),
    ("full_flow_m3_s", 1e-6, 1e4, "m³/s"),
    ("heat_w", 0.1, 1e7, "W"),
    ("full_level_db", -20.0, 160.0, "dB"),
    ("level_at_m", 0.01, 1000.0, "m"),
    ("blades", 1, 200, ""),
    ("motor_poles", 2, 60, ""),
    ("level_fans", 1, 200, ""),
    ("least_flow_m3_s", 1e-6, 1e4, "m³/s"),
    ("rise_low_k", 0.5, 300.0, "K"),
    ("rise_high_k", 1.0, 400.0, "K"),
)


@dataclass(frozen=True)
class Span:
    """A value with where it may lie."""

    middle: float
    low: float
    high: float

    def scaled(self, factor: float) -> Span:
        """In another unit."""
        return Span(self.middle * factor, self.low * factor, self.high * factor)


@dataclass(frozen=True, eq=False)
class JobAir:
    """The air of a fan whose full speed is known."""

    sheet: AirSheet
    full_rpm: float
    exponent: float = 2.0
    """Of the load, where there is no curve [-]"""
    plate_m3_s: float | None = None
    """Airflow off the label [m³/s]"""
    count: int = 1
    """Fans that are heard together [-]"""
    signal_hz: float | None = None
    """Of what switches its speed, where something does [Hz]"""

    @cached_property
    def fans(self) -> Air | None:
        """Fans on their system; None while curve or system is not known [-]"""
        curve, system = self.sheet.curve, self.sheet.system
        if curve is None or system is None:
            return None
        return Air(curve, system, self.sheet.density_kg_m3, self.sheet.parallel, self.sheet.series)

    def curve_share(self, speed_rpm: float) -> float:
        """Speed over that of the curve [rpm → -]"""
        return speed_rpm / (self.sheet.curve_rpm or self.full_rpm)

    @cached_property
    def full_flow_m3_s(self) -> float | None:
        """At full speed, by the best that is known [m³/s]"""
        if self.fans is not None:
            return self._by_curve(self.full_rpm)
        return self.sheet.full_flow_m3_s or self.plate_m3_s

    def _by_curve(self, speed_rpm: float) -> float:
        assert self.fans is not None
        return self.fans.reached(self.curve_share(speed_rpm)).flow_m3_s

    def flow_m3_s(
        self, speed_rpm: float, low_rpm: float | None = None, high_rpm: float | None = None
    ) -> Span | None:
        """Flow of all fans at a speed, whose own band may be given.

        Parameters
        ----------
        speed_rpm : float
            The speed [rpm]
        low_rpm : float or None
            Low end of its band [rpm]
        high_rpm : float or None
            High end [rpm]

        Returns
        -------
        Span or None
            None where nothing says how much flows [m³/s]

        Raises
        ------
        InputError
            A working point beyond the curve.
        """
        ends = (low_rpm or speed_rpm, high_rpm or speed_rpm)
        if self.fans is not None:
            top = 2 * (self.sheet.curve_rpm or self.full_rpm)
            low, middle, high = (
                float(v)
                for v in self.fans.flows_m3_s(
                    np.array([self.curve_share(min(n, top)) for n in (ends[0], speed_rpm, ends[1])])
                )
            )
            return Span(middle, low * (1 - CURVE_DOUBT), high * (1 + CURVE_DOUBT))
        full = self.full_flow_m3_s
        if full is None:
            return None
        doubt = READ_DOUBT if self.sheet.full_flow_m3_s is not None else PLATE_DOUBT
        bounds = [flow_between(min(n / self.full_rpm, 3.0), self.exponent) for n in (*ends, speed_rpm)]
        middle = full * (bounds[2][0] + bounds[2][1]) / 2
        return Span(middle, full * bounds[0][0] * (1 - doubt), full * bounds[1][1] * (1 + doubt))

    def pressure_pa(self, flow: Span) -> Span | None:
        """At the system, for a flow; None where the system is not known."""
        system = self.sheet.system
        if system is None:
            return None
        found = system.pressure_at_pa(np.array([flow.middle, flow.low, flow.high]), self.sheet.density_kg_m3)
        return Span(*(float(v) for v in found))

    def rise_k(self, flow: Span) -> Span | None:
        """Of the air by what warms it; None where that is not known, or nothing flows."""
        if self.sheet.heat_w is None or flow.low <= 0:
            return None
        rho = self.sheet.density_kg_m3
        middle, high, low = (
            rise_from_flow_k(self.sheet.heat_w, f, rho) for f in (flow.middle, flow.low, flow.high)
        )
        return Span(middle, low, high)

    def rise_words(self, speed_rpm: float) -> str:
        """How the rise at a speed stands to what the appliance is made for; empty where either is not known."""
        low, high = self.sheet.rise_low_k, self.sheet.rise_high_k
        flow = self.flow_m3_s(speed_rpm)
        rise = None if flow is None else self.rise_k(flow)
        if rise is None or (low is None and high is None):
            return ""
        least, most = low or 0.0, math.inf if high is None else high
        told = (
            f"the appliance’s {least:g} to {most:g} K" if high is not None else f"the appliance’s {least:g} K"
        )
        if rise.high < least:
            return f"below {told}: condensate; less air"
        if rise.low > most:
            return f"above {told}: the limit trips; more air"
        return f"within {told}" if rise.low >= least and rise.high <= most else f"may leave {told}"

    @property
    def full_level_db(self) -> float:
        """Of all fans together at full speed, + 10 log10 N for alike ones; only where one was typed [dB]"""
        assert self.sheet.full_level_db is not None
        heard = self.sheet.level_fans
        return self.sheet.full_level_db + (0.0 if heard is None else alike_db(self.count / heard))

    def level_db(self, speed_rpm: float) -> Span | None:
        """At the distance where full speed was heard; None where it was not."""
        if self.sheet.full_level_db is None or speed_rpm <= 0:
            return None
        tens = math.log10(speed_rpm / self.full_rpm)
        change, spread = NOISE_FACTOR * tens, abs(NOISE_SPREAD * tens)
        at = self.full_level_db + change
        return Span(at, at - spread - 0.5, at + spread + 0.5)

    def law_flow_m3_s(self, speed_rpm: float) -> float | None:
        """What the plain fan law says of the flow; None where there is no curve to hold it against."""
        if self.fans is None or self.full_flow_m3_s is None:
            return None
        return self.full_flow_m3_s * speed_rpm / self.full_rpm

    # ---------------------------------------------------------------- what safety asks for

    @cached_property
    def least_rpm(self) -> float | None:
        """Speed below which less air flows than safety asks for; None where nothing is asked, or nothing is known."""
        if self.sheet.least_flow_m3_s is None or self.full_flow_m3_s is None:
            return None
        try:
            return self._speed_for_flow(
                "least_flow_m3_s",
                Target(TargetKind.FLOW, self.sheet.least_flow_m3_s, ""),
                self.sheet.least_flow_m3_s,
            )
        except InputError:
            return self.full_rpm

    @property
    def least_words(self) -> str:
        """Why no slower [-]"""
        flow = self.sheet.least_flow_m3_s or 0.0
        return f"safety asks for {q.plain(3600 * flow, 3)} m³/h, {self.least_rpm or 0:.0f} rpm"

    # ---------------------------------------------------------------- targets

    def speed_for(self, field: str, target: Target) -> float:
        """Speed that a target asks for.

        Parameters
        ----------
        field : str
            Where it was typed [-]
        target : Target
            What is meant [-]

        Returns
        -------
        float
            Speed, not above full [rpm]

        Raises
        ------
        InputError
            Out of reach, with the nearest that is not; or too little is known of the air.
        """
        kind, value = target.kind, target.value
        if kind is TargetKind.SPEED:
            return value
        if kind is TargetKind.SHARE:
            return self.full_rpm * value / 100
        if kind is TargetKind.FLOW:
            return self._speed_for_flow(field, target, value)
        if kind is TargetKind.PRESSURE:
            return self._speed_for_flow(field, target, self._flow_at_pressure(field, target))
        if kind is TargetKind.RISE:
            if self.sheet.heat_w is None:
                raise _lacks(field, target, "what warms the air: type its watts under air")
            flow = flow_from_rise_m3_s(self.sheet.heat_w, value, self.sheet.density_kg_m3)
            return self._speed_for_flow(field, target, flow)
        if kind is TargetKind.LEVEL:
            if self.sheet.full_level_db is None:
                raise _lacks(field, target, "the level at full speed: type it under air, or aim for −10 dB")
            change = value - self.full_level_db
        else:
            change = value
        if change > 0:
            loudest = "0 dB" if kind is TargetKind.CHANGE else f"{self.full_level_db:.3g} dB"
            raise InputError(
                field, target.text, f"at most {loudest}", "at full speed it is no louder than that"
            )
        return self.full_rpm * speed_ratio_for_level(change)

    def _flow_at_pressure(self, field: str, target: Target) -> float:
        system = self.sheet.system
        if system is None:
            raise _lacks(field, target, "the system: type one working point of it under air")
        full = self.full_flow_m3_s
        most = (
            None if full is None else float(system.pressure_at_pa(np.array(full), self.sheet.density_kg_m3))
        )
        if most is not None and target.value > most * (1 + 1e-9):
            raise InputError(
                field, target.text, f"at most {q.plain(most)} Pa", "at full speed the fan makes no more"
            )
        try:
            return system.flow_at_m3_s(target.value, self.sheet.density_kg_m3)
        except InputError as error:
            raise InputError(field, target.text, error.allowed, error.reason) from None

    def _speed_for_flow(self, field: str, target: Target, flow: float) -> float:
        most = self.full_flow_m3_s
        if most is None:
            raise _lacks(
                field, target, "the air at full speed: type fan curve and system, or the flow read there"
            )
        if flow > most * (1 + 1e-9):
            allowed = f"at most {q.plain(3600 * most)} m³/h"
            if target.kind is TargetKind.RISE:
                assert self.sheet.heat_w is not None
                least = rise_from_flow_k(self.sheet.heat_w, most, self.sheet.density_kg_m3)
                allowed = f"at least {q.plain(least)} K"
            raise InputError(field, target.text, allowed, "full speed moves no more air than that")
        if self.fans is None:
            return self.full_rpm * flow / most
        try:
            return self.fans.speed_for_flow(flow) * (self.sheet.curve_rpm or self.full_rpm)
        except InputError as error:
            raise InputError(field, target.text, error.allowed, error.reason) from None

    # ---------------------------------------------------------------- load of the motor, speeds to avoid

    def load_exponent(self, slow_share: float = _SLOW) -> tuple[float, float] | None:
        """Exponent of the torque between a share of full speed and full speed, and how far it moves between them.

        The secant of ln torque over ln speed; None without curve, shaft power and system.
        """
        if self.fans is None or not self.fans.curve.shafts_w:
            return None
        at = {
            s: self.fans.reached(self.curve_share(s * self.full_rpm))
            for s in (slow_share, (1 + slow_share) / 2, 1.0)
        }
        known = {s: r.shaft_w for s, r in at.items() if r.shaft_w}
        if 1.0 not in known or len(known) < 2:
            return None
        slow = min(known)
        secant = math.log(known[slow] / known[1.0]) / math.log(slow) - 1
        tangent = at[1.0].load_exponent or secant
        return secant, abs(secant - tangent)

    def avoided(self) -> tuple[tuple[float, float, str], ...]:
        """Speeds whose blades or poles sound near a resonance: from, to, why [rpm]"""
        tones = []
        if self.sheet.blades is not None:
            tones += [(self.sheet.blades, "blades"), (2 * self.sheet.blades, "twice the blades")]
        if self.sheet.motor_poles is not None:
            tones.append((self.sheet.motor_poles, "poles"))
        found = []
        for hertz in self.sheet.resonances_hz:
            for times, said in tones:
                each = blade_pass_hz(60.0, times) / 60
                low, high = hertz * (1 - NEAR_RESONANCE) / each, hertz * (1 + NEAR_RESONANCE) / each
                if low < self.full_rpm * _FULL and high > 0.02 * self.full_rpm:
                    found.append((low, min(high, self.full_rpm), f"{said} at {q.plain(hertz)} Hz"))
        return tuple(sorted(found))

    def steady_tones(self) -> tuple[str, ...]:
        """What sounds near a resonance at any speed: the signal that switches it [-]"""
        return tuple(
            f"what switches it, {q.plain(self.signal_hz)} Hz, lies at the resonance of {q.plain(hertz)} Hz at any speed: "
            "choose another frequency"
            for hertz in self.sheet.resonances_hz
            if self.signal_hz is not None and abs(self.signal_hz / hertz - 1) <= NEAR_RESONANCE
        )


def _lacks(field: str, target: Target, words: str) -> InputError:
    return InputError(field, target.text, "rpm or %", f"this needs {words}")


class TargetKind(StrEnum):
    """In what a wanted step was meant."""

    SPEED = "speed"
    SHARE = "share"
    FLOW = "flow"
    RISE = "rise"
    PRESSURE = "pressure"
    LEVEL = "level"
    CHANGE = "change"
    """Of the level, against full speed"""


@dataclass(frozen=True)
class Target:
    """What is meant by a wanted step."""

    kind: TargetKind
    value: float
    """rpm, %, m³/s, K, Pa or dB [by kind]"""
    text: str


_PRESSURE = q.Dimension(
    "pascals", "Pa", ("Pa",), "k", 0.001, 1e5, "like 120 Pa or 0.5 inH2O",
    others=(("hPa", 100.0, 0.0), ("mbar", 100.0, 0.0), ("mmH2O", 9.80665, 0.0), ("inH2O", 249.08891, 0.0)),
)  # fmt: skip
_KELVIN = q.Dimension("kelvins of rise", "K", ("K",), "", 0.01, 500.0, "like 22 K")
_LEVEL = q.Dimension("decibels", "dB", ("dB", "dBA", "dB(A)"), "", -150.0, 160.0, "like 41 dB or −10 dB")
_BY_UNIT = {
    TargetKind.SHARE: ("%",),
    TargetKind.FLOW: ("m3/s", "m3/h", "l/s", "l/min", "cfm"),
    TargetKind.PRESSURE: ("pa", "kpa", "hpa", "mbar", "mmh2o", "inh2o"),
    TargetKind.RISE: ("k",),
    TargetKind.LEVEL: ("db", "dba", "db(a)"),
}
_DIMENSIONS = {
    TargetKind.SHARE: q.RATIO, TargetKind.FLOW: replace(q.AIRFLOW, low=1e-7), TargetKind.PRESSURE: _PRESSURE,
    TargetKind.RISE: _KELVIN, TargetKind.LEVEL: _LEVEL, TargetKind.SPEED: q.SPEED,
}  # fmt: skip


def read_target(field: str, text: str) -> Target:
    """A wanted step as typed: its unit says what is meant, a bare number is rpm.

    Parameters
    ----------
    field : str
        Where it was typed [-]
    text : str
        Like 202, 61 %, 1400 m³/h, 22 K, 120 Pa, 41 dB or −10 dB [-]

    Returns
    -------
    Target
        What is meant [-]

    Raises
    ------
    InputError
        Nothing that can be aimed for.
    """
    tidy = text.strip().replace("³", "3").replace("−", "-")
    unit = tidy.lstrip("+-0123456789.,eE ").replace(" ", "").lower()
    # "1k5" is a number with its letter; a lone K behind a number is a rise.
    kind = next((k for k, units in _BY_UNIT.items() if unit in units), TargetKind.SPEED)
    signed = tidy.startswith(("-", "+"))
    value = q.parse(field, tidy, _DIMENSIONS[kind])
    if kind is TargetKind.LEVEL and signed:
        kind = TargetKind.CHANGE
    said = text.strip()
    return Target(kind, value, said)
