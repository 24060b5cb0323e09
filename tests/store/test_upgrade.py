"""A database of any earlier version, with data, is brought up to date and works; what was damaged in it is put right."""

from __future__ import annotations

import itertools
import re
import subprocess
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from psycopg import conninfo

from fenwit.core.frame import frame
from fenwit.report.methods.older_records import stored_record
from fenwit.store import events, handovers, jobs, readings
from fenwit.store.cluster import server_programs
from fenwit.store.database import Database
from fenwit.store.migrate import migrate, newest_known
from fenwit.web.page import job_page, load, renew
from tests.conftest import ROOT

SNAPSHOT = ROOT / "tests" / "known" / "schema.sql"
_count = itertools.count(1)

FIRST = """
INSERT INTO fan (name, motor_kind, poles, rated_voltage_v, rated_frequency_hz, run_capacitance_f)
    VALUES ('Bunk room 2', 'psc', 16, 230, 50, 2.5e-6), ('Reading room', 'psc', 16, 230, 50, 2.5e-6);
INSERT INTO job (fan_id, wanted_rpm) VALUES (1, '{120,200,330}'), (2, '{150,330}');
INSERT INTO reading (fan_id, job_id, quantity, value, typed, who) VALUES
    (1, 1, 'speed_rpm', 331, '331', 'R. Fell'), (1, 1, 'line_current_a', 0.318, '318m', 'R. Fell'),
    (2, 2, 'speed_rpm', 330, '330', 'M. Orrin');
INSERT INTO reading (fan_id, job_id, quantity, value, typed, supersedes) VALUES (1, 1, 'speed_rpm', 330, '330', 1);
INSERT INTO event (job_id, kind, detail, who) VALUES (1, 'caution-confirmed', '{"caution": "isolate"}', 'R. Fell');
"""
DESIGN = {
    1: """INSERT INTO design (job_id, revision, a_f, b_f, patterns, tolerance, core_version)
        VALUES (1, 1, 1.5e-6, 2.7e-6, '{A,B,direct}', 0.1, '1')""",
    2: """INSERT INTO design (job_id, revision, regulator, kept, core_version) VALUES (1, 1,
        '{"capacitors": [{"nominal_f": 1.5e-6}, {"nominal_f": 2.7e-6}], "patterns": ["A", "B", "direct"],
          "switch": {"positions": 3}}', '{}', '2')""",
}
"""How a bank was stored, from which schema on"""
PROOF = """INSERT INTO reading (fan_id, job_id, design_id, step, quantity, value, typed)
    VALUES (1, 1, 1, 1, 'speed_rpm', 118, '118')"""
LATER = {
    2: """INSERT INTO handover (job_id, design_id, who, core_version, record)
        VALUES (1, 1, 'M. Orrin', '2', '{"job_id": 1}');
        INSERT INTO shelf_part (class, nominal, rating, count) VALUES ('x2-film', 1.5e-6, 275, 4);
        INSERT INTO card VALUES (1, '2', 'prove', 'bunk', '{"id": 1}')""",
    3: """INSERT INTO run (job_id, what, value, typed) VALUES (1, 'capacitor', 2.2e-6, '2u2'), (2, 'direct', NULL, '');
        INSERT INTO reading (fan_id, job_id, quantity, value, typed, run_id) VALUES (1, 1, 'speed_rpm', 170, '170', 1);
        INSERT INTO instrument (name, ranges) VALUES ('bench meter', '[]')""",
    4: """INSERT INTO capture (job_id, design_id, step, name, shown) VALUES (1, 1, 1, 'a.csv', '{}')""",
}


@pytest.fixture
def bare_url(cluster_url: str) -> str:
    """URL of a database with nothing in it."""
    name = f"upgraded_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}".encode())
    return cluster_url.rsplit("/", 1)[0] + "/" + name


def filled(url: str, number: int) -> None:
    """A database of an earlier schema with rows in every table it had."""
    assert migrate(url, upto=number) == list(range(1, number + 1))
    with psycopg.connect(url) as connection:
        connection.execute(FIRST.encode())
        connection.execute(DESIGN[min(number, 2)].encode())
        connection.execute(PROOF.encode())
        for since, rows in LATER.items():
            if since <= number:
                connection.execute(rows.encode())


