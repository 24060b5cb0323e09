"""Speed over firing angle: where a fan behind a triac runs, starts, holds, and stops coming down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range
from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import Machine, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.motor.switched import switched
from fenwit.core.operating import (
    OperatingPoint,
    Solution,
    Source,
    check_full_speed,
    crossings,
    solutions_of,
    speed_grid,
)
from fenwit.core.regulator.phase import Conduction, PhaseStates, TriacFed

FloatArray = NDArray[np.float64]
_SPEEDS = 26
_ASTRAY_RAD = 0.1
"""Further from a sampled curve than this no angle of the same branch lies [rad]"""
_NEAR_RPM = 3e-6
"""How closely a speed is found, over synchronous speed [-]"""


@dataclass(frozen=True)
class PhasePoint(OperatingPoint):
    """An operating point behind a triac; currents and volts are true rms, harmonics included."""

    firing_angle_deg: float
    """As asked for; where conduction never stops it changes nothing [°]"""
    extinction_angle_deg: float
    conduction_angle_deg: float
    conduction: Conduction
    torque_ripple_nm: float | None
    """Highest less lowest; None where the model has none [N·m]"""
    current_thd: float
    commutation_step_v: float
    firing_step_v: float
    """Across the triac just before it fires [V]"""
    crest_current_a: float
    growth: float
    """Of a small departure from one period to the next; above 1 the orbit does not last [-]"""
    triac_current_a: float
    triac_average_a: float
    triac_loss_w: float


def phase_solutions(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    firing_deg: Sequence[float],
    on_state_v: float = 0.0,
) -> tuple[Solution, ...]:
    """All operating points of a fan behind a triac, for each firing angle.

    The torque surface over speed and angle is solved exactly on a grid; each crossing with the fan's torque is refined on
    exact states. A choke may stand in the line: its ohms and reactance are the source's impedance.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    supply : Source
        Supply; a series capacitor cannot stand in this line [-]
    firing_deg : sequence of float
        Firing angles from the supply's zero [°]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    tuple of Solution
        One for each angle, points of type `PhasePoint` [-]

    Raises
    ------
    InputError
        Angles outside 0 to 180°, a capacitive line, or a full speed at or above synchronous speed.
    """
    if not len(firing_deg):
        return ()
    alpha = np.radians(np.asarray(firing_deg, dtype=np.float64))
    check_range("firing_angle_deg", np.degrees(alpha), 0.0, 180.0, "°")
    frequency = supply.frequency_hz
    n_s = synchronous_speed_rpm(motor.poles, frequency)
    check_full_speed(load.full_speed_rpm, n_s)
    grid, torque, tau = _surface(motor, supply, tuple(alpha.tolist()), on_state_v)
    net = torque.T - load.torque_nm(grid)

    def guess(speed: FloatArray, step: NDArray[np.int64]) -> FloatArray:
        place = np.clip(np.searchsorted(grid, speed) - 1, 0, len(grid) - 2)
        share = (speed - grid[place]) / (grid[place + 1] - grid[place])
        return np.asarray((1 - share) * tau[place, step] + share * tau[place + 1, step])

    def difference(speed: FloatArray, step: NDArray[np.int64]) -> FloatArray:
        fed = _fed(motor, supply, speed, on_state_v)
        return fed.torques_near(alpha[step], guess(speed, step))[0] - load.torque_nm(speed)

    step, speeds, stable = crossings(grid, net, difference, _NEAR_RPM * n_s)
    found: list[PhasePoint] = []
    if len(speeds):
        states = _fed(motor, supply, speeds, on_state_v).states_near(alpha[step], guess(speeds, step))
        found = _points(motor, supply, speeds, stable, states, np.degrees(alpha[step]))
    return solutions_of(load, net[:, 0], step, found)


def angle_at_speed(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    speed_rpm: FloatArray,
    near_deg: FloatArray,
    conduction_deg: FloatArray,
    on_state_v: float = 0.0,
) -> FloatArray:
    """Firing angle at which motor and fan agree at a given speed, from a guess near it.

    At one speed the machine is one linear circuit for every angle, so this needs no search over speeds.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    supply : Source
        Supply [-]
    speed_rpm : array
        Speeds, shape (n,) [rpm]
    near_deg : array
        Guesses of the angle, shape (n,) [°]
    conduction_deg : array
        Guesses of the conduction angle there, shape (n,) [°]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    array
        Angles, shape (n,); the guess itself where the secants lead away from it [°]

    Raises
    ------
    InputError
        Guesses outside 0 to 180°.
    """
    if not len(speed_rpm):
        return np.empty(0)
    fed = _fed(motor, supply, speed_rpm, on_state_v)
    asked = load.torque_nm(speed_rpm)
    before, tau = np.radians(near_deg), np.radians(np.clip(conduction_deg, 1.0, 179.9))
    torque, tau = fed.torques_near(before, tau)
    f_before = torque - asked
    now = np.clip(before + np.where(f_before > 0, 0.005, -0.005), 0.0, np.pi - 1e-6)
    for _ in range(5):
        torque, found = fed.torques_near(now, tau)
        f, tau = torque - asked, np.where(found > 0, found, tau)
        slope = (f - f_before) / np.where(now == before, 1.0, now - before)
        step = np.clip(-f / np.where(slope == 0, np.inf, slope), -0.05, 0.05)
        before, f_before, now = now, f, np.clip(now + step, 0.0, np.pi - 1e-6)
        if (np.abs(step) < 2e-5).all():
            break
    astray = np.abs(now - np.radians(near_deg)) > _ASTRAY_RAD
    return np.asarray(np.where(astray, near_deg, np.degrees(now)))


def solution_there(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    speed_rpm: FloatArray,
    firing_deg: FloatArray,
    conduction_deg: FloatArray,
    on_state_v: float = 0.0,
) -> tuple[Solution, ...]:
    """Steady states whose speeds are known already to lie on the branch a fan runs on: nothing is searched for.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    supply : Source
        Supply [-]
    speed_rpm : array
        Speeds at which motor and fan agree, shape (n,) [rpm]
    firing_deg : array
        Firing angles there, shape (n,) [°]
    conduction_deg : array
        Guesses of the conduction angles, shape (n,) [°]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    tuple of Solution
        Each with that one point, reached from rest where the torque there is enough, and from full speed [-]

    Raises
    ------
    InputError
        Angles outside 0 to 180°.
    """
    if not len(speed_rpm):
        return ()
    alpha = np.radians(firing_deg)
    tau = np.radians(np.clip(conduction_deg, 1.0, 179.9))
    states = _fed(motor, supply, speed_rpm, on_state_v).states_near(alpha, tau)
    stable = np.ones(len(speed_rpm), dtype=bool)
    points = _points(motor, supply, speed_rpm, stable, states, firing_deg)
    at_rest, _ = _fed(motor, supply, np.zeros(len(speed_rpm)), on_state_v).torques_near(alpha, tau)
    net = at_rest - float(load.friction_nm)
    return solutions_of(load, net, np.arange(len(speed_rpm)), points)


def at_speed(
    motor: Machine, supply: Source, speed_rpm: float, firing_deg: float, on_state_v: float = 0.0
) -> PhasePoint | None:
    """The steady state of a motor held at a speed, whatever its load.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    supply : Source
        Supply [-]
    speed_rpm : float
        Speed [rpm]
    firing_deg : float
        Firing angle [°]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    PhasePoint or None
        None where no periodic state of this form exists [-]

    Raises
    ------
    InputError
        A speed beyond synchronous, or an angle outside 0 to 180°.
    """
    check_range("firing_angle_deg", firing_deg, 0.0, 180.0, "°")
    fed = _fed(motor, supply, np.array([float(speed_rpm)]), on_state_v)
    states = fed.states(np.radians(np.array([[float(firing_deg)]])))
    if not states.runs.all():
        return None
    flat = PhaseStates(*(None if v is None else v.ravel() for v in vars(states).values()))  # type: ignore[arg-type]
    return _points(
        motor, supply, np.array([float(speed_rpm)]), np.array([True]), flat, np.array([float(firing_deg)])
    )[0]


def _fed(motor: Machine, supply: Source, speed: FloatArray, on_state_v: float) -> TriacFed:
    z = supply.impedance_ohm
    check_range(
        "series reactance", z.imag, 0.0, 1e12, "Ω", reason="no capacitor may stand in line with a triac"
    )
    return TriacFed(switched(motor, speed, supply.frequency_hz, z.real, z.imag), supply.voltage_v, on_state_v)


@remembered
def _surface(
    motor: Machine, supply: Source, firing_rad: tuple[float, ...], on_state_v: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Speeds, and torque and conduction angle over them."""
    grid = speed_grid(synchronous_speed_rpm(motor.poles, supply.frequency_hz), _SPEEDS)
    return grid, *_fed(motor, supply, grid, on_state_v).torques(np.array(firing_rad))


