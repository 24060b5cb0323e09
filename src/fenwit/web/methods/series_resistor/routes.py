"""What only resistors answer to: which to take, and what they cost in heat and energy."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import check_wanted
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.series_resistor import SERIES_RESISTOR, beside_words
from fenwit.core.methods.series_resistor.builds import BUILDS, ENCLOSURES, Build, Enclosure
from fenwit.core.methods.series_resistor.design import ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.energy import yearly
from fenwit.core.methods.series_resistor.search import Offer, OnShelf, offers
from fenwit.core.methods.series_resistor.steps import regulated
from fenwit.store import shelf
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Rpm, Typed
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.series_resistor.edit import ResistorsEdit, read, shelf_resistor, typed
from fenwit.web.page import load_state

router = routing.router("/api/jobs/{job_id}", "resistors")


class ResistorsAsked(BaseModel):
    """What resistors are looked for with, and which of them are looked at."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    build: Build = Build.TUBE
    enclosure: Enclosure = Enclosure.VENTED
    room: Typed = ""
    """Empty: 30 °C"""
    design: ResistorsEdit | None = None
    """None: what is chosen, if anything"""


class Option(BaseModel):
    """Something to pick, with its words."""

    key: str
    text: str


class OfferShown(BaseModel):
    """A regulator to choose."""

    design: ResistorsEdit
    scheme_text: str
    text: str
    speed_rpm: list[float]
    miss_text: str
    heat_text: str
    from_shelf: int
    refusal: str


class StepHeat(BaseModel):
    """What one step costs."""

    step: int
    joins: str
    heat_text: str
    input_text: str
    beside_text: str
    hours_text: str
    surface_text: str
    """The hottest resistor of it on the stated mains; empty where nothing is in the line"""


class HeatShown(BaseModel):
    """Heat and energy of a design, step by step."""

    steps: list[StepHeat]
    year_text: str
    air_text: str


class ResistorsShown(BaseModel):
    """Resistors to choose from, and what those looked at cost."""

    offers: list[OfferShown]
    note: str
    heat: HeatShown | None
    builds: list[Option]
    enclosures: list[Option]


_SCHEMES = {Scheme.SEPARATE: "one a step", Scheme.CHAIN: "tapped chain"}


@router.post("/resistors", dependencies=[HEAVY])
def show_resistors(job_id: JobId, asked: ResistorsAsked, db: Db) -> ResistorsShown:
    """Both ways of wiring for the wanted speeds, and heat and energy of the design looked at."""
    state = load_state(db, job_id)
    if asked.wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(sorted(asked.wanted_rpm)))
    room_c = q.parse("room", asked.room, q.TEMPERATURE) if asked.room else 30.0
    fan = SERIES_RESISTOR.subject(state)
    if isinstance(fan, Refused):
        return _shown([], "", None)
    if isinstance(fan, Lacking):
        return _shown([], "Needs " + ", ".join(m.text for m in fan.missing), None)
    check_wanted(state.wanted_rpm, fan.full_rpm)
    chosen = state.design if isinstance(state.design, ResistorDesign) else None
    design = read(db, state, asked.design) if asked.design else chosen
    heat = _heat(fan, design) if design else None
    if not state.wanted_rpm:
        return _shown([], "First say in Aim which speeds are wanted.", heat)
    try:
        found = offers(fan, state, asked.build, asked.enclosure, room_c, _on_shelf(db, job_id))
    except InputError as refused:
        # No resistors is an answer here; what was typed is refused beside its field above.
        return _shown([], f"{refused.reason}: wants {refused.allowed}.", heat)
    note = "" if found else "No resistors of this build make such steps apart."
    return _shown([_offer(o) for o in found], note, heat)


def _shown(found: list[OfferShown], note: str, heat: HeatShown | None) -> ResistorsShown:
    return ResistorsShown(
        offers=found,
        note=note,
        heat=heat,
        builds=[Option(key=key.value, text=facts.short) for key, facts in BUILDS.items()],
        enclosures=[Option(key=key.value, text=words) for key, (words, _) in ENCLOSURES.items()],
    )


def _on_shelf(database: Database, job_id: int) -> tuple[OnShelf, ...]:
    mine = {r.part_id: r.reserved for r in shelf.of_job(database, job_id)}
    found = [(shelf_resistor(p), p.free + mine.get(p.id, 0)) for p in shelf.every(database)]
    return tuple(OnShelf(r, free) for r, free in found if r is not None and free > 0)


def _offer(found: Offer) -> OfferShown:
    # What Fenwit chose it chooses anew when the air or the ohms change.
    chosen_anew = tuple(r if r.shelf_id else replace(r, rated_w=None) for r in found.design.resistors)
    return OfferShown(
        design=typed(replace(found.design, resistors=chosen_anew)),
        scheme_text=_SCHEMES[found.design.scheme],
        text=found.text,
        speed_rpm=list(found.speed_rpm),
        miss_text=found.miss_text,
        heat_text=f"{q.plain(found.heat_w, 2)} W",
        from_shelf=found.from_shelf,
        refusal=found.refusal,
    )


def _heat(fan: MachineFan, design: ResistorDesign) -> HeatShown:
    rated, year = regulated(fan, design).rated, yearly(fan, design)
    _, per_watt = ENCLOSURES[design.enclosure]
    return HeatShown(
        steps=[
            StepHeat(
                step=s.step,
                joins=design.label(s.step - 1),
                heat_text=f"{q.plain(s.heat_w, 2)} W" if s.heat_w > 0 else "none",
                input_text=f"{q.plain(s.input_w, 3)} W",
                beside_text="none gives it" if s.beside_w is None else f"{q.plain(s.beside_w, 3)} W",
                hours_text=f"{s.hours_a_day:.3g}",
                surface_text=f"{10 * round(max(rated.surface_c[s.step - 1]) / 10):d} °C"
                if s.heat_w > 0
                else "",
            )
            for s in year.steps
        ],
        year_text=f"{year.kwh:.0f} kWh in {design.days_a_year:g} days a year{beside_words(year.beside_kwh)}",
        air_text=f"room at {design.room_c:g} °C; the air inside is about {per_watt:g} K warmer for each watt of heat"
        if per_watt
        else f"room at {design.room_c:g} °C, free air around them",
    )
