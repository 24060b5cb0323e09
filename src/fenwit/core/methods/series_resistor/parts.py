"""The regulator as it is built: every part with what it bears, and lug by lug what is wired to it."""

from __future__ import annotations

from dataclasses import replace

from fenwit.core import quantity as q
from fenwit.core.circuit.drawing import draw
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.parts import fuse_row, row_of, switch_row, wire_row
from fenwit.core.methods.seam import Built, Lug, PartRow
from fenwit.core.methods.series_resistor.builds import BUILDS, TOUCH_C
from fenwit.core.methods.series_resistor.design import Resistor, ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.rating import Rated
from fenwit.core.methods.series_resistor.steps import regulated
from fenwit.core.size.rated import RatedKind, RatedPart


@remembered
def built(fan: MachineFan, design: ResistorDesign) -> Built:
    """The regulator with its parts, its circuit and its connections."""
    rated = regulated(fan, design).rated
    return Built(
        rated.circuit, draw(rated.circuit), tuple(_row(p, rated) for p in rated.parts), _lugs(rated.design)
    )


def _row(part: RatedPart, rated: Rated) -> PartRow:
    if part.kind is RatedKind.WIRE:
        return wire_row(part)
    if part.kind is RatedKind.SWITCH:
        return switch_row(part, rated.design.switch)
    if part.kind is RatedKind.FUSE:
        return fuse_row(part)
    i = rated.design.names.index(part.name)
    resistor = rated.design.resistors[i]
    row = row_of(
        part,
        f"resistor {part.name}",
        resistor_words(resistor),
        q.bench(resistor.value_ohm, q.RESISTANCE),
        f"{part.rating:g} W",
        note=heat_words(rated.hottest_c[i], rated.clearance_m[i]),
    )
    measured = resistor.measured_ohm
    return replace(
        row,
        nominal_bench=q.bench(resistor.nominal_ohm, q.RESISTANCE),
        measured_bench="" if measured is None else q.bench(measured, q.RESISTANCE, 4),
        shelf_id=resistor.shelf_id,
        to_buy=True,
        editable=True,
        explained=True,
        paper=f"{resistor_words(resistor)}; {BUILDS[resistor.build].mounting}",
    )


def resistor_words(resistor: Resistor) -> str:
    """What to ask for at the counter."""
    text = f"{BUILDS[resistor.build].name}, {q.show(resistor.nominal_ohm, q.RESISTANCE)}"
    watts = "" if resistor.rated_w is None else f", {resistor.rated_w:g} W"
    if resistor.measured_ohm is not None:
        return f"{text}{watts}, measured {q.show(resistor.measured_ohm, q.RESISTANCE, 4)}"
    return f"{text} ±{100 * resistor.tolerance:g} %{watts}"


def heat_words(hottest_c: float, clearance_m: float) -> str:
    """How hot it gets at worst and what that asks for; temperatures to ten degrees, they are estimates."""
    guard = ": guard it" if hottest_c > TOUCH_C else ""
    clear = f"keep {1000 * clearance_m:.0f} mm clear beside it, twice that above"
    return f"about {10 * round(hottest_c / 10):d} °C at worst{guard}; {clear}"


def _lugs(design: ResistorDesign) -> tuple[Lug, ...]:
    rows = [Lug("L", "supply to fuse F"), Lug("pole 1", "common from fuse F")]
    names = design.names
    rows += [Lug(f"1.{k}", f"to {name}") for k, name in enumerate(names, start=1)]
    if design.direct:
        rows.append(Lug(f"1.{len(names) + 1}", "to motor"))
    for k, name in enumerate(names):
        last = k == len(names) - 1
        chained = design.scheme is Scheme.CHAIN and not last
        rows.append(
            Lug(name, f"far end to {names[k + 1]} and lug 1.{k + 2}" if chained else "far end to motor")
        )
    return tuple(rows)
