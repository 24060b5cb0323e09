"""A job page as the report that is printed and signed, and as the bundle that goes to another Fenwit."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from fenwit.core import CORE_VERSION
from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.calibrate.datum import Warmth
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState
from fenwit.core.frame.air import air_lines, air_shown
from fenwit.core.frame.asked import Asked, known
from fenwit.core.frame.capacitors import capacitors
from fenwit.core.frame.hold import hold_lines, hold_shown
from fenwit.core.frame.identify import identify
from fenwit.core.job.findings import windings
from fenwit.core.job.hold import Holds
from fenwit.core.job.machine import MachineRunning
from fenwit.core.job.steps import LINE_CURRENT, MOTOR_VOLTS, SPEED, Step, shown, shown_amps
from fenwit.core.methods.seam import PartRow
from fenwit.core.motor.kinds import KINDS
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.plan import LineState
from fenwit.core.prove.verdict import Verdict
from fenwit.report.bundle import (
    FORMAT,
    Bundle,
    BundleAnswer,
    BundleCapture,
    BundleConfirmation,
    BundleDesign,
    BundleFan,
    BundleHandover,
    BundleJob,
    BundleReading,
    BundleRun,
)
from fenwit.report.dial import dial_picture
from fenwit.report.methods.older_records import stored_record
from fenwit.report.panels import panels_picture
from fenwit.report.picture import MOST_SHAPES, Picture, on_paper
from fenwit.report.record import (
    MOST_READINGS,
    AnnexSheet,
    CautionLine,
    Fact,
    PartLine,
    ReadingLine,
    Record,
    RuleLine,
    Signature,
    StepLine,
    write_record,
)
from fenwit.report.schematic import schematic_picture
from fenwit.report.wiresheet import wire_picture
from fenwit.store import bundles, captures, designs, readings
from fenwit.store.database import Database
from fenwit.store.handovers import Handover
from fenwit.store.readings import Reading
from fenwit.web.models import Confirmed, JobPage
from fenwit.web.page import Loaded, run_state
from fenwit.web.page.asked import MEASURED, PROVED, RUN_ONLY, said_reading, sheet_asked
from fenwit.web.plan import ask_text, plan_lines, plan_shown
from fenwit.web.wire.page import said_row, wire_page
from fenwit.web.wire.solved import circuit_of, solved


def said_at(at: datetime) -> str:
    """A time on paper."""
    return f"{at.astimezone(UTC):%-d %b %Y, %H:%M} UTC"


def schematic_of(state: JobState, computed: Frame, name: str) -> Picture | None:
    """The schematic of a job's regulator; None while there is none."""
    job = known(state)
    if job is None or job.design is None:
        return None
    labels = {}
    for part in computed.parts:
        value = part.bench.replace("u", "µ")
        for symbol in part.pieces or (part.name,):
            labels[symbol] = f"{symbol} {value}".strip()
    direct = state.kind is not None and KINDS[state.kind].dc
    supply = f"{'+' if direct else 'L'}  {q.show(state.supply_voltage_v, q.VOLTAGE)}"
    drawing = job.regulation.built(job.subject, job.design).drawing
    return schematic_picture(drawing, labels, supply, f"Schematic of the regulator for {name}")


def record_of(loaded: Loaded, page: JobPage) -> Record:
    """The report of a job as it stands now."""
    computed, state = page.frame, loaded.usable
    job = known(state)
    signed = loaded.handovers[0] if loaded.handovers else None
    stands = signed is not None and loaded.design is not None and signed.design_id == loaded.design.id
    return Record(
        job_id=loaded.job.id,
        name=loaded.fan.name,
        place=loaded.fan.place,
        wish=loaded.job.wish,
        status=_status(page),
        facts=_facts(page, state),
        design_title=f"Regulator, revision {page.design.revision}" if page.design else "",
        steps=_steps(job, page),
        parts=tuple(_part(p, page) for p in computed.parts) if computed else (),
        wiring=tuple(Fact(w.lug, w.text) for w in computed.wiring) if computed else (),
        schematic=schematic_of(state, computed, loaded.fan.name) if computed else None,
        rules=tuple(RuleLine(r.text, r.value_text, r.limit_text, r.by_text, r.met) for r in computed.rules)
        if computed
        else (),
        spreads=tuple(
            Fact(f"step {s.step}, {s.label}", f"{s.together.text}; {s.words}") for s in computed.spreads
        )
        if computed
        else (),
        readings=_readings(loaded),
        cautions=_cautions(page),
        assumptions=computed.assumptions if computed else (),
        core_version=CORE_VERSION,
        made_at=said_at(datetime.now(UTC)),
        signature=signature_of(signed) if signed and stands else None,
        annexes=(
            *_annexes(job, loaded.fan.name),
            *_air(state),
            *_held(state),
            *_wired(loaded),
            *_order(loaded),
        ),
        joins_name=job.regulation.setting_name if job else "",
        where_name=job.regulation.where_name if job else "",
        lugs_note=job.regulation.lugs_note if job else "",
        more_readings=max(0, len(loaded.readings) - MOST_READINGS),
    )


