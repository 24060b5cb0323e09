"""Size: the design whatever its method, the live frame that answers a drag, and why each number is what it is."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import Path, Response
from pydantic import TypeAdapter

from fenwit.core import CORE_VERSION
from fenwit.core import frame as core
from fenwit.core.errors import InputError
from fenwit.core.frame import Design, Frame, Live
from fenwit.core.frame.asked import as_by, must_know
from fenwit.core.frame.tables import snapshot, tables
from fenwit.core.job.subject import Refused
from fenwit.core.methods import of
from fenwit.core.methods.seam import Reach, Table, Why
from fenwit.core.motor.kinds import Method
from fenwit.store import codec, designs, history, jobs, shelf
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web import routing
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.methods import DesignEdit, door_of
from fenwit.web.models import Again, JobPage, NewDesign, Question, Reserve, Tried, Who
from fenwit.web.page import Loaded, changed, load, load_state, must_compute, read_stored, saving
from fenwit.web.tried import tried_state

router = routing.router("/api/jobs/{job_id}", "size")


_LIVE = TypeAdapter(Live)


@router.post("/live", response_model=Live)
def live(job_id: JobId, tried: Tried, db: Db) -> Response:
    """What changes with other wanted speeds or another design; nothing is kept."""
    # Written out here: a drag is answered sixty times a second, and this is the shortest way to JSON.
    answer = core.live(tried_state(db, load_state(db, job_id), tried), tried.wanted_rpm is not None)
    return Response(_LIVE.dump_json(answer), media_type="application/json")


@router.get("/reach")
def show_reach(job_id: JobId, db: Db, method: Method | None = None) -> Reach | None:
    """Speed over the setting of a method, the job's own where none is named; nothing where it is refused."""
    state = load_state(db, job_id)
    return core.reach(as_by(state, method) if method else state)


@router.get("/usual", dependencies=[HEAVY])
def show_usual(job_id: JobId, db: Db, method: Method) -> DesignEdit:
    """A sensible first design for the job's wanted speeds, as it would be typed."""
    state = as_by(load_state(db, job_id), method)
    job = must_know(state)
    if not state.wanted_rpm:
        raise InputError("wanted_rpm", "", "speeds set in Aim", "first say in Aim which speeds are wanted")
    design = job.regulation.usual(job.subject, state.wanted_rpm, state)
    typed: DesignEdit = door_of(method).typed(design)  # type: ignore[assignment]
    return typed


@router.post("/why")
def why(job_id: JobId, question: Question, db: Db) -> Why:
    """Equation, numbers, assumptions and validity of one number."""
    return core.why(tried_state(db, load_state(db, job_id), question), question.of)


@router.get("/tables", dependencies=[HEAVY])
def numbers(job_id: JobId, db: Db) -> list[Table]:
    """The numbers behind every picture."""
    return list(tables(load_state(db, job_id)))


@router.post("/designs", status_code=201)
def choose(job_id: JobId, new: NewDesign, db: Db) -> JobPage:
    """Keep a design as the next revision, with the core's version and what it predicts."""
    loaded = load(db, job_id)
    door, regulation = door_of(new.design.method), of(new.design.method)
    refused = regulation.subject(loaded.usable)
    if isinstance(refused, Refused):
        raise InputError("method", door.key.value, f"a fan that {regulation.name} suits", refused.reason)
    design = door.read(db, loaded.usable, new.design)
    computed = must_compute(replace(loaded.usable, design=design, proofs=()), door.field)
    return _keep(db, loaded, new, design, computed, f"the {regulation.noun}")


@router.post("/designs/{design_id}/again", status_code=201)
def choose_again(
    job_id: JobId, design_id: Annotated[int, Path(ge=1, le=2**53)], again: Again, db: Db
) -> JobPage:
    """Let an earlier design of this job stand again, with the readings that were taken on it."""
    loaded = load(db, job_id)
    earlier = next((d for d in loaded.revisions if d.id == design_id), None)
    if earlier is None or earlier.regulator is None:
        raise NotFound("design of this job", design_id)
    regulator = earlier.regulator
    design_then = read_stored("this design", lambda: codec.load_design(regulator))
    must_compute(replace(loaded.usable, design=design_then, proofs=()), "design")
    before = loaded.design if loaded.design and loaded.design.regulator is not None else None
    with saving(db, loaded):
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
    new: NewDesign,
    design: Design,
    computed: Frame,
    what: str,
) -> JobPage:
    for part in computed.parts:
        if part.refusal:
            raise InputError(part.name, part.text, "a part that bears it", f"{part.role}: {part.refusal}")
    before = loaded.design if loaded.design and loaded.design.regulator is not None else None
    predicted = snapshot(computed)
    with saving(db, loaded):
        kept = designs.add(
            db,
            loaded.job.id,
            after_revision=new.after_revision,
            regulator=codec.dump_design(design),
            kept=predicted,
            core_version=CORE_VERSION,
            who=new.who,
            name=new.name,
        )
        history.record(db, loaded.job.id, what, [history.design_change(before, kept)], new.who)
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
