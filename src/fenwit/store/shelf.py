"""The shelf: parts at hand, and what is put aside for which job."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from fenwit.store.database import Database
from fenwit.store.errors import NotFound, Stale, StoreError


@dataclass(frozen=True)
class ShelfPart:
    """Some equal parts in one place."""

    id: int
    version: int
    class_: str
    nominal: float
    measured: float | None
    tolerance: float
    rating: float
    count: int
    place: str
    note: str
    gone: bool
    saved_at: datetime
    reserved: int
    """Put aside for jobs, all together [-]"""

    @property
    def free(self) -> int:
        """Not put aside for any job [-]"""
        return max(0, self.count - self.reserved)


@dataclass(frozen=True)
class Reservation:
    """Parts put aside for a job, and those it has used up."""

    part_id: int
    job_id: int
    reserved: int
    used: int


PART_FIELDS = ("class_", "nominal", "measured", "tolerance", "rating", "count", "place", "note", "gone")


class NotEnough(StoreError):
    """More is wanted than lies on the shelf."""

    def __init__(self, part: ShelfPart, wanted: int, free: int) -> None:
        self.part, self.wanted, self.free = part, wanted, free
        super().__init__(f"{wanted} wanted, {free} free")


def every(database: Database, *, gone: bool = False, limit: int = 5000) -> list[ShelfPart]:
    """The parts on the shelf by class and value; those taken off only when asked for."""
    return database.all(
        ShelfPart,
        """
        SELECT p.id, p.version, p.class AS class_, p.nominal, p.measured, p.tolerance, p.rating, p.count, p.place,
            p.note, p.gone, p.saved_at, coalesce(r.reserved, 0)::int AS reserved
        FROM shelf_part p
        LEFT JOIN (SELECT part_id, sum(reserved) AS reserved FROM reservation GROUP BY part_id) r ON r.part_id = p.id
        WHERE NOT p.gone OR %(gone)s
        ORDER BY p.class, p.nominal, p.id
        LIMIT %(limit)s
        """,
        {"gone": gone, "limit": limit},
    )


def get(database: Database, part_id: int) -> ShelfPart:
    """One part, on the shelf or taken off. Raises NotFound."""
    part = database.one(
        ShelfPart,
        """
        SELECT p.id, p.version, p.class AS class_, p.nominal, p.measured, p.tolerance, p.rating, p.count, p.place,
            p.note, p.gone, p.saved_at,
            (SELECT coalesce(sum(reserved), 0)::int FROM reservation WHERE part_id = p.id) AS reserved
        FROM shelf_part p WHERE p.id = %(id)s
        """,
        {"id": part_id},
    )
    if part is None:
        raise NotFound("part", part_id)
    return part


def values_of(part: ShelfPart) -> dict[str, Any]:
    """What of a part can be edited, as it is."""
    return {name: getattr(part, name) for name in PART_FIELDS}


def add(database: Database, values: dict[str, Any]) -> ShelfPart:
    """Put a part on the shelf."""
    row = database.one(
        _Key,
        """
        INSERT INTO shelf_part (class, nominal, measured, tolerance, rating, count, place, note, gone)
        VALUES (%(class_)s, %(nominal)s, %(measured)s, %(tolerance)s, %(rating)s, %(count)s, %(place)s, %(note)s,
            %(gone)s)
        RETURNING id
        """,
        values,
    )
    assert row is not None
    return get(database, row.id)


def save(database: Database, part_id: int, version: int, values: dict[str, Any]) -> ShelfPart:
    """Save a part that started from ``version``. Raises Stale with the stored one, or NotFound."""
    saved = database.run(
        """
        UPDATE shelf_part SET version = version + 1, saved_at = now(), class = %(class_)s, nominal = %(nominal)s,
            measured = %(measured)s, tolerance = %(tolerance)s, rating = %(rating)s, count = %(count)s,
            place = %(place)s, note = %(note)s, gone = %(gone)s
        WHERE id = %(id)s AND version = %(version)s
        """,
        {"id": part_id, "version": version, **values},
    )
    stored = get(database, part_id)
    if not saved:
        raise Stale("part", part_id, stored)
    return stored


@dataclass(frozen=True)
class _Key:
    id: int


def of_job(database: Database, job_id: int) -> list[Reservation]:
    """What is put aside for a job or was used by it."""
    return database.all(
        Reservation, "SELECT * FROM reservation WHERE job_id = %(job)s ORDER BY part_id", {"job": job_id}
    )


def hold(database: Database, part_ids: Sequence[int]) -> None:
    """Hold others off some parts until the transaction ends: after fan and job, and always in the order of the parts."""
    database.run(
        "SELECT 1 FROM shelf_part WHERE id = ANY(%(ids)s) ORDER BY id FOR UPDATE",
        {"ids": sorted(set(part_ids))},
    )


def everything_aside(database: Database) -> list[Reservation]:
    """All parts put aside, by part."""
    return database.all(
        Reservation, "SELECT * FROM reservation WHERE reserved > 0 ORDER BY part_id, job_id", {}
    )


def set_reservation(database: Database, part_id: int, job_id: int, reserved: int, used: int) -> None:
    """Put so many of a part aside for a job. Raises NotEnough when fewer are free, or NotFound."""
    # The part's row is held, so that two jobs cannot both take the last one.
    database.run("SELECT 1 FROM shelf_part WHERE id = %(id)s FOR UPDATE", {"id": part_id})
    part = get(database, part_id)
    mine = next((r.reserved for r in of_job(database, job_id) if r.part_id == part_id), 0)
    free = part.free + mine
    if reserved > free:
        raise NotEnough(part, reserved, free)
    database.run(
        """
        INSERT INTO reservation (part_id, job_id, reserved, used) VALUES (%(part)s, %(job)s, %(reserved)s, %(used)s)
        ON CONFLICT (part_id, job_id) DO UPDATE SET reserved = excluded.reserved, used = excluded.used
        """,
        {"part": part_id, "job": job_id, "reserved": reserved, "used": used},
    )
