"""What comes in and goes out at the door, whatever regulates the fan."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Annotated

from pydantic import BaseModel, Field, model_validator

from fenwit.core.caution import Stage
from fenwit.core.frame import Frame
from fenwit.core.frame.shown import Mark, Waits
from fenwit.core.frame.spot import Spot
from fenwit.core.frame.tables import Change
from fenwit.core.methods.seam import Zone
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.sweep import SweepVerdict
from fenwit.core.size.classes import PartClass
from fenwit.core.size.merits import Piece, Wish
from fenwit.store.jobs import Fan, Job
from fenwit.store.readings import Reading
from fenwit.web.air import AirEdit
from fenwit.web.board import BoardEdit
from fenwit.web.commanded import CommandEdit
from fenwit.web.edits import FindingsEdit
from fenwit.web.fields import CapacitorEdit, LongWords, Name, Rpm, SwitchEdit, Typed, Version, Words
from fenwit.web.hold import HoldEdit
from fenwit.web.methods import DesignEdit, older
from fenwit.web.problems import Problem
from fenwit.web.wire.edits import WiringEdit


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
    who: Words = ""
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
    airflow_m3_per_s: Typed | None = None
    sweep_m: Typed | None = None
    ambient_c: Typed | None = None
    findings: FindingsEdit | None = None


class JobEdit(BaseModel):
    """Parts of a job; those left out stay as they are."""

    version: Version
    wish: LongWords | None = None
    supply_voltage: Typed | None = None
    supply_frequency: Typed | None = None
    who: Words = ""
    profile: ProfileEdit | None = None
    sizing: SizingEdit | None = None
    board: BoardEdit | None = None
    air: AirEdit | None = None
    commanded: CommandEdit | None = None
    hold: HoldEdit | None = None
    wiring: WiringEdit | None = None


class NewReading(BaseModel):
    """A reading as typed; empty text takes back the one it supersedes."""

    quantity: Typed
    text: Typed
    who: Words = ""
    supersedes: int | None = Field(default=None, ge=1, le=2**53)
    step: int | None = Field(default=None, ge=1, le=8)
    run: int | None = Field(default=None, ge=1, le=2**53)
    """The run it was taken in; left out at full speed and with the power off"""
    instrument: int | None = Field(default=None, ge=1, le=2**53)
    """The meter; left out: an ordinary one"""
    aside: bool = False
    """Keep it, but do not believe it"""


class Confirmation(BaseModel):
    """Somebody confirms a caution."""

    caution: Typed
    who: Words
    text: Typed = ""


class Steps(BaseModel):
    """Wanted speeds as typed (202, 202 rpm, 61 %) or dragged (numbers, rpm)."""

    version: Version
    who: Words = ""
    wanted: Annotated[list[Typed | Rpm], Field(max_length=20)] = []
    even: Annotated[int, Field(strict=True, ge=2, le=8)] | None = None
    """So many even ones instead"""


class NewDesign(BaseModel):
    """A regulator to keep, by any method; bodies of the older shape are taken for one more version."""

    after_revision: Version
    who: Words = ""
    name: Words = ""
    design: DesignEdit

    _older = model_validator(mode="before")(older.new_design)


class Tried(BaseModel):
    """What is being dragged or tried; nothing of it is kept."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    design: DesignEdit | None = None
    method: Method | None = None
    """By which method, where no design is tried; left out: the job's own"""

    _older = model_validator(mode="before")(older.tried)


class Question(Tried):
    """Why this number?"""

    of: Annotated[str, Field(max_length=80)]


class Again(BaseModel):
    """An earlier design is to stand again."""

    after_revision: Version
    who: Words = ""


class ProfileEdit(BaseModel):
    """The acceptance profile as typed; what is left out stays as it is."""

    lowest_share: Typed | None = None
    start_margin: Typed | None = None
    evenness: Typed | None = None
    motor_voltage: Typed | None = None
    mains: Typed | None = None
    doubt: Typed | None = None
    bands_apart: bool | None = None
    starts_low: bool | None = None


