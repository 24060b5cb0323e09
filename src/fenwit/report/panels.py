"""Waveforms of every step, as one drawing to print: mains, motor volts and line current over a period."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from fenwit.core.methods.seam import Panel
from fenwit.report.picture import Anchor, Ink, Picture, Stroke, Words

_WIDTH, _HEIGHT, _GAP = 300.0, 165.0, 22.0
_LEFT, _TOP, _RIGHT, _BOTTOM = 34.0, 38.0, 34.0, 20.0


def panels_picture(panels: Sequence[Panel], name: str) -> Picture:
    """The drawing, two panels in a row.

    Parameters
    ----------
    panels : sequence of Panel
        One for each step; at least one sample in each [-]
    name : str
        What the fan is called [-]

    Returns
    -------
    Picture
        The drawing [-]
    """
    across = 2 if len(panels) > 1 else 1
    rows = -(-len(panels) // across)
    amps = max((abs(a) for p in panels for a in p.line_a), default=1.0) or 1.0
    volts = max((abs(v) for p in panels for v in (*p.supply_v, *p.motor_v)), default=1.0) or 1.0
    shapes = tuple(
        shape
        for i, panel in enumerate(panels)
        for shape in _panel(
            panel, volts, amps, (i % across) * (_WIDTH + _GAP), (i // across) * (_HEIGHT + _GAP)
        )
    )
    width, height = across * (_WIDTH + _GAP), rows * (_HEIGHT + _GAP)
    return Picture(f"{name}: waveforms of every step"[:300], 0.0, 0.0, width, height, shapes)


def _panel(p: Panel, volts: float, amps: float, left: float, top: float) -> Iterator[Stroke | Words]:
    right, bottom = _WIDTH - _RIGHT, _HEIGHT - _BOTTOM
    middle, half = (_TOP + bottom) / 2, (bottom - _TOP) / 2

    def wave(values: Sequence[float], most: float, ink: Ink, width: float, dashed: bool = False) -> Stroke:
        points = tuple(
            (
                round(left + _LEFT + (right - _LEFT) * t / 360, 1),
                round(top + middle - half * v / most, 1),
            )
            for t, v in zip(p.theta_deg, values, strict=True)
        )
        return Stroke(points, ink, width, dashed)

    def text(x: float, y: float, words: str, anchor: Anchor = Anchor.START, ink: Ink = Ink.INK) -> Words:
        return Words(round(left + x, 1), round(top + y, 1), words[:200], 9.0, anchor, ink)

    level = round(volts / 1.1, -2) or round(volts / 1.1)
    current = float(f"{amps / 1.1:.1g}")
    yield Words(left + _LEFT, top + 10, p.title[:200], 9.0, bold=True)
    yield text(_LEFT, 20, p.note, ink=Ink.MUTED)
    for v in (-level, 0.0, level):
        y = middle - half * v / volts
        line = ((left + _LEFT, round(top + y, 1)), (left + right, round(top + y, 1)))
        yield Stroke(line, Ink.RULE)
        yield text(_LEFT - 4, y + 3, f"{v:.0f}".replace("-", "−"), Anchor.END)
    for a in (-current, current):
        y = middle - half * a / (1.25 * amps)
        yield text(right + 4, y + 3, f"{a:g}".replace("-", "−"), ink=Ink.COPPER)
    yield text(_LEFT - 4, _TOP - 2, "V", Anchor.END)
    yield text(right + 4, _TOP - 2, "A", ink=Ink.COPPER)
    for t in (0, 90, 180, 270, 360):
        yield text(_LEFT + (right - _LEFT) * t / 360, bottom + 11, f"{t}°", Anchor.MIDDLE)
    yield wave(p.supply_v, volts, Ink.MUTED, 0.7, dashed=True)
    yield wave(p.motor_v, volts, Ink.INK, 1.2)
    yield wave(p.line_a, 1.25 * amps, Ink.COPPER, 1.4)
