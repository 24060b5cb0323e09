"""Series capacitor, series resistor, lower supply: what each gives, and which value gives a wanted speed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.hunting import growth_per_s
from fenwit.core.motor.machine import Machine, synchronous_speed_rpm
from fenwit.core.operating import (
    MOTOR_VOLTAGE_LIMIT,
    OperatingPoint,
    Scan,
    Solution,
    Source,
    check_full_speed,
    scan,
    solve,
    tabulate,
    voltage_limit_v,
)

_EVERY = 6
"""Of a curve's values, every so many-th is looked at for hunting [-]"""
CAPACITANCE_RANGE_F = (0.1e-6, 47e-6)
"""Series capacitors that a fan regulator could be built with [F]"""
RESISTANCE_RANGE_OHM = (1.0, 50e3)
"""Series resistors that a fan regulator could be built with [Ω]"""
_SCAN_POINTS = 160
HIGH_MAINS = 1.1
"""Mains over their stated value at which a regulator must still be safe [-]"""


class SettingKind(StrEnum):
    """The one value an inverse question asks for."""

    CAPACITANCE = "capacitance_f"
    RESISTANCE = "resistance_ohm"
    VOLTAGE = "supply_voltage_v"


_RANGE = {SettingKind.CAPACITANCE: CAPACITANCE_RANGE_F, SettingKind.RESISTANCE: RESISTANCE_RANGE_OHM}


@dataclass(frozen=True)
class Inverse:
    """Answer to: which value gives this speed?"""

    setting: SettingKind
    wanted_speed_rpm: float
    value: float | None
    """Farads, ohms or volts; None when no value does it [any]"""
    solution: Solution | None
    """All operating points with that value"""
    nearest_speed_rpm: float | None
    """Nearest speed that can be reached from rest within limits, when the wanted one cannot [rpm]"""
    reason: str
    """Why no value does it; empty when one does [-]"""


@dataclass(frozen=True)
class SpeedCurve:
    """Speed over what stands in the line."""

    setting: SettingKind
    value: NDArray[np.float64]
    """Rising [F|Ω]"""
    scan: Scan
    barred: NDArray[np.bool_]
    """Some steady speed, reached from rest or from above, has motor volts above the limit, on these or on high mains"""
    series_voltage_v: NDArray[np.float64]
    """Volts across the part, running or standing still, whichever is more [V]"""
    hunts: NDArray[np.bool_]
    """Of the barred ones, those whose speed would not hold though the motor's volts are within their limit"""

    @property
    def usable(self) -> NDArray[np.bool_]:
        """Starts, holds a stable speed and stays within motor volts."""
        return self.scan.runs & ~self.barred


def capacitor_impedance(capacitance_f: FloatOrArray, frequency_hz: float) -> NDArray[np.complex128]:
    """Impedance of a capacitor, 1/(jωC).

    Parameters
    ----------
    capacitance_f : float or array
        Capacitance, above zero [F]
    frequency_hz : float
        Frequency [Hz]

    Returns
    -------
    array
        Impedance [Ω]

    Raises
    ------
    InputError
        Capacitance or frequency outside what can be real.
    """
    check_range("capacitance_f", capacitance_f, 1e-9, 1e-3, "F")
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    return np.asarray(1 / (2j * np.pi * frequency_hz * np.asarray(capacitance_f)), dtype=np.complex128)


