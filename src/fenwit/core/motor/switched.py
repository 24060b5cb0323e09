"""A machine behind a switch that opens at current zero: its equations between two switchings, at fixed speed.

Angles θ = ωt stand for time, currents for all states (capacitor volts over X_m, rotor fluxes over L_m), so that every
matrix is of the order of one. At fixed speed both circuits are linear and time-invariant (docs/phase-angle.md).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, check_range
from fenwit.core.motor.machine import Machine, SingleWindingMotor, TwoWindingMotor, synchronous_speed_rpm

FloatArray = NDArray[np.float64]
_LEAST_SLIP = 1e-6
_LEAST_LEAKAGE = 1e-4
"""Over X_m, so that a winding without leakage has still a current that cannot jump [-]"""


@dataclass(frozen=True, eq=False)
class Switched:
    """State equations of a machine at some speeds: x' = A x + b v while it conducts, z' = A₀ z while the switch is open.

    All arrays have the speeds in front.
    """

    speed_rpm: FloatArray
    frequency_hz: float
    a_on: FloatArray
    """Shape (speeds, n, n) [-]"""
    b_on: FloatArray
    """Shape (speeds, n) [A/V]"""
    a_off: FloatArray
    """Shape (speeds, m, m) [-]"""
    line: FloatArray
    """Row that gives the line current, shape (n,) [-]"""
    fire: FloatArray
    """From the open state to the conducting one, shape (n, m) [-]"""
    extinguish: FloatArray
    """From the conducting state to the open one, shape (m, n) [-]"""
    off_volts: FloatArray
    """Row that gives the motor's volts while the switch is open, shape (speeds, m) [Ω]"""
    line_ohm: float
    line_reactance_ohm: float
    main: FloatArray
    """Rows over the conducting state, shape (n,) [-]"""
    auxiliary: FloatArray | None
    capacitor: FloatArray | None
    """Row over the conducting state, shape (speeds, n) [Ω]"""
    rotor: FloatArray
    """Rotor currents, shape (speeds, 1 or 2, n) [-]"""
    rotor_ohm: FloatArray
    """What the rotor currents run through, shape (speeds,): R2, or R2/s of the one-phase circuit [Ω]"""
    torque: FloatArray | None
    """T = xᵀ Q x, shape (speeds, n, n); None where only the fundamental counts [N·m/A²]"""
    torque_factor: FloatArray
    winding_ohm: FloatArray
    """Of main and auxiliary, shape (speeds, 2) [Ω]"""
    core_s: FloatArray
    """1/R_c of the iron, 0 without [S]"""
    gap: FloatArray | None
    """Row that gives the air-gap volts, for the iron's loss, shape (speeds, n) [Ω]"""
    omega_s: float
    """Mechanical synchronous speed [rad/s]"""


def switched(
    motor: Machine,
    speed_rpm: FloatArray,
    frequency_hz: float,
    line_ohm: float = 0.0,
    line_reactance_ohm: float = 0.0,
) -> Switched:
    """State equations of a motor at fixed speeds.

    Parameters
    ----------
    motor : Machine
        A two-winding or single-winding motor; array parameters have one value for each speed [-]
    speed_rpm : array
        Speeds, shape (speeds,), from rest to synchronous speed [rpm]
    frequency_hz : float
        Supply frequency [Hz]
    line_ohm : float
        Of a choke in the line [Ω]
    line_reactance_ohm : float
        Of it, at the supply frequency [Ω]

    Returns
    -------
    Switched
        Equations [-]

    Raises
    ------
    InputError
        A speed beyond synchronous, or a choke that cannot be real.
    """
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    speed = np.atleast_1d(np.asarray(speed_rpm, dtype=np.float64))
    check_range("speed_rpm", speed, 0.0, n_s, "rpm")
    check_range("line_ohm", line_ohm, 0.0, 1e6, "Ω")
    check_range("line_reactance_ohm", line_reactance_ohm, 0.0, 1e6, "Ω")
    # Just beside the given speed, so that no two eigenvalues fall together.
    beside = np.minimum(speed / n_s + 1e-8, 1 - _LEAST_SLIP)
    if isinstance(motor, TwoWindingMotor):
        return _two(motor, speed, beside, frequency_hz, line_ohm, line_reactance_ohm)
    assert isinstance(motor, SingleWindingMotor)
    return _single(motor, speed, beside, frequency_hz, line_ohm, line_reactance_ohm)


