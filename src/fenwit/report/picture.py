"""Drawings as data: strokes, circles and words. What is printed, stored and sent is this; markup is written here only.

A `Picture` holds numbers, a few inks and plain text, so that a drawing from a file can carry nothing else.
"""

from __future__ import annotations

import html
import math
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Literal
from xml.etree import ElementTree

from pydantic import ConfigDict, Field

_Place = Annotated[float, Field(ge=-1e5, le=1e5, allow_inf_nan=False)]
_Size = Annotated[float, Field(ge=0, le=1e4, allow_inf_nan=False)]
_STRICT = ConfigDict(extra="forbid")
MOST_SHAPES, MOST_POINTS = 4000, 20_000


class Ink(StrEnum):
    """What a shape is drawn or filled with."""

    INK = "ink"
    MUTED = "muted"
    COPPER = "copper"
    RULE = "rule"
    PAPER = "paper"
    NONE = "none"


_COLOURS = {
    Ink.INK: "#12303a",
    Ink.MUTED: "#6b7b7f",
    Ink.COPPER: "#a4481c",
    Ink.RULE: "#d8cdb8",
    Ink.PAPER: "white",
    Ink.NONE: "none",
}
_READ = {colour: ink for ink, colour in _COLOURS.items()} | {"black": Ink.INK}


class Anchor(StrEnum):
    """Which point of a text stands at its place."""

    START = "start"
    MIDDLE = "middle"
    END = "end"


@dataclass(frozen=True)
class Stroke:
    """A line through points."""

    __pydantic_config__ = _STRICT
    points: Annotated[tuple[tuple[_Place, _Place], ...], Field(min_length=2, max_length=MOST_POINTS)]
    ink: Ink = Ink.INK
    width: _Size = 1.0
    dashed: bool = False
    closed: bool = False
    kind: Literal["stroke"] = "stroke"


@dataclass(frozen=True)
class Circle:
    """A circle, filled or not."""

    __pydantic_config__ = _STRICT
    x: _Place
    y: _Place
    radius: _Size
    width: _Size = 1.0
    fill: Ink = Ink.NONE
    kind: Literal["circle"] = "circle"


@dataclass(frozen=True)
class Words:
    """A text at a place, its foot on the line."""

    __pydantic_config__ = _STRICT
    x: _Place
    y: _Place
    text: Annotated[str, Field(max_length=200)]
    size: _Size
    anchor: Anchor = Anchor.START
    ink: Ink = Ink.INK
    bold: bool = False
    kind: Literal["words"] = "words"


Shape = Annotated[Stroke | Circle | Words, Field(discriminator="kind")]


@dataclass(frozen=True)
class Picture:
    """A drawing with its frame."""

    __pydantic_config__ = _STRICT
    title: Annotated[str, Field(max_length=300)]
    """What it is called to a screen reader"""
    left: _Place
    top: _Place
    width: Annotated[float, Field(gt=0, le=1e4, allow_inf_nan=False)]
    height: Annotated[float, Field(gt=0, le=1e4, allow_inf_nan=False)]
    shapes: Annotated[tuple[Shape, ...], Field(max_length=MOST_SHAPES)]
    millimetres: bool = False
    """True to size: one unit is one millimetre on paper"""


def on_paper(picture: Picture, most: float, width_mm: float, height_mm: float) -> Picture:
    """A drawing true to size: so many millimetres for each of its units, fewer where it would not fit the page.

    Parameters
    ----------
    picture : Picture
        In its own units [-]
    most : float
        Scale where there is room [mm]
    width_mm, height_mm : float
        Room on the page [mm]

    Returns
    -------
    Picture
        In millimetres [-]
    """
    k = min(most, width_mm / picture.width, height_mm / picture.height)

    def scaled(shape: Stroke | Circle | Words) -> Stroke | Circle | Words:
        if isinstance(shape, Stroke):
            points = tuple((x * k, y * k) for x, y in shape.points)
            return replace(shape, points=points, width=shape.width * k)
        if isinstance(shape, Circle):
            return replace(
                shape, x=shape.x * k, y=shape.y * k, radius=shape.radius * k, width=shape.width * k
            )
        return replace(shape, x=shape.x * k, y=shape.y * k, size=shape.size * k)

    return Picture(
        picture.title, picture.left * k, picture.top * k, picture.width * k, picture.height * k,
        tuple(scaled(s) for s in picture.shapes), millimetres=True,
    )  # fmt: skip


def picture_svg(picture: Picture) -> str:
    """The drawing as SVG: numbers, the inks above, and escaped text; nothing else can come out.

    Parameters
    ----------
    picture : Picture
        The drawing [-]

    Returns
    -------
    str
        An SVG document [-]
    """
    unit = "mm" if picture.millimetres else ""
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{picture.width:g}{unit}" height="{picture.height:g}{unit}" '
        f'viewBox="{picture.left:g} {picture.top:g} {picture.width:g} {picture.height:g}" role="img" '
        'font-family="sans-serif" stroke-linecap="round" stroke-linejoin="round">'
        f"<title>{html.escape(picture.title)}</title>"
    )
    return "".join([head, *(_drawn(s) for s in picture.shapes), "</svg>"])


