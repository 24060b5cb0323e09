"""The door of resistors in the line."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.seam import Door
from fenwit.web.methods.series_resistor.edit import ResistorsEdit, read, typed


def _routes() -> APIRouter:
    from fenwit.web.methods.series_resistor.routes import router  # they need pages, which need this door

    return router


SERIES_RESISTOR = Door(Method.SERIES_RESISTOR, ResistorsEdit, read, typed, "resistors", _routes)

__all__ = ["SERIES_RESISTOR", "ResistorsEdit"]
