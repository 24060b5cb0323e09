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
    Setting("FENWIT_PORT", "8470", "port on loopback; a free one is taken when it is busy"),
    Setting("FENWIT_WORKERS", "2", "processes that answer; one is enough for one person"),
    Setting(
        "FENWIT_ADDRESS",
        "127.0.0.1",
        "address to listen on; only loopback is taken as long as Fenwit has no accounts",
    ),
    Setting(
        "FENWIT_HOSTS",
        "localhost",
        "names besides the address under which Fenwit answers, between commas; with a port of its own where it has one",
    ),
    Setting(
        "FENWIT_DEVICES",
        "",
        "devices that may be read, like exhaust=modbus-tcp://192.168.7.20:502/1; several between semicolons; with --demo "
        "the simulated ones are named where nothing stands here",
    ),
    Setting(
        "FENWIT_DEVICE_NETWORKS",
        "",
        "networks whose addresses devices may have, like 192.168.7.0/24; between commas; none: none is contacted",
    ),
    Setting(
        "FENWIT_COLOURS",
        "europe",
        "usual colours of insulation: europe, north-america, or like neutral=blue; line=brown; switched=black,grey",
    ),
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


class BadSetting(ValueError):
    """A setting that cannot be; the message says which, what it may be, and no secret."""


def whole(name: str, low: int, high: int, given: int | None = None) -> int:
    """A setting that is a whole number; ``given`` goes first. Raises BadSetting."""
    text = value(name) if given is None else str(given)
    if not text.strip().lstrip("-").isdecimal() or not low <= int(text[:12]) <= high:
        raise BadSetting(f"{name} is {text[:40]!r}: a whole number from {low} to {high} is wanted")
    return int(text)


def describe() -> str:
    """One line for each setting."""
    return "\n".join(f"{s.name:22} {s.default or '(empty)':16} {s.help}" for s in SETTINGS)
