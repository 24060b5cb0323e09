"""Predictions with their band: the likeliest motor's value, and where nine in ten of the draws fall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.fit import Belief
from fenwit.core.errors import check_range
from fenwit.core.operating import Source, scan

FloatArray = NDArray[np.float64]
MODEL_ERROR = 0.02
"""What the model itself misses, of speed and of motor volts and amps, away from the datum [-]"""
_Z90 = 1.645


@dataclass(frozen=True)
class Band:
    """Where nine in ten of the readings are expected."""

    low: float
    high: float

    def holds(self, value: float) -> bool:
        """Whether a value lies inside."""
        return self.low <= value <= self.high

    @property
    def half_width(self) -> float:
        """Half the width, in the unit of the value."""
        return (self.high - self.low) / 2


@dataclass(frozen=True)
class StepBands:
    """Bands of one step."""

    speed_rpm: Band
    motor_voltage_v: Band
    line_current_a: Band
    input_power_w: Band
    motor_loss_w: Band
    may_not_start: float
    """Share of the draws that do not start or hold this step [-]"""


def step_bands(
    belief: Belief, supply: Source, impedance_ohm: Sequence[complex | NDArray[np.complex128]]
) -> tuple[StepBands, ...]:
    """Bands of several steps from the belief's draws and the parts' tolerances.

    The spread of the draws is joined in quadrature with the model's own error, which grows from nothing at the
    datum (it was measured there) to `MODEL_ERROR` where the motor has a quarter of its volts taken away.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply without the regulator [-]
    impedance_ohm : sequence of complex or array
        What stands in the line at each step; an array of shape (draws,) where parts are sampled [Ω]

    Returns
    -------
    tuple of StepBands
        One for each step [-]
    """
    if not impedance_ohm:
        return ()
    shape = (belief.draws_kept,)
    z = np.stack([np.broadcast_to(np.asarray(v, dtype=np.complex128), shape) for v in impedance_ohm])
    found = scan(belief.draws, supply.voltage_v, z)
    bands = []
    for i in range(len(z)):
        runs = found.runs[i]
        stalled = float(1 - runs.mean())
        if stalled > 0.75:
            bands.append(StepBands(_NONE, _NONE, _NONE, _NONE, _NONE, stalled))
            continue
        speed, volts = found.speed_rpm[i][runs], found.motor_voltage_v[i][runs]
        response = belief.draws.response
        y, loss = (
            _at_speed(belief, table[runs], speed)
            for table in (response.admittance_s, response.rotor_loss_w + response.winding_loss_w)
        )
        amps = volts * np.abs(y)
        watts = volts**2 * y.real + amps**2 * z[i][runs].real
        away = min(1.0, 4 * abs(1 - float(np.median(volts)) / belief.supply.voltage_v))
        error = MODEL_ERROR * away
        # Watts go with the square of what volts and amps go with.
        bands.append(
            StepBands(
                _band(speed, error),
                _band(volts, error),
                _band(amps, error),
                _band(watts, 2 * error),
                _band(volts**2 * loss.real, 2 * error),
                stalled,
            )
        )
    return tuple(bands)


_NONE = Band(0.0, 0.0)


def _at_speed(
    belief: Belief, table: NDArray[np.float64] | NDArray[np.complex128], speed: FloatArray
) -> NDArray[np.complex128]:
    """Each draw's row of a table over speed, read off at that draw's own speed."""
    grid = belief.draws.grid_rpm
    at = np.clip(np.searchsorted(grid, speed) - 1, 0, len(grid) - 2)
    share = (speed - grid[at]) / (grid[at + 1] - grid[at])
    row = np.arange(len(speed))
    return np.asarray((1 - share) * table[row, at] + share * table[row, at + 1], dtype=np.complex128)


def _band(values: FloatArray, model_error: float) -> Band:
    low, middle, high = np.percentile(values, (5, 50, 95))
    own = _Z90 * model_error * middle
    return Band(
        float(max(0.0, middle - np.hypot(middle - low, own))), float(middle + np.hypot(high - middle, own))
    )


def sampled(nominal: float, tolerance: float, draws: int, seed: int) -> FloatArray:
    """Values a part within its tolerance may really have, evenly spread.

    Parameters
    ----------
    nominal : float
        Nominal value [any]
    tolerance : float
        Half width of the tolerance, relative [-]
    draws : int
        How many [-]
    seed : int
        Seed, one for each part so that parts vary independently [-]

    Returns
    -------
    array
        Values of shape (draws,) [any]

    Raises
    ------
    InputError
        Tolerance outside 0 to 0.9.
    """
    check_range("tolerance", tolerance, 0.0, 0.9, "")
    return np.asarray(nominal * (1 + tolerance * np.random.default_rng(seed).uniform(-1, 1, draws)))
