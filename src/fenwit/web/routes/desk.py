"""The Desk: single calculations without a job, and what was last worked out on it."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core.desk.sends import Place, SendShown
from fenwit.core.desk.shown import AnswerShown, CardShown, Sweep, answer_shown, cards_shown
from fenwit.core.errors import InputError
from fenwit.core.methods import of
from fenwit.store import desk
from fenwit.store.database import Database
from fenwit.store.errors import Stale
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Version, Words
from fenwit.web.heavy import HEAVY
from fenwit.web.hold import typed_hold
from fenwit.web.methods import door_of
from fenwit.web.models import JobEdit, JobPage, NewDesign, Steps
from fenwit.web.page import load, load_state
from fenwit.web.routes import aim, bench, size

router = routing.router("/api/desk", "desk")

_Name = Annotated[str, Field(max_length=40)]
_Text = Annotated[str, Field(max_length=2000)]
_End = Annotated[float, Field(allow_inf_nan=False)]


class Kept(BaseModel):
    """A call that was kept."""

    id: int
    card: str
    given: dict[str, str]
    said: str
    who: str
    at: datetime


class DeskPage(BaseModel):
    """The Desk: every card, and the last calls."""

    cards: tuple[CardShown, ...]
    kept: list[Kept]


class SweepAsked(BaseModel):
    """The field that is dragged, and where it is."""

    over: _Name
    low: _End | None = None
    high: _End | None = None
    at: _End | None = None


class CallAsked(BaseModel):
    """Fields of a card as typed."""

    given: dict[_Name, _Text] = Field(max_length=40)
    sweep: SweepAsked | None = None
    keep: bool = False
    """Whether it is put among the last calls"""
    who: Words = ""


class Lacking(BaseModel):
    """What is still wanted before there is an answer."""

    field: str
    wanted: str
    text: str


class CallAnswered(BaseModel):
    """An answer, or what it lacks, with the last calls of the card."""

    answer: AnswerShown | None
    lacking: Lacking | None = None
    kept: list[Kept]


@router.get("")
def show_desk(db: Db) -> DeskPage:
    """Every card, and the last calls."""
    return DeskPage(cards=cards_shown(), kept=[_kept(a) for a in desk.newest(db)])


@router.post("/{card}")
def ask_card(card: _Name, call: CallAsked, db: Db) -> CallAnswered:
    """Answer a card."""
    sweep = (
        None if call.sweep is None else Sweep(call.sweep.over, call.sweep.low, call.sweep.high, call.sweep.at)
    )
    try:
        found = answer_shown(card, call.given, sweep)
    except InputError as error:
        if error.value != "":
            raise
        # Nothing is wrong: it is not all there yet.
        lacking = Lacking(field=error.field, wanted=error.allowed, text=error.reason)
        return CallAnswered(answer=None, lacking=lacking, kept=_of_card(db, card))
    if call.keep:
        desk.keep(db, card, found.given, found.said, call.who)
    return CallAnswered(answer=found, kept=_of_card(db, card))


class SendAsked(BaseModel):
    """What of an answered card goes into which job."""

    given: dict[_Name, _Text] = Field(max_length=40)
    place: Place
    job_id: JobId
    version: Version
    """Of the job, as it was when it was picked"""
    who: Words = ""


@router.post("/{card}/send", dependencies=[HEAVY])
def send(card: _Name, asked: SendAsked, db: Db) -> JobPage:
    """Put what a card worked out into a job, by the same doors as if it were typed there."""
    answer = answer_shown(card, asked.given)
    found = next((s for s in answer.sends if s.place is asked.place), None)
    if found is None:
        takes = ", ".join(s.place for s in answer.sends) or "nothing"
        raise InputError("place", asked.place, takes, "this answer has no value for that place in a job")
    if found.place is Place.STEP:
        now = load(db, asked.job_id).job.wanted_rpm
        steps = Steps(version=asked.version, who=asked.who, wanted=[*now, found.values["wanted"]])
        page = aim.set_steps(asked.job_id, steps, db)
    elif found.place is Place.SETTING:
        page = _set(card, asked, found, db)
    else:
        edit = JobEdit.model_validate({"version": asked.version, "who": asked.who, **_part(asked, found, db)})
        page = bench.edit_job(asked.job_id, edit, db)
    desk.keep(db, card, answer.given, answer.said, asked.who)
    return page


def _part(asked: SendAsked, found: SendShown, db: Database) -> dict[str, Any]:
    """The part of a job's edit that takes the values, the rest of that part as it stands."""
    if found.place is Place.AIR:
        return {"air": found.values}
    if found.place is Place.FAN:
        return {"commanded": _led({}, found.values)}
    now = typed_hold(load_state(db, asked.job_id).hold).model_dump(mode="json")
    parts = {name.split(".")[0] for name in found.values}
    return {"hold": {k: v for k, v in _led(now, found.values).items() if k in parts}}


def _led(into: dict[str, Any], values: Mapping[str, str]) -> dict[str, Any]:
    """A document with values put in where their dotted names lead."""
    for name, text in values.items():
        *ways, last = name.split(".")
        at: Any = into
        for way in ways:
            at = at[int(way)] if isinstance(at, list) else at.setdefault(way, {})
        at[last] = text
    return into


def _set(card: str, asked: SendAsked, found: SendShown, db: Database) -> JobPage:
    """The job's design with the parts that a card worked out, as its next revision."""
    loaded = load(db, asked.job_id)
    if loaded.job.version != asked.version:
        raise Stale("job", loaded.job.id, loaded.job.version)
    state = loaded.usable
    door = door_of(state.method)
    now = state.design
    edit = size.show_usual(asked.job_id, db, door.key) if now is None else door.typed(now)
    filled = door.from_card(card, found.values, edit)
    if filled is None:
        reason = f"its fan is regulated by {of(door.key).name}, which uses no such parts"
        raise InputError("job_id", asked.job_id, "a job that uses these parts", reason)
    revision = loaded.design.revision if loaded.design else 0
    design = NewDesign.model_validate({"after_revision": revision, "who": asked.who, "design": filled})
    return size.choose(asked.job_id, design, db)


def _of_card(db: Database, card: str) -> list[Kept]:
    return [_kept(a) for a in desk.of_card(db, card)]


def _kept(row: desk.DeskAnswer) -> Kept:
    return Kept(id=row.id, card=row.card, given=row.given, said=row.said, who=row.who, at=row.at)