@pytest.fixture
def opened(bare_url: str) -> Iterator[Database]:
    database = Database(bare_url, size=2)
    yield database
    database.close()


@pytest.mark.parametrize("number", range(1, newest_known()))
def test_every_older_schema_with_data_comes_up_to_date(opened: Database, number: int) -> None:
    filled(opened.url, number)
    called: list[int] = []
    assert migrate(opened.url, before=called.append) == list(range(number + 1, newest_known() + 1))
    assert called == [number + 1]
    opened.open()
    page = job_page(opened, 1)
    assert page.problem is None
    assert page.frame is not None
    assert page.frame.full is not None
    assert [d.text for d in page.designs] == ["1.5 µF + 2.7 µF; A, B, direct"]
    assert [
        r.value for r in readings.standing(page.readings) if r.quantity == "speed_rpm" and r.step is None
    ][:1] == [330]
    assert [r.step for r in page.frame.proofs if r.verdict] == [1]
    assert page.confirmed[0].who == "R. Fell"
    assert renew(opened) == 2
    # And it is worked on.
    jobs.touch(opened, 1)
    readings.add(
        opened, fan_id=1, job_id=1, quantity="speed_rpm", value=332.0, typed="332", who="", supersedes=4
    )  # fmt: skip
    events.add(opened, 1, events.CONFIRMED, {"caution": "isolate"})


def dumped(url: str) -> str:
    """The schema of a database, without what differs from server to server."""
    parts = conninfo.conninfo_to_dict(url)
    environment = {"PGPASSWORD": str(parts["password"]), "LC_ALL": "C"}
    command = [
        str(server_programs() / "pg_dump"), "--schema-only", "--no-owner", "-h", str(parts["host"]), "-p",
        str(parts["port"]), "-U", str(parts["user"]), str(parts["dbname"]),
    ]  # fmt: skip
    text = subprocess.run(command, env=environment, capture_output=True, text=True, check=True).stdout
    # Rights are listed in the order they were given; columns of a table that grew stand where they were added.
    lines = [
        line
        for line in text.splitlines()
        if line and not re.match(r"--|SET |SELECT pg_catalog|\\(un)?restrict", line)
    ]
    return "\n".join(lines) + "\n"


def test_the_schema_is_the_one_that_was_looked_at(database_url: str) -> None:
    """After a new migration: look at the difference, then write the snapshot anew from what is printed."""
    assert dumped(database_url) == SNAPSHOT.read_text()


def test_an_older_database_gets_the_very_same_schema(bare_url: str) -> None:
    filled(bare_url, newest_known() - 1)
    migrate(bare_url)
    assert dumped(bare_url) == SNAPSHOT.read_text()


DAMAGE = """
-- A watt reading that corrects the speed, and a speed that corrects another job's.
INSERT INTO reading (fan_id, job_id, quantity, value, typed, supersedes) VALUES
    (1, 1, 'input_power_w', 73, '73W', 4), (2, 2, 'speed_rpm', 329, '329', 2);
-- Rows of job 2 that name design, run and fan of job 1.
INSERT INTO design (job_id, revision, regulator, kept, core_version, restores) SELECT 2, 1, regulator, kept, '4', 1
    FROM design WHERE id = 1;
INSERT INTO reading (fan_id, job_id, design_id, step, quantity, value, typed)
    VALUES (1, 2, 1, 2, 'speed_rpm', 200, '200');
INSERT INTO reading (fan_id, job_id, quantity, value, typed, run_id) VALUES (2, 2, 'line_current_a', 0.2, '200m', 1);
INSERT INTO capture (job_id, design_id, step, name, shown) VALUES (2, 1, 2, 'theirs.csv', '{}');
INSERT INTO handover (job_id, design_id, who, core_version, record) VALUES (2, 1, 'M. Orrin', '4', '{"job_id": 2}');
-- What came with a file: it names the job it was signed in.
INSERT INTO handover (job_id, design_id, who, core_version, record) VALUES (1, 1, 'Somebody', '4', '{"job_id": 77}');
"""