class PriceEdit(BaseModel):
    """A line of the price list as typed."""

    cost: Typed = ""
    litres: Typed = ""


class ChoosingEdit(BaseModel):
    """What matters, weightiest first, and how the fan is used; what is left out stays as it is."""

    wishes: Annotated[list[Wish], Field(max_length=len(Wish))] | None = None
    hours: Annotated[list[Typed], Field(max_length=20)] | None = None
    """Hours a day at each wanted speed; none: eight, spread evenly"""
    days: Typed | None = None
    bands: dict[Wish, Typed] | None = None
    """Within what of the best a wish counts as alike; an empty text: as usual"""
    prices: dict[Piece, PriceEdit] | None = None
    """Both texts empty: as usual"""


class SizingEdit(BaseModel):
    """What the search works with; what is left out stays as it is."""

    switch: SwitchEdit | None = None
    part_class: Typed | None = None
    most: Annotated[int, Field(strict=True)] | None = None
    series: Typed | None = None
    enclosed: bool | None = None
    method: Method | None = None
    fixed: Annotated[list[CapacitorEdit], Field(max_length=3)] | None = None
    choosing: ChoosingEdit | None = None


class Confirmed(BaseModel):
    """A caution that somebody confirmed."""

    caution: str
    who: str
    at: datetime
    text: str
    brief: str = ""
    """As they read when it was confirmed; empty where that was not kept"""
    said: str = ""
    do: str = ""


class Printed(BaseModel):
    """A nameplate field as it stands in its input."""

    field: str
    label: str
    text: str
    hint: str
    note: str = ""
    """How it was taken, where that is not plain"""


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
    aside: bool = False
    """Kept, but not believed"""
    uncertainty: str = ""
    """By the meter that was named; empty: an ordinary meter"""
    instrument_id: int | None = None
    winding: str = ""
    """How warm the winding was; empty where that is not asked"""


class RunShown(BaseModel):
    """A run away from full speed with its readings."""

    id: int
    what: str
    label: str
    readings: list[Wanted]
    empty: bool
    """Nothing stands in it, so it may be put away"""


class SweptRow(BaseModel):
    """One frequency of a sweep."""

    frequency_text: str
    verdict: SweepVerdict
    off_text: str
    """How far its speeds lie from the reference; empty while nothing tells"""
    runs: list[RunShown]
    """At each duty"""


class SweepShown(BaseModel):
    """A sweep of frequencies on the control lead."""

    duties: list[str]
    rows: list[SweptRow]
    words: str
    """What it tells so far"""


class Answered(BaseModel):
    """Somebody answers for a method against a refusal."""

    method: str
    reason: str
    who: str
    at: datetime


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


class Aside(BaseModel):
    """Parts of the shelf that belong to a job."""

    part_id: int
    text: str
    place: str
    reserved: int
    used: int
    free: int


class ProfileField(BaseModel):
    """A limit of the acceptance profile as it stands in its input."""

    field: str
    label: str
    text: str
    hint: str


class Signed(BaseModel):
    """A signature."""

    id: int
    who: str
    note: str
    recheck_on: date | None
    core_version: str
    at: datetime
    revision: int | None
    imported: bool
    """It came with a file: nobody signed in this database"""


class HistoryState(BaseModel):
    """What undo and redo would do next; empty where there is nothing."""

    undo: str
    redo: str


class DesignInfo(BaseModel):
    """The design as it stands."""

    id: int
    revision: int
    core_version: str
    who: str
    made_at: datetime
    name: str
    method: Method
    method_name: str
    text: str
    """What it is made of"""
    design: DesignEdit
    """As it would be typed"""


class DesignLine(DesignInfo):
    """A design of this job that can stand again."""

    stands: bool
    proofs: int
    """Readings taken at its steps"""


@dataclass(frozen=True)
class ReadingShown(Reading):
    """A reading as it is told."""

    said: str = ""
    """With its unit"""


