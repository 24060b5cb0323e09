"""What the door of a method is to the rest of the web wing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from fenwit.core.job.state import Design, JobState
from fenwit.core.motor.kinds import Method
from fenwit.store.database import Database


@dataclass(frozen=True)
class Door:
    """How designs of one method come in and go out."""

    key: Method
    edit: type[BaseModel]
    read: Callable[[Database, JobState, Any], Design]
    """A typed design. Raises InputError beside the field"""
    typed: Callable[[Any], BaseModel]
    """A design as it would be typed"""
    field: str
    """Beside which an error of the design as a whole is shown"""
    routes: Callable[[], APIRouter]
    """What only this method answers to; called when the application is made"""
    from_card: Callable[[str, Mapping[str, str], Any], BaseModel | None] = lambda card, values, edit: None
    """A typed design with what a card of the Desk worked out put in; None where it takes nothing from that card"""
