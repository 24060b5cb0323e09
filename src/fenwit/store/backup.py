"""Everything in one file, and back: PostgreSQL's own dump with a list of what is in it, read back before it counts.

The file is a zip of two parts: the dump, and `manifest.json` with the schema's number and for every table how many rows
it has and a sum over them, taken in the very snapshot the dump was made of.
"""

from __future__ import annotations

import hashlib
import json
import os
import secrets
import subprocess
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, LiteralString

import psycopg
from psycopg import conninfo, sql

from fenwit.store.address import first_line
from fenwit.store.cluster import server_programs
from fenwit.store.migrate import migrate, newest_known, number_of

FORMAT = "fenwit-backup/1"
_DUMP, _LIST = "database.dump", "manifest.json"
_KEPT = 10
_AUTOMATIC = "auto-"


class BackupError(RuntimeError):
    """A backup cannot be written, read or put back; the message says why."""


@dataclass(frozen=True)
class Summary:
    """What a backup holds."""

    file: Path
    number: int
    """Number of its schema"""
    rows: dict[str, int]
    made_at: str
    compared: bool
    """Whether it was put back elsewhere and compared; False where the login may make no database"""

    @property
    def words(self) -> str:
        """In one line."""
        rows = sum(self.rows.values())
        how = "put back and compared" if self.compared else "read to its end"
        return f"{self.rows.get('job', 0)} jobs, {rows} rows in {len(self.rows)} tables, {how}"


def backup(url: str, file: Path) -> Summary:
    """Write everything of a database to a file, which stands there only when it was read back and found whole.

    ``url`` is the owner's. Raises BackupError.
    """
    beside = file.with_name(f"{file.name}.part")
    dump = file.with_name(f"{file.name}.dump.part")
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        try:
            listed = _dump(url, dump)
            _pack(dump, listed, beside)
            compared = _compare(url, dump, listed)
            os.replace(beside, file)
        finally:
            beside.unlink(missing_ok=True)
            dump.unlink(missing_ok=True)
    except OSError as error:
        raise BackupError(f"cannot write {file}: {error.strerror}") from error
    except psycopg.Error as error:
        raise BackupError(f"the database cannot be read: {first_line(error)}") from error
    return _summary(file, listed, compared)


def automatic(url: str, folder: Path, why: str) -> Summary | None:
    """A backup by itself, before something that cannot be taken back; the ten newest are kept. None: nothing to keep."""
    with psycopg.connect(url) as connection:
        if number_of(connection) == 0:
            return None
    at = datetime.now(UTC)
    made = backup(url, folder / f"{_AUTOMATIC}{at:%Y-%m-%dT%H%M%S}-{why}.fenwit")
    for old in sorted(folder.glob(f"{_AUTOMATIC}*.fenwit"))[:-_KEPT]:
        old.unlink(missing_ok=True)
    return made


def read_list(file: Path) -> Summary:
    """What a backup says it holds, with its sum checked. Raises BackupError."""
    listed = _unpack(file, None)
    return _summary(file, listed, False)


def restore(url: str, file: Path, scratch: Path) -> Summary:
    """Put a backup in place of everything a database holds: all of it or nothing. Nobody else may use it meanwhile.

    It is first put into a database beside and compared; one of an older schema is then brought up to date.
    ``scratch`` is a folder to unpack in. Raises BackupError.
    """
    scratch.mkdir(parents=True, exist_ok=True)
    dump = scratch / f"restore-{secrets.token_hex(4)}.dump"
    try:
        listed = _unpack(file, dump)
        if listed["number"] > newest_known():
            raise BackupError(
                f"{file} was made by a newer Fenwit (schema {listed['number']}, this one knows {newest_known()})"
            )
        compared = _compare(url, dump, listed)
        _replace(url, dump)
        _must_match(url, listed, file)
        migrate(url)
    except OSError as error:
        raise BackupError(f"{file}: {error.strerror}") from error
    except psycopg.Error as error:
        raise BackupError(f"the database cannot be written: {first_line(error)}") from error
    finally:
        dump.unlink(missing_ok=True)
    return _summary(file, listed, compared)


def _summary(file: Path, listed: dict[str, Any], compared: bool) -> Summary:
    rows = {name: int(table["rows"]) for name, table in listed["tables"].items()}
    return Summary(file, listed["number"], rows, listed["made_at"], compared)


# ---------------------------------------------------------------- the file


def _pack(dump: Path, listed: dict[str, Any], file: Path) -> None:
    file.unlink(missing_ok=True)
    with os.fdopen(os.open(file, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600), "w+b") as out:
        with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as packed:
            packed.writestr(_LIST, json.dumps(listed, indent=1))
            packed.write(dump, _DUMP)
        out.flush()
        os.fsync(out.fileno())
    with zipfile.ZipFile(file) as packed:
        if packed.testzip() is not None:
            raise BackupError(f"{file} was not written well: it does not read back")


