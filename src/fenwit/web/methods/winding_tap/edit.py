"""Winding taps between what is picked and what the core takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.job.state import JobState
from fenwit.core.methods.winding_tap.design import MOST, TapsDesign
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.taps import StartBranch
from fenwit.store.database import Database
from fenwit.web.duty import DutyEdit, read_duty, typed_duty
from fenwit.web.fields import SwitchEdit, Typed
from fenwit.web.parts import read_switch, typed_switch


class TapsEdit(BaseModel):
    """Which taps each position feeds, slowest step first."""

    method: Literal[Method.WINDING_TAP]
    positions: Annotated[list[Annotated[list[Typed], Field(max_length=4)]], Field(max_length=MOST)]
    branch: StartBranch | None = None
    """None: as found with the leads"""
    switch: SwitchEdit | None = None
    """None: the switch this job is sized for"""
    fuse: Typed = ""
    duty: DutyEdit | None = None


def read(database: Database, state: JobState, edit: TapsEdit) -> TapsDesign:
    """Picked taps. Raises InputError naming positions, p1 … p6, fuse or a field of the duty sheet."""
    sizing = state.sizing
    return TapsDesign(
        tuple(tuple(name for name in fed if name) for fed in edit.positions),
        edit.branch,
        read_switch(edit.switch, sizing.switch) if edit.switch else sizing.switch,
        q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        read_duty(edit.duty),
    )


def typed(design: TapsDesign) -> TapsEdit:
    """Taps as they would be picked."""
    return TapsEdit(
        method=Method.WINDING_TAP,
        positions=[list(fed) for fed in design.positions],
        branch=design.branch,
        switch=typed_switch(design.switch),
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
        duty=typed_duty(design.duty),
    )
