"""A sensible first design for wanted speeds, with preferred end stops and a filter that is steady enough."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.control_voltage.design import ControlDesign, FilterParts, KnobParts, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.signal import ends_v, steadied
from fenwit.core.methods.control_voltage.steps import need_of
from fenwit.core.quantity import preferred
from fenwit.core.regulator.control_volts import Knob, preferred_stops

RIPPLE_V, SETTLES_S = 0.05, 1.0
"""What is asked of a filter at 10 V [V, s]"""


def usual(fan: ControlFan, wanted_rpm: Sequence[float], state: JobState) -> ControlDesign:
    """A potentiometer on the fan's own 10 V whose turn covers the wanted speeds. Raises InputError where none does."""
    return made(fan, wanted_rpm, Source.KNOB)


def volts_of(fan: ControlFan, wanted_rpm: Sequence[float]) -> tuple[float, ...]:
    """Volts on the first input for wanted speeds; raises InputError for one that no volts give [rpm → V]"""
    if not wanted_rpm:
        raise InputError("wanted", "", "at least one speed", "aim for speeds first")
    found = []
    for i, rpm in enumerate(wanted_rpm):
        need = need_of(fan, rpm)
        if need.setting is None:
            raise InputError(f"wanted[{i}]", rpm, f"at least {need.nearest_rpm or 0:.0f} rpm", need.reason)
        found.append(round(need.setting.made_v, 2))
    return tuple(found)


def made(fan: ControlFan, wanted_rpm: Sequence[float], source: Source) -> ControlDesign:
    """Volts for wanted speeds by one kind of source.

    Parameters
    ----------
    fan : ControlFan
        The fan [-]
    wanted_rpm : sequence of float
        Rising [rpm]
    source : Source
        What makes the volts [-]

    Returns
    -------
    ControlDesign
        With parts that suit [-]

    Raises
    ------
    InputError
        No speed is wanted, or one that no volts give.
    """
    design = ControlDesign(source, volts_of(fan, wanted_rpm))
    if source is Source.KNOB:
        return replace(design, knob=fitting_knob(fan, design.volts))
    if source is Source.STEPS:
        # As light on the 10 V as a knob would be.
        return replace(design, chain_ohm=fitting_pot_ohm(fan))
    if source is Source.FILTER:
        return replace(design, filter=fitting_filter(design))
    return design


def fitting_pot_ohm(fan: ControlFan) -> float:
    """The largest usual potentiometer up to a tenth of what hangs on it, and no less than the reference bears [Ω]"""
    least = fan.analog.reference_v / fan.analog.gives_a
    most = fan.analog.takes_ohm / fan.count / 10
    usual_ohms = np.array([k * 10.0**d for d in (2, 3, 4, 5) for k in (1.0, 2.2, 4.7)])
    fits = usual_ohms[(usual_ohms >= least) & (usual_ohms <= max(most, least))]
    return float(fits[-1]) if len(fits) else float(usual_ohms[usual_ohms >= least][0])


def fitting_knob(fan: ControlFan, volts: Sequence[float]) -> KnobParts:
    """A potentiometer with end stops from preferred values whose whole turn covers some volts."""
    pot = fitting_pot_ohm(fan)
    low, high = min(volts), max(volts)
    ref = fan.analog.reference_v
    bare = Knob(pot, input_ohm=fan.analog.takes_ohm / fan.count, reference_v=ref)
    if high - low < 0.3 or high > ref:
        return KnobParts(pot)
    try:
        found = preferred_stops(low, min(high, ref), bare)
    except InputError:
        return KnobParts(pot)
    return KnobParts(pot, found.top_ohm, found.bottom_ohm)


def fitting_filter(design: ControlDesign) -> FilterParts:
    """One stage where it ripples little enough and settles soon enough, else two; the smallest E12 capacitors."""
    parts = design.filter
    best = parts
    for stages in (1, 2):
        for farads in preferred("E12", 1e-9, 100e-6):
            tried = replace(parts, stages=stages, capacitance_f=float(farads))
            found = steadied(replace(design, filter=tried))
            if found.ripple_v <= RIPPLE_V:
                best = tried
                if found.settling_s <= SETTLES_S:
                    return tried
                break
    return best


_BETTER_V = 0.05
"""By how much other end stops must come nearer before they are offered [V]"""


def better(fan: ControlFan, design: ControlDesign) -> ControlDesign | None:
    """The same with end stops, or a filter, that suit its volts; None where they do already [-]"""
    if design.source is Source.KNOB:
        fitting = replace(design, knob=fitting_knob(fan, design.volts))
        return fitting if _missed_v(fan, design) > _missed_v(fan, fitting) + _BETTER_V else None
    if design.source is Source.FILTER:
        fitting = replace(design, filter=fitting_filter(design))
        return fitting if fitting != design else None
    return None


def _missed_v(fan: ControlFan, design: ControlDesign) -> float:
    low, high = ends_v(fan, design)
    return max(abs(low - min(design.volts)), abs(high - max(design.volts)))
