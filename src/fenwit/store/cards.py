"""What the Bench shows of each job, stored when the job changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database


@dataclass(frozen=True)
class StoredCard:
    """One job's card."""

    job_id: int
    core_version: str
    waits_kind: str
    body: str
    """JSON text, as it goes to the screen"""


@dataclass(frozen=True)
class KindCount:
    """How many jobs wait for one thing."""

    waits_kind: str
    count: int


def put(
    database: Database, job_id: int, *, core_version: str, waits_kind: str, search: str, body: dict[str, Any]
) -> None:
    """Store the card of a job in place of its last one."""
    database.run(
        """
        INSERT INTO card (job_id, core_version, waits_kind, search, body)
        VALUES (%(job)s, %(core)s, %(kind)s, %(search)s, %(body)s)
        ON CONFLICT (job_id) DO UPDATE SET core_version = excluded.core_version, waits_kind = excluded.waits_kind,
            search = excluded.search, body = excluded.body
        """,
        {
            "job": job_id,
            "core": core_version,
            "kind": waits_kind,
            "search": search.lower(),
            "body": Jsonb(body),
        },
    )


def page(
    database: Database, *, kind: str | None, words: Sequence[str], after: int, limit: int
) -> list[StoredCard]:
    """Cards with all words in them, oldest job first, from the job after ``after``."""
    return database.all(
        StoredCard,
        """
        SELECT job_id, core_version, waits_kind, body::text AS body FROM card
        WHERE job_id > %(after)s AND (%(kind)s::text IS NULL OR waits_kind = %(kind)s)
            AND (cardinality(%(words)s::text[]) = 0
                OR NOT EXISTS (SELECT FROM unnest(%(words)s::text[]) AS word WHERE position(word IN search) = 0))
        ORDER BY job_id LIMIT %(limit)s
        """,
        {"after": after, "kind": kind, "words": [w.lower() for w in words], "limit": limit},
    )


def counts(database: Database, words: Sequence[str]) -> list[KindCount]:
    """How many jobs with all words in them wait for what."""
    return database.all(
        KindCount,
        """
        SELECT waits_kind, count(*)::int AS count FROM card
        WHERE cardinality(%(words)s::text[]) = 0
            OR NOT EXISTS (SELECT FROM unnest(%(words)s::text[]) AS word WHERE position(word IN search) = 0)
        GROUP BY waits_kind ORDER BY waits_kind
        """,
        {"words": [w.lower() for w in words]},
    )


@dataclass(frozen=True)
class _Job:
    id: int


def without(database: Database, limit: int = 500) -> list[int]:
    """Jobs that have no card yet: those of before cards were stored."""
    rows = database.all(
        _Job,
        "SELECT id FROM job WHERE NOT EXISTS (SELECT FROM card WHERE job_id = job.id) ORDER BY id LIMIT %(limit)s",
        {"limit": limit},
    )
    return [row.id for row in rows]
