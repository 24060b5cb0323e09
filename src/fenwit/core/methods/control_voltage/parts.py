"""The terminal strip by role: what is wired to it, what each part bears, and which ohms its wiring shows dead."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.drawing import Drawing
from fenwit.core.circuit.ohms import ohms_between
from fenwit.core.methods.common.direct_sketch import Join, Row, rows_drawn
from fenwit.core.methods.common.mapped import bar, fuse_for
from fenwit.core.methods.control_voltage.design import Cabling, ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.signal import chain_resistors, filter_of, setting, whole_knob
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind
from fenwit.core.size.classes import FUSE_FACTOR

LAMP_A = 0.02
"""Of an indicator lamp on the sensor supply [A]"""
POT_W = 0.2
"""What a usual potentiometer bears over its whole track [W]"""
SMALL_W = 0.25
RIPPLE_V, SETTLES_S = 0.05, 1.0
DROP_V = 0.1
"""Between first and last fan, worth mending [V]"""
RCD_SHARE, RCD_A = 0.3, 0.030
"""How much of a residual-current device's amps may stand on it all the time, and its usual amps [-, A]"""


def built(fan: ControlFan, design: ControlDesign) -> Built:
    """Circuit, parts with their burdens, and the terminals by role. Raises InputError as `setting`."""
    running = fan.amps(fan.full_rpm)
    fuse = fuse_for(design.fuse_a, running)
    return Built(
        circuit_of(fan, design),
        _sketch(fan, design),
        tuple(_rows(fan, design, running, fuse)),
        _lugs(fan, design),
    )


def circuit_of(fan: ControlFan, design: ControlDesign, travel: float = 0.5) -> Circuit:
    """The wiring at a travel of the knob: everything outside the fan, its own electronics left out."""
    running = fan.amps(fan.full_rpm)
    parts = [Part("F", PartKind.FUSE, "L", "L1", fuse_for(design.fuse_a, running))]
    positions: tuple[Position, ...]
    always = {"EN"} if design.enable else set[str]()
    if design.source is Source.KNOB:
        parts += _pot(design, travel)
        positions = (Position("on", frozenset(always)),)
    elif design.source is Source.STEPS:
        taps, chain = _chain(fan, design)
        parts += chain
        positions = tuple(
            Position(str(i), frozenset({f"S{i}", *always})) for i in range(1, taps + 1)
        )  # fmt: skip
    else:
        parts += _maker(design)
        positions = (Position("on", frozenset(always)),)
    if design.enable:
        parts.append(Part("EN", PartKind.CONTACT, "24V", "E1"))
    if design.alarm:
        parts += [Part("H1", PartKind.LAMP, "NO", "0V"), Part("H2", PartKind.LAMP, "NC", "0V")]
    off = Position("Off", frozenset())
    return Circuit("L", "L1", tuple(parts), (off, *positions))


_LEAST_OHM = 5e-3
"""Stands for the end of a track [Ω]"""


def _pot(design: ControlDesign, travel: float) -> list[Part]:
    knob = design.knob
    top, bottom = ("T" if knob.top_ohm else "10V"), ("B" if knob.bottom_ohm else "0V")
    found = [
        Part(
            "P above", PartKind.RESISTOR, top, "A1", max(_LEAST_OHM, (1 - travel) * knob.pot_ohm), knob.spread
        ),
        Part("P below", PartKind.RESISTOR, "A1", bottom, max(_LEAST_OHM, travel * knob.pot_ohm), knob.spread),
    ]
    if knob.top_ohm:
        found.insert(0, Part("RT", PartKind.RESISTOR, "10V", "T", knob.top_ohm, 0.05))
    if knob.bottom_ohm:
        found.append(Part("RB", PartKind.RESISTOR, "B", "0V", knob.bottom_ohm, 0.05))
    return found


