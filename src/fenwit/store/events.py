"""What happened in a job: confirmations of cautions, edits, and who did them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database

CONFIRMED = "caution-confirmed"
ANSWERED = "refusal-answered-for"
EDITED, UNDONE, REDONE = "edited", "undone", "redone"


@dataclass(frozen=True)
class Event:
    """One thing that happened."""

    id: int
    job_id: int | None
    kind: str
    detail: dict[str, Any]
    who: str
    at: datetime


def add(database: Database, job_id: int | None, kind: str, detail: Mapping[str, Any], who: str = "") -> Event:
    """Append an event."""
    event = database.one(
        Event,
        "INSERT INTO event (job_id, kind, detail, who) VALUES (%(job)s, %(kind)s, %(detail)s, %(who)s) RETURNING *",
        {"job": job_id, "kind": kind, "detail": Jsonb(dict(detail)), "who": who},
    )
    assert event is not None
    return event


def of_job(database: Database, job_id: int, limit: int = 200) -> list[Event]:
    """The events of a job, newest first."""
    return database.all(
        Event,
        "SELECT * FROM event WHERE job_id = %(job)s ORDER BY id DESC LIMIT %(limit)s",
        {"job": job_id, "limit": limit},
    )


def confirmed(database: Database, job_id: int) -> list[Event]:
    """Every confirmation of a caution in a job, newest first, however much happened since."""
    return of_kind(database, job_id, CONFIRMED)


def of_kind(database: Database, job_id: int, kind: str) -> list[Event]:
    """Every event of one kind in a job, newest first."""
    return database.all(
        Event,
        "SELECT * FROM event WHERE job_id = %(job)s AND kind = %(kind)s ORDER BY id DESC",
        {"job": job_id, "kind": kind},
    )


def history(database: Database, job_id: int | None, limit: int = 400) -> list[Event]:
    """Edits, undos and redos of a job (of the shelf: None), oldest first; the last ``limit`` of them."""
    rows = database.all(
        Event,
        """
        SELECT * FROM event
        WHERE job_id IS NOT DISTINCT FROM %(job)s::bigint AND kind = ANY(%(kinds)s)
        ORDER BY id DESC LIMIT %(limit)s
        """,
        {"job": job_id, "kinds": [EDITED, UNDONE, REDONE], "limit": limit},
    )
    return rows[::-1]
