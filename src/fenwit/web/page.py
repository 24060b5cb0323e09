"""From stored rows to a computed job page."""

from __future__ import annotations

import contextlib
import json
from collections import Counter, OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from fenwit.core import CORE_VERSION
from fenwit.core import quantity as q
from fenwit.core.calibrate.leads import OPEN_OHM
from fenwit.core.caution import DEAD_READINGS, Caution, Stage, blocking
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, Nameplate, PhaseDesign, Proof, frame
from fenwit.core.frame.findings import FRAME_OHM, LEAD_OHM, SECTION_ESR, SECTION_F, Findings
from fenwit.core.frame.state import InLine, RunState
from fenwit.core.frame.tables import Change, changes
from fenwit.core.motor.kinds import KINDS, Method, MotorKind
from fenwit.store import cards, designs, events, handovers, history, jobs, readings, runs, shelf
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web.banks import (
    bank_words,
    part_words,
    profile_of,
    regulator_of,
    sizing_of,
    typed_bank,
    typed_profile,
    typed_sizing,
)
from fenwit.web.controls import control_words, typed_control
from fenwit.web.findings import findings_of, typed_findings
from fenwit.web.models import (
    Answered,
    Aside,
    BenchPage,
    Card,
    Confirmed,
    DesignInfo,
    DesignLine,
    HistoryState,
    JobPage,
    Printed,
    RunShown,
    Signed,
    StageInfo,
    StageState,
    Wanted,
)
from fenwit.web.problems import problem_of


@dataclass(frozen=True)
class Asked:
    """A value the technician types: what it is called and what it takes."""

    field: str
    label: str
    dimension: q.Dimension
    hint: str


NAMEPLATE = (
    Asked("poles", "poles", q.POLES, "16"),
    Asked("rated_voltage_v", "rated volts", q.VOLTAGE, "230V"),
    Asked("rated_frequency_hz", "rated hertz", q.FREQUENCY, "50Hz"),
    Asked("rated_speed_rpm", "rated rpm", q.SPEED, "330"),
    Asked("rated_current_a", "rated amps", q.CURRENT, "320m or 0.32 A"),
    Asked("rated_power_w", "rated watts", q.POWER, "75W"),
    Asked("run_capacitance_f", "run capacitor", q.CAPACITANCE, "2u5 or 2.5 µF"),
)
MEASURED = (
    Asked("supply_voltage_v", "supply volts", q.VOLTAGE, "230V"),
    Asked("speed_rpm", "full speed", q.SPEED, "330"),
    Asked("line_current_a", "line amps", q.CURRENT, "318m or 0.318 A"),
    Asked("input_power_w", "input watts", q.POWER, "73W"),
    Asked("capacitor_voltage_v", "volts across run capacitor", q.VOLTAGE, "running, true rms"),
    Asked("main_resistance_ohm", "main winding", q.RESISTANCE, "260 or 1k2"),
    Asked("auxiliary_resistance_ohm", "auxiliary winding", q.RESISTANCE, "290"),
    Asked("run_capacitance_f", "run capacitor", q.CAPACITANCE, "as read: 2u44"),
    Asked("frequency_hz", "supply hertz", q.FREQUENCY, "50Hz"),
    Asked("power_factor", "power factor", q.POWER_FACTOR, "0.93"),
    Asked("auxiliary_current_a", "auxiliary amps", q.CURRENT, "in the capacitor's lead"),
    Asked("locked_rotor_current_a", "amps, rotor held", q.CURRENT, "two seconds at most"),
    Asked("run_up_s", "run-up", q.TIME, "seconds to 95 % of full"),
    Asked("hot_resistance_ohm", "main winding, hot", q.RESISTANCE, "right after stopping"),
    Asked("cold_temperature_c", "room temperature", q.TEMPERATURE, "20 °C"),
)
IN_RUN = (
    "speed_rpm",
    "line_current_a",
    "motor_voltage_v",
    "input_power_w",
    "supply_voltage_v",
    "power_factor",
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "locked_rotor_current_a",
    "frequency_hz",
)
"""Read in a run away from full speed"""
_TWO_WINDINGS = (
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "auxiliary_resistance_ohm",
    "run_capacitance_f",
)
RUN_ONLY = {
    "speed_rpm": Asked("speed_rpm", "rpm", q.SPEED, ""),
    "motor_voltage_v": Asked("motor_voltage_v", "motor volts", q.VOLTAGE, "across the motor, true rms"),
}
PROVED = {
    "speed_rpm": q.SPEED,
    "motor_voltage_v": q.VOLTAGE,
    "line_current_a": q.CURRENT,
    "firing_angle_deg": q.ANGLE,
    "extinction_angle_deg": q.ANGLE,
    "symmetry_deg": q.ANGLE,
    "frequency_hz": q.FREQUENCY,
}


