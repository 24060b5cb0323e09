"""What is known of a fan with electronics of its own, as it stands in its inputs."""

from __future__ import annotations

from pydantic import BaseModel

from fenwit.core.job.commanded import Commanded
from fenwit.core.job.state import commanded_of
from fenwit.core.motor.analog import soft_start_s
from fenwit.core.motor.duty import POLARITY_WORDS
from fenwit.core.motor.kinds import KINDS
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
    polarity: str
    """What readings from half duty on tell of its sense, or what to read next; empty where it was typed"""


@router.get("/commanded")
def show_commanded(job_id: JobId, db: Db) -> CommandPage:
    """Map of speeds, leads, signal and supply of the fan."""
    state = load_state(db, job_id)
    found = commanded_of(state)
    if not isinstance(found, tuple) and state.kind is not None and KINDS[state.kind].control_input:
        moved = [
            f"{m.read_rpm:.0f} rpm at {m.command:.2f} V was taken as {m.taken_rpm:.0f}: read it again"
            for m in found.over_control.moved
        ]
        return CommandPage(
            typed=typed_commanded(state.commanded),
            grounds=found.control_grounds,
            moved=moved,
            polarity=_turned(found),
        )
    # Speeds over a duty, and which way round it is taken, are asked of a fan with a lead for it.
    if isinstance(found, tuple) or state.kind is None or not KINDS[state.kind].control_lead:
        return CommandPage(typed=typed_commanded(state.commanded), grounds="", moved=[], polarity="")
    moved = [
        f"{m.read_rpm:.0f} rpm at {100 * m.command:.0f} % was taken as {m.taken_rpm:.0f}: read it again"
        for m in found.over_duty.moved
    ]
    return CommandPage(
        typed=typed_commanded(state.commanded), grounds=found.grounds, moved=moved, polarity=_sense(found)
    )


def _turned(found: Commanded) -> str:
    """How a map over the control voltage is read, while nobody did."""
    if len(found.at_control) >= _MAPPED:
        return ""
    wait = soft_start_s(0.98, found.sheet.analog.follows_s, found.sheet.analog.ramps_per_s)
    return (
        "To read the map: up from 0 V in steps of 0.1 until it starts, five even points to 10 V, on until it turns no "
        f"faster, then down until it stops. Wait {wait:.0f} s at each point, three equal readings"
    )


_MAPPED = 5
"""Readings from which on a map over the control voltage speaks for itself [-]"""


def _sense(found: Commanded) -> str:
    if found.contradicted:
        return f"Typed the other way round: by its map {'less' if found.inverted else 'more'} duty means more speed"
    if found.sheet.inverted is not None:
        return ""
    told = found.polarity
    if told.half_rpm is None or told.later is None:
        return "" if found.polarity_known else f"Which way round? {POLARITY_WORDS}"
    duty, speed = told.later
    read = f"{speed:.0f} rpm at {100 * duty:.0f} % against {told.half_rpm:.0f} at 50 %"
    if told.inverted is None:
        further = "read both again" if told.next_duty is None else f"read {100 * told.next_duty:.0f} % next"
        return f"{read}: too close to tell which way round, {further}"
    return f"{read}: {'inverted, less' if told.inverted else 'normal, more'} duty means more speed"
