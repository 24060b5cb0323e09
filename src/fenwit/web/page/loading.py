"""From stored rows to a job as the core sees it."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar

from fenwit.core.calibrate.datum import OhmsAt, Warmth
from fenwit.core.errors import InputError
from fenwit.core.frame import JobState, Nameplate, Proof
from fenwit.core.job.air import AirSheet
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.hold import HoldSheet
from fenwit.core.job.state import InLine, RunState, with_usual_method
from fenwit.core.memory import Memory
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.store import codec, designs, events, handovers, history, jobs, readings, runs, shelf
from fenwit.store.database import Connection, Database
from fenwit.web.board import board_of
from fenwit.web.findings import findings_of
from fenwit.web.sizing import profile_of, sizing_of

T = TypeVar("T")


UNREADABLE = "stored"
"""Field of the refusal of what this version cannot read; no input has this name"""


def read_stored(what: str, read: Callable[[], T]) -> T:
    """A stored document; raises InputError where this version cannot read it."""
    try:
        return read()
    except (ValueError, InputError) as error:
        first = (str(error).strip().splitlines() or [""])[0][:120]
        reason = f"{what} of this job cannot be read by this version: {first}"
        raise InputError(UNREADABLE, what, "what this version reads", reason) from error


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
    regulator = design.regulator if design else None
    filed = design.root if design and regulator is not None else None
    return with_usual_method(
        JobState(
            kind=MotorKind(fan.motor_kind) if fan.motor_kind else None,
            nameplate=Nameplate(
                fan.poles,
                fan.rated_voltage_v,
                fan.rated_frequency_hz,
                fan.rated_speed_rpm,
                fan.rated_current_a,
                fan.rated_power_w,
                fan.run_capacitance_f,
                fan.apparent_power_va,
                fan.airflow_m3_per_s,
                fan.sweep_m,
                fan.ambient_c,
            ),
            supply_voltage_v=job.supply_voltage_v,
            supply_frequency_hz=job.supply_frequency_hz,
            readings=tuple(sorted((r.quantity, r.value) for r in plain if r.value is not None)),
            wanted_rpm=tuple(job.wanted_rpm),
            design=read_stored("the design", lambda: codec.load_design(regulator))
            if regulator is not None
            else None,
            proofs=tuple(
                Proof(r.step, r.quantity, r.value, r.expected_low, r.expected_high)
                for r in standing
                if r.step is not None and r.value is not None and filed is not None and r.design_id == filed
            ),
            profile=read_stored("the acceptance profile", lambda: profile_of(job.profile)),
            air=read_stored("the air", lambda: codec.load(AirSheet, job.air)),
            meant=tuple(job.meant),
            commanded=read_stored(
                "what is known of the fan", lambda: codec.load(CommandSheet, job.commanded)
            ),
            hold=read_stored("what the fan holds by itself", lambda: codec.load(HoldSheet, job.hold)),
            board=read_stored("the control that came in", lambda: board_of(job.board)),
            sizing=read_stored(
                "what the search works with", lambda: sizing_of(job.sizing, len(job.wanted_rpm))
            ),
            sigmas=tuple(sorted((r.quantity, r.sigma) for r in plain if r.sigma is not None)),
            windings=tuple(
                sorted(
                    (
                        (r.quantity, OhmsAt(Warmth(r.winding), r.winding_c))
                        for r in plain
                        if r.winding is not None
                    ),
                    key=lambda said: said[0],
                )
            ),
            runs=tuple(run_state(run, believed) for run in run_rows if not run.gone),
            findings=read_stored("what was found out", lambda: findings_of(fan.findings)),
            overridden=frozenset(Method(e.detail["method"]) for e in answers),
        )
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
        run.frequency_hz,
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
    mark: str
    """Changes whenever anything of the job is saved"""

    @cached_property
    def state(self) -> JobState:
        """The job as the core sees it."""
        return state_of(
            self.job, self.fan, readings.standing(self.readings), self.design, self.runs, self.answered
        )

    @property
    def usable(self) -> JobState:
        """The job as the core sees it, without what this version cannot read."""
        try:
            return self.state
        except InputError:
            return self.bare

    @property
    def bare(self) -> JobState:
        """The job without what this version cannot read."""
        standing = readings.standing(self.readings)
        with contextlib.suppress(InputError):
            return state_of(self.job, self.fan, standing, None, self.runs, self.answered)
        return state_of(
            replace(self.job, profile={}, sizing={}, board={}, air={}, commanded={}, hold={}, wiring=""),
            replace(self.fan, findings={}),
            [],
            None,
        )

    @property
    def confirmed_keys(self) -> set[str]:
        """Keys of the cautions that were confirmed."""
        return {str(e.detail.get("caution")) for e in self.confirmed_here}

    @property
    def confirmed_here(self) -> list[events.Event]:
        """Confirmations somebody gave at this bench: those that came with a file make nobody safe."""
        return [e for e in self.confirmed if not e.detail.get("imported")]


def load(database: Database, job_id: int) -> Loaded:
    """Read one job in one transaction. Raises NotFound.

    What was read last is used again while the database says that neither job nor fan was saved since: every save of
    anything that belongs to a job touches it. So any number of processes may answer.
    """
    inside = database.inside
    with database.transaction():
        # First of all: what is saved while the rest is read shows in the mark when it comes to saving.
        mark = jobs.mark(database, job_id)
        kept = _JOBS.get((database.url, job_id))
        if isinstance(kept, Loaded) and kept.mark == mark:
            return kept
        job = jobs.get(database, job_id)
        loaded = Loaded(
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
            mark,
        )
    if not inside:
        # Of a transaction that may yet be undone nothing is kept.
        _JOBS.put((database.url, job_id), loaded)
    return loaded


@contextlib.contextmanager
def saving(database: Database, loaded: Loaded) -> Iterator[Connection]:
    """A transaction that finds the job as it was loaded, and holds others off it.

    What is costly is computed before; in here there is only writing. Raises Conflict when something of the job was
    saved since it was loaded; a route is then tried again from its beginning.
    """
    with database.transaction() as connection:
        jobs.touch(database, loaded.job.id, loaded.mark)
        yield connection


_JOBS = Memory(96_000_000)
"""Jobs as they were loaded last, by the mark that says whether anything of them was saved since"""


def load_state(database: Database, job_id: int) -> JobState:
    """Only what numbers depend on, for answering a drag. Raises NotFound."""
    return load(database, job_id).state
