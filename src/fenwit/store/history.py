"""Undo and redo: every edit is an event with what was before and after, and its reverse is one more edit.

Nothing is taken out of the book. An undo saves the earlier values as a new version, appends the earlier reading once
more, or brings an earlier design back as a new revision.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from fenwit.store import designs, events, jobs, readings, shelf
from fenwit.store.database import Database
from fenwit.store.errors import Stale, StoreError

Side = Literal["before", "after"]


class NothingToUndo(StoreError):
    """There is no edit to undo, or none to redo."""


@dataclass(frozen=True)
class Stacks:
    """Edits that can be undone and redone, next one last."""

    undo: tuple[events.Event, ...]
    redo: tuple[events.Event, ...]


def record(
    database: Database, job_id: int | None, label: str, changes: Sequence[Mapping[str, Any]], who: str = ""
) -> None:
    """Write an edit down; ``changes`` are from the functions below."""
    events.add(database, job_id, events.EDITED, {"label": label, "changes": [dict(c) for c in changes]}, who)


def fan_change(before: jobs.Fan, after: jobs.Fan) -> dict[str, Any]:
    """What of a fan was changed."""
    return {"what": "fan", **_differing(before, after, jobs.FAN_FIELDS)}


def job_change(before: jobs.Job, after: jobs.Job) -> dict[str, Any]:
    """What of a job was changed."""
    return {"what": "job", **_differing(before, after, JOB_FIELDS)}


def reading_change(before: readings.Reading | None, after: readings.Reading) -> dict[str, Any]:
    """A reading taken, corrected or taken back."""
    return {"what": "reading", "before": before.id if before else None, "after": after.id}


def design_change(before: designs.Design | None, after: designs.Design) -> dict[str, Any]:
    """A design chosen."""
    return {"what": "design", "before": before.id if before else None, "after": after.id}


def shelf_change(part_id: int, before: Mapping[str, Any] | None, after: Mapping[str, Any]) -> dict[str, Any]:
    """A part put on the shelf or edited."""
    return {
        "what": "shelf",
        "part": part_id,
        "before": dict(before) if before else {**after, "gone": True},
        "after": dict(after),
    }


def reservation_change(
    part_id: int, job_id: int, before: tuple[int, int], after: tuple[int, int]
) -> dict[str, Any]:
    """Parts put aside or used up: pieces reserved and used."""
    return {
        "what": "reservation",
        "part": part_id,
        "job": job_id,
        "before": list(before),
        "after": list(after),
    }


JOB_FIELDS = (
    "wish",
    "supply_voltage_v",
    "supply_frequency_hz",
    "wanted_rpm",
    "profile",
    "sizing",
    "board",
    "air",
    "meant",
    "commanded",
    "hold",
    "wiring",
)


def _differing(before: object, after: object, names: Sequence[str]) -> dict[str, dict[str, Any]]:
    changed = [n for n in names if getattr(before, n) != getattr(after, n)]
    return {
        "before": {n: getattr(before, n) for n in changed},
        "after": {n: getattr(after, n) for n in changed},
    }


def stacks(database: Database, job_id: int | None) -> Stacks:
    """What can be undone and redone in a job (on the shelf: None)."""
    undo: list[events.Event] = []
    redo: list[events.Event] = []
    for event in events.history(database, job_id):
        if event.kind == events.EDITED:
            undo.append(event)
            redo.clear()
        elif event.kind == events.UNDONE and undo:
            redo.append(undo.pop())
        elif event.kind == events.REDONE and redo:
            undo.append(redo.pop())
    return Stacks(tuple(undo), tuple(redo))


def step_back(database: Database, job_id: int | None, who: str) -> events.Event:
    """Undo the last edit. Raises NothingToUndo, or Stale when its values were changed by other means."""
    return _move(database, job_id, who, "before")


def step_forward(database: Database, job_id: int | None, who: str) -> events.Event:
    """Redo what was undone last. Raises NothingToUndo, or Stale."""
    return _move(database, job_id, who, "after")


def _move(database: Database, job_id: int | None, who: str, to: Side) -> events.Event:
    with database.transaction():
        if job_id is not None:
            jobs.touch(database, job_id)
        found = stacks(database, job_id)
        stack = found.undo if to == "before" else found.redo
        if not stack:
            raise NothingToUndo("nothing to undo" if to == "before" else "nothing to redo")
        edit = stack[-1]
        changes = edit.detail["changes"]
        shelf.hold(database, [change["part"] for change in changes if "part" in change])
        for change in reversed(changes) if to == "before" else changes:
            _APPLY[change["what"]](database, job_id, change, to, who)
        kind = events.UNDONE if to == "before" else events.REDONE
        events.add(database, job_id, kind, {"edit": edit.id}, who)
    return edit


def _other(to: Side) -> Side:
    return "after" if to == "before" else "before"


def _fan(database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str) -> None:
    assert job_id is not None
    fan = jobs.get_fan(database, jobs.get(database, job_id).fan_id)
    _must_stand("fan", fan, change[_other(to)])
    jobs.save_fan(database, replace(fan, **change[to]))


def _job(database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str) -> None:
    assert job_id is not None
    job = jobs.get(database, job_id)
    _must_stand("job", job, change[_other(to)])
    jobs.save(database, job_id, job.version, **change[to])


def _must_stand(what: str, row: Any, values: Mapping[str, Any]) -> None:
    if any(getattr(row, name) != value for name, value in values.items()):
        raise Stale(what, row.id, row)


def _reading(database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str) -> None:
    was = readings.get(database, change[_other(to)]) if change[_other(to)] else None
    wanted = readings.get(database, change[to]) if change[to] else None
    like = wanted or was
    assert like is not None
    newest = readings.newest(database, like.job_id, like.quantity, like.step, like.design_id, like.run_id)
    if _stood(newest) != _stood(was):
        raise Stale("reading", like.job_id, newest)
    readings.add(
        database,
        fan_id=like.fan_id,
        job_id=like.job_id,
        quantity=like.quantity,
        value=wanted.value if wanted else None,
        typed=wanted.typed if wanted else "",
        who=who,
        design_id=like.design_id,
        step=like.step,
        expected=(wanted.expected_low, wanted.expected_high)
        if wanted and wanted.expected_low is not None and wanted.expected_high is not None
        else None,
        supersedes=newest.id if newest else None,
        run_id=like.run_id,
        instrument_id=wanted.instrument_id if wanted else None,
        sigma=wanted.sigma if wanted else None,
        aside=wanted.aside if wanted else False,
        winding=wanted.winding if wanted else None,
        winding_c=wanted.winding_c if wanted else None,
    )


def _stood(reading: readings.Reading | None) -> tuple[float | None, bool, str | None, float | None]:
    if reading is None:
        return None, False, None, None
    return reading.value, reading.aside, reading.winding, reading.winding_c


def _design(database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str) -> None:
    assert job_id is not None
    newest = designs.latest(database, [job_id])[job_id]
    left = change[_other(to)]
    stands = newest.regulator is None if left is None else newest.root == designs.get(database, left).root
    if not stands:
        raise Stale("design", job_id, newest)
    back = designs.get(database, change[to]) if change[to] else None
    designs.add(
        database,
        job_id,
        after_revision=newest.revision,
        regulator=back.regulator if back else None,
        kept=back.kept if back else None,
        core_version=back.core_version if back else newest.core_version,
        who=who,
        restores=back.root if back else None,
        name=back.name if back else "",
    )


def _shelf(database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str) -> None:
    part = shelf.get(database, change["part"])
    _must_stand("part", part, change[_other(to)])
    shelf.save(database, part.id, part.version, {**shelf.values_of(part), **change[to]})


def _reservation(
    database: Database, job_id: int | None, change: Mapping[str, Any], to: Side, who: str
) -> None:
    reserved, used = change[to]
    shelf.set_reservation(database, change["part"], change["job"], reserved, used)


_APPLY = {
    "fan": _fan,
    "job": _job,
    "reading": _reading,
    "design": _design,
    "shelf": _shelf,
    "reservation": _reservation,
}
