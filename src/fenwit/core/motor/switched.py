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
from fenwit.core.motor.ring import ShadedPoleMotor

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
    """Rows that give the air-gap volts, for the iron's loss, shape (speeds, rows, n) [Ω]"""
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
        Two-winding, shaded-pole or single-winding; array parameters have one value for each speed [-]
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
    if isinstance(motor, SingleWindingMotor):
        return _single(motor, speed, beside, frequency_hz, line_ohm, line_reactance_ohm)
    if not isinstance(motor, TwoWindingMotor | ShadedPoleMotor):
        raise TypeError(f"no switched equations for {type(motor).__name__}")
    axes = axes_of(motor.settled(1 - speed / n_s, frequency_hz), len(speed), frequency_hz)
    return two_axis(axes, speed, beside, frequency_hz, line_ohm, line_reactance_ohm)


@dataclass(frozen=True, eq=False)
class Axes:
    """Two windings of a machine in fixed axes d and q; arrays have the speeds in front."""

    turns: FloatArray
    """Of each winding along d and q, over the main winding's, shape (speeds, 2, 2) [-]"""
    resistance: FloatArray
    """Shape (speeds, 2) [Ω]"""
    leakage: FloatArray
    """Leakage reactances, what both share beside the diagonal, shape (speeds, 2, 2) [Ω]"""
    fed: FloatArray
    """1 for a winding on the supply, 0 for a shorted one, shape (2,) [-]"""
    x_c: FloatArray | None
    """Reactance of the capacitor in the second winding; None without [Ω]"""
    x_m: FloatArray
    x_2: FloatArray
    r_2: FloatArray
    r_c: FloatArray | None
    """Of the iron; None without loss [Ω]"""
    poles: int


def axes_of(motor: TwoWindingMotor | ShadedPoleMotor, count: int, frequency_hz: float) -> Axes:
    """A machine's parameters as two windings in fixed axes, reactances at the supply frequency.

    Parameters
    ----------
    motor : TwoWindingMotor or ShadedPoleMotor
        Settled; parameters scalar or of shape (speeds,) [-]
    count : int
        Number of speeds [-]
    frequency_hz : float
        Supply frequency [Hz]

    Returns
    -------
    Axes
        Arrays of that many speeds [-]
    """

    def each(value: FloatOrArray) -> FloatArray:
        return np.array(np.broadcast_to(np.asarray(value, dtype=np.float64), (count,)))

    scale = frequency_hz / motor.rated_frequency_hz
    x_m = scale * each(motor.magnetising_reactance_ohm)
    turns, leakage = np.zeros((count, 2, 2)), np.zeros((count, 2, 2))
    turns[:, 0, 0] = 1.0
    leakage[:, 0, 0] = scale * each(motor.main_leakage_reactance_ohm)
    x_c = None
    if isinstance(motor, TwoWindingMotor):
        turns[:, 1, 1] = each(motor.turns_ratio)
        leakage[:, 1, 1] = scale * each(motor.auxiliary_leakage_reactance_ohm)
        second = each(motor.auxiliary_resistance_ohm)
        x_c = 1 / (2 * np.pi * frequency_hz * each(motor.run_capacitance_f))
    else:
        a, angle = each(motor.ring_turns_ratio), each(motor.ring_angle_rad)
        # The ring lies behind: the forward field, which goes from d to -q in these axes, meets it later.
        turns[:, 1, 0], turns[:, 1, 1] = a * np.cos(angle), -a * np.sin(angle)
        leakage[:, 1, 1] = scale * each(motor.ring_leakage_reactance_ohm)
        leakage[:, 0, 1] = leakage[:, 1, 0] = scale * each(motor.shared_reactance_ohm)
        second = each(motor.ring_resistance_ohm)
    core = motor.core_loss_resistance_ohm
    return Axes(
        turns=turns,
        resistance=np.stack([each(motor.main_resistance_ohm), second], axis=-1),
        leakage=leakage,
        fed=np.array([1.0, 1.0 if x_c is not None else 0.0]),
        x_c=x_c,
        x_m=x_m,
        x_2=scale * each(motor.rotor_leakage_reactance_ohm),
        r_2=each(motor.rotor_resistance_ohm),
        r_c=None if core is None else each(core),
        poles=motor.poles,
    )


