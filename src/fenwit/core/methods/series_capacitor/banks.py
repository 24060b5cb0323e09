"""The ten best banks for a job's wanted speeds, as they are shown; and the first of them as a design."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import miss_text
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.reach import aimed, curve_of
from fenwit.core.methods.series_capacitor.search import BankCandidate, choices, search_banks, thinned
from fenwit.core.size.capacitor import Choice, shelf_refusal
from fenwit.core.size.switch import SWITCH_VOLTS


@dataclass(frozen=True)
class CandidatePart:
    """One capacitor of a candidate."""

    bench: str
    measured_bench: str
    part_class: str
    rated_v: float
    tolerance: float
    shelf_id: int | None


@dataclass(frozen=True)
class Candidate:
    """A bank to choose."""

    text: str
    capacitors: tuple[CandidatePart, ...]
    patterns: tuple[str, ...]
    speed_rpm: tuple[float, ...]
    miss_text: str
    evenness_text: str
    shelf_text: str
    chosen: bool


@dataclass(frozen=True)
class Banks:
    """The ten best banks, and what was left out of the search."""

    candidates: tuple[Candidate, ...]
    note: str
    left_out: tuple[str, ...]
    """Shelf parts that may not stand here, each with its reason"""


def banks(fan: MachineFan, state: JobState, shelf: Sequence[Choice]) -> Banks:
    """The ten best banks for the wanted speeds, shelf first."""
    left_out = tuple(
        f"{q.show(c.capacitor.nominal_f, q.CAPACITANCE)}: {reason}"
        for c in shelf
        if (reason := shelf_refusal(c.capacitor, state.supply_voltage_v))
    )
    if not state.wanted_rpm:
        return Banks((), "First say in Aim which speeds are wanted.", left_out)
    most = state.sizing.switch.positions
    if len(state.wanted_rpm) > most:
        return Banks(
            (),
            f"{len(state.wanted_rpm)} speeds are wanted and the switch has {most} positions: "
            "take a larger switch, or take speeds away in Aim.",
            left_out,
        )
    curve = curve_of(fan)
    pool = choices(state.sizing, shelf, state.supply_voltage_v)
    found = search_banks(curve, fan.direct_speed_rpm, state.wanted_rpm, fan.full_rpm, state.sizing, pool)
    note = "" if found else "No bank of these parts makes steps that start and stay within motor volts."
    if found and thinned(state.sizing, pool):
        note = (
            f"{len(pool)} parts to choose from: those of nearly the same value stood for each other at first, and what "
            "lies near the best banks was then tried piece by piece."
        )
    switch = state.sizing.switch
    if not found and switch.rated_voltage_v < SWITCH_VOLTS[-1]:
        better = replace(state.sizing, switch=replace(switch, rated_voltage_v=SWITCH_VOLTS[-1]))
        if search_banks(curve, fan.direct_speed_rpm, state.wanted_rpm, fan.full_rpm, better, pool, best=1):
            note = (
                f"Every bank that gives these speeds puts more than {switch.rated_voltage_v:g} V across an open "
                f"contact, resonance included: take a switch rated {SWITCH_VOLTS[-1]:g} V."
            )
    return Banks(tuple(_candidate(state, c) for c in found), note, left_out)


def _candidate(state: JobState, c: BankCandidate) -> Candidate:
    design = state.design
    chosen = (
        isinstance(design, BankDesign)
        and len(design.capacitors) == len(c.capacitors)
        and all(
            abs(p.value_f / o.value_f - 1) < 1e-6
            for p, o in zip(design.capacitors, c.capacitors, strict=True)
        )
        and design.patterns == c.patterns
    )
    values = [q.plain(1e6 * p.value_f) for p in c.capacitors]
    at_hand = len(c.capacitors) - c.to_buy
    return Candidate(
        text=f"{' + '.join(values)} µF",
        capacitors=tuple(
            CandidatePart(
                q.bench(p.nominal_f, q.CAPACITANCE),
                "" if p.measured_f is None else q.bench(p.measured_f, q.CAPACITANCE, 4),
                p.part_class.value,
                p.rated_v,
                p.tolerance,
                p.shelf_id,
            )
            for p in c.capacitors
        ),
        patterns=c.patterns,
        speed_rpm=c.speed_rpm,
        miss_text=miss_text(c.worst_miss),
        evenness_text=f"uneven by {100 * c.unevenness:.0f} %" if len(c.speed_rpm) > 2 else "",
        shelf_text="all on the shelf"
        if c.to_buy == 0
        else f"{at_hand} on the shelf"
        if at_hand
        else "to buy",
        chosen=chosen,
    )


def usual(fan: MachineFan, wanted_rpm: Sequence[float], state: JobState) -> BankDesign:
    """The best bank of parts that are bought.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    state : JobState
        The job, for its switch and class of capacitors [-]

    Returns
    -------
    BankDesign
        The bank [-]

    Raises
    ------
    InputError
        No bank of these parts makes such steps.
    """
    sizing = state.sizing
    pool = choices(sizing, (), state.supply_voltage_v)
    found = search_banks(curve_of(fan), fan.direct_speed_rpm, wanted_rpm, fan.full_rpm, sizing, pool, best=1)
    if not found:
        words = _resonates(fan, wanted_rpm, sizing.switch.rated_voltage_v)
        raise InputError("wanted_rpm", list(wanted_rpm), "speeds that a bank gives", words)
    return BankDesign(found[0].capacitors, found[0].patterns, sizing.switch, enclosed=sizing.enclosed)


def _resonates(fan: MachineFan, wanted_rpm: Sequence[float], contacts_v: float) -> str:
    """Why no bank is found: where the capacitor nears resonance, what stands across it and the open contacts."""
    found = aimed(fan, [w for w in wanted_rpm if not fan.is_full(w)])
    values = [a.needed.value for a in found.values() if a.needed.value is not None]
    curve = curve_of(fan)
    across = max((float(np.interp(c, curve.value, curve.series_voltage_v)) for c in values), default=0.0)
    if across > contacts_v:
        return (
            f"barred: it nears resonance, up to {across:.0f} V stand across the capacitor and the open "
            "contacts, and these "
            f"bear {contacts_v:.0f} V"
        )
    return "no bank of these parts makes steps that start and stay within motor volts"
