"""A whole job put into the database as it was elsewhere, with its times; all of it or nothing."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Jsonb

from fenwit.store import events
from fenwit.store.database import Database


@dataclass(frozen=True)
class _Key:
    id: int


def add_job(
    database: Database,
    *,
    fan: Mapping[str, Any],
    job: Mapping[str, Any],
    designs: Sequence[Mapping[str, Any]],
    readings: Sequence[Mapping[str, Any]],
    runs: Sequence[Mapping[str, Any]] = (),
    answers: Sequence[Mapping[str, Any]] = (),
    confirmations: Sequence[Mapping[str, Any]],
    handovers: Sequence[Mapping[str, Any]],
    captures: Sequence[Mapping[str, Any]] = (),
) -> int:
    """Insert a job with everything that belongs to it; returns its number.

    Links inside the job are places in its lists, from 1: ``restores`` and ``design`` of designs, ``supersedes`` of
    readings; ``run`` of readings is a place in ``runs``.
    """
    with database.transaction():
        fan_id = _insert(
            database,
            """
            INSERT INTO fan (name, place, maker, serial, motor_kind, poles, rated_voltage_v, rated_frequency_hz,
                rated_speed_rpm, rated_current_a, rated_power_w, run_capacitance_f, shaft_power_w, apparent_power_va,
                airflow_m3_per_s, sweep_m, ambient_c, printed, findings)
            VALUES (%(name)s, %(place)s, %(maker)s, %(serial)s, %(motor_kind)s, %(poles)s, %(rated_voltage_v)s,
                %(rated_frequency_hz)s, %(rated_speed_rpm)s, %(rated_current_a)s, %(rated_power_w)s,
                %(run_capacitance_f)s, %(shaft_power_w)s, %(apparent_power_va)s, %(airflow_m3_per_s)s, %(sweep_m)s,
                %(ambient_c)s, %(printed)s, %(findings)s)
            RETURNING id
            """,
            {**fan, "findings": Jsonb(fan["findings"]), "printed": Jsonb(fan["printed"])},
        )
        job_id = _insert(
            database,
            """
            INSERT INTO job (fan_id, wish, supply_voltage_v, supply_frequency_hz, wanted_rpm, profile, sizing, board,
                air, meant, commanded, hold, wiring, created_at, saved_at)
            VALUES (%(fan)s, %(wish)s, %(supply_voltage_v)s, %(supply_frequency_hz)s, %(wanted_rpm)s, %(profile)s,
                %(sizing)s, %(board)s, %(air)s, %(meant)s, %(commanded)s, %(hold)s, %(wiring)s,
                %(created_at)s, %(saved_at)s)
            RETURNING id
            """,
            {
                **job,
                "fan": fan_id,
                "profile": Jsonb(job["profile"]),
                "sizing": Jsonb(job["sizing"]),
                "board": Jsonb(job["board"]),
                "air": Jsonb(job["air"]),
                "commanded": Jsonb(job["commanded"]),
                "hold": Jsonb(job["hold"]),
                "wiring": json.dumps(job["wiring"], ensure_ascii=False) if job["wiring"] else "",
            },
        )
        design_ids: list[int] = []
        for revision, design in enumerate(designs, start=1):
            design_ids.append(
                _insert(
                    database,
                    """
                    INSERT INTO design (job_id, revision, regulator, kept, restores, core_version, who, made_at, name)
                    VALUES (%(job)s, %(revision)s, %(regulator)s, %(kept)s, %(restores)s, %(core_version)s, %(who)s,
                        %(made_at)s, %(name)s)
                    RETURNING id
                    """,
                    {
                        **design,
                        "job": job_id,
                        "revision": revision,
                        "regulator": _json(design["regulator"]),
                        "kept": _json(design["kept"]),
                        "restores": _at(design_ids, design["restores"]),
                    },
                )
            )
        run_ids = [
            _insert(
                database,
                """
                INSERT INTO run (job_id, what, value, typed, frequency_hz, gone, who, at)
                VALUES (%(job)s, %(what)s, %(value)s, %(typed)s, %(frequency_hz)s, %(gone)s, %(who)s, %(at)s) RETURNING id
                """,
                {**run, "job": job_id},
            )
            for run in runs
        ]
        reading_ids: list[int] = []
        for reading in readings:
            reading_ids.append(
                _insert(
                    database,
                    """
                    INSERT INTO reading (fan_id, job_id, design_id, step, quantity, value, typed, expected_low,
                        expected_high, who, taken_at, supersedes, run_id, sigma, aside, winding, winding_c, source)
                    VALUES (%(fan)s, %(job)s, %(design)s, %(step)s, %(quantity)s, %(value)s, %(typed)s,
                        %(expected_low)s, %(expected_high)s, %(who)s, %(taken_at)s, %(supersedes)s,
                        %(run)s, %(sigma)s, %(aside)s, %(winding)s, %(winding_c)s, %(source)s)
                    RETURNING id
                    """,
                    {
                        **reading,
                        "fan": fan_id,
                        "job": job_id,
                        "design": _at(design_ids, reading["design"]),
                        "supersedes": _at(reading_ids, reading["supersedes"]),
                        "run": _at(run_ids, reading["run"]),
                    },
                )
            )
        told: list[tuple[str, tuple[str, ...], Mapping[str, Any]]] = [
            (events.CONFIRMED, ("caution", "text", "brief", "said", "do"), given) for given in confirmations
        ]
        told += [(events.ANSWERED, ("method", "reason"), given) for given in answers]
        for kind, names, given in told:
            _insert(
                database,
                """
                INSERT INTO event (job_id, kind, detail, who, at)
                VALUES (%(job)s, %(kind)s, %(detail)s, %(who)s, %(at)s) RETURNING id
                """,
                {
                    "job": job_id,
                    "kind": kind,
                    "detail": Jsonb({**{name: given[name] for name in names}, "imported": True}),
                    "who": given["who"],
                    "at": given["at"],
                },
            )
        for capture in captures:
            _insert(
                database,
                """
                INSERT INTO capture (job_id, design_id, step, name, shown, who, at)
                VALUES (%(job)s, %(design)s, %(step)s, %(name)s, %(shown)s, %(who)s, %(at)s) RETURNING id
                """,
                {
                    **capture,
                    "job": job_id,
                    "design": _at(design_ids, capture["design"]),
                    "shown": Jsonb(capture["shown"]),
                },
            )
        for signed in handovers:
            _insert(
                database,
                """
                INSERT INTO handover (job_id, design_id, who, note, recheck_on, core_version, record, at, imported)
                VALUES (%(job)s, %(design)s, %(who)s, %(note)s, %(recheck_on)s, %(core_version)s, %(record)s, %(at)s,
                    true)
                RETURNING id
                """,
                {
                    **signed,
                    "job": job_id,
                    "design": _at(design_ids, signed["design"]),
                    "record": Jsonb(signed["record"]),
                },
            )
    return job_id


def _insert(database: Database, sql: Any, values: Mapping[str, Any]) -> int:
    row = database.one(_Key, sql, values)
    assert row is not None
    return row.id


def _json(value: Any) -> Jsonb | None:
    return None if value is None else Jsonb(value)


def _at(ids: Sequence[int], place: int | None) -> int | None:
    return None if place is None else ids[place - 1]