def state_of(
    job: jobs.Job,
    fan: jobs.Fan,
    standing: Sequence[readings.Reading],
    design: designs.Design | None,
    run_rows: Sequence[runs.Run] = (),
    answers: Sequence[events.Event] = (),
) -> JobState:
    """A stored job as the core sees it; readings that were set aside are left out."""
    believed = [r for r in standing if not r.aside]
    plain = [r for r in believed if r.step is None and r.run_id is None and r.value is not None]
    filed = design.root if design and design.regulator is not None else None
    return JobState(
        kind=MotorKind(fan.motor_kind) if fan.motor_kind else None,
        nameplate=Nameplate(
            fan.poles,
            fan.rated_voltage_v,
            fan.rated_frequency_hz,
            fan.rated_speed_rpm,
            fan.rated_current_a,
            fan.rated_power_w,
            fan.run_capacitance_f,
        ),
        supply_voltage_v=job.supply_voltage_v,
        supply_frequency_hz=job.supply_frequency_hz,
        readings=tuple(sorted((r.quantity, r.value) for r in plain if r.value is not None)),
        wanted_rpm=tuple(job.wanted_rpm),
        design=regulator_of(design.regulator) if design else None,
        proofs=tuple(
            Proof(r.step, r.quantity, r.value, r.expected_low, r.expected_high)
            for r in standing
            if r.step is not None and r.value is not None and filed is not None and r.design_id == filed
        ),
        profile=profile_of(job.profile),
        sizing=sizing_of(job.sizing, len(job.wanted_rpm)),
        sigmas=tuple(sorted((r.quantity, r.sigma) for r in plain if r.sigma is not None)),
        runs=tuple(run_state(run, believed) for run in run_rows if not run.gone),
        findings=findings_of(fan.findings),
        overridden=frozenset(Method(e.detail["method"]) for e in answers),
    )


def run_state(run: runs.Run, standing: Sequence[readings.Reading]) -> RunState:
    """A stored run as the core sees it."""
    mine = [r for r in standing if r.run_id == run.id and r.value is not None]
    return RunState(
        run.id,
        InLine(run.what),
        run.value,
        tuple((r.quantity, r.value) for r in mine if r.value is not None),
        tuple((r.quantity, r.sigma) for r in mine if r.sigma is not None),
    )


@dataclass(frozen=True)
class Loaded:
    """One job with everything that belongs to it."""

    job: jobs.Job
    fan: jobs.Fan
    design: designs.Design | None
    readings: list[readings.Reading]
    confirmed: list[events.Event]
    handovers: list[handovers.Handover]
    aside: list[shelf.Reservation]
    history: history.Stacks
    runs: list[runs.Run]
    answered: list[events.Event]
    revisions: list[designs.Design]

    @property
    def state(self) -> JobState:
        """The job as the core sees it."""
        return state_of(
            self.job, self.fan, readings.standing(self.readings), self.design, self.runs, self.answered
        )

    @property
    def confirmed_keys(self) -> set[str]:
        """Keys of the cautions that were confirmed."""
        return {str(e.detail.get("caution")) for e in self.confirmed}


def load(database: Database, job_id: int) -> Loaded:
    """Read one job in one transaction. Raises NotFound."""
    with database.transaction():
        job = jobs.get(database, job_id)
        return Loaded(
            job,
            jobs.get_fan(database, job.fan_id),
            designs.latest(database, [job_id]).get(job_id),
            readings.of_jobs(database, [job_id]),
            events.confirmed(database, job_id),
            handovers.of_job(database, job_id),
            shelf.of_job(database, job_id),
            history.stacks(database, job_id),
            runs.of_job(database, job_id),
            events.of_kind(database, job_id, events.ANSWERED),
            designs.of_job(database, job_id),
        )


