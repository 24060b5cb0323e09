"""The control that came in: as it is typed, as it is stored, and as the core takes it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame.inspect import fault_of
from fenwit.core.inspect.reading import read_part
from fenwit.core.job.board import (
    LIMITS,
    MOST_POSITIONS,
    MOST_SECTIONS,
    ROLES,
    TEMPLATES,
    Board,
    BoardPart,
    Build,
    Condition,
    Limit,
    Look,
    Role,
    Sense,
    Spindle,
    Symptom,
    Topology,
)
from fenwit.core.regulator.diac import Taper
from fenwit.core.regulator.transformer import Winding
from fenwit.core.size.classes import PartClass
from fenwit.store import codec
from fenwit.web.fields import Typed


class BoardPartEdit(BaseModel):
    """One part as it is read off the board; what is left out stays as it is, an empty text forgets it."""

    role: Role
    number: Annotated[int, Field(ge=1, le=MOST_SECTIONS, strict=True)] = 1
    condition: Condition | None = None
    text: Typed | None = None
    """Bench notation, a printed code, or colour bands"""
    part_class: PartClass | None = None
    no_class: bool = False
    volts: Typed | None = None
    watts: Typed | None = None
    amps: Typed | None = None
    drop: Typed | None = None
    forget: bool = False
    """As if nobody had told of it"""


class BoardTapEdit(BaseModel):
    """A tap of a stepped control."""

    volts: Typed
    ohms: Typed = ""


class BoardBuildEdit(BaseModel):
    """How it is put together; a text or choice that is empty: not looked at."""

    spindle: Spindle | None = None
    grub_screw: bool | None = None
    plugged: bool | None = None
    track: Typed | None = None
    copper: Typed | None = None
    tinned: bool | None = None
    knob_on_solder: bool | None = None
    wires_over_edge: bool | None = None
    sense: Sense | None = None
    taper: Taper | None = None
    low_voltage_bare: bool | None = None
    taken_for_isolator: bool | None = None
    heat_sink: bool | None = None


class BoardLookEdit(BaseModel):
    """A look that was taken."""

    look: Look
    bad: bool | None
    """None: not taken after all"""


class BoardLampEdit(BaseModel):
    """A reading under a lamp; an empty text takes it back."""

    at: Annotated[float, Field(ge=0, le=200, allow_inf_nan=False)]
    volts: Typed


PositionEdit = Annotated[list[int], Field(max_length=MOST_SECTIONS)]


class BoardEdit(BaseModel):
    """The control that came in; what is left out stays as it is."""

    topology: Topology | None = None
    none: bool = False
    """No control came in: everything told of one is forgotten"""
    parts: Annotated[list[BoardPartEdit], Field(max_length=40)] | None = None
    positions: Annotated[list[PositionEdit], Field(max_length=MOST_POSITIONS)] | None = None
    taps: Annotated[list[BoardTapEdit], Field(max_length=6)] | None = None
    winding: Winding | None = None
    build: BoardBuildEdit | None = None
    lamp: Typed | None = None
    seen: Annotated[list[Symptom], Field(max_length=len(Symptom))] | None = None
    looks: Annotated[list[BoardLookEdit], Field(max_length=len(Look))] | None = None
    limits: dict[Limit, Typed] | None = None
    """An empty text: as usual"""
    found: Annotated[str, Field(max_length=80)] | None = None
    """Key of the fault that was found; empty: none"""
    proof: Annotated[list[BoardLampEdit], Field(max_length=11)] | None = None


class BoardPartTyped(BaseModel):
    """One part as it stands in its inputs."""

    role: Role
    number: int
    condition: Condition
    text: str
    part_class: PartClass | None
    volts: str
    watts: str
    amps: str
    drop: str


class BoardTyped(BaseModel):
    """A board as it stands in its inputs."""

    topology: Topology
    parts: list[BoardPartTyped]
    positions: list[list[int]]
    taps: list[BoardTapEdit]
    winding: Winding
    build: BoardBuildEdit
    lamp: str
    seen: list[Symptom]


MILLIMETRES = q.Dimension("millimetres", "mm", ("mm",), "", 0.05, 50.0, "like 0.3 or 0.3 mm")
MICRONS = q.Dimension("micrometres", "µm", ("um",), "", 5.0, 500.0, "like 35 or 35 µm")
_LIMIT = q.Dimension("limit", "", ("%", "×", "V", "K", "x"), "", 0.0, 500.0, "like 60 or 60 %")
_PLAIN = ("watts", q.POWER), ("amps", q.CURRENT), ("drop", q.VOLTAGE)
_STORED = {"watts": "watts_w", "amps": "amps_a", "drop": "drop_v"}


def board_of(stored: Mapping[str, Any]) -> Board | None:
    """A stored board; None where none came in."""
    return codec.load(Board, stored) if stored else None


def read_board(stored: Mapping[str, Any], edit: BoardEdit) -> Board | None:
    """A board after an edit; None where there is none. Raises InputError naming the field."""
    if edit.none:
        return None
    now = board_of(stored)
    if edit.topology is not None and (now is None or now.topology is not edit.topology):
        # What was read of another kind of board is kept as far as this one has such a part.
        kept = () if now is None else tuple(p for p in now.parts if _fits(p.role, edit.topology))
        base = now or Board(edit.topology)
        now = replace(
            base, topology=edit.topology, parts=kept, positions=(), taps=(), found=None, looks=(), seen=(), lamp=()
        )  # fmt: skip
    if now is None:
        raise InputError(
            "board.topology", None, ", ".join(t.value for t in Topology), "say first how it is made"
        )
    changes: dict[str, Any] = {}
    if edit.parts is not None:
        changes["parts"] = _parts(now, edit.parts)
    if edit.positions is not None:
        changes["positions"] = tuple(tuple(sorted(set(p))) for p in edit.positions)
    if edit.taps is not None:
        changes["taps"] = tuple(_tap(i, t) for i, t in enumerate(edit.taps))
    if edit.winding is not None:
        changes["winding"] = edit.winding
    if edit.build is not None:
        changes["build"] = _build(now.build, edit.build)
    if edit.lamp is not None:
        changes["lamp_w"] = q.parse("board.lamp", edit.lamp, q.POWER)
    if edit.seen is not None:
        changes["seen"] = tuple(dict.fromkeys(edit.seen))
    if edit.looks is not None:
        looks = dict(now.looks)
        for look in edit.looks:
            looks.pop(look.look, None)
            if look.bad is not None:
                looks[look.look] = look.bad
        changes["looks"] = tuple(looks.items())
    if edit.limits is not None:
        limits = dict(now.limits)
        for name, text in edit.limits.items():
            limits.pop(name, None)
            if text:
                limits[name] = q.parse(f"board.limits.{name.value}", text, _LIMIT)
        changes["limits"] = tuple((k, v) for k, v in limits.items() if v != LIMITS[k].usual)
    if edit.found is not None:
        changes["found"] = fault_of(edit.found) if edit.found else None
        changes["lamp"] = ()
    if edit.proof is not None:
        read = dict(changes.get("lamp", now.lamp))
        for i, p in enumerate(edit.proof):
            read.pop(p.at, None)
            if p.volts:
                read[p.at] = q.parse(f"board.proof[{i}]", p.volts, q.VOLTAGE)
        changes["lamp"] = tuple(sorted(read.items()))
    return _named("board", lambda: replace(now, **changes))


def _named(prefix: str, make: Any) -> Board:
    """The board, or its refusal with the field's place before its name."""
    try:
        made: Board = make()
    except InputError as error:
        raise InputError(f"{prefix}.{error.field}", error.value, error.allowed, error.reason) from None
    return made


