"""Where each part of a switch on winding taps stands on the schematic: contacts to their leads, the winding in a row."""

from __future__ import annotations

from fenwit.core.circuit import Circuit, PartKind
from fenwit.core.circuit.drawing import Drawing, Placed, Wire

_SECTION, _CONTACT, _ROW = 1.9, 1.6, 0.9


def sketch(circuit: Circuit) -> Drawing:
    """Place every part: fuse and contacts at the left, leads to the right, sections from the slowest tap to common.

    Parameters
    ----------
    circuit : Circuit
        From `taps_circuit` [-]

    Returns
    -------
    Drawing
        Parts, wires and joints; its load terminal is the motor's common lead [-]
    """
    placed = [Placed("F", PartKind.FUSE, 0.5, 1.9, 1.0)]
    contacts = [p for p in circuit.parts if p.kind is PartKind.CONTACT]
    sections = [p for p in circuit.parts if p.kind is PartKind.WINDING]
    wires = [Wire(0.0, 1.0, 0.5, 1.0), Wire(1.9, 1.0, 2.4, 1.0)]
    dots: list[tuple[float, float]] = [(2.4, 1.0)]
    # The winding as a row at the bottom, its slowest end at the left.
    floor = 1.0 + _ROW * max(len(contacts), 1) + 0.9
    x = 2.4 + 0.3 + _CONTACT + 1.2
    at: dict[str, float] = {}
    for part in reversed(sections):
        at.setdefault(part.net_a, x)
        placed.append(Placed(part.name, part.kind, x + 0.2, x + 0.2 + _SECTION, floor))
        wires += [Wire(x, floor, x + 0.2, floor), Wire(x + 0.2 + _SECTION, floor, x + 0.4 + _SECTION, floor)]
        x += 0.4 + _SECTION
        at[part.net_b] = x
    rows: list[float] = []
    for i, part in enumerate(contacts):
        y = 1.0 + _ROW * i
        lead = at[part.net_b]
        placed.append(Placed(part.name, part.kind, 2.7, 2.7 + _CONTACT, y))
        wires += [Wire(2.4, y, 2.7, y), Wire(2.7 + _CONTACT, y, lead, y), Wire(lead, y, lead, floor)]
        dots.append((lead, floor))
        rows.append(y)
    if len(rows) > 1:
        wires.append(Wire(2.4, rows[0], 2.4, rows[-1]))
        dots += [(2.4, y) for y in rows[1:-1]]
    end = at[circuit.load]
    wires.append(Wire(end, floor, end + 0.9, floor))
    return Drawing(
        tuple(placed),
        tuple(w for w in wires if (w.x1, w.y1) != (w.x2, w.y2)),
        tuple(dict.fromkeys(dots)),
        (0.0, 1.0),
        (end + 0.9, floor),
        end + 2.4,
        floor + 0.6,
    )
