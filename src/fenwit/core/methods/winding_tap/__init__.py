"""Taps of the motor's own winding, one at a time, on a switch."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.steps import LINE_CURRENT, SPEED, Steps
from fenwit.core.job.taps import worst_alive
from fenwit.core.methods.common.duty import duty_lines
from fenwit.core.methods.seam import Annex, Column, Regulation, Table, Zone
from fenwit.core.methods.winding_tap import documents, merits, parts, reach, steps
from fenwit.core.methods.winding_tap.design import TapsDesign
from fenwit.core.methods.winding_tap.fan import KEY, NAME, TappedFan, idle_v, on, subject
from fenwit.core.methods.winding_tap.rating import rate
from fenwit.core.methods.winding_tap.search import usual
from fenwit.core.methods.winding_tap.steps import FedTap, branch_words
from fenwit.core.methods.winding_tap.why import EXPLAINED
from fenwit.core.motor.taps import StartBranch


def _said(design: TapsDesign) -> str:
    return ", ".join(design.label(i) for i in range(len(design.positions)))


def _zones(fan: TappedFan, design: TapsDesign | None) -> tuple[Zone, ...]:
    return reach.zones(fan)


def _cautions(design: TapsDesign) -> tuple[Caution, ...]:
    return (
        Caution(
            "two-taps",
            (Stage.SIZE, Stage.PROVE),
            "Two taps alive at once short the turns between them: the fan seems to run nearly right, and the "
            "winding burns.",
            "A switch that breaks before it makes, or relays that lock each other out; with lamps in place of "
            "the leads, never "
            "two at once.",
        ),
        Caution(
            "idle-leads",
            (Stage.SIZE, Stage.PROVE),
            "Leads that are not fed stand above the supply while the fan runs.",
            "A cap of its own on each, none bundled bare; no relay or board whose gap is made for the supply's "
            "volts alone.",
        ),
        Caution(
            "mains-parts",
            (Stage.SIZE,),
            "Every lead of the motor is at line potential or above, at any step.",
            "Fuse with mains breaking capacity; metal parts bonded; creepage, strain relief and housing as the "
            "local code asks.",
        ),
    )


def _suits(fan: TappedFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    branches = fan.branches(None)
    said = []
    for tap in fan.taps:
        point = on(fan, tap.name, branches[0]).running
        said.append(f"{tap.name} {point.speed_rpm:.0f} rpm" if point else f"{tap.name} stands")
    worst = worst_alive(fan.belief, fan.supply, fan.taps, branches[0])
    alive = (
        (
            f"two taps alive at once drive up to {worst.current_a:.2g} A round, "
            f"{q.show(worst.heat_w, q.POWER, 2)} of heat: barred",
        )
        if worst
        else ()
    )
    doubt = (branch_words(fan, fan.taps[-1].name),) if len(branches) > 1 else ()
    return (", ".join(said), *doubt, *alive)


def _tables(fan: TappedFan, found: Steps) -> tuple[Table, ...]:
    rows = []
    for tap, lead in zip(fan.taps, fan.leads, strict=True):
        for branch in StartBranch:
            point = on(fan, tap.name, branch).running
            how = "whole supply" if branch is StartBranch.WHOLE_SUPPLY else "main section"
            idle = max((v for _, v in idle_v(fan, tap.name, branch)), default=0.0)
            rows.append(
                (
                    tap.name,
                    lead,
                    f"{tap.turns:.3f}",
                    how,
                    f"{point.speed_rpm:.0f}" if point else "",
                    q.plain(point.line_current_a * 1000) if point else "",
                    q.plain(point.input_power_w) if point else "",
                    f"{point.capacitor_voltage_v:.0f}" if point and point.capacitor_voltage_v else "",
                    f"{idle:.0f}" if idle else "",
                )
            )
    columns = (
        Column("tap"),
        Column("lead"),
        Column("turns", "×"),
        Column("start branch across"),
        Column("speed", "rpm"),
        Column("amps", "mA"),
        Column("watts", "W"),
        Column("run capacitor", "V"),
        Column("idle leads up to", "V"),
    )
    return (Table("taps", "Every tap, with the start branch either way", columns, tuple(rows)),)


def _annexes(fan: TappedFan, design: TapsDesign, found: Steps) -> tuple[Annex, ...]:
    rated = rate(fan, design)
    lines = [f"most volts at a lead that is not fed: {rated.idle_v:.0f} V on mains +10 %"]
    lines += [
        f"{'on the way ' if j.passing else 'position '}{j.where}: two taps alive, {j.alive.current_a:.2g} A run round"
        for j in rated.joined
    ]
    if len(rated.branches) > 1:
        lines.append(branch_words(fan, fan.taps[-1].name))
    lines += duty_lines(fan, design.duty, found)
    return (Annex("taps", "Taps", "Every idle lead with a cap of its own.", lines=tuple(lines)),)


WINDING_TAP: Regulation[TappedFan, TapsDesign, FedTap] = Regulation(
    key=KEY,
    name=NAME,
    noun="taps",
    setting_name="tap",
    where_name="contacts",
    lugs_note="Contacts are named pole.position.",
    where_on_label=False,
    design=TapsDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, LINE_CURRENT),
    subject=subject,
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
    parts_advice="read the ohms between the leads again, cold, with the probes shorted first",
    expected=steps.expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=steps.behind,
    compared=merits.compared,
    netted=steps.as_netlist,
    annexes=_annexes,
)
