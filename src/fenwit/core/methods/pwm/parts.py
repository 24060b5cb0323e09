"""What is needed around a commanded fan: fuse, driver, leads, pins, logic supply; each with what it bears."""

from __future__ import annotations

import math
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.copper import lead_ohm, track_current_a, track_width_mm
from fenwit.core.circuit.drawing import Drawing
from fenwit.core.errors import InputError
from fenwit.core.methods.common.direct_sketch import RETURN, Row, rows_drawn
from fenwit.core.methods.common.mapped import PIN_A, PIN_PEAK_A, bar, fuse_for
from fenwit.core.methods.pwm.design import BenchBox, Drive, DutyDesign, Maker
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.signal import choice_of, safe_pull, seen, setting
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind, StressShown
from fenwit.core.regulator.direct_supply import Limited
from fenwit.core.size.classes import FUSE_FACTOR

DROP_SHARE = 0.05
"""Most of the supply's volts that leads may take [-]"""
LOGIC_V, LOGIC_W = 5.0, 0.7
"""Of the logic, and what its linear regulator bears without a heat sink [V, W]"""
TACH_OHM = 10e3
LOGIC_EFFICIENCY = 0.85
"""Of a small switching regulator [-]"""
INPUT_MARGIN = 1.25
"""Volts of parts on the supply over its own [-]"""


@dataclass(frozen=True)
class Budget:
    """Amps of all fans together."""

    running_a: float
    starting_a: float


def budget(fan: DutyFan, one_by_one: bool) -> Budget | None:
    """Amps running at full speed and starting, together or one by one; None while the fan's amps are not known."""
    known = fan.commanded
    if known.full_a is None:
        return None
    running = known.full_a * fan.count
    ratio = max(1.0, known.sheet.start_ratio)
    starting = running + (ratio - 1) * known.full_a if one_by_one else running * ratio
    return Budget(running, starting)


def built(fan: DutyFan, design: DutyDesign) -> Built:
    """Circuit, parts with their burdens, and what is wired to which lead. Raises InputError as `setting`."""
    amps = budget(fan, design.one_by_one)
    fuse = fuse_for(design.fuse_a, amps.running_a if amps else None)
    return Built(
        _circuit(design, fuse), _sketch(design), tuple(_rows(fan, design, amps, fuse)), _lugs(fan, design)
    )


def _circuit(design: DutyDesign, fuse_a: float) -> Circuit:
    """Supply to the fans, what drives the lead, and the tachometer's pull-up; the lead's own stands in the fan."""
    parts = [Part("F", PartKind.FUSE, "+", "M", fuse_a)]
    parts.append(Part("Q", _driver_kind(design), "C", "0V"))
    parts.append(Part("RT", PartKind.RESISTOR, "5V", "T", TACH_OHM))
    pulled = frozenset({"Q"}) if design.drive is Drive.OPEN_DRAIN else frozenset[str]()
    positions = (Position("low", pulled), Position("high", frozenset()))
    return Circuit("+", "M", tuple(parts), positions)


def _driver_kind(design: DutyDesign) -> PartKind:
    return PartKind.BLOCK if design.drive is Drive.PUSH_PULL else PartKind.CONTACT


def _sketch(design: DutyDesign) -> Drawing:
    """Each of the fan's four leads with what stands before it."""
    pushed = design.drive is Drive.PUSH_PULL
    return rows_drawn(
        (
            Row("+", (("F", PartKind.FUSE),), "fan +"),
            Row("from U" if pushed else RETURN[0], (("Q", _driver_kind(design)),), "control"),
            Row(f"{LOGIC_V:g} V", (("RT", PartKind.RESISTOR),), "tachometer"),
            Row(RETURN[0], (), RETURN[1]),
        )
    )


def _rows(fan: DutyFan, design: DutyDesign, amps: Budget | None, fuse_a: float) -> list[PartRow]:
    rows = [_fuse(fan, amps, fuse_a)]
    rows.append(_maker(fan, design))
    rows.append(_driver(fan, design))
    if design.maker.drawn and design.drive is Drive.OPEN_DRAIN:
        rows.append(_gate(design))
    rows.append(
        PartRow(
            "RT", PartRowKind.RESISTOR, "pulls the tachometer up", q.show(TACH_OHM, q.RESISTANCE),
            q.bench(TACH_OHM, q.RESISTANCE),
            "0.1 W",
            f"without it the tachometer reads nothing; {fan.commanded.sheet.pulses_per_rev:g} pulses a revolution", (),
            0,
            to_buy=True,
        )
    )  # fmt: skip
    if amps is not None:
        rows += [_pins(design, amps), *_leads(fan, amps)]
        if fan.commanded.sheet.limit_a is not None:
            rows.append(_supply(fan, design, amps))
    rows.append(_logic(fan, design))
    if design.maker is Maker.BENCH:
        rows += _box(fan, design)
    return rows


