"""Resistor regulators between what is typed and what the core takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.series_resistor.builds import BUILDS, Build, Enclosure
from fenwit.core.methods.series_resistor.design import MOST, Resistor, ResistorDesign, Scheme
from fenwit.core.motor.kinds import Method
from fenwit.core.size.classes import CLASSES, Duty, PartClass
from fenwit.store import shelf
from fenwit.store.database import Database
from fenwit.web.fields import DAYS, HOURS, SwitchEdit, Typed
from fenwit.web.parts import read_switch, typed_switch


class ResistorEdit(BaseModel):
    """A resistor as typed."""

    value: Typed = ""
    measured: Typed = ""
    """Empty: not measured"""
    build: Build = Build.TUBE
    watts: Typed = ""
    """Empty: chosen by Fenwit"""
    tolerance: Typed = ""
    shelf_id: int | None = Field(default=None, ge=1, le=2**53)
    """A part on the shelf; what is known of it there goes first"""


class ResistorsEdit(BaseModel):
    """Resistors in bench notation, slowest step first, and what stands around them."""

    method: Literal[Method.SERIES_RESISTOR]
    scheme: Scheme = Scheme.CHAIN
    resistors: Annotated[list[ResistorEdit], Field(max_length=MOST)]
    direct: bool = True
    switch: SwitchEdit | None = None
    """None: the switch this job is sized for"""
    fuse: Typed = ""
    enclosure: Enclosure = Enclosure.VENTED
    room: Typed = ""
    """Empty: 30 °C"""
    hours: Annotated[list[Typed], Field(max_length=MOST + 1)] = []
    """Hours a day at each step; none: eight, spread evenly"""
    days: Typed = ""
    """Days a year; empty: 300"""


def shelf_resistor(part: shelf.ShelfPart) -> Resistor | None:
    """A shelf part as a resistor in the line; None when it is none, or not wire-wound."""
    part_class = PartClass(part.class_)
    if CLASSES[part_class].duty is not Duty.RESISTOR or not CLASSES[part_class].surge_j_per_w:
        return None
    low, high = BUILDS[Build.CEMENT].range_ohm
    if not low <= part.nominal <= high:
        return None
    return Resistor(part.nominal, Build.CEMENT, part.rating, part.tolerance, part.measured, part.id)


def _read_resistor(database: Database, field: str, edit: ResistorEdit) -> Resistor:
    if edit.shelf_id is not None:
        part = shelf.get(database, edit.shelf_id)
        found = shelf_resistor(part)
        if found is None:
            raise InputError(field, part.class_, "a wire-wound resistor", "this shelf part is none")
        return found
    # Every refusal of the part stands beside its own field.
    nominal = q.parse(field, edit.value, q.RESISTANCE)
    measured = q.parse(field, edit.measured, q.RESISTANCE) if edit.measured else None
    watts = q.parse(field, edit.watts, q.POWER) if edit.watts else None
    tolerance = (
        q.parse(field, edit.tolerance, q.RATIO) / 100 if edit.tolerance else BUILDS[edit.build].tolerance
    )
    try:
        return Resistor(nominal, edit.build, watts, tolerance, measured)
    except InputError as refused:
        raise InputError(field, refused.value, refused.allowed, refused.reason) from refused


def read(database: Database, state: JobState, edit: ResistorsEdit) -> ResistorDesign:
    """A typed regulator. Raises InputError naming r1 … r5, resistors, room, hours, days or fuse."""
    sizing = state.sizing
    return ResistorDesign(
        edit.scheme,
        tuple(_read_resistor(database, f"r{i}", part) for i, part in enumerate(edit.resistors, start=1)),
        edit.direct,
        read_switch(edit.switch, sizing.switch) if edit.switch else sizing.switch,
        q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        edit.enclosure,
        q.parse("room", edit.room, q.TEMPERATURE) if edit.room else 30.0,
        tuple(q.parse("hours", text, HOURS) for text in edit.hours),
        q.parse("days", edit.days, DAYS) if edit.days else 300.0,
    )


def typed(design: ResistorDesign) -> ResistorsEdit:
    """A regulator as it would be typed."""
    return ResistorsEdit(
        method=Method.SERIES_RESISTOR,
        scheme=design.scheme,
        resistors=[typed_resistor(r) for r in design.resistors],
        direct=design.direct,
        switch=typed_switch(design.switch),
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
        enclosure=design.enclosure,
        room=f"{design.room_c:g} °C",
        hours=[f"{h:g}" for h in design.hours_a_day],
        days=f"{design.days_a_year:g}",
    )


def typed_resistor(resistor: Resistor) -> ResistorEdit:
    """A resistor as it would be typed."""
    return ResistorEdit(
        value=q.bench(resistor.nominal_ohm, q.RESISTANCE, 4),
        measured="" if resistor.measured_ohm is None else q.bench(resistor.measured_ohm, q.RESISTANCE, 4),
        build=resistor.build,
        watts="" if resistor.rated_w is None else f"{resistor.rated_w:g} W",
        tolerance=f"{100 * resistor.tolerance:g} %",
        shelf_id=resistor.shelf_id,
    )