_states: OrderedDict[tuple[str, int], tuple[str, JobState]] = OrderedDict()
_KEPT_STATES = 256


def load_state(database: Database, job_id: int) -> JobState:
    """Only what numbers depend on, for answering a drag. Raises NotFound.

    What was read last is used again while the database says that neither job nor fan was saved since, so any number
    of processes may answer.
    """
    with database.transaction():
        mark = jobs.mark(database, job_id)
        kept = _states.get((database.url, job_id))
        if kept is not None and kept[0] == mark:
            return kept[1]
        job = jobs.get(database, job_id)
        state = state_of(
            job,
            jobs.get_fan(database, job.fan_id),
            readings.standing(readings.of_jobs(database, [job_id])),
            designs.latest(database, [job_id]).get(job_id),
            runs.of_job(database, job_id),
            events.of_kind(database, job_id, events.ANSWERED),
        )
    _states[database.url, job_id] = (mark, state)
    while len(_states) > _KEPT_STATES:
        with contextlib.suppress(KeyError):
            _states.popitem(last=False)
    return state


def job_page(database: Database, job_id: int) -> JobPage:
    """One job, loaded and computed. Raises NotFound."""
    return page_of(database, load(database, job_id))


def changed(database: Database, job_id: int) -> JobPage:
    """The page of a job that was just changed; its card on the Bench goes with it, in the same transaction."""
    with database.transaction():
        jobs.touch(database, job_id)
        loaded = load(database, job_id)
        page = page_of(database, loaded)
        store_card(database, loaded, page.frame)
    return page


def page_of(database: Database, loaded: Loaded) -> JobPage:
    """A loaded job, computed."""
    problem, computed = None, None
    found: Sequence[Caution] = ()
    state = loaded.state
    try:
        computed = frame(state)
        found = computed.cautions
    except InputError as error:
        problem = problem_of(error)
    fan, job = loaded.fan, loaded.job
    keys = loaded.confirmed_keys
    gate = blocking(found, Stage.PROVE, "speed_rpm", keys)
    return JobPage(
        stages=_stages(loaded, computed),
        saved_at=job.saved_at,
        job=job,
        fan=fan,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        supply_volts_text=q.show(job.supply_voltage_v, q.VOLTAGE, 4),
        supply_hertz_text=q.show(job.supply_frequency_hz, q.FREQUENCY, 4),
        printed=[
            Printed(
                field=a.field, label=a.label, text=_typed(getattr(fan, a.field), a.dimension), hint=a.hint
            )
            for a in NAMEPLATE
        ],
        wanted_readings=[_wanted(a, loaded, found, keys) for a in _fitting(MEASURED, fan.motor_kind)],
        sheet_readings=[_wanted(a, loaded, found, keys, Stage.IDENTIFY) for a in sheet_asked(state.findings)],
        runs=[_run(run, loaded, found, keys) for run in loaded.runs if not run.gone],
        findings=typed_findings(state.findings),
        answered=[
            Answered(method=str(e.detail["method"]), reason=str(e.detail["reason"]), who=e.who, at=e.at)
            for e in loaded.answered
        ],
        design=_design_info(loaded),
        filed_under=loaded.design.root if loaded.design and loaded.design.regulator is not None else None,
        designs=_design_lines(loaded),
        last_revision=loaded.design.revision if loaded.design else 0,
        changes=_changes(loaded, computed),
        profile=typed_profile(state.profile),
        bands_apart=state.profile.bands_apart,
        starts_low=state.profile.starts_low,
        sizing=typed_sizing(state.sizing),
        aside=_aside(database, loaded),
        handovers=[
            Signed(
                id=h.id,
                who=h.who,
                note=h.note,
                recheck_on=h.recheck_on,
                core_version=h.core_version,
                at=h.at,
                revision=loaded.design.revision
                if loaded.design and loaded.design.id == h.design_id
                else None,
            )
            for h in loaded.handovers
        ],
        history=history_state(loaded.history),
        readings=loaded.readings,
        confirmed=[
            Confirmed(
                caution=str(e.detail.get("caution")), who=e.who, at=e.at, text=str(e.detail.get("text", ""))
            )
            for e in loaded.confirmed
        ],
        prove_gated_by=gate.key if gate else None,
        frame=computed,
        problem=problem,
    )