def _annexes(job: Asked | None, name: str) -> tuple[AnnexSheet, ...]:
    """The pages that only this way of regulating has, drawn."""
    if job is None or job.design is None:
        return ()
    sheets = []
    for a in job.regulation.annexes(job.subject, job.design, job.steps()):
        drawing = (
            panels_picture(a.panels, name) if a.panels else dial_picture(a.scale, name) if a.scale else None
        )
        sheets.append(AnnexSheet(a.title, a.note, drawing, a.lines))
    return tuple(sheets)


def _air(state: JobState) -> tuple[AnnexSheet, ...]:
    """Flow, pressure and noise at every step, and what is left where fans stand."""
    if state.air.empty:
        return ()
    shown = air_shown(state)
    lines = air_lines(shown)
    if not lines:
        return ()
    note = f"In air of {shown.density_text}; all fans together."
    return (AnnexSheet("Air at every step", note, None, lines),)


def _held(state: JobState) -> tuple[AnnexSheet, ...]:
    """What the fan holds by itself, and the program that makes it."""
    if state.hold.holds is Holds.NOTHING:
        return ()
    shown = hold_shown(state)
    lines = hold_lines(shown)
    return (AnnexSheet("What it holds by itself", shown.note, None, lines),) if lines or shown.note else ()


MOST_FLAGS, ROOM = 6, (0.25, 178.0, 232.0)
"""Hazards said on a printed circuit; scale and room of its drawing: letters of 2.5 mm and more up to 1068 units [mm]"""
MOST_LINES = 190
"""Of one annex; the files have all of them"""


def _wired(loaded: Loaded) -> tuple[AnnexSheet, ...]:
    """The circuit as drawn, its table, wires, cables and dead tests with what was ticked and read."""
    if not loaded.job.wiring:
        return ()
    try:
        found = solved(circuit_of(loaded.job.wiring))
    except InputError as error:
        return (AnnexSheet("Circuit", f"It cannot be worked out: {error.reason}.", None, ()),)
    page = wire_page(circuit_of(loaded.job.wiring), loaded.readings)
    table = [
        f"{said_row(page, row)}: {', '.join(f'{r.part} {r.words}' for r in row.runs if r.on) or 'all off'}"
        for row in page.rows
    ]
    hazards = [f"{h.severity}: {h.words}, {h.when}. {h.remedy}" for h in page.hazards]
    wires = [
        f"{c.number}. {c.start} to {c.end}, {f'{c.cable} {c.core}' if c.cable else 'wire'}"
        + (f"; done, {c.read.told}" if c.read.text == "yes" else "")
        for c in page.connections
    ]
    cables = [
        f"{c.id}, {c.start} to {c.end}: {', '.join(c.used) or 'no core used'}; spare {', '.join(c.spare) or 'none'}"
        + ("; earth joined at both ends" if c.earth == "joined" else "")
        for c in page.cables
    ]
    dead = [
        f"{d.first} to {d.second}{f', {d.stand}' if d.stand else ''}: {d.expect}"
        + (f"; read {d.read.text}, {d.read.told}" if d.read.text else "")
        for d in page.dead
    ]
    standing = [
        f for h, f in zip(found.table.hazards, found.flags, strict=False) if not h.passing and f.lines
    ]
    drawn = on_paper(wire_picture(found.wiring, found.sheet, standing[:MOST_FLAGS]), *ROOM)
    sheets = [
        AnnexSheet(
            "Circuit", found.wiring.title, drawn if len(drawn.shapes) <= MOST_SHAPES else None, _cut(hazards)
        ),
        AnnexSheet("Every call", "What each call and position does.", None, _cut(table)),
        AnnexSheet(
            "Connections", "In the order of the work, the supply last.", None, _cut([*wires, *cables])
        ),
    ]
    if dead:
        sheets.append(AnnexSheet("Dead tests", "Ohms to expect with the power off.", None, _cut(dead)))
    return tuple(sheets)


