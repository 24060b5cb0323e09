"""The door of transformers with taps."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.seam import Door
from fenwit.web.methods.stepped_voltage.edit import SteppedEdit, read, typed


def _routes() -> APIRouter:
    from fenwit.web.methods.stepped_voltage.routes import router  # they need pages, which need this door

    return router


STEPPED_VOLTAGE = Door(Method.STEPPED_VOLTAGE, SteppedEdit, read, typed, "taps", _routes)

__all__ = ["STEPPED_VOLTAGE", "SteppedEdit"]
