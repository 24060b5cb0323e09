"""Steps as they are shown, whatever makes them: marks on the staff, the power path, what each wanted speed asks for."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError, check_range
from fenwit.core.frame.air import air_of, avoid_words, beside, place_with_air
from fenwit.core.frame.asked import Asked
from fenwit.core.frame.shown import Aim, Mark, Path, PathPlace
from fenwit.core.job.air import JobAir, read_target
from fenwit.core.job.machine import TOLD, of_hundred
from fenwit.core.job.state import MAX_STEPS, JobState, Proof
from fenwit.core.job.steps import (
    SPEED,
    Place,
    PlaceKind,
    Running,
    Shown,
    Step,
    Steps,
    Told,
    share_text,
    shown,
)
from fenwit.core.methods.seam import Zone, ZoneKind
from fenwit.core.prove.verdict import judge
from fenwit.core.size.profile import unevenness


def mark(asked: Asked, step: Step[Any]) -> Mark:
    """A step as it stands on the staff."""
    running, band = step.shown, step.speed_band
    predicted = shown(running.speed_rpm, band, "rpm") if running else None
    speed = running.speed_rpm if running else step.wanted_rpm
    measured = next(
        (p for p in asked.state.proofs if p.step == step.number and p.quantity == SPEED.key), None
    )
    verdict = None
    if measured and band and predicted:
        found = judge(SPEED.key, measured.value, expected_band(measured, band), SPEED.meter_error)
        verdict = found.verdict
    return Mark(
        step=step.number,
        label=step.label,
        wanted_rpm=step.wanted_rpm,
        predicted=predicted,
        share_text=share_text(speed, asked.full_rpm) if speed else "",
        verdict=step.verdict,
        reasons=tuple(r.words for r in step.reasons),
        measured_rpm=measured.value if measured else None,
        measured_verdict=verdict,
        may_not_start=step.may_not_start,
        doubt_text=f"{of_hundred(step.may_not_start)} % stand"
        if step.usable and step.may_not_start > TOLD
        else "",
        may_exceed=step.may_exceed,
        at=step.at,
    )


def expected_band(proof: Proof, now: Band) -> Band:
    """The band a reading is judged by: the one kept with it, else the present one."""
    if proof.expected_low is None or proof.expected_high is None:
        return now
    return Band(proof.expected_low, proof.expected_high)


def paths(asked: Asked, steps: Steps) -> tuple[Path, ...]:
    """The power path at every step; at full speed while there is none."""
    full = asked.subject.full
    found = (
        tuple(_path(s.number, s.shown, s.reasons[0].words if s.reasons else "", s.joins, full) for s in steps)
        if steps
        else (_path(1, full, "", "", full),)
    )
    speeds: list[tuple[float, Band | None] | None] = (
        [(s.shown.speed_rpm, s.speed_band) if s.shown else None for s in steps]
        if steps
        else [(full.speed_rpm, asked.subject.full_band)]
    )
    air = air_of(asked)
    return tuple(
        p
        if at is None
        else replace(p, places=tuple(_with_more(asked, air, place, at[0], at[1]) for place in p.places))
        for p, at in zip(found, speeds, strict=True)
    )


def _with_more(asked: Asked, air: JobAir, place: PathPlace, speed_rpm: float, band: Band | None) -> PathPlace:
    """What is known beside the speed: the air that is moved, and how fast the tips go."""
    plate = asked.state.nameplate
    if place.kind is PlaceKind.AIR and speed_rpm > 0:
        low, high = (band.low, band.high) if band else (speed_rpm, speed_rpm)
        try:
            more = place_with_air(
                air, Place(place.kind, place.values, warning=place.warning), speed_rpm, low, high
            )
        except InputError as error:
            return replace(place, warning=Told(error.reason, "flow"))
        return replace(place, values=more.values, warning=more.warning)
    if place.kind is PlaceKind.BLADES and plate.sweep_m:
        tip = np.pi * plate.sweep_m * speed_rpm / 60
        return replace(place, values=(*place.values, Told(f"tips {q.plain(tip, 2)} m/s")))
    return place


def _path(number: int, running: Running | None, note: str, joins: str, full: Running) -> Path:
    """One step as a flow of power; a step that may not be used has no numbers."""
    if running is not None:
        return Path(number, True, note, tuple(_place(p) for p in running.places))
    supply = full.place(PlaceKind.SUPPLY)
    empty = [
        Place(p.kind, supply.values[:1] if supply and p.kind is PlaceKind.SUPPLY else ())
        if p.kind is not PlaceKind.REGULATOR
        else Place(p.kind, (), name=joins)
        for p in full.places
    ]
    return Path(number, False, note or "does not run", tuple(_place(p) for p in empty))


def _place(p: Place) -> PathPlace:
    return PathPlace(
        p.kind, p.name, p.values, p.power_w or 0.0, p.loss_w, p.loss, p.warning, p.signal, p.level
    )


def aims(asked: Asked, steps: Steps) -> tuple[Aim, ...]:
    """What each wanted speed asks for."""
    air = air_of(asked)
    rows = [_with_air(asked, air, _aim(asked, s)) for s in steps if s.wanted_rpm is not None]
    gaps = [b.wanted.value - a.wanted.value for a, b in pairwise(rows)]
    return tuple(
        replace(r, gap_text=f"+{g:.0f}") if g else r for r, g in zip(rows, [0.0, *gaps], strict=False)
    )


def _with_air(asked: Asked, air: JobAir, aim: Aim) -> Aim:
    """A wanted step with the air it moves, and what was meant by it."""
    rpm, state = aim.wanted.value, asked.state
    meant = dict(zip(state.wanted_rpm, state.meant, strict=False)).get(rpm, "")
    try:
        text, now = beside(air, rpm), ""
        if meant:
            asks = air.speed_for("wanted", read_target("wanted", meant))
            now = (
                f"{meant} would be {asks:.0f} rpm now"
                if abs(asks - rpm) > max(_MOVED_RPM, 0.005 * rpm)
                else ""
            )
    except InputError as error:
        text, now = "", f"{meant}: {error.reason}" if meant else ""
    return replace(aim, air_text=text, meant=meant, meant_text=now, avoid_text=avoid_words(air, rpm))


_MOVED_RPM = 1.5
"""By how much a target's speed must have moved before it is said [rpm]"""


