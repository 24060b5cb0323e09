"""Hand overs: who signed what, when, with the whole report as it stood."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database


@dataclass(frozen=True)
class Handover:
    """One signature."""

    id: int
    job_id: int
    design_id: int | None
    who: str
    note: str
    recheck_on: date | None
    core_version: str
    record: dict[str, Any]
    at: datetime
    imported: bool = False
    """It came with a file: nobody signed in this database"""


def add(
    database: Database,
    job_id: int,
    *,
    design_id: int | None,
    who: str,
    note: str,
    recheck_on: date | None,
    core_version: str,
    record: Mapping[str, Any],
) -> Handover:
    """Append a signature."""
    row = database.one(
        Handover,
        """
        INSERT INTO handover (job_id, design_id, who, note, recheck_on, core_version, record)
        VALUES (%(job)s, %(design)s, %(who)s, %(note)s, %(recheck)s, %(core)s, %(record)s)
        RETURNING *
        """,
        {
            "job": job_id,
            "design": design_id,
            "who": who,
            "note": note,
            "recheck": recheck_on,
            "core": core_version,
            "record": Jsonb(dict(record)),
        },
    )
    assert row is not None
    return row


def of_job(database: Database, job_id: int) -> list[Handover]:
    """The signatures of a job, newest first."""
    return database.all(
        Handover, "SELECT * FROM handover WHERE job_id = %(job)s ORDER BY id DESC", {"job": job_id}
    )
