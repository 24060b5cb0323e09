"""Waveforms of every step, as one drawing to print: mains, motor volts and line current over a period."""

from __future__ import annotations

import html
from collections.abc import Sequence

from fenwit.core.methods.seam import Panel

_WIDTH, _HEIGHT, _GAP = 300.0, 165.0, 22.0
_LEFT, _TOP, _RIGHT, _BOTTOM = 34.0, 38.0, 34.0, 20.0
_INK, _MUTED, _COPPER, _RULE = "#12303a", "#6b7b7f", "#a4481c", "#d8cdb8"


def panels_svg(panels: Sequence[Panel], name: str) -> str:
    """The drawing, two panels in a row.

    Parameters
    ----------
    panels : sequence of Panel
        One for each step; at least one sample in each [-]
    name : str
        What the fan is called [-]

    Returns
    -------
    str
        An SVG document; every text in it is escaped [-]
    """
    across = 2 if len(panels) > 1 else 1
    rows = -(-len(panels) // across)
    width, height = across * (_WIDTH + _GAP), rows * (_HEIGHT + _GAP)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" width="{width:g}" '
        f'font-family="sans-serif" font-size="9" role="img">',
        f"<title>{html.escape(name)}: waveforms of every step</title>",
    ]
    amps = max((abs(a) for p in panels for a in p.line_a), default=1.0) or 1.0
    volts = max((abs(v) for p in panels for v in (*p.supply_v, *p.motor_v)), default=1.0) or 1.0
    for i, panel in enumerate(panels):
        x, y = (i % across) * (_WIDTH + _GAP), (i // across) * (_HEIGHT + _GAP)
        parts.append(f'<g transform="translate({x:g} {y:g})">{_panel(panel, volts, amps)}</g>')
    return "".join([*parts, "</svg>"])


def _panel(p: Panel, volts: float, amps: float) -> str:
    right, bottom = _WIDTH - _RIGHT, _HEIGHT - _BOTTOM
    middle, half = (_TOP + bottom) / 2, (bottom - _TOP) / 2

    def path(values: Sequence[float], most: float) -> str:
        points = (
            f"{_LEFT + (right - _LEFT) * t / 360:.1f} {middle - half * v / most:.1f}"
            for t, v in zip(p.theta_deg, values, strict=True)
        )
        return "M" + " L".join(points)

    def text(x: float, y: float, words: str, anchor: str = "start", fill: str = _INK) -> str:
        return f'<text x="{x:g}" y="{y:g}" text-anchor="{anchor}" fill="{fill}">{html.escape(words)}</text>'

    level = round(volts / 1.1, -2) or round(volts / 1.1)
    current = float(f"{amps / 1.1:.1g}")
    drawn = [
        f'<text x="{_LEFT:g}" y="10" font-weight="bold" fill="{_INK}">{html.escape(p.title)}</text>',
        text(_LEFT, 20, p.note, fill=_MUTED),
    ]
    for v in (-level, 0.0, level):
        y = middle - half * v / volts
        drawn.append(f'<path d="M{_LEFT:g} {y:.1f} H{right:g}" stroke="{_RULE}" fill="none"/>')
        drawn.append(text(_LEFT - 4, y + 3, f"{v:.0f}".replace("-", "−"), "end"))
    for a in (-current, current):
        y = middle - half * a / (1.25 * amps)
        drawn.append(text(right + 4, y + 3, f"{a:g}".replace("-", "−"), fill=_COPPER))
    drawn += [text(_LEFT - 4, _TOP - 2, "V", "end"), text(right + 4, _TOP - 2, "A", fill=_COPPER)]
    for t in (0, 90, 180, 270, 360):
        drawn.append(text(_LEFT + (right - _LEFT) * t / 360, bottom + 11, f"{t}°", "middle"))
    drawn += [
        f'<path d="{path(p.supply_v, volts)}" fill="none" stroke="{_MUTED}" stroke-width="0.7" stroke-dasharray="3 3"/>',
        f'<path d="{path(p.motor_v, volts)}" fill="none" stroke="{_INK}" stroke-width="1.2"/>',
        f'<path d="{path(p.line_a, 1.25 * amps)}" fill="none" stroke="{_COPPER}" stroke-width="1.4"/>',
    ]
    return "".join(drawn)
