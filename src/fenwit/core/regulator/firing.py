"""Firing by a microcontroller: the usable range of angles, tables of delays, the zero detector, the gate's time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from fenwit.core.errors import InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import Machine, SingleWindingMotor, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.switched import axes_of, switched
from fenwit.core.operating import Source, solve
from fenwit.core.regulator.firing_points import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import TriacFed

FloatArray = NDArray[np.float64]
_ANGLES = 71
_LAST_DEG = 172.0
_SHORT_MARGIN_DEG, _TRAIN_MARGIN_DEG, _TRAIN_END_DEG = 3.0, 10.0, 165.0
MOST_STEPS = 256


class Spacing(StrEnum):
    """What is the same from step to step of a table."""

    ANGLE = "angle"
    POWER = "power"
    VOLTS = "volts"
    SPEED = "speed"
    STEPS = "steps"
    """Nothing: the angles are given, one for each step of a regulator"""


@dataclass(frozen=True, eq=False)
class FiringCurve:
    """A fan over firing angle; arrays over the same rising angles."""

    firing_deg: FloatArray
    speed_rpm: FloatArray
    """Reached from rest; 0 where it does not start [rpm]"""
    kicked_rpm: FloatArray
    """Reached coming down from full speed; 0 where it stops [rpm]"""
    power_w: FloatArray
    """At the held speed [W]"""
    motor_v: FloatArray
    extinction_deg: FloatArray
    points: tuple[PhasePoint | None, ...]
    """At the held speed [-]"""
    load_angle_deg: float
    """Latest of all speeds from rest to full: a short pulse before it finds the triac still conducting [°]"""
    earliest_extinction_deg: float
    """Over all speeds and angles [°]"""
    inductance_h: float
    """What slows the current's rise at firing [H]"""
    supply: Source

    @property
    def least_safe_deg(self) -> float:
        """Earliest angle for a short pulse [°]"""
        return max(0.0, self.load_angle_deg) + _SHORT_MARGIN_DEG

    @property
    def train_end_deg(self) -> float:
        """Where a long pulse or a train must end, so that it does not fire the triac into the other half-cycle [°]"""
        return min(_TRAIN_END_DEG, self.earliest_extinction_deg - _TRAIN_MARGIN_DEG)

    @property
    def latest_start_deg(self) -> float | None:
        """Latest angle at which it still starts from rest; None where it never does [°]"""
        starts = self.speed_rpm > 0
        return float(self.firing_deg[starts].max()) if starts.any() else None

    @property
    def latest_kicked_deg(self) -> float | None:
        """Latest angle at which a running fan still turns [°]"""
        held = self.kicked_rpm > 0
        return float(self.firing_deg[held].max()) if held.any() else None


def firing_curve(motor: Machine, load: FanLoad, supply: Source, on_state_v: float = 0.0) -> FiringCurve:
    """Solve a fan over all firing angles.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    supply : Source
        Supply, a choke as its impedance [-]
    on_state_v : float
        Volts across the conducting triac [V]

    Returns
    -------
    FiringCurve
        The curve and its limits [-]

    Raises
    ------
    InputError
        As `phase_solutions`.
    """
    angles = np.linspace(0.0, _LAST_DEG, _ANGLES)
    solutions = phase_solutions(motor, load, supply, angles.tolist(), on_state_v)
    held: list[PhasePoint | None] = []
    for s in solutions:
        point = None if s.from_full is None else s.points[s.from_full]
        held.append(point if isinstance(point, PhasePoint) else None)
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    z = supply.impedance_ohm
    speeds = np.linspace(0.0, min(float(load.full_speed_rpm), 0.99 * n_s), 12)
    fed = TriacFed(switched(motor, speeds, supply.frequency_hz, z.real, z.imag), supply.voltage_v, on_state_v)
    states = fed.states(np.radians(np.linspace(20.0, 160.0, 15))[None])
    ends = np.degrees(np.where(states.runs, states.extinction_rad, np.inf))

    def column(name: str) -> FloatArray:
        return np.array([0.0 if p is None else getattr(p, name) for p in held])

    return FiringCurve(
        angles,
        np.array([s.running.speed_rpm if s.running else 0.0 for s in solutions]),
        column("speed_rpm"),
        column("input_power_w"),
        column("motor_voltage_v"),
        column("extinction_angle_deg"),
        tuple(held),
        float(np.degrees(fed.load_angle_rad).max()),
        float(ends.min()),
        firing_inductance_h(motor, supply),
        supply,
    )


