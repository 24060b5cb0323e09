"""The steps of DC fans on lowered volts: as made, or the exact volts while nothing makes them; what a miss means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError
from fenwit.core.job.steps import (
    LINE_CURRENT,
    MOTOR_VOLTS,
    SPEED,
    Costs,
    Need,
    Place,
    PlaceKind,
    Reason,
    ReasonKind,
    Step,
    Steps,
    Told,
)
from fenwit.core.methods.common import mapped_steps
from fenwit.core.methods.common.mapped import AMPS_SPREAD, HOLDS_ONLY
from fenwit.core.methods.common.volts import VoltFan, volt_zones
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.seam import (
    Axis,
    Expected,
    Missed,
    Reach,
    Stray,
    Zone,
    ZoneKind,
)
from fenwit.core.operating import StepVerdict
from fenwit.core.regulator.direct_supply import Behind, Regulator
from fenwit.core.size.tolerance import Cause

_OHM_SPREAD, _VOLT_SPREAD = 0.05, 0.02
"""Of a resistor, and of a regulator's volts [-]"""
DIRECT_SHARE = 0.995
"""Of the supply's volts from which on a step hangs on the supply itself [-]"""


@dataclass(frozen=True)
class VoltsSetting:
    """What one step sets."""

    volts: float
    """At the fans while they run [V]"""
    rest_v: float
    """At fans that stand [V]"""
    loss_w: float
    """Of what takes the rest [W]"""
    ohm: float | None = None
    """In the line; None behind a regulator, or on the supply itself [Ω]"""


def setting(fan: VoltFan, design: VoltsDesign, value: float) -> VoltsSetting:
    """What a setting becomes: volts running and at rest, and the heat. Raises InputError for volts nothing gives."""
    supply = fan.supply_voltage_v
    if design.way is Way.RESISTOR:
        if value == 0:
            return VoltsSetting(supply, supply, 0.0)
        behind = Behind(fan.direct, supply, value, fan.count)
        volts = behind.voltage_v
        return VoltsSetting(volts, behind.rest_voltage_v, behind.heat_w(volts), value)
    if value > supply * (1 + 1e-9):
        raise InputError("settings", value, f"up to {supply:g} V", "no regulator here raises volts")
    if value >= DIRECT_SHARE * supply:
        return VoltsSetting(supply, supply, 0.0)
    regulator = regulator_of(fan, design)
    amps = fan.current_a(value)
    loss = (
        regulator.linear_loss_w(value, amps)
        if design.way is Way.LINEAR
        else regulator.buck_loss_w(value, amps)
    )
    return VoltsSetting(value, value, loss)


def regulator_of(fan: VoltFan, design: VoltsDesign) -> Regulator:
    """The regulator between supply and fans."""
    return Regulator(
        fan.supply_voltage_v,
        design.efficiency,
        design.dropout_v,
        design.ambient_c,
        design.junction_limit_c,
        design.case_k_w,
    )


def drawn_a(fan: VoltFan, design: VoltsDesign | None, volts: float, amps: float) -> float:
    """Of the supply: the fans' own, but what a switching regulator makes of them [A]"""
    if design is None or design.way is not Way.SWITCHING or volts >= DIRECT_SHARE * fan.supply_voltage_v:
        return amps
    return regulator_of(fan, design).buck_input_a(volts, amps)


def need_of(fan: VoltFan, wanted_rpm: float) -> Need[VoltsSetting]:
    """Volts that a wanted speed asks for, or why none give it."""
    direct, supply = fan.direct, fan.supply_voltage_v
    if fan.is_full(wanted_rpm):
        volts = supply
    else:
        try:
            volts = direct.voltage_for(wanted_rpm, supply)
        except InputError:
            slow = float(direct.speed_rpm(direct.hold_v))
            return Need("", None, f"below {slow:.0f} rpm, {q.plain(direct.hold_v)} V, it stops", slow)
    watts = volts * fan.current_a(volts) if fan.amps_known else None
    return Need(f"{q.plain(volts)} V", VoltsSetting(volts, volts, 0.0), costs=Costs(watts))


