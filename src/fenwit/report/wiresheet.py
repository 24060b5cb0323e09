"""A wiring on paper: its drawing, and its lists as lines and as tables."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core.circuit.wiring.dead import DeadTest, Ohms
from fenwit.core.circuit.wiring.flags import LINE, PAD, Flag
from fenwit.core.circuit.wiring.layout import Box, Sheet
from fenwit.core.circuit.wiring.order import Purpose, Work, purposes
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.circuit.wiring.table import Table
from fenwit.report.csvfiles import write_csv
from fenwit.report.picture import Anchor, Circle, Ink, Picture, Shape, Stroke, Words

_NAME, _PIN, _INSET = 15.0, 15.0, 46.0


def wire_picture(wiring: Wiring, sheet: Sheet, flags: Sequence[Flag] = ()) -> Picture:
    """The drawing of a wiring, its contacts open, with words on it.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]
    sheet : Sheet
        Where everything stands [-]
    flags : sequence of Flag, optional
        What is said on the drawing [-]

    Returns
    -------
    Picture
        The drawing [-]
    """
    purpose, shapes = purposes(wiring), list[Shape]()
    for run in sheet.runs:
        ink = Ink.COPPER if purpose[run.net] in (Purpose.LINE, Purpose.SWITCHED) else Ink.INK
        dashed = purpose[run.net] is Purpose.BOND
        shapes += [
            Stroke(((x1, y1), (x2, y2)), ink, 1.4, dashed)
            for x1, y1, x2, y2 in run.pieces
            if (x1, y1) != (x2, y2)
        ]
        shapes += [Circle(x, y, 2.6, fill=ink) for x, y in run.dots]
    for box in sheet.boxes:
        shapes += _box(box)
    for flag in flags:
        shapes += _flag(flag)
    low = max([sheet.height, *(f.y + f.height + 6 for f in flags)])
    return Picture(
        f"Circuit: {wiring.title}"[:300],
        0.0,
        0.0,
        max(sheet.width, 10.0),
        max(low, 10.0),
        tuple(shapes),
    )


def _flag(flag: Flag) -> list[Shape]:
    x, y, right, low = flag.x, flag.y, flag.x + flag.width, flag.y + flag.height
    corner = (min(max(flag.to[0], x), right), min(max(flag.to[1], y), low))
    frame = ((x, y), (right, y), (right, low), (x, low))
    # Paper first, in thin strokes: the words stand on no wire.
    shapes: list[Shape] = [
        Stroke(((x + 3, level), (right - 3, level)), Ink.PAPER, 6.0)
        for level in [y + 3 + 4 * k for k in range(int((flag.height - 6) / 4) + 1)]
    ]
    shapes += [
        Stroke((flag.to, corner), Ink.COPPER, 1.6), Circle(*flag.to, 4.0, fill=Ink.COPPER),
        Stroke(frame, Ink.COPPER, 1.6, closed=True),
    ]  # fmt: skip
    return shapes + [
        Words(x + PAD, y + PAD + LINE * (i + 0.72), line, 15.0) for i, line in enumerate(flag.lines)
    ]


def _box(box: Box) -> list[Shape]:
    x, y, right, low = box.x, box.y, box.x + box.width, box.y + box.height
    shapes: list[Shape] = [Stroke(((x, y), (right, y), (right, low), (x, low)), Ink.INK, 1.2, closed=True)]
    shapes.append(Words(x + 7, y + 17, box.part[:40], _NAME, bold=True))
    at = {p.terminal: p for p in box.pins}
    for blade in box.blades:
        a, b = at[blade.a], at[blade.b]
        xa, xb = (x + _INSET if p.left else right - _INSET for p in (a, b))
        end = (xa + (xb - xa) * 0.62 + (9 if xa == xb else 0), a.y + (b.y - a.y) * 0.62)
        shapes.append(Stroke(((xa, a.y), end), Ink.MUTED, 1.2))
        shapes += [Circle(xa, a.y, 2.0, fill=Ink.INK), Circle(xb, b.y, 2.0, fill=Ink.INK)]
    for pin in box.pins:
        shapes.append(Circle(pin.x, pin.y, 3.2, fill=Ink.INK))
        anchor = Anchor.START if pin.left else Anchor.END
        shapes.append(Words(pin.x + (8 if pin.left else -8), pin.y + 5, pin.name[:12], _PIN, anchor))
    return shapes


def parts_csv(rows: Sequence[tuple[str, str, int, str, int, int]]) -> str:
    """The pick list: names, what it is, how many, where they lie, how many are aside and how many to buy."""
    heads = ("names", "part", "pieces", "from", "put aside", "to buy")
    return write_csv(heads, [tuple(str(cell) for cell in row) for row in rows])


def connections_csv(work: Work, done: dict[int, str]) -> str:
    """Every wire in the order of the work; ``done``: who ticked which, and when."""
    heads = ("number", "from", "to", "net", "stage", "cable", "core", "sleeve", "done")
    return write_csv(
        heads,
        [
            (
                str(c.number), c.start, c.end, c.net, c.stage, c.cable, c.core, "yes" if c.sleeve else "",
                done.get(c.number, ""),
            )
            for c in work.connections
        ],
    )  # fmt: skip


def cables_csv(work: Work) -> str:
    """The cable schedule: a row for every core."""
    rows = []
    for use in work.cables:
        ends = (use.cable.id, use.cable.start, use.cable.end)
        rows += [(*ends, core, net) for core, net in use.used] + [
            (*ends, core, "spare") for core in use.spare
        ]
        if use.earth != "none":
            rows.append((*ends, "earth", use.earth))
    return write_csv(("cable", "from", "to", "core", "carries"), rows)


def dead_csv(tests: tuple[DeadTest, ...], read: dict[int, str]) -> str:
    """The dead tests with what was read of them, by place in the list."""
    heads = ("from", "to", "switches", "pushed in", "low [ohm]", "high [ohm]", "through", "read")
    return write_csv(
        heads,
        [
            (
                *t.points, ", ".join(f"{n} {at}" for n, at in t.stand.inputs), t.stand.held, *_limits(t.expected),
                ", ".join(t.expected.through or t.expected.unknown), read.get(i, ""),
            )
            for i, t in enumerate(tests)
        ],
    )  # fmt: skip


def _limits(expected: Ohms) -> tuple[str, str]:
    if expected.low is None or expected.high is None:
        return ("open", "open") if expected.is_open else ("", "")
    return f"{expected.low:.4g}", f"{expected.high:.4g}"


def table_csv(table: Table) -> str:
    """The truth table: inputs, what every part does, VA."""
    rows = table.rows
    if not rows:
        return write_csv(("row",), [])
    parts, coils = list(rows[0].rest.parts), list(rows[0].rest.relays)
    heads = [*rows[0].inputs, *parts, *coils, "VA", "settled"]
    return write_csv(
        heads,
        [
            [
                *("yes" if v is True else "no" if v is False else str(v) for v in row.inputs.values()),
                *(str(row.rest.parts[p]["state"]) for p in parts),
                *("on" if row.rest.relays[k] else "off" for k in coils),
                f"{sum(row.rest.va.values()):.4g}", row.settled,
            ]
            for row in rows
        ],
    )  # fmt: skip