def firing_inductance_h(motor: Machine, supply: Source) -> float:
    """Inductance that the current meets when the triac fires: leakage of both windings side by side, and the choke.

    Parameters
    ----------
    motor : Machine
        The motor [-]
    supply : Source
        With a choke as its impedance [-]

    Returns
    -------
    float
        Inductance [H]
    """
    omega = 2 * np.pi * motor.rated_frequency_hz
    if isinstance(motor, SingleWindingMotor):
        x_m = float(motor.magnetising_reactance_ohm)
        x_2 = float(motor.rotor_leakage_reactance_ohm)
        own = float(motor.stator_leakage_reactance_ohm) + x_m * x_2 / (x_m + x_2)
    elif isinstance(motor, TwoWindingMotor | ShadedPoleMotor):
        m = axes_of(motor, 1, motor.rated_frequency_hz)
        seen = m.leakage[0] + float(m.x_m[0] * m.x_2[0] / (m.x_m[0] + m.x_2[0])) * (m.turns[0] @ m.turns[0].T)
        # A sudden current meets no flux yet: windings on the supply side by side, a ring shorted behind the main one.
        inverse = np.linalg.inv(seen)
        own = float(1 / (m.fed @ inverse @ m.fed))
    else:
        raise TypeError(f"no leakage known of {type(motor).__name__}")
    return own / omega + supply.impedance_ohm.imag / (2 * np.pi * supply.frequency_hz)


@dataclass(frozen=True)
class ZeroDetector:
    """An opto-coupler on the rectified mains: dark around each zero, so that its output gives a pulse there."""

    resistor_ohm: float
    """In series with its diode [Ω]"""
    output_current_a: float
    """That the output must sink to go low [A]"""
    ctr_low: float
    ctr_high: float
    """Current transfer ratio, its band [-]"""
    diode_v: float = 2.6
    """Of the diode and the bridge together [V]"""

    def __post_init__(self) -> None:
        check_range("resistor_ohm", self.resistor_ohm, 100.0, 1e7, "Ω")
        check_range("output_current_a", self.output_current_a, 1e-6, 0.1, "A")
        check_range("ctr_low", self.ctr_low, 0.01, 20.0, "")
        check_range("ctr_high", self.ctr_high, self.ctr_low, 20.0, "")
        check_range("diode_v", self.diode_v, 0.0, 10.0, "V")


@dataclass(frozen=True)
class ZeroPulse:
    """The pulse around the mains' zero; its middle is the zero itself, its edges wander with the coupler."""

    half_width_low_us: float
    half_width_high_us: float
    edge_spread_deg: float
    """By which the rising edge wanders over the coupler's band [°]"""
    resistor_w: float


def zero_pulse(detector: ZeroDetector, supply_v: float, frequency_hz: float) -> ZeroPulse:
    """Width of a zero detector's pulse: |v| below the volts at which its diode drives the output.

    Parameters
    ----------
    detector : ZeroDetector
        The detector [-]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]

    Returns
    -------
    ZeroPulse
        Half widths, and the resistor's heat [-]

    Raises
    ------
    InputError
        A detector that never goes dark or never lights at these volts.
    """
    check_range("supply_voltage_v", supply_v, 1.0, 1000.0, "V")
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    crest = np.sqrt(2) * supply_v
    widths = []
    for ctr in (detector.ctr_high, detector.ctr_low):
        threshold = detector.diode_v + detector.resistor_ohm * detector.output_current_a / ctr
        if threshold >= 0.9 * crest:
            raise InputError(
                "resistor_ohm", detector.resistor_ohm, "a smaller resistor",
                f"the coupler would need {threshold:.0f} V to light: its pulse is no zero any more",
            )  # fmt: skip
        widths.append(float(np.arcsin(threshold / crest)))
    low, high = (1e6 * w / (2 * np.pi * frequency_hz) for w in widths)
    return ZeroPulse(low, high, float(np.degrees(widths[1] - widths[0])), supply_v**2 / detector.resistor_ohm)


@dataclass(frozen=True)
class TableRow:
    """One step of a table."""

    step: int
    firing_deg: float
    delay_us: float
    """From the detector's edge [µs]"""
    speed_rpm: float
    starts: bool
    """Whether it also starts from rest there; else it needs a kick [-]"""
    gate_us: float
    """Until the current has passed the latching current; the gate must last so long [µs]"""


