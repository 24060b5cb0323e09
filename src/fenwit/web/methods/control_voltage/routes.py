"""What only a control voltage answers to: the control under the eye, its scale, each fan's volts, dead checks."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.methods.control_voltage import CONTROL_VOLTAGE, SOURCES, scale_of
from fenwit.core.methods.control_voltage.design import ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.parts import dead_checks
from fenwit.core.methods.control_voltage.search import better, made
from fenwit.core.methods.control_voltage.signal import ends_v, setting, steadied, without_ground_rpm
from fenwit.core.motor.analog import soft_start_s
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.control_voltage.edit import ControlDesignEdit, FollowerEdit, follower, read, typed
from fenwit.web.methods.looked import looked_at

router = routing.router("/api/jobs/{job_id}", "control voltage")


class ControlAsked(BaseModel):
    """Which control is looked at."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    design: ControlDesignEdit | None = None
    """None: what is chosen, if anything"""
    source: Source | None = None
    """What is to make the volts, where that is only looked at"""


class FanRow(BaseModel):
    """One fan at one step."""

    step: int
    fan: int
    volts: str
    speed: str
    note: str = ""


class ScaleRow(BaseModel):
    """A mark of the knob's scale."""

    turn: float
    rpm: int
    """0: the fan stands there"""


class Filtered(BaseModel):
    """A filter in figures."""

    ripple_text: str
    settling_text: str
    small_text: str
    """By the rule for small ripple; empty where that does not hold"""


class CheckShown(BaseModel):
    """Ohms between two terminals, power off, plugs pulled."""

    between: str
    how: str
    ohms: str


class ControlShown(BaseModel):
    """The control that is looked at."""

    note: str = ""
    usual: ControlDesignEdit | None = None
    """A first design for the wanted speeds, by the source that is looked at"""
    facts: list[str] = []
    usable_text: str = ""
    """How much of a bare knob's turn moves nothing"""
    another: FollowerEdit | None = None
    """A further fan, to begin with: like the first"""
    fans: list[FanRow] = []
    scale: list[ScaleRow] = []
    filtered: Filtered | None = None
    better: ControlDesignEdit | None = None
    """The same with end stops, or a filter, that suit the volts; none where they do already"""
    better_text: str = ""
    checks: list[CheckShown] = []


@router.post("/control", dependencies=[HEAVY])
def show_control(job_id: JobId, asked: ControlAsked, db: Db) -> ControlShown:
    """Where the volts come from, and what of them reaches every fan."""
    looked = looked_at(db, job_id, CONTROL_VOLTAGE, read, asked.wanted_rpm, asked.design)
    if isinstance(looked, str):
        return ControlShown(note=looked)
    fan, design = looked.fan, looked.design
    note, first = "", None
    try:
        first = made(fan, looked.state.wanted_rpm, asked.source or Source.KNOB)
    except InputError as error:
        note = f"{error.reason}."
    shown = design or first
    usable = f"{100 * (1 - fan.line.usable_fraction):.0f} % of a bare knob's turn does nothing"
    if shown is None:
        return ControlShown(note=note, usable_text=usable)
    found = ControlShown(
        note=note,
        usual=typed(first) if first else None,
        facts=_facts(fan, shown),
        usable_text=usable,
        another=follower(fan.line),
        fans=_fans(fan, shown),
        checks=[_check(c.between, c.how, c.ohm) for c in dead_checks(fan, shown)],
    )
    if shown.source is Source.KNOB:
        found.scale = [ScaleRow(turn=m.turn, rpm=m.rpm) for m in scale_of(fan, shown)]
    if shown.source is Source.FILTER:
        found.filtered = _filtered(shown)
    fitting = None if design is None else better(fan, design)
    if fitting is not None:
        found.better = typed(fitting)
        found.better_text = _better_text(fan, fitting)
    return found


def _better_text(fan: ControlFan, fitting: ControlDesign) -> str:
    if fitting.source is Source.KNOB:
        low, high = ends_v(fan, fitting)
        return f"its whole turn then gives {low:.2f} to {high:.2f} V"
    parts = fitting.filter
    return f"{parts.stages} stage{'s' if parts.stages > 1 else ''} of {q.show(parts.capacitance_f, q.CAPACITANCE)}"


def _facts(fan: ControlFan, design: ControlDesign) -> list[str]:
    sheet = fan.analog
    wait = soft_start_s(0.98, sheet.follows_s, sheet.ramps_per_s)
    most = max(range(len(design.volts)), key=lambda i: design.volts[i])
    amps = setting(fan, design, most).source_a
    breaks = {"stops": "stands", "holds": "runs slowest", "full": "runs full"}[sheet.open_input.value]
    facts = [
        f"{SOURCES[design.source]}; the inputs take {q.show(amps, q.CURRENT, 2)} at most",
        f"soft start: do not judge a step before {wait:.0f} s",
        f"wire to analog 1 off: it {breaks}; wire of the knob to 0 V off: {without_ground_rpm(fan, design):.0f} rpm"
        if design.source is Source.KNOB
        else f"wire to analog 1 off: it {breaks}",
    ]
    if fan.count > 1 and design.following is not Following.TOGETHER:
        facts.append("a follower loses its set point with its leader")
    if design.source is Source.FILTER:
        facts.append("an amplifier does not give the last 20 mV: below where the fan stops that does no harm")
    return facts


def _fans(fan: ControlFan, design: ControlDesign) -> list[FanRow]:
    rows = []
    for i in range(len(design.volts)):
        for k, told in enumerate(setting(fan, design, i).fans, start=1):
            note = "" if told.starts or not told.speed_rpm else "holds, does not start"
            speed = f"{told.speed_rpm:.0f} rpm" if told.speed_rpm else "off"
            rows.append(FanRow(step=i + 1, fan=k, volts=f"{told.volts:.2f} V", speed=speed, note=note))
    return rows


def _check(between: str, how: str, ohm: float | None) -> CheckShown:
    text = "open" if ohm is None else "joined" if ohm == 0 else q.show(ohm, q.RESISTANCE)
    return CheckShown(between=between, how=how, ohms=text)


def _filtered(design: ControlDesign) -> Filtered:
    found, volts = steadied(design), q.VOLTAGE
    return Filtered(
        ripple_text=f"{q.show(found.ripple_v, volts, 2)} from least to most, at half duty and 10 V",
        settling_text=f"{q.show(found.settling_s, _SECONDS, 2)} to one per cent",
        small_text=""
        if found.small_v is None
        else f"{q.show(found.small_v, volts, 2)} by the rule for small ripple",
    )


_SECONDS = q.Dimension("seconds", "s", ("s",), "mu", 0.0, 1e6, "like 0.5")
