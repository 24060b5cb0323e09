"""A phase-angle control as shown: every part with its stress, the rules of the profile, how far steps stray, its lugs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.circuit import Circuit, Part
from fenwit.core.frame.fan import Fan
from fenwit.core.frame.fired import ON_STATE_V, curve_of, extinction_of, point_of, sized, travel
from fenwit.core.frame.parts import rule_shown
from fenwit.core.frame.shown import PartRow, RuleShown, Shown, SpreadShown, StressShown, WireRow
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import Step
from fenwit.core.operating import Solution, Source, solve
from fenwit.core.regulator.diac import (
    BREAKOVER_TOLERANCE_V,
    CAPACITOR_TOLERANCE,
    KNOB_TOLERANCE,
    DiacNetwork,
    held_angle,
    ohm_for_angle,
    resistor_mean_square,
    tolerance,
)
from fenwit.core.regulator.firing import zero_pulse
from fenwit.core.regulator.knob import phase_solutions
from fenwit.core.size.control import FiredBy, PhaseDesign, control_circuit, knob_watts, off_leakage
from fenwit.core.size.profile import StepFacts, judge_profile
from fenwit.core.size.tolerance import Cause
from fenwit.core.size.triac import Stress, TriacDesign

FloatArray = np.typing.NDArray[np.float64]
_DERATED = 0.5
"""Share of its watts that a resistor or knob may use [-]"""
_KNOBS_W = (0.25, 0.5, 1.0, 2.0)
_RESISTORS_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0)
_SWITCHES_A = (2.0, 4.0, 6.0, 10.0, 16.0)
_HEAT_TURNS = 51
_FILM_V = 400.0
_X2_V = 305.0


@dataclass(frozen=True, eq=False)
class Control:
    """A phase-angle control on a believed fan, with its sized parts and its circuit."""

    design: PhaseDesign
    sized: TriacDesign
    circuit: Circuit
    fan: Fan


@lru_cache(maxsize=128)
def control_of(fan: Fan, design: PhaseDesign) -> Control:
    """The control of a design, once for each fan. Raises InputError as `size_triac` and `control_circuit` do."""
    parts = sized(fan.belief, fan.supply, design)
    return Control(design, parts, control_circuit(design, parts, fan.supply), fan)


# ---------------------------------------------------------------- parts


def part_rows(control: Control) -> tuple[PartRow, ...]:
    """Every part of the control in the order of its circuit, each with what it bears."""
    return tuple(_row(control, part) for part in control.circuit.parts)


def _row(control: Control, part: Part) -> PartRow:
    said = _SAID[part.name](control, part)
    worst = max(range(len(said.stresses)), key=lambda i: said.stresses[i].share, default=0)
    over = [s for s in said.stresses if not s.holds]
    return PartRow(
        name=part.name,
        role=said.role,
        text=said.text,
        bench=said.bench,
        rating_text=said.rating,
        limit_text="",
        stresses=said.stresses,
        worst=worst,
        by_hand=False,
        refusal="; ".join(f"{s.burden} {s.text}" for s in over),
        note=said.note,
        capacitor=False,
        nominal_bench="",
        measured_bench="",
        part_class="",
        shelf_id=None,
    )


@dataclass(frozen=True)
class _Said:
    role: str
    text: str
    bench: str = ""
    rating: str = ""
    stresses: tuple[StressShown, ...] = ()
    note: str = ""


def _stress(what: str, value: float, rating: float, unit: str, where: str = "") -> StressShown:
    share = value / rating if rating > 0 else float("inf")
    return StressShown(
        what, share, f"{q.plain(value, 3)} of {q.plain(rating, 3)} {unit}", where, share <= 1 + 1e-9
    )


def _of(control: Control, *names: str) -> tuple[StressShown, ...]:
    """The sized stresses of a part, in the order they were sized."""
    return tuple(_shown(s) for s in control.sized.stresses if s.part in names)


def _shown(s: Stress) -> StressShown:
    scale, unit = (1e3, "mA") if s.unit == "A" and s.rating < 1 else (1.0, s.unit)
    return _stress(s.what, s.stress * scale, s.rating * scale, unit, s.words)


def _triac(control: Control, part: Part) -> _Said:
    t, sink = control.design.triac, control.sized.sink
    cooled = "no heat sink" if sink.none_needed else f"heat sink of {sink.needed_kw:.2g} K/W or less"
    stresses = _of(control, "triac")
    if control.design.fired_by is FiredBy.TABLE:
        stresses += _of(control, "gate")
    if not control.design.snubbed:
        stresses = tuple(s for s in stresses if "snubber" not in s.burden and "dv/dt" not in s.burden)
    return _Said(
        "triac",
        f"{t.rms_a:g} A, {t.off_state_v:g} V, gate {1e3 * t.gate_a:g} mA; {cooled}",
        q.bench(t.rms_a, q.CURRENT),
        f"{t.off_state_v:g} V",
        stresses,
        "" if control.design.snubbed else "without a snubber it may fire by itself at extinction",
    )


def _fuse(control: Control, part: Part) -> _Said:
    return _Said(
        "fuse",
        f"quick-acting with mains breaking capacity, {q.show(part.value, q.CURRENT)}",
        q.bench(part.value, q.CURRENT),
        "250 V",
        _of(control, "fuse"),
    )


def _switch(control: Control, part: Part) -> _Said:
    amps = max(p.line_current_a for p in curve_of(control.fan).points if p is not None)
    where = "at the fast end of the knob" if control.design.starts_full else "at the slow end of the knob"
    place = f"on the knob, {where}" if control.design.network else "mains switch"
    rating = next((a for a in _SWITCHES_A if a >= amps), _SWITCHES_A[-1])
    return _Said("switch", f"one pole, {place}", "", f"{rating:g} A", (_stress("amps", amps, rating, "A"),))


def _choke(control: Control, part: Part) -> _Said:
    f = control.sized.filter
    saturates = next(a for a in (0.5, 1.0, 2.0, 3.0, 5.0, 10.0, 20.0, 50.0, 200.0) if a >= 1.2 * f.crest_a)
    return _Said(
        "choke",
        f"{1e3 * part.value:.2g} mH against interference, saturates above {saturates:g} A",
        f"{1e3 * part.value:.3g}mH",
        f"{saturates:g} A crest",
        (_stress("crest amps", f.crest_a, saturates, "A", "at the worst angle"),),
    )


def _snubber_resistor(control: Control, part: Part) -> _Said:
    s = control.sized.snubber
    return _resistor(control, part, "snubber resistor", s.loss_w, "at the worst angle")


def _snubber_capacitor(control: Control, part: Part) -> _Said:
    s = control.sized.snubber
    creep = "" if s.creeps_rpm is None else f"the fan creeps at {s.creeps_rpm:.0f} rpm when off"
    return _Said(
        "snubber capacitor",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress("volts", 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "triac open, mains +10 %"),),
        creep,
    )


def _x_capacitor(control: Control, part: Part) -> _Said:
    return _Said(
        "capacitor against interference",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress("volts", 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "mains +10 %"),),
        leakage_words(control) if control.design.network else "",
    )


def leakage_words(control: Control) -> str:
    """What all that bridges the open triac lets through, and whether the fan creeps on it."""
    supply, belief = control.fan.supply, control.fan.belief
    z = off_leakage(control.circuit, supply)
    if z is None:
        return ""
    through = solve(belief.motor, belief.load, [Source(supply.voltage_v, supply.frequency_hz, z)])[0].running
    amps = supply.voltage_v / abs(z)
    creep = "the fan stands" if through is None else f"the fan creeps at {through.speed_rpm:.0f} rpm"
    return f"{1e3 * amps:.2g} mA leak past the open triac: {creep}"


def _varistor(control: Control, part: Part) -> _Said:
    high = 1.1 * control.fan.supply.voltage_v
    return _Said(
        "varistor",
        f"{part.value:.0f} V AC, mains class with thermal disconnect",
        f"{part.value:.0f}V",
        f"{part.value:.0f} V AC",
        (_stress("volts", high, part.value, "V", "mains +10 %"),),
    )


def _resistor(control: Control, part: Part, role: str, watts: float, where: str) -> _Said:
    rating = next((w for w in _RESISTORS_W if watts <= _DERATED * w), _RESISTORS_W[-1])
    return _Said(
        role,
        f"{q.show(part.value, q.RESISTANCE)}, {rating:g} W",
        q.bench(part.value, q.RESISTANCE),
        f"{rating:g} W",
        (_stress("watts", watts, rating, "W", where),),
    )


def _least(control: Control, part: Part) -> _Said:
    return _resistor(control, part, "least resistor", _knob_watts(control)[2], "at the worst turn")


@lru_cache(maxsize=128)
def _heat_of_knob(network: DiacNetwork, fan: Fan) -> tuple[float, float, float]:
    turn = np.linspace(0.0, 1.0, _HEAT_TURNS)
    return knob_watts(network, fan.supply, turn, extinction_of(curve_of(fan)))


def _knob_watts(control: Control) -> tuple[float, float, float]:
    """Heat of knob, resistor across it, resistor before it [W]"""
    assert control.design.network is not None
    return _heat_of_knob(control.design.network, control.fan)


def _knob(control: Control, part: Part) -> _Said:
    network = control.design.network
    assert network is not None
    watts = _knob_watts(control)[0]
    rating = next((w for w in _KNOBS_W if watts <= _DERATED * w), _KNOBS_W[-1])
    return _Said(
        "knob",
        f"{q.show(part.value, q.RESISTANCE)}, {rating:g} W, {network.taper.value.replace('-', ' ')} track, plastic shaft",
        q.bench(part.value, q.RESISTANCE),
        f"{rating:g} W",
        (_stress("watts", watts, rating, "W", "at the worst turn"),),
    )


def _across(control: Control, part: Part) -> _Said:
    return _resistor(control, part, "resistor across the knob", _knob_watts(control)[1], "at the worst turn")


def _timing(control: Control, part: Part) -> _Said:
    crest = 1.1 * np.sqrt(2) * control.fan.supply.voltage_v
    return _Said(
        "timing capacitor",
        f"film, {q.show(part.value, q.CAPACITANCE)}, {_FILM_V:g} V",
        q.bench(part.value, q.CAPACITANCE),
        f"{_FILM_V:g} V",
        (_stress("crest volts", crest, _FILM_V, "V", "should the diac stay open, mains +10 %"),),
    )


def _second(control: Control, part: Part) -> _Said:
    assert control.design.network is not None
    watts = _heat_of_second(control.design.network, control.fan)
    return _resistor(control, part, "second resistor", watts, "at the worst turn")


@lru_cache(maxsize=128)
def _heat_of_second(network: DiacNetwork, fan: Fan) -> float:
    ohm = network.first_ohm(np.linspace(0.0, 1.0, _HEAT_TURNS))
    ends, supply = extinction_of(curve_of(fan)), fan.supply
    square = resistor_mean_square(network, ohm, supply.voltage_v, supply.frequency_hz, ends, second=True)
    return float(square.max()) / float(network.second_ohm or np.inf)


def _diac(control: Control, part: Part) -> _Said:
    n = control.design.network
    assert n is not None
    return _Said(
        "diac",
        f"breaks over at {n.breakover_v:g} V, back by {n.breakback_v:g} V",
        q.bench(part.value, q.VOLTAGE),
        f"±{BREAKOVER_TOLERANCE_V:g} V",
    )


def _gate(control: Control, part: Part) -> _Said:
    role = "gate resistor"
    said = _resistor(control, part, role, control.sized.gate_w, "some microseconds in each half-cycle")
    return _Said(role, said.text, said.bench, said.rating, (*said.stresses, *_of(control, "gate resistor")))


def _opto(control: Control, part: Part) -> _Said:
    unit, crest = control.design.unit, 1.1 * np.sqrt(2) * control.fan.supply.voltage_v
    return _Said(
        "opto-triac",
        f"not the kind that waits for the zero; {unit.opto_current_a:g} A for a moment",
        "",
        "600 V",
        (_stress("off-state volts", crest, 600.0, "V", "mains +10 %"),),
    )


def _detector_resistor(control: Control, part: Part) -> _Said:
    supply = control.fan.supply
    high = zero_pulse(control.design.unit.detector, 1.1 * supply.voltage_v, supply.frequency_hz)
    return _resistor(
        control,
        part,
        "zero detector's resistor",
        high.resistor_w,
        "mains +10 %; two in series, for the volts",
    )


def _detector(control: Control, part: Part) -> _Said:
    supply, unit = control.fan.supply, control.design.unit
    pulse = zero_pulse(unit.detector, supply.voltage_v, supply.frequency_hz)
    low, high = 2 * pulse.half_width_low_us, 2 * pulse.half_width_high_us
    d = unit.detector
    return _Said(
        "zero detector",
        f"coupler behind a bridge, transfer {d.ctr_low:g} to {d.ctr_high:g}: a pulse of {low:.0f} to {high:.0f} µs "
        "around the zero",
    )


def _dropper_resistor(control: Control, part: Part) -> _Said:
    dropper = control.design.unit.dropper(control.fan.supply)
    amps = 2 * np.pi * control.fan.supply.frequency_hz * dropper.farads * 1.1 * control.fan.supply.voltage_v
    return _resistor(
        control, part, "inrush resistor", float(amps**2 * part.value), "mains +10 %; fusible class"
    )


def _dropper(control: Control, part: Part) -> _Said:
    dropper = control.design.unit.dropper(control.fan.supply)
    return _Said(
        "dropper capacitor",
        f"X2 film, {q.show(part.value, q.CAPACITANCE)}, with {q.show(dropper.bleed_ohm, q.RESISTANCE)} across it",
        q.bench(part.value, q.CAPACITANCE),
        f"{_X2_V:g} V AC",
        (_stress("volts", 1.1 * control.fan.supply.voltage_v, _X2_V, "V", "mains +10 %"),),
    )


def _own_supply(control: Control, part: Part) -> _Said:
    unit = control.design.unit
    dropper = unit.dropper(control.fan.supply)
    zener = next((w for w in (0.5, 1.3, 3.0, 5.0) if dropper.zener_w <= _DERATED * w), 5.0)
    return _Said(
        "control's own supply",
        f"rectifier pair and {unit.logic_v:g} V zener of {zener:g} W; all of it is live",
        "",
        f"{zener:g} W",
        (
            _stress("zener's watts", dropper.zener_w, zener, "W", "mains +10 %, nothing drawn"),
            _stress("current drawn", 1e3 * unit.logic_a, 1e3 * dropper.current_a, "mA", "mains −10 %"),
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


def wire_rows(control: Control) -> tuple[WireRow, ...]:
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
        WireRow(p.name, f"{names[p.net_a]} to {names[p.net_b]}" + (", gate apart" if p.net_gate else ""))
        for p in control.circuit.parts
    ]
    if control.design.network is None:
        rows.append(WireRow("N", "motor's other lead, and the control's own zero"))
    else:
        rows.append(WireRow("N", "motor's other lead only: the control has two wires"))
    for name, missing in (
        ("no fuse", not control.design.fused),
        ("no suppression", not control.design.filtered),
        ("no snubber", not control.design.snubbed),
    ):
        if missing:
            rows.append(WireRow("△", f"{name}: to be said in any inspection of it"))
    return tuple(rows)


def setting_words(control: Control, firing_deg: float) -> str:
    """Where a step lies on the knob, or in the program."""
    design, fan = control.design, control.fan
    if design.network is not None:
        turn = travel(design.network, fan.belief, fan.supply).turn_at(firing_deg)
        return "" if turn is None else f"knob at {100 * turn:.0f} %"
    if firing_deg == 0:
        return "gate held on"
    late = firing_deg - design.unit.edge_deg(fan.supply)
    return f"delay {late / (0.36 * fan.supply.frequency_hz):.2f} ms"


# ---------------------------------------------------------------- acceptance and straying


def rule_rows(state: JobState, fan: Fan, steps: Sequence[Step], control: Control) -> tuple[RuleShown, ...]:
    """Every rule of the job's profile; on other mains a knob fires elsewhere, and that is reckoned in."""
    usable = [s for s in steps if s.shown_point is not None and s.firing_deg is not None]
    on_mains = {
        sign: _on_mains(control, tuple(s.firing_deg or 0.0 for s in usable), 1 + sign * state.profile.mains)
        for sign in (-1, 1)
    }
    facts = []
    for k, step in enumerate(usable):
        point, solution = step.shown_point, step.solution
        assert point is not None
        assert solution is not None
        low, high = on_mains[-1][k], on_mains[1][k]
        on_high = point_of(high, step.kicked) if high else None
        runs_low = low is not None and point_of(low, step.kicked) is not None
        margin = low.start_margin if low else 0.0
        facts.append(
            StepFacts(
                point.speed_rpm,
                step.bands.speed_rpm if step.bands else None,
                # A kick starts it at full, whatever the step.
                fan.direct.start_margin if step.kicked else solution.start_margin,
                point.motor_voltage_v,
                on_high.motor_voltage_v if on_high else None,
                runs_low,
                fan.direct.start_margin * (1 - state.profile.mains) ** 2 if step.kicked else margin,
            )
        )
    results = judge_profile(state.profile, facts, fan.full.speed_rpm, fan.belief.motor.rated_voltage_v)
    return tuple(rule_shown(r, state.profile) for r in results)


