"""The bank as it is built: every part with what it bears, and lug by lug what is wired to it."""

from __future__ import annotations

from dataclasses import replace

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.circuit.drawing import draw
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.parts import fuse_row, row_of, switch_row, wire_row
from fenwit.core.methods.seam import Built, Lug, PartRow
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.rating import Rated
from fenwit.core.methods.series_capacitor.steps import regulated
from fenwit.core.methods.series_capacitor.wiring import HUB
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import CLASSES
from fenwit.core.size.rated import RatedKind, RatedPart
from fenwit.core.size.switch import FED, MOTOR

_ORDER = tuple(RatedKind)
"""Capacitors first, then what hangs on each of them, then what all share"""


@remembered
def built(fan: MachineFan, design: BankDesign) -> Built:
    """The bank with its parts, its circuit and its connections."""
    rated = regulated(fan, design).rated
    parts = sorted(rated.parts, key=lambda p: _ORDER.index(p.kind))
    return Built(rated.circuit, draw(rated.circuit), tuple(_row(part, rated) for part in parts), _lugs(rated))


def _row(part: RatedPart, rated: Rated) -> PartRow:
    if part.kind is RatedKind.WIRE:
        return wire_row(part)
    if part.kind is RatedKind.SWITCH:
        return switch_row(part, rated.design.switch)
    if part.kind is RatedKind.FUSE:
        return fuse_row(part)
    if part.kind is RatedKind.CAPACITOR:
        return _capacitor_row(part, rated)
    return _resistor_row(part, rated)


def _capacitor_row(part: RatedPart, rated: Rated) -> PartRow:
    design = rated.design
    capacitor = design.capacitors[design.names.index(part.name)]
    barred = [k for k, ok in enumerate(rated.usable, start=1) if not ok]
    unused = part.stresses[0].value == 0
    steps = f"step {barred[0]}" if len(barred) == 1 else "steps " + ", ".join(map(str, barred))
    note = f"not for {steps}: barred" if barred else "not used" if unused else ""
    row = row_of(
        part,
        f"capacitor {part.name}",
        capacitor_words(capacitor),
        q.bench(capacitor.value_f, q.CAPACITANCE),
        f"{capacitor.rated_v:g} V AC",
        note=note,
    )
    measured = capacitor.measured_f
    return replace(
        row,
        nominal_bench=q.bench(capacitor.nominal_f, q.CAPACITANCE),
        measured_bench="" if measured is None else q.bench(measured, q.CAPACITANCE, 4),
        shelf_id=capacitor.shelf_id,
        editable=True,
        to_buy=True,
    )


def capacitor_words(capacitor: Capacitor) -> str:
    """What to ask for at the counter."""
    name = CLASSES[capacitor.part_class].name
    text = f"{name}, {q.show(capacitor.nominal_f, q.CAPACITANCE)}"
    if capacitor.measured_f is not None:
        return f"{text}, measured {q.show(capacitor.measured_f, q.CAPACITANCE, 4)}"
    return f"{text} ±{100 * capacitor.tolerance:.0f} %"


def _resistor_row(part: RatedPart, rated: Rated) -> PartRow:
    assert part.part_class is not None
    bleed = part.kind is RatedKind.BLEED
    value = q.show(part.value, q.RESISTANCE)
    each = " + ".join([value] * part.pieces)
    limit = (
        f"at most {q.show(part.limit or 0, q.RESISTANCE, 4)} in all"
        if bleed
        else f"at least {q.show(part.limit or 0, q.RESISTANCE)}"
    )
    row = row_of(
        part,
        f"{part.kind.value} of {part.of}",
        f"{CLASSES[part.part_class].name}, {each}, {part.rating:g} W",
        q.bench(part.value, q.RESISTANCE),
        f"{part.rating:g} W",
        limit,
    )
    pieces = tuple(p.name for p in rated.circuit.parts if p.bleeds == part.of) if bleed else ()
    return replace(row, pieces=pieces)


def _lugs(rated: Rated) -> tuple[Lug, ...]:
    """Lug by lug: what is wired to the switch, the fuse and the motor."""
    design = rated.design
    wiring = design.wiring
    names = {FED: "fuse F", MOTOR: "motor", HUB: "joint of the capacitors"}
    for i, name in enumerate(design.names):
        if wiring.far[i] not in (HUB, MOTOR):
            names[wiring.far[i]] = f"limiter R{name}"
    rows = [Lug("L", "supply to fuse F")]
    second = wiring.second_pole
    rows.append(Lug("pole 1", f"common from {names[FED]}"))
    if second:
        rows.append(Lug("pole 2", f"common from {names[second]}"))
    rows += [
        Lug(part.name, f"to {names.get(part.net_b, part.net_b)}")
        for part in rated.circuit.parts
        if part.kind is PartKind.CONTACT
    ]
    for i, name in enumerate(design.names):
        start = "joint" if wiring.far[i] == HUB else f"lugs of {wiring.far[i].upper()}"
        end = names[wiring.near[i]] if wiring.near[i] in names else f"far end of {wiring.near[i].upper()}"
        rows.append(
            Lug(name, f"{start}, limiter R{name}, capacitor {name} with bleed D{name} across it, {end}")
        )
    return tuple(rows)