def speed_curve(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    count: int = _SCAN_POINTS,
    setting: SettingKind = SettingKind.CAPACITANCE,
) -> SpeedCurve:
    """Speed reached from rest over the whole range of series capacitors or resistors.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply without the regulator [-]
    count : int
        Number of values, spread evenly in ratio [-]
    setting : SettingKind
        What stands in the line [-]

    Returns
    -------
    SpeedCurve
        Arrays of shape (count,) [-]

    Raises
    ------
    InputError
        A setting that does not stand in the line.
    """
    if setting not in _RANGE:
        allowed = ", ".join(s.value for s in _RANGE)
        raise InputError("setting", setting.value, allowed, "this does not stand in the line")
    values = np.geomspace(*_RANGE[setting], count)
    z = (
        capacitor_impedance(values, supply.frequency_hz)
        if setting is SettingKind.CAPACITANCE
        else values.astype(np.complex128)
    )
    found = scan(tabulate(motor, load, supply.frequency_hz), supply.voltage_v, z)
    barred = np.zeros(count, dtype=np.bool_)
    hunts = np.zeros(count, dtype=np.bool_)
    limit_v = voltage_limit_v(motor, supply.frequency_hz)
    for mains in (1.0, HIGH_MAINS):
        sources = [Source(mains * supply.voltage_v, supply.frequency_hz, complex(v)) for v in z]
        # The limit moves with the mains: what the capacitor adds is judged, not the mains themselves.
        limit = mains * limit_v
        solved = solve(motor, load, sources, growth=False)
        barred |= np.array([any(p.stable and p.motor_voltage_v > limit for p in s.points) for s in solved])
        hunts |= _hunting(motor, supply.frequency_hz, z, solved)
    at_rest = complex(motor.respond(np.array(1.0), supply.frequency_hz).admittance_s)
    amps = np.maximum(
        np.abs(found.admittance_s) * found.motor_voltage_v,
        np.abs(at_rest / (1 + z * at_rest)) * supply.voltage_v,
    )
    return SpeedCurve(setting, values, found, barred | hunts, np.asarray(amps * np.abs(z)), hunts & ~barred)


def _hunting(
    motor: Machine, frequency_hz: float, z: NDArray[np.complex128], solved: Sequence[Solution]
) -> NDArray[np.bool_]:
    """Where the point reached from rest would not hold its speed; looked at for some values, joined between them."""
    points = [s.running for s in solved]
    some = [i for i in range(0, len(points), _EVERY) if points[i] is not None]
    if not some:
        return np.zeros(len(points), dtype=np.bool_)
    speeds = np.array([p.speed_rpm for i in some if (p := points[i]) is not None])
    growth = growth_per_s(motor, speeds, frequency_hz, z[some])
    if not np.isfinite(growth).all():
        return np.zeros(len(points), dtype=np.bool_)
    between = np.interp(np.arange(len(points)), some, growth, left=-1.0, right=-1.0)
    return np.asarray((between > 0) & np.array([p is not None for p in points]))


def wanted_at(
    motor: Machine, load: FanLoad, speeds_rpm: Sequence[float], frequency_hz: float
) -> tuple[NDArray[np.float64], NDArray[np.complex128]]:
    """Motor volts wanted at each speed, and the motor's admittance there: one law for every sine method.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    speeds_rpm : sequence of float
        Wanted speeds [rpm]
    frequency_hz : float
        Supply frequency [Hz]

    Returns
    -------
    tuple of array
        Volts, infinite where the motor has no torque left, and admittances [V, S]

    Raises
    ------
    InputError
        A speed not between rest and synchronous speed.
    """
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    for speed in speeds_rpm:
        check_range("speed_rpm", speed, 0.01 * n_s, n_s, "rpm")
    speeds = np.asarray(speeds_rpm, dtype=np.float64)
    response = motor.respond(1 - speeds / n_s, frequency_hz)
    torque = response.torque_nm
    square = load.torque_nm(speeds) / np.where(torque > 0, torque, 1.0)
    return np.where(torque > 0, np.sqrt(square), np.inf), response.admittance_s


def values_for_speeds(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    setting: SettingKind,
    speeds_rpm: Sequence[float],
    curve: SpeedCurve | None = None,
) -> tuple[Inverse, ...]:
    """The capacitors, resistors or supplies that make the fan run at wanted speeds.

    At a given speed the motor is a fixed admittance Y = G + jB and wants a fixed V_m, so |1 + Z Y|² = (V/V_m)² is a
    quadratic in R or in X = 1/(ωC). Each positive root is then solved forwards; only one that is stable, reached
    from rest and within motor volts is an answer.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply without the regulator [-]
    setting : SettingKind
        What is asked for [-]
    speeds_rpm : sequence of float
        Wanted speeds [rpm]
    curve : SpeedCurve, optional
        `speed_curve` of the same fan, if at hand; used for the nearest speed [-]

    Returns
    -------
    tuple of Inverse
        For each speed the value, or the reason there is none and the nearest speed there is [-]

    Raises
    ------
    InputError
        A wanted speed not between 0 and synchronous speed.
    """
    roots = _all_roots(motor, load, supply, setting, speeds_rpm)
    solved = solve(
        motor, load, [source_with(supply, setting, value) for values, _ in roots for value in values]
    )
    return _answers(motor, load, supply, setting, speeds_rpm, roots, solved, curve)


