"""What only a duty on the control lead answers to: registers, the timer over its travel, files for the program."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from fastapi import Request, Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import must_know
from fenwit.core.job.state import JobState
from fenwit.core.methods.pwm import PWM
from fenwit.core.methods.pwm.box import MOST_PULSES, frequencies
from fenwit.core.methods.pwm.design import Drive, DutyDesign, Maker
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.program import HEADINGS, header, plan_lines, table
from fenwit.core.methods.pwm.search import centred, one_shot_parts, usual
from fenwit.core.methods.pwm.signal import choices, safe_pull, tolerances, travelled
from fenwit.core.methods.pwm.steps import KILO_HZ
from fenwit.core.prove.lead import LeadShown, faster_first, show_lead
from fenwit.core.regulator.registers import TimerChoice
from fenwit.core.regulator.sweep import SweepVerdict
from fenwit.report.csvfiles import write_csv
from fenwit.report.tracefile import probe_factor, read_channels
from fenwit.store import codec, jobs
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Rpm
from fenwit.web.heavy import HEAVY
from fenwit.web.methods.captured import (
    CaptureAsked,
    CaptureKept,
    CaptureRead,
    SentCapture,
    Step,
    kept_at,
    take_capture,
)
from fenwit.web.methods.looked import looked_at
from fenwit.web.methods.pwm.edit import DutyDesignEdit, read, typed
from fenwit.web.methods.pwm.speedmap import map_from_csv
from fenwit.web.page import load, load_state
from fenwit.web.uploads import CSV_BODY, body_of, download

router = routing.router("/api/jobs/{job_id}", "duty")


class SignalAsked(BaseModel):
    """Which signal is looked at."""

    wanted_rpm: Annotated[list[Rpm], Field(max_length=20)] | None = None
    design: DutyDesignEdit | None = None
    """None: what is chosen, if anything"""
    maker: Maker | None = None
    """What is to make it, where that is only looked at"""


class ChoiceShown(BaseModel):
    """One setting of the timer."""

    mode: str
    prescaler: int
    top: int
    frequency_text: str
    error_text: str
    levels: int


class BoxRow(BaseModel):
    """One frequency that a bench controller can be set to."""

    asked: str
    made: str
    """By its timer"""
    error_text: str
    levels: int
    taken: SweepVerdict
    """Whether the fan takes it rightly"""
    chosen: bool


class OverTravel(BaseModel):
    """A timer IC over its pot's travel; three rows: low, middle and high of nine in ten boards."""

    travel: list[float]
    duty: list[float]
    frequency_hz: list[float]
    collapsed: list[bool]
    band_travel: list[float]
    band_duty: list[list[float]]
    band_hz: list[list[float]]
    low_hz: float
    high_hz: float
    spread_text: str


class SignalShown(BaseModel):
    """The signal that is looked at."""

    note: str = ""
    usual: DutyDesignEdit | None = None
    """A first design for the wanted speeds, by the maker that is looked at"""
    choices: list[ChoiceShown] = []
    over: OverTravel | None = None
    box: list[BoxRow] = []
    box_text: str = ""
    """How far the worst of them is off, and how few levels there are"""
    centred: DutyDesignEdit | None = None
    """The same with parts that centre its band; none where they are that already"""
    facts: list[str] = []
    late_text: str = ""
    """Why the duty on the lead is more than the fan sees; empty where it is not"""
    plan: list[str] = []


@router.post("/signal", dependencies=[HEAVY])
def show_signal(job_id: JobId, asked: SignalAsked, db: Db) -> SignalShown:
    """Registers or the travel of a timer, and what follows for power-up and a lost signal."""
    looked = looked_at(db, job_id, PWM, read, asked.wanted_rpm, asked.design)
    if isinstance(looked, str):
        return SignalShown(note=looked)
    state, fan, design = looked.state, looked.fan, looked.design
    note, first = "", None
    try:
        first = _first(fan, state, asked.maker or Maker.MICROCONTROLLER)
    except InputError as error:
        note = f"{error.reason}."
    shown = design or first
    if shown is None:
        return SignalShown(note=note)
    found = SignalShown(
        note=note,
        usual=typed(first) if first else None,
        facts=_facts(fan, shown),
        plan=list(plan_lines(fan, shown)),
        late_text=_late(fan, shown),
    )
    if not shown.maker.drawn:
        found.choices = [_choice(c) for c in choices(shown.controller, shown.frequency_hz)[:6]]
        if shown.maker is Maker.BENCH:
            found.box, found.box_text = _box(fan, shown)
    else:
        found.over = _over(fan, shown)
        better = replace(
            shown, timer=one_shot_parts(shown) if shown.maker is Maker.ONE_SHOT else centred(shown)
        )
        if better.timer != shown.timer:
            found.centred = typed(better)
    return found


