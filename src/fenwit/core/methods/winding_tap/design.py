"""Which position of the switch feeds which tap of the motor: the design, and the same as a circuit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from typing import ClassVar

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.common.duty import DutySheet
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.taps import StartBranch, Tap
from fenwit.core.size.switch import FED, SUPPLY, Switch

MOST = 6
COMMON = "COM"


@dataclass(frozen=True)
class TapsDesign:
    """Taps by the positions of the switch, slowest step first."""

    method: ClassVar[Method] = Method.WINDING_TAP

    positions: tuple[tuple[str, ...], ...]
    """Roles of the taps that each position feeds; more than one is wrong, and the circuit says what it does"""
    branch: StartBranch | None = None
    """Where the start branch hangs; None: as found, or both ways"""
    switch: Switch = field(default_factory=lambda: Switch(rated_voltage_v=400.0))
    fuse_a: float | None = None
    """Fuse where set by hand [A]"""
    duty: DutySheet | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.positions) <= MOST:
            raise InputError(
                "positions", len(self.positions), f"1 to {MOST}", "a switch here has one to six steps"
            )
        for number, fed in enumerate(self.positions, start=1):
            if not fed:
                raise InputError(f"p{number}", "", "a tap", "this position feeds nothing")
            if len(set(fed)) != len(fed):
                raise InputError(f"p{number}", ", ".join(fed), "each tap once", "one tap stands here twice")
        if len(self.positions) > self.switch.positions:
            raise InputError(
                "switch.positions",
                self.switch.positions,
                f"at least {len(self.positions)}",
                f"{len(self.positions)} steps need as many positions beside Off",
            )
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 10.0, "A")

    @property
    def used(self) -> frozenset[str]:
        """Taps that some position feeds."""
        return frozenset(name for fed in self.positions for name in fed)

    def label(self, step: int) -> str:
        """What a step feeds, counted from 0."""
        return " + ".join(self.positions[step])


def taps_circuit(design: TapsDesign, taps: Sequence[Tap], main_ohm: float, fuse_a: float = 10.0) -> Circuit:
    """Switch and winding as a circuit between line L and the motor's common lead.

    Parameters
    ----------
    design : TapsDesign
        Which position feeds which tap [-]
    taps : sequence of Tap
        Of the motor, fastest first [-]
    main_ohm : float
        From common to the fastest tap [Ω]
    fuse_a : float
        Fuse [A]

    Returns
    -------
    Circuit
        Positions "Off", "1" … "n"; contacts are named pole.position, a second one of a position pole 2 [-]
    """
    contacts, positions = [], [Position("Off", frozenset())]
    for number, fed in enumerate(design.positions, start=1):
        mine = [
            Part(f"{pole}.{number}", PartKind.CONTACT, FED, name) for pole, name in enumerate(fed, start=1)
        ]
        contacts += mine
        positions.append(Position(str(number), frozenset(p.name for p in mine)))
    sections = [Part("WM", PartKind.WINDING, taps[0].name, COMMON, main_ohm)]
    for i, (near, far) in enumerate(pairwise(taps), start=1):
        ohm = max(far.extra_ohm - near.extra_ohm, 1e-3)
        sections.append(Part(f"W{i}", PartKind.WINDING, far.name, near.name, ohm))
    fuse = Part("F", PartKind.FUSE, SUPPLY, FED, fuse_a)
    return Circuit(SUPPLY, COMMON, (fuse, *contacts, *sections), tuple(positions))
