"""Transformers with taps between what is typed and what the core takes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.stepped_voltage.design import MOST, SteppedDesign, Tap
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.transformer import Insulation, Measured, Winding
from fenwit.store.database import Database
from fenwit.web.duty import DutyEdit, read_duty, typed_duty
from fenwit.web.fields import SwitchEdit, Typed
from fenwit.web.parts import read_switch, typed_switch

VOLT_AMPS = q.Dimension("volt-amps", "VA", ("VA",), "", 5.0, 400.0, "like 25 or 25 VA")


class TapEdit(BaseModel):
    """A tap as typed."""

    volts: Typed = ""
    ohms: Typed = ""
    """From the winding's common end; empty: not read"""


class SteppedEdit(BaseModel):
    """A transformer in bench notation, slowest tap first, and its switch."""

    method: Literal[Method.STEPPED_VOLTAGE]
    winding: Winding = Winding.AUTO
    taps: Annotated[list[TapEdit], Field(max_length=MOST)]
    direct: bool = False
    va: Typed = ""
    """Empty: the smallest frame that bears it"""
    whole: Typed = ""
    """Of the whole secondary; empty: its highest tap"""
    rated: Typed = ""
    """Empty: the job's supply"""
    rated_hz: Typed = ""
    idle_watts: Typed = ""
    """Read on it with nothing connected; empty: as usual of its frame"""
    idle_amps: Typed = ""
    primary: Typed = ""
    secondary: Typed = ""
    insulation: Insulation = Insulation.B
    room: Typed = ""
    """Empty: 30 °C"""
    switch: SwitchEdit | None = None
    """None: the switch this job is sized for"""
    fuse: Typed = ""
    duty: DutyEdit | None = None


def _given(field: str, text: str, dimension: q.Dimension) -> float | None:
    return q.parse(field, text, dimension) if text else None


def read(database: Database, state: JobState, edit: SteppedEdit) -> SteppedDesign:
    """A typed transformer. Raises InputError naming taps, t1 … t6, ohms, va, whole, rated, room, idle or fuse."""
    taps = tuple(
        Tap(q.parse(f"t{i}", tap.volts, q.VOLTAGE), _given(f"ohms{i}", tap.ohms, q.RESISTANCE))
        for i, tap in enumerate(edit.taps, start=1)
    )
    measured = Measured(
        _given("idle_watts", edit.idle_watts, q.POWER),
        _given("idle_amps", edit.idle_amps, q.CURRENT),
        _given("primary", edit.primary, q.RESISTANCE),
        _given("secondary", edit.secondary, q.RESISTANCE),
    )
    duty = read_duty(edit.duty)
    try:
        return SteppedDesign(
            edit.winding,
            taps,
            edit.direct,
            _given("va", edit.va, VOLT_AMPS),
            _given("whole", edit.whole, q.VOLTAGE),
            _given("rated", edit.rated, q.VOLTAGE) or state.supply_voltage_v,
            _given("rated_hz", edit.rated_hz, q.FREQUENCY) or state.supply_frequency_hz,
            measured,
            edit.insulation,
            q.parse("room", edit.room, q.TEMPERATURE) if edit.room else 30.0,
            read_switch(edit.switch, state.sizing.switch) if edit.switch else state.sizing.switch,
            _given("fuse", edit.fuse, q.CURRENT),
            duty,
        )
    except InputError as refused:
        field = _FIELDS.get(refused.field, refused.field)
        raise InputError(field, refused.value, refused.allowed, refused.reason) from refused


_FIELDS = {"whole_v": "whole", "rated_v": "rated", "room_c": "room", "fuse_a": "fuse"}
"""Beside which field a refusal of the core stands"""


def _bench(value: float | None, dimension: q.Dimension) -> str:
    return "" if value is None else q.bench(value, dimension, 4)


def typed(design: SteppedDesign) -> SteppedEdit:
    """A transformer as it would be typed."""
    read_on_it = design.measured
    return SteppedEdit(
        method=Method.STEPPED_VOLTAGE,
        winding=design.winding,
        taps=[TapEdit(volts=f"{t.volts:g} V", ohms=_bench(t.ohms, q.RESISTANCE)) for t in design.taps],
        direct=design.direct,
        va="" if design.va is None else f"{design.va:g} VA",
        whole="" if design.whole_v is None else f"{design.whole_v:g} V",
        rated=f"{design.rated_v:g} V",
        rated_hz=f"{design.rated_hz:g} Hz",
        idle_watts=_bench(read_on_it.idle_w, q.POWER),
        idle_amps=_bench(read_on_it.idle_a, q.CURRENT),
        primary=_bench(read_on_it.primary_ohm, q.RESISTANCE),
        secondary=_bench(read_on_it.secondary_ohm, q.RESISTANCE),
        insulation=design.insulation,
        room=f"{design.room_c:g} °C",
        switch=typed_switch(design.switch),
        fuse=_bench(design.fuse_a, q.CURRENT),
        duty=typed_duty(design.duty),
    )