@dataclass(frozen=True)
class FiringTable:
    """Delays for the steps of a microcontroller."""

    spacing: Spacing
    frequency_hz: float
    rows: tuple[TableRow, ...]
    least_deg: float
    latest_deg: float
    train_end_deg: float
    latching_a: float
    edge_deg: float


def firing_table(
    curve: FiringCurve,
    spacing: Spacing,
    steps: int,
    latching_a: float = 0.03,
    edge_deg: float = 0.0,
    kick: bool = True,
    short_pulse: bool = True,
    slowest_rpm: float | None = None,
    given_deg: Sequence[float] = (),
) -> FiringTable:
    """Delays of evenly spaced steps over the usable range, fastest last; or of given angles.

    Cut off are angles before the least safe one for a short pulse, and those after which the fan does not hold, or, where
    no kick is given, does not start.

    Parameters
    ----------
    curve : FiringCurve
        The fan over firing angle [-]
    spacing : Spacing
        What is even [-]
    steps : int
        How many, 2 to 256 [-]
    latching_a : float
        Latching current of the triac [A]
    edge_deg : float
        Where the detector's edge comes, after the mains' zero; negative before it [°]
    kick : bool
        Whether the fan is started at full first [-]
    short_pulse : bool
        Whether the gate gets a short pulse; else a train that lasts to its end [-]
    slowest_rpm : float or None
        Nothing slower than this [rpm]
    given_deg : sequence of float
        Angles where they are given; one before the least safe angle is held back to it [°]

    Returns
    -------
    FiringTable
        Rows, slowest first [-]

    Raises
    ------
    InputError
        Too few or too many steps, a fan that does not run, or no range left.
    """
    if (spacing is Spacing.STEPS) != bool(len(given_deg)):
        raise InputError(
            "spacing", spacing.value, "angles with steps that are given", "no steps are chosen yet"
        )
    if not len(given_deg) and (not isinstance(steps, int) or not 2 <= steps <= MOST_STEPS):
        raise InputError("steps", steps, f"2 to {MOST_STEPS}", "so many steps are not made")
    check_range("latching_a", latching_a, 1e-4, 1.0, "A")
    check_range("edge_deg", edge_deg, -60.0, 60.0, "°")
    latest = curve.latest_kicked_deg if kick else curve.latest_start_deg
    if latest is None:
        raise InputError(
            "firing_angle_deg", None, "a fan that starts", "at no firing angle does this fan start"
        )
    least = curve.least_safe_deg if short_pulse else max(0.0, edge_deg)
    rising = curve.firing_deg <= latest
    deg, speed = curve.firing_deg[rising], curve.kicked_rpm[rising]
    if slowest_rpm is not None:
        check_range("slowest_rpm", slowest_rpm, 1.0, 40000.0, "rpm")
        latest = min(latest, float(np.interp(-slowest_rpm, -speed, deg)))
    if latest < least + 5:
        raise InputError(
            "firing_angle_deg", latest, f"later than {least:.0f}°",
            "between the least safe angle and the last that runs nothing is left",
        )  # fmt: skip
    if len(given_deg):
        angles = np.maximum(np.array(given_deg, dtype=np.float64), least)
    elif spacing is Spacing.ANGLE:
        angles = np.linspace(latest, least, steps)
    else:
        by = {
            Spacing.SPEED: speed, Spacing.POWER: curve.power_w[rising], Spacing.VOLTS: curve.motor_v[rising]
        }[spacing]  # fmt: skip
        # Only as far as it falls with the angle: before the load angle nothing changes.
        falls = np.flatnonzero(np.diff(by) < -1e-9)
        start = int(falls[0]) if len(falls) else 0
        value = PchipInterpolator(deg[start:], by[start:])
        fine = np.linspace(max(least, float(deg[start])), latest, 2000)
        level = np.minimum.accumulate(value(fine))
        wanted = np.linspace(level[-1], level[0], steps)
        angles = np.interp(-wanted, -level, fine)
    at = PchipInterpolator(deg, speed)
    rises = np.interp(angles, curve.firing_deg, _rise(curve))
    last_start = curve.latest_start_deg or -1.0
    rows = tuple(
        TableRow(
            i,
            float(a),
            float(1e6 * (a - edge_deg) / (360 * curve.supply.frequency_hz)),
            float(at(a)),
            bool(a <= last_start + 1e-9),
            float(1e6 * latching_a / r) if r > 0 else float("inf"),
        )
        for i, (a, r) in enumerate(zip(angles, rises, strict=True), start=1)
    )
    return FiringTable(
        spacing, curve.supply.frequency_hz, rows, float(least), float(latest), curve.train_end_deg, latching_a, edge_deg
    )  # fmt: skip


