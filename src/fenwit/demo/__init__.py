"""The demo scenario as data: an invented observatory on a mountain, and its fans."""

from __future__ import annotations

from fenwit.core import CORE_VERSION
from fenwit.core.frame.tables import snapshot
from fenwit.demo.scenario import INSTRUMENTS, JOBS, SHELF, DemoJob, day
from fenwit.store import codec, designs, events, instruments, jobs, readings, shelf
from fenwit.store.database import Database


def load(database: Database) -> bool:
    """Put the demo jobs into an empty database; returns False and changes nothing when there are jobs."""
    with database.transaction():
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
    )
    for caution, text in demo.confirmed:
        events.add(database, job.id, events.CONFIRMED, {"caution": caution, "text": text}, demo.who)
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
    if demo.bank is None:
        return
    computed = demo.computed()
    design = designs.add(
        database,
        job.id,
        after_revision=0,
        regulator=codec.dump(demo.bank),
        kept=snapshot(computed),
        core_version=CORE_VERSION,
        who=demo.who,
    )
    expected = {(row.step, row.quantity): (row.low, row.high) for row in computed.proofs}
    for step, quantity, value, typed in demo.proofs:
        readings.add(
            database,
            fan_id=fan.id,
            job_id=job.id,
            design_id=design.id,
            step=step,
            quantity=quantity,
            value=value,
            typed=typed,
            who=demo.who,
            expected=expected[step, quantity],
        )
