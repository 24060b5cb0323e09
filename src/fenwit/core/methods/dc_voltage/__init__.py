"""DC fans on lowered volts: a resistor for each step, a linear or a switching regulator."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED, Steps
from fenwit.core.job.subject import Unready
from fenwit.core.methods.common import mapped, mapped_steps
from fenwit.core.methods.common.volts import VoltFan, fed_fan
from fenwit.core.methods.dc_voltage import documents, merits, parts, steps
from fenwit.core.methods.dc_voltage.design import TACH, VoltsDesign, Way
from fenwit.core.methods.dc_voltage.search import usual
from fenwit.core.methods.dc_voltage.steps import VoltsSetting
from fenwit.core.methods.dc_voltage.why import EXPLAINED
from fenwit.core.methods.seam import Annex, Column, Regulation, Table
from fenwit.core.motor.kinds import Method

_KEY, _NAME = Method.DC_VOLTAGE, "lower DC volts"
_WAYS = {Way.RESISTOR: "resistors", Way.LINEAR: "linear regulator", Way.SWITCHING: "switching regulator"}


def _subject(state: JobState) -> VoltFan | Unready:
    return fed_fan(state, _KEY, _NAME)


def _said(design: VoltsDesign) -> str:
    unit = "Ω" if design.way is Way.RESISTOR else "V"
    values = ", ".join("direct" if unit == "Ω" and s == 0 else f"{s:g} {unit}" for s in design.settings)
    return f"{_WAYS[design.way]}, {values}"


def _cautions(design: VoltsDesign) -> tuple[Caution, ...]:
    if design.way is not Way.RESISTOR:
        return ()
    return (
        Caution(
            "hot-resistors", (Stage.SIZE,), "The resistors run hot, hottest while a fan is held.",
            "Clear of leads and plastic, rated as the list says.",
        ),
    )  # fmt: skip


def _suits(fan: VoltFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    direct = fan.direct
    return (
        f"starts at {q.plain(direct.start_v)} V, {float(direct.speed_rpm(direct.start_v)):.0f} rpm; holds down to "
        f"{q.plain(direct.hold_v)} V, {float(direct.speed_rpm(direct.hold_v)):.0f} rpm",
        TACH,
    )


def _tables(fan: VoltFan, found: Steps) -> tuple[Table, ...]:
    def amps(volts: float, _: float) -> str:
        return q.plain(1000 * fan.current_a(volts), 3) if fan.amps_known else ""

    title = "Speed over the volts at the fans"
    at = (Column("at the fans", "V"), "{:.2f}".format)
    return (mapped_steps.curve_table(fan, title, at, (Column("amps", "mA"), amps)),)


def _annexes(fan: VoltFan, design: VoltsDesign, found: Steps) -> tuple[Annex, ...]:
    lines = [
        _said(design),
        *_suits(fan, ()),
        "From rest at the slowest step: does it start? If it only holds, it wants full volts first.",
    ]
    return (
        Annex("volts", "Lowered volts and their tests", "Volts at the fans' own plug.", lines=tuple(lines)),
    )


DC_VOLTAGE: Regulation[VoltFan, VoltsDesign, VoltsSetting] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="supply",
    setting_name="in the line",
    where_name="setting",
    lugs_note="",
    where_on_label=True,
    design=VoltsDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, MOTOR_VOLTS, LINE_CURRENT),
    subject=_subject,
    said=_said,
    usual=usual,
    ideal=steps.ideal,
    steps=steps.steps,
    reach=steps.reach,
    zones=steps.zones,
    built=parts.built,
    where=steps.where,
    facts=mapped.facts,
    strays=steps.strays,
    parts_advice="measure the resistor and type what it reads, or trim the regulator's volts",
    expected=steps.expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=mapped.behind,
    compared=merits.compared,
    netted=mapped.netted,
    annexes=_annexes,
)
