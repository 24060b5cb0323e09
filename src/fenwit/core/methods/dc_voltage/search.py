"""A sensible first design for wanted speeds."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.common.volts import VoltFan
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.dc_voltage.steps import DIRECT_SHARE, need_of
from fenwit.core.regulator.direct_supply import ohm_for


def usual(fan: VoltFan, wanted_rpm: Sequence[float], state: JobState) -> VoltsDesign:
    """A switching regulator: cool, and it starts the fan as its volts alone allow. Raises InputError where none does."""
    return made(fan, wanted_rpm, Way.SWITCHING)


def made(fan: VoltFan, wanted_rpm: Sequence[float], way: Way) -> VoltsDesign:
    """Volts or preferred resistors for wanted speeds.

    Parameters
    ----------
    fan : VoltFan
        The fans [-]
    wanted_rpm : sequence of float
        Rising [rpm]
    way : Way
        What takes the rest of the volts [-]

    Returns
    -------
    VoltsDesign
        One setting for each [-]

    Raises
    ------
    InputError
        No speed is wanted, or one that no volts give.
    """
    if not wanted_rpm:
        raise InputError("wanted", "", "at least one speed", "aim for speeds first")
    found = []
    supply = fan.supply_voltage_v
    for i, rpm in enumerate(wanted_rpm):
        need = need_of(fan, rpm)
        if need.setting is None:
            raise InputError(f"wanted[{i}]", rpm, f"at least {need.nearest_rpm or 0:.0f} rpm", need.reason)
        volts = need.setting.volts
        if way is not Way.RESISTOR:
            found.append(round(volts, 2))
        elif volts >= DIRECT_SHARE * supply:
            found.append(0.0)
        else:
            if not fan.amps_known:
                raise InputError(
                    "line_current_a",
                    "",
                    "its amps",
                    "a resistor needs the amps of the fan: read or type them",
                )
            found.append(q.nearest("E12", ohm_for(fan.direct, supply, volts, fan.count)))
    return VoltsDesign(way, tuple(found))
