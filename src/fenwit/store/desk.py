"""What was worked out on the Desk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from psycopg.types.json import Jsonb

from fenwit.store.database import Database

KEPT = 20
"""Of each card [-]"""


@dataclass(frozen=True)
class DeskAnswer:
    """One call with its answer in a line."""

    id: int
    card: str
    given: dict[str, str]
    said: str
    who: str
    at: datetime


def newest(database: Database, limit: int = KEPT) -> list[DeskAnswer]:
    """The last calls of all cards, the newest first."""
    return database.all(
        DeskAnswer,
        "SELECT id, card, given, said, who, at FROM desk_answer ORDER BY id DESC LIMIT %(limit)s",
        {"limit": limit},
    )


def of_card(database: Database, card: str) -> list[DeskAnswer]:
    """The last calls of one card, the newest first."""
    return database.all(
        DeskAnswer,
        """
        SELECT id, card, given, said, who, at FROM desk_answer WHERE card = %(card)s ORDER BY id DESC
        LIMIT %(limit)s
        """,
        {"card": card, "limit": KEPT},
    )


def keep(database: Database, card: str, given: Mapping[str, str], said: str, who: str) -> None:
    """Keep a call unless it is the last one once more; what lies deeper than the newest goes."""
    values = {"card": card, "given": Jsonb(dict(given)), "said": said[:400], "who": who, "kept": KEPT}
    with database.transaction():
        database.run(
            """
            INSERT INTO desk_answer (card, given, said, who)
            SELECT %(card)s::text, %(given)s::jsonb, %(said)s::text, %(who)s::text
            WHERE %(given)s::jsonb IS DISTINCT FROM (
                SELECT given FROM desk_answer WHERE card = %(card)s::text ORDER BY id DESC LIMIT 1
            )
            """,
            values,
        )
        database.run(
            """
            DELETE FROM desk_answer WHERE card = %(card)s AND id NOT IN (
                SELECT id FROM desk_answer WHERE card = %(card)s ORDER BY id DESC LIMIT %(kept)s
            )
            """,
            {"card": card, "kept": KEPT},
        )
