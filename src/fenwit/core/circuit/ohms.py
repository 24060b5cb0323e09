"""What an ohmmeter shows between two points of a circuit with the power off: resistors, windings and closed contacts."""

from __future__ import annotations

import numpy as np

from fenwit.core.circuit import Circuit, PartKind, Position
from fenwit.core.circuit.contacts import joined_nets
from fenwit.core.errors import InputError

_CONDUCTS = (PartKind.RESISTOR, PartKind.KNOB, PartKind.WINDING)
"""Capacitors charge and then are open; so is what only conducts when it is fired or driven"""


def ohms_between(circuit: Circuit, position: Position, net_a: str, net_b: str) -> float | None:
    """Resistance between two nets in a position.

    Parameters
    ----------
    circuit : Circuit
        The circuit, nothing else connected to it [-]
    position : Position
        Contacts that are closed [-]
    net_a : str
        One point [-]
    net_b : str
        The other [-]

    Returns
    -------
    float or None
        Resistance; None where nothing joins them [Ω]

    Raises
    ------
    InputError
        A net that no part touches.
    """
    known = {net for part in circuit.parts for net in (part.net_a, part.net_b)}
    for net in (net_a, net_b):
        if net not in known:
            raise InputError("net", net, ", ".join(sorted(known)), "no part touches this point")
    joined = joined_nets(circuit, position)
    a, b = joined.root(net_a), joined.root(net_b)
    if a == b:
        return 0.0
    edges = [
        (joined.root(p.net_a), joined.root(p.net_b), 1 / p.value)
        for p in circuit.parts
        if p.kind in _CONDUCTS and joined.root(p.net_a) != joined.root(p.net_b)
    ]
    reached, grown = {a}, True
    while grown:
        grown = False
        for left, right, _ in edges:
            if (left in reached) != (right in reached):
                reached |= {left, right}
                grown = True
    if b not in reached:
        return None
    order = {net: i for i, net in enumerate(sorted(reached - {b}))}
    laplacian = np.zeros((len(order), len(order)))
    for left, right, siemens in edges:
        if left in reached:
            for one, other in ((left, right), (right, left)):
                if one in order:
                    laplacian[order[one], order[one]] += siemens
                    if other in order:
                        laplacian[order[one], order[other]] -= siemens
    drive = np.zeros(len(order))
    drive[order[a]] = 1.0
    return float(np.linalg.solve(laplacian, drive)[order[a]])
