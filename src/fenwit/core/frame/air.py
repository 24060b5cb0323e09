"""Air as it is shown: at the path's end, beside each wanted step, and as fan and system over the flow."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import Asked, known
from fenwit.core.job.air import AirSheet, JobAir, Span
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import FULL_SHARE, Place, Step, Told
from fenwit.core.load.curve import Air
from fenwit.core.load.dead import Group
from fenwit.core.methods.seam import Zone, ZoneKind

HOURLY = 3600.0
_EDGE = 1e-6
_LAW_TOLD = 0.03
"""By how much plain fan laws must be out before it is said [-]"""


def air_of(asked: Asked) -> JobAir:
    """The air of a job whose fan is known."""
    return asked.air


def span_text(span: Span, unit: str) -> str:
    """A value with its band, to the digits it is known to."""
    half = (span.high - span.low) / 2
    return q.with_uncertainty(span.middle, max(half, 0.01 * abs(span.middle)), unit)


def place_with_air(air: JobAir, place: Place, speed_rpm: float, low_rpm: float, high_rpm: float) -> Place:
    """The path's last place with flow, pressure and noise as far as they are known.

    Parameters
    ----------
    air : JobAir
        What is known [-]
    place : Place
        As the fan laws alone tell it [-]
    speed_rpm : float
        Of the step [rpm]
    low_rpm : float
        Low end of its band [rpm]
    high_rpm : float
        High end [rpm]

    Returns
    -------
    Place
        Its values replaced where more is known [-]

    Raises
    ------
    InputError
        A working point beyond the curve.
    """
    flow = air.flow_m3_s(speed_rpm, low_rpm, high_rpm)
    if flow is None:
        return place
    if flow.middle <= 0:
        words = Told("no air: the fixed pressure is above what it makes", "flow")
        return replace(place, values=(Told("0 m³/h", "flow"),), warning=words)
    values = [Told(span_text(flow.scaled(HOURLY), "m³/h"), "flow")]
    pressure = air.pressure_pa(flow)
    if pressure is not None:
        values.append(Told(span_text(pressure, "Pa")))
    level = air.level_db(speed_rpm)
    if level is not None:
        values.append(Told(span_text(level, "dB"), "noise"))
    else:
        # What the fan laws say of the noise stays.
        values += [t for t in place.values if t.why == "noise"]
    rise = air.rise_k(flow)
    if rise is not None:
        values.append(Told(f"{span_text(rise, 'K')} warmer"))
    stalled = air.fans is not None and _stalled(air.fans, air.curve_share(speed_rpm))
    warning = Told("in stall: loud and unsteady", "flow") if stalled else place.warning
    return replace(place, values=tuple(values), warning=warning)


def _stalled(fans: Air, share: float) -> bool:
    point = fans.reached(share).point
    return point is not None and point.stalled


def beside(air: JobAir, speed_rpm: float, heated: bool = True) -> str:
    """The other ways to say a speed, in one line: flow, pressure, rise, level; empty where nothing is known.

    ``heated``: whether the air is warmed at that speed; where it is not, nothing is said of a rise.
    """
    flow = air.flow_m3_s(speed_rpm)
    said = []
    if flow is not None:
        if flow.middle <= 0:
            return "no air"
        said.append(f"{q.plain(flow.middle * HOURLY)} m³/h")
        pressure, rise = air.pressure_pa(flow), air.rise_k(flow)
        if pressure is not None:
            said.append(f"{q.plain(pressure.middle)} Pa")
        if rise is not None and heated:
            said.append(f"+{q.plain(rise.middle)} K")
    level = air.level_db(speed_rpm)
    if level is not None:
        said.append(f"{q.plain(level.middle, 2)} dB")
    return " · ".join(said)


def avoid_zones(air: JobAir) -> tuple[Zone, ...]:
    """Speeds to keep away from: too little air for safety, or blades that sound near a resonance."""
    found = [Zone(low, high, f"avoid: {words}", ZoneKind.AVOID) for low, high, words in air.avoided()]
    if air.least_rpm is not None:
        found.append(Zone(0.0, air.least_rpm, "less air than safety asks for", ZoneKind.UNSAFE))
    return tuple(found)


def avoid_words(air: JobAir, speed_rpm: float) -> str:
    """Why a speed is one to avoid, with the nearest that are not; empty where it is good."""
    zones = air.avoided()
    if not any(low < speed_rpm < high for low, high, _ in zones):
        return ""
    words = next(w for low, high, w in zones if low < speed_rpm < high)
    low = high = speed_rpm
    for start, end, _ in sorted(zones, reverse=True):
        low = start if start < low < end else low
    for start, end, _ in zones:
        high = end if start < high < end else high
    nearest = [f"{np.floor(low + _EDGE):.0f}"]
    if high < FULL_SHARE * air.full_rpm:
        nearest.append(f"{np.ceil(high - _EDGE):.0f}")
    return f"{words}: avoid; nearest {' or '.join(nearest)} rpm"


_EDGE = 1e-6
"""An end that is whole but for its last digits is the end itself [rpm]"""


# ---------------------------------------------------------------- the tab in Aim


@dataclass(frozen=True)
class FanLine:
    """Pressure over flow of the fans at one speed."""

    step: int | None
    """None: full speed [-]"""
    speed_rpm: float
    flows_m3_h: tuple[float, ...]
    pressures_pa: tuple[float, ...]


@dataclass(frozen=True)
class AirPoint:
    """Where fans and system agree."""

    step: int | None
    flow_m3_h: float
    pressure_pa: float
    stable: bool
    stalled: bool
    reached: bool
    """From still air; the others hold only coming from elsewhere [-]"""


@dataclass(frozen=True)
class AirRow:
    """Air at one step."""

    step: int | None
    speed_text: str
    flow_text: str
    pressure_text: str
    level_text: str
    rise_text: str
    law_text: str
    """By how much the plain fan law is out; empty where it is not [-]"""
    shaft_text: str
    note: str
    """Stall, no air, a speed to avoid [-]"""


@dataclass(frozen=True)
class LeftRow:
    """What is left of the air where some of the fans stand and the others run at full speed."""

    text: str
    flow_text: str
    share_text: str
    """Over the flow while all of them run [-]"""
    back_text: str
    """Through each that stands; empty where a shutter falls shut [-]"""


@dataclass(frozen=True)
class AirShown:
    """What is known of the air, at every step."""

    missing: str = ""
    """What must be known of the fan first [-]"""
    refused: str = ""
    density_text: str = ""
    exponent_text: str = ""
    lines: tuple[FanLine, ...] = ()
    system_m3_h: tuple[float, ...] = ()
    system_pa: tuple[float, ...] = ()
    stall_m3_h: float = 0.0
    """Flow at full speed left of which it stalls [m³/h]"""
    points: tuple[AirPoint, ...] = ()
    rows: tuple[AirRow, ...] = ()
    left: tuple[LeftRow, ...] = ()
    warnings: tuple[str, ...] = ()
    """What is wrong at any speed [-]"""
    unknown: tuple[str, ...] = ()
    """What is not known, and how it would be [-]"""


_DRAWN = 61


def air_shown(state: JobState) -> AirShown:
    """Air of a job at full speed and every step.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    AirShown
        As far as it is known [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    density = f"{q.plain(state.air.density_kg_m3, 4)} kg/m³"
    job = known(state)
    if job is None:
        return AirShown(missing="full speed of the fan", density_text=density)
    air = air_of(job)
    steps = job.steps()
    at: list[tuple[int | None, float, Step[Any] | None]] = [(None, job.full_rpm, None)]
    at += [(s.number, s.shown.speed_rpm, s) for s in steps if s.shown]
    try:
        rows = tuple(_row(air, number, rpm, step) for number, rpm, step in at)
        points = tuple(p for number, rpm, _ in at for p in _points(air, number, rpm))
    except InputError as error:
        return AirShown(refused=error.reason, density_text=density)
    found = AirShown(
        density_text=density,
        exponent_text=_exponent(job, air),
        rows=rows,
        points=points,
        warnings=air.steady_tones(),
        unknown=_unknown(air),
    )
    fans = air.fans
    if fans is None:
        return found
    lines = tuple(_line(fans, number, rpm, air) for number, rpm, _ in at)
    left = left_rows(state, fans, air.curve_share(job.full_rpm))
    widest = max(line.flows_m3_h[-1] for line in lines)
    flows = np.linspace(0.0, widest / HOURLY, _DRAWN)
    pressures = fans.system.pressure_at_pa(flows, fans.density_kg_m3)
    return replace(
        found,
        lines=lines,
        left=left,
        system_m3_h=tuple(float(f) for f in flows * HOURLY),
        system_pa=tuple(float(p) for p in pressures),
        stall_m3_h=fans.curve.stall_flow_m3_s * fans.parallel * air.curve_share(job.full_rpm) * HOURLY,
    )


def air_lines(shown: AirShown) -> tuple[str, ...]:
    """Air of a job in words, for paper: every step, and what is left where fans stand; empty where nothing is known."""
    lines = []
    for row in shown.rows:
        values = [
            row.flow_text,
            row.pressure_text,
            row.rise_text and f"{row.rise_text} warmer",
            row.level_text,
        ]
        if not any(values):
            continue
        name = "full speed" if row.step is None else f"step {row.step}"
        notes = [row.law_text and f"by plain fan laws {row.law_text}", row.note]
        said = "; ".join([", ".join(v for v in values if v), *(n for n in notes if n)])
        lines.append(f"{name}, {row.speed_text}: {said}")
    for left in shown.left:
        back = f", {left.back_text} flow back through each of them" if left.back_text else ""
        lines.append(f"{left.text}: {left.flow_text} are left, {left.share_text}{back}")
    return (*lines, *shown.warnings)


def left_rows(state: JobState, fans: Air, share: float) -> tuple[LeftRow, ...]:
    """What is left when one fan stands, and when one of the supplies is dead, with what flows back.

    Parameters
    ----------
    state : JobState
        The job; how many supplies share its fans, and whether shutters fall shut [-]
    fans : Air
        Fans and system [-]
    share : float
        Full speed over that of the curve [-]

    Returns
    -------
    tuple of LeftRow
        Empty for a fan alone, and for fans one behind the other [-]

    Raises
    ------
    InputError
        The working point lies beyond the curve.
    """
    count, groups = fans.parallel, state.commanded.groups
    if count < 2 or fans.series > 1:
        return ()
    dead = {1: f"1 of {count} fans stands"}
    each = -(-count // groups)
    if groups > 1 and 1 < each < count:
        dead[each] = f"1 of {groups} supplies is dead: {each} of {count} fans stand"
    found = []
    for standing, text in dead.items():
        left = Group(fans, count - standing, standing, state.commanded.shutters).left(share)
        back = "" if left.back_flow_m3_s <= 0 else f"{q.plain(left.back_flow_m3_s * HOURLY)} m³/h"
        found.append(
            LeftRow(text, f"{q.plain(left.flow_m3_s * HOURLY)} m³/h", f"{100 * left.share:.0f} %", back)
        )
    return tuple(found)


def _line(fans: Air, number: int | None, rpm: float, air: JobAir) -> FanLine:
    share = air.curve_share(rpm)
    flows = np.linspace(0.0, fans.free_m3_s(share), _DRAWN)
    return FanLine(
        number,
        rpm,
        tuple(float(f) for f in flows * HOURLY),
        tuple(float(p) for p in fans.fan_pa(flows, share)),
    )


def _points(air: JobAir, number: int | None, rpm: float) -> list[AirPoint]:
    if air.fans is None:
        return []
    at = air.fans.reached(air.curve_share(rpm))
    found = [] if at.point is None else [(at.point, True)]
    found += [(p, False) for p in at.others]
    return [
        AirPoint(number, p.flow_m3_s * HOURLY, p.pressure_pa, p.stable, p.stalled, reached)
        for p, reached in found
    ]


def _row(air: JobAir, number: int | None, rpm: float, step: Step[Any] | None) -> AirRow:
    band = step.speed_band if step is not None else None
    low, high = (band.low, band.high) if band else (rpm, rpm)
    flow = air.flow_m3_s(rpm, low, high)
    level = air.level_db(rpm)
    law_text = shaft_text = ""
    notes = [avoid_words(air, rpm)] if number is not None else []
    pressure = rise = None
    if flow is not None and flow.middle > 0:
        pressure, rise = air.pressure_pa(flow), air.rise_k(flow)
        law = air.law_flow_m3_s(rpm)
        if law is not None and abs(law / flow.middle - 1) > _LAW_TOLD:
            law_text = f"{q.plain(law * HOURLY)} m³/h, {q.signed(100 * (law / flow.middle - 1))} %"
    if air.fans is not None:
        reached = air.fans.reached(air.curve_share(rpm))
        if reached.shaft_w is not None:
            shaft_text = f"{q.plain(reached.shaft_w)} W"
        if reached.point is None:
            notes.append("no air: the fixed pressure is above what it makes")
        elif reached.point.stalled:
            notes.append("in stall: loud, unsteady, it may overload")
        held = [p for p in reached.others if p.stable and reached.point]
        if held:
            flows = " or ".join(q.plain(p.flow_m3_s * HOURLY) for p in held)
            notes.append(f"coming down from full speed it may hold {flows} m³/h")
    return AirRow(
        number,
        f"{rpm:.0f} rpm",
        "" if flow is None else span_text(flow.scaled(HOURLY), "m³/h") if flow.middle > 0 else "none",
        "" if pressure is None else span_text(pressure, "Pa"),
        "" if level is None else span_text(level, "dB"),
        "" if rise is None else span_text(rise, "K"),
        law_text,
        shaft_text,
        "; ".join(n for n in notes if n),
    )


def _exponent(job: Asked, air: JobAir) -> str:
    found = air.load_exponent()
    if found is None or not isinstance(job.subject, MachineFan):
        return ""
    return f"torque goes with speed to the power {found[0]:.2f}, by curve and system: the motor is computed with it"


def _unknown(air: JobAir) -> tuple[str, ...]:
    sheet = air.sheet
    found = []
    if sheet.curve is None or sheet.system is None:
        known_flow = air.full_flow_m3_s is not None
        found.append(
            "flow follows the plain fan law"
            + (" from what is known at full speed" if known_flow else " as a share only")
            + ": fan curve and one working point of the system would tell it truly"
        )
    if sheet.full_level_db is None:
        found.append("noise is told against full speed: its level there is not known")
    if sheet.resonances_hz and sheet.blades is None and sheet.motor_poles is None:
        found.append(
            "the number of blades is missing: without it no speed can be held against the resonances"
        )
    if sheet.altitude_m is None:
        found.append("density is taken as 1.2 kg/m³: altitude and temperature are not typed")
    return tuple(found)


def check_air(state: JobState, sheet: AirSheet) -> None:
    """Refuses a sheet whose working point at full speed lies beyond its curve, beside the field that is to be mended."""
    job = known(replace(state, air=AirSheet()))
    if job is None:
        return
    try:
        _ = JobAir(sheet, job.full_rpm).full_flow_m3_s
    except InputError as error:
        raise InputError(f"air.{error.field}", error.value, error.allowed, error.reason) from None
