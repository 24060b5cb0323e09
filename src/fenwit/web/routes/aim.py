"""Aim: the wanted steps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.steps import even_speeds
from fenwit.store import history, jobs
from fenwit.web import routing
from fenwit.web.fields import Db, JobId
from fenwit.web.models import JobPage, Steps
from fenwit.web.page import changed, load, saving

router = routing.router("/api/jobs/{job_id}", "aim")


@router.put("/steps")
def set_steps(job_id: JobId, steps: Steps, db: Db) -> JobPage:
    """Set all wanted speeds; they are kept rising, whole rpm."""
    loaded = load(db, job_id)
    bare = frame(replace(loaded.state, wanted_rpm=(), design=None, proofs=()))
    full = bare.full
    if full is None and (steps.wanted or steps.even):
        raise InputError("wanted", len(steps.wanted), "a measured fan", "full speed must be known first")
    if full is not None and steps.even is not None:
        wanted = list(even_speeds(full.value, bare.zones, steps.even))
    else:
        wanted = sorted(_read(steps.wanted, full.value if full else 0.0))
    if steps.version == loaded.job.version:
        frame(replace(loaded.state, wanted_rpm=tuple(wanted)))
    with saving(db, loaded):
        job = jobs.save(db, job_id, steps.version, wanted_rpm=wanted)
        history.record(db, job_id, "the wanted speeds", [history.job_change(loaded.job, job)], steps.who)
    return changed(db, job_id)


def _read(wanted: Sequence[str | float], full_rpm: float) -> list[float]:
    speeds = []
    for i, item in enumerate(wanted):
        field = f"wanted[{i}]"
        if isinstance(item, str) and item.rstrip().endswith("%"):
            speed = full_rpm * q.parse(field, item, q.RATIO) / 100
        else:
            speed = q.parse(field, item, q.SPEED) if isinstance(item, str) else item
        if not 0.02 * full_rpm <= speed <= 1.005 * full_rpm:
            raise InputError(
                field,
                item,
                f"{0.02 * full_rpm:.0f} to {full_rpm:.0f} rpm",
                f"a regulator only slows a fan down; this one turns {full_rpm:.0f} rpm at full speed",
            )
        # Whole rpm, but never rounded past full speed.
        speeds.append(float(min(round(speed), round(full_rpm))))
    for i, speed in enumerate(speeds):
        twin = next((j for j, other in enumerate(speeds[:i]) if abs(other - speed) < 0.01 * full_rpm), None)
        if twin is not None:
            raise InputError(f"wanted[{i}]", wanted[i], "another speed", "two steps ask for the same speed")
    return speeds
