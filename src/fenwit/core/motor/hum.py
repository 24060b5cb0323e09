"""How loud a motor's torque beats: at twice the mains and its multiples, weighed as an ear would (docs/choosing.md)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, check_range
from fenwit.core.motor.machine import Machine, TwoWindingMotor
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.taps import TapFedMotor

FloatArray = NDArray[np.float64]


def ripple_nm(motor: Machine, slip: float, motor_v: float, frequency_hz: float) -> float | None:
    """Amplitude of the torque at twice the mains on sine volts; None for a motor known from its terminals alone.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    slip : float
        Slip [-]
    motor_v : float
        Motor volts [V]
    frequency_hz : float
        Of the mains [Hz]

    Returns
    -------
    float or None
        Amplitude; peak to peak is twice it [N·m]
    """
    if not isinstance(motor, TwoWindingMotor | TapFedMotor | ShadedPoleMotor):
        return None
    return float(motor.ripple_nm(np.asarray(slip), frequency_hz)) * motor_v**2


def a_weighting(frequency_hz: FloatOrArray) -> FloatArray:
    """A-weighting as a factor of amplitude, 1 at 1 kHz (IEC 61672).

    Parameters
    ----------
    frequency_hz : float or array
        Frequency [Hz]

    Returns
    -------
    array
        Factor; 100 Hz gives −19.1 dB [-]

    Raises
    ------
    InputError
        A frequency outside 10 Hz to 20 kHz.
    """
    f2 = np.square(np.asarray(check_range("frequency_hz", frequency_hz, 10.0, 2e4, "Hz")))
    ends = (f2 + 20.6**2) * (f2 + 12194.0**2)
    middle = np.sqrt((f2 + 107.7**2) * (f2 + 737.9**2))
    return np.asarray(10**0.1 * 12194.0**2 * f2 * f2 / (ends * middle))


def hum_db(beats_nm: FloatArray, direct_nm: float, frequency_hz: float) -> float:
    """Level of a torque's beat over that of the same motor directly on the mains.

    10 log Σ_k (T_2kf A(2kf))² / (T_2f,direct A(2f))²; what mounting and housing make of it is not modelled.

    Parameters
    ----------
    beats_nm : array
        Amplitudes at 2, 4, 6 … times the mains [N·m]
    direct_nm : float
        Amplitude at twice the mains, directly at full speed [N·m]
    frequency_hz : float
        Of the mains [Hz]

    Returns
    -------
    float
        Level difference; never below −90 [dB]

    Raises
    ------
    InputError
        No beat to compare with.
    """
    check_range("direct_nm", direct_nm, 1e-12, 1e3, "N·m")
    orders = np.asarray(2.0 * frequency_hz * np.arange(1, len(beats_nm) + 1), dtype=np.float64)
    own = float(np.sum(np.square(np.multiply(beats_nm, a_weighting(orders)))))
    reference = (direct_nm * float(a_weighting(2 * frequency_hz))) ** 2
    return float(10 * np.log10(max(own / reference, 1e-9)))
