"""A scale in speed, to print and put behind what is turned."""

from __future__ import annotations

import html
import math
from collections.abc import Sequence

from fenwit.core.methods.seam import ScaleMark

_SWEEP_DEG = 270.0
_RADIUS_MM = 24.0


def dial_svg(marks: Sequence[ScaleMark], name: str) -> str:
    """The scale as SVG, true to size: a three-quarter circle of 48 mm with a mark for every round speed.

    Parameters
    ----------
    marks : sequence of ScaleMark
        Where each round speed lies [-]
    name : str
        What the fan is called [-]

    Returns
    -------
    str
        An SVG document; every text in it is escaped [-]
    """
    size = 2 * (_RADIUS_MM + 12)
    middle = size / 2

    def at(turn: float, radius: float) -> tuple[float, float]:
        # From lower left clockwise to lower right.
        angle = math.radians(135 + _SWEEP_DEG * turn)
        return middle + radius * math.cos(angle), middle + radius * math.sin(angle)

    (x1, y1), (x2, y2) = at(0, _RADIUS_MM), at(1, _RADIUS_MM)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size}mm" height="{size}mm" viewBox="0 0 {size} {size}" '
        f'font-family="sans-serif" fill="none" stroke="#12303a">',
        f"<title>{html.escape(name)}: speed over the turn</title>",
        f'<path d="M{x1:.2f} {y1:.2f} A{_RADIUS_MM} {_RADIUS_MM} 0 1 1 {x2:.2f} {y2:.2f}" stroke-width="0.35"/>',
        f'<circle cx="{middle}" cy="{middle}" r="3.5" stroke-width="0.25"/>',
    ]
    last = -1.0
    for turn, rpm in ((m.turn, m.rpm) for m in marks):
        (ax, ay), (bx, by), (tx, ty) = (
            at(turn, _RADIUS_MM),
            at(turn, _RADIUS_MM + 2.5),
            at(turn, _RADIUS_MM + 6),
        )
        parts.append(f'<line x1="{ax:.2f}" y1="{ay:.2f}" x2="{bx:.2f}" y2="{by:.2f}" stroke-width="0.4"/>')
        # Marks may crowd where the knob does little; then only the line stays.
        if turn - last > 0.045:
            parts.append(
                f'<text x="{tx:.2f}" y="{ty + 1.1:.2f}" font-size="3.2" text-anchor="middle" fill="#12303a" '
                f'stroke="none">{rpm}</text>'
            )
            last = turn
    parts.append(
        f'<text x="{middle}" y="{middle + _RADIUS_MM - 4:.2f}" font-size="3" text-anchor="middle" fill="#12303a" '
        'stroke="none">rpm</text></svg>'
    )
    return "".join(parts)
