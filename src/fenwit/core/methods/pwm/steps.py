"""The steps of a fan on its control lead: as made, or the exact duties while nothing makes them; what a miss means."""

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
    Need,
    Place,
    PlaceKind,
    Quantity,
    Reason,
    ReasonKind,
    Signal,
    Step,
    Steps,
    Told,
)
from fenwit.core.methods.common import mapped_steps
from fenwit.core.methods.common.mapped import AMPS_SPREAD, HOLDS_ONLY
from fenwit.core.methods.pwm.design import Drive, DutyDesign
from fenwit.core.methods.pwm.fan import THRESHOLD_V, DutyFan
from fenwit.core.methods.pwm.signal import DRAWS_DRAGGED, DutySetting, setting, tolerances, travelled
from fenwit.core.methods.seam import (
    Axis,
    Expected,
    Missed,
    Reach,
    Stray,
    Zone,
    ZoneKind,
)
from fenwit.core.motor.duty import Below
from fenwit.core.motor.tachometer import PulseVerdict, pulses_from
from fenwit.core.operating import StepVerdict
from fenwit.core.regulator.control_lead import BAND_HZ, HIGH_V, LOW_V, NOMINAL_HZ, RIPPLE_HZ, WHINE_HZ
from fenwit.core.regulator.sweep import SweepVerdict
from fenwit.core.size.tolerance import Cause

PER_CENT = q.Dimension("per cent of duty", "%", ("%", "percent"), "", 0.0, 100.0, "like 41 %")
KILO_HZ = replace(q.FREQUENCY, low=10.0, high=1e6, prefixes="k", example="like 25k or 24.9 kHz")
RISE_US = replace(q.MICROSECONDS, low=0.0, high=1e4, example="like 1.2 µs")
DUTY = Quantity("lead_duty", "duty on the lead", PER_CENT, "%", digits=1)
SIGNAL_HZ = Quantity("lead_hz", "lead frequency", KILO_HZ, "Hz")
LOW = Quantity("lead_low_v", "low level", q.VOLTAGE, "V", captured=True, digits=2, may_be_nothing=True)
HIGH = Quantity("lead_high_v", "high level", q.VOLTAGE, "V", captured=True, digits=2)
RISE = Quantity(
    "lead_rise_us", "rise, 10 to 90 %", RISE_US, "µs", captured=True, digits=2, may_be_nothing=True
)
METER_SHARE = 0.012
"""A scope's duty may be off by so much of the period [-]"""


def need_of(fan: DutyFan, wanted_rpm: float) -> Need[DutySetting]:
    """Duty the fan must see for a wanted speed, or why none gives it."""
    speeds = fan.speeds
    try:
        held = speeds.command_for(min(wanted_rpm, speeds.fastest_rpm))
    except InputError:
        slow = speeds.slowest_rpm
        words = f"it turns no slower than {slow:.0f} rpm by its lead"
        if fan.commanded.read_over_duty:
            words = f"nobody read it below {slow:.0f} rpm: take a reading at less duty"
        return Need("", None, words, slow)
    # Of the duties that give one speed the one nearest to what lies between: a margin to both ends is worth nothing.
    duty = held.high if (fan.rising and wanted_rpm <= speeds.slowest_rpm) else held.command
    end = 1.0 if fan.rising else 0.0
    # Full speed is the very end, where its map goes so far.
    if fan.is_full(wanted_rpm) and speeds.command[0] <= end <= speeds.command[-1]:
        duty = end
    watts = fan.watts(wanted_rpm)
    exact = DutySetting(duty, duty, duty, NOMINAL_HZ)
    return Need(f"{100 * duty:.1f} %", exact, costs=Costs(watts))


