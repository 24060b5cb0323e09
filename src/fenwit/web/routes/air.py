"""Air of a job: what is typed of it, what flows at each step, a fan curve from a file."""

from __future__ import annotations

from fastapi import Request
from pydantic import BaseModel

from fenwit.core.frame.air import AirShown, air_shown
from fenwit.core.job.air import AirSheet
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.air import AirEdit, curve_from_csv, read_air, typed_air
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.page import load_state
from fenwit.web.uploads import CSV_BODY, body_of

router = routing.router("/api/jobs/{job_id}", "air")


class AirPage(BaseModel):
    """The air as it stands in its inputs, and all that is computed of it."""

    typed: AirEdit
    shown: AirShown


@router.get("/air", dependencies=[HEAVY])
def show_air(job_id: JobId, db: Db) -> AirPage:
    """Flow, pressure and noise at every step, as far as they are known."""
    state = load_state(db, job_id)
    return AirPage(typed=typed_air(state.air), shown=air_shown(state))


@router.post("/air/import", openapi_extra=CSV_BODY, dependencies=[HEAVY])
async def read_curve(job_id: JobId, request: Request) -> AirEdit:
    """What a file says of the fan's curve, as it would be typed; nothing is kept."""
    from starlette.concurrency import run_in_threadpool

    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_curve, request.app.state.database, job_id, data)


def _curve(db: Database, job_id: int, data: bytes) -> AirEdit:
    load_state(db, job_id)
    edit = curve_from_csv(data)
    read_air(AirSheet(), edit)
    return edit
