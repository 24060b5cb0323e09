"""Where a control voltage comes from: a knob on the fan's own 10 V, its end stops, one source for many fans (docs/ec.md).

A potentiometer R loaded by an input Z gives V = V_ref x/(1 + x(1 − x) R/Z): x R in parallel with Z, below (1 − x) R.
No input resistance (None): the input takes nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range
from fenwit.core.quantity import preferred

FloatArray = NDArray[np.float64]
REFERENCE_V = 10.0
REFERENCE_A = 0.010
"""What a fan's 10 V output gives, while nobody read it [A]"""
INPUT_OHM = 100e3
"""Of a fan's 0–10 V input, while nobody read it [Ω]"""
_PARTS = (1e-3, 1e12)


def _beside(ohm: Any, input_ohm: float | None) -> Any:
    """In parallel with the input."""
    return ohm if input_ohm is None else ohm * input_ohm / (ohm + input_ohm)


@dataclass(frozen=True)
class Knob:
    """A potentiometer between a reference and 0 V, with fixed resistors at its ends, before one input."""

    pot_ohm: float
    top_ohm: float = 0.0
    """Towards the reference [Ω]"""
    bottom_ohm: float = 0.0
    """Towards 0 V [Ω]"""
    input_ohm: float | None = None
    reference_v: float = REFERENCE_V

    def __post_init__(self) -> None:
        check_range("pot_ohm", self.pot_ohm, *_PARTS, "Ω")
        check_range("top_ohm", self.top_ohm, 0.0, _PARTS[1], "Ω")
        check_range("bottom_ohm", self.bottom_ohm, 0.0, _PARTS[1], "Ω")
        check_range("reference_voltage_v", self.reference_v, 1e-3, 1000.0, "V")
        if self.input_ohm is not None:
            check_range("input_resistance_ohm", self.input_ohm, *_PARTS, "Ω")

    def volts(self, travel: FloatArray) -> FloatArray:
        """At the wiper, over the travel from the slow end, any shape [- → V]"""
        x = np.asarray(check_range("travel", np.asarray(travel, float), 0.0, 1.0, ""))
        below = _beside(self.bottom_ohm + x * self.pot_ohm, self.input_ohm)
        return np.asarray(self.reference_v * below / (below + self.top_ohm + (1 - x) * self.pot_ohm))

    def reference_a(self, travel: float) -> float:
        """What the reference gives at a travel [- → A]"""
        below = _beside(self.bottom_ohm + travel * self.pot_ohm, self.input_ohm)
        return float(self.reference_v / (below + self.top_ohm + (1 - travel) * self.pot_ohm))

    def travel_for(self, voltage_v: float) -> float:
        """Travel at which the wiper stands at some volts.

        Parameters
        ----------
        voltage_v : float
            Wanted [V]

        Returns
        -------
        float
            Travel from the slow end [-]

        Raises
        ------
        InputError
            Volts beyond the ends of its turn.
        """
        low, high = self.volts(np.array([0.0, 1.0]))
        if not low * (1 - 1e-12) <= voltage_v <= high * (1 + 1e-12):
            raise InputError(
                "voltage_v", voltage_v, f"{low:.4g} to {high:.4g} V", "beyond the ends of its turn"
            )
        # With u ohms below the wiper and w = top + pot + bottom in all: V (u ∥ Z + w − u) = V_ref (u ∥ Z).
        w, v, ref = self.top_ohm + self.pot_ohm + self.bottom_ohm, voltage_v / self.reference_v, 1.0
        if self.input_ohm is None:
            u = v * w
        else:
            # V (u Z + (w − u)(u + Z)) = V_ref u Z  →  v u² + (1 − v w/Z) Z u − v w Z = 0
            b = self.input_ohm * ref - v * w
            u = 2 * v * w * self.input_ohm / (b + math.sqrt(b * b + 4 * v * v * w * self.input_ohm))
        return min(1.0, max(0.0, (u - self.bottom_ohm) / self.pot_ohm))


def input_for_ohm(pot_ohm: float, travel: float, voltage_v: float, reference_v: float = REFERENCE_V) -> float:
    """Resistance of the input that pulls a wiper to some volts [Ω, -, V, V → Ω]; raises InputError where none does."""
    free = reference_v * travel
    if not 0 < travel < 1:
        raise InputError("travel", travel, "between 0 and 1", "at its ends an input does not move the wiper")
    if not 0 < voltage_v < free:
        raise InputError(
            "voltage_v", voltage_v, f"above 0, below {free:.4g} V", "an input only pulls the wiper down"
        )
    return travel * (1 - travel) * pot_ohm * voltage_v / (free - voltage_v)