def _aim(asked: Asked, step: Step[Any]) -> Aim:
    """A wanted step with what it takes where it stands, whatever makes it."""
    assert step.wanted_rpm is not None
    need = step.need
    assert need is not None
    costs = need.costs
    return Aim(
        step=step.number,
        wanted=Shown(step.wanted_rpm, f"{step.wanted_rpm:.0f}", "rpm"),
        share_text=share_text(step.wanted_rpm, asked.full_rpm),
        gap_text="",
        needed_text=need.text,
        explained=need.setting is not None,
        power_text="" if costs.input_power_w is None else f"{q.plain(costs.input_power_w, 2)} W",
        rise_text=costs.rise_text,
        start_text=costs.start_text,
        reason=need.reason,
        nearest_rpm=need.nearest_rpm,
        hint_at=need.hint.at if need.hint else None,
        hint_text=need.hint.words if need.hint else "",
    )


def aim_summary(state: JobState) -> str:
    """How even the wanted speeds are."""
    if len(state.wanted_rpm) < 3:
        return ""
    ideal = (state.wanted_rpm[-1] - state.wanted_rpm[0]) / (len(state.wanted_rpm) - 1)
    return (
        f"even steps would be {ideal:.0f} rpm apart; the least even one departs by "
        f"{100 * unevenness(state.wanted_rpm):.0f}\u00a0%"
    )


_SLOW_SHARE, _ABOVE = 0.40, 1.06
"""Where even steps begin, of full speed; and how far above speeds that do not start [-]"""


def even_speeds(full_rpm: float, zones: Sequence[Zone], count: int) -> tuple[float, ...]:
    """Evenly spaced speeds up to full, the slowest clear of what does not start.

    Parameters
    ----------
    full_rpm : float
        Full speed [rpm]
    zones : sequence of Zone
        Speeds to keep away from [-]
    count : int
        How many, 2 to 8 [-]

    Returns
    -------
    tuple of float
        Rising, whole rpm [rpm]

    Raises
    ------
    InputError
        A count outside 2 to 8.
    """
    check_range("even", count, 2, MAX_STEPS, "")
    dead = max((z.high_rpm for z in zones if z.kind is ZoneKind.NO_START), default=0.0)
    low = min(max(_SLOW_SHARE * full_rpm, _ABOVE * dead), 0.8 * full_rpm)
    return tuple(float(np.floor(v)) for v in np.linspace(low, full_rpm, count))


def step_words(steps: list[int]) -> str:
    """Step 1, or steps 1, 2."""
    return f"step {steps[0]}" if len(steps) == 1 else "steps " + ", ".join(map(str, steps))
