"""A believed fan behind a triac: its firing curve, angles for wanted speeds, each angle solved with its bands, once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from threading import RLock

import numpy as np

from fenwit.core.calibrate.bands import Band, StepBands
from fenwit.core.calibrate.fit import Belief
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.phase_angle.bands import phase_bands
from fenwit.core.methods.phase_angle.design import FiredBy, PhaseDesign
from fenwit.core.methods.phase_angle.surface import Surface, surface_of
from fenwit.core.methods.phase_angle.triac import TriacDesign, size_triac
from fenwit.core.motor.machine import Machine
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Solution, Source
from fenwit.core.regulator.diac import DiacNetwork, Extinction, going_angle
from fenwit.core.regulator.firing import FiringCurve, firing_curve
from fenwit.core.regulator.firing_points import PhasePoint, angle_at_speed, phase_solutions
from fenwit.core.regulator.phase import TriacFed, Waveforms

FloatArray = np.typing.NDArray[np.float64]

ON_STATE_V = 1.1
"""Volts across a conducting triac of usual size [V]"""
_REMEMBERED = 2000
_TURNS = 201


@dataclass(frozen=True, eq=False)
class AtAngle:
    """A fan at one firing angle of a triac."""

    firing_deg: float
    solution: Solution
    bands: StepBands


@dataclass(frozen=True, eq=False)
class Memory:
    """What was solved of a fan behind a triac: while one notch is dragged the other steps stay as they are."""

    solved: dict[tuple[float, bool], AtAngle] = field(default_factory=dict)
    """By firing angle, and whether it is kicked [°]"""
    angles: dict[tuple[float, bool], float | None] = field(default_factory=dict)
    """Firing angle by wanted speed, and whether it is kicked [rpm → °]"""
    lock: RLock = field(default_factory=RLock)
    """Held while something is solved: of two that ask at once the second finds it done"""


@remembered
def memory_of(fan: MachineFan) -> Memory:
    """The memory of a fan."""
    return Memory()


def curve_of(fan: MachineFan) -> FiringCurve:
    """The firing curve of the likeliest motor, once for each belief."""
    return curve_on(fan.belief, fan.supply)


@remembered
def curve_on(belief: Belief, supply: Source) -> FiringCurve:
    """The same on any supply."""
    return firing_curve(belief.motor, belief.load, supply, ON_STATE_V)


@remembered
def sized(belief: Belief, supply: Source, design: PhaseDesign) -> TriacDesign:
    """The parts around the triac of a control."""
    curve = curve_on(belief, supply)
    return size_triac(
        belief.motor, belief.load, curve, design.triac, opto_current_a=design.unit.opto_current_a
    )


def solved_at(fan: MachineFan, firing_deg: Sequence[float], kick: bool) -> dict[float, AtAngle]:
    """The fan at firing angles, with bands."""
    memory = memory_of(fan)
    with memory.lock:
        # What is answered is kept apart from the memory, which may be emptied on the way.
        found = {a: memory.solved.get((a, kick)) for a in firing_deg}
        new = [a for a, known in found.items() if known is None]
        if new:
            belief, supply = fan.belief, fan.supply
            exact = phase_solutions(belief.motor, belief.load, supply, new, ON_STATE_V)
            bands = phase_bands(belief, supply, new, ON_STATE_V, kick, exact)
            if len(memory.solved) + len(new) > _REMEMBERED:
                memory.solved.clear()
            for angle, band, solution in zip(new, bands, exact, strict=True):
                found[angle] = memory.solved[angle, kick] = AtAngle(angle, solution, band)
    return {a: f for a, f in found.items() if f is not None}


def unbanded(fan: MachineFan, firing_deg: Sequence[float]) -> dict[float, Solution]:
    """The likeliest fan at firing angles, without bands: a tenth of the work."""
    angles = list(dict.fromkeys(firing_deg))
    belief = fan.belief
    found = phase_solutions(belief.motor, belief.load, fan.supply, angles, ON_STATE_V)
    return dict(zip(angles, found, strict=True))


def glanced_at(fan: MachineFan, firing_deg: Sequence[float], kick: bool) -> dict[float, AtAngle]:
    """The same while something is dragged: what is solved already as it is, else read off the fan's surface.

    Bands have the width drawn between those of a few angles. Nothing of it is remembered, so that what is kept later
    is computed in full.
    """
    known = memory_of(fan).solved
    table = glance_table(fan, kick)
    found = {a: known[a, kick] for a in firing_deg if (a, kick) in known}
    new = [a for a in dict.fromkeys(firing_deg) if a not in found and table is not None and table.holds(a)]
    if table is not None and new:
        for angle, solution in zip(new, table.solutions(fan, new), strict=True):
            point = point_of(solution, kick)
            if point is not None:
                found[angle] = AtAngle(angle, solution, _bands_between(fan, kick, point))
    # Outside of it, and where two branches meet, only the whole search tells.
    return found | solved_at(fan, [a for a in dict.fromkeys(firing_deg) if a not in found], kick)


@remembered
def glance_table(fan: MachineFan, kick: bool) -> Surface | None:
    """The fan at many speeds, solved once for all glances."""
    return surface_of(fan, curve_of(fan), kick, ON_STATE_V)


def glanced_angles(fan: MachineFan, wanted_rpm: Sequence[float], kick: bool) -> dict[float, float | None]:
    """Firing angle of each wanted speed while one is dragged: as solved, else off the surface, not remembered."""
    known, table = memory_of(fan).angles, glance_table(fan, kick)
    found = {w: known[w, kick] for w in wanted_rpm if (w, kick) in known}
    new = [w for w in dict.fromkeys(wanted_rpm) if w not in found and not fan.is_full(w)]
    if table is not None and new:
        found |= {w: round(a, 2) for w, a in zip(new, table.angles_for(new), strict=True) if a is not None}
    return found | aimed_angles(fan, [w for w in wanted_rpm if w not in found], kick)


_BAND_ANGLES = 10
_BANDED = ("speed_rpm", "motor_voltage_v", "line_current_a", "input_power_w", "motor_loss_w")


@dataclass(frozen=True, eq=False)
class BandTable:
    """How far bands reach below and above the likeliest motor's values, over firing angle."""

    firing_deg: FloatArray
    below: dict[str, FloatArray]
    above: dict[str, FloatArray]
    may_not_start: FloatArray
    may_exceed: FloatArray


