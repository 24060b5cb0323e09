"""Phase angle: what it would do with a job's fan, and the firing table as a file."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from fenwit.core import CORE_VERSION
from fenwit.core.errors import InputError
from fenwit.core.frame.phase import PhaseShown, phase, table_of
from fenwit.core.regulator.firing import MOST_STEPS, FiringTable, Spacing
from fenwit.report.firingfile import firing_csv, firing_header
from fenwit.store.database import Database
from fenwit.web.models import Db, JobId
from fenwit.web.page import load
from fenwit.web.uploads import download

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["phase angle"])
Steps = Annotated[int, Query(ge=2, le=MOST_STEPS)]
_MAINS = (50.0, 60.0)


@router.get("/phase")
def show_phase(job_id: JobId, db: Db, step: Annotated[int, Query(ge=1, le=8)] = 1) -> PhaseShown:
    """The knob curve, each wanted step's firing angle and band, one step's waveforms, the parts around the triac."""
    return phase(load(db, job_id).state, step)


@router.get("/firing.csv", response_class=Response)
def firing_table_csv(
    job_id: JobId, db: Db, spacing: Spacing = Spacing.SPEED, steps: Steps = 16, both: bool = False
) -> Response:
    """The firing table as CSV; with ``both`` for 50 and 60 Hz."""
    name, tables = _tables(db, job_id, spacing, steps, both)
    data = firing_csv(tables, name, CORE_VERSION).encode()
    return download(data, f"fenwit-firing-{job_id}.csv", "text/csv; charset=utf-8")


@router.get("/firing.h", response_class=Response)
def firing_table_header(
    job_id: JobId, db: Db, spacing: Spacing = Spacing.SPEED, steps: Steps = 16, both: bool = False
) -> Response:
    """The firing table as a C header; with ``both`` for 50 and 60 Hz."""
    name, tables = _tables(db, job_id, spacing, steps, both)
    data = firing_header(tables, name, CORE_VERSION).encode()
    return download(data, f"fenwit-firing-{job_id}.h", "text/plain; charset=utf-8")


def _tables(
    db: Database, job_id: int, spacing: Spacing, steps: int, both: bool
) -> tuple[str, list[FiringTable]]:
    loaded = load(db, job_id)
    state = loaded.state
    wanted = _MAINS if both else (state.supply_frequency_hz,)
    if both and state.supply_frequency_hz not in _MAINS:
        raise InputError(
            "both",
            state.supply_frequency_hz,
            "a job on 50 or 60 Hz",
            "two tables make sense for the usual mains",
        )
    return loaded.fan.name, [table_of(state, spacing, steps, hz) for hz in wanted]
