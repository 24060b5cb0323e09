"""Where on the screens a thing is done, so that what is advised can be pressed and lands in the very field."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fenwit.core.caution import Stage
from fenwit.core.job.state import Missing


class Part(StrEnum):
    """A part of Identify."""

    NAMEPLATE = "nameplate"
    EVIDENCE = "evidence"
    LEADS = "leads"
    CAPACITORS = "capacitors"


@dataclass(frozen=True)
class NewRun:
    """A run that is to be opened first: what goes into the line."""

    what: str
    text: str


@dataclass(frozen=True)
class Spot:
    """A stage and a field of it."""

    stage: Stage
    field: str = ""
    """Like reading:line_current_a, run:3:speed_rpm, proof:2:speed_rpm, fan:poles; empty: the stage [-]"""
    part: Part | None = None
    new_run: NewRun | None = None
    """Opened before the field is there; the field then names a quantity of it [-]"""


@dataclass(frozen=True)
class Next:
    """What a job waits for, and where it is done."""

    text: str
    spot: Spot


def spot_of(missing: Missing) -> Spot:
    """Where something that is missing is typed.

    Parameters
    ----------
    missing : Missing
        The thing [-]

    Returns
    -------
    Spot
        Its field [-]
    """
    if missing.stage == Stage.MEASURE:
        return Spot(Stage.MEASURE, f"reading:{missing.field}")
    return Spot(Stage.IDENTIFY, f"fan:{missing.field}", Part.NAMEPLATE)
