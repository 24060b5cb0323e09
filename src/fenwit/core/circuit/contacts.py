"""Switch level: who is joined to whom, in each position and on the way from one to the next."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.groups import Groups


def joined_nets(circuit: Circuit, position: Position) -> Groups[str]:
    """The nets of a circuit with the closed contacts and whole fuses of a position joined.

    Parameters
    ----------
    circuit : Circuit
        The circuit [-]
    position : Position
        One of its positions, or a passing state between two [-]

    Returns
    -------
    Groups
        Nets by group [-]
    """
    joined = Groups[str]()
    for part in circuit.parts:
        if circuit.joins(part, position):
            joined.join(part.net_a, part.net_b)
    return joined


@dataclass(frozen=True)
class Passage:
    """What stands joined in a position, or for a moment between two."""

    name: str
    shorted: tuple[str, ...]
    """Capacitors whose branch has both ends on one net: they empty through their limiter"""
    paralleled: tuple[tuple[str, str], ...]
    """Pairs of capacitors whose branches join the same two nets: they equalise through both limiters"""


def passages(circuit: Circuit, make_before_break: bool) -> tuple[Passage, ...]:
    """Every position, and with make-before-break contacts also every state on the way between neighbours.

    A capacitor's branch is the capacitor with the resistor that stands alone in series with it.

    Parameters
    ----------
    circuit : Circuit
        A regulator with its positions in the order of the knob [-]
    make_before_break : bool
        Whether the switch closes the next contact before it opens the last one [-]

    Returns
    -------
    tuple of Passage
        Positions first, then passing states [-]
    """
    # Who is joined to whom does not depend on values: a bank tried with other capacitors has been seen before.
    parts = tuple((p.name, p.kind, p.net_a, p.net_b) for p in circuit.parts)
    return _passages(parts, circuit.positions, circuit.line, circuit.load, make_before_break)


@lru_cache(maxsize=256)
def _passages(
    parts: tuple[tuple[str, PartKind, str, str], ...],
    positions: tuple[Position, ...],
    line: str,
    load: str,
    make_before_break: bool,
) -> tuple[Passage, ...]:
    value = {PartKind.CONTACT: 0.0, PartKind.CAPACITOR: 1e-6}
    circuit = Circuit(
        line, load, tuple(Part(n, k, a, b, value.get(k, 1.0)) for n, k, a, b in parts), positions
    )
    states = list(positions)
    if make_before_break:
        states += [Position(f"{a.name} to {b.name}", a.closed | b.closed) for a, b in pairwise(positions)]
    return tuple(_passage(circuit, state) for state in states)


def branch_ends(circuit: Circuit, capacitor: Part) -> tuple[str, str]:
    """The two nets a capacitor meets the rest of the regulator at, beyond the limiter in series with it."""
    ends = []
    for net in (capacitor.net_a, capacitor.net_b):
        limiter = _alone_in_series(circuit, capacitor, net)
        ends.append(net if limiter is None else limiter.net_b if limiter.net_a == net else limiter.net_a)
    return ends[0], ends[1]


def _alone_in_series(circuit: Circuit, capacitor: Part, net: str) -> Part | None:
    """The one resistor at a net that, bleeds across the capacitor aside, only the capacitor shares."""
    there = [p for p in circuit.parts if net in (p.net_a, p.net_b) and p is not capacitor]
    others = [p for p in there if not _bleeds(circuit, p, capacitor)]
    if len(others) == 1 and others[0].kind is PartKind.RESISTOR and net not in (circuit.line, circuit.load):
        return others[0]
    return None


def _bleeds(circuit: Circuit, part: Part, capacitor: Part) -> bool:
    """Whether a resistor, alone or in a chain of resistors, stands across a capacitor."""
    if part.kind is not PartKind.RESISTOR:
        return False
    ends = {capacitor.net_a, capacitor.net_b}
    seen, net = {part.name}, part.net_b if part.net_a in ends else part.net_a
    while net not in ends:
        onward = [p for p in circuit.parts if net in (p.net_a, p.net_b) and p.name not in seen]
        if len(onward) != 1 or onward[0].kind is not PartKind.RESISTOR:
            return False
        seen.add(onward[0].name)
        net = onward[0].net_b if onward[0].net_a == net else onward[0].net_a
    return {part.net_a, part.net_b} != {net} and net in ends and (part.net_a in ends or part.net_b in ends)


def _passage(circuit: Circuit, state: Position) -> Passage:
    joined = joined_nets(circuit, state)
    ends = {
        part.name: tuple(sorted(joined.root(net) for net in branch_ends(circuit, part)))
        for part in circuit.parts
        if part.kind is PartKind.CAPACITOR
    }
    names = sorted(ends)
    return Passage(
        state.name,
        tuple(n for n in names if ends[n][0] == ends[n][1]),
        tuple(
            (a, b)
            for i, a in enumerate(names)
            for b in names[i + 1 :]
            if ends[a] == ends[b] and ends[a][0] != ends[a][1]
        ),
    )


def truth_table(circuit: Circuit) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Closed contacts of each position, in the order of the parts.

    Parameters
    ----------
    circuit : Circuit
        The circuit [-]

    Returns
    -------
    tuple
        Name of the position and names of its closed contacts [-]
    """
    contacts = [p.name for p in circuit.parts if p.kind is PartKind.CONTACT]
    return tuple((p.name, tuple(c for c in contacts if c in p.closed)) for p in circuit.positions)
