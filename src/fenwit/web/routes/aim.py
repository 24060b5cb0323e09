"""Aim: the wanted steps."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.air import air_of
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.steps import even_speeds
from fenwit.core.job.air import JobAir, TargetKind, read_target
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
        meant = [""] * len(wanted)
    else:
        pairs = _read(steps.wanted, air_of(must_know(loaded.state))) if full is not None else []
        wanted = [speed for speed, _ in pairs]
        # What stood there already keeps what was meant by it.
        before = dict(zip(loaded.job.wanted_rpm, loaded.job.meant, strict=False))
        meant = [before.get(speed, "") if said is None else said for speed, said in pairs]
    if steps.version == loaded.job.version:
        frame(replace(loaded.state, wanted_rpm=tuple(wanted), meant=tuple(meant)))
    with saving(db, loaded):
        job = jobs.save(db, job_id, steps.version, wanted_rpm=wanted, meant=meant)
        history.record(db, job_id, "the wanted speeds", [history.job_change(loaded.job, job)], steps.who)
    return changed(db, job_id)


def _read(wanted: Sequence[str | float], air: JobAir) -> list[tuple[float, str | None]]:
    """Speeds, rising, each with what was meant; None for one that was only dragged or stood there already."""
    full_rpm = air.full_rpm
    found: list[tuple[float, str | None]] = []
    for i, item in enumerate(wanted):
        field = f"wanted[{i}]"
        said: str | None = None
        speed = item
        if isinstance(item, str):
            target = read_target(field, item)
            speed = air.speed_for(field, target)
            said = "" if target.kind is TargetKind.SPEED else target.text
        if not 0.02 * full_rpm <= float(speed) <= 1.005 * full_rpm:
            raise InputError(
                field,
                item,
                f"{0.02 * full_rpm:.0f} to {full_rpm:.0f} rpm",
                f"a regulator only slows a fan down; this one turns {full_rpm:.0f} rpm at full speed",
            )
        # Whole rpm, but never rounded past full speed, nor below what safety asks for.
        rpm = float(min(round(float(speed)), round(full_rpm)))
        if air.least_rpm is not None and rpm < air.least_rpm:
            if float(speed) < air.least_rpm * 0.998:
                raise InputError(field, item, f"at least {air.least_rpm:.0f} rpm", air.least_words)
            rpm = float(math.ceil(air.least_rpm))
        twin = next((i for i, (other, _) in enumerate(found) if abs(other - rpm) < 0.01 * full_rpm), None)
        if twin is not None:
            reason = f"it comes to {rpm:.0f} rpm, and another step asks for the same speed"
            raise InputError(field, item, "another speed", reason)
        found.append((rpm, said))
    return sorted(found, key=lambda pair: pair[0])
