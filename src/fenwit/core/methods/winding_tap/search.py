"""Which taps a switch should feed for wanted speeds."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.winding_tap.design import MOST, TapsDesign
from fenwit.core.methods.winding_tap.fan import TappedFan, on
from fenwit.core.size.switch import SWITCH_VOLTS, Switch


def usual(fan: TappedFan, wanted_rpm: Sequence[float], state: JobState) -> TapsDesign:
    """One position for each wanted speed with the tap that comes nearest and is free; all taps where none is wanted.

    Parameters
    ----------
    fan : TappedFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds, slowest first [rpm]
    state : JobState
        The job, for its switch [-]

    Returns
    -------
    TapsDesign
        Slowest tap first; never more positions than there are taps [-]

    Raises
    ------
    InputError
        A motor that starts on none of its taps.
    """
    branch = fan.branches(None)[0]
    speeds = {t.name: p.speed_rpm for t in fan.taps if (p := on(fan, t.name, branch).running)}
    if not speeds:
        raise InputError("positions", "", "a tap on which it starts", "on none of its taps the fan starts")
    picked = set(speeds)
    if 0 < len(wanted_rpm) < len(speeds):
        picked, free = set(), dict(speeds)
        for wanted in wanted_rpm:
            name = min(free, key=lambda n: abs(free[n] - wanted))
            picked.add(name)
            del free[name]
    names = sorted(picked, key=lambda n: speeds[n])[-MOST:]
    like = state.sizing.switch
    switch = Switch(
        positions=max(2, like.positions, len(names)),
        poles=1,
        series_pairs=False,
        make_before_break=like.make_before_break,
        rated_current_a=like.rated_current_a,
        rated_voltage_v=max(like.rated_voltage_v, SWITCH_VOLTS[-1]),
        make_current_a=like.make_current_a,
    )
    return TapsDesign(tuple((n,) for n in names), switch=switch)