def _fuse(fan: DutyFan, amps: Budget | None, fuse_a: float) -> PartRow:
    stresses: tuple[StressShown, ...] = ()
    if amps is not None:
        blows = FUSE_FACTOR * amps.running_a
        stresses = (bar("amps", blows, fuse_a, q.CURRENT, "1.6 × full speed, all fans"),)
    note = (
        ""
        if amps is None
        else f"starting together they take {q.show(amps.starting_a, q.CURRENT, 2)} for a moment: time-lag"
    )
    refusal = (
        ""
        if not stresses or stresses[0].holds
        else "it blows at full speed: a larger one, or fewer fans on it"
    )
    return PartRow(
        "F", PartRowKind.FUSE, "towards the supply", f"{q.show(fuse_a, q.CURRENT)} time-lag",
        q.bench(fuse_a, q.CURRENT),
        q.show(fuse_a, q.CURRENT), note, stresses, 0, refusal=refusal, editable=True, to_buy=True,
    )  # fmt: skip


_IC = {
    Maker.STEERED: "timer IC with steering diodes",
    Maker.PLAIN: "timer IC, no diodes",
    Maker.ONE_SHOT: "two timer ICs: clock and one-shot",
}


def _maker(fan: DutyFan, design: DutyDesign) -> PartRow:
    parts = design.timer
    if not design.maker.drawn:
        choice = choice_of(design)
        text = f"timer of {design.controller.bits} bits, {choice.mode.value}, ÷ {choice.prescaler}, TOP {choice.top}"
        note = (
            f"{q.show(choice.actual_frequency_hz, _HZ, 4)}, {choice.levels} levels; in reset its pin floats: "
            f"a {safe_pull(fan, design)} there makes full speed"
        )
        return PartRow("U", PartRowKind.OTHER, "makes the duty", text, "", "", note, (), 0, to_buy=True)
    ohms = f"{q.show(parts.low_ohm, q.RESISTANCE)}, pot {q.show(parts.pot_ohm, q.RESISTANCE)}"
    shapes = f"{ohms}, {q.show(parts.capacitance_f, q.CAPACITANCE)}"
    name = _IC[design.maker]
    discharge = bar("discharge", discharge_a(design), IC_A, q.CURRENT, "its pin, at the pot's worse end")
    refusal = "" if discharge.holds else "more than its discharge pin bears: larger end resistors"
    return PartRow(
        "U", PartRowKind.OTHER, "makes the duty", f"{name}: {shapes}", "", q.show(IC_A, q.CURRENT), "", (discharge,), 0,
        refusal=refusal, to_buy=True,
    )  # fmt: skip


IC_A, GATE_SHARE = 0.2, 0.5
"""What output and discharge pin of a timer IC bear [A], and how much of it the gate of Q may ask for [-]"""


def gate_ohm(design: DutyDesign) -> float:
    """Least preferred resistor before Q's gate that keeps a timer's output at half of what it bears, at each edge [Ω]"""
    least = design.timer.charged_v / (GATE_SHARE * IC_A)
    return float(q.preferred("E12", least, 10 * least)[0])


def _gate(design: DutyDesign) -> PartRow:
    ohm = gate_ohm(design)
    stress = bar("amps", design.timer.charged_v / ohm, IC_A, q.CURRENT, "output of the timer, at each edge")
    return PartRow(
        "RG", PartRowKind.RESISTOR, "before the gate of Q", q.show(ohm, q.RESISTANCE), q.bench(ohm, q.RESISTANCE),
        q.show(IC_A, q.CURRENT), "", (stress,), 0, to_buy=True,
    )  # fmt: skip


def discharge_a(design: DutyDesign) -> float:
    """Most amps into the discharge pin of a timer IC, over its pot's travel [A]"""
    parts = design.timer
    drop = 2 * parts.supply_v / 3
    ends = [
        # Without diodes the pin takes what comes from the supply too, while it is low.
        (parts.supply_v / (parts.high_ohm + x * parts.pot_ohm)) * (design.maker is Maker.PLAIN)
        + drop / (parts.low_ohm + (1 - x) * parts.pot_ohm)
        for x in (0.0, 1.0)
    ]
    # A one-shot's pin takes its timing resistor's amps; its capacitor goes through the pin itself.
    return parts.supply_v / parts.low_ohm if design.maker is Maker.ONE_SHOT else max(ends)


