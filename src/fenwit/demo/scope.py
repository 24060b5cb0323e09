"""A capture as the lodge's scope would have written it: the computed wave, a little off, with noise."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.methods.phase_angle import PHASE_ANGLE
from fenwit.core.methods.phase_angle.angles import solved_at, waveforms_of
from fenwit.core.methods.phase_angle.design import PhaseDesign
from fenwit.core.prove.scope import CaptureShown, lay_over
from fenwit.core.regulator.firing_points import PhasePoint

FloatArray = NDArray[np.float64]
_SAMPLES, _PERIODS, _NOISE_V, _LATE_DEG, _BEGINS_DEG = 2400, 3.2, 1.5, 0.8, 37.0


def scope_trace(
    state: JobState, step: int, late_deg: float = _LATE_DEG
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """What a two-channel scope shows at a step of a job's phase-angle control.

    Parameters
    ----------
    state : JobState
        The job with its control [-]
    step : int
        Step, from 1 [-]
    late_deg : float
        By which the built control fires late [°]

    Returns
    -------
    tuple of array
        Times, motor volts and supply volts [s|V|V]

    Raises
    ------
    InputError
        Angles that cannot be.
    """
    fan, design = PHASE_ANGLE.subject(state), state.design
    assert isinstance(fan, MachineFan)
    assert isinstance(design, PhaseDesign)
    angle = round(design.firing_deg[step - 1] + late_deg, 2)
    point = solved_at(fan, [angle], design.kick)[angle].solution.running
    assert isinstance(point, PhasePoint)
    wave = waveforms_of(fan, replace(point, firing_angle_deg=angle), 3600)
    chance = np.random.default_rng(11)
    time = np.linspace(0.0, _PERIODS / fan.supply.frequency_hz, _SAMPLES)
    theta = (360 * fan.supply.frequency_hz * time + _BEGINS_DEG) % 360
    motor, supply = (
        np.asarray(v)[np.minimum((theta * 10).astype(int), 3599)] + chance.normal(0, _NOISE_V, _SAMPLES)
        for v in (wave.motor_v, wave.supply_v)
    )
    return time, motor, supply


def captured_at(state: JobState, step: int) -> CaptureShown:
    """The capture of a step as it is kept.

    Parameters
    ----------
    state : JobState
        The job with its control [-]
    step : int
        Step, from 1 [-]

    Returns
    -------
    CaptureShown
        One period and what was read from it [-]

    Raises
    ------
    InputError
        As `scope_trace`.
    """
    return lay_over(*scope_trace(state, step))
