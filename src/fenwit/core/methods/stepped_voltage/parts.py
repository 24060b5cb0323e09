"""The transformer as it is built: what it is and bears, fuse, switch and wire, and lug by lug what is wired to it."""

from __future__ import annotations

from dataclasses import replace

from fenwit.core import quantity as q
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.parts import fuse_row, stress_place, switch_row, wire_row
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind, StressShown
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.rating import NAME, SECOND_FUSE, Rated
from fenwit.core.methods.stepped_voltage.sketch import sketch
from fenwit.core.methods.stepped_voltage.steps import regulated
from fenwit.core.regulator.transformer import AMBIENT_C, RISE_K, Winding
from fenwit.core.size.rated import RatedKind, RatedPart

AMPS, WARMTH = "winding amps", "winding"


@remembered
def built(fan: MachineFan, design: SteppedDesign) -> Built:
    """The transformer with its parts, its circuit and its connections."""
    rated = regulated(fan, design).rated
    rows = (_transformer(rated, design.va is not None), *(_row(p, rated) for p in rated.parts))
    return Built(rated.circuit, sketch(rated.circuit), rows, _lugs(rated.design))


def _row(part: RatedPart, rated: Rated) -> PartRow:
    if part.kind is RatedKind.WIRE:
        return wire_row(part)
    if part.kind is RatedKind.SWITCH:
        return switch_row(part, rated.design.switch)
    # Only the one towards the mains is set by hand.
    return replace(fuse_row(part), editable=part.name != SECOND_FUSE)


def transformer_words(design: SteppedDesign) -> str:
    """What to ask for at the counter."""
    kind = "autotransformer" if design.winding is Winding.AUTO else "transformer, separate windings"
    taps = ", ".join(f"{t.volts:g}" for t in design.taps)
    return f"{kind}, {design.va:g} VA, {design.rated_v:g} V {design.rated_hz:g} Hz, taps {taps} V"


def _limit(rated: Rated) -> str:
    unit = rated.unit
    return (
        f"winding made for {q.show(unit.rated_a, q.CURRENT)}; idle {q.plain(unit.core_loss_w, 2)} W, "
        f"first rush up to {q.plain(rated.rush.crest_a, 2)} A"
    )


def _brief(design: SteppedDesign) -> str:
    kind = "auto" if design.winding is Winding.AUTO else "separate"
    return f"{kind} {design.va:g} VA, taps {', '.join(f'{t.volts:g}' for t in design.taps)} V"


def _transformer(rated: Rated, by_hand: bool) -> PartRow:
    amps, hot = rated.winding
    milli = amps.rating < 1.0
    value, rating = (q.plain(v * (1000 if milli else 1), 3) for v in (amps.value, amps.rating))
    stresses = (
        StressShown(
            AMPS,
            amps.share,
            f"{value} of {rating} {'mA' if milli else 'A'}",
            stress_place(amps),
            amps.holds,
        ),
        StressShown(
            WARMTH, hot.share, f"≈ {hot.value:.0f} of {hot.rating:.0f} °C", stress_place(hot), hot.holds
        ),
    )
    unit = rated.unit
    return PartRow(
        name=NAME,
        kind=PartRowKind.OTHER,
        role="transformer",
        text=_brief(rated.design),
        bench=f"{unit.va:g}",
        rating_text=(
            f"{unit.va:g} VA, class {rated.design.insulation}: {AMBIENT_C:g} °C + "
            f"{RISE_K[rated.design.insulation]:g} K"
        ),
        limit_text=_limit(rated),
        stresses=stresses,
        worst=0 if amps.share >= hot.share else 1,
        by_hand=by_hand,
        refusal=rated.refusal,
        editable=True,
        explained=True,
        to_buy=True,
        paper=f"{transformer_words(rated.design)}; with a thermal cut-out in its winding",
    )


def _lugs(design: SteppedDesign) -> tuple[Lug, ...]:
    auto = design.winding is Winding.AUTO
    rows = [Lug("L", "supply to fuse F")]
    if auto:
        rows += [
            Lug("fuse F", "to the line end of the winding"),
            Lug("N", "to the neutral end of the winding, and on to the motor's common"),
        ]
    else:
        rows += [
            Lug("fuse F", "to one end of the primary"),
            Lug("N", "to the other end of the primary"),
            Lug(
                "secondary, common end", "to the motor's common; earthed or left floating as local code says"
            ),
        ]
    rows += [
        Lug(f"1.{k}", f"from the {t.volts:g} V tap to the motor") for k, t in enumerate(design.taps, start=1)
    ]
    if not auto:
        rows.append(Lug("fuse F2", "from the switch's common to the motor"))
    if design.direct:
        rows.append(Lug(f"1.{design.steps}", "from fuse F to the motor"))
    return tuple(rows)
