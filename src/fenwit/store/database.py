"""A pool of connections with three verbs: run, one, all."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, LiteralString, Self, TypeVar

import psycopg
from psycopg import errors
from psycopg.rows import class_row
from psycopg_pool import ConnectionPool, PoolTimeout

from fenwit.store.errors import Busy, Conflict, Unavailable

Connection = psycopg.Connection[Any]
Row = TypeVar("Row")
_current: ContextVar[psycopg.Connection[Any] | None] = ContextVar("connection", default=None)


STATEMENT_SECONDS, LOCK_SECONDS, IDLE_SECONDS = 20, 8, 30
"""How long a statement may take, wait for another's lock, and a transaction stand idle [s]"""


def _as_application(connection: psycopg.Connection[Any]) -> None:
    """Work as the role that may only add to the books, where this server has it; and never hold on to anything long."""
    connection.execute(
        "SELECT set_config('statement_timeout', %s, false), set_config('lock_timeout', %s, false), "
        "set_config('idle_in_transaction_session_timeout', %s, false)",
        [f"{seconds}s" for seconds in (STATEMENT_SECONDS, LOCK_SECONDS, IDLE_SECONDS)],
    )
    connection.execute(
        "SELECT set_config('role', rolname, false) FROM pg_roles "
        "WHERE rolname = 'fenwit_app' AND pg_has_role(current_user, oid, 'MEMBER')"
    )
    connection.commit()


class Database:
    """Connections to one PostgreSQL database."""

    def __init__(self, url: str, *, size: int = 8) -> None:
        self.url = url
        self._pool = ConnectionPool(
            url,
            min_size=1,
            max_size=size,
            open=False,
            timeout=5.0,
            kwargs={"connect_timeout": 5},
            check=ConnectionPool.check_connection,
            configure=_as_application,
        )

    def open(self) -> Self:
        """Open the pool."""
        self._pool.open()
        return self

    def close(self) -> None:
        """Close all connections."""
        self._pool.close()

    @property
    def inside(self) -> bool:
        """Whether a transaction is under way here."""
        return _current.get() is not None

    @contextmanager
    def transaction(self, *, idle_seconds: int | None = None) -> Iterator[psycopg.Connection[Any]]:
        """One transaction; verbs called inside take part in it.

        ``idle_seconds``: how long it may stand idle, where much is computed between two statements.

        Raises Conflict when another transaction stood in the way (try again from the start), Busy when something took
        too long, Unavailable when the database is away.
        """
        held = _current.get()
        if held is not None:
            yield held
            return
        try:
            with self._pool.connection() as connection:
                token = _current.set(connection)
                try:
                    if idle_seconds is not None:
                        connection.execute(
                            "SELECT set_config('idle_in_transaction_session_timeout', %s, true)",
                            [f"{idle_seconds}s"],
                        )
                    yield connection
                finally:
                    _current.reset(token)
        except (errors.DeadlockDetected, errors.SerializationFailure) as error:
            raise Conflict("two saves got into each other's way") from error
        except (
            errors.QueryCanceled,
            errors.LockNotAvailable,
            errors.IdleInTransactionSessionTimeout,
        ) as error:
            raise Busy("the database was kept busy for too long") from error
        except (errors.DiskFull, errors.ReadOnlySqlTransaction) as error:
            raise Unavailable("the database cannot write: its disk is full or read-only") from error
        except (psycopg.OperationalError, PoolTimeout) as error:
            raise Unavailable("the database does not answer") from error

    @contextmanager
    def alone(self, key: int) -> Iterator[bool]:
        """Whether nobody else does what goes under this number just now; nobody begins it while we are inside."""
        with self._pool.connection() as connection:
            row = connection.execute("SELECT pg_try_advisory_lock(%s)", [key]).fetchone()
            connection.commit()
            mine = bool(row and row[0])
            try:
                yield mine
            finally:
                if mine:
                    connection.execute("SELECT pg_advisory_unlock(%s)", [key])

    def run(self, sql: LiteralString, values: Mapping[str, Any]) -> int:
        """Run a statement and return how many rows it touched."""
        with self.transaction() as connection:
            return connection.execute(sql, values).rowcount

    def one(self, row: type[Row], sql: LiteralString, values: Mapping[str, Any]) -> Row | None:
        """The first row, as an instance of ``row``, or None."""
        with self.transaction() as connection, connection.cursor(row_factory=class_row(row)) as cursor:
            return cursor.execute(sql, values).fetchone()

    def all(self, row: type[Row], sql: LiteralString, values: Mapping[str, Any]) -> list[Row]:
        """All rows, as instances of ``row``."""
        with self.transaction() as connection, connection.cursor(row_factory=class_row(row)) as cursor:
            return cursor.execute(sql, values).fetchall()
