"""The steps of a fan on its control input: wanted, as made, what is read at them, what a miss points to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError
from fenwit.core.job.steps import (
    LINE_CURRENT,
    SPEED,
    Costs,
    Level,
    Need,
    Place,
    PlaceKind,
    Quantity,
    Reason,
    ReasonKind,
    Step,
    Steps,
    Told,
)
from fenwit.core.methods.common import mapped_steps
from fenwit.core.methods.common.mapped import AMPS_SPREAD, HOLDS_ONLY
from fenwit.core.methods.control_voltage.design import ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.signal import (
    ControlSetting,
    FanTold,
    setting,
    volts_for,
    whole_knob,
)
from fenwit.core.methods.seam import Axis, Expected, Missed, Reach, Stray, Zone, ZoneKind
from fenwit.core.motor.analog import SPAN_V
from fenwit.core.operating import StepVerdict
from fenwit.core.size.tolerance import Cause

CONTROL_VOLTS = replace(q.VOLTAGE, low=0.0, high=30.0, example="like 4.90 V")
VOLTS = Quantity(
    "control_v", "control volts", CONTROL_VOLTS, "V", digits=2, may_be_nothing=True, meter_error=0.005
)
READ_V = 0.05
"""How far a meter and two clamps may be off at the input [V]"""
APART = 0.02
"""Speeds of fans that differ by more, over full, are worth a word [-]"""


def need_of(fan: ControlFan, wanted_rpm: float) -> Need[ControlSetting]:
    """Volts on the input for a wanted speed, or why none give it."""
    speeds = fan.speeds
    try:
        volts = volts_for(fan, fan.full_rpm if fan.is_full(wanted_rpm) else wanted_rpm)
    except InputError as error:
        return Need("", None, f"{error.reason}: {speeds.slowest_rpm:.0f} rpm", speeds.slowest_rpm)
    told = FanTold(volts, float(np.asarray(speeds.speed_at(volts))), True)
    exact = ControlSetting(volts, volts, volts / fan.analog.takes_ohm, (told,))
    return Need(f"{volts:.2f} V", exact, costs=Costs(fan.watts(wanted_rpm)))


def ideal(fan: ControlFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[Step[ControlSetting], ...]:
    """Each wanted speed at the very volts that give it."""
    return mapped_steps.ideal(
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda number, mine, rpm, need: _step(fan, number, mine, rpm, need, ()),
    )


def steps(
    fan: ControlFan, design: ControlDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[Step[ControlSetting], ...]:
    """The volts that are made, beside the wanted speeds."""

    def built(i: int, rpm: float | None, need: Need[ControlSetting] | None) -> Step[ControlSetting]:
        mine = setting(fan, design, i)
        return _step(fan, i + 1, mine, rpm, need, tuple(_remarks(fan, design, mine)))

    return mapped_steps.made(len(design.volts), wanted_rpm, lambda rpm: need_of(fan, rpm), built)


def _remarks(fan: ControlFan, design: ControlDesign, mine: ControlSetting) -> list[Reason]:
    said = []
    if abs(mine.made_v - mine.asked_v) > READ_V:
        words = f"{mine.made_v:.2f} V come about where {mine.asked_v:.2f} V were asked for"
        if design.source is Source.KNOB:
            low, high = whole_knob(fan, design).volts(np.array([0.0, 1.0]))
            words += f": its turn gives {low:.2f} to {high:.2f} V"
        said.append(Reason(ReasonKind.REMARK, words))
    if len(mine.fans) > 1:
        first, full = mine.fans[0], fan.full_rpm
        for k, other in enumerate(mine.fans[1:], start=2):
            if other.speed_rpm == 0 and first.speed_rpm > 0:
                said.append(Reason(ReasonKind.REMARK, f"fan {k} gets {other.volts:.2f} V and stays off"))
            elif other.speed_rpm > 0 and not other.starts:
                said.append(
                    Reason(ReasonKind.REMARK, f"fan {k} gets {other.volts:.2f} V: it holds, does not start")
                )
        last = mine.fans[-1]
        if last.speed_rpm > 0 and abs(last.speed_rpm - first.speed_rpm) > APART * full:
            words = f"the last fan gets {last.volts:.2f} V and turns {last.speed_rpm:.0f} rpm"
            said.append(Reason(ReasonKind.REMARK, words))
    return said


def clear_words(fan: ControlFan, volts: float) -> str:
    """By how much volts clear the ends of the map."""
    meant, line = float(fan.line.meant_v(np.array(volts))), fan.line
    words = [f"{meant - line.on_v:+.2f} V over where it starts", f"{line.high_v - meant:.2f} V below its end"]
    return ", ".join(w.replace("-", "−") for w in (words if meant <= line.high_v else words[:1]))


def level_of(fan: ControlFan, volts: float) -> Level:
    """The signal as it is drawn: its dead bands hatched."""
    line = fan.line
    bands = [(0.0, max(line.low_v, line.on_v)), (line.high_v, SPAN_V)]
    if line.inverse:
        bands = [(SPAN_V - b, SPAN_V - a) for a, b in bands]
    dead = tuple(sorted((a, b) for a, b in bands if b > a))
    return Level(volts, SPAN_V, dead, f"{volts:.2f} of {SPAN_V:g} V")


def _step(
    fan: ControlFan, number: int, mine: ControlSetting, rpm: float | None, need: Need[ControlSetting] | None,
    reasons: tuple[Reason, ...],
) -> Step[ControlSetting]:  # fmt: skip
    volts, line = mine.made_v, fan.line
    label, joins = f"{volts:.2f} V", f"{volts:.2f} V on the input, {100 * volts / SPAN_V:.0f} % of its travel"
    meant = float(line.meant_v(np.array(volts)))
    low, high = fan.speeds.command[0], fan.speeds.command[-1]
    if meant < line.off_v or not low - 1e-9 <= volts <= high + 1e-9:
        if meant < line.off_v:
            words, verdict = f"{volts:.2f} V: below {line.off_v:g} V it stops", StepVerdict.DOES_NOT_START
            if line.inverse:
                words = f"{volts:.2f} V: above {SPAN_V - line.off_v:g} V it stops"
        else:
            words = f"nobody read it at {volts:.2f} V: nothing is known beyond {low:.2f} to {high:.2f} V"
            verdict = StepVerdict.BARRED
        reason = Reason(ReasonKind.UNREACHED, words)
        return Step(number, label, words, rpm, mine, need, None, {}, verdict, (reason, *reasons), at=volts)
    warning = None
    if meant < line.on_v - 1e-9:
        way = "above" if line.inverse else "below"
        edge = SPAN_V - line.on_v if line.inverse else line.on_v
        words = f"holds, does not start from rest: {way} {edge:g} V"
        reasons = (Reason(ReasonKind.NO_START, words), *reasons)
        warning = HOLDS_ONLY
    at = float(np.clip(volts, low, high))
    speed = float(np.asarray(fan.speeds.speed_at(at)))
    band = Band(*fan.speeds.band_at(at))
    watts, amps = fan.watts(speed), fan.amps(speed)
    place = Place(
        PlaceKind.REGULATOR,
        (Told(f"{volts:.2f} V", "volts"), Told(f"{100 * volts / SPAN_V:.0f} % of the signal")),
        name="control input",
        warning=warning,
        level=level_of(fan, volts),
    )
    running = fan.running(at, watts, place)
    bands = {SPEED.key: band, VOLTS.key: Band(max(0.0, volts - READ_V), volts + READ_V)}
    if amps is not None:
        bands[LINE_CURRENT.key] = Band(amps * (1 - AMPS_SPREAD), amps * (1 + AMPS_SPREAD))
        running = mapped_steps.with_supply_amps(running, amps, bands[LINE_CURRENT.key])
    return Step(
        number, label, joins, rpm, mine, need, running, bands, StepVerdict.OK, reasons, at=volts,
        may_not_start=1.0 if warning else 0.0,
    )  # fmt: skip


# ---------------------------------------------------------------- all that it can do


def reach(fan: ControlFan) -> Reach:
    """Speed over the volts on the input."""
    return mapped_steps.reach(fan, Axis("on the control input", "V", 1.0))


def zones(fan: ControlFan, design: ControlDesign | None) -> tuple[Zone, ...]:
    """Speeds it jumps over, and those it holds but does not start at."""
    slow = fan.speeds.slowest_rpm
    found = [Zone(0.0, slow, "it jumps over these", ZoneKind.GAP)] if slow > 0 else []
    start = float(fan.line.speed_rpm(fan.line.meant_v(np.array(fan.line.on_v))))
    if start > slow * 1.005:
        found.append(Zone(slow, start, "holds, does not start from rest", ZoneKind.NO_START))
    return tuple(found)


# ---------------------------------------------------------------- straying, proving


def parts_spread_v(fan: ControlFan, design: ControlDesign, index: int) -> float:
    """How far nine in ten builds lie off at the first input [V]"""
    volts = setting(fan, design, index).made_v
    if design.source is Source.KNOB:
        parts = design.knob
        if parts.top_ohm == 0 and parts.bottom_ohm == 0:
            # Set by hand against its scale: a pointer and a track of two per cent.
            return 0.02 * SPAN_V
        ends = [whole_knob(fan, design, 1 + k * parts.spread) for k in (-1, 1)]
        travel = setting(fan, design, index).travel or 0.0
        return float(max(abs(float(k.volts(np.array(travel))) - volts) for k in ends)) + 0.01 * SPAN_V
    if design.source is Source.STEPS:
        # Resistors of one per cent each side of a tap.
        return 0.01 * volts * (1 - volts / max(SPAN_V, volts)) * 1.41 + 0.02 * volts
    if design.source is Source.FILTER:
        f = design.filter
        return f.offset_v + f.gain_error * volts + 0.5 * f.amplitude_v * f.gain / f.levels
    return 0.02 * volts


def strays(fan: ControlFan, design: ControlDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray: by its map, and by what makes the volts; the mains do not matter."""
    rows = []
    for i, step in enumerate(found):
        if step.shown is None or step.speed_band is None or i >= len(design.volts) or step.at is None:
            continue
        speed, band = step.shown.speed_rpm, step.speed_band
        half_v = parts_spread_v(fan, design, i)
        low, high = fan.speeds.command[0], fan.speeds.command[-1]
        ends = [
            float(np.asarray(fan.speeds.speed_at(float(np.clip(step.at + k * half_v, low, high)))))
            for k in (-1, 1)
        ]
        parts = Band(min(*ends, speed), max(*ends, speed))
        half = float(np.hypot(parts.half_width, band.half_width))
        alone = {Cause.PARTS: parts, Cause.MAINS: Band(speed, speed), Cause.MOTOR: band}
        rows.append(Stray(step.number, step.label, Band(max(0.0, speed - half), speed + half), alone))
    return tuple(rows)


