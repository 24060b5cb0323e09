"""How far each step may stray, and which of parts, mains and motor lets it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band, percentiles
from fenwit.core.calibrate.fit import Belief
from fenwit.core.errors import check_range
from fenwit.core.operating import Source, scan, tabulate, voltage_limit_v

FloatArray = NDArray[np.float64]


_LEVELS, _PART_DRAWS, _SPEEDS = 31, 100, 72


class Cause(StrEnum):
    """What may be other than stated."""

    PARTS = "parts"
    MAINS = "mains"
    MOTOR = "motor"


@dataclass(frozen=True)
class Spread:
    """Bands of one step's speed: with everything free, and with only one thing free."""

    together: Band
    alone: dict[Cause, Band]
    stops: float
    """Share of the cases, everything free, in which the fan does not start or hold the step [-]"""
    exceeds: float
    """Share of the cases in which the motor would get too many volts; they are not in the bands [-]"""

    @property
    def widest(self) -> Cause:
        """The cause that alone makes the widest band."""
        return max(self.alone, key=lambda c: self.alone[c].half_width)


def spreads(
    belief: Belief,
    supply: Source,
    nominal_ohm: Sequence[complex],
    sampled_ohm: Sequence[NDArray[np.complex128]],
    mains: float,
    open_v: Sequence[float] | None = None,
) -> tuple[Spread, ...]:
    """Sample parts, mains and motor, each alone and all together.

    Parameters
    ----------
    belief : Belief
        The fan with its cloud of motors [-]
    supply : Source
        Supply as stated [-]
    nominal_ohm : sequence of complex
        Impedance of each step with the parts as stated [Ω]
    sampled_ohm : sequence of array
        Impedance of each step with sampled parts, shape (draws,) or () where nothing varies [Ω]
    mains : float
        How far the mains may be off either way, evenly spread [-]
    open_v : sequence of float, optional
        Open volts of each step on the stated mains, where it is a source of its own; else the supply's [V]

    Returns
    -------
    tuple of Spread
        One for each step; a cause that cannot matter has a band of no width [-]

    Raises
    ------
    InputError
        Mains outside 0 to 0.3.
    """
    check_range("mains", mains, 0.0, 0.3, "")
    if not nominal_ohm:
        return ()
    draws = belief.draws_kept
    shape = (len(nominal_ohm), draws)
    fixed = np.broadcast_to(np.array(nominal_ohm, dtype=np.complex128)[:, None], shape)
    free = np.stack([np.broadcast_to(z, (draws,)) for z in sampled_ohm]).astype(np.complex128)
    level = 1 + mains * np.random.default_rng(77).uniform(-1, 1, draws)
    stated = np.broadcast_to(
        np.asarray(supply.voltage_v if open_v is None else open_v, dtype=np.float64), len(nominal_ohm)
    )[:, None]
    volts = stated * level
    # Mains alone need no chance: evenly spread levels have the same percentiles, with fewer of them.
    even = 1 + mains * np.linspace(-1, 1, _LEVELS)
    evenly = stated * even
    likeliest = tabulate(belief.motor, belief.load, supply.frequency_hz, _SPEEDS).lean()
    found = {
        Cause.PARTS: scan(
            likeliest, np.broadcast_to(stated, (len(free), _PART_DRAWS)), free[:, :_PART_DRAWS]
        ),
        Cause.MAINS: scan(likeliest, evenly, fixed[:, :_LEVELS]),
        Cause.MOTOR: scan(belief.draws, np.broadcast_to(stated, shape), fixed),
    }
    both = scan(belief.draws, volts, free)
    limit = voltage_limit_v(belief.datum, supply.frequency_hz)
    within = {
        cause: s.runs & (s.motor_voltage_v <= limit * (even if cause is Cause.MAINS else 1.0))
        for cause, s in found.items()
    }
    bands = {cause: percentiles(s.speed_rpm, within[cause]) for cause, s in found.items()}
    allowed = both.runs & (both.motor_voltage_v <= limit * level)
    together = percentiles(both.speed_rpm, allowed)
    return tuple(
        Spread(
            Band(float(together[0, i]), float(together[2, i])),
            {cause: Band(float(b[0, i]), float(b[2, i])) for cause, b in bands.items()},
            float(1 - both.runs[i].mean()),
            float((both.runs[i] & ~allowed[i]).mean()),
        )
        for i in range(len(nominal_ohm))
    )
