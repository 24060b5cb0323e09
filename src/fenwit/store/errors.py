"""What the store may answer instead of a row.

StoreError
├── NotFound        no such fan, job or design
├── Stale           the save started from an older version; the current one travels with it
├── Conflict        two saves got into each other's way; tried again, the later one finds what the first one left
├── Busy            it took too long, or somebody else held on to it too long
└── Unavailable     the database does not answer
"""

from __future__ import annotations


class StoreError(Exception):
    """Anything the store refuses."""


class NotFound(StoreError):
    """There is no such row."""

    def __init__(self, what: str, key: int) -> None:
        self.what, self.key = what, key
        super().__init__(f"there is no {what} {key}")


class Stale(StoreError):
    """The save started from an older version than the stored one."""

    def __init__(self, what: str, key: int, current: object) -> None:
        self.what, self.key, self.current = what, key, current
        super().__init__(f"{what} {key} was changed meanwhile")


class Conflict(StoreError):
    """Two saves got into each other's way; the whole is tried again from the start."""


class Busy(StoreError):
    """It took too long, or waited too long for somebody else."""


class Unavailable(StoreError):
    """The database does not answer."""
