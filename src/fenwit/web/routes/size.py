"""Size: the bank, what it is searched from, the live frame that answers a drag, and why each number is what it is."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Path, Response
from pydantic import TypeAdapter

from fenwit.core import CORE_VERSION
from fenwit.core import frame as core
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, Regulator
from fenwit.core.frame.phase import phase_refusal
from fenwit.core.frame.shown import Banks, Live
from fenwit.core.frame.tables import Table, snapshot, tables
from fenwit.core.frame.why import Why
from fenwit.store import codec, designs, history, jobs, shelf
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web.banks import read_bank, regulator_of, shelf_choices
from fenwit.web.controls import read_control
from fenwit.web.models import (
    Again,
    Db,
    JobId,
    JobPage,
    NewControl,
    NewDesign,
    Question,
    Reserve,
    Tried,
    Who,
)
from fenwit.web.page import Loaded, changed, load, load_state, must_compute

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["size"])


_LIVE = TypeAdapter(Live)


@router.post("/live", response_model=Live)
def live(job_id: JobId, tried: Tried, db: Db) -> Response:
    """What changes with other wanted speeds or another bank; nothing is kept."""
    # Written out here: a drag is answered sixty times a second, and this is the shortest way to JSON.
    answer = core.live(tried_state(db, load_state(db, job_id), tried), tried.wanted_rpm is not None)
    return Response(_LIVE.dump_json(answer), media_type="application/json")


@router.post("/banks")
def banks(job_id: JobId, tried: Tried, db: Db) -> Banks:
    """The ten best banks for the wanted speeds, from the shelf first."""
    return core.banks(tried_state(db, load_state(db, job_id), tried), shelf_choices(db, job_id))


@router.post("/why")
def why(job_id: JobId, question: Question, db: Db) -> Why:
    """Equation, numbers, assumptions and validity of one number."""
    return core.why(tried_state(db, load_state(db, job_id), question), question.of)


@router.get("/tables")
def numbers(job_id: JobId, db: Db) -> list[Table]:
    """The numbers behind every picture."""
    return list(tables(load_state(db, job_id)))


def tried_state(db: Database, state: JobState, tried: Tried) -> JobState:
    """A job as it is tried. Raises InputError beside what was typed."""
    if tried.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(tried.wanted_rpm)))
    if tried.bank is not None:
        state = replace(state, design=read_bank(db, tried.bank, state.sizing), proofs=())
    elif tried.control is not None:
        state = replace(state, design=read_control(state, tried.control), proofs=())
    return state


@router.post("/designs", status_code=201)
def choose_bank(job_id: JobId, new: NewDesign, db: Db) -> JobPage:
    """Keep a bank as the next revision of the design, with the core's version and what it predicts."""
    with db.transaction():
        jobs.touch(db, job_id)
        loaded = load(db, job_id)
        bank = read_bank(db, new, loaded.state.sizing)
        computed = must_compute(replace(loaded.state, design=bank, proofs=()), "a")
        return _keep(db, loaded, new, bank, computed, "the bank")


@router.post("/controls", status_code=201)
def choose_control(job_id: JobId, new: NewControl, db: Db) -> JobPage:
    """Keep a phase-angle control as the next revision of the design."""
    with db.transaction():
        jobs.touch(db, job_id)
        loaded = load(db, job_id)
        refused = phase_refusal(loaded.state)
        if refused:
            raise InputError("fired_by", new.fired_by.value, "a fan that phase angle suits", refused)
        control = read_control(loaded.state, new)
        computed = must_compute(replace(loaded.state, design=control, proofs=()), "angles")
        return _keep(db, loaded, new, control, computed, "the phase-angle control")


@router.post("/designs/{design_id}/again", status_code=201)
def choose_again(
    job_id: JobId, design_id: Annotated[int, Path(ge=1, le=2**53)], again: Again, db: Db
) -> JobPage:
    """Let an earlier design of this job stand again, with the readings that were taken on it."""
    with db.transaction():
        jobs.touch(db, job_id)
        loaded = load(db, job_id)
        earlier = next((d for d in loaded.revisions if d.id == design_id), None)
        if earlier is None or earlier.regulator is None:
            raise NotFound("design of this job", design_id)
        must_compute(replace(loaded.state, design=regulator_of(earlier.regulator), proofs=()), "design")
        before = loaded.design if loaded.design and loaded.design.regulator is not None else None
        design = designs.add(
            db,
            job_id,
            after_revision=again.after_revision,
            regulator=earlier.regulator,
            kept=earlier.kept,
            core_version=earlier.core_version,
            who=again.who,
            restores=earlier.root,
            name=earlier.name,
        )
        change = history.design_change(before, design)
        history.record(db, job_id, f"back to revision {earlier.revision}", [change], again.who)
        return changed(db, job_id)


def _keep(
    db: Database,
    loaded: Loaded,
    new: NewDesign | NewControl,
    regulator: Regulator,
    computed: Frame,
    what: str,
) -> JobPage:
    for part in computed.parts:
        if part.refusal:
            raise InputError(part.name, part.text, "a part that bears it", f"{part.role}: {part.refusal}")
    before = loaded.design if loaded.design and loaded.design.regulator is not None else None
    design = designs.add(
        db,
        loaded.job.id,
        after_revision=new.after_revision,
        regulator=codec.dump(regulator),
        kept=snapshot(computed),
        core_version=CORE_VERSION,
        who=new.who,
        name=new.name,
    )
    history.record(db, loaded.job.id, what, [history.design_change(before, design)], new.who)
    return changed(db, loaded.job.id)


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
