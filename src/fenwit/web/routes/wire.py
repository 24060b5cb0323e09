"""Wire: the circuit with its table, hazards, lists and tests; ticks and readings of it; a call played through."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel

from fenwit.core import quantity as q
from fenwit.core.desk.typed import read_yes
from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.wire import duties_of
from fenwit.core.prove.plan import OPEN_ENDED
from fenwit.core.work import pause
from fenwit.report.picture import picture_svg
from fenwit.report.record import font_faces, pdf
from fenwit.report.wiresheet import (
    cables_csv,
    connections_csv,
    dead_csv,
    parts_csv,
    table_csv,
    wire_picture,
)
from fenwit.report.wiretags import tags_html, tags_of
from fenwit.store import history, jobs, readings, shelf
from fenwit.web import routing
from fenwit.web.fields import Db, JobId, Typed, Words
from fenwit.web.heavy import HEAVY
from fenwit.web.models import JobPage, Who
from fenwit.web.page import Loaded, changed, load, saving
from fenwit.web.settings import folder
from fenwit.web.uploads import download
from fenwit.web.wire.offers import OffersShown, offered
from fenwit.web.wire.page import said_row, wire_page
from fenwit.web.wire.pick import Pick, PickPage, have_key, pick_page, picked
from fenwit.web.wire.reads import Asked, asks, connection_key, newest_of, read_of, test_key
from fenwit.web.wire.shown import WirePage
from fenwit.web.wire.solved import Solved, circuit_of, solved

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


def _picks(db: Db, loaded: Loaded) -> tuple[Pick, ...]:
    wiring = solved(circuit_of(loaded.job.wiring)).wiring if loaded.job.wiring else None
    try:
        rows = frame(loaded.state).parts
    except InputError:
        rows = ()
    return picked(wiring, rows, shelf.every(db), loaded.aside)


@router.get("/parts", dependencies=[HEAVY])
def show_parts(job_id: JobId, db: Db) -> PickPage:
    """What it is built of, by drawer, and what is still to buy."""
    loaded = load(db, job_id)
    return pick_page(_picks(db, loaded), newest_of(loaded.readings))


@router.put("/parts/aside", dependencies=[HEAVY])
def put_all_aside(job_id: JobId, by: Who, db: Db) -> JobPage:
    """Put everything aside that lies on the shelf."""
    loaded = load(db, job_id)
    wanted: dict[int, int] = {}
    for pick in _picks(db, loaded):
        if pick.part is not None and pick.to_take:
            wanted[pick.part.id] = wanted.get(pick.part.id, 0) + pick.to_take
    if not wanted:
        raise InputError(
            "parts", 0, "parts that lie on the shelf", "nothing more of this job is on the shelf"
        )
    with db.transaction():
        jobs.touch(db, job_id)
        shelf.hold(db, list(wanted))
        held = {r.part_id: r for r in shelf.of_job(db, job_id)}
        changes = []
        for part_id, count in wanted.items():
            before = (held[part_id].reserved, held[part_id].used) if part_id in held else (0, 0)
            after = (before[0] + count, before[1])
            shelf.set_reservation(db, part_id, job_id, *after)
            changes.append(history.reservation_change(part_id, job_id, before, after))
        history.record(db, job_id, "all parts put aside", changes, by.who)
    return changed(db, job_id)


@router.post("/readings", status_code=201)
def take_wire_reading(job_id: JobId, new: WireReading, db: Db) -> JobPage:
    """Append what was done, seen or read of the circuit."""
    loaded = load(db, job_id)
    if not loaded.job.wiring:
        raise InputError("what", new.what, "a circuit first", "nothing is wired here yet")
    ask = asks(solved(circuit_of(loaded.job.wiring))).get(new.what) or next(
        (Asked(new.what, f"{p.words} at hand", None) for p in _picks(db, loaded) if have_key(p) == new.what),
        None,
    )
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


@router.get("/offers", dependencies=[HEAVY])
def show_offers(job_id: JobId, db: Db) -> OffersShown:
    """Points worth adding to the dead tests."""
    loaded = load(db, job_id)
    if not loaded.job.wiring:
        raise InputError("points", "", "a circuit first", "nothing is wired here yet")
    return offered(loaded.job.wiring)


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
    standing = [
        f for h, f in zip(found.table.hazards, found.flags, strict=False) if not h.passing and f.lines
    ]
    drawn = wire_picture(found.wiring, found.sheet, standing)
    return _file(loaded, "circuit.svg", picture_svg(drawn), "image/svg+xml")


@router.get("/circuit.json", response_class=Response, dependencies=[HEAVY])
def wire_circuit(job_id: JobId, db: Db) -> Response:
    """The circuit itself, as it is kept."""
    loaded, _ = _kept(db, job_id)
    return _file(loaded, "circuit.json", loaded.job.wiring, "application/json")


@router.get("/parts.csv", response_class=Response, dependencies=[HEAVY])
def wire_parts(job_id: JobId, db: Db) -> Response:
    """The pick list."""
    loaded = load(db, job_id)
    shown = pick_page(_picks(db, loaded), newest_of(loaded.readings))
    rows = [(x.names, x.words, x.count, x.place, x.aside, x.to_buy) for x in shown.lines]
    return _file(loaded, "parts.csv", parts_csv(rows), "text/csv")


def _tags(db: Db, job_id: int, address: str | None) -> tuple[str, dict[str, str]]:
    """The labels as a page, with the fonts it names."""
    loaded, found = _kept(db, job_id)
    page = wire_page(circuit_of(loaded.job.wiring), loaded.readings)
    rows = [
        (said_row(page, r), ", ".join(f"{x.part} {x.words}" for x in r.runs if x.on) or "all off")
        for r in page.rows
    ]
    tags = tags_of(loaded.fan.name, loaded.fan.place, job_id, found.wiring, found.work, rows)
    fonts = font_faces(folder("FENWIT_FRONTEND") / "assets", address)
    return tags_html(tags, fonts), fonts


@router.get("/labels.html", response_class=Response, dependencies=[HEAVY])
def wire_labels_page(job_id: JobId, db: Db) -> Response:
    """Labels for the box, the cables and the wires, as a page."""
    text, _ = _tags(db, job_id, "/assets")
    return download(text.encode(), f"labels-{job_id}.html", "text/html; charset=utf-8", inline=True)


@router.get("/labels.pdf", response_class=Response, dependencies=[HEAVY])
def wire_labels(job_id: JobId, db: Db) -> Response:
    """Labels for the box, the cables and the wires, as PDF."""
    text, fonts = _tags(db, job_id, None)
    pause()
    return download(pdf(text, fonts), f"fenwit-labels-{job_id}.pdf", "application/pdf", inline=True)


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
