"""Bench: the jobs in hand, and a new one."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from fastapi import Query, Response

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.air import check_air
from fenwit.core.frame.hold import check_hold
from fenwit.core.frame.inspect import check_board
from fenwit.core.job.state import check_meaning, check_supply
from fenwit.core.motor.kinds import KINDS
from fenwit.store import events, history, jobs
from fenwit.store.readings import standing
from fenwit.web import routing
from fenwit.web.air import dumped as dumped_air
from fenwit.web.air import read_air
from fenwit.web.board import dumped, read_board
from fenwit.web.commanded import dumped as dumped_commanded
from fenwit.web.commanded import read_commanded
from fenwit.web.fields import Db, JobId, Sought, Typed
from fenwit.web.hold import dumped as dumped_hold
from fenwit.web.hold import read_hold
from fenwit.web.models import Alive, BenchPage, JobEdit, JobPage, KindChoice, NewJob, Who
from fenwit.web.page import bench_page, changed, job_page, load, must_compute, saving, state_of
from fenwit.web.sizing import read_profile, read_sizing
from fenwit.web.wire.edits import edited_wiring
from fenwit.web.wire.solved import circuit_of

router = routing.router("/api", "bench")


@router.get("/jobs", response_model=BenchPage)
def list_jobs(
    db: Db,
    kind: Annotated[Typed | None, Query()] = None,
    find: Annotated[Sought, Query()] = "",
    after: Annotated[int, Query(ge=0, le=2**53)] = 0,
) -> Response:
    """Jobs in hand, each with its staff, sixty at a time."""
    return Response(bench_page(db, kind=kind, find=find, after=after), media_type="application/json")


@router.get("/alive")
def alive() -> Alive:
    """Nothing but that the server is there."""
    return Alive()


@router.get("/kinds")
def list_kinds() -> list[KindChoice]:
    """The kinds of motor Fenwit knows."""
    return [KindChoice(key=k.value, name=f.name, known_by=f.known_by) for k, f in KINDS.items()]


DIRECT = ("", "0", "0hz", "0 hz", "dc")
"""How the hertz of a DC supply are typed"""
USUAL_HZ = 50.0
"""Kept beside a DC supply, where nothing uses it"""


@router.post("/jobs", status_code=201)
def new_job(new: NewJob, db: Db) -> JobPage:
    """Take a new fan in hand."""
    volts = q.parse("supply_voltage", new.supply_voltage, q.VOLTAGE)
    hertz = (
        USUAL_HZ
        if new.supply_frequency.strip().lower() in DIRECT
        else q.parse("supply_frequency", new.supply_frequency, q.FREQUENCY)
    )
    must_be_supply(volts)
    with db.transaction():
        job = jobs.add(db, name=new.name, place=new.place, wish=new.wish)
        jobs.save(db, job.id, job.version, supply_voltage_v=volts, supply_frequency_hz=hertz)
        events.add(db, job.id, "job-opened", {"name": new.name})
    return changed(db, job.id)


@router.get("/jobs/{job_id}")
def get_job(job_id: JobId, db: Db) -> JobPage:
    """One job, computed."""
    return job_page(db, job_id)


@router.patch("/jobs/{job_id}")
def edit_job(job_id: JobId, edit: JobEdit, db: Db) -> JobPage:
    """Change the wish, the supply, the acceptance profile or what the search works with."""
    loaded = load(db, job_id)
    now = loaded.job
    edits: dict[str, Any] = {}
    if edit.wish is not None:
        edits["wish"] = edit.wish
    if edit.supply_voltage is not None:
        edits["supply_voltage_v"] = q.parse("supply_voltage", edit.supply_voltage, q.VOLTAGE)
        must_be_supply(edits["supply_voltage_v"])
    if edit.supply_frequency is not None:
        edits["supply_frequency_hz"] = q.parse("supply_frequency", edit.supply_frequency, q.FREQUENCY)
    if edit.profile is not None:
        edits["profile"] = read_profile(now.profile, edit.profile)
    if edit.sizing is not None:
        edits["sizing"] = read_sizing(db, now.sizing, edit.sizing, len(now.wanted_rpm))
        if edit.sizing.method is not None:
            check_meaning(loaded.state.kind, edit.sizing.method)
    if edit.board is not None:
        board = read_board(now.board, edit.board)
        edits["board"] = dumped(board)
        if board is not None:
            check_board(loaded.state, board)
    if edit.air is not None:
        sheet = read_air(loaded.state.air, edit.air)
        edits["air"] = dumped_air(sheet)
        check_air(loaded.state, sheet)
    if edit.commanded is not None:
        edits["commanded"] = dumped_commanded(read_commanded(loaded.state.commanded, edit.commanded))
    if edit.hold is not None:
        held = read_hold(loaded.state.hold, edit.hold)
        edits["hold"] = dumped_hold(held)
        check_hold(replace(loaded.state, hold=held))
    if edit.wiring is not None:
        edits["wiring"] = edited_wiring(loaded.state, circuit_of(now.wiring), loaded.fan.name, edit.wiring)
    if edit.version == now.version:
        field = next((f for f in ("supply_voltage", "supply_frequency") if getattr(edit, f)), None)
        state = state_of(
            replace(now, **edits),
            loaded.fan,
            standing(loaded.readings),
            loaded.design,
            loaded.runs,
            loaded.answered,
        )
        if field:
            check_supply(state)
            must_compute(state, field)
    with saving(db, loaded):
        saved = jobs.save(db, job_id, edit.version, **edits)
        history.record(db, job_id, _said(edits), [history.job_change(now, saved)], edit.who)
    return changed(db, job_id)


_LABELS = {
    "wish": "what is wanted",
    "supply_voltage_v": "supply volts",
    "supply_frequency_hz": "supply hertz",
    "profile": "the acceptance profile",
    "sizing": "what the search works with",
    "board": "the control that came in",
    "air": "what is known of the air",
    "commanded": "what is known of the fan",
    "hold": "what the fan holds by itself",
    "wiring": "how it is wired",
}


def _said(edits: dict[str, Any]) -> str:
    return ", ".join(_LABELS[name] for name in edits) or "nothing"


@router.post("/jobs/{job_id}/undo")
def undo(job_id: JobId, by: Who, db: Db) -> JobPage:
    """Take the last edit back; what was is saved as a new version."""
    with db.transaction():
        history.step_back(db, job_id, by.who)
    return changed(db, job_id)


@router.post("/jobs/{job_id}/redo")
def redo(job_id: JobId, by: Who, db: Db) -> JobPage:
    """Do again what was undone last."""
    with db.transaction():
        history.step_forward(db, job_id, by.who)
    return changed(db, job_id)


def must_be_supply(volts: float) -> None:
    """Raise InputError for a supply of no volts."""
    if volts < 1:
        raise InputError("supply_voltage", volts, "1 to 1000 V", "a supply has volts")
