"""Where everything stands on the drawing of a wiring: parts in columns, every net in lanes of its own between them.

Parts that give stand at the left, those that take at the right. Between two columns runs a channel; a net that has
terminals there takes one upright lane of it, and a net that meets several channels a level lane below. No two nets share
a lane, and title, foot and gap of a part are whole rows together, so that wires cross and never lie on one another.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fenwit.core.circuit.wiring.dead import contacts
from fenwit.core.circuit.wiring.parts import Kind, Role, Switch, WiredPart, Wiring

ROW, TITLE, FOOT, GAP, LANE, WIDTH, EDGE = 22.0, 24.0, 4.0, 16.0, 9.0, 108.0, 16.0
"""Heights and distances on the drawing [px]"""
_COLUMN = {
    Kind.SUPPLY: 0, Kind.THERMOSTAT: 0, Kind.FUSE: 1, Kind.TRANSFORMER: 1, Kind.STRIP: 1, Kind.POT: 1, Kind.SENSOR: 1,
    Kind.SWITCH: 1, Kind.RELAY: 2, Kind.CAPACITOR: 3, Kind.RESISTOR: 3, Kind.LOAD: 4, Kind.LAMP: 4, Kind.MOTOR: 4,
    Kind.EC_MOTOR: 4, Kind.EC_FAN: 4, Kind.BOX: 4,
}  # fmt: skip


@dataclass(frozen=True)
class Pin:
    """A terminal on the edge of its part."""

    terminal: str
    name: str
    x: float
    y: float
    left: bool


@dataclass(frozen=True)
class Blade:
    """A contact drawn inside its part, from pin to pin."""

    a: str
    b: str
    x: float
    ya: float
    yb: float


@dataclass(frozen=True)
class Box:
    """A part with its terminals."""

    part: str
    kind: Kind
    x: float
    y: float
    width: float
    height: float
    pins: tuple[Pin, ...]
    blades: tuple[Blade, ...]


@dataclass(frozen=True)
class Run:
    """A net as straight pieces, with the dots where it branches."""

    net: str
    pieces: tuple[tuple[float, float, float, float], ...]
    dots: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Sheet:
    """The whole drawing."""

    boxes: tuple[Box, ...]
    runs: tuple[Run, ...]
    width: float
    height: float


def laid_out(wiring: Wiring) -> Sheet:
    """Place every part and net of a wiring.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    Sheet
        Boxes and runs, x to the right and y downwards [px]
    """
    columns = _columns(wiring)
    sides = _sides(wiring, columns)
    lanes = _lanes(wiring, columns, sides)
    lefts, x = [], EDGE
    for k in range(len(columns)):
        x += LANE * (len(lanes[k]) + 1)
        lefts.append(x)
        x += WIDTH
    width = x + LANE * (len(lanes[len(columns)]) + 1) + EDGE
    boxes = []
    for k, parts in enumerate(columns):
        # Half a row lower in every second column: terminals that face each other across a channel are never level.
        y = EDGE + (ROW / 2 if k % 2 else 0.0)
        for part in parts:
            box = _box(part, lefts[k], y, sides)
            boxes.append(box)
            y += box.height + GAP
    bottom = max((b.y + b.height for b in boxes), default=EDGE) + GAP
    runs, deepest = _runs(wiring, boxes, lanes, lefts, bottom)
    return Sheet(tuple(boxes), runs, width, deepest + EDGE)


def _columns(wiring: Wiring) -> list[list[WiredPart]]:
    """Parts by what they do, left to right; a column that grows too tall is parted in two."""
    found: dict[float, list[WiredPart]] = {}
    for part in wiring.parts:
        at: float = _COLUMN[part.kind]
        if isinstance(part.spec, Switch) and part.spec.role in (Role.DOOR, Role.LIMIT):
            at = 0.5
        found.setdefault(at, []).append(part)
    columns: list[list[WiredPart]] = []
    for at in sorted(found):
        tall = 0
        columns.append([])
        for part in found[at]:
            rows = (len(part.terminals) + 1) // 2 + 2
            if tall + rows > 26 and columns[-1]:
                columns.append([])
                tall = 0
            columns[-1].append(part)
            tall += rows
    return columns


def _sides(wiring: Wiring, columns: Sequence[Sequence[WiredPart]]) -> dict[str, bool]:
    """Whether each terminal stands on its part's left: towards where most of its net is."""
    column = {p.id: k for k, parts in enumerate(columns) for p in parts}
    left: dict[str, bool] = {}
    joined_with = {t: joined for _, joined in wiring.nets for t in joined}
    for part in wiring.parts:
        here = column[part.id]
        wishes = []
        for name in part.terminals:
            terminal = part.at(name)
            others = [
                column[t.partition(".")[0]] - here for t in joined_with.get(terminal, ()) if t != terminal
            ]
            wishes.append((sum(others) / len(others) if others else 0.0, terminal))
        last = len(columns) - 1
        for wish, terminal in wishes:
            left[terminal] = wish < 0 or (wish == 0 and here == last) if here else False
    return left


