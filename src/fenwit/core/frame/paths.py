"""Power from supply to air at each step."""

from __future__ import annotations

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.frame.fan import Fan
from fenwit.core.frame.shown import Path
from fenwit.core.frame.steps import Step, in_the_line, shown
from fenwit.core.load import flow_share, level_change_db
from fenwit.core.motor.machine import relative_rise
from fenwit.core.regulator.knob import PhasePoint
from fenwit.core.regulator.phase import Conduction


def path(fan: Fan, step: Step) -> Path:
    """One step as a flow of power; a step that may not be used has no numbers."""
    point = step.shown_point
    name = in_the_line(step)
    if point is None:
        return Path(
            step=step.number,
            runs=False,
            note=step.reasons[0] if step.reasons else "does not run",
            supply_w=0,
            regulator_loss_w=0,
            motor_loss_w=0,
            friction_w=0,
            air_w=0,
            supply=(q.show(fan.supply.voltage_v, q.VOLTAGE),),
            regulator_name=name,
            regulator=(),
            motor=(),
            motor_loss_text="",
            blades=(),
            air=(),
            warning="",
        )
    full, bands = fan.full, step.bands
    n, share = point.speed_rpm, point.speed_rpm / full.speed_rpm
    friction = min(float(fan.belief.load.friction_nm) * n * 2 * np.pi / 60, point.shaft_power_w)
    rise = relative_rise(point.motor_loss_w / full.motor_loss_w, share)
    volts = shown(point.motor_voltage_v, bands.motor_voltage_v if bands else None, "V")
    amps = shown(point.line_current_a, bands.line_current_a if bands else None, "mA", 1000.0)
    watts = shown(point.input_power_w, bands.input_power_w if bands else None, "W")
    loss = shown(point.motor_loss_w, bands.motor_loss_w if bands else None, "W")
    speed = shown(n, bands.speed_rpm if bands else None, "rpm")
    warning = f"winding rise {rise:.2g} × that at full speed" if rise > 1.0 + 1e-6 else ""
    if bands and bands.may_exceed > 0.02:
        warning = f"{100 * bands.may_exceed:.0f} in 100 such motors would pass {fan.motor_limit_v:.0f} V"
    return Path(
        step=step.number,
        runs=True,
        note=step.reasons[0] if step.reasons else "",
        supply_w=point.input_power_w,
        regulator_loss_w=point.series_loss_w,
        motor_loss_w=point.motor_loss_w,
        friction_w=friction,
        air_w=point.shaft_power_w - friction,
        supply=(q.show(fan.supply.voltage_v, q.VOLTAGE), watts.text, f"pf {point.power_factor:.2f}"),
        regulator_name=name,
        regulator=_triac(step.fired)
        if step.fired
        else (
            (f"{q.plain(point.series_voltage_v)} V across", f"{q.plain(point.series_loss_w, 2)} W heat")
            if abs(step.impedance_ohm) > 1.0
            else ("nothing in the line",)
        ),
        motor=(volts.text, amps.text, f"slip {100 * point.slip:.0f} %"),
        motor_loss_text=f"{loss.text} stays as heat",
        blades=(speed.text, f"{q.plain(point.torque_nm, 2)} N·m"),
        air=(f"{100 * flow_share(share):.0f} % of flow", decibels(share)),
        warning=warning,
    )


def _triac(point: PhasePoint) -> tuple[str, ...]:
    """What the regulator's place says of a triac."""
    ends = (
        "conducts throughout"
        if point.conduction is Conduction.FULL
        else f"current ends {point.extinction_angle_deg:.0f}°"
    )
    return ends, f"{q.plain(point.series_loss_w, 2)} W heat", f"THD {100 * point.current_thd:.0f} %"


def decibels(speed_share: float) -> str:
    """Change of noise against full speed."""
    change = round(level_change_db(speed_share))
    return f"{change:+d} dB".replace("-", "−") if change else "0 dB"