def _cut(lines: list[str]) -> tuple[str, ...]:
    short = [line[:390] for line in lines[:MOST_LINES]]
    more = len(lines) - len(short)
    return (*short, *([f"and {more} more, in the files of the Wire stage"] if more > 0 else []))


def _order(loaded: Loaded) -> tuple[AnnexSheet, ...]:
    """The order in which it was proved, with what was read of each line."""
    if not plan_lines(loaded):
        return ()
    shown = plan_shown(loaded)
    lines = []
    for i, line in enumerate(shown.lines, start=1):
        read = [f"{a.words}: {a.text} (expected {a.expect})" for a in line.asks if a.text]
        lines.append(f"{i}. {line.title}, {_LINE_WORDS[line.state]}" + "".join(f"; {r}" for r in read))
    return (AnnexSheet("Order of work", shown.summary, None, tuple(lines)),)


_LINE_WORDS = {
    LineState.OPEN: "open", LineState.NEXT: "open", LineState.DONE: "good", LineState.FAILED: "not good",
    LineState.STOPPED: "waits",
}  # fmt: skip


def signature_of(signed: Handover) -> Signature:
    """A stored signature on paper."""
    return Signature(
        signed.who,
        said_at(signed.at),
        signed.note,
        f"{signed.recheck_on:%-d %b %Y}" if signed.recheck_on else "",
        signed.imported,
    )


def signed_record(signed: Handover) -> Record:
    """The report as it was signed."""
    return replace(stored_record(signed.record), signature=signature_of(signed))


def _status(page: JobPage) -> str:
    computed = page.frame
    if computed is None:
        return f"Not computed: {page.problem.detail}" if page.problem else ""
    if computed.refused:
        return f"Refused: {computed.refused}"
    return computed.proof_summary or computed.waits_for


def _facts(page: JobPage, state: JobState) -> tuple[Fact, ...]:
    rows = [
        ("kind", page.kind_name),
        ("maker", page.fan.maker),
        ("serial number", page.fan.serial),
        *((p.label, p.text) for p in page.printed),
        ("supply", ", ".join(t for t in (page.supply_volts_text, page.supply_hertz_text) if t)),
    ]
    if page.frame and page.frame.full:
        rows.append(("full speed, model", page.frame.full.text))
    rows += _found_out(page, state)
    return tuple(Fact(label, text) for label, text in rows if text)


def _found_out(page: JobPage, state: JobState) -> list[tuple[str, str]]:
    """Leads, capacitor sections and answered refusals: what the next person at this fan wants to know."""
    rows: list[tuple[str, str]] = []
    if page.frame is None:
        return rows
    if windings(state.findings, dict(state.readings)) is not None:
        rows.append(("leads", ", ".join(f"{r.lead} {r.role}" for r in identify(state).leads.roles)))
    rows += [
        (f"section {s.name}, {s.leads}", f"{s.rated_text}; read {s.measured_text}: {s.words}")
        for s in capacitors(state).sections
        if s.measured_text
    ]
    rows += [
        (f"answered for: {a.method.replace('-', ' ')}", f"{a.reason} ({a.who}, {said_at(a.at)})")
        for a in page.answered
    ]
    if state.findings.kind_reason:
        rows.append(("kind against the evidence", state.findings.kind_reason))
    return rows


def _steps(job: Asked | None, page: JobPage) -> tuple[StepLine, ...]:
    computed = page.frame
    if job is None or computed is None or not computed.marks:
        return ()
    return tuple(_step(job, computed, step) for step in job.steps())


_VERDICTS = {Verdict.PASS: "holds", Verdict.NEAR: "near", Verdict.FAIL: "fails"}
_FATES = {StepVerdict.BARRED: "barred", StepVerdict.DOES_NOT_START: "none", StepVerdict.OK: "none"}


