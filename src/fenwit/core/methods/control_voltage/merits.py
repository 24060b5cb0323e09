"""What a control voltage is compared by: watts of the whole fan, since its electronics do the regulating."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.mapped import merit_of
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.signal import ControlSetting
from fenwit.core.methods.control_voltage.steps import ideal
from fenwit.core.methods.seam import Compared
from fenwit.core.motor.analog import SPAN_V
from fenwit.core.size.merits import Failing, Merits, Piece, StepMerit


def compared(fan: ControlFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """One row: the supply stays whole, and a knob on the fan's own 10 V tells it its speed."""
    found = ideal(fan, state.wanted_rpm, glance)
    row = Merits(
        variant="",
        name="0–10 V on the control input",
        steps=tuple(_merit(fan, s) for s in found),
        unmet=tuple(s.need.reason if s.need and s.need.reason else "" for s in found),
        hottest="nothing outside the fan gets warm",
        hottest_w=0.0,
        slowest_rpm=fan.speeds.slowest_rpm,
        jump_rpm=fan.speeds.slowest_rpm,
        stepless=True,
        built_text="a potentiometer on the fan's own 10 V; supply whole",
        built_rpm=tuple(s.shown.speed_rpm if s.shown else 0.0 for s in found),
        pieces=((Piece.KNOB, 1), (Piece.SMALL_RESISTOR, 2), (Piece.FUSE, 1), (Piece.BOX, 1)),
        regulator_hum="none; the fan's own commutation",
        failures=(
            Failing("wire to the wiper off", _open(fan), ""),
            Failing("wire to 0 V off", _at(fan, fan.analog.reference_v), ""),
            Failing("wire to 10 V off", _at(fan, 0.0), ""),
        ),
        note="full torque at low speed; its electronics report alarm and take enable",
        unmodelled="harmonics of its rectifier: see its data",
    )
    return (Compared(row, found),)


def _open(fan: ControlFan) -> str:
    return {"stops": "stands", "holds": "its slowest", "full": "full speed"}[fan.analog.open_input.value]


def _at(fan: ControlFan, volts: float) -> str:
    """What it does at volts on its input, in words [V → -]"""
    rpm = float(fan.line.speed_rpm(np.array(min(volts, SPAN_V))))
    return f"about {rpm:.0f} rpm" if rpm else "stands"


def _merit(fan: ControlFan, step: Step[ControlSetting]) -> StepMerit | None:
    found = merit_of(fan, step, 0.0)
    if found is None or step.shown is None:
        return None
    amps = fan.amps(step.shown.speed_rpm)
    if amps is None:
        return found
    factor = min(1.0, found.input_power_w / (fan.supply_voltage_v * amps))
    return replace(found, line_current_a=amps, power_factor=factor)
