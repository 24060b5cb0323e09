"""A transformer or an autotransformer with taps, and a switch that picks one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.machine import MachineFan, machine_behind
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED, Steps
from fenwit.core.job.subject import Unready
from fenwit.core.methods.common.duty import duty_lines
from fenwit.core.methods.common.netted import on_switch
from fenwit.core.methods.seam import Annex, Column, Regulation, Table, Zone
from fenwit.core.methods.stepped_voltage import documents, merits, parts, reach, steps
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.falling import falling_words
from fenwit.core.methods.stepped_voltage.parts import transformer_words
from fenwit.core.methods.stepped_voltage.search import usual
from fenwit.core.methods.stepped_voltage.settings import TappedPoint
from fenwit.core.methods.stepped_voltage.steps import TapVolts, regulated
from fenwit.core.methods.stepped_voltage.why import EXPLAINED
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.transformer import Winding, neutral_open

_KEY, _NAME = Method.STEPPED_VOLTAGE, "stepped volts"


def _subject(state: JobState) -> MachineFan | Unready:
    return machine_behind(state, _KEY, _NAME)


def _said(design: SteppedDesign) -> str:
    taps = ", ".join(f"{t.volts:g}" for t in design.taps)
    kind = "auto" if design.winding is Winding.AUTO else "separate"
    return f"{kind}, {taps} V{' and direct' if design.direct else ''}"


def _zones(fan: MachineFan, design: SteppedDesign | None) -> tuple[Zone, ...]:
    return reach.zones(fan)


def _cautions(design: SteppedDesign) -> tuple[Caution, ...]:
    auto = design.winding is Winding.AUTO
    live = (
        Caution(
            "auto-no-isolation",
            (Stage.SIZE, Stage.PROVE),
            "An autotransformer isolates nothing: every tap is at line potential. With its neutral end off, "
            "the fan hangs "
            "behind the upper section and may get nearly full volts.",
            "Fasten the neutral end first and so that nobody can pull it off; read ohms from N to the winding, "
            "dead, before "
            "power. Treat every tap as line.",
        )
        if auto
        else Caution(
            "secondary-floats",
            (Stage.SIZE, Stage.PROVE),
            "The secondary is mains-like volts: floating, a meter to earth shows nothing sure, and one touch "
            "may be felt.",
            "Earth it or leave it floating as the local code says; insulate its ends like line.",
        )
    )
    return (
        live,
        Caution(
            "transformer-overload",
            (Stage.SIZE,),
            "The fuse does not see an overload of a small frame: a fan that is held fast cooks it.",
            "A transformer with a thermal cut-out in its winding; metal frame bonded; housing, creepage and "
            "strain relief as "
            "the local code asks. It hums at twice the mains by itself: mount it soft.",
        ),
        Caution(
            "idle-taps",
            (Stage.SIZE, Stage.PROVE),
            "Taps that no contact uses are alive while the winding is.",
            "A cap of its own on each, rated for the mains; never two twisted together.",
        ),
    )


def _suits(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    unit, curve = reach.curve_of(fan)
    usable = np.flatnonzero(curve.usable)
    if not len(usable):
        return ("no tap lets it start",)
    first = int(usable[0])
    return (
        f"least volts that start it: about {float(curve.value[first]):.0f} V, "
        f"{float(curve.scan.speed_rpm[first]):.0f} rpm",
        *falling_words(fan),
        f"an auto winding of {unit.va:g} VA bears it on every tap",
    )


def _tables(fan: MachineFan, found: Steps) -> tuple[Table, ...]:
    unit, curve = reach.curve_of(fan)
    amps = np.abs(curve.scan.admittance_s) * curve.scan.motor_voltage_v
    rows = tuple(
        (
            f"{volts:.1f}",
            f"{speed:.0f}" if ok else "",
            q.plain(float(motor)) if ok else "",
            q.plain(float(1000 * a)) if ok else "",
            "ok" if ok else "will not start",
        )
        for volts, speed, motor, a, ok in zip(
            curve.value, curve.scan.speed_rpm, curve.scan.motor_voltage_v, amps, curve.usable, strict=True
        )
    )
    columns = (
        Column("tap, open", "V"),
        Column("speed", "rpm"),
        Column("motor volts", "V"),
        Column("motor amps", "mA"),
        Column("state"),
    )
    return (Table("curve", f"Speed over the volts of a tap ({unit.va:g} VA auto)", columns, rows),)


def _annexes(fan: MachineFan, design: SteppedDesign, found: Steps) -> tuple[Annex, ...]:
    rated = regulated(fan, design).rated
    unit = rated.unit
    idle = unit.idle_a(fan.supply.voltage_v, fan.supply.frequency_hz)
    lines = [
        transformer_words(rated.design),
        f"idle: about {q.plain(unit.core_loss_w, 2)} W and {q.show(abs(idle), q.CURRENT, 2)}; "
        + (
            f"whole winding about {q.show(unit.primary_ohm, q.RESISTANCE, 2)}"
            if unit.winding is Winding.AUTO
            else f"primary about {q.show(unit.primary_ohm, q.RESISTANCE, 2)}, secondary about "
            f"{q.show(unit.secondary_ohm, q.RESISTANCE, 2)}"
        ),
        f"first rush up to {q.plain(rated.rush.crest_a, 2)} A; it can never pass {q.plain(rated.rush.bound_a, 2)} A",
    ]
    for number, (volts, solution) in enumerate(zip(rated.design.step_v, rated.nominal, strict=True), start=1):
        point = solution.running
        if isinstance(point, TappedPoint):
            lines.append(
                f"step {number}, {rated.design.label(number - 1)}: {q.plain(point.input_power_w, 3)} W from the mains, "
                f"{q.plain(point.copper_w, 2)} W of it in copper and {q.plain(point.core_w, 2)} W in iron"
            )
        off = neutral_open(unit, volts, fan.supply.frequency_hz)
        if off is not None and number == 1:
            lines.append(
                f"neutral end off at step 1: as behind a choke of {q.show(off.choke_ohm, q.RESISTANCE, 2)} "
                "while its iron is "
                f"not full; a section made for {off.section_v:.0f} V saturates, and the fan may get nearly full volts"
            )
    lines += duty_lines(fan, design.duty, found)
    return (
        Annex("transformer", "Transformer", "As usual of its frame until it is read.", lines=tuple(lines)),
    )


STEPPED_VOLTAGE: Regulation[MachineFan, SteppedDesign, TapVolts] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="transformer",
    setting_name="tap",
    where_name="contacts",
    lugs_note="Contacts are named pole.position.",
    where_on_label=False,
    design=SteppedDesign,
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
    parts_advice="read idle watts and amps and the ohms of its winding, and type them",
    expected=steps.expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=steps.behind,
    compared=merits.compared,
    netted=on_switch(parts.built),
    annexes=_annexes,
)