_HZ = q.Dimension("hertz", "Hz", ("Hz",), "k", 0.0, 1e9, "like 25k")


def _driver(fan: DutyFan, design: DutyDesign) -> PartRow:
    if design.drive is Drive.PUSH_PULL:
        return PartRow(
            "Q", PartRowKind.OTHER, "drives the lead both ways", f"push-pull at {q.plain(design.high_v)} V", "",
            "5.25 V",
            "the lead bears no more",
            (StressShown("volts", design.high_v / 5.25, f"{design.high_v:g} of 5.25 V", "high", True),), 0,
            to_buy=True,
        )  # fmt: skip
    stress = bar(
        "amps", fan.sink_a, design.driver_a, q.CURRENT, f"low, {fan.count} fan{'s' if fan.count > 1 else ''}"
    )
    refusal = (
        "" if stress.holds else "more than it sinks: a transistor between it and the leads, one stage more"
    )
    usual = "" if fan.lead else "the fan's pull-up is not known: 5 mA a fan are taken"
    return PartRow(
        "Q", PartRowKind.OTHER, "pulls the lead low", "open drain", "", q.show(design.driver_a, q.CURRENT), "",
        (stress,), 0,
        refusal=refusal, note=usual, to_buy=True,
    )  # fmt: skip


def _pins(design: DutyDesign, amps: Budget) -> PartRow:
    box = design.box if design.maker is Maker.BENCH else BenchBox()
    together = "one starts, the others run" if design.one_by_one else "all start at once"
    stresses = [
        bar("amps", amps.running_a, box.pin_a, q.CURRENT, "full speed, all fans on one header"),
        bar("peak", amps.starting_a, box.pin_a * PIN_PEAK_A / PIN_A, q.CURRENT, together),
    ]
    width = track_width_mm(amps.running_a, box.copper_um)
    words = "too much for one pin: split the fans over headers, or start them one after the other"
    if box.track_mm is not None:
        bears = track_current_a(box.track_mm, box.copper_um)
        if amps.running_a > bears:
            words = f"the track bears {q.show(bears, q.CURRENT, 2)}: {q.plain(width, 2)} mm at least"
        stresses.append(
            bar("track", amps.running_a, bears, q.CURRENT, f"{box.track_mm:g} mm of copper, 20 K warmer")
        )
    worst = max(range(len(stresses)), key=lambda i: stresses[i].share)
    refusal = "" if all(s.holds for s in stresses) else words
    return PartRow(
        "X", PartRowKind.OTHER, "pins and tracks", "2.54 mm pins" if box.pin_a == PIN_A else "pins", "",
        f"{box.pin_a:g} A",
        f"track at least {q.plain(width, 2)} mm, {box.copper_um:g} µm, 20 K",
        tuple(stresses), worst, refusal=refusal, to_buy=True,
    )  # fmt: skip


def _leads(fan: DutyFan, amps: Budget) -> list[PartRow]:
    sheet = fan.commanded.sheet
    if sheet.lead_m is None or sheet.lead_m == 0:
        return []
    drop = amps.running_a * lead_ohm(sheet.lead_m, sheet.lead_mm2)
    stress = bar(
        "drop",
        drop,
        DROP_SHARE * fan.supply_voltage_v,
        q.VOLTAGE,
        f"{sheet.lead_m:g} m there and back, full speed",
    )
    note = "" if stress.holds else "the fan gets less, and turns slower than predicted: thicker leads"
    text = f"{sheet.lead_m:g} m of {sheet.lead_mm2:g} mm²"
    return [
        PartRow(
            "W",
            PartRowKind.WIRE,
            "leads to the fans",
            text,
            "",
            "5 % of the supply",
            "",
            (stress,),
            0,
            note=note,
        )
    ]


