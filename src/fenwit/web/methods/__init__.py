"""The door of every way of regulating: how its designs are typed and read; nobody else here knows one by name."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from fenwit.web.methods.chopped_supply import CHOPPED_SUPPLY, ChopEdit
from fenwit.web.methods.control_voltage import CONTROL_VOLTAGE, ControlDesignEdit
from fenwit.web.methods.dc_voltage import DC_VOLTAGE, VoltsEdit
from fenwit.web.methods.phase_angle import PHASE_ANGLE, PhaseEdit
from fenwit.web.methods.pwm import PWM, DutyDesignEdit
from fenwit.web.methods.seam import Door
from fenwit.web.methods.series_capacitor import SERIES_CAPACITOR, BankEdit
from fenwit.web.methods.series_resistor import SERIES_RESISTOR, ResistorsEdit
from fenwit.web.methods.stepped_voltage import STEPPED_VOLTAGE, SteppedEdit
from fenwit.web.methods.winding_tap import WINDING_TAP, TapsEdit

DesignEdit = Annotated[
    BankEdit
    | ResistorsEdit
    | PhaseEdit
    | SteppedEdit
    | TapsEdit
    | DutyDesignEdit
    | VoltsEdit
    | ChopEdit
    | ControlDesignEdit,
    Field(discriminator="method"),
]
"""A design as typed, by any method"""
DOORS: tuple[Door, ...] = (
    SERIES_CAPACITOR,
    SERIES_RESISTOR,
    PHASE_ANGLE,
    STEPPED_VOLTAGE,
    WINDING_TAP,
    PWM,
    DC_VOLTAGE,
    CHOPPED_SUPPLY,
    CONTROL_VOLTAGE,
)


def door_of(method: str) -> Door:
    """The door of a method that is sized here."""
    return next(d for d in DOORS if d.key == method)
