"""Hold: the loop over a move of the damper, the thermal curve over its load, step tests, logs of a sink, the program."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from fastapi import Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from fenwit.core.desk.typed import SHARE, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.hold import hold_shown
from fenwit.core.frame.hold.loop import at_full_speed
from fenwit.core.frame.hold.program import header
from fenwit.core.frame.hold.shown import HoldShown
from fenwit.core.job.hold import Holds
from fenwit.core.regulator.heat_log import HeatLog, sink_fit
from fenwit.core.regulator.loop import Held, tuned
from fenwit.core.regulator.thermal import FLOW_EXPONENT
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Typed
from fenwit.web.heavy import HEAVY
from fenwit.web.hold import HoldEdit, Lines, columns_of, profile_from_csv, read_hold, typed_hold
from fenwit.web.page import load, load_state
from fenwit.web.uploads import CSV_BODY, body_of, download

router = routing.router("/api/jobs/{job_id}", "hold")


class HoldPage(BaseModel):
    """What the fan holds as it stands in its inputs, and all that is computed of it."""

    typed: HoldEdit
    shown: HoldShown


@router.get("/hold", dependencies=[HEAVY])
def show_hold(job_id: JobId, db: Db) -> HoldPage:
    """What is held, as it is stored."""
    state = load_state(db, job_id)
    return HoldPage(typed=typed_hold(state.hold), shown=hold_shown(state))


@router.post("/hold", dependencies=[HEAVY])
def try_hold(job_id: JobId, edit: HoldEdit, db: Db) -> HoldPage:
    """The same as it would be with other settings; nothing is kept."""
    state = load_state(db, job_id)
    sheet = read_hold(state.hold, edit)
    return HoldPage(typed=typed_hold(sheet), shown=hold_shown(replace(state, hold=sheet)))


# ---------------------------------------------------------------- a step test


class StepTest(BaseModel):
    """A step of the command and what the sensor said, typed or out of a file."""

    rows: Lines
    """One sample a line: seconds and what the sensor said"""
    step: Typed = "10 %"
    """By how much the command was moved"""


class StepRead(BaseModel):
    """What a step test tells."""

    gain: str
    integral: str
    words: str


@router.post("/hold/step-test", dependencies=[HEAVY])
def read_step_test(job_id: JobId, test: StepTest, db: Db) -> StepRead:
    """Gain and integral time out of a step test of this fan; nothing is kept."""
    state = load_state(db, job_id)
    job = must_know(state)
    sheet = state.hold.loop
    if job.air.fans is None or sheet.held is Held.SPEED:
        raise InputError(
            "rows", "", "flow or pressure that is held, with curve and system", "nothing closes this loop"
        )
    fans = at_full_speed(job.air)
    flows = sheet.held is Held.FLOW
    span = fans.free_m3_s() if flows else float(fans.fan_pa(np.zeros(1))[0])
    unit = UNITS["m3_h"] if flows else UNITS["pa"]
    times, values = [], []
    for i, row in enumerate((r for r in test.rows.splitlines() if r.strip()), start=1):
        parts = row.replace(";", " ").replace(",", " ").split()
        if len(parts) != 2:
            raise InputError(
                "rows", row[:60], "seconds and reading on each line", f"line {i}: two numbers are wanted"
            )
        try:
            times.append(read_number("rows", parts[0], UNITS["s"]).value)
            values.append(read_number("rows", parts[1], unit).value / (3600 if flows else 1))
        except InputError as error:
            raise InputError("rows", row[:60], error.allowed, f"line {i}: {error.reason}") from None
    moved = read_number("step", test.step, SHARE).value
    try:
        found = tuned(np.array(times), np.array(values), span, moved)
    except InputError as error:
        field = "step" if error.field == "command_step" else "rows"
        raise InputError(field, error.value, error.allowed, error.reason) from None
    words = f"gain {found.process_gain:.2f}, lag {found.time_s:.1f} s, delay {found.delay_s:.1f} s"
    return StepRead(gain=f"{found.gain_kp:.3g}", integral=f"{found.integral_s:.3g} s", words=words)


class RowsRead(BaseModel):
    """Rows out of a file, as they would be typed."""

    rows: str


@router.post("/hold/step-test/import", openapi_extra=CSV_BODY)
async def read_step_file(job_id: JobId, request: Request) -> RowsRead:
    """A step test out of a file, time and reading, as it would be typed; nothing is kept."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_step_rows, request.app.state.database, job_id, data)


