"""Runs away from full speed: what the fan was fed from while readings were taken."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from fenwit.store.database import Database
from fenwit.store.errors import NotFound


@dataclass(frozen=True)
class Run:
    """One run."""

    id: int
    job_id: int
    what: str
    value: float | None
    typed: str
    frequency_hz: float | None
    """Of the signal, where it is one of a sweep [Hz]"""
    gone: bool
    who: str
    at: datetime


def of_job(database: Database, job_id: int) -> list[Run]:
    """The runs of a job, oldest first, withdrawn ones included."""
    return database.all(Run, "SELECT * FROM run WHERE job_id = %(job)s ORDER BY id", {"job": job_id})


def add(
    database: Database,
    job_id: int,
    *,
    what: str,
    value: float | None,
    typed: str,
    who: str,
    frequency_hz: float | None = None,
) -> Run:
    """A new run."""
    run = database.one(
        Run,
        """
        INSERT INTO run (job_id, what, value, typed, who, frequency_hz)
        VALUES (%(job)s, %(what)s, %(value)s, %(typed)s, %(who)s, %(hertz)s) RETURNING *
        """,
        {"job": job_id, "what": what, "value": value, "typed": typed, "who": who, "hertz": frequency_hz},
    )
    assert run is not None
    return run


def withdraw(database: Database, job_id: int, run_id: int) -> None:
    """Put a run away that nothing was read in. Raises NotFound when there is none or it has standing readings."""
    changed = database.run(
        """
        UPDATE run SET gone = true
        WHERE id = %(id)s AND job_id = %(job)s AND NOT EXISTS (
            SELECT FROM reading r WHERE r.run_id = run.id AND r.value IS NOT NULL
                AND NOT EXISTS (SELECT FROM reading later WHERE later.supersedes = r.id))
        """,
        {"id": run_id, "job": job_id},
    )
    if not changed:
        raise NotFound("run without readings", run_id)
