"""From a logic output to 0–10 V: one or two stages of R and C, then an amplifier; exact in time (docs/ec.md).

Stages load one another, the last one feeds a load; x' = A x + b u is linear with real rates, so that the state at
switch-on repeats as z = c (1 − e^(λ d T)) e^(λ (1 − d) T)/(1 − e^(λ T)) in its modes, c = S⁻¹ (−A⁻¹ b) V.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
_OHM, _FARAD = (1e-1, 1e10), (1e-15, 1e-1)
LEFT = 0.01
"""Within so much of its end it counts as settled [-]"""


@dataclass(frozen=True)
class Filter:
    """A pulsed output made steady."""

    amplitude_v: float
    frequency_hz: float
    resistance_ohm: float
    capacitance_f: float
    duty: float = 0.5
    stages: int = 1
    load_ohm: float | None = None
    gain: float = 1.0

    def __post_init__(self) -> None:
        check_range("amplitude_v", self.amplitude_v, 1e-6, 1e4, "V")
        check_range("frequency_hz", self.frequency_hz, 1e-3, 1e9, "Hz")
        check_range("resistance_ohm", self.resistance_ohm, 1e-3, 1e12, "Ω")
        check_range("capacitance_f", self.capacitance_f, 1e-15, 10.0, "F")
        if not 0 < self.duty < 1:
            raise InputError(
                "duty", self.duty, "above 0, below 1", "a steady level has neither ripple nor pulses"
            )
        if self.stages not in (1, 2):
            raise InputError("stages", self.stages, "1 or 2", "more than two stages are not reckoned here")
        if self.load_ohm is not None:
            check_range("load_resistance_ohm", self.load_ohm, 1e-3, 1e12, "Ω")
        check_range("gain", self.gain, 1e-3, 1e3, "")

    @cached_property
    def _modes(self) -> tuple[FloatArray, FloatArray]:
        """Rates [1/s], and what each mode adds to the last capacitor as a share of its end after a step [-]."""
        rc = self.resistance_ohm * self.capacitance_f
        loaded = 0.0 if self.load_ohm is None else self.resistance_ohm / self.load_ohm
        if self.stages == 1:
            a = np.array([[-(1 + loaded)]])
            b = np.array([1.0])
        else:
            a = np.array([[-2.0, 1.0], [1.0, -(1 + loaded)]])
            b = np.array([1.0, 0.0])
        rates, s = np.linalg.eigh(a)
        end = np.linalg.solve(-a, b)
        return rates / rc, s[-1] * (s.T @ end)

    @property
    def end_v(self) -> float:
        """Where the output settles with the pulses always high [V]"""
        return float(self._modes[1].sum()) * self.amplitude_v * self.gain

    @property
    def mean_v(self) -> float:
        """Behind the amplifier [V]"""
        return self.end_v * self.duty

    @property
    def ripple_v(self) -> float:
        """From the least to the most of a period, behind the amplifier [V]"""
        rates, share = self._modes
        period, d = 1 / self.frequency_hz, self.duty
        c = share * self.amplitude_v * self.gain
        # Expm1 keeps the digits of a filter that is slow against its pulses.
        start = (
            c * -np.expm1(rates * d * period) * np.exp(rates * (1 - d) * period) / -np.expm1(rates * period)
        )
        top = start * np.exp(rates * d * period) - c * np.expm1(rates * d * period)
        seen = [start.sum(), top.sum()]
        if len(rates) == 2:
            # High: c + (start − c) e^(λt); low: top e^(λt). Two exponentials turn at one place at most.
            for amount, base, length in ((start - c, c.sum(), d * period), (top, 0.0, (1 - d) * period)):
                bent = -amount[1] * rates[1] / (amount[0] * rates[0]) if amount[0] else 0.0
                if bent > 0:
                    t = math.log(bent) / (rates[0] - rates[1])
                    if 0 < t < length:
                        seen.append(base + float((amount * np.exp(rates * t)).sum()))
        return float(max(seen) - min(seen))

    @property
    def ripple_small_v(self) -> float | None:
        """V d(1 − d) T/τ of one unloaded stage; None where there is another [V]"""
        if self.stages != 1 or self.load_ohm is not None:
            return None
        tau = self.resistance_ohm * self.capacitance_f
        return self.amplitude_v * self.gain * self.duty * (1 - self.duty) / self.frequency_hz / tau

    def settling_s(self, left: float = LEFT) -> float:
        """Time after a step until the output stays within a share of its end [- → s]"""
        check_range("settle_to", left, 1e-9, 0.5, "")
        rates, share = self._modes
        if len(rates) == 1:
            return math.log(1 / left) / -float(rates[0])
        whole = share / share.sum()

        def off(t: float) -> float:
            return float((whole * np.exp(rates * t)).sum()) - left

        most = 2 * math.log(2 / left) / -float(rates.max())
        return float(brentq(off, 0.0, most, xtol=1e-15, rtol=1e-13))


def _solved(ripple_v: float, made: Callable[[float], Filter], ends: tuple[float, float]) -> Filter:
    low, high = math.log(ends[0]), math.log(ends[1])
    most, least = made(ends[0]).ripple_v, made(ends[1]).ripple_v
    if not least < ripple_v < most:
        raise InputError(
            "ripple_v",
            ripple_v,
            f"above 0, below {most:.4g} V",
            "no filter of these pulses ripples like that",
        )
    found = brentq(
        lambda x: math.log(made(math.exp(x)).ripple_v / ripple_v), low, high, xtol=1e-13, rtol=1e-14
    )
    return made(math.exp(float(found)))


def capacitor_for(ripple_v: float, known: Filter) -> Filter:
    """The filter with the capacitors that leave a ripple [V]; raises InputError where none does."""
    return _solved(ripple_v, lambda c: replace(known, capacitance_f=c), _FARAD)


def resistor_for(ripple_v: float, known: Filter) -> Filter:
    """The filter with the resistors that leave a ripple [V]; raises InputError where none does."""
    return _solved(ripple_v, lambda r: replace(known, resistance_ohm=r), _OHM)
