"""Resistors nearest to wanted speeds, both ways to wire them, from preferred values or from the shelf first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import miss_text
from fenwit.core.methods.series_resistor.builds import BUILDS, Build, Enclosure
from fenwit.core.methods.series_resistor.design import MOST, Resistor, ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.reach import aimed, curve_of
from fenwit.core.methods.series_resistor.steps import regulated
from fenwit.core.quantity import preferred
from fenwit.core.size.rated import RatedKind

_SHELF_MISS = 0.08
"""How far off, in ohms, a resistor from the shelf is still worth taking [-]"""


@dataclass(frozen=True)
class OnShelf:
    """Resistors on the shelf that are free for this job."""

    resistor: Resistor
    at_hand: int


@dataclass(frozen=True)
class Offer:
    """A regulator to choose."""

    design: ResistorDesign
    text: str
    speed_rpm: tuple[float, ...]
    """0 where it does not run [rpm]"""
    miss_text: str
    heat_w: float
    """Most in the housing on the stated mains [W]"""
    from_shelf: int
    refusal: str
    """Why one of its resistors will not do; empty when all do [-]"""


def needed_ohm(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[float, ...]:
    """Ohms that each wanted speed below full speed asks for, slowest first.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds, slowest first [rpm]

    Returns
    -------
    tuple of float
        Resistances [Ω]

    Raises
    ------
    InputError
        A speed no resistor gives, none below full speed, or more than fit on a switch.
    """
    slow = [w for w in wanted_rpm if not fan.is_full(w)]
    if not 1 <= len(slow) <= MOST:
        raise InputError(
            "wanted_rpm", len(slow), f"1 to {MOST} speeds below full speed", "one resistor for each of them"
        )
    found = aimed(fan, slow)
    for wanted in slow:
        if found[wanted].needed.value is None:
            raise InputError(
                "wanted_rpm", wanted, "a speed that a resistor gives", found[wanted].needed.reason
            )
    return tuple(float(found[w].needed.value or 0) for w in slow)


def _nearest(ohm: float, build: Build) -> float:
    values = preferred("E24", *BUILDS[build].range_ohm)
    return float(values[np.argmin(np.abs(np.log(values / ohm)))])


def _pick(ohm: float, build: Build, shelf: Sequence[OnShelf], taken: dict[int | None, int]) -> Resistor:
    """From the shelf where one is near enough and free, else bought."""
    near = [
        s
        for s in shelf
        if s.at_hand > taken.get(s.resistor.shelf_id, 0)
        and abs(s.resistor.value_ohm / ohm - 1) <= _SHELF_MISS
    ]
    if near:
        best = min(near, key=lambda s: abs(np.log(s.resistor.value_ohm / ohm))).resistor
        taken[best.shelf_id] = taken.get(best.shelf_id, 0) + 1
        return best
    return Resistor(_nearest(ohm, build), build, tolerance=BUILDS[build].tolerance)


def resistors_for(
    needed: Sequence[float], scheme: Scheme, build: Build, shelf: Sequence[OnShelf] = ()
) -> tuple[Resistor, ...]:
    """Real resistors for ohms in the line, slowest step first; a chain is filled up from the motor's end.

    Parameters
    ----------
    needed : sequence of float
        Ohms in the line at each step, falling [Ω]
    scheme : Scheme
        How they stand on the switch [-]
    build : Build
        What is bought [-]
    shelf : sequence of OnShelf
        What may be taken instead [-]

    Returns
    -------
    tuple of Resistor
        As many as steps [-]
    """
    taken: dict[int | None, int] = {}
    found: list[Resistor] = []
    for ohm in reversed(needed):
        # What the faster steps already have in the line, with its own error, counts for the slower ones.
        before = sum(r.value_ohm for r in found) if scheme is Scheme.CHAIN else 0.0
        wanted = max(ohm - before, BUILDS[build].range_ohm[0])
        found.append(_pick(wanted, build, shelf, taken))
    return tuple(reversed(found))


def offers(
    fan: MachineFan,
    state: JobState,
    build: Build,
    enclosure: Enclosure,
    room_c: float,
    shelf: Sequence[OnShelf],
) -> tuple[Offer, ...]:
    """Both ways of wiring, of bought parts and, where the shelf has some, with those.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    state : JobState
        The job, for its wanted speeds and switch [-]
    build : Build
        What is bought [-]
    enclosure : Enclosure
        What stands around them [-]
    room_c : float
        Air around the housing [°C]
    shelf : sequence of OnShelf
        What lies on the shelf [-]

    Returns
    -------
    tuple of Offer
        Those that will do first, then by their worst miss [-]

    Raises
    ------
    InputError
        As `needed_ohm`.
    """
    needed = needed_ohm(fan, state.wanted_rpm)
    base = ResistorDesign(
        Scheme.SEPARATE,
        (Resistor(_nearest(needed[0], build), build),),
        direct=len(needed) < len(state.wanted_rpm),
        switch=state.sizing.switch,
        enclosure=enclosure,
        room_c=room_c,
    )
    found: list[Offer] = []
    for pool in ((), tuple(shelf)) if shelf else ((),):
        for scheme in Scheme:
            resistors = resistors_for(needed, scheme, build, pool)
            if pool and not any(r.shelf_id is not None for r in resistors):
                continue
            try:
                found.append(_offer(fan, state, replace(base, scheme=scheme, resistors=resistors)))
            except InputError:
                continue  # two wanted speeds so near that one value serves both
    return tuple(sorted(found, key=lambda o: bool(o.refusal)))


def _offer(fan: MachineFan, state: JobState, design: ResistorDesign) -> Offer:
    rated = regulated(fan, design).rated
    speeds = tuple(s.running.speed_rpm if s.running else 0.0 for s in rated.nominal)
    miss = max(abs(n - w) / fan.full_rpm for n, w in zip(speeds, state.wanted_rpm, strict=True))
    resistors = rated.design.resistors
    return Offer(
        rated.design,
        ", ".join(f"{q.show(r.nominal_ohm, q.RESISTANCE)} {r.rated_w:g} W" for r in resistors),
        speeds,
        miss_text(miss),
        max(s.running.series_loss_w if s.running else 0.0 for s in rated.nominal),
        sum(r.shelf_id is not None for r in resistors),
        next((p.refusal for p in rated.parts if p.kind is RatedKind.RESISTOR and p.refusal), ""),
    )


def usual(fan: MachineFan, wanted_rpm: Sequence[float], state: JobState) -> ResistorDesign:
    """A tapped chain of tubes in a housing with slots.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    state : JobState
        The job, for its switch [-]

    Returns
    -------
    ResistorDesign
        The regulator [-]

    Raises
    ------
    InputError
        As `needed_ohm`.
    """
    needed = needed_ohm(fan, wanted_rpm)
    resistors = resistors_for(needed, Scheme.CHAIN, Build.TUBE)
    return ResistorDesign(Scheme.CHAIN, resistors, len(needed) < len(wanted_rpm), state.sizing.switch)


def most_heat(fan: MachineFan) -> tuple[float, float, float] | None:
    """Where on the whole curve a resistor makes most heat: its ohms, watts and the speed; None where none starts.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]

    Returns
    -------
    tuple of float or None
        Ohms, watts, speed [Ω, W, rpm]
    """
    curve = curve_of(fan)
    if not curve.usable.any():
        return None
    amps = np.abs(curve.scan.admittance_s) * curve.scan.motor_voltage_v
    heat = np.where(curve.usable, amps**2 * curve.value, 0.0)
    at = int(np.argmax(heat))
    return float(curve.value[at]), float(heat[at]), float(curve.scan.speed_rpm[at])