def _step_rows(db: Database, job_id: int, data: bytes) -> RowsRead:
    flows = load_state(db, job_id).hold.loop.held is Held.FLOW
    unit = UNITS["m3_h"] if flows else UNITS["pa"]
    found = columns_of(
        data, {"time": (("time",), UNITS["s"]), "value": (("flow", "pressure", "value"), unit)}
    )
    pairs = zip(found["time"], found["value"], strict=True)
    return RowsRead(rows="\n".join(f"{t:.6g} {v:.6g}" for t, v in pairs))


# ---------------------------------------------------------------- heat


@router.post("/hold/load/import", openapi_extra=CSV_BODY)
async def read_load(job_id: JobId, request: Request) -> RowsRead:
    """A load out of a file, time and power, as it would be typed; nothing is kept."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_load_rows, request.app.state.database, job_id, data)


def _load_rows(db: Database, job_id: int, data: bytes) -> RowsRead:
    load_state(db, job_id)
    return RowsRead(rows=profile_from_csv(data))


class SinkRead(BaseModel):
    """A heat sink out of its log, as it would be typed."""

    natural: str
    forced: str
    capacity: str
    words: str
    doubts: list[str]


@router.post("/hold/sink/import", openapi_extra=CSV_BODY)
async def read_sink(
    job_id: JobId,
    request: Request,
    ambient: Annotated[Typed, Query(description="air that came in")] = "25 °C",
) -> SinkRead:
    """A heat sink out of a logged warm-up and cool-down; nothing is kept."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_sink, request.app.state.database, job_id, data, ambient)


def _sink(db: Database, job_id: int, data: bytes, ambient: str) -> SinkRead:
    state = load_state(db, job_id)
    around = read_number("ambient", ambient, UNITS["c"]).value
    found = columns_of(
        data,
        {
            "time": (("time",), UNITS["s"]), "sink": (("sink", "temperature"), UNITS["c"]),
            "speed": (("speed",), SHARE), "power": (("power", "load"), UNITS["w"]),
        },
    )  # fmt: skip
    exponent = state.hold.heat.sinks[0].sink.flow_exponent if state.hold.heat.sinks else FLOW_EXPONENT
    time_s, sink_c, speed, power_w = (np.array(found[k]) for k in ("time", "sink", "speed", "power"))
    try:
        fit = sink_fit(HeatLog(time_s, sink_c, speed, power_w, around), exponent)
    except InputError as error:
        raise InputError("file", error.value, error.allowed, error.reason) from None
    halves = [100 * b.half_width / ((b.low + b.high) / 2) for b in fit.bands]
    words = (
        f"within {halves[0]:.1f}, {halves[1]:.1f} and {halves[2]:.1f} % nine times in ten; "
        f"{fit.misfit_k:.2f} K are left over"
    )
    stretch = {"off": "with the fan off", "on": "with the fan on"}
    return SinkRead(
        natural=f"{fit.natural_k_w:.4g} K/W", forced=f"{fit.forced_k_w:.4g} K/W", capacity=f"{fit.capacity_j_k:.4g} J/K",
        words=words, doubts=[f"the stretch {stretch[s]} is shorter than one time constant" for s in fit.short],
    )  # fmt: skip


@router.get("/curve.h", response_class=Response, dependencies=[HEAVY])
def curve_header(job_id: JobId, db: Db) -> Response:
    """The thermal curve as a C header."""
    loaded = load(db, job_id)
    state = loaded.state
    if state.hold.holds is not Holds.HEAT:
        raise InputError("hold", state.hold.holds.value, "heat", "no thermal curve is set")
    _ = hold_shown(state)
    text = header(must_know(state), state.hold.heat, loaded.fan.name)
    return download(text.encode(), "fan_curve.h", "text/x-c; charset=utf-8")


@router.get("/curve.csv", response_class=Response, dependencies=[HEAVY])
def curve_table(job_id: JobId, db: Db) -> Response:
    """The thermal curve as a table."""
    from fenwit.report.csvfiles import write_csv

    state = load_state(db, job_id)
    shown = hold_shown(state).heat
    if shown is None:
        raise InputError("hold", state.hold.holds.value, "heat", "no thermal curve is set")
    head = ("temperature (°C)", "speed (%)", f"command ({shown.command_heading})")
    return download(
        write_csv(head, [(r.temperature, r.speed, r.command) for r in shown.table]).encode(),
        "fan_curve.csv",
        "text/csv; charset=utf-8",
    )
