"""Transformers with taps: the source a motor finds on each tap, what the mains give, and what the winding bears.

Every tap is open volts behind an impedance (docs/transformer.md); the motor is solved on it like on any other source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range

ComplexArray = NDArray[np.complex128]
FloatArray = NDArray[np.float64]

LINE_OHM = 0.5
"""Of the mains up to the regulator, where a first rush is reckoned [Ω]"""
FLUX_LIMIT = 1.05
"""Volts per hertz over those it is made for, beyond which its iron saturates [-]"""
AIR_OVER_LEAKAGE = 6.0
"""Inductance of a saturated winding over its leakage [-]"""
WORKING_T, SATURATED_T, LEFT_T = 1.35, 1.9, 0.8
"""Crest of the flux density in service, where the iron is full, and what is left of it at the worst [T]"""
SPREADS = {"regulation": 0.30, "magnetising": 0.40, "core_loss": 0.25}
"""How far the classes may be off, until it is measured [-]"""
MEASURED = 0.15
"""How far a winding may be off whose ohms were read: it is warmer in service [-]"""
_TAKEN = 0.005
"""Of a reading of watts or amps, once it is taken [-]"""
_MISMATCH = 3.0
"""Ohms per volt of two sections of one winding differ by no more than this [-]"""


class Winding(StrEnum):
    """How the tapped winding stands to the mains."""

    AUTO = "auto"
    """One winding, part of it shared by mains and motor: no isolation"""
    SEPARATE = "separate"
    """A secondary of its own"""


@dataclass(frozen=True)
class FrameClass:
    """What is taken for granted of a size until it is measured; estimates."""

    va: float
    regulation: float
    """Copper loss at rated VA, over them: u_R [-]"""
    leakage: float
    """Likewise of the leakage: u_X [-]"""
    core_loss_w: float
    magnetising: float
    """Magnetising VA over rated VA [-]"""


FRAMES: tuple[FrameClass, ...] = (
    FrameClass(10.0, 0.22, 0.03, 1.3, 0.45),
    FrameClass(16.0, 0.18, 0.03, 1.8, 0.38),
    FrameClass(25.0, 0.155, 0.03, 2.4, 0.32),
    FrameClass(40.0, 0.13, 0.03, 3.2, 0.26),
    FrameClass(63.0, 0.105, 0.025, 4.4, 0.21),
    FrameClass(100.0, 0.085, 0.025, 6.0, 0.17),
    FrameClass(160.0, 0.068, 0.025, 8.5, 0.14),
    FrameClass(250.0, 0.055, 0.02, 12.0, 0.11),
)


def frame_class(va: float) -> FrameClass:
    """The class of a size; between two of them as the nearer one.

    Parameters
    ----------
    va : float
        Rated VA [VA]

    Returns
    -------
    FrameClass
        What is usual of it, for exactly these VA [-]

    Raises
    ------
    InputError
        VA below 5 or above 400: no such size is in the table.
    """
    check_range("va", va, 5.0, 400.0, "VA", reason="no fan transformer of this size is reckoned here")
    sizes = np.array([f.va for f in FRAMES])
    near = FRAMES[int(np.argmin(np.abs(np.log(sizes / va))))]
    return FrameClass(
        va, near.regulation, near.leakage, near.core_loss_w * (va / near.va) ** 0.7, near.magnetising
    )


class Insulation(StrEnum):
    """Class of its insulation."""

    E = "E"
    B = "B"
    F = "F"
    H = "H"


RISE_K = {Insulation.E: 75.0, Insulation.B: 80.0, Insulation.F: 105.0, Insulation.H: 125.0}
"""Rise of the winding at rated VA [K]"""
AMBIENT_C = 40.0
"""Air for which a class is given [°C]"""


@dataclass(frozen=True)
class Transformer:
    """One transformer at its rated frequency, seen from its ends."""

    winding: Winding
    va: float
    supply_v: float
    """Rated volts of the side at the mains [V]"""
    frequency_hz: float
    whole_v: float
    """Volts of the whole tapped winding: of an auto the supply's own [V]"""
    primary_ohm: float
    """Of the side at the mains; of an auto its whole winding [Ω]"""
    secondary_ohm: float
    """Of the whole secondary; 0 of an auto [Ω]"""
    primary_leakage_ohm: float
    secondary_leakage_ohm: float
    core_loss_w: float
    magnetising_ohm: float
    """At the side at the mains [Ω]"""
    regulation: float
    """Copper loss at rated VA over them [-]"""
    spread: float = SPREADS["regulation"]
    """How far its ohms may be off [-]"""
    core_spread: float = SPREADS["core_loss"]
    magnetising_spread: float = SPREADS["magnetising"]

    @property
    def rated_a(self) -> float:
        """Of the tapped winding; of an auto of one gauge [A]"""
        return 2 * self.va / self.supply_v if self.winding is Winding.AUTO else self.va / self.whole_v

    def ratio(self, tap_v: float) -> float:
        """Open volts of a tap over those of the supply."""
        return tap_v / self.supply_v

    def impedance_ohm(self, tap_v: float, frequency_hz: float, ohms: float = 1.0) -> complex:
        """What a tap has in line: copper and leakage, with the copper ``ohms`` times what is stated [Ω]"""
        k, t = frequency_hz / self.frequency_hz, self.ratio(tap_v)
        if self.winding is Winding.AUTO:
            return complex(ohms * self.primary_ohm, k * self.primary_leakage_ohm) * t * (1 - t)
        share = tap_v / self.whole_v
        return complex(
            ohms * (t**2 * self.primary_ohm + share * self.secondary_ohm),
            k * (t**2 * self.primary_leakage_ohm + share**2 * self.secondary_leakage_ohm),
        )

    def idle_a(self, supply_v: float, frequency_hz: float) -> complex:
        """What it takes with nothing on it, as a phasor against the supply; as if the iron were linear [A]"""
        x = self.magnetising_ohm * frequency_hz / self.frequency_hz
        return complex(supply_v * self.core_loss_w / self.supply_v**2, -supply_v / x)

    def core_w(self, supply_v: float) -> float:
        """Iron loss on a supply [W]"""
        return self.core_loss_w * (supply_v / self.supply_v) ** 2

    def flux(self, supply_v: float, frequency_hz: float) -> float:
        """Volts per hertz over those it is made for [-]"""
        return (supply_v / frequency_hz) / (self.supply_v / self.frequency_hz)


