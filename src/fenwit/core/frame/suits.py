"""Which methods suit a motor, with their conditions computed for this very job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.frame.fan import Fan
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import barred_range, zones
from fenwit.core.frame.taps import tap_sheet
from fenwit.core.load import FanLoad
from fenwit.core.motor.kinds import Answer, Method, MotorKind, Suitability, suitability
from fenwit.core.motor.machine import relative_rise, synchronous_speed_rpm
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, Solution, Source, solve

_STARTED = (MotorKind.SPLIT_PHASE, MotorKind.CAPACITOR_START, MotorKind.CAPACITOR_START_RUN)
_SCANNED = 48
_JUMP = 0.06
"""A gap between neighbouring stable speeds wider than this share of full speed is one nobody can use [-]"""


@dataclass(frozen=True)
class Suited:
    """One method's answer with what was computed for it."""

    method: Method
    answer: Answer
    reason: str
    never: bool
    computed: tuple[str, ...]
    overridden: bool


def suited(state: JobState, fan: Fan | None) -> tuple[Suited, ...]:
    """Every method's answer for a job's motor, with its conditions checked by computation as far as that goes.

    Parameters
    ----------
    state : JobState
        The job [-]
    fan : Fan or None
        The believed fan; None while too little is known [-]

    Returns
    -------
    tuple of Suited
        As the table of kinds has them; all refused where the duty forbids it [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    if state.kind is None:
        return ()
    duty = state.findings.forbidden
    found = []
    for row in suitability(state.kind):
        if duty is not None:
            words = f"it drives {duty.text}: its speed is not to be lowered; ask {duty.refer}"
            found.append(Suited(row.method, Answer.REFUSED, words, True, (), False))
            continue
        found.append(
            Suited(
                row.method,
                row.answer,
                row.reason,
                row.never,
                _computed(state, fan, row),
                row.method in state.overridden and row.answer is Answer.REFUSED and not row.never,
            )
        )
    return tuple(found)


def _computed(state: JobState, fan: Fan | None, row: Suitability) -> tuple[str, ...]:
    if state.kind in _STARTED and row.answer is Answer.REFUSED and row.never:
        return start_switch(state)
    if fan is None:
        return ()
    if row.method is Method.SERIES_CAPACITOR:
        return (*_capacitor(fan), *_heat(state, fan))
    if row.method is Method.SERIES_RESISTOR:
        return _resistor(fan)
    if row.method is Method.STEPPED_VOLTAGE:
        return _voltage(fan)
    if row.method is Method.WINDING_TAP:
        sheet = tap_sheet(state, fan.belief, fan.supply)
        return (sheet.alive_text,) if sheet and sheet.alive_text else ()
    return ()


def start_switch(state: JobState) -> tuple[str, ...]:
    """Where the start switch closes again, and which wanted steps lie below.

    Parameters
    ----------
    state : JobState
        The job; poles are needed [-]

    Returns
    -------
    tuple of str
        In words; empty while the poles are not known [-]
    """
    poles, share = state.nameplate.poles, state.findings.switch_share
    if poles is None:
        return ()
    n_s = synchronous_speed_rpm(poles, state.supply_frequency_hz)
    closes = share * n_s
    said = [
        f"the switch closes again near {closes:.0f} rpm, {share:.0%} of the {n_s:.0f} rpm of its field: "
        "every speed below lies in its range"
    ]
    below = [w for w in state.wanted_rpm if w < closes]
    if below:
        said.append(f"wanted and below it: {', '.join(f'{w:.0f} rpm' for w in below)}")
    said.append(
        "starting torque goes with the square of volts: at 70 % of them 49 % is left, at half a quarter"
    )
    return tuple(said)


def _capacitor(fan: Fan) -> tuple[str, ...]:
    said = []
    barred = barred_range(fan)
    if barred:
        said.append(
            f"{barred} resonate: the motor would get more than {MOTOR_VOLTAGE_LIMIT:g} × its volts; barred"
        )
    else:
        said.append("no capacitor lifts the motor's volts past their limit: computed over the whole range")
    curve = fan.curve
    usable = np.flatnonzero(curve.usable)
    if len(usable):
        first = usable[0]
        said.append(
            f"least that starts: {q.show(float(curve.capacitance_f[first]), q.CAPACITANCE, 2)}, "
            f"{float(curve.scan.speed_rpm[first]):.0f} rpm"
        )
        said += [
            f"no capacitor holds a speed between {z.low_rpm:.0f} and {z.high_rpm:.0f} rpm"
            for z in zones(fan)
            if z.low_rpm > 0 and not z.text.startswith("barred")
        ]
    return tuple(said)


def _resistor(fan: Fan) -> tuple[str, ...]:
    ohms = np.geomspace(0.02, 30.0, _SCANNED) * fan.supply.voltage_v / fan.full.line_current_a
    found = _solved(fan, [Source(fan.supply.voltage_v, fan.supply.frequency_hz, complex(r)) for r in ohms])
    running = [(float(r), s.running) for r, s in zip(ohms, found, strict=True) if s.running]
    if not running:
        return ("no resistor lets it start",)
    slowest_r, slowest = running[-1]
    worst_r, worst = max(running, key=lambda p: p[1].series_loss_w)
    said = [
        f"slowest it still starts at: {q.show(slowest_r, q.RESISTANCE, 2)}, {slowest.speed_rpm:.0f} rpm",
        f"most heat in the resistor: {q.show(worst.series_loss_w, q.POWER, 2)} near {worst.speed_rpm:.0f} rpm "
        f"({q.show(worst_r, q.RESISTANCE, 2)})",
    ]
    return tuple(said)


def _voltage(fan: Fan) -> tuple[str, ...]:
    volts = fan.supply.voltage_v * np.linspace(0.08, 1.0, _SCANNED)
    sources = [Source(float(v), fan.supply.frequency_hz) for v in volts]
    found = _solved(fan, sources)
    starts = [(s, r) for s, r in zip(sources, found, strict=True) if r.running]
    said = []
    if starts:
        source, solution = starts[0]
        assert solution.running is not None
        said.append(
            f"least volts that start it: about {source.voltage_v:.0f} V, {solution.running.speed_rpm:.0f} rpm"
        )
    gap = falling_gap(fan, volts, found)
    said.append(
        f"falling volts leave no stable speed between {gap[0]:.0f} and {gap[1]:.0f} rpm"
        if gap
        else "speed follows the volts without a jump, from full speed down"
    )
    said.append(_constant_torque(fan))
    return tuple(said)


def falling_gap(
    fan: Fan, volts: NDArray[np.float64], found: Sequence[Solution]
) -> tuple[float, float] | None:
    """The widest gap that no falling voltage holds a speed in; None where speed follows the volts.

    Parameters
    ----------
    fan : Fan
        The fan [-]
    volts : array
        Rising supplies [V]
    found : sequence of Solution
        The fan on each [-]

    Returns
    -------
    tuple of float or None
        Lower and upper edge [rpm]
    """
    speed = np.array([r.points[r.from_full].speed_rpm if r.from_full is not None else 0.0 for r in found])
    wide = _JUMP * fan.full.speed_rpm
    best: tuple[float, float] | None = None
    for i in np.flatnonzero((np.diff(speed) > wide) & (speed[:-1] > 0)):
        # A steep stretch is no gap: between the two supplies the speeds between must be missing too.
        between = np.linspace(volts[i], volts[i + 1], 17)
        fine = _solved(fan, [Source(float(v), fan.supply.frequency_hz) for v in between])
        inner = np.array([r.points[r.from_full].speed_rpm if r.from_full is not None else 0.0 for r in fine])
        at = int(np.argmax(np.diff(inner)))
        low, high = float(inner[at]), float(inner[at + 1])
        if high - low > 0.6 * (speed[i + 1] - speed[i]) and (best is None or high - low > best[1] - best[0]):
            best = (low, high)
    return best


def _constant_torque(fan: Fan) -> str:
    """The same motor with a load that does not ease off: what a fan's square law is worth."""
    load = fan.belief.load
    stubborn = FanLoad(float(load.full_speed_rpm), float(load.full_speed_torque_nm), 1.0, 0.0, 1.0)
    half = Source(0.6 * fan.supply.voltage_v, fan.supply.frequency_hz)
    as_fan = solve(fan.belief.motor, load, [half])[0]
    as_other = solve(fan.belief.motor, stubborn, [half])[0]
    fan_runs = [p for p in as_fan.points if p.stable]
    other_runs = [p for p in as_other.points if p.stable]
    if fan_runs and not other_runs:
        return (
            f"for fans only: at 60 % of its volts this fan holds {fan_runs[-1].speed_rpm:.0f} rpm, a load of constant "
            "torque would stall it"
        )
    if fan_runs:
        return (
            f"at 60 % of its volts this fan holds {fan_runs[-1].speed_rpm:.0f} rpm, a load of constant torque "
            f"{other_runs[-1].speed_rpm:.0f} rpm"
        )
    return "at 60 % of its volts it stands still"


def _heat(state: JobState, fan: Fan) -> tuple[str, ...]:
    """Motor heat at the wanted steps against the cooling left there."""
    wanted = [w for w in state.wanted_rpm if w < 0.99 * fan.full.speed_rpm]
    if not wanted:
        return ()
    asked = fan.aimed(wanted)
    rises: list[tuple[float, float]] = []
    sources = [
        Source(fan.supply.voltage_v, fan.supply.frequency_hz, asked[w].impedance_ohm)
        for w in wanted
        if asked[w].needed.value
    ]
    for solution in solve(fan.belief.motor, fan.belief.load, sources):
        point = solution.running
        if point is not None:
            rise = relative_rise(
                point.motor_loss_w / fan.full.motor_loss_w, point.speed_rpm / fan.full.speed_rpm
            )
            rises.append((rise, point.speed_rpm))
    if not rises:
        return ()
    rise, speed = max(rises)
    return (
        f"warmest wanted step: {speed:.0f} rpm, {rise:.2g} × the temperature rise at full speed (estimate)",
    )


def _solved(fan: Fan, sources: list[Source]) -> tuple[Solution, ...]:
    return solve(fan.belief.motor, fan.belief.load, sources)
