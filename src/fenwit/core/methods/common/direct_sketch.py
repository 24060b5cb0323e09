"""Where the parts around a DC fan stand on the schematic: rows from supply and logic to the fan's own leads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from fenwit.core.circuit import PartKind
from fenwit.core.circuit.drawing import Drawing, Placed, Wire

_FIRST, _COLUMN, _GAP, _ROW = 0.6, 2.4, 0.3, 1.1
RETURN = ("0 V", "fan −")


@dataclass(frozen=True)
class Row:
    """Parts one behind the other between two words; an empty word: the row ends at a join."""

    left: str
    parts: tuple[tuple[str, PartKind], ...]
    right: str
    column: int = 0
    """Where its first part stands [-]"""
    backwards: bool = False
    """Its parts point to the left [-]"""


@dataclass(frozen=True)
class Join:
    """An upright wire between two rows, before the part of a column."""

    above: int
    below: int
    column: int


def rows_drawn(rows: Sequence[Row], joins: Sequence[Join] = ()) -> Drawing:
    """Place rows under each other; the first runs from the supply to the fan's plus lead.

    Parameters
    ----------
    rows : sequence of Row
        From the top [-]
    joins : sequence of Join
        What is wired together across them [-]

    Returns
    -------
    Drawing
        Parts, wires, joints and the words at their ends [-]
    """
    columns = max(row.column + len(row.parts) for row in rows)
    last = _node(columns) + _FIRST
    placed: list[Placed] = []
    wires: list[Wire] = []
    ends: list[tuple[str, float, float, str]] = []
    for i, row in enumerate(rows):
        y = 1.0 + _ROW * i
        here = 0.0 if row.left else _node(row.column)
        for k, (name, kind) in enumerate(row.parts):
            x1, x2 = _node(row.column + k) + _GAP, _node(row.column + k + 1) - _GAP
            wires.append(Wire(here, y, x1, y))
            placed.append(Placed(name, kind, x2, x1, y) if row.backwards else Placed(name, kind, x1, x2, y))
            here = x2
        wires.append(Wire(here, y, last if row.right else _node(row.column + len(row.parts)), y))
        if i > 0:
            ends += [(row.left, 0.0, y, "left")] if row.left else []
            ends += [(row.right, last, y, "right")] if row.right else []
    dots = []
    for join in joins:
        x, top, foot = _node(join.column), 1.0 + _ROW * join.above, 1.0 + _ROW * join.below
        wires.append(Wire(x, top, x, foot))
        dots += [
            (x, y) for row, y in ((join.above, top), (join.below, foot)) if rows[row].left or rows[row].right
        ]
    return Drawing(
        tuple(placed), tuple(wires), tuple(dots), (0.0, 1.0), (last, 1.0), last + 2.0, 1.6 + _ROW * (len(rows) - 1),
        load_name=rows[0].right, ends=tuple(ends),
    )  # fmt: skip


def with_return(drawing: Drawing) -> Drawing:
    """A drawing of what stands in the plus lead, with the way back under it."""
    y, x = drawing.height + 0.2, drawing.load[0]
    left, right = RETURN
    return replace(
        drawing,
        wires=(*drawing.wires, Wire(0.0, y, x, y)),
        height=y + 0.6,
        load_name="fan +",
        ends=((left, 0.0, y, "left"), (right, x, y, "right")),
    )


def _node(column: int) -> float:
    return _FIRST + _COLUMN * column
