"""A believed fan with what is computed once for it, and a rated bank with what is computed once for that."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from threading import RLock

import numpy as np

from fenwit.core.calibrate.bands import StepBands, sampled, step_bands
from fenwit.core.calibrate.fit import Belief, Datum, believe
from fenwit.core.calibrate.leads import remembered
from fenwit.core.circuit.network import ComplexArray
from fenwit.core.errors import InputError
from fenwit.core.frame.findings import lead_sheet
from fenwit.core.frame.shown import CurveBand
from fenwit.core.frame.state import JobState, datum_of
from fenwit.core.motor.kinds import Answer, Method, answer_for
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, OperatingPoint, Solution, Source, solve
from fenwit.core.regulator.series import (
    HandEstimate,
    Inverse,
    SpeedCurve,
    capacitor_impedance,
    inverse_and_hand,
    speed_curve,
)
from fenwit.core.size.bank import BankDesign, pattern_capacitance_f
from fenwit.core.size.rating import Rated, rate

_CURVE_BAND_POINTS = 26
METHOD_NAMES = {Method.SERIES_CAPACITOR: "a series capacitor", Method.PHASE_ANGLE: "phase angle"}


@dataclass(frozen=True, eq=False)
class Aimed:
    """The capacitor that gives a wanted speed, the pencil's guess at it, and the band of the step."""

    needed: Inverse
    hand: HandEstimate | None
    impedance_ohm: complex
    bands: StepBands | None


@dataclass(frozen=True, eq=False)
class Fired:
    """A fan at one firing angle of a triac."""

    firing_deg: float
    solution: Solution
    bands: StepBands


_REMEMBERED = 2000


@dataclass(frozen=True, eq=False)
class Fan:
    """A believed fan on its supply."""

    belief: Belief
    supply: Source
    direct: Solution
    direct_bands: StepBands
    curve: SpeedCurve
    curve_band: tuple[CurveBand, ...]
    _aimed: dict[float, Aimed] = field(default_factory=dict)
    fired: dict[tuple[float, bool], Fired] = field(default_factory=dict)
    """By firing angle, and whether it comes down from full speed [°]"""
    fired_for: dict[tuple[float, bool], float | None] = field(default_factory=dict)
    """Firing angle by wanted speed, and whether it comes down from full speed [rpm → °]"""
    lock: RLock = field(default_factory=RLock)
    """Held while a triac is solved for it: of two that ask at once the second finds it done"""

    def aimed(self, speeds_rpm: Sequence[float]) -> dict[float, Aimed]:
        """What each wanted speed below full speed asks for.

        Remembered: while one notch is dragged the other steps stay as they are.
        """
        new = [w for w in speeds_rpm if w not in self._aimed]
        if new:
            if len(self._aimed) > _REMEMBERED:
                self._aimed.clear()
            supply, belief = self.supply, self.belief
            found = inverse_and_hand(belief.motor, belief.load, supply, new, self.curve, self.direct.running)
            z = [
                complex(capacitor_impedance(i.value, supply.frequency_hz)) if i.value else 0j
                for i, _ in found
            ]
            bands = step_bands(belief, supply, z)
            for w, (inverse, hand), impedance, band in zip(new, found, z, bands, strict=True):
                self._aimed[w] = Aimed(inverse, hand, impedance, band if inverse.value else None)
        return {w: self._aimed[w] for w in speeds_rpm}

    def barred_at(self, capacitance_f: float) -> bool:
        """Whether a series capacitance lies where it resonates, on the stated or on high mains."""
        curve = self.curve
        right = int(
            np.clip(np.searchsorted(curve.capacitance_f, capacitance_f), 1, len(curve.capacitance_f) - 1)
        )
        return bool(curve.barred[right] or curve.barred[right - 1])

    @property
    def full(self) -> OperatingPoint:
        """Running with nothing in the line."""
        point = self.direct.running
        if point is None:
            raise InputError(
                "supply_voltage_v",
                self.supply.voltage_v,
                "volts at which the fan starts",
                "the fan would not start on this supply; check rated volts, supply volts and rpm",
            )
        return point

    @property
    def motor_limit_v(self) -> float:
        """Most volts the motor may get [V]"""
        return MOTOR_VOLTAGE_LIMIT * self.belief.motor.rated_voltage_v

    @property
    def direct_speed_rpm(self) -> float | None:
        """Full speed, where the motor may stand on the supply directly [rpm]"""
        return self.full.speed_rpm if self.full.motor_voltage_v <= self.motor_limit_v else None


