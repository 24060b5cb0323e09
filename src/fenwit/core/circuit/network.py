"""Complex nodal analysis of a two-terminal bank at one frequency, position by position."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.contacts import Groups, joined_nets
from fenwit.core.errors import FloatOrArray, InputError, check_range

ComplexArray = NDArray[np.complex128]


@dataclass(frozen=True)
class PositionSolution:
    """The bank in one position, for one ampere flowing from line to load."""

    position: str
    conducts: bool
    """False when no path leads from line to load; then there is no impedance."""
    impedance_ohm: ComplexArray
    """Impedance from line to load, shape of the part values; empty when it does not conduct [Ω]"""
    part_voltage_v_per_a: dict[str, ComplexArray]
    """Volts from net_a to net_b of each part per line ampere [V/A]"""
    part_current_a_per_a: dict[str, ComplexArray]
    """Amps through each part, contacts included, per line ampere [A/A]"""

    def volts(self, name: str, line_current_a: float) -> float:
        """Volts across a part at so many line amps; for unsampled values [V]"""
        return float(np.abs(self.part_voltage_v_per_a[name])) * line_current_a

    def amps(self, name: str, line_current_a: float) -> float:
        """Amps through a part at so many line amps; for unsampled values [A]"""
        return float(np.abs(self.part_current_a_per_a[name])) * line_current_a


def solve_bank(
    circuit: Circuit, frequency_hz: float, values: Mapping[str, FloatOrArray] | None = None
) -> tuple[PositionSolution, ...]:
    """Impedance of a bank and the share of every part in it, for each switch position.

    Closed contacts join nets; the remaining nets are solved by nodal analysis, I = Y·V, with one ampere driven from
    line to load. The current of each closed contact is the least-squares (smallest) set that meets Kirchhoff's law:
    contacts in parallel share alike.

    Parameters
    ----------
    circuit : Circuit
        The bank [-]
    frequency_hz : float
        Frequency [Hz]
    values : mapping of str to float or array, optional
        Values that replace those of the named parts, for drifted or sampled parts; one shape for all [Ω|F|H]

    Returns
    -------
    tuple of PositionSolution
        One for each position, in order [-]

    Raises
    ------
    InputError
        Bad frequency, unknown part, or a bank that resonates to an open circuit at this frequency.
    """
    omega = 2 * np.pi * float(check_range("frequency_hz", frequency_hz, 1.0, 1e6, "Hz"))
    values = dict(values or {})
    for name in values:
        circuit.part(name)
    shape = np.broadcast_shapes(*(np.shape(v) for v in values.values())) if values else ()
    admittance = {
        p.name: _admittance(p, values.get(p.name, p.value), omega, shape) for p in circuit.valued_parts
    }
    return tuple(_solve_position(circuit, position, admittance, shape) for position in circuit.positions)


def _admittance(part: Part, value: FloatOrArray, omega: float, shape: tuple[int, ...]) -> ComplexArray:
    magnitude = np.broadcast_to(np.asarray(value, dtype=np.float64), shape)
    if (magnitude <= 0).any():
        raise InputError(
            f"{part.name}.value", float(magnitude.min()), "above zero", "a part's value is positive"
        )
    if part.kind is PartKind.CAPACITOR:
        return np.asarray((1j + part.loss_factor) * omega * magnitude, dtype=np.complex128)
    if part.kind is PartKind.INDUCTOR:
        return np.asarray(1 / (1j * omega * magnitude), dtype=np.complex128)
    return magnitude.astype(np.complex128) ** -1


def _solve_position(
    circuit: Circuit, position: Position, admittance: dict[str, ComplexArray], shape: tuple[int, ...]
) -> PositionSolution:
    joined = joined_nets(circuit, position)
    reached = Groups(joined)
    for part in circuit.valued_parts:
        reached.join(part.net_a, part.net_b)
    if reached.root(circuit.line) != reached.root(circuit.load):
        none = np.zeros(shape, dtype=np.complex128)
        idle = {part.name: none for part in circuit.parts}
        return PositionSolution(position.name, False, np.empty((0,), dtype=np.complex128), idle, dict(idle))

    line, load = joined.root(circuit.line), joined.root(circuit.load)
    live = [p for p in circuit.valued_parts if reached.root(p.net_a) == reached.root(circuit.line)]
    nodes = sorted({joined.root(n) for p in live for n in (p.net_a, p.net_b)} | {line, load})
    index = {node: i for i, node in enumerate(n for n in nodes if n != load)}
    voltage = _node_voltages(live, joined, admittance, index, line, shape, position.name)

    def volts(net: str) -> ComplexArray:
        root = joined.root(net)
        if root in index:
            return voltage[..., index[root]]
        return np.zeros(shape, dtype=np.complex128)

    part_v, part_i = {}, {}
    for part in circuit.valued_parts:
        part_v[part.name] = volts(part.net_a) - volts(part.net_b)
        part_i[part.name] = admittance[part.name] * part_v[part.name]
    part_i |= _contact_currents(circuit, position, part_i, shape)
    for part in circuit.parts:
        if part.name not in part_v:
            open_volts = volts(part.net_a) - volts(part.net_b)
            part_v[part.name] = np.zeros_like(open_volts) if circuit.joins(part, position) else open_volts
    return PositionSolution(position.name, True, volts(circuit.line), part_v, part_i)


def _node_voltages(
    live: list[Part],
    joined: Groups,
    admittance: dict[str, ComplexArray],
    index: dict[str, int],
    line: str,
    shape: tuple[int, ...],
    position: str,
) -> ComplexArray:
    size = len(index)
    matrix = np.zeros((*shape, size, size), dtype=np.complex128)
    for part in live:
        a, b = index.get(joined.root(part.net_a)), index.get(joined.root(part.net_b))
        y = admittance[part.name]
        if a is not None:
            matrix[..., a, a] += y
        if b is not None:
            matrix[..., b, b] += y
        if a is not None and b is not None:
            matrix[..., a, b] -= y
            matrix[..., b, a] -= y
    drive = np.zeros((*shape, size, 1), dtype=np.complex128)
    if line in index:
        drive[..., index[line], 0] = 1.0
    if size == 0:
        return drive[..., 0]
    try:
        solved = np.linalg.solve(matrix, drive)[..., 0]
    except np.linalg.LinAlgError:
        solved = np.full((*shape, size), np.inf, dtype=np.complex128)
    scale = np.abs(matrix).max()
    if not np.isfinite(solved).all() or np.abs(solved).max() * scale > 1e10:
        raise InputError(
            f"position {position}",
            "resonance",
            "values off resonance",
            "the bank is an open circuit at this frequency",
        )
    return np.asarray(solved)


def _contact_currents(
    circuit: Circuit, position: Position, part_current: dict[str, ComplexArray], shape: tuple[int, ...]
) -> dict[str, ComplexArray]:
    contacts = [p for p in circuit.parts if p not in circuit.valued_parts]
    closed = [p for p in contacts if circuit.joins(p, position)]
    currents = {p.name: np.zeros(shape, dtype=np.complex128) for p in contacts}
    if not closed:
        return currents
    nets = sorted({n for p in circuit.parts for n in (p.net_a, p.net_b)} | {circuit.line, circuit.load})
    row = {net: i for i, net in enumerate(nets)}
    leaving = np.zeros((*shape, len(nets)), dtype=np.complex128)
    leaving[..., row[circuit.line]] -= 1.0
    leaving[..., row[circuit.load]] += 1.0
    for part in circuit.valued_parts:
        leaving[..., row[part.net_a]] += part_current[part.name]
        leaving[..., row[part.net_b]] -= part_current[part.name]
    incidence = np.zeros((len(nets), len(closed)))
    for column, part in enumerate(closed):
        incidence[row[part.net_a], column] = 1.0
        incidence[row[part.net_b], column] = -1.0
    flows = -leaving @ np.linalg.pinv(incidence).T
    for column, part in enumerate(closed):
        currents[part.name] = flows[..., column]
    return currents
