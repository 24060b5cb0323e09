"""What the Bench shows of each job, stored when the job changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
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
    older: int
    """Of them computed by another core"""


def put(
    database: Database,
    job_id: int,
    *,
    core_version: str,
    saved_at: datetime,
    waits_kind: str,
    search: str,
    body: dict[str, Any],
) -> None:
    """Store the card of a job in place of its last one, unless that is of a later save."""
    database.run(
        """
        INSERT INTO card (job_id, core_version, saved_at, waits_kind, search, body)
        VALUES (%(job)s, %(core)s, %(saved_at)s, %(kind)s, %(search)s, %(body)s)
        ON CONFLICT (job_id) DO UPDATE SET core_version = excluded.core_version, saved_at = excluded.saved_at,
            waits_kind = excluded.waits_kind, search = excluded.search, body = excluded.body
        WHERE card.saved_at <= excluded.saved_at
        """,
        {
            "job": job_id,
            "core": core_version,
            "saved_at": saved_at,
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


def counts(database: Database, words: Sequence[str], core_version: str) -> list[KindCount]:
    """How many jobs with all words in them wait for what, and how many of them another core computed."""
    return database.all(
        KindCount,
        """
        SELECT waits_kind, count(*)::int AS count,
            (count(*) FILTER (WHERE core_version <> %(core)s))::int AS older
        FROM card
        WHERE cardinality(%(words)s::text[]) = 0
            OR NOT EXISTS (SELECT FROM unnest(%(words)s::text[]) AS word WHERE position(word IN search) = 0)
        GROUP BY waits_kind ORDER BY waits_kind
        """,
        {"words": [w.lower() for w in words], "core": core_version},
    )


@dataclass(frozen=True)
class _Job:
    id: int


def behind(database: Database, core_version: str, limit: int = 20, *, since_s: float = 0.0) -> list[int]:
    """Jobs whose card is missing, of another core or of an earlier save, oldest job first.

    A job saved less than ``since_s`` ago is left to who saved it: the card follows the save.
    """
    rows = database.all(
        _Job,
        """
        SELECT job.id FROM job LEFT JOIN card ON card.job_id = job.id
        WHERE (card.job_id IS NULL OR card.core_version <> %(core)s OR card.saved_at < job.saved_at)
            AND job.saved_at <= clock_timestamp() - make_interval(secs => %(since)s)
        ORDER BY job.id LIMIT %(limit)s
        """,
        {"core": core_version, "limit": limit, "since": since_s},
    )
    return [row.id for row in rows]


@dataclass(frozen=True)
class _Missing:
    count: int


def missing(database: Database) -> int:
    """How many jobs have no card yet."""
    row = database.one(
        _Missing, "SELECT ((SELECT count(*) FROM job) - (SELECT count(*) FROM card))::int AS count", {}
    )
    return row.count if row else 0
