"""The application: routers, problems, and the built front end."""

from __future__ import annotations

import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

import anyio.to_thread
from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from fenwit import __version__
from fenwit.store.database import Database
from fenwit.web import problems
from fenwit.web.guard import Guard, Hosts
from fenwit.web.methods import DOORS
from fenwit.web.page import renew
from fenwit.web.problems import Problem, log
from fenwit.web.routes import (
    aim,
    air,
    bench,
    choose,
    commanded,
    desk,
    devices,
    handover,
    hold,
    identify,
    inspect,
    instruments,
    measure,
    plan,
    shelf,
    size,
    wire,
)
from fenwit.web.settings import folder

_REFUSALS: dict[int | str, dict[str, object]] = {
    code: {"model": Problem, "description": text, "content": {"application/problem+json": {}}}
    for code, text in (
        (400, "The body cannot be decoded"),
        (403, "A caution comes first, or a foreign page asks"),
        (404, "Not there"),
        (405, "Not done here"),
        (409, "Changed meanwhile"),
        (413, "Too long"),
        (415, "A body of another kind"),
        (421, "Not the address that was bound"),
        (422, "Cannot be used"),
        (503, "The database does not answer"),
    )
}

NOWHERE = Hosts("")
_RENEW_SECONDS = 20.0


def _renew_cards(database: Database, done: threading.Event) -> None:
    """Bring cards of another core, and those a crash left behind, up to date, again and again, one process at a time."""
    pause = 1.0
    while not done.wait(pause):
        try:
            made = renew(database, done.is_set, since_s=_RENEW_SECONDS)
            if made:
                log.warning("%s cards of the Bench made anew", made)
        except Exception as error:  # the next round tries again
            log.warning("the cards of the Bench wait: %s", error)
        pause = _RENEW_SECONDS


AT_ONCE = 6
"""Requests that are worked on in one process at a time [-]"""


def create_app(database: Database | None, frontend: Path | None = None, *, hosts: Hosts = NOWHERE) -> FastAPI:
    """The application on a database; None only to print the schema. It answers under ``hosts`` and nothing else."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        # Few at a time are done sooner than many at once: they all want the same processor.
        anyio.to_thread.current_default_thread_limiter().total_tokens = AT_ONCE
        if database is None:
            yield
            return
        database.open()
        done = threading.Event()
        renewing = threading.Thread(target=_renew_cards, args=(database, done), daemon=True)
        renewing.start()
        yield
        done.set()
        await anyio.to_thread.run_sync(renewing.join, 10.0)
        database.close()

    app = FastAPI(title="Fenwit", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.database = database
    app.add_middleware(Guard, hosts=hosts)
    # The import of a job comes before the routes that take a job's number.
    for module in (
        handover,
        bench,
        identify,
        measure,
        inspect,
        aim,
        air,
        commanded,
        choose,
        size,
        hold,
        wire,
        plan,
        shelf,
        instruments,
        devices,
        desk,
    ):
        app.include_router(module.router, responses=_REFUSALS)
    for door in DOORS:
        app.include_router(door.routes(), responses=_REFUSALS)
    problems.install(app)
    dist = frontend or folder("FENWIT_FRONTEND")
    if (dist / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=dist / "assets"), name="assets")

    @app.exception_handler(HTTPException)
    def on_http(request: Request, error: HTTPException) -> Response:
        page = dist / "index.html"
        wants_page = request.method in ("GET", "HEAD") and not request.url.path.startswith(
            ("/api", "/assets")
        )
        if error.status_code == 404 and wants_page and page.is_file():
            return FileResponse(page, headers={"Cache-Control": "no-cache"})
        problem = Problem(type="http", title="Not there", status=error.status_code, detail=str(error.detail))
        return JSONResponse(
            problem.model_dump(mode="json"), error.status_code, media_type="application/problem+json"
        )

    return app