def _rise(curve: FiringCurve) -> FloatArray:
    """How fast the current rises at firing, by angle [A/s]"""
    volts = [0.0 if p is None else abs(p.firing_step_v) for p in curve.points]
    # Where the current never stops there is nothing to latch anew but the mains' own rise.
    crest = np.sqrt(2) * curve.supply.voltage_v
    own = crest * np.sin(np.radians(np.maximum(curve.firing_deg, 1.0)))
    found = np.where(np.array(volts) > 0, volts, own)
    return np.asarray(found / curve.inductance_h)


@dataclass(frozen=True)
class Crude:
    """What a cruder way of reckoning says of a speed, beside the solved one."""

    name: str
    speed_rpm: tuple[float, ...]
    """0 where it says the fan does not start [rpm]"""
    miss: tuple[float | None, ...]
    """Over the solved speed, less one; None where the fan does not run [-]"""


def crude_estimates(
    motor: Machine, load: FanLoad, curve: FiringCurve, firing_deg: Sequence[float]
) -> tuple[Crude, ...]:
    """The three estimates people use, with their miss against the solved speed.

    Parameters
    ----------
    motor : Machine
        The motor [-]
    load : FanLoad
        The fan [-]
    curve : FiringCurve
        The solved curve [-]
    firing_deg : sequence of float
        Angles [°]

    Returns
    -------
    tuple of Crude
        Rms of a resistive load, fundamental of an RL load, half the angle half the speed [-]

    Raises
    ------
    InputError
        Angles outside 0 to 172°.
    """
    degrees = np.asarray(firing_deg, dtype=np.float64)
    check_range("firing_angle_deg", degrees, 0.0, _LAST_DEG, "°")
    alpha = np.radians(degrees)
    solved = np.interp(np.degrees(alpha), curve.firing_deg, curve.speed_rpm)
    v, f = curve.supply.voltage_v, curve.supply.frequency_hz
    rms = v * np.sqrt(np.maximum((np.pi - alpha + 0.5 * np.sin(2 * alpha)) / np.pi, 0.0))
    n_s = synchronous_speed_rpm(motor.poles, f)
    full = float(load.full_speed_rpm)
    angle = float(np.angle(1 / motor.respond(np.array([1 - full / n_s]), f).admittance_s[0]))
    end = _rl_extinction(alpha, angle)
    sine = ((end - alpha) - 0.5 * (np.sin(2 * end) - np.sin(2 * alpha))) / np.pi
    cosine = 0.5 * (np.cos(2 * alpha) - np.cos(2 * end)) / np.pi
    first = np.where(alpha <= angle, v, v * np.hypot(sine, cosine))

    def through(volts: FloatArray) -> FloatArray:
        found = solve(motor, load, [Source(max(1.0, float(x)), f) for x in volts])
        return np.array([s.running.speed_rpm if s.running else 0.0 for s in found])

    halves = full * (1 - alpha / np.pi)
    return tuple(
        Crude(
            name,
            tuple(said.tolist()),
            tuple(float(s / t - 1) if t > 0 else None for s, t in zip(said, solved, strict=True)),
        )
        for name, said in (
            ("rms volts of a resistive load", through(rms)),
            ("fundamental of an RL load", through(first)),
            ("half the angle is half the speed", halves),
        )
    )


def _rl_extinction(alpha: FloatArray, load_angle: float) -> FloatArray:
    """Where the current of a plain RL load ends: sin(β − φ) = sin(α − φ) e^{−(β − α)/tan φ}."""
    tan = max(np.tan(min(load_angle, 1.55)), 1e-3)
    low, high = np.maximum(alpha, np.pi - 1e-9) * 1.0, np.full(alpha.shape, 2 * np.pi)
    for _ in range(60):
        middle = 0.5 * (low + high)
        current = np.sin(middle - load_angle) - np.sin(alpha - load_angle) * np.exp(-(middle - alpha) / tan)
        low, high = np.where(current > 0, middle, low), np.where(current > 0, high, middle)
    return np.asarray(np.minimum(0.5 * (low + high), alpha + np.pi))
