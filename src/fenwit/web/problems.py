"""Problem details (RFC 9457): every refusal names the field and says what to do."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, TypeAdapter

from fenwit.core.errors import InputError
from fenwit.core.work import Abandoned
from fenwit.store.errors import Busy, Conflict, NotFound, Stale, Unavailable
from fenwit.store.history import NothingToUndo
from fenwit.store.shelf import NotEnough
from fenwit.web.uploads import WrongBody

log = logging.getLogger("fenwit")


class Problem(BaseModel):
    """What went wrong, for a person and for the screen."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None
    allowed: str | None = None
    meant: str | None = None
    """What was probably meant, as it would be typed"""
    current: Any = None
    """The stored version, where a save started from an older one"""


class Gated(Exception):
    """A reading that waits for a caution."""

    def __init__(self, caution: str, text: str) -> None:
        self.caution, self.text = caution, text
        super().__init__(text)


def problem_of(error: InputError, field: str | None = None) -> Problem:
    """An input error as problem details, beside the field it was typed in."""
    return Problem(
        type="input",
        title="This cannot be used",
        status=422,
        detail=error.reason,
        field=field or error.field,
        allowed=error.allowed,
        meant=error.meant or None,
    )


def _answer(problem: Problem) -> JSONResponse:
    return JSONResponse(
        problem.model_dump(mode="json"), status_code=problem.status, media_type="application/problem+json"
    )


def install(app: FastAPI) -> None:
    """Make every error of the house answer as a problem."""

    @app.exception_handler(InputError)
    def on_input(_: Request, error: InputError) -> JSONResponse:
        return _answer(problem_of(error))

    @app.exception_handler(RequestValidationError)
    def on_request(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = [str(part) for part in first["loc"] if part not in ("body", "path", "query")]
        if place[:1] == ["design"]:
            # A design's own fields are named as in the form; which method it is of goes without saying.
            place = place[2:] or place
        return _answer(
            Problem(
                type="input",
                title="This cannot be used",
                status=422,
                detail=str(first["msg"]).removeprefix("Value error, "),
                field=".".join(place) or None,
            )
        )

    @app.exception_handler(NotFound)
    def on_missing(_: Request, error: NotFound) -> JSONResponse:
        return _answer(Problem(type="not-found", title="Not there", status=404, detail=str(error)))

    @app.exception_handler(NothingToUndo)
    def on_no_edit(_: Request, error: NothingToUndo) -> JSONResponse:
        return _answer(Problem(type="no-edit", title="Nothing there", status=422, detail=str(error)))

    @app.exception_handler(NotEnough)
    def on_few(_: Request, error: NotEnough) -> JSONResponse:
        place = f" in {error.part.place}" if error.part.place else ""
        return _answer(
            Problem(
                type="input",
                title="Not enough",
                status=422,
                detail=f"{error.wanted} wanted and {error.free} free{place}; the rest is put aside for other jobs",
                field="count",
                allowed=f"up to {error.free}",
            )
        )

    @app.exception_handler(Stale)
    def on_stale(_: Request, error: Stale) -> JSONResponse:
        current = TypeAdapter(Any).dump_python(error.current, mode="json")
        return _answer(
            Problem(
                type="stale",
                title="Changed meanwhile",
                status=409,
                detail=f"This {error.what} was changed in another window. Yours is not lost: choose which one stands.",
                current=current,
            )
        )

    @app.exception_handler(Gated)
    def on_gated(_: Request, error: Gated) -> JSONResponse:
        return _answer(
            Problem(
                type="gated",
                title="A caution comes first",
                status=403,
                detail=f"Confirm first: {error.text}",
                field=error.caution,
            )
        )

    @app.exception_handler(WrongBody)
    def on_body(_: Request, error: WrongBody) -> JSONResponse:
        detail = f"This takes a file sent as {error.wanted}."
        return _answer(Problem(type="body", title="Not taken", status=415, detail=detail))

    @app.exception_handler(Busy)
    def on_busy(_: Request, error: Busy) -> JSONResponse:
        log.warning("busy: %s", error)
        detail = (
            "Fenwit is busy just now. Nothing was saved; what you typed is still here. Try again in a moment."
        )
        return _answer(Problem(type="busy", title="Busy", status=503, detail=detail))

    @app.exception_handler(Conflict)
    def on_conflict(_: Request, error: Conflict) -> JSONResponse:
        return on_busy(_, Busy(str(error)))

    @app.exception_handler(Abandoned)
    def on_gone(_: Request, __: Abandoned) -> JSONResponse:
        # Nobody reads this: the client has gone.
        return _answer(
            Problem(type="busy", title="Ended", status=503, detail="Nobody waited for the answer.")
        )

    @app.exception_handler(Unavailable)
    def on_away(_: Request, error: Unavailable) -> JSONResponse:
        log.warning("database away: %s", error.__cause__)
        return _answer(
            Problem(
                type="unavailable",
                title="Not saved",
                status=503,
                detail=f"{str(error).capitalize()}. Nothing was saved; what you typed is still here.",
            )
        )
