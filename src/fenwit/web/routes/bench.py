"""Bench: the jobs in hand, and a new one."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.motor.kinds import KINDS
from fenwit.store import events, jobs
from fenwit.store.readings import standing
from fenwit.web.models import Card, Db, JobEdit, JobId, JobPage, KindChoice, NewJob
from fenwit.web.page import cards, job_page, load, must_compute, state_of

router = APIRouter(prefix="/api", tags=["bench"])


@router.get("/jobs")
def list_jobs(db: Db) -> list[Card]:
    """Every job in hand, with its staff."""
    return cards(db)


@router.get("/kinds")
def list_kinds() -> list[KindChoice]:
    """The kinds of motor Fenwit knows."""
    return [KindChoice(key=k.value, name=f.name, known_by=f.known_by) for k, f in KINDS.items()]


@router.post("/jobs", status_code=201)
def new_job(new: NewJob, db: Db) -> JobPage:
    """Take a new fan in hand."""
    volts = q.parse("supply_voltage", new.supply_voltage, q.VOLTAGE)
    hertz = q.parse("supply_frequency", new.supply_frequency, q.FREQUENCY)
    must_be_supply(volts)
    with db.transaction():
        job = jobs.add(db, name=new.name, place=new.place, wish=new.wish)
        jobs.save(db, job.id, job.version, supply_voltage_v=volts, supply_frequency_hz=hertz)
        events.add(db, job.id, "job-opened", {"name": new.name})
    return job_page(db, job.id)


@router.get("/jobs/{job_id}")
def get_job(job_id: JobId, db: Db) -> JobPage:
    """One job, computed."""
    return job_page(db, job_id)


@router.patch("/jobs/{job_id}")
def edit_job(job_id: JobId, edit: JobEdit, db: Db) -> JobPage:
    """Change the wish or the supply."""
    loaded = load(db, job_id)
    volts = hertz = None
    if edit.supply_voltage is not None:
        volts = q.parse("supply_voltage", edit.supply_voltage, q.VOLTAGE)
        must_be_supply(volts)
    if edit.supply_frequency is not None:
        hertz = q.parse("supply_frequency", edit.supply_frequency, q.FREQUENCY)
    changed = replace(
        loaded.job,
        supply_voltage_v=volts or loaded.job.supply_voltage_v,
        supply_frequency_hz=hertz or loaded.job.supply_frequency_hz,
    )
    if edit.version == loaded.job.version and (volts or hertz):
        must_compute(
            state_of(changed, loaded.fan, standing(loaded.readings), loaded.design),
            "supply_voltage" if volts else "supply_frequency",
        )
    jobs.save(db, job_id, edit.version, wish=edit.wish, supply_voltage_v=volts, supply_frequency_hz=hertz)
    return job_page(db, job_id)


def must_be_supply(volts: float) -> None:
    """Raise InputError for a supply of no volts."""
    if volts < 1:
        raise InputError("supply_voltage", volts, "1 to 1000 V", "a supply has volts")
