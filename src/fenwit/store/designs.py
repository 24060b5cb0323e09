"""Designs: every revision is kept with the core that computed it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import psycopg.errors

from fenwit.store.database import Database
from fenwit.store.errors import Stale


@dataclass(frozen=True)
class Design:
    """One revision of a job's regulator."""

    id: int
    job_id: int
    revision: int
    a_f: float
    b_f: float
    patterns: list[str]
    tolerance: float
    core_version: str
    who: str
    made_at: datetime


def latest(database: Database, job_ids: Sequence[int]) -> dict[int, Design]:
    """The newest revision of each job that has one."""
    rows = database.all(
        Design,
        "SELECT DISTINCT ON (job_id) * FROM design WHERE job_id = ANY(%(ids)s) ORDER BY job_id, revision DESC",
        {"ids": list(job_ids)},
    )
    return {row.job_id: row for row in rows}


def add(
    database: Database,
    job_id: int,
    *,
    after_revision: int,
    a_f: float,
    b_f: float,
    patterns: Sequence[str],
    tolerance: float,
    core_version: str,
    who: str,
) -> Design:
    """Add the revision after ``after_revision`` (0: none yet). Raises Stale when another came in between."""
    newest = latest(database, [job_id]).get(job_id)
    if (newest.revision if newest else 0) != after_revision:
        raise Stale("design", job_id, newest)
    try:
        design = database.one(
            Design,
            """
            INSERT INTO design (job_id, revision, a_f, b_f, patterns, tolerance, core_version, who)
            VALUES (%(job)s, %(revision)s, %(a)s, %(b)s, %(patterns)s, %(tolerance)s, %(core)s, %(who)s)
            RETURNING *
            """,
            {
                "job": job_id,
                "revision": after_revision + 1,
                "a": a_f,
                "b": b_f,
                "patterns": list(patterns),
                "tolerance": tolerance,
                "core": core_version,
                "who": who,
            },
        )
    except psycopg.errors.UniqueViolation as error:
        raise Stale("design", job_id, latest(database, [job_id]).get(job_id)) from error
    assert design is not None
    return design