def _design_info(loaded: Loaded) -> DesignInfo | None:
    if loaded.design is None or loaded.design.regulator is None:
        return None
    return DesignInfo(**_told(loaded.design)[0])


def _told(design: designs.Design) -> tuple[dict[str, Any], str]:
    """A design as it would be typed, and in a few words."""
    regulator = regulator_of(design.regulator)
    assert regulator is not None
    told: dict[str, Any] = {
        "id": design.id,
        "revision": design.revision,
        "core_version": design.core_version,
        "who": design.who,
        "made_at": design.made_at,
        "name": design.name,
    }
    if isinstance(regulator, PhaseDesign):
        made: dict[str, Any] = {
            "method": Method.PHASE_ANGLE,
            "bank": None,
            "control": typed_control(regulator),
        }
        return told | made, control_words(regulator)
    made = {"method": Method.SERIES_CAPACITOR, "bank": typed_bank(regulator), "control": None}
    return told | made, bank_words(regulator)


_MOST_DESIGNS = 40


def _design_lines(loaded: Loaded) -> list[DesignLine]:
    """The designs of a job that can stand again, newest first; one chosen twice counts once, unless it has readings."""
    standing = loaded.design.root if loaded.design and loaded.design.regulator is not None else None
    read = Counter(
        r.design_id
        for r in readings.standing(loaded.readings)
        if r.design_id is not None and r.value is not None
    )
    lines: list[DesignLine] = []
    seen: set[str] = set()
    for d in reversed(loaded.revisions):
        if d.regulator is None or d.restores is not None:
            continue
        key = json.dumps(d.regulator, sort_keys=True)
        wanted = d.id == standing or read[d.id] > 0
        if not wanted and (key in seen or len(lines) >= _MOST_DESIGNS):
            continue
        seen.add(key)
        told, text = _told(d)
        lines.append(DesignLine(**told, text=text, stands=d.id == standing, proofs=read[d.id]))
    return lines


def _changes(loaded: Loaded, computed: Frame | None) -> list[Change]:
    """Only of a design in use: one that was handed over, or computed by another core."""
    design = loaded.design
    if computed is None or design is None or design.regulator is None or design.kept is None:
        return []
    signed = any(h.design_id in (design.id, design.root) for h in loaded.handovers)
    if not signed and design.core_version == CORE_VERSION:
        return []
    return list(changes(design.kept, computed))


def _aside(database: Database, loaded: Loaded) -> list[Aside]:
    """Shelf parts put aside for the job, and those its bank is made from."""
    mine = {r.part_id: r for r in loaded.aside}
    bank = loaded.state.bank
    wanted = [c.shelf_id for c in bank.capacitors if c.shelf_id is not None] if bank else []
    found = []
    for part_id in dict.fromkeys([*wanted, *mine]):
        try:
            part = shelf.get(database, part_id)
        except NotFound:
            continue
        held = mine.get(part_id)
        found.append(
            Aside(
                part_id=part_id,
                text=part_words(part),
                place=part.place,
                reserved=held.reserved if held else 0,
                used=held.used if held else 0,
                free=part.free,
            )
        )
    return found


def history_state(stacks: history.Stacks) -> HistoryState:
    """What undo and redo would do next."""
    return HistoryState(
        undo=str(stacks.undo[-1].detail["label"]) if stacks.undo else "",
        redo=str(stacks.redo[-1].detail["label"]) if stacks.redo else "",
    )