def _step(job: Asked, computed: Frame, step: Step[Any]) -> StepLine:
    running = step.shown
    read = next((r for r in computed.proofs if r.step == step.number and r.quantity == SPEED.key), None)
    where = job.regulation.where(job.subject, job.design, step) if job.design else ""
    volts, amps, watts = "", "", ""
    if isinstance(running, MachineRunning):
        point = running.point
        volts = shown(point.motor_voltage_v, step.bands.get(MOTOR_VOLTS.key), "").text
        amps = shown_amps(point.line_current_a, step.bands.get(LINE_CURRENT.key)).text
        watts = shown(point.input_power_w, step.bands.get("input_power_w"), "").text
    elif running is not None:
        volts_band, amps_band = step.bands.get(MOTOR_VOLTS.key), step.bands.get(LINE_CURRENT.key)
        if volts_band is not None:
            volts = shown(_middle(volts_band), volts_band, "").text
        if amps_band is not None:
            amps = shown_amps(_middle(amps_band), amps_band).text
            supplied = running.places[0].power_w
            watts = "" if supplied is None else q.plain(supplied, 2)
    return StepLine(
        step=step.number,
        joins=step.joins,
        where=where,
        label=f"{step.joins}, {where}" if where and job.regulation.where_on_label else step.joins,
        wanted="" if step.wanted_rpm is None else f"{step.wanted_rpm:.0f}",
        speed=shown(running.speed_rpm, step.speed_band, "").text if running else _FATES[step.verdict],
        motor_volts=volts,
        amps=amps,
        watts=watts,
        read=read.reading if read else "",
        verdict=_VERDICTS[read.verdict] if read and read.verdict else "",
    )


def _middle(band: Band) -> float:
    return (band.low + band.high) / 2


def _part(part: PartRow, page: JobPage) -> PartLine:
    worst = part.stresses[part.worst] if part.stresses else None
    held = next((a for a in page.aside if a.part_id == part.shelf_id), None)
    place = "to buy" if part.to_buy and held is None else held.place or "shelf" if held else ""
    return PartLine(
        part.name,
        part.kind.value,
        part.paper or part.text,
        part.rating_text,
        part.refusal or (worst.text if worst else ""),
        part.note or (worst.where if worst else ""),
        place,
    )


def _printed_readings(loaded: Loaded) -> list[Reading]:
    """Those that stand, and the newest of the rest, as many as are printed; in the order they were taken."""
    rows = loaded.readings
    if len(rows) <= MOST_READINGS:
        return rows
    stand = {r.id for r in readings.standing(rows)}
    first = sorted(rows, key=lambda r: (r.id in stand, r.id), reverse=True)[:MOST_READINGS]
    return sorted(first, key=lambda r: r.id)


def _readings(loaded: Loaded) -> tuple[ReadingLine, ...]:
    gone = {r.supersedes for r in loaded.readings}
    sheet = sheet_asked(loaded.usable.findings)
    names = {a.field: a.label for a in (*MEASURED, *sheet)}
    in_run = names | {a.field: a.label for a in RUN_ONLY.values()}
    runs = {run.id: run_state(run, []).label for run in loaded.runs}
    proved = {name: what.name for name, what in PROVED.items()}
    ordered = {line.quantity(ask): (line, ask) for line in plan_lines(loaded) for ask in line.asks}
    lines = []
    for reading in _printed_readings(loaded):
        what = names.get(reading.quantity, reading.quantity)
        if reading.step is not None:
            what = f"step {reading.step}, {proved.get(reading.quantity, reading.quantity)}"
        if reading.run_id is not None:
            what = f"{runs[reading.run_id]}, {in_run.get(reading.quantity, reading.quantity)}"
        text = said_reading(reading, sheet)
        if reading.quantity in ordered:
            line, ask = ordered[reading.quantity]
            what, text = f"{line.title}, {ask.words}", ask_text(ask, reading.value) or text
        if reading.source:
            text += f" ({reading.source})"
        if reading.aside:
            text += " (set aside)"
        lines.append(ReadingLine(what, text, reading.who, said_at(reading.taken_at), reading.id in gone))
    return tuple(lines)


def _cautions(page: JobPage) -> tuple[CautionLine, ...]:
    if page.frame is None:
        return ()
    done = {c.caution: c for c in reversed(page.confirmed)}
    found = [
        CautionLine(c.text, c.do, "") if by is None else _met(by, c.text, c.do)
        for c in page.frame.cautions
        for by in (done.pop(c.key, None),)
    ]
    # What was confirmed stays, also where nothing of the job raises it any more.
    return (*found, *(_met(by, by.said, by.do) for by in done.values() if by.said))


def _met(by: Confirmed, text: str, do: str) -> CautionLine:
    """A confirmed caution, as it read then."""
    read = f", {by.text}" if by.text else ""
    return CautionLine(by.said or text, by.do or do, f"Confirmed: {by.who}{read}, {said_at(by.at)}.")


# ---------------------------------------------------------------- bundle


