"""Where each part stands on the schematic: nets as upright lines, parts in rows between them. Data, no picture."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.circuit import Circuit, Part, PartKind
from fenwit.core.circuit.contacts import branch_ends

_COLUMN, _ROW = 2.6, 1.0
_PART_WIDTH = 2.0


@dataclass(frozen=True)
class Placed:
    """A part between two points."""

    part: str
    kind: PartKind
    x1: float
    x2: float
    y: float


@dataclass(frozen=True)
class Wire:
    """A straight wire, level or upright."""

    x1: float
    y1: float
    x2: float
    y2: float


@dataclass(frozen=True)
class Drawing:
    """A schematic as data; x to the right, y downwards, in grid units."""

    placed: tuple[Placed, ...]
    wires: tuple[Wire, ...]
    dots: tuple[tuple[float, float], ...]
    """Where wires are joined; wires that only cross are not"""
    line: tuple[float, float]
    """Where the supply comes in"""
    load: tuple[float, float]
    """Where the motor is connected"""
    width: float
    height: float
    gate: tuple[str, float, float] | None = None
    """A triac, and the point its gate is wired to"""
    neutral: tuple[tuple[float, float], ...] = ()
    """Ends of the neutral's rail, supply side first; empty where a regulator has two wires"""
    load_name: str = "motor"
    """What is connected where the load is"""
    far_sides: tuple[Placed, ...] = ()
    """Isolators a second time, by the side that no part of the regulator's own current passes"""
    ends: tuple[tuple[str, float, float, str], ...] = ()
    """Further terminals: word, place, and on which side the word stands"""


def draw(circuit: Circuit) -> Drawing:
    """Place every part of a regulator.

    The fuse leads from the supply to the first upright line. Contacts take a row each, then capacitors with the limiter
    before them, each with its bleeds in the row below; what is left takes a row each.

    Parameters
    ----------
    circuit : Circuit
        The regulator [-]

    Returns
    -------
    Drawing
        Parts, wires and joints [-]
    """
    sketch = _Sketch(circuit)
    for part in circuit.parts:
        if part.kind is PartKind.CONTACT:
            sketch.row(part.net_a, part.net_b, [part])
    drawn: set[str] = set()
    for part in circuit.parts:
        if part.kind is PartKind.CAPACITOR:
            drawn |= sketch.branch(part)
    for part in circuit.parts:
        if part.name not in drawn and part.kind not in (PartKind.CONTACT, PartKind.FUSE):
            sketch.row(part.net_a, part.net_b, [part])
    return sketch.finish()