def _chain(fan: ControlFan, design: ControlDesign) -> tuple[int, list[Part]]:
    """The chain from 0 V up to the reference, a contact from each tap to the input, in the order of the steps."""
    resistors = chain_resistors(fan, design)
    order = sorted(range(len(design.volts)), key=lambda i: design.volts[i])
    found, net, taps = [], "0V", 0
    for k, ohm in enumerate(resistors):
        last = k == len(resistors) - 1
        above = "10V" if last else f"T{k + 1}"
        if ohm > 0:
            found.append(Part(f"R{k + 1}", PartKind.RESISTOR, net, above, ohm, 0.01))
        elif not last or net != "10V":
            # No resistor: the two ends are one point.
            found.append(Part(f"R{k + 1}", PartKind.RESISTOR, net, above, _LEAST_OHM))
        net = above
        if not last:
            taps += 1
            found.append(Part(f"S{order[k] + 1}", PartKind.CONTACT, above, "A1"))
    return taps, found


def _maker(design: ControlDesign) -> list[Part]:
    if design.source is Source.ANALOG:
        return [Part("U", PartKind.BLOCK, "OUT", "A1")]
    f = design.filter
    found = [
        Part("R1", PartKind.RESISTOR, "LOGIC", "F1", f.resistance_ohm, 0.01),
        Part("C1", PartKind.CAPACITOR, "F1", "0V", f.capacitance_f, 0.1),
    ]
    last = "F1"
    if f.stages == 2:
        found += [
            Part("R2", PartKind.RESISTOR, "F1", "F2", f.resistance_ohm, 0.01),
            Part("C2", PartKind.CAPACITOR, "F2", "0V", f.capacitance_f, 0.1),
        ]
        last = "F2"
    return [*found, Part("U", PartKind.BLOCK, last, "A1")]


def _sketch(fan: ControlFan, design: ControlDesign) -> Drawing:
    """Rows from what is outside to the fan's own terminals."""
    ref = f"{fan.analog.reference_v:g} V"
    rows = [Row("L", (("F", PartKind.FUSE),), "fan L")]
    joins: list[Join] = []
    rows.append(Row("N", (), "fan N"))
    rows.append(Row("PE", (), "fan PE"))
    if design.source is Source.KNOB:
        chain = [("P above", PartKind.RESISTOR), ("P below", PartKind.RESISTOR)]
        wiper = 1
        if design.knob.top_ohm:
            chain.insert(0, ("RT", PartKind.RESISTOR))
            wiper = 2
        if design.knob.bottom_ohm:
            chain.append(("RB", PartKind.RESISTOR))
        rows.append(Row(f"fan {ref}", tuple(chain), "fan 0 V"))
        rows.append(Row("", (), "fan analog 1", wiper))
        joins.append(Join(3, 4, wiper))
    elif design.source is Source.STEPS:
        _, parts = _chain(fan, design)
        chain = [(p.name, p.kind) for p in parts if p.kind is PartKind.RESISTOR]
        rows.append(Row("fan 0 V", tuple(chain), f"fan {ref}"))
        contacts = [p.name for p in parts if p.kind is PartKind.CONTACT]
        for k, name in enumerate(contacts):
            column = min(k + 1, len(chain))
            rows.append(Row("", ((name, PartKind.CONTACT),), "fan analog 1", column))
            joins.append(Join(3, 4 + k, column))
    elif design.source is Source.ANALOG:
        rows.append(Row("controller", (("U", PartKind.BLOCK),), "fan analog 1"))
        rows.append(Row("its 0 V", (), "fan 0 V"))
    else:
        links: list[tuple[str, PartKind]] = [("R1", PartKind.RESISTOR)]
        if design.filter.stages == 2:
            links.append(("R2", PartKind.RESISTOR))
        rows.append(Row("logic", (*links, ("U", PartKind.BLOCK)), "fan analog 1"))
        for k in range(design.filter.stages):
            rows.append(Row("", ((f"C{k + 1}", PartKind.CAPACITOR),), "fan 0 V", k + 1))
            joins.append(Join(3, 4 + k, k + 1))
    aux = f"fan {fan.analog.aux_v:g} V"
    if design.enable:
        rows.append(Row(aux, (("EN", PartKind.CONTACT),), "fan enable"))
    if design.alarm:
        rows.append(Row(f"{aux}, COM", (), "fan COM"))
        rows.append(Row("fan NO", (("H1", PartKind.LAMP),), "fan 0 V"))
        rows.append(Row("fan NC", (("H2", PartKind.LAMP),), "fan 0 V"))
    return rows_drawn(rows, joins)


