"""A believed fan behind a triac: its knob curve, angles for wanted speeds, and each angle solved with its bands, once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fenwit.core.calibrate.bands import StepBands
from fenwit.core.calibrate.fit import Belief
from fenwit.core.calibrate.phasebands import phase_bands
from fenwit.core.frame.fan import Fan
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Solution, Source
from fenwit.core.regulator.diac import DiacNetwork, Extinction, firing
from fenwit.core.regulator.firing import KnobCurve, knob_curve
from fenwit.core.regulator.knob import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import TriacFed, Waveforms
from fenwit.core.size.control import FiredBy, PhaseDesign
from fenwit.core.size.triac import TriacDesign, size_triac

FloatArray = np.typing.NDArray[np.float64]

ON_STATE_V = 1.1
"""Volts across a conducting triac of usual size [V]"""
_REMEMBERED = 2000
_TURNS = 201


@dataclass(frozen=True, eq=False)
class Fired:
    """A fan at one firing angle."""

    firing_deg: float
    solution: Solution
    bands: StepBands


def curve_of(fan: Fan) -> KnobCurve:
    """The knob curve of the likeliest motor, once for each belief."""
    return curve_on(fan.belief, fan.supply)


@lru_cache(maxsize=64)
def curve_on(belief: Belief, supply: Source) -> KnobCurve:
    """The same on any supply."""
    return knob_curve(belief.motor, belief.load, supply, ON_STATE_V)


@lru_cache(maxsize=64)
def sized(belief: Belief, supply: Source, design: PhaseDesign | None = None) -> TriacDesign:
    """The parts around the triac of a control, or of a usual one."""
    design = design or PhaseDesign((0.0,))
    curve = curve_on(belief, supply)
    return size_triac(
        belief.motor, belief.load, curve, design.triac, opto_current_a=design.unit.opto_current_a
    )


def solved_at(fan: Fan, firing_deg: Sequence[float], held: bool) -> dict[float, Fired]:
    """The fan at firing angles, with bands.

    Remembered with the fan: while one notch is dragged the other steps stay as they are.
    """
    memory: dict[tuple[float, bool], Fired] = fan.remembered  # type: ignore[assignment]
    new = [a for a in dict.fromkeys(firing_deg) if (a, held) not in memory]
    if new:
        if len(memory) > _REMEMBERED:
            memory.clear()
        belief, supply = fan.belief, fan.supply
        bands = phase_bands(belief, supply, new, ON_STATE_V, held)
        exact = phase_solutions(belief.motor, belief.load, supply, new, ON_STATE_V)
        for angle, band, solution in zip(new, bands, exact, strict=True):
            memory[angle, held] = Fired(angle, solution, band)
    return {a: memory[a, held] for a in firing_deg}


def point_of(solution: Solution, held: bool) -> PhasePoint | None:
    """The point a fan reaches from rest, or coming down from full speed."""
    point = solution.running
    if held:
        point = None if solution.from_full is None else solution.points[solution.from_full]
    return point if isinstance(point, PhasePoint) else None


def angles_for(
    fan: Fan, curve: KnobCurve, wanted_rpm: Sequence[float], held: bool = False
) -> tuple[float | None, ...]:
    """Firing angle at which the likeliest fan runs at each wanted speed; None where none does.

    Parameters
    ----------
    fan : Fan
        The fan [-]
    curve : KnobCurve
        Its knob curve [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    held : bool
        Coming down from full speed, instead of from rest [-]

    Returns
    -------
    tuple of float or None
        Angles [°]
    """
    whole = curve.held_rpm if held else curve.speed_rpm
    runs = whole > 0
    deg, speed = curve.firing_deg[runs], whole[runs]
    if len(deg) < 3:
        return (None,) * len(wanted_rpm)
    falling = np.minimum.accumulate(speed)
    angles: list[float | None] = []
    for wanted in wanted_rpm:
        if wanted > falling[0] or wanted < falling[-1]:
            angles.append(None)
            continue
        angles.append(float(np.interp(-wanted, -falling, deg)))
    # One secant on exact states takes out what straight lines between samples miss.
    some = [a for a in angles if a is not None]
    slopes: Sequence[float] = (
        np.interp(some, deg[:-1] + np.diff(deg) / 2, np.diff(falling) / np.diff(deg)).tolist() if some else []
    )
    belief = fan.belief
    exact = phase_solutions(belief.motor, belief.load, fan.supply, some, ON_STATE_V)
    asked = [w for w, a in zip(wanted_rpm, angles, strict=True) if a is not None]
    better = iter(
        a + (w - p.speed_rpm) / slope if (p := point_of(s, held)) and slope < -0.05 else a
        for a, w, s, slope in zip(some, asked, exact, slopes, strict=True)
    )
    # A hundredth of a degree is half a microsecond: nothing is lost by it, and what is kept can be read.
    return tuple(None if a is None else round(float(np.clip(next(better), 0.0, deg[-1])), 2) for a in angles)


def aimed_angles(fan: Fan, wanted_rpm: Sequence[float], held: bool) -> dict[float, float | None]:
    """Firing angle of each wanted speed, remembered with the fan; full speed means fully on."""
    memory: dict[tuple[str, float, bool], float | None] = fan.remembered  # type: ignore[assignment]
    full = fan.full.speed_rpm
    new = [w for w in dict.fromkeys(wanted_rpm) if ("aim", w, held) not in memory]
    below = [w for w in new if w < 0.995 * full]
    for w in new:
        memory["aim", w, held] = 0.0
    for w, angle in zip(below, angles_for(fan, curve_of(fan), below, held), strict=True):
        memory["aim", w, held] = angle
    return {w: memory["aim", w, held] for w in wanted_rpm}


def waveforms_of(fan: Fan, point: PhasePoint, samples: int = 360) -> Waveforms:
    """One period of a running point.

    Parameters
    ----------
    fan : Fan
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


# ---------------------------------------------------------------- the knob


def extinction_of(curve: KnobCurve) -> Extinction:
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

    @property
    def slow_deg(self) -> float | None:
        """The latest angle it can be turned back to; None where it never fires [°]"""
        fires = self.firing_deg < 180
        return float(self.firing_deg[fires].max()) if fires.any() else None

    def turn_at(self, angle_deg: float) -> float | None:
        """The knob's turn for an angle; None where the knob does not reach it."""
        fires = self.firing_deg < 180
        deg, turn = self.firing_deg[fires], self.turn[fires]
        if not len(deg) or not deg.min() - 0.5 <= angle_deg <= deg.max() + 0.5:
            return None
        return float(np.interp(-angle_deg, -deg, turn))


@lru_cache(maxsize=128)
def travel(network: DiacNetwork, belief: Belief, supply: Source) -> Travel:
    """The knob of a network on a fan."""
    turn = np.linspace(0.0, 1.0, _TURNS)
    ends = extinction_of(curve_on(belief, supply))
    down = firing(network, network.first_ohm(turn), supply.voltage_v, supply.frequency_hz, ends).down_rad
    return Travel(turn, np.degrees(np.where(np.isfinite(down), down, np.pi)))


def design_for(fan: Fan, wanted_rpm: Sequence[float], design: PhaseDesign) -> PhaseDesign:
    """A control with its angles set for wanted speeds.

    Where no angle gives a speed the latest usable one stands in, and the step then shows its miss.

    Parameters
    ----------
    fan : Fan
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
    found = aimed_angles(fan, wanted_rpm, design.starts_full)
    curve = curve_of(fan)
    last = (curve.latest_held_deg if design.starts_full else curve.latest_start_deg) or 90.0
    angles = [last if found[w] is None else float(found[w] or 0.0) for w in wanted_rpm]
    if design.fired_by is FiredBy.KNOB and design.network is not None:
        # The knob's fast end is as full as it gets.
        fast = travel(design.network, fan.belief, fan.supply).fast_deg
        angles = [round(max(a, fast), 2) if fast < 180 else a for a in angles]
    return PhaseDesign(**{**vars(design), "firing_deg": tuple(angles)})