def _first(fan: DutyFan, state: JobState, maker: Maker) -> DutyDesign:
    design = usual(fan, state.wanted_rpm, state)
    if maker is Maker.MICROCONTROLLER:
        return design
    if maker is Maker.BENCH:
        return replace(design, maker=maker)
    # A timer IC drives an open drain that turns its duty over.
    made = replace(design, maker=maker)
    return replace(made, timer=one_shot_parts(made) if maker is Maker.ONE_SHOT else centred(made))


def _box(fan: DutyFan, design: DutyDesign) -> tuple[list[BoxRow], str]:
    found = frequencies(fan, design)
    worst, fewest = max(found, key=lambda f: abs(f.error)), min(found, key=lambda f: f.levels)
    rows = [
        BoxRow(
            asked=q.show(f.asked_hz, KILO_HZ), made=q.show(f.made_hz, KILO_HZ, 5), error_text=_error(f.error),
            levels=f.levels, taken=f.taken, chosen=abs(f.asked_hz - design.frequency_hz) < 0.5,
        )
        for f in found
    ]  # fmt: skip
    turned, pulses = "reversed" if design.turned else "normal", fan.commanded.sheet.pulses_per_rev
    settable = pulses == round(pulses) and 1 <= pulses <= MOST_PULSES
    words = (
        f"{len(found)} frequencies, off by {_error(worst.error)} at worst ({q.show(worst.asked_hz, KILO_HZ)}), "
        f"{fewest.levels} levels at least ({q.show(fewest.asked_hz, KILO_HZ)}); set its sense to {turned}, "
        + (
            f"its pulses a turn to {pulses:g}"
            if settable
            else f"pulses a turn go from 1 to {MOST_PULSES}, and this fan gives {pulses:g}: its speed will read wrong"
        )
    )
    return rows, words


def _error(share: float) -> str:
    return "exact" if abs(share) < 5e-6 else f"{100 * share:+.2g} %".replace("-", "−")


def _choice(c: TimerChoice) -> ChoiceShown:
    return ChoiceShown(
        mode=c.mode.value, prescaler=c.prescaler, top=c.top, frequency_text=q.show(c.actual_frequency_hz, KILO_HZ, 4),
        error_text=_error(c.frequency_error),
        levels=c.levels,
    )  # fmt: skip