_Roots = list[tuple[list[float], str]]


def _all_roots(
    motor: Machine, load: FanLoad, supply: Source, setting: SettingKind, speeds_rpm: Sequence[float]
) -> _Roots:
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    check_full_speed(load.full_speed_rpm, n_s)
    for speed in speeds_rpm:
        check_range("speed_rpm", speed, 0.01 * n_s, 0.9999 * n_s, "rpm")
    volts, y = wanted_at(motor, load, speeds_rpm, supply.frequency_hz)
    return [_roots(supply, setting, float(v), complex(a)) for v, a in zip(volts, y, strict=True)]


def _answers(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    setting: SettingKind,
    speeds_rpm: Sequence[float],
    roots: _Roots,
    solved: Sequence[Solution],
    curve: SpeedCurve | None,
) -> tuple[Inverse, ...]:
    """For each speed the first root that holds when solved forwards; ``solved`` follows the roots in order."""
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    limit_v = voltage_limit_v(motor, supply.frequency_hz)
    left = iter(solved)
    answers = []
    for speed, (values, reason) in zip(speeds_rpm, roots, strict=True):
        answer = None
        for value, solution in [(value, next(left)) for value in values]:
            refused = refusal(solution, speed, n_s, limit_v)
            if refused:
                reason = f"with {_say(setting, value)} {refused}"
            elif answer is None:
                answer = Inverse(setting, speed, value, solution, None, "")
        answers.append(
            answer
            or Inverse(
                setting, speed, None, None, _nearest(motor, load, supply, setting, speed, curve), reason
            )
        )
    return tuple(answers)


def _roots(supply: Source, setting: SettingKind, v_motor: float, y: complex) -> tuple[list[float], str]:
    """Values at which the torques are equal at a speed, and the reason for none."""
    if not np.isfinite(v_motor):
        return [], "the motor has no torque left so near to synchronous speed"
    reason = (
        f"the motor would need {v_motor:.0f} V there; "
        f"{_NOUN[setting]} cannot leave it that much of {supply.voltage_v:.0f} V"
    )
    return candidates(setting, y, v_motor, supply), reason


def refusal(solution: Solution, speed_rpm: float, n_s: float, limit_v: float) -> str:
    """Why a value whose torques agree at a wanted speed is no answer all the same; empty where it is one.

    Parameters
    ----------
    solution : Solution
        All operating points with that value [-]
    speed_rpm : float
        The wanted speed [rpm]
    n_s : float
        Synchronous speed [rpm]
    limit_v : float
        Most volts the motor may get [V]

    Returns
    -------
    str
        Inside a sentence [-]
    """
    point = solution.running
    if not solution.starts:
        return "the fan would not start from rest"
    if point is None or abs(point.speed_rpm - speed_rpm) > 1e-4 * n_s:
        return "the fan would not settle there but at another speed"
    if point.motor_voltage_v > limit_v:
        return f"the motor would get more than {MOTOR_VOLTAGE_LIMIT:g} × its rated volts"
    if solution.hunts:
        return "it would hunt there: the speed will not hold"
    return ""


_NOUN = {
    SettingKind.CAPACITANCE: "a series capacitor",
    SettingKind.RESISTANCE: "a series resistor",
    SettingKind.VOLTAGE: "this supply",
}


def _say(setting: SettingKind, value: float) -> str:
    if setting is SettingKind.CAPACITANCE:
        return f"{value * 1e6:.3g} µF"
    return f"{value:.3g} Ω" if setting is SettingKind.RESISTANCE else f"{value:.3g} V"


