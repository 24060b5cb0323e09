"""The instrument register: meters with what their data sheets allow them to miss."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database
from fenwit.store.errors import NotFound, Stale


@dataclass(frozen=True)
class Instrument:
    """One meter."""

    id: int
    version: int
    name: str
    true_rms: bool
    ranges: list[dict[str, Any]]
    gone: bool


def every(database: Database, *, gone: bool = False) -> list[Instrument]:
    """The meters by name; those given away only when asked for."""
    return database.all(
        Instrument,
        "SELECT id, version, name, true_rms, ranges, gone FROM instrument WHERE gone <= %(gone)s ORDER BY name, id",
        {"gone": gone},
    )


def get(database: Database, instrument_id: int) -> Instrument:
    """One meter. Raises NotFound."""
    found = database.one(
        Instrument,
        "SELECT id, version, name, true_rms, ranges, gone FROM instrument WHERE id = %(id)s",
        {"id": instrument_id},
    )
    if found is None:
        raise NotFound("instrument", instrument_id)
    return found


def add(database: Database, values: Mapping[str, Any]) -> Instrument:
    """A new meter."""
    found = database.one(
        Instrument,
        """
        INSERT INTO instrument (name, true_rms, ranges) VALUES (%(name)s, %(true_rms)s, %(ranges)s)
        RETURNING id, version, name, true_rms, ranges, gone
        """,
        {**values, "ranges": Jsonb(values["ranges"])},
    )
    assert found is not None
    return found


def save(database: Database, instrument_id: int, version: int, values: Mapping[str, Any]) -> Instrument:
    """Save a meter that started from ``version``. Raises Stale with the stored one, or NotFound."""
    found = database.one(
        Instrument,
        """
        UPDATE instrument SET version = version + 1, saved_at = now(), name = %(name)s, true_rms = %(true_rms)s,
            ranges = %(ranges)s, gone = %(gone)s
        WHERE id = %(id)s AND version = %(version)s
        RETURNING id, version, name, true_rms, ranges, gone
        """,
        {**values, "ranges": Jsonb(values["ranges"]), "id": instrument_id, "version": version},
    )
    if found is None:
        raise Stale("instrument", instrument_id, get(database, instrument_id))
    return found
