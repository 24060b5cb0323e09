"""A job page as the report that is printed and signed, and as the bundle that goes to another Fenwit."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from fenwit.core import CORE_VERSION
from fenwit.core import quantity as q
from fenwit.core.circuit.contacts import truth_table
from fenwit.core.frame import JobState
from fenwit.core.frame.capacitors import capacitors
from fenwit.core.frame.control import Control, control_of, setting_words
from fenwit.core.frame.fan import known, regulated
from fenwit.core.frame.findings import windings
from fenwit.core.frame.identify import identify
from fenwit.core.frame.knob import knob
from fenwit.core.frame.phase import table_of, waves_of
from fenwit.core.frame.proofs import CAPTURED, QUANTITIES
from fenwit.core.frame.shown import Frame, PartRow
from fenwit.core.frame.steps import in_the_line, steps_of
from fenwit.core.regulator.firing import Spacing
from fenwit.core.size.rating import Rated
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
from fenwit.report.firingfile import table_notes
from fenwit.report.knobscale import knob_scale_svg
from fenwit.report.record import (
    CautionLine,
    Fact,
    PartLine,
    ReadingLine,
    Record,
    RuleLine,
    Signature,
    StepLine,
)
from fenwit.report.schematic import schematic_svg
from fenwit.report.wavesheet import Panel, waves_svg
from fenwit.store import bundles, captures, codec, designs
from fenwit.store.database import Database
from fenwit.store.handovers import Handover
from fenwit.web.models import JobPage
from fenwit.web.page import MEASURED, RUN_ONLY, Loaded, run_state, sheet_asked


def said_at(at: datetime) -> str:
    """A time on paper."""
    return f"{at.astimezone(UTC):%-d %b %Y, %H:%M} UTC"


def rated_of(state: JobState) -> Rated | None:
    """The bank of a job with its circuit; None while there is none or too little is known."""
    found = known(state)
    if found is None or state.bank is None:
        return None
    datum, fan = found
    return regulated(datum, fan.supply, state.bank).rated


def control_in(state: JobState) -> Control | None:
    """The phase-angle control of a job; None while there is none or too little is known."""
    found = known(state)
    return control_of(found[1], state.control) if found and state.control else None


def schematic_of(state: JobState, computed: Frame, name: str) -> str:
    """The schematic of a job's bank; empty while there is none."""
    rated, control = rated_of(state), control_in(state)
    if rated is None and control is None:
        return ""
    labels: dict[str, str] = {}
    for part in computed.parts:
        value = part.bench.replace("u", "µ")
        if control is not None:
            labels[part.name] = f"{part.name} {value}".strip()
            continue
        if part.capacitor:
            labels[part.name] = f"{part.name}  {value}"
        elif part.name.startswith("D"):
            for piece in ("1", "2", "3", "4"):
                labels[part.name + piece] = f"{part.name}{piece} {value}"
        else:
            labels[part.name] = f"{part.name} {value}"
    supply = f"L  {q.show(state.supply_voltage_v, q.VOLTAGE)}"
    title = f"Schematic of the regulator for {name}"
    circuit = control.circuit if control is not None else rated.circuit if rated is not None else None
    return schematic_svg(circuit, labels, supply, title) if circuit else ""


def record_of(loaded: Loaded, page: JobPage) -> Record:
    """The report of a job as it stands now."""
    computed, state = page.frame, loaded.state
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
        steps=_steps(state, page),
        parts=tuple(_part(p, page) for p in computed.parts) if computed else (),
        wiring=tuple(Fact(w.lug, w.text) for w in computed.wiring) if computed else (),
        schematic=schematic_of(state, computed, loaded.fan.name) if computed else "",
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
        knob_scale=_knob_scale(state, loaded.fan.name),
        waves=waves_drawing(state, loaded.fan.name),
        firing=_program(state, loaded.fan.name),
    )


def waves_drawing(state: JobState, name: str) -> str:
    """Waveforms of every step of a job's control; empty while there is none."""
    panels = [
        Panel(
            f"step {w.step}, {'full on' if w.firing_deg == 0 else f'fires at {w.firing_deg:.1f}°'}",
            w.theta_deg,
            w.supply_v,
            w.motor_v,
            w.line_a,
            "; ".join(w.facts[:2]),
        )
        for w in waves_of(state)
    ]
    return waves_svg(panels, name) if panels else ""


def _knob_scale(state: JobState, name: str) -> str:
    control = control_in(state)
    if control is None or control.design.network is None:
        return ""
    marks = knob(state, control.design.network, control.design.starts_full).scale
    return knob_scale_svg([(m.turn, m.rpm) for m in marks], name)


