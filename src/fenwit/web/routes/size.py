"""Size: the bank, and the live frame that answers a drag."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter

from fenwit.core import CORE_VERSION
from fenwit.core.frame import Frame, preview
from fenwit.store import designs, events
from fenwit.web.models import Db, JobId, JobPage, Live, NewDesign
from fenwit.web.page import job_page, load, must_compute, read_bank

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["size"])


@router.post("/live")
def live(job_id: JobId, tried: Live, db: Db) -> Frame:
    """The frame with other wanted speeds or another bank; nothing is kept."""
    loaded = load(db, job_id)
    wanted = None if tried.wanted_rpm is None else sorted(tried.wanted_rpm)
    return preview(loaded.state, wanted, read_bank(tried.bank) if tried.bank else None)


@router.post("/designs", status_code=201)
def choose_bank(job_id: JobId, new: NewDesign, db: Db) -> JobPage:
    """Keep a bank as the next revision of the design, with the core's version."""
    loaded = load(db, job_id)
    bank = read_bank(new)
    must_compute(replace(loaded.state, design=bank, proofs=()), "a")
    with db.transaction():
        design = designs.add(
            db,
            job_id,
            after_revision=new.after_revision,
            a_f=bank.a_f,
            b_f=bank.b_f,
            patterns=bank.patterns,
            tolerance=bank.tolerance,
            core_version=CORE_VERSION,
            who=new.who,
        )
        events.add(db, job_id, "bank-chosen", {"design": design.id, "revision": design.revision}, new.who)
    return job_page(db, job_id)
