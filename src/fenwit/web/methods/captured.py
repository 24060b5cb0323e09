"""What a scope's capture of a step gives: read first, then kept with the step, its values taken as readings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Annotated, Any, Generic, TypeVar

from fastapi import Depends, Query
from pydantic import BaseModel

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.job.steps import Quantity
from fenwit.core.motor.kinds import Method
from fenwit.core.prove.scope import Found
from fenwit.store import captures, history
from fenwit.store.captures import Capture
from fenwit.store.database import Database
from fenwit.web.fields import Typed, Words
from fenwit.web.models import NewReading
from fenwit.web.page import changed, load, saving
from fenwit.web.taking import Taken, weigh, write

Shown = TypeVar("Shown")
Step = Annotated[int, Query(ge=1, le=8)]


class CaptureRead(BaseModel, Generic[Shown]):
    """A capture as it was read, and what of it can be or was kept."""

    shown: Shown
    understood: str
    kept: list[str] = []
    """What was taken as readings"""
    not_kept: list[str] = []
    """What was not, each with its reason"""


class CaptureKept(BaseModel, Generic[Shown]):
    """A capture that was kept."""

    id: int
    name: str
    who: str
    at: datetime
    shown: Shown


def kept_at(database: Database, job_id: int, step: int, method: Method) -> Sequence[Capture]:
    """What was captured at a step of the design that stands, newest first; nothing where it is of another method."""
    loaded = load(database, job_id)
    design = loaded.state.design
    if loaded.design is None or design is None or design.method is not method:
        return ()
    return captures.of_step(database, job_id, loaded.design.root, step)


class CaptureAsked:
    """What is done with a scope's file that is sent."""

    def __init__(
        self,
        step: Step,
        probe: Annotated[Typed, Query()] = "1",
        swap: bool = False,
        take: bool = False,
        name: Annotated[Words, Query()] = "",
        who: Annotated[Words, Query()] = "",
    ) -> None:
        self.step, self.probe, self.swap, self.take, self.name, self.who = step, probe, swap, take, name, who


SentCapture = Annotated[CaptureAsked, Depends()]


def take_capture(
    db: Database,
    job_id: int,
    found: Sequence[Found],
    quantities: Sequence[Quantity],
    shown: Mapping[str, Any],
    asked: CaptureAsked,
) -> tuple[list[str], list[str]]:
    """Keep a capture with a step and take what is expected there as readings.

    Returns what was taken, and what was not with its reason. Raises InputError where nothing belongs to the step.
    """
    step, who = asked.step, asked.who
    loaded = load(db, job_id)
    if loaded.design is None or loaded.design.regulator is None:
        raise InputError("step", step, "a job with a chosen control", "choose what regulates it first")
    expected = {r.quantity for r in frame(loaded.state).proofs if r.step == step}
    known = {q.key: q for q in quantities}
    kept: list[str] = []
    left: list[str] = []
    wanted: list[NewReading] = []
    for one in found:
        what = known.get(one.quantity)
        if what is None:
            continue
        if what.key not in expected:
            left.append(f"{what.name}: nothing is expected of it at this step")
            continue
        text = f"{one.value:.5g} {what.unit}"
        wanted.append(NewReading(quantity=what.key, text=text, who=who, step=step))
        kept.append(f"{what.name} {one.text}")
    taken = []
    for weighed in weigh(db, loaded, [(new, None) for new in wanted], follow=True):
        if not isinstance(weighed, Taken):
            raise weighed
        taken.append(weighed)
    if not taken:
        raise InputError("file", step, "a capture of this step", "nothing of it belongs to this step")
    with saving(db, loaded):
        changes = write(db, taken)
        captures.add(
            db,
            job_id,
            design_id=loaded.design.root,
            step=step,
            name=asked.name.strip(),
            shown=shown,
            who=who.strip(),
        )
        history.record(db, job_id, f"readings of a capture at step {step}", changes, who)
    changed(db, job_id)
    return kept, left
