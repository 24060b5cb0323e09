"""The door of a duty on the control lead."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.pwm.edit import DutyDesignEdit, from_card, read, typed
from fenwit.web.methods.seam import Door


def _routes() -> APIRouter:
    from fenwit.web.methods.pwm.routes import router  # they need pages, which need this door

    return router


PWM = Door(Method.PWM, DutyDesignEdit, read, typed, "duties", _routes, from_card)

__all__ = ["PWM", "DutyDesignEdit"]