def _points(
    motor: Machine, supply: Source, speeds: FloatArray, stable: NDArray[np.bool_], s: PhaseStates,
    firing_deg: FloatArray,
) -> list[PhasePoint]:  # fmt: skip
    two = isinstance(motor, TwoWindingMotor)
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    r, x = supply.impedance_ohm.real, supply.impedance_ohm.imag
    found = []
    for i, speed in enumerate(speeds.tolist()):
        amps, power = float(s.line_current_a[i]), float(s.input_power_w[i])
        found.append(
            PhasePoint(
                speed_rpm=speed,
                stable=bool(stable[i]),
                slip=1 - speed / n_s,
                motor_voltage_v=float(s.motor_voltage_v[i]),
                line_current_a=amps,
                input_power_w=power,
                power_factor=power / (supply.voltage_v * amps) if amps > 0 else 0.0,
                torque_nm=float(s.torque_nm[i]),
                shaft_power_w=float(s.shaft_power_w[i]),
                rotor_loss_w=float(s.rotor_loss_w[i]),
                winding_loss_w=float(s.winding_loss_w[i]),
                series_loss_w=amps**2 * r + float(s.triac_loss_w[i]),
                series_voltage_v=amps * float(np.hypot(r, x)),
                main_current_a=float(s.main_current_a[i]) if two else None,
                auxiliary_current_a=float(s.auxiliary_current_a[i]) if two else None,
                capacitor_voltage_v=float(s.capacitor_voltage_v[i]) if two else None,
                firing_angle_deg=float(firing_deg[i]),
                extinction_angle_deg=float(np.degrees(s.extinction_rad[i])),
                conduction_angle_deg=float(np.degrees(s.conduction_rad[i])),
                conduction=Conduction(int(s.conduction[i])),
                torque_ripple_nm=None if s.torque_ripple_nm is None else float(s.torque_ripple_nm[i]),
                current_thd=float(s.current_thd[i]),
                commutation_step_v=float(s.step_v[i]),
                firing_step_v=float(s.open_v[i]),
                crest_current_a=float(s.crest_current_a[i]),
                growth=float(s.growth[i]),
                triac_current_a=amps,
                triac_average_a=float(s.average_current_a[i]),
                triac_loss_w=float(s.triac_loss_w[i]),
            )
        )
    return found
