"""The door of lowered DC volts."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.dc_voltage.edit import VoltsEdit, read, typed
from fenwit.web.methods.seam import Door


def _routes() -> APIRouter:
    from fenwit.web.methods.dc_voltage.routes import router  # they need pages, which need this door

    return router


DC_VOLTAGE = Door(Method.DC_VOLTAGE, VoltsEdit, read, typed, "settings", _routes)

__all__ = ["DC_VOLTAGE", "VoltsEdit"]