# ---------------------------------------------------------------- parts


def _rows(fan: ControlFan, design: ControlDesign, running_a: float | None, fuse_a: float) -> list[PartRow]:
    rows = [_fuse(running_a, fuse_a)]
    if design.source is Source.KNOB:
        rows += _knob_rows(fan, design)
    elif design.source is Source.STEPS:
        rows += _chain_rows(fan, design)
    elif design.source is Source.FILTER:
        rows += _filter_rows(fan, design)
    else:
        amps = max(setting(fan, design, i).source_a for i in range(len(design.volts)))
        rows.append(
            PartRow(
                "U", PartRowKind.OTHER, "tells the speed", "0–10 V output of a controller", "", "", "",
                (bar("amps", amps, 0.005, q.CURRENT, "all inputs, at its most volts"),), 0,
            )
        )  # fmt: skip
    rows += _aux_rows(fan, design)
    rows.append(_wire(fan, design))
    rows.append(_earth(fan))
    return rows


def _fuse(running_a: float | None, fuse_a: float) -> PartRow:
    stresses = () if running_a is None else (
        bar("amps", FUSE_FACTOR * running_a, fuse_a, q.CURRENT, "1.6 × full speed, all fans"),
    )  # fmt: skip
    return PartRow(
        "F", PartRowKind.FUSE, "towards the mains", f"{q.show(fuse_a, q.CURRENT)} time-lag",
        q.bench(fuse_a, q.CURRENT), q.show(fuse_a, q.CURRENT),
        "the rectifier's reservoir takes a surge: see the card fuse-inrush, kind reservoir", stresses, 0,
        refusal="" if not stresses or stresses[0].holds else "it blows at full speed: a larger one",
        editable=True, to_buy=True,
    )  # fmt: skip


def _resistor(name: str, role: str, ohm: float, watts: float) -> PartRow:
    stress = bar("heat", watts, SMALL_W, q.POWER, "at its worst place")
    return PartRow(
        name, PartRowKind.RESISTOR, role, q.show(ohm, q.RESISTANCE), q.bench(ohm, q.RESISTANCE),
        f"{SMALL_W:g} W", "", (stress,), 0, to_buy=True,
    )  # fmt: skip


def _knob_rows(fan: ControlFan, design: ControlDesign) -> list[PartRow]:
    parts, ref = design.knob, fan.analog.reference_v
    knob = whole_knob(fan, design)
    amps = max(knob.reference_a(float(x)) for x in (0.0, 1.0))
    track = amps**2 * parts.pot_ohm
    ends = [float(v) for v in knob.volts(np.array([0.0, 1.0]))]
    loading = 100 * parts.pot_ohm / (knob.input_ohm or 1e12) / 4
    stresses = (
        bar("heat", track, POT_W, q.POWER, "the whole track"),
        bar("amps", amps, fan.analog.gives_a, q.CURRENT, f"of the fan's {ref:g} V output"),
    )
    refusal = "" if stresses[1].holds else f"more than the fan's {ref:g} V output gives: a larger pot"
    spread = [whole_knob(fan, design, 1 + k * parts.spread).volts(np.array([0.0, 1.0])) for k in (-1, 1)]
    note = f"its turn gives {ends[0]:.2f} to {ends[1]:.2f} V"
    if parts.top_ohm or parts.bottom_ohm:
        words = " and ".join(f"{v[0]:.2f} to {v[1]:.2f} V" for v in spread)
        note += f"; a pot {100 * parts.spread:.0f} % off {words}"
    if loading > 1:
        note += f"; the inputs bend its scale by up to {loading:.1f} %"
    rows = [
        PartRow(
            "P", PartRowKind.OTHER, "the knob", f"{q.show(parts.pot_ohm, q.RESISTANCE)} linear",
            q.bench(parts.pot_ohm, q.RESISTANCE), f"{POT_W:g} W", note, stresses,
            0 if stresses[0].share > stresses[1].share else 1, refusal=refusal, to_buy=True,
        )
    ]  # fmt: skip
    if parts.top_ohm:
        rows.append(_resistor("RT", f"between {ref:g} V and the pot", parts.top_ohm, amps**2 * parts.top_ohm))
    if parts.bottom_ohm:
        rows.append(_resistor("RB", "between the pot and 0 V", parts.bottom_ohm, amps**2 * parts.bottom_ohm))
    return rows


