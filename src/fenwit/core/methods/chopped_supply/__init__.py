"""Fans without a control lead behind a chopped supply, raw or through a choke and a diode."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, SPEED, Steps
from fenwit.core.job.subject import Unready
from fenwit.core.methods.chopped_supply import documents, parts, steps
from fenwit.core.methods.chopped_supply.design import ChopDesign
from fenwit.core.methods.chopped_supply.steps import ChopSetting
from fenwit.core.methods.chopped_supply.why import EXPLAINED
from fenwit.core.methods.common import mapped, mapped_steps
from fenwit.core.methods.common.volts import VoltFan, fed_fan
from fenwit.core.methods.seam import Annex, Column, Compared, Regulation, Table
from fenwit.core.motor.kinds import Method
from fenwit.core.size.merits import Failing, Merits, Piece

_KEY, _NAME = Method.CHOPPED_SUPPLY, "a chopped supply"


def _subject(state: JobState) -> VoltFan | Unready:
    return fed_fan(state, _KEY, _NAME)


def _said(design: ChopDesign) -> str:
    duties = ", ".join(f"{100 * d:.0f}" for d in design.duties)
    how = "through a choke" if design.filtered else "raw"
    return f"{duties} % at {q.show(design.frequency_hz, steps.KILO_HZ)}, {how}"


def usual(fan: VoltFan, wanted_rpm: Sequence[float], state: JobState) -> ChopDesign:
    """Duties for wanted speeds at 25 kHz through a choke. Raises InputError where nothing is wanted, or none gives it."""
    if not wanted_rpm:
        raise InputError("wanted", "", "at least one speed", "aim for speeds first")
    found = []
    for i, rpm in enumerate(wanted_rpm):
        need = steps.need_of(fan, rpm)
        if need.setting is None:
            raise InputError(f"wanted[{i}]", rpm, f"at least {need.nearest_rpm or 0:.0f} rpm", need.reason)
        found.append(round(need.setting.duty, 4))
    return ChopDesign(tuple(found))


def _cautions(design: ChopDesign) -> tuple[Caution, ...]:
    if design.filtered:
        return ()
    return (
        Caution(
            "chopped-tach", (Stage.SIZE, Stage.PROVE),
            "While the supply is off the tachometer has none either: its output floats, what is read is no speed.",
            "A hand tachometer, or bridge the gaps; slow edges, since each fan is a short at every turn-on.",
        ),
    )  # fmt: skip


def _suits(fan: VoltFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    direct = fan.direct
    share = 100 * direct.start_v / fan.supply_voltage_v
    return (
        f"starts from rest at about {share:.0f} % duty, {float(direct.speed_rpm(direct.start_v)):.0f} rpm",
    )


def _tables(fan: VoltFan, found: Steps) -> tuple[Table, ...]:
    supply = fan.supply_voltage_v
    at = (Column("duty", "%"), lambda volts: f"{100 * volts / supply:.0f}")
    return (mapped_steps.curve_table(fan, "Speed over the duty of the supply", at, most=supply),)


def _annexes(fan: VoltFan, design: ChopDesign, found: Steps) -> tuple[Annex, ...]:
    lines = [_said(design), *steps.tach_words(fan, design), *_suits(fan, ())]
    return (Annex("chopping", "Chopped supply and its tachometer", "", lines=tuple(lines)),)


def _compared(fan: VoltFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    found = steps.ideal(fan, state.wanted_rpm, glance)
    unmet = tuple(s.need.reason if s.need and s.need.reason else "" for s in found)
    losses = [
        steps.setting(fan, ChopDesign((s.setting.duty,)), s.setting.duty).loss_w if s.setting else 0.0
        for s in found
    ]
    start = float(fan.direct.speed_rpm(fan.direct.start_v))
    row = Merits(
        variant="",
        name="chopped supply",
        steps=tuple(mapped.merit_of(fan, s, loss) for s, loss in zip(found, losses, strict=True)),
        unmet=unmet,
        hottest=f"switch and diode, {max(losses, default=0.0):.2g} W",
        hottest_w=max(losses, default=0.0),
        slowest_rpm=start,
        jump_rpm=max(0.0, start - float(fan.direct.speed_rpm(fan.direct.hold_v))),
        stepless=True,
        built_text="transistor, diode, choke",
        built_rpm=tuple(s.shown.speed_rpm if s.shown else 0.0 for s in found),
        pieces=(
            (Piece.CONTROLLER, 1),
            (Piece.SWITCH_TRANSISTOR, 1),
            (Piece.CHOKE, 1),
            (Piece.FUSE, 1),
            (Piece.BOX, 1),
        ),
        regulator_hum="commutation is heard where the choke is left out",
        failures=(
            Failing("transistor", "stands", "full speed"),
            Failing("diode", "the transistor dies at its next turn-off", "the fuse blows", True),
        ),
        note="less torque at low speed; the tachometer is lost without the choke",
    )
    return (Compared(row, found),)


CHOPPED_SUPPLY: Regulation[VoltFan, ChopDesign, ChopSetting] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="switch",
    setting_name="duty",
    where_name="duty",
    lugs_note="",
    where_on_label=True,
    design=ChopDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, steps.DUTY, LINE_CURRENT),
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
    parts_advice="measure the duty at the fans' own leads",
    expected=steps.expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=mapped.behind,
    compared=_compared,
    netted=mapped.netted,
    annexes=_annexes,
    switches_hz=lambda design: design.frequency_hz,
)
