"""Predictions with their band: the likeliest motor's value, and where nine in ten of the draws fall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.datum import AWAY
from fenwit.core.calibrate.fit import Belief
from fenwit.core.errors import check_range
from fenwit.core.motor.machine import ENCLOSED_MOTOR, OPEN_MOTOR
from fenwit.core.operating import Machined, Scan, Source, scan, voltage_limit_v

FloatArray = NDArray[np.float64]
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
    may_exceed: float
    """Share of the draws that would get more than the allowed motor volts [-]"""
    middle_speed_rpm: float = 0.0
    """Half of the draws that run lie above [rpm]"""
    rise: Band = Band(0.0, 0.0)
    """Winding's rise over that at full speed [-]"""
    start_margin: Band = Band(0.0, 0.0)
    """Torque at rest over break-away torque, of all draws [-]"""
    extinction_deg: Band | None = None
    """Where the current ends behind a triac; None where there is none [°]"""


@dataclass(frozen=True)
class Drawn:
    """Where every draw of a belief runs behind what stands in its line; arrays of shape (steps, draws)."""

    found: Scan
    impedance_ohm: NDArray[np.complex128]
    motor_loss_w: FloatArray
    over: NDArray[np.bool_]
    """Gets too many volts: outside the model"""
    start_margin: FloatArray
    """Torque at rest over break-away torque [-]"""

    @property
    def motor_power_w(self) -> FloatArray:
        """Input of the motor alone [W]"""
        return np.asarray(self.found.motor_voltage_v**2 * self.found.admittance_s.real)

    @property
    def line_current_a(self) -> FloatArray:
        """Through the motor and what stands in its line [A]"""
        return np.asarray(self.found.motor_voltage_v * np.abs(self.found.admittance_s))

    def bands(self, belief: Belief) -> tuple[StepBands, ...]:
        """Bands of every step, the model's own error included."""
        amps = self.line_current_a
        values = np.stack(
            [
                self.found.speed_rpm,
                self.found.motor_voltage_v,
                amps,
                self.motor_power_w + amps**2 * self.impedance_ohm.real,
                self.motor_loss_w,
            ]
        )
        return joined(belief, values, self.found.runs, self.over, self.start_margin)


def drawn(
    belief: Belief,
    supply: Source,
    impedance_ohm: Sequence[complex | NDArray[np.complex128]],
    open_v: Sequence[float] | None = None,
    table: Machined | None = None,
) -> Drawn:
    """Let every draw run at several steps.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply without the regulator [-]
    impedance_ohm : sequence of complex or array
        What stands in the line at each step; an array of shape (draws,) where parts are sampled [Ω]
    open_v : sequence of float, optional
        Open volts of each step, where it is a source of its own; else the supply's [V]
    table : Machined, optional
        The draws as another machine, like the same motors on a tap; else as they are [-]

    Returns
    -------
    Drawn
        Arrays of shape (steps, draws) [-]
    """
    shape = (belief.draws_kept,)
    z = np.stack([np.broadcast_to(np.asarray(v, dtype=np.complex128), shape) for v in impedance_ohm])
    volts = np.asarray(supply.voltage_v if open_v is None else open_v, dtype=np.float64).reshape(-1, 1)
    draws = belief.draws if table is None else table
    found = scan(draws, np.broadcast_to(volts, z.shape), z)
    response = draws.response
    loss = found.motor_voltage_v**2 * found.read_off(response.rotor_loss_w + response.winding_loss_w)
    # A motor that would get too many volts is outside the model: it is counted, but gives no speed.
    over = found.runs & (found.motor_voltage_v > voltage_limit_v(belief.datum, supply.frequency_hz))
    y_rest, torque_rest = response.admittance_s[:, 0], response.torque_nm[:, 0]
    margin = torque_rest * np.abs(volts / (1 + z * y_rest)) ** 2 / draws.break_away_nm
    return Drawn(found, z, loss, over, np.asarray(margin, dtype=np.float64))