@dataclass(frozen=True)
class Measured:
    """What was read on a transformer; None: as usual of its class."""

    idle_w: float | None = None
    idle_a: float | None = None
    primary_ohm: float | None = None
    secondary_ohm: float | None = None


def transformer(
    winding: Winding,
    va: float,
    supply_v: float,
    frequency_hz: float,
    whole_v: float | None = None,
    measured: Measured | None = None,
) -> Transformer:
    """A transformer of its class, as far as it was not measured.

    Auto, one gauge: R_w = u_R V²/4S. Separate: half the copper on either side, R_1 = ½ u_R V²/S, R_2 = ½ u_R V_2²/S.

    Parameters
    ----------
    winding : Winding
        Auto or separate [-]
    va : float
        Rated VA of the frame [VA]
    supply_v : float
        Rated volts at the mains [V]
    frequency_hz : float
        Rated frequency [Hz]
    whole_v : float or None
        Volts of the whole secondary; wanted where it is separate [V]
    measured : Measured or None
        What was read on it [-]

    Returns
    -------
    Transformer
        Its ohms, losses and magnetising reactance [-]

    Raises
    ------
    InputError
        Values that cannot be real, or that contradict each other.
    """
    facts, read = frame_class(va), measured or Measured()
    check_range("supply_v", supply_v, 20.0, 500.0, "V")
    check_range("frequency_hz", frequency_hz, 40.0, 70.0, "Hz")
    base = supply_v**2 / va
    if winding is Winding.AUTO:
        whole, first, second, x_1, x_2 = (
            supply_v,
            facts.regulation * base / 4,
            0.0,
            facts.leakage * base / 4,
            0.0,
        )
    else:
        if whole_v is None:
            raise InputError(
                "whole_v", None, "volts of the whole secondary", "a separate winding has its own volts"
            )
        whole = float(check_range("whole_v", whole_v, 5.0, 500.0, "V"))
        own = whole**2 / va
        first, second = facts.regulation * base / 2, facts.regulation * own / 2
        x_1, x_2 = facts.leakage * base / 2, facts.leakage * own / 2
    for field, value, usual in (
        ("primary_ohm", read.primary_ohm, first),
        ("secondary_ohm", read.secondary_ohm, second),
    ):
        if value is not None and usual > 0:
            words = "too far from what a frame of this size has: is it the VA, or the unit?"
            check_range(field, value, usual / 8, usual * 8, "Ω", reason=words)
    first = first if read.primary_ohm is None else read.primary_ohm
    second = second if read.secondary_ohm is None or winding is Winding.AUTO else read.secondary_ohm
    core = facts.core_loss_w if read.idle_w is None else read.idle_w
    check_range("idle_w", core, 0.05, 0.5 * va, "W", reason="no such loss in a frame of this size")
    magnetising = facts.magnetising * va / supply_v
    if read.idle_a is not None:
        watts_a = core / supply_v
        if read.idle_a <= watts_a:
            raise InputError(
                "idle_a",
                read.idle_a,
                f"above {watts_a:.3g} A",
                f"{core:.3g} W alone take that much on {supply_v:g} V",
            )
        check_range(
            "idle_a",
            read.idle_a,
            0.0,
            2 * va / supply_v,
            "A",
            reason="more than twice its rated amps, idle: shorted turns?",
        )
        magnetising = math.sqrt(read.idle_a**2 - watts_a**2)
    rated = 2 * va / supply_v
    copper = (
        rated**2 * first
        if winding is Winding.AUTO
        else (va / supply_v) ** 2 * first + (va / whole) ** 2 * second
    )
    known = read.primary_ohm is not None and (winding is Winding.AUTO or read.secondary_ohm is not None)
    return Transformer(
        winding, va, supply_v, frequency_hz, whole, first, second, x_1, x_2, core, supply_v / magnetising,
        copper / va,
        MEASURED if known else SPREADS["regulation"],
        _TAKEN if read.idle_w is not None else SPREADS["core_loss"],
        _TAKEN if read.idle_a is not None else SPREADS["magnetising"],
    )  # fmt: skip