def source_with(supply: Source, setting: SettingKind, value: float) -> Source:
    """The supply with a value of the setting in the line; raises InputError when the value cannot be real."""
    if setting is SettingKind.VOLTAGE:
        return Source(value, supply.frequency_hz, supply.impedance_ohm)
    if setting is SettingKind.CAPACITANCE:
        z = complex(capacitor_impedance(value, supply.frequency_hz))
    else:
        z = complex(float(check_range("resistance_ohm", value, 0.0, 1e7, "Ω")))
    return Source(supply.voltage_v, supply.frequency_hz, supply.impedance_ohm + z)


def candidates(setting: SettingKind, y: complex, v_motor: float, supply: Source) -> list[float]:
    """Values that leave a motor of a given admittance its volts, largest first; not yet solved forwards.

    Parameters
    ----------
    setting : SettingKind
        What is asked for [-]
    y : complex
        Admittance of the motor [S]
    v_motor : float
        Volts it is to get [V]
    supply : Source
        Supply without the regulator [-]

    Returns
    -------
    list of float
        Farads, ohms or volts; empty where none does [any]
    """
    if setting is SettingKind.VOLTAGE:
        return [v_motor * abs(1 + supply.impedance_ohm * y)] if v_motor <= 1000 else []
    # |b + u Y|² = k with b = 1 + Z0 Y, u = R or −jX:  |Y|² t² + 2 Re(conj(b) d) t + |b|² − k = 0, d = Y or −jY.
    b = 1 + supply.impedance_ohm * y
    d = y if setting is SettingKind.RESISTANCE else -1j * y
    square, half, rest = (
        abs(d) ** 2,
        (b.conjugate() * d).real,
        abs(b) ** 2 - (supply.voltage_v / v_motor) ** 2,
    )
    inside = half * half - square * rest
    if inside < 0:
        return []
    roots = [(-half + sign * np.sqrt(inside)) / square for sign in (1.0, -1.0)]
    # Rounding must not turn "nothing in the line" into no answer.
    positive = sorted({float(r) for r in roots if r > 1e-9}, reverse=True)
    if setting is SettingKind.RESISTANCE:
        return [r for r in positive if r < 1e7]
    omega = 2 * np.pi * supply.frequency_hz
    return [c for c in (1 / (omega * x) for x in positive) if 1e-9 <= c <= 1e-3]


def _nearest(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    setting: SettingKind,
    speed_rpm: float,
    curve: SpeedCurve | None,
) -> float | None:
    if setting is SettingKind.CAPACITANCE or curve is not None:
        curve = curve or speed_curve(motor, load, supply)
        speeds = curve.scan.speed_rpm[curve.usable]
        direct = solve(motor, load, [supply])[0].running
        if direct is not None and direct.motor_voltage_v <= voltage_limit_v(motor, supply.frequency_hz):
            speeds = np.append(speeds, direct.speed_rpm)
    else:
        table = tabulate(motor, load, supply.frequency_hz)
        if setting is SettingKind.RESISTANCE:
            found = scan(
                table, supply.voltage_v, np.concatenate([[0], np.geomspace(1, 1e5, _SCAN_POINTS)]) + 0j
            )
        else:
            volts = np.linspace(0.02, MOTOR_VOLTAGE_LIMIT, _SCAN_POINTS) * motor.rated_voltage_v
            found = scan(table, volts, np.full(volts.shape, supply.impedance_ohm))
        speeds = found.speed_rpm[found.runs & (found.motor_voltage_v <= 1.0501 * motor.rated_voltage_v)]
    if not len(speeds):
        return None
    return float(speeds[np.argmin(np.abs(speeds - speed_rpm))])


@dataclass(frozen=True)
class HandEstimate:
    """The pencil rule for a series capacitor, and how far it misses."""

    wanted_speed_rpm: float
    wanted_motor_voltage_v: float
    capacitance_f: float
    gives_speed_rpm: float | None
    """Speed that value really gives; None when the fan does not start with it [rpm]"""
    gives_motor_voltage_v: float | None
    miss_rpm: float | None


