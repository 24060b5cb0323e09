"""What the Wire stage shows."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from fenwit.core.circuit.wiring.parts import Kind
from fenwit.web.wire.edits import KitEdit, ListsEdit
from fenwit.web.wire.reads import ReadShown


class TemplateShown(BaseModel):
    """A circuit to begin with."""

    key: str
    name: str
    words: str


class Runs(BaseModel):
    """What one part does in a row."""

    part: str
    words: str
    on: bool


class WireRow(BaseModel):
    """One call or position."""

    cells: list[str]
    marks: list[bool]
    """Whether a cell is a call that is on, or a position other than the first"""
    settled: str
    runs: list[Runs]
    va: str
    also: list[str]
    interim: list[str]
    air: list[str]
    """What is known of the speed and the air it gives"""
    unmet: list[str]
    alive: list[str]
    hot: list[str]
    """Nets on any hot rail, of mains or of low voltage"""
    closed: list[str]
    on: list[str]
    hazards: list[int]
    read: ReadShown


class FlagShown(BaseModel):
    """Words on the drawing, in a frame, with where a line leads from it."""

    lines: list[str]
    x: float
    y: float
    width: float
    height: float
    to_x: float
    to_y: float


class HazardShown(BaseModel):
    """What is dangerous, harmful or wrong."""

    kind: str
    severity: str
    words: str
    remedy: str
    when: str
    passing: bool
    parts: list[str]
    nets: list[str]
    pins: list[str]
    flag: FlagShown | None
    """None where so many are said already that the drawing would be hidden"""


class PinShown(BaseModel):
    """A terminal on the drawing."""

    terminal: str
    name: str
    x: float
    y: float
    left: bool
    net: str


class BladeShown(BaseModel):
    """A contact on the drawing."""

    key: str
    x1: float
    y1: float
    x2: float
    y2: float


class BoxShown(BaseModel):
    """A part on the drawing."""

    part: str
    kind: Kind
    words: str
    x: float
    y: float
    width: float
    height: float
    pins: list[PinShown]
    blades: list[BladeShown]


class PieceShown(BaseModel):
    """A straight piece of a net."""

    x1: float
    y1: float
    x2: float
    y2: float


class DotShown(BaseModel):
    """Where wires are joined."""

    x: float
    y: float


class NetRunShown(BaseModel):
    """A net on the drawing."""

    net: str
    purpose: str
    pieces: list[PieceShown]
    dots: list[DotShown]


class SheetShown(BaseModel):
    """The drawing."""

    width: float
    height: float
    boxes: list[BoxShown]
    runs: list[NetRunShown]


class ValueShown(BaseModel):
    """A value of a part as it is typed."""

    key: str
    label: str
    text: str
    hint: str


class WirePartShown(BaseModel):
    """A part in the editor."""

    id: str
    kind: Kind
    terminals: list[PinShown]
    values: list[ValueShown]
    body: str
    """As it is kept"""


class ConnectionShown(BaseModel):
    """One wire to lay."""

    number: int
    start: str
    end: str
    net: str
    stage: str
    cable: str
    core: str
    sleeve: bool
    read: ReadShown


class WireCableShown(BaseModel):
    """A cable with its cores."""

    id: str
    start: str
    end: str
    used: list[str]
    spare: list[str]
    earth: str
    size: str


class DeadShown(BaseModel):
    """A dead test."""

    first: str
    second: str
    stand: str
    expect: str
    through: str
    unknown: str
    read: ReadShown


class LampShown(BaseModel):
    """A lamp test."""

    jumper: str
    lit: str
    read: ReadShown


class SuspectShown(BaseModel):
    """A fault that would explain the ohms."""

    words: str
    share: str
    tied: bool


class DiagnosisShown(BaseModel):
    """What odd ohms point to."""

    suspects: list[SuspectShown]
    next_key: str
    next_words: str


class ExchangeRow(BaseModel):
    """One call after the exchange."""

    cells: list[str]
    state: str
    wanted: str
    verdict: str


class ExchangeShown(BaseModel):
    """An EC motor planned in place of a tapped one."""

    lines: list[str]
    rows: list[ExchangeRow]
    failures: list[str]
    document: dict[str, Any]


class WirePage(BaseModel):
    """The Wire stage."""

    title: str
    document: dict[str, Any]
    templates: list[TemplateShown]
    columns: list[str]
    rows: list[WireRow]
    hazards: list[HazardShown]
    never: list[str]
    sheet: SheetShown | None
    parts: list[WirePartShown]
    nets: list[str]
    connections: list[ConnectionShown]
    cables: list[WireCableShown]
    problems: list[str]
    dead: list[DeadShown]
    no_dead: str
    """Why no dead tests are listed"""
    lamps: list[LampShown]
    diagnosis: DiagnosisShown | None
    exchange: ExchangeShown | None
    lists: ListsEdit
    kit: KitEdit | None
    """The exchange as it would be typed; None where there is no tapped motor"""