class _Sketch:
    """Rows as they are added; upright lines are drawn when all rows are known."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.fuse = next((p for p in circuit.parts if p.kind is PartKind.FUSE), None)
        first = self.fuse.net_b if self.fuse else circuit.line
        ends: list[str] = [first]
        for part in circuit.parts:
            nets = branch_ends(circuit, part) if part.kind is PartKind.CAPACITOR else (part.net_a, part.net_b)
            if part.kind in (PartKind.CONTACT, PartKind.CAPACITOR):
                ends += nets
        seen = list(dict.fromkeys(ends))
        # Contacts end at the first columns, so that the branches have room between the middle ones and the motor.
        middle = [n for n in seen if n not in (first, circuit.load)]
        # A net where branches end before the motor stands to the right of those branches.
        inner = {branch_ends(circuit, p)[1] for p in circuit.parts if p.kind is PartKind.CAPACITOR} - {
            first,
            circuit.load,
        }
        self.x = {first: 3.0}
        columns = sorted(n for n in middle if n not in inner)
        # Parts between two of these columns, like the links of a tapped chain, need room there.
        self.links = {
            frozenset((p.net_a, p.net_b))
            for p in circuit.parts
            if p.kind not in (PartKind.CONTACT, PartKind.CAPACITOR) and {p.net_a, p.net_b} <= set(columns)
        }
        for i, net in enumerate(columns):
            before = [self.x[n] for n in columns[:i] if frozenset((n, net)) in self.links]
            least = max(self.x.values()) + 0.7 if i else 3.0 + _COLUMN + 0.7
            self.x[net] = max([least, *(x + _PART_WIDTH + 0.6 for x in before)])
        last = max(self.x.values())
        # Branches begin where no upright line can run through their parts.
        self.start = last + 0.3
        for net in sorted(inner):
            self.x[net] = last = last + 2 * _PART_WIDTH + 1.2
        self.x[circuit.load] = last + 2 * _PART_WIDTH + 1.6
        self.first = first
        self.y = 0.0
        self.placed: list[Placed] = []
        self.wires: list[Wire] = []
        self.touched: dict[str, list[float]] = {}
        self.joints: list[tuple[float, float]] = []
        self.begun = 0.0

    def row(self, net_a: str, net_b: str, parts: list[Part]) -> float:
        """Parts in a row between two upright lines; returns its height."""
        self.y += _ROW
        y, (left, right) = self.y, sorted((net_a, net_b), key=lambda n: self._x(n))
        x = self._x(left)
        # A contact of the second pole stands at the motor's side, where that pole's common is.
        if right == self.circuit.load and parts[0].kind is PartKind.CONTACT and left != self.first:
            x = self._x(right) - _PART_WIDTH - 0.3
            self.wires.append(Wire(self._x(left), y, x, y))
        elif frozenset((left, right)) in self.links:
            self.wires.append(Wire(x, y, x + 0.3, y))
            x += 0.3
        elif parts[0].kind is not PartKind.CONTACT and x < self.start:
            self.wires.append(Wire(x, y, self.start, y))
            x = self.start
        self.begun = x
        for part in parts:
            self.placed.append(Placed(part.name, part.kind, x, x + _PART_WIDTH, y))
            x += _PART_WIDTH
        self.wires.append(Wire(x, y, self._x(right), y))
        for net in (left, right):
            self.touched.setdefault(net, []).append(y)
        return y

    def branch(self, capacitor: Part) -> set[str]:
        """A capacitor with the limiter before it, and its bleeds in a row below; returns the names drawn."""
        far, near = branch_ends(self.circuit, capacitor)
        if self._x(far) > self._x(near):
            far, near = near, far
        limiters = [
            p
            for p in self.circuit.parts
            if p.kind is PartKind.RESISTOR
            and {p.net_a, p.net_b} & {far}
            and {p.net_a, p.net_b} & {capacitor.net_a, capacitor.net_b}
            and far not in (capacitor.net_a, capacitor.net_b)
        ]
        self.y += 0.3
        y = self.row(far, near, [*limiters, capacitor])
        bleeds = [p for p in self.circuit.parts if p.bleeds == capacitor.name]
        if bleeds:
            self.y += 0.8 * _ROW
            below = self.y
            start = self.begun + _PART_WIDTH * len(limiters)
            x, width = start, (_PART_WIDTH if len(bleeds) == 1 else _PART_WIDTH * 0.62)
            for part in bleeds:
                self.placed.append(Placed(part.name, part.kind, x, x + width, below))
                x += width
            end = max(x, start + _PART_WIDTH)
            self.wires += [Wire(x, below, end, below), Wire(start, y, start, below), Wire(end, y, end, below)]
            self.joints += [(start, y), (end, y)]
            if end > self._x(near):
                self.wires.append(Wire(self._x(near), y, end, y))
        return {capacitor.name, *(p.name for p in limiters), *(p.name for p in bleeds)}

    def _x(self, net: str) -> float:
        return self.x.setdefault(net, self.x[self.circuit.load] - 1.0)

    def finish(self) -> Drawing:
        """Upright lines, joints and terminals."""
        dots = list(self.joints)
        for net, rows in self.touched.items():
            x, top, bottom = self._x(net), min(rows), max(rows)
            if bottom > top:
                self.wires.append(Wire(x, top, x, bottom))
                dots += [(x, y) for y in rows if top < y < bottom]
        y = min(self.touched.get(self.first, [1.0]))
        x = self._x(self.first)
        if self.fuse:
            self.placed.append(Placed(self.fuse.name, PartKind.FUSE, 0.6, x - 0.4, y))
            self.wires += [Wire(0.0, y, 0.6, y), Wire(x - 0.4, y, x, y)]
        else:
            self.wires.append(Wire(0.0, y, x, y))
        dots.append((x, y))
        load = self.circuit.load
        rows = self.touched.get(load, [y])
        x_load = self._x(load)
        self.wires.append(Wire(x_load, max(rows), x_load + 0.9, max(rows)))
        dots.append((x_load, max(rows)))
        return Drawing(
            tuple(self.placed),
            tuple(w for w in self.wires if (w.x1, w.y1) != (w.x2, w.y2)),
            tuple(dict.fromkeys(dots)),
            (0.0, y),
            (x_load + 0.9, max(rows)),
            x_load + 2.4,
            self.y + 0.6,
        )
