"""A database of the version before designs named their method (migration 4): everything in it is read as it was."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import replace

import psycopg
import pytest

from fenwit.core import CORE_VERSION
from fenwit.core.frame import frame
from fenwit.core.frame.tables import changes, snapshot
from fenwit.core.methods.documents import method_of
from fenwit.store import codec, designs, handovers, jobs
from fenwit.store.database import Database
from fenwit.store.migrate import migrate
from fenwit.web.page import load_state
from fenwit.web.record import signed_record
from tests.conftest import ROOT

OLDER = ROOT / "tests" / "known" / "database-0004.sql"
_count = itertools.count(1)


@pytest.fixture(scope="module")
def older(cluster_url: str) -> Iterator[Database]:
    name = f"older_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}".encode())
    url = cluster_url.rsplit("/", 1)[0] + f"/{name}"
    with psycopg.connect(url) as connection:
        connection.execute(OLDER.read_bytes())
    assert migrate(url)
    found = Database(url, size=2).open()
    yield found
    found.close()


def all_designs(database: Database) -> list[designs.Design]:
    return [d for job in jobs.every(database) for d in designs.of_job(database, job.id)]


def test_every_stored_design_is_read_with_the_method_it_had(older: Database) -> None:
    found = [d for d in all_designs(older) if d.regulator is not None]
    assert {d.method for d in found} == {"series-capacitor", "phase-angle"}
    assert len(found) >= 14
    for design in found:
        assert design.regulator is not None
        loaded = codec.load_design(design.regulator)
        assert loaded.method.value == design.method == method_of(design.regulator).value
        # What is written now reads as the same design.
        assert codec.load_design(codec.dump_design(loaded)) == loaded


def test_what_the_newer_model_predicts_otherwise_is_told_and_what_was_kept_stays(older: Database) -> None:
    """Since core 6 a fan is believed to have iron, warmth and a shading ring: nearly every number moved."""
    compared = 0
    for design in all_designs(older):
        if design.regulator is None or design.kept is None:
            continue
        state = replace(
            load_state(older, design.job_id), design=codec.load_design(design.regulator), proofs=()
        )
        computed = frame(state)
        now = snapshot(computed)
        assert design.core_version != CORE_VERSION
        told = {c.name for c in changes(design.kept, computed)}
        moved = {
            k for k, v in design.kept.items() if k in now and abs(now[k] - v) > 0.05 * abs(v) and "speed" in k
        }
        assert moved <= told
        assert told
        again = next(d for d in all_designs(older) if d.id == design.id)
        assert again.kept == design.kept
        compared += 1
    assert compared >= 14


def test_signed_records_are_read_as_they_were_signed(older: Database) -> None:
    signed = [h for job in jobs.every(older) for h in handovers.of_job(older, job.id)]
    assert len(signed) == 2
    for found in signed:
        record = signed_record(found)
        assert record.name == found.record["name"]
        assert [s.speed for s in record.steps] == [s["speed"] for s in found.record["steps"]]
        assert [s.where for s in record.steps] == [
            s["contacts"] or s["setting"] for s in found.record["steps"]
        ]
        assert [p.name for p in record.parts] == [p["name"] for p in found.record["parts"]]
        assert record.signature is not None
        assert record.signature.who == "M. Orrin"
