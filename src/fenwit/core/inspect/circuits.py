"""A board as a circuit, like any regulator: its parts by their role, its positions, and the drawing of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.drawing import Drawing, draw
from fenwit.core.errors import InputError
from fenwit.core.job.board import FIRED, ROLES, Board, Fault, FaultKind, Role, Topology
from fenwit.core.methods.phase_angle.sketch import sketch as fired_sketch
from fenwit.core.methods.stepped_voltage.design import SteppedDesign, Tap, tapped_circuit
from fenwit.core.methods.stepped_voltage.sketch import sketch as tapped_sketch
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.transformer import Transformer, Winding, transformer
from fenwit.core.size.switch import FED, MOTOR, SUPPLY, Switch

BY: Mapping[Topology, Method] = {
    Topology.SECTIONS: Method.SERIES_CAPACITOR,
    Topology.CHAIN: Method.SERIES_RESISTOR,
    Topology.TWO_WIRE: Method.PHASE_ANGLE,
    Topology.THREE_WIRE: Method.PHASE_ANGLE,
    Topology.OPTO: Method.PHASE_ANGLE,
    Topology.STEPPED: Method.STEPPED_VOLTAGE,
}
"""The way a control regulates by"""
SHORT_OHM = 1e-3
_NEUTRAL = "neutral"
_FUSE_A = 10.0


def ref_of(key: str) -> str:
    """What a part is called on the schematic, from its key."""
    role, _, number = key.rpartition("-")
    if number.isdigit():
        return f"{ROLES[Role(role)].ref}{number}"
    return ROLES[Role(key)].ref


def board_circuit(board: Board, values: Mapping[str, float], fault: Fault | None = None) -> Circuit:
    """The circuit of a board, whole or with a fault in it.

    Parameters
    ----------
    board : Board
        Its topology and positions [-]
    values : mapping of str to float
        Of the parts that are there, by key [F|Ω|H|A|V]
    fault : Fault or None
        An open part is left out, a shorted one is a piece of wire, a drifted one has another value [-]

    Returns
    -------
    Circuit
        Two terminals, or with a neutral where there is a transformer [-]

    Raises
    ------
    InputError
        No path leads from line to motor, or a tap table that contradicts itself.
    """
    values = dict(values)
    if fault is not None and fault.part in values:
        values[fault.part] *= fault.factor
    if board.topology is Topology.STEPPED:
        circuit = stepped_circuit(board, values)
    elif board.topology in FIRED:
        circuit = Circuit(
            SUPPLY,
            MOTOR,
            tuple(_fired(board, values)),
            (Position("Off", frozenset()), Position("On", frozenset({"S"}))),
        )
    else:
        circuit = _switched(board, values)
    return circuit if fault is None else _with(circuit, fault)


def _with(circuit: Circuit, fault: Fault) -> Circuit:
    name = None if fault.part == "track" else ref_of(fault.part)
    parts = []
    for part in circuit.parts:
        if part.name != name or fault.kind not in (FaultKind.OPEN, FaultKind.SHORT):
            parts.append(part)
        elif fault.kind is FaultKind.SHORT:
            parts.append(Part(part.name, PartKind.RESISTOR, part.net_a, part.net_b, SHORT_OHM))
    kept = {p.name for p in parts}
    positions = tuple(Position(p.name, p.closed & kept) for p in circuit.positions)
    return Circuit(circuit.line, circuit.load, tuple(parts), positions, circuit.neutral, circuit.cores)


def positions_of(board: Board) -> tuple[tuple[int, ...], ...]:
    """What stands in the line at each position: as told, or as such a control usually is."""
    if board.positions:
        return board.positions
    if board.topology is Topology.STEPPED:
        return tuple((n,) for n in range(1, len(board.taps) + 1))
    if board.topology is Topology.CHAIN:
        count = max(board.count(Role.RESISTOR), 1)
        return (*(tuple(range(k, count + 1)) for k in range(1, count + 1)), ())
    count = max(board.count(Role.SECTION), 1)
    alone = tuple((n,) for n in range(1, count + 1))
    return alone if count == 1 else (*alone, tuple(range(1, count + 1)))


def _switched(board: Board, values: Mapping[str, float]) -> Circuit:
    """Sections or resistors on a switch; each position closes the contacts of what it has in the line."""
    fused = Role.FUSE.value in values
    fed = FED if fused else SUPPLY
    parts = [Part("F", PartKind.FUSE, SUPPLY, FED, values[Role.FUSE.value])] if fused else []
    role = Role.SECTION if board.topology is Topology.SECTIONS else Role.RESISTOR
    there = [n for n in range(1, board.count(role) + 1) if f"{role.value}-{n}" in values] or (
        [1] if f"{role.value}-1" in values else []
    )
    if not there:
        raise InputError(
            f"{role.value}-1.value", None, f"at least one {ROLES[role].name}",
            "nothing leads from the line to the motor",
        )  # fmt: skip
    places = positions_of(board)
    for k, place in enumerate(places, start=1):
        for n in place:
            if n not in there:
                raise InputError(
                    "positions", n, ", ".join(map(str, there)),
                    f"position {k} wants {ROLES[role].name} {n}, and there is none",
                )  # fmt: skip
    if board.topology is Topology.CHAIN:
        return _chain(parts, fed, there, places, values)
    positions = [Position("Off", frozenset())]
    for n in there:
        parts.append(Part(f"S{n}", PartKind.CONTACT, fed, f"s{n}"))
    for n in there:
        net = f"s{n}"
        limiter = values.get(f"{Role.LIMITER.value}-{n}")
        if limiter is not None:
            parts.append(
                Part(ref_of(f"{Role.LIMITER.value}-{n}"), PartKind.RESISTOR, net, f"{net}′", limiter)
            )
            net = f"{net}′"
        name = ref_of(f"{Role.SECTION.value}-{n}")
        parts.append(
            Part(name, PartKind.CAPACITOR, net, MOTOR, values[f"{Role.SECTION.value}-{n}"], 0.0, 0.001)
        )
        bleed = values.get(f"{Role.BLEED.value}-{n}")
        if bleed is not None:
            parts.append(
                Part(
                    ref_of(f"{Role.BLEED.value}-{n}"),
                    PartKind.RESISTOR,
                    net,
                    MOTOR,
                    bleed,
                    bleeds=name,
                )
            )
    for k, place in enumerate(places, start=1):
        if not place:
            raise InputError("positions", k, "at least one section", f"position {k} has nothing in the line")
        positions.append(Position(str(k), frozenset(f"S{n}" for n in place)))
    return Circuit(SUPPLY, MOTOR, tuple(parts), tuple(positions))


def _chain(
    parts: list[Part],
    fed: str,
    there: list[int],
    places: tuple[tuple[int, ...], ...],
    values: Mapping[str, float],
) -> Circuit:
    taps = [f"t{n}" for n in there]
    far = [*taps[1:], MOTOR]
    positions = [Position("Off", frozenset())]
    wanted = {taps[there.index(p[0])] if p else MOTOR for p in places}
    for k, place in enumerate(places, start=1):
        if place and tuple(place) != tuple(there[there.index(place[0]) :]):
            raise InputError(
                "positions", list(place), "from one resistor to the chain's end",
                f"in position {k} resistors in the middle of the chain are left out: that is no chain on a switch",
            )  # fmt: skip
    nets = [t for t in (*taps, MOTOR) if t in wanted]
    names = {net: f"S{i}" for i, net in enumerate(nets, start=1)}
    contacts = [Part(names[net], PartKind.CONTACT, fed, net) for net in nets]
    for k, place in enumerate(places, start=1):
        net = taps[there.index(place[0])] if place else MOTOR
        positions.append(Position(str(k), frozenset({names[net]})))
    resistors = [
        Part(
            ref_of(f"{Role.RESISTOR.value}-{n}"),
            PartKind.RESISTOR,
            near,
            end,
            values[f"{Role.RESISTOR.value}-{n}"],
        )
        for n, near, end in zip(there, taps, far, strict=True)
    ]
    return Circuit(SUPPLY, MOTOR, (*parts, *contacts, *resistors), tuple(positions))


def _fired(board: Board, values: Mapping[str, float]) -> Iterator[Part]:
    def part(role: Role, a: str, b: str, gate: str = "") -> Iterator[Part]:
        value = values.get(role.value)
        if value is not None:
            facts = ROLES[role]
            yield Part(facts.ref, facts.kind, a, b, value, net_gate=gate)

    if Role.TRIAC.value not in values:
        raise InputError(
            "triac.condition", "missing", "a triac", "without the triac nothing leads from the line to the motor"
        )  # fmt: skip
    yield Part("S", PartKind.CONTACT, SUPPLY, "s")
    fused, choked = Role.FUSE.value in values, Role.CHOKE.value in values
    fed = "f" if fused else "s"
    anode = "a" if choked else fed
    yield from part(Role.FUSE, "s", "f")
    yield from part(Role.CHOKE, fed, "a")
    yield from part(Role.TRIAC, anode, MOTOR, "g")
    snubbed = Role.SNUBBER_RESISTOR.value in values and Role.SNUBBER_CAPACITOR.value in values
    middle = "rc" if snubbed else MOTOR
    yield from part(Role.SNUBBER_RESISTOR, anode, middle)
    yield from part(Role.SNUBBER_CAPACITOR, "rc" if snubbed else anode, MOTOR)
    three = board.topology is not Topology.TWO_WIRE
    yield from part(Role.X_CAPACITOR, fed, _NEUTRAL if three else MOTOR)
    if board.topology is Topology.OPTO:
        if board.part(Role.OPTO) is not None and board.fitted(Role.OPTO) is None:
            raise InputError(
                "opto.condition", "missing", "what fires the gate",
                "without its opto-triac the triac's gate hangs on nothing",
            )  # fmt: skip
        if Role.GATE_RESISTOR.value not in values:
            raise InputError(
                "gate-resistor.condition", "missing", "a gate resistor",
                "without its gate resistor the triac's gate hangs on nothing",
            )  # fmt: skip
        yield from part(Role.GATE_RESISTOR, anode, "o")
        yield Part("U1", PartKind.OPTO, "o", "g")
        if Role.DROPPER.value in values:
            yield from part(Role.DROPPER, fed, "p")
            yield Part("PS", PartKind.BLOCK, "p", _NEUTRAL)
        return
    far = _NEUTRAL if three else MOTOR
    yield from part(Role.END_RESISTOR, anode, "k")
    yield from part(Role.KNOB, "k", "c")
    yield from part(Role.ACROSS_KNOB, "k", "c")
    yield from part(Role.TIMING_CAPACITOR, "c", far)
    two = Role.SECOND_RESISTOR.value in values and Role.SECOND_CAPACITOR.value in values
    if two:
        yield from part(Role.SECOND_RESISTOR, "c", "d")
        yield from part(Role.SECOND_CAPACITOR, "d", far)
    yield from part(Role.DIAC, "d" if two else "c", "g")


def unit_of(board: Board, values: Mapping[str, float], frequency_hz: float = 50.0) -> Transformer:
    """The transformer of a stepped control; raises InputError where it cannot be."""
    part = board.fitted(Role.TRANSFORMER)
    volts = 230.0 if part is None or part.volts_v is None else part.volts_v
    whole = max((v for v, _ in board.taps), default=volts)
    # A plate says the next size up or down; a class is what its ohms are taken from.
    va = values[Role.TRANSFORMER.value]
    return transformer(
        board.winding, min(max(va, 10.0), 250.0), volts, frequency_hz, None if board.winding is Winding.AUTO else whole
    )  # fmt: skip


def stepped_circuit(board: Board, values: Mapping[str, float]) -> Circuit:
    """The circuit of a transformer with taps."""
    return tapped_circuit(
        stepped_design(board, values), unit_of(board, values), values.get(Role.FUSE.value, _FUSE_A)
    )


def stepped_design(board: Board, values: Mapping[str, float]) -> SteppedDesign:
    """The same as a design; raises InputError on taps that contradict each other."""
    if not board.taps:
        raise InputError("taps", None, "volts of at least one tap", "no tap leads to the motor")
    unit = unit_of(board, values)
    taps = board.taps
    direct = (
        board.winding is Winding.AUTO
        and len(taps) > 1
        and abs(taps[-1][0] - unit.supply_v) <= 0.005 * unit.supply_v
    )
    if direct:
        taps = taps[:-1]
    return SteppedDesign(
        board.winding, tuple(Tap(v, r) for v, r in taps), direct=direct, va=unit.va,
        rated_v=unit.supply_v, rated_hz=unit.frequency_hz, switch=Switch(positions=6),
    )  # fmt: skip


def drawing_of(board: Board, circuit: Circuit) -> Drawing:
    """Where its parts stand."""
    if board.topology is Topology.STEPPED:
        return tapped_sketch(circuit)
    return fired_sketch(circuit) if board.topology in FIRED else draw(circuit)
