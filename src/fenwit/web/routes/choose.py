"""Choose: every way of regulating side by side."""

from __future__ import annotations

from fastapi import Response
from pydantic import TypeAdapter

from fenwit.core.frame.choose import ChooseShown, choose
from fenwit.web import routing
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "choose")
_SHOWN = TypeAdapter(ChooseShown)


@router.get("/choose", dependencies=[HEAVY], response_model=ChooseShown)
def show_choose(job_id: JobId, db: Db, quick: bool = False) -> Response:
    """Every way at the wanted speeds, in the order of the wishes; quick: what takes long on a new fan comes later."""
    return Response(
        _SHOWN.dump_json(choose(load_state(db, job_id), quick=quick)), media_type="application/json"
    )