def _over(fan: DutyFan, design: DutyDesign) -> OverTravel:
    over, drawn = travelled(design), tolerances(design)
    sheet = fan.commanded.sheet
    low, middle, high = (float(drawn.frequency_hz[k, drawn.frequency_hz.shape[1] // 2]) for k in range(3))
    return OverTravel(
        travel=_list(over.travel), duty=_list(over.duty), frequency_hz=_list(over.frequency_hz),
        collapsed=[bool(c) for c in over.collapsed], band_travel=_list(drawn.travel),
        band_duty=[_list(r) for r in drawn.duty],
        band_hz=[_list(r) for r in drawn.frequency_hz], low_hz=sheet.low_hz, high_hz=sheet.high_hz,
        spread_text=f"{low / 1e3:.1f} – {middle / 1e3:.1f} – {high / 1e3:.1f} kHz at mid travel, nine in ten boards",
    )  # fmt: skip


def _list(values: object) -> list[float]:
    return [float(v) for v in np.asarray(values)]


def _late(fan: DutyFan, design: DutyDesign) -> str:
    if fan.lead is None or design.drive is not Drive.OPEN_DRAIN:
        return ""
    share = 100 * fan.lead.rise_delay_s * design.frequency_hz
    return f"The curve is over the duty that the fan sees; the lead has {share:.1f} % more, which its late edge takes."


def _facts(fan: DutyFan, design: DutyDesign) -> list[str]:
    sheet = fan.commanded.sheet
    lead = fan.lead
    facts = [
        f"driver sinks {q.show(fan.sink_a, q.CURRENT, 2)}" + ("" if lead else " at the usual 5 mA a fan"),
        f"nothing drives the pin: a {safe_pull(fan, design)} there makes full speed",
        f"lead broken off: {sheet.open_lead.value.replace('holds', 'slowest speed')}",
    ]
    if lead is not None and design.drive is Drive.OPEN_DRAIN:
        late = lead.rise_delay_s
        facts.insert(
            1,
            f"rising edge {q.plain(1e6 * late, 2)} µs late behind the pull-up: "
            f"{100 * late * design.frequency_hz:.1f} % of duty, made up for",
        )
    return facts


# ---------------------------------------------------------------- a map out of a file


class MapRead(BaseModel):
    """A map out of a file."""

    pairs: str
    """As they would be typed"""


@router.post("/commanded/import", openapi_extra=CSV_BODY)
async def read_map(job_id: JobId, request: Request) -> MapRead:
    """What a file says of the speeds over the duty, as it would be typed; nothing is kept."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_map, request.app.state.database, job_id, data)


def _map(db: Database, job_id: int, data: bytes) -> MapRead:
    jobs.get(db, job_id)
    return MapRead(pairs=map_from_csv(data).pairs or "")


# ---------------------------------------------------------------- captures of the lead


class LeadRead(CaptureRead[LeadShown]):
    """A capture of the control lead as it was read."""


class LeadKept(CaptureKept[LeadShown]):
    """A capture of the control lead that was kept."""


@router.get("/lead-captures", dependencies=[HEAVY])
def kept_lead_captures(job_id: JobId, db: Db, step: Step) -> list[LeadKept]:
    """What was captured of the lead at a step, newest first."""
    return [
        LeadKept(id=c.id, name=c.name, who=c.who, at=c.at, shown=codec.load(LeadShown, c.shown))
        for c in kept_at(db, job_id, step, PWM.key)
    ]


@router.post("/lead-captures", openapi_extra=CSV_BODY)
async def read_lead_capture(
    job_id: JobId,
    request: Request,
    sent: SentCapture,
) -> LeadRead:
    """Read a scope's CSV of the control lead; with ``take`` it is kept with the step, its values become readings."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_capture, request.app.state.database, job_id, data, sent)


@routing.tried_again
def _capture(db: Database, job_id: int, data: bytes, sent: CaptureAsked) -> LeadRead:
    state = load_state(db, job_id)
    found = read_channels(data, probe_factor(sent.probe))
    lead = 0
    if len(found.volts) > 1:
        lead = int(not faster_first(found.time_s, *found.volts)) ^ int(sent.swap)
    tach = found.volts[1 - lead] if len(found.volts) > 1 else None
    shown = show_lead(found.time_s, found.volts[lead], tach, state.commanded.pulses_per_rev)
    words = (
        "one channel: the lead"
        if tach is None
        else f"channel {lead + 1} is the lead, {2 - lead} the tachometer"
    )
    answer = LeadRead(shown=shown, understood=words)
    if sent.take:
        answer.kept, answer.not_kept = take_capture(
            db, job_id, shown.found, PWM.quantities, codec.dump(shown), sent
        )
    return answer


@router.get("/duty.h", response_class=Response, dependencies=[HEAVY])
def c_header(job_id: JobId, db: Db) -> Response:
    """The settings as a C header."""
    loaded = load(db, job_id)
    fan, design = _designed(loaded.state)
    steps = PWM.steps(fan, design, loaded.state.wanted_rpm, False)
    return download(
        header(fan, design, steps, loaded.fan.name).encode(), "fan_duty.h", "text/x-c; charset=utf-8"
    )


@router.get("/duty.csv", response_class=Response, dependencies=[HEAVY])
def step_table(job_id: JobId, db: Db) -> Response:
    """The settings as a step table."""
    state = load_state(db, job_id)
    fan, design = _designed(state)
    rows = table(PWM.steps(fan, design, state.wanted_rpm, False))
    return download(
        write_csv(HEADINGS, rows).replace(";", ",").encode(), "fan_duty.csv", "text/csv; charset=utf-8"
    )


def _designed(state: JobState) -> tuple[DutyFan, DutyDesign]:
    job = must_know(state)
    if not isinstance(job.subject, DutyFan) or not isinstance(job.design, DutyDesign):
        raise InputError("design", None, "a signal that is sized", "no duty on the control lead is chosen")
    if job.design.maker.drawn:
        raise InputError("design", job.design.maker.value, "a microcontroller", "a timer IC has no program")
    return job.subject, job.design