def _drawn(shape: Stroke | Circle | Words) -> str:
    if isinstance(shape, Words):
        bold = ' font-weight="bold"' if shape.bold else ""
        return (
            f'<text x="{shape.x:g}" y="{shape.y:g}" font-size="{shape.size:g}" text-anchor="{shape.anchor}" '
            f'fill="{_COLOURS[shape.ink]}"{bold}>{html.escape(shape.text)}</text>'
        )
    if isinstance(shape, Circle):
        return (
            f'<circle cx="{shape.x:g}" cy="{shape.y:g}" r="{shape.radius:g}" stroke="{_COLOURS[Ink.INK]}" '
            f'stroke-width="{shape.width:g}" fill="{_COLOURS[shape.fill]}"/>'
        )
    path = "M" + " L".join(f"{x:g} {y:g}" for x, y in shape.points) + ("Z" if shape.closed else "")
    dash = min(3.0, 4 * shape.width)
    dashes = f' stroke-dasharray="{dash:g} {dash:g}"' if shape.dashed else ""
    return f'<path d="{path}" fill="none" stroke="{_COLOURS[shape.ink]}" stroke-width="{shape.width:g}"{dashes}/>'


def arc(
    x: float, y: float, radius: float, start_deg: float, end_deg: float
) -> tuple[tuple[float, float], ...]:
    """Points along a circle.

    Parameters
    ----------
    x, y : float
        Its middle [-]
    radius : float
        Its radius [-]
    start_deg, end_deg : float
        From where to where, clockwise from the right [°]

    Returns
    -------
    tuple of (float, float)
        Points five degrees apart [-]
    """
    count = max(2, math.ceil(abs(end_deg - start_deg) / 5) + 1)
    return tuple(
        (x + radius * math.cos(a), y + radius * math.sin(a))
        for a in (math.radians(start_deg + (end_deg - start_deg) * k / (count - 1)) for k in range(count))
    )


# ---------------------------------------------------------------- reading

