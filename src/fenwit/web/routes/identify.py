"""Identify: nameplate and motor kind."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any

from fastapi import Query

from fenwit.core.errors import InputError
from fenwit.core.frame.capacitors import CapacitorsShown, capacitors
from fenwit.core.frame.identify import IdentifyShown, identify
from fenwit.core.job.findings import SECTION_F
from fenwit.core.job.plate import read_plate
from fenwit.core.motor.kinds import Answer, Method, MotorKind, answer_for
from fenwit.core.size.block import Complaint
from fenwit.store import codec, events, history, jobs, readings
from fenwit.store.database import Database
from fenwit.store.jobs import Fan
from fenwit.store.readings import standing
from fenwit.web import routing
from fenwit.web.edits import Override
from fenwit.web.fields import Db, JobId
from fenwit.web.findings import findings_of, read_findings
from fenwit.web.models import FanEdit, JobPage
from fenwit.web.page import Loaded, changed, load, must_compute, saving, state_of
from fenwit.web.page.asked import NAMEPLATE

router = routing.router("/api/jobs/{job_id}", "identify")
_WORDS = ("name", "place", "maker", "serial")


@router.patch("/fan")
def edit_fan(job_id: JobId, edit: FanEdit, db: Db) -> JobPage:
    """Change what is known of the fan; values in bench notation, empty ones are cleared."""
    loaded = load(db, job_id)
    edits = _read(edit, loaded.fan, loaded.job.supply_frequency_hz)
    fan = replace(loaded.fan, **edits)
    field = next(iter(edits), "name")
    if edit.findings is not None:
        found = read_findings(findings_of(loaded.fan.findings), edit.findings)
        fan = replace(fan, findings=codec.dump(found))
    if edit.version == loaded.fan.version and field not in _WORDS:
        must_compute(
            state_of(loaded.job, fan, standing(loaded.readings), loaded.design, loaded.runs, loaded.answered),
            field,
        )
    with saving(db, loaded):
        saved = jobs.save_fan(db, replace(fan, version=edit.version))
        history.record(
            db, job_id, _said(edits) or _found(edit), [history.fan_change(loaded.fan, saved)], edit.who
        )
    return changed(db, job_id)


@router.get("/identify")
def show_identify(job_id: JobId, db: Db) -> IdentifyShown:
    """Kinds by evidence, the lead sheet with its trees, tap speeds, and which methods suit."""
    return identify(load(db, job_id).state)


@router.get("/capacitors")
def show_capacitors(
    job_id: JobId,
    db: Db,
    complaint: Complaint | None = None,
    step: Annotated[int, Query(ge=0, le=7)] = 0,
) -> CapacitorsShown:
    """The capacitor block: sections, what a weak one does, suspects behind a complaint, a spare's connections."""
    loaded = load(db, job_id)
    block = loaded.state.findings.block
    if block is not None and complaint is not None:
        step = min(step, len(block.steps) - 1)
    return capacitors(loaded.state, complaint, step, _sections_read(db, loaded))


_DAY = 86400.0
_SLIP_DAYS = 0.5


def _sections_read(db: Database, loaded: Loaded) -> dict[str, list[tuple[float, float]]]:
    """Day and value of every reading of a section, whichever job of the fan it was taken in.

    A reading corrected within half a day was a slip of the pen; later ones are history.
    """
    rows = readings.of_fan(db, loaded.fan.id, SECTION_F + ":")
    block = loaded.state.findings.block
    if block is not None:
        run = block.run_section
        if run:
            rows = [*rows, *readings.of_fan(db, loaded.fan.id, "run_capacitance_f")]
    by_id = {r.id: r for r in rows}
    slips = {
        r.supersedes
        for r in rows
        if r.supersedes in by_id
        and (r.taken_at - by_id[r.supersedes].taken_at).total_seconds() < _SLIP_DAYS * _DAY
    }
    found: dict[str, list[tuple[float, float]]] = {}
    for r in rows:
        if r.value is None or r.id in slips or r.aside:
            continue
        name = r.quantity.partition(":")[2] or run
        if name:
            found.setdefault(name, []).append((r.taken_at.timestamp() / _DAY, r.value))
    return found


@router.post("/overrides", status_code=201)
def answer_for_it(job_id: JobId, given: Override, db: Db) -> JobPage:
    """Somebody answers for a method against a refusal; who and why is kept. Some refusals nobody may answer for."""
    if given.method not in [m.value for m in Method]:
        raise InputError("method", given.method, ", ".join(m.value for m in Method), "no such method")
    method = Method(given.method)
    loaded = load(db, job_id)
    kind = loaded.state.kind
    row = answer_for(kind, method) if kind else None
    if row is None or row.answer is not Answer.REFUSED:
        raise InputError("method", given.method, "a method that is refused", "nothing is refused here")
    if row.never or loaded.state.findings.forbidden:
        raise InputError(
            "method", given.method, "another method", "this refusal stands: nobody may answer for it"
        )
    if not given.who:
        raise InputError("who", "", "a name or initials", "say who answers for this")
    if len(given.reason) < 5:
        raise InputError("reason", given.reason, "a sentence", "say why it is right here")
    with saving(db, loaded):
        events.add(db, job_id, events.ANSWERED, {"method": method.value, "reason": given.reason}, given.who)
    return changed(db, job_id)


def _found(edit: FanEdit) -> str:
    names = {
        "observed": "what was seen", "leads": "the leads", "probe": "the test leads", "block": "the capacitor block",
        "spare": "the spare block", "duty": "what it drives", "kind_reason": "why this kind",
        "start_branch": "the start branch", "gauge": "the wire", "switch_share": "the start switch",
    }  # fmt: skip
    given = edit.findings.model_dump(exclude_none=True, exclude={"no_block"}) if edit.findings else {}
    return ", ".join(names[n] for n in given) or "the capacitor block"


def _said(edits: dict[str, Any]) -> str:
    labels = {a.field: a.label for a in NAMEPLATE} | {name: name for name in _WORDS}
    labels |= {"motor_kind": "motor kind", "serial": "serial number"}
    return ", ".join(labels[name] for name in edits if name in labels)


def _read(edit: FanEdit, fan: Fan, hertz: float) -> dict[str, Any]:
    given = edit.model_dump(exclude_none=True, exclude={"version", "who", "findings"})
    changes: dict[str, Any] = {name: given[name] for name in _WORDS if name in given}
    if "motor_kind" in given:
        kinds = [kind.value for kind in MotorKind]
        if given["motor_kind"] not in ("", *kinds):
            raise InputError("motor_kind", given["motor_kind"], ", ".join(kinds), "no such kind of motor")
        changes["motor_kind"] = given["motor_kind"] or None
    printed = dict(fan.printed)
    for asked in NAMEPLATE:
        if asked.field not in given:
            continue
        text = given[asked.field]
        printed.pop(asked.field, None)
        if not text:
            changes |= dict.fromkeys(_CLEARED.get(asked.field, (asked.field,)))
            continue
        read = read_plate(asked.field, text, hertz)
        changes |= {name: round(v) if name == "poles" and v else v for name, v in read.values}
        if read.note:
            printed[asked.field] = text
    if printed != fan.printed:
        changes["printed"] = printed
    return changes


_CLEARED = {"rated_power_w": ("rated_power_w", "shaft_power_w", "apparent_power_va")}
