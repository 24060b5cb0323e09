"""All settings: name, default, what it does. `fenwit settings` prints them."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Setting:
    """One environment variable."""

    name: str
    default: str
    help: str


SETTINGS = (
    Setting(
        "FENWIT_DATABASE_URL",
        "",
        "PostgreSQL to use; empty: a private server on loopback is made and started",
    ),
    Setting("FENWIT_STATE", ".fenwit", "folder of the private server"),
    Setting("FENWIT_PORT", "8470", "port on loopback; the next free one is taken when it is busy"),
    Setting("FENWIT_FRONTEND", "frontend/dist", "folder of the built front end"),
)


def value(name: str) -> str:
    """The value of a setting. Raises KeyError for an unknown name."""
    setting = next((s for s in SETTINGS if s.name == name), None)
    if setting is None:
        raise KeyError(name)
    return os.environ.get(name, "") or setting.default


def folder(name: str) -> Path:
    """A setting that names a folder, taken from the project's root where it is relative."""
    return Path(__file__).resolve().parents[3] / value(name)


def describe() -> str:
    """One line for each setting."""
    return "\n".join(f"{s.name:22} {s.default or '(empty)':16} {s.help}" for s in SETTINGS)
