"""What switch, fuse, wire and idle leads bear on the taps of a motor, and what two taps joined would do."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fenwit.core.circuit import Circuit
from fenwit.core.circuit.fed import joined_taps
from fenwit.core.errors import InputError
from fenwit.core.memory import remembered
from fenwit.core.methods.common.switched import Line, fuse_for, fuse_part, switch_part
from fenwit.core.methods.winding_tap.design import TapsDesign, taps_circuit
from fenwit.core.methods.winding_tap.fan import TappedFan, alive, highest_idle_v, on
from fenwit.core.motor.taps import StartBranch, TwoTapsAlive
from fenwit.core.operating import Solution
from fenwit.core.size.rated import MAINS, WIRE_A, Burden, Moment, RatedKind, RatedPart, Stress, judged

WIRE_V = 450.0
"""To earth, of 450/750 V insulation: idle leads stand above the supply [V]"""
CAP = "K"
"""Name of the caps on leads that no contact uses"""


@dataclass(frozen=True)
class Joined:
    """Two taps on line at once: where, and what runs round."""

    where: str
    passing: bool
    """Only on the way from one position to the next"""
    alive: TwoTapsAlive


@dataclass(frozen=True, eq=False)
class Rated:
    """Taps on a switch, solved at every position and mains."""

    design: TapsDesign
    circuit: Circuit
    branches: tuple[StartBranch, ...]
    solutions: tuple[tuple[Solution | None, ...], ...]
    """For each of `MAINS` the steps; None where two taps are fed. By the first of `branches`"""
    joined: tuple[Joined, ...]
    idle_v: float
    """Most volts at a lead that is not fed, on high mains [V]"""
    unused: tuple[str, ...]
    """Taps that no contact uses"""
    parts: tuple[RatedPart, ...]

    @property
    def nominal(self) -> tuple[Solution | None, ...]:
        """The steps on the stated mains."""
        return self.solutions[MAINS.index(1.0)]

    def at(self, number: int) -> Joined | None:
        """What a position joins for good; None where it feeds one tap."""
        return next((j for j in self.joined if not j.passing and j.where == str(number)), None)


@remembered
def rate(fan: TappedFan, design: TapsDesign) -> Rated:
    """Solve every position at every mains, and weigh what stands around the motor.

    Parameters
    ----------
    fan : TappedFan
        The fan [-]
    design : TapsDesign
        Which position feeds which tap [-]

    Returns
    -------
    Rated
        With its parts; what will not do says why [-]

    Raises
    ------
    InputError
        A tap this motor has not.
    """
    there = {t.name for t in fan.taps}
    for number, fed in enumerate(design.positions, start=1):
        for name in fed:
            if name not in there:
                allowed = ", ".join(t.name for t in fan.taps)
                raise InputError(f"p{number}", name, allowed, "this motor has no such tap")
    branches = fan.branches(design.branch)
    rows = tuple(
        tuple(on(fan, fed[0], branches[0], m) if len(fed) == 1 else None for fed in design.positions)
        for m in MAINS
    )
    line = _line(fan, design, rows, branches)
    fuse_a = design.fuse_a or fuse_for(line.most_a, line.rush_i2t(fan.supply))
    circuit = taps_circuit(design, fan.taps, float(fan.base.main_resistance_ohm), fuse_a)
    joined = _joined(fan, design, circuit, branches[0])
    idle = max(
        (highest_idle_v(fan, fed[0], branches, MAINS[-1]) for fed in design.positions if len(fed) == 1),
        default=0.0,
    )
    unused = tuple(t.name for t in fan.taps if t.name not in design.used)
    return Rated(
        design, circuit, branches, rows, joined, idle, unused,
        (
            fuse_part(line, fuse_a, design.fuse_a is not None, line.rush_i2t(fan.supply)),
            _switch(fan, design, line, joined, idle),
            _wire(line, idle),
        ),
    )  # fmt: skip


def _line(
    fan: TappedFan,
    design: TapsDesign,
    rows: tuple[tuple[Solution | None, ...], ...],
    branches: tuple[StartBranch, ...],
) -> Line:
    running = np.array([[s.running.line_current_a if s and s.running else 0.0 for s in row] for row in rows])
    rest = []
    for fed in design.positions:
        y = fan.motor(fed[0], branches[0]).respond(np.array(1.0), fan.supply.frequency_hz).admittance_s
        rest.append(float(np.abs(y)) * fan.supply.voltage_v)
    return Line(np.stack([running, np.outer(MAINS, rest)]))


def _joined(fan: TappedFan, design: TapsDesign, circuit: Circuit, branch: StartBranch) -> tuple[Joined, ...]:
    """Every state of the switch in which the circuit has two taps on one net, with what runs round then."""
    states = joined_taps(circuit, design.switch.make_before_break)
    for_good = {p.name for p in circuit.positions}
    fed = {c.name: c.net_b for c in circuit.parts}
    found = []
    for state in states:
        names = tuple(dict.fromkeys(fed[c] for c in sorted(state.closed)))
        worst = alive(fan, names, branch)
        if worst is not None:
            found.append(Joined(state.name, state.name not in for_good, worst))
    return tuple(found)


def _switch(
    fan: TappedFan, design: TapsDesign, line: Line, joined: tuple[Joined, ...], idle: float
) -> RatedPart:
    part = switch_part(line, fan.supply, design.switch, idle or None)
    passing = [j for j in joined if j.passing]
    if passing:
        worst = max(passing, key=lambda j: j.alive.current_a)
        words = (
            f"makes before it breaks: from {worst.where} two taps are alive, and {worst.alive.current_a:.2g} A "
            "run round in "
            "the turns between them; take a switch that breaks first"
        )
        return replace(part, refusal=words)
    return part


def _wire(line: Line, idle: float) -> RatedPart:
    volts = Stress(Burden.VOLTS, idle, WIRE_V, "1", MAINS[-1], Moment.RUNNING)
    return judged(
        RatedPart("W", RatedKind.WIRE, "", None, 0.0, 1, WIRE_V, (line.running(Burden.AMPS, WIRE_A), volts))
    )
