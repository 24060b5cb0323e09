"""Phase angle: firing curve and waveforms, firing tables as files, the diac knob, and captures of a scope."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query, Request, Response
from pydantic import BaseModel, Field, model_validator
from starlette.concurrency import run_in_threadpool

from fenwit.core import CORE_VERSION
from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.phase_angle import PHASE_ANGLE
from fenwit.core.methods.phase_angle.design import Edge, PhaseDesign, Pulse
from fenwit.core.methods.phase_angle.knob import KnobShown, knob, usual
from fenwit.core.methods.phase_angle.view import PhaseShown, phase, table_of
from fenwit.core.prove.scope import CaptureShown, lay_over
from fenwit.core.regulator.diac import Taper
from fenwit.core.regulator.firing import MOST_STEPS, FiringTable, Spacing
from fenwit.report.dial import dial_picture
from fenwit.report.methods.firingfile import firing_csv, firing_header, table_notes
from fenwit.report.panels import panels_picture
from fenwit.report.picture import picture_svg
from fenwit.report.tracefile import probe_factor, read_trace
from fenwit.store import codec, jobs
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Typed, Version, Words
from fenwit.web.heavy import HEAVY
from fenwit.web.methods import older
from fenwit.web.methods.captured import (
    CaptureAsked,
    CaptureKept,
    CaptureRead,
    SentCapture,
    Step,
    kept_at,
    take_capture,
)
from fenwit.web.methods.phase_angle.edit import NetworkEdit, PhaseEdit, UnitEdit, read_network, read_unit
from fenwit.web.models import JobPage, NewDesign, Tried
from fenwit.web.page import load, load_state
from fenwit.web.routes.size import choose
from fenwit.web.tried import tried_state
from fenwit.web.uploads import CSV_BODY, body_of, download

router = routing.router("/api/jobs/{job_id}", "phase angle")
Text = Annotated[Typed, Query()]
_MAINS = (50.0, 60.0)


class Looked(Tried):
    """What the phase-angle view is asked for."""

    step: Annotated[int, Field(ge=1, le=8, strict=True)] = 1
    """Whose waveforms are shown"""


class Proposed(BaseModel):
    """A diac network from preferred values, and the angles its ends give."""

    least: str
    knob: str
    capacitor: str
    across: str
    text: str


class FiringRow(BaseModel):
    """A step of a firing table."""

    step: int
    firing_deg: float
    delay_us: float
    gate_us: float
    """Until the current has passed the latching current"""
    speed_rpm: float
    starts: bool


class FiringShown(BaseModel):
    """A firing table on screen."""

    rows: list[FiringRow]
    notes: list[str]
    """As they stand before the table in its files"""


class KeptCapture(CaptureKept[CaptureShown]):
    """A capture that was kept."""


class CaptureAnswer(CaptureRead[CaptureShown]):
    """A capture as it was read, and what of it can be or was kept."""


def _fan(state: JobState) -> MachineFan:
    """The fan behind a job's triac. Raises InputError where it is refused or not computed yet."""
    fan = PHASE_ANGLE.subject(state)
    if isinstance(fan, Refused):
        raise InputError("method", PHASE_ANGLE.key.value, "a fan that phase angle suits", fan.reason)
    if isinstance(fan, Lacking):
        raise InputError("method", PHASE_ANGLE.key.value, "a fan that is computed", "nothing is computed yet")
    return fan


def _control(state: JobState) -> PhaseDesign | None:
    """The job's control, where it is one."""
    return state.design if isinstance(state.design, PhaseDesign) else None


@router.post("/phase", dependencies=[HEAVY])
def show_phase(job_id: JobId, looked: Looked, db: Db) -> PhaseShown:
    """The firing curve, each step's firing angle and band, one step's waveforms, the parts around the triac."""
    state = tried_state(db, load_state(db, job_id), looked)
    return phase(_fan(state), _control(state), state.wanted_rpm, looked.step)


