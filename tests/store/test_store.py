"""Nothing measured is lost: a real PostgreSQL, its constraints and its answers."""

from __future__ import annotations

import ast
import importlib
import inspect
import pkgutil
import re
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import psycopg
import pytest

from fenwit import demo, store
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.size.classes import PartClass
from fenwit.store import (
    answers,
    captures,
    designs,
    events,
    handovers,
    instruments,
    jobs,
    readings,
    runs,
)
from fenwit.store.database import Database
from fenwit.store.errors import NotFound, Stale, Unavailable
from fenwit.store.jobs import Job
from fenwit.store.migrate import migrate, migrations


@pytest.fixture
def job(database: Database) -> Job:
    return jobs.add(database, name="Bunk room 3", place="lodge", wish="quiet")


def take(
    database: Database, job: Job, value: float | None, supersedes: int | None = None
) -> readings.Reading:
    return readings.add(
        database,
        fan_id=job.fan_id,
        job_id=job.id,
        quantity="speed_rpm",
        value=value,
        typed="" if value is None else f"{value:g}",
        who="R. Fell",
        supersedes=supersedes,
    )


def test_migrations_are_numbered_without_gaps_and_applied_once(database_url: str) -> None:
    assert [number for number, _ in migrations()] == list(range(1, len(migrations()) + 1))
    assert migrate(database_url) == []


def test_a_database_from_the_future_is_left_alone(database_url: str) -> None:
    with psycopg.connect(database_url) as connection:
        connection.execute("INSERT INTO migration (number) VALUES (999)")
    with pytest.raises(RuntimeError, match="start a newer Fenwit"):
        migrate(database_url)


def test_a_stale_save_gets_the_stored_version_and_changes_nothing(database: Database, job: Job) -> None:
    saved = jobs.save(database, job.id, job.version, wanted_rpm=[100.0, 200.0])
    assert saved.version == job.version + 1
    with pytest.raises(Stale) as stale:
        jobs.save(database, job.id, job.version, wanted_rpm=[50.0])
    assert stale.value.current == saved
    assert jobs.get(database, job.id).wanted_rpm == [100.0, 200.0]


def test_a_stale_fan_gets_the_stored_one(database: Database, job: Job) -> None:
    fan = jobs.get_fan(database, job.fan_id)
    saved = jobs.save_fan(database, replace(fan, poles=16))
    with pytest.raises(Stale) as stale:
        jobs.save_fan(database, replace(fan, poles=18))
    assert stale.value.current == saved


def test_what_is_not_there_is_said(database: Database) -> None:
    for look in (lambda: jobs.get(database, 99), lambda: jobs.get_fan(database, 99)):
        with pytest.raises(NotFound):
            look()
    with pytest.raises(NotFound):
        jobs.save(database, 99, 1, wish="x")


def test_a_correction_supersedes_and_the_old_reading_stays(database: Database, job: Job) -> None:
    first = take(database, job, 3300.0)
    second = take(database, job, 330.0, supersedes=first.id)
    rows = readings.of_jobs(database, [job.id])
    assert [r.value for r in rows] == [3300.0, 330.0]
    assert readings.standing(rows) == [second]
    taken_back = take(database, job, None, supersedes=second.id)
    rows = readings.of_jobs(database, [job.id])
    assert readings.standing(rows) == []
    assert readings.newest(database, job.id, "speed_rpm", None, None) == taken_back


def test_two_first_readings_of_one_thing_do_not_both_stand(database: Database, job: Job) -> None:
    first = take(database, job, 330.0)
    with pytest.raises(Stale) as stale:
        take(database, job, 331.0)
    assert stale.value.current == first
    take(database, job, 332.0, supersedes=first.id)
    with pytest.raises(Stale):
        take(database, job, 333.0, supersedes=first.id)


def test_of_many_hands_at_once_one_wins_and_none_is_lost(database: Database, job: Job) -> None:
    def attempt(value: float) -> bool:
        try:
            take(database, job, value)
        except Stale:
            return False
        return True

    with ThreadPoolExecutor(4) as hands:
        won = list(hands.map(attempt, [float(v) for v in range(320, 332)]))
    assert won.count(True) == 1
    assert len(readings.of_jobs(database, [job.id])) == 1


BOOKS = ["reading", "design", "event", "handover", "capture", "answer"]


