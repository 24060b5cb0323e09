"""The order of work in Prove: its lines with their readings, typed or read off a device."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel

from fenwit.bench.taken import Outcome
from fenwit.core import quantity as q
from fenwit.core.desk.typed import read_yes
from fenwit.core.errors import InputError
from fenwit.core.prove.plan import (
    OPEN_ENDED,
    Ask,
    LineState,
    PlanLine,
    judged,
)
from fenwit.store import history, readings
from fenwit.web import routing
from fenwit.web.devices import ask as ask_device
from fenwit.web.fields import Db, JobId, Typed, Words
from fenwit.web.heavy import HEAVY
from fenwit.web.models import JobPage
from fenwit.web.page import Loaded, changed, load, saving
from fenwit.web.plan import PlanShown, plan_gate, plan_lines, plan_shown, plan_standing
from fenwit.web.problems import Gated
from fenwit.web.routes.devices import DeviceAnswer, fastest, said

router = routing.router("/api/jobs/{job_id}/plan", "plan")


class PlanReading(BaseModel):
    """What was seen or read, as typed; an empty text takes back the one it supersedes."""

    text: Typed
    supersedes: int | None = None
    who: Words = ""


class PlanAsked(BaseModel):
    """Which device is asked for it."""

    device: Typed
    supersedes: int | None = None
    who: Words = ""


@router.get("", dependencies=[HEAVY])
def show_plan(job_id: JobId, db: Db) -> PlanShown:
    """Do, expect, reading, verdict and why, line by line."""
    loaded = load(db, job_id)
    return plan_shown(loaded)


def _found(loaded: Loaded, line: str, key: str) -> tuple[PlanLine, Ask]:
    lines = plan_lines(loaded)
    at = next((x for x in lines if x.key == line), None)
    ask = next((a for a in at.asks if a.key == key), None) if at else None
    if at is None or ask is None:
        raise InputError("ask", f"{line}:{key}", ", ".join(x.key for x in lines), "no such line in this plan")
    standing = {k: r.value for k, r in plan_standing(loaded).items() if r.value is not None}
    state = next(x.state for x in judged(lines, standing) if x.line is at)
    if state is LineState.STOPPED:
        failed = next(x.line for x in judged(lines, standing) if x.state is LineState.FAILED)
        raise InputError(
            "text",
            "",
            f"“{failed.title}” first",
            f"the plan stopped at “{failed.title}”: mend that and read it again",
        )
    gate = plan_gate(loaded)
    if at.live and gate is not None:
        raise Gated(gate.key, gate.do)
    return at, ask


@router.post("/{line}/{key}", status_code=201)
def take_plan_reading(job_id: JobId, line: str, key: str, new: PlanReading, db: Db) -> JobPage:
    """Append what was seen or read at a line."""
    loaded = load(db, job_id)
    at, ask = _found(loaded, line, key)
    value: float | None = None
    if new.text.strip() or new.supersedes is None:
        if ask.dimension is None:
            value = 1.0 if read_yes("text", new.text) else 0.0
        elif new.text.strip().lower() in ("open", "ol", "o.l."):
            value = OPEN_ENDED if ask.dimension.unit == "Ω" else q.parse("text", new.text, ask.dimension)
        else:
            value = q.parse("text", new.text, ask.dimension)
    _write(db, loaded, at, ask, value, new.text, new.who, new.supersedes, "")
    return changed(db, job_id)


@router.post("/{line}/{key}/take")
def take_plan_from_device(job_id: JobId, line: str, key: str, asked: PlanAsked, db: Db) -> DeviceAnswer:
    """Ask a device for a line's reading; only a value that came in time and can be true becomes one."""
    loaded = load(db, job_id)
    at, ask = _found(loaded, line, key)
    if not ask.device:
        raise InputError("device", asked.device, "typed by hand", "no device tells this")
    found = ask_device(db, job_id, asked.device, ask.device, asked.who, fastest(loaded.state, ask.device))
    if found.outcome is not Outcome.VALUE:
        return said(found, False)
    _write(db, loaded, at, ask, found.value, found.text, asked.who, asked.supersedes, found.source, found.at)
    return said(found, True)


def _write(
    db: Db, loaded: Loaded, line: PlanLine, ask: Ask, value: float | None, text: str, who: str, supersedes: int | None,
    source: str, at: datetime | None = None,
) -> None:  # fmt: skip
    quantity = line.quantity(ask)
    before = readings.get(db, supersedes) if supersedes is not None else None
    if supersedes is not None and (
        before is None or before.job_id != loaded.job.id or before.quantity != quantity
    ):
        raise InputError("supersedes", supersedes, "the reading before", "it corrects another reading")
    band = ask.band
    with saving(db, loaded):
        reading = readings.add(
            db, fan_id=loaded.fan.id, job_id=loaded.job.id, quantity=quantity, value=value, typed=text[:40], who=who,
            expected=(band.low, band.high) if band else None, supersedes=supersedes, source=source, taken_at=at,
        )  # fmt: skip
        history.record(
            db, loaded.job.id, f"{line.title}: {ask.words}", [history.reading_change(before, reading)], who
        )
