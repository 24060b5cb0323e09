"""The numbers behind every picture, and what of them is kept with a design."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.frame import control
from fenwit.core.frame.fan import Fan, known, regulated
from fenwit.core.frame.fired import curve_of, waveforms_of
from fenwit.core.frame.parts import part_rows
from fenwit.core.frame.paths import decibels
from fenwit.core.frame.shown import Frame, PartRow
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import Step, in_the_line, share_text, shown, steps_of
from fenwit.core.load import flow_share
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import relative_rise


@dataclass(frozen=True)
class Column:
    """A column with its unit; empty where there is none."""

    name: str
    unit: str = ""


@dataclass(frozen=True)
class Table:
    """Numbers as text, ready to be read or saved."""

    key: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[str, ...], ...]


def tables(state: JobState) -> tuple[Table, ...]:
    """Speed, loss, motor volts and heat at every step; the curve; and the parts with what they bear.

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
    known_fan = known(state)
    if known_fan is None:
        return ()
    datum, fan = known_fan
    found = steps_of(state, datum, fan)
    rows = []
    for s in found:
        point, bands = s.shown_point, s.bands
        if point is None:
            rows.append((str(s.number), in_the_line(s), s.verdict.value, *[""] * 10))
            continue
        share = point.speed_rpm / fan.full.speed_rpm
        rows.append(
            (
                str(s.number),
                in_the_line(s),
                shown(point.speed_rpm, bands.speed_rpm if bands else None, "").text,
                share_text(point.speed_rpm, fan).removesuffix(" %"),
                shown(point.motor_voltage_v, bands.motor_voltage_v if bands else None, "").text,
                shown(point.line_current_a, bands.line_current_a if bands else None, "", 1000.0).text,
                shown(point.input_power_w, bands.input_power_w if bands else None, "").text,
                f"{point.power_factor:.2f}",
                q.plain(point.series_loss_w, 2),
                shown(point.motor_loss_w, bands.motor_loss_w if bands else None, "").text,
                f"{relative_rise(point.motor_loss_w / fan.full.motor_loss_w, share):.2f}",
                f"{100 * flow_share(share):.0f}",
                decibels(share).removesuffix(" dB"),
            )
        )
    steps = Table(
        "steps",
        "Every step",
        (
            Column("step"),
            Column("in the line"),
            Column("speed", "rpm"),
            Column("of full", "%"),
            Column("motor volts", "V"),
            Column("line", "mA"),
            Column("input", "W"),
            Column("pf"),
            Column("regulator heat", "W"),
            Column("motor heat", "W"),
            Column("winding rise", "× full"),
            Column("flow", "% of full"),
            Column("noise", "dB"),
        ),
        tuple(rows),
    )
    found_tables = [
        steps,
        *(_fired(state, fan, found) if state.method is Method.PHASE_ANGLE else [_over_capacitance(fan)]),
    ]
    rows_of_parts: tuple[PartRow, ...] = ()
    if state.bank:
        rows_of_parts = part_rows(regulated(datum, fan.supply, state.bank), found)
    elif state.control:
        rows_of_parts = control.part_rows(control.control_of(fan, state.control))
    if rows_of_parts:
        found_tables.append(
            Table(
                "parts",
                "Every part and what it bears",
                (
                    Column("part"),
                    Column("what"),
                    Column("burden"),
                    Column("stress and rating"),
                    Column("worst at"),
                ),
                tuple((p.name, p.text, s.burden, s.text, s.where) for p in rows_of_parts for s in p.stresses),
            )
        )
    return tuple(found_tables)


def _over_capacitance(fan: Fan) -> Table:
    curve = fan.curve
    words = {True: "ok", False: "barred"}
    return Table(
        "curve",
        "Speed over series capacitance",
        (
            Column("in the line", "µF"),
            Column("speed", "rpm"),
            Column("motor volts", "V"),
            Column("state"),
        ),
        tuple(
            (
                q.plain(float(c) * 1e6),
                f"{speed:.0f}" if ok else "",
                q.plain(float(volts)) if ok else "",
                words[bool(ok)] if runs else "will not start",
            )
            for c, speed, volts, ok, runs in zip(
                curve.capacitance_f,
                curve.scan.speed_rpm,
                curve.scan.motor_voltage_v,
                curve.usable,
                curve.scan.runs,
                strict=True,
            )
        ),
    )


_WAVE_EVERY = 5


def _fired(state: JobState, fan: Fan, found: Sequence[Step]) -> list[Table]:
    """The knob curve, and one period of every step's waves."""
    curve = curve_of(fan)

    def or_none(value: float, digits: int = 0) -> str:
        return f"{value:.{digits}f}" if value > 0 else ""

    tables_ = [
        Table(
            "curve",
            "Speed over firing angle",
            (
                Column("fires at", "°"),
                Column("from rest", "rpm"),
                Column("coming down", "rpm"),
                Column("motor volts", "V"),
                Column("input", "W"),
                Column("current ends", "°"),
            ),
            tuple(
                (f"{a:.1f}", or_none(up), or_none(down), or_none(volts), or_none(watts, 1), or_none(ends, 1))
                for a, up, down, volts, watts, ends in zip(
                    curve.firing_deg,
                    curve.speed_rpm,
                    curve.held_rpm,
                    curve.motor_v,
                    curve.power_w,
                    curve.extinction_deg,
                    strict=True,
                )
            ),
        )
    ]
    for step in found:
        point = step.fired
        if point is None or not step.usable:
            continue
        w = waveforms_of(fan, point)
        columns = [w.supply_v, w.motor_v, 1e3 * w.line_a]
        heads = [Column("supply", "V"), Column("motor", "V"), Column("line", "mA")]
        if w.auxiliary_a is not None:
            columns.append(1e3 * w.auxiliary_a)
            heads.append(Column("auxiliary", "mA"))
        degrees = np.degrees(w.theta_rad)
        tables_.append(
            Table(
                f"wave-{step.number}",
                f"Step {step.number}, one period",
                (Column("angle", "°"), *heads),
                tuple(
                    (f"{degrees[i]:.0f}", *(f"{c[i]:.0f}" for c in columns))
                    for i in range(0, len(degrees), _WAVE_EVERY)
                ),
            )
        )
    return tables_


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
    """The predictions of a bank, to be kept with it.

    Parameters
    ----------
    computed : Frame
        The job with its bank [-]

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
            found[f"step {mark.step} input, W"] = path.supply_w
            found[f"step {mark.step} motor heat, W"] = path.motor_loss_w
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
