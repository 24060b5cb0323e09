"""Wire: the circuit with its table, hazards, lists and tests; ticks and readings of it; a call played through."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel

from fenwit.core import quantity as q
from fenwit.core.desk.typed import read_yes
from fenwit.core.errors import InputError
from fenwit.core.frame.wire import duties_of
from fenwit.core.prove.plan import OPEN_ENDED
from fenwit.report.picture import picture_svg
from fenwit.report.wiresheet import cables_csv, connections_csv, dead_csv, table_csv, wire_picture
from fenwit.store import history, readings
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Typed, Words
from fenwit.web.heavy import HEAVY
from fenwit.web.models import JobPage
from fenwit.web.page import Loaded, changed, load, saving
from fenwit.web.uploads import download
from fenwit.web.wire import (
    Solved,
    WirePage,
    asks,
    circuit_of,
    connection_key,
    newest_of,
    read_of,
    solved,
    test_key,
    wire_page,
)

router = routing.router("/api/jobs/{job_id}/wire", "wire")


@router.get("", dependencies=[HEAVY])
def show_wire(job_id: JobId, db: Db) -> WirePage:
    """How it is wired, and all that follows from it."""
    loaded = load(db, job_id)
    return wire_page(circuit_of(loaded.job.wiring), loaded.readings, duties_of(loaded.usable))


ANY_OHMS = replace(q.RESISTANCE, low=0.0)
"""A bond reads nothing at all"""


class WireReading(BaseModel):
    """A tick, what was seen, or ohms as typed; an empty text takes back the one it supersedes."""

    what: Typed
    text: Typed
    supersedes: int | None = None
    who: Words = ""


@router.post("/readings", status_code=201)
def take_wire_reading(job_id: JobId, new: WireReading, db: Db) -> JobPage:
    """Append what was done, seen or read of the circuit."""
    loaded = load(db, job_id)
    if not loaded.job.wiring:
        raise InputError("what", new.what, "a circuit first", "nothing is wired here yet")
    ask = asks(solved(circuit_of(loaded.job.wiring))).get(new.what)
    if ask is None:
        raise InputError(
            "what", new.what, "something of the circuit as it is now", "the circuit was changed meanwhile"
        )
    before = readings.get(db, new.supersedes) if new.supersedes is not None else None
    if new.supersedes is not None and (
        before is None or before.job_id != job_id or before.quantity != new.what
    ):
        raise InputError("supersedes", new.supersedes, "the reading before", "it corrects another reading")
    value: float | None = None
    expected: tuple[float, float] | None = None
    text = new.text.strip()
    if text or new.supersedes is None:
        if ask.ohms is None:
            value = 1.0 if read_yes("text", new.text) else 0.0
        elif text.lower() in ("open", "ol", "o.l.", "∞", "over"):
            value = OPEN_ENDED
        else:
            value = q.parse("text", new.text, ANY_OHMS)
        if ask.ohms is not None and ask.ohms.low is not None and ask.ohms.high is not None:
            expected = (ask.ohms.low, ask.ohms.high)
    with saving(db, loaded):
        reading = readings.add(
            db, fan_id=loaded.fan.id, job_id=job_id, quantity=new.what, value=value, typed=new.text[:40], who=new.who,
            expected=expected, supersedes=new.supersedes,
        )  # fmt: skip
        history.record(db, job_id, ask.words, [history.reading_change(before, reading)], new.who)
    return changed(db, job_id)


class Moment(BaseModel):
    """One state on the way from a row to the next."""

    closed: list[str]
    alive: list[str]
    hot: list[str]
    on: list[str]
    for_s: float


@router.get("/way", dependencies=[HEAVY])
def show_way(
    job_id: JobId,
    db: Db,
    start: Annotated[int, Query(ge=0, le=5000)],
    end: Annotated[int, Query(ge=0, le=5000)],
) -> list[Moment]:
    """A call played through: one contact at a time from where one row rests to where the other does."""
    loaded = load(db, job_id)
    if not loaded.job.wiring:
        raise InputError("start", start, "a circuit first", "nothing is wired here yet")
    found = solved(circuit_of(loaded.job.wiring))
    walked = found.table.walked
    for field, row in (("start", start), ("end", end)):
        if row >= len(walked.rows):
            raise InputError(field, row, f"0 to {len(walked.rows) - 1}", "no such row")
    moments = []
    for micro, wait in walked.way(start, end):
        live = walked.live(micro)
        names = live.base.pair_names
        on = [p.id for p in found.wiring.parts if live.works(p)]
        moments.append(
            Moment(
                closed=[f"{a}|{b}" for i, (a, b) in enumerate(names) if live.closed >> i & 1],
                alive=[n for n, joined in found.wiring.nets if joined and live.hot(joined[0])],
                hot=[n for n, j in found.wiring.nets if j and any(r.role == "line" for r in live.on(j[0]))],
                on=on, for_s=wait,
            )
        )  # fmt: skip
    return moments


# ---------------------------------------------------------------- on paper and in files


def _kept(db: Db, job_id: int) -> tuple[Loaded, Solved]:
    loaded = load(db, job_id)
    if not loaded.job.wiring:
        raise InputError("circuit", "", "a circuit first", "nothing is wired here yet")
    return loaded, solved(circuit_of(loaded.job.wiring))


def _file(loaded: Loaded, name: str, text: str, kind: str) -> Response:
    return download(text.encode(), f"{loaded.fan.name} {name}", kind)


@router.get("/drawing.svg", response_class=Response, dependencies=[HEAVY])
def wire_drawing(job_id: JobId, db: Db) -> Response:
    """The circuit as drawn."""
    loaded, found = _kept(db, job_id)
    return _file(loaded, "circuit.svg", picture_svg(wire_picture(found.wiring, found.sheet)), "image/svg+xml")


@router.get("/circuit.json", response_class=Response, dependencies=[HEAVY])
def wire_circuit(job_id: JobId, db: Db) -> Response:
    """The circuit itself, as it is kept."""
    loaded, _ = _kept(db, job_id)
    return _file(loaded, "circuit.json", loaded.job.wiring, "application/json")


@router.get("/truth-table.csv", response_class=Response, dependencies=[HEAVY])
def wire_table(job_id: JobId, db: Db) -> Response:
    """What every call and position does."""
    loaded, found = _kept(db, job_id)
    return _file(loaded, "truth table.csv", table_csv(found.table), "text/csv")


@router.get("/connections.csv", response_class=Response, dependencies=[HEAVY])
def wire_connections(job_id: JobId, db: Db) -> Response:
    """Every wire in the order of the work, with who laid it."""
    loaded, found = _kept(db, job_id)
    newest = newest_of(loaded.readings)
    done = {c.number: read_of(connection_key(c), newest, None).told for c in found.work.connections}
    return _file(loaded, "connections.csv", connections_csv(found.work, done), "text/csv")


@router.get("/cables.csv", response_class=Response, dependencies=[HEAVY])
def wire_cables(job_id: JobId, db: Db) -> Response:
    """The cable schedule, a row for every core."""
    loaded, found = _kept(db, job_id)
    return _file(loaded, "cables.csv", cables_csv(found.work), "text/csv")


@router.get("/dead-tests.csv", response_class=Response, dependencies=[HEAVY])
def wire_dead(job_id: JobId, db: Db) -> Response:
    """Ohms to expect, and what was read of them."""
    loaded, found = _kept(db, job_id)
    newest = newest_of(loaded.readings)
    read = {i: read_of(test_key(t), newest, t.expected).text for i, t in enumerate(found.tests)}
    return _file(loaded, "dead tests.csv", dead_csv(found.tests, read), "text/csv")
