"""Identify: nameplate and motor kind."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from fastapi import APIRouter

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.motor.kinds import MotorKind
from fenwit.store import history, jobs
from fenwit.store.readings import standing
from fenwit.web.models import Db, FanEdit, JobId, JobPage
from fenwit.web.page import NAMEPLATE, changed, load, must_compute, state_of

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["identify"])
_WORDS = ("name", "place", "maker", "serial")


@router.patch("/fan")
def edit_fan(job_id: JobId, edit: FanEdit, db: Db) -> JobPage:
    """Change what is known of the fan; values in bench notation, empty ones are cleared."""
    with db.transaction():
        loaded = load(db, job_id)
        edits = _read(edit)
        fan = replace(loaded.fan, **edits)
        field = next(iter(edits), "name")
        if edit.version == loaded.fan.version and field not in _WORDS:
            must_compute(state_of(loaded.job, fan, standing(loaded.readings), loaded.design), field)
        saved = jobs.save_fan(db, replace(fan, version=edit.version))
        history.record(db, job_id, _said(edits), [history.fan_change(loaded.fan, saved)], edit.who)
        return changed(db, job_id)


def _said(edits: dict[str, Any]) -> str:
    labels = {a.field: a.label for a in NAMEPLATE} | {"motor_kind": "motor kind", "serial": "serial number"}
    return ", ".join(labels.get(name, name) for name in edits)


def _read(edit: FanEdit) -> dict[str, Any]:
    given = edit.model_dump(exclude_none=True, exclude={"version", "who"})
    changes: dict[str, Any] = {name: given[name] for name in _WORDS if name in given}
    if "motor_kind" in given:
        kinds = [kind.value for kind in MotorKind]
        if given["motor_kind"] not in ("", *kinds):
            raise InputError("motor_kind", given["motor_kind"], ", ".join(kinds), "no such kind of motor")
        changes["motor_kind"] = given["motor_kind"] or None
    for asked in NAMEPLATE:
        if asked.field in given:
            text = given[asked.field]
            value = q.parse(asked.field, text, asked.dimension) if text else None
            if value is not None and value <= 0:
                raise InputError(asked.field, text, "above zero", "must be above zero")
            changes[asked.field] = round(value) if value and asked.field == "poles" else value
    return changes
