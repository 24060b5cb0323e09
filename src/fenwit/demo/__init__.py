"""The demo scenario as data: an invented observatory on a mountain, and its fans."""

from __future__ import annotations

import json

from fenwit.core import CORE_VERSION
from fenwit.core.frame import frame
from fenwit.core.frame.tables import snapshot
from fenwit.demo.scenario import INSTRUMENTS, JOBS, SHELF, DemoDesign, DemoJob, day
from fenwit.demo.scope import captured_at
from fenwit.store import captures, codec, designs, events, instruments, jobs, readings, runs, shelf
from fenwit.store.database import Database

COMPUTING_SECONDS = 600
"""What the demo jobs' predictions may take on a slow machine [s]"""


def load(database: Database) -> bool:
    """Put the demo jobs into an empty database; returns False and changes nothing when there are jobs."""
    with database.transaction(idle_seconds=COMPUTING_SECONDS):
        if jobs.every(database, limit=1):
            return False
        for demo in JOBS:
            _load(database, demo)
        for part in SHELF:
            shelf.add(database, {**vars(part), "class_": part.part_class.value, "gone": False})
        for meter in INSTRUMENTS:
            instruments.add(database, codec.dump(meter))
    return True


def _load(database: Database, demo: DemoJob) -> None:
    job = jobs.add(database, name=demo.name, place=demo.place, wish=demo.wish)
    fan = jobs.get_fan(database, job.fan_id)
    jobs.save_fan(database, jobs.Fan(**{**fan.__dict__, **demo.fan, "findings": codec.dump(demo.findings)}))
    jobs.save(
        database,
        job.id,
        job.version,
        wanted_rpm=demo.wanted_rpm,
        sizing=codec.dump(demo.sizing) if demo.sizing else None,
        board=codec.dump(demo.board) if demo.board else None,
        air=None if demo.air.empty else codec.dump(demo.air),
        commanded=None if demo.commanded.empty else codec.dump(demo.commanded),
        hold=None if demo.hold.empty else codec.dump(demo.hold),
        wiring=json.dumps(demo.wiring, ensure_ascii=False) if demo.wiring else None,
        supply_voltage_v=demo.supply_voltage_v,
    )
    for caution, text in demo.confirmed:
        events.add(database, job.id, events.CONFIRMED, {"caution": caution, "text": text}, demo.who)
    for made in demo.runs:
        run = runs.add(
            database,
            job.id,
            what=made.what.value,
            value=made.value,
            typed=made.typed,
            who=demo.who,
            frequency_hz=made.frequency_hz,
        )
        for quantity, value, typed in made.readings:
            readings.add(
                database,
                fan_id=fan.id,
                job_id=job.id,
                quantity=quantity,
                value=value,
                typed=typed,
                who=demo.who,
                run_id=run.id,
            )
    for quantity, value, typed in demo.readings:
        readings.add(
            database, fan_id=fan.id, job_id=job.id, quantity=quantity, value=value, typed=typed, who=demo.who
        )
    standing: dict[str, int] = {}
    for iso, quantity, value, typed in demo.earlier:
        standing[quantity] = readings.add(
            database, fan_id=fan.id, job_id=job.id, quantity=quantity, value=value, typed=typed, who=demo.who,
            supersedes=standing.get(quantity), taken_at=day(iso),
        ).id  # fmt: skip
    revision = 0
    for design in demo.designs:
        revision = _choose(database, demo, design, job.id, fan.id, revision)


def _choose(
    database: Database, demo: DemoJob, chosen: DemoDesign, job_id: int, fan_id: int, after: int
) -> int:
    """Put a design with its readings into a job; returns its last revision."""
    state = demo.state(chosen.regulator)
    computed = frame(state)
    design = designs.add(
        database, job_id, after_revision=after, regulator=codec.dump_design(chosen.regulator), kept=snapshot(computed),
        core_version=CORE_VERSION, who=demo.who, name=chosen.name,
    )  # fmt: skip
    expected = {(row.step, row.quantity): (row.low, row.high) for row in computed.proofs}

    def read(step: int, quantity: str, value: float, typed: str) -> None:
        readings.add(
            database, fan_id=fan_id, job_id=job_id, design_id=design.id, step=step, quantity=quantity, value=value,
            typed=typed, who=demo.who, expected=expected[step, quantity],
        )  # fmt: skip

    for step, quantity, value, typed in chosen.proofs:
        read(step, quantity, value, typed)
    for step in chosen.captured:
        shown = captured_at(state, step)
        captures.add(
            database, job_id, design_id=design.id, step=step, name=f"step-{step}.csv", shown=codec.dump(shown),
            who=demo.who,
        )  # fmt: skip
        for found in shown.found:
            if (step, found.quantity) in expected:
                read(step, found.quantity, found.value, found.text)
    if not chosen.taken_out:
        return design.revision
    return designs.add(
        database, job_id, after_revision=design.revision, regulator=None, kept=None, core_version=CORE_VERSION,
        who=demo.who,
    ).revision  # fmt: skip
