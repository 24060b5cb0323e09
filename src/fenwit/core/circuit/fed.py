"""A circuit on line and neutral: what its load terminal is to a motor, and what runs in every part.

Sections of winding on one core share the volts e in a unit of turns: v_a − v_b − n e = Z i for each of them, and the core
takes Σ n i = Y e. With −n as its incidence the core is one more node of the same nodal equations.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Core, PartKind, Position
from fenwit.core.circuit.contacts import joined_nets
from fenwit.core.circuit.groups import Groups
from fenwit.core.circuit.network import System
from fenwit.core.errors import InputError, check_range

ComplexArray = NDArray[np.complex128]


@dataclass(frozen=True)
class Fed:
    """A circuit in one position on its supply; phasors against the line."""

    position: str
    net_v: Mapping[str, complex]
    """Of the nets that hang on the supply in some way [V]"""
    part_a: Mapping[str, complex]
    """From net_a to net_b of every part that has an impedance [A]"""


@dataclass(frozen=True)
class Port:
    """What a motor finds at the load terminal in one position."""

    position: str
    open_v: complex
    impedance_ohm: complex


def fed(
    circuit: Circuit,
    frequency_hz: float,
    position: Position,
    supply_v: float,
    drawn_a: Mapping[str, complex] | None = None,
) -> Fed:
    """Solve one position with the line at the supply's volts and the neutral at zero.

    Parameters
    ----------
    circuit : Circuit
        With a neutral [-]
    frequency_hz : float
        Frequency [Hz]
    position : Position
        One of its positions, or a passing state between two [-]
    supply_v : float
        Line against neutral [V]
    drawn_a : mapping of str to complex, optional
        What is drawn from a net to the neutral, as a motor does [A]

    Returns
    -------
    Fed
        Volts of nets, amps of parts [-]

    Raises
    ------
    InputError
        No neutral, line and neutral joined, or nets that hang on nothing but are drawn from.
    """
    check_range("supply_v", supply_v, 0.0, 1000.0, "V")
    if not circuit.neutral:
        raise InputError("circuit", "", "a circuit with a neutral", "this one has two terminals")
    system = System(circuit, frequency_hz, {})
    joined = joined_nets(circuit, position)
    held = {joined.root(circuit.line): complex(supply_v), joined.root(circuit.neutral): 0j}
    if len(held) < 2:
        raise InputError(
            "position", position.name, "line and neutral apart", "line and neutral are joined here"
        )
    nodes = _hanging(circuit, joined, system)
    free = [n for n in nodes if n not in held]
    index = {node: i for i, node in enumerate(free)}
    cores = {core.name: len(free) + i for i, core in enumerate(circuit.cores)}
    size = len(free) + len(cores)
    branch = np.zeros((len(system.valued), size), dtype=np.complex128)
    fixed = np.zeros(len(system.valued), dtype=np.complex128)
    for k, part in enumerate(system.valued):
        for net, sign in ((part.net_a, 1.0), (part.net_b, -1.0)):
            node = joined.root(net)
            if node in held:
                fixed[k] += sign * held[node]
            elif node in index:
                branch[k, index[node]] += sign
        if part.core:
            branch[k, cores[part.core]] -= part.turns
    y = system.admittance
    matrix = (branch.T * y) @ branch
    for core in circuit.cores:
        matrix[cores[core.name], cores[core.name]] += iron_s(core, frequency_hz)
    drive = -(branch.T * y) @ fixed
    for net, amps in (drawn_a or {}).items():
        node = joined.root(net)
        if node in index:
            drive[index[node]] -= amps
        elif node not in held:
            raise InputError("drawn_a", net, "a net that hangs on the supply", "nothing feeds it here")
    found = np.linalg.solve(matrix, drive) if size else np.zeros(0, dtype=np.complex128)
    volts = held | {node: complex(found[i]) for node, i in index.items()}
    through = y * (branch @ found + fixed)
    return Fed(
        position.name,
        {net: volts[joined.root(net)] for net in system.row if joined.root(net) in volts},
        {part.name: complex(through[k]) for k, part in enumerate(system.valued)},
    )


def port(circuit: Circuit, frequency_hz: float, position: Position, supply_v: float) -> Port | None:
    """Open volts and impedance of the load terminal; None where nothing feeds it.

    Parameters
    ----------
    circuit : Circuit
        With a neutral [-]
    frequency_hz : float
        Frequency [Hz]
    position : Position
        One of its positions [-]
    supply_v : float
        Line against neutral [V]

    Returns
    -------
    Port or None
        The source a motor finds [-]

    Raises
    ------
    InputError
        As `fed`.
    """
    idle = fed(circuit, frequency_hz, position, supply_v)
    if circuit.load not in idle.net_v:
        return None
    loaded = fed(circuit, frequency_hz, position, supply_v, {circuit.load: 1.0})
    return Port(
        position.name, idle.net_v[circuit.load], idle.net_v[circuit.load] - loaded.net_v[circuit.load]
    )


def iron_s(core: Core, frequency_hz: float) -> complex:
    """What a core takes at a unit of turns: iron loss and magnetising [S]"""
    x = core.magnetising_ohm * frequency_hz / core.frequency_hz
    return 1 / core.loss_ohm + 1 / (1j * x)


def _hanging(circuit: Circuit, joined: Groups[str], system: System) -> list[str]:
    """Nodes that hang on the supply through some impedance, in a fixed order."""
    reached = Groups(joined)
    for part in system.valued:
        reached.join(part.net_a, part.net_b)
    on = {reached.root(circuit.line), reached.root(circuit.neutral)}
    return sorted({joined.root(net) for net in system.row if reached.root(net) in on})


def joined_taps(circuit: Circuit, make_before_break: bool) -> tuple[Position, ...]:
    """Positions, and states on the way between two, in which more than one end of the windings stands on one net.

    Parameters
    ----------
    circuit : Circuit
        A regulator with its positions in the order of the knob [-]
    make_before_break : bool
        Whether the switch closes the next contact before it opens the last one [-]

    Returns
    -------
    tuple of Position
        Each with the contacts that are closed in it [-]
    """
    states = list(circuit.positions)
    if make_before_break:
        states += [
            Position(f"{a.name} to {b.name}", a.closed | b.closed)
            for a, b in zip(circuit.positions, circuit.positions[1:], strict=False)
        ]
    return tuple(s for s in states if _shorted(circuit, s))


def _shorted(circuit: Circuit, state: Position) -> bool:
    joined = joined_nets(circuit, state)
    return any(
        joined.root(p.net_a) == joined.root(p.net_b) for p in circuit.parts if p.kind is PartKind.WINDING
    )