def hand_estimates(
    motor: Machine, load: FanLoad, supply: Source, speeds_rpm: Sequence[float]
) -> tuple[HandEstimate | None, ...]:
    """Series capacitors by the pencil rule X = Z_fan (V_s − V_fan) / V_fan, and what they really give.

    The rule adds volts in a straight line and takes the fan as the impedance it has at full speed; volts across
    capacitor and motor in truth stand nearly at right angles.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply without the regulator [-]
    speeds_rpm : sequence of float
        Wanted speeds [rpm]

    Returns
    -------
    tuple of HandEstimate or None
        None where the rule has no answer: the wanted motor volts are not below the supply [-]

    Raises
    ------
    InputError
        A wanted speed out of range.
    """
    direct = solve(motor, load, [supply])[0].running
    asked = _pencil(motor, load, supply, speeds_rpm, direct)
    solved = iter(
        solve(motor, load, [source_with(supply, SettingKind.CAPACITANCE, a[2]) for a in asked if a])
    )
    return tuple(_hand(a, next(solved).running) if a else None for a in asked)


def inverse_and_hand(
    motor: Machine,
    load: FanLoad,
    supply: Source,
    speeds_rpm: Sequence[float],
    curve: SpeedCurve,
    direct: OperatingPoint | None,
) -> tuple[tuple[Inverse, HandEstimate | None], ...]:
    """`values_for_speeds` for a capacitor and `hand_estimates` in one solve, for answering a drag.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply without the regulator [-]
    speeds_rpm : sequence of float
        Wanted speeds [rpm]
    curve : SpeedCurve
        `speed_curve` of the same fan [-]
    direct : OperatingPoint or None
        The same fan with nothing in the line; None when it does not start [-]

    Returns
    -------
    tuple
        For each speed its capacitor and its pencil estimate [-]

    Raises
    ------
    InputError
        A wanted speed out of range.
    """
    roots = _all_roots(motor, load, supply, SettingKind.CAPACITANCE, speeds_rpm)
    asked = _pencil(motor, load, supply, speeds_rpm, direct)
    values = [v for found, _ in roots for v in found]
    pencil = [a[2] for a in asked if a]
    solved = solve(motor, load, [source_with(supply, SettingKind.CAPACITANCE, v) for v in (*values, *pencil)])
    answers = _answers(
        motor, load, supply, SettingKind.CAPACITANCE, speeds_rpm, roots, solved[: len(values)], curve
    )
    left = iter(solved[len(values) :])
    return tuple(
        (answer, _hand(a, next(left).running) if a else None)
        for answer, a in zip(answers, asked, strict=True)
    )


_Pencil = tuple[float, float, float]
"""Wanted speed, motor volts wanted there, capacitance by the pencil rule [rpm, V, F]"""


def _pencil(
    motor: Machine, load: FanLoad, supply: Source, speeds_rpm: Sequence[float], direct: OperatingPoint | None
) -> list[_Pencil | None]:
    wanted, _ = wanted_at(motor, load, speeds_rpm, supply.frequency_hz)
    found: list[_Pencil | None] = []
    for speed, v_fan in zip(speeds_rpm, (float(v) for v in wanted), strict=True):
        pencil = None
        if direct is not None and v_fan < 0.999 * supply.voltage_v:
            reactance = supply.voltage_v / direct.line_current_a * (supply.voltage_v - v_fan) / v_fan
            capacitance = 1 / (2 * np.pi * supply.frequency_hz * reactance)
            if 1e-9 <= capacitance <= 1e-3:
                pencil = (speed, v_fan, capacitance)
        found.append(pencil)
    return found


def _hand(wanted: _Pencil, real: OperatingPoint | None) -> HandEstimate:
    speed, v_fan, capacitance = wanted
    if real is None:
        return HandEstimate(speed, v_fan, capacitance, None, None, None)
    return HandEstimate(
        speed, v_fan, capacitance, real.speed_rpm, real.motor_voltage_v, real.speed_rpm - speed
    )
