"""Bands of steps behind a triac: every draw of the belief solved exactly, all draws at once."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band, StepBands, joined, percentiles
from fenwit.core.calibrate.fit import Belief
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Solution, Source, voltage_limit_v
from fenwit.core.regulator.firing_points import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import TriacFed

FloatArray = NDArray[np.float64]
_DRAWS = 80
_STEPS = 7
_ON_STATE_DOUBT_V = 0.5
"""By which the volts across a conducting triac may differ from what is taken [V]"""
_CLOSE = 1e-4
"""Of full-speed torque: close enough for a band; a hundredth of a per cent of speed [-]"""
_NEAR = 1e-3
"""Of full-speed torque: how closely motor and fan must agree [-]"""


def phase_bands(
    belief: Belief,
    supply: Source,
    firing_deg: Sequence[float],
    on_state_v: float = 0.0,
    kick: bool = False,
    told: Sequence[Solution] | None = None,
) -> tuple[StepBands, ...]:
    """Bands of several firing angles, as `step_bands` gives them for a series impedance.

    Each draw's speed is found by secants from the likeliest motor's; a draw that does not start from rest, or whose
    torques do not meet in a stable point, counts as one that does not run.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply, a choke as its impedance [-]
    firing_deg : sequence of float
        Firing angles [°]
    on_state_v : float
        Volts across the conducting triac [V]
    kick : bool
        Whether the fan comes down from full speed, so that it need not start there [-]
    told : sequence of Solution or None
        The likeliest motor at these angles, where it is solved already [-]

    Returns
    -------
    tuple of StepBands
        One for each angle, with the band of the extinction angle [-]

    Raises
    ------
    InputError
        Angles outside 0 to 180°.
    """
    if not len(firing_deg):
        return ()
    theta = belief.theta[:, :_DRAWS]
    draws = theta.shape[1]
    motor, load = belief.model.motor(theta), belief.model.load(theta)
    n_s = synchronous_speed_rpm(belief.datum.poles, supply.frequency_hz)
    z = supply.impedance_ohm

    def fed(speed: FloatArray) -> TriacFed:
        machine = switched(motor, speed, supply.frequency_hz, z.real, z.imag)
        return TriacFed(machine, supply.voltage_v, on_state_v)

    at_rest = fed(np.zeros(draws))
    values = np.zeros((5, len(firing_deg), draws))
    ends = np.zeros((len(firing_deg), draws))
    margins = np.zeros((len(firing_deg), draws))
    runs, over = (np.zeros((len(firing_deg), draws), dtype=bool) for _ in range(2))
    if told is None:
        told = phase_solutions(belief.motor, belief.load, supply, firing_deg, on_state_v)
    for i, (angle, solution) in enumerate(zip(firing_deg, told, strict=True)):
        from_full = solution.points[solution.from_full] if solution.from_full is not None else None
        point = from_full if kick else solution.running or from_full
        if not isinstance(point, PhasePoint):
            continue
        alpha = np.full(draws, np.radians(angle))
        tau = np.full(draws, np.radians(point.conduction_angle_deg))
        speed, tau, good = _settle(fed, load, alpha, tau, point.speed_rpm, n_s)
        margins[i] = at_rest.torques_near(alpha, tau)[0] / np.ravel(load.friction_nm * load.break_away_ratio)
        starts = margins[i] > 1
        runs[i] = good if kick else good & starts
        s = fed(speed).states_near(alpha, tau)
        heat = s.rotor_loss_w + s.winding_loss_w
        ends[i] = np.degrees(s.extinction_rad)
        values[:, i] = speed, s.motor_voltage_v, s.line_current_a, s.input_power_w, heat
        over[i] = runs[i] & (s.motor_voltage_v > voltage_limit_v(belief.datum, supply.frequency_hz))
    low, _, high = percentiles(ends, runs & ~over)
    return tuple(
        replace(
            band,
            motor_voltage_v=_wider(band.motor_voltage_v, _ON_STATE_DOUBT_V),
            extinction_deg=Band(float(a), float(b)) if b > 0 else None,
        )
        for band, a, b in zip(joined(belief, values, runs, over, margins), low, high, strict=True)
    )


def _wider(band: Band, by: float) -> Band:
    if band.high <= 0:
        return band
    middle, half = (band.low + band.high) / 2, float(np.hypot(band.half_width, by))
    return Band(max(0.0, middle - half), middle + half)


def _settle(
    fed: Callable[[FloatArray], TriacFed],
    load: FanLoad,
    alpha: FloatArray,
    tau: FloatArray,
    near_rpm: float,
    n_s: float,
) -> tuple[FloatArray, FloatArray, NDArray[np.bool_]]:
    """Speed and conduction angle of each draw near one, and whether motor and fan agree there in a stable way."""

    def net(speed: FloatArray, guess: FloatArray) -> tuple[FloatArray, FloatArray]:
        asked = load.torque_nm(speed[:, None])[:, 0]
        torque, found = fed(speed).torques_near(alpha, guess)
        return torque - asked, np.where(found > 0, found, guess)

    full = np.ravel(load.full_speed_torque_nm)
    before = np.full(len(alpha), near_rpm)
    now = np.clip(before * 1.02, 0.002 * n_s, 0.998 * n_s)
    f_before, tau = net(before, tau)
    f, tau = net(now, tau)
    slope = np.zeros(len(alpha))
    for _ in range(_STEPS):
        moved = now - before
        slope = np.where(np.abs(moved) > 1e-9 * n_s, (f - f_before) / np.where(moved == 0, 1.0, moved), slope)
        # Where the curves run side by side the step is held short.
        step = np.clip(-f / np.where(slope == 0, np.inf, slope), -0.15 * n_s, 0.15 * n_s)
        before, f_before = now, f
        now = np.clip(now + step, 0.002 * n_s, 0.998 * n_s)
        f, tau = net(now, tau)
        if (np.abs(f) < _CLOSE * full).all():
            break
    return now, tau, (np.abs(f) < _NEAR * full) & (slope < 0)
