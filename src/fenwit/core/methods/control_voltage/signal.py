"""The volts that a design makes, and what of them reaches each fan."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise, product

import numpy as np

from fenwit.core.circuit.copper import lead_ohm
from fenwit.core.errors import InputError
from fenwit.core.methods.control_voltage.design import Cabling, ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.motor.analog import SPAN_V, VoltLine
from fenwit.core.quantity import preferred
from fenwit.core.regulator.control_volts import Chain, Handed, Knob, handed_on
from fenwit.core.regulator.pulse_filter import Filter

RAIL_V = 0.02
"""What a rail-to-rail output does not reach at its lower end [V]"""


@dataclass(frozen=True)
class Feeding:
    """A source as what it loads sees it."""

    open_v: float
    ohm: float


@dataclass(frozen=True)
class FanTold:
    """One of the fans at a step."""

    volts: float
    """At its own input, against its own 0 V [V]"""
    speed_rpm: float
    """0 where it stands [rpm]"""
    starts: bool
    """Whether it would start from rest at this step [-]"""


@dataclass(frozen=True)
class ControlSetting:
    """What one step is."""

    asked_v: float
    """At the first fan's input [V]"""
    made_v: float
    source_a: float
    """What the source gives to the inputs [A]"""
    fans: tuple[FanTold, ...]
    travel: float | None = None
    """Of the knob [-]"""
    duty: float | None = None
    """Of the pulses before the filter [-]"""


def whole_knob(fan: ControlFan, design: ControlDesign, pot_scale: float = 1.0) -> Knob:
    """The knob with every input that hangs on it [-]"""
    parts = design.knob
    hung = fan.count if design.following is Following.TOGETHER else 1
    return Knob(
        parts.pot_ohm * pot_scale, parts.top_ohm, parts.bottom_ohm, fan.analog.takes_ohm / hung, fan.analog.reference_v
    )  # fmt: skip


def chain_resistors(fan: ControlFan, design: ControlDesign) -> tuple[float, ...]:
    """Resistors of a tapped chain from 0 V up, one more than the taps, each of E24; 0: a wire.

    The taps are where the exact chain has them, loaded by the inputs; of the preferred values around each exact one
    those are taken together whose worst tap is nearest.
    """
    ref, whole = fan.analog.reference_v, design.chain_ohm
    hung = fan.count if design.following is Following.TOGETHER else 1
    bare = Knob(whole, input_ohm=fan.analog.takes_ohm / hung, reference_v=ref)
    wanted = [min(v, ref) for v in sorted(design.volts)]
    # A tap u ohms above 0 V stands where the wiper of a knob would.
    taps = [bare.travel_for(v) * whole for v in wanted]
    steps = [b - a for a, b in pairwise([0.0, *taps, whole])]
    options = [_nearest_two(ohm) for ohm in steps]
    picks = np.array(list(product(*options)))
    below = np.cumsum(picks[:, :-1], axis=1)
    total = picks.sum(axis=1, keepdims=True)
    loaded = below * bare.input_ohm / (below + bare.input_ohm) if bare.input_ohm else below
    volts = ref * loaded / np.maximum(loaded + total - below, 1e-9)
    best = int(np.argmin(np.abs(volts - np.array(wanted)).max(axis=1)))
    return tuple(float(x) for x in picks[best])


_WIRE_OHM = 2.0
"""Less than that is a wire [Ω]"""


def _nearest_two(ohm: float) -> tuple[float, ...]:
    """Preferred values on both sides; a wire where next to nothing is wanted."""
    if ohm < _WIRE_OHM:
        return (0.0,)
    near = preferred("E24", max(1.0, ohm / 1.4), ohm * 1.4)
    return tuple(float(x) for x in sorted(near, key=lambda x: abs(x - ohm))[:2])


def duty_for(design: ControlDesign, volts: float) -> float:
    """Duty of the pulses before the filter for volts behind it, on its own grid [V → -]"""
    f = design.filter
    return min(1.0, max(0.0, round(volts / (f.amplitude_v * f.gain) * f.levels) / f.levels))


def filter_of(design: ControlDesign, duty: float = 0.5) -> Filter:
    """The filter at a duty, its logic output's own ohms in its first resistor [-]"""
    f = design.filter
    return Filter(
        f.amplitude_v, f.frequency_hz, f.resistance_ohm + f.output_ohm / f.stages, f.capacitance_f, duty, f.stages,
        None, f.gain,
    )  # fmt: skip


@dataclass(frozen=True)
class Steadied:
    """A filter in figures, its output scaled to 10 V."""

    ripple_v: float
    """From least to most, at half duty [V]"""
    small_v: float | None
    """By the rule for small ripple; None where that does not hold [V]"""
    settling_s: float


def steadied(design: ControlDesign) -> Steadied:
    """What the filter leaves of its pulses, and how soon it follows [-]"""
    found = filter_of(design)
    scale, small = SPAN_V / found.end_v, found.ripple_small_v
    return Steadied(found.ripple_v * scale, None if small is None else small * scale, found.settling_s())


def ends_v(fan: ControlFan, design: ControlDesign) -> tuple[float, float]:
    """Volts at the ends of the knob's turn [V]"""
    low, high = whole_knob(fan, design).volts(np.array([0.0, 1.0]))
    return float(low), float(high)


def without_ground_rpm(fan: ControlFan, design: ControlDesign) -> float:
    """Speed where the knob's wire to 0 V is off, at its slow end: only the input itself still pulls down [rpm]"""
    knob = whole_knob(fan, design)
    above = knob.top_ohm + knob.pot_ohm
    volts = knob.reference_v * (knob.input_ohm / (knob.input_ohm + above) if knob.input_ohm else 1.0)
    return _told(fan, fan.line, True, volts).speed_rpm


