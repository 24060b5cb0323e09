"""Timer ICs of the 555 type, thresholds V/3 and 2V/3: astable, with steering diodes, clock and one-shot (docs/duty.md).

A comparator that is late by t_d lets the capacitor run on:
    v_peak = V_c − (V_c − 2V/3) e^(−t_d/τ_c)      v_valley = V_d + (V/3 − V_d) e^(−t_d/τ_d)
    t_high = τ_c ln((V_c − v_valley)/(V_c − 2V/3)) + t_d      t_low = τ_d ln((v_peak − V_d)/(V/3 − V_d)) + t_d
Every parameter may be an array; they broadcast against each other.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import FloatOrArray, InputError, check_range

FloatArray = NDArray[np.float64]
SHOP = 0.693
"""ln 2 as the trade writes it [-]"""
DIODE_V = 0.6
_PARTS_OHM, _PARTS_F = (1e-3, 1e12), (1e-15, 1.0)


@dataclass(frozen=True)
class Chip:
    """The timer itself and its supply."""

    supply_v: FloatOrArray = 12.0
    saturation_v: FloatOrArray = 0.0
    """Left across its discharge transistor, or its output when low [V]"""
    delay_s: FloatOrArray = 0.0
    stray_f: FloatOrArray = 0.0
    """Of the board, on top of the part: 10 to 20 pF [F]"""

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_v, 0.1, 1000.0, "V")
        check_range("saturation_voltage_v", self.saturation_v, 0.0, 1000.0, "V")
        check_range("delay_s", self.delay_s, 0.0, 1.0, "s")
        check_range("stray_capacitance_f", self.stray_f, 0.0, 1.0, "F")


@dataclass(frozen=True)
class Beat:
    """One period of a timer."""

    high_s: FloatArray
    low_s: FloatArray

    @property
    def frequency_hz(self) -> FloatArray:
        """1/(t_high + t_low) [Hz]"""
        return np.asarray(1 / (self.high_s + self.low_s))

    @property
    def duty(self) -> FloatArray:
        """Share of the period in which its output is high [-]"""
        return np.asarray(self.high_s / (self.high_s + self.low_s))


def beat(
    chip: Chip,
    charge_s: FloatOrArray,
    discharge_s: FloatOrArray,
    charge_to_v: FloatOrArray,
    discharge_to_v: FloatOrArray,
) -> Beat:
    """One period from the two time constants and the volts they run towards.

    Parameters
    ----------
    chip : Chip
        The timer [-]
    charge_s : float or array
        τ_c = R C [s]
    discharge_s : float or array
        τ_d [s]
    charge_to_v : float or array
        V_c [V]
    discharge_to_v : float or array
        V_d [V]

    Returns
    -------
    Beat
        Times, of the shape that all of them broadcast to [s]

    Raises
    ------
    InputError
        The thresholds are never reached: it does not oscillate.
    """
    v, late = np.asarray(chip.supply_v, dtype=np.float64), np.asarray(chip.delay_s)
    upper, lower = 2 * v / 3, v / 3
    end_c, end_d = np.asarray(charge_to_v, dtype=np.float64), np.asarray(discharge_to_v, dtype=np.float64)
    if (end_c <= upper).any() or (end_d >= lower).any():
        reason = "its thresholds at a third and two thirds are never reached: it does not oscillate"
        raise InputError(
            "supply_voltage_v", float(v.flat[0]), "charging to above 2V/3, discharging to below V/3", reason
        )
    tau_c, tau_d = np.asarray(charge_s, dtype=np.float64), np.asarray(discharge_s, dtype=np.float64)
    peak = end_c - (end_c - upper) * np.exp(-late / tau_c)
    valley = end_d + (lower - end_d) * np.exp(-late / tau_d)
    high = tau_c * np.log((end_c - valley) / (end_c - upper)) + late
    low = tau_d * np.log((peak - end_d) / (lower - end_d)) + late
    return Beat(high, low)


# ---------------------------------------------------------------- astable


@dataclass(frozen=True)
class Astable:
    """R_A from the supply to the discharge pin, R_B on to the capacitor."""

    resistance_a_ohm: FloatOrArray
    resistance_b_ohm: FloatOrArray
    capacitance_f: FloatOrArray
    chip: Chip

    def __post_init__(self) -> None:
        check_range("resistance_a_ohm", self.resistance_a_ohm, *_PARTS_OHM, "Ω")
        check_range("resistance_b_ohm", self.resistance_b_ohm, *_PARTS_OHM, "Ω")
        check_range("capacitance_f", self.capacitance_f, *_PARTS_F, "F")

    @property
    def beat(self) -> Beat:
        """Its period. Raises InputError where it does not oscillate."""
        c = self.capacitance_f + self.chip.stray_f
        charge = (self.resistance_a_ohm + self.resistance_b_ohm) * c
        return beat(self.chip, charge, self.resistance_b_ohm * c, self.chip.supply_v, self.chip.saturation_v)

    @property
    def shop_hz(self) -> FloatArray:
        """1/(0.693 (R_A + 2 R_B) C), as it is usually reckoned, without stray [Hz]"""
        return np.asarray(
            1 / (SHOP * (self.resistance_a_ohm + 2 * self.resistance_b_ohm) * self.capacitance_f)
        )


def solved(
    name: str, wanted: float, low: float, high: float, found: Callable[[float], float], field: str, unit: str
) -> float:
    """The value of a part, between two ends, at which something monotone takes a wanted value.

    Parameters
    ----------
    name : str
        Of the part [-]
    wanted : float
        Of what it decides [any]
    low : float
        Least value of the part, above 0 [any]
    high : float
        Most [any]
    found : callable
        From the part's value to what it decides [-]
    field : str
        Name of what is wanted [-]
    unit : str
        Of it [-]

    Returns
    -------
    float
        The part [any]

    Raises
    ------
    InputError
        Nothing between the ends gives it.
    """

    def off(logarithm: float) -> float:
        return found(float(np.exp(logarithm))) / wanted - 1

    at = np.log([low, high])
    gaps = [off(float(a)) for a in at]
    if gaps[0] * gaps[1] > 0:
        ends = sorted(wanted * (g + 1) for g in gaps)
        allowed = f"{ends[0]:.4g} to {ends[1]:.4g} {unit}".rstrip()
        raise InputError(field, wanted, allowed, f"no {name} gives this")
    return float(np.exp(brentq(off, *at, xtol=1e-14, rtol=1e-14)))


def astable_for(frequency_hz: float, duty: float, capacitance_f: float, chip: Chip) -> Astable:
    """Both resistors of the plain circuit for a frequency and a duty.

    Parameters
    ----------
    frequency_hz : float
        Wanted [Hz]
    duty : float
        Wanted, above one half: charging goes through both resistors [-]
    capacitance_f : float
        The part [F]
    chip : Chip
        The timer [-]

    Returns
    -------
    Astable
        The circuit [-]

    Raises
    ------
    InputError
        A duty it cannot make, or times shorter than its delay.
    """
    check_range("frequency_hz", frequency_hz, 1e-6, 1e12, "Hz")
    high, low = duty / frequency_hz, (1 - duty) / frequency_hz
    c = capacitance_f + float(chip.stray_f)
    charge, discharge = _legs(chip, high, low, float(chip.supply_v), float(chip.saturation_v))
    r_b, r_a = discharge / c, (charge - discharge) / c
    if not 0 < duty < 1 or r_a <= 0:
        raise InputError(
            "duty",
            duty,
            "above 0.5, below 1",
            "the capacitor charges through both resistors and empties through one",
        )
    return Astable(r_a, r_b, capacitance_f, chip)


def _legs(
    chip: Chip, high_s: float, low_s: float, charge_to_v: float, discharge_to_v: float
) -> tuple[float, float]:
    """Time constants that make two times; with a late comparator each depends a little on the other."""
    late = float(chip.delay_s)
    if min(high_s, low_s) <= 2 * late:
        raise InputError(
            "frequency_hz",
            1 / (high_s + low_s),
            f"times above {2 * late:.3g} s",
            "a part of it is shorter than its delay",
        )
    start = beat(replace(chip, delay_s=0.0), 1.0, 1.0, charge_to_v, discharge_to_v)
    charge, discharge = high_s / float(start.high_s), low_s / float(start.low_s)
    for _ in range(200):
        was = (charge, discharge)
        at = beat(chip, charge, discharge, charge_to_v, discharge_to_v)
        charge *= (high_s - late) / (float(at.high_s) - late)
        discharge *= (low_s - late) / (float(at.low_s) - late)
        if abs(charge / was[0] - 1) + abs(discharge / was[1] - 1) < 1e-15:
            break
    at = beat(chip, charge, discharge, charge_to_v, discharge_to_v)
    if abs(float(at.high_s) / high_s - 1) + abs(float(at.low_s) / low_s - 1) > 1e-9:
        raise InputError("frequency_hz", 1 / (high_s + low_s), "slower", "its delay is too long for this")
    return charge, discharge


# ---------------------------------------------------------------- steering diodes


@dataclass(frozen=True)
class Steered:
    """A pot between two diodes: one end charges, the other discharges, the wiper on the capacitor."""

    resistance_high_ohm: FloatOrArray
    """Fixed, in the charging leg [Ω]"""
    resistance_low_ohm: FloatOrArray
    pot_ohm: FloatOrArray
    capacitance_f: FloatOrArray
    chip: Chip
    diode_v: FloatOrArray = DIODE_V
    high_v: FloatOrArray | None = None
    """What the charge comes from: the supply (None), or the output's high level where that drives the pot [V]"""

    def __post_init__(self) -> None:
        for name in ("resistance_high_ohm", "resistance_low_ohm"):
            reason = "without it the discharge transistor is shorted at the end of the travel"
            check_range(name, getattr(self, name), *_PARTS_OHM, "Ω", reason=reason)
        check_range("pot_ohm", self.pot_ohm, *_PARTS_OHM, "Ω")
        check_range("capacitance_f", self.capacitance_f, *_PARTS_F, "F")
        check_range("diode_drop_v", self.diode_v, 0.0, 100.0, "V")
        if self.high_v is not None:
            check_range("high_voltage_v", self.high_v, 0.0, 1000.0, "V")

    @property
    def charged_v(self) -> FloatOrArray:
        """What it charges from [V]"""
        return self.chip.supply_v if self.high_v is None else self.high_v

    def legs_ohm(self, travel: FloatOrArray) -> tuple[FloatArray, FloatArray]:
        """Ohms that charge and that discharge, over the travel [- → Ω]"""
        x = np.asarray(check_range("travel", travel, 0.0, 1.0, ""))
        return (
            np.asarray(self.resistance_high_ohm + x * self.pot_ohm),
            np.asarray(self.resistance_low_ohm + (1 - x) * self.pot_ohm),
        )

    def beat(self, travel: FloatOrArray) -> Beat:
        """Its period over the travel, each diode taken as a constant drop.

        Parameters
        ----------
        travel : float or array
            0 to 1 [-]

        Returns
        -------
        Beat
            Times [s]

        Raises
        ------
        InputError
            Outside the travel, or it does not oscillate.
        """
        charge, discharge = self.legs_ohm(travel)
        c = self.capacitance_f + self.chip.stray_f
        ends = self.charged_v - self.diode_v, self.chip.saturation_v + self.diode_v
        return beat(self.chip, charge * c, discharge * c, *ends)

    @property
    def shop_hz(self) -> FloatArray:
        """1/(0.693 (R_high + R_low + R_pot) C) [Hz]"""
        whole = self.resistance_high_ohm + self.resistance_low_ohm + self.pot_ohm
        return np.asarray(1 / (SHOP * whole * self.capacitance_f))

    def real(self, travel: FloatOrArray, diode: Diode | None = None) -> Beat:
        """Its period with diodes that follow their law, the comparator in time.

        v = i R + n V_T ln(1 + i/I_s) at the ends of a leg gives i0 and i1; along it the charge is
        t = C [R ln(i0/i1) + (n V_T/I_s) ln(i0 (i1 + I_s)/(i1 (i0 + I_s)))].

        Parameters
        ----------
        travel : float or array
            0 to 1 [-]
        diode : Diode or None
            None: small-signal silicon [-]

        Returns
        -------
        Beat
            Times; the delay is added to both [s]

        Raises
        ------
        InputError
            Outside the travel, or it does not oscillate.
        """
        diode = diode or Diode()
        v = np.asarray(self.chip.supply_v, dtype=np.float64)
        charge, discharge = self.legs_ohm(travel)
        c = self.capacitance_f + self.chip.stray_f
        up, down = np.asarray(self.charged_v), np.asarray(self.chip.saturation_v)
        if (up <= 2 * v / 3).any() or (down >= v / 3).any():
            raise InputError(
                "supply_voltage_v",
                float(v.flat[0]),
                "charging to above 2V/3, discharging to below V/3",
                "it does not oscillate",
            )
        high = c * diode.time_over_c(up - v / 3, up - 2 * v / 3, charge)
        low = c * diode.time_over_c(2 * v / 3 - down, v / 3 - down, discharge)
        return Beat(high + self.chip.delay_s, low + self.chip.delay_s)


