"""Shorthands for looking at a computed job."""

from __future__ import annotations

from fenwit.core.frame.asked import known
from fenwit.core.frame.shown import Path, PathPlace
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import PlaceKind


def fan_of(state: JobState) -> MachineFan:
    """The believed fan of a job that has one."""
    found = known(state)
    assert found is not None
    assert isinstance(found.subject, MachineFan)
    return found.subject


def place(path: Path, kind: PlaceKind) -> PathPlace:
    """One place of a power path."""
    return next(p for p in path.places if p.kind is kind)


def balance(path: Path) -> tuple[float, float]:
    """What flows in at the supply, and what leaves as heat and goes on as air [W]"""
    into = place(path, PlaceKind.SUPPLY).power_w
    return into, sum(p.loss_w for p in path.places) + place(path, PlaceKind.AIR).power_w
