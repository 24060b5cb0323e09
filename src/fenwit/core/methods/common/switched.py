"""What runs through a regulator on a switch, and what fuse, contacts and wire bear of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError
from fenwit.core.operating import Source
from fenwit.core.size.classes import FUSE_FACTOR, FUSE_MELTING, FUSES_A, PartClass, next_fuse
from fenwit.core.size.rated import (
    MAINS,
    WIRE_A,
    WIRE_V,
    Burden,
    Moment,
    RatedKind,
    RatedPart,
    Stress,
    judged,
)
from fenwit.core.size.switch import Switch

FloatArray = NDArray[np.float64]
_MOMENTS = (Moment.RUNNING, Moment.AT_REST)
FUSE_V = 250.0


@dataclass(frozen=True, eq=False)
class Line:
    """What runs in the line: running and held fast, for each of `MAINS`, at each step."""

    line_a: FloatArray
    """Shape (2, mains, steps); 0 where the fan does not run [A]"""

    def worst(self, burden: Burden, values: FloatArray, rating: FloatArray | float) -> Stress:
        """Where a burden comes nearest to its limit; arrays begin like `line_a`."""
        limits = np.broadcast_to(np.asarray(rating, dtype=float), values.shape)
        # What carries nothing any more is passed by any watt.
        share = np.divide(values, limits, out=np.where(values > 0, np.inf, 0.0), where=limits > 0)
        moment, mains, step = (int(i) for i in np.unravel_index(int(np.argmax(share)), values.shape))
        value = float(values[moment, mains, step])
        limit = max(float(limits[moment, mains, step]), 1e-9)
        if value <= 0:
            return Stress(burden, 0.0, limit, "", 1.0, Moment.RUNNING)
        return Stress(burden, value, limit, str(step + 1), MAINS[mains], _MOMENTS[moment])

    def running(self, burden: Burden, rating: float) -> Stress:
        """Where the running amps come nearest to a limit."""
        return self.worst(burden, self.line_a[:1], rating)

    @property
    def most_a(self) -> float:
        """Most running amps [A]"""
        return float(self.line_a[0].max())

    def rush_i2t(self, supply: Source) -> float:
        """I²t of the first period with the motor at rest, fully offset: ∫ (Î(1 − cos ωt))² dt = 3 I² / f [A²s]"""
        return float(3 * self.line_a[1].max() ** 2 / supply.frequency_hz)


def fuse_for(running_a: float, i2t_a2s: float, share: float = 1.0) -> float:
    """The smallest fuse that carries the worst running amps and bears the first rush.

    Parameters
    ----------
    running_a : float
        Worst running amps [A]
    i2t_a2s : float
        Of the first rush [A²s]
    share : float
        Of its melting I²t that the rush may have [-]

    Returns
    -------
    float
        Standard rating [A]

    Raises
    ------
    InputError
        More than the largest standard fuse.
    """
    needed = FUSE_FACTOR * running_a
    holds = float(np.sqrt(i2t_a2s / (share * FUSE_MELTING)))
    if max(needed, holds) > FUSES_A[-1]:
        raise InputError("fuse", needed, f"up to {FUSES_A[-1]:g} A", "no fuse of this kind is large enough")
    return next_fuse(max(needed, holds))


def fuse_part(line: Line, fuse_a: float, by_hand: bool, i2t_a2s: float, share: float = 1.0) -> RatedPart:
    """The fuse in the line with its amps and what the first rush leaves of its melting I²t.

    Parameters
    ----------
    line : Line
        Amps through it [-]
    fuse_a : float
        Rated amps [A]
    by_hand : bool
        Whether somebody set it [-]
    i2t_a2s : float
        Of the first rush [A²s]
    share : float
        Of its melting I²t that the rush may have [-]

    Returns
    -------
    RatedPart
        The fuse, judged [-]
    """
    rush = Stress(
        Burden.MELTING,
        i2t_a2s,
        share * FUSE_MELTING * fuse_a**2,
        f"Off to {1 + int(line.line_a[1].max(axis=0).argmax())}",
        MAINS[-1],
        Moment.SWITCHING,
        passage=True,
    )
    amps = line.running(Burden.AMPS, fuse_a / FUSE_FACTOR)
    return judged(
        RatedPart(
            "F",
            RatedKind.FUSE,
            "",
            PartClass.FUSE,
            fuse_a,
            1,
            FUSE_V,
            (amps, rush),
            limit=FUSE_FACTOR * line.most_a,
            by_hand=by_hand,
        )
    )


def switch_part(line: Line, supply: Source, switch: Switch, open_v: float | None = None) -> RatedPart:
    """The switch: running amps, the crest it closes on, and the volts it holds open."""
    crest = 2 * np.sqrt(2) * line.line_a[1]
    step = int(crest.max(axis=0).argmax()) + 1
    return judged(
        RatedPart(
            "S",
            RatedKind.SWITCH,
            "",
            PartClass.SWITCH,
            float(switch.positions),
            1,
            switch.rated_voltage_v,
            (
                line.running(Burden.AMPS, switch.rated_current_a),
                Stress(
                    Burden.PEAK, float(crest.max()), switch.make_current_a, f"Off to {step}", MAINS[-1],
                    Moment.SWITCHING, passage=True,
                ),
                Stress(
                    # Contacts are rated for nominal mains: what they hold open is weighed on the stated ones.
                    Burden.VOLTS, open_v or supply.voltage_v, switch.rated_voltage_v, "Off", 1.0, Moment.AT_REST
                ),
            ),
        )
    )  # fmt: skip


def wire_part(line: Line, supply: Source, *more: Stress) -> RatedPart:
    """The wire inside the regulator, with what else it bears."""
    volts = Stress(Burden.VOLTS, MAINS[-1] * supply.voltage_v, WIRE_V, "Off", MAINS[-1], Moment.AT_REST)
    return judged(
        RatedPart(
            "W", RatedKind.WIRE, "", None, 0.0, 1, WIRE_V, (line.running(Burden.AMPS, WIRE_A), volts, *more)
        )
    )  # fmt: skip