@remembered
def band_table(fan: MachineFan, kick: bool) -> BandTable | None:
    """Bands at a few angles over all at which the fan runs; None where it hardly does."""
    curve = curve_of(fan)
    whole = curve.kicked_rpm if kick else curve.speed_rpm
    runs = curve.firing_deg[whole > 0]
    if len(runs) < 3:
        return None
    angles = np.linspace(max(curve.load_angle_deg, 0.0), float(runs.max()) - 0.5, _BAND_ANGLES).tolist()
    solved = [f for f in solved_at(fan, angles, kick).values() if point_of(f.solution, kick)]
    solved = [f for f in solved if f.bands.speed_rpm.high > 0]
    if len(solved) < 2:
        return None
    below, above = {}, {}
    for name in (*_BANDED, "extinction_deg"):
        own = "extinction_angle_deg" if name == "extinction_deg" else name
        values = np.array([getattr(point_of(f.solution, kick), own) for f in solved])
        ends = [getattr(f.bands, name) or Band(v, v) for f, v in zip(solved, values, strict=True)]
        below[name] = values - np.array([b.low for b in ends])
        above[name] = np.array([b.high for b in ends]) - values
    return BandTable(
        np.array([f.firing_deg for f in solved]),
        below,
        above,
        np.array([f.bands.may_not_start for f in solved]),
        np.array([f.bands.may_exceed for f in solved]),
    )


