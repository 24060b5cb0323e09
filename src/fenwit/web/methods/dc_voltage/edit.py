"""Lowered DC volts between what is typed and what the core takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import SHARE, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.state import MAX_STEPS, JobState
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.motor.kinds import Method
from fenwit.store.database import Database
from fenwit.web.fields import Typed

_DIRECT = ("direct", "0", "")


class VoltsEdit(BaseModel):
    """A resistor or volts for each step, as typed."""

    method: Literal[Method.DC_VOLTAGE]
    way: Way = Way.SWITCHING
    settings: Annotated[list[Typed], Field(max_length=MAX_STEPS)]
    """Ohms, or "direct"; volts behind a regulator; slowest step first"""
    efficiency: Typed = "85 %"
    dropout: Typed = "2 V"
    ambient: Typed = "40 °C"
    junction_limit: Typed = "125 °C"
    case: Typed = "3 K/W"
    fuse: Typed = ""


_FORM = {
    "dropout_v": "dropout",
    "ambient_c": "ambient",
    "junction_limit_c": "junction_limit",
    "case_k_w": "case",
    "fuse_a": "fuse",
}


def _setting(way: Way, i: int, text: str) -> float:
    field = f"settings[{i}]"
    if way is Way.RESISTOR:
        return 0.0 if text.strip().lower() in _DIRECT else q.parse(field, text, q.RESISTANCE)
    return read_number(field, text, UNITS["v"]).value


def read(database: Database, state: JobState, edit: VoltsEdit) -> VoltsDesign:
    """Typed volts. Raises InputError beside the field."""
    try:
        return VoltsDesign(
            edit.way, tuple(_setting(edit.way, i, s) for i, s in enumerate(edit.settings)),
            read_number("efficiency", edit.efficiency, SHARE).value,
            read_number("dropout_v", edit.dropout, UNITS["v"]).value,
            read_number("ambient_c", edit.ambient, UNITS["c"]).value,
            read_number("junction_limit_c", edit.junction_limit, UNITS["c"]).value,
            read_number("case_k_w", edit.case, UNITS["k_w"]).value,
            q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        )  # fmt: skip
    except InputError as error:
        raise InputError(
            _FORM.get(error.field, error.field), error.value, error.allowed, error.reason, error.meant
        ) from None


def typed(design: VoltsDesign) -> VoltsEdit:
    """Volts as they would be typed."""
    ohms = design.way is Way.RESISTOR
    return VoltsEdit(
        method=Method.DC_VOLTAGE,
        way=design.way,
        settings=[
            "direct" if ohms and s == 0 else q.bench(s, q.RESISTANCE) if ohms else f"{s:.4g} V"
            for s in design.settings
        ],
        efficiency=f"{100 * design.efficiency:.3g} %",
        dropout=f"{design.dropout_v:g} V",
        ambient=f"{design.ambient_c:g} °C",
        junction_limit=f"{design.junction_limit_c:g} °C",
        case=f"{design.case_k_w:g} K/W",
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
    )
