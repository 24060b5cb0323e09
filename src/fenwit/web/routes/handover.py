"""Hand over: the signature, the report and its files, readings as CSV, and whole jobs out and in."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import Query, Request, Response
from starlette.concurrency import run_in_threadpool

from fenwit.core import CORE_VERSION
from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.spice import step_netted
from fenwit.core.job.findings import FRAME_OHM, LEAD_OHM, SECTION_ESR, SECTION_F
from fenwit.core.work import pause
from fenwit.report.bundle import read_bundle, write_bundle
from fenwit.report.csvfiles import Sheet as CsvSheet
from fenwit.report.csvfiles import read_csv, with_unit, write_csv
from fenwit.report.picture import picture_svg
from fenwit.report.record import Record, Sheet, font_faces, page_html, pdf, write_record
from fenwit.report.spice import netlist
from fenwit.store import handovers, history
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web import routing
from fenwit.web.days import read_day
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.models import ImportPreview, ImportRow, JobPage, NewHandover, NewReading
from fenwit.web.page import changed, load, page_of, run_state, saving
from fenwit.web.page.asked import MEASURED, PROVED
from fenwit.web.problems import Gated
from fenwit.web.record import add_bundle, bundle_of, record_of, schematic_of, signed_record
from fenwit.web.settings import folder
from fenwit.web.taking import Taken, Weighed, weigh, write
from fenwit.web.uploads import CSV_BODY, JSON_BODY, body_of, download

Signature = Annotated[int | None, Query(ge=1, le=2**53)]

router = routing.router("/api", "hand over")


@router.post("/jobs/{job_id}/handovers", status_code=201, dependencies=[HEAVY])
def sign(job_id: JobId, new: NewHandover, db: Db) -> JobPage:
    """Sign a job: the report is kept as it stands, with the core's version."""
    if not new.who:
        raise InputError("who", "", "a name", "say who hands this over")
    recheck = read_day("recheck_on", new.recheck_on or "", datetime.now(UTC).date())
    loaded = load(db, job_id)
    page = page_of(db, loaded)
    if page.frame is None or page.design is None:
        raise InputError(
            "who", new.who, "a job with a chosen regulator", "there is no regulator to hand over yet"
        )
    refused = next((p for p in page.frame.parts if p.refusal), None)
    if refused:
        raise InputError("who", new.who, "parts that bear it", f"{refused.role}: {refused.refusal}")
    record = write_record(record_of(loaded, page))
    with saving(db, loaded):
        handovers.add(
            db,
            job_id,
            design_id=page.design.id,
            who=new.who,
            note=new.note,
            recheck_on=recheck,
            core_version=CORE_VERSION,
            record=record,
        )
    return changed(db, job_id)


def _record(db: Database, job_id: int, signed: int | None) -> Record:
    loaded = load(db, job_id)
    if signed is None:
        return record_of(loaded, page_of(db, loaded))
    found = next((h for h in loaded.handovers if h.id == signed), None)
    if found is None:
        raise NotFound("signature", signed)
    return signed_record(found)


def _fonts(address: str | None = None) -> dict[str, str]:
    return font_faces(folder("FENWIT_FRONTEND") / "assets", address)


def _pdf(sheet: Sheet, record: Record) -> bytes:
    fonts = _fonts()
    page = page_html(sheet, record, fonts)
    pause()
    return pdf(page, fonts)


@router.get("/jobs/{job_id}/report.html", response_class=Response, dependencies=[HEAVY])
def report_page(job_id: JobId, db: Db, signed: Signature = None) -> Response:
    """The report as a printable page; with ``signed`` as it stood under that signature."""
    text = page_html(Sheet.REPORT, _record(db, job_id, signed), _fonts("/assets"))
    return download(text.encode(), f"job-{job_id}.html", "text/html; charset=utf-8", inline=True)


@router.get("/jobs/{job_id}/report.pdf", response_class=Response, dependencies=[HEAVY])
def report_pdf(job_id: JobId, db: Db, signed: Signature = None) -> Response:
    """The report as PDF."""
    data = _pdf(Sheet.REPORT, _record(db, job_id, signed))
    return download(data, f"fenwit-job-{job_id}.pdf", "application/pdf", inline=True)


@router.get("/jobs/{job_id}/label.html", response_class=Response, dependencies=[HEAVY])
def label_page(job_id: JobId, db: Db) -> Response:
    """The step label as a page."""
    text = page_html(Sheet.LABEL, _record(db, job_id, None), _fonts("/assets"))
    return download(text.encode(), f"label-{job_id}.html", "text/html; charset=utf-8", inline=True)


