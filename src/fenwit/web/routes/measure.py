"""Measure and Prove: readings, appended; and the confirmations that come before them."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

from fastapi import APIRouter

from fenwit.core import quantity as q
from fenwit.core.caution import Confirm, Stage, blocking
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, frame
from fenwit.store import events, history, jobs, readings
from fenwit.store.database import Database
from fenwit.web.models import Confirmation, Db, JobId, JobPage, NewReading
from fenwit.web.page import MEASURED, PROVED, Asked, Loaded, changed, load, must_compute
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


def _measure(
    db: Database, loaded: Loaded, new: NewReading, at: datetime | None
) -> tuple[Asked, readings.Reading]:
    asked = next((a for a in MEASURED if a.field == new.quantity), None)
    if asked is None:
        raise InputError("quantity", new.quantity, ", ".join(a.field for a in MEASURED), "no such reading")
    value = _value(new, asked.dimension)
    if value is not None:
        _must_be_open(frame(loaded.state), loaded, Stage.MEASURE, new.quantity)
    others = tuple(r for r in loaded.state.readings if r[0] != new.quantity)
    mine = () if value is None else ((new.quantity, value),)
    must_compute(replace(loaded.state, readings=tuple(sorted(others + mine))), new.quantity)
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
    )


def _prove(db: Database, loaded: Loaded, new: NewReading, step: int, at: datetime | None) -> readings.Reading:
    if loaded.design is None or loaded.design.regulator is None:
        raise InputError("step", step, "a job with a chosen bank", "choose a bank in Size first")
    if new.quantity not in PROVED:
        raise InputError("quantity", new.quantity, ", ".join(PROVED), "no such reading")
    value = _value(new, PROVED[new.quantity], zero=True)
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
    value = q.parse(new.quantity, new.text, dimension)
    if value <= 0 and not zero:
        raise InputError(new.quantity, new.text, "above zero", "must be above zero")
    return value


def _must_be_open(computed: Frame, loaded: Loaded, stage: Stage, quantity_name: str) -> None:
    gate = blocking(computed.cautions, stage, quantity_name, loaded.confirmed_keys)
    if gate:
        raise Gated(gate.key, gate.do)


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
        volts = q.parse("text", given.text, q.VOLTAGE)
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
