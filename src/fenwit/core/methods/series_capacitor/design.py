"""One to three capacitors and a switch: the bank, and the bank as a circuit."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.series_capacitor.wiring import NAMES, Wiring, members, wiring_for
from fenwit.core.motor.kinds import Method
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import CLASSES, check_capacitor
from fenwit.core.size.switch import FED, MOTOR, SUPPLY, Switch

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class BankDesign:
    """The capacitors, what each step joins (slowest first), and the switch that joins it."""

    method: ClassVar[Method] = Method.SERIES_CAPACITOR

    capacitors: tuple[Capacitor, ...]
    patterns: tuple[str, ...]
    switch: Switch = field(default_factory=Switch)
    bleed_ohm: tuple[float | None, ...] = ()
    """Bleed of each capacitor where set by hand, one resistor of it [Ω]"""
    limiter_ohm: tuple[float | None, ...] = ()
    """Limiter of each capacitor where set by hand [Ω]"""
    fuse_a: float | None = None
    """Fuse where set by hand [A]"""
    enclosed: bool = False
    """Closed housing: nobody can touch the pins before 60 s have passed"""

    def __post_init__(self) -> None:
        if not 1 <= len(self.capacitors) <= len(NAMES):
            raise InputError(
                "capacitors", len(self.capacitors), "1 to 3", "a bank has one to three capacitors"
            )
        for name, part in zip(NAMES, self.capacitors, strict=False):
            check_capacitor(name, part.part_class)
        for ohms in (*self.bleed_ohm, *self.limiter_ohm):
            if ohms is not None:
                check_range("ohms", ohms, 0.1, 2e7, "Ω")
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 10.0, "A")
        self.wiring  # noqa: B018 - raises when the switch cannot make the patterns

    @property
    def wiring(self) -> Wiring:
        """How the capacitors stand on the switch."""
        return wiring_for(self.patterns, len(self.capacitors), self.switch)

    @property
    def names(self) -> tuple[str, ...]:
        """A, B, C as far as they are used."""
        return NAMES[: len(self.capacitors)]


@dataclass(frozen=True)
class Fitting:
    """The small parts that make a bank safe: bleed and limiter of each capacitor, and the fuse."""

    bleed_ohm: tuple[float, ...]
    """Ohms of one bleed resistor of each capacitor [Ω]"""
    bleeds_in_series: tuple[int, ...]
    limiter_ohm: tuple[float, ...]
    fuse_a: float


def bank_circuit(design: BankDesign, fitting: Fitting | None = None) -> Circuit:
    """The regulator as a circuit between the supply terminal L and the motor terminal M.

    Contacts are named pole.position, as the lugs of a switch stand. Beside capacitor A stand its limiter RA and its
    bleeds DA1, DA2; F is the fuse.

    Parameters
    ----------
    design : BankDesign
        Capacitors, patterns and switch [-]
    fitting : Fitting, optional
        The small parts; without them the bare bank [-]

    Returns
    -------
    Circuit
        Positions "Off", "1" … "n" [-]

    Raises
    ------
    InputError
        Unreal values.
    """
    wiring = design.wiring
    parts = [Part("F", PartKind.FUSE, SUPPLY, FED, fitting.fuse_a if fitting else 10.0)]
    positions = [Position("Off", frozenset())]
    for k, pattern in enumerate(design.patterns, start=1):
        closed = []
        for pole, (common, net) in enumerate(
            zip((FED, wiring.second_pole), wiring.throws(pattern), strict=True), start=1
        ):
            if net:
                parts.append(Part(f"{pole}.{k}", PartKind.CONTACT, common, net))
                closed.append(f"{pole}.{k}")
        positions.append(Position(str(k), frozenset(closed)))
    for i, (name, capacitor) in enumerate(zip(design.names, design.capacitors, strict=True)):
        far, near = wiring.far[i], wiring.near[i]
        inner = far
        if fitting:
            inner = f"{name.lower()}′"
            parts.append(Part(f"R{name}", PartKind.RESISTOR, far, inner, fitting.limiter_ohm[i]))
        parts.append(
            Part(
                name,
                PartKind.CAPACITOR,
                inner,
                near,
                capacitor.value_f,
                capacitor.spread,
                CLASSES[capacitor.part_class].loss_factor,
            )
        )
        if fitting:
            chain = [inner, *(f"{name.lower()}″{j}" for j in range(1, fitting.bleeds_in_series[i])), near]
            parts += [
                Part(f"D{name}{j}", PartKind.RESISTOR, a, b, fitting.bleed_ohm[i], bleeds=name)
                for j, (a, b) in enumerate(pairwise(chain), start=1)
            ]
    return Circuit(SUPPLY, MOTOR, tuple(parts), tuple(positions))


def pattern_capacitance_f(pattern: str, capacitance_f: FloatArray) -> FloatArray:
    """What a pattern makes of its capacitors: C1 C2/(C1 + C2) in series, C1 + C2 side by side.

    Parameters
    ----------
    pattern : str
        A pattern of `core.size.switch` [-]
    capacitance_f : array
        Capacitances of A, B, C along the first axis [F]

    Returns
    -------
    array
        Capacitance, shape of the rest; infinite for the direct pattern, which has none [F]
    """
    rows = [capacitance_f[NAMES.index(m)] for m in members(pattern)]
    if not rows:
        return np.full(capacitance_f.shape[1:], np.inf)
    return np.asarray(rows[0] * rows[1] / (rows[0] + rows[1]) if "–" in pattern else np.sum(rows, axis=0))
