"""Switch, diode, choke and fuse of a chopped supply, and what they bear."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.drawing import Drawing
from fenwit.core.methods.chopped_supply.design import ChopDesign
from fenwit.core.methods.chopped_supply.steps import chopper, setting
from fenwit.core.methods.common.direct_sketch import RETURN, Join, Row, rows_drawn
from fenwit.core.methods.common.mapped import bar, fuse_for
from fenwit.core.methods.common.volts import VoltFan
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind, StressShown
from fenwit.core.size.classes import FUSE_FACTOR

JUNCTION_C = 100.0
"""25 K below the usual limit [°C]"""
RIPPLE_SHARE = 0.3
"""Of the amps in the choke, peak to peak over their mean [-]"""


def built(fan: VoltFan, design: ChopDesign) -> Built:
    """Circuit, parts with their burdens, and what is wired where."""
    amps = fan.current_a(fan.supply_voltage_v) if fan.amps_known else None
    fuse = fuse_for(design.fuse_a, amps)
    parts = [Part("F", PartKind.FUSE, "+", "f", fuse)]
    if design.filtered and amps:
        parts.append(Part("L1", PartKind.INDUCTOR, "f", "M", choke_h(fan, design, amps)))
    parts.append(Part("D", PartKind.DIODE, "s", "f"))
    parts.append(Part("Q", PartKind.CONTACT, "s", "0V"))
    load = "M" if design.filtered and amps else "f"
    circuit = Circuit(
        "+", load, tuple(parts), (Position("on", frozenset({"Q"})), Position("off", frozenset()))
    )
    return Built(
        circuit, _sketch(bool(design.filtered and amps)), tuple(_rows(fan, design, amps, fuse)), _lugs(design)
    )


def _sketch(choke: bool) -> Drawing:
    """Fuse and choke towards plus, the switch towards minus, the freewheel diode back over both."""
    above = (("F", PartKind.FUSE), *((("L1", PartKind.INDUCTOR),) if choke else ()))
    rows = (
        Row("+", above, "fan +"),
        Row("", (("D", PartKind.DIODE),), "", column=1, backwards=True),
        Row(RETURN[0], (("Q", PartKind.CONTACT),), RETURN[1]),
    )
    # Its cathode at the fuse, its anode at the fan's minus.
    return rows_drawn(rows, (Join(0, 1, 1), Join(1, 2, 2)))


def choke_h(fan: VoltFan, design: ChopDesign, amps: float) -> float:
    """Choke whose ripple is three tenths of the amps at half duty, V d (1 − d)/(f ΔI) [H]"""
    return fan.supply_voltage_v * 0.25 / (design.frequency_hz * RIPPLE_SHARE * amps)


def _rows(fan: VoltFan, design: ChopDesign, amps: float | None, fuse_a: float) -> list[PartRow]:
    stresses: tuple[StressShown, ...] = ()
    if amps is not None:
        stresses = (bar("amps", FUSE_FACTOR * amps, fuse_a, q.CURRENT, "1.6 × full speed, all fans"),)
    rows = [
        PartRow(
            "F", PartRowKind.FUSE, "towards the supply", f"{q.show(fuse_a, q.CURRENT)} time-lag",
            q.bench(fuse_a, q.CURRENT),
            q.show(fuse_a, q.CURRENT), "", stresses, 0, editable=True, to_buy=True,
            refusal="" if not stresses or stresses[0].holds else "it blows at full speed: a larger one",
        )
    ]  # fmt: skip
    if amps is None:
        rows.append(
            PartRow(
                "Q",
                PartRowKind.OTHER,
                "chops",
                "transistor",
                "",
                "",
                "its heat needs the amps of the fan",
                (),
                0,
                to_buy=True,
            )
        )
        return rows
    switch = chopper(fan, design)
    hottest = max(
        (setting(fan, design, d) for d in design.duties),
        key=lambda s: switch.conduction_w(s.duty) + switch.switching_w(s.duty),
    )
    heat = switch.conduction_w(hottest.duty) + switch.switching_w(hottest.duty)
    junction = design.ambient_c + heat * design.junction_k_w
    hot = StressShown(
        "junction",
        junction / JUNCTION_C,
        f"{junction:.0f} of {JUNCTION_C:.0f} °C",
        f"{100 * hottest.duty:.0f} %",
        junction <= JUNCTION_C,
    )
    rows.append(
        PartRow(
            "Q", PartRowKind.OTHER, "chops",
            f"transistor for {q.plain(1.5 * fan.supply_voltage_v)} V, {q.show(design.on_ohm, q.RESISTANCE)} on",
            "", f"{JUNCTION_C:.0f} °C", f"{q.show(heat, q.POWER, 2)}: {q.plain(design.junction_k_w)} K/W", (hot,), 0,
            to_buy=True,
            refusal="" if hot.holds else "too hot: a better switch, slower, or a heat sink",
        )
    )  # fmt: skip
    least = min(design.duties)
    carried = f"{q.show(switch.diode_w(least), q.POWER, 2)} at {100 * least:.0f} %"
    diode = f"fast diode for {q.show(amps, q.CURRENT, 2)}, {carried}"
    rows.append(
        PartRow(
            "D",
            PartRowKind.OTHER,
            "carries the current on",
            diode,
            "",
            "",
            "across the fans, cathode to plus",
            (),
            0,
            to_buy=True,
        )
    )
    if design.filtered:
        henry = choke_h(fan, design, amps)
        rows.append(
            PartRow(
                "L1", PartRowKind.OTHER, "makes direct volts of it",
                f"choke of {q.show(henry, q.INDUCTANCE, 2)} for {q.show(1.3 * amps, q.CURRENT, 2)}",
                "", "", "", (), 0, to_buy=True,
            )
        )  # fmt: skip
    else:
        words = (
            "inside each fan a capacitor is a short at every turn-on: slow the gate down, or put a choke in"
        )
        rows.append(
            PartRow(
                "RG",
                PartRowKind.OTHER,
                "slows the edges",
                "gate resistor, 100 Ω and up",
                "",
                "",
                words,
                (),
                0,
                to_buy=True,
            )
        )
    return rows


def _lugs(design: ChopDesign) -> tuple[Lug, ...]:
    return (
        Lug(
            "supply +",
            "fuse F, then the choke, then the fans' plus" if design.filtered else "fuse F to the fans' plus",
        ),
        Lug("fans −", "transistor Q to the supply's minus; diode D from here to the fans' plus"),
        Lug("tachometer", "against the fans' own minus: its ground moves with the switch"),
    )