def ideal(fan: DutyFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[Step[DutySetting], ...]:
    """Each wanted speed at the very duty that gives it."""
    return mapped_steps.ideal(
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda number, mine, rpm, need: _step(fan, number, f"{100 * mine.made:.0f} %", mine, rpm, need, ()),
    )


def steps(
    fan: DutyFan, design: DutyDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[Step[DutySetting], ...]:
    """The duties that are made, slowest first, beside the wanted speeds."""
    found = [setting(fan, design, d) for d in design.duties]
    return mapped_steps.made(
        len(found),
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda i, rpm, need: _built(fan, design, i, found, rpm, need),
    )


def _built(
    fan: DutyFan,
    design: DutyDesign,
    i: int,
    found: Sequence[DutySetting],
    rpm: float | None,
    need: Need[DutySetting] | None,
) -> Step[DutySetting]:
    mine = found[i]
    reasons = list(_remarks(fan, design, mine))
    if design.maker.drawn and not mine.steady and abs(mine.made - mine.asked) > METER_SHARE:
        ends = sorted(float(100 * d) for d in travelled(design, np.array([0.0, 1.0])).duty)
        words = f"its pot makes {ends[0]:.0f} to {ends[1]:.0f} % on the lead: the nearest to {100 * mine.asked:.0f} %"
        reasons.append(Reason(ReasonKind.REMARK, words))
    twins = [j + 1 for j, other in enumerate(found) if j != i and other.made == mine.made]
    if twins:
        words = f"the same setting as step {', '.join(map(str, twins))}: this timer has no level between them"
        reasons.append(Reason(ReasonKind.REMARK, words))
    return _step(fan, i + 1, f"{100 * mine.made:.1f} %", mine, rpm, need, tuple(reasons))


def _remarks(fan: DutyFan, design: DutyDesign, mine: DutySetting) -> list[Reason]:
    sheet = fan.commanded.sheet
    said = []
    tried = fan.commanded.sweep.at(mine.frequency_hz) if mine.frequency_hz > 0 else SweepVerdict.UNREAD
    if mine.steady:
        pass
    elif tried is SweepVerdict.OFF:
        words = f"at {q.show(mine.frequency_hz, KILO_HZ)} this fan misreads the duty, by its sweep"
        said.append(Reason(ReasonKind.REMARK, words))
    elif tried is SweepVerdict.UNREAD and not sheet.low_hz <= mine.frequency_hz <= sheet.high_hz:
        band = f"{q.show(sheet.low_hz, KILO_HZ)} to {q.show(sheet.high_hz, KILO_HZ)}"
        words = f"{q.show(mine.frequency_hz, KILO_HZ)} lies outside {band}"
        said.append(Reason(ReasonKind.REMARK, f"{words}: {frequency_words(mine.frequency_hz)}"))
    if mine.steady:
        said.append(
            Reason(
                ReasonKind.REMARK, "its pulse is too short for the next stage: the lead stands at one level"
            )
        )
    meant = fan.meant(mine.seen)
    line = fan.commanded.line
    if sheet.below is Below.STOPS and line.least <= meant < fan.commanded.start_duty:
        said.append(
            Reason(ReasonKind.NO_START, "holds, does not start from rest: needs full duty for a second first")
        )
    return said


def frequency_words(hertz: float) -> str:
    """What a frequency outside the usual band may bring."""
    if hertz < RIPPLE_HZ:
        return "torque ripples with it, and it is heard"
    if hertz < WHINE_HZ:
        return "it is heard as a whine"
    if hertz > BAND_HZ[1]:
        return "the fan may ignore or misread it"
    return "try it by the sweep before it counts"


def _step(
    fan: DutyFan, number: int, label: str, mine: DutySetting, rpm: float | None, need: Need[DutySetting] | None,
    reasons: tuple[Reason, ...],
) -> Step[DutySetting]:  # fmt: skip
    seen, hertz, lead = mine.seen, mine.frequency_hz, mine.made
    low, high = fan.speeds.command[0], fan.speeds.command[-1]
    if not low - 1e-9 <= seen <= high + 1e-9:
        if fan.commanded.sheet.below is Below.STOPS and fan.meant(seen) < fan.commanded.line.least:
            words, verdict = "below its least duty it stops", StepVerdict.DOES_NOT_START
        else:
            words, verdict = (
                f"nobody read it at {100 * seen:.0f} %: nothing is known beyond {100 * low:.0f} to {100 * high:.0f} %",
                StepVerdict.BARRED,
            )
        reason = Reason(ReasonKind.UNREACHED, words)
        return Step(number, label, words, rpm, mine, need, None, {}, verdict, (reason, *reasons), at=lead)
    seen = float(np.clip(seen, low, high))
    speed = float(np.asarray(fan.speeds.speed_at(seen)))
    band = Band(*fan.speeds.band_at(seen))
    watts = fan.watts(speed)
    place = Place(
        PlaceKind.REGULATOR,
        (Told(f"{100 * lead:.1f} % on the lead", "duty"), Told(q.show(hertz, KILO_HZ), "frequency")),
        name="control lead",
        warning=HOLDS_ONLY if any(r.kind is ReasonKind.NO_START for r in reasons) else None,
        signal=Signal(lead, f"{q.plain(fan.lead_v, 2)} V, {q.show(hertz, KILO_HZ, 2)}"),
    )
    running = fan.running(seen, watts, place)
    bands = {
        SPEED.key: band,
        # A meter sees the late edge of an open drain, wherever between low and high it tells them apart.
        DUTY.key: Band(
            100 * max(0.0, min(mine.seen, _at_half(fan, mine)) - METER_SHARE),
            100 * min(1.0, lead + METER_SHARE),
        ),
    }
    bands[SIGNAL_HZ.key] = Band(hertz * 0.97, hertz * 1.03)
    if watts is not None:
        amps = watts / fan.supply_voltage_v
        bands[LINE_CURRENT.key] = Band(amps * (1 - AMPS_SPREAD), amps * (1 + AMPS_SPREAD))
        running = mapped_steps.with_supply_amps(running, amps, bands[LINE_CURRENT.key])
    joins = f"{100 * lead:.1f} % on the lead"
    return Step(number, label, joins, rpm, mine, need, running, bands, StepVerdict.OK, reasons, at=lead)


def _at_half(fan: DutyFan, mine: DutySetting) -> float:
    """Duty on the lead at half its height [-]"""
    lead = fan.lead
    if lead is None or mine.seen >= mine.made:
        return mine.made
    return replace(lead, threshold_v=lead.supply_v / 2).seen_duty(mine.made, mine.frequency_hz)


# ---------------------------------------------------------------- all that it can do


def reach(fan: DutyFan) -> Reach:
    """Speed over the duty on the lead."""
    return mapped_steps.reach(fan, Axis("duty on the lead", "%", 100.0))


def zones(fan: DutyFan, design: DutyDesign | None) -> tuple[Zone, ...]:
    """Speeds it does not turn at, and those it holds but does not start at."""
    slow = fan.speeds.slowest_rpm
    words = "not read so slow" if fan.commanded.read_over_duty else "slower than it turns"
    found = [Zone(0.0, slow, words, ZoneKind.GAP)] if slow > 0 else []
    if fan.commanded.sheet.below is Below.STOPS:
        start = fan.commanded.line.speed_rpm(
            np.array(fan.commanded.start_duty if fan.rising else 1 - fan.commanded.start_duty)
        )
        if float(start) > slow:
            found.append(Zone(slow, float(start), "holds, does not start from rest", ZoneKind.NO_START))
    return tuple(found)


# ---------------------------------------------------------------- acceptance, straying, proving


def strays(fan: DutyFan, design: DutyDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray: by its map, and by the parts of a timer."""
    rows = []
    drawn = tolerances(design, DRAWS_DRAGGED) if design.maker.drawn else None
    for step in found:
        if step.shown is None or step.speed_band is None or not isinstance(step.setting, DutySetting):
            continue
        speed, band = step.shown.speed_rpm, step.speed_band
        parts = Band(speed, speed)
        if drawn is not None and step.setting.travel is not None:
            low, high = (
                float(
                    np.clip(
                        np.interp(step.setting.travel, drawn.travel, drawn.duty[k]),
                        fan.speeds.command[0],
                        fan.speeds.command[-1],
                    )
                )
                for k in (0, 2)
            )
            ends = sorted(float(np.asarray(fan.speeds.speed_at(d))) for d in (low, high))
            parts = Band(min(ends[0], speed), max(ends[1], speed))
        half = float(np.hypot(parts.half_width, band.half_width))
        alone = {Cause.PARTS: parts, Cause.MAINS: Band(speed, speed), Cause.MOTOR: band}
        rows.append(Stray(step.number, step.label, Band(max(0.0, speed - half), speed + half), alone))
    return tuple(rows)


def expected(fan: DutyFan, design: DutyDesign | None, step: Step[DutySetting]) -> tuple[Expected, ...]:
    """Speed, duty and frequency on the lead, the supply's amps; and what a scope shows of its levels and edges."""
    if step.at is None or not step.bands:
        return ()
    mine = step.setting
    if not isinstance(mine, DutySetting):
        return ()
    if mine.steady or not _PULSES < mine.made < 1 - _PULSES:
        # The lead stands at one level: there is no frequency to read.
        return mapped_steps.expected(step)
    duty = step.bands[DUTY.key]
    return mapped_steps.expected(
        step,
        Expected(DUTY, (duty.low + duty.high) / 2, duty),
        Expected(SIGNAL_HZ, mine.frequency_hz, step.bands[SIGNAL_HZ.key]),
        *_levels(fan, design, mine.frequency_hz),
    )


_PULSES = 0.005
"""Less of a period than this is no pulse that a meter reads [-]"""


def _levels(fan: DutyFan, design: DutyDesign | None, hertz: float) -> tuple[Expected, ...]:
    """What a scope should show at the fan's plug."""
    pushed = design is not None and design.drive is Drive.PUSH_PULL
    lead = None if pushed else fan.lead
    if pushed or lead is not None:
        volts = design.high_v if design is not None and pushed else fan.commanded.sheet.pull_up_v
        # A fan's own pull-up may go higher than a driver may push.
        high = Band(0.9 * volts, min(HIGH_V, 1.05 * volts) if pushed else 1.05 * volts)
    else:
        high = Band(THRESHOLD_V, HIGH_V)
    # The cable and the fan's own input are guessed: twice as slow is nothing to mend.
    rise = 1e6 * max(0.1 / hertz, 0.0 if lead is None else 2 * RISE_TAUS * lead.pull_up_ohm * lead.load_f)
    return (
        Expected(LOW, LOW_V / 2, Band(0.0, LOW_V), f"at most {LOW_V:g}"),
        Expected(
            HIGH, (high.low + high.high) / 2, high, f"{q.plain(high.low, 2)} to {q.plain(high.high, 3)}"
        ),
        Expected(RISE, rise / 2, Band(0.0, rise), f"at most {q.plain(rise, 2)}"),
    )


RISE_TAUS = 2.197
"""From a tenth to nine tenths behind R and C, ln 9 [R C]"""


_ON_THE_PLUG = {
    LOW: ". The driver does not pull the lead down: its saturation, a ground of its own, or too many fans on it.",
    HIGH: ". Look at what pulls the lead up; above 5.25 V take it off at once.",
    RISE: ". A stiffer pull-up, less cable, or a driver that pushes too.",
}


def missed(fan: DutyFan, design: DutyDesign | None, step: Step[DutySetting], miss: Missed) -> str:
    """What a miss points to: polarity, pulses per revolution, a signal that does not reach the lead."""
    if step.shown is None or step.at is None:
        return ""
    if miss.quantity is DUTY:
        if abs(miss.value / 100 - (1 - step.at)) < 0.03:
            return ": the other way round. Count the inverting stages, or say that the fan takes it inverted."
        return ". Measure at the fan's own plug, against its ground; look at the pull-up and the edges."
    if miss.quantity is SIGNAL_HZ:
        return ". Look at prescaler and top, or at the capacitor of the timer."
    if miss.quantity in _ON_THE_PLUG:
        return _ON_THE_PLUG[miss.quantity]
    if miss.quantity is not SPEED:
        return ". Check the supply volts, and whether every fan turns."
    if miss.value == 0:
        return (
            ": it stands, or its tachometer says nothing. Is the tachometer pulled up, and does the fan turn?"
        )
    full = fan.full_rpm
    if abs(miss.value / full - 1) < 0.05:
        return ", as with its lead open: the signal does not reach it, or stands high."
    pulses = fan.commanded.sheet.pulses_per_rev
    found = pulses_from(miss.value, step.shown.speed_rpm, pulses)
    if found.verdict is PulseVerdict.OTHER and found.likely:
        return f", in the ratio of {found.likely} to {pulses:g} pulses a revolution: set {found.likely} and read again."
    turned = 1 - step.at
    low, high = fan.speeds.command[0], fan.speeds.command[-1]
    if (
        low <= turned <= high
        and abs(miss.value / max(float(np.asarray(fan.speeds.speed_at(turned))), 1.0) - 1) < 0.05
    ):
        return f", as at {100 * turned:.0f} %: the signal is the other way round."
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return f". Read the duty at its plug, and the supply's volts there.{tail}"


def where(fan: DutyFan, design: DutyDesign, step: Step[DutySetting]) -> str:
    """Where a step lies: its compare value, or the pot's travel."""
    mine = step.setting
    if not isinstance(mine, DutySetting):
        return ""
    if not design.maker.drawn:
        return "off" if mine.compare is None else f"compare {mine.compare}"
    return "" if mine.travel is None else f"pot at {100 * mine.travel:.0f} %"
