"""Banks between what is typed and what the core takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.wiring import NAMES
from fenwit.core.motor.kinds import Method
from fenwit.store.database import Database
from fenwit.web.fields import CapacitorEdit, SwitchEdit, Typed
from fenwit.web.parts import read_capacitor, read_switch, typed_capacitor, typed_switch


class BankEdit(BaseModel):
    """Capacitors in bench notation, what each step joins, and what was set by hand."""

    method: Literal[Method.SERIES_CAPACITOR]
    capacitors: Annotated[list[CapacitorEdit], Field(max_length=3)]
    patterns: Annotated[list[Typed], Field(max_length=8)]
    switch: SwitchEdit | None = None
    """None: the switch this job is sized for"""
    bleeds: Annotated[list[Typed], Field(max_length=3)] = []
    """One for each capacitor; empty text: chosen by Fenwit"""
    limiters: Annotated[list[Typed], Field(max_length=3)] = []
    fuse: Typed = ""


def read(database: Database, state: JobState, edit: BankEdit) -> BankDesign:
    """A typed bank. Raises InputError naming a, b, c, patterns or a small part."""
    sizing = state.sizing
    capacitors = tuple(
        read_capacitor(database, name.lower(), part)
        for name, part in zip(NAMES, edit.capacitors, strict=False)
    )
    if not capacitors:
        raise InputError("capacitors", [], "1 to 3", "a bank has one to three capacitors")
    if not edit.patterns:
        raise InputError("patterns", [], "one pattern for each step", "choose what each step joins")
    switch = read_switch(edit.switch, sizing.switch) if edit.switch else sizing.switch
    if len(edit.patterns) > switch.positions:
        switch = replace(switch, positions=min(6, len(edit.patterns)))
    return BankDesign(
        capacitors,
        tuple(edit.patterns),
        switch,
        bleed_ohm=_by_hand("bleed", edit.bleeds),
        limiter_ohm=_by_hand("limiter", edit.limiters),
        fuse_a=q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        enclosed=sizing.enclosed,
    )


def _by_hand(field: str, texts: Sequence[str]) -> tuple[float | None, ...]:
    found = tuple(
        q.parse(f"{field}.{NAMES[i]}", text, q.RESISTANCE) if text else None for i, text in enumerate(texts)
    )
    return found if any(v is not None for v in found) else ()


def typed(design: BankDesign) -> BankEdit:
    """A bank as it would be typed."""
    return BankEdit(
        method=Method.SERIES_CAPACITOR,
        capacitors=[typed_capacitor(c) for c in design.capacitors],
        patterns=list(design.patterns),
        switch=typed_switch(design.switch),
        bleeds=[q.bench(v, q.RESISTANCE) if v else "" for v in design.bleed_ohm],
        limiters=[q.bench(v, q.RESISTANCE) if v else "" for v in design.limiter_ohm],
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
    )
