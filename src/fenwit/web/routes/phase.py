"""Phase angle: what it would do with a job's fan, and the firing table as a file."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from fenwit.core import CORE_VERSION
from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.knob import KnobShown, knob, usual
from fenwit.core.frame.phase import PhaseShown, phase, table_of
from fenwit.core.regulator.diac import DiacNetwork, Taper
from fenwit.core.regulator.firing import MOST_STEPS, FiringTable, Spacing
from fenwit.report.firingfile import firing_csv, firing_header
from fenwit.report.knobscale import knob_scale_svg
from fenwit.store.database import Database
from fenwit.web.models import Db, JobId, Proposed
from fenwit.web.page import load
from fenwit.web.uploads import download

router = APIRouter(prefix="/api/jobs/{job_id}", tags=["phase angle"])
Text = Annotated[str, Query(max_length=40)]
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


def _network(
    least: Text = "3k3",
    knob: Text = "470k",
    capacitor: Text = "100n",
    breakover: Text = "32",
    breakback: Text = "10",
    across: Text = "",
    second_ohm: Text = "",
    second_f: Text = "",
    taper: Taper = Taper.LINEAR,
) -> DiacNetwork:
    """A network as typed, in bench notation."""

    def maybe(name: str, text: str, dimension: q.Dimension) -> float | None:
        return q.parse(name, text, dimension) if text.strip() else None

    return DiacNetwork(
        q.parse("least", least, q.RESISTANCE),
        q.parse("knob", knob, q.RESISTANCE),
        q.parse("capacitor", capacitor, q.CAPACITANCE),
        q.parse("breakover", breakover, q.VOLTAGE),
        q.parse("breakback", breakback, q.VOLTAGE),
        maybe("across", across, q.RESISTANCE),
        maybe("second_ohm", second_ohm, q.RESISTANCE),
        maybe("second_f", second_f, q.CAPACITANCE),
        taper,
    )


Network = Annotated[DiacNetwork, Depends(_network)]


@router.get("/knob")
def show_knob(job_id: JobId, db: Db, network: Network, starts_full: bool = False) -> KnobShown:
    """What a knob with a diac network does: speed over its turn both ways, snap-on, cures, tolerance, scale."""
    return knob(load(db, job_id).state, network, starts_full)


@router.get("/knob-scale.svg", response_class=Response)
def knob_scale(job_id: JobId, db: Db, network: Network) -> Response:
    """The knob's scale in rpm, true to size, to print."""
    loaded = load(db, job_id)
    shown = knob(loaded.state, network, True)
    svg = knob_scale_svg([(m.turn, m.rpm) for m in shown.scale], loaded.fan.name)
    return download(svg.encode(), f"fenwit-knob-{job_id}.svg", "image/svg+xml", inline=True)


@router.get("/proposals")
def show_proposals(job_id: JobId, db: Db) -> list[Proposed]:
    """Resistors, knob and capacitor from preferred values, for a knob that reaches every wanted step."""
    found = usual(load(db, job_id).state)
    return [
        Proposed(
            least=q.show(p.network.least_ohm, q.RESISTANCE),
            knob=q.show(p.network.knob_ohm, q.RESISTANCE),
            capacitor=q.show(p.network.capacitance_f, q.CAPACITANCE),
            across="" if p.network.across_ohm is None else q.show(p.network.across_ohm, q.RESISTANCE),
            text=f"{p.fast_deg:.0f}° to {p.slow_deg:.0f}°",
        )
        for p in found
    ]


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
