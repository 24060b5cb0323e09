"""Everything in one file, read back before it counts, and back again."""

from __future__ import annotations

import itertools
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import psycopg
import pytest

from fenwit.store import backup, jobs
from fenwit.store.backup import BackupError
from fenwit.store.database import Database
from fenwit.store.migrate import migrate, newest_known

_count = itertools.count(1)


def contents(url: str) -> dict[str, object]:
    """Every row of every table."""
    with psycopg.connect(url) as connection:
        names = connection.execute(
            "SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1"
        ).fetchall()
        return {
            name: connection.execute(f"SELECT t::text FROM {name} t ORDER BY 1".encode()).fetchall()
            for (name,) in names
        }


def databases(url: str) -> set[str]:
    with psycopg.connect(url) as connection:
        return {name for (name,) in connection.execute("SELECT datname FROM pg_database")}


@pytest.fixture
def elsewhere(cluster_url: str, template: str) -> str:
    """URL of another database that is up to date, to restore into."""
    name = f"back_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {template}".encode())
    return cluster_url.rsplit("/", 1)[0] + "/" + name


def test_everything_goes_out_and_comes_back(demo_url: str, elsewhere: str, tmp_path: Path) -> None:
    before = databases(demo_url)
    file = tmp_path / "deep" / "today.fenwit"
    made = backup.backup(demo_url, file)
    assert made.compared
    assert made.rows["job"] >= 6
    assert made.rows["shelf_part"] > 0
    assert made.rows["instrument"] > 0
    assert file.stat().st_mode & 0o077 == 0
    assert [f.name for f in file.parent.iterdir()] == ["today.fenwit"]
    jobs.add(Database(elsewhere, size=1).open(), name="will be gone", place="", wish="")
    with psycopg.connect(elsewhere) as connection:
        connection.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() "
                           "AND pid <> pg_backend_pid()")  # fmt: skip
    put = backup.restore(elsewhere, file, tmp_path)
    assert put.rows == made.rows
    assert contents(elsewhere) == contents(demo_url)
    assert databases(demo_url) == before
    # It is worked on, numbers go on where they were, and it can be kept again.
    job = jobs.add(Database(elsewhere, size=1).open(), name="new", place="", wish="")
    assert job.id == made.rows["job"] + 1
    again = backup.backup(elsewhere, tmp_path / "again.fenwit")
    assert again.rows["job"] == made.rows["job"] + 1
    assert list(tmp_path.glob("*.part")) == list(tmp_path.glob("restore-*")) == []


def test_a_backup_of_an_older_schema_is_brought_up_to_date(
    cluster_url: str, elsewhere: str, tmp_path: Path
) -> None:
    name = f"older_back_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}".encode())
    old = cluster_url.rsplit("/", 1)[0] + "/" + name
    migrate(old, upto=3)
    with psycopg.connect(old) as connection:
        connection.execute("INSERT INTO fan (name) VALUES ('x'); INSERT INTO job (fan_id) VALUES (1)")
    backup.backup(old, tmp_path / "old.fenwit")
    assert backup.restore(elsewhere, tmp_path / "old.fenwit", tmp_path).number == 3
    with psycopg.connect(elsewhere) as connection:
        assert connection.execute("SELECT max(number) FROM migration").fetchone() == (newest_known(),)
        assert connection.execute("SELECT name FROM fan").fetchall() == [("x",)]


def rewrite(file: Path, change: Callable[[dict[str, bytes]], None]) -> None:
    with zipfile.ZipFile(file) as packed:
        parts = {n: packed.read(n) for n in packed.namelist()}
    change(parts)
    with zipfile.ZipFile(file, "w") as packed:
        for name, data in parts.items():
            packed.writestr(name, data)


def newer(parts: dict[str, bytes]) -> None:
    listed = json.loads(parts["manifest.json"])
    parts["manifest.json"] = json.dumps({**listed, "number": 999}).encode()


def another_count(parts: dict[str, bytes]) -> None:
    listed = json.loads(parts["manifest.json"])
    listed["tables"]["job"]["rows"] = "99"
    parts["manifest.json"] = json.dumps(listed).encode()


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        (lambda p: p.update({"database.dump": p["database.dump"][:-200]}), "damaged"),
        (
            lambda p: p.update(
                {"database.dump": p["database.dump"][:2000] + b"X" + p["database.dump"][2001:]}
            ),
            "damaged",
        ),
        (lambda p: p.update({"manifest.json": b"{}"}), "no backup"),
        (lambda p: p.pop("database.dump"), "no backup"),
        (newer, "newer Fenwit"),
        (another_count, "does not hold what it should: job"),
    ],
)
def test_what_is_damaged_is_not_put_back(
    demo_url: str, elsewhere: str, tmp_path: Path, change: Callable[[dict[str, bytes]], None], reason: str
) -> None:
    file = tmp_path / "x.fenwit"
    backup.backup(demo_url, file)
    rewrite(file, change)
    before = contents(elsewhere)
    with pytest.raises(BackupError, match=reason):
        backup.restore(elsewhere, file, tmp_path)
    assert contents(elsewhere) == before


def test_what_is_no_backup_says_so(elsewhere: str, tmp_path: Path) -> None:
    (tmp_path / "text").write_text("hello")
    for name, reason in (("text", "no backup"), ("nowhere", "no such file")):
        with pytest.raises(BackupError, match=reason):
            backup.restore(elsewhere, tmp_path / name, tmp_path)
    with pytest.raises(BackupError, match="cannot write"):
        backup.backup(elsewhere, tmp_path / "text" / "under.fenwit")


def test_a_failed_backup_leaves_the_last_one_alone(
    demo_url: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "x.fenwit"
    backup.backup(demo_url, file)
    was = file.read_bytes()
    monkeypatch.setattr(backup, "_must_match", lambda *_: (_ for _ in ()).throw(BackupError("not alike")))
    with pytest.raises(BackupError, match="not alike"):
        backup.backup(demo_url, file)
    assert file.read_bytes() == was
    assert [f.name for f in tmp_path.iterdir()] == ["x.fenwit"]


def test_of_those_made_by_themselves_the_newest_are_kept(demo_url: str, tmp_path: Path) -> None:
    for i in range(12):
        (tmp_path / f"auto-2020-01-{i + 1:02}T000000-before-x.fenwit").write_text("")
    (tmp_path / "mine.fenwit").write_text("")
    made = backup.automatic(demo_url, tmp_path, "before-migration-7")
    assert made is not None
    names = sorted(f.name for f in tmp_path.iterdir())
    assert len(names) == 11
    assert made.file.name in names
    assert "mine.fenwit" in names
    assert "auto-2020-01-01T000000-before-x.fenwit" not in names


def test_an_empty_database_needs_no_backup(cluster_url: str, tmp_path: Path) -> None:
    name = f"empty_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}".encode())
    assert backup.automatic(cluster_url.rsplit("/", 1)[0] + "/" + name, tmp_path, "x") is None
