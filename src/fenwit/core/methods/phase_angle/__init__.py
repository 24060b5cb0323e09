"""A triac in the line, fired at one angle for each step: by a knob with a diac, or by a microcontroller."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core.calibrate.bands import Band
from fenwit.core.calibrate.fit import Belief
from fenwit.core.caution import Caution, Stage
from fenwit.core.job.machine import MachineFan, machine_behind
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED, Step, Steps
from fenwit.core.job.subject import Unready
from fenwit.core.methods.phase_angle import documents, judged, merits, parts, steps
from fenwit.core.methods.phase_angle.angles import (
    ON_STATE_V,
    curve_of,
    design_for,
    torque_at,
    waveforms_of,
)
from fenwit.core.methods.phase_angle.bands import phase_bands
from fenwit.core.methods.phase_angle.design import FiredBy, PhaseDesign
from fenwit.core.methods.phase_angle.knob import knob
from fenwit.core.methods.phase_angle.program import program_notes
from fenwit.core.methods.phase_angle.steps import Angle, PhaseStep
from fenwit.core.methods.phase_angle.view import as_netlist, table_of, waves_of
from fenwit.core.methods.phase_angle.why import EXPLAINED
from fenwit.core.methods.seam import Annex, Behind, Column, FloatArray, Panel, Regulation, Table
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import Source
from fenwit.core.regulator.firing import Spacing
from fenwit.core.regulator.series import SettingKind, values_for_speeds

_KEY, _NAME = Method.PHASE_ANGLE, "phase angle"
_WAVE_EVERY = 5


def _subject(state: JobState) -> MachineFan | Unready:
    return machine_behind(state, _KEY, _NAME)


def _said(design: PhaseDesign) -> str:
    angles = ", ".join("full on" if a == 0 else f"{a:.0f}°" for a in design.firing_deg)
    by = "knob and diac" if design.fired_by is FiredBy.KNOB else "microcontroller"
    fitted = (("fuse", design.fused), ("suppression", design.filtered), ("snubber", design.snubbed))
    missing = [word for word, there in fitted if not there]
    return f"{by}, {angles}" + (f"; without {' and '.join(missing)}" if missing else "")


def _usual(fan: MachineFan, wanted_rpm: Sequence[float], state: JobState) -> PhaseDesign:
    return design_for(fan, wanted_rpm, PhaseDesign((0.0,)))


def _cautions(design: PhaseDesign) -> tuple[Caution, ...]:
    return (
        Caution(
            "triac",
            (Stage.SIZE, Stage.PROVE),
            "An open triac still passes a little: its far side is live at Off. It fails as a short, and the fan "
            "then runs at full. Behind it the motor hums more, and the mains carry harmonics and noise.",
            "Isolate before touching. Fit fuse, choke, X capacitor and snubber, and never a capacitor in line "
            "with the triac; whether limits for interference are met, a laboratory judges.",
        ),
    )


def _suits(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[str, ...]:
    return ()


def _tables(fan: MachineFan, found: Steps) -> tuple[Table, ...]:
    """The firing curve, and one period of every step's waves."""
    curve = curve_of(fan)

    def or_none(value: float, digits: int = 0) -> str:
        return f"{value:.{digits}f}" if value > 0 else ""

    rows = zip(
        curve.firing_deg, curve.speed_rpm, curve.kicked_rpm, curve.motor_v, curve.power_w, curve.extinction_deg,
        strict=True,
    )  # fmt: skip
    heads = (
        Column("fires at", "°"), Column("from rest", "rpm"), Column("coming down", "rpm"),
        Column("motor volts", "V"), Column("input", "W"), Column("current ends", "°"),
    )  # fmt: skip
    whole = Table(
        "curve",
        "Speed over firing angle",
        heads,
        tuple(
            (f"{a:.1f}", or_none(up), or_none(down), or_none(volts), or_none(watts, 1), or_none(ends, 1))
            for a, up, down, volts, watts, ends in rows
        ),
    )
    return (
        whole,
        *(_wave_table(fan, s) for s in found if isinstance(s, PhaseStep) and s.usable and s.phase_point),
    )