@lru_cache(maxsize=256)
def _on_mains(control: Control, angles: tuple[float, ...], level: float) -> tuple[Solution | None, ...]:
    """Each step on other mains; None where the diac then does not fire any more."""
    fan = control.fan
    supply = Source(fan.supply.voltage_v * level, fan.supply.frequency_hz)
    moved = np.array(angles, dtype=np.float64)
    if control.design.network is not None and len(moved):
        moved = _moved(control.design.network, fan, moved, supply)
    fires = moved < 180
    belief = fan.belief
    found = iter(phase_solutions(belief.motor, belief.load, supply, moved[fires].tolist(), ON_STATE_V))
    return tuple(next(found) if f else None for f in fires)


@lru_cache(maxsize=128)
def _resistances(network: DiacNetwork, fan: Fan, angles: tuple[float, ...]) -> tuple[float, ...]:
    """What stands before the capacitor at each angle, on the stated mains [Ω]"""
    ends = extinction_of(curve_of(fan))
    ohm = ohm_for_angle(network, np.array(angles), fan.supply.voltage_v, fan.supply.frequency_hz, ends)
    return tuple(ohm.tolist())


def _moved(network: DiacNetwork, fan: Fan, angles: FloatArray, supply: Source) -> FloatArray:
    """Where a knob left as it is fires on other mains, since the diac's volts stay; 180 where it goes out."""
    ends = extinction_of(curve_of(fan))
    ohm = np.array(_resistances(network, fan, tuple(angles.tolist())))
    there = np.isfinite(ohm)
    found = np.full(angles.shape, 180.0)
    down = held_angle(network, ohm[there], supply.voltage_v, supply.frequency_hz, ends)
    found[there] = np.degrees(np.where(np.isfinite(down), down, np.pi))
    return found


