"""A machine behind a switch that opens at current zero: its equations between two switchings, at fixed speed.

Angles θ = ωt stand for time, currents for all states (capacitor volts over X_m, rotor fluxes over L_m), so that every
matrix is of the order of one. At fixed speed both circuits are linear and time-invariant (docs/phase-angle.md).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range
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
    """[Ω]"""
    rotor: FloatArray
    """Rotor currents, shape (1 or 2, n) [-]"""
    rotor_ohm: FloatArray
    """What the rotor currents run through, shape (speeds,): R2, or R2/s of the one-phase circuit [Ω]"""
    torque: FloatArray | None
    """T = xᵀ Q x, shape (n, n); None where only the fundamental counts [N·m/A²]"""
    torque_factor: float
    winding_ohm: tuple[float, float]
    """Of main and auxiliary [Ω]"""
    core_s: float
    """1/R_c of the iron, 0 without [S]"""
    gap: FloatArray | None
    """Row that gives the air-gap volts, for the iron's loss [Ω]"""
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
        A two-winding or single-winding motor with plain numbers as parameters [-]
    speed_rpm : array
        Speeds, shape (speeds,), from rest to just below synchronous speed [rpm]
    frequency_hz : float
        Supply frequency [Hz]
    line_ohm, line_reactance_ohm : float
        A choke in the line, at the supply frequency [Ω]

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
    scale = frequency_hz / motor.rated_frequency_hz
    x_m = scale * float(motor.magnetising_reactance_ohm)
    x_r = x_m + scale * float(motor.rotor_leakage_reactance_ohm)
    a, k = float(motor.turns_ratio), x_m / x_r
    r_2 = float(motor.rotor_resistance_ohm)
    r = r_2 / x_r
    leak = _LEAST_LEAKAGE * x_m
    x_2 = x_r - x_m
    x_sm = max(scale * float(motor.main_leakage_reactance_ohm) + k * x_2, leak)
    x_sa = max(scale * float(motor.auxiliary_leakage_reactance_ohm) + a * a * k * x_2, leak)
    x_c = 1 / (2 * np.pi * frequency_hz * float(motor.run_capacitance_f))
    r_m, r_a = float(motor.main_resistance_ohm), float(motor.auxiliary_resistance_ohm)
    count = len(speed)
    # States: i_m, i_a, v_c / X_m, λ_d / L_m, λ_q / L_m.
    flux = np.zeros((count, 2, 5))
    flux[:, 0, 0], flux[:, 0, 3], flux[:, 0, 4] = r, -r, w
    flux[:, 1, 1], flux[:, 1, 4], flux[:, 1, 3] = a * r, -r, -w
    volts = np.zeros((count, 2, 5))
    volts[:, 0, 0], volts[:, 1, 1], volts[:, 1, 2] = -r_m, -r_a, -x_m
    volts[:, :, :2] -= r_s
    volts[:, 0] -= k * x_m * flux[:, 0]
    volts[:, 1] -= a * k * x_m * flux[:, 1]
    inverse = np.linalg.inv(np.array([[x_sm + x_s, x_s], [x_s, x_sa + x_s]]))
    a_on = np.zeros((count, 5, 5))
    a_on[:, :2] = inverse @ volts
    a_on[:, 2, 1] = x_c / x_m
    a_on[:, 3:] = flux
    b_on = np.zeros((count, 5))
    b_on[:, :2] = inverse @ np.ones(2)
    fire = np.array([[1, 0, 0, 0], [-1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]], dtype=np.float64)
    extinguish = np.array(
        [[1, 0, 0, 0, 0], [0, 0, 1, 0, 0], [0, 0, 0, 1, 0], [0, 0, 0, 0, 1]], dtype=np.float64
    )
    open_flux = flux @ fire
    ring = np.zeros((count, 4))
    ring[:, 0], ring[:, 1] = -(r_m + r_a), x_m
    ring += -k * x_m * open_flux[:, 0] + a * k * x_m * open_flux[:, 1]
    a_off = np.zeros((count, 4, 4))
    a_off[:, 0] = ring / (x_sm + x_sa)
    a_off[:, 1, 0] = -x_c / x_m
    a_off[:, 2:] = open_flux
    off_volts = x_sm * a_off[:, 0] + k * x_m * open_flux[:, 0]
    off_volts[:, 0] += r_m
    torque = np.zeros((5, 5))
    per_square = 0.5 * motor.poles * k * x_m / (2 * np.pi * frequency_hz)
    torque[0, 4] = torque[4, 0] = per_square / 2
    torque[1, 3] = torque[3, 1] = -a * per_square / 2
    rotor = np.array([[-k, 0, 0, k, 0], [0, -a * k, 0, 0, k]])
    return Switched(
        speed, frequency_hz, a_on, b_on, a_off, np.array([1.0, 1, 0, 0, 0]), fire, extinguish, off_volts, r_s, x_s,
        np.array([1.0, 0, 0, 0, 0]), np.array([0, 1.0, 0, 0, 0]), np.array([0, 0, x_m, 0, 0]), rotor,
        np.full(count, r_2), torque, 1.0, (r_m, r_a), 0.0, None, 4 * np.pi * frequency_hz / motor.poles,
    )  # fmt: skip


