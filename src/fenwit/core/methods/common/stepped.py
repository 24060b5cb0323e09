"""Steps with something fixed in the line: the exact value of each wanted speed, or those of what was built."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeVar

from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Need
from fenwit.core.methods.common.series import Aimed, InLine, SeriesStep, direct_of, no_position, step_of

S = TypeVar("S")
NeedOf = Callable[[float | None, Aimed | None], Need[S] | None]
"""What a wanted speed asks for, from what was solved for it"""


def ideal_steps(
    fan: MachineFan,
    wanted_rpm: Sequence[float],
    asked: Mapping[float, Aimed],
    need: NeedOf[S],
    exactly: Callable[[Aimed], InLine[S]],
) -> tuple[SeriesStep[S], ...]:
    """Steps at exactly the wanted speeds, while nothing is chosen.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    asked : mapping
        What was solved for each below full speed [rpm → -]
    need : callable
        What a speed asks for [-]
    exactly : callable
        What stands in the line for it [-]

    Returns
    -------
    tuple of SeriesStep
        One for each speed [-]
    """
    found = []
    for number, wanted in enumerate(wanted_rpm, start=1):
        aim = asked.get(wanted)
        line = direct_of(fan) if aim is None else exactly(aim)
        found.append(step_of(fan, number, wanted, need(wanted, aim), line, aim))
    return tuple(found)


def built_steps(
    fan: MachineFan,
    wanted_rpm: Sequence[float],
    asked: Mapping[float, Aimed],
    need: NeedOf[S],
    lines: Sequence[InLine[S]],
    noun: str,
) -> tuple[SeriesStep[S], ...]:
    """The steps as built beside the speeds that were wanted of them; a speed without a position says so.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    asked : mapping
        What was solved for each below full speed [rpm → -]
    need : callable
        What a speed asks for [-]
    lines : sequence of InLine
        What stands in the line at each position [-]
    noun : str
        What was chosen [-]

    Returns
    -------
    tuple of SeriesStep
        As many as positions or speeds, whichever are more [-]
    """
    found = []
    for k in range(max(len(lines), len(wanted_rpm))):
        wanted = wanted_rpm[k] if k < len(wanted_rpm) else None
        aim = None if wanted is None else asked.get(wanted)
        asks = need(wanted, aim)
        found.append(
            step_of(fan, k + 1, wanted, asks, lines[k], aim)
            if k < len(lines)
            else no_position(k + 1, wanted, asks, noun, aim)
        )
    return tuple(found)
