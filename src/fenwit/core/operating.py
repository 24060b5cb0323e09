"""Where motor torque meets fan torque: every method ends here.

A source is a Thevenin voltage behind an impedance. With Y(n) and τ(n) the machine's current and torque per volt
(`core.motor.machine`), the motor gets V_m = V / (1 + Z Y) and turns with T = τ |V_m|²; an operating point is where that
equals the fan's torque.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, fields, replace
from enum import StrEnum
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.motor.hunting import growth_per_s
from fenwit.core.motor.machine import Machine, UnitResponse, synchronous_speed_rpm
from fenwit.core.work import pause

FloatArray = NDArray[np.float64]

MOTOR_VOLTAGE_LIMIT = 1.05
"""Highest motor volts a step may give, over rated volts; per hertz, where the supply is slower than rated [-]"""


class HasRating(Protocol):
    """What has rated volts and hertz: a motor, or what is known of one."""

    @property
    def rated_voltage_v(self) -> float: ...

    @property
    def rated_frequency_hz(self) -> float: ...


def voltage_limit_v(motor: HasRating, frequency_hz: float) -> float:
    """Most volts a motor may get: 1.05 × rated, and 1.05 × rated volts per hertz, beyond which its iron saturates.

    Parameters
    ----------
    motor : HasRating
        Motor, or its datum [-]
    frequency_hz : float
        Supply frequency [Hz]

    Returns
    -------
    float
        Volts [V]
    """
    return MOTOR_VOLTAGE_LIMIT * motor.rated_voltage_v * min(1.0, frequency_hz / motor.rated_frequency_hz)


@dataclass(frozen=True)
class Source:
    """What the motor is fed from: open-circuit volts behind an impedance."""

    voltage_v: float
    frequency_hz: float
    impedance_ohm: complex = 0j
    """Whatever stands in the line; None of it when 0 [Ω]"""

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.voltage_v, 1.0, 1000.0, "V")
        check_range("frequency_hz", self.frequency_hz, 10.0, 500.0, "Hz")
        check_range("series resistance", self.impedance_ohm.real, 0.0, 1e9, "Ω")
        check_range("series reactance", self.impedance_ohm.imag, -1e12, 1e12, "Ω")


@dataclass(frozen=True)
class OperatingPoint:
    """One speed at which motor and fan agree."""

    speed_rpm: float
    stable: bool
    slip: float
    motor_voltage_v: float
    line_current_a: float
    input_power_w: float
    power_factor: float
    torque_nm: float
    shaft_power_w: float
    rotor_loss_w: float
    winding_loss_w: float
    series_loss_w: float
    series_voltage_v: float
    main_current_a: float | None
    auxiliary_current_a: float | None
    capacitor_voltage_v: float | None
    growth_per_s: float = field(default=-np.inf, kw_only=True)
    """How fast a small disturbance grows at this speed; below zero it dies away [1/s]"""

    @property
    def hunts(self) -> bool:
        """Whether the speed will not hold although torques balance: currents swing ever wider."""
        return self.growth_per_s > 0.0

    @property
    def motor_loss_w(self) -> float:
        """Heat that stays in the motor [W]"""
        return self.rotor_loss_w + self.winding_loss_w


@dataclass(frozen=True)
class Solution:
    """All steady states of one fan on one source."""

    starts: bool
    net_starting_torque_nm: float
    """Torque at rest less running friction [N·m]"""
    start_margin: float
    """Torque at rest over break-away torque; infinite without friction [-]"""
    points: tuple[OperatingPoint, ...]
    """Slowest first"""
    from_rest: int | None
    """Index of the point reached from rest; None when it does not start"""
    from_full: int | None
    """Index of the point reached when slowing down from full speed; None when the fan stops"""

    @property
    def running(self) -> OperatingPoint | None:
        """The point reached from rest, if the fan starts."""
        return None if self.from_rest is None else self.points[self.from_rest]

    @property
    def hunts(self) -> bool:
        """Whether the point reached from rest, or coming down from full speed, would not hold its speed."""
        reached = {i for i in (self.from_rest, self.from_full) if i is not None}
        return any(self.points[i].hunts for i in reached)


def speed_grid(synchronous_rpm: float, count: int = 240) -> FloatArray:
    """Speeds from rest to synchronous speed, closer together where the slip is small.

    Parameters
    ----------
    synchronous_rpm : float
        Synchronous speed [rpm]
    count : int
        Number of evenly spread speeds; a quarter as many are added near synchronous speed [-]

    Returns
    -------
    array
        Rising speeds, first 0, last synchronous [rpm]
    """
    near = 1 - np.geomspace(0.08, 1e-4, count // 4)
    return np.asarray(synchronous_rpm * np.unique(np.concatenate([np.linspace(0, 1, count), near])))


def torque_nm(
    response: UnitResponse, voltage_v: FloatArray, impedance_ohm: NDArray[np.complex128]
) -> FloatArray:
    """Motor torque behind a series impedance, τ |V / (1 + Z Y)|².

    Parameters
    ----------
    response : UnitResponse
        The machine per volt [-]
    voltage_v : array
        Source volts, broadcasts with the response [V]
    impedance_ohm : array
        Series impedance, broadcasts with the response [Ω]

    Returns
    -------
    array
        Torque [N·m]
    """
    # |1 + Z Y|² written out in real numbers: half the work of complex ones.
    y, z = response.admittance_s, impedance_ohm
    conductance, susceptance = np.ascontiguousarray(y.real), np.ascontiguousarray(y.imag)
    square = conductance**2 + susceptance**2
    # In place: fresh arrays of this size cost more than the sums in them.
    found = np.asarray(z.imag * susceptance)
    np.subtract(z.real * conductance, found, out=found)
    found *= 2
    found += (z.real**2 + z.imag**2) * square
    found += 1
    np.divide(response.torque_nm, found, out=found)
    found *= np.square(voltage_v)
    return found


def solve(
    motor: Machine, load: FanLoad, sources: Sequence[Source], growth: bool = True
) -> tuple[Solution, ...]:
    """All operating points of a fan on each of several sources.

    Torque difference is scanned over speed for all sources at once; each sign change is refined by bracketed secants
    (Anderson and Björck). Turning points between samples are looked at more closely, so that two crossings between two
    samples are not lost.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    sources : sequence of Source
        One for each step; all at one frequency [-]
    growth : bool
        Whether hunting is looked at too: it costs as much as all else [-]

    Returns
    -------
    tuple of Solution
        One for each source, in order [-]

    Raises
    ------
    InputError
        Mixed frequencies, or a full speed at or above synchronous speed.
    """
    if not sources:
        return ()
    frequency = sources[0].frequency_hz
    if any(source.frequency_hz != frequency for source in sources):
        raise InputError("frequency_hz", [s.frequency_hz for s in sources], "one frequency", "sources differ")
    n_s = synchronous_speed_rpm(motor.poles, frequency)
    check_full_speed(load.full_speed_rpm, n_s)
    volts = np.array([source.voltage_v for source in sources])
    z = np.array([source.impedance_ohm for source in sources], dtype=np.complex128)

    def difference(speed: FloatArray, step: NDArray[np.int64]) -> FloatArray:
        response = motor.respond(1 - speed / n_s, frequency)
        return torque_nm(response, volts[step], z[step]) - load.torque_nm(speed)

    grid, response = _over_speed(motor, frequency)  # machines are frozen dataclasses
    net = torque_nm(response, volts[:, None], z[:, None]) - load.torque_nm(grid)
    step, speeds, stable = crossings(grid, net, difference, 1e-8 * n_s)
    found = _points(motor, volts[step], z[step], frequency, speeds, stable, growth)
    return solutions_of(load, net[:, 0], step, found)


def crossings(
    grid: FloatArray,
    net: FloatArray,
    difference: Callable[[FloatArray, NDArray[np.int64]], FloatArray],
    tolerance_rpm: float,
) -> tuple[NDArray[np.int64], FloatArray, NDArray[np.bool_]]:
    """Every speed at which a torque difference goes through zero.

    Parameters
    ----------
    grid : array
        Rising speeds, shape (speeds,) [rpm]
    net : array
        Motor torque less fan torque, shape (steps, speeds) [N·m]
    difference : callable
        The same at any speeds, given with the index of their step [N·m]
    tolerance_rpm : float
        How closely a crossing is found [rpm]

    Returns
    -------
    tuple of array
        Index of the step, speed, and whether the difference falls there, one entry for each crossing [-|rpm|-]
    """
    step, low, high, net_low, net_high = _brackets(grid, net, difference)
    speeds = _refine(lambda n: difference(n, step), low, high, net_low, net_high, tolerance_rpm)
    return step, speeds, net_high < net_low


def solutions_of(
    load: FanLoad, net_at_rest_nm: FloatArray, step: NDArray[np.int64], found: Sequence[OperatingPoint]
) -> tuple[Solution, ...]:
    """Put operating points together with what happens at rest and coming down from full speed.

    Parameters
    ----------
    load : FanLoad
        The fan [-]
    net_at_rest_nm : array
        Motor torque at rest less running friction, one for each step [N·m]
    step : array
        Which step each point belongs to [-]
    found : sequence of OperatingPoint
        The points [-]

    Returns
    -------
    tuple of Solution
        One for each step [-]
    """
    speeds = np.array([p.speed_rpm for p in found])
    at_rest = net_at_rest_nm + float(load.friction_nm)
    break_away = float(load.friction_nm * load.break_away_ratio)
    solutions = []
    for i in range(len(net_at_rest_nm)):
        mine = np.flatnonzero(step == i)
        mine = mine[np.argsort(speeds[mine])]
        points = tuple(found[int(j)] for j in mine)
        starts = bool(at_rest[i] > break_away)
        solutions.append(
            Solution(
                starts=starts,
                net_starting_torque_nm=float(net_at_rest_nm[i]),
                start_margin=float(at_rest[i]) / break_away if break_away > 0 else np.inf,
                points=points,
                from_rest=next((j for j, p in enumerate(points) if p.stable), None) if starts else None,
                from_full=_from_full(points, float(load.full_speed_rpm)),
            )
        )
    return tuple(solutions)


@remembered
def _over_speed(motor: Machine, frequency_hz: float) -> tuple[FloatArray, UnitResponse]:
    """The speed grid and the machine on it, once for each motor."""
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    grid = speed_grid(n_s)
    return grid, motor.respond(1 - grid / n_s, frequency_hz)


def _refine(
    function: Callable[[FloatArray], FloatArray],
    low: FloatArray,
    high: FloatArray,
    at_low: FloatArray,
    at_high: FloatArray,
    tolerance: float,
) -> FloatArray:
    """Roots between ``low`` and ``high``, all at once, by secants that keep the bracket (Anderson and Björck 1973)."""
    if not len(low):
        return low
    a, b, f_a, f_b = low, high, at_low, at_high
    for _ in range(80):
        pause()
        gap = f_b - f_a
        c = np.where(f_b == 0, b, b - f_b * (b - a) / np.where(gap == 0, 1.0, gap))
        f_c = function(c)
        if (np.minimum(np.abs(c - b), np.abs(c - a)) <= tolerance).all():
            return np.asarray(c)
        same = np.signbit(f_c) == np.signbit(f_b)
        shrink = 1 - f_c / np.where(f_b == 0, 1.0, f_b)
        f_a = np.where(same, f_a * np.where(shrink > 0, shrink, 0.5), f_b)
        a, b, f_b = np.where(same, a, b), c, f_c
    raise ArithmeticError("a bracketed operating point did not converge")


def check_full_speed(full_speed_rpm: FloatOrArray, synchronous_rpm: float) -> None:
    """Raise InputError unless the full speed lies below synchronous speed."""
    highest = float(np.max(full_speed_rpm))
    if highest >= synchronous_rpm:
        raise InputError(
            "full_speed_rpm",
            highest,
            f"above 0 and below {synchronous_rpm:g} rpm",
            "an induction motor stays below synchronous speed; are the poles right?",
        )


def _brackets(
    grid: FloatArray, net: FloatArray, difference: Callable[[FloatArray, NDArray[np.int64]], FloatArray]
) -> tuple[NDArray[np.int64], FloatArray, FloatArray, FloatArray, FloatArray]:
    """Indices of steps, the speeds on both sides of every crossing and the net torques there, tangents between
    samples included."""
    step, at = np.nonzero(np.signbit(net[:, :-1]) != np.signbit(net[:, 1:]))
    low, high, net_low, net_high = grid[at], grid[at + 1], net[step, at], net[step, at + 1]
    middle, left, right = net[:, 1:-1], net[:, :-2], net[:, 2:]
    same = (np.signbit(left) == np.signbit(middle)) & (np.signbit(middle) == np.signbit(right))
    towards = same & (np.abs(middle) <= np.abs(left)) & (np.abs(middle) <= np.abs(right))
    # Only where the parabola through the three samples comes near zero can a pair of crossings hide.
    hidden = towards & (np.abs(middle) < 0.5 * np.maximum(np.abs(left - middle), np.abs(right - middle)))
    for i, j in zip(*np.nonzero(hidden), strict=True):
        fine = np.linspace(grid[j], grid[j + 2], 65)
        values = difference(fine, np.full(fine.shape, i))
        found = np.flatnonzero(np.signbit(values[:-1]) != np.signbit(values[1:]))
        step = np.concatenate([step, np.full(found.shape, i)])
        low, high = np.concatenate([low, fine[found]]), np.concatenate([high, fine[found + 1]])
        net_low = np.concatenate([net_low, values[found]])
        net_high = np.concatenate([net_high, values[found + 1]])
    return step, low, high, net_low, net_high


def _from_full(points: tuple[OperatingPoint, ...], full_speed_rpm: float) -> int | None:
    stable = [j for j, p in enumerate(points) if p.stable]
    unstable = [p.speed_rpm for p in points if not p.stable]
    if not stable:
        return None
    # Above the fastest unstable point below full speed, everything falls to the stable point over it.
    floor = max((n for n in unstable if n <= full_speed_rpm), default=-1.0)
    reached = [j for j in stable if points[j].speed_rpm > floor]
    return reached[0] if reached else None


def _points(
    motor: Machine,
    voltage_v: FloatArray,
    impedance_ohm: NDArray[np.complex128],
    frequency_hz: float,
    speeds: FloatArray,
    stable: NDArray[np.bool_],
    growth: bool = True,
) -> list[OperatingPoint]:
    """Everything about each point; arrays of one shape, one entry for each point."""
    if not len(speeds):
        return []
    slip = 1 - speeds / synchronous_speed_rpm(motor.poles, frequency_hz)
    response = motor.respond(slip, frequency_hz)
    v_motor = voltage_v / (1 + impedance_ohm * response.admittance_s)
    current = v_motor * response.admittance_s
    square, amps = np.abs(v_motor) ** 2, np.abs(current)
    torque = response.torque_nm * square
    power = (voltage_v * current.conjugate()).real

    def magnitude(per_volt: NDArray[np.complex128] | None) -> list[float] | list[None]:
        return [None] * len(speeds) if per_volt is None else np.abs(v_motor * per_volt).tolist()

    columns = zip(
        speeds.tolist(),
        stable.tolist(),
        slip.tolist(),
        np.sqrt(square).tolist(),
        amps.tolist(),
        power.tolist(),
        (power / (voltage_v * amps)).tolist(),
        torque.tolist(),
        (torque * speeds * (2 * np.pi / 60)).tolist(),
        (response.rotor_loss_w * square).tolist(),
        (response.winding_loss_w * square).tolist(),
        (amps**2 * impedance_ohm.real).tolist(),
        np.abs(impedance_ohm * current).tolist(),
        magnitude(response.main_admittance_s),
        magnitude(response.auxiliary_admittance_s),
        magnitude(response.capacitor_gain),
        strict=True,
    )
    behind = (np.abs(impedance_ohm) > 0) & stable & growth
    grows = np.full(speeds.shape, -np.inf)
    grows[behind] = growth_per_s(motor, speeds[behind], frequency_hz, impedance_ohm[behind])
    return [
        OperatingPoint(*column, growth_per_s=rate)
        for column, rate in zip(columns, grows.tolist(), strict=True)
    ]


def point_at_speed(motor: Machine, source: Source, speed_rpm: float) -> OperatingPoint:
    """The steady state of a motor held at a speed, whatever its load.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    source : Source
        What it is fed from [-]
    speed_rpm : float
        Speed [rpm]

    Returns
    -------
    OperatingPoint
        Called stable, since something else holds the speed [-]

    Raises
    ------
    InputError
        A speed beyond synchronous.
    """
    n_s = synchronous_speed_rpm(motor.poles, source.frequency_hz)
    check_range("speed_rpm", speed_rpm, 0.0, n_s, "rpm")
    return _points(
        motor, np.array([source.voltage_v]), np.array([source.impedance_ohm]), source.frequency_hz,
        np.array([float(speed_rpm)]), np.array([True]),
    )[0]  # fmt: skip


def load_at_datum(
    motor: Machine,
    full_speed_rpm: FloatOrArray,
    supply_voltage_v: float,
    frequency_hz: float,
    friction_share: FloatOrArray = 0.03,
    exponent: FloatOrArray = 2.0,
) -> FanLoad:
    """The fan whose full-speed torque is the motor model's own at the measured full speed.

    Parameters
    ----------
    motor : Machine
        The motor; array parameters give an array load [-]
    full_speed_rpm : float or array
        Full speed measured on the supply directly [rpm]
    supply_voltage_v : float
        Supply at that reading [V]
    frequency_hz : float
        Supply frequency [Hz]
    friction_share : float or array
        Constant friction as a share of full-speed torque [-]
    exponent : float or array
        Exponent of the speed-dependent part [-]

    Returns
    -------
    FanLoad
        The load [-]

    Raises
    ------
    InputError
        Full speed at or above synchronous speed, or no motor torque there.
    """
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    check_full_speed(full_speed_rpm, n_s)
    response = motor.respond(np.asarray(1 - full_speed_rpm / n_s), frequency_hz)
    torque = np.asarray(response.torque_nm) * supply_voltage_v**2
    if (torque <= 0).any():
        raise InputError(
            "full_speed_rpm",
            float(np.max(full_speed_rpm)),
            f"below {n_s:g} rpm",
            "the motor has no torque left there",
        )
    return FanLoad(full_speed_rpm, float(torque) if torque.ndim == 0 else torque, friction_share, exponent)


HUNTS_WORDS = (
    "hunts: behind what stands in the line currents would swing ever wider and the speed will not hold, so nothing is "
    "predicted; choose another value"
)


class StepVerdict(StrEnum):
    """Whether a step may be used."""

    OK = "ok"
    BARRED = "barred"
    DOES_NOT_START = "does-not-start"


def judge_step(solution: Solution, limit_v: float, friction_nm: float) -> tuple[StepVerdict, tuple[str, ...]]:
    """Say whether a step may be used, and why not.

    Parameters
    ----------
    solution : Solution
        The solved step [-]
    limit_v : float
        Most volts the motor may get, as `voltage_limit_v` [V]
    friction_nm : float
        Running friction [N·m]

    Returns
    -------
    tuple of StepVerdict and tuple of str
        The verdict, with reasons in words; an "ok" may carry remarks [-]
    """
    if any(p.stable and p.motor_voltage_v > limit_v for p in solution.points):
        return StepVerdict.BARRED, (
            f"motor volts would exceed {limit_v:.0f} V, {MOTOR_VOLTAGE_LIMIT:g} × rated (per hertz on a slower supply): "
            "its iron saturates there, outside the range of the model, so nothing is predicted",
        )
    if solution.hunts:
        return StepVerdict.BARRED, (HUNTS_WORDS,)
    if not solution.starts or solution.from_rest is None:
        reasons = [f"torque at rest lacks {-solution.net_starting_torque_nm:.3g} N·m to overcome friction"]
        if solution.net_starting_torque_nm > 0:
            reasons = ["torque at rest does not exceed break-away friction"]
        stable = [p for p in solution.points if p.stable]
        if stable:
            reasons.append(f"given a push it would hold {stable[0].speed_rpm:.0f} rpm")
        return StepVerdict.DOES_NOT_START, tuple(reasons)
    remarks = []
    torque = solution.net_starting_torque_nm + friction_nm
    if torque < 1.5 * friction_nm:
        remarks.append(
            f"little to spare at rest: {torque / friction_nm:.2g} × friction; a stiff bearing may hold it"
        )
    if solution.from_full is not None and solution.from_full != solution.from_rest:
        remarks.append(
            f"coming down from full speed it stays at {solution.points[solution.from_full].speed_rpm:.0f} rpm: "
            "two speeds hold, and which one depends on where it comes from"
        )
    return StepVerdict.OK, tuple(remarks)


@dataclass(frozen=True)
class Scan:
    """Running points reached from rest over many series impedances; entries are meaningful where ``runs``."""

    runs: NDArray[np.bool_]
    """Starts from rest and reaches a stable point"""
    speed_rpm: FloatArray
    motor_voltage_v: FloatArray
    """Motor volts at that point, 0 where it does not run [V]"""
    admittance_s: NDArray[np.complex128]
    """Motor admittance at that point [S]"""
    at: NDArray[np.int64]
    """Index of the tabulated speed below that point [-]"""
    share: FloatArray
    """How far the point lies towards the next tabulated speed, 0 to 1 [-]"""

    def read_off(self, table: FloatArray) -> FloatArray:
        """A table over speed, shape (speeds,) or (draws, speeds), at each running point."""
        table = np.broadcast_to(table, (*self.at.shape, table.shape[-1]))
        below = np.take_along_axis(table, self.at[..., None], -1)[..., 0]
        above = np.take_along_axis(table, self.at[..., None] + 1, -1)[..., 0]
        return np.asarray((1 - self.share) * below + self.share * above)


@dataclass(frozen=True)
class Machined:
    """A motor and fan tabulated over speed, so that any number of impedances can be tried at once.

    Parameters of motor and load may have shape (draws, 1); then every table has shape (draws, speeds).
    """

    grid_rpm: FloatArray
    response: UnitResponse
    load_nm: FloatArray
    break_away_nm: FloatArray
    """Shape (draws,) or () [N·m]"""

    def lean(self) -> Machined:
        """The same tables in single precision: seven digits are plenty for a percentile, in half the time."""

        def single(value: Any) -> Any:
            if value is None or np.ndim(value) == 0:
                return value
            return value.astype(np.complex64 if np.iscomplexobj(value) else np.float32)

        response = UnitResponse(*(single(getattr(self.response, f.name)) for f in fields(UnitResponse)))
        return replace(
            self,
            grid_rpm=self.grid_rpm.astype(np.float32),
            response=response,
            load_nm=self.load_nm.astype(np.float32),
            break_away_nm=np.asarray(self.break_away_nm, dtype=np.float32),
        )


def tabulate(motor: Machine, load: FanLoad, frequency_hz: float, count: int = 240) -> Machined:
    """Tabulate motor and fan over speed.

    Parameters
    ----------
    motor : Machine
        Motor; parameters scalar or of shape (draws, 1) [-]
    load : FanLoad
        Fan; parameters scalar or of shape (draws, 1) [-]
    frequency_hz : float
        Supply frequency [Hz]
    count : int
        Evenly spread speeds [-]

    Returns
    -------
    Machined
        The tables [-]
    """
    n_s = synchronous_speed_rpm(motor.poles, frequency_hz)
    grid = speed_grid(n_s, count)
    friction = np.asarray(load.friction_nm, dtype=np.float64)
    break_away = friction * load.break_away_ratio
    return Machined(
        grid_rpm=grid,
        response=motor.respond(1 - grid / n_s, frequency_hz),
        load_nm=load.torque_nm(grid),
        break_away_nm=break_away[..., 0] if break_away.ndim else break_away,
    )


def scan(table: Machined, voltage_v: float | FloatArray, impedance_ohm: NDArray[np.complex128]) -> Scan:
    """Speed reached from rest for each series impedance, read off the tables.

    The first crossing from surplus to deficit is interpolated linearly between neighbouring speeds; at the default
    table size that is within 0.1 % of synchronous speed of `solve`.

    Parameters
    ----------
    table : Machined
        Motor and fan over speed [-]
    voltage_v : float or array
        Source volts; shape of ``impedance_ohm`` [V]
    impedance_ohm : array
        Series impedances, shape (values,), or (values, draws) for tables with draws [Ω]

    Returns
    -------
    Scan
        Arrays of shape (values,) or (values, draws) [-]
    """
    real = table.response.torque_nm.dtype
    z = np.asarray(impedance_ohm).astype(table.response.admittance_s.dtype)[..., None]
    volts = np.broadcast_to(np.asarray(voltage_v, dtype=real), z.shape[:-1])[..., None]
    motor_nm = torque_nm(table.response, volts, z)
    starts = motor_nm[..., 0] > table.break_away_nm
    net = np.subtract(motor_nm, table.load_nm, out=motor_nm)
    above = net > 0
    falls = above[..., :-1] & ~above[..., 1:]
    runs = starts & falls.any(axis=-1)
    at = np.argmax(falls, axis=-1)[..., None]
    before, after = np.take_along_axis(net, at, -1), np.take_along_axis(net, at + 1, -1)
    # Where nothing falls the quotient is thrown away below; 1 keeps it finite.
    share = before / np.where(runs[..., None], before - after, real.type(1))
    grid = table.grid_rpm
    speed = grid[at] + share * (grid[at + 1] - grid[at])
    y = np.broadcast_to(table.response.admittance_s, net.shape)
    y_here = (1 - share) * np.take_along_axis(y, at, -1) + share * np.take_along_axis(y, at + 1, -1)
    v_motor = volts / np.abs(1 + z * y_here)
    return Scan(
        runs,
        np.where(runs, speed[..., 0], 0.0),
        np.where(runs, v_motor[..., 0], 0.0),
        y_here[..., 0],
        at[..., 0],
        np.where(runs, share[..., 0], 0.0),
    )
