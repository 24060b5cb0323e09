"""What lowers the volts, and what it bears: resistors, a linear regulator on its heat sink, a switching one."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.drawing import draw
from fenwit.core.methods.common.direct_sketch import with_return
from fenwit.core.methods.common.mapped import bar, fuse_for
from fenwit.core.methods.common.volts import VoltFan
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.dc_voltage.steps import DIRECT_SHARE, VoltsSetting, regulator_of, setting
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind
from fenwit.core.regulator.direct_supply import MARGIN, rating_w
from fenwit.core.size.classes import FUSE_FACTOR


def built(fan: VoltFan, design: VoltsDesign) -> Built:
    """Circuit, parts with their burdens, and what is wired where. Raises InputError as `setting`."""
    found = [setting(fan, design, s) for s in design.settings]
    running = fan.current_a(fan.supply_voltage_v) if fan.amps_known else None
    fuse = fuse_for(design.fuse_a, running)
    circuit = _circuit(design, fuse)
    return Built(
        circuit, with_return(draw(circuit)), tuple(_rows(fan, design, found, running, fuse)), _lugs(design)
    )


def _circuit(design: VoltsDesign, fuse_a: float) -> Circuit:
    """Supply, fuse, then a contact and a resistor for each step; a regulator is one block."""
    parts = [Part("F", PartKind.FUSE, "+", "f", fuse_a)]
    positions = []
    if design.way is not Way.RESISTOR:
        parts.append(Part("U", PartKind.BLOCK, "f", "M"))
        return Circuit("+", "M", tuple(parts), (Position("on", frozenset()),))
    for i, ohm in enumerate(design.settings, start=1):
        contact = f"S{i}"
        net = "M" if ohm == 0 else f"r{i}"
        parts.append(Part(contact, PartKind.CONTACT, "f", net))
        if ohm > 0:
            parts.append(Part(f"R{i}", PartKind.RESISTOR, net, "M", ohm))
        positions.append(Position(str(i), frozenset({contact})))
    return Circuit("+", "M", tuple(parts), (Position("Off", frozenset()), *positions))


def _rows(
    fan: VoltFan, design: VoltsDesign, found: list[VoltsSetting], running_a: float | None, fuse_a: float
) -> list[PartRow]:
    stresses = (
        ()
        if running_a is None
        else (bar("amps", FUSE_FACTOR * running_a, fuse_a, q.CURRENT, "1.6 × full speed, all fans"),)
    )
    rows = [
        PartRow(
            "F", PartRowKind.FUSE, "towards the supply", f"{q.show(fuse_a, q.CURRENT)} time-lag",
            q.bench(fuse_a, q.CURRENT),
            q.show(fuse_a, q.CURRENT), "", stresses, 0, editable=True, to_buy=True,
            refusal="" if not stresses or stresses[0].holds else "it blows at full speed: a larger one",
        )
    ]  # fmt: skip
    if design.way is Way.RESISTOR:
        rows += [r for i, mine in enumerate(found, start=1) if (r := _resistor(fan, i, mine)) is not None]
    else:
        rows.append(_regulator(fan, design, found))
    return rows


def _resistor(fan: VoltFan, number: int, mine: VoltsSetting) -> PartRow | None:
    if mine.ohm is None:
        return None
    rest_w = (fan.supply_voltage_v - mine.rest_v) ** 2 / mine.ohm
    # A fan that is held must not burn it either.
    rating = rating_w(max(mine.loss_w, rest_w / MARGIN))
    text = q.show(mine.ohm, q.RESISTANCE)
    if rating is None:
        return PartRow(
            f"R{number}", PartRowKind.RESISTOR, f"step {number}", text, q.bench(mine.ohm, q.RESISTANCE), "", "", (), 0,
            refusal=f"no resistor of the list takes twice {q.show(mine.loss_w, q.POWER, 2)}: a switching regulator",
            to_buy=True,
        )  # fmt: skip
    stresses = (
        bar("heat", MARGIN * mine.loss_w, rating, q.POWER, "running, twice what it takes"),
        bar("at rest", rest_w, rating, q.POWER, "a fan that is held, for as long as it is"),
    )
    refusal = (
        "" if stresses[1].holds else "a fan that is held would burn it: a larger one, or a fuse that sees it"
    )
    return PartRow(
        f"R{number}", PartRowKind.RESISTOR, f"step {number}", f"{text}, {rating:g} W", q.bench(mine.ohm, q.RESISTANCE),
        f"{rating:g} W",
        f"{q.show(mine.loss_w, q.POWER, 2)} running", stresses, 0 if stresses[0].share > stresses[1].share else 1,
        refusal=refusal, to_buy=True,
    )  # fmt: skip


def _regulator(fan: VoltFan, design: VoltsDesign, found: list[VoltsSetting]) -> PartRow:
    regulator = regulator_of(fan, design)
    lowered = [m for m in found if m.volts < fan.supply_voltage_v]
    worst = max(lowered, key=lambda m: m.loss_w, default=None)
    if not fan.amps_known or worst is None:
        name = "linear regulator" if design.way is Way.LINEAR else "switching regulator"
        return PartRow(
            "U",
            PartRowKind.OTHER,
            "lowers the volts",
            name,
            "",
            "",
            "its heat needs the amps of the fan",
            (),
            0,
            to_buy=True,
        )
    if design.way is Way.SWITCHING:
        amps = max(fan.current_a(m.volts) for m in found)
        text = f"switching regulator, {q.show(1.5 * amps, q.CURRENT, 2)} or more"
        limit = (
            f"loses {q.show(worst.loss_w, q.POWER, 2)} at an efficiency of {100 * design.efficiency:.0f} %"
        )
        return PartRow("U", PartRowKind.OTHER, "lowers the volts", text, "", "", limit, (), 0, to_buy=True)
    # At full volts it is bridged.
    short = [
        m
        for m in lowered
        if m.volts < DIRECT_SHARE * fan.supply_voltage_v
        and not regulator.linear_possible(m.volts, fan.current_a(m.volts))
    ]
    sink = regulator.heat_sink_k_w(worst.loss_w)
    refusal = ""
    if short:
        volts = ", ".join(f"{q.plain(m.volts)} V" for m in short)
        refusal = f"not at {volts}: it needs {design.dropout_v:g} V for itself and a heat sink that exists"
    limit = (
        ""
        if sink is None
        else f"{q.show(worst.loss_w, q.POWER, 2)}: a heat sink of {q.plain(sink, 2)} K/W or better"
    )
    return PartRow(
        "U",
        PartRowKind.OTHER,
        "lowers the volts",
        "linear regulator",
        "",
        "",
        limit,
        (),
        0,
        refusal=refusal,
        to_buy=True,
    )


def _lugs(design: VoltsDesign) -> tuple[Lug, ...]:
    rows = [Lug("supply +", "fuse F")]
    if design.way is Way.RESISTOR:
        for i, ohm in enumerate(design.settings, start=1):
            rows.append(
                Lug(f"S{i}", "straight to the fans' plus" if ohm == 0 else f"R{i}, then the fans' plus")
            )
    else:
        rows.append(Lug("U", "in from fuse F, out to the fans' plus"))
    return (
        *rows,
        Lug("supply −", "the fans' minus and logic ground, in one point"),
        Lug("tachometer", "10 kΩ to the logic's own supply"),
    )