def _bands_between(fan: MachineFan, kick: bool, point: PhasePoint) -> StepBands:
    table = band_table(fan, kick)
    at = point.firing_angle_deg
    if table is None or not table.firing_deg[0] <= at <= table.firing_deg[-1]:
        return solved_at(fan, [at], kick)[at].bands

    def band(name: str, value: float) -> Band:
        low, high = (
            float(np.interp(at, table.firing_deg, side[name])) for side in (table.below, table.above)
        )
        return Band(max(0.0, value - low), value + high)

    speed, volts, amps, watts, heat = (band(name, getattr(point, name)) for name in _BANDED)
    return StepBands(
        speed,
        volts,
        amps,
        watts,
        heat,
        float(np.interp(at, table.firing_deg, table.may_not_start)),
        float(np.interp(at, table.firing_deg, table.may_exceed)),
        extinction_deg=band("extinction_deg", point.extinction_angle_deg),
    )


def point_of(solution: Solution, kick: bool) -> PhasePoint | None:
    """The point a fan reaches from rest, or coming down from full speed."""
    point = solution.running
    if kick:
        point = None if solution.from_full is None else solution.points[solution.from_full]
    return point if isinstance(point, PhasePoint) else None


def angles_for(
    fan: MachineFan, curve: FiringCurve, wanted_rpm: Sequence[float], kick: bool = False
) -> tuple[float | None, ...]:
    """Firing angle at which the likeliest fan runs at each wanted speed; None where none does.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    curve : FiringCurve
        Its firing curve [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    kick : bool
        Coming down from full speed, instead of from rest [-]

    Returns
    -------
    tuple of float or None
        Angles [°]
    """
    whole = curve.kicked_rpm if kick else curve.speed_rpm
    runs = whole > 0
    deg, speed = curve.firing_deg[runs], whole[runs]
    if len(deg) < 3:
        return (None,) * len(wanted_rpm)
    falling = np.minimum.accumulate(speed)
    there = [w for w in wanted_rpm if falling[-1] <= w <= falling[0]]
    guess = np.interp(-np.array(there), -falling, deg)
    conducts = np.interp(guess, curve.firing_deg, curve.extinction_deg) - guess
    belief = fan.belief
    exact = angle_at_speed(
        belief.motor, belief.load, fan.supply, np.array(there), guess, conducts, ON_STATE_V
    )
    # A hundredth of a degree is half a microsecond: nothing is lost by it, and what is kept can be read.
    found = {w: round(float(np.clip(a, 0.0, deg[-1])), 2) for w, a in zip(there, exact, strict=True)}
    return tuple(found.get(w) for w in wanted_rpm)


def aimed_angles(fan: MachineFan, wanted_rpm: Sequence[float], kick: bool) -> dict[float, float | None]:
    """Firing angle of each wanted speed, remembered with the fan; full speed means fully on."""
    memory = memory_of(fan)
    found: dict[float, float | None] = {}
    with memory.lock:
        new: list[float] = []
        for w in dict.fromkeys(wanted_rpm):
            if fan.is_full(w):
                found[w] = 0.0
            elif (w, kick) in memory.angles:
                found[w] = memory.angles[w, kick]
            else:
                new.append(w)
        if len(memory.angles) + len(new) > _REMEMBERED:
            memory.angles.clear()
        for w, angle in zip(new, angles_for(fan, curve_of(fan), new, kick), strict=True):
            found[w] = memory.angles[w, kick] = angle
    return found


def waveforms_of(fan: MachineFan, point: PhasePoint, samples: int = 360) -> Waveforms:
    """One period of a running point.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    point : PhasePoint
        Where it runs [-]
    samples : int
        How many over the period [-]

    Returns
    -------
    Waveforms
        Volts, currents and torque [-]
    """
    supply = fan.supply
    z = supply.impedance_ohm
    speed = np.array([point.speed_rpm])
    machine = switched(fan.belief.motor, speed, supply.frequency_hz, z.real, z.imag)
    fed = TriacFed(machine, supply.voltage_v, ON_STATE_V)
    return fed.waveforms(np.radians(point.firing_angle_deg), samples)


_BAND_SPEEDS, _BAND_DRAWS = 17, 40


