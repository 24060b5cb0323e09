"""The steps of fans whose supply is chopped: speed at the mean volts, and what becomes of the tachometer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

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
from fenwit.core.methods.chopped_supply.design import ChopDesign, Tach
from fenwit.core.methods.common import mapped_steps
from fenwit.core.methods.common.mapped import AMPS_SPREAD, HOLDS_ONLY
from fenwit.core.methods.common.volts import VoltFan, volt_zones
from fenwit.core.methods.seam import (
    Axis,
    Expected,
    Missed,
    Reach,
    Stray,
    Zone,
)
from fenwit.core.motor.tachometer import bridging_s, chopped_edges_hz, stretched_duty
from fenwit.core.operating import StepVerdict
from fenwit.core.regulator.direct_supply import Chopper
from fenwit.core.size.tolerance import Cause

KILO_HZ = q.Dimension("hertz", "Hz", ("Hz",), "k", 10.0, 1e6, "like 25k or 100 Hz")
PER_CENT = q.Dimension("per cent of duty", "%", ("%", "percent"), "", 0.0, 100.0, "like 41 %")
DUTY = Quantity("supply_duty", "duty of the supply", PER_CENT, "%", digits=1)
RAW_SHARE = 0.12
"""By how much more a raw chopped fan may be off its mean volts, over full speed [-]"""


@dataclass(frozen=True)
class ChopSetting:
    """What one step sets."""

    duty: float
    """Of the supply [-]"""
    mean_duty: float
    """With what a stretched tachometer adds [-]"""
    loss_w: float
    """Of switch and diode [W]"""


def chopper(fan: VoltFan, design: ChopDesign) -> Chopper:
    """The switch at full amps."""
    return Chopper(
        fan.supply_voltage_v, fan.current_a(fan.supply_voltage_v), design.frequency_hz, design.on_ohm, 1.5,
        design.rise_s,
        design.fall_s, design.diode_v,
    )  # fmt: skip


def setting(fan: VoltFan, design: ChopDesign, duty: float) -> ChopSetting:
    """What a duty becomes."""
    mean = duty
    if design.tach is Tach.STRETCHED and 0 < duty < 1:
        slow = max(float(fan.direct.speed_rpm(fan.direct.hold_v)), 60.0)
        _, mean = stretched_duty(
            duty, slow * fan.commanded.sheet.pulses_per_rev / 60, design.every_s, design.settle_s
        )
    switch = chopper(fan, design)
    loss = (
        switch.conduction_w(duty)
        + switch.switching_w(duty)
        + (switch.diode_w(duty) if design.filtered else 0.0)
    )
    return ChopSetting(duty, mean, loss)


def need_of(fan: VoltFan, wanted_rpm: float) -> Need[ChopSetting]:
    """Duty that a wanted speed asks for, or why none gives it."""
    direct, supply = fan.direct, fan.supply_voltage_v
    if fan.is_full(wanted_rpm):
        duty = 1.0
    else:
        try:
            duty = direct.voltage_for(wanted_rpm, supply) / supply
        except InputError:
            slow = float(direct.speed_rpm(direct.hold_v))
            return Need(
                "", None, f"below {slow:.0f} rpm, {q.plain(direct.hold_v)} V in the mean, it stops", slow
            )
    volts = duty * supply
    watts = volts * fan.current_a(volts) if fan.amps_known else None
    return Need(f"{100 * duty:.1f} %", ChopSetting(duty, duty, 0.0), costs=Costs(watts))


def ideal(fan: VoltFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[Step[ChopSetting], ...]:
    """Each wanted speed at the very duty that gives it, through a choke."""
    return mapped_steps.ideal(
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda number, mine, rpm, need: _step(fan, number, mine, rpm, need, ChopDesign((mine.duty,))),
    )


def steps(
    fan: VoltFan, design: ChopDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[Step[ChopSetting], ...]:
    """The duties that are set, slowest first, beside the wanted speeds."""
    return mapped_steps.made(
        len(design.duties),
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda i, rpm, need: _step(fan, i + 1, setting(fan, design, design.duties[i]), rpm, need, design),
    )


def _step(
    fan: VoltFan,
    number: int,
    mine: ChopSetting,
    rpm: float | None,
    need: Need[ChopSetting] | None,
    design: ChopDesign,
) -> Step[ChopSetting]:
    direct, supply = fan.direct, fan.supply_voltage_v
    label = f"{100 * mine.duty:.0f} %"
    mean = mine.mean_duty * supply
    if mean < direct.hold_v * (1 - 1e-9):
        words = f"{q.plain(mean)} V in the mean: below {q.plain(direct.hold_v)} V it stops"
        reason = Reason(ReasonKind.UNREACHED, words)
        return Step(
            number,
            label,
            words,
            rpm,
            mine,
            need,
            None,
            {},
            StepVerdict.DOES_NOT_START,
            (reason,),
            at=mine.duty,
        )
    reasons: tuple[Reason, ...] = ()
    warning = None
    if mean < direct.start_v * (1 - 1e-9):
        words = "holds, does not start from rest: needs the whole supply for a second first"
        reasons = (Reason(ReasonKind.NO_START, words),)
        warning = HOLDS_ONLY
    volts = float(np.clip(mean, fan.speeds.command[0], fan.speeds.command[-1]))
    own = Band(*fan.speeds.band_at(volts))
    speed = float(np.asarray(fan.speeds.speed_at(volts)))
    # The fan's own capacitor is a short at every turn-on: raw, it follows its mean volts only roughly.
    more = 0.0 if design.filtered or mine.duty >= 1 else RAW_SHARE * fan.full_rpm
    half = float(np.hypot(own.half_width, more))
    band = Band(max(0.0, speed - half), speed + half)
    amps = fan.current_a(volts) if fan.amps_known else None
    watts = None if amps is None else amps * volts
    hertz = q.show(design.frequency_hz, KILO_HZ, 3)
    loss = (
        Told(f"{q.show(mine.loss_w, q.POWER, 2)} heat", "heat")
        if amps is not None and mine.loss_w > 0
        else None
    )
    place = Place(
        PlaceKind.REGULATOR,
        (
            Told(f"{100 * mine.duty:.1f} % of the time", "duty"),
            Told(f"{q.plain(mean)} V in the mean", "volts"),
        ),
        loss_w=mine.loss_w if amps is not None else 0.0,
        loss=loss,
        warning=warning,
        name="chopped supply",
        signal=Signal(mine.duty, f"{supply:g} V, {hertz}"),
    )
    running = fan.running(volts, watts, place)
    bands = {
        SPEED.key: band,
        DUTY.key: Band(max(0.0, 100 * mine.duty - 1.2), min(100.0, 100 * mine.duty + 1.2)),
    }
    if amps is not None:
        drawn = amps * mine.mean_duty
        bands[LINE_CURRENT.key] = Band(drawn * (1 - AMPS_SPREAD), drawn * (1 + AMPS_SPREAD))
        running = mapped_steps.with_supply_amps(running, drawn, bands[LINE_CURRENT.key])
    joins = f"{100 * mine.duty:.1f} % of the supply's time"
    stands = 1.0 if warning else 0.0
    return Step(
        number, label, joins, rpm, mine, need, running, bands, StepVerdict.OK, reasons,
        at=mine.duty, may_not_start=stands,
    )  # fmt: skip


def tach_words(fan: VoltFan, design: ChopDesign) -> tuple[str, ...]:
    """What a tachometer says of a chopped fan, and what can be done about it."""
    if design.filtered:
        return ("behind choke and diode the fans see direct volts: the tachometer stays valid",)
    found = [s for s in (setting(fan, design, d) for d in design.duties) if s.duty < 1]
    if not found:
        return ()
    slowest = min(found, key=lambda s: s.duty)
    speed = float(fan.direct.speed_rpm(slowest.duty * fan.supply_voltage_v))
    pulses = fan.commanded.sheet.pulses_per_rev
    hertz = speed * pulses / 60
    wrong = 60 * chopped_edges_hz(0.5, design.frequency_hz, slowest.duty, hertz) / pulses
    lines = [
        f"read as it is, the tachometer shows some {wrong:.0f} rpm for {speed:.0f}: its edges are those of the chopping"
    ]
    if hertz > 0:
        low, high = bridging_s(slowest.duty, design.frequency_hz, hertz)
        if low < high:
            lines.append(
                f"bridge gaps of more than {q.plain(1e3 * low, 2)} ms and less than {q.plain(1e3 * high, 2)} ms"
            )
        else:
            lines.append("no gap can be bridged: the pauses are longer than its pulses")
        held, mean = stretched_duty(slowest.duty, hertz, design.every_s, design.settle_s)
        lines.append(
            f"or hold the supply on for {1e3 * held:.0f} ms every {design.every_s:g} s: {100 * slowest.duty:.0f} % "
            f"becomes {100 * mean:.1f} %, and the speed rises with it"
        )
    return tuple(lines)


def reach(fan: VoltFan) -> Reach:
    """Speed over the duty of the supply, at its mean volts."""
    return mapped_steps.reach(fan, Axis("duty of the supply", "%", 100.0), fan.supply_voltage_v)


def zones(fan: VoltFan, design: ChopDesign | None) -> tuple[Zone, ...]:
    """Speeds at which it stops, and those it holds but does not start at."""
    return volt_zones(fan)


def strays(fan: VoltFan, design: ChopDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray: by the fan, and by its supply."""
    slope = (fan.speeds.speed_rpm[-1] - fan.speeds.speed_rpm[0]) / (
        fan.speeds.command[-1] - fan.speeds.command[0]
    )
    rows = []
    for step in found:
        if step.shown is None or step.speed_band is None or not isinstance(step.setting, ChopSetting):
            continue
        speed, band = step.shown.speed_rpm, step.speed_band
        feed = slope * 0.02 * step.setting.mean_duty * fan.supply_voltage_v
        half = float(np.hypot(feed, band.half_width))
        alone = {
            Cause.PARTS: Band(speed, speed),
            Cause.MAINS: Band(speed - feed, speed + feed),
            Cause.MOTOR: band,
        }
        rows.append(Stray(step.number, step.label, Band(max(0.0, speed - half), speed + half), alone))
    return tuple(rows)


