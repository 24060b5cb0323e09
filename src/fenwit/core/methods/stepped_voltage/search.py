"""Transformers for wanted speeds: taps in whole volts, every one of them solved again as it would be built."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import miss_text
from fenwit.core.methods.stepped_voltage.design import MOST, SteppedDesign, Tap
from fenwit.core.methods.stepped_voltage.settings import aimed, ideal_unit
from fenwit.core.methods.stepped_voltage.steps import regulated
from fenwit.core.regulator.transformer import Winding
from fenwit.core.size.rated import RatedKind


@dataclass(frozen=True)
class Offer:
    """A transformer to choose."""

    design: SteppedDesign
    speed_rpm: tuple[float, ...]
    """0 where it does not run [rpm]"""
    miss_text: str
    loss_w: float
    """Most in the transformer on the stated mains [W]"""
    refusal: str


def design_for(
    fan: MachineFan,
    wanted_rpm: Sequence[float],
    winding: Winding,
    like: SteppedDesign | None,
    state: JobState,
) -> SteppedDesign:
    """A transformer with a tap for each wanted speed, in whole volts.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds, slowest first [rpm]
    winding : Winding
        Auto or separate [-]
    like : SteppedDesign or None
        What insulation, room and fuse are taken from [-]
    state : JobState
        The job, for its switch [-]

    Returns
    -------
    SteppedDesign
        The design; its frame is chosen when it is rated [-]

    Raises
    ------
    InputError
        A speed that no tap gives, or taps that whole volts do not tell apart.
    """
    auto = winding is Winding.AUTO
    direct = auto and any(fan.is_full(w) for w in wanted_rpm)
    slow = [w for w in wanted_rpm if not (auto and fan.is_full(w))]
    if not 1 <= len(slow) <= MOST:
        raise InputError("wanted_rpm", len(slow), f"1 to {MOST} speeds on taps", "one tap for each of them")
    unit = ideal_unit(fan, winding, tuple(wanted_rpm))
    found = aimed(fan, unit, slow)
    volts = []
    for wanted in slow:
        inverse = found[wanted].needed
        if inverse.value is None:
            raise InputError("wanted_rpm", wanted, "a speed that a tap gives", inverse.reason)
        volts.append(float(round(inverse.value)))
    if any(b <= a for a, b in pairwise(volts)):
        raise InputError(
            "wanted_rpm", list(slow), "speeds further apart", "whole volts do not tell their taps apart"
        )
    switch = state.sizing.switch if like is None else like.switch
    switch = replace(switch, positions=max(switch.positions, len(volts) + direct))
    base = SteppedDesign(
        winding,
        tuple(Tap(v) for v in volts),
        direct,
        whole_v=None if auto else max(unit.whole_v, volts[-1]),
        rated_v=fan.supply.voltage_v,
        rated_hz=fan.supply.frequency_hz,
        switch=switch,
    )
    if like is not None:
        base = replace(base, insulation=like.insulation, room_c=like.room_c)
    return base


def offers(fan: MachineFan, state: JobState, like: SteppedDesign | None) -> tuple[Offer, ...]:
    """An autotransformer and a separate one for the wanted speeds of a job; those that will do first.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    state : JobState
        The job, for its wanted speeds and switch [-]
    like : SteppedDesign or None
        What insulation and room are taken from [-]

    Returns
    -------
    tuple of Offer
        None that gives no such speeds [-]

    Raises
    ------
    InputError
        Where neither gives them: the reason of the auto winding.
    """
    found: list[Offer] = []
    first: InputError | None = None
    for winding in Winding:
        try:
            found.append(_offer(fan, state, design_for(fan, state.wanted_rpm, winding, like, state)))
        except InputError as refused:
            first = first or refused
    if not found and first is not None:
        raise first
    return tuple(sorted(found, key=lambda o: bool(o.refusal)))


def _offer(fan: MachineFan, state: JobState, design: SteppedDesign) -> Offer:
    rated = regulated(fan, design).rated
    points = [s.running for s in rated.nominal]
    speeds = tuple(p.speed_rpm if p else 0.0 for p in points)
    miss = max(abs(n - w) / fan.full_rpm for n, w in zip(speeds, state.wanted_rpm, strict=True))
    parts = next((p.refusal for p in rated.parts if p.refusal and p.kind is not RatedKind.WIRE), "")
    return Offer(
        rated.design,
        speeds,
        miss_text(miss),
        max((p.series_loss_w for p in points if p), default=0.0),
        rated.refusal or parts,
    )


def usual(fan: MachineFan, wanted_rpm: Sequence[float], state: JobState) -> SteppedDesign:
    """The autotransformer for wanted speeds. Raises InputError as `design_for`."""
    return design_for(fan, wanted_rpm, Winding.AUTO, None, state)
