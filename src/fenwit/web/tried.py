"""What is dragged or tried in a browser, as a state of the job."""

from __future__ import annotations

from dataclasses import replace

from fenwit.core.frame.asked import as_by
from fenwit.core.job.state import JobState
from fenwit.store.database import Database
from fenwit.web.methods import door_of
from fenwit.web.models import Tried


def tried_state(database: Database, state: JobState, tried: Tried) -> JobState:
    """A job as it is tried. Raises InputError beside what was typed."""
    if tried.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(tried.wanted_rpm)))
    if tried.design is not None:
        design = door_of(tried.design.method).read(database, state, tried.design)
        return replace(state, design=design, proofs=())
    return state if tried.method is None else as_by(state, tried.method)