def check_taps(
    winding: Winding,
    supply_v: float,
    taps_v: tuple[float, ...],
    whole_v: float | None = None,
    ohms: tuple[float | None, ...] = (),
) -> None:
    """Refuse a tap table that contradicts itself.

    Parameters
    ----------
    winding : Winding
        Auto or separate [-]
    supply_v : float
        Rated volts at the mains [V]
    taps_v : tuple of float
        Open volts of each tap, slowest first [V]
    whole_v : float or None
        Volts of the whole secondary [V]
    ohms : tuple of float or None
        From the winding's common end to each tap, as far as read [Ω]

    Raises
    ------
    InputError
        ``taps`` where volts do not rise, stand above what there is, or do not go with the ohms.
    """
    for volts in taps_v:
        check_range("taps", volts, 0.05 * supply_v, 1.2 * supply_v, "V")
    if any(b <= a for a, b in pairwise(taps_v)):
        raise InputError(
            "taps",
            list(taps_v),
            "rising volts, slowest step first",
            "each tap needs more volts than the one before",
        )
    top = supply_v if winding is Winding.AUTO else whole_v
    if top is not None and taps_v and taps_v[-1] > top * (1 + 1e-9):
        words = (
            "an auto winding without a boost section gives no more than its supply"
            if winding is Winding.AUTO
            else "no tap has more volts than the whole winding"
        )
        raise InputError("taps", taps_v[-1], f"up to {top:g} V", words)
    known = [(0.0, 0.0), *((v, r) for v, r in zip(taps_v, ohms, strict=False) if r is not None)]
    sections = [(v_b, r_a, r_b - r_a, v_b - v_a) for (v_a, r_a), (v_b, r_b) in pairwise(known)]
    for volts, before, section, _ in sections:
        if section <= 0:
            words = f"the tap of {volts:g} V lies further out along the winding: its ohms must be more"
            raise InputError("ohms", before + section, f"above {before:g} Ω", words)
    per_volt = [section / volts for _, _, section, volts in sections]
    if per_volt and max(per_volt) > _MISMATCH * min(per_volt):
        words = f"two sections differ by more than {_MISMATCH:g} × in ohms per volt: a tap misread, or no such winding"
        raise InputError("ohms", [r for _, r in known[1:]], "ohms that go with the volts", words)


@dataclass(frozen=True)
class MainsSide:
    """What a transformer takes from the mains with a motor on a tap."""

    line_current_a: FloatArray
    input_power_w: FloatArray
    copper_w: FloatArray
    core_w: FloatArray
    winding_a: FloatArray
    """In the section that carries most, over one gauge [A]"""

    @property
    def loss_w(self) -> FloatArray:
        """Heat that stays in it [W]"""
        return self.copper_w + self.core_w


