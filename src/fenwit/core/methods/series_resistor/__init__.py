"""Resistors in the line, one for each step or a tapped chain, joined by a switch."""

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
from fenwit.core.methods.seam import Annex, Column, Expected, Regulation, Table, Zone
from fenwit.core.methods.series_resistor import documents, merits, parts, reach, steps
from fenwit.core.methods.series_resistor.builds import BUILDS, ENCLOSURES
from fenwit.core.methods.series_resistor.design import ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.energy import yearly
from fenwit.core.methods.series_resistor.parts import heat_words, resistor_words
from fenwit.core.methods.series_resistor.search import most_heat, usual
from fenwit.core.methods.series_resistor.steps import Ohms, regulated
from fenwit.core.methods.series_resistor.why import EXPLAINED
from fenwit.core.motor.kinds import Method

_KEY, _NAME = Method.SERIES_RESISTOR, "a series resistor"


def _subject(state: JobState) -> MachineFan | Unready:
    return machine_behind(state, _KEY, _NAME)


def _said(design: ResistorDesign) -> str:
    values = [q.show(r.nominal_ohm, q.RESISTANCE) for r in design.resistors]
    if design.scheme is Scheme.CHAIN:
        return f"chain of {' + '.join(values)}"
    return f"{', '.join(values)}, one a step"


def _zones(fan: MachineFan, design: ResistorDesign | None) -> tuple[Zone, ...]:
    return reach.zones(fan)


def _expected(fan: MachineFan, design: ResistorDesign | None, step: Step[Ohms]) -> tuple[Expected, ...]:
    return expected_of(step)


def _cautions(design: ResistorDesign) -> tuple[Caution, ...]:
    builds = sorted({BUILDS[r.build].mounting for r in design.resistors})
    return (
        Caution(
            "hot-resistors",
            (Stage.SIZE, Stage.PROVE),
            "The resistors burn what touches them: skin, dust, wood, cable jackets. A clogged or held fan makes "
            "them hotter still.",
            f"Mount them {'; '.join(builds)}. Metal housing on a surface that does not burn, the distances of the "
            "parts list kept clear, no cable across them; a thermal cut-off in the housing; let them cool before "
            "a hand goes in.",
        ),
        Caution(
            "mains-parts",
            (Stage.SIZE,),
            "Every lead, lug and bracket of the chain is at line potential, at any step.",
            "Fuse with mains breaking capacity; metal parts bonded; creepage, strain relief and housing as the local "
            "code asks.",
        ),
    )


def _suits(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    curve, worst = reach.curve_of(fan), most_heat(fan)
    usable = np.flatnonzero(curve.usable)
    if worst is None or not len(usable):
        return ("no resistor lets it start",)
    last = int(usable[-1])
    ohm, watts, speed = worst
    return (
        f"slowest it still starts at: {q.show(float(curve.value[last]), q.RESISTANCE, 2)}, "
        f"{float(curve.scan.speed_rpm[last]):.0f} rpm",
        f"most heat in the resistor: {q.show(watts, q.POWER, 2)} near {speed:.0f} rpm "
        f"({q.show(ohm, q.RESISTANCE, 2)})",
    )


def _tables(fan: MachineFan, found: Steps) -> tuple[Table, ...]:
    curve = reach.curve_of(fan)
    amps = np.abs(curve.scan.admittance_s) * curve.scan.motor_voltage_v
    rows = tuple(
        (
            q.plain(float(ohm)),
            f"{speed:.0f}" if ok else "",
            q.plain(float(volts)) if ok else "",
            q.plain(float(ohm * a * a)) if ok else "",
            "ok" if ok else "will not start",
        )
        for ohm, speed, volts, a, ok in zip(
            curve.value, curve.scan.speed_rpm, curve.scan.motor_voltage_v, amps, curve.usable, strict=True
        )
    )
    columns = (
        Column("in the line", "Ω"),
        Column("speed", "rpm"),
        Column("motor volts", "V"),
        Column("heat", "W"),
        Column("state"),
    )
    return (Table("curve", "Speed over series resistance", columns, rows),)


def _annexes(fan: MachineFan, design: ResistorDesign, found: Steps) -> tuple[Annex, ...]:
    rated, year = regulated(fan, design).rated, yearly(fan, design)
    words, _ = ENCLOSURES[design.enclosure]
    lines = [
        f"{name}: {resistor_words(r)}; {heat_words(rated.hottest_c[i], rated.clearance_m[i])}"
        for i, (name, r) in enumerate(zip(rated.design.names, rated.design.resistors, strict=True))
    ]
    lines += [
        f"step {s.step}: {q.plain(s.input_w, 3)} W from the mains, {q.plain(s.heat_w, 2)} W of it heat in the "
        f"resistors, {s.hours_a_day:g} h a day"
        for s in year.steps
    ]
    lines.append(f"a year of {design.days_a_year:g} days: {year.kwh:.0f} kWh{beside_words(year.beside_kwh)}")
    note = f"Room at {design.room_c:g} °C, {words}. Temperatures and distances: estimates, worst step on high mains."
    return (Annex("heat", "Heat and energy", note, lines=tuple(lines)),)


def beside_words(beside_kwh: float | None) -> str:
    """The capacitor version beside it, in words; empty where there is none."""
    return "" if beside_kwh is None else f"; with capacitors for the same speeds {beside_kwh:.0f} kWh"


SERIES_RESISTOR: Regulation[MachineFan, ResistorDesign, Ohms] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="resistors",
    setting_name="in the line",
    where_name="contacts",
    lugs_note="Contacts are named pole.position.",
    where_on_label=False,
    design=ResistorDesign,
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
    parts_advice="measure them cold and type what they read",
    expected=_expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=behind,
    compared=merits.compared,
    netted=on_switch(parts.built),
    annexes=_annexes,
)
