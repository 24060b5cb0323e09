"""Steps of a machine fan as they are compared: watts and where they go, hum, start, and the slowest speed it holds."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from fenwit.core.job.machine import MachineFan, MachineStep
from fenwit.core.job.steps import Step
from fenwit.core.memory import remembered
from fenwit.core.motor.hum import hum_db, ripple_nm
from fenwit.core.motor.machine import Machine, relative_rise
from fenwit.core.operating import OperatingPoint, Solution, Source, solve
from fenwit.core.size.merits import Harmonic, StepMerit

_TO_SPARE = 1.15
"""Torque at rest over break-away, at the setting for the slowest speed [-]"""


@remembered
def direct_ripple_nm(fan: MachineFan) -> float | None:
    """Torque at twice the mains with nothing in the line; None where the model does not know it [N·m]"""
    point = fan.full_point
    return ripple_nm(fan.belief.motor, point.slip, point.motor_voltage_v, fan.supply.frequency_hz)


def step_merit(
    fan: MachineFan,
    step: Step[Any],
    *,
    regulator_w: Callable[[OperatingPoint], float] | None = None,
    line_a: Callable[[OperatingPoint], float] | None = None,
    motor: Machine | None = None,
    beats_nm: Sequence[float] | None = None,
    thd: float = 0.0,
    harmonics: tuple[Harmonic, ...] = (),
    thd_filtered: float = 0.0,
) -> StepMerit | None:
    """One step as it is compared; None where it may not be used.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    step : Step
        As its method has solved it [-]
    regulator_w : callable, optional
        Heat of the regulator at a point, where it is more than what stands in the line takes [W]
    line_a : callable, optional
        Amps at the mains, where they are not the motor's [A]
    motor : Machine, optional
        The motor as it is at this step, where that is not the one at full speed [-]
    beats_nm : sequence of float, optional
        Amplitudes of torque at 2, 4, 6 times the mains; else by the machine on sine [N·m]
    thd : float
        Of the line current [-]
    harmonics : tuple of Harmonic
        Of the line current [-]
    thd_filtered : float
        With a filter from the shelf [-]

    Returns
    -------
    StepMerit or None
        Its watts add up: shaft, motor and regulator are the mains' [-]
    """
    point = step.shown_point if isinstance(step, MachineStep) else None
    if not isinstance(step, MachineStep) or point is None or step.wanted_rpm is None or step.solution is None:
        return None
    own = point.series_loss_w if regulator_w is None else regulator_w(point)
    amps = point.line_current_a if line_a is None else line_a(point)
    # What a regulator takes beside the line, as a dielectric or a snubber does, comes from the mains too.
    watts = point.input_power_w - point.series_loss_w + own
    reference = direct_ripple_nm(fan)
    beats = beats_nm
    if beats is None and reference is not None:
        hertz = fan.supply.frequency_hz
        single = ripple_nm(motor or fan.belief.motor, point.slip, point.motor_voltage_v, hertz)
        beats = None if single is None else [single]
    known = reference is not None and beats is not None
    return StepMerit(
        number=step.number,
        wanted_rpm=step.wanted_rpm,
        speed_rpm=point.speed_rpm,
        input_power_w=watts,
        shaft_w=point.shaft_power_w,
        motor_loss_w=point.motor_loss_w,
        regulator_w=own,
        line_current_a=amps,
        motor_voltage_v=point.motor_voltage_v,
        power_factor=watts / (fan.supply.voltage_v * amps) if amps > 0 else 0.0,
        rise=relative_rise(
            point.motor_loss_w / fan.full_point.motor_loss_w, point.speed_rpm / fan.full_point.speed_rpm
        ),
        start=step.solution.start_margin,
        hum_db=hum_db(np.asarray(beats), reference or 1.0, fan.supply.frequency_hz) if known else None,
        ripple=float(beats[0]) / point.torque_nm if beats is not None and point.torque_nm > 0 else None,
        thd=thd,
        harmonics=harmonics,
        thd_filtered=thd_filtered,
        full=fan.is_full(step.wanted_rpm),
    )


def unmet_words(step: Step[Any]) -> str:
    """Why a step gives no speed; empty where it does."""
    if step.usable and step.shown is not None:
        return ""
    return step.reasons[0].words if step.reasons else "it does not run"


@remembered
def rest(fan: MachineFan) -> tuple[float, complex] | None:
    """Motor volts whose torque at rest is 1.15 × break-away, and the admittance there; None without friction [V, S]"""
    load = fan.belief.load
    response = fan.belief.motor.respond(np.array(1.0), fan.supply.frequency_hz)
    wanted = _TO_SPARE * float(load.break_away_ratio * load.friction_nm)
    torque = float(response.torque_nm)
    if wanted <= 0 or torque <= 0:
        return None
    return float(np.sqrt(wanted / torque)), complex(response.admittance_s)


def slowest_of(fan: MachineFan, sources: Sequence[Source]) -> float | None:
    """The slowest speed reached from rest on some sources that start it with just enough to spare.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    sources : sequence of Source
        Settings with torque at rest 1.15 × break-away [-]

    Returns
    -------
    float or None
        Speed; None where none of them runs within limits [rpm]
    """
    if not sources:
        return None
    found = [_reached(fan, s) for s in solve(fan.belief.motor, fan.belief.load, sources)]
    return min((n for n in found if n is not None), default=None)


def _reached(fan: MachineFan, solution: Solution) -> float | None:
    point = solution.running
    if point is None or solution.hunts or point.motor_voltage_v > fan.motor_limit_v:
        return None
    return point.speed_rpm


def fold_rpm(solutions: Sequence[Solution]) -> float:
    """The widest gap between where a step is reached from rest and coming down from full speed [rpm]"""
    widest = 0.0
    for s in solutions:
        if s.from_rest is not None and s.from_full is not None:
            widest = max(widest, abs(s.points[s.from_full].speed_rpm - s.points[s.from_rest].speed_rpm))
    return widest