def _chain_rows(fan: ControlFan, design: ControlDesign) -> list[PartRow]:
    resistors, ref = chain_resistors(fan, design), fan.analog.reference_v
    whole = sum(resistors)
    amps = ref / max(whole, 1.0)
    rows = [
        _resistor(f"R{k + 1}", "in the chain, from 0 V up", ohm, amps**2 * ohm)
        for k, ohm in enumerate(resistors)
        if ohm > 0
    ]
    stress = bar("amps", amps, fan.analog.gives_a, q.CURRENT, f"of the fan's {ref:g} V output")
    refusal = "" if stress.holds else f"more than the fan's {ref:g} V output gives: a chain of more ohms"
    rows.append(
        PartRow(
            "S", PartRowKind.SWITCH, "picks the tap", f"rotary, {len(design.volts)} positions", "", "",
            "make-before-break, so that the input never stands open", (stress,), 0, refusal=refusal, to_buy=True,
        )
    )  # fmt: skip
    return rows


def _filter_rows(fan: ControlFan, design: ControlDesign) -> list[PartRow]:
    parts = design.filter
    found = filter_of(design)
    scale = 10.0 / found.end_v
    ripple, settles = found.ripple_v * scale, found.settling_s()
    rows = []
    for k in range(1, parts.stages + 1):
        rows.append(
            _resistor(
                f"R{k}", "of the filter", parts.resistance_ohm, parts.amplitude_v**2 / parts.resistance_ohm
            )
        )
        rows.append(
            PartRow(
                f"C{k}", PartRowKind.CAPACITOR, "of the filter", q.show(parts.capacitance_f, q.CAPACITANCE),
                q.bench(parts.capacitance_f, q.CAPACITANCE), "50 V", "film or ceramic of a steady kind",
                (bar("volts", parts.amplitude_v, 50.0, q.VOLTAGE, "at full duty"),), 0, to_buy=True,
            )
        )  # fmt: skip
    most = parts.amplitude_v * parts.gain
    stresses = (
        bar("ripple", ripple, RIPPLE_V, q.VOLTAGE, "peak to peak at half duty, scaled to 10 V"),
        bar("settling", settles, SETTLES_S, _SECONDS, "to one per cent"),
    )
    words = "" if stresses[0].holds and stresses[1].holds else "two stages, or faster pulses"
    reach = max(design.volts)
    refusal = f"it gives {most:g} V at most: more gain" if reach > most * 1.001 else ""
    rows.append(
        PartRow(
            "U", PartRowKind.OTHER, "amplifier", f"gain {parts.gain:g}, rail to rail", "", "", "", stresses,
            0 if stresses[0].share > stresses[1].share else 1, refusal=refusal,
            note=words or "on a supply of 12 V or more: at 10 V it must not clip", to_buy=True,
        )
    )  # fmt: skip
    return rows