def _two(
    motor: TwoWindingMotor, speed: FloatArray, w: FloatArray, frequency_hz: float, r_s: float, x_s: float
) -> Switched:
    count = len(speed)

    def each(value: FloatOrArray) -> FloatArray:
        return np.broadcast_to(np.asarray(value, dtype=np.float64), (count,))

    scale = frequency_hz / motor.rated_frequency_hz
    x_m = scale * each(motor.magnetising_reactance_ohm)
    x_2 = scale * each(motor.rotor_leakage_reactance_ohm)
    a, k = each(motor.turns_ratio), x_m / (x_m + x_2)
    r_2 = each(motor.rotor_resistance_ohm)
    r = r_2 / (x_m + x_2)
    leak = _LEAST_LEAKAGE * x_m
    x_sm = np.maximum(scale * each(motor.main_leakage_reactance_ohm) + k * x_2, leak)
    x_sa = np.maximum(scale * each(motor.auxiliary_leakage_reactance_ohm) + a * a * k * x_2, leak)
    x_c = 1 / (2 * np.pi * frequency_hz * each(motor.run_capacitance_f))
    r_m, r_a = each(motor.main_resistance_ohm), each(motor.auxiliary_resistance_ohm)
    # States: i_m, i_a, v_c / X_m, λ_d / L_m, λ_q / L_m.
    flux = np.zeros((count, 2, 5))
    flux[:, 0, 0], flux[:, 0, 3], flux[:, 0, 4] = r, -r, w
    flux[:, 1, 1], flux[:, 1, 4], flux[:, 1, 3] = a * r, -r, -w
    volts = np.zeros((count, 2, 5))
    volts[:, 0, 0], volts[:, 1, 1], volts[:, 1, 2] = -r_m, -r_a, -x_m
    volts[:, :, :2] -= r_s
    volts[:, 0] -= (k * x_m)[:, None] * flux[:, 0]
    volts[:, 1] -= (a * k * x_m)[:, None] * flux[:, 1]
    reactance = np.full((count, 2, 2), x_s)
    reactance[:, 0, 0] += x_sm
    reactance[:, 1, 1] += x_sa
    inverse = np.linalg.inv(reactance)
    a_on = np.zeros((count, 5, 5))
    a_on[:, :2] = inverse @ volts
    a_on[:, 2, 1] = x_c / x_m
    a_on[:, 3:] = flux
    b_on = np.zeros((count, 5))
    b_on[:, :2] = inverse.sum(axis=-1)
    fire = np.array([[1, 0, 0, 0], [-1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]], dtype=np.float64)
    extinguish = np.array(
        [[1, 0, 0, 0, 0], [0, 0, 1, 0, 0], [0, 0, 0, 1, 0], [0, 0, 0, 0, 1]], dtype=np.float64
    )
    open_flux = flux @ fire
    ring = np.zeros((count, 4))
    ring[:, 0], ring[:, 1] = -(r_m + r_a), x_m
    ring += -(k * x_m)[:, None] * open_flux[:, 0] + (a * k * x_m)[:, None] * open_flux[:, 1]
    a_off = np.zeros((count, 4, 4))
    a_off[:, 0] = ring / (x_sm + x_sa)[:, None]
    a_off[:, 1, 0] = -x_c / x_m
    a_off[:, 2:] = open_flux
    off_volts = x_sm[:, None] * a_off[:, 0] + (k * x_m)[:, None] * open_flux[:, 0]
    off_volts[:, 0] += r_m
    torque = np.zeros((count, 5, 5))
    per_square = 0.5 * motor.poles * k * x_m / (2 * np.pi * frequency_hz)
    torque[:, 0, 4] = torque[:, 4, 0] = per_square / 2
    torque[:, 1, 3] = torque[:, 3, 1] = -a * per_square / 2
    rotor = np.zeros((count, 2, 5))
    rotor[:, 0, 0], rotor[:, 0, 3], rotor[:, 1, 1], rotor[:, 1, 4] = -k, k, -a * k, k
    capacitor = np.zeros((count, 5))
    capacitor[:, 2] = x_m
    return Switched(
        speed, frequency_hz, a_on, b_on, a_off, np.array([1.0, 1, 0, 0, 0]), fire, extinguish, off_volts, r_s, x_s,
        np.array([1.0, 0, 0, 0, 0]), np.array([0, 1.0, 0, 0, 0]), capacitor, rotor, r_2, torque, np.ones(count),
        np.stack([r_m, r_a], axis=-1), np.zeros(count), None, 4 * np.pi * frequency_hz / motor.poles,
    )  # fmt: skip


