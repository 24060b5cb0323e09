"""Every way of regulating that is sized here, each a room of its own; nobody above knows one by name."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fenwit.core.errors import InputError
from fenwit.core.methods.chopped_supply import CHOPPED_SUPPLY
from fenwit.core.methods.control_voltage import CONTROL_VOLTAGE
from fenwit.core.methods.dc_voltage import DC_VOLTAGE
from fenwit.core.methods.phase_angle import PHASE_ANGLE
from fenwit.core.methods.pwm import PWM
from fenwit.core.methods.seam import Regulation
from fenwit.core.methods.series_capacitor import SERIES_CAPACITOR
from fenwit.core.methods.series_resistor import SERIES_RESISTOR
from fenwit.core.methods.stepped_voltage import STEPPED_VOLTAGE
from fenwit.core.methods.winding_tap import WINDING_TAP
from fenwit.core.motor.kinds import Method

REGULATIONS: Mapping[Method, Regulation[Any, Any, Any]] = {
    r.key: r
    for r in (
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
}


def of(method: Method) -> Regulation[Any, Any, Any]:
    """The room of a method.

    Parameters
    ----------
    method : Method
        The method [-]

    Returns
    -------
    Regulation
        Its functions [-]

    Raises
    ------
    InputError
        A method that is not sized here yet.
    """
    found = REGULATIONS.get(method)
    if found is None:
        sized = ", ".join(m.value for m in REGULATIONS)
        raise InputError("method", method.value, sized, "no parts are sized for this method yet")
    return found
