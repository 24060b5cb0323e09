"""From stored rows to a computed job page."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage, blocking
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, JobState, frame
from fenwit.core.frame.plan import plan_of
from fenwit.core.job.plate import read_plate
from fenwit.core.motor.kinds import KINDS, MotorKind
from fenwit.store import history, readings
from fenwit.store.database import Database
from fenwit.web.findings import typed_findings
from fenwit.web.models import (
    Answered,
    Confirmed,
    HistoryState,
    JobPage,
    Printed,
    ReadingShown,
    Signed,
    StageInfo,
    StageState,
)
from fenwit.web.page.asked import (
    MEASURED,
    NAMEPLATE,
    fitting,
    has_control_input,
    is_mapped,
    on_dc,
    run_row,
    said_reading,
    sheet_asked,
    sweep_shown,
    typed_value,
    wanted_row,
)
from fenwit.web.page.cards import bench_page, renew, store_card
from fenwit.web.page.designs import aside_of, changes_of, design_info, design_lines
from fenwit.web.page.loading import Loaded, load, load_state, read_stored, run_state, saving, state_of
from fenwit.web.problems import problem_of
from fenwit.web.sizing import typed_profile, typed_sizing
from fenwit.web.wire.reads import wired
from fenwit.web.wire.solved import circuit_of

__all__ = [
    "Loaded",
    "bench_page",
    "changed",
    "history_state",
    "job_page",
    "load",
    "load_state",
    "must_compute",
    "page_of",
    "read_stored",
    "renew",
    "run_state",
    "saving",
    "state_of",
    "store_card",
]


def job_page(database: Database, job_id: int) -> JobPage:
    """One job, loaded and computed. Raises NotFound."""
    return page_of(database, load(database, job_id))


def changed(database: Database, job_id: int) -> JobPage:
    """The page of a job that was just saved, computed when the save stands; its card on the Bench follows."""
    loaded = load(database, job_id)
    page = page_of(database, loaded)
    store_card(database, loaded, page.frame)
    return page


def _signed(loaded: Loaded) -> list[Signed]:
    design = loaded.design
    return [
        Signed(
            id=h.id,
            who=h.who,
            note=h.note,
            recheck_on=h.recheck_on,
            core_version=h.core_version,
            at=h.at,
            revision=design.revision if design and design.id == h.design_id else None,
            imported=h.imported,
        )
        for h in loaded.handovers
    ]


def _printed(loaded: Loaded) -> list[Printed]:
    fan = loaded.fan
    rows = []
    for a in fitting(NAMEPLATE, fan.motor_kind):
        text = fan.printed.get(a.field, "")
        note = read_plate(a.field, text, loaded.job.supply_frequency_hz).note if text else ""
        shown = text or typed_value(getattr(fan, a.field), a.dimension)
        rows.append(Printed(field=a.field, label=a.label, text=shown, hint=a.hint, note=note))
    return rows


def page_of(database: Database, loaded: Loaded) -> JobPage:
    """A loaded job, computed."""
    problem, computed = None, None
    found: Sequence[Caution] = ()
    try:
        state = loaded.state
        computed = frame(state)
        found = computed.cautions
    except InputError as error:
        problem = problem_of(error)
        state = loaded.usable
    fan, job = loaded.fan, loaded.job
    sheet = sheet_asked(state.findings)
    keys = loaded.confirmed_keys
    gate = blocking(found, Stage.PROVE, "speed_rpm", keys)
    return JobPage(
        stages=_stages(loaded, computed),
        saved_at=job.saved_at,
        job=job,
        fan=fan,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        supply_volts_text=q.show(job.supply_voltage_v, q.VOLTAGE, 4),
        commanded=is_mapped(fan.motor_kind),
        planned=_planned(loaded),
        control_input=has_control_input(fan.motor_kind),
        supply_hertz_text="" if on_dc(fan.motor_kind) else q.show(job.supply_frequency_hz, q.FREQUENCY, 4),
        printed=_printed(loaded),
        wanted_readings=[wanted_row(a, loaded, found, keys) for a in fitting(MEASURED, fan.motor_kind)],
        sheet_readings=[
            wanted_row(a, loaded, found, keys, Stage.IDENTIFY) for a in sheet_asked(state.findings)
        ],
        runs=[
            run_row(run, loaded, found, keys)
            for run in loaded.runs
            if not run.gone and run.frequency_hz is None
        ],
        sweep=sweep_shown(loaded, found, keys),
        findings=typed_findings(state.findings),
        answered=[
            Answered(method=str(e.detail["method"]), reason=str(e.detail["reason"]), who=e.who, at=e.at)
            for e in loaded.answered
        ],
        design=design_info(loaded),
        filed_under=loaded.design.root if loaded.design and loaded.design.regulator is not None else None,
        designs=design_lines(loaded),
        last_revision=loaded.design.revision if loaded.design else 0,
        changes=changes_of(loaded, computed),
        profile=typed_profile(state.profile),
        bands_apart=state.profile.bands_apart,
        starts_low=state.profile.starts_low,
        sizing=typed_sizing(state.sizing),
        aside=aside_of(database, loaded, computed),
        handovers=_signed(loaded),
        history=history_state(loaded.history),
        readings=[ReadingShown(**vars(r), said=said_reading(r, sheet)) for r in loaded.readings],
        confirmed=[
            Confirmed(
                caution=str(e.detail.get("caution")),
                who=e.who,
                at=e.at,
                text=str(e.detail.get("text", "")),
                brief=str(e.detail.get("brief", "")),
                said=str(e.detail.get("said", "")),
                do=str(e.detail.get("do", "")),
            )
            for e in loaded.confirmed_here
        ],
        prove_gated_by=gate.key if gate else None,
        frame=computed,
        problem=problem,
    )


def _planned(loaded: Loaded) -> bool:
    """Whether there is an order of work; a job that cannot be computed has none."""
    try:
        return bool(plan_of(loaded.state))
    except InputError:
        return False


def history_state(stacks: history.Stacks) -> HistoryState:
    """What undo and redo would do next."""
    return HistoryState(
        undo=str(stacks.undo[-1].detail["label"]) if stacks.undo else "",
        redo=str(stacks.redo[-1].detail["label"]) if stacks.redo else "",
    )


_ONLY_WIRED = (Stage.IDENTIFY, Stage.MEASURE, Stage.INSPECT, Stage.WIRE, Stage.HAND_OVER)


def _wired(loaded: Loaded) -> tuple[bool, bool]:
    return wired(circuit_of(loaded.job.wiring), loaded.readings)


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
        Stage.INSPECT: (
            bool(loaded.job.board),
            bool(loaded.job.board) and bool(loaded.job.board.get("found")),
        ),
        Stage.AIM: (bool(loaded.job.wanted_rpm), bool(loaded.job.wanted_rpm)),
        # What matters was said, or a method picked, though nothing of it is sized yet.
        Stage.CHOOSE: (chosen or bool(loaded.job.sizing), chosen),
        Stage.SIZE: (chosen, chosen and computed is not None and computed.waits_kind != "size"),
        Stage.HOLD: (bool(loaded.job.hold), bool(loaded.job.hold)),
        Stage.WIRE: _wired(loaded),
        Stage.PROVE: (bool(read), bool(read) and computed is not None and computed.waits_kind == "proved"),
        Stage.HAND_OVER: (bool(loaded.handovers), any(not h.imported for h in loaded.handovers)),
    }
    unsized = bool(computed and computed.unsized)
    shown = [Stage.IDENTIFY] if refused else [Stage.IDENTIFY, Stage.MEASURE] if unsized else list(Stage)
    # Where no control came in there is nothing to inspect; one that did is looked at whatever the motor.
    # Only a fan that takes a command can hold something by itself.
    if not is_mapped(loaded.fan.motor_kind):
        shown = [s for s in shown if s is not Stage.HOLD]
    if Stage.WIRE not in shown and loaded.job.wiring and not refused:
        shown.append(Stage.WIRE)
    # Nothing but wiring: what belongs to a measured fan comes when something is measured.
    if loaded.job.wiring and not (measured or loaded.job.wanted_rpm or chosen):
        shown = [s for s in shown if s in _ONLY_WIRED]
    if not loaded.job.board:
        shown = [s for s in shown if s is not Stage.INSPECT]
    elif Stage.INSPECT not in shown:
        shown.append(Stage.INSPECT)
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


def must_compute(state: JobState, field: str) -> Frame:
    """Compute a job as it would be after an edit; an error is put beside the field that was edited."""
    try:
        return frame(state)
    except InputError as error:
        raise InputError(field, error.value, error.allowed, error.reason) from None