def step_bands(
    belief: Belief, supply: Source, impedance_ohm: Sequence[complex | NDArray[np.complex128]]
) -> tuple[StepBands, ...]:
    """Bands of several steps from the belief's draws and the parts' tolerances.

    The spread of the draws is joined in quadrature with the model's own error, which grows from nothing at the
    datum (it was measured there) to the model's own where the motor has an eighth of its volts taken away.

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
    return drawn(belief, supply, impedance_ohm).bands(belief)


def joined(
    belief: Belief,
    values: FloatArray,
    runs: NDArray[np.bool_],
    over: NDArray[np.bool_],
    start_margin: FloatArray,
) -> tuple[StepBands, ...]:
    """Bands from what every draw gives, the model's own error included.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    values : array
        Speed, motor volts, line amps, watts and motor heat, shape (5, steps, draws) [any]
    runs : array
        Which draws run, shape (steps, draws) [-]
    over : array
        Which of them get too many volts, shape (steps, draws) [-]
    start_margin : array
        Torque at rest over break-away torque, shape (steps, draws) [-]

    Returns
    -------
    tuple of StepBands
        One for each step [-]
    """
    low, middle, high = percentiles(values, runs & ~over)
    away = np.minimum(1.0, AWAY * np.abs(1 - middle[1] / belief.supply.voltage_v))
    # Watts go with the square of what volts and amps go with.
    own = _Z90 * belief.model.speed_error * away * np.array([1, 1, 1, 2, 2])[:, None] * middle
    low = np.maximum(0.0, middle - np.hypot(middle - low, own))
    high = middle + np.hypot(high - middle, own)
    share = np.maximum(values[0], 1e-3) / belief.full_speed_draws_rpm[: values.shape[-1]]
    rise = values[4] / belief.full_loss_draws_w[: values.shape[-1]] / share**OPEN_MOTOR
    # Cooling is an estimate too: its exponent lies between that of an enclosed and of an open motor.
    coolest = values[4] / belief.full_loss_draws_w[: values.shape[-1]] / share**ENCLOSED_MOTOR
    least, most = percentiles(coolest, runs & ~over)[0], percentiles(rise, runs & ~over)[2]
    slow, _, fast = percentiles(start_margin, np.ones_like(runs))
    stalled, too_much = 1 - runs.mean(axis=-1), over.mean(axis=-1)
    bands = []
    for i in range(len(runs)):
        mine = [Band(float(a), float(b)) for a, b in zip(low[:, i], high[:, i], strict=True)]
        speed, motor, line, power, heat = mine if stalled[i] + too_much[i] <= 0.75 else [_NONE] * 5
        half = float(middle[0, i]) if speed is not _NONE else 0.0
        bands.append(
            StepBands(
                speed, motor, line, power, heat, float(stalled[i]), float(too_much[i]), half,
                _NONE if speed is _NONE else Band(float(least[i]), float(max(most[i], least[i]))),
                Band(float(slow[i]), float(fast[i])),
            )
        )  # fmt: skip
    return tuple(bands)


_NONE = Band(0.0, 0.0)


def percentiles(values: FloatArray, counted: NDArray[np.bool_]) -> FloatArray:
    """Percentiles 5, 50 and 95 along the last axis, over the entries that count.

    Parameters
    ----------
    values : array
        Values, shape (…, draws) [any]
    counted : array
        Which entries count; broadcasts with ``values`` [-]

    Returns
    -------
    array
        Shape (3, …); 0 where none counts [any]
    """
    rows = np.sort(np.where(counted, values, np.inf), axis=-1)
    last = np.maximum(counted.sum(axis=-1) - 1, 0)
    found = []
    for share in (0.05, 0.50, 0.95):
        at = np.broadcast_to(share * last, values.shape[:-1])
        below = np.floor(at).astype(np.int64)
        above = np.minimum(below + 1, last)
        lower = np.take_along_axis(rows, below[..., None], -1)[..., 0]
        upper = np.take_along_axis(rows, above[..., None], -1)[..., 0]
        lower, upper = (np.where(np.isfinite(v), v, 0.0) for v in (lower, upper))
        found.append(lower + (at - below) * (upper - lower))
    return np.stack(found)


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
