"""Where each part of a transformer with taps stands on the schematic: sections in a row, a contact below each tap."""

from __future__ import annotations

from fenwit.core.circuit import Circuit, PartKind
from fenwit.core.circuit.drawing import Drawing, Placed, Wire

_ROW, _SECTION, _CONTACT = 1.5, 1.9, 1.6


def sketch(circuit: Circuit) -> Drawing:
    """Place every part: the fuse, the winding's sections in a row from line to neutral, a contact from each tap.

    The row of sections runs from the line at the left to the neutral at the right; contacts hang below their tap and end
    on the motor's line.

    Parameters
    ----------
    circuit : Circuit
        From `tapped_circuit` [-]

    Returns
    -------
    Drawing
        Parts, wires and joints [-]
    """
    placed: list[Placed] = []
    wires: list[Wire] = []
    dots: list[tuple[float, float]] = []
    sections = [p for p in circuit.parts if p.kind is PartKind.WINDING and p.name != "WP"]
    primary = next((p for p in circuit.parts if p.name == "WP"), None)
    contacts = [p for p in circuit.parts if p.kind is PartKind.CONTACT]
    top = 1.0
    placed.append(Placed("F", PartKind.FUSE, 0.5, 1.9, top))
    wires += [Wire(0.0, top, 0.5, top), Wire(1.9, top, 2.6, top)]
    start = 2.6
    row = top if primary is None else top + _ROW
    # From the end at the line, section by section, to the neutral.
    at = {sections[-1].net_a: start}
    x = start
    for part in reversed(sections):
        placed.append(Placed(part.name, part.kind, x + 0.2, x + 0.2 + _SECTION, row))
        wires += [Wire(x, row, x + 0.2, row), Wire(x + 0.2 + _SECTION, row, x + 0.4 + _SECTION, row)]
        x += 0.4 + _SECTION
        at[part.net_b] = x
    end = x
    if primary is not None:
        middle = (start + end) / 2
        placed.append(Placed("WP", primary.kind, middle - _SECTION / 2, middle + _SECTION / 2, top))
        wires += [
            Wire(start, top, middle - _SECTION / 2, top),
            Wire(middle + _SECTION / 2, top, end, top),
            Wire(end, top, end, row),
        ]
    lead = end + 1.0
    y = row + 0.9
    rows: list[float] = []
    for part in reversed(contacts):
        here = at.get(part.net_a, start)
        wires += [
            Wire(here, row, here, y),
            Wire(here, y, lead - _CONTACT - 0.3, y),
            Wire(lead - 0.3, y, lead, y),
        ]
        placed.append(Placed(part.name, part.kind, lead - _CONTACT - 0.3, lead - 0.3, y))
        dots.append((here, row))
        rows.append(y)
        y += 0.9
    if len(rows) > 1:
        wires.append(Wire(lead, rows[0], lead, rows[-1]))
        dots += [(lead, r) for r in rows[1:-1]]
    dots.append((lead, rows[0]))
    if primary is not None:
        placed.append(Placed("F2", PartKind.FUSE, lead + 0.2, lead + 1.6, rows[0]))
        wires.append(Wire(lead, rows[0], lead + 0.2, rows[0]))
        lead += 1.6
    wires.append(Wire(lead, rows[0], lead + 0.9, rows[0]))
    rail = y + 0.3
    wires += [Wire(end, row, end, rail), Wire(0.0, rail, lead + 0.9, rail)]
    dots += [(end, rail), (start, top)]
    return Drawing(
        tuple(placed),
        tuple(w for w in wires if (w.x1, w.y1) != (w.x2, w.y2)),
        tuple(dict.fromkeys(dots)),
        (0.0, top),
        (lead + 0.9, rows[0]),
        lead + 2.4,
        rail + 0.6,
        None,
        ((0.0, rail), (lead + 0.9, rail)),
    )