def spread_rows(
    state: JobState, fan: Fan, steps: Sequence[Step], control: Control
) -> tuple[SpreadShown, ...]:
    """How far each usable step may stray: parts, mains and motor each alone, and joined as independent."""
    usable = [s for s in steps if s.shown_point is not None and s.firing_deg is not None and s.bands]
    angles = tuple(s.firing_deg or 0.0 for s in usable)
    low, high = (_on_mains(control, angles, 1 + sign * state.profile.mains) for sign in (-1, 1))
    rows = []
    for k, (step, by_parts) in enumerate(zip(usable, _by_parts(control, usable), strict=True)):
        point, bands = step.shown_point, step.bands
        assert point is not None
        assert bands is not None
        ends = [point_of(s, step.kicked) for s in (low[k], high[k]) if s is not None]
        speeds = [p.speed_rpm for p in ends if p is not None]
        stands = len(speeds) < 2
        by_mains = Band(min([*speeds, point.speed_rpm]), max([*speeds, point.speed_rpm]))
        if stands:
            by_mains = Band(0.0, by_mains.high)
        alone = {Cause.PARTS: by_parts, Cause.MAINS: by_mains, Cause.MOTOR: bands.speed_rpm}
        widest = max(alone, key=lambda c: alone[c].half_width)
        n = point.speed_rpm
        together = Band(
            max(0.0, n - float(np.sqrt(sum((n - b.low) ** 2 for b in alone.values())))),
            n + float(np.sqrt(sum((b.high - n) ** 2 for b in alone.values()))),
        )
        half = {cause: f"± {q.plain(b.half_width, 2)} rpm" for cause, b in alone.items()}
        words = f"widest by {_CAUSE_WORDS[widest]}"
        if stands:
            words += "; on low mains it stands"
        text = q.with_uncertainty(n, together.half_width, "")
        rows.append(
            SpreadShown(
                step.number,
                setting_words(control, step.firing_deg or 0.0),
                Shown(n, text, "rpm", together.low, together.high),
                half[Cause.PARTS],
                half[Cause.MAINS],
                half[Cause.MOTOR],
                widest,
                words,
            )
        )
    return tuple(rows)


