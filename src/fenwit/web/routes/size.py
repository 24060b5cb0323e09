"""Size: the bank, what it is searched from, the live frame that answers a drag, and why each number is what it is."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter, Response
from pydantic import TypeAdapter

from fenwit.core import CORE_VERSION
from fenwit.core import frame as core
from fenwit.core.errors import InputError
from fenwit.core.frame import JobState
from fenwit.core.frame.shown import Banks, Live
from fenwit.core.frame.tables import Table, snapshot, tables
from fenwit.core.frame.why import Why
from fenwit.store import codec, designs, history, jobs, shelf
from fenwit.store.database import Database
from fenwit.web.banks import read_bank, shelf_choices
from fenwit.web.models import Db, JobId, JobPage, NewDesign, Question, Reserve, Tried, Who
from fenwit.web.page import changed, load, load_state, must_compute

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["size"])


_LIVE = TypeAdapter(Live)


@router.post("/live", response_model=Live)
def live(job_id: JobId, tried: Tried, db: Db) -> Response:
    """What changes with other wanted speeds or another bank; nothing is kept."""
    # Written out here: a drag is answered sixty times a second, and this is the shortest way to JSON.
    answer = core.live(_tried(db, load_state(db, job_id), tried))
    return Response(_LIVE.dump_json(answer), media_type="application/json")


@router.post("/banks")
def banks(job_id: JobId, tried: Tried, db: Db) -> Banks:
    """The ten best banks for the wanted speeds, from the shelf first."""
    return core.banks(_tried(db, load_state(db, job_id), tried), shelf_choices(db, job_id))


@router.post("/why")
def why(job_id: JobId, question: Question, db: Db) -> Why:
    """Equation, numbers, assumptions and validity of one number."""
    return core.why(_tried(db, load_state(db, job_id), question), question.of)


@router.get("/tables")
def numbers(job_id: JobId, db: Db) -> list[Table]:
    """The numbers behind every picture."""
    return list(tables(load_state(db, job_id)))


def _tried(db: Database, state: JobState, tried: Tried) -> JobState:
    if tried.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(tried.wanted_rpm)))
    if tried.bank is not None:
        state = replace(state, design=read_bank(db, tried.bank, state.sizing), proofs=())
    return state


@router.post("/designs", status_code=201)
def choose_bank(job_id: JobId, new: NewDesign, db: Db) -> JobPage:
    """Keep a bank as the next revision of the design, with the core's version and what it predicts."""
    with db.transaction():
        jobs.touch(db, job_id)
        loaded = load(db, job_id)
        bank = read_bank(db, new, loaded.state.sizing)
        computed = must_compute(replace(loaded.state, design=bank, proofs=()), "a")
        for part in computed.parts:
            if part.refusal:
                raise InputError(part.name, part.text, "a part that bears it", f"{part.role}: {part.refusal}")
        before = loaded.design if loaded.design and loaded.design.regulator is not None else None
        design = designs.add(
            db,
            job_id,
            after_revision=new.after_revision,
            regulator=codec.dump(bank),
            kept=snapshot(computed),
            core_version=CORE_VERSION,
            who=new.who,
        )
        history.record(db, job_id, "the bank", [history.design_change(before, design)], new.who)
        return changed(db, job_id)


@router.put("/reservations")
def put_aside(job_id: JobId, reserve: Reserve, db: Db) -> JobPage:
    """Put shelf parts aside for the job, or give them back."""
    with db.transaction():
        jobs.touch(db, job_id)
        held = {r.part_id: r for r in shelf.of_job(db, job_id)}.get(reserve.part_id)
        before = (held.reserved, held.used) if held else (0, 0)
        after = (reserve.count, before[1])
        shelf.set_reservation(db, reserve.part_id, job_id, *after)
        change = history.reservation_change(reserve.part_id, job_id, before, after)
        history.record(db, job_id, "parts put aside", [change], reserve.who)
        return changed(db, job_id)


@router.post("/reservations/use")
def use_up(job_id: JobId, by: Who, db: Db) -> JobPage:
    """Take all parts that are put aside for the job off the shelf: they are built in."""
    with db.transaction():
        jobs.touch(db, job_id)
        changes = []
        for held in shelf.of_job(db, job_id):
            if held.reserved == 0:
                continue
            part = shelf.get(db, held.part_id)
            values = shelf.values_of(part)
            taken = {**values, "count": max(0, part.count - held.reserved)}
            # Given back first: the shelf never shows more put aside than there is.
            used = (0, held.used + held.reserved)
            shelf.set_reservation(db, part.id, job_id, *used)
            shelf.save(db, part.id, part.version, taken)
            changes += [
                history.reservation_change(part.id, job_id, (held.reserved, held.used), used),
                history.shelf_change(part.id, values, taken),
            ]
        if not changes:
            raise InputError("reservations", 0, "parts put aside", "nothing is put aside for this job")
        history.record(db, job_id, "parts used up", changes, by.who)
        return changed(db, job_id)
