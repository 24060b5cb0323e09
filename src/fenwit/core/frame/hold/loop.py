"""A loop worked out: over a move of the damper, against the other things it might hold, with its margin."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.hold.program import REACTIONS
from fenwit.core.frame.hold.shown import (
    DRAWN,
    Advice,
    AdviceKind,
    Figure,
    HoldLine,
    LoopShown,
    OtherWay,
    TunedShown,
)
from fenwit.core.job.air import JobAir
from fenwit.core.job.hold import LoopSheet
from fenwit.core.job.state import JobState
from fenwit.core.load.cone import cone_flow_m3_h, cone_pressure_pa, flow_per_pa_m3_h
from fenwit.core.load.curve import Air, FanCurve
from fenwit.core.regulator.loop import (
    Controller,
    Held,
    LoopRun,
    Margin,
    Tuned,
    loop_run,
    margin,
    plant,
    step_test,
    tuned,
)
from fenwit.core.regulator.sensor import Sensor, SensorState

_SLOW_S, _OVER = 30.0, 0.10
"""Settling, and overshoot over the set point, worth a word [s, -]"""
SAFE_GAIN = 0.5
"""Of the gain at which a loop swings on by itself, that leaves room for what is not known [-]"""


def missing_words(air: JobAir, sheet: LoopSheet) -> str:
    """What a loop needs before it can be worked out; empty where nothing [-]"""
    if air.fans is None:
        return "Needs the fan's curve and one working point of the system: type them in Aim, under air."
    if sheet.set_point is None:
        return "Needs a set point."
    return ""


def at_full_speed(air: JobAir) -> Air:
    """Fans on their system, with the curve as it is at full speed [-]"""
    fans = air.fans
    assert fans is not None
    ratio = air.full_rpm / (air.sheet.curve_rpm or air.full_rpm)
    if ratio == 1:
        return fans
    c = fans.curve
    scaled = FanCurve(
        tuple(f * ratio for f in c.flows_m3_s), tuple(p * ratio**2 for p in c.pressures_pa),
        tuple(w * ratio**3 for w in c.shafts_w), c.density_kg_m3,
    )  # fmt: skip
    return replace(fans, curve=scaled)


_UNIT = {Held.FLOW: ("m³/h", 3600.0), Held.PRESSURE: ("Pa", 1.0), Held.SPEED: ("m³/h", 3600.0)}


def loop_worked_out(state: JobState, air: JobAir, sheet: LoopSheet) -> LoopShown:
    """The loop over its damper, and what a technician would change. Raises InputError beside the field."""
    fans, analog = at_full_speed(air), state.commanded.analog
    assert sheet.set_point is not None
    controller = sheet.controller(analog.follows_s, analog.ramps_per_s)
    _safe_minimum(air, sheet)
    run = loop_run(fans, sheet.held, sheet.set_point, controller, sheet.damper, sheet.total_s)
    unit, scale = _UNIT[sheet.held]
    # Every sample of a short run, every so many of a long one.
    every = max(1, len(run.time_s) // DRAWN)
    moves = tuple(
        t for t in (sheet.damper.at_s, sheet.damper.back_at_s) if t is not None and t <= sheet.total_s
    )
    found = margin(fans, sheet.held, sheet.set_point, controller) if sheet.held is not Held.SPEED else None
    tested = _tested(fans, sheet, controller)
    return LoopShown(
        tuple(float(t) for t in run.time_s[::every]),
        HoldLine("held", unit, tuple(float(v) * scale for v in run.held[::every])),
        HoldLine("sensed", unit, tuple(float(v) * scale for v in run.sensed[::every])),
        HoldLine("speed", "rpm", tuple(float(v) * air.full_rpm for v in run.speed[::every])),
        run.set_point * scale,
        moves,
        _loop_figures(run, air, found, unit, scale),
        _loop_advice(run, fans, sheet, controller, found, tested, scale, unit),
        _others(fans, air, sheet, controller, run),
        _tuned_shown(tested) if tested else None,
        _sensor_words(state, air, sheet),
    )  # fmt: skip


def _safe_minimum(air: JobAir, sheet: LoopSheet) -> None:
    """Refuse a loop that may go below the air that safety asks for."""
    least = air.least_rpm
    if least is None:
        return
    if sheet.least * air.full_rpm < least * (1 - 1e-6):
        raise InputError(
            "minimum_speed", sheet.least, f"at least {100 * least / air.full_rpm:.1f} %",
            f"{air.least_words}: the loop may not turn the fan lower",
        )  # fmt: skip


def _tested(fans: Air, sheet: LoopSheet, controller: Controller) -> Tuned | None:
    if sheet.held is Held.SPEED:
        return None
    try:
        times, values, span = step_test(fans, sheet.held, controller)
        return tuned(times, values, span, 0.1)
    except InputError:
        return None


def _tuned_shown(found: Tuned) -> TunedShown:
    words = f"from 60 to 70 %: gain {found.process_gain:.2f}, lag {found.time_s:.1f} s, delay {found.delay_s:.1f} s"
    return TunedShown(
        f"{found.gain_kp:.2f}", f"{found.integral_s:.1f} s", words, found.gain_kp, found.integral_s
    )


def _loop_figures(
    run: LoopRun, air: JobAir, found: Margin | None, unit: str, scale: float
) -> tuple[Figure, ...]:
    settles = "never" if run.settling_s is None else f"{run.settling_s:.1f} s"
    rows = [
        Figure("speed", f"{run.start_speed * air.full_rpm:.0f} → {run.final_speed * air.full_rpm:.0f} rpm"),
        Figure("worst deviation", f"{100 * run.peak_deviation:+.1f} %".replace("-", "−")),
        Figure("overshoot", f"{100 * run.overshoot:.1f} %", run.overshoot <= _OVER),
        Figure("settled within 2 % after", settles, run.settling_s is not None and run.settling_s <= _SLOW_S),
        Figure("flow at the end", f"{3600 * run.final_flow_m3_s:.0f} m³/h"),
        Figure("system pressure at the end", f"{run.final_pressure_pa:.0f} Pa"),
    ]
    if found is not None:
        critical = "above 10 000" if not np.isfinite(found.critical_gain) else f"{found.critical_gain:.2g}"
        rows.append(Figure("swings on by itself from a gain of", critical, found.stable))
    return tuple(rows)


def _loop_advice(
    run: LoopRun, fans: Air, sheet: LoopSheet, controller: Controller, found: Margin | None, tested: Tuned | None,
    scale: float, unit: str,
) -> tuple[Advice, ...]:  # fmt: skip
    said: list[Advice] = []
    if sheet.reversed and sheet.held is not Held.SPEED:
        words = "its sensor is the wrong way round: more speed reads as less. No gain makes that stable: change its tubes"
        return (Advice(AdviceKind.UNSTABLE, words),)
    if found is not None and not found.stable:
        most = SAFE_GAIN * found.critical_gain
        words = (
            f"no rest with a gain of {sheet.gain_kp:g}: at most {q.plain(most, 2)}, or a longer integral time"
        )
        said.append(Advice(AdviceKind.UNSTABLE, words))
    if run.hunting:
        longer = f"; integral time {tested.integral_s:.1f} s, gain {tested.gain_kp:.2f}" if tested else ""
        words = f"it hunts: less gain, a longer integral time{longer}; look for a damper that sticks, a tap in turbulence"
        said.append(Advice(AdviceKind.HUNTS, words))
    if run.saturated:
        most = run.final_flow_m3_s * 3600 if sheet.held is Held.FLOW else run.final_pressure_pa
        unit = "m³/h" if sheet.held is Held.FLOW else "Pa"
        words = f"the fan runs full and gives {q.plain(most, 3)} {unit}: no setting gives more"
        said.append(Advice(AdviceKind.SATURATED, words))
    if not sheet.clamped:
        clamped = loop_run(
            fans,
            sheet.held,
            sheet.set_point or 0.0,
            replace(controller, clamped=True),
            sheet.damper,
            sheet.total_s,
        )
        mine, other = run.settling_s, clamped.settling_s
        if other is not None and (mine is None or mine > other + sheet.sample_s):
            late = "never" if mine is None else f"after {mine:.1f} s"
            words = f"the integral winds up: settled {late}, with a clamp after {other:.1f} s"
            said.append(Advice(AdviceKind.WINDS_UP, words))
    settles = run.settling_s
    if not run.hunting and not run.saturated and (settles is None or settles > _SLOW_S):
        words = "slow: more gain, or a shorter integral time"
        if tested:
            words += f"; by its step {tested.gain_kp:.2f} and {tested.integral_s:.1f} s"
        said.append(Advice(AdviceKind.SLOW, words))
    if not run.hunting and run.overshoot > _OVER:
        said.append(Advice(AdviceKind.OVERSHOOTS, "it swings over: a longer integral time"))
    if (
        found is not None
        and found.stable
        and sheet.gain_kp > SAFE_GAIN * found.critical_gain
        and not run.hunting
    ):
        words = f"a gain of {found.critical_gain:.2g} would swing on: little is left for what is not known"
        said.append(Advice(AdviceKind.HUNTS, words))
    if not said:
        said.append(Advice(AdviceKind.WELL, "it settles, without swinging over"))
    return tuple(said)


def _others(
    fans: Air, air: JobAir, sheet: LoopSheet, controller: Controller, run: LoopRun
) -> tuple[OtherWay, ...]:
    """The same damper with each of the three things held, from the same start."""
    start = plant(fans)
    flow, pressure = start.flow_m3_s(run.start_speed), start.pressure_pa(run.start_speed)
    goals = {Held.SPEED: run.start_speed, Held.FLOW: flow, Held.PRESSURE: pressure}
    names = {Held.SPEED: "constant speed", Held.FLOW: "constant flow", Held.PRESSURE: "constant pressure"}
    damper = replace(sheet.damper, back_at_s=None, at_s=0.0)
    rows = []
    for held, goal in goals.items():
        if goal <= 0:
            continue
        try:
            # A loop slow enough to be stable everywhere: only where it ends is looked at.
            calm = replace(controller, gain_kp=0.2, integral_s=5.0, reversed=False, clamped=True, least=0.0)
            end = loop_run(fans, held, goal, calm, damper, 600.0)
        except InputError:
            continue
        rows.append(
            OtherWay(
                names[held],
                f"{run.start_speed * air.full_rpm:.0f} rpm, {3600 * flow:.0f} m³/h, {pressure:.0f} Pa",
                f"{end.final_speed * air.full_rpm:.0f} rpm, {3600 * end.final_flow_m3_s:.0f} m³/h, "
                f"{end.final_pressure_pa:.0f} Pa",
            )
        )  # fmt: skip
    return tuple(rows)


def _sensor_words(state: JobState, air: JobAir, sheet: LoopSheet) -> tuple[str, ...]:
    sensor, analog = sheet.sensor, state.commanded.analog
    scale = sensor.scale
    said: list[str] = []
    density = air.sheet.density_kg_m3
    if sheet.held is Held.FLOW and sheet.set_point is not None:
        if sensor.cone_factor is None:
            said.append("the factor of its inlet cone is not typed: flow cannot be read from pressure")
        else:
            pressure = cone_pressure_pa(sensor.cone_factor, 3600 * sheet.set_point, density)
            said.append(_at(scale, pressure, f"{3600 * sheet.set_point:.0f} m³/h"))
            off = sensor.error_share * (sensor.high_pa - sensor.low_pa)
            for name, part in (("the set point", 1.0), ("a third of it", 1 / 9)):
                at = pressure * part
                wrong = flow_per_pa_m3_h(sensor.cone_factor, at, density) * off
                flow = cone_flow_m3_h(sensor.cone_factor, at, density)
                said.append(
                    f"at {name} {q.plain(at, 2)} Pa: ± {q.plain(off, 2)} Pa of the sensor "
                    f"are ± {q.plain(100 * wrong / flow, 2)} % of the flow"
                )
            said.append(
                "its pressure goes with the square of the flow: take the root before the controller, "
                "or tune at the highest flow"
            )
    elif sheet.held is Held.PRESSURE and sheet.set_point is not None:
        said.append(_at(scale, sheet.set_point, f"{sheet.set_point:.0f} Pa"))
    if sheet.held is not Held.SPEED:
        zero = (
            f"below {sensor.range_low_v - 0.05 * (sensor.range_high_v - sensor.range_low_v):.2g} V a wire is off"
            if scale.live_zero
            else "no live zero: a broken wire reads as nothing; take it for broken "
            "when it reads 0 for 10 s above half speed"
        )
        said.append(f"{zero}; then {REACTIONS[sheet.reaction]}")
        supply, limit = (
            (f"{analog.aux_v:g} V output", analog.aux_a)
            if sensor.supply_v >= 15
            else (f"{analog.reference_v:g} V output", analog.gives_a)
        )
        takes = q.show(sensor.takes_a, q.CURRENT, 2)
        if limit is None:
            said.append(f"it takes {takes} of the fan's {supply}, whose limit is not typed")
        else:
            word = "within" if sensor.takes_a <= limit else "more than"
            said.append(f"it takes {takes} of the fan's {supply}: {word} its {q.show(limit, q.CURRENT)}")
    return tuple(said)


def _at(scale: Sensor, pressure: float, what: str) -> str:
    share = (pressure - scale.value_low) / (scale.value_high - scale.value_low)
    volts = scale.range_low_v + share * (scale.range_high_v - scale.range_low_v)
    state = scale.state(volts)
    if state is SensorState.HIGH:
        return f"{what} would be {q.plain(pressure, 3)} Pa: beyond its range"
    return f"{what} is {q.plain(pressure, 3)} Pa, {volts:.2f} V from the sensor"
