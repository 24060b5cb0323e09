"""A control voltage between what is typed and what the core takes."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import PLAIN, SHARE, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.state import MAX_STEPS, JobState
from fenwit.core.methods.control_voltage.design import (
    MOST_FOLLOWERS,
    Cable,
    Cabling,
    ControlDesign,
    FilterParts,
    Following,
    KnobParts,
    Source,
)
from fenwit.core.motor.analog import VoltLine
from fenwit.core.motor.kinds import Method
from fenwit.store.database import Database
from fenwit.web.fields import Typed


class KnobEdit(BaseModel):
    """A potentiometer with what stands at its ends; an empty text there: a wire."""

    pot: Typed = "10k"
    top: Typed = ""
    bottom: Typed = ""
    spread: Typed = "20 %"


class FilterEdit(BaseModel):
    """From pulses to 0–10 V."""

    amplitude: Typed = "5 V"
    frequency: Typed = "1 kHz"
    resistance: Typed = "10k"
    capacitance: Typed = "220n"
    stages: Annotated[int, Field(ge=1, le=2, strict=True)] = 2
    gain: Typed = "2"
    output: Typed = "50R"
    offset: Typed = "10 mV"
    gain_error: Typed = "1 %"
    levels: Typed = "256"


class CableEdit(BaseModel):
    """The wires of the signal."""

    length: Typed = ""
    area: Typed = "0.5 mm²"
    cabling: Cabling = Cabling.LOOPED
    ground: Typed = ""
    """Other amps that each fan returns through the same 0 V"""


class FollowerEdit(BaseModel):
    """Map of a further fan."""

    slowest: Typed
    fastest: Typed
    off: Typed = "0.8 V"
    on: Typed = "1.2 V"
    low: Typed = "1.2 V"
    high: Typed = "9.6 V"
    inverse: bool = False
    """Whether fewer volts mean more speed"""


class ControlDesignEdit(BaseModel):
    """Volts on the first fan's input and what makes them, as typed."""

    method: Literal[Method.CONTROL_VOLTAGE]
    source: Source = Source.KNOB
    volts: Annotated[list[Typed], Field(max_length=MAX_STEPS)]
    """Slowest step first"""
    knob: KnobEdit = KnobEdit()
    chain: Typed = "4k7"
    filter: FilterEdit = FilterEdit()
    source_ohm: Typed = "100R"
    cable: CableEdit = CableEdit()
    following: Following = Following.TOGETHER
    followers: Annotated[list[FollowerEdit], Field(max_length=MOST_FOLLOWERS)] = []
    enable: bool = True
    alarm: bool = True
    fuse: Typed = ""


def _number(field: str, text: str, dimension: q.Dimension, empty: float = 0.0) -> float:
    return read_number(field, text, dimension, True).value if text.strip() else empty


def _count(field: str, text: str) -> int:
    value = read_number(field, text, PLAIN).value
    if value != round(value):
        raise InputError(field, text, "whole numbers", "these are counted")
    return round(value)


def _within(
    prefix: str, work: Callable[[], ControlDesign | KnobParts | FilterParts | Cable | VoltLine]
) -> object:
    try:
        return work()
    except InputError as error:
        field = _FORM.get(error.field, error.field)
        raise InputError(prefix + field, error.value, error.allowed, error.reason, error.meant) from None


def read(database: Database, state: JobState, edit: ControlDesignEdit) -> ControlDesign:
    """A typed control. Raises InputError beside the field, in a group as group.field."""
    ohms, volts = UNITS["ohm"], UNITS["v"]
    k, f, c = edit.knob, edit.filter, edit.cable
    knob = _within(
        "knob.",
        lambda: KnobParts(
            _number("pot_ohm", k.pot, ohms), _number("top_ohm", k.top, ohms), _number("bottom_ohm", k.bottom, ohms),
            _number("spread", k.spread, SHARE),
        ),
    )  # fmt: skip
    parts = _within(
        "filter.",
        lambda: FilterParts(
            _number("amplitude_v", f.amplitude, volts), _number("frequency_hz", f.frequency, UNITS["hz"]),
            _number("resistance_ohm", f.resistance, ohms), _number("capacitance_f", f.capacitance, UNITS["f"]),
            f.stages, _number("gain", f.gain, PLAIN), _number("output_ohm", f.output, ohms),
            _number("offset_v", f.offset, volts), _number("gain_error", f.gain_error, SHARE), _count("levels", f.levels),
        ),
    )  # fmt: skip
    cable = _within(
        "cable.",
        lambda: Cable(
            _number("length_m", c.length, UNITS["m"]), _number("area_mm2", c.area.replace("²", "2"), UNITS["mm2"]),
            c.cabling, _number("ground_a", c.ground, UNITS["a"]),
        ),
    )  # fmt: skip
    lines = [_within(f"followers[{i}].", lambda one=one: _line(one)) for i, one in enumerate(edit.followers)]  # type: ignore[misc]
    assert isinstance(knob, KnobParts)
    assert isinstance(parts, FilterParts)
    assert isinstance(cable, Cable)
    followers = tuple(line for line in lines if isinstance(line, VoltLine))

    def whole() -> ControlDesign:
        return ControlDesign(
            edit.source, tuple(_number(f"volts[{i}]", v, volts) for i, v in enumerate(edit.volts)), knob,
            _number("chain_ohm", edit.chain, ohms), parts, _number("source_ohm", edit.source_ohm, ohms), cable,
            edit.following, followers, edit.enable, edit.alarm,
            q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        )  # fmt: skip

    found = _within("", whole)
    assert isinstance(found, ControlDesign)
    return found


