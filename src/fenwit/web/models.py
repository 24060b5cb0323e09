"""What comes in and goes out at the door."""

from __future__ import annotations

import unicodedata
from datetime import datetime
from enum import StrEnum
from typing import Annotated

from fastapi import Depends, Path, Request
from pydantic import AfterValidator, BaseModel, Field

from fenwit.core.caution import Stage
from fenwit.core.frame import Frame, Mark, Zone
from fenwit.store.database import Database
from fenwit.store.designs import Design
from fenwit.store.jobs import Fan, Job
from fenwit.store.readings import Reading
from fenwit.web.problems import Problem


def _words(text: str) -> str:
    tidy = text.strip()
    if any(unicodedata.category(c) in ("Cc", "Cs") and c not in "\n\t" for c in tidy):
        raise ValueError("contains characters that cannot be printed")
    return tidy


def _name(text: str) -> str:
    if not text:
        raise ValueError("a name is wanted here")
    return text


Words = Annotated[str, Field(max_length=120), AfterValidator(_words)]
LongWords = Annotated[str, Field(max_length=2000), AfterValidator(_words)]
Name = Annotated[Words, AfterValidator(_name)]
Typed = Annotated[str, Field(max_length=40), AfterValidator(_words)]
Version = Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)]
JobId = Annotated[int, Path(ge=1, le=2**53)]
Rpm = Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)]


def database(request: Request) -> Database:
    """The application's database."""
    found: Database = request.app.state.database
    return found


Db = Annotated[Database, Depends(database)]


class NewJob(BaseModel):
    """A new fan and what is wanted of it."""

    name: Name
    place: Words = ""
    wish: LongWords = ""
    supply_voltage: Typed = "230V"
    supply_frequency: Typed = "50Hz"


class FanEdit(BaseModel):
    """Fields of a fan as typed; those left out stay as they are, an empty one is cleared."""

    version: Version
    name: Name | None = None
    place: Words | None = None
    maker: Words | None = None
    serial: Words | None = None
    motor_kind: Typed | None = None
    poles: Typed | None = None
    rated_voltage_v: Typed | None = None
    rated_frequency_hz: Typed | None = None
    rated_speed_rpm: Typed | None = None
    rated_current_a: Typed | None = None
    rated_power_w: Typed | None = None
    run_capacitance_f: Typed | None = None


class JobEdit(BaseModel):
    """Parts of a job; those left out stay as they are."""

    version: Version
    wish: LongWords | None = None
    supply_voltage: Typed | None = None
    supply_frequency: Typed | None = None


class NewReading(BaseModel):
    """A reading as typed; empty text takes back the one it supersedes."""

    quantity: Typed
    text: Typed
    who: Words = ""
    supersedes: int | None = Field(default=None, ge=1, le=2**53)
    step: int | None = Field(default=None, ge=1, le=8)


class Confirmation(BaseModel):
    """Somebody confirms a caution."""

    caution: Typed
    who: Words
    text: Typed = ""


class Steps(BaseModel):
    """Wanted speeds as typed (202, 202 rpm, 61 %) or dragged (numbers, rpm)."""

    version: Version
    wanted: Annotated[list[Typed | Rpm], Field(max_length=20)]


class BankEdit(BaseModel):
    """Two capacitors in bench notation and what each step joins."""

    a: Typed
    b: Typed
    patterns: Annotated[list[Typed], Field(max_length=8)]


class NewDesign(BankEdit):
    """A bank to keep."""

    after_revision: Version
    who: Words = ""


class Live(BaseModel):
    """What is being dragged or tried; nothing of it is kept."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    bank: BankEdit | None = None


class Confirmed(BaseModel):
    """A caution that somebody confirmed."""

    caution: str
    who: str
    at: datetime
    text: str


class Printed(BaseModel):
    """A nameplate field as it stands in its input."""

    field: str
    label: str
    text: str
    hint: str


class Wanted(BaseModel):
    """A reading that can be taken in Measure, with the one that stands."""

    quantity: str
    label: str
    hint: str
    dead: bool
    text: str
    reading_id: int | None
    """The newest reading of this quantity, which the next one supersedes"""
    who: str
    taken_at: datetime | None
    gated_by: str | None


class StageState(StrEnum):
    """How far a stage has come."""

    OPEN = "open"
    BEGUN = "begun"
    DONE = "done"


class StageInfo(BaseModel):
    """A stage of the job with its state."""

    key: Stage
    name: str
    state: StageState


class JobPage(BaseModel):
    """Everything about one job."""

    stages: list[StageInfo]
    saved_at: datetime

    job: Job
    fan: Fan
    kind_name: str
    supply_volts_text: str
    supply_hertz_text: str
    printed: list[Printed]
    wanted_readings: list[Wanted]
    design: Design | None
    readings: list[Reading]
    confirmed: list[Confirmed]
    prove_gated_by: str | None
    frame: Frame | None
    problem: Problem | None
    """Why no frame could be computed, beside the field that stops it"""


class Card(BaseModel):
    """A job on the Bench."""

    id: int
    name: str
    place: str
    kind_name: str
    wish: str
    waits_for: str
    waits_kind: str
    refused: bool
    full_rpm: float | None
    zones: tuple[Zone, ...]
    marks: tuple[Mark, ...]


class KindChoice(BaseModel):
    """A kind of motor to pick."""

    key: str
    name: str
    known_by: str
