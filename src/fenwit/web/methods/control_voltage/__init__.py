"""The door of a voltage on the control input."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.control_voltage.edit import ControlDesignEdit, from_card, read, typed
from fenwit.web.methods.seam import Door


def _routes() -> APIRouter:
    from fenwit.web.methods.control_voltage.routes import router  # they need pages, which need this door

    return router


CONTROL_VOLTAGE = Door(Method.CONTROL_VOLTAGE, ControlDesignEdit, read, typed, "volts", _routes, from_card)

__all__ = ["CONTROL_VOLTAGE", "ControlDesignEdit"]
