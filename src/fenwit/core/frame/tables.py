"""The numbers behind every picture, and what of them is kept with a design."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.frame.air import air_shown
from fenwit.core.frame.asked import Asked, known
from fenwit.core.frame.shown import Frame
from fenwit.core.job.machine import RISE, MachineFan, MachineStep, decibels, flow_text, rise_text
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, PlaceKind, Step, Steps, shown, shown_amps
from fenwit.core.methods.seam import Column, Table
from fenwit.core.motor.machine import relative_rise


def tables(state: JobState) -> tuple[Table, ...]:
    """Speed, loss, motor volts and heat at every step; what the method has besides; the parts with what they bear.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    tuple of Table
        Empty where too little is known [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    job = known(state)
    if job is None:
        return ()
    steps = job.steps()
    found = [_steps(job, steps), *job.regulation.tables(job.subject, steps)]
    if not state.air.empty:
        found.append(_air(state))
    if job.design is not None:
        found.append(_parts(job))
    return tuple(found)


def _air(state: JobState) -> Table:
    heads = ("step", "speed", "flow", "pressure", "noise", "warmer by", "by plain fan laws", "shaft", "")
    rows = [
        (
            "full" if r.step is None else str(r.step), r.speed_text, r.flow_text, r.pressure_text, r.level_text,
            r.rise_text, r.law_text, r.shaft_text, r.note,
        )
        for r in air_shown(state).rows
    ]  # fmt: skip
    return Table("air", "Air at every step", tuple(Column(h) for h in heads), tuple(rows))


def _parts(job: Asked) -> Table:
    parts = job.regulation.built(job.subject, job.design).parts
    return Table(
        "parts",
        "Every part and what it bears",
        (
            Column("part"),
            Column("what"),
            Column("burden"),
            Column("stress and rating"),
            Column("worst at"),
        ),
        tuple((p.name, p.text, s.burden, s.text, s.where) for p in parts for s in p.stresses),
    )


def _steps(job: Asked, steps: Steps) -> Table:
    heads = [Column("step"), Column("in the line"), Column("speed", "rpm"), Column("of full", "%")]
    if isinstance(job.subject, MachineFan):
        heads += _MACHINE
    return Table("steps", "Every step", tuple(heads), tuple(_row(job, s, len(heads)) for s in steps))


_MACHINE = (
    Column("motor volts", "V"),
    Column("line"),
    Column("input", "W"),
    Column("pf"),
    Column("regulator heat", "W"),
    Column("motor heat", "W"),
    Column("winding rise", "× full"),
    Column("flow", "% of full"),
    Column("noise", "dB"),
)
"""What is known of a step besides where a machine stands behind the regulator"""


def _row(job: Asked, step: Step[Any], width: int) -> tuple[str, ...]:
    running = step.shown
    if running is None:
        return (str(step.number), step.joins, step.verdict.value, *[""] * (width - 3))
    share = running.speed_rpm / job.full_rpm
    found = (
        str(step.number),
        step.joins,
        shown(running.speed_rpm, step.speed_band, "").text,
        f"{100 * share:.0f}",
    )
    if not isinstance(job.subject, MachineFan):
        return found
    return (*found, *_of_machine(job.subject, step, share))


def _of_machine(fan: MachineFan, step: Step[Any], share: float) -> tuple[str, ...]:
    point = step.shown_point if isinstance(step, MachineStep) else None
    assert point is not None
    bands = step.bands
    return (
        shown(point.motor_voltage_v, bands.get(MOTOR_VOLTS.key), "").text,
        shown_amps(point.line_current_a, bands.get(LINE_CURRENT.key)).text,
        shown(point.input_power_w, bands.get("input_power_w"), "").text,
        f"{point.power_factor:.2f}",
        q.plain(point.series_loss_w, 2),
        shown(point.motor_loss_w, bands.get("motor_loss_w"), "").text,
        rise_text(bands.get(RISE), relative_rise(point.motor_loss_w / fan.full_point.motor_loss_w, share)),
        flow_text(share, float(fan.belief.load.exponent)).removesuffix(" % of flow"),
        decibels(share, ""),
    )


# ---------------------------------------------------------------- what is kept with a design

ALIKE = 0.003
"""Relative change below which a kept value and today's count as the same [-]"""


@dataclass(frozen=True)
class Change:
    """A value that is no longer what was kept."""

    name: str
    then: str
    now: str


def snapshot(computed: Frame) -> dict[str, float]:
    """The predictions of a regulator, to be kept with it.

    Parameters
    ----------
    computed : Frame
        The job with what is chosen [-]

    Returns
    -------
    dict
        Value by name, with its unit in the name [any]
    """
    found: dict[str, float] = {}
    for mark, path in zip(computed.marks, computed.paths, strict=False):
        if mark.predicted:
            found[f"step {mark.step} speed, rpm"] = mark.predicted.value
            if mark.predicted.low is not None and mark.predicted.high is not None:
                found[f"step {mark.step} band, low, rpm"] = mark.predicted.low
                found[f"step {mark.step} band, high, rpm"] = mark.predicted.high
            places = {p.kind: p for p in path.places}
            if PlaceKind.SUPPLY in places:
                found[f"step {mark.step} input, W"] = places[PlaceKind.SUPPLY].power_w
            if PlaceKind.MOTOR in places:
                found[f"step {mark.step} motor heat, W"] = places[PlaceKind.MOTOR].loss_w
    for part in computed.parts:
        for stress in part.stresses:
            found[f"{part.role}, {stress.burden}, % of rating"] = 100 * stress.share
    return found


def changes(kept: Mapping[str, float], computed: Frame) -> tuple[Change, ...]:
    """What today's core and readings say otherwise than what was kept with a design.

    Parameters
    ----------
    kept : mapping
        From `snapshot` [any]
    computed : Frame
        The job as it is computed now [-]

    Returns
    -------
    tuple of Change
        Values apart by more than `ALIKE`, or no longer there [-]
    """
    now = snapshot(computed)
    found = []
    for name, then in kept.items():
        new = now.get(name)
        if new is None:
            found.append(Change(name, q.plain(then), "no longer given"))
        elif abs(new - then) > ALIKE * max(abs(then), abs(new), 1e-9):
            found.append(Change(name, q.plain(then), q.plain(new)))
    return tuple(found)
