"""What only transformers answer to: which to take for the wanted speeds."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.steps import check_wanted
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.stepped_voltage import STEPPED_VOLTAGE
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.search import Offer, offers
from fenwit.core.regulator.transformer import AMBIENT_C, RISE_K, Winding
from fenwit.web import routing
from fenwit.web.duty import NO_DUTY, DutiesShown, duties_shown
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.stepped_voltage.edit import SteppedEdit, read, typed
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "transformers")


class TransformersAsked(BaseModel):
    """What transformers are looked for with."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    like: SteppedEdit | None = None
    """Whose insulation, room and switch are kept, and whose duty sheet is reckoned; None: those of what is chosen"""


class InsulationClass(BaseModel):
    """A class of insulation with what it bears."""

    key: str
    text: str


class TransformerOffer(BaseModel):
    """A transformer to choose."""

    design: SteppedEdit
    kind_text: str
    text: str
    speed_rpm: list[float]
    miss_text: str
    heat_text: str
    refusal: str


class TransformersShown(BaseModel):
    """Transformers to choose from."""

    offers: list[TransformerOffer]
    note: str
    insulations: list[InsulationClass]
    duty: DutiesShown


_KINDS = {Winding.AUTO: "autotransformer", Winding.SEPARATE: "separate windings"}


@router.post("/transformers", dependencies=[HEAVY])
def show_transformers(job_id: JobId, asked: TransformersAsked, db: Db) -> TransformersShown:
    """An autotransformer and a separate one for the wanted speeds."""
    state = load_state(db, job_id)
    if asked.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(asked.wanted_rpm)))
    fan = STEPPED_VOLTAGE.subject(state)
    if isinstance(fan, Refused):
        return _shown([], "")
    if isinstance(fan, Lacking):
        return _shown([], "Needs " + ", ".join(m.text for m in fan.missing))
    check_wanted(state.wanted_rpm, fan.full_rpm)
    chosen = state.design if isinstance(state.design, SteppedDesign) else None
    like = read(db, state, asked.like) if asked.like else chosen
    duty = NO_DUTY
    if like is not None and like.duty is not None:
        duty = duties_shown(fan, like.duty, STEPPED_VOLTAGE.steps(fan, like, state.wanted_rpm, False))
    if not state.wanted_rpm:
        return _shown([], "First say in Aim which speeds are wanted.", duty)
    try:
        found = offers(fan, state, like)
    except InputError as refused:
        # No transformer is an answer here; what was typed is refused beside its field above.
        return _shown([], f"{refused.reason}: wants {refused.allowed}.", duty)
    return _shown([_offer(o) for o in found], "", duty)


def _shown(found: list[TransformerOffer], note: str, duty: DutiesShown = NO_DUTY) -> TransformersShown:
    return TransformersShown(
        offers=found,
        note=note,
        insulations=[
            InsulationClass(key=key.value, text=f"{key.value}: {AMBIENT_C + rise:g} °C")
            for key, rise in RISE_K.items()
        ],
        duty=duty,
    )


def _offer(found: Offer) -> TransformerOffer:
    # What Fenwit chose it chooses anew when the taps change.
    return TransformerOffer(
        design=typed(replace(found.design, va=None)),
        kind_text=_KINDS[found.design.winding],
        text=f"{found.design.va:g} VA, " + ", ".join(f"{t.volts:g}" for t in found.design.taps) + " V",
        speed_rpm=list(found.speed_rpm),
        miss_text=found.miss_text,
        heat_text=f"{q.plain(found.loss_w, 2)} W",
        refusal=found.refusal,
    )