@router.get("/waves.svg", response_class=Response, dependencies=[HEAVY])
def waves(job_id: JobId, db: Db) -> Response:
    """Waveforms of every step of the chosen control, to print."""
    loaded = load(db, job_id)
    design, drawn = _control(loaded.state), []
    if design is not None:
        fan = _fan(loaded.state)
        steps = PHASE_ANGLE.steps(fan, design, loaded.state.wanted_rpm, False)
        drawn = [p for a in PHASE_ANGLE.annexes(fan, design, steps) for p in a.panels]
    if not drawn:
        raise NotFound("waveforms of job", job_id)
    svg = picture_svg(panels_picture(drawn, loaded.fan.name))
    return download(svg.encode(), f"fenwit-waves-{job_id}.svg", "image/svg+xml", inline=True)


class OlderControl(BaseModel):
    """A phase-angle control as edits of the last version send it, to an address of its own."""

    after_revision: Version
    who: Words = ""
    name: Words = ""
    design: PhaseEdit

    _older = model_validator(mode="before")(older.new_control)


@router.post("/controls", status_code=201, deprecated=True)
def choose_as_before(job_id: JobId, new: OlderControl, db: Db) -> JobPage:
    """Keep a control that waited in a browser since the last version."""
    kept = NewDesign(after_revision=new.after_revision, who=new.who, name=new.name, design=new.design)
    return choose(job_id, kept, db)


# ---------------------------------------------------------------- firing tables


class _Asked:
    """Which table is asked for; what is left out is as in the chosen control."""

    def __init__(
        self,
        spacing: Spacing = Spacing.SPEED,
        steps: Annotated[int, Query(ge=2, le=MOST_STEPS)] = 16,
        both: bool = False,
        kick: bool = True,
        edge: Edge = Edge.MIDDLE,
        pulse: Pulse = Pulse.SHORT,
        lag: Text = "",
        detector: Text = "",
        detector_output: Text = "",
        ctr_low: Text = "",
        ctr_high: Text = "",
        latching: Text = "",
    ) -> None:
        self.latching = latching
        self.spacing, self.steps, self.both, self.kick = spacing, steps, both, kick
        self.unit = UnitEdit(
            edge=edge,
            pulse=pulse,
            lag=lag,
            detector=detector,
            detector_output=detector_output,
            ctr_low=ctr_low,
            ctr_high=ctr_high,
        )


Asked = Annotated[_Asked, Depends()]


@router.get("/firing", dependencies=[HEAVY])
def show_firing(job_id: JobId, db: Db, asked: Asked) -> FiringShown:
    """The firing table on screen."""
    name, tables = _tables(db, job_id, asked)
    return FiringShown(
        rows=[
            FiringRow(
                step=r.step,
                firing_deg=r.firing_deg,
                delay_us=r.delay_us,
                gate_us=min(r.gate_us, 1e5),
                speed_rpm=r.speed_rpm,
                starts=r.starts,
            )
            for r in tables[0].rows
        ],
        notes=list(table_notes(tables, name, CORE_VERSION)),
    )


@router.get("/firing.csv", response_class=Response, dependencies=[HEAVY])
def firing_table_csv(job_id: JobId, db: Db, asked: Asked) -> Response:
    """The firing table as CSV; with ``both`` for 50 and 60 Hz."""
    name, tables = _tables(db, job_id, asked)
    data = firing_csv(tables, name, CORE_VERSION).encode()
    return download(data, f"fenwit-firing-{job_id}.csv", "text/csv; charset=utf-8")


@router.get("/firing.h", response_class=Response, dependencies=[HEAVY])
def firing_table_header(job_id: JobId, db: Db, asked: Asked) -> Response:
    """The firing table as a C header; with ``both`` for 50 and 60 Hz."""
    name, tables = _tables(db, job_id, asked)
    data = firing_header(tables, name, CORE_VERSION).encode()
    return download(data, f"fenwit-firing-{job_id}.h", "text/plain; charset=utf-8")


def _tables(db: Database, job_id: int, asked: _Asked) -> tuple[str, list[FiringTable]]:
    loaded = load(db, job_id)
    state = loaded.state
    wanted = _MAINS if asked.both else (state.supply_frequency_hz,)
    if asked.both and state.supply_frequency_hz not in _MAINS:
        raise InputError(
            "both",
            state.supply_frequency_hz,
            "a job on 50 or 60 Hz",
            "two tables make sense for the usual mains",
        )
    unit = read_unit(asked.unit)
    latching = q.parse("latching", asked.latching, q.CURRENT) if asked.latching else None
    fan, design = _fan(state), _control(state)
    return loaded.fan.name, [
        table_of(fan, design, asked.spacing, asked.steps, unit, asked.kick, hz, latching) for hz in wanted
    ]


