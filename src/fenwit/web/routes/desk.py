"""The Desk: single calculations without a job, and what was last worked out on it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core.desk.shown import AnswerShown, CardShown, Sweep, answer_shown, cards_shown
from fenwit.core.errors import InputError
from fenwit.store import desk
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.fields import Db, Words

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


def _of_card(db: Database, card: str) -> list[Kept]:
    return [_kept(a) for a in desk.of_card(db, card)]


def _kept(row: desk.DeskAnswer) -> Kept:
    return Kept(id=row.id, card=row.card, given=row.given, said=row.said, who=row.who, at=row.at)