def _lanes(
    wiring: Wiring, columns: Sequence[Sequence[WiredPart]], left: Mapping[str, bool]
) -> list[dict[str, int]]:
    """For each channel, which lane each net takes; channel k lies to the left of column k."""
    column = {p.id: k for k, parts in enumerate(columns) for p in parts}
    lanes: list[dict[str, int]] = [{} for _ in range(len(columns) + 1)]
    for net, joined in wiring.nets:
        for terminal in joined:
            k = column[terminal.partition(".")[0]]
            channel = lanes[k if left[terminal] else k + 1]
            channel.setdefault(net, len(channel))
    return lanes


def _box(part: WiredPart, x: float, y: float, left: Mapping[str, bool]) -> Box:
    lefts = [t for t in part.terminals if left[part.at(t)]]
    rights = [t for t in part.terminals if not left[part.at(t)]]
    pins = []
    for names, is_left in ((lefts, True), (rights, False)):
        for row, name in enumerate(names):
            pins.append(
                Pin(part.at(name), name, x if is_left else x + WIDTH, y + TITLE + ROW * (row + 0.5), is_left)
            )
    at = {p.terminal: p for p in pins}
    blades, seen = [], set[tuple[str, str]]()
    for made in contacts(part):
        for c in made:
            if (c.a, c.b) not in seen:
                seen.add((c.a, c.b))
                blades.append(Blade(c.a, c.b, at[c.b].x, at[c.a].y, at[c.b].y))
    height = TITLE + ROW * max(1, len(lefts), len(rights)) + FOOT
    return Box(part.id, part.kind, x, y, WIDTH, height, tuple(pins), tuple(blades))


def _runs(
    wiring: Wiring,
    boxes: Sequence[Box],
    lanes: Sequence[Mapping[str, int]],
    lefts: Sequence[float],
    bottom: float,
) -> tuple[tuple[Run, ...], float]:
    pins = {pin.terminal: (pin, k) for k, x in enumerate(lefts) for b in boxes if b.x == x for pin in b.pins}
    starts = [x - LANE * (len(lanes[k]) + 1) for k, x in enumerate(lefts)]
    starts.append(lefts[-1] + WIDTH if lefts else EDGE)
    runs, level = [], bottom
    for net, joined in wiring.nets:
        reach: dict[int, list[Pin]] = {}
        for terminal in joined:
            pin, k = pins[terminal]
            reach.setdefault(k if pin.left else k + 1, []).append(pin)
        pieces: list[tuple[float, float, float, float]] = []
        dots: list[tuple[float, float]] = []
        across = len(reach) > 1
        if across:
            level += LANE
        for channel, there in sorted(reach.items()):
            x = starts[channel] + LANE * (lanes[channel][net] + 1)
            ys = [p.y for p in there]
            for pin in there:
                pieces.append((pin.x, pin.y, x, pin.y))
            top, low = min(ys), level if across else max(ys)
            if low > top:
                pieces.append((x, top, x, low))
            ends = {top, low}
            dots += [(x, y) for y in ys if y not in ends or ys.count(y) > 1]
        if across:
            xs = sorted(starts[c] + LANE * (lanes[c][net] + 1) for c in reach)
            pieces.append((xs[0], level, xs[-1], level))
            dots += [(x, level) for x in xs[1:-1]]
        runs.append(Run(net, tuple(pieces), tuple(dict.fromkeys(dots))))
    return tuple(runs), level