def _single(
    motor: SingleWindingMotor, speed: FloatArray, w: FloatArray, frequency_hz: float, r_s: float, x_s: float
) -> Switched:
    count = len(speed)

    def each(value: FloatOrArray) -> FloatArray:
        return np.broadcast_to(np.asarray(value, dtype=np.float64), (count,))

    scale = frequency_hz / motor.rated_frequency_hz
    x_m = scale * each(motor.magnetising_reactance_ohm)
    leak = _LEAST_LEAKAGE * x_m
    x_1 = np.maximum(scale * each(motor.stator_leakage_reactance_ohm), leak)
    x_2 = np.maximum(scale * each(motor.rotor_leakage_reactance_ohm), leak)
    r_1 = each(motor.stator_resistance_ohm)
    r_gap = each(motor.rotor_resistance_ohm) / (1 - w)
    core = motor.core_loss_resistance_ohm
    gap = None
    if core is None:
        # States: stator and rotor current.
        g = np.zeros(count)
        reactance = np.zeros((count, 2, 2))
        reactance[:, 0, 0], reactance[:, 1, 1] = x_1 + x_m + x_s, x_2 + x_m
        reactance[:, 0, 1] = reactance[:, 1, 0] = -x_m
        inverse = np.linalg.inv(reactance)
        volts = np.zeros((count, 2, 2))
        volts[:, 0, 0], volts[:, 1, 1] = -(r_1 + r_s), -r_gap
        a_on = inverse @ volts
        b_on = np.array(inverse[:, :, 0], dtype=np.float64)
        a_off = (-r_gap / (x_2 + x_m))[:, None, None]
        fire, extinguish = np.array([[0.0], [1.0]]), np.array([[0.0, 1.0]])
        off_volts = -x_m[:, None] * a_off[:, 0]
        line, rotor = np.array([1.0, 0.0]), np.broadcast_to(np.array([[0.0, 1.0]]), (count, 1, 2))
    else:
        # States: stator, magnetising and rotor current; the iron takes what is left of the stator's.
        r_c = each(core)
        g = 1 / r_c
        gap = r_c[:, None] * np.array([1.0, -1.0, -1.0])
        a_on = np.zeros((count, 3, 3))
        a_on[:, 0] = -gap / (x_1 + x_s)[:, None]
        a_on[:, 0, 0] -= (r_1 + r_s) / (x_1 + x_s)
        a_on[:, 1] = gap / x_m[:, None]
        a_on[:, 2] = gap / x_2[:, None]
        a_on[:, 2, 2] -= r_gap / x_2
        b_on = np.zeros((count, 3))
        b_on[:, 0] = 1 / (x_1 + x_s)
        fire, extinguish = np.eye(3)[:, 1:], np.eye(3)[1:]
        a_off = extinguish @ a_on @ fire
        off_volts = gap @ fire
        line = np.array([1.0, 0.0, 0.0])
        rotor = np.broadcast_to(np.array([[0.0, 0.0, 1.0]]), (count, 1, 3))
    return Switched(
        speed, frequency_hz, a_on, b_on, a_off, line, fire, extinguish, off_volts, r_s, x_s, line, None, None, rotor,
        r_gap, None, each(motor.torque_factor), np.stack([r_1, np.zeros(count)], axis=-1), g, gap,
        4 * np.pi * frequency_hz / motor.poles,
    )  # fmt: skip
