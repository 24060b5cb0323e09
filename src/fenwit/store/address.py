"""Addresses of databases: read, checked, and never shown with their password."""

from __future__ import annotations

import psycopg
from psycopg import conninfo

Refused = psycopg.Error
"""What the driver raises when a server cannot be reached, or says no"""


def readable(url: str) -> bool:
    """Whether an address can be read as one of a database."""
    try:
        parts = conninfo.conninfo_to_dict(url)
    except psycopg.Error:
        return False
    port = str(parts.get("port") or "5432")
    whole = port.isascii() and port.isdecimal() and 0 < int(port[:9]) < 65536
    return whole and bool(parts.get("host") or parts.get("dbname"))


def port_of(url: str) -> int | None:
    """The port an address names, or None."""
    port = conninfo.conninfo_to_dict(url).get("port")
    return int(port) if port else None


def first_line(error: BaseException) -> str:
    """What a driver's error says in its first line; it never holds the password."""
    return (str(error).strip().splitlines() or [type(error).__name__])[0]