def ideal(fan: VoltFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[Step[VoltsSetting], ...]:
    """Each wanted speed at the very volts that give it."""
    return mapped_steps.ideal(
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda number, mine, rpm, need: _step(fan, None, number, mine, rpm, need),
    )


_NAMES = {Way.RESISTOR: "resistor", Way.LINEAR: "linear", Way.SWITCHING: "switching"}


def steps(
    fan: VoltFan, design: VoltsDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[Step[VoltsSetting], ...]:
    """The volts that are made, slowest first, beside the wanted speeds."""
    return mapped_steps.made(
        len(design.settings),
        wanted_rpm,
        lambda rpm: need_of(fan, rpm),
        lambda i, rpm, need: _step(fan, design, i + 1, setting(fan, design, design.settings[i]), rpm, need),
    )


def _label(mine: VoltsSetting, supply_v: float) -> str:
    if mine.ohm is not None:
        return q.show(mine.ohm, q.RESISTANCE)
    return "direct" if mine.volts >= DIRECT_SHARE * supply_v else f"{q.plain(mine.volts)} V"


def _step(
    fan: VoltFan, design: VoltsDesign | None, number: int, mine: VoltsSetting, rpm: float | None,
    need: Need[VoltsSetting] | None,
) -> Step[VoltsSetting]:  # fmt: skip
    direct = fan.direct
    label = _label(mine, fan.supply_voltage_v)
    if mine.volts < direct.hold_v * (1 - 1e-9):
        words = f"{q.plain(mine.volts)} V: below {q.plain(direct.hold_v)} V it stops"
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
            at=mine.volts,
        )
    reasons: tuple[Reason, ...] = ()
    warning = None
    if mine.rest_v < direct.start_v * (1 - 1e-9):
        words = (
            f"holds, does not start: standing it gets {q.plain(mine.rest_v)} V and wants {q.plain(direct.start_v)}; "
            "full volts for a second first"
        )
        reasons = (Reason(ReasonKind.NO_START, words),)
        warning = HOLDS_ONLY
    volts = float(np.clip(mine.volts, fan.speeds.command[0], fan.speeds.command[-1]))
    band = Band(*fan.speeds.band_at(volts))
    amps = fan.current_a(volts) if fan.amps_known else None
    watts = None if amps is None else amps * volts
    told = [Told(f"{q.plain(volts)} V at the fans", "volts")]
    if mine.ohm is not None:
        told.append(Told(q.show(mine.ohm, q.RESISTANCE)))
    loss = (
        Told(f"{q.show(mine.loss_w, q.POWER, 2)} heat", "heat")
        if mine.loss_w > 0 and amps is not None
        else None
    )
    place = Place(
        PlaceKind.REGULATOR,
        tuple(told),
        loss_w=mine.loss_w if amps is not None else 0.0,
        loss=loss,
        warning=warning,
        name="lower volts" if design is None else _NAMES[design.way],
    )
    running = fan.running(volts, watts, place)
    bands = {SPEED.key: band, MOTOR_VOLTS.key: Band(volts * (1 - 0.03), volts * (1 + 0.03))}
    if amps is not None:
        drawn = drawn_a(fan, design, mine.volts, amps)
        spread = 0.12 if fan.commanded.volts_read else AMPS_SPREAD
        bands[LINE_CURRENT.key] = Band(drawn * (1 - spread), drawn * (1 + spread))
        running = mapped_steps.with_supply_amps(running, drawn, bands[LINE_CURRENT.key])
    return Step(
        number,
        label,
        f"{q.plain(volts)} V at the fans",
        rpm,
        mine,
        need,
        running,
        bands,
        StepVerdict.OK,
        reasons,
        at=volts,
        may_not_start=1.0 if warning else 0.0,
    )


def reach(fan: VoltFan) -> Reach:
    """Speed over the volts at the fans."""
    return mapped_steps.reach(fan, Axis("at the fans", "V", 1.0))


def zones(fan: VoltFan, design: VoltsDesign | None) -> tuple[Zone, ...]:
    """Speeds at which it stops, and those it holds but does not start at; behind a resistor that is each step's own."""
    found = volt_zones(fan)
    resistor = design is not None and design.way is Way.RESISTOR
    return tuple(z for z in found if not (resistor and z.kind is ZoneKind.NO_START))


def strays(fan: VoltFan, design: VoltsDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray: by its map, by what takes the volts, by the supply."""
    rows = []
    for step in found:
        mine = step.setting
        if step.shown is None or step.speed_band is None or not isinstance(mine, VoltsSetting):
            continue
        speed, band = step.shown.speed_rpm, step.speed_band
        slope = (fan.speeds.speed_rpm[-1] - fan.speeds.speed_rpm[0]) / (
            fan.speeds.command[-1] - fan.speeds.command[0]
        )
        spread = 0.0
        if mine.ohm is not None:
            over = fan.supply_voltage_v / mine.volts - 1
            spread = _OHM_SPREAD * over * mine.volts / (1 + fan.direct.current_exponent * over)
        elif mine.volts < DIRECT_SHARE * fan.supply_voltage_v:
            spread = _VOLT_SPREAD * mine.volts
        parts = slope * spread
        # A regulated DC supply strays by two per cent, whatever the mains do.
        feed = slope * 0.02 * mine.volts if mine.ohm is not None or spread == 0 else 0.0
        half = float(np.sqrt(parts**2 + feed**2 + band.half_width**2))
        alone = {
            Cause.PARTS: Band(speed - parts, speed + parts), Cause.MAINS: Band(speed - feed, speed + feed),
            Cause.MOTOR: band,
        }  # fmt: skip
        rows.append(Stray(step.number, step.label, Band(max(0.0, speed - half), speed + half), alone))
    return tuple(rows)


def expected(fan: VoltFan, design: VoltsDesign | None, step: Step[VoltsSetting]) -> tuple[Expected, ...]:
    """Speed, volts at the fans, and the supply's amps."""
    if step.at is None or not step.bands:
        return ()
    return mapped_steps.expected(step, Expected(MOTOR_VOLTS, step.at, step.bands[MOTOR_VOLTS.key]))


def missed(fan: VoltFan, design: VoltsDesign | None, step: Step[VoltsSetting], miss: Missed) -> str:
    """What a miss points to: as if other volts fed it; a fan that stands."""
    if step.shown is None or step.at is None:
        return ""
    if miss.quantity is MOTOR_VOLTS:
        return ". Read the supply's own volts, and the drop of leads and plugs."
    if miss.quantity is not SPEED:
        return ". Does every fan turn? One that stands takes its starting amps."
    direct = fan.direct
    if miss.value == 0:
        return ": it stands. Give it full volts for a second; if it runs on then, it holds here but does not start."
    slope = (direct.full_voltage_v - direct.zero_v) / direct.full_speed_rpm
    like = direct.zero_v + slope * miss.value
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    once = "one reading at lowered volts replaces the usual line"
    return f", as if {q.plain(like)} V fed it. Read the volts at its leads; {once}.{tail}"


def where(fan: VoltFan, design: VoltsDesign, step: Step[VoltsSetting]) -> str:
    """What lies in the line at a step."""
    return step.label