# ---------------------------------------------------------------- the knob


def _network(
    least: Text = "3k3",
    knob: Text = "470k",
    capacitor: Text = "100n",
    breakover: Text = "32",
    breakback: Text = "10",
    across: Text = "",
    second_ohm: Text = "",
    second_f: Text = "",
    taper: Taper = Taper.LINEAR,
) -> NetworkEdit:
    """A network as typed, in bench notation."""
    return NetworkEdit(
        least=least,
        knob=knob,
        capacitor=capacitor,
        breakover=breakover,
        breakback=breakback,
        across=across.strip(),
        second_ohm=second_ohm.strip(),
        second_f=second_f.strip(),
        taper=taper,
    )


Network = Annotated[NetworkEdit, Depends(_network)]


@router.get("/knob", dependencies=[HEAVY])
def show_knob(job_id: JobId, db: Db, network: Network, kick: bool = False) -> KnobShown:
    """What a knob with a diac network does: speed over its turn both ways, snap-on, cures, tolerance, scale."""
    return knob(_fan(load_state(db, job_id)), read_network(network), kick)


@router.get("/knob-scale.svg", response_class=Response, dependencies=[HEAVY])
def knob_scale(job_id: JobId, db: Db, network: Network) -> Response:
    """The knob's scale in rpm, true to size, to print."""
    loaded = load(db, job_id)
    shown = knob(_fan(loaded.state), read_network(network), True)
    svg = picture_svg(dial_picture(shown.scale, loaded.fan.name))
    return download(svg.encode(), f"fenwit-knob-{job_id}.svg", "image/svg+xml", inline=True)


@router.get("/proposals", dependencies=[HEAVY])
def show_proposals(job_id: JobId, db: Db) -> list[Proposed]:
    """Resistors, knob and capacitor from preferred values, for a knob that reaches every wanted step."""
    state = load_state(db, job_id)
    found = usual(_fan(state), state.wanted_rpm)
    return [
        Proposed(
            least=q.show(p.network.least_ohm, q.RESISTANCE),
            knob=q.show(p.network.knob_ohm, q.RESISTANCE),
            capacitor=q.show(p.network.capacitance_f, q.CAPACITANCE),
            across="" if p.network.across_ohm is None else q.show(p.network.across_ohm, q.RESISTANCE),
            text=f"{p.fast_deg:.0f}° to {p.slow_deg:.0f}°",
        )
        for p in found
    ]


# ---------------------------------------------------------------- captures


@router.get("/captures", dependencies=[HEAVY])
def kept_captures(job_id: JobId, db: Db, step: Step) -> list[KeptCapture]:
    """What was captured at a step of the design that stands, newest first."""
    return [
        KeptCapture(id=c.id, name=c.name, who=c.who, at=c.at, shown=codec.load(CaptureShown, c.shown))
        for c in kept_at(db, job_id, step, PHASE_ANGLE.key)
    ]


@router.post("/captures", openapi_extra=CSV_BODY)
async def lay_capture_over(
    job_id: JobId,
    request: Request,
    sent: SentCapture,
) -> CaptureAnswer:
    """Read a scope's CSV; with ``take`` it is kept with the step, and its values become readings."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_capture, request.app.state.database, job_id, data, sent)


@routing.tried_again
def _capture(db: Database, job_id: int, data: bytes, sent: CaptureAsked) -> CaptureAnswer:
    jobs.get(db, job_id)
    trace = read_trace(data, probe_factor(sent.probe), sent.swap)
    shown = lay_over(trace.time_s, trace.motor_v, trace.supply_v)
    answer = CaptureAnswer(shown=shown, understood=trace.words)
    if sent.take:
        answer.kept, answer.not_kept = take_capture(
            db, job_id, shown.found, PHASE_ANGLE.quantities, codec.dump(shown), sent
        )
    return answer
