"""Switch, fuse, wire and caps around a tapped motor, and lead by lead what is wired to it."""

from __future__ import annotations

from fenwit.core.memory import remembered
from fenwit.core.methods.common.parts import fuse_row, row_of, switch_row
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind, StressShown
from fenwit.core.methods.winding_tap.design import TapsDesign
from fenwit.core.methods.winding_tap.fan import TappedFan
from fenwit.core.methods.winding_tap.rating import CAP, Rated, rate
from fenwit.core.methods.winding_tap.sketch import sketch
from fenwit.core.size.rated import RatedKind, RatedPart

VOLTS = "volts"
CAP_V = 600.0
"""What closed-end caps for motor leads are usually made for [V]"""


@remembered
def built(fan: TappedFan, design: TapsDesign) -> Built:
    """The switch on its taps with its parts, its circuit and its connections."""
    rated = rate(fan, design)
    rows = [_row(p, rated) for p in rated.parts]
    if rated.unused:
        rows.append(_caps(fan, rated))
    return Built(rated.circuit, sketch(rated.circuit), tuple(rows), _lugs(fan, rated))


def _row(part: RatedPart, rated: Rated) -> PartRow:
    if part.kind is RatedKind.WIRE:
        return row_of(
            part, "wire", "copper 0.75 mm², 450/750 V", "", "6 A", note="idle leads stand above the supply"
        )
    if part.kind is RatedKind.SWITCH:
        return switch_row(part, rated.design.switch)
    return fuse_row(part)


def _caps(fan: TappedFan, rated: Rated) -> PartRow:
    volts = rated.idle_v
    holds = volts <= CAP_V
    stress = StressShown(
        VOLTS, volts / CAP_V, f"{volts:.0f} of {CAP_V:g} V", "running on the fastest tap, mains +10 %", holds
    )
    leads = ", ".join(f"{fan.lead(name)} ({name})" for name in rated.unused)
    return PartRow(
        name=CAP,
        kind=PartRowKind.OTHER,
        role="caps on idle leads",
        text=f"closed-end cap on each of: {leads}",
        bench="",
        rating_text=f"{CAP_V:g} V",
        limit_text="one lead to a cap; never two twisted together",
        stresses=(stress,),
        worst=0,
        refusal=""
        if holds
        else "idle leads pass what such caps are made for: take a splice of a higher class",
        explained=False,
        to_buy=True,
    )


def _lugs(fan: TappedFan, rated: Rated) -> tuple[Lug, ...]:
    rows = [Lug("L", "supply to fuse F"), Lug("pole 1", "common from fuse F")]
    if any(len(fed) > 1 for fed in rated.design.positions):
        rows.append(Lug("pole 2", "common from fuse F"))
    for number, fed in enumerate(rated.design.positions, start=1):
        for pole, name in enumerate(fed, start=1):
            rows.append(Lug(f"{pole}.{number}", f"to motor lead {fan.lead(name)} ({name})"))
    rows.append(Lug("N", f"to motor lead {fan.common} (common)"))
    rows += [Lug(fan.lead(name), f"idle ({name}): a cap of its own") for name in rated.unused]
    return tuple(rows)