def _stages(loaded: Loaded, computed: Frame | None) -> list[StageInfo]:
    missing = {m.stage for m in computed.missing} if computed else {Stage.IDENTIFY, Stage.MEASURE}
    refused = bool(computed and computed.refused)
    measured = {
        r.quantity
        for r in readings.standing(loaded.readings)
        if r.step is None and r.run_id is None and not r.aside and ":" not in r.quantity
    }
    chosen = loaded.design is not None and loaded.design.regulator is not None
    proved = [r for r in computed.proofs if r.quantity == "speed_rpm"] if computed else []
    read = [r for r in proved if r.verdict]
    begun_done = {
        Stage.IDENTIFY: (loaded.fan.motor_kind is not None, Stage.IDENTIFY not in missing),
        Stage.MEASURE: (bool(measured), "speed_rpm" in measured and len(measured) >= 3),
        Stage.AIM: (bool(loaded.job.wanted_rpm), bool(loaded.job.wanted_rpm)),
        Stage.SIZE: (chosen, chosen and computed is not None and computed.waits_kind != "size"),
        Stage.PROVE: (bool(read), bool(read) and computed is not None and computed.waits_kind == "proved"),
        Stage.HAND_OVER: (bool(loaded.handovers), bool(loaded.handovers)),
    }
    shown = [Stage.IDENTIFY] if refused else list(Stage)
    return [
        StageInfo(
            key=stage,
            name=stage.value.replace("-", " ").capitalize(),
            state=StageState.DONE
            if begun_done[stage][1] or refused
            else StageState.BEGUN
            if begun_done[stage][0]
            else StageState.OPEN,
        )
        for stage in shown
    ]


def _typed(value: float | None, dimension: q.Dimension) -> str:
    if value is None:
        return ""
    return str(round(value)) if dimension is q.POLES else q.show(value, dimension, 4)


def _fitting(asked: Sequence[Asked], kind: str | None) -> list[Asked]:
    """Readings that make sense for a kind: a motor without a run capacitor has no capacitor volts."""
    single = kind is not None and kind not in (MotorKind.PSC.value, MotorKind.PSC_TAPPED.value)
    return [a for a in asked if not (single and a.field in _TWO_WINDINGS)]


def sheet_asked(findings: Findings) -> list[Asked]:
    """Ohms between all leads in the order of probing, each lead to frame, and the sections of the block."""
    leads = findings.leads
    found = [
        Asked(f"{LEAD_OHM}:{a.key}:{b.key}", f"{a.name} to {b.name}", q.RESISTANCE, "")
        for i, a in enumerate(leads)
        for b in leads[i + 1 :]
    ]
    found += [Asked(f"{FRAME_OHM}:{a.key}", f"{a.name} to frame", q.RESISTANCE, "open") for a in leads]
    for section in findings.block.sections if findings.block else ():
        found.append(
            Asked(
                f"{SECTION_F}:{section.name}",
                f"section {section.name}",
                q.CAPACITANCE,
                "as read, open or short",
            )
        )
        found.append(
            Asked(f"{SECTION_ESR}:{section.name}", f"ESR of {section.name}", q.RESISTANCE, "if known")
        )
    return found


def run_asked(kind: str | None) -> list[Asked]:
    """What can be read in a run."""
    by_field = {a.field: a for a in MEASURED} | RUN_ONLY
    return _fitting([by_field[name] for name in IN_RUN], kind)


def _run(run: runs.Run, loaded: Loaded, found: Sequence[Caution], keys: set[str]) -> RunShown:
    state = run_state(run, readings.standing(loaded.readings))
    rows = [_wanted(a, loaded, found, keys, run=run.id) for a in run_asked(loaded.fan.motor_kind)]
    if state.what is InLine.LOCKED:
        rows = [r for r in rows if r.quantity in ("locked_rotor_current_a", "supply_voltage_v")]
    else:
        rows = [r for r in rows if r.quantity != "locked_rotor_current_a"]
    return RunShown(id=run.id, what=run.what, label=state.label, readings=rows, empty=not state.readings)


def _wanted(
    asked: Asked,
    loaded: Loaded,
    found: Sequence[Caution],
    keys: set[str],
    stage: Stage = Stage.MEASURE,
    run: int | None = None,
) -> Wanted:
    mine = [r for r in loaded.readings if r.step is None and r.run_id == run and r.quantity == asked.field]
    newest = mine[-1] if mine else None
    gate = blocking(found, stage, asked.field, keys)
    base = asked.field.partition(":")[0]
    return Wanted(
        quantity=asked.field,
        label=asked.label,
        hint=asked.hint,
        dead=base in DEAD_READINGS or base == "cold_temperature_c",
        text=_reading_text(newest, asked),
        reading_id=newest.id if newest else None,
        who=newest.who if newest else "",
        taken_at=newest.taken_at if newest and newest.value is not None else None,
        gated_by=gate.key if gate else None,
        aside=bool(newest and newest.aside),
        uncertainty=f"±{100 * 1.645 * newest.sigma:.2g} %" if newest and newest.sigma else "",
        instrument_id=newest.instrument_id if newest else None,
    )


