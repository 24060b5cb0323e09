"""Measure and Prove: readings, appended; and the confirmations that come before them."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query

from fenwit.core import quantity as q
from fenwit.core.calibrate.instruments import relative_sigma
from fenwit.core.calibrate.leads import parse_ohms
from fenwit.core.caution import Confirm, Stage, blocking
from fenwit.core.errors import InputError, check_range
from fenwit.core.frame import Frame, frame
from fenwit.core.frame.study import StudyShown, study
from fenwit.core.job.findings import FRAME_OHM, LEAD_OHM, SECTION_F
from fenwit.core.job.state import InLine, run_of
from fenwit.store import events, history, instruments, jobs, readings, runs
from fenwit.store.database import Database
from fenwit.web.edits import NewRun
from fenwit.web.fields import Db, JobId
from fenwit.web.findings import instrument_of
from fenwit.web.models import Confirmation, JobPage, NewReading
from fenwit.web.page import Loaded, changed, load, must_compute, state_of
from fenwit.web.page.asked import MEASURED, OPEN_READING, PROVED, SHORT_READING, Asked, run_asked, sheet_asked
from fenwit.web.problems import Gated

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["measure"])


@router.post("/readings", status_code=201)
def take_reading(job_id: JobId, new: NewReading, db: Db) -> JobPage:
    """Append a reading, at full speed or at a step of the regulator."""
    with db.transaction():
        jobs.touch(db, job_id)
        label, change = take(db, load(db, job_id), new)
        history.record(db, job_id, label, [change], new.who)
        return changed(db, job_id)


def take(
    db: Database, loaded: Loaded, new: NewReading, at: datetime | None = None
) -> tuple[str, dict[str, Any]]:
    """Append one reading to a loaded job; returns what it is called and the change it made."""
    before = readings.get(db, new.supersedes) if new.supersedes else None
    if new.step is None:
        asked, reading = _measure(db, loaded, new, at)
        label = asked.label
    else:
        reading = _prove(db, loaded, new, new.step, at)
        label = f"{new.quantity.rpartition('_')[0].replace('_', ' ')} at step {new.step}"
    return label, history.reading_change(before, reading)


def _asked(loaded: Loaded, new: NewReading) -> Asked:
    known = {a.field: a for a in sheet_asked(loaded.state.findings)} | {a.field: a for a in MEASURED}
    if new.run is not None:
        if all(run.id != new.run or run.gone for run in loaded.runs):
            raise InputError("run", new.run, "a run of this job", "there is no such run")
        known = {a.field: a for a in run_asked(loaded.fan.motor_kind)}
    asked = known.get(new.quantity)
    if asked is None:
        raise InputError("quantity", new.quantity, ", ".join(known), "no such reading")
    return asked


def _measure(
    db: Database, loaded: Loaded, new: NewReading, at: datetime | None
) -> tuple[Asked, readings.Reading]:
    asked = _asked(loaded, new)
    value = _value(new, asked.dimension)
    if value is not None:
        stage = Stage.IDENTIFY if ":" in new.quantity else Stage.MEASURE
        _must_be_open(frame(loaded.state), loaded, stage, new.quantity)
    sigma = None
    if new.instrument is not None and value:
        meter = instruments.get(db, new.instrument)
        sigma = relative_sigma(instrument_of(meter.name, meter.true_rms, meter.ranges), new.quantity, value)
    # The job as it would be; what cannot be computed is refused beside the field.
    trial = readings.Reading(
        0, loaded.fan.id, loaded.job.id, None, None, new.quantity, value, new.text, None, None, new.who,
        datetime.now(UTC), new.supersedes, new.run, None, sigma, new.aside,
    )  # fmt: skip
    others = [
        r
        for r in readings.standing(loaded.readings)
        if not (r.step is None and r.quantity == new.quantity and r.run_id == new.run)
    ]
    rows = others if value is None else [*others, trial]
    state = state_of(loaded.job, loaded.fan, rows, loaded.design, loaded.runs, loaded.answered)
    must_compute(state, new.quantity)
    if new.quantity in ("hot_resistance_ohm", "main_resistance_ohm", "cold_temperature_c", "run_up_s"):
        try:
            study(replace(state, wanted_rpm=(), design=None, proofs=()))
        except InputError as error:
            raise InputError(new.quantity, error.value, error.allowed, error.reason) from None
    return asked, readings.add(
        db,
        fan_id=loaded.fan.id,
        job_id=loaded.job.id,
        quantity=new.quantity,
        value=value,
        typed=new.text,
        who=new.who,
        supersedes=new.supersedes,
        taken_at=at,
        run_id=new.run,
        instrument_id=new.instrument if sigma is not None else None,
        sigma=sigma,
        aside=new.aside,
    )


def _prove(db: Database, loaded: Loaded, new: NewReading, step: int, at: datetime | None) -> readings.Reading:
    if loaded.design is None or loaded.design.regulator is None:
        raise InputError("step", step, "a job with a chosen regulator", "choose a regulator in Size first")
    if new.quantity not in PROVED:
        raise InputError("quantity", new.quantity, ", ".join(PROVED), "no such reading")
    value = _value(new, PROVED[new.quantity].dimension, zero=True)
    computed = frame(loaded.state)
    row = next((r for r in computed.proofs if r.step == step and r.quantity == new.quantity), None)
    if row is None:
        raise InputError("step", step, "a step that runs", "nothing is expected at this step")
    if value is not None:
        _must_be_open(computed, loaded, Stage.PROVE, new.quantity)
    return readings.add(
        db,
        fan_id=loaded.fan.id,
        job_id=loaded.job.id,
        design_id=loaded.design.root,
        step=step,
        quantity=new.quantity,
        value=value,
        typed=new.text,
        who=new.who,
        expected=(row.low, row.high),
        supersedes=new.supersedes,
        taken_at=at,
    )


def _value(new: NewReading, dimension: q.Dimension, *, zero: bool = False) -> float | None:
    if not new.text and new.supersedes is not None:
        return None
    # A fan that stands reads nought, which is a finding and not a slip.
    if zero and new.text in ("0", "0 rpm", "0 V", "0 A", "0rpm", "0V", "0A", "0 mA", "0mA"):
        return 0.0
    base = new.quantity.partition(":")[0]
    if base in (LEAD_OHM, FRAME_OHM):
        # Repeats are averaged; "open" is beyond the meter's last range.
        ohms = [min(v, OPEN_READING) for v in parse_ohms(new.quantity, new.text)]
        return sum(ohms) / len(ohms)
    if base == SECTION_F and new.text.strip().lower() in ("open", "ol", "0", "short"):
        return SHORT_READING if new.text.strip().lower() == "short" else 0.0
    value = q.parse(new.quantity, new.text, dimension)
    if value <= 0 and not zero and dimension is not q.TEMPERATURE:
        raise InputError(new.quantity, new.text, "above zero", "must be above zero")
    return value


def _must_be_open(computed: Frame, loaded: Loaded, stage: Stage, quantity_name: str) -> None:
    gate = blocking(computed.cautions, stage, quantity_name, loaded.confirmed_keys)
    if gate:
        raise Gated(gate.key, gate.do)


_RUN_DIMENSION = {
    InLine.CAPACITOR: q.CAPACITANCE,
    InLine.RESISTOR: q.RESISTANCE,
    InLine.VOLTAGE: q.VOLTAGE,
}


@router.post("/runs", status_code=201)
def add_run(job_id: JobId, new: NewRun, db: Db) -> JobPage:
    """Something else is put into the line: readings can be taken in this run."""
    if new.what not in [w.value for w in InLine]:
        raise InputError("what", new.what, ", ".join(w.value for w in InLine), "no such run")
    what = InLine(new.what)
    value = None
    if what in _RUN_DIMENSION:
        value = q.parse("text", new.text, _RUN_DIMENSION[what])
        if what is InLine.VOLTAGE:
            check_range("text", value, 1.0, 1000.0, "V")
    with db.transaction():
        jobs.touch(db, job_id)
        runs.add(db, job_id, what=what.value, value=value, typed=new.text, who=new.who)
        return changed(db, job_id)


@router.delete("/runs/{run_id}")
def withdraw_run(job_id: JobId, run_id: int, db: Db) -> JobPage:
    """Put a run away that nothing was read in."""
    with db.transaction():
        jobs.touch(db, job_id)
        loaded = load(db, job_id)
        if any(r.run_id == run_id for r in readings.standing(loaded.readings)):
            raise InputError("run", run_id, "a run without readings", "take its readings back first")
        runs.withdraw(db, job_id, run_id)
        return changed(db, job_id)


@router.get("/study")
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
    if found.confirm is Confirm.READING:
        volts = 0.0 if given.text in ("0", "0V", "0 V") else q.parse("text", given.text, q.VOLTAGE)
        if found.limit is not None and volts > found.limit:
            raise InputError(
                "text",
                given.text,
                f"at most {found.limit:g} V",
                f"{q.show(volts, q.VOLTAGE)} left: discharge it again",
            )
    with db.transaction():
        events.add(db, job_id, events.CONFIRMED, {"caution": found.key, "text": given.text}, given.who)
        return changed(db, job_id)
