"""The schematic of a regulator, drawn from its circuit."""

from __future__ import annotations

import html
import threading
from collections.abc import Mapping
from dataclasses import replace
from typing import Any
from xml.etree import ElementTree

import schemdraw
from schemdraw import elements as elm

from fenwit.core.circuit import PartKind
from fenwit.core.circuit.drawing import Drawing
from fenwit.report.picture import Anchor, Picture, Words, read_svg

_FAR: Mapping[PartKind, Any] = {PartKind.OPTO: elm.LED, PartKind.COUPLER: elm.Photodiode}
"""The other side of an isolator: what lights the output of an opto-triac, and what the lit side is seen by"""
_LOCK = threading.Lock()
_UNIT = 1.0
_SYMBOL = {
    PartKind.CAPACITOR: elm.Capacitor,
    PartKind.RESISTOR: elm.ResistorIEC,
    PartKind.CONTACT: elm.Switch,
    PartKind.FUSE: elm.FuseIEC,
    PartKind.INDUCTOR: elm.Inductor,
    PartKind.KNOB: elm.ResistorVarIEC,
    PartKind.TRIAC: elm.Triac,
    PartKind.DIAC: elm.Diac,
    PartKind.VARISTOR: elm.Thermistor,
    PartKind.OPTO: elm.Diac,
    PartKind.COUPLER: elm.LED,
    PartKind.BLOCK: elm.RBox,
    PartKind.DIODE: elm.Diode,
    PartKind.WINDING: elm.Inductor2,
    PartKind.LAMP: elm.Lamp2,
}


def schematic_picture(drawing: Drawing, labels: Mapping[str, str], supply: str, title: str) -> Picture:
    """Draw a regulator.

    Parameters
    ----------
    drawing : Drawing
        Where each part of the regulator stands [-]
    labels : mapping of str to str
        Text beside each part, by part name [-]
    supply : str
        Text at the supply terminal [-]
    title : str
        What the picture is called to a screen reader [-]

    Returns
    -------
    Picture
        The drawing [-]
    """
    # The library keeps its backend and XML its prefixes in one place for all threads.
    with _LOCK:
        schemdraw.use("svg")
        ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
        d = schemdraw.Drawing(show=False)
        d.config(unit=_UNIT, fontsize=10, font="sans-serif", lw=1.3)
        for wire in drawing.wires:
            d.add(elm.Line().at((wire.x1, -wire.y1)).to((wire.x2, -wire.y2)))
        for item in drawing.placed:
            symbol = _SYMBOL[item.kind]().at((item.x1, -item.y)).to((item.x2, -item.y))
            if item.kind is PartKind.LAMP:
                # The library takes a lamp for a source, which stands upright.
                symbol = symbol.theta(0).length(abs(item.x2 - item.x1)).scale(0.6)
            small = abs(item.x2 - item.x1) < 1.5
            text = _markup(labels.get(item.part, item.part))
            size = 8.2 if small else 9 if item.kind is PartKind.CONTACT else 10
            if drawing.gate and item.part == drawing.gate[0]:
                # Its gate leads down, to the row of what fires it.
                symbol = symbol.flip() if symbol.anchors["gate"][1] > 0 else symbol
            d.add(symbol.label(text, loc="bottom" if small else "top", fontsize=size, ofst=0.12))
            if drawing.gate and item.part == drawing.gate[0]:
                _, x, y = drawing.gate
                gate = symbol.absanchors["gate"]
                d.add(elm.Line().at(gate).to((gate[0], -y)))
                d.add(elm.Line().at((gate[0], -y)).to((x, -y)))
        for item in drawing.far_sides:
            symbol = _FAR[item.kind]().at((item.x1, -item.y)).to((item.x2, -item.y))
            d.add(symbol.label(_markup(f"{item.part}, controller’s side"), loc="top", fontsize=9, ofst=0.12))
        for x, y in drawing.dots:
            d.add(elm.Dot(radius=0.06).at((x, -y)))
        x, y = drawing.line
        d.add(elm.Dot(open=True, radius=0.09).at((x, -y)).label(_markup(supply), loc="left"))
        x, y = drawing.load
        d.add(elm.Dot(open=True, radius=0.09).at((x, -y)).label(_markup(drawing.load_name), loc="right"))
        for text, x, y, side in drawing.ends:
            d.add(elm.Dot(open=True, radius=0.09).at((x, -y)).label(_markup(text), loc=side))
        for (x, y), text, side in zip(drawing.neutral, ("N", "motor"), ("left", "right"), strict=False):
            d.add(elm.Dot(open=True, radius=0.09).at((x, -y)).label(text, loc=side))
        svg = d.get_imagedata("svg").decode()
    found = read_svg(svg)
    assert found is not None, "the library draws strokes, circles and words"
    return replace(_with_words(found), title=title[:300])


_EM = 0.62
"""A letter's width over its size: the library takes less, and cuts long names at the edge [-]"""


def _with_words(found: Picture) -> Picture:
    """The picture, wide enough for all its words."""
    left, right = found.left, found.left + found.width
    for words in (s for s in found.shapes if isinstance(s, Words)):
        length = _EM * words.size * len(words.text)
        before = {Anchor.START: 0.0, Anchor.MIDDLE: length / 2, Anchor.END: length}[words.anchor]
        left, right = min(left, words.x - before), max(right, words.x - before + length)
    return replace(found, left=left, width=right - left)


def _markup(text: str) -> str:
    # Labels are read as markup; what is meant as text must not be.
    return html.escape(text.replace("$", ""), quote=False)
