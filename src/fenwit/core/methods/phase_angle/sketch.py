"""Where each part of a phase-angle control stands on the schematic: the triac uppermost, below it what fires it."""

from __future__ import annotations

from fenwit.core.circuit import Circuit
from fenwit.core.circuit.drawing import Drawing, Placed, Wire


def sketch(circuit: Circuit) -> Drawing:
    """Place every part: the triac's row, what fires it, its snubber, then what stands across the mains.

    Parameters
    ----------
    circuit : Circuit
        From `phase_circuit` [-]

    Returns
    -------
    Drawing
        Parts, wires and joints [-]
    """
    return _Sketch(circuit).drawn()


_STEP, _WIDE = 1.45, 1.4


class _Sketch:
    """Nets as upright lines at fixed places, since such a circuit always has the same few."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        self.parts = {p.name: p for p in circuit.parts}
        self.two_stages = "C2" in self.parts
        self.three_wire = "C1" in self.parts and self.parts["C1"].net_b == "neutral"
        self.x_t, self.x_c, self.x_d = 5.3, 8.9, 12.3
        self.x_m = 14.4 if self.two_stages else 12.6
        self.x_gate = 11.2
        self.y = 1.0
        self.placed: list[Placed] = []
        self.wires: list[Wire] = []
        self.dots: list[tuple[float, float]] = []
        self.touched: dict[float, list[float]] = {}
        self.far: list[Placed] = []
        self.ends: list[tuple[str, float, float, str]] = []

    def drawn(self) -> Drawing:
        x_fed = self._main_row()
        fires_at = self._knob() if "P" in self.parts else self._opto()
        snubber = tuple(n for n in ("RS", "CS") if n in self.parts)
        if snubber:
            self.y += _STEP
            self._row(self.x_t, self.x_m, snubber, self.x_t + 0.5)
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
            far_sides=tuple(self.far),
            ends=tuple(self.ends),
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
        # Timed by the mains, the network ends on the neutral's upright instead of the motor's.
        far = self.x_m - 0.8 if self.three_wire else self.x_m
        self.wires.append(Wire(x, row, far, row))
        for line in (self.x_t, far):
            self.touched.setdefault(line, []).append(row)
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
                    Wire(end, below, far, below),
                ]
                self.dots.append((self.x_c, row))
                self.touched[far].append(below)
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
        every = (("CX",), ("RV",), ("RZ", "U2"), ("RD", "CD", "PS"))
        rows = [there for n in every if (there := tuple(name for name in n if name in self.parts))]
        to_neutral = self.three_wire or any(self.parts[n].net_b == "neutral" for names in rows for n in names)
        right = self.x_m - 0.8 if to_neutral else self.x_m
        for names in rows:
            self.y += _STEP
            self._row(x_fed, right, names, self.x_t + 0.5)
        if not to_neutral:
            return ()
        for name, pin in (("U1", "pulse, through its resistor"), ("U2", "zero")):
            if name in self.parts:
                self._far_side(name, pin, right)
        self.y += _STEP
        rail = self.y
        self.wires.append(Wire(0.0, rail, self.x_m + 0.9, rail))
        self.touched.setdefault(right, []).append(rail)
        self.dots.append((right, rail))
        return (0.0, rail), (self.x_m + 0.9, rail)

    def _far_side(self, name: str, pin: str, right: float) -> None:
        """An isolator's other side, between a pin of the controller and its 0 V, which is the neutral."""
        self.y += _STEP
        start = self.x_t + 0.5
        self.far.append(Placed(name, self.parts[name].kind, start, start + _WIDE, self.y))
        self.wires += [Wire(self.x_t, self.y, start, self.y), Wire(start + _WIDE, self.y, right, self.y)]
        self.ends.append((pin, self.x_t, self.y, "left"))
        self.touched.setdefault(right, []).append(self.y)

    def _uprights(self) -> None:
        for x, rows in self.touched.items():
            top, bottom = min(rows), max(rows)
            if bottom > top:
                self.wires.append(Wire(x, top, x, bottom))
                self.dots += [(x, y) for y in rows if y < bottom and (y > top or top == 1.0)]
