"""One job, computed: everything the two instruments and the stages show, from one call.

`JobState` is what is known and wanted; `frame` answers with the staff, the power path at every step, the parts of the
regulator, the proofs and the cautions; `live` with what of it changes while something is dragged. Nothing here has
state of its own, does I/O, or knows a way of regulating by name: that stands behind `fenwit.core.methods`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.calibrate.fit import Belief
from fenwit.core.caution import JobFacts, Stage, cautions
from fenwit.core.frame.accepted import rule_rows, spread_rows
from fenwit.core.frame.air import air_of, avoid_zones
from fenwit.core.frame.asked import Asked, asked, known, must_know
from fenwit.core.frame.capacitors import working_volts
from fenwit.core.frame.proofs import proof_rows, proof_summary
from fenwit.core.frame.shown import (
    CHECKED_DIMENSIONS,
    Check,
    Frame,
    Live,
    Mark,
    ProofRow,
    Side,
    TapMark,
    Waits,
)
from fenwit.core.frame.spot import Next, Spot, spot_of
from fenwit.core.frame.steps import aim_summary, aims, mark, paths
from fenwit.core.frame.suits import NOT_SIZED, sized_ways, suits_elsewhere, suits_here
from fenwit.core.frame.why import explain
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import Design, JobState, Missing, Nameplate, Proof, datum_of
from fenwit.core.job.steps import SPEED, Steps, miss_text, misses, shown
from fenwit.core.job.subject import Refused
from fenwit.core.job.taps import tap_sheet
from fenwit.core.memory import remembered
from fenwit.core.methods import of
from fenwit.core.methods.seam import Reach, Why
from fenwit.core.motor.kinds import Suitability, is_known, suitability
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.verdict import Verdict

__all__ = [
    "Design",
    "Frame",
    "JobState",
    "Live",
    "Missing",
    "Nameplate",
    "Proof",
    "datum_of",
    "frame",
    "live",
    "reach",
    "why",
]


@remembered
def frame(state: JobState) -> Frame:
    """Compute everything a job page shows.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    Frame
        Staff, path, parts, proofs and cautions; with `missing` filled and the rest empty where too little is known [-]

    Raises
    ------
    InputError
        Values that contradict each other; the field is named.
    """
    fits = suitability(state.kind) if state.kind else ()
    found = asked(state)
    if isinstance(found, Asked):
        return _frame(found, fits)
    bare = Frame(suitability=fits, cautions=cautions(_facts(state, None)), method=state.method)
    if isinstance(found, Refused):
        # Where something that suits is sized here, the refusal itself says more than what is not.
        other = suits_elsewhere(state) if found.method_only and not suits_here(state) else ""
        if other:
            return replace(bare, unsized=other, waits_for=NOT_SIZED, waits_kind=Waits.UNSIZED)
        return replace(
            bare, refused=found.reason, waits_for=f"refused: {found.brief}", waits_kind=Waits.REFUSED
        )
    if state.kind is not None and not is_known(state.kind):
        return replace(bare, unsized=suits_elsewhere(state), waits_for=NOT_SIZED, waits_kind=Waits.UNSIZED)
    first = found.missing[0]
    waits = Waits.IDENTIFY if first.stage == Stage.IDENTIFY else Waits.READING
    words = f"needs {first.text}"
    return replace(
        bare, missing=found.missing, waits_for=words, waits_kind=waits, next=Next(words, spot_of(first))
    )


def _frame(job: Asked, fits: tuple[Suitability, ...]) -> Frame:
    state, subject = job.state, job.subject
    steps = job.steps()
    moving = _moving(job, steps)
    rows = proof_rows(job, steps) if job.design else ()
    waits, next_ = _waits_for(job, moving.marks, rows, any(p.refusal for p in moving.parts))
    built = job.regulation.built(subject, job.design) if job.design else None
    return Frame(
        **vars(moving),
        suitability=fits,
        sized=sized_ways(state),
        cautions=cautions(_facts(state, job)),
        waits_for=next_.text,
        waits_kind=waits,
        next=next_,
        proved=waits is Waits.PROVED,
        top_rpm=job.full_rpm * 1.04,
        full=shown(job.full_rpm, subject.full_band, "rpm"),
        spreads=spread_rows(job, steps),
        wiring=built.lugs if built else (),
        proofs=rows,
        proof_summary=proof_summary(rows),
        assumptions=subject.assumptions,
        **_of_machine(state, subject) if isinstance(subject, MachineFan) else {},
    )


def _of_machine(state: JobState, fan: MachineFan) -> dict[str, Any]:
    """What a frame has besides where an induction machine stands behind the regulator."""
    return {
        "synchronous_rpm": fan.synchronous_rpm,
        "checks": _checks(fan.belief),
        "lost_draws": fan.belief.draws_lost,
        "taps": _tap_marks(state, fan),
    }


def live(state: JobState, dragged: bool = True) -> Live:
    """What of a job's frame changes while wanted speeds are dragged or a regulator is tried.

    Parameters
    ----------
    state : JobState
        The job as it is tried [-]
    dragged : bool
        Whether it will be asked again in a moment: then a method may answer at a glance [-]

    Returns
    -------
    Live
        Marks, paths, aims and parts; empty where too little is known [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    job = known(state)
    return _moving(job, job.steps(dragged), dragged) if job else Live()


def reach(state: JobState) -> Reach | None:
    """Speed over the setting of a job's method: what it can do with this fan at all.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    Reach or None
        None where nothing can be computed [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    job = known(state)
    return job.regulation.reach(job.subject) if job else None


def _moving(job: Asked, steps: Steps, glance: bool = False) -> Live:
    built = job.regulation.built(job.subject, job.design) if job.design else None
    found = misses(job.full_rpm, steps) if job.design else ()
    return Live(
        marks=tuple(mark(job, s) for s in steps),
        paths=paths(job, steps),
        zones=(*job.regulation.zones(job.subject, job.design), *avoid_zones(air_of(job))),
        aims=aims(job, steps),
        aim_summary=aim_summary(job.state),
        parts=built.parts if built else (),
        rules=rule_rows(job, steps),
        miss_text=miss_text(max(m.share for m in found)) if found else "",
        method=job.regulation.key,
    )


def _tap_marks(state: JobState, fan: MachineFan) -> tuple[TapMark, ...]:
    """Speeds of the taps for the staff: the range over both connections where it is not known which."""
    sheet = tap_sheet(state, fan.belief, fan.supply)
    marks = []
    for row in sheet.rows if sheet else ():
        told = [s.speed for s in row.speeds if s.speed is not None]
        if told:
            lows = [s.low if s.low is not None else s.value for s in told]
            highs = [s.high if s.high is not None else s.value for s in told]
            speed = sum(s.value for s in told) / len(told)
            marks.append(TapMark(row.role, row.lead, speed, min(lows), max(highs), f"{speed:.0f} rpm"))
    return tuple(marks)


def _facts(state: JobState, job: Asked | None) -> JobFacts:
    read = dict(state.readings)
    fan = job.subject if job and isinstance(job.subject, MachineFan) else None
    slowest = min(state.wanted_rpm) / job.full_rpm if job and state.wanted_rpm else None
    design = state.design
    return JobFacts(
        kind=state.kind,
        supply_voltage_v=state.supply_voltage_v,
        run_capacitance_f=read.get("run_capacitance_f", state.nameplate.run_capacitance_f),
        capacitor_voltage_v=fan.full_point.capacitor_voltage_v if fan else None,
        regulator=None if design is None else of(design.method).cautions(design),
        slowest_share=slowest,
        leads=bool(state.findings.leads),
        sections=_sections(state, fan),
        room_c=read.get("cold_temperature_c"),
        room_limit_c=state.nameplate.ambient_c,
        run_section=state.findings.block.run_section if state.findings.block else "",
        board=state.board is not None,
    )


def _sections(state: JobState, fan: MachineFan | None) -> tuple[tuple[str, float, float], ...]:
    block = state.findings.block
    if block is None:
        return ()
    volts = fan.full_point.capacitor_voltage_v if fan else None
    return tuple((s.name, s.rated_f, working_volts(state, s, block, volts)) for s in block.sections)


def _waits_for(
    job: Asked, marks: Sequence[Mark], rows: Sequence[ProofRow], refused_part: bool
) -> tuple[Waits, Next]:
    if not job.state.wanted_rpm:
        return Waits.AIM, Next("speeds to be set", Spot(Stage.AIM, "aim:new"))
    size = Spot(Stage.SIZE)
    if job.design is None:
        return Waits.SIZE, Next(f"{job.regulation.noun} to be sized", size)
    unusable = next((m for m in marks if m.verdict is not StepVerdict.OK), None)
    if unusable:
        fate = "is barred" if unusable.verdict is StepVerdict.BARRED else "does not start"
        return Waits.SIZE, Next(f"step {unusable.step} {fate}: choose again", size)
    if refused_part:
        return Waits.SIZE, Next("a part that bears it: choose again", size)
    failed = next((r for r in rows if r.verdict is Verdict.FAIL), None)
    if failed:
        slow = failed.side is Side.BELOW and failed.quantity == SPEED.key
        words = f"step {failed.step} {'is slow' if slow else 'fails'}: find out why"
        return Waits.FAULT, Next(words, _proof(failed))
    unread = next((r for r in rows if r.quantity == SPEED.key and r.verdict is None), None)
    if unread:
        return Waits.PROVE, Next(f"step {unread.step} to be read", _proof(unread))
    return Waits.PROVED, Next("proved", Spot(Stage.HAND_OVER, "sign"))


def _proof(row: ProofRow) -> Spot:
    return Spot(Stage.PROVE, f"proof:{row.step}:{row.quantity}")


def _checks(belief: Belief) -> tuple[Check, ...]:
    return tuple(
        Check(
            c.name,
            q.show(c.read, CHECKED_DIMENSIONS[c.name]),
            q.show(c.expected, CHECKED_DIMENSIONS[c.name]),
            c.odd,
        )
        for c in belief.checks
        if c.run is None and c.name in CHECKED_DIMENSIONS
    )


def why(state: JobState, key: str) -> Why:
    """Explain one number of a job; keys as `fenwit.core.frame.why.explain` lists them.

    Parameters
    ----------
    state : JobState
        The job as it stands or is tried [-]
    key : str
        What is asked for [-]

    Returns
    -------
    Why
        The explanation [-]

    Raises
    ------
    InputError
        No such number in this job.
    """
    return explain(must_know(state), key)
