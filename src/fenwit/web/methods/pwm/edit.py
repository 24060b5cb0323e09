"""A duty on the control lead between what is typed and what the core takes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import PLAIN, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.state import MAX_STEPS, JobState
from fenwit.core.methods.pwm.design import (
    BenchBox,
    Controller,
    Drive,
    DutyDesign,
    Maker,
    PickedBy,
    TimerParts,
)
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.registers import TimerMode
from fenwit.store.database import Database
from fenwit.web.commanded import duty_of
from fenwit.web.fields import Typed


class ControllerEdit(BaseModel):
    """The timer of a microcontroller."""

    clock: Typed = "16 MHz"
    bits: Typed = "8"
    prescalers: Typed = "1, 8, 64, 256, 1024"
    mode: TimerMode | None = None
    choice: Annotated[int, Field(ge=0, le=100, strict=True)] = 0
    picked_by: PickedBy = PickedBy.DIP
    time_out: Typed = "2 s"


class TimerPartsEdit(BaseModel):
    """Resistors and capacitor around timer ICs."""

    high_ohm: Typed = "1k"
    low_ohm: Typed = "1k"
    pot_ohm: Typed = "100k"
    capacitance: Typed = "330p"
    supply: Typed = "12 V"
    rail_to_rail: bool = True
    saturation: Typed = "0.1 V"
    delay: Typed = "200 ns"
    stray: Typed = "15 pF"
    minimum_pulse: Typed = "0.5 us"
    trigger_low: Typed = "1 us"


class BoxEdit(BaseModel):
    """A controller for the bench; an empty text: not known, or the usual."""

    low: Typed = "2 kHz"
    high: Typed = "30 kHz"
    step: Typed = "500 Hz"
    top: Typed = ""
    """Most volts of its supply"""
    own_fan: Typed = ""
    """Amps of a fan that cools it"""
    own_limit: Typed = "500 mA"
    track: Typed = ""
    copper_um: Typed = "35"
    pin: Typed = "3 A"


class DutyDesignEdit(BaseModel):
    """Duties on the lead and what makes them, as typed."""

    method: Literal[Method.PWM]
    maker: Maker = Maker.MICROCONTROLLER
    duties: Annotated[list[Typed], Field(max_length=MAX_STEPS)]
    """On the lead, slowest step first"""
    frequency: Typed = "25 kHz"
    stages: Typed = "1"
    drive: Drive = Drive.OPEN_DRAIN
    high: Typed = "5 V"
    driver: Typed = "20 mA"
    controller: ControllerEdit = ControllerEdit()
    timer: TimerPartsEdit = TimerPartsEdit()
    logic: Typed = "30 mA"
    fuse: Typed = ""
    logic_switching: bool = False
    one_by_one: bool = False
    box: BoxEdit = BoxEdit()


def _count(field: str, text: str) -> int:
    value = read_number(field, text, PLAIN).value
    if value != round(value):
        raise InputError(field, text, "whole numbers", "these are counted")
    return round(value)


def _duty(field: str, text: str) -> float:
    value = duty_of(field, text)
    if not 0 <= value <= 1:
        raise InputError(
            field, text, "0 to 100 %", "there is no more than always on, and no less than always off"
        )
    return value


def _numbers(field: str, text: str) -> tuple[int, ...]:
    return tuple(_count(field, p) for p in text.replace(";", ",").split(","))


def read(database: Database, state: JobState, edit: DutyDesignEdit) -> DutyDesign:
    """A typed signal. Raises InputError beside the field, in a group as group.field."""
    c, t = edit.controller, edit.timer
    hertz, seconds, ohms, volts = UNITS["hz"], UNITS["s"], UNITS["ohm"], UNITS["v"]
    prefix = ""
    try:
        prefix = "controller."
        controller = Controller(
            read_number("clock_hz", c.clock, hertz).value, _count("bits", c.bits),
            _numbers("prescalers", c.prescalers), c.mode,
            c.choice, c.picked_by, read_number("time_out_s", c.time_out, seconds).value,
        )  # fmt: skip
        prefix = "timer."
        timer = TimerParts(
            read_number("high_ohm", t.high_ohm, ohms).value, read_number("low_ohm", t.low_ohm, ohms).value,
            read_number("pot_ohm", t.pot_ohm, ohms).value,
            read_number("capacitance_f", t.capacitance, UNITS["f"], True).value,
            read_number("supply_v", t.supply, volts).value, t.rail_to_rail,
            read_number("saturation_v", t.saturation, volts).value,
            read_number("delay_s", t.delay, seconds).value, read_number("stray_f", t.stray, UNITS["f"]).value,
            read_number("minimum_pulse_s", t.minimum_pulse, seconds).value,
            read_number("trigger_low_s", t.trigger_low, seconds).value,
        )  # fmt: skip
        prefix = "box."
        b, amps = edit.box, UNITS["a"]
        box = BenchBox(
            read_number("low_hz", b.low, hertz).value, read_number("high_hz", b.high, hertz).value,
            read_number("step_hz", b.step, hertz).value, read_number("top_v", b.top, volts).value if b.top else None,
            read_number("own_fan_a", b.own_fan, amps).value if b.own_fan else 0.0,
            read_number("own_limit_a", b.own_limit, amps).value,
            read_number("track_mm", b.track, UNITS["mm"]).value if b.track else None,
            read_number("copper_um", b.copper_um.removesuffix("µm").removesuffix("um").strip(), PLAIN).value,
            read_number("pin_a", b.pin, amps).value,
        )  # fmt: skip
        prefix = ""
        return DutyDesign(
            edit.maker, tuple(_duty(f"duties[{i}]", d) for i, d in enumerate(edit.duties)),
            read_number("frequency_hz", edit.frequency, hertz).value, _count("stages", edit.stages), edit.drive,
            read_number("high_v", edit.high, volts).value, read_number("driver_a", edit.driver, UNITS["a"]).value,
            controller, timer,
            read_number("logic_a", edit.logic, UNITS["a"]).value,
            q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
            edit.logic_switching, edit.one_by_one, box,
        )  # fmt: skip
    except InputError as error:
        field = _FORM.get(error.field, error.field)
        raise InputError(prefix + field, error.value, error.allowed, error.reason, error.meant) from None


_FORM = {
    "clock_hz": "clock", "time_out_s": "time_out", "capacitance_f": "capacitance", "supply_v": "supply",
    "saturation_v": "saturation",
    "delay_s": "delay", "stray_f": "stray", "minimum_pulse_s": "minimum_pulse", "trigger_low_s": "trigger_low",
    "frequency_hz": "frequency", "high_v": "high", "driver_a": "driver", "logic_a": "logic", "fuse_a": "fuse",
    "low_hz": "low", "high_hz": "high", "step_hz": "step", "top_v": "top", "own_fan_a": "own_fan",
    "own_limit_a": "own_limit", "track_mm": "track", "pin_a": "pin",
}  # fmt: skip


def typed(design: DutyDesign) -> DutyDesignEdit:
    """A signal as it would be typed."""
    c, t, b = design.controller, design.timer, design.box
    return DutyDesignEdit(
        method=Method.PWM,
        maker=design.maker,
        duties=[f"{100 * d:.4g} %" for d in design.duties],
        frequency=_said(design.frequency_hz, UNITS["hz"]),
        stages=str(design.stages),
        drive=design.drive,
        high=f"{design.high_v:g} V",
        driver=_said(design.driver_a, UNITS["a"]),
        controller=ControllerEdit(
            clock=_said(c.clock_hz, UNITS["hz"]), bits=str(c.bits), prescalers=", ".join(map(str, c.prescalers)),
            mode=c.mode,
            choice=c.choice, picked_by=c.picked_by, time_out=f"{c.time_out_s:g} s",
        ),
        timer=TimerPartsEdit(
            high_ohm=q.bench(t.high_ohm, q.RESISTANCE), low_ohm=q.bench(t.low_ohm, q.RESISTANCE),
            pot_ohm=q.bench(t.pot_ohm, q.RESISTANCE), capacitance=q.bench(t.capacitance_f, q.CAPACITANCE),
            supply=f"{t.supply_v:g} V",
            rail_to_rail=t.rail_to_rail, saturation=f"{t.saturation_v:g} V", delay=_said(t.delay_s, UNITS["s"]),
            stray=_said(t.stray_f, UNITS["f"]), minimum_pulse=_said(t.minimum_pulse_s, UNITS["s"]),
            trigger_low=_said(t.trigger_low_s, UNITS["s"]),
        ),
        logic=_said(design.logic_a, UNITS["a"]),
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
        logic_switching=design.logic_switching, one_by_one=design.one_by_one,
        box=BoxEdit(
            low=_said(b.low_hz, UNITS["hz"]), high=_said(b.high_hz, UNITS["hz"]), step=_said(b.step_hz, UNITS["hz"]),
            top="" if b.top_v is None else f"{b.top_v:g} V",
            own_fan=_said(b.own_fan_a, UNITS["a"]) if b.own_fan_a else "",
            own_limit=_said(b.own_limit_a, UNITS["a"]), track="" if b.track_mm is None else f"{b.track_mm:g} mm",
            copper_um=f"{b.copper_um:g} µm", pin=_said(b.pin_a, UNITS["a"]),
        ),
    )  # fmt: skip


_MAKERS = {"timer-astable-diodes": Maker.STEERED}


def from_card(card: str, values: Mapping[str, str], edit: DutyDesignEdit) -> DutyDesignEdit | None:
    """The signal made by the timer IC that a card of the Desk worked out; None for another card."""
    maker = _MAKERS.get(card)
    if maker is None:
        return None
    timer = edit.timer.model_copy(
        update={n: t for n, t in values.items() if n in TimerPartsEdit.model_fields}
    )
    return edit.model_copy(update={"maker": maker, "timer": timer})


def _said(value: float, dimension: q.Dimension) -> str:
    return q.show(value, dimension, 4)
