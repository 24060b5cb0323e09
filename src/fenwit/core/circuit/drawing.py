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


def draw(circuit: Circuit) -> Drawing:
    """Place every part of a regulator.

    The fuse leads from the supply to the first upright line. Contacts take a row each, then capacitors with the limiter
    before them, each with its bleeds in the row below. A triac stands in the uppermost row; below it what fires it, then
    its snubber, then what stands across the mains.

    Parameters
    ----------
    circuit : Circuit
        The regulator [-]

    Returns
    -------
    Drawing
        Parts, wires and joints [-]
    """
    if any(p.kind is PartKind.TRIAC for p in circuit.parts):
        return _ControlSketch(circuit).drawn()
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
        for i, net in enumerate(sorted(n for n in middle if n not in inner)):
            self.x[net] = 3.0 + _COLUMN + 0.7 * (i + 1)
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
        bleeds = [p for p in self.circuit.parts if p.name.startswith(f"D{capacitor.name}")]
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


_STEP, _WIDE = 1.45, 1.4


class _ControlSketch:
    """A triac control: nets as upright lines at fixed places, since such a circuit always has the same few."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.parts = {p.name: p for p in circuit.parts}
        self.two_stages = "C2" in self.parts
        self.x_t, self.x_c, self.x_d = 5.3, 8.9, 12.3
        self.x_m = 14.4 if self.two_stages else 12.6
        self.x_gate = 11.2
        self.y = 1.0
        self.placed: list[Placed] = []
        self.wires: list[Wire] = []
        self.dots: list[tuple[float, float]] = []
        self.touched: dict[float, list[float]] = {}

    def drawn(self) -> Drawing:
        x_fed = self._main_row()
        fires_at = self._knob() if "P" in self.parts else self._opto()
        if "RS" in self.parts:
            self.y += _STEP
            self._row(self.x_t, self.x_m, ("RS", "CS"), self.x_t + 0.5)
        neutral = self._across(x_fed)
        self._uprights()
        return Drawing(
            tuple(self.placed),
            tuple(w for w in self.wires if (w.x1, w.y1) != (w.x2, w.y2)),
            tuple(dict.fromkeys(self.dots)),
            (0.0, 1.0),
            (self.x_m + 0.9, 1.0),
            self.x_m + 2.4,
            self.y + 0.6,
            ("T", self.x_gate, fires_at),
            neutral,
        )

    def _place(self, name: str, x: float, y: float, width: float = _WIDE) -> float:
        self.placed.append(Placed(name, self.parts[name].kind, x, x + width, y))
        return x + width

    def _row(self, left: float, right: float, names: tuple[str, ...], start: float) -> None:
        """Parts one after another between two upright lines."""
        y, x = self.y, start
        self.wires.append(Wire(left, y, start, y))
        for name in names:
            end = self._place(name, x, y)
            self.wires.append(Wire(end, y, end + 0.2, y))
            x = end + 0.2
        self.wires.append(Wire(x, y, right, y))
        for line in (left, right):
            self.touched.setdefault(line, []).append(y)

    def _main_row(self) -> float:
        y = 1.0
        x = self._place("S", 0.3, y)
        self.wires.append(Wire(0.0, y, 0.3, y))
        for name in ("F", "L1"):
            if name == "L1":
                x_fed = x + 0.2
            if name in self.parts:
                self.wires.append(Wire(x, y, x + 0.3, y))
                x = self._place(name, x + 0.3, y)
        self.wires.append(Wire(x, y, 9.8, y))
        end = self._place("T", 9.8, y)
        self.wires.append(Wire(end, y, self.x_m + 0.9, y))
        self.touched = {x_fed: [y], self.x_t: [y], self.x_m: [y]}
        return x_fed

    def _knob(self) -> float:
        """Row of the diac, row of the knob, and a row below for what stands beside it; returns the gate's row."""
        gate = self.y = 1.0 + 1.1 * _STEP
        row = self.y + _STEP
        head = self.x_d if self.two_stages else self.x_c
        if self.two_stages:
            self._place("D", self.x_gate + 0.1, gate, 1.2)
            self.wires += [
                Wire(self.x_gate, gate, self.x_gate + 0.1, gate),
                Wire(self.x_gate + 1.3, gate, head, gate),
            ]
        else:
            self._place("D", head + 0.3, gate, 1.2)
            self.wires += [Wire(head, gate, head + 0.3, gate), Wire(head + 1.5, gate, self.x_gate, gate)]
        self.wires.append(Wire(head, gate, head, row))
        self.dots.append((head, row))
        self.y = row
        chain = ("R1", "P", "R3", "C2") if self.two_stages else ("R1", "P", "C1")
        x = self.x_t + 0.3
        self.wires.append(Wire(self.x_t, row, x, row))
        for name in chain:
            start = {"C1": self.x_c + 0.5, "R3": self.x_c + 0.6, "C2": self.x_d + 0.3}.get(name, x)
            self.wires.append(Wire(x, row, start, row))
            x = self._place(name, start, row)
            if name == "R1":
                self.wires.append(Wire(x, row, x + 0.3, row))
                x += 0.3
        self.wires.append(Wire(x, row, self.x_m, row))
        for line in (self.x_t, self.x_m):
            self.touched[line].append(row)
        if "R2" in self.parts or self.two_stages:
            self.y = below = row + _STEP
            if "R2" in self.parts:
                knob = next(p for p in self.placed if p.part == "P")
                self._place("R2", knob.x1, below)
                left, right = knob.x1 - 0.15, self.x_c
                self.wires += [
                    Wire(left, below, knob.x1, below),
                    Wire(knob.x2, below, right, below),
                    Wire(left, row, left, below),
                    Wire(right, row, right, below),
                ]
                self.dots += [(left, row), (right, row)]
            if self.two_stages:
                end = self._place("C1", self.x_c + 0.6, below)
                self.wires += [
                    Wire(self.x_c, row, self.x_c, below),
                    Wire(self.x_c, below, self.x_c + 0.6, below),
                    Wire(end, below, self.x_m, below),
                ]
                self.dots.append((self.x_c, row))
                self.touched[self.x_m].append(below)
        return gate

    def _opto(self) -> float:
        gate = self.y = 1.0 + 1.1 * _STEP
        self.wires.append(Wire(self.x_t, gate, self.x_t + 0.5, gate))
        x = self._place("RG", self.x_t + 0.5, gate)
        self.wires.append(Wire(x, gate, x + 0.3, gate))
        x = self._place("U1", x + 0.3, gate)
        self.wires.append(Wire(x, gate, self.x_gate, gate))
        self.touched[self.x_t].append(gate)
        return gate

    def _across(self, x_fed: float) -> tuple[tuple[float, float], ...]:
        """What stands across choke and triac, or across the mains with a neutral below."""
        rows = [n for n in (("CX",), ("RV",), ("RZ", "U2"), ("RD", "CD", "PS")) if n[0] in self.parts]
        to_neutral = any(self.parts[n[0]].net_b == "neutral" or n[0] == "RZ" for n in rows)
        right = self.x_m - 0.8 if to_neutral else self.x_m
        for names in rows:
            self.y += _STEP
            self._row(x_fed, right, names, self.x_t + 0.5)
        if not to_neutral:
            return ()
        self.y += _STEP
        rail = self.y
        self.wires.append(Wire(0.0, rail, self.x_m + 0.9, rail))
        self.touched[right].append(rail)
        self.dots.append((right, rail))
        return (0.0, rail), (self.x_m + 0.9, rail)

    def _uprights(self) -> None:
        for x, rows in self.touched.items():
            top, bottom = min(rows), max(rows)
            if bottom > top:
                self.wires.append(Wire(x, top, x, bottom))
                self.dots += [(x, y) for y in rows if y < bottom and (y > top or top == 1.0)]