@dataclass(frozen=True)
class Diode:
    """i = I_s (e^(v/nV_T) − 1); small-signal silicon where nothing else is said."""

    saturation_a: float = 2.5e-9
    slope_v: float = 1.75 * 0.02585
    """n V_T [V]"""

    def current_a(self, voltage_v: FloatArray, ohm: FloatArray) -> FloatArray:
        """Amps through it and a resistor in series, from v = iR + n V_T ln(1 + i/I_s) by Newton in ln i [V, Ω → A]"""
        voltage_v, ohm = np.broadcast_arrays(np.asarray(voltage_v, dtype=np.float64), ohm)
        # From above both the resistor alone and the diode alone: the rest is concave, Newton does not overshoot.
        logs = np.minimum(np.log(voltage_v / ohm), voltage_v / self.slope_v + np.log(self.saturation_a))
        for _ in range(30):
            i = np.exp(logs)
            gap = i * ohm + self.slope_v * np.log1p(i / self.saturation_a) - voltage_v
            step = gap / (i * ohm + self.slope_v * i / (i + self.saturation_a))
            logs = logs - step
            if np.abs(step).max() < 1e-13:
                break
        return np.asarray(np.exp(logs))

    def time_over_c(self, from_v: FloatArray, to_v: FloatArray, ohm: FloatArray) -> FloatArray:
        """Time of a leg over its capacitor, driving volts falling from the first to the second [V, V, Ω → s/F]"""
        first, last = self.current_a(from_v, ohm), self.current_a(to_v, ohm)
        s = self.saturation_a
        return np.asarray(
            ohm * np.log(first / last) + self.slope_v / s * (np.log1p(s / last) - np.log1p(s / first))
        )