@lru_cache(maxsize=512)
def fan_of(datum: Datum, supply: Source) -> Fan:
    """The fan behind a datum, on a supply; raises InputError as `believe` does."""
    belief = believe(datum)
    curve = speed_curve(belief.motor, belief.load, supply)
    usable = np.flatnonzero(curve.usable)
    picked = (
        usable[np.unique(np.linspace(0, len(usable) - 1, _CURVE_BAND_POINTS).astype(int))]
        if len(usable)
        else []
    )
    values = [float(curve.capacitance_f[i]) for i in picked]
    impedances = [complex(capacitor_impedance(c, supply.frequency_hz)) for c in values]
    bands = step_bands(belief, supply, [*impedances, 0j])
    return Fan(
        belief,
        supply,
        solve(belief.motor, belief.load, [supply])[0],
        bands[-1],
        curve,
        tuple(
            CurveBand(c, b.speed_rpm.low, b.speed_rpm.high)
            for c, b in zip(values, bands[:-1], strict=True)
            if b.speed_rpm.high > 0
        ),
    )


def refusal(state: JobState) -> str:
    """Why nothing is predicted for this motor, or the job's method is refused for its kind; empty when it is not."""
    if state.findings.leads:
        stop = remembered(lead_sheet(state.findings, dict(state.readings))).insulation_stop
        if stop:
            return stop[0].lower() + stop[1:].rstrip(".")
    duty = state.findings.forbidden
    if duty is not None:
        return f"it drives {duty.text}: its speed is not to be lowered; ask {duty.refer}"
    if state.kind is None:
        return ""
    answer = answer_for(state.kind, state.method)
    if answer is None:
        return f"{METHOD_NAMES[state.method]} has no meaning for this kind of motor"
    if answer.answer is not Answer.REFUSED or (not answer.never and answer.method in state.overridden):
        return ""
    return answer.reason


def known(state: JobState) -> tuple[Datum, Fan] | None:
    """The datum and the believed fan of a job; None while it is refused or too little is known."""
    datum = None if refusal(state) else datum_of(state)[0]
    if datum is None:
        return None
    return datum, fan_of(datum, Source(state.supply_voltage_v, state.supply_frequency_hz))


@dataclass(frozen=True, eq=False)
class Regulated:
    """A bank on a believed fan: rated, and with the band of every step."""

    rated: Rated
    bands: tuple[StepBands, ...]
    sampled_ohm: tuple[ComplexArray, ...]
    """Impedance of each step with the parts within their tolerance, shape (draws,) or () [Ω]"""


@lru_cache(maxsize=512)
def regulated(datum: Datum, supply: Source, design: BankDesign) -> Regulated:
    """A bank on the fan behind a datum; raises InputError as `rate` does."""
    belief = fan_of(datum, supply).belief
    rated = rate(belief.motor, belief.load, supply, design)
    # Bleeds and limiters hardly vary and hardly matter: what spreads is the bare capacitors.
    draws = np.stack(
        [
            sampled(part.value_f, part.spread, belief.draws_kept, seed)
            for seed, part in enumerate(design.capacitors)
        ]
    )
    stated = np.array([part.value_f for part in design.capacitors])
    omega = 2 * np.pi * supply.frequency_hz
    spread: tuple[ComplexArray, ...] = tuple(
        np.asarray(
            complex(position.impedance_ohm)
            + (1 / pattern_capacitance_f(pattern, draws) - 1 / pattern_capacitance_f(pattern, stated))
            / (1j * omega),
            dtype=np.complex128,
        )
        for pattern, position in zip(design.patterns, rated.positions, strict=True)
    )
    return Regulated(rated, step_bands(belief, supply, spread), spread)
