"""Self-excitation: a steady state whose torque slopes are stable may still swing ever wider (docs/machine.md, "Hunting").

At fixed speed the machine behind a series impedance is linear and time-invariant: currents and rotor fluxes in fixed
axes, volts of run and series capacitor. An eigenvalue with a positive real part lets any disturbance grow.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError
from fenwit.core.motor.machine import Machine, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.switched import axes_of, two_axis

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]


def growth_per_s(
    motor: Machine, speed_rpm: FloatArray, frequency_hz: float, impedance_ohm: ComplexArray
) -> FloatArray:
    """How fast a small disturbance grows at fixed speed; below zero it dies away.

    A machine known from its terminals alone is a passive circuit at fixed slip and never grows; nor is a tap in question,
    which has nothing in its line.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    speed_rpm : array
        Speeds, shape (points,) [rpm]
    frequency_hz : float
        Supply frequency [Hz]
    impedance_ohm : array
        In the line at each, shape (points,) [Ω]

    Returns
    -------
    array
        Largest real part of the eigenvalues, shape (points,); −∞ where nothing can grow [1/s]

    Raises
    ------
    InputError
        Not one impedance for each speed.
    """
    speed, z = np.atleast_1d(np.asarray(speed_rpm, dtype=np.float64)), np.atleast_1d(impedance_ohm)
    if speed.shape != z.shape:
        raise InputError("impedance_ohm", z.shape, f"shape {speed.shape}", "one impedance for each speed")
    if not len(speed) or not isinstance(motor, TwoWindingMotor | ShadedPoleMotor):
        return np.full(speed.shape, -np.inf)
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    axes = axes_of(motor.settled(1 - speed / n_s, frequency_hz), len(speed), frequency_hz)
    machine = two_axis(axes, speed, speed / n_s, frequency_hz, z.real, np.maximum(z.imag, 0.0))
    n = machine.a_on.shape[-1]
    whole = np.zeros((len(speed), n + 1, n + 1))
    whole[:, :n, :n] = machine.a_on
    # Volts of the series capacitor over X_m: they take away from the supply's, and the line current charges it.
    whole[:, :n, n] = -machine.b_on * axes.x_m[:, None]
    whole[:, n, :n] = (np.maximum(-z.imag, 0.0) / axes.x_m)[:, None] * machine.line
    # Without a capacitor the added state is no state: it rests at 0 and must not hide what the others do.
    whole[:, n, n] = np.where(z.imag < 0, 0.0, -1.0)
    values = np.linalg.eigvals(whole)
    return np.asarray(2 * np.pi * frequency_hz * values.real.max(axis=-1))