def _reading_text(newest: readings.Reading | None, asked: Asked) -> str:
    if newest is None or newest.value is None:
        return ""
    base = asked.field.partition(":")[0]
    if base in (LEAD_OHM, FRAME_OHM):
        if newest.value >= OPEN_OHM and base == LEAD_OHM:
            return "open"
        if newest.value >= OPEN_READING:
            return "open"
        return q.plain(newest.value, 5) if newest.value < 1e4 else q.show(newest.value, q.RESISTANCE, 4)
    if base == SECTION_F and newest.value == 0:
        return "open"
    if base == SECTION_F and newest.value >= SHORT_READING:
        return "short"
    if asked.dimension is q.POWER_FACTOR:
        return f"{newest.value:g}"
    return _typed(newest.value, asked.dimension)


OPEN_READING, SHORT_READING = 2e7, 1e-3
"""What "open" on an ohmmeter and "short" on a capacitance meter are stored as: the ends of their ranges [Ω, F]"""


_carded: set[str] = set()


def bench_page(database: Database, *, kind: str | None, find: str, after: int, limit: int = 60) -> bytes:
    """Some jobs in hand as JSON of a `BenchPage`: stored cards go out as they are; one of another core is made anew."""
    words = find.split()
    if database.url not in _carded:
        # Jobs of before cards were stored; every later job brings its own.
        while missing := cards.without(database):
            for job_id in missing:
                changed_card(database, job_id)
        _carded.add(database.url)
    with database.transaction():
        rows = cards.page(database, kind=kind, words=words, after=after, limit=limit)
        counted = cards.counts(database, words)
    bodies = [
        row.body if row.core_version == CORE_VERSION else changed_card(database, row.job_id).model_dump_json()
        for row in rows
    ]
    rest = BenchPage(
        cards=[],
        counts={c.waits_kind: c.count for c in counted},
        more_after=rows[-1].job_id if len(rows) == limit else None,
    ).model_dump_json()
    return rest.replace('"cards":[]', f'"cards":[{",".join(bodies)}]', 1).encode()


def changed_card(database: Database, job_id: int) -> Card:
    """Compute and store the card of a job."""
    with database.transaction():
        loaded = load(database, job_id)
        computed = None
        with contextlib.suppress(InputError):
            computed = frame(loaded.state)
        return store_card(database, loaded, computed)


def store_card(database: Database, loaded: Loaded, computed: Frame | None) -> Card:
    """Store what the Bench shows of a job."""
    card = _card(loaded, computed)
    fan = loaded.fan
    written = [fan.name, fan.place, fan.maker, fan.serial, loaded.job.wish, card.kind_name, card.waits_for]
    people = sorted({r.who for r in loaded.readings} | {h.who for h in loaded.handovers})
    cards.put(
        database,
        loaded.job.id,
        core_version=CORE_VERSION,
        waits_kind=card.waits_kind,
        search=" ".join([*written, *people]),
        body=card.model_dump(mode="json"),
    )
    return card


def _card(loaded: Loaded, computed: Frame | None) -> Card:
    job, fan = loaded.job, loaded.fan
    return Card(
        id=job.id,
        name=fan.name,
        place=fan.place,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        wish=job.wish,
        waits_for=computed.waits_for if computed else "readings disagree",
        waits_kind=computed.waits_kind if computed else "reading",
        refused=bool(computed and computed.refused),
        full_rpm=computed.full.value if computed and computed.full else None,
        zones=computed.zones if computed else (),
        marks=computed.marks if computed else (),
    )


def must_compute(state: JobState, field: str) -> Frame:
    """Compute a job as it would be after an edit; an error is put beside the field that was edited."""
    try:
        return frame(state)
    except InputError as error:
        raise InputError(field, error.value, error.allowed, error.reason) from None
