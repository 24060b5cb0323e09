"""Every part around the triac: what the solved waveform asks of it, against what it bears (docs/phase-angle.md)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import Machine
from fenwit.core.operating import Source, solve
from fenwit.core.regulator.firing import FiringCurve
from fenwit.core.regulator.firing_points import PhasePoint
from fenwit.core.regulator.snubber import ringing, snubber_loss_w
from fenwit.core.size.classes import FUSE_FACTOR, FUSES_A

FloatArray = NDArray[np.float64]

VOLTS_MARGIN = 1.5
"""Off-state volts over the mains' crest, at least [-]"""
CLASSES_V = (400.0, 600.0, 800.0, 1000.0, 1200.0)
JUNCTION_MARGIN_K = 25.0
DVDT_FACTOR = 2.0
SURGE_FACTOR = 0.5
"""Crest at start with the rotor held, over the surge rating, at most [-]"""
_GATE_S = 10e-6
FREE_AIR_KW = 60.0
"""A small plastic case by itself, from junction to air [K/W]"""


@dataclass(frozen=True)
class TriacPart:
    """What a triac's data sheet says."""

    rms_a: float = 4.0
    surge_a: float = 30.0
    """One half-cycle, not repeated [A]"""
    off_state_v: float = 800.0
    gate_a: float = 0.010
    """Highest of the quadrants that are used [A]"""
    holding_a: float = 0.010
    latching_a: float = 0.020
    threshold_v: float = 0.9
    """V_TO of the on-state line [V]"""
    slope_ohm: float = 0.10
    """r_d of the on-state line [Ω]"""
    case_kw: float = 3.0
    """R_jc [K/W]"""
    junction_c: float = 125.0
    """Highest junction temperature [°C]"""
    dvdt_v_us: float = 10.0
    """Of commutation, at the current's own fall [V/µs]"""

    def __post_init__(self) -> None:
        for name, low, high, unit in (
            ("rms_a", 0.05, 200.0, "A"), ("surge_a", 0.5, 3000.0, "A"), ("off_state_v", 50.0, 2000.0, "V"),
            ("gate_a", 1e-4, 1.0, "A"), ("holding_a", 1e-4, 2.0, "A"), ("latching_a", 1e-4, 2.0, "A"),
            ("threshold_v", 0.3, 3.0, "V"), ("slope_ohm", 0.0, 5.0, "Ω"), ("case_kw", 0.1, 100.0, "K/W"),
            ("junction_c", 80.0, 200.0, "°C"), ("dvdt_v_us", 0.1, 5000.0, "V/µs"),
        ):  # fmt: skip
            check_range(name, getattr(self, name), low, high, unit)


class Demand(StrEnum):
    """What a part of a phase-angle control has to bear; its value is how it is called."""

    RMS = "rms current"
    START = "current at start, rotor held"
    OFF_STATE = "off-state volts"
    OVERSHOOT = "off-state volts with the snubber's overshoot"
    DVDT = "commutation dv/dt"
    HOLDING = "holding current"
    LATCHING = "latching current"
    JUNCTION = "junction"
    GATE = "gate current"
    OPTO = "opto-triac's current"
    MELTING = "melting I²t"
    RUNNING = "running current"
    AMPS = "amps"
    CREST_AMPS = "crest amps"
    CREST_VOLTS = "crest volts"
    VOLTS = "volts"
    WATTS = "watts"
    ZENER = "zener's watts"
    DRAWN = "current drawn"


@dataclass(frozen=True)
class Stress:
    """One demand on one part against its rating."""

    part: str
    what: Demand
    stress: float
    rating: float
    unit: str
    words: str = ""
    of_snubber: bool = False
    """Only where a snubber is fitted"""

    @property
    def ratio(self) -> float:
        """Stress over rating; above 1 it is not met [-]"""
        return self.stress / self.rating if self.rating > 0 else float("inf")

    @property
    def met(self) -> bool:
        """Whether the part bears it."""
        return self.ratio <= 1.0


@dataclass(frozen=True)
class HeatSink:
    """What takes the triac's heat away."""

    loss_w: float
    needed_kw: float
    """From case to air, at most; infinite where the case alone is enough [K/W]"""
    none_needed: bool
    junction_c: float
    """What the junction then reaches [°C]"""


