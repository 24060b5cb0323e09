"""Reactance of a capacitor or an inductor, and a capacitor before a fan taken as a fixed impedance."""

from __future__ import annotations

import cmath
import math

from fenwit.core.errors import InputError, check_range

_HZ, _OHM, _PART = (1e-9, 1e12), (1e-12, 1e15), (1e-18, 1e9)


def capacitor_ohm(frequency_hz: float, capacitance_f: float) -> float:
    """1/(2π f C); solved for f or C it is the same relation with the two exchanged [Hz, F → Ω]"""
    check_range("frequency_hz", frequency_hz, *_HZ, "Hz")
    check_range("capacitance_f", capacitance_f, *_PART, "F")
    return 1 / (2 * math.pi * frequency_hz * capacitance_f)


def inductor_ohm(frequency_hz: float, inductance_h: float) -> float:
    """2π f L [Hz, H → Ω]"""
    check_range("frequency_hz", frequency_hz, *_HZ, "Hz")
    check_range("inductance_h", inductance_h, *_PART, "H")
    return 2 * math.pi * frequency_hz * inductance_h


def capacitance_for_f(frequency_hz: float, reactance_ohm: float) -> float:
    """Capacitor of a reactance, 1/(2π f X) [Hz, Ω → F]"""
    check_range("frequency_hz", frequency_hz, *_HZ, "Hz")
    check_range("reactance_ohm", reactance_ohm, *_OHM, "Ω")
    return 1 / (2 * math.pi * frequency_hz * reactance_ohm)


def frequency_for_hz(
    reactance_ohm: float, capacitance_f: float | None = None, inductance_h: float | None = None
) -> float:
    """Frequency at which a part has a reactance [Ω, F | H → Hz]"""
    check_range("reactance_ohm", reactance_ohm, *_OHM, "Ω")
    if capacitance_f is not None:
        check_range("capacitance_f", capacitance_f, *_PART, "F")
        return 1 / (2 * math.pi * reactance_ohm * capacitance_f)
    check_range("inductance_h", inductance_h, *_PART, "H")
    assert inductance_h is not None
    return reactance_ohm / (2 * math.pi * inductance_h)


def straight_reactance_ohm(supply_v: float, fan_v: float, fan_ohm: float) -> float:
    """What a capacitor must have that takes the rest of the volts, all added in a straight line, Z (V_s − V_f)/V_f [Ω]"""
    _fan_volts(supply_v, fan_v)
    return fan_ohm * (supply_v - fan_v) / fan_v


def phasor_reactance_ohm(supply_v: float, fan_v: float, fan_ohm: float, power_factor: float) -> float:
    """The same for a fixed impedance as a phasor, X = Z sin φ + √((V_s Z/V_f)² − Z² cos² φ).

    Parameters
    ----------
    supply_v : float
        Volts of the supply [V]
    fan_v : float
        Wanted at the fan [V]
    fan_ohm : float
        Amount of its impedance [Ω]
    power_factor : float
        cos φ, lagging [-]

    Returns
    -------
    float
        Reactance [Ω]

    Raises
    ------
    InputError
        Volts not between 0 and the supply.
    """
    _fan_volts(supply_v, fan_v)
    check_range("power_factor", power_factor, 0.0, 1.0, "")
    sine = math.sqrt(1 - power_factor**2)
    return fan_ohm * sine + math.sqrt((supply_v * fan_ohm / fan_v) ** 2 - (fan_ohm * power_factor) ** 2)


def phasor_fan_v(supply_v: float, fan_ohm: float, power_factor: float, reactance_ohm: float) -> float:
    """Volts at a fixed impedance behind a capacitor, V_s Z/√(Z² cos² φ + (Z sin φ − X)²) [V]"""
    check_range("power_factor", power_factor, 0.0, 1.0, "")
    impedance = cmath.rect(fan_ohm, math.acos(power_factor))
    return supply_v * fan_ohm / abs(impedance - 1j * reactance_ohm)


def _fan_volts(supply_v: float, fan_v: float) -> None:
    check_range("supply_voltage_v", supply_v, 1e-9, 1e6, "V")
    if not 0 < fan_v < supply_v:
        raise InputError(
            "fan_voltage_v",
            fan_v,
            f"above 0, below {supply_v:g} V",
            "what is in the line takes a part of the supply",
        )
