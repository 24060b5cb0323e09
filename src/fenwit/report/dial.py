"""A scale in speed, to print and put behind what is turned."""

from __future__ import annotations

import math
from collections.abc import Sequence

from fenwit.core.methods.seam import ScaleMark
from fenwit.report.picture import Anchor, Circle, Picture, Stroke, Words, arc

_SWEEP_DEG = 270.0
_RADIUS_MM = 24.0


def dial_picture(marks: Sequence[ScaleMark], name: str) -> Picture:
    """The scale, true to size: a three-quarter circle of 48 mm with a mark for every round speed.

    Parameters
    ----------
    marks : sequence of ScaleMark
        Where each round speed lies [-]
    name : str
        What the fan is called [-]

    Returns
    -------
    Picture
        The drawing [-]
    """
    size = 2 * (_RADIUS_MM + 12)
    middle = size / 2

    def at(turn: float, radius: float) -> tuple[float, float]:
        # From lower left clockwise to lower right.
        angle = math.radians(135 + _SWEEP_DEG * turn)
        return round(middle + radius * math.cos(angle), 2), round(middle + radius * math.sin(angle), 2)

    shapes: list[Stroke | Circle | Words] = [
        Stroke(arc(middle, middle, _RADIUS_MM, 135.0, 135.0 + _SWEEP_DEG), width=0.35),
        Circle(middle, middle, 3.5, 0.25),
    ]
    last = -1.0
    for mark in marks:
        shapes.append(Stroke((at(mark.turn, _RADIUS_MM), at(mark.turn, _RADIUS_MM + 2.5)), width=0.4))
        # Marks may crowd where the knob does little; then only the line stays.
        if mark.turn - last > 0.045:
            x, y = at(mark.turn, _RADIUS_MM + 6)
            shapes.append(Words(x, round(y + 1.1, 2), str(mark.rpm), 3.2, Anchor.MIDDLE))
            last = mark.turn
    shapes.append(Words(middle, middle + _RADIUS_MM - 4, "rpm", 3.0, Anchor.MIDDLE))
    return Picture(
        f"{name}: speed over the turn"[:300], 0.0, 0.0, size, size, tuple(shapes), millimetres=True
    )