def _single(
    motor: SingleWindingMotor, speed: FloatArray, w: FloatArray, frequency_hz: float, r_s: float, x_s: float
) -> Switched:
    scale = frequency_hz / motor.rated_frequency_hz
    x_m = scale * float(motor.magnetising_reactance_ohm)
    leak = _LEAST_LEAKAGE * x_m
    x_1 = max(scale * float(motor.stator_leakage_reactance_ohm), leak)
    x_2 = max(scale * float(motor.rotor_leakage_reactance_ohm), leak)
    r_1 = float(motor.stator_resistance_ohm)
    slip = 1 - w
    r_gap = float(motor.rotor_resistance_ohm) / slip
    core = motor.core_loss_resistance_ohm
    g = 0.0 if core is None else 1 / float(core)
    count = len(speed)
    if core is None:
        # States: stator and rotor current.
        inverse = np.linalg.inv(np.array([[x_1 + x_m + x_s, -x_m], [-x_m, x_2 + x_m]]))
        volts = np.zeros((count, 2, 2))
        volts[:, 0, 0], volts[:, 1, 1] = -(r_1 + r_s), -r_gap
        a_on = inverse @ volts
        b_on = np.broadcast_to(inverse[:, 0], (count, 2)).copy()
        a_off = (-r_gap / (x_2 + x_m))[:, None, None]
        fire, extinguish = np.array([[0.0], [1.0]]), np.array([[0.0, 1.0]])
        off_volts = -x_m * a_off[:, 0]
        line, rotor, gap = np.array([1.0, 0.0]), np.array([[0.0, 1.0]]), None
    else:
        # States: stator, magnetising and rotor current; the iron takes what is left of the stator's.
        r_c = float(core)
        gap = np.array([r_c, -r_c, -r_c])
        a_on = np.zeros((count, 3, 3))
        a_on[:, 0] = -gap / (x_1 + x_s)
        a_on[:, 0, 0] -= (r_1 + r_s) / (x_1 + x_s)
        a_on[:, 1] = gap / x_m
        a_on[:, 2] = gap / x_2
        a_on[:, 2, 2] -= r_gap / x_2
        b_on = np.zeros((count, 3))
        b_on[:, 0] = 1 / (x_1 + x_s)
        fire, extinguish = np.eye(3)[:, 1:], np.eye(3)[1:]
        a_off = extinguish @ a_on @ fire
        off_volts = np.broadcast_to(gap @ fire, (count, 2)).copy()
        line, rotor = np.array([1.0, 0.0, 0.0]), np.array([[0.0, 0.0, 1.0]])
    return Switched(
        speed, frequency_hz, a_on, b_on, a_off, line, fire, extinguish, off_volts, r_s, x_s, line, None, None, rotor,
        r_gap, None, float(motor.torque_factor), (r_1, 0.0), g, gap, 4 * np.pi * frequency_hz / motor.poles,
    )  # fmt: skip
