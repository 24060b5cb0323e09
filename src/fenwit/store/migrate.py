"""Numbered .sql files, applied once each, only forward."""

from __future__ import annotations

from collections.abc import Callable
from importlib import resources
from typing import Any

import psycopg

_LOCK = 7_236_116


class TooNew(RuntimeError):
    """The database was brought up to date by a newer Fenwit."""


def migrations() -> list[tuple[int, str]]:
    """Number and text of every migration, in order."""
    folder = resources.files("fenwit.store") / "migrations"
    found = [(int(f.name[:4]), f.read_text("utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


def newest_known() -> int:
    """Number of the newest migration of this version."""
    return max((n for n, _ in migrations()), default=0)


def number_of(connection: psycopg.Connection[Any]) -> int:
    """Number of the last migration a database has seen; 0 when it is empty."""
    there = connection.execute("SELECT to_regclass('public.migration') IS NOT NULL").fetchone()
    if not there or not there[0]:
        return 0
    row = connection.execute("SELECT coalesce(max(number), 0) FROM migration").fetchone()
    return int(row[0]) if row else 0


def migrate(url: str, *, upto: int | None = None, before: Callable[[int], None] | None = None) -> list[int]:
    """Bring a database up to date; returns the numbers applied. Several processes may call this at once.

    ``before`` is called with the first number to come when a database that is in use is about to be changed.

    Raises TooNew for a database that a newer Fenwit made.
    """
    applied = []
    with psycopg.connect(url) as connection:
        connection.execute("SELECT pg_advisory_xact_lock(%s)", (_LOCK,))
        connection.execute(
            "CREATE TABLE IF NOT EXISTS migration ("
            "number integer PRIMARY KEY, applied_at timestamptz NOT NULL DEFAULT now())"
        )
        done = {row[0] for row in connection.execute("SELECT number FROM migration")}
        newest = newest_known()
        if done and max(done) > newest:
            raise TooNew(
                f"the database is at migration {max(done)}, this Fenwit knows {newest}: start a newer Fenwit"
            )
        wanted = [(n, text) for n, text in migrations() if n not in done and (upto is None or n <= upto)]
        if wanted and done and before is not None:
            before(wanted[0][0])
        for number, text in wanted:
            connection.execute(text.encode())
            connection.execute("INSERT INTO migration (number) VALUES (%s)", (number,))
            applied.append(number)
    return applied
