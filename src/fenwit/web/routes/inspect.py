"""Inspect: the control that came in."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query, Response
from pydantic import BaseModel

from fenwit.core.errors import InputError
from fenwit.core.frame.inspect import InspectShown, inspect
from fenwit.core.frame.spice import place_netted
from fenwit.core.inspect.circuits import board_circuit, drawing_of, ref_of
from fenwit.core.inspect.faults import plain_value
from fenwit.core.inspect.values import values_of
from fenwit.report.picture import picture_svg
from fenwit.report.schematic import schematic_picture
from fenwit.report.spice import netlist
from fenwit.web import routing
from fenwit.web.board import BoardTyped, typed_board
from fenwit.web.fields import Db, JobId
from fenwit.web.heavy import HEAVY
from fenwit.web.page import load_state
from fenwit.web.uploads import download

router = routing.router("/api/jobs/{job_id}", "inspect")


class InspectPage(BaseModel):
    """The board as it stands in its inputs, and everything computed of it."""

    typed: BoardTyped | None
    shown: InspectShown


@router.get("/inspect", dependencies=[HEAVY])
def show_inspect(
    job_id: JobId,
    db: Db,
    suppose: Annotated[str, Query(max_length=80)] = "",
    beside: bool = False,
    quick: bool = False,
) -> InspectPage:
    """The control that came in, judged; with a fault supposed in it, or beside the design, where that is asked for."""
    state = load_state(db, job_id)
    return InspectPage(typed=typed_board(state.board), shown=inspect(state, suppose, beside, quick))


@router.get("/inspect.cir", response_class=Response, dependencies=[HEAVY])
def inspect_netlist(job_id: JobId, db: Db, at: Annotated[float, Query(ge=0, le=200)] = 0.5) -> Response:
    """One place of the control that came in, as a SPICE netlist."""
    text = netlist(place_netted(load_state(db, job_id), at))
    return download(text.encode(), f"fenwit-control-{job_id}.cir", "text/plain; charset=utf-8")


@router.get("/inspect.svg", response_class=Response)
def draw_inspect(job_id: JobId, db: Db) -> Response:
    """The control as it was read, drawn."""
    board = load_state(db, job_id).board
    if board is None:
        raise InputError("board", None, "a control that was told of", "no control came in with this job")
    values = values_of(board).likely
    circuit = board_circuit(board, values)
    labels = {
        ref_of(key): f"{ref_of(key)} {plain_value(board, key)}".strip() for key in board.keys if key in values
    }
    drawn = schematic_picture(
        drawing_of(board, circuit), labels, "L", "Schematic of the control that came in"
    )
    return download(picture_svg(drawn).encode(), f"fenwit-control-{job_id}.svg", "image/svg+xml", inline=True)
