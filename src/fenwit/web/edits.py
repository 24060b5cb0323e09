"""What Identify and Measure take in: leads, blocks, what was seen, runs, answers to refusals, instruments."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from fenwit.core.size.classes import PartClass
from fenwit.web.fields import LongWords, Name, Typed, Version, Words


class LeadEdit(BaseModel):
    """A lead as typed; the key is given back as it was, or empty for a new lead."""

    key: Annotated[str, Field(max_length=8, pattern=r"^[a-z0-9]*$")] = ""
    name: Typed
    colour: Typed = ""
    seen: Typed = ""
    """What it was seen wired to: common, capacitor, tap, or empty"""


class SectionEdit(BaseModel):
    """A section of a capacitor block as typed."""

    name: Annotated[Typed, Field(max_length=12)]
    lead_a: Typed
    lead_b: Typed
    rated: Typed
    part_class: Typed = PartClass.MOTOR_RUN.value
    tolerance: Typed = ""
    """Empty: the usual one of the class"""


class BlockStepEdit(BaseModel):
    """What the switch does at one step: leads on line like "1+2" (empty: direct), and leads joined like "2=3"."""

    name: Typed
    line: Typed = ""
    joined: Typed = ""


class BlockEdit(BaseModel):
    """A capacitor block as typed."""

    sections: Annotated[list[SectionEdit], Field(max_length=6)]
    motor_lead: Typed
    auxiliary_lead: Typed = ""
    steps: Annotated[list[BlockStepEdit], Field(max_length=8)] = []


class FindingsEdit(BaseModel):
    """What was seen on a motor; what is left out stays as it is."""

    observed: dict[Typed, bool | None] | None = None
    """Observations to set; null takes one back"""
    kind_reason: LongWords | None = None
    duty: Typed | None = None
    leads: Annotated[list[LeadEdit], Field(max_length=12)] | None = None
    probe: Typed | None = None
    start_branch: Typed | None = None
    """whole-supply, main-section, or empty: not known"""
    gauge: Annotated[list[Typed], Field(max_length=8)] | None = None
    switch_share: Typed | None = None
    block: BlockEdit | None = None
    no_block: bool = False
    spare: Annotated[list[SectionEdit], Field(max_length=6)] | None = None


class NewRun(BaseModel):
    """A run away from full speed: what stands in the line."""

    what: Typed
    text: Typed = ""
    who: Words = ""


class Begun(BaseModel):
    """Somebody begins something."""

    who: Words = ""


class Override(BaseModel):
    """Somebody answers for a method against a refusal."""

    method: Typed
    reason: LongWords
    who: Words


class RangeEdit(BaseModel):
    """One range of a meter as typed, in bench notation."""

    quantity: Typed
    up_to: Typed
    percent: Typed
    digits: Typed = "0"
    resolution: Typed = ""


class InstrumentEdit(BaseModel):
    """A meter as typed."""

    version: Version = 0
    name: Name
    true_rms: bool = True
    ranges: Annotated[list[RangeEdit], Field(max_length=40)] = []
    gone: bool = False


class InstrumentShown(BaseModel):
    """A meter of the register."""

    id: int
    version: int
    name: str
    true_rms: bool
    ranges: list[RangeEdit]
    text: str