def feeding(fan: ControlFan, design: ControlDesign, index: int) -> tuple[Feeding, float | None, float | None]:
    """What stands at the end of the wires at a step: the source, travel, duty. Raises InputError beyond its ends."""
    volts, ref = design.volts[index], fan.analog.reference_v
    if design.source is Source.KNOB:
        knob = whole_knob(fan, design)
        low, high = ends_v(fan, design)
        travel = knob.travel_for(min(high, max(low, volts)))
        return _tapped(ref, design.knob.bottom_ohm + travel * knob.pot_ohm,
                       design.knob.top_ohm + (1 - travel) * knob.pot_ohm), travel, None  # fmt: skip
    if design.source is Source.STEPS:
        resistors = chain_resistors(fan, design)
        place = sorted(range(len(design.volts)), key=lambda i: design.volts[i]).index(index)
        below = sum(resistors[: place + 1])
        return _tapped(ref, below, sum(resistors) - below), None, None
    if design.source is Source.FILTER:
        duty = duty_for(design, volts)
        f = design.filter
        # An amplifier on one supply gives no less than it can pull down to.
        return Feeding(max(RAIL_V, f.amplitude_v * f.gain * duty), 0.0), None, duty
    return Feeding(volts, design.source_ohm), None, None


def _tapped(ref: float, below: float, above: float) -> Feeding:
    whole = below + above
    return Feeding(ref * below / whole, below * above / whole) if whole > 0 else Feeding(ref, 0.0)


def reach_of(fan: ControlFan, design: ControlDesign, source: Feeding) -> Handed:
    """What arrives at every input that hangs on the source."""
    hung = fan.count if design.following is Following.TOGETHER else 1
    cable = design.cable
    each = lead_ohm(cable.length_m, cable.area_mm2) / 2 if cable.length_m else 0.0
    return handed_on(
        Chain(
            (fan.analog.takes_ohm,) * hung, source.open_v, source.ohm, each, each, cable.ground_a,
            cable.cabling is Cabling.APART,
        )
    )  # fmt: skip


def line_of(fan: ControlFan, design: ControlDesign, k: int) -> VoltLine:
    """Map of the k-th fan by its data, from 0: as told, else like the first [-]"""
    if k == 0 or k > len(design.followers):
        return fan.line
    return design.followers[k - 1]


def _told(fan: ControlFan, line: VoltLine, own: bool, volts: float) -> FanTold:
    at = np.array(min(SPAN_V, max(0.0, volts)))
    runs = float(line.speed_rpm(at, running=True))
    starts = float(line.speed_rpm(at, running=False)) > 0
    if own and runs > 0:
        # The first fan, and those like it, turn as their map was read.
        low, high = fan.speeds.command[0], fan.speeds.command[-1]
        runs = float(np.asarray(fan.speeds.speed_at(float(np.clip(at, low, high)))))
    return FanTold(float(at), runs, starts)


def setting(fan: ControlFan, design: ControlDesign, index: int) -> ControlSetting:
    """What a step is at every fan.

    Parameters
    ----------
    fan : ControlFan
        The first fan, and how many there are [-]
    design : ControlDesign
        What makes the volts [-]
    index : int
        Of the step, from 0 [-]

    Returns
    -------
    ControlSetting
        Volts and speeds [-]

    Raises
    ------
    InputError
        Parts with which no volts come about.
    """
    source, travel, duty = feeding(fan, design, index)
    handed = reach_of(fan, design, source)
    told: list[FanTold] = []
    for k in range(fan.count):
        line = line_of(fan, design, k)
        if design.following is Following.TOGETHER:
            volts = handed.inputs_v[k]
        elif k == 0 or design.following is Following.COMMAND:
            volts = handed.inputs_v[0]
        else:
            before = line_of(fan, design, k - 1)
            volts = SPAN_V * told[-1].speed_rpm / before.fastest_rpm
        told.append(_told(fan, line, line == fan.line, volts))
    return ControlSetting(design.volts[index], told[0].volts, handed.source_a, tuple(told), travel, duty)


def volts_for(fan: ControlFan, speed_rpm: float) -> float:
    """Volts on the input for a speed by the fan's map; of a flat end its inner edge.

    Parameters
    ----------
    fan : ControlFan
        The fan [-]
    speed_rpm : float
        Wanted [rpm]

    Returns
    -------
    float
        Volts [V]

    Raises
    ------
    InputError
        A speed the map does not reach: the fan jumps over it, or it is faster than it turns.
    """
    speeds = fan.speeds
    if speed_rpm < speeds.slowest_rpm * (1 - 1e-9):
        raise InputError(
            "speed_rpm", speed_rpm, f"at least {speeds.slowest_rpm:.0f} rpm",
            "the fan jumps over what lies between standing and its slowest speed",
        )  # fmt: skip
    held = speeds.command_for(min(speed_rpm, speeds.fastest_rpm))
    if held.low == held.high:
        return held.command
    slow = speed_rpm <= speeds.slowest_rpm * (1 + 1e-9)
    if slow:
        # Clear of where it stops, and where it starts from rest if that gives the same speed.
        on = SPAN_V - fan.line.on_v if not fan.rising else fan.line.on_v
        return min(held.high, max(held.low, on))
    # Full speed is the very end: clear of V_hi by all there is.
    return held.high if fan.rising else held.low
