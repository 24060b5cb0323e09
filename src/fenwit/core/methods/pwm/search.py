"""A sensible first design for wanted speeds, and parts of a timer that centre its frequency in the fan's band."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.pwm.design import Drive, DutyDesign, Maker, TimerParts
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.signal import ask_for, travelled
from fenwit.core.methods.pwm.steps import need_of
from fenwit.core.regulator.control_lead import NOMINAL_HZ


def usual(fan: DutyFan, wanted_rpm: Sequence[float], state: JobState) -> DutyDesign:
    """A microcontroller's timer at 25 kHz behind one open-drain stage. Raises InputError where nothing is wanted."""
    return DutyDesign(Maker.MICROCONTROLLER, duties_for(fan, wanted_rpm, Drive.OPEN_DRAIN, NOMINAL_HZ))


def duties_for(
    fan: DutyFan, wanted_rpm: Sequence[float], drive: Drive, frequency_hz: float
) -> tuple[float, ...]:
    """Duties on the lead for wanted speeds, the late edge made up for.

    Parameters
    ----------
    fan : DutyFan
        The fan [-]
    wanted_rpm : sequence of float
        Rising [rpm]
    drive : Drive
        What drives the lead [-]
    frequency_hz : float
        On the lead [Hz]

    Returns
    -------
    tuple of float
        One for each [-]

    Raises
    ------
    InputError
        No speed is wanted, or one that no duty gives.
    """
    if not wanted_rpm:
        raise InputError("wanted", "", "at least one speed", "aim for speeds first")
    found = []
    for i, rpm in enumerate(wanted_rpm):
        need = need_of(fan, rpm)
        if need.setting is None:
            raise InputError(f"wanted[{i}]", rpm, f"at least {fan.speeds.slowest_rpm:.0f} rpm", need.reason)
        found.append(round(ask_for(fan, drive, need.setting.made, frequency_hz), 4))
    return tuple(found)


def centred(design: DutyDesign, target_hz: float = NOMINAL_HZ) -> TimerParts:
    """The E12 capacitor whose frequency lies nearest to the middle of the band, over the whole travel.

    Parameters
    ----------
    design : DutyDesign
        With a timer IC [-]
    target_hz : float
        Middle wanted [Hz]

    Returns
    -------
    TimerParts
        The same parts with another capacitor [-]

    Raises
    ------
    InputError
        No capacitor makes it oscillate.
    """
    best, found = np.inf, design.timer
    for farads in q.preferred("E12", 22e-12, 1e-6):
        tried = replace(design.timer, capacitance_f=float(farads))
        over = travelled(replace(design, timer=tried), np.array([0.0, 1.0]))
        middle = float(np.sqrt(over.frequency_hz[0] * over.frequency_hz[1]))
        off = abs(np.log(middle / target_hz)) if middle > 0 else np.inf
        if off < best:
            best, found = float(off), tried
    return found


def one_shot_parts(design: DutyDesign) -> TimerParts:
    """End resistor and pot whose whole travel lies within one period: the width at its end is nine tenths of it."""
    parts = design.timer
    period = 1 / design.frequency_hz
    whole = 0.9 * period / ((parts.capacitance_f + parts.stray_f) * 1.0986)
    pots = q.preferred("E6", whole / 30, whole)
    pot = float(pots[-1])
    low = q.nearest("E12", max(pot / 50, 100.0))
    return replace(parts, pot_ohm=pot, low_ohm=low)
