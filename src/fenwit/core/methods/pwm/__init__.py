"""A duty on the control lead of a fan whose electronics do the rest; its supply stays whole."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.steps import LINE_CURRENT, SPEED, Steps
from fenwit.core.methods.common import mapped, mapped_steps
from fenwit.core.methods.pwm import documents, merits, parts, steps
from fenwit.core.methods.pwm.design import DutyDesign, Maker
from fenwit.core.methods.pwm.fan import KEY, NAME, DutyFan, subject
from fenwit.core.methods.pwm.program import plan_lines
from fenwit.core.methods.pwm.search import usual
from fenwit.core.methods.pwm.signal import DutySetting
from fenwit.core.methods.pwm.why import EXPLAINED
from fenwit.core.methods.seam import Annex, Column, Regulation, Table

_MAKERS = {
    Maker.MICROCONTROLLER: "microcontroller",
    Maker.STEERED: "timer IC with steering diodes",
    Maker.PLAIN: "timer IC without diodes",
    Maker.ONE_SHOT: "clock and one-shot",
    Maker.BENCH: "bench controller",
}


def _said(design: DutyDesign) -> str:
    duties = ", ".join(f"{100 * d:.0f}" for d in design.duties)
    return f"{_MAKERS[design.maker]}, {duties} % at {q.show(design.frequency_hz, steps.KILO_HZ)}"


def _cautions(design: DutyDesign) -> tuple[Caution, ...]:
    return (
        Caution(
            "control-lead",
            (Stage.SIZE, Stage.PROVE),
            "A control lead that gets the fan's supply is dead at once.",
            "Read plus, minus and control lead with the meter before the plug goes in.",
        ),
    )


def _suits(fan: DutyFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    return (f"{fan.speeds.slowest_rpm:.0f} to {fan.full_rpm:.0f} rpm by its lead", fan.commanded.grounds)


def _tables(fan: DutyFan, found: Steps) -> tuple[Table, ...]:
    def watts(_: float, rpm: float) -> str:
        taken = fan.watts(rpm)
        return "" if taken is None else q.plain(taken, 2)

    at = (Column("duty", "%"), lambda duty: f"{100 * duty:.0f}")
    title = "Speed over the duty on the lead"
    return (mapped_steps.curve_table(fan, title, at, (Column("takes", "W"), watts)),)


def _annexes(fan: DutyFan, design: DutyDesign, found: Steps) -> tuple[Annex, ...]:
    lines = [_said(design), f"stages that invert between it and the lead: {design.stages}"]
    lines.append(
        f"what makes the duty dead or in reset, without a pull of its own: {parts.dead_stage(fan, design)}"
    )
    lines += plan_lines(fan, design)
    return (
        Annex(
            "signal", "Signal and its tests", "At the fan's own plug, against its ground.", lines=tuple(lines)
        ),
    )


PWM: Regulation[DutyFan, DutyDesign, DutySetting] = Regulation(
    key=KEY,
    name=NAME,
    noun="signal",
    setting_name="duty",
    where_name="setting",
    lugs_note="",
    where_on_label=True,
    design=DutyDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, steps.DUTY, steps.SIGNAL_HZ, steps.LOW, steps.HIGH, steps.RISE, LINE_CURRENT),
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
    parts_advice="trim the frequency on the bench, or make the pot a divider and not a timing part",
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
    switches_hz=lambda design: design.frequency_hz,
)
