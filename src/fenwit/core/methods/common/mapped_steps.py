"""Steps of a fan that is a map over its command: wanted, made, what they take, what is read at them, its curve."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.steps import (
    LINE_CURRENT,
    SPEED,
    Need,
    Reason,
    ReasonKind,
    Running,
    Step,
    Told,
    shown_amps,
)
from fenwit.core.methods.seam import Axis, Column, Expected, Reach, ReachBand, ReachPoint, ReachState, Table
from fenwit.core.operating import StepVerdict

FloatArray = NDArray[np.float64]
S = TypeVar("S")
_DRAWN, _LISTED = 101, 21
"""Places of a curve that is drawn, and of one that is listed [-]"""


def ideal(
    wanted_rpm: Sequence[float],
    need_of: Callable[[float], Need[S]],
    exact: Callable[[int, S, float, Need[S]], Step[S]],
) -> tuple[Step[S], ...]:
    """Each wanted speed at the very command that gives it.

    Parameters
    ----------
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    need_of : callable
        What a speed asks for [-]
    exact : callable
        A step from its number, setting, speed and need [-]

    Returns
    -------
    tuple of Step
        A barred one where no command gives the speed [-]
    """
    rows = []
    for number, rpm in enumerate(wanted_rpm, start=1):
        need = need_of(rpm)
        if need.setting is not None:
            rows.append(exact(number, need.setting, rpm, need))
            continue
        reason = Reason(ReasonKind.NO_SETTING, need.reason)
        rows.append(
            Step[S](number, "", need.reason, rpm, None, need, None, {}, StepVerdict.BARRED, (reason,))
        )
    return tuple(rows)


def made(
    count: int,
    wanted_rpm: Sequence[float],
    need_of: Callable[[float], Need[S]],
    built: Callable[[int, float | None, Need[S] | None], Step[S]],
) -> tuple[Step[S], ...]:
    """What is set, slowest first, beside the wanted speeds.

    Parameters
    ----------
    count : int
        How many steps are set [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    need_of : callable
        What a speed asks for [-]
    built : callable
        A step that is set, from its place, the speed wanted of it and its need [-]

    Returns
    -------
    tuple of Step
        A barred one for each speed that nothing is set for [-]
    """
    rows = []
    for i in range(max(count, len(wanted_rpm))):
        rpm = wanted_rpm[i] if i < len(wanted_rpm) else None
        need = None if rpm is None else need_of(rpm)
        if i < count:
            rows.append(built(i, rpm, need))
            continue
        reason = Reason(ReasonKind.NO_POSITION, "nothing is set for this step")
        rows.append(Step[S](i + 1, "", "", rpm, None, need, None, {}, StepVerdict.BARRED, (reason,)))
    return tuple(rows)


def with_supply_amps(running: Running, amps: float, band: Band) -> Running:
    """The supply's place with the amps it gives, before its watts [A]"""
    first = running.places[0]
    said = Told(shown_amps(amps, band).text, "amps")
    values = (first.values[0], said, *first.values[1:])
    return replace(running, places=(replace(first, values=values), *running.places[1:]))


def expected(step: Step[S], *commanded: Expected) -> tuple[Expected, ...]:
    """Speed, what commands or feeds it, and the supply's amps where anybody knows them [-]"""
    if not step.usable or step.shown is None or not step.bands:
        return ()
    rows = [Expected(SPEED, step.shown.speed_rpm, step.bands[SPEED.key]), *commanded]
    band = step.bands.get(LINE_CURRENT.key)
    if band is not None:
        rows.append(Expected(LINE_CURRENT, (band.low + band.high) / 2, band))
    return tuple(rows)


def reach(fan: MappedFan, axis: Axis, whole: float | None = None) -> Reach:
    """Speed over the command.

    Parameters
    ----------
    fan : MappedFan
        The fan [-]
    axis : Axis
        Of what is set [-]
    whole : float, optional
        Command of which shares are set, and beyond which nothing can be; left out: the command itself is set [any]

    Returns
    -------
    Reach
        With its band [-]
    """
    command, speed, low, high = _curve(fan, _DRAWN, whole)
    at = command if whole is None else command / whole
    points = tuple(
        ReachPoint(float(a), float(n), ReachState.OK if n > 0 else ReachState.STALL)
        for a, n in zip(at, speed, strict=True)
    )
    band = tuple(ReachBand(float(a), float(lo), float(hi)) for a, lo, hi in zip(at, low, high, strict=True))
    return Reach(axis, points, band)


def curve_table(
    fan: MappedFan,
    title: str,
    command: tuple[Column, Callable[[float], str]],
    taken: tuple[Column, Callable[[float, float], str]] | None = None,
    most: float | None = None,
) -> Table:
    """The curve as numbers.

    Parameters
    ----------
    fan : MappedFan
        The fan [-]
    title : str
        Of the table [-]
    command : tuple
        Column of the command, and how a command is written [-]
    taken : tuple, optional
        A last column, written from command and speed [-]
    most : float, optional
        Command beyond which nothing can be [any]

    Returns
    -------
    Table
        Command, speed and its band [-]
    """
    at, speed, low, high = _curve(fan, _LISTED, most)
    rows = [
        (command[1](float(a)), f"{n:.0f}", f"{lo:.0f}", f"{hi:.0f}")
        + (() if taken is None else (taken[1](float(a), float(n)),))
        for a, n, lo, hi in zip(at, speed, low, high, strict=True)
    ]
    columns = (command[0], Column("speed", "rpm"), Column("low", "rpm"), Column("high", "rpm"))
    return Table("curve", title, columns if taken is None else (*columns, taken[0]), tuple(rows))


def _curve(
    fan: MappedFan, places: int, most: float | None
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Commands, speeds, and both ends of their bands."""
    first, last = fan.speeds.command[0], fan.speeds.command[-1]
    at = np.linspace(first, last if most is None else min(last, most), places)
    bands = np.array([fan.speeds.band_at(float(c)) for c in at])
    return at, np.asarray(fan.speeds.speed_at(at)), bands[:, 0], bands[:, 1]