def end_stops(low_v: float, high_v: float, knob: Knob) -> Knob:
    """The knob with resistors at its ends so that its whole turn covers some volts.

    Parameters
    ----------
    low_v : float
        At the slow end [V]
    high_v : float
        At the fast end [V]
    knob : Knob
        Potentiometer, input and reference; what stands at its ends is not looked at [-]

    Returns
    -------
    Knob
        With the exact resistors [-]

    Raises
    ------
    InputError
        Ends the wrong way round, above the reference, or that this pot cannot reach before this input.
    """
    ref, pot, z = knob.reference_v, knob.pot_ohm, knob.input_ohm
    check_range("low_voltage_v", low_v, 0.0, 1000.0, "V")
    if not low_v < high_v <= ref:
        reason = "not above the low end" if high_v <= low_v else "more than the reference gives"
        raise InputError("high_voltage_v", high_v, f"above {low_v:g}, up to {ref:g} V", reason)
    if z is None:
        return Knob(pot, pot * (ref - high_v) / (high_v - low_v), pot * low_v / (high_v - low_v), None, ref)

    def top(bottom: float) -> float:
        return float(_beside(bottom + pot, z)) * (ref / high_v - 1)

    def over(bottom: float) -> float:
        below = float(_beside(bottom, z))
        return ref * below - low_v * (below + pot + top(bottom))

    if low_v == 0:
        return Knob(pot, top(0.0), 0.0, z, ref)
    most = 1e3 * (pot + z) * max(1.0, low_v / (high_v - low_v))
    if over(most) <= 0:
        reach = ref * z / (pot + z * ref / high_v)
        raise InputError(
            "low_voltage_v", low_v, f"below {reach:.4g} V",
            "the input takes too much: before it this pot reaches no such low end; a smaller pot",
        )  # fmt: skip
    bottom = float(brentq(over, 0.0, most, xtol=1e-9, rtol=1e-14))
    return Knob(pot, top(bottom), bottom, z, ref)


def preferred_stops(low_v: float, high_v: float, knob: Knob) -> Knob:
    """Likewise, with 0 Ω or E24 values: of all pairs the one whose larger miss of the two ends is least.

    Parameters
    ----------
    low_v : float
        At the slow end [V]
    high_v : float
        At the fast end [V]
    knob : Knob
        Potentiometer, input and reference [-]

    Returns
    -------
    Knob
        With resistors that can be bought [-]

    Raises
    ------
    InputError
        As `end_stops`.
    """
    end_stops(low_v, high_v, knob)
    values = np.concatenate([[0.0], preferred("E24", 10.0, 910e3)])
    top, bottom = values[:, None], values[None, :]
    pot, z, ref = knob.pot_ohm, knob.input_ohm, knob.reference_v
    slow, fast = _beside(bottom, z), _beside(bottom + pot, z)
    low = ref * slow / (slow + pot + top)
    high = ref * fast / (fast + top)
    miss = np.maximum(np.abs(low - low_v), np.abs(high - high_v))
    i, j = np.unravel_index(int(np.argmin(miss)), miss.shape)
    return Knob(pot, float(values[i]), float(values[j]), z, ref)


# ---------------------------------------------------------------- one source, many inputs


@dataclass(frozen=True)
class Chain:
    """One source and N inputs along a two-wire line, as it is looped from fan to fan."""

    inputs_ohm: tuple[float, ...]
    source_v: float = REFERENCE_V
    source_ohm: float = 0.0
    signal_ohm: float = 0.0
    """Of one stretch of the signal wire [Ω]"""
    ground_ohm: float = 0.0
    """Of one stretch of the 0 V wire [Ω]"""
    ground_a: float = 0.0
    """Other current that each fan returns through the same 0 V [A]"""
    apart: bool = False
    """Whether each fan has a pair of wires of its own [-]"""

    def __post_init__(self) -> None:
        check_range("fans", len(self.inputs_ohm), 1, 200, "")
        check_range("input_resistance_ohm", np.array(self.inputs_ohm), *_PARTS, "Ω")
        check_range("source_voltage_v", self.source_v, 0.0, 1000.0, "V")
        check_range("source_resistance_ohm", self.source_ohm, 0.0, 1e9, "Ω")
        check_range("signal_segment_ohm", self.signal_ohm, 0.0, 1e6, "Ω")
        check_range("ground_segment_ohm", self.ground_ohm, 0.0, 1e6, "Ω")
        check_range("ground_current_a", self.ground_a, -100.0, 100.0, "A")


@dataclass(frozen=True)
class Handed:
    """What arrives along a line."""

    inputs_v: tuple[float, ...]
    """At each fan against its own 0 V, the nearest first [V]"""
    grounds_v: tuple[float, ...]
    """Each fan's 0 V above the source's [V]"""
    source_a: float


def handed_on(chain: Chain) -> Handed:
    """Volts at every input of a line: (1 + (R_src J + (r_s + r_g) M)/Z) v = V_src − r_g i_g M 1, M_ki = min(k, i)."""
    n = len(chain.inputs_ohm)
    order = np.arange(1, n + 1)
    shared = np.eye(n) if chain.apart else np.minimum(order[:, None], order[None, :]).astype(float)
    per_amp = chain.source_ohm + (chain.signal_ohm + chain.ground_ohm) * shared
    z = np.array(chain.inputs_ohm)
    right = chain.source_v - chain.ground_ohm * chain.ground_a * shared.sum(axis=1)
    volts = np.linalg.solve(np.eye(n) + per_amp / z[None, :], right)
    grounds = chain.ground_ohm * shared @ (chain.ground_a + volts / z)
    return Handed(tuple(map(float, volts)), tuple(map(float, grounds)), float((volts / z).sum()))
