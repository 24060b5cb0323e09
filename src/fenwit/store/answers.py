"""What devices answered when they were asked; appended, never changed, beside the readings."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from fenwit.store.database import Database


@dataclass(frozen=True)
class Answer:
    """One answer, or that none came."""

    id: int
    job_id: int
    device: str
    quantity: str
    outcome: str
    """value, late, lost, absurd or refused [-]"""
    value: float | None
    words: str
    took_s: float
    who: str
    at: datetime


def of_job(database: Database, job_id: int, most: int = 30) -> list[Answer]:
    """The newest answers of a job, newest first."""
    return database.all(
        Answer,
        "SELECT * FROM answer WHERE job_id = %(job)s ORDER BY id DESC LIMIT %(most)s",
        {"job": job_id, "most": most},
    )


def last_value(database: Database, job_id: int, device: str, quantity: str) -> Answer | None:
    """The newest value of a quantity that a device gave in a job; None: none yet."""
    return database.one(
        Answer,
        """
        SELECT * FROM answer
        WHERE job_id = %(job)s AND device = %(device)s AND quantity = %(quantity)s AND outcome = 'value'
        ORDER BY id DESC LIMIT 1
        """,
        {"job": job_id, "device": device, "quantity": quantity},
    )


def add(
    database: Database,
    job_id: int,
    *,
    device: str,
    quantity: str,
    outcome: str,
    value: float | None,
    words: str,
    took_s: float,
    who: str,
) -> Answer:
    """Append an answer."""
    found = database.one(
        Answer,
        """
        INSERT INTO answer (job_id, device, quantity, outcome, value, words, took_s, who)
        VALUES (%(job)s, %(device)s, %(quantity)s, %(outcome)s, %(value)s, %(words)s, %(took)s, %(who)s)
        RETURNING *
        """,
        {
            "job": job_id, "device": device, "quantity": quantity, "outcome": outcome, "value": value,
            "words": words[:300], "took": took_s, "who": who,
        },
    )  # fmt: skip
    assert found is not None
    return found
