"""Fans and jobs: what may be changed, with a version on every save."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store.database import Database
from fenwit.store.errors import Conflict, NotFound, Stale


@dataclass(frozen=True)
class Fan:
    """The thing that lasts: one fan with its nameplate."""

    id: int
    version: int
    name: str
    place: str
    maker: str
    serial: str
    motor_kind: str | None
    poles: int | None
    rated_voltage_v: float | None
    rated_frequency_hz: float | None
    rated_speed_rpm: float | None
    rated_current_a: float | None
    rated_power_w: float | None
    run_capacitance_f: float | None
    shaft_power_w: float | None = None
    apparent_power_va: float | None = None
    airflow_m3_per_s: float | None = None
    sweep_m: float | None = None
    ambient_c: float | None = None
    printed: dict[str, str] = field(default_factory=dict)
    """Field and its text as printed, where the value alone does not say it"""
    findings: dict[str, Any] = field(default_factory=dict)
    """What was seen on the motor, its leads and capacitor block; one document"""


@dataclass(frozen=True)
class Job:
    """A fan and what is wanted of it."""

    id: int
    version: int
    fan_id: int
    wish: str
    supply_voltage_v: float
    supply_frequency_hz: float
    wanted_rpm: list[float]
    profile: dict[str, Any]
    sizing: dict[str, Any]
    board: dict[str, Any]
    """The control that came in, one document; empty: none"""
    air: dict[str, Any]
    meant: list[str]
    """Beside the wanted speeds, as they were meant"""
    commanded: dict[str, Any]
    """What is known of a fan with electronics of its own"""
    hold: dict[str, Any]
    """What it holds by itself, and how"""
    wiring: str
    """How it is wired, a document whose order counts; empty: nothing"""
    created_at: datetime
    saved_at: datetime


FAN_FIELDS = tuple(f.name for f in fields(Fan) if f.name not in ("id", "version"))


def add(database: Database, *, name: str, place: str, wish: str) -> Job:
    """A new fan with a new job; both at version 1."""
    with database.transaction():
        fan = database.one(
            Fan,
            "INSERT INTO fan (name, place) VALUES (%(name)s, %(place)s) RETURNING *",
            {"name": name, "place": place},
        )
        assert fan is not None
        job = database.one(
            Job,
            "INSERT INTO job (fan_id, wish) VALUES (%(fan)s, %(wish)s) RETURNING *",
            {"fan": fan.id, "wish": wish},
        )
        assert job is not None
    return job


def get_fan(database: Database, fan_id: int) -> Fan:
    """One fan. Raises NotFound."""
    fan = database.one(Fan, "SELECT * FROM fan WHERE id = %(id)s", {"id": fan_id})
    if fan is None:
        raise NotFound("fan", fan_id)
    return fan


def get(database: Database, job_id: int) -> Job:
    """One job. Raises NotFound."""
    job = database.one(Job, "SELECT * FROM job WHERE id = %(id)s", {"id": job_id})
    if job is None:
        raise NotFound("job", job_id)
    return job


def every(database: Database, limit: int = 500) -> list[Job]:
    """The jobs in hand, oldest first."""
    return database.all(Job, "SELECT * FROM job ORDER BY id LIMIT %(limit)s", {"limit": limit})


@dataclass(frozen=True)
class _Mark:
    mark: str


def mark(database: Database, job_id: int) -> str:
    """A text that changes whenever the job or its fan is saved, whoever saves it. Raises NotFound.

    Every save of anything that belongs to a job touches the job, so this one row tells.
    """
    row = database.one(
        _Mark,
        """
        SELECT job.xmin::text || ' ' || fan.xmin::text || ' ' || fan.version AS mark
        FROM job JOIN fan ON fan.id = job.fan_id WHERE job.id = %(id)s
        """,
        {"id": job_id},
    )
    if row is None:
        raise NotFound("job", job_id)
    return row.mark


def touch(database: Database, job_id: int, mark_was: str | None = None) -> None:
    """Begin to save something of a job: hold others off its fan and it, and note that it was saved.

    Fan first, then job, wherever both are held: two saves can then wait for each other, but not in a ring. With
    ``mark_was``, from `mark`, raises Conflict when anything of the job was saved since. Raises NotFound.
    """
    database.run(
        """
        SELECT 1 FROM fan WHERE id = (SELECT fan_id FROM job WHERE id = %(id)s) FOR NO KEY UPDATE
        """,
        {"id": job_id},
    )
    database.run("SELECT 1 FROM job WHERE id = %(id)s FOR NO KEY UPDATE", {"id": job_id})
    if mark_was is not None and mark(database, job_id) != mark_was:
        raise Conflict(f"job {job_id} was saved meanwhile")
    # The clock's time and not the transaction's: of two saves the later one has the later time.
    if not database.run("UPDATE job SET saved_at = clock_timestamp() WHERE id = %(id)s", {"id": job_id}):
        raise NotFound("job", job_id)


def save_fan(database: Database, fan: Fan) -> Fan:
    """Save a fan that started from ``fan.version``. Raises Stale with the stored one, or NotFound."""
    saved = database.one(
        Fan,
        """
        UPDATE fan SET version = version + 1, name = %(name)s, place = %(place)s, maker = %(maker)s,
            serial = %(serial)s, motor_kind = %(motor_kind)s, poles = %(poles)s,
            rated_voltage_v = %(rated_voltage_v)s, rated_frequency_hz = %(rated_frequency_hz)s,
            rated_speed_rpm = %(rated_speed_rpm)s, rated_current_a = %(rated_current_a)s,
            rated_power_w = %(rated_power_w)s, run_capacitance_f = %(run_capacitance_f)s,
            shaft_power_w = %(shaft_power_w)s, apparent_power_va = %(apparent_power_va)s,
            airflow_m3_per_s = %(airflow_m3_per_s)s, sweep_m = %(sweep_m)s, ambient_c = %(ambient_c)s,
            printed = %(printed)s, findings = %(findings)s
        WHERE id = %(id)s AND version = %(version)s
        RETURNING *
        """,
        {f.name: getattr(fan, f.name) for f in fields(fan)}
        | {"findings": Jsonb(fan.findings), "printed": Jsonb(fan.printed)},
    )
    if saved is None:
        raise Stale("fan", fan.id, get_fan(database, fan.id))
    return saved


def save(
    database: Database,
    job_id: int,
    version: int,
    *,
    wish: str | None = None,
    supply_voltage_v: float | None = None,
    supply_frequency_hz: float | None = None,
    wanted_rpm: Sequence[float] | None = None,
    profile: Mapping[str, Any] | None = None,
    sizing: Mapping[str, Any] | None = None,
    board: Mapping[str, Any] | None = None,
    air: Mapping[str, Any] | None = None,
    meant: Sequence[str] | None = None,
    commanded: Mapping[str, Any] | None = None,
    hold: Mapping[str, Any] | None = None,
    wiring: str | None = None,
) -> Job:
    """Save the given parts of a job that started from ``version``. Raises Stale with the stored one, or NotFound."""
    saved = database.one(
        Job,
        """
        UPDATE job SET version = version + 1, saved_at = clock_timestamp(),
            wish = coalesce(%(wish)s::text, wish),
            supply_voltage_v = coalesce(%(volts)s::float8, supply_voltage_v),
            supply_frequency_hz = coalesce(%(hertz)s::float8, supply_frequency_hz),
            wanted_rpm = coalesce(%(wanted)s::float8[], wanted_rpm),
            profile = coalesce(%(profile)s::jsonb, profile),
            sizing = coalesce(%(sizing)s::jsonb, sizing),
            board = coalesce(%(board)s::jsonb, board),
            air = coalesce(%(air)s::jsonb, air),
            meant = coalesce(%(meant)s::text[], meant),
            commanded = coalesce(%(commanded)s::jsonb, commanded),
            hold = coalesce(%(hold)s::jsonb, hold),
            wiring = coalesce(%(wiring)s::text, wiring)
        WHERE id = %(id)s AND version = %(version)s
        RETURNING *
        """,
        {
            "id": job_id,
            "version": version,
            "wish": wish,
            "volts": supply_voltage_v,
            "hertz": supply_frequency_hz,
            "wanted": None if wanted_rpm is None else list(wanted_rpm),
            "profile": None if profile is None else Jsonb(dict(profile)),
            "sizing": None if sizing is None else Jsonb(dict(sizing)),
            "board": None if board is None else Jsonb(dict(board)),
            "air": None if air is None else Jsonb(dict(air)),
            "meant": None if meant is None else list(meant),
            "commanded": None if commanded is None else Jsonb(dict(commanded)),
            "hold": None if hold is None else Jsonb(dict(hold)),
            "wiring": wiring,
        },
    )
    if saved is None:
        raise Stale("job", job_id, get(database, job_id))
    return saved
