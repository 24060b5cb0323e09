"""The door of a bank of capacitors."""

from __future__ import annotations

from fastapi import APIRouter

from fenwit.core.motor.kinds import Method
from fenwit.web.methods.seam import Door
from fenwit.web.methods.series_capacitor.edit import BankEdit, read, typed


def _routes() -> APIRouter:
    from fenwit.web.methods.series_capacitor.routes import router  # they need pages, which need this door

    return router


SERIES_CAPACITOR = Door(Method.SERIES_CAPACITOR, BankEdit, read, typed, "a", _routes)

__all__ = ["SERIES_CAPACITOR", "BankEdit"]