def _supply(fan: DutyFan, design: DutyDesign, amps: Budget) -> PartRow:
    sheet = fan.commanded.sheet
    assert sheet.limit_a is not None
    each = math.ceil(fan.count / sheet.groups)
    supply = Limited(fan.supply_voltage_v, sheet.limit_a, sheet.limit_kind)
    direct = fan.commanded.direct
    one_a = amps.running_a / fan.count
    wanted = supply.wanted_a(direct, each)
    at_once = supply.at_once(direct)
    if design.one_by_one:
        wanted = (each - 1) * one_a + supply.wanted_a(direct, 1)
    stresses = (
        bar("amps", one_a * each, sheet.limit_a, q.CURRENT, f"{each} fans at full speed"),
        bar(
            "start",
            wanted,
            sheet.limit_a,
            q.CURRENT,
            "the last one from rest" if design.one_by_one else f"{each} fans from rest",
        ),
    )
    if design.one_by_one:
        # The last one starts on what the others leave it.
        starts = wanted <= sheet.limit_a * (1 + 1e-9)
        words = "the last one does not start beside the others: a larger supply, or fewer fans on it"
    else:
        starts = supply.rest_voltage_v(direct, each) >= direct.start_v
        words = f"{each} fans do not start together on it, {at_once} do: let them start one after the other, 1 s apart"
    refusal = "" if starts else words
    if not stresses[0].holds:
        refusal = "less than the fans take at full speed"
    return PartRow(
        "PS", PartRowKind.OTHER, "supply" if sheet.groups == 1 else f"each of {sheet.groups} supplies",
        f"{fan.supply_voltage_v:g} V, {q.show(sheet.limit_a, q.CURRENT)}", "", q.show(sheet.limit_a, q.CURRENT), "",
        stresses, 0, refusal=refusal,
    )  # fmt: skip


def logic_loss_w(supply_v: float, logic_a: float, switching: bool = False) -> float:
    """Of what feeds the logic: linear (V_in − V_logic) I; switching V_logic I (1/η − 1), η 0.85 [V, A → W]"""
    if switching:
        return LOGIC_V * logic_a * (1 / LOGIC_EFFICIENCY - 1)
    return max(0.0, supply_v - LOGIC_V) * logic_a


def _top_v(fan: DutyFan, design: DutyDesign) -> float:
    """Most volts that come in: a box for the bench has a wide supply [V]"""
    top = design.box.top_v if design.maker is Maker.BENCH else None
    return max(fan.supply_voltage_v, top or 0.0)


def _logic(fan: DutyFan, design: DutyDesign) -> PartRow:
    volts = _top_v(fan, design)
    amps = design.logic_a + (design.box.own_fan_a if design.maker is Maker.BENCH else 0.0)
    watts = logic_loss_w(volts, amps, design.logic_switching)
    stress = bar("heat", watts, LOGIC_W, q.POWER, f"{q.show(amps, q.CURRENT)} from {volts:g} V")
    words = (
        "too hot: less on it, or a larger one"
        if design.logic_switching
        else "too hot without a heat sink: a switching one"
    )
    kind = "switching" if design.logic_switching else "linear"
    return PartRow(
        "VR", PartRowKind.OTHER, "feeds the logic", f"{kind} regulator, {LOGIC_V:g} V", "", f"{LOGIC_W:g} W",
        f"and what stands before it rated {q.plain(INPUT_MARGIN * volts, 2)} V at least",
        (stress,), 0,
        refusal="" if stress.holds else words, to_buy=True,
    )  # fmt: skip


def _box(fan: DutyFan, design: DutyDesign) -> list[PartRow]:
    """What only a box for the bench has: the output for a fan of its own."""
    box = design.box
    if box.own_fan_a == 0:
        return []
    stress = bar("amps", box.own_fan_a, box.own_limit_a, q.CURRENT, "cooling the box")
    return [
        PartRow(
            "M0", PartRowKind.OTHER, "cools the box", f"{LOGIC_V:g} V fan, {q.show(box.own_fan_a, q.CURRENT)}", "",
            q.show(box.own_limit_a, q.CURRENT), "from the logic supply, switched", (stress,), 0,
            refusal="" if stress.holds else "more than the switched output gives: a fan that takes less", to_buy=True,
        )
    ]  # fmt: skip


def _lugs(fan: DutyFan, design: DutyDesign) -> tuple[Lug, ...]:
    driven = (
        "driver, push-pull"
        if design.drive is Drive.PUSH_PULL
        else "open drain of Q; the fan pulls it up itself"
    )
    return (
        Lug("supply +", "fuse F to the fan's plus lead"),
        Lug("ground", "supply minus, logic ground and the fan's minus lead, in one point"),
        Lug("tachometer", f"RT to {LOGIC_V:g} V, and the input that counts"),
        Lug("control", driven),
    )


def dead_stage(fan: DutyFan, design: DutyDesign) -> str:
    """What the fan does when what makes the duty is dead or in reset."""
    resting = "high" if design.turned else "low"
    level = {"high": 1.0, "low": 0.0}[resting]
    try:
        mine = setting(fan, design, level)
    except InputError:
        return "not known"
    duty = seen(fan, design, mine.asked, design.frequency_hz)
    meant = fan.meant(duty)
    return "full speed" if meant > 0.99 else "its slowest speed, or stands"