_SECONDS = q.Dimension("seconds", "s", ("s",), "mu", 0.0, 1e6, "like 0.5")


def _aux_rows(fan: ControlFan, design: ControlDesign) -> list[PartRow]:
    rows = []
    if design.enable:
        rows.append(
            PartRow(
                "EN", PartRowKind.SWITCH, "lets it run", f"contact, {fan.analog.aux_v:g} V, gold-plated or sealed", "",
                "", "opens: the fan runs down, no alarm", (), 0, to_buy=True,
            )
        )  # fmt: skip
    if design.alarm:
        amps = fan.analog.aux_a
        stresses = () if amps is None else (
            bar("amps", LAMP_A, amps, q.CURRENT, f"one lamp at a time, of the {fan.analog.aux_v:g} V output"),
        )  # fmt: skip
        refusal = (
            ""
            if not stresses or stresses[0].holds
            else "more than the sensor supply gives: a supply of its own"
        )
        rows.append(
            PartRow(
                "H1 H2", PartRowKind.OTHER, "well, and alarm", f"lamps for {fan.analog.aux_v:g} V", "", "",
                "well on NO, alarm on NC: energised when healthy, so that a dead supply alarms too", stresses, 0,
                refusal=refusal, to_buy=True, pieces=("H1", "H2"),
            )
        )  # fmt: skip
    return rows


def _wire(fan: ControlFan, design: ControlDesign) -> PartRow:
    cable = design.cable
    mine = setting(fan, design, max(range(len(design.volts)), key=lambda i: design.volts[i]))
    drop = abs(mine.fans[0].volts - mine.fans[-1].volts) if design.following is Following.TOGETHER else 0.0
    how = "looped from fan to fan" if cable.cabling is Cabling.LOOPED else "a pair to each fan"
    length = f"{cable.length_m:g} m each, {cable.area_mm2:g} mm²" if cable.length_m else "length not typed"
    stress = bar("drop", drop, DROP_V, q.VOLTAGE, "between the first fan's input and the last's")
    note = ""
    if not stress.holds:
        note = "the last fan turns slowest: a 0 V wire of its own for each fan, an isolator, or serial"
    return PartRow(
        "W", PartRowKind.WIRE, "signal and its 0 V", f"twisted pair, {how}", "", "", length, (stress,), 0, note=note,
        to_buy=True,
    )  # fmt: skip


def _earth(fan: ControlFan) -> PartRow:
    each = fan.analog.leakage_a if fan.analog.leakage_a is not None else 3.5e-3
    stress = bar("leakage", each * fan.count, RCD_SHARE * RCD_A, q.CURRENT, "all fans, on a 30 mA device")
    words = (
        ""
        if stress.holds
        else "it may trip by itself: fewer fans on one device, or one made for frequency converters"
    )
    return PartRow(
        "PE", PartRowKind.WIRE, "protective earth", "to every fan, unbroken", "", "",
        f"up to {q.show(each, q.CURRENT)} a fan flow in it", (stress,), 0, note=words,
    )  # fmt: skip