def _unpack(file: Path, dump: Path | None) -> dict[str, Any]:
    """The list of a backup; its dump goes to ``dump``, and must have the sum the list says."""
    try:
        with zipfile.ZipFile(file) as packed:
            listed = json.loads(packed.read(_LIST))
            if not isinstance(listed, dict) or listed.get("format") != FORMAT:
                raise BackupError(f"{file} is no backup of this format")
            digest = hashlib.sha256()
            with packed.open(_DUMP) as found:
                out = dump.open("wb") if dump else None
                while piece := found.read(1 << 20):
                    digest.update(piece)
                    if out:
                        out.write(piece)
                if out:
                    out.close()
    except FileNotFoundError:
        raise BackupError(f"{file}: there is no such file") from None
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError) as error:
        raise BackupError(f"{file} is no backup of Fenwit's, or it is damaged: {error}") from None
    if digest.hexdigest() != listed.get("sha256"):
        raise BackupError(f"{file} is damaged: its contents are not what was written")
    return listed


# ---------------------------------------------------------------- the database


def _tables(connection: psycopg.Connection[Any]) -> dict[str, dict[str, str]]:
    """For every table how many rows it has, and a sum over them in which their order does not matter."""
    names = connection.execute(
        "SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE' "
        "ORDER BY table_name"
    ).fetchall()
    counted: LiteralString = (
        "SELECT count(*)::text, coalesce(sum(hashtextextended(t::text, 0)::numeric), 0)::text FROM {} t"
    )
    found = {}
    for (name,) in names:
        row = connection.execute(sql.SQL(counted).format(sql.Identifier(name))).fetchone()
        assert row is not None
        found[name] = {"rows": row[0], "sum": row[1]}
    return found


@contextmanager
def _reading(url: str) -> Iterator[psycopg.Connection[Any]]:
    with psycopg.connect(url) as connection:
        connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        connection.execute("SET LOCAL TimeZone = 'UTC'")
        yield connection


def _dump(url: str, file: Path) -> dict[str, Any]:
    with _reading(url) as connection:
        row = connection.execute("SELECT pg_export_snapshot()").fetchone()
        assert row is not None
        tables, number = _tables(connection), number_of(connection)
        file.unlink(missing_ok=True)
        _program(url, "pg_dump", "--format=custom", "--no-owner", f"--snapshot={row[0]}", f"--file={file}")
    file.chmod(0o600)
    return {
        "format": FORMAT,
        "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "number": number,
        "tables": tables,
        "sha256": hashlib.sha256(file.read_bytes()).hexdigest(),
    }


def _compare(url: str, dump: Path, listed: dict[str, Any]) -> bool:
    """Put a dump into a database of its own and compare; False where this login may make none."""
    name = f"fenwit_check_{secrets.token_hex(6)}"
    try:
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute(sql.SQL("CREATE DATABASE {} TEMPLATE template0").format(sql.Identifier(name)))
    except psycopg.errors.InsufficientPrivilege:
        _program(url, "pg_restore", "--file=/dev/null", str(dump), connect=False)
        return False
    try:
        there = _elsewhere(url, name)
        _program(there, "pg_restore", "--no-owner", "--exit-on-error", f"--dbname={name}", str(dump))
        _must_match(there, listed, dump)
    finally:
        with psycopg.connect(url, autocommit=True) as connection:
            connection.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))
    return True


def _must_match(url: str, listed: dict[str, Any], file: Path) -> None:
    with _reading(url) as connection:
        found = _tables(connection)
    astray = [name for name in {*found, *listed["tables"]} if found.get(name) != listed["tables"].get(name)]
    if astray:
        raise BackupError(f"{file} does not hold what it should: {', '.join(sorted(astray))}")


def _replace(url: str, dump: Path) -> None:
    script = dump.with_suffix(".sql")
    try:
        _program(url, "pg_restore", "--no-owner", f"--file={script}", str(dump), connect=False)
        _program(
            url,
            "psql",
            "--no-psqlrc",
            "--quiet",
            "--single-transaction",
            "--set=ON_ERROR_STOP=1",
            "--output=/dev/null",
            "--command=SET lock_timeout = '5s'; DROP SCHEMA public CASCADE; CREATE SCHEMA public; "
            "ALTER SCHEMA public OWNER TO pg_database_owner; GRANT USAGE ON SCHEMA public TO PUBLIC",
            f"--file={script}",
        )
    finally:
        script.unlink(missing_ok=True)


def _elsewhere(url: str, name: str) -> str:
    return conninfo.make_conninfo(url, dbname=name)


def _program(url: str, program: str, *arguments: str, connect: bool = True) -> None:
    """Run a client program of PostgreSQL; the password goes by its environment, where nobody else looks."""
    parts = conninfo.conninfo_to_dict(url)
    where = {
        "host": "PGHOST",
        "port": "PGPORT",
        "user": "PGUSER",
        "password": "PGPASSWORD",
        "dbname": "PGDATABASE",
    }
    environment = {k: v for k, v in os.environ.items() if not k.startswith("PG")} | {"LC_ALL": "C"}
    if connect:
        environment |= {name: str(parts[key]) for key, name in where.items() if parts.get(key)}
    command = [str(server_programs() / program), *arguments]
    result = subprocess.run(
        command, env=environment, stdin=subprocess.DEVNULL, capture_output=True, text=True, check=False
    )
    if result.returncode:
        said = [line for line in result.stderr.strip().splitlines() if line.strip()]
        raise BackupError(f"{program} failed: {said[0] if said else result.returncode}")
