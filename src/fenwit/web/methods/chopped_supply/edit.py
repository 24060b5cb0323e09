"""A chopped supply between what is typed and what the core takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.state import MAX_STEPS, JobState
from fenwit.core.methods.chopped_supply.design import ChopDesign, Tach
from fenwit.core.motor.kinds import Method
from fenwit.store.database import Database
from fenwit.web.commanded import duty_of
from fenwit.web.fields import Typed


class ChopEdit(BaseModel):
    """Duties of the supply and what chops it, as typed."""

    method: Literal[Method.CHOPPED_SUPPLY]
    duties: Annotated[list[Typed], Field(max_length=MAX_STEPS)]
    frequency: Typed = "25 kHz"
    filtered: bool = True
    on_resistance: Typed = "30 mΩ"
    edges: Typed = "50 ns"
    junction: Typed = "60 K/W"
    ambient: Typed = "40 °C"
    tach: Tach = Tach.NONE
    every: Typed = "2 s"
    fuse: Typed = ""


_FORM = {
    "frequency_hz": "frequency", "on_ohm": "on_resistance", "rise_s": "edges", "fall_s": "edges",
    "junction_k_w": "junction",
    "ambient_c": "ambient", "every_s": "every", "fuse_a": "fuse",
}  # fmt: skip


def read(database: Database, state: JobState, edit: ChopEdit) -> ChopDesign:
    """A typed chopping. Raises InputError beside the field."""
    try:
        edges = read_number("edges", edit.edges, UNITS["s"]).value
        return ChopDesign(
            tuple(duty_of(f"duties[{i}]", d) for i, d in enumerate(edit.duties)),
            read_number("frequency_hz", edit.frequency, UNITS["hz"]).value, edit.filtered,
            read_number("on_ohm", edit.on_resistance, UNITS["ohm"]).value, edges, edges,
            read_number("junction_k_w", edit.junction, UNITS["k_w"]).value,
            read_number("ambient_c", edit.ambient, UNITS["c"]).value,
            tach=edit.tach, every_s=read_number("every_s", edit.every, UNITS["s"]).value,
            fuse_a=q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        )  # fmt: skip
    except InputError as error:
        raise InputError(
            _FORM.get(error.field, error.field), error.value, error.allowed, error.reason, error.meant
        ) from None


def typed(design: ChopDesign) -> ChopEdit:
    """A chopping as it would be typed."""
    return ChopEdit(
        method=Method.CHOPPED_SUPPLY,
        duties=[f"{100 * d:.4g} %" for d in design.duties],
        frequency=q.show(design.frequency_hz, UNITS["hz"], 4),
        filtered=design.filtered,
        on_resistance=q.show(design.on_ohm, UNITS["ohm"], 4),
        edges=q.show(design.rise_s, UNITS["s"], 4),
        junction=f"{design.junction_k_w:g} K/W",
        ambient=f"{design.ambient_c:g} °C",
        tach=design.tach,
        every=f"{design.every_s:g} s",
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
    )