def test_rows_that_named_another_jobs_rows_are_put_right_and_told(opened: Database) -> None:
    filled(opened.url, 4)
    with psycopg.connect(opened.url) as connection:
        connection.execute(DAMAGE.encode())
        before = connection.execute("SELECT count(*), count(value) FROM reading").fetchone()
    migrate(opened.url)
    opened.open()
    with opened.transaction() as connection:
        assert connection.execute("SELECT count(*), count(value) FROM reading").fetchone() == before
        astray = connection.execute(
            """
            SELECT r.id FROM reading r LEFT JOIN reading o ON o.id = r.supersedes LEFT JOIN design d ON d.id = r.design_id
                LEFT JOIN run u ON u.id = r.run_id JOIN job j ON j.id = r.job_id
            WHERE o.job_id <> r.job_id OR o.thing <> r.thing OR d.job_id <> r.job_id OR u.job_id <> r.job_id
                OR j.fan_id <> r.fan_id
            """
        ).fetchall()
        assert astray == []
        left = connection.execute(
            "SELECT conname FROM pg_constraint WHERE contype = 'f' AND NOT convalidated"
        ).fetchall()
        assert left == []
    one, two = load(opened, 1), load(opened, 2)
    standing = {(r.quantity, r.run_id is not None, r.step): r.value for r in readings.standing(one.readings)}
    assert standing["speed_rpm", False, None] == 330  # no longer hidden by the watts
    assert standing["input_power_w", False, None] == 73
    speeds = [r for r in two.readings if r.quantity == "speed_rpm" and r.step is None]
    assert [r.supersedes for r in speeds] == [None, speeds[0].id]
    assert readings.standing(speeds)[0].value == 329
    # The design of the other job is a copy of its own, before all others, and stands for nothing.
    proof = next(r for r in two.readings if r.step == 2)
    assert {d.id: d.revision for d in two.revisions}[proof.design_id or 0] == 0
    assert frame(two.state).full is not None
    told = events.of_kind(opened, 2, "put-right")
    assert {key for e in told for key in e.detail} >= {"design", "run", "reading"}
    assert {(h.who, h.imported) for h in handovers.of_job(opened, 1)} == {
        ("M. Orrin", False),
        ("Somebody", True),
    }
    assert [h.imported for h in handovers.of_job(opened, 2)] == [False]


def test_a_record_of_any_version_is_read_or_refused() -> None:
    with pytest.raises(ValueError, match="name"):
        stored_record({"job_id": 1})


@pytest.mark.parametrize("statement", ["SET ROLE fenwit", "RESET ROLE", "SET SESSION AUTHORIZATION fenwit"])
def test_the_application_cannot_become_anybody_else(served_url: str, statement: str) -> None:
    with psycopg.connect(served_url, autocommit=True) as connection:
        row: Any = connection.execute(
            "SELECT session_user, current_user, rolsuper FROM pg_roles WHERE rolname = session_user"
        ).fetchone()
        assert row == ("fenwit_web", "fenwit_web", False)
        if statement == "RESET ROLE":
            connection.execute(statement.encode())
        else:
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute(statement.encode())
        for forbidden in (
            "TRUNCATE reading", "UPDATE reading SET value = 1", "DELETE FROM event", "DROP TABLE reading",
            "ALTER TABLE reading DISABLE TRIGGER ALL", "UPDATE handover SET imported = false", "DELETE FROM job",
            "CREATE TABLE mine (x int)", "CREATE ROLE mine", "INSERT INTO migration VALUES (99)",
            "COPY (SELECT 1) TO PROGRAM 'true'", "SELECT pg_read_file('/etc/passwd')",
        ):  # fmt: skip
            with pytest.raises((psycopg.errors.InsufficientPrivilege, psycopg.errors.UndefinedFunction)):
                connection.execute(forbidden.encode())


@pytest.fixture
def served_url(demo_url: str) -> str:
    """URL as the application gets it on a server that is ours."""
    from fenwit.store.roles import application_url

    return application_url(demo_url)


def test_with_a_login_of_its_own_everything_works(served_url: str) -> None:
    database = Database(served_url, size=2).open()
    try:
        job = jobs.add(database, name="Attic", place="", wish="")
        jobs.save(database, job.id, job.version, wish="quiet")
        assert renew(database) >= 1
        with database.transaction() as connection:
            row = connection.execute("SHOW statement_timeout").fetchone()
        assert row == ("20s",)
    finally:
        database.close()