def expected(fan: VoltFan, design: ChopDesign | None, step: Step[ChopSetting]) -> tuple[Expected, ...]:
    """Speed by a hand tachometer, duty of the supply, and its amps."""
    if step.at is None or not step.bands:
        return ()
    return mapped_steps.expected(step, Expected(DUTY, 100 * step.at, step.bands[DUTY.key]))


def missed(fan: VoltFan, design: ChopDesign | None, step: Step[ChopSetting], miss: Missed) -> str:
    """What a miss points to."""
    if step.shown is None or design is None:
        return ""
    if miss.quantity is DUTY:
        return ". Measure at the fans' minus lead against their plus; look at the gate."
    if miss.quantity is not SPEED:
        return ". Does every fan turn? One that stands takes its starting amps."
    if miss.value == 0:
        return ": it stands. Give it the whole supply for a second; if it runs on then, it holds here but does not start."
    if not design.filtered and miss.value > 3 * step.shown.speed_rpm:
        return ": these are edges of the chopping, no speed. Bridge the gaps, stretch the pulses, or take another."
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return f". A raw chopped fan follows its mean volts only roughly; choke and diode make it follow.{tail}"


def where(fan: VoltFan, design: ChopDesign, step: Step[ChopSetting]) -> str:
    """Duty of the step."""
    return step.label
