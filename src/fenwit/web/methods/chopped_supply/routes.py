"""What only a chopped supply answers to: duties for the wanted speeds, and what the tachometer makes of them."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core.errors import InputError
from fenwit.core.job.steps import check_wanted
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.chopped_supply import CHOPPED_SUPPLY, usual
from fenwit.core.methods.chopped_supply.design import ChopDesign
from fenwit.core.methods.chopped_supply.steps import tach_words
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.chopped_supply.edit import ChopEdit, read, typed
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "chopping")


class ChopAsked(BaseModel):
    """Which chopping is looked at."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    design: ChopEdit | None = None


class ChopShown(BaseModel):
    """Duties for the wanted speeds, and what follows."""

    note: str = ""
    usual: ChopEdit | None = None
    facts: list[str] = []


@router.post("/chopping", dependencies=[HEAVY])
def show_chopping(job_id: JobId, asked: ChopAsked, db: Db) -> ChopShown:
    """Duties for the wanted speeds, and what becomes of the tachometer."""
    state = load_state(db, job_id)
    if asked.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(asked.wanted_rpm)))
    fan = CHOPPED_SUPPLY.subject(state)
    if isinstance(fan, Refused):
        return ChopShown(note=fan.reason)
    if isinstance(fan, Lacking):
        return ChopShown(note="Needs " + ", ".join(m.text for m in fan.missing))
    check_wanted(state.wanted_rpm, fan.full_rpm)
    note, first = "", None
    try:
        first = usual(fan, state.wanted_rpm, state)
    except InputError as error:
        note = f"{error.reason}."
    chosen = state.design if isinstance(state.design, ChopDesign) else None
    shown = read(db, state, asked.design) if asked.design else chosen or first
    facts = [*CHOPPED_SUPPLY.suits(fan, ()), *(tach_words(fan, shown) if shown else ())]
    return ChopShown(note=note, usual=typed(first) if first else None, facts=facts)
