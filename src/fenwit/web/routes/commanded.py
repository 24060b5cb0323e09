"""What is known of a fan with electronics of its own, as it stands in its inputs."""

from __future__ import annotations

from pydantic import BaseModel

from fenwit.core.job.state import commanded_of
from fenwit.web import routing
from fenwit.web.commanded import CommandEdit, typed_commanded
from fenwit.web.fields import Db, JobId
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "commanded")


class CommandPage(BaseModel):
    """Its inputs, and where its map comes from."""

    typed: CommandEdit
    grounds: str
    """Of the map over the command; empty while too little is known"""
    moved: list[str]
    """Pairs that do not fit a speed that only rises, or only falls"""


@router.get("/commanded")
def show_commanded(job_id: JobId, db: Db) -> CommandPage:
    """Map of speeds, leads, signal and supply of the fan."""
    state = load_state(db, job_id)
    found = commanded_of(state)
    if isinstance(found, tuple):
        return CommandPage(typed=typed_commanded(state.commanded), grounds="", moved=[])
    moved = [
        f"{m.read_rpm:.0f} rpm at {100 * m.command:.0f} % was taken as {m.taken_rpm:.0f}: read it again"
        for m in found.over_duty.moved
    ]
    return CommandPage(typed=typed_commanded(state.commanded), grounds=found.grounds, moved=moved)
