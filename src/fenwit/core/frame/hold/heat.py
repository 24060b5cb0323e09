"""A thermal curve worked out: an hour of load with one controller or one each, what it bears, what it says of itself."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import Asked
from fenwit.core.frame.hold.program import command_heading, command_text, program_rows
from fenwit.core.frame.hold.shown import (
    DRAWN,
    Advice,
    AdviceKind,
    CoolingShown,
    CurvePoint,
    Figure,
    HoldLine,
    KnobScale,
    LoadPiece,
    ProgramRow,
    RunFigures,
    SinkShown,
)
from fenwit.core.job.air import JobAir
from fenwit.core.job.commanded import IDLE_SHARE
from fenwit.core.job.hold import HeatSheet, Reaction
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.state import JobState, commanded_of
from fenwit.core.regulator.thermal import (
    Curve,
    Profile,
    Settled,
    ThermalRun,
    ThermalState,
    settled,
    thermal_run,
)


def heat_worked_out(state: JobState, job: Asked, sheet: HeatSheet) -> CoolingShown:
    """The curve over its load, each sink, and what a technician would change. Raises InputError beside the field."""
    fan = job.subject
    if not isinstance(fan, MappedFan):
        raise InputError("holds", "heat", "a fan with a command", "a curve needs a fan that takes a command")
    curve = sheet.curve
    least = fan.speeds.slowest_rpm / fan.full_rpm
    if curve.least < least * (1 - 1e-6):
        raise InputError(
            "minimum_speed",
            curve.least,
            f"at least {100 * least:.0f} %",
            "slower than this fan turns, or starts at",
        )
    warm = sheet.warmest_c if sheet.warmest_c is not None else sheet.ambient_c
    sinks, loads = [s.sink for s in sheet.sinks], [s.profile for s in sheet.sinks]
    _carried(sheet, warm)
    shared = thermal_run(sinks, curve, loads, sheet.ambient_c, sheet.total_s)
    alone = (
        [
            thermal_run([s], curve, [p], sheet.ambient_c, sheet.total_s)
            for s, p in zip(sinks, loads, strict=True)
        ]
        if len(sinks) > 1
        else []
    )
    shown = alone[0] if sheet.one_each and alone else shared
    times = np.linspace(0.0, sheet.total_s, DRAWN)
    air = job.air
    silent = _blank(shown, times)
    rows = []
    for i, one in enumerate(sheet.sinks):
        run = alone[i] if alone and sheet.one_each else shared
        line = run.sinks[i if run is shared else 0]
        limit = one.limit_c
        rest = None if limit is None else limit - line.worst_device_c
        rows.append(
            SinkShown(
                one.name or f"sink {i + 1}",
                HoldLine("sink", "°C", _on(times, shared, shared.sinks[i].sink_c)),
                HoldLine("sink", "°C", _on(times, alone[i], alone[i].sinks[0].sink_c)) if alone else None,
                f"sink {line.worst_sink_c:.1f} °C, device {line.worst_device_c:.1f} °C at worst",
                "" if rest is None else f"{abs(rest):.1f} K {'below' if rest >= 0 else 'above'} its limit",
                rest is None or rest >= 0,
                tuple(LoadPiece(p, t) for p, t in zip(one.profile.powers_w, one.profile.durations_s, strict=True)),
                tuple(
                    _steady_words(settled(one.sink, curve, p, sheet.ambient_c), p)
                    for p in dict.fromkeys(one.profile.powers_w)
                ),
            )
        )  # fmt: skip
    runs = [
        _figures("one controller, hottest sensor" if alone else "this controller", [shared], fan, air, state)
    ]
    if alone:
        runs.append(_figures("one each", alone, fan, air, state))
    never = any(settled(s, curve, 0.0, warm).never_stops for s in sinks)
    return CoolingShown(
        _curve_points(curve),
        curve.stop_c,
        least,
        tuple(float(t) for t in times),
        HoldLine("speed", "rpm", tuple(None if s is None else s * fan.full_rpm for s in silent)),
        HoldLine("load", "W", tuple(_load(loads[0], float(t)) for t in times)),
        shown.starts_s,
        shown.stops_s,
        tuple(rows),
        tuple(runs),
        _heat_advice(sheet, shown, rows, never, warm),
        _heat_figures(state, sheet, fan, air),
        _scales(sheet),
        tuple(
            ProgramRow(f"{r.temperature_c:.1f}", f"{100 * r.speed:.0f}", command_text(job, r))
            for r in program_rows(job, sheet)
        ),
        command_heading(job),
    )  # fmt: skip


def _carried(sheet: HeatSheet, warm: float) -> None:
    """Refuse a load that no fan carries: the mean of it at full speed ends beyond what the device bears."""
    for one in sheet.sinks:
        profile, sink = one.profile, one.sink
        mean = float(np.dot(profile.powers_w, profile.durations_s)) / profile.length_s
        at_full = warm + mean / sink.conductance(1.0) + mean * sink.device_k_w
        limit = one.limit_c if one.limit_c is not None else _MOST_C
        if at_full > limit:
            most = (limit - warm) / (1 / sink.conductance(1.0) + sink.device_k_w)
            name = one.name or "this sink"
            raise InputError(
                "sinks", mean, f"up to {q.plain(max(0.0, most), 2)} W on average",
                f"no fan carries it: {name} at full speed all the time reaches {at_full:.0f} °C",
            )  # fmt: skip


_MOST_C = 150.0
"""Of a device whose limit nobody typed [°C]"""


def _on(times: np.ndarray, run: ThermalRun, values: np.ndarray) -> tuple[float, ...]:
    return tuple(float(v) for v in np.interp(times, run.time_s, values))


def _blank(run: ThermalRun, times: np.ndarray) -> list[float | None]:
    """Speed over full at times; nothing while the fan stands."""
    at = np.clip(np.searchsorted(run.time_s, times, side="left"), 0, len(run.time_s) - 1)
    return [None if s <= 0 else float(s) for s in run.speed[at]]


def _load(profile: Profile, t: float) -> float:
    t = t % profile.length_s
    for power, length in zip(profile.powers_w, profile.durations_s, strict=True):
        if t < length:
            return power
        t -= length
    return profile.powers_w[-1]


def _steady_words(found: Settled, power_w: float) -> str:
    at = f"{q.show(power_w, q.POWER, 3)}: "
    if found.state is ThermalState.OFF:
        return f"{at}fan off, {found.sink_c:.1f} °C"
    if found.state is ThermalState.CYCLING:
        return f"{at}cycles, {found.on_s:.0f} s on, {found.off_s:.0f} s off"
    words = f"{at}{found.sink_c:.1f} °C at {100 * (found.speed or 0):.0f} %"
    return f"{words}, beyond full speed" if found.state is ThermalState.ABOVE_FULL else words


def _figures(
    name: str, runs: Sequence[ThermalRun], fan: MappedFan, air: JobAir, state: JobState
) -> RunFigures:
    off = float(np.mean([r.off_fraction for r in runs]))
    mean = float(np.mean([r.mean_speed for r in runs]))
    cube = float(np.mean([r.mean_cube for r in runs]))
    starts = sum(r.starts for r in runs)
    hours = runs[0].total_s / 3600
    worst = max(s.worst_device_c for r in runs for s in r.sinks)
    full = fan.rated_power_w
    energy = ""
    if full is not None:
        watts = full * len(runs) * (IDLE_SHARE * (1 - off) + (1 - IDLE_SHARE) * cube)
        energy = f"{q.plain(watts * 8.76, 2)} kWh a year"
    level = air.level_db(max(1e-6, mean / max(1e-6, 1 - off)) * fan.full_rpm) if off < 1 else None
    noise = "silent" if off > 0.999 else f"silent {100 * off:.0f} % of the time"
    if level is not None and off <= 0.999:
        noise += f", else about {level.middle:.0f} dB"
    return RunFigures(
        name, f"{starts / hours:.1f} an hour", f"{100 * off:.0f} %", f"{100 * mean:.0f} %", f"{worst:.1f} °C",
        energy, noise,
    )  # fmt: skip


def _curve_points(curve: Curve) -> tuple[CurvePoint, ...]:
    """Where its lines bend."""
    return (
        CurvePoint(curve.stop_c, curve.least), CurvePoint(curve.start_c, curve.least), CurvePoint(curve.full_c, 1.0),
        CurvePoint(curve.full_c + max(5.0, 0.2 * (curve.full_c - curve.start_c)), 1.0),
    )  # fmt: skip


def _heat_advice(
    sheet: HeatSheet, run: ThermalRun, rows: Sequence[SinkShown], never: bool, warm: float
) -> tuple[Advice, ...]:
    said: list[Advice] = []
    said += [
        Advice(
            AdviceKind.HOT,
            f"{r.name}: {r.margin_text}: a lower start or full, a larger sink, or the sensor nearer to the device",
        )
        for r in rows
        if not r.holds
    ]
    if run.cycles_per_hour > _OFTEN:
        words = f"it starts {run.cycles_per_hour:.0f} times an hour: more hysteresis, a lower least speed, or let it idle"
        said.append(Advice(AdviceKind.CYCLES, words))
    if never:
        words = (
            f"once on it never rests: at {warm:g} °C around it the air alone keeps it above where it stops"
        )
        said.append(Advice(AdviceKind.NEVER_STOPS, words))
    if not said:
        said.append(Advice(AdviceKind.WELL, "it holds, and rests when it may"))
    return tuple(said)


_OFTEN = 12.0
"""Starts an hour that are heard, and wear [1/h]"""


def _heat_figures(state: JobState, sheet: HeatSheet, fan: MappedFan, air: JobAir) -> tuple[Figure, ...]:
    known, rows = state.commanded, []
    level = air.level_db(sheet.curve.least * fan.full_rpm)
    if level is not None:
        rows.append(Figure("noise at its least speed", f"{level.middle:.0f} dB"))
    where = {"full": "full speed", "least": "its least speed", "stops": "stops"}[sheet.reaction.value]
    rows.append(
        Figure(
            "sensor lost or shorted", f"{where}; a thermal switch at the limit stays in series whatever happens",
            None if sheet.reaction is Reaction.FULL else False,
        )
    )  # fmt: skip
    facts = commanded_of(state)
    if not isinstance(facts, tuple) and facts.full_a is not None:
        starting = facts.full_a * known.fans * max(1.0, known.start_ratio)
        limit = known.limit_a
        text = f"{q.show(starting, q.CURRENT, 2)} when all start"
        if limit is not None:
            text += f", of {q.show(limit * known.groups, q.CURRENT)} that its supply gives"
        rows.append(
            Figure("amps of all its fans", text, None if limit is None else starting <= limit * known.groups)
        )
    return tuple(rows)


def _scales(sheet: HeatSheet) -> tuple[KnobScale, ...]:
    if not sheet.turned:
        return ()
    k = sheet.knobs
    ends = (("start", k.start_low_c, k.start_high_c), ("full", k.full_low_c, k.full_high_c))
    return tuple(
        KnobScale(name, tuple(float(v) for v in np.linspace(low, high, 7))) for name, low, high in ends
    )
