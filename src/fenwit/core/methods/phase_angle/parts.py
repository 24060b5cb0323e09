"""A phase-angle control as it is built: every part with what it bears, and which nets it joins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.circuit import Circuit, Part
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.phase_angle.angles import curve_of, extinction_of, sized
from fenwit.core.methods.phase_angle.design import (
    FiredBy,
    PhaseDesign,
    knob_watts,
    off_leakage,
    phase_circuit,
)
from fenwit.core.methods.phase_angle.sketch import sketch
from fenwit.core.methods.phase_angle.triac import Demand, Stress, TriacDesign
from fenwit.core.methods.seam import Built, Lug, PartRow, PartRowKind, StressShown
from fenwit.core.operating import Source, solve
from fenwit.core.regulator.diac import BREAKOVER_TOLERANCE_V, DiacNetwork, resistor_mean_square
from fenwit.core.regulator.firing import zero_pulse

_DERATED = 0.5
"""Share of its watts that a resistor or knob may use [-]"""
_KNOBS_W = (0.25, 0.5, 1.0, 2.0)
_RESISTORS_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0)
_SWITCHES_A = (2.0, 4.0, 6.0, 10.0, 16.0)
_HEAT_TURNS = 51
_FILM_V = 400.0
_X2_V = 305.0


@dataclass(frozen=True, eq=False)
class PhaseControl:
    """A phase-angle control on a believed fan, with its sized parts and its circuit."""

    design: PhaseDesign
    sized: TriacDesign
    circuit: Circuit
    fan: MachineFan


@remembered
def phase_control(fan: MachineFan, design: PhaseDesign) -> PhaseControl:
    """The control of a design, once for each fan. Raises InputError as `size_triac` and `phase_circuit` do."""
    parts = sized(fan.belief, fan.supply, design)
    return PhaseControl(design, parts, phase_circuit(design, parts, fan.supply), fan)


# ---------------------------------------------------------------- parts


@remembered
def built(fan: MachineFan, design: PhaseDesign) -> Built:
    """The control with its parts in the order of its circuit, and its connections."""
    control = phase_control(fan, design)
    rows = tuple(_row(control, part) for part in control.circuit.parts)
    return Built(control.circuit, sketch(control.circuit), rows, _lugs(control))


_KIND = {"F": PartRowKind.FUSE, "S": PartRowKind.SWITCH}


def _row(control: PhaseControl, part: Part) -> PartRow:
    said = _SAID[part.name](control, part)
    worst = max(range(len(said.stresses)), key=lambda i: said.stresses[i].share, default=0)
    over = [s for s in said.stresses if not s.holds]
    return PartRow(
        name=part.name,
        kind=_KIND.get(part.name, PartRowKind.OTHER),
        role=said.role,
        text=said.text,
        bench=said.bench,
        rating_text=said.rating,
        limit_text="",
        stresses=said.stresses,
        worst=worst,
        refusal="; ".join(f"{s.burden} {s.text}" for s in over),
        note=said.note,
        paper=f"{said.role}: {said.text}",
    )


@dataclass(frozen=True)
class _Said:
    role: str
    text: str
    bench: str = ""
    rating: str = ""
    stresses: tuple[StressShown, ...] = ()
    note: str = ""


def _stress(what: Demand, value: float, rating: float, unit: str, where: str = "") -> StressShown:
    share = value / rating if rating > 0 else float("inf")
    return StressShown(
        what, share, f"{q.plain(value, 3)} of {q.plain(rating, 3)} {unit}", where, share <= 1 + 1e-9
    )


def _of(control: PhaseControl, *names: str) -> tuple[StressShown, ...]:
    """The sized stresses of a part, in the order they were sized."""
    fitted = control.design.snubbed
    return tuple(
        _shown(s) for s in control.sized.stresses if s.part in names and (fitted or not s.of_snubber)
    )


def _shown(s: Stress) -> StressShown:
    scale, unit = (1e3, "mA") if s.unit == "A" and s.rating < 1 else (1.0, s.unit)
    return _stress(s.what, s.stress * scale, s.rating * scale, unit, s.words)


def _triac(control: PhaseControl, part: Part) -> _Said:
    t, sink = control.design.triac, control.sized.sink
    cooled = "no heat sink" if sink.none_needed else f"heat sink of {sink.needed_kw:.2g} K/W or less"
    stresses = _of(control, "triac")
    if control.design.fired_by is FiredBy.TABLE:
        stresses += _of(control, "gate")
    return _Said(
        "triac",
        f"{t.rms_a:g} A, {t.off_state_v:g} V, gate {1e3 * t.gate_a:g} mA; {cooled}",
        q.bench(t.rms_a, q.CURRENT),
        f"{t.off_state_v:g} V",
        stresses,
        "" if control.design.snubbed else "without a snubber it may fire by itself at extinction",
    )


def _fuse(control: PhaseControl, part: Part) -> _Said:
    return _Said(
        "fuse",
        f"quick-acting with mains breaking capacity, {q.show(part.value, q.CURRENT)}",
        q.bench(part.value, q.CURRENT),
        "250 V",
        _of(control, "fuse"),
    )


def _switch(control: PhaseControl, part: Part) -> _Said:
    amps = max(p.line_current_a for p in curve_of(control.fan).points if p is not None)
    where = "at the fast end of the knob" if control.design.kick else "at the slow end of the knob"
    place = f"on the knob, {where}" if control.design.network else "mains switch"
    rating = next((a for a in _SWITCHES_A if a >= amps), _SWITCHES_A[-1])
    return _Said(
        "switch", f"one pole, {place}", "", f"{rating:g} A", (_stress(Demand.AMPS, amps, rating, "A"),)
    )


def _choke(control: PhaseControl, part: Part) -> _Said:
    f = control.sized.filter
    saturates = next(a for a in (0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 20.0, 50.0, 200.0) if a >= 1.2 * f.crest_a)
    return _Said(
        "choke",
        f"{1e3 * part.value:.2g} mH against interference, saturates above {saturates:g} A",
        f"{1e3 * part.value:.3g}mH",
        f"{saturates:g} A crest",
        (_stress(Demand.CREST_AMPS, f.crest_a, saturates, "A", "at the worst angle"),),
    )


def _snubber_resistor(control: PhaseControl, part: Part) -> _Said:
    s = control.sized.snubber
    return _resistor(control, part, "snubber resistor", s.loss_w, "at the worst angle")


def _snubber_capacitor(control: PhaseControl, part: Part) -> _Said:
    s = control.sized.snubber
    creep = "" if s.creeps_rpm is None else f"the fan creeps at {s.creeps_rpm:.0f} rpm when off"
    return _Said(
        "snubber capacitor",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress(Demand.VOLTS, 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "triac open, mains +10 %"),),
        creep,
    )


def _x_capacitor(control: PhaseControl, part: Part) -> _Said:
    return _Said(
        "capacitor against interference",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress(Demand.VOLTS, 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "mains +10 %"),),
        leakage_words(control) if control.design.network else "",
    )


def leakage_words(control: PhaseControl) -> str:
    """What all that bridges the open triac lets through, and whether the fan creeps on it."""
    supply, belief = control.fan.supply, control.fan.belief
    z = off_leakage(control.circuit, supply)
    if z is None:
        return ""
    through = solve(belief.motor, belief.load, [Source(supply.voltage_v, supply.frequency_hz, z)])[0].running
    amps = supply.voltage_v / abs(z)
    creep = "the fan stands" if through is None else f"the fan creeps at {through.speed_rpm:.0f} rpm"
    return f"{1e3 * amps:.2g} mA leak past the open triac: {creep}"


def _varistor(control: PhaseControl, part: Part) -> _Said:
    high = 1.1 * control.fan.supply.voltage_v
    return _Said(
        "varistor",
        f"{part.value:.0f} V AC, mains class with thermal disconnect",
        f"{part.value:.0f}V",
        f"{part.value:.0f} V AC",
        (_stress(Demand.VOLTS, high, part.value, "V", "mains +10 %"),),
    )


def _resistor(control: PhaseControl, part: Part, role: str, watts: float, where: str) -> _Said:
    rating = next((w for w in _RESISTORS_W if watts <= _DERATED * w), _RESISTORS_W[-1])
    return _Said(
        role,
        f"{q.show(part.value, q.RESISTANCE)}, {rating:g} W",
        q.bench(part.value, q.RESISTANCE),
        f"{rating:g} W",
        (_stress(Demand.WATTS, watts, rating, "W", where),),
    )


def _least(control: PhaseControl, part: Part) -> _Said:
    return _resistor(control, part, "least resistor", _knob_watts(control)[2], "at the worst turn")


@remembered
def _heat_of_knob(network: DiacNetwork, fan: MachineFan) -> tuple[float, float, float]:
    turn = np.linspace(0.0, 1.0, _HEAT_TURNS)
    return knob_watts(network, fan.supply, turn, extinction_of(curve_of(fan)))


def _knob_watts(control: PhaseControl) -> tuple[float, float, float]:
    """Heat of knob, resistor across it, resistor before it [W]"""
    assert control.design.network is not None
    return _heat_of_knob(control.design.network, control.fan)


def _knob(control: PhaseControl, part: Part) -> _Said:
    network = control.design.network
    assert network is not None
    watts = _knob_watts(control)[0]
    rating = next((w for w in _KNOBS_W if watts <= _DERATED * w), _KNOBS_W[-1])
    return _Said(
        "knob",
        f"{q.show(part.value, q.RESISTANCE)}, {rating:g} W, {network.taper.value.replace('-', ' ')} track, plastic shaft",
        q.bench(part.value, q.RESISTANCE),
        f"{rating:g} W",
        (_stress(Demand.WATTS, watts, rating, "W", "at the worst turn"),),
    )


def _across(control: PhaseControl, part: Part) -> _Said:
    return _resistor(control, part, "resistor across the knob", _knob_watts(control)[1], "at the worst turn")


def _timing(control: PhaseControl, part: Part) -> _Said:
    crest = 1.1 * np.sqrt(2) * control.fan.supply.voltage_v
    return _Said(
        "timing capacitor",
        f"film, {q.show(part.value, q.CAPACITANCE)}, {_FILM_V:g} V",
        q.bench(part.value, q.CAPACITANCE),
        f"{_FILM_V:g} V",
        (_stress(Demand.CREST_VOLTS, crest, _FILM_V, "V", "should the diac stay open, mains +10 %"),),
    )


def _second(control: PhaseControl, part: Part) -> _Said:
    assert control.design.network is not None
    watts = _heat_of_second(control.design.network, control.fan)
    return _resistor(control, part, "second resistor", watts, "at the worst turn")


@remembered
def _heat_of_second(network: DiacNetwork, fan: MachineFan) -> float:
    ohm = network.first_ohm(np.linspace(0.0, 1.0, _HEAT_TURNS))
    ends, supply = extinction_of(curve_of(fan)), fan.supply
    square = resistor_mean_square(network, ohm, supply.voltage_v, supply.frequency_hz, ends, second=True)
    return float(square.max()) / float(network.second_ohm or np.inf)


def _diac(control: PhaseControl, part: Part) -> _Said:
    n = control.design.network
    assert n is not None
    return _Said(
        "diac",
        f"breaks over at {n.breakover_v:g} V, back by {n.breakback_v:g} V",
        q.bench(part.value, q.VOLTAGE),
        f"±{BREAKOVER_TOLERANCE_V:g} V",
    )


def _gate(control: PhaseControl, part: Part) -> _Said:
    role = "gate resistor"
    said = _resistor(control, part, role, control.sized.gate_w, "some microseconds in each half-cycle")
    return _Said(role, said.text, said.bench, said.rating, (*said.stresses, *_of(control, "gate resistor")))


def _opto(control: PhaseControl, part: Part) -> _Said:
    unit, crest = control.design.unit, 1.1 * np.sqrt(2) * control.fan.supply.voltage_v
    return _Said(
        "opto-triac",
        f"not the kind that waits for the zero; {unit.opto_current_a:g} A for a moment",
        "",
        "600 V",
        (_stress(Demand.OFF_STATE, crest, 600.0, "V", "mains +10 %"),),
    )


def _detector_resistor(control: PhaseControl, part: Part) -> _Said:
    supply = control.fan.supply
    high = zero_pulse(control.design.unit.detector, 1.1 * supply.voltage_v, supply.frequency_hz)
    return _resistor(
        control,
        part,
        "zero detector's resistor",
        high.resistor_w,
        "mains +10 %; two in series, for the volts",
    )


def _detector(control: PhaseControl, part: Part) -> _Said:
    supply, unit = control.fan.supply, control.design.unit
    pulse = zero_pulse(unit.detector, supply.voltage_v, supply.frequency_hz)
    low, high = 2 * pulse.half_width_low_us, 2 * pulse.half_width_high_us
    d = unit.detector
    return _Said(
        "zero detector",
        f"coupler behind a bridge, transfer {d.ctr_low:g} to {d.ctr_high:g}: a pulse of {low:.0f} to {high:.0f} µs "
        "around the zero",
    )


def _dropper_resistor(control: PhaseControl, part: Part) -> _Said:
    dropper = control.design.unit.dropper(control.fan.supply)
    amps = 2 * np.pi * control.fan.supply.frequency_hz * dropper.farads * 1.1 * control.fan.supply.voltage_v
    return _resistor(
        control, part, "inrush resistor", float(amps**2 * part.value), "mains +10 %; fusible class"
    )


def _dropper(control: PhaseControl, part: Part) -> _Said:
    dropper = control.design.unit.dropper(control.fan.supply)
    return _Said(
        "dropper capacitor",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}, with {q.show(dropper.bleed_ohm, q.RESISTANCE)} across it",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress(Demand.VOLTS, 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "mains +10 %"),),
    )


def _own_supply(control: PhaseControl, part: Part) -> _Said:
    unit = control.design.unit
    dropper = unit.dropper(control.fan.supply)
    zener = next((w for w in (0.5, 1.3, 3.0, 5.0) if dropper.zener_w <= _DERATED * w), 5.0)
    return _Said(
        "control's own supply",
        f"rectifier pair and {unit.logic_v:g} V zener of {zener:g} W; all of it is live",
        "",
        f"{zener:g} W",
        (
            _stress(Demand.ZENER, dropper.zener_w, zener, "W", "mains +10 %, nothing drawn"),
            _stress(Demand.DRAWN, 1e3 * unit.logic_a, 1e3 * dropper.current_a, "mA", "mains −10 %"),
        ),
        "its zero is at line potential: closed, and never to be touched",
    )


_SAID = {
    "S": _switch, "F": _fuse, "L1": _choke, "T": _triac, "RS": _snubber_resistor, "CS": _snubber_capacitor,
    "CX": _x_capacitor, "RV": _varistor, "R1": _least, "P": _knob, "R2": _across, "C1": _timing, "R3": _second,
    "C2": _timing, "D": _diac, "RG": _gate, "U1": _opto, "RZ": _detector_resistor, "U2": _detector,
    "RD": _dropper_resistor, "CD": _dropper, "PS": _own_supply,
}  # fmt: skip


# ---------------------------------------------------------------- wiring


def _lugs(control: PhaseControl) -> tuple[Lug, ...]:
    """Part by part: which nets it joins, in words."""
    names = {
        "line": "L",
        "load": "motor",
        "neutral": "N",
        "s": "behind switch S",
        "f": "behind fuse F",
        "t": "far side of triac T",
        "g": "gate of T",
        "rc": "joint RS–CS",
        "k": "joint R1–P",
        "c": "head of C1",
        "d": "head of C2",
        "o": "joint RG–U1",
        "z": "joint RZ–U2",
        "y": "joint RD–CD",
        "p": "joint CD–PS",
    }
    rows = [
        Lug(p.name, f"{names[p.net_a]} to {names[p.net_b]}" + (", gate apart" if p.net_gate else ""))
        for p in control.circuit.parts
    ]
    if control.design.network is None:
        rows.append(Lug("N", "motor's other lead, and the control's own zero"))
    else:
        rows.append(Lug("N", "motor's other lead only: the control has two wires"))
    for name, missing in (
        ("no fuse", not control.design.fused),
        ("no suppression", not control.design.filtered),
        ("no snubber", not control.design.snubbed),
    ):
        if missing:
            rows.append(Lug("△", f"{name}: to be said in any inspection of it"))
    return tuple(rows)