# ---------------------------------------------------------------- clock and one-shot


@dataclass(frozen=True)
class OneShot:
    """A clock that triggers a one-shot: the frequency is the clock's, the duty one resistor's."""

    clock_hz: FloatOrArray
    resistance_ohm: FloatOrArray
    capacitance_f: FloatOrArray
    trigger_low_s: FloatOrArray
    chip: Chip

    def __post_init__(self) -> None:
        check_range("clock_frequency_hz", self.clock_hz, 1e-6, 1e9, "Hz")
        check_range("resistance_ohm", self.resistance_ohm, *_PARTS_OHM, "Ω")
        check_range("capacitance_f", self.capacitance_f, *_PARTS_F, "F")
        check_range("trigger_low_s", self.trigger_low_s, 0.0, 1e6, "s")
        v = np.asarray(self.chip.supply_v)
        if (np.asarray(self.chip.saturation_v) >= 2 * v / 3).any():
            raise InputError(
                "supply_voltage_v",
                float(v.flat[0]),
                "above 1.5 × the saturation volts",
                "the pulse never begins",
            )
        if (np.asarray(self.trigger_low_s) * self.clock_hz >= 1).any():
            raise InputError(
                "trigger_low_s", float(np.asarray(self.trigger_low_s).flat[0]),
                f"below {1 / float(np.asarray(self.clock_hz).flat[0]):.3g} s",
                "the trigger must go high again in every period",
            )  # fmt: skip

    @property
    def factor(self) -> FloatArray:
        """Width over R C, ln((V − V_sat)/(V/3)) [-]"""
        v = np.asarray(self.chip.supply_v, dtype=np.float64)
        return np.asarray(np.log((v - self.chip.saturation_v) / (v / 3)))

    @property
    def width_s(self) -> FloatArray:
        """Of a pulse that is triggered once and briefly [s]"""
        c = self.capacitance_f + self.chip.stray_f
        return np.asarray(self.resistance_ohm * c * self.factor + self.chip.delay_s)

    @property
    def pulse_s(self) -> FloatArray:
        """As it comes: one whose trigger is still low when it should end goes on until that is over [s]"""
        t = 1 / np.asarray(self.clock_hz, dtype=np.float64)
        return np.maximum(self.width_s, _whole(np.floor, self.width_s / t) * t + self.trigger_low_s)

    @property
    def edges(self) -> FloatArray:
        """Clock edges for each pulse: those above one are swallowed [-]"""
        return np.maximum(_whole(np.ceil, self.pulse_s * self.clock_hz), 1.0)

    @property
    def duty(self) -> FloatArray:
        """Share of the time in which its output is high; 1 where it never falls [-]"""
        return np.asarray(self.pulse_s * self.clock_hz / self.edges)

    @property
    def steady(self) -> NDArray[np.bool_]:
        """Whether its output never falls [-]"""
        return np.asarray(np.abs(self.duty - 1) < 1e-12)

    @property
    def frequency_hz(self) -> FloatArray:
        """Of its output; 0 where that never falls [Hz]"""
        return np.where(self.steady, 0.0, np.asarray(self.clock_hz) / self.edges)

    @property
    def longest_ohm(self) -> FloatArray:
        """Resistor whose width is one period: beyond it pulses are swallowed [Ω]"""
        return self.ohm_for(1.0)

    def ohm_for(self, duty: FloatOrArray) -> FloatArray:
        """Resistor whose width is a share of the period [- → Ω]"""
        width = duty / np.asarray(self.clock_hz, dtype=np.float64) - self.chip.delay_s
        return np.asarray(width / ((self.capacitance_f + self.chip.stray_f) * self.factor))

    def farad_for(self, duty: FloatOrArray) -> FloatArray:
        """Capacitor whose width is a share of the period [- → F]"""
        width = duty / np.asarray(self.clock_hz, dtype=np.float64) - self.chip.delay_s
        return np.asarray(width / (self.resistance_ohm * self.factor) - self.chip.stray_f)


def _whole(step: Callable[[FloatArray], FloatArray], value: FloatArray) -> FloatArray:
    """Rounded down or up, but a count that is whole but for the last digits stays what it is."""
    near = np.round(value)
    return np.where(np.abs(value - near) < 1e-9 * np.maximum(np.abs(value), 1.0), near, step(value))
