"""Measure and Prove: readings, appended; and the confirmations that come before them."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from fenwit.core import quantity as q
from fenwit.core.caution import Confirm
from fenwit.core.errors import InputError, check_range
from fenwit.core.frame import frame
from fenwit.core.frame.study import StudyShown, study
from fenwit.core.job.state import InLine, run_of
from fenwit.core.regulator.control_lead import SWEEP_DUTY, SWEEP_HZ
from fenwit.store import events, history, jobs, readings, runs
from fenwit.web import routing
from fenwit.web.commanded import duty_of
from fenwit.web.edits import Begun, NewRun
from fenwit.web.fields import Db, JobId, RowId
from fenwit.web.heavy import HEAVY
from fenwit.web.models import Confirmation, JobPage, NewReading
from fenwit.web.page import Loaded, changed, load, saving
from fenwit.web.page.asked import has_control_lead
from fenwit.web.taking import take, write

router = routing.router("/api/jobs/{job_id}", "measure")


@router.post("/readings", status_code=201)
def take_reading(job_id: JobId, new: NewReading, db: Db) -> JobPage:
    """Append a reading, at full speed or at a step of the regulator."""
    loaded = load(db, job_id)
    taken = take(db, loaded, new)
    with saving(db, loaded):
        history.record(db, job_id, taken.label, write(db, [taken]), new.who)
    return changed(db, job_id)


_RUN_DIMENSION = {
    InLine.CAPACITOR: q.CAPACITANCE,
    InLine.RESISTOR: q.RESISTANCE,
    InLine.VOLTAGE: q.VOLTAGE,
    InLine.DUTY: q.RATIO,
    InLine.CONTROL: q.VOLTAGE,
}


@router.post("/runs", status_code=201)
def add_run(job_id: JobId, new: NewRun, db: Db) -> JobPage:
    """Something else is put into the line: readings can be taken in this run."""
    if new.what not in [w.value for w in InLine]:
        raise InputError("what", new.what, ", ".join(w.value for w in InLine), "no such run")
    what = InLine(new.what)
    value = None
    if what in _RUN_DIMENSION:
        value = (
            duty_of("text", new.text)
            if what is InLine.DUTY
            else q.parse("text", new.text, _RUN_DIMENSION[what])
        )
        if what is InLine.VOLTAGE:
            check_range("text", value, 1.0, 1000.0, "V")
        if what is InLine.CONTROL:
            check_range("text", value, 0.0, 10.0, "V", reason="a control voltage lies between 0 and 10 V")
        if what is InLine.DUTY:
            check_range("text", value, 0.01, 1.0, "", reason="a duty lies between 1 and 100 %")
    with db.transaction():
        jobs.touch(db, job_id)
        runs.add(db, job_id, what=what.value, value=value, typed=new.text, who=new.who)
    return changed(db, job_id)


@router.post("/sweep", status_code=201)
def begin_sweep(job_id: JobId, begun: Begun, db: Db) -> JobPage:
    """Places for a sweep of frequencies on the control lead: eight of them at three duties; those there stay."""
    loaded = load(db, job_id)
    if not has_control_lead(loaded.fan.motor_kind):
        raise InputError("what", loaded.fan.motor_kind, "a fan with a control lead", "this fan has none")
    there = {(r.frequency_hz, r.value) for r in loaded.runs if not r.gone}
    with saving(db, loaded):
        for hertz in SWEEP_HZ:
            for duty in SWEEP_DUTY:
                if (hertz, duty) not in there:
                    typed = f"{100 * duty:g} % at {hertz / 1e3:g} kHz"
                    runs.add(
                        db, job_id, what=InLine.DUTY.value, value=duty, typed=typed, who=begun.who, frequency_hz=hertz
                    )  # fmt: skip
    return changed(db, job_id)


@router.delete("/sweep")
def withdraw_sweep(job_id: JobId, db: Db) -> JobPage:
    """Put the sweep away, as far as nothing was read in it."""
    loaded = load(db, job_id)
    read = {r.run_id for r in readings.standing(loaded.readings) if r.value is not None}
    with saving(db, loaded):
        for run in loaded.runs:
            if run.frequency_hz is not None and not run.gone and run.id not in read:
                runs.withdraw(db, job_id, run.id)
    return changed(db, job_id)


@router.delete("/runs/{run_id}")
def withdraw_run(job_id: JobId, run_id: RowId, db: Db) -> JobPage:
    """Put a run away that nothing was read in."""
    loaded = load(db, job_id)
    if any(r.run_id == run_id for r in readings.standing(loaded.readings)):
        raise InputError("run", run_id, "a run without readings", "take its readings back first")
    with saving(db, loaded):
        runs.withdraw(db, job_id, run_id)
    return changed(db, job_id)


@router.get("/study", dependencies=[HEAVY])
def show_study(job_id: JobId, db: Db, step: Annotated[int, Query(ge=1, le=8)] = 1) -> StudyShown:
    """Every reading against the model, torque over speed, how a step's band shrank, what to read next."""
    loaded = load(db, job_id)
    return study(loaded.state, step, _order(loaded))


def _order(loaded: Loaded) -> list[str]:
    """Names of the readings in the order in which they were taken."""
    used = [run.key for run in loaded.state.runs if run_of(loaded.state, run) is not None]
    names = []
    for r in sorted(readings.standing(loaded.readings), key=lambda r: r.id):
        if r.step is not None or r.aside:
            continue
        if r.run_id is None:
            names.append(r.quantity)
        elif r.run_id in used:
            names.append(f"run:{used.index(r.run_id)}:{r.quantity}")
    return names


@router.post("/confirmations", status_code=201)
def confirm(job_id: JobId, given: Confirmation, db: Db) -> JobPage:
    """Confirm a caution by a tick or a reading; who did it is kept."""
    loaded = load(db, job_id)
    found = next((c for c in frame(loaded.state).cautions if c.key == given.caution and c.gates), None)
    if found is None:
        raise InputError(
            "caution", given.caution, "a caution of this job that gates", "nothing to confirm here"
        )
    if not given.who:
        raise InputError("who", "", "a name or initials", "say who confirms this")
    text = given.text
    if found.confirm is Confirm.READING:
        volts = 0.0 if given.text in ("0", "0V", "0 V") else q.parse("text", given.text, q.VOLTAGE)
        if found.limit is not None and volts > found.limit:
            raise InputError(
                "text",
                given.text,
                f"at most {found.limit:g} V",
                f"{q.show(volts, q.VOLTAGE)} left: discharge it again",
            )
        text = q.show(volts, q.VOLTAGE)
    # As it read when it was confirmed: what is known of the fan later may change its words.
    said = {"caution": found.key, "text": text, "brief": found.brief, "said": found.text, "do": found.do}
    with saving(db, loaded):
        events.add(db, job_id, events.CONFIRMED, said, given.who)
    return changed(db, job_id)
