"""What the capacitor check shows: sections, what a weak one does to each step, suspects, and a replacement's leads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from fenwit.core import quantity as q
from fenwit.core.calibrate.drift import Drift, drift
from fenwit.core.caution import Discharge, discharge
from fenwit.core.frame.asked import machine_in
from fenwit.core.job.findings import block_now
from fenwit.core.job.steps import Shown, shown
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.size.block import (
    Block,
    Complaint,
    Connection,
    Section,
    SectionVerdict,
    StepSpeed,
    Suspect,
    check_section,
    connections,
    consequences,
    suspects,
    touched_by,
)

if TYPE_CHECKING:
    from fenwit.core.job.state import JobState

USUAL_WORK = 1.8
"""A run capacitor stands at about this many times the supply, until it was read [-]"""


@dataclass(frozen=True)
class DayPoint:
    """A reading, or an end of the line, on its day."""

    day: float
    """Days since 1970 [d]"""
    share: float
    """Measured over rated [-]"""
    text: str = ""


@dataclass(frozen=True)
class LeadMove:
    """Which lead of a spare takes the place of which."""

    old: str
    new: str
    """Empty: none [-]"""


@dataclass(frozen=True)
class DriftShown:
    """The history of one section."""

    points: tuple[DayPoint, ...]
    line: tuple[DayPoint, ...]
    """Two ends of the line [-]"""
    low: float
    high: float
    """Tolerance [-]"""
    per_year_text: str
    leaves_day: float | None
    leaves_low: float | None
    leaves_high: float | None
    words: str


@dataclass(frozen=True)
class SectionRow:
    """One section of the block."""

    name: str
    leads: str
    rated_text: str
    class_text: str
    tolerance_text: str
    measured_text: str
    esr_text: str
    verdict: SectionVerdict
    words: str
    touches: str
    share: float | None
    discharge_text: str
    discharge_limit_v: float
    drift: DriftShown | None


@dataclass(frozen=True)
class StepRow:
    """One step with sections at their rating and as they are."""

    name: str
    rated_text: str
    now: Shown | None
    now_text: str
    change_text: str


@dataclass(frozen=True)
class ConnectionRow:
    """One way to connect the spare block."""

    title: str
    steps: tuple[str, ...]
    """Speed of each step, with its change [-]"""
    miss_text: str
    do_not: str
    remark: str
    moves: tuple[str, ...]
    leads: tuple[LeadMove, ...]


@dataclass(frozen=True)
class CapacitorsShown:
    """Everything the capacitor check shows."""

    sections: tuple[SectionRow, ...]
    steps: tuple[StepRow, ...]
    suspects: tuple[Suspect, ...]
    complaint_text: str
    connections: tuple[ConnectionRow, ...]
    note: str
    """What the speeds wait for, or why there is nothing to check [-]"""


def capacitors(
    state: JobState,
    complaint: Complaint | None = None,
    step: int = 0,
    history: Mapping[str, Sequence[tuple[float, float]]] | None = None,
) -> CapacitorsShown:
    """Compute what the capacitor check shows.

    Parameters
    ----------
    state : JobState
        The job [-]
    complaint : Complaint or None
        What is wrong with the fan, if that was said [-]
    step : int
        Index of the step that is slow, for a complaint about one [-]
    history : mapping or None
        For each section day and measured value of every reading [d, F]

    Returns
    -------
    CapacitorsShown
        Sections, steps, suspects, connections of the spare [-]

    Raises
    ------
    InputError
        A block that cannot be solved, or values that contradict each other.
    """
    read = dict(state.readings)
    block = block_now(state.findings, read, read.get("run_capacitance_f"))
    if block is None:
        return CapacitorsShown(
            (), (), (), "", (), "describe the block: its sections, their leads, what is printed on them"
        )
    touched = dict(touched_by(block))
    fan = machine_in(state)
    rows = tuple(
        _section(state, s, block, touched[s.name], (history or {}).get(s.name, ()),
                 fan.full_point.capacitor_voltage_v if fan else None)
        for s in block.sections
    )  # fmt: skip
    if fan is None or state.kind not in (MotorKind.PSC, MotorKind.PSC_TAPPED):
        return CapacitorsShown(
            rows,
            (),
            (),
            "",
            (),
            "speeds need a calibrated motor with a run capacitor: kind, nameplate, full-speed rpm",
        )
    belief, supply = fan.belief, fan.supply
    steps = consequences(belief, supply, block)
    blamed = suspects(belief, supply, block, complaint, step) if complaint else ()
    ways = connections(belief, supply, block, state.findings.spare) if state.findings.spare else ()
    return CapacitorsShown(
        rows,
        tuple(_step(s) for s in steps),
        blamed,
        _complaint(complaint, block, step),
        tuple(_connection(block, w) for w in ways),
        "",
    )


def _complaint(complaint: Complaint | None, block: Block, step: int) -> str:
    if complaint is None:
        return ""
    if complaint is Complaint.ONE_SLOW:
        return f"step {block.steps[step].name} alone is slow"
    return "all steps are slow" if complaint is Complaint.ALL_SLOW else "it does not start"


def working_volts(
    state: JobState, section: Section, block: Block, capacitor_voltage_v: float | None
) -> float:
    """Volts a section may have been charged to: the run section's own, the supply with a tenth more for the others.

    Parameters
    ----------
    state : JobState
        The job [-]
    section : Section
        The section [-]
    block : Block
        Its block [-]
    capacitor_voltage_v : float or None
        Volts across the run capacitor at full speed, if known [V]

    Returns
    -------
    float
        Rms volts [V]
    """
    if block.auxiliary_lead and block.auxiliary_lead in (section.lead_a, section.lead_b):
        return capacitor_voltage_v or USUAL_WORK * state.supply_voltage_v
    return 1.1 * state.supply_voltage_v


def discharge_words(d: Discharge) -> str:
    """How to empty a section, in words.

    Parameters
    ----------
    d : Discharge
        Resistor, time, energy [-]

    Returns
    -------
    str
        One sentence [-]
    """
    return (
        f"may hold {d.peak_voltage_v:.0f} V, {d.energy_j:.2g} J: through {q.show(d.resistance_ohm, q.RESISTANCE)}, "
        f"5 W wire-wound ({d.power_w:.0f} W for an instant), at least {max(1.0, d.time_s):.0f} s"
    )


def _section(
    state: JobState, s: Section, block: Block, steps: Sequence[str], history: Sequence[tuple[float, float]],
    capacitor_voltage_v: float | None,
) -> SectionRow:  # fmt: skip
    check = check_section(s, state.supply_frequency_hz)
    d = discharge(s.rated_f, working_volts(state, s, block, capacitor_voltage_v))
    touches = "every step" if len(steps) == len(block.steps) else ", ".join(steps) if steps else "no step"
    return SectionRow(
        s.name,
        f"{s.lead_a}–{s.lead_b}",
        q.show(s.rated_f, q.CAPACITANCE),
        s.part_class.value.replace("-", " "),
        f"±{100 * s.usual_tolerance:.0f} %",
        "" if s.measured_f is None else q.show(s.measured_f, q.CAPACITANCE),
        "" if s.esr_ohm is None else q.show(s.esr_ohm, q.RESISTANCE),
        check.verdict,
        check.words,
        touches,
        check.share,
        discharge_words(d),
        34.0,
        _drift(s, history),
    )


def _drift(s: Section, history: Sequence[tuple[float, float]]) -> DriftShown | None:
    if not history:
        return None
    days, values = [t for t, _ in history], [v for _, v in history]
    found = drift(days, values, s.rated_f, s.usual_tolerance)
    points = tuple(DayPoint(t, v / s.rated_f, q.show(v, q.CAPACITANCE)) for t, v in sorted(history))
    low, high = 1 - s.usual_tolerance, 1 + s.usual_tolerance
    if found is None:
        return DriftShown(points, (), low, high, "", None, None, None, "one reading is no history yet")
    return DriftShown(
        points,
        tuple(DayPoint(day, _at(found, day)) for day in (days_min(found), days_max(found))),
        low,
        high,
        f"{q.signed(100 * found.per_year, 1)} ± {100 * 1.645 * found.per_year_sigma:.1f} % a year",
        found.leaves_day,
        found.leaves_low,
        found.leaves_high,
        "sinks" if found.sinking else "no drift beyond what the meter may miss",
    )


def days_min(found: Drift) -> float:
    """First day of a history [d]"""
    return found.share_at[0][0]


def days_max(found: Drift) -> float:
    """Last day of a history [d]"""
    return found.share_at[-1][0]


def _at(found: Drift, day: float) -> float:
    return found.now_share + found.per_year * (day - days_max(found)) / 365.25


def _step(s: StepSpeed) -> StepRow:
    now = None
    if s.now.rpm is not None:
        now = (
            shown(s.now.rpm, s.now_bands.speed_rpm, "rpm")
            if s.now_bands
            else Shown(s.now.rpm, f"{s.now.rpm:.0f}", "rpm")
        )
    change = ""
    if s.now.rpm is not None and s.rated.rpm is not None:
        change = f"{q.signed(s.now.rpm - s.rated.rpm, 0)} rpm"
    return StepRow(
        s.name,
        f"{s.rated.rpm:.0f} rpm" if s.rated.rpm is not None else s.rated.words,
        now,
        s.now.words,
        change,
    )


def _connection(block: Block, way: Connection) -> ConnectionRow:
    steps = []
    for s in way.speeds:
        if s.now.rpm is None:
            steps.append(f"{s.name}: {s.now.words}")
        elif s.rated.rpm is None:
            steps.append(f"{s.name}: {s.now.rpm:.0f} rpm")
        else:
            steps.append(f"{s.name}: {s.rated.rpm:.0f} → {s.now.rpm:.0f} rpm")
    return ConnectionRow(
        ", ".join(f"{old} ← {new or 'nothing'}" for old, new in way.leads),
        tuple(steps),
        f"{100 * way.worst_miss:.0f} % at worst",
        way.do_not,
        way.remark,
        way.moves,
        tuple(LeadMove(old, new or "") for old, new in way.leads),
    )