def bundle_of(database: Database, loaded: Loaded) -> Bundle:
    """A job as a bundle: its links are places in its own lists."""
    revisions = designs.of_job(database, loaded.job.id)
    place = {d.id: i for i, d in enumerate(revisions, start=1)}
    number = {r.id: i for i, r in enumerate(loaded.readings, start=1)}
    run_place = {r.id: i for i, r in enumerate(loaded.runs, start=1)}
    fan, job = loaded.fan, loaded.job
    return Bundle(
        format=FORMAT,
        fan=BundleFan.model_validate({n: getattr(fan, n) for n in BundleFan.model_fields}),
        job=BundleJob(
            wish=job.wish,
            supply_voltage_v=job.supply_voltage_v,
            supply_frequency_hz=job.supply_frequency_hz,
            wanted_rpm=job.wanted_rpm,
            profile=job.profile,
            sizing=_without_shelf(job.sizing),
            board=job.board,
            air=job.air,
            meant=job.meant,
            commanded=job.commanded,
            hold=job.hold,
            wiring=circuit_of(job.wiring),
            created_at=_utc(job.created_at),
            saved_at=_utc(job.saved_at),
        ),
        designs=[
            BundleDesign(
                regulator=_without_shelf(d.regulator) if d.regulator is not None else None,
                kept=d.kept,
                restores=place.get(d.restores) if d.restores else None,
                core_version=d.core_version,
                who=d.who,
                made_at=_utc(d.made_at),
                name=d.name,
            )
            for d in revisions
        ],
        readings=[
            BundleReading(
                quantity=r.quantity,
                value=r.value,
                typed=r.typed,
                step=r.step,
                design=place.get(r.design_id) if r.design_id else None,
                expected_low=r.expected_low,
                expected_high=r.expected_high,
                who=r.who,
                taken_at=_utc(r.taken_at),
                supersedes=number.get(r.supersedes) if r.supersedes else None,
                run=run_place.get(r.run_id) if r.run_id else None,
                sigma=r.sigma,
                aside=r.aside,
                winding=Warmth(r.winding) if r.winding else None,
                winding_c=r.winding_c,
                source=r.source,
            )
            for r in loaded.readings
        ],
        runs=[
            BundleRun(
                what=r.what,
                value=r.value,
                typed=r.typed,
                frequency_hz=r.frequency_hz,
                gone=r.gone,
                who=r.who,
                at=_utc(r.at),
            )
            for r in loaded.runs
        ],
        answers=[
            BundleAnswer(
                method=str(e.detail["method"]), reason=str(e.detail["reason"]), who=e.who, at=_utc(e.at)
            )
            for e in reversed(loaded.answered)
        ],
        confirmations=[
            BundleConfirmation(
                caution=str(e.detail.get("caution")),
                text=str(e.detail.get("text", "")),
                brief=str(e.detail.get("brief", "")),
                said=str(e.detail.get("said", "")),
                do=str(e.detail.get("do", "")),
                who=e.who,
                at=_utc(e.at),
            )
            for e in reversed(loaded.confirmed)
        ],
        handovers=[
            BundleHandover(
                design=place.get(h.design_id) if h.design_id else None,
                who=h.who,
                note=h.note,
                recheck_on=h.recheck_on,
                core_version=h.core_version,
                record=write_record(stored_record(h.record)),
                at=_utc(h.at),
            )
            for h in reversed(loaded.handovers)
        ],
        captures=[
            BundleCapture(
                design=place[c.design_id], step=c.step, name=c.name, shown=c.shown, who=c.who, at=_utc(c.at)
            )
            for c in captures.of_job(database, loaded.job.id)
        ],
    )


def _without_shelf(document: Any) -> Any:
    """A document whose capacitors do not name parts on this shelf: another Fenwit has another one."""
    if isinstance(document, dict):
        return {k: None if k == "shelf_id" else _without_shelf(v) for k, v in document.items()}
    return [_without_shelf(v) for v in document] if isinstance(document, list) else document


def _utc(at: datetime) -> datetime:
    return at.astimezone(UTC)


def add_bundle(database: Database, bundle: Bundle) -> int:
    """Put a bundle into the database as a new job; returns its number."""
    return bundles.add_job(
        database,
        fan=bundle.fan.model_dump(mode="json"),
        job=bundle.job.model_dump(),
        designs=[d.model_dump() for d in bundle.designs],
        readings=[r.model_dump() for r in bundle.readings],
        runs=[r.model_dump() | {"what": r.what.value} for r in bundle.runs],
        answers=[a.model_dump() | {"method": a.method.value} for a in bundle.answers],
        confirmations=[c.model_dump() for c in bundle.confirmations],
        handovers=[h.model_dump() for h in bundle.handovers],
        captures=[c.model_dump() for c in bundle.captures],
    )
