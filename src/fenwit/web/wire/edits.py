"""A circuit as it is typed: a template taken, a document put in its place, or one deed."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.edits import Deed, Edit, edited
from fenwit.core.circuit.wiring.kit import KitTyped, with_kit, with_kit_of
from fenwit.core.circuit.wiring.lists import ListsTyped, with_lists, with_points
from fenwit.core.errors import InputError
from fenwit.core.frame.wire import begun_wiring
from fenwit.core.job.state import JobState
from fenwit.web.fields import Typed

MAX_BYTES = 300_000


LongLines = Annotated[str, Field(max_length=20_000)]


KitLines = Annotated[str, Field(max_length=4000)]


class KitEdit(BaseModel):
    """A replacement kit and what is wanted of it, as typed."""

    motor: Typed = ""
    old: Typed = ""
    name: Typed = ""
    classes: KitLines = ""
    speeds: KitLines = ""
    circulates: Typed = ""
    link: Typed = ""
    wanted: KitLines = ""
    idle: Typed = "off"


class ListsEdit(BaseModel):
    """Places, cables, calls that exclude each other, what is expected, points to test: as typed, in lines."""

    places: Typed = ""
    cables: LongLines = ""
    exclusive: LongLines = ""
    expect: LongLines = ""
    points: LongLines = ""


class WiringEdit(BaseModel):
    """One change of the circuit: a template taken, a document put in its place, or one deed."""

    template: Typed = ""
    document: dict[str, Any] | None = None
    deed: Deed | None = None
    what: Typed = ""
    to: Typed = ""
    key: Typed = ""
    body: Any = None
    kit: KitEdit | None = None
    kit_file: dict[str, Any] | None = None
    """A kit out of a file, for the motor that is typed"""
    lists: ListsEdit | None = None
    points: list[list[str]] | None = None
    """Points to add to the dead tests"""


def edited_wiring(state: JobState, stored: Mapping[str, Any], title: str, edit: WiringEdit) -> str:
    """The circuit after an edit, as it is kept. Raises InputError."""
    if edit.template:
        made_of = begun_wiring(state, edit.template, title)
        read_wiring(made_of)
    elif edit.document is not None:
        read_wiring(edit.document)
        made_of = edit.document
    elif edit.kit is not None:
        made_of = with_kit(stored, KitTyped(**edit.kit.model_dump()))
    elif edit.kit_file is not None:
        made_of = with_kit_of(stored, edit.kit_file)
    elif edit.lists is not None:
        made_of = with_lists(stored, ListsTyped(**edit.lists.model_dump()))
    elif edit.points is not None:
        made_of = with_points(stored, edit.points)
    elif edit.deed is not None:
        made_of = edited(stored, Edit(edit.deed, edit.what, edit.to, edit.key, edit.body))
    else:
        return ""
    kept = json.dumps(made_of, ensure_ascii=False)
    if len(kept) > MAX_BYTES:
        raise InputError("document", len(kept), f"up to {MAX_BYTES} bytes", "a circuit too large to keep")
    return kept
