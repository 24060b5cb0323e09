"""Where words stand on the drawing of a wiring: beside what they tell of, over no terminal and over no other words."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit.wiring.layout import Sheet

LETTER, LINE, PAD, CHARS, MOST = 8.3, 18.0, 5.0, 24, 80
"""Width of a letter, height of a line, room around the words [px]; letters to a line; so many are placed at most"""
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


def flagged(sheet: Sheet, marks: Sequence[Mark]) -> tuple[Flag, ...]:
    """Place words beside the paths they tell of.

    Parameters
    ----------
    sheet : Sheet
        The drawing [-]
    marks : sequence of Mark
        What is to be said, nothing for no words; what nothing on the drawing bears is said below it [-]

    Returns
    -------
    tuple of Flag
        One for each mark; some may stand below the drawing's own height [px]
    """
    parts = np.array([(b.x, b.y, b.width, b.height) for b in sheet.boxes]).reshape(-1, 4)
    wires = np.array(
        [
            (min(x1, x2), min(y1, y2), abs(x2 - x1), abs(y2 - y1))
            for run in sheet.runs
            for x1, y1, x2, y2 in run.pieces
        ]
    ).reshape(-1, 4)
    below, found = sheet.height + PAD, list[Flag]()
    for mark in marks:
        if not mark.words:
            found.append(Flag((), 0.0, 0.0, 0.0, 0.0, (0.0, 0.0)))
            continue
        lines = tuple(textwrap.wrap(mark.words, CHARS, break_long_words=True)[:4])
        width = 2 * PAD + LETTER * max(map(len, lines), default=1)
        height = 2 * PAD + LINE * len(lines) - 3
        taken = np.array([(f.x, f.y, f.width, f.height) for f in found]).reshape(-1, 4)
        targets = _targets(sheet, mark)
        tried = [(*place, to) for to in targets for place in _around(to, width, height, sheet)]
        x, y, to = 0.0, below, targets[0] if targets else (sheet.width / 2, below)
        cost = _costs(tried, (width, height), np.vstack((parts, taken)), wires)
        best = int(np.argmin(cost)) if len(cost) else 0
        if len(cost) and cost[best] < _OVER:
            x, y, to = tried[best]
        else:
            x = min(max(0.0, to[0] - width / 2), max(0.0, sheet.width - width))
        below = max(below, y + height + PAD)
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


def _costs(
    tried: Sequence[tuple[float, float, tuple[float, float]]],
    size: tuple[float, float],
    solid: NDArray[np.float64],
    wires: NDArray[np.float64],
) -> NDArray[np.float64]:
    """What each place tried would cost: how far it is, which wires it covers, and what it must not cover."""
    width, height = size
    at = np.array([(x, y, width, height) for x, y, _ in tried]).reshape(-1, 4)
    to = np.array([point for _, _, point in tried]).reshape(-1, 2)
    away = np.abs(at[:, 0] + width / 2 - to[:, 0]) + np.abs(at[:, 1] + height / 2 - to[:, 1])
    covered = _overlaps(at, solid).sum(axis=1)
    return np.asarray(_AWAY * away + _OVER * covered + _WIRE * _overlaps(at, wires).sum(axis=1))


def _overlaps(a: NDArray[np.float64], b: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which rectangles meet which; shape of the first by that of the second."""
    one, other = a[:, None, :], b[None, :, :]
    return np.asarray(
        (one[..., 0] < other[..., 0] + other[..., 2])
        & (other[..., 0] < one[..., 0] + one[..., 2])
        & (one[..., 1] < other[..., 1] + other[..., 3])
        & (other[..., 1] < one[..., 1] + one[..., 3])
    )