@router.get("/jobs/{job_id}/label.pdf", response_class=Response, dependencies=[HEAVY])
def label_pdf(job_id: JobId, db: Db) -> Response:
    """The step label as PDF, 100 × 74 mm."""
    data = _pdf(Sheet.LABEL, _record(db, job_id, None))
    return download(data, f"fenwit-label-{job_id}.pdf", "application/pdf", inline=True)


@router.get("/jobs/{job_id}/schematic.svg", response_class=Response)
def schematic(job_id: JobId, db: Db) -> Response:
    """The schematic of the chosen regulator."""
    loaded = load(db, job_id)
    drawing = schematic_of(loaded.state, frame(loaded.state), loaded.fan.name)
    if drawing is None:
        raise NotFound("schematic of job", job_id)
    return download(
        picture_svg(drawing).encode(), f"fenwit-schematic-{job_id}.svg", "image/svg+xml", inline=True
    )


@router.get("/jobs/{job_id}/step.cir", response_class=Response, dependencies=[HEAVY])
def step_netlist(job_id: JobId, db: Db, step: Annotated[int, Query(ge=1, le=20)] = 1) -> Response:
    """One step of the chosen regulator as a SPICE netlist that reproduces it."""
    text = netlist(step_netted(load(db, job_id).state, step))
    return download(text.encode(), f"fenwit-job-{job_id}-step-{step}.cir", "text/plain; charset=utf-8")


# ---------------------------------------------------------------- whole jobs


@router.get("/jobs/{job_id}/bundle.json", response_class=Response, dependencies=[HEAVY])
def export_job(job_id: JobId, db: Db) -> Response:
    """The whole job as one document."""
    with db.transaction():
        data = write_bundle(bundle_of(db, load(db, job_id)))
    return download(data, f"fenwit-job-{job_id}.json", "application/json")


@router.post("/jobs/import", status_code=201, openapi_extra=JSON_BODY, dependencies=[HEAVY])
async def import_job(request: Request) -> JobPage:
    """Take a whole job in from a document; all of it or nothing."""
    data = await body_of(request, "application/json")
    return await run_in_threadpool(_import_job, request.app.state.database, data)


def _import_job(db: Database, data: bytes) -> JobPage:
    bundle = read_bundle(data)
    # Every reading of it is computed before anything stays: what nobody can open is not taken in.
    with db.transaction():
        job_id = add_bundle(db, bundle)
        page_of(db, load(db, job_id))
    return changed(db, job_id)


# ---------------------------------------------------------------- readings as CSV

_HEADINGS = (
    "step",
    "quantity",
    "value",
    "unit",
    "typed",
    "who",
    "taken at",
    "revision",
    "stands",
    "run",
    "aside",
)
_UNITS = {a.field: a.dimension.unit for a in MEASURED} | {
    n: what.dimension.unit for n, what in PROVED.items()
}
_SHEET_UNITS = {LEAD_OHM: "Ω", FRAME_OHM: "Ω", SECTION_F: "F", SECTION_ESR: "Ω"}
_NAMES = {a.label: a.field for a in MEASURED} | {
    "speed": "speed_rpm",
    "motor volts": "motor_voltage_v",
    "line current": "line_current_a",
}


@router.get("/jobs/{job_id}/readings.csv", response_class=Response, dependencies=[HEAVY])
def export_readings(job_id: JobId, db: Db) -> Response:
    """Every reading of a job, superseded ones included."""
    loaded = load(db, job_id)
    gone = {r.supersedes for r in loaded.readings}
    label = {run.id: run_state(run, []).label for run in loaded.runs}
    rows = [
        (
            "" if r.step is None else str(r.step),
            r.quantity,
            "" if r.value is None else repr(r.value),
            _UNITS.get(r.quantity) or _SHEET_UNITS.get(r.quantity.partition(":")[0], ""),
            r.typed,
            r.who,
            r.taken_at.isoformat(),
            "" if r.design_id is None else str(r.design_id),
            "no" if r.id in gone or r.value is None else "yes",
            "" if r.run_id is None else label[r.run_id],
            "yes" if r.aside else "",
        )
        for r in loaded.readings
    ]
    return download(
        write_csv(_HEADINGS, rows).encode(), f"fenwit-readings-{job_id}.csv", "text/csv; charset=utf-8"
    )


@router.post("/jobs/{job_id}/readings/import", openapi_extra=CSV_BODY, dependencies=[HEAVY])
async def import_readings(job_id: JobId, request: Request, take: bool = False) -> ImportPreview:
    """What a CSV of readings would add; with ``take`` its good rows are added."""
    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_import_readings, request.app.state.database, job_id, data, take)


