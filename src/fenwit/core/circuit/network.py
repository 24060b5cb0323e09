"""Complex nodal analysis of a two-terminal bank at one frequency, position by position."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.contacts import joined_nets
from fenwit.core.circuit.groups import Groups, contact_shares
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
        Bad frequency, unknown part, a circuit on the neutral, or one that resonates to an open circuit.
    """
    if circuit.neutral:
        raise InputError("circuit", circuit.neutral, "two terminals", "this one stands on the neutral too")
    system = System(circuit, frequency_hz, values or {})
    return tuple(system.solve(position) for position in circuit.positions)


class System:
    """A circuit as incidence of its parts on its nets, with the admittance of every part at one frequency."""

    def __init__(self, circuit: Circuit, frequency_hz: float, values: Mapping[str, FloatOrArray]) -> None:
        omega = 2 * np.pi * float(check_range("frequency_hz", frequency_hz, 1.0, 1e6, "Hz"))
        for name in values:
            circuit.part(name)
        self.circuit = circuit
        self.valued = circuit.valued_parts
        self.joining = tuple(p for p in circuit.parts if p.kind in (PartKind.CONTACT, PartKind.FUSE))
        nets = sorted({n for p in circuit.parts for n in (p.net_a, p.net_b)} | {circuit.line, circuit.load})
        self.row = {net: i for i, net in enumerate(nets)}
        self.shape = np.broadcast_shapes(*(np.shape(v) for v in values.values())) if values else ()
        self.admittance = np.empty((*self.shape, len(self.valued)), dtype=np.complex128)
        for k, part in enumerate(self.valued):
            self.admittance[..., k] = _admittance(part, values.get(part.name, part.value), omega)
        self.incidence = np.zeros((len(self.valued), len(nets)), dtype=np.complex128)
        for k, part in enumerate(self.valued):
            self.incidence[k, self.row[part.net_a]] += 1.0
            self.incidence[k, self.row[part.net_b]] -= 1.0

    def net_volts(self, position: Position) -> ComplexArray | None:
        """Volts of every net against the load for one ampere; None when no path leads from line to load."""
        circuit = self.circuit
        joined = joined_nets(circuit, position)
        reached = Groups(joined)
        for part in self.valued:
            reached.join(part.net_a, part.net_b)
        start = reached.root(circuit.line)
        if start != reached.root(circuit.load):
            return None
        roots = {net: joined.root(net) for net in self.row}
        load = roots[circuit.load]
        # Islands that hang on nothing have no volts of their own; they stand at the load's.
        alive = {roots[net] for net in self.row if reached.root(net) == start} - {load}
        index = {node: i for i, node in enumerate(sorted(alive))}
        size = len(index)
        gather = np.array([index.get(roots[net], size) for net in self.row])
        merge = np.zeros((len(self.row), size), dtype=np.complex128)
        for i, at in enumerate(gather):
            if at < size:
                merge[i, at] = 1.0
        branch = self.incidence @ merge
        voltage = np.zeros((*self.shape, size + 1), dtype=np.complex128)
        if size:
            matrix = (branch.T * self.admittance[..., None, :]) @ branch
            drive = np.zeros(size, dtype=np.complex128)
            if roots[circuit.line] in index:
                drive[index[roots[circuit.line]]] = 1.0
            voltage[..., :size] = _solved(matrix, drive, position.name)
        return np.asarray(voltage[..., gather])

    def solve(self, position: Position) -> PositionSolution:
        """Impedance, volts and amps of one position."""
        circuit = self.circuit
        volts = self.net_volts(position)
        if volts is None:
            none = np.zeros(self.shape, dtype=np.complex128)
            idle = {part.name: none for part in circuit.parts}
            return PositionSolution(
                position.name, False, np.empty((0,), dtype=np.complex128), idle, dict(idle)
            )
        across = volts @ self.incidence.T
        through = across * self.admittance
        part_v = {part.name: across[..., k] for k, part in enumerate(self.valued)}
        part_i = {part.name: through[..., k] for k, part in enumerate(self.valued)}
        closed = [p for p in self.joining if circuit.joins(p, position)]
        leaving = through @ self.incidence
        leaving[..., self.row[circuit.line]] -= 1.0
        leaving[..., self.row[circuit.load]] += 1.0
        ends = tuple((self.row[p.net_a], self.row[p.net_b]) for p in closed)
        flows = -leaving @ contact_shares(ends, len(self.row)).T
        nothing = np.zeros(self.shape, dtype=np.complex128)
        for part in self.joining:
            part_i[part.name] = nothing
            part_v[part.name] = volts[..., self.row[part.net_a]] - volts[..., self.row[part.net_b]]
        for column, part in enumerate(closed):
            part_i[part.name], part_v[part.name] = flows[..., column], nothing
        return PositionSolution(position.name, True, volts[..., self.row[circuit.line]], part_v, part_i)


def _admittance(part: Part, value: FloatOrArray, omega: float) -> ComplexArray:
    if np.min(value) <= 0:
        raise InputError(
            f"{part.name}.value", float(np.min(value)), "above zero", "a part's value is positive"
        )
    size = np.asarray(value, dtype=np.complex128)
    if part.kind is PartKind.WINDING:
        return np.asarray(size + 1j * omega * part.leakage_h) ** -1
    if part.kind is PartKind.CAPACITOR:
        return np.asarray((1j + part.loss_factor) * omega * size)
    return np.asarray(1 / (1j * omega * size) if part.kind is PartKind.INDUCTOR else 1 / size)


def _solved(matrix: ComplexArray, drive: ComplexArray, position: str) -> ComplexArray:
    try:
        solved = np.linalg.solve(matrix, np.broadcast_to(drive[:, None], (*matrix.shape[:-1], 1)))[..., 0]
    except np.linalg.LinAlgError:
        solved = np.full(matrix.shape[:-1], np.inf, dtype=np.complex128)
    scale = np.abs(matrix).max()
    if not np.isfinite(solved).all() or np.abs(solved).max() * scale > 1e10:
        raise InputError(
            f"position {position}",
            "resonance",
            "values off resonance",
            "the bank is an open circuit at this frequency",
        )
    return np.asarray(solved)