def _wave_table(fan: MachineFan, step: PhaseStep) -> Table:
    assert step.phase_point is not None
    w = waveforms_of(fan, step.phase_point)
    columns = [w.supply_v, w.motor_v, 1e3 * w.line_a]
    heads = [Column("supply", "V"), Column("motor", "V"), Column("line", "mA")]
    if w.auxiliary_a is not None:
        columns.append(1e3 * w.auxiliary_a)
        heads.append(Column("auxiliary", "mA"))
    degrees = np.degrees(w.theta_rad)
    return Table(
        f"wave-{step.number}",
        f"Step {step.number}, one period",
        (Column("angle", "°"), *heads),
        tuple(
            (f"{degrees[i]:.0f}", *(f"{c[i]:.0f}" for c in columns))
            for i in range(0, len(degrees), _WAVE_EVERY)
        ),
    )


def _behind(fan: MachineFan, step: Step[Angle]) -> Behind | None:
    """A step for Measure; its worth of a reading is reckoned on the sine volts that give the same speed."""
    point = step.phase_point if isinstance(step, PhaseStep) else None
    if point is None or not step.usable or step.setting is None or step.setting.firing_deg == 0:
        return None
    angle, kick = step.setting.firing_deg, step.setting.kick
    belief, supply = fan.belief, fan.supply
    (sine,) = values_for_speeds(belief.motor, belief.load, supply, SettingKind.VOLTAGE, [point.speed_rpm])
    like = Source(sine.value or point.motor_voltage_v, supply.frequency_hz)

    def torque(speed_rpm: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        return torque_at(fan, angle, speed_rpm)

    def speed_band(other: Belief) -> tuple[Band, float]:
        (found,) = phase_bands(other, supply, [angle], ON_STATE_V, kick)
        return found.speed_rpm, found.middle_speed_rpm

    return Behind(torque, speed_band, like)


def _annexes(fan: MachineFan, design: PhaseDesign, found: Steps) -> tuple[Annex, ...]:
    waves = waves_of(fan, [s for s in found if isinstance(s, PhaseStep)])
    panels = tuple(
        Panel(
            f"step {w.step}, {'full on' if w.firing_deg == 0 else f'fires at {w.firing_deg:.1f}°'}",
            w.theta_deg, w.supply_v, w.motor_v, w.line_a, "; ".join(w.facts[:2]),
        )
        for w in waves
    )  # fmt: skip
    note = (
        "Mains dashed, motor volts dark, line current in copper, over the angle from the mains’ rising zero."
    )
    pages = [Annex("waves", "Waveforms", note, panels=panels)] if panels else []
    if design.network is not None:
        scale = knob(fan, design.network, design.kick).scale
        return (*pages, Annex("scale", "Scale of the knob", scale=scale))
    table = table_of(fan, design, Spacing.STEPS, len(design.firing_deg))
    return (*pages, Annex("program", "What the program keeps to", lines=program_notes([table])))


PHASE_ANGLE: Regulation[MachineFan, PhaseDesign, Angle] = Regulation(
    key=_KEY,
    name=_NAME,
    noun="phase-angle control",
    setting_name="fires at",
    where_name="set at",
    lugs_note="",
    where_on_label=True,
    design=PhaseDesign,
    form=documents.FORM,
    upgrades=documents.UPGRADES,
    told_by=documents.TOLD_BY,
    quantities=(SPEED, MOTOR_VOLTS, LINE_CURRENT, steps.FIRING, steps.ENDS, steps.APART, steps.MAINS),
    subject=_subject,
    said=_said,
    usual=_usual,
    ideal=steps.ideal,
    steps=steps.steps,
    reach=steps.reach,
    zones=steps.zones,
    built=parts.built,
    where=steps.where,
    facts=judged.facts,
    strays=judged.strays,
    parts_advice="draw the scale for the knob as it was built",
    expected=steps.expected,
    missed=steps.missed,
    why=EXPLAINED,
    cautions=_cautions,
    suits=_suits,
    tables=_tables,
    behind=_behind,
    compared=merits.compared,
    netted=as_netlist,
    slow=True,
    annexes=_annexes,
)