@pytest.mark.parametrize("table", BOOKS)
def test_history_cannot_be_rewritten(database: Database, database_url: str, job: Job, table: str) -> None:
    take(database, job, 330.0)
    events.add(database, job.id, "tested", {})
    handovers.add(
        database, job.id, design_id=None, who="R. Fell", note="", recheck_on=None, core_version="1", record={}
    )
    designs.add(
        database,
        job.id,
        after_revision=0,
        regulator={"capacitors": [{"nominal_f": 1e-6}], "patterns": ["A"]},
        kept=None,
        core_version="1",
        who="",
    )
    (design,) = designs.of_job(database, job.id)
    captures.add(database, job.id, design_id=design.id, step=1, name="", shown={}, who="")
    answer(database, job)
    statements = (f"UPDATE {table} SET job_id = job_id", f"DELETE FROM {table}", f"TRUNCATE {table} CASCADE")
    # The application may not; and its owner, who may, is stopped by the triggers.
    for statement in statements:
        with (
            pytest.raises(psycopg.errors.InsufficientPrivilege),
            database.transaction() as connection,
        ):
            connection.execute(statement.encode())
        with (
            pytest.raises(psycopg.errors.RaiseException, match="only ever added"),
            psycopg.connect(database_url) as owner,
        ):
            owner.execute(statement.encode())


def answer(
    database: Database, job: Job, value: float | None = 331.0, device: str = "exhaust fan"
) -> answers.Answer:
    return answers.add(
        database, job.id, device=device, quantity="speed_rpm", outcome="lost" if value is None else "value", value=value,
        words="w" * 400, took_s=0.1, who="R. Fell",
    )  # fmt: skip


def test_answers_come_newest_first_and_only_values_count(database: Database, job: Job) -> None:
    assert answers.last_value(database, job.id, "exhaust fan", "speed_rpm") is None
    rows = [answer(database, job), answer(database, job, None), answer(database, job, 60.0, "rack fan")]
    assert len(rows[0].words) == 300
    assert [a.id for a in answers.of_job(database, job.id)] == [a.id for a in reversed(rows)]
    last = answers.last_value(database, job.id, "exhaust fan", "speed_rpm")
    assert last is not None
    assert last.id == rows[0].id
    with pytest.raises(psycopg.errors.CheckViolation):
        answers.add(
            database, job.id, device="x", quantity="q", outcome="lost", value=1.0, words="", took_s=0.1, who=""
        )  # fmt: skip


def test_every_table_is_a_book_or_has_versions(database: Database) -> None:
    """From the database's own catalogue: a new table is guarded by one or the other, or this fails."""
    with database.transaction() as connection:
        tables = {
            row[0]: set(row[1])
            for row in connection.execute(
                "SELECT table_name, array_agg(column_name::text) FROM information_schema.columns "
                "WHERE table_schema = 'public' GROUP BY table_name"
            )
        }
        guarded = connection.execute(
            "SELECT c.relname, array_agg(t.tgtype::int) FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid "
            "WHERE NOT t.tgisinternal GROUP BY c.relname"
        ).fetchall()
        may = {
            row[0]: set(row[1])
            for row in connection.execute(
                "SELECT table_name, array_agg(privilege_type::text) FROM information_schema.table_privileges "
                "WHERE grantee = 'fenwit_app' AND table_schema = 'public' GROUP BY table_name"
            )
        }
    # Bits of tgtype: 8 on delete, 16 on update, 32 on truncate.
    books = {name for name, kinds in guarded if {8 | 16, 32} <= {k & (8 | 16 | 32) for k in kinds}}
    assert books == set(BOOKS)
    assert {name for name in tables if may[name] <= {"SELECT", "INSERT"}} == books | {"migration"}
    # Runs are put away once, reservations and cards follow from others; the Desk's last calls come and go.
    kept = {name for name, columns in tables.items() if "version" in columns}
    assert set(tables) == books | kept | {"migration", "run", "reservation", "card", "desk_answer"}