def _program(state: JobState, name: str) -> tuple[str, ...]:
    control = control_in(state)
    if control is None or control.design.network is not None:
        return ()
    table = table_of(state, Spacing.STEPS, len(control.design.firing_deg))
    return tuple(note.removeprefix("- ") for note in table_notes([table], name, CORE_VERSION)[1:])


def signature_of(signed: Handover) -> Signature:
    """A stored signature on paper."""
    return Signature(
        signed.who,
        said_at(signed.at),
        signed.note,
        f"{signed.recheck_on:%-d %b %Y}" if signed.recheck_on else "",
    )


def signed_record(signed: Handover) -> Record:
    """The report as it was signed."""
    return codec.load(Record, {**signed.record, "signature": codec.dump(signature_of(signed))})


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
        ("supply", f"{page.supply_volts_text}, {page.supply_hertz_text}"),
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


def _steps(state: JobState, page: JobPage) -> tuple[StepLine, ...]:
    computed = page.frame
    known_fan = known(state)
    if computed is None or known_fan is None or not computed.marks:
        return ()
    found = {s.number: s for s in steps_of(state, *known_fan)}
    rated, control = rated_of(state), control_in(state)
    contacts = dict(truth_table(rated.circuit)) if rated else {}
    lines = []
    for mark, path in zip(computed.marks, computed.paths, strict=True):
        read = next((r for r in computed.proofs if r.step == mark.step and r.quantity == "speed_rpm"), None)
        speed = mark.predicted.number if mark.predicted else "barred" if mark.verdict == "barred" else "none"
        lines.append(
            StepLine(
                step=mark.step,
                joins=in_the_line(found[mark.step]),
                contacts=", ".join(contacts.get(str(mark.step), ())),
                setting=setting_words(control, found[mark.step].firing_deg or 0.0)
                if control and found[mark.step].firing_deg is not None
                else "",
                wanted="" if mark.wanted_rpm is None else f"{mark.wanted_rpm:.0f}",
                speed=speed,
                motor_volts=path.motor[0].removesuffix(" V") if path.motor else "",
                amps=path.motor[1].removesuffix(" mA") if path.motor else "",
                watts=path.supply[1].removesuffix(" W") if path.runs else "",
                read=read.reading if read else "",
                verdict={"pass": "holds", "near": "near", "fail": "fails"}[read.verdict]
                if read and read.verdict
                else "",
            )
        )
    return tuple(lines)


def _part(part: PartRow, page: JobPage) -> PartLine:
    worst = part.stresses[part.worst] if part.stresses else None
    held = next((a for a in page.aside if a.part_id == part.shelf_id), None)
    place = "to buy" if part.capacitor and held is None else held.place or "shelf" if held else ""
    named = page.design is not None and page.design.control is not None
    return PartLine(
        part.name,
        # A capacitor says itself what it is; what stands around a triac is called by its task.
        f"{part.role}: {part.text}" if named else part.text,
        part.rating_text,
        part.refusal or (worst.text if worst else ""),
        part.note or (worst.where if worst else ""),
        place,
    )


def _readings(loaded: Loaded) -> tuple[ReadingLine, ...]:
    gone = {r.supersedes for r in loaded.readings}
    names = {a.field: a.label for a in (*MEASURED, *sheet_asked(loaded.state.findings))}
    in_run = names | {a.field: a.label for a in RUN_ONLY.values()}
    runs = {run.id: run_state(run, []).label for run in loaded.runs}
    proved = {name: words[0] for name, words in (QUANTITIES | CAPTURED).items()}
    lines = []
    for reading in loaded.readings:
        what = names.get(reading.quantity, reading.quantity)
        if reading.step is not None:
            what = f"step {reading.step}, {proved.get(reading.quantity, reading.quantity)}"
        if reading.run_id is not None:
            what = f"{runs[reading.run_id]}, {in_run.get(reading.quantity, reading.quantity)}"
        text = reading.typed if reading.value is not None else "taken back"
        if reading.aside:
            text += " (set aside)"
        lines.append(ReadingLine(what, text, reading.who, said_at(reading.taken_at), reading.id in gone))
    return tuple(lines)


def _cautions(page: JobPage) -> tuple[CautionLine, ...]:
    if page.frame is None:
        return ()
    done = {c.caution: c for c in reversed(page.confirmed)}
    lines = []
    for c in page.frame.cautions:
        by = done.get(c.key)
        read = f", {by.text}" if by and by.text else ""
        lines.append(CautionLine(c.text, c.do, f"Confirmed: {by.who}{read}, {said_at(by.at)}." if by else ""))
    return tuple(lines)


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
            )
            for r in loaded.readings
        ],
        runs=[
            BundleRun(what=r.what, value=r.value, typed=r.typed, gone=r.gone, who=r.who, at=_utc(r.at))
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
                record=h.record,
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
