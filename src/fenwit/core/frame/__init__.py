"""One job, computed: everything the two instruments and the stages show, from one call.

`JobState` is what is known and wanted; `frame` answers with the staff, the power path at every step, the sizing curve,
the parts of the bank, the proofs and the cautions; `live` with what of it changes while something is dragged. Nothing
here has state of its own or does I/O.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import AbstractContextManager, nullcontext

from fenwit.core import quantity as q
from fenwit.core.calibrate.fit import Belief, Datum
from fenwit.core.caution import JobFacts, cautions
from fenwit.core.errors import InputError
from fenwit.core.frame import control, parts, proofs, steps
from fenwit.core.frame.capacitors import working_volts
from fenwit.core.frame.fan import Fan, known, refusal, regulated
from fenwit.core.frame.paths import path
from fenwit.core.frame.shown import (
    CHECKED_DIMENSIONS,
    Banks,
    Check,
    CurveStep,
    Frame,
    Live,
    Mark,
    ProofRow,
    TapMark,
)
from fenwit.core.frame.state import JobState, Missing, Nameplate, Proof, Regulator, datum_of
from fenwit.core.frame.steps import Step
from fenwit.core.frame.taps import tap_sheet
from fenwit.core.frame.why import Why, explain
from fenwit.core.motor.kinds import Method, Suitability, suitability
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.verdict import Verdict
from fenwit.core.size.bank import BankDesign, Choice
from fenwit.core.size.control import PhaseDesign

__all__ = [
    "BankDesign",
    "Banks",
    "Frame",
    "JobState",
    "Live",
    "Missing",
    "Nameplate",
    "PhaseDesign",
    "Proof",
    "Regulator",
    "frame",
    "live",
]


def frame(state: JobState) -> Frame:
    """Compute everything a job page shows.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    Frame
        Staff, path, curve, parts, proofs and cautions; with `missing` filled and the rest empty where too little is
        known [-]

    Raises
    ------
    InputError
        Values that contradict each other; the field is named.
    """
    fits = suitability(state.kind) if state.kind else ()
    refused = refusal(state)
    if refused:
        return Frame(
            refused=refused,
            suitability=fits,
            cautions=cautions(_facts(state, None)),
            waits_for=f"refused: {refused.split(':')[0]}",
            waits_kind="refused",
        )
    found_fan = known(state)
    if found_fan is None:
        missing = datum_of(state)[1]
        return Frame(
            missing=missing,
            suitability=fits,
            cautions=cautions(_facts(state, None)),
            waits_for=f"needs {missing[0].text}",
            waits_kind="identify" if missing[0].stage == "identify" else "reading",
        )
    with _alone(state, found_fan[1]):
        return _frame(state, *found_fan, fits)


def _alone(state: JobState, fan: Fan) -> AbstractContextManager[object]:
    return fan.lock if state.method is Method.PHASE_ANGLE else nullcontext()


def _frame(state: JobState, datum: Datum, fan: Fan, fits: tuple[Suitability, ...]) -> Frame:
    found = _steps(state, datum, fan)
    moving = _moving(state, datum, fan, found)
    rows = tuple(row for s in found for row in proofs.proof_rows(state, fan, s)) if state.design else ()
    waits_for, waits = _waits_for(state, moving.marks, rows, any(p.refusal for p in moving.parts))
    bank = regulated(datum, fan.supply, state.bank) if state.bank else None
    built = control.control_of(fan, state.control) if state.control else None
    fired = state.method is Method.PHASE_ANGLE
    return Frame(
        **vars(moving),
        suitability=fits,
        cautions=cautions(_facts(state, fan)),
        waits_for=waits_for,
        waits_kind=waits,
        synchronous_rpm=synchronous_speed_rpm(datum.poles, datum.frequency_hz),
        top_rpm=fan.full.speed_rpm * 1.04,
        full=steps.shown(fan.full.speed_rpm, fan.direct_bands.speed_rpm, "rpm"),
        zones=steps.fired_zones(fan, bool(state.control and state.control.starts_full))
        if fired
        else steps.zones(fan),
        curve=steps.curve_points(fan),
        curve_band=fan.curve_band,
        spreads=parts.spread_rows(state, datum, fan, found)
        if bank
        else control.spread_rows(state, fan, found, built)
        if built
        else (),
        wiring=parts.wire_rows(bank) if bank else control.wire_rows(built) if built else (),
        proofs=rows,
        proof_summary=proofs.proof_summary(rows),
        checks=_checks(fan.belief),
        assumptions=fan.belief.assumptions,
        lost_draws=fan.belief.draws_lost,
        taps=_tap_marks(state, fan),
    )


def live(state: JobState, dragged: bool = True) -> Live:
    """What of a job's frame changes while wanted speeds are dragged or a bank is tried.

    Parameters
    ----------
    state : JobState
        The job as it is tried [-]
    dragged : bool
        Whether it will be asked again in a moment: then bands behind a triac lie between those of a few angles [-]

    Returns
    -------
    Live
        Marks, paths, aims and parts; empty where too little is known [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    found = known(state)
    if found is None:
        return Live()
    with _alone(state, found[1]):
        return _moving(state, *found, _steps(state, *found, dragged))


def banks(state: JobState, shelf: Sequence[Choice]) -> Banks:
    """The ten best banks for a job's wanted speeds, from the shelf first.

    Parameters
    ----------
    state : JobState
        The job as it stands or is tried [-]
    shelf : sequence of Choice
        Capacitors on the shelf with how many are free for this job [-]

    Returns
    -------
    Banks
        Candidates best first, or a note why there is none [-]

    Raises
    ------
    InputError
        As `frame`, or more wanted speeds than can be searched for.
    """
    found = known(state)
    if found is None:
        missing = () if refusal(state) else datum_of(state)[1]
        return Banks((), "Needs " + ", ".join(m.text for m in missing) if missing else "", ())
    _, fan = found
    steps.check_wanted(state, fan)
    return parts.banks_of(state, fan, shelf)


def _steps(state: JobState, datum: Datum, fan: Fan, glance: bool = False) -> tuple[Step, ...]:
    steps.check_wanted(state, fan)
    return steps.steps_of(state, datum, fan, glance)


def _moving(state: JobState, datum: Datum, fan: Fan, found: tuple[Step, ...], glance: bool = False) -> Live:
    bank = regulated(datum, fan.supply, state.bank) if state.bank else None
    built = control.control_of(fan, state.control) if state.control else None
    return Live(
        marks=tuple(steps.mark(state, fan, s) for s in found),
        paths=tuple(path(fan, s) for s in found) or (path(fan, steps.direct_step(fan)),),
        curve_steps=tuple(
            CurveStep(s.number, s.label, s.capacitance_f, s.shown_point.speed_rpm if s.shown_point else None)
            for s in found
            if s.capacitance_f is not None
        ),
        aims=steps.aims(state, fan, found),
        aim_summary=steps.aim_summary(state),
        parts=parts.part_rows(bank, found) if bank else control.part_rows(built) if built else (),
        rules=parts.rule_rows(state, fan, found, bank)
        if bank
        else control.rule_rows(state, fan, found, built)
        if built
        else (),
        miss_text=_built_miss(fan, found) if state.design else "",
        method=state.method,
    )


def _built_miss(fan: Fan, found: tuple[Step, ...]) -> str:
    misses = steps.misses(fan, found)
    return parts.miss_text(max(m.share for m in misses)) if misses else ""


def _tap_marks(state: JobState, fan: Fan) -> tuple[TapMark, ...]:
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


def _facts(state: JobState, fan: Fan | None) -> JobFacts:
    read = dict(state.readings)
    slowest = min(state.wanted_rpm) / fan.full.speed_rpm if fan and state.wanted_rpm else None
    return JobFacts(
        kind=state.kind,
        supply_voltage_v=state.supply_voltage_v,
        run_capacitance_f=read.get("run_capacitance_f", state.nameplate.run_capacitance_f),
        capacitor_voltage_v=fan.full.capacitor_voltage_v if fan else None,
        regulator=state.design is not None,
        triac=state.control is not None,
        slowest_share=slowest,
        leads=bool(state.findings.leads),
        sections=_sections(state, fan),
    )


def _sections(state: JobState, fan: Fan | None) -> tuple[tuple[str, float, float], ...]:
    block = state.findings.block
    if block is None:
        return ()
    volts = fan.full.capacitor_voltage_v if fan else None
    return tuple((s.name, s.rated_f, working_volts(state, s, block, volts)) for s in block.sections)


def _waits_for(
    state: JobState, marks: Sequence[Mark], rows: Sequence[ProofRow], refused_part: bool
) -> tuple[str, str]:
    if not state.wanted_rpm:
        return "speeds to be set", "aim"
    if state.design is None:
        return ("bank" if state.method is Method.SERIES_CAPACITOR else "control") + " to be sized", "size"
    unusable = next((m for m in marks if m.verdict is not StepVerdict.OK), None)
    if unusable:
        fate = "is barred" if unusable.verdict is StepVerdict.BARRED else "does not start"
        return f"step {unusable.step} {fate}: choose again", "size"
    if refused_part:
        return "a part that bears it: choose again", "size"
    failed = [r for r in rows if r.verdict is Verdict.FAIL]
    if failed:
        slow = failed[0].words.find(" below ") >= 0 and failed[0].quantity == "speed_rpm"
        return f"step {failed[0].step} {'is slow' if slow else 'fails'}: find out why", "prove"
    unread = [r.step for r in rows if r.quantity == "speed_rpm" and r.verdict is None]
    if unread:
        return f"step {unread[0]} to be read", "prove"
    return "proved", "proved"


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
    found = known(state)
    if found is None:
        raise InputError("of", key, "a number shown in this job", "nothing is computed yet")
    return explain(state, *found, key)
