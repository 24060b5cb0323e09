"""One resistor for each step, or a chain with taps, on a switch: the design, and the same as a circuit."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.series_resistor.builds import BUILDS, Build, Enclosure
from fenwit.core.motor.kinds import Method
from fenwit.core.size.switch import FED, MOTOR, SUPPLY, Switch

METER_TOLERANCE = 0.01
"""How far a measured resistance may still be off: an ordinary meter [-]"""
MOST = 5
"""Resistors in one regulator [-]"""


class Scheme(StrEnum):
    """How the resistors stand on the switch."""

    SEPARATE = "separate"
    """One for each step"""
    CHAIN = "chain"
    """All in a row, each step taps in nearer to the motor"""


@dataclass(frozen=True)
class Resistor:
    """One resistor, with what is printed on it and what was measured."""

    nominal_ohm: float
    build: Build = Build.TUBE
    rated_w: float | None = None
    """None: the smallest size of the build that will do [W]"""
    tolerance: float = 0.05
    measured_ohm: float | None = None
    shelf_id: int | None = None
    """Which part on the shelf it is, if any; means nothing to the core"""

    def __post_init__(self) -> None:
        check_range("ohms", self.nominal_ohm, *BUILDS[self.build].range_ohm, "Ω")
        check_range("tolerance", self.tolerance, 0.0, 0.5, "")
        if self.rated_w is not None:
            check_range("rated_w", self.rated_w, 0.25, 1000.0, "W")
        if self.measured_ohm is not None:
            check_range(
                "measured",
                self.measured_ohm,
                0.5 * self.nominal_ohm,
                1.5 * self.nominal_ohm,
                "Ω",
                reason="too far from what is printed on it: another part, a slip in the unit, or a burnt one",
            )

    @property
    def value_ohm(self) -> float:
        """Measured if it was, else as printed [Ω]"""
        return self.nominal_ohm if self.measured_ohm is None else self.measured_ohm

    @property
    def spread(self) -> float:
        """How far the true value may be from `value_ohm`, relative [-]"""
        return self.tolerance if self.measured_ohm is None else METER_TOLERANCE


@dataclass(frozen=True)
class ResistorDesign:
    """The resistors, slowest step first, and what stands around them."""

    method: ClassVar[Method] = Method.SERIES_RESISTOR

    scheme: Scheme
    resistors: tuple[Resistor, ...]
    direct: bool = True
    """The last position has nothing in the line"""
    switch: Switch = field(default_factory=Switch)
    fuse_a: float | None = None
    """Fuse where set by hand [A]"""
    enclosure: Enclosure = Enclosure.VENTED
    room_c: float = 30.0
    """Air around the housing at its warmest [°C]"""
    hours_a_day: tuple[float, ...] = ()
    """At each step; empty: eight hours spread over all of them [h]"""
    days_a_year: float = 300.0

    def __post_init__(self) -> None:
        if not 1 <= len(self.resistors) <= MOST:
            raise InputError(
                "resistors", len(self.resistors), f"1 to {MOST}", "a regulator has one to five resistors"
            )
        if self.steps > self.switch.positions:
            raise InputError(
                "switch.positions",
                self.switch.positions,
                f"at least {self.steps}",
                f"{self.steps} steps need as many positions beside Off",
            )
        in_line = self.in_line_ohm(np.array([r.value_ohm for r in self.resistors]))
        if any(slow <= fast for slow, fast in pairwise(in_line)):
            raise InputError(
                "resistors",
                [round(float(v), 1) for v in in_line],
                "each step fewer ohms than the one before",
                "the slowest step comes first and has the most ohms",
            )
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 10.0, "A")
        check_range("room_c", self.room_c, -40.0, 60.0, "°C")
        check_range("days_a_year", self.days_a_year, 1.0, 366.0, "days")
        if self.hours_a_day:
            self._check_hours()

    def _check_hours(self) -> None:
        if len(self.hours_a_day) != self.steps:
            raise InputError(
                "hours", list(self.hours_a_day), f"{self.steps} values", "one for each step, slowest first"
            )
        for hours in self.hours_a_day:
            check_range("hours", hours, 0.0, 24.0, "h")
        total = sum(self.hours_a_day)
        if total <= 0:
            raise InputError("hours", total, "more than 0 h", "nothing runs")
        if total > 24 + 1e-9:
            raise InputError("hours", total, "at most 24 h", "a day has 24 hours")

    @property
    def steps(self) -> int:
        """How many steps there are [-]"""
        return len(self.resistors) + self.direct

    @property
    def hours(self) -> tuple[float, ...]:
        """Hours a day at each step [h]"""
        return self.hours_a_day or (8.0 / self.steps,) * self.steps

    @property
    def names(self) -> tuple[str, ...]:
        """R1 is in the line at the slowest step."""
        return tuple(f"R{i}" for i in range(1, len(self.resistors) + 1))

    @property
    def joins(self) -> NDArray[np.bool_]:
        """Which resistor stands in the line at which step, shape (steps, resistors)."""
        count = len(self.resistors)
        square = (
            np.eye(count, dtype=bool)
            if self.scheme is Scheme.SEPARATE
            else np.triu(np.ones((count, count), bool))
        )
        return np.concatenate([square, np.zeros((int(self.direct), count), bool)])

    def in_line_ohm(self, resistance_ohm: NDArray[np.float64]) -> NDArray[np.float64]:
        """Ohms in the line at each step, for resistances along the first axis, shape (steps, …)."""
        return np.asarray(np.tensordot(self.joins.astype(float), resistance_ohm, axes=1))

    def label(self, step: int) -> str:
        """What stands in the line at a step, counted from 0."""
        if step >= len(self.resistors):
            return "direct"
        alone = self.scheme is Scheme.SEPARATE or step == len(self.resistors) - 1
        return self.names[step] if alone else f"{self.names[step]}–{self.names[-1]}"


def resistor_circuit(design: ResistorDesign, fuse_a: float = 10.0) -> Circuit:
    """The regulator as a circuit between the supply terminal L and the motor terminal M.

    Parameters
    ----------
    design : ResistorDesign
        Resistors and switch [-]
    fuse_a : float
        Fuse [A]

    Returns
    -------
    Circuit
        Positions "Off", "1" … "n"; contacts are named pole.position [-]
    """
    taps = [f"t{k}" for k in range(1, len(design.resistors) + 1)]
    far = [MOTOR] * len(taps) if design.scheme is Scheme.SEPARATE else [*taps[1:], MOTOR]
    nets = [*taps, *([MOTOR] if design.direct else [])]
    contacts = [Part(f"1.{k}", PartKind.CONTACT, FED, net) for k, net in enumerate(nets, start=1)]
    resistors = [
        Part(name, PartKind.RESISTOR, near, end, r.value_ohm, r.spread)
        for name, near, end, r in zip(design.names, taps, far, design.resistors, strict=True)
    ]
    positions = (Position("Off", frozenset()), *(Position(c.name[2:], frozenset({c.name})) for c in contacts))
    fuse = Part("F", PartKind.FUSE, SUPPLY, FED, fuse_a)
    return Circuit(SUPPLY, MOTOR, (fuse, *contacts, *resistors), positions)
