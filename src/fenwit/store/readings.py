"""Readings: appended, never overwritten; a correction supersedes its predecessor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

import psycopg.errors

from fenwit.store.database import Database
from fenwit.store.errors import Stale


@dataclass(frozen=True)
class Reading:
    """One measured value as it was typed; a None value takes back what it supersedes."""

    id: int
    fan_id: int
    job_id: int
    design_id: int | None
    step: int | None
    quantity: str
    value: float | None
    typed: str
    expected_low: float | None
    expected_high: float | None
    who: str
    taken_at: datetime
    supersedes: int | None
    run_id: int | None = None
    """The run it was taken in; None at full speed, with the power off, or at a step [-]"""
    instrument_id: int | None = None
    sigma: float | None = None
    """Relative standard uncertainty by the instrument; None: an ordinary meter [-]"""
    aside: bool = False
    """Kept, but not believed"""
    thing: str = ""
    """What was read and where, as the database tells it [-]"""
    winding: str | None = None
    """Of ohms: cold, warm, at; None: unsaid, taken as cold [-]"""
    winding_c: float | None = None
    """How warm, where it was read [°C]"""
    source: str = ""
    """The device it was read off, and where in it; empty: typed by hand [-]"""


def of_jobs(database: Database, job_ids: Sequence[int]) -> list[Reading]:
    """All readings of several jobs, superseded ones included, oldest first."""
    return database.all(
        Reading, "SELECT * FROM reading WHERE job_id = ANY(%(ids)s) ORDER BY id", {"ids": list(job_ids)}
    )


def standing(readings: Sequence[Reading]) -> list[Reading]:
    """The readings that no later one supersedes and that were not taken back."""
    gone = {r.supersedes for r in readings}
    return [r for r in readings if r.id not in gone and r.value is not None]


def add(
    database: Database,
    *,
    fan_id: int,
    job_id: int,
    quantity: str,
    value: float | None,
    typed: str,
    who: str,
    design_id: int | None = None,
    step: int | None = None,
    expected: tuple[float, float] | None = None,
    supersedes: int | None = None,
    taken_at: datetime | None = None,
    run_id: int | None = None,
    instrument_id: int | None = None,
    sigma: float | None = None,
    aside: bool = False,
    winding: str | None = None,
    winding_c: float | None = None,
    source: str = "",
) -> Reading:
    """Append a reading. Raises Stale with the newest one when another already stands in its place."""
    try:
        with database.transaction() as connection, connection.transaction():
            reading = database.one(
                Reading,
                """
                INSERT INTO reading (fan_id, job_id, design_id, step, quantity, value, typed, expected_low,
                    expected_high, who, supersedes, taken_at, run_id, instrument_id, sigma, aside,
                    winding, winding_c, source)
                VALUES (%(fan)s, %(job)s, %(design)s, %(step)s, %(quantity)s, %(value)s, %(typed)s, %(low)s,
                    %(high)s, %(who)s, %(supersedes)s, coalesce(%(at)s::timestamptz, clock_timestamp()),
                    %(run)s, %(instrument)s, %(sigma)s, %(aside)s, %(winding)s, %(winding_c)s, %(source)s)
                RETURNING *
                """,
                {
                    "fan": fan_id,
                    "job": job_id,
                    "design": design_id,
                    "step": step,
                    "quantity": quantity,
                    "value": value,
                    "typed": typed,
                    "low": expected[0] if expected else None,
                    "high": expected[1] if expected else None,
                    "who": who,
                    "supersedes": supersedes,
                    "at": taken_at,
                    "run": run_id,
                    "instrument": instrument_id,
                    "sigma": sigma,
                    "aside": aside,
                    "winding": winding,
                    "winding_c": winding_c,
                    "source": source,
                },
            )
    except psycopg.errors.UniqueViolation as error:
        if error.diag.constraint_name not in ("reading_superseded_once", "reading_first_once"):
            raise
        raise Stale("reading", job_id, newest(database, job_id, quantity, step, design_id, run_id)) from error
    assert reading is not None
    return reading


def get(database: Database, reading_id: int) -> Reading | None:
    """One reading, or None."""
    return database.one(Reading, "SELECT * FROM reading WHERE id = %(id)s", {"id": reading_id})


def of_fan(database: Database, fan_id: int, prefix: str, limit: int = 2000) -> list[Reading]:
    """Every reading of a fan whose quantity begins so, in whatever job it was taken, oldest first."""
    return database.all(
        Reading,
        """
        SELECT * FROM reading WHERE fan_id = %(fan)s AND starts_with(quantity, %(prefix)s)
        ORDER BY taken_at, id LIMIT %(limit)s
        """,
        {"fan": fan_id, "prefix": prefix, "limit": limit},
    )


def newest(
    database: Database,
    job_id: int,
    quantity: str,
    step: int | None,
    design_id: int | None,
    run_id: int | None = None,
) -> Reading | None:
    """The last reading of one thing, taken back or not; a new one has to supersede it."""
    return database.one(
        Reading,
        """
        SELECT * FROM reading
        WHERE job_id = %(job)s AND quantity = %(quantity)s
            AND step IS NOT DISTINCT FROM %(step)s::int AND design_id IS NOT DISTINCT FROM %(design)s::bigint
            AND run_id IS NOT DISTINCT FROM %(run)s::bigint
        ORDER BY id DESC LIMIT 1
        """,
        {"job": job_id, "quantity": quantity, "step": step, "design": design_id, "run": run_id},
    )