@routing.tried_again
def _import_readings(db: Database, job_id: int, data: bytes, take: bool) -> ImportPreview:
    """Every row is looked at on its own, the job is computed once with all of them; nothing is held meanwhile."""
    wanted = _wanted(read_csv(data))
    loaded = load(db, job_id)
    weighed = iter(
        weigh(db, loaded, [(new, at) for _, new, at in wanted if not isinstance(new, str)], follow=True)
    )
    rows: list[ImportRow] = []
    good: list[Taken] = []
    people: set[str] = set()
    for line, new, _ in wanted:
        if isinstance(new, str):
            rows.append(ImportRow(line=line, text="", problem=new))
            continue
        text = f"{f'step {new.step}, ' if new.step else ''}{new.quantity}: {new.text}"
        found = next(weighed)
        if isinstance(found, Taken):
            good.append(found)
            people.add(new.who)
        rows.append(ImportRow(line=line, text=text, problem=_why_not(found)))
    if take:
        if not good:
            raise InputError("file", len(rows), "at least one good row", "no row of this file can be taken")
        with saving(db, loaded):
            changes = write(db, good)
            history.record(
                db, job_id, f"{len(changes)} readings from a file", changes, ", ".join(sorted(people))[:120]
            )
        changed(db, job_id)
    return ImportPreview(rows=rows, good=len(good), bad=len(rows) - len(good), done=take)


def _why_not(found: Weighed) -> str:
    if isinstance(found, Gated):
        return f"confirm first: {found.text}"
    return found.reason if isinstance(found, InputError) else ""


_Wanted = list[tuple[int, NewReading | str, datetime | None]]


def _wanted(sheet: CsvSheet) -> _Wanted:
    """Rows as readings: one for each row with quantity and value, or one for each filled cell of a wide sheet."""
    names = [h.name for h in sheet.headings]
    long = "quantity" in names and "value" in names
    known = set(_NAMES) | set(_UNITS)
    if not long and not any(n in known or n.replace(" ", "_") in known for n in names):
        raise InputError(
            "file",
            "; ".join(names)[:60],
            "step; speed (rpm); motor volts (V), or step; quantity; value; unit",
            "no column of this file names a reading",
        )
    found: _Wanted = []
    for i, row in enumerate(sheet.rows):
        cells = dict(zip(names, row, strict=True))
        line = sheet.first_line + i
        if cells.get("stands") == "no":
            continue
        try:
            step = _step(cells.get("step", ""))
            at = _moment(cells.get("taken at", ""))
            who = cells.get("who", "")
            if cells.get("run") or cells.get("aside"):
                raise InputError(
                    "run",
                    cells.get("run") or "set aside",
                    "readings at full speed or at a step",
                    "taken in a run, or set aside: enter it in Measure",
                )
            if long:
                unit = cells.get("unit", "")
                found.append(
                    (line, _reading(cells["quantity"], with_unit(cells["value"], unit), step, who), at)
                )
                continue
            for heading, text in zip(sheet.headings, row, strict=True):
                if text and (heading.name in known or heading.name.replace(" ", "_") in known):
                    found.append((line, _reading(heading.name, with_unit(text, heading.unit), step, who), at))
        except (InputError, ValueError) as error:
            reason = f"{error.field}: {error.reason}" if isinstance(error, InputError) else str(error)[:160]
            found.append((line, reason, None))
    return found


def _reading(name: str, text: str, step: int | None, who: str) -> NewReading:
    quantity = _NAMES.get(name.lower(), name.lower().replace(" ", "_"))
    if quantity not in _UNITS:
        raise InputError("quantity", name, ", ".join(_NAMES), "no such reading")
    if not text.strip():
        raise InputError("value", text, "a value", "the value is missing")
    # A decimal comma in a cell of its own cannot be a thousands separator.
    tidy = text.strip()
    if tidy.count(",") == 1 and "." not in tidy:
        tidy = tidy.replace(",", ".")
    return NewReading(quantity=quantity, text=tidy[:40], who=who, step=step)


def _step(text: str) -> int | None:
    if not text:
        return None
    if not text.isdecimal() or not 1 <= int(text[:4]) <= 8:
        raise InputError("step", text, "1 to 8, or empty for full speed", "no such step")
    return int(text)


def _moment(text: str) -> datetime | None:
    if not text:
        return None
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise InputError("taken at", text, "like 2026-11-25T14:30+00:00", "no such time") from None
    return at if at.tzinfo else at.astimezone()
