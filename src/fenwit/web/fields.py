"""Types of what comes in at the door, and small bodies that several others are made of."""

from __future__ import annotations

import unicodedata
from typing import Annotated

from fastapi import Depends, Path, Request
from pydantic import AfterValidator, BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.size.classes import PartClass
from fenwit.store.database import Database


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
Sought = Annotated[str, Field(max_length=200), AfterValidator(_words)]
Version = Annotated[int, Field(ge=0, le=2**31 - 1, strict=True)]
JobId = Annotated[int, Path(ge=1, le=2**53)]
RowId = Annotated[int, Path(ge=1, le=2**53)]
Rpm = Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)]

HOURS = q.Dimension("hours", "h", ("h", "hour", "hours"), "", 0.0, 24.0, "like 6 or 2.5 h")
DAYS = q.Dimension("days", "d", ("d", "day", "days"), "", 1.0, 366.0, "like 300")


def database(request: Request) -> Database:
    """The application's database."""
    found: Database = request.app.state.database
    return found


Db = Annotated[Database, Depends(database)]


class CapacitorEdit(BaseModel):
    """A capacitor as typed; class, rating and tolerance as usual where they are left out."""

    value: Typed = ""
    measured: Typed = ""
    """Empty: not measured"""
    part_class: Typed = PartClass.X2_FILM.value
    rated: Typed = ""
    tolerance: Typed = ""
    shelf_id: int | None = Field(default=None, ge=1, le=2**53)
    """A part on the shelf; what is known of it there goes first"""


class SwitchEdit(BaseModel):
    """A switch."""

    positions: Annotated[int, Field(strict=True)] = 4
    poles: Annotated[int, Field(strict=True)] = 2
    series_pairs: bool = True
    make_before_break: bool = False
    rated_voltage_v: Annotated[float, Field(ge=50, le=1000)] = 250.0