@dataclass(frozen=True)
class Snubber:
    """R and C across the triac."""

    ohm: float
    farads: float
    step_v: float
    dvdt_v_us: float
    peak_v: float
    loss_w: float
    leakage_a: float
    """Through the motor while the triac is off [A]"""
    creeps_rpm: float | None
    """Speed at which the leakage alone holds the fan; None: it stands [rpm]"""
    words: str


@dataclass(frozen=True)
class Filter:
    """Choke and capacitor against interference."""

    choke_h: float
    capacitor_f: float
    resonance_hz: float
    crest_a: float
    """The choke must not saturate below this [A]"""
    drop_v: float
    """At the rms line current and mains frequency [V]"""
    damping_ohm: float
    words: str


@dataclass(frozen=True)
class TriacDesign:
    """All parts with their stress."""

    stresses: tuple[Stress, ...]
    sink: HeatSink
    snubber: Snubber
    filter: Filter
    varistor_v: float
    fuse_a: float
    gate_ohm: float
    gate_w: float
    off_state_class_v: float
    reasons: tuple[str, ...] = field(default=())

    @property
    def met(self) -> bool:
        """Whether every part bears what is asked of it."""
        return all(s.met for s in self.stresses)


def size_triac(
    motor: Machine,
    load: FanLoad,
    curve: FiringCurve,
    part: TriacPart,
    ambient_c: float = 40.0,
    sink_contact_kw: float = 1.0,
    opto_current_a: float = 1.0,
) -> TriacDesign:
    """Size and check everything around the triac for a solved firing curve.

    Parameters
    ----------
    motor : Machine
        The motor [-]
    load : FanLoad
        The fan [-]
    curve : FiringCurve
        The fan over firing angle [-]
    part : TriacPart
        The triac [-]
    ambient_c : float
        Air inside the box [°C]
    sink_contact_kw : float
        From case to heat sink [K/W]
    opto_current_a : float
        Most that the opto-triac's output bears for a moment [A]

    Returns
    -------
    TriacDesign
        Parts, and stress over rating of each [-]

    Raises
    ------
    InputError
        A fan that runs at no angle, or an ambience hotter than the junction may be.
    """
    check_range("ambient_c", ambient_c, -40.0, 110.0, "°C")
    check_range("sink_contact_kw", sink_contact_kw, 0.0, 50.0, "K/W")
    check_range("opto_current_a", opto_current_a, 0.01, 10.0, "A")
    points = [p for p in curve.points if p is not None]
    if not points:
        raise InputError("firing_angle_deg", None, "a fan that runs", "at no firing angle does this fan run")
    volts, hertz = curve.supply.voltage_v, curve.supply.frequency_hz
    crest = np.sqrt(2) * volts
    off_class = next((c for c in CLASSES_V if c >= _needed_class(volts)), CLASSES_V[-1])
    amps = max(p.triac_current_a for p in points)
    losses = [part.threshold_v * p.triac_average_a + part.slope_ohm * p.triac_current_a**2 for p in points]
    sink = _sink(max(losses), part, ambient_c, sink_contact_kw)
    held = abs(complex(motor.respond(np.array([1.0]), hertz).admittance_s[0])) * np.sqrt(2) * volts
    step = max(abs(p.commutation_step_v) for p in points)
    swing = max(float(np.hypot(p.commutation_step_v, p.firing_step_v)) for p in points)
    snubber = size_snubber(motor, load, curve.supply, (step, swing), curve.inductance_h, part)
    weakest = min(p.crest_current_a for p in points)
    gate_ohm = q.nearest("E12", 1.1 * crest / opto_current_a)
    earliest = max(curve.least_safe_deg, 5.0)
    gate_now = max(0.0, crest * np.sin(np.radians(earliest)) - 3.0) / gate_ohm
    # The gate resistor carries current only until the triac has fired, some microseconds in each half-cycle.
    gate_w = float(crest**2 / gate_ohm * 2 * hertz * _GATE_S)
    fuse = next((f for f in FUSES_A if f >= FUSE_FACTOR * amps), FUSES_A[-1])
    fuse_i2t = 10 * fuse**2 * 0.01
    line_filter = size_filter(points, curve.supply)
    stresses = (
        Stress("triac", Demand.RMS, amps, part.rms_a, "A", "true rms at the worst angle"),
        Stress("triac", Demand.START, float(held), SURGE_FACTOR * part.surge_a, "A", "crest"),
        Stress("triac", Demand.OFF_STATE, _needed_class(volts), part.off_state_v, "V",
               f"{VOLTS_MARGIN:g} × the mains' crest of {crest:.0f} V, and room for transients"),
        Stress("triac", Demand.OVERSHOOT, snubber.peak_v, 0.8 * part.off_state_v, "V",
               of_snubber=True),
        Stress("triac", Demand.DVDT, DVDT_FACTOR * snubber.dvdt_v_us, part.dvdt_v_us, "V/µs",
               f"step of {step:.0f} V, with a factor of {DVDT_FACTOR:g}", of_snubber=True),
        Stress("triac", Demand.HOLDING, part.holding_a, weakest, "A", "against the smallest half-cycle's crest"),
        Stress("triac", Demand.LATCHING, part.latching_a, weakest, "A", "it must be passed before the gate goes off"),
        Stress("triac", Demand.JUNCTION, sink.junction_c, part.junction_c - JUNCTION_MARGIN_K, "°C",
               f"{sink.loss_w:.2g} W in {ambient_c:g} °C, {'no sink' if sink.none_needed else 'on its sink'}"),
        Stress("gate resistor", Demand.OPTO, float(crest / gate_ohm), opto_current_a, "A"),
        Stress("gate", Demand.GATE, part.gate_a, float(gate_now), "A", f"at the earliest angle, {earliest:.0f}°"),
        Stress("fuse", Demand.MELTING, fuse_i2t, 0.5 * part.surge_a**2 * 0.01, "A²s", "it must melt before the triac"),
        Stress("fuse", Demand.RUNNING, amps, fuse, "A"),
    )  # fmt: skip
    return TriacDesign(
        stresses, sink, snubber, line_filter, _varistor(volts), fuse, gate_ohm, gate_w, off_class,
        tuple(f"{s.part}: {s.what} {s.stress:.3g} of {s.rating:.3g} {s.unit}" for s in stresses if not s.met),
    )  # fmt: skip


