"""The door of a chopped supply."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.chopped_supply.edit import ChopEdit, read, typed
from fenwit.web.methods.seam import Door


def _routes() -> APIRouter:
    from fenwit.web.methods.chopped_supply.routes import router  # they need pages, which need this door

    return router


CHOPPED_SUPPLY = Door(Method.CHOPPED_SUPPLY, ChopEdit, read, typed, "duties", _routes)

__all__ = ["CHOPPED_SUPPLY", "ChopEdit"]