def _lugs(fan: ControlFan, design: ControlDesign) -> tuple[Lug, ...]:
    ref, aux = f"{fan.analog.reference_v:g} V", f"{fan.analog.aux_v:g} V"
    rows = [
        Lug("L, N, PE", "mains through fuse F; whole supply, nothing in the line but a disconnect"),
    ]
    to = {
        Source.KNOB: f"pot P between {ref} out and 0 V, its wiper here",
        Source.STEPS: f"switch S, from the taps of the chain between {ref} out and 0 V",
        Source.FILTER: "amplifier U behind the filter; its 0 V to the fan's 0 V",
        Source.ANALOG: "controller's 0–10 V output; its 0 V to the fan's 0 V",
    }[design.source]
    rows.append(Lug("analog 1", to))
    rows.append(Lug(f"{ref} out", "the knob's or chain's upper end; never from two fans together"))
    rows.append(Lug("0 V", "of the signal: one wire to the source; no other current in it"))
    if design.enable:
        rows.append(Lug("enable", f"{aux} out through contact EN"))
    if design.alarm:
        rows.append(Lug("alarm COM", f"{aux} out"))
        rows.append(Lug("alarm NO", "lamp H1, well"))
        rows.append(Lug("alarm NC", "lamp H2, alarm"))
    if fan.count > 1:
        how = {
            Following.TOGETHER: "analog 1 of every further fan beside the first one's",
            Following.SPEED: "analog out of each fan to analog 1 of the next: it hands its speed on",
            Following.COMMAND: "analog out of each fan to analog 1 of the next: it hands its command on",
        }[design.following]
        rows.append(Lug("analog out", f"{how}; 0 V to 0 V"))
    rows.append(Lug("analog 2", "free, or a sensor's signal: see Hold"))
    rows.append(Lug("serial A, B, common", "free, or twisted pair with its end resistors at both ends"))
    return tuple(rows)


# ---------------------------------------------------------------- dead checks


@dataclass(frozen=True)
class DeadCheck:
    """Ohms between two terminals with the power off and the fan's terminal plugs pulled."""

    key: str
    between: str
    how: str
    ohm: float | None
    """None: open [Ω]"""
    band: Band | None
    """None where it must be open, or next to nothing [Ω]"""


_JOINED_OHM = 1.0


def _off(circuit: Circuit, way: int) -> Circuit:
    """The same with every part at one end of its tolerance."""
    return replace(
        circuit, parts=tuple(replace(p, value=p.value * (1 + way * p.tolerance)) for p in circuit.parts)
    )


def dead_checks(fan: ControlFan, design: ControlDesign) -> tuple[DeadCheck, ...]:
    """Which ohms the wiring must show, from the circuit itself [-]"""
    found: list[DeadCheck] = []

    def check(key: str, circuit: Circuit, position: Position, a: str, b: str, between: str, how: str) -> None:
        ohm = ohms_between(circuit, position, a, b)
        if ohm is None:
            found.append(DeadCheck(key, between, how, None, None))
        elif ohm < _JOINED_OHM:
            found.append(DeadCheck(key, between, how, 0.0, Band(0.0, _JOINED_OHM)))
        else:
            # Resistance only grows with that of each part: all low and all high are the ends.
            ends = [ohms_between(_off(circuit, way), position, a, b) or 0.0 for way in (-1, 1)]
            found.append(DeadCheck(key, between, how, ohm, Band(0.99 * ends[0] - 0.5, 1.01 * ends[1] + 0.5)))

    ref = f"{fan.analog.reference_v:g} V"
    if design.source is Source.KNOB:
        for name, travel in (("slow", 0.0), ("fast", 1.0)):
            circuit = circuit_of(fan, design, travel)
            on = circuit.positions[-1]
            if name == "slow":
                check("track", circuit, on, "10V", "0V", f"{ref} and 0 V", "knob anywhere")
            check(f"wiper-{name}", circuit, on, "A1", "0V", "analog 1 and 0 V", f"knob at its {name} end")
    elif design.source is Source.STEPS:
        circuit = circuit_of(fan, design)
        check("track", circuit, circuit.positions[0], "10V", "0V", f"{ref} and 0 V", "switch anywhere")
        for position in circuit.positions[1:]:
            check(
                f"tap-{position.name}",
                circuit,
                position,
                "A1",
                "0V",
                "analog 1 and 0 V",
                f"switch at {position.name}",
            )
    if design.enable:
        circuit = circuit_of(fan, design)
        check("enable-open", circuit, circuit.positions[0], "24V", "E1", "enable and 24 V", "contact EN open")
        check(
            "enable-closed",
            circuit,
            circuit.positions[-1],
            "24V",
            "E1",
            "enable and 24 V",
            "contact EN closed",
        )
    return tuple(found)