class JobPage(BaseModel):
    """Everything about one job."""

    stages: list[StageInfo]
    saved_at: datetime

    job: Job
    fan: Fan
    kind_name: str
    supply_volts_text: str
    supply_hertz_text: str
    commanded: bool
    """Whether the fan has electronics of its own: known by a map, not by a machine"""
    planned: bool
    """Whether Prove has an order of work of its own for it"""
    control_input: bool
    """Whether terminals of its own set its speed, by a voltage"""
    printed: list[Printed]
    wanted_readings: list[Wanted]
    sheet_readings: list[Wanted]
    """Ohms between leads and to frame, and capacitor sections"""
    runs: list[RunShown]
    """Without those of the sweep"""
    sweep: SweepShown | None
    findings: FindingsEdit
    """As they would be typed"""
    answered: list[Answered]
    design: DesignInfo | None
    designs: list[DesignLine]
    """Every design of this job, newest first; one brought back counts once"""
    last_revision: int
    """Revision that the next design follows; 0 before the first"""
    changes: list[Change]
    """What today's core and readings say otherwise than when the design was chosen"""
    profile: list[ProfileField]
    bands_apart: bool
    starts_low: bool
    sizing: SizingEdit
    aside: list[Aside]
    handovers: list[Signed]
    history: HistoryState
    readings: list[ReadingShown]
    confirmed: list[Confirmed]
    prove_gated_by: str | None
    frame: Frame | None
    filed_under: int | None
    """Design id that readings of the present design bear"""
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
    waits_kind: Waits
    spot: Spot | None = None
    """Where that is done"""
    refused: bool
    full_rpm: float | None
    zones: tuple[Zone, ...]
    marks: tuple[Mark, ...]


class BenchPage(BaseModel):
    """Some of the jobs in hand, and how many wait for what."""

    cards: list[Card]
    counts: dict[str, int]
    """By what they wait for, over all that match the search"""
    more_after: int | None
    """Where the next page starts; None at the end"""
    older: list[int] = []
    """Cards on this page that an earlier core computed; they are made anew in the background"""
    renewing: int = 0
    """How many of all jobs have no card of this core yet"""


class Alive(BaseModel):
    """The server is there."""

    alive: bool = True


class KindChoice(BaseModel):
    """A kind of motor to pick."""

    key: str
    name: str
    known_by: str


class ClassChoice(BaseModel):
    """A class of parts."""

    key: str
    name: str
    duty: str
    rating_unit: str
    refused: str


class PartEdit(BaseModel):
    """A shelf part as typed."""

    version: Version = 0
    part_class: Typed = PartClass.X2_FILM.value
    nominal: Typed = ""
    measured: Typed = ""
    tolerance: Typed = ""
    rating: Typed = ""
    count: Typed = "1"
    place: Words = ""
    note: Words = ""
    gone: bool = False


class PartShown(BaseModel):
    """A shelf part."""

    id: int
    version: int
    part_class: str
    class_name: str
    duty: str
    nominal: str
    measured: str
    tolerance: str
    rating: str
    count: int
    reserved: int
    free: int
    place: str
    note: str
    refused: str
    aside_for: list[str]


class ShelfPage(BaseModel):
    """The shelf."""

    parts: list[PartShown]
    history: HistoryState


class ImportRow(BaseModel):
    """One row of an import: what would be taken, or why not."""

    line: int
    text: str
    problem: str


class ImportPreview(BaseModel):
    """What an import would do, or has done."""

    rows: list[ImportRow]
    good: int
    bad: int
    done: bool


class Reserve(BaseModel):
    """Parts to put aside for a job; 0 gives them back."""

    part_id: Annotated[int, Field(ge=1, le=2**53)]
    count: Annotated[int, Field(ge=0, le=100000, strict=True)]
    who: Words = ""


class Who(BaseModel):
    """Who does it."""

    who: Words = ""


class NewHandover(BaseModel):
    """A signature."""

    who: Words
    note: LongWords = ""
    recheck_on: Typed | None = None
    """A day as people write it, or so many months"""
