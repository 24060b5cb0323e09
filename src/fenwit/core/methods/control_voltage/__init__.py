"""A voltage on the control input of an EC fan; its mains supply stays whole."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.steps import LINE_CURRENT, SPEED, Steps
from fenwit.core.methods.common import mapped, mapped_steps
from fenwit.core.methods.control_voltage import documents, merits, parts, steps
from fenwit.core.methods.control_voltage.design import ControlDesign, Source
from fenwit.core.methods.control_voltage.fan import KEY, NAME, ControlFan, subject
from fenwit.core.methods.control_voltage.plan import plan
from fenwit.core.methods.control_voltage.search import usual
from fenwit.core.methods.control_voltage.signal import ControlSetting, whole_knob
from fenwit.core.methods.control_voltage.why import EXPLAINED
from fenwit.core.methods.control_voltage.wiring import wired
from fenwit.core.methods.seam import Annex, Column, Regulation, ScaleMark, Table
from fenwit.core.motor.analog import SPAN_V

SOURCES = {
    Source.KNOB: "potentiometer",
    Source.STEPS: "switched chain of resistors",
    Source.FILTER: "filtered pulses",
    Source.ANALOG: "controller's 0–10 V output",
}


def _said(design: ControlDesign) -> str:
    return f"{SOURCES[design.source]}, {', '.join(f'{v:.2f}' for v in design.volts)} V"


def _cautions(design: ControlDesign) -> tuple[Caution, ...]:
    if not design.enable:
        return (
            Caution(
                "no-enable",
                (Stage.SIZE, Stage.PROVE),
                "Without an enable contact it runs as soon as there is a signal, also when power returns.",
                "A guard on the blades; a disconnect in reach.",
            ),
        )
    return ()


def _suits(fan: ControlFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    line = fan.line
    return (
        f"{fan.speeds.slowest_rpm:.0f} to {fan.full_rpm:.0f} rpm; "
        f"{100 * line.usable_fraction:.0f} % of a bare knob's turn moves it",
        fan.commanded.control_grounds,
    )


def _tables(fan: ControlFan, found: Steps) -> tuple[Table, ...]:
    def watts(_: float, rpm: float) -> str:
        taken = fan.watts(rpm)
        return "" if taken is None else q.plain(taken, 2)

    at = (Column("on the input", "V"), "{:.2f}".format)
    curve = mapped_steps.curve_table(fan, "Speed over the control voltage", at, (Column("takes", "W"), watts))
    rows = []
    for step in found:
        mine = step.setting
        if not isinstance(mine, ControlSetting) or step.shown is None:
            continue
        meant = float(fan.line.meant_v(np.array(mine.made_v)))
        for k, told in enumerate(mine.fans, start=1):
            rows.append(
                (
                    str(step.number), str(k), f"{told.volts:.2f}", f"{100 * told.volts / SPAN_V:.0f}",
                    f"{told.speed_rpm:.0f}" if told.speed_rpm else "off",
                    f"{meant - fan.line.on_v:.2f}" if k == 1 else "", f"{fan.line.high_v - meant:.2f}" if k == 1 else "",
                )
            )  # fmt: skip
    columns = (
        Column("step"), Column("fan"), Column("at its input", "V"), Column("travel", "%"), Column("speed", "rpm"),
        Column("over its start", "V"), Column("below its end", "V"),
    )  # fmt: skip
    return (curve, Table("inputs", "Volts and speed of every fan", columns, tuple(rows)))


MARKS = 11
"""Of a printed scale [-]"""


def scale_of(fan: ControlFan, design: ControlDesign) -> tuple[ScaleMark, ...]:
    """Marks of the knob's scale over its whole turn; where the fan stands there is none [-]"""
    knob = whole_knob(fan, design)
    turns = np.linspace(0.0, 1.0, MARKS)
    marks = []
    for turn, volts in zip(turns, knob.volts(turns), strict=True):
        at = np.array(min(SPAN_V, float(volts)))
        if float(fan.line.meant_v(at)) < fan.line.off_v:
            marks.append(ScaleMark(float(turn), 0))
            continue
        low, high = fan.speeds.command[0], fan.speeds.command[-1]
        rpm = float(np.asarray(fan.speeds.speed_at(float(np.clip(at, low, high)))))
        marks.append(ScaleMark(float(turn), round(rpm / 10) * 10))
    return tuple(marks)


def _annexes(fan: ControlFan, design: ControlDesign, found: Steps) -> tuple[Annex, ...]:
    checks = [
        f"{c.between}, {c.how}: "
        + ("open" if c.ohm is None else "joined" if c.ohm == 0 else q.show(c.ohm, q.RESISTANCE))
        for c in parts.dead_checks(fan, design)
    ]
    pages = [
        Annex(
            "terminals", "Terminals, dead checks", "Power off, link discharged, the fan's terminal plugs pulled.",
            lines=(_said(design), *checks),
        )
    ]  # fmt: skip
    if design.source is Source.KNOB:
        pages.append(
            Annex("scale", "Scale of the knob", "Slow end to fast end.", scale=scale_of(fan, design))
        )
    return tuple(pages)


CONTROL_VOLTAGE: Regulation[ControlFan, ControlDesign, ControlSetting] = Regulation(
    key=KEY,
    name=NAME,
    noun="control",
    setting_name="control volts",
    where_name="setting",
    lugs_note="Terminals by their role: which clamp that is, the fan's own data say.",
    where_on_label=True,
    design=ControlDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, steps.VOLTS, LINE_CURRENT),
    subject=subject,
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
    parts_advice="set the knob by the volts at the fan's own terminals and not by its scale",
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
    plan=plan,
    wired=wired,
)