def test_rows_of_one_job_do_not_name_rows_of_another(database: Database, job: Job) -> None:
    other = jobs.add(database, name="Reading room", place="", wish="")
    design = designs.add(
        database, other.id, after_revision=0, regulator={"firing_deg": [90.0]}, kept=None, core_version="1", who=""
    )  # fmt: skip
    theirs = take(database, other, 300.0)

    def refused(constraint: str, **values: Any) -> None:
        given = {
            "fan_id": job.fan_id,
            "job_id": job.id,
            "quantity": "speed_rpm",
            "value": 1.0,
            "typed": "1",
            "who": "",
        }
        with pytest.raises(psycopg.errors.ForeignKeyViolation) as caught:
            readings.add(database, **(given | values))
        assert caught.value.diag.constraint_name == constraint

    refused("reading_own_design", design_id=design.id, step=1)
    refused("reading_own_fan", fan_id=other.fan_id)
    refused("reading_supersedes_same", supersedes=theirs.id)
    with pytest.raises(psycopg.errors.ForeignKeyViolation):
        designs.add(
            database, job.id, after_revision=0, regulator=None, kept=None, core_version="1", who="", restores=design.id
        )  # fmt: skip
    with pytest.raises(psycopg.errors.ForeignKeyViolation):
        captures.add(database, job.id, design_id=design.id, step=1, name="", shown={}, who="")


def test_checks_of_kinds_name_every_kind_there_is(database: Database) -> None:
    for constraint, kinds in (
        ("fan_motor_kind", MotorKind),
        ("shelf_class", PartClass),
        ("design_method", Method),
    ):
        with database.transaction() as connection:
            row = connection.execute(
                "SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = %s", (constraint,)
            ).fetchone()
        assert row is not None
        assert set(re.findall(r"'([^']+)'", row[0])) == {kind.value for kind in kinds}


def test_a_design_of_no_method_is_not_stored(database: Database, job: Job) -> None:
    for regulator in ({"method": "steam"}, {"wheels": 4}):
        with pytest.raises(psycopg.errors.CheckViolation):
            designs.add(
                database, job.id, after_revision=0, regulator=regulator, kept=None, core_version="1", who=""
            )  # fmt: skip


def test_designs_are_revisions_in_a_row(database: Database, job: Job) -> None:
    def choose(after: int) -> designs.Design:
        return designs.add(
            database,
            job.id,
            after_revision=after,
            regulator={"capacitors": [{"nominal_f": 1.8e-6}], "patterns": ["A", "direct"]},
            kept={"step 1 speed, rpm": 120.0},
            core_version="1",
            who="R. Fell",
        )

    choose(0)
    second = choose(1)
    assert designs.latest(database, [job.id])[job.id] == second
    with pytest.raises(Stale) as stale:
        choose(0)
    assert stale.value.current == second


@pytest.mark.parametrize(
    "statement",
    [
        "INSERT INTO fan (name) VALUES ('')",
        "INSERT INTO fan (name, poles) VALUES ('x', 15)",
        "INSERT INTO fan (name, rated_voltage_v) VALUES ('x', -1)",
        "UPDATE job SET supply_voltage_v = 0",
        "UPDATE job SET wanted_rpm = array_fill(1.0::float8, ARRAY[9])",
    ],
)
def test_the_database_itself_refuses_nonsense(database: Database, job: Job, statement: str) -> None:
    with pytest.raises(psycopg.errors.CheckViolation), database.transaction() as connection:
        connection.execute(statement.encode())


def test_a_confirmation_stands_however_much_happens_after_it(database: Database, job: Job) -> None:
    events.add(database, job.id, events.CONFIRMED, {"caution": "isolate"}, "R. Fell")
    for _ in range(205):
        events.add(database, job.id, "edited", {})
    assert [e.detail for e in events.confirmed(database, job.id)] == [{"caution": "isolate"}]


def test_a_database_that_is_away_is_said_in_our_words() -> None:
    away = Database("postgresql://fenwit:x@127.0.0.1:1/nowhere?connect_timeout=1", size=1)
    away._pool.timeout = 0.3
    away.open()
    try:
        with pytest.raises(Unavailable):
            jobs.every(away)
    finally:
        away.close()


@pytest.mark.parametrize(
    ("trouble", "words"),
    [
        (psycopg.errors.DiskFull, "its disk is full or read-only"),
        (psycopg.errors.ReadOnlySqlTransaction, "its disk is full or read-only"),
        (psycopg.errors.AdminShutdown, "does not answer"),
    ],
)
def test_trouble_of_the_server_is_told_as_what_it_is(
    database: Database, trouble: type[psycopg.Error], words: str
) -> None:
    with pytest.raises(Unavailable, match=words), database.transaction():
        raise trouble("no space left on device")


def test_half_a_transaction_leaves_nothing(database: Database) -> None:
    def halfway() -> None:
        with database.transaction():
            jobs.add(database, name="gone", place="", wish="")
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        halfway()
    assert jobs.every(database) == []