_MOST_MARKUP = 1_000_000
_MOST_DEPTH = 12
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_TOKEN = re.compile(r"[A-Za-z]|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_Style = dict[str, str]


def read_svg(markup: str) -> Picture | None:
    """What a drawing of strokes and words shows; everything else in it is left behind.

    Parameters
    ----------
    markup : str
        An SVG document, trusted in nothing [-]

    Returns
    -------
    Picture or None
        The drawing; None where there is none to be made out [-]
    """
    # Neither entities nor a document type have a place in a drawing of ours.
    if len(markup) > _MOST_MARKUP or "<!" in markup:
        return None
    try:
        root = ElementTree.fromstring(markup)
        found = _read(root)
    except (ElementTree.ParseError, ValueError, IndexError, OverflowError, RecursionError):
        return None
    points = sum(len(s.points) for s in found.shapes if isinstance(s, Stroke)) if found else 0
    return found if found and len(found.shapes) <= MOST_SHAPES and points <= MOST_POINTS else None


def _name(element: ElementTree.Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _read(root: ElementTree.Element) -> Picture | None:
    if _name(root) != "svg":
        return None
    frame = [float(n) for n in _NUMBER.findall(root.get("viewBox", ""))]
    if len(frame) != 4 or not all(abs(v) <= 1e4 for v in frame) or min(frame[2:]) <= 0:
        return None
    title = next(("".join(e.itertext()) for e in root if _name(e) == "title"), "")
    shapes = tuple(_shapes(root, {"font-size": "10", "fill": "black", "stroke": "none"}, (0.0, 0.0), 0))
    left, top, width, height = frame
    true_size = root.get("width", "").endswith("mm")
    return Picture(title[:300], left, top, width, height, shapes, millimetres=true_size)


def _styled(element: ElementTree.Element, inherited: _Style) -> _Style:
    own = {
        n: element.get(n, "")
        for n in (*inherited, "stroke-width", "stroke-dasharray", "text-anchor", "font-weight")
    }
    for pair in element.get("style", "").split(";"):
        name, _, value = pair.partition(":")
        own[name.strip()] = value.strip()
    return inherited | {n: v for n, v in own.items() if v}


def _shapes(
    element: ElementTree.Element, style: _Style, at: tuple[float, float], depth: int
) -> Iterator[Stroke | Circle | Words]:
    if depth > _MOST_DEPTH:
        return
    style = _styled(element, style)
    for child in element:
        name = _name(child)
        mine = _styled(child, style)
        if name == "g":
            moved = [float(n) for n in _NUMBER.findall(child.get("transform", ""))] or [0.0, 0.0]
            yield from _shapes(child, style, (at[0] + moved[0], at[1] + moved[1]), depth + 1)
        elif name == "text":
            yield _text(child, mine, at)
        elif name == "circle":
            x, y, r = (_place(child.get(n, "0")) for n in ("cx", "cy", "r"))
            yield Circle(x + at[0], y + at[1], abs(r), _width(mine), _ink(mine.get("fill", ""), Ink.NONE))
        else:
            for points, closed in _lines(name, child):
                placed = tuple((_place(x) + at[0], _place(y) + at[1]) for x, y in points)
                dashed = any(c.isdigit() for c in mine.get("stroke-dasharray", ""))
                if len(placed) >= 2:
                    yield Stroke(placed, _ink(mine["stroke"], Ink.INK), _width(mine), dashed, closed)


def _lines(name: str, element: ElementTree.Element) -> Iterable[tuple[Sequence[tuple[float, float]], bool]]:
    if name == "path":
        return _path(element.get("d", ""))
    if name == "line":
        x1, y1, x2, y2 = (float(element.get(n, "0")) for n in ("x1", "y1", "x2", "y2"))
        return [([(x1, y1), (x2, y2)], False)]
    if name in ("polygon", "polyline"):
        numbers = [float(n) for n in _NUMBER.findall(element.get("points", ""))]
        return [(list(zip(numbers[::2], numbers[1::2], strict=False)), name == "polygon")]
    return []


def _place(value: str | float) -> float:
    number = float(value)
    if not abs(number) <= 5e4:
        raise ValueError("off the paper")
    return round(number, 3)


def _width(style: _Style) -> float:
    return min(20.0, abs(_place(style.get("stroke-width", "1"))))


def _ink(colour: str, other: Ink) -> Ink:
    return _READ.get(colour, other)


def _text(element: ElementTree.Element, style: _Style, at: tuple[float, float]) -> Words:
    size = min(60.0, abs(_place(style.get("font-size", "10").removesuffix("px"))))
    span = next((e for e in element if _name(e) == "tspan"), None)
    x, y = _place(element.get("x", "0")), _place(element.get("y", "0"))
    if span is not None:
        x, y = _place(span.get("x", str(x))), y + _place(span.get("dy", "0"))
    y += {"hanging": 0.75, "central": 0.35, "middle": 0.35}.get(
        element.get("dominant-baseline", ""), 0.0
    ) * size
    anchor = style.get("text-anchor", "start")
    return Words(
        x + at[0],
        round(y + at[1], 3),
        " ".join("".join(element.itertext()).split())[:200],
        size,
        Anchor(anchor) if anchor in list(Anchor) else Anchor.START,
        _ink(style.get("fill", ""), Ink.INK),
        style.get("font-weight") == "bold",
    )


def _path(text: str) -> Iterator[tuple[list[tuple[float, float]], bool]]:
    """The polylines of a path of straight lines and arcs; arcs become short lines."""
    tokens = _TOKEN.findall(text)
    points: list[tuple[float, float]] = []
    command, i = "", 0

    def take(count: int) -> list[float]:
        nonlocal i
        found = [float(t) for t in tokens[i : i + count]]
        if len(found) < count:
            raise ValueError("the path breaks off")
        i += count
        return found

    while i < len(tokens):
        if tokens[i].isalpha():
            command = tokens[i]
            i += 1
            if command in "zZ":
                yield points, True
                points = []
                continue
        x, y = points[-1] if points else (0.0, 0.0)
        dx, dy = (x, y) if command.islower() else (0.0, 0.0)
        match command.upper():
            case "M":
                if len(points) > 1:
                    yield points, False
                nx, ny = take(2)
                points = [(nx + dx, ny + dy)]
                command = "l" if command == "m" else "L"
            case "L":
                nx, ny = take(2)
                points.append((nx + dx, ny + dy))
            case "H":
                points.append((take(1)[0] + dx, y))
            case "V":
                points.append((x, take(1)[0] + dy))
            case "A":
                rx, _, _, large, sweep, nx, ny = take(7)
                points += _arc_to((x, y), (nx + dx, ny + dy), rx, bool(large), bool(sweep))
            case _:
                raise ValueError("a path of other lines than ours")
    if len(points) > 1:
        yield points, False


def _arc_to(
    start: tuple[float, float], end: tuple[float, float], radius: float, large: bool, sweep: bool
) -> list[tuple[float, float]]:
    """Points of a circular arc between two points, as SVG names it (its appendix on arcs)."""
    (x1, y1), (x2, y2) = start, end
    half = math.hypot(x2 - x1, y2 - y1) / 2
    radius = max(abs(radius), half)
    if half == 0:
        return [end]
    rise = math.sqrt(max(0.0, radius**2 - half**2)) * (-1 if large == sweep else 1)
    cx = (x1 + x2) / 2 - rise * (y2 - y1) / (2 * half)
    cy = (y1 + y2) / 2 + rise * (x2 - x1) / (2 * half)
    first, last = math.degrees(math.atan2(y1 - cy, x1 - cx)), math.degrees(math.atan2(y2 - cy, x2 - cx))
    if sweep and last < first:
        last += 360
    if not sweep and last > first:
        last -= 360
    return [*arc(cx, cy, radius, first, last)[1:-1], end]