def _needed_class(volts: float) -> float:
    """Off-state volts a triac should have: by the crest, or by custom for the two usual mains [V]"""
    by_custom = 800.0 if volts > 160 else 600.0 if volts > 60 else 0.0
    return max(VOLTS_MARGIN * float(np.sqrt(2)) * volts, by_custom)


def _sink(loss_w: float, part: TriacPart, ambient_c: float, contact_kw: float) -> HeatSink:
    room = part.junction_c - JUNCTION_MARGIN_K - ambient_c
    if room <= 0:
        raise InputError(
            "ambient_c", ambient_c, f"below {part.junction_c - JUNCTION_MARGIN_K:g} °C",
            "the air is hotter than the junction may become",
        )  # fmt: skip
    whole = room / max(loss_w, 1e-9)
    if whole >= FREE_AIR_KW:
        return HeatSink(loss_w, float("inf"), True, ambient_c + FREE_AIR_KW * loss_w)
    needed = whole - part.case_kw - contact_kw
    # Where nothing is left for the sink, even an endless one leaves the junction this hot.
    return HeatSink(
        loss_w, needed, False, ambient_c + loss_w * (part.case_kw + contact_kw + max(needed, 0.0))
    )


def size_snubber(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    volts_v: tuple[float, float],
    inductance_h: float,
    part: TriacPart,
) -> Snubber:
    """The smallest snubber that keeps dv/dt and overshoot in bounds, from preferred values.

    After extinction the step stands across L, R and C in series. With i the loop's current the triac sees
    v = V − L i' = R i + v_C; its slope begins at V R / L and is followed over the ringing.

    Parameters
    ----------
    motor : Machine
        The motor, for what the leakage does to it [-]
    load : FanLoad
        The fan [-]
    supply : Source
        Supply [-]
    volts_v : tuple of float
        The largest commutation step; and √(V_step² + V_fire²) at the angle where that is most [V]
    inductance_h : float
        In the loop [H]
    part : TriacPart
        The triac [-]

    Returns
    -------
    Snubber
        R, C and what they cost [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    step = float(check_range("step_v", abs(volts_v[0]), 0.0, 5000.0, "V"))
    check_range("inductance_h", inductance_h, 1e-6, 100.0, "H")
    ohm = np.array([m * 10.0**d for d in (0, 1, 2) for m in q.SERIES["E6"]])
    farads = np.array([m * 10.0**d for d in (-11, -10, -9) for m in q.SERIES["E6"]])
    farads = farads[(farads >= 1e-9) & (farads <= 470e-9)]
    ohm = ohm[(ohm >= 22) & (ohm <= 2200)]
    slope, peak = ringing(step, inductance_h, ohm[:, None], farads[None])
    limit_slope, limit_peak = part.dvdt_v_us / DVDT_FACTOR, 0.8 * part.off_state_v
    good = (slope <= limit_slope) & (peak <= limit_peak)
    if good.any():
        c = int(np.argmax(good.any(axis=0)))
        # Of the resistors that do, the one with the least overshoot.
        r = int(np.argmin(np.where(good[:, c], peak[:, c], np.inf)))
        words = "the least capacitor that keeps dv/dt within half the rating"
    else:
        r, c = divmod(int(np.argmin(slope / limit_slope + peak / limit_peak)), slope.shape[1])
        words = "no snubber of usual size is enough: a triac that stands more dv/dt is wanted"
    chosen = float(farads[c])
    leakage = 2 * np.pi * supply.frequency_hz * chosen * supply.voltage_v
    z = 1 / (2j * np.pi * supply.frequency_hz * chosen)
    through = solve(motor, load, [Source(supply.voltage_v, supply.frequency_hz, complex(ohm[r]) + z)])[
        0
    ].running
    return Snubber(
        float(ohm[r]), chosen, step, float(slope[r, c]), float(peak[r, c]),
        snubber_loss_w(chosen, 0.0, volts_v[1], supply.frequency_hz), float(leakage),
        through.speed_rpm if through else None, words,
    )  # fmt: skip


_CHOKES_H = (100e-6, 150e-6, 220e-6, 330e-6, 470e-6, 680e-6, 1e-3, 1.5e-3, 2.2e-3, 3.3e-3, 4.7e-3)
_CORNER_HZ = 30e3


def size_filter(points: Sequence[PhasePoint], supply: Source, capacitor_f: float = 100e-9) -> Filter:
    """Choke and X capacitor whose resonance lies well below the band that is disturbed, damped.

    Parameters
    ----------
    points : sequence of PhasePoint
        Operating points over the knob [-]
    supply : Source
        Supply [-]
    capacitor_f : float
        X capacitor [F]

    Returns
    -------
    Filter
        Values and what the choke must bear [-]

    Raises
    ------
    InputError
        A capacitor that cannot be real.
    """
    check_range("capacitor_f", capacitor_f, 1e-9, 10e-6, "F")
    least = 1 / ((2 * np.pi * _CORNER_HZ) ** 2 * capacitor_f)
    choke = next((c for c in _CHOKES_H if c >= least), _CHOKES_H[-1])
    amps = max(p.triac_current_a for p in points)
    return Filter(
        choke, capacitor_f, float(1 / (2 * np.pi * np.sqrt(choke * capacitor_f))),
        max(p.crest_current_a for p in points), float(2 * np.pi * supply.frequency_hz * choke * amps),
        float(np.sqrt(choke / capacitor_f)),
        "a laboratory judges whether the limits for conducted interference are met; such a filter makes it plausible",
    )  # fmt: skip


_VARISTORS_V = (75.0, 95.0, 130.0, 150.0, 175.0, 230.0, 250.0, 275.0, 300.0, 320.0, 385.0, 420.0, 460.0)


def _varistor(volts: float) -> float:
    """Rated rms volts of a varistor that does not warm at high mains [V]"""
    return next((v for v in _VARISTORS_V if v >= 1.15 * volts), _VARISTORS_V[-1])
