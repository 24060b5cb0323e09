"""What only a bank answers to: the search for the best ones."""

from __future__ import annotations

from fenwit.core.job.steps import check_wanted
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.series_capacitor import SERIES_CAPACITOR
from fenwit.core.methods.series_capacitor.banks import Banks, banks
from fenwit.web import routing
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.models import Tried
from fenwit.web.page import load_state
from fenwit.web.parts import shelf_choices
from fenwit.web.tried import tried_state

router = routing.router("/api/jobs/{job_id}", "banks")


@router.post("/banks", dependencies=[HEAVY])
def best_banks(job_id: JobId, tried: Tried, db: Db) -> Banks:
    """The ten best banks for the wanted speeds, from the shelf first."""
    state = tried_state(db, load_state(db, job_id), tried)
    fan = SERIES_CAPACITOR.subject(state)
    if isinstance(fan, Refused):
        return Banks((), "", ())
    if isinstance(fan, Lacking):
        return Banks((), "Needs " + ", ".join(m.text for m in fan.missing), ())
    check_wanted(state.wanted_rpm, fan.full_rpm)
    return banks(fan, state, shelf_choices(db, job_id))
