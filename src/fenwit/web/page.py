"""From stored rows to a computed job page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.caution import DEAD_READINGS, Caution, Stage, blocking
from fenwit.core.errors import InputError
from fenwit.core.frame import BankDesign, Frame, JobState, Nameplate, Proof, frame
from fenwit.core.motor.kinds import KINDS, MotorKind
from fenwit.store import designs, events, jobs, readings
from fenwit.store.database import Database
from fenwit.web.models import BankEdit, Card, Confirmed, JobPage, Printed, StageInfo, StageState, Wanted
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
)
PROVED = {
    "speed_rpm": q.SPEED,
    "motor_voltage_v": q.VOLTAGE,
    "line_current_a": q.CURRENT,
}


def state_of(
    job: jobs.Job, fan: jobs.Fan, standing: Sequence[readings.Reading], design: designs.Design | None
) -> JobState:
    """A stored job as the core sees it."""
    proofs = [r for r in standing if r.step is not None and design is not None and r.design_id == design.id]
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
        readings=tuple(
            sorted((r.quantity, r.value) for r in standing if r.step is None and r.value is not None)
        ),
        wanted_rpm=tuple(job.wanted_rpm),
        design=bank_of(design),
        proofs=tuple(
            Proof(r.step, r.quantity, r.value, r.expected_low, r.expected_high)
            for r in proofs
            if r.step is not None and r.value is not None
        ),
    )


def bank_of(design: designs.Design | None) -> BankDesign | None:
    """A stored design as the core sees it."""
    return BankDesign(design.a_f, design.b_f, tuple(design.patterns), design.tolerance) if design else None


def read_bank(edit: BankEdit) -> BankDesign:
    """A typed bank. Raises InputError naming a, b or patterns."""
    bank = BankDesign(
        q.parse("a", edit.a, q.CAPACITANCE), q.parse("b", edit.b, q.CAPACITANCE), tuple(edit.patterns)
    )
    if not bank.patterns:
        raise InputError("patterns", [], "one pattern for each step", "choose what each step joins")
    bank.circuit()
    return bank


@dataclass(frozen=True)
class Loaded:
    """One job with everything that belongs to it."""

    job: jobs.Job
    fan: jobs.Fan
    design: designs.Design | None
    readings: list[readings.Reading]
    confirmed: list[events.Event]

    @property
    def state(self) -> JobState:
        """The job as the core sees it."""
        return state_of(self.job, self.fan, readings.standing(self.readings), self.design)

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
        )


def job_page(database: Database, job_id: int) -> JobPage:
    """One job, loaded and computed. Raises NotFound."""
    return page_of(load(database, job_id))


def page_of(loaded: Loaded) -> JobPage:
    """A loaded job, computed."""
    problem, computed = None, None
    found: Sequence[Caution] = ()
    try:
        computed = frame(loaded.state)
        found = computed.cautions
    except InputError as error:
        problem = problem_of(error)
    fan, job = loaded.fan, loaded.job
    keys = loaded.confirmed_keys
    gate = blocking(found, Stage.PROVE, "speed_rpm", keys)
    return JobPage(
        stages=_stages(loaded, computed),
        saved_at=max(
            job.saved_at,
            *(r.taken_at for r in loaded.readings[-1:]),
            *([loaded.design.made_at] if loaded.design else []),
            *(e.at for e in loaded.confirmed[:1]),
        )
        if loaded.readings or loaded.design or loaded.confirmed
        else job.saved_at,
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
        wanted_readings=[_wanted(a, loaded, found, keys) for a in MEASURED],
        design=loaded.design,
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


def _stages(loaded: Loaded, computed: Frame | None) -> list[StageInfo]:
    missing = {m.stage for m in computed.missing} if computed else {Stage.IDENTIFY, Stage.MEASURE}
    refused = bool(computed and computed.refused)
    measured = {r.quantity for r in readings.standing(loaded.readings) if r.step is None}
    proved = [r for r in computed.proofs if r.quantity == "speed_rpm"] if computed else []
    read = [r for r in proved if r.verdict]
    begun_done = {
        Stage.IDENTIFY: (loaded.fan.motor_kind is not None, Stage.IDENTIFY not in missing),
        Stage.MEASURE: (bool(measured), "speed_rpm" in measured and len(measured) >= 3),
        Stage.AIM: (bool(loaded.job.wanted_rpm), bool(loaded.job.wanted_rpm)),
        Stage.SIZE: (
            loaded.design is not None,
            loaded.design is not None and computed is not None and computed.waits_kind != "size",
        ),
        Stage.PROVE: (bool(read), bool(read) and computed is not None and computed.waits_kind == "proved"),
    }
    shown = [Stage.IDENTIFY] if refused else list(Stage)
    return [
        StageInfo(
            key=stage,
            name=stage.value.capitalize(),
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


def _wanted(asked: Asked, loaded: Loaded, found: Sequence[Caution], keys: set[str]) -> Wanted:
    mine = [r for r in loaded.readings if r.step is None and r.quantity == asked.field]
    newest = mine[-1] if mine else None
    gate = blocking(found, Stage.MEASURE, asked.field, keys)
    return Wanted(
        quantity=asked.field,
        label=asked.label,
        hint=asked.hint,
        dead=asked.field in DEAD_READINGS,
        text="" if newest is None else _typed(newest.value, asked.dimension),
        reading_id=newest.id if newest else None,
        who=newest.who if newest else "",
        taken_at=newest.taken_at if newest and newest.value is not None else None,
        gated_by=gate.key if gate else None,
    )


def cards(database: Database) -> list[Card]:
    """Every job in hand, computed for the Bench."""
    with database.transaction():
        rows = jobs.every(database)
        ids = [job.id for job in rows]
        fans = jobs.fans_of(database, ids)
        latest = designs.latest(database, ids)
        by_job: dict[int, list[readings.Reading]] = {}
        for reading in readings.of_jobs(database, ids):
            by_job.setdefault(reading.job_id, []).append(reading)
    found = []
    for job in rows:
        fan = fans[job.fan_id]
        standing = readings.standing(by_job.get(job.id, []))
        found.append(_card(job, fan, standing, latest.get(job.id)))
    return found


def _card(
    job: jobs.Job, fan: jobs.Fan, standing: Sequence[readings.Reading], design: designs.Design | None
) -> Card:
    waits_for, waits_kind, computed = "", "", None
    try:
        computed = frame(state_of(job, fan, standing, design))
        waits_for, waits_kind = computed.waits_for, computed.waits_kind
    except InputError as error:
        waits_for, waits_kind = f"readings disagree: {error.reason}", "reading"
    return Card(
        id=job.id,
        name=fan.name,
        place=fan.place,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        wish=job.wish,
        waits_for=waits_for,
        waits_kind=waits_kind,
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
