"""The relations behind the small parts that make capacitors safe: bleed, limiter, surge, loss, equalising current."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range

FloatArray = NDArray[np.float64]

TOUCHABLE = (34.0, 1.0)
"""Volts left after seconds where somebody can touch the pins [V, s]"""
ENCLOSED = (60.0, 60.0)
"""Volts left after seconds inside a closed housing [V, s]"""
AIR_C, AIR_K_PER_W = 40.0, 8.0
"""Air around the housing, and how much warmer it is inside for each watt: an estimate [°C, K/W]"""


def bleed_limit_ohm(capacitance_f: float, crest_v: float, safe_v: float, time_s: float) -> float:
    """Most ohms that empty a capacitor from its crest to safe volts in time, R = t / (C ln(V0/V_safe)).

    Parameters
    ----------
    capacitance_f : float
        Capacitance [F]
    crest_v : float
        Volts it may hold at first, V0 [V]
    safe_v : float
        Volts that may be left [V]
    time_s : float
        Time allowed [s]

    Returns
    -------
    float
        Most ohms [Ω]

    Raises
    ------
    InputError
        Values that cannot be real, or a crest that is safe already.
    """
    check_range("capacitance_f", capacitance_f, 1e-15, 10.0, "F")
    check_range("safe_v", safe_v, 1e-3, 1e6, "V")
    check_range("time_s", time_s, 1e-6, 1e7, "s")
    check_range("crest_v", crest_v, safe_v * 1.000001, 1e6, "V", reason="safe already: no bleed is needed")
    return float(time_s / (capacitance_f * np.log(crest_v / safe_v)))


def discharge_time_s(capacitance_f: float, crest_v: float, safe_v: float, resistance_ohm: float) -> float:
    """Time until a bleed has brought a capacitor from its crest to safe volts, R C ln(V0/V_safe).

    Parameters
    ----------
    capacitance_f : float
        Capacitance [F]
    crest_v : float
        Volts it may hold at first, V0 [V]
    safe_v : float
        Volts that may be left [V]
    resistance_ohm : float
        Of the bleed [Ω]

    Returns
    -------
    float
        Time [s]

    Raises
    ------
    InputError
        Values that cannot be real, or a crest that is safe already.
    """
    check_range("resistance_ohm", resistance_ohm, 1e-3, 1e15, "Ω")
    return resistance_ohm / bleed_limit_ohm(capacitance_f, crest_v, safe_v, 1.0)


def limiter_least_ohm(step_v: float, make_current_a: float) -> float:
    """Fewest ohms that keep the first current below what contacts may close on, R = V_step / I_contact.

    Parameters
    ----------
    step_v : float
        Volts across the limiter at the first instant: twice the crest where the capacitor is charged the other way [V]
    make_current_a : float
        Peak the contacts may close on [A]

    Returns
    -------
    float
        Fewest ohms [Ω]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("step_v", step_v, 0.1, 1e4, "V")
    check_range("make_current_a", make_current_a, 0.1, 1e4, "A")
    return float(step_v / make_current_a)


def surge_energy_j(capacitance_f: float, step_v: float) -> float:
    """Heat in a limiter while its capacitor is brought over a step of volts, ½ C V².

    Parameters
    ----------
    capacitance_f : float
        Capacitance [F]
    step_v : float
        Step of volts [V]

    Returns
    -------
    float
        Energy [J]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("capacitance_f", capacitance_f, 1e-9, 1e-2, "F")
    check_range("step_v", step_v, 0.0, 1e4, "V")
    return float(0.5 * capacitance_f * step_v**2)


def capacitor_loss_w(
    capacitance_f: float, voltage_v: FloatArray, frequency_hz: float, loss_factor: float
) -> FloatArray:
    """Heat in a capacitor, V² ω C tan δ.

    Parameters
    ----------
    capacitance_f : float
        Capacitance [F]
    voltage_v : array, any shape
        Rms volts across it [V]
    frequency_hz : float
        Frequency [Hz]
    loss_factor : float
        tan δ [-]

    Returns
    -------
    array, shape of voltage_v
        Loss [W]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("capacitance_f", capacitance_f, 1e-9, 1e-2, "F")
    check_range("voltage_v", voltage_v, 0.0, 1e4, "V")
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    check_range("loss_factor", loss_factor, 0.0, 1.0, "")
    return np.asarray(voltage_v**2 * (2 * np.pi * frequency_hz * capacitance_f * loss_factor))


def equalising_current_a(
    crest_a_v: float, crest_b_v: float, limiter_a_ohm: float, limiter_b_ohm: float
) -> float:
    """Peak when two capacitors charged opposite ways are joined through both limiters, (V_A + V_B)/(R_A + R_B).

    Parameters
    ----------
    crest_a_v : float
        Crest of one capacitor's volts [V]
    crest_b_v : float
        Crest of the other's; 0 for a capacitor that is bridged [V]
    limiter_a_ohm : float
        Limiter of the one [Ω]
    limiter_b_ohm : float
        Limiter of the other; 0 for a capacitor that is bridged [Ω]

    Returns
    -------
    float
        Peak amps [A]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("crest_a_v", crest_a_v, 0.0, 1e4, "V")
    check_range("crest_b_v", crest_b_v, 0.0, 1e4, "V")
    check_range("limiter_a_ohm", limiter_a_ohm, 1e-3, 1e6, "Ω")
    check_range("limiter_b_ohm", limiter_b_ohm, 0.0, 1e6, "Ω")
    return float((crest_a_v + crest_b_v) / (limiter_a_ohm + limiter_b_ohm))
