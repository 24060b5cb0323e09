"""What a scope saw at a step: one period and what was read from it; appended, never changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database


@dataclass(frozen=True)
class Capture:
    """One capture of a step of a design."""

    id: int
    job_id: int
    design_id: int
    step: int
    name: str
    shown: dict[str, Any]
    who: str
    at: datetime


def of_job(database: Database, job_id: int) -> list[Capture]:
    """All captures of a job, oldest first."""
    return database.all(Capture, "SELECT * FROM capture WHERE job_id = %(job)s ORDER BY id", {"job": job_id})


def of_step(database: Database, job_id: int, design_id: int, step: int, most: int = 5) -> list[Capture]:
    """The newest captures of a step, newest first."""
    return database.all(
        Capture,
        """
        SELECT * FROM capture WHERE job_id = %(job)s AND design_id = %(design)s AND step = %(step)s
        ORDER BY id DESC LIMIT %(most)s
        """,
        {"job": job_id, "design": design_id, "step": step, "most": most},
    )


def add(
    database: Database,
    job_id: int,
    *,
    design_id: int,
    step: int,
    name: str,
    shown: Mapping[str, Any],
    who: str,
) -> Capture:
    """A new capture."""
    capture = database.one(
        Capture,
        """
        INSERT INTO capture (job_id, design_id, step, name, shown, who)
        VALUES (%(job)s, %(design)s, %(step)s, %(name)s, %(shown)s, %(who)s) RETURNING *
        """,
        {
            "job": job_id,
            "design": design_id,
            "step": step,
            "name": name,
            "shown": Jsonb(dict(shown)),
            "who": who,
        },
    )
    assert capture is not None
    return capture
