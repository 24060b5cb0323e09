"""A bank of capacitors in the line, joined by a switch."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.machine import MachineFan, machine_behind
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED, Step, Steps
from fenwit.core.job.subject import Unready
from fenwit.core.methods.common.netted import on_switch
from fenwit.core.methods.common.series import behind, expected_of
from fenwit.core.methods.seam import Column, Expected, Regulation, Table, Zone, ZoneKind
from fenwit.core.methods.series_capacitor import documents, merits, parts, reach, steps
from fenwit.core.methods.series_capacitor.banks import usual
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.steps import Pattern
from fenwit.core.methods.series_capacitor.why import EXPLAINED
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import relative_rise
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, Source, solve

_KEY, _NAME = Method.SERIES_CAPACITOR, "a series capacitor"


def _subject(state: JobState) -> MachineFan | Unready:
    return machine_behind(state, _KEY, _NAME)


def _said(design: BankDesign) -> str:
    values = " + ".join(q.show(c.nominal_f, q.CAPACITANCE) for c in design.capacitors)
    return f"{values}; {', '.join(design.patterns)}"


def _zones(fan: MachineFan, design: BankDesign | None) -> tuple[Zone, ...]:
    return reach.zones(fan)


def _expected(fan: MachineFan, design: BankDesign | None, step: Step[Pattern]) -> tuple[Expected, ...]:
    return expected_of(step)


def _cautions(design: BankDesign) -> tuple[Caution, ...]:
    return (
        Caution(
            "mains-parts",
            (Stage.SIZE,),
            "Capacitors in series with the mains: class X2 film or motor-run, AC-rated; never "
            "DC-rated, never electrolytic.",
            "Fit a fuse with mains breaking capacity, a bleed resistor and a current limiter to "
            "each; metal parts bonded, "
            "creepage and strain relief as the local code asks.",
        ),
    )


def _suits(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    said = []
    barred = reach.barred_range(fan)
    if barred:
        said.append(
            f"{barred} resonate: the motor would get more than {MOTOR_VOLTAGE_LIMIT:g} × its volts; barred"
        )
    else:
        said.append("no capacitor lifts the motor's volts past their limit: computed over the whole range")
    curve = reach.curve_of(fan)
    usable = np.flatnonzero(curve.usable)
    if len(usable):
        first = usable[0]
        said.append(
            f"least that starts: {q.show(float(curve.value[first]), q.CAPACITANCE, 2)}, "
            f"{float(curve.scan.speed_rpm[first]):.0f} rpm"
        )
        said += [
            f"no capacitor holds a speed between {z.low_rpm:.0f} and {z.high_rpm:.0f} rpm"
            for z in reach.zones(fan)
            if z.kind is ZoneKind.GAP
        ]
    return (*said, *_heat(fan, wanted_rpm))


def _heat(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    """Motor heat at the wanted steps against the cooling left there."""
    asked = reach.aimed(fan, [w for w in wanted_rpm if w < 0.99 * fan.full_rpm])
    sources = [
        Source(fan.supply.voltage_v, fan.supply.frequency_hz, a.impedance_ohm)
        for a in asked.values()
        if a.needed.value
    ]
    full = fan.full_point
    rises = [
        (relative_rise(p.motor_loss_w / full.motor_loss_w, p.speed_rpm / full.speed_rpm), p.speed_rpm)
        for s in solve(fan.belief.motor, fan.belief.load, sources)
        if (p := s.running) is not None
    ]
    if not rises:
        return ()
    rise, speed = max(rises)
    return (
        f"warmest wanted step: {speed:.0f} rpm, about {q.plain(rise, 1)} × the temperature rise at full speed (estimate)",
    )


def _tables(fan: MachineFan, found: Steps) -> tuple[Table, ...]:
    curve = reach.curve_of(fan)
    rows = zip(
        curve.value,
        curve.scan.speed_rpm,
        curve.scan.motor_voltage_v,
        curve.usable,
        curve.scan.runs,
        strict=True,
    )
    return (
        Table(
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
                    ("ok" if ok else "barred") if runs else "will not start",
                )
                for c, speed, volts, ok, runs in rows
            ),
        ),
    )


SERIES_CAPACITOR: Regulation[MachineFan, BankDesign, Pattern] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="bank",
    setting_name="in the line",
    where_name="contacts",
    lugs_note="Contacts are named pole.position.",
    where_on_label=False,
    design=BankDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, MOTOR_VOLTS, LINE_CURRENT),
    subject=_subject,
    said=_said,
    usual=usual,
    ideal=steps.ideal,
    steps=steps.steps,
    reach=reach.reach,
    zones=_zones,
    built=parts.built,
    where=steps.where,
    facts=steps.facts,
    strays=steps.strays,
    parts_advice="measure them and type what they read",
    expected=_expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=behind,
    compared=merits.compared,
    netted=on_switch(parts.built),
)
