"""Where words stand on the drawing of a wiring: beside what they tell of, over no terminal and over no other words."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass

from fenwit.core.circuit.wiring.layout import Sheet

LETTER, LINE, PAD, CHARS = 7.6, 18.0, 5.0, 24
"""Width of a letter, height of a line, room around the words [px]; letters to a line"""
_AWAY, _WIRE, _OVER = 1.0, 14.0, 1e4
"""What a candidate costs for each pixel away, for each wire it covers, and for covering a part or other words"""


@dataclass(frozen=True)
class Mark:
    """Words, and what on the drawing they belong to."""

    words: str
    terminals: tuple[str, ...] = ()
    nets: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()


@dataclass(frozen=True)
class Flag:
    """Words in a frame, with the point that a line leads to from it."""

    lines: tuple[str, ...]
    x: float
    y: float
    width: float
    height: float
    to: tuple[float, float]


Rectangle = tuple[float, float, float, float]


def flagged(sheet: Sheet, marks: Sequence[Mark]) -> tuple[Flag, ...]:
    """Place words beside the paths they tell of.

    Parameters
    ----------
    sheet : Sheet
        The drawing [-]
    marks : sequence of Mark
        What is to be said; what nothing on the drawing bears is said below it [-]

    Returns
    -------
    tuple of Flag
        One for each mark; some may stand below the drawing's own height [px]
    """
    boxes = [(b.x, b.y, b.width, b.height) for b in sheet.boxes]
    wires = [piece for run in sheet.runs for piece in run.pieces]
    taken: list[Rectangle] = []
    found = []
    for mark in marks:
        lines = tuple(textwrap.wrap(mark.words, CHARS, break_long_words=True)[:4])
        width = 2 * PAD + LETTER * max(map(len, lines), default=1)
        height = 2 * PAD + LINE * len(lines) - 3
        targets = _targets(sheet, mark)
        below = max([sheet.height, *(y + h for _, y, _, h in taken)]) + PAD
        best = min(
            [
                (_cost((x, y, width, height), to, boxes, wires, taken), x, y, to)
                for to in targets
                for x, y in _around(to, width, height, sheet)
            ],
            default=(_OVER, 0.0, 0.0, (0.0, 0.0)),
        )
        cost, x, y, to = best
        if cost >= _OVER:
            to = targets[0] if targets else (sheet.width / 2, below)
            x, y = min(max(0.0, to[0] - width / 2), max(0.0, sheet.width - width)), below
        taken.append((x, y, width, height))
        found.append(Flag(lines, x, y, width, height, to))
    return tuple(found)


def _targets(sheet: Sheet, mark: Mark) -> list[tuple[float, float]]:
    """Points on the marked path: its wires' middles, its terminals, its parts' heads."""
    found = []
    for run in sheet.runs:
        if run.net in mark.nets:
            longest = sorted(run.pieces, key=lambda p: -abs(p[2] - p[0]) - abs(p[3] - p[1]))
            found += [((x1 + x2) / 2, (y1 + y2) / 2) for x1, y1, x2, y2 in longest[:3]]
    for box in sheet.boxes:
        found += [(pin.x, pin.y) for pin in box.pins if pin.terminal in mark.terminals]
        if box.part in mark.parts:
            found += [(box.x + box.width / 2, box.y), (box.x + box.width / 2, box.y + box.height)]
    return found


def _around(to: tuple[float, float], width: float, height: float, sheet: Sheet) -> list[tuple[float, float]]:
    x, y = to
    places = []
    for dx in (-width - 10, -width / 2, 10):
        for dy in (-height - 8, -height / 2, 8, -height - 30, 30):
            if dx == -width / 2 and dy == -height / 2:
                continue  # it would hide the place itself
            left = min(max(0.0, x + dx), max(0.0, sheet.width - width))
            places.append((left, max(0.0, y + dy)))
    return places


def _cost(
    at: Rectangle,
    to: tuple[float, float],
    boxes: Sequence[Rectangle],
    wires: Sequence[Rectangle],
    taken: Sequence[Rectangle],
) -> float:
    x, y, width, height = at
    cost = _AWAY * (abs(x + width / 2 - to[0]) + abs(y + height / 2 - to[1]))
    cost += _OVER * sum(_overlap(at, other) for other in (*boxes, *taken))
    for x1, y1, x2, y2 in wires:
        piece = (min(x1, x2), min(y1, y2), abs(x2 - x1), abs(y2 - y1))
        cost += _WIRE * _overlap(at, piece)
    return cost


def _overlap(a: Rectangle, b: Rectangle) -> bool:
    return a[0] < b[0] + b[2] and b[0] < a[0] + a[2] and a[1] < b[1] + b[3] and b[1] < a[1] + a[3]