def mains_side(
    unit: Transformer,
    supply_v: float,
    frequency_hz: float,
    tap_v: FloatArray | float,
    motor_a: ComplexArray,
    motor_w: FloatArray,
    ohms: FloatArray | float = 1.0,
) -> MainsSide:
    """Line current and watts at the mains: I_1 = t I_2 + V/R_fe + V/jX_mag, P_in = P_motor + |I_2|² Re Z_T + P_fe.

    The magnetising current's own copper loss is left out; arrays broadcast.

    Parameters
    ----------
    unit : Transformer
        The transformer [-]
    supply_v : float
        Mains as they are [V]
    frequency_hz : float
        Their frequency [Hz]
    tap_v : array
        Rated open volts of the tap [V]
    motor_a : array of complex
        Motor current as a phasor against the mains [A]
    motor_w : array
        Input of the motor [W]
    ohms : array
        Copper over what is stated [-]

    Returns
    -------
    MainsSide
        Amps and watts [-]
    """
    taps = np.asarray(tap_v, dtype=np.float64)
    t, amps = taps / unit.supply_v, np.abs(motor_a)
    if unit.winding is Winding.AUTO:
        resistance = unit.primary_ohm * t * (1 - t)
        worst = np.maximum(t, 1 - t) * amps * (t < 1 - 1e-9)
    else:
        resistance = t**2 * unit.primary_ohm + taps / unit.whole_v * unit.secondary_ohm
        worst = amps
    copper = amps**2 * resistance * ohms
    core = np.full_like(copper, unit.core_w(supply_v))
    line = t * motor_a + unit.idle_a(supply_v, frequency_hz)
    return MainsSide(
        np.asarray(np.abs(line)),
        np.asarray(motor_w + copper + core),
        np.asarray(copper),
        core,
        np.asarray(worst * np.ones_like(copper)),
    )


@dataclass(frozen=True)
class Rush:
    """The first current after switching on."""

    crest_a: float
    i2t_a2s: float
    bound_a: float
    """It can never be more: √2 V / R [A]"""


def first_rush(unit: Transformer, supply_v: float, frequency_hz: float, line_ohm: float = LINE_OHM) -> Rush:
    """Switched on at the zero of the volts, with the iron left magnetised the same way.

    λ' = v − R i; i = λ/L_m up to where the iron is full, beyond that with the inductance of the winding in air.

    Parameters
    ----------
    unit : Transformer
        The transformer [-]
    supply_v : float
        Mains at their highest [V]
    frequency_hz : float
        Their frequency [Hz]
    line_ohm : float
        Of the mains up to it [Ω]

    Returns
    -------
    Rush
        Crest, I²t of the first five periods, and what bounds them [-]

    Raises
    ------
    InputError
        Volts or ohms that cannot be real.
    """
    check_range("supply_v", supply_v, 1.0, 1000.0, "V")
    check_range("line_ohm", line_ohm, 0.0, 1e3, "Ω")
    rated, omega = 2 * math.pi * unit.frequency_hz, 2 * math.pi * frequency_hz
    ohm = unit.primary_ohm + line_ohm
    iron_h, air_h = unit.magnetising_ohm / rated, AIR_OVER_LEAKAGE * unit.primary_leakage_ohm / rated
    working = math.sqrt(2) * unit.supply_v / rated
    full, flux = working * SATURATED_T / WORKING_T, working * LEFT_T / WORKING_T
    crest_v = math.sqrt(2) * supply_v

    def amps(at: float) -> float:
        over = abs(at) - full
        size = abs(at) / iron_h if over <= 0 else full / iron_h + over / air_h
        return math.copysign(size, at)

    steps = 2000
    dt = 5 / frequency_hz / steps
    crest = heat = 0.0
    for k in range(steps):
        # The middle of each step: the current is piecewise linear in the flux.
        half = flux + 0.5 * dt * (crest_v * math.sin(omega * k * dt) - ohm * amps(flux))
        current = amps(half)
        flux += dt * (crest_v * math.sin(omega * (k + 0.5) * dt) - ohm * current)
        crest, heat = max(crest, abs(current)), heat + current * current * dt
    return Rush(crest, heat, crest_v / ohm)


@dataclass(frozen=True)
class NeutralOpen:
    """An auto winding whose neutral end has come off: the fan hangs behind its upper section, as behind a choke."""

    choke_ohm: float
    """As if the iron stayed linear [Ω]"""
    section_v: float
    """What the upper section is made for [V]"""


def neutral_open(unit: Transformer, tap_v: float, frequency_hz: float) -> NeutralOpen | None:
    """What stands in line when the neutral end of an auto winding is open; None where it is separate, or direct.

    Parameters
    ----------
    unit : Transformer
        The transformer [-]
    tap_v : float
        The tap [V]
    frequency_hz : float
        Mains frequency [Hz]

    Returns
    -------
    NeutralOpen or None
        X_mag (1 − t)² and the volts of that section [-]
    """
    if unit.winding is not Winding.AUTO or tap_v >= unit.supply_v:
        return None
    left = 1 - unit.ratio(tap_v)
    return NeutralOpen(
        unit.magnetising_ohm * frequency_hz / unit.frequency_hz * left**2, unit.supply_v * left
    )
