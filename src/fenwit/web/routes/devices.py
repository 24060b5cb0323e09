"""Devices that answer: which there are, and asking one for a reading at a step."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from pydantic import BaseModel, Field

from fenwit.bench.modbus import ModbusFan
from fenwit.bench.registers import Simulated
from fenwit.bench.taken import Outcome, Taken
from fenwit.core.desk.typed import PLAIN, UNITS, read_number
from fenwit.core.errors import InputError, check_range
from fenwit.core.job.state import JobState, commanded_of
from fenwit.store import answers, history
from fenwit.web import routing
from fenwit.web.devices import ask, device_of, named_devices
from fenwit.web.fields import Db, JobId, Typed, Words
from fenwit.web.models import NewReading
from fenwit.web.page import load, saving
from fenwit.web.taking import take, write

router = routing.router("/api", "devices")


class ChannelShown(BaseModel):
    """One thing a device can be asked for."""

    quantity: str
    name: str
    unit: str


class DeviceShown(BaseModel):
    """A device that the settings name."""

    name: str
    kind: str
    channels: list[ChannelShown]
    simulated: bool
    """Whether its bench is worked from the screen: no hands can reach it"""


class ByHand(BaseModel):
    """What is done on the bench of a simulated fan; what is left out stays."""

    knob: Typed | None = None
    damper: Typed | None = None
    power: bool | None = None
    enable: bool | None = None
    lose_next: int | None = Field(default=None, ge=0, le=100)


class Done(BaseModel):
    """What was done."""

    words: str


class DeviceAsked(BaseModel):
    """Which device is asked for what; at a step its value becomes a reading there."""

    device: Typed
    quantity: Typed
    step: int | None = Field(default=None, ge=1, le=8)
    supersedes: int | None = Field(default=None, ge=1, le=2**53)
    who: Words = ""


class DeviceAnswer(BaseModel):
    """What it answered."""

    outcome: Outcome
    device: str
    text: str
    """The value with its unit; empty where none came"""
    words: str
    took_s: float
    kept: bool
    """Whether it became a reading"""
    why: str = ""
    """Why a good value did not; empty where it did, or where none was good"""


class AnswerLine(BaseModel):
    """An answer as it was logged."""

    device: str
    quantity: str
    outcome: Outcome
    words: str
    who: str
    at: datetime


@router.get("/devices")
def list_devices() -> list[DeviceShown]:
    """Devices that the settings name."""
    return [
        DeviceShown(
            name=d.name,
            kind=d.kind,
            simulated=isinstance(d, ModbusFan) and d.simulated,
            channels=[
                ChannelShown(quantity=c.quantity, name=c.name, unit=c.unit) for c in d.channels.values()
            ],
        )
        for d in named_devices().values()
    ]


@router.post("/devices/{name}/by-hand")
def work_bench(name: Typed, done: ByHand) -> Done:
    """Turn the knob, move the damper, pull the plug of a simulated fan; no real one is ever touched."""
    device = device_of(name)
    if not isinstance(device, ModbusFan) or not device.simulated:
        raise InputError("device", name, "a simulated fan", "a real bench is worked by hand")
    orders: list[tuple[Simulated, int]] = []
    if done.knob is not None:
        volts = read_number("knob", done.knob, UNITS["v"]).value
        check_range("knob", volts, 0.0, 10.0, "V")
        orders.append((Simulated.KNOB, round(1000 * volts)))
    if done.damper is not None:
        factor = read_number("damper", done.damper, PLAIN).value
        check_range("damper", factor, 0.1, 100.0, "")
        orders.append((Simulated.DAMPER, round(100 * factor)))
    if done.power is not None:
        orders.append((Simulated.POWER, int(done.power)))
    if done.enable is not None:
        orders.append((Simulated.ENABLE_CONTACT, int(done.enable)))
    if done.lose_next is not None:
        orders.append((Simulated.LOSE_NEXT, done.lose_next))
    for register, number in orders:
        refused = device.order(register, number)
        if refused:
            raise InputError("device", name, "an answer", refused)
    return Done(words="done")


@router.get("/jobs/{job_id}/answers")
def list_answers(job_id: JobId, db: Db) -> list[AnswerLine]:
    """What devices answered in a job, newest first."""
    load(db, job_id)
    return [
        AnswerLine(
            device=a.device,
            quantity=a.quantity,
            outcome=Outcome(a.outcome),
            words=a.words,
            who=a.who,
            at=a.at,
        )
        for a in answers.of_job(db, job_id)
    ]


def fastest(state: JobState, quantity: str) -> float | None:
    """How fast a quantity of a job's fan can change at all; None where nobody knows [unit/s]"""
    known = commanded_of(state)
    if isinstance(known, tuple) or quantity != "speed_rpm":
        return None
    # Twice the ramp of its data: a fan that is switched off is braked by its blades.
    return 2 * known.full_rpm * max(0.25, known.sheet.analog.ramps_per_s)


def said(found: Taken, kept: bool, why: str = "") -> DeviceAnswer:
    """An answer for the screen."""
    return DeviceAnswer(
        outcome=found.outcome, device=found.device, text=found.text, words=found.words, took_s=found.took_s, kept=kept,
        why=why,
    )  # fmt: skip


@router.post("/jobs/{job_id}/devices/take")
def take_from_device(job_id: JobId, asked: DeviceAsked, db: Db) -> DeviceAnswer:
    """Ask a device; a value that came in time and can be true becomes a reading at the step, with its source."""
    loaded = load(db, job_id)
    found = ask(db, job_id, asked.device, asked.quantity, asked.who, fastest(loaded.state, asked.quantity))
    if found.outcome is not Outcome.VALUE or asked.step is None:
        return said(found, False)
    new = NewReading(
        quantity=asked.quantity, text=found.text, who=asked.who, supersedes=asked.supersedes, step=asked.step
    )
    taken = take(db, loaded, new, found.at)
    taken = replace(taken, values={**taken.values, "source": found.source})
    with saving(db, loaded):
        history.record(db, job_id, taken.label, write(db, [taken]), asked.who)
    return said(found, True)