def expected(
    fan: ControlFan, design: ControlDesign | None, step: Step[ControlSetting]
) -> tuple[Expected, ...]:
    """Speed, volts at the fan's own terminals, amps of the mains."""
    if step.at is None or not step.bands:
        return ()
    return mapped_steps.expected(step, Expected(VOLTS, step.at, step.bands[VOLTS.key]))


_NEAR = 0.05


def missed(fan: ControlFan, design: ControlDesign | None, step: Step[ControlSetting], miss: Missed) -> str:
    """What a miss points to: a ground that carries other current, a wire that is off, an input the other way round."""
    if step.shown is None or step.at is None:
        return ""
    if miss.quantity is VOLTS:
        if miss.value < READ_V:
            return ". Nothing arrives: a wire is off, or the source has lost its 10 V."
        if miss.value > SPAN_V - READ_V:
            return ". The whole reference arrives: the wire to 0 V at the source is off."
        tail = (
            " Measure between the 0 V terminals at both ends, fans running."
            if design and fan.count > 1
            else ""
        )
        return (
            f". Read it at the fan's own terminals, then at the source; a difference lies in the wires.{tail}"
        )
    if miss.quantity is LINE_CURRENT:
        return ". Does every fan turn? Is the filter or the damper as it was?"
    full = fan.full_rpm
    if miss.value == 0:
        start = fan.line.on_v
        return f": it stands. Is enable closed, the alarm clear, are more than {start:g} V at its terminals?"
    if abs(miss.value / full - 1) < _NEAR and step.shown.speed_rpm < 0.9 * full:
        return ", full speed: the signal stands at 10 V, or a sensor's fault reaction runs it full."
    speeds, low, high = fan.speeds, fan.speeds.command[0], fan.speeds.command[-1]
    turned = SPAN_V - step.at
    if low <= turned <= high and abs(miss.value / float(np.asarray(speeds.speed_at(turned))) - 1) < _NEAR:
        return f", as at {turned:.2f} V: its input is set the other way round."
    try:
        like = volts_for(fan, miss.value)
    except InputError:
        return ". Slower than it turns by its map: read its alarm, and whether it is still starting softly."
    if design is not None and fan.count > 1 and design.following is Following.TOGETHER:
        return f", as at {like:.2f} V: {like - step.at:+.2f} V between the 0 V of fan and source?".replace(
            "-", "−"
        )
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return f", as at {like:.2f} V. Read the volts at its own terminals; wait out the soft start.{tail}"


def where(fan: ControlFan, design: ControlDesign, step: Step[ControlSetting]) -> str:
    """Where a step lies: on the knob, the switch, or in the program."""
    mine = step.setting
    if not isinstance(mine, ControlSetting):
        return ""
    if mine.travel is not None:
        return f"knob at {100 * mine.travel:.0f} %"
    if mine.duty is not None:
        return f"duty {round(mine.duty * design.filter.levels)} of {design.filter.levels}"
    return f"position {step.number}" if design.source is Source.STEPS else f"{10 * mine.asked_v:.0f} % output"
