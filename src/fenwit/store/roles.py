"""The login that the application works with: it may add to the books, and change and empty nothing."""

from __future__ import annotations

import secrets

import psycopg
from psycopg import conninfo, sql

LOGIN, GROUP = "fenwit_web", "fenwit_app"


def application_url(owner_url: str) -> str:
    """A URL for the application on a server that is ours: a login of its own, with a new password at every start.

    The login is no superuser and cannot become its owner again. Raises psycopg.Error.
    """
    password = secrets.token_urlsafe(24)
    with psycopg.connect(owner_url) as connection:
        there = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (LOGIN,)).fetchone()
        statement = "ALTER ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE NOREPLICATION PASSWORD {}"
        if not there:
            connection.execute(sql.SQL("CREATE ROLE {}").format(sql.Identifier(LOGIN)))
        connection.execute(sql.SQL(statement).format(sql.Identifier(LOGIN), sql.Literal(password)))
        connection.execute(sql.SQL("GRANT {} TO {}").format(sql.Identifier(GROUP), sql.Identifier(LOGIN)))
    parts = conninfo.conninfo_to_dict(owner_url)
    return f"postgresql://{LOGIN}:{password}@{parts['host']}:{parts['port']}/{parts['dbname']}"