def _fits(role: Role, topology: Topology) -> bool:
    return role in TEMPLATES[topology]


def _parts(now: Board, edits: Sequence[BoardPartEdit]) -> tuple[BoardPart, ...]:
    parts = {p.key: p for p in now.parts}
    for edit in edits:
        blank = BoardPart(edit.role, edit.number, Condition.UNREADABLE)
        if edit.forget:
            parts.pop(blank.key, None)
            continue
        part = _part(parts.get(blank.key), blank, edit)
        if part is None:
            parts.pop(blank.key, None)
        else:
            parts[part.key] = part
    order = {key: i for i, key in enumerate(Board(now.topology, tuple(parts.values())).keys)}
    return tuple(sorted(parts.values(), key=lambda p: order.get(p.key, 99)))


def _part(was: BoardPart | None, blank: BoardPart, edit: BoardPartEdit) -> BoardPart | None:
    """One part after its edit; None where nothing is left of it."""
    field = f"board.{blank.key}"
    facts = ROLES[edit.role]
    part = was or blank
    changes: dict[str, Any] = {}
    if edit.text is not None:
        if not edit.text.strip():
            return None
        read = read_part(f"{field}.text", edit.role, edit.text)
        changes = {
            "condition": read.condition, "value": read.value if read.condition is Condition.READ else None,
            "readings": read.readings if len(read.readings) > 1 else (), "printed": edit.text.strip(),
            "tolerance": read.tolerance,
        }  # fmt: skip
        # What the print says besides fills what nobody typed.
        if part.volts_v is None and read.volts_v is not None:
            changes |= {"volts_v": read.volts_v, "volts_ac": read.volts_ac}
        if part.part_class is None and read.part_class is not None:
            changes["part_class"] = read.part_class
    if edit.condition is not None:
        changes["condition"] = edit.condition
        if edit.condition in (Condition.MISSING, Condition.UNREADABLE):
            changes |= {"value": None, "readings": (), "printed": ""}
        elif edit.condition is Condition.READ and facts.dimension is not None and part.value is None:
            raise InputError(
                f"{field}.text", None, facts.dimension.example, "type its value: then it is read"
            )
    elif was is None and edit.text is None and facts.dimension is None:
        changes["condition"] = Condition.READ
    if edit.no_class:
        changes["part_class"] = None
    elif edit.part_class is not None:
        changes["part_class"] = edit.part_class
    if edit.volts is not None:
        changes |= _volts(f"{field}.volts", edit.volts)
    for name, dimension in _PLAIN:
        text = getattr(edit, name)
        if text is not None:
            changes[_STORED[name]] = q.parse(f"{field}.{name}", text, dimension) if text.strip() else None
    made = _named("board", lambda: replace(part, **changes))
    return made  # type: ignore[return-value]