def torque_at(
    fan: MachineFan, firing_deg: float, speed_rpm: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Mean motor torque behind a triac over speed: the likeliest motor's, and where nine in ten others lie.

    The others are solved at fewer speeds, and their ratio to the likeliest motor's torque is drawn between those.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    firing_deg : float
        Firing angle [°]
    speed_rpm : array
        Rising speeds, shape (n,) [rpm]

    Returns
    -------
    tuple of array
        Likeliest, low and high, shape (n,) [N·m]
    """
    belief, supply = fan.belief, fan.supply
    alpha = np.radians(np.array([firing_deg]))
    top = 0.995 * fan.synchronous_rpm

    def of(motor: Machine, speeds: FloatArray) -> FloatArray:
        machine = switched(motor, speeds, supply.frequency_hz, 0.0, 0.0)
        return TriacFed(machine, supply.voltage_v, ON_STATE_V).torques(alpha)[0][:, 0]

    best = of(belief.motor, np.minimum(speed_rpm, top))
    few = np.linspace(0.0, top, _BAND_SPEEDS)
    theta = np.repeat(belief.theta[:, :_BAND_DRAWS], _BAND_SPEEDS, axis=1)
    draws = theta.shape[1] // _BAND_SPEEDS
    many = of(belief.model.motor(theta), np.tile(few, draws)).reshape(draws, _BAND_SPEEDS)
    middle = of(belief.motor, few)
    ratio = many / np.where(middle > 0, middle, 1.0)
    low, high = np.percentile(np.where(middle > 0, ratio, 1.0), [5, 95], axis=0)
    return best, best * np.interp(speed_rpm, few, low), best * np.interp(speed_rpm, few, high)


# ---------------------------------------------------------------- the knob


def extinction_of(curve: FiringCurve) -> Extinction:
    """Where the motor's current ends for a firing angle; at the mains' zero where the fan stands [rad → rad]"""
    running = curve.extinction_deg > 0
    deg, ends = curve.firing_deg[running], curve.extinction_deg[running]

    def at(alpha: FloatArray) -> FloatArray:
        if not len(deg):
            return np.full(alpha.shape, np.pi)
        return np.radians(np.interp(np.degrees(alpha), deg, ends, right=180.0))

    return at


@dataclass(frozen=True, eq=False)
class Travel:
    """Firing angle over the knob's turn, on the way down from full."""

    turn: FloatArray
    firing_deg: FloatArray
    """180 where it does not fire [°]"""

    @property
    def fast_deg(self) -> float:
        """At the fast end [°]"""
        return float(self.firing_deg[-1])

    def turn_at(self, angle_deg: float) -> float | None:
        """The knob's turn for an angle; None where the knob does not reach it."""
        fires = self.firing_deg < 180
        deg, turn = self.firing_deg[fires], self.turn[fires]
        if not len(deg) or not deg.min() - 0.5 <= angle_deg <= deg.max() + 0.5:
            return None
        return float(np.interp(-angle_deg, -deg, turn))


@remembered
def travel(network: DiacNetwork, belief: Belief, supply: Source) -> Travel:
    """The knob of a network on a fan."""
    turn = np.linspace(0.0, 1.0, _TURNS)
    ends = extinction_of(curve_on(belief, supply))
    down = going_angle(network, network.first_ohm(turn), supply.voltage_v, supply.frequency_hz, ends)
    return Travel(turn, np.degrees(np.where(np.isfinite(down), down, np.pi)))


def design_for(fan: MachineFan, wanted_rpm: Sequence[float], design: PhaseDesign) -> PhaseDesign:
    """A control with its angles set for wanted speeds.

    Where no angle gives a speed the latest usable one stands in, and the step then shows its miss.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds; at least one [rpm]
    design : PhaseDesign
        The control with any angles [-]

    Returns
    -------
    PhaseDesign
        The same with one angle for each speed [-]
    """
    found = aimed_angles(fan, wanted_rpm, design.kick)
    curve = curve_of(fan)
    last = (curve.latest_kicked_deg if design.kick else curve.latest_start_deg) or 90.0
    angles = [last if found[w] is None else float(found[w] or 0.0) for w in wanted_rpm]
    if design.fired_by is FiredBy.KNOB and design.network is not None:
        # The knob's fast end is as full as it gets.
        fast = travel(design.network, fan.belief, fan.supply).fast_deg
        angles = [round(max(a, fast), 2) if fast < 180 else a for a in angles]
    return replace(design, firing_deg=tuple(angles))