def two_axis(
    m: Axes, speed: FloatArray, w: FloatArray, frequency_hz: float, r_s: FloatOrArray, x_s: FloatOrArray
) -> Switched:
    """State equations of two windings in fixed axes.

    States: both windings' currents, (capacitor volts over X_m), rotor flux over L_m along d and q, and where iron loss
    counts the air-gap flux over L_m along d and q.

    Parameters
    ----------
    m : Axes
        The windings [-]
    speed : array
        Shape (speeds,) [rpm]
    w : array
        The same over synchronous speed [-]
    frequency_hz : float
        Supply frequency [Hz]
    r_s : float or array
        In the line, shape (speeds,) [Ω]
    x_s : float or array
        In the line, at the supply frequency, shape (speeds,) [Ω]

    Returns
    -------
    Switched
        Equations; with arrays in the line only those of the conducting state are meant [-]
    """
    count, has_c, has_iron = len(speed), m.x_c is not None, m.r_c is not None
    n = 4 + has_c + 2 * has_iron
    rotor_at = 2 + has_c
    leak = _LEAST_LEAKAGE * m.x_m
    x_2 = np.maximum(m.x_2, leak) if has_iron else m.x_2
    k = m.x_m / (m.x_m + x_2)
    # Air-gap flux over L_m, along each axis, in terms of the states.
    gap = np.zeros((count, 2, n))
    if has_iron:
        gap[:, 0, rotor_at + 2] = gap[:, 1, rotor_at + 3] = 1.0
    else:
        part = m.x_2 / (m.x_m + m.x_2)
        gap[:, :, :2] = part[:, None, None] * np.swapaxes(m.turns, -1, -2)
        gap[:, 0, rotor_at], gap[:, 1, rotor_at + 1] = k, k
    # Rotor currents: (rotor flux - air-gap flux) over the rotor's leakage, which may be none where iron is neglected.
    rotor = np.zeros((count, 2, n))
    if has_iron:
        over = (m.x_m / x_2)[:, None, None]
        rotor -= over * gap
        rotor[:, 0, rotor_at] += over[:, 0, 0]
        rotor[:, 1, rotor_at + 1] += over[:, 0, 0]
    else:
        rotor[:, :, :2] = -k[:, None, None] * np.swapaxes(m.turns, -1, -2)
        rotor[:, 0, rotor_at], rotor[:, 1, rotor_at + 1] = k, k
    flux = np.zeros((count, 2, n))
    flux -= (m.r_2 / m.x_m)[:, None, None] * rotor
    flux[:, 0, rotor_at + 1] += w
    flux[:, 1, rotor_at] -= w
    core = None
    if has_iron and m.r_c is not None:
        # Volts of the air gap: what winding and rotor drive beyond the magnetising current goes through the iron.
        drive = np.zeros((count, 2, n))
        drive[:, :, :2] = np.swapaxes(m.turns, -1, -2)
        drive += rotor - gap
        core = m.r_c[:, None, None] * drive
        gap_slope, own = core / m.x_m[:, None, None], np.zeros((count, 2, 2))
        rows = m.turns @ core
    else:
        gap_slope = k[:, None, None] * flux
        # Of the air-gap flux, the part that goes with the windings' own currents is leakage to them.
        own = (m.x_m * m.x_2 / (m.x_m + m.x_2))[:, None, None] * (m.turns @ np.swapaxes(m.turns, -1, -2))
        rows = m.x_m[:, None, None] * (m.turns @ gap_slope)
    reactance = m.leakage + own
    for i in range(2):
        reactance[:, i, i] = np.maximum(reactance[:, i, i], leak)
    both = np.outer(m.fed, m.fed)
    volts = np.zeros((count, 2, n))
    volts[:, 0, 0], volts[:, 1, 1] = -m.resistance[:, 0], -m.resistance[:, 1]
    if has_c:
        volts[:, 1, 2] = -m.x_m
    volts -= rows
    conducting = volts.copy()
    line_r, line_x = (np.broadcast_to(v, (count,))[:, None, None] for v in (r_s, x_s))
    conducting[:, :, :2] -= line_r * both
    inverse = np.linalg.inv(reactance + line_x * both)
    a_on = np.zeros((count, n, n))
    a_on[:, :2] = inverse @ conducting
    if m.x_c is not None:
        a_on[:, 2, 1] = m.x_c / m.x_m
    a_on[:, rotor_at : rotor_at + 2] = flux
    if has_iron:
        a_on[:, rotor_at + 2 :] = gap_slope
    b_on = np.zeros((count, n))
    b_on[:, :2] = inverse @ m.fed
    # Open: windings on the supply are in series with each other, or the only one carries nothing.
    if has_c:
        fire = np.delete(np.eye(n), 1, axis=1)
        fire[1, 0] = -1.0
        extinguish = np.delete(np.eye(n), 1, axis=0)
        across = np.array([1.0, -1.0])
    else:
        fire, extinguish = np.eye(n)[:, 1:], np.eye(n)[1:]
        across = np.array([0.0, 1.0])
    open_volts = volts @ fire
    a_off = np.zeros((count, n - 1, n - 1))
    a_off[:, 0] = (across @ open_volts) / (across @ reactance @ across)[:, None]
    a_off[:, 1:] = (a_on @ fire)[:, 2:]
    # The main winding's volts: what it would need to carry its current as it does.
    off_volts = (reactance[:, 0] @ across)[:, None] * a_off[:, 0] - open_volts[:, 0]
    torque = np.zeros((count, n, n))
    per_square = 0.5 * m.poles * m.x_m / (2 * np.pi * frequency_hz)
    # T = poles/2 (λ_q i_rd - λ_d i_rq) of the rotor, symmetric.
    for row, column, sign in ((rotor_at + 1, 0, 1.0), (rotor_at, 1, -1.0)):
        half = -sign * (per_square / 2)[:, None] * rotor[:, column]
        torque[:, row] += half
        torque[:, :, row] += half
    capacitor = None
    if has_c:
        capacitor = np.zeros((count, n))
        capacitor[:, 2] = m.x_m
    line = np.zeros(n)
    line[:2] = m.fed
    main, auxiliary = np.eye(n)[0], np.eye(n)[1]
    core_s = np.zeros(count) if m.r_c is None else 1 / m.r_c
    return Switched(
        speed, frequency_hz, a_on, b_on, a_off, line, fire, extinguish, off_volts, float(line_r[0, 0, 0]),
        float(line_x[0, 0, 0]), main, auxiliary, capacitor,
        rotor, m.r_2, torque, np.ones(count), m.resistance, core_s, core, 4 * np.pi * frequency_hz / m.poles,
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
        r_gap, None, each(motor.torque_factor), np.stack([r_1, np.zeros(count)], axis=-1), g,
        None if gap is None else gap[:, None],
        4 * np.pi * frequency_hz / motor.poles,
    )  # fmt: skip
