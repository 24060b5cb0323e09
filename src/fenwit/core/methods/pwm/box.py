"""A controller for the bench: which frequencies it can be set to, and what its timer makes of each."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.methods.pwm.design import DutyDesign
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.signal import choices
from fenwit.core.regulator.registers import TimerMode
from fenwit.core.regulator.sweep import SweepVerdict

MOST_PULSES = 12
"""Pulses of a tachometer that it can be set to: from one to so many a turn"""


@dataclass(frozen=True)
class BoxFrequency:
    """One frequency that the box can be set to."""

    asked_hz: float
    made_hz: float
    """By its timer [Hz]"""
    error: float
    """Of what is made, over what is asked [-]"""
    levels: int
    mode: TimerMode
    prescaler: int
    top: int
    taken: SweepVerdict
    """Whether the fan takes it rightly: by its sweep, else by the band of its data [-]"""


def frequencies(fan: DutyFan, design: DutyDesign) -> tuple[BoxFrequency, ...]:
    """Every frequency of the box, the best setting of its timer at each.

    Parameters
    ----------
    fan : DutyFan
        Whose sweep and band count [-]
    design : DutyDesign
        With the box and its timer [-]

    Returns
    -------
    tuple of BoxFrequency
        Rising [-]

    Raises
    ------
    InputError
        A frequency that no setting of the timer comes near.
    """
    sheet, told = fan.commanded.sheet, fan.commanded.sweep
    rows = []
    for hertz in design.box.frequencies_hz:
        best = choices(design.controller, hertz)[0]
        taken = told.at(hertz)
        if taken is SweepVerdict.UNREAD and sheet.low_hz <= hertz <= sheet.high_hz:
            taken = SweepVerdict.GOOD
        rows.append(
            BoxFrequency(
                hertz,
                best.actual_frequency_hz,
                best.frequency_error,
                best.levels,
                best.mode,
                best.prescaler,
                best.top,
                taken,
            )
        )
    return tuple(rows)
