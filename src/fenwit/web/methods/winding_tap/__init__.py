"""The door of winding taps."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.seam import Door
from fenwit.web.methods.winding_tap.edit import TapsEdit, read, typed


def _routes() -> APIRouter:
    from fenwit.web.methods.winding_tap.routes import router  # they need pages, which need this door

    return router


WINDING_TAP = Door(Method.WINDING_TAP, TapsEdit, read, typed, "positions", _routes)

__all__ = ["WINDING_TAP", "TapsEdit"]
