"""Designs: every revision is kept with the core that computed it and what that core predicted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import psycopg.errors
from psycopg.types.json import Jsonb

from fenwit.store.database import Database
from fenwit.store.errors import NotFound, Stale


@dataclass(frozen=True)
class Design:
    """One revision of a job's regulator."""

    id: int
    job_id: int
    revision: int
    regulator: dict[str, Any] | None
    """The regulator as a document; None where the choice was undone"""
    kept: dict[str, float] | None
    """What was predicted when it was chosen"""
    restores: int | None
    core_version: str
    who: str
    made_at: datetime
    name: str = ""
    """What it is called beside others of its job; mostly nothing [-]"""
    method: str | None = None
    """As the document says, or told by its keys; None where the choice was undone [-]"""

    @property
    def root(self) -> int:
        """The design that readings of this bank are filed under."""
        return self.restores or self.id


def latest(database: Database, job_ids: Sequence[int]) -> dict[int, Design]:
    """The newest revision of each job that has one."""
    rows = database.all(
        Design,
        "SELECT DISTINCT ON (job_id) * FROM design WHERE job_id = ANY(%(ids)s) ORDER BY job_id, revision DESC",
        {"ids": list(job_ids)},
    )
    return {row.job_id: row for row in rows}


def of_job(database: Database, job_id: int) -> list[Design]:
    """All revisions of a job, oldest first."""
    return database.all(
        Design, "SELECT * FROM design WHERE job_id = %(job)s ORDER BY revision", {"job": job_id}
    )


def get(database: Database, design_id: int) -> Design:
    """One revision. Raises NotFound."""
    design = database.one(Design, "SELECT * FROM design WHERE id = %(id)s", {"id": design_id})
    if design is None:
        raise NotFound("design", design_id)
    return design


def add(
    database: Database,
    job_id: int,
    *,
    after_revision: int,
    regulator: Mapping[str, Any] | None,
    kept: Mapping[str, float] | None,
    core_version: str,
    who: str,
    restores: int | None = None,
    name: str = "",
) -> Design:
    """Add the revision after ``after_revision`` (0: none yet). Raises Stale when another came in between."""
    newest = latest(database, [job_id]).get(job_id)
    if (newest.revision if newest else 0) != after_revision:
        raise Stale("design", job_id, newest)
    try:
        with database.transaction() as connection, connection.transaction():
            design = database.one(
                Design,
                """
                INSERT INTO design (job_id, revision, regulator, kept, restores, core_version, who, name)
                VALUES (%(job)s, %(revision)s, %(regulator)s, %(kept)s, %(restores)s, %(core)s, %(who)s, %(name)s)
                RETURNING *
                """,
                {
                    "job": job_id,
                    "revision": after_revision + 1,
                    "regulator": None if regulator is None else Jsonb(dict(regulator)),
                    "kept": None if kept is None else Jsonb(dict(kept)),
                    "restores": restores,
                    "core": core_version,
                    "who": who,
                    "name": name,
                },
            )
    except psycopg.errors.UniqueViolation as error:
        if error.diag.constraint_name != "design_revision_once":
            raise
        raise Stale("design", job_id, latest(database, [job_id]).get(job_id)) from error
    assert design is not None
    return design