def test_the_demo_loads_once(database: Database) -> None:
    assert demo.load(database)
    assert not demo.load(database)
    assert len(jobs.every(database)) == len(demo.JOBS)


def test_every_statement_prepares_against_the_schema(database: Database) -> None:
    """Statements are gathered from the source, so none can be forgotten."""
    found = []
    modules = [
        importlib.import_module(f"fenwit.store.{m.name}") for m in pkgutil.iter_modules(store.__path__)
    ]
    assert {runs, captures, instruments} <= set(modules)
    for module in modules:
        for node in ast.walk(ast.parse(inspect.getsource(module))):
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and node.func.attr in ("one", "all", "run")
            ):
                found += [
                    a.value for a in node.args if isinstance(a, ast.Constant) and isinstance(a.value, str)
                ]
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "_insert":
                found += [a.value for a in node.args if isinstance(a, ast.Constant)]
    assert len(found) >= 30
    with database.transaction() as connection:
        for i, text in enumerate(found):
            numbered: dict[str, str] = {}
            while "%(" in text:
                name = text[text.index("%(") + 2 : text.index(")s")]
                numbered.setdefault(name, f"${len(numbered) + 1}")
                text = text.replace(f"%({name})s", numbered[name])
            connection.execute(f"PREPARE s{i} AS {text}".encode())


def test_a_run_is_put_away_only_while_nothing_stands_in_it(database: Database, job: Job) -> None:
    first = runs.add(database, job.id, what="capacitor", value=2.7e-6, typed="2u7", who="R. Fell")
    other = jobs.add(database, name="Bunk room 4", place="lodge", wish="")
    reading = readings.add(
        database, fan_id=job.fan_id, job_id=job.id, quantity="speed_rpm", value=199.0, typed="199", who="",
        run_id=first.id,
    )  # fmt: skip
    for owner in (job.id, other.id):
        with pytest.raises(NotFound):
            runs.withdraw(database, owner, first.id)
    readings.add(
        database, fan_id=job.fan_id, job_id=job.id, quantity="speed_rpm", value=None, typed="", who="",
        run_id=first.id, supersedes=reading.id,
    )  # fmt: skip
    runs.withdraw(database, job.id, first.id)
    assert [r.gone for r in runs.of_job(database, job.id)] == [True]


def test_the_same_thing_may_be_read_at_full_speed_and_in_each_run(database: Database, job: Job) -> None:
    places = [
        None,
        *(runs.add(database, job.id, what="direct", value=None, typed="", who="").id for _ in "ab"),
    ]
    for place in places:
        readings.add(
            database, fan_id=job.fan_id, job_id=job.id, quantity="speed_rpm", value=330.0, typed="330", who="",
            run_id=place,
        )  # fmt: skip
    with pytest.raises(Stale):
        readings.add(
            database, fan_id=job.fan_id, job_id=job.id, quantity="speed_rpm", value=331.0, typed="331", who="",
            run_id=places[1],
        )  # fmt: skip
    assert len(readings.standing(readings.of_jobs(database, [job.id]))) == 3


def test_a_sections_history_goes_over_all_jobs_of_its_fan(database: Database, job: Job) -> None:
    for day, value in (("2024-05-01", 5.5e-6), ("2025-05-01", 5.1e-6)):
        standing = readings.of_fan(database, job.fan_id, "section_f:")
        readings.add(
            database, fan_id=job.fan_id, job_id=job.id, quantity="section_f:A", value=value, typed="x", who="",
            taken_at=demo.day(day), supersedes=standing[-1].id if standing else None,
        )  # fmt: skip
    found = readings.of_fan(database, job.fan_id, "section_f:")
    assert [r.value for r in found] == [5.5e-6, 5.1e-6]
    assert readings.of_fan(database, job.fan_id, "section_esr:") == []
    assert readings.of_fan(database, job.fan_id + 1, "section_f:") == []


def test_a_stale_instrument_gets_the_stored_one(database: Database) -> None:
    values = {"name": "loft meter", "true_rms": True, "ranges": [], "gone": False}
    meter = instruments.add(database, values)
    saved = instruments.save(database, meter.id, meter.version, {**values, "gone": True})
    with pytest.raises(Stale) as stale:
        instruments.save(database, meter.id, meter.version, values)
    assert stale.value.current == saved
    assert instruments.every(database) == []
    assert instruments.every(database, gone=True) == [saved]
    with pytest.raises(NotFound):
        instruments.get(database, 999)
