"""Numbered .sql files, applied once each, only forward."""

from __future__ import annotations

from importlib import resources

import psycopg

_LOCK = 7_236_116


def migrations() -> list[tuple[int, str]]:
    """Number and text of every migration, in order."""
    folder = resources.files("fenwit.store") / "migrations"
    found = [(int(f.name[:4]), f.read_text("utf-8")) for f in folder.iterdir() if f.name.endswith(".sql")]
    return sorted(found)


def migrate(url: str) -> list[int]:
    """Bring a database up to date; returns the numbers applied. Several processes may call this at once."""
    applied = []
    with psycopg.connect(url) as connection:
        connection.execute("SELECT pg_advisory_xact_lock(%s)", (_LOCK,))
        connection.execute(
            "CREATE TABLE IF NOT EXISTS migration ("
            "number integer PRIMARY KEY, applied_at timestamptz NOT NULL DEFAULT now())"
        )
        done = {row[0] for row in connection.execute("SELECT number FROM migration")}
        newest = max((n for n, _ in migrations()), default=0)
        if done and max(done) > newest:
            raise RuntimeError(
                f"the database is at migration {max(done)}, this Fenwit knows {newest}: start a newer Fenwit"
            )
        for number, text in migrations():
            if number not in done:
                connection.execute(text.encode())
                connection.execute("INSERT INTO migration (number) VALUES (%s)", (number,))
                applied.append(number)
    return applied