def _line(one: FollowerEdit) -> VoltLine:
    rpm, volts = UNITS["rpm"], UNITS["v"]
    return VoltLine(
        _number("minimum_speed_rpm", one.slowest, rpm), _number("maximum_speed_rpm", one.fastest, rpm),
        _number("off_v", one.off, volts), _number("on_v", one.on, volts), _number("low_v", one.low, volts),
        _number("high_v", one.high, volts), one.inverse,
    )  # fmt: skip


_FORM = {
    "pot_ohm": "pot", "top_ohm": "top", "bottom_ohm": "bottom", "amplitude_v": "amplitude", "frequency_hz": "frequency",
    "resistance_ohm": "resistance", "capacitance_f": "capacitance", "output_ohm": "output", "offset_v": "offset",
    "length_m": "length", "area_mm2": "area", "ground_a": "ground", "chain_ohm": "chain", "fuse_a": "fuse",
    "minimum_speed_rpm": "slowest", "maximum_speed_rpm": "fastest", "off_v": "off", "on_v": "on", "low_v": "low",
    "high_v": "high",
}  # fmt: skip


def typed(design: ControlDesign) -> ControlDesignEdit:
    """A control as it would be typed."""
    k, f, c = design.knob, design.filter, design.cable

    def ohms(value: float) -> str:
        return q.bench(value, q.RESISTANCE) if value else ""

    return ControlDesignEdit(
        method=Method.CONTROL_VOLTAGE,
        source=design.source,
        volts=[f"{v:.4g} V" for v in design.volts],
        knob=KnobEdit(
            pot=ohms(k.pot_ohm), top=ohms(k.top_ohm), bottom=ohms(k.bottom_ohm), spread=f"{100 * k.spread:.4g} %",
        ),
        chain=ohms(design.chain_ohm),
        filter=FilterEdit(
            amplitude=f"{f.amplitude_v:g} V", frequency=_said(f.frequency_hz, UNITS["hz"]),
            resistance=ohms(f.resistance_ohm), capacitance=q.bench(f.capacitance_f, q.CAPACITANCE), stages=f.stages,
            gain=f"{f.gain:g}", output=ohms(f.output_ohm) or "0R", offset=_said(f.offset_v, UNITS["v"]),
            gain_error=f"{100 * f.gain_error:.4g} %", levels=str(f.levels),
        ),
        source_ohm=ohms(design.source_ohm) or "0R",
        cable=CableEdit(
            length=f"{c.length_m:g} m" if c.length_m else "", area=f"{c.area_mm2:g} mm²", cabling=c.cabling,
            ground=_said(c.ground_a, UNITS["a"]) if c.ground_a else "",
        ),
        following=design.following,
        followers=[follower(line) for line in design.followers],
        enable=design.enable,
        alarm=design.alarm,
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
    )  # fmt: skip


def follower(line: VoltLine) -> FollowerEdit:
    """A further fan's map as it would be typed."""
    return FollowerEdit(
        slowest=f"{line.slowest_rpm:g} rpm", fastest=f"{line.fastest_rpm:g} rpm", off=f"{line.off_v:g} V",
        on=f"{line.on_v:g} V", low=f"{line.low_v:g} V", high=f"{line.high_v:g} V", inverse=line.inverse,
    )  # fmt: skip


def from_card(card: str, values: Mapping[str, str], edit: ControlDesignEdit) -> ControlDesignEdit | None:
    """The control with what a card of the Desk worked out; None for a card with other parts."""
    if values.keys() <= KnobEdit.model_fields.keys():
        knob = edit.knob.model_copy(update=dict(values))
        return edit.model_copy(update={"source": Source.KNOB, "knob": knob})
    if values.keys() <= FilterEdit.model_fields.keys():
        parts = edit.filter.model_copy(update={n: int(t) if n == "stages" else t for n, t in values.items()})
        return edit.model_copy(update={"source": Source.FILTER, "filter": parts})
    return None


def _said(value: float, dimension: q.Dimension) -> str:
    return q.show(value, dimension, 4)