_CAUSE_WORDS = {
    Cause.PARTS: "the parts: draw the scale for the knob as it was built",
    Cause.MAINS: "the mains",
    Cause.MOTOR: "what is not known of the motor: one more reading narrows it",
}


def _by_parts(control: Control, steps: Sequence[Step]) -> list[Band]:
    """Speed of each step over the tolerance of what fires it."""
    curve = curve_of(control.fan)
    whole = curve.held_rpm if control.design.starts_full else curve.speed_rpm
    ends = _fires_between(control, tuple(s.firing_deg or 0.0 for s in steps))
    # Relative to the curve itself, so that straight lines between its samples do not show as straying.
    found = []
    for step, (early, late) in zip(steps, ends, strict=True):
        n = step.shown_point.speed_rpm if step.shown_point else 0.0
        at = float(np.interp(step.firing_deg or 0.0, curve.firing_deg, whole))
        fast = float(np.interp(early, curve.firing_deg, whole))
        slow = float(np.interp(late, curve.firing_deg, whole, right=0.0))
        found.append(Band(max(0.0, n + min(0.0, slow - at)), n + max(0.0, fast - at)))
    return found


@lru_cache(maxsize=128)
def _fires_between(control: Control, angles: tuple[float, ...]) -> tuple[tuple[float, float], ...]:
    """Earliest and latest firing of each step over the tolerance of what fires it [°]"""
    fan, design = control.fan, control.design
    if design.network is None:
        doubt = design.unit.edge_doubt_deg(fan.supply)
        return tuple((max(0.0, a - doubt), a + doubt) for a in angles)
    if not angles:
        return ()
    supply, ends = fan.supply, extinction_of(curve_of(fan))
    turns = np.array([travel(design.network, fan.belief, supply).turn_at(a) or 0.0 for a in angles])
    bands = tolerance(design.network, turns, supply.voltage_v, supply.frequency_hz, extinction=ends)
    return tuple((b.low_deg, b.high_deg) for b in bands)


SPREAD_WORDS = (
    f"knob ±{KNOB_TOLERANCE:.0%}, timing capacitors ±{CAPACITOR_TOLERANCE:.0%}, diac "
    f"±{BREAKOVER_TOLERANCE_V:g} V"
)
