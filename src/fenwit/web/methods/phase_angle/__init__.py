"""The door of a phase-angle control."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.phase_angle.edit import PhaseEdit, read, typed
from fenwit.web.methods.seam import Door


def _routes() -> APIRouter:
    from fenwit.web.methods.phase_angle.routes import router  # they need pages, which need this door

    return router


PHASE_ANGLE = Door(Method.PHASE_ANGLE, PhaseEdit, read, typed, "angles", _routes)

__all__ = ["PHASE_ANGLE", "PhaseEdit"]