def _volts(field: str, text: str) -> dict[str, Any]:
    if not text.strip():
        return {"volts_v": None, "volts_ac": None}
    low = text.lower()
    kind = False if "dc" in low or "=" in low or "-" in low else True if "ac" in low or "~" in low else None
    bare = text.replace("~", "").replace("=", "").replace("-", "").strip()
    return {"volts_v": q.parse(field, bare, q.VOLTAGE), "volts_ac": kind}


def _tap(i: int, edit: BoardTapEdit) -> tuple[float, float | None]:
    volts = q.parse(f"board.taps[{i}].volts", edit.volts, q.VOLTAGE)
    return volts, q.parse(f"board.taps[{i}].ohms", edit.ohms, q.RESISTANCE) if edit.ohms.strip() else None


def _build(now: Build, edit: BoardBuildEdit) -> Build:
    changes: dict[str, Any] = {
        k: v
        for k, v in edit.model_dump(exclude_unset=True).items()
        if k not in ("track", "copper") and not (k == "taper" and v is None)
    }
    if edit.track is not None:
        text = edit.track.strip()
        changes["track_mm"] = q.parse("board.build.track", text, MILLIMETRES) if text else None
    if edit.copper is not None:
        text = edit.copper.strip()
        changes["copper_um"] = q.parse("board.build.copper", text, MICRONS) if text else 35.0
    return replace(now, **changes)


def typed_board(board: Board | None) -> BoardTyped | None:
    """A board as it stands in its inputs; None where none came in."""
    if board is None:
        return None
    b = board.build
    return BoardTyped(
        topology=board.topology,
        parts=[_typed(p) for p in board.parts],
        positions=[list(p) for p in board.positions],
        taps=[BoardTapEdit(volts=f"{v:g}", ohms="" if r is None else q.bench(r, q.RESISTANCE)) for v, r in board.taps],
        winding=board.winding,
        build=BoardBuildEdit(
            spindle=b.spindle, grub_screw=b.grub_screw, plugged=b.plugged,
            track="" if b.track_mm is None else f"{b.track_mm:g} mm", copper=f"{b.copper_um:g} µm", tinned=b.tinned,
            knob_on_solder=b.knob_on_solder, wires_over_edge=b.wires_over_edge, sense=b.sense, taper=b.taper,
            low_voltage_bare=b.low_voltage_bare, taken_for_isolator=b.taken_for_isolator, heat_sink=b.heat_sink,
        ),
        lamp=f"{board.lamp_w:g} W",
        seen=list(board.seen),
    )  # fmt: skip


def _typed(part: BoardPart) -> BoardPartTyped:
    kind = {None: "", True: " AC", False: " DC"}[part.volts_ac]
    dimension = ROLES[part.role].dimension
    text = part.printed
    if not text and part.value is not None and dimension is not None:
        text = q.show(part.value, dimension)
    return BoardPartTyped(
        role=part.role, number=part.number, condition=part.condition, text=text, part_class=part.part_class,
        volts="" if part.volts_v is None else f"{part.volts_v:g} V{kind}",
        watts="" if part.watts_w is None else f"{part.watts_w:g} W",
        amps="" if part.amps_a is None else f"{part.amps_a:g} A",
        drop="" if part.drop_v is None else f"{part.drop_v:g} V",
    )  # fmt: skip


def dumped(board: Board | None) -> dict[str, Any]:
    """A board as a document; empty where there is none."""
    return {} if board is None else codec.dump(board)
