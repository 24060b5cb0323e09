"""How a fan is wired: as it is typed, as it is kept, and all that is read from it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from itertools import zip_longest
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.dead import DeadTest, Ohms, Stand, dead_tests
from fenwit.core.circuit.wiring.document import read_wiring, variables
from fenwit.core.circuit.wiring.edits import DIMENSION, Deed, Edit, edited
from fenwit.core.circuit.wiring.faults import Agreement, Diagnosis, agreement, diagnose
from fenwit.core.circuit.wiring.flags import MOST as MOST_FLAGS
from fenwit.core.circuit.wiring.flags import Flag, Mark, flagged
from fenwit.core.circuit.wiring.gauge import gauge_of
from fenwit.core.circuit.wiring.kit import KitTyped, typed_kit, with_kit, with_kit_of
from fenwit.core.circuit.wiring.lamps import LampTest, lamp_tests
from fenwit.core.circuit.wiring.layout import Sheet, laid_out
from fenwit.core.circuit.wiring.lists import ListsTyped, typed_lists, with_lists, with_points
from fenwit.core.circuit.wiring.offers import offers
from fenwit.core.circuit.wiring.order import Colours, Connection, Work, purposes, read_colours, work_order
from fenwit.core.circuit.wiring.parts import Cable, Kind, Load, OhmReading, Wiring
from fenwit.core.circuit.wiring.retrofit import Retrofit, retrofit
from fenwit.core.circuit.wiring.table import Hazard, Rest, State, Table, TableRow, truth_table
from fenwit.core.circuit.wiring.templates import TEMPLATES
from fenwit.core.circuit.wiring.words import FAILURE, fault_words, hazard_words
from fenwit.core.circuit.wiring.written import write_part, write_wiring
from fenwit.core.errors import InputError
from fenwit.core.frame.wire import NO_DUTIES, Duties, begun_wiring
from fenwit.core.job.state import JobState
from fenwit.core.prove.plan import OPEN_ENDED
from fenwit.core.prove.verdict import Verdict
from fenwit.store import readings
from fenwit.web.fields import Typed
from fenwit.web.settings import BadSetting, value

PREFIX = "wire"
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


def circuit_of(kept: str) -> dict[str, Any]:
    """The kept circuit as a document; empty for none."""
    found: dict[str, Any] = json.loads(kept) if kept else {}
    return found


@dataclass(frozen=True, eq=False)
class Solved:
    """A circuit with all that is read from it; what cannot be worked out says why."""

    wiring: Wiring
    table: Table
    tests: tuple[DeadTest, ...]
    too_many: str
    lamps: tuple[LampTest, ...]
    work: Work
    sheet: Sheet
    flags: tuple[Flag, ...]
    """Words on the drawing, one for each hazard"""
    exchange: Retrofit | None


def colours() -> Colours:
    """The usual colours of insulation where this Fenwit stands. Raises BadSetting."""
    try:
        return read_colours(value("FENWIT_COLOURS"))
    except InputError as error:
        raise BadSetting(
            f"FENWIT_COLOURS: {error.value}: {error.reason} (allowed: {error.allowed})"
        ) from None


@lru_cache(maxsize=32)
def _solved(document: str, usual: str) -> Solved:
    wiring = read_wiring(json.loads(document))
    table = truth_table(wiring)
    tests: tuple[DeadTest, ...] = ()
    too_many = ""
    try:
        tests = dead_tests(wiring)
    except InputError as error:
        too_many = f"{error.reason}; {error.allowed}"
    sheet = laid_out(wiring)
    return Solved(
        wiring, table, tests, too_many, lamp_tests(wiring), work_order(wiring, read_colours(usual)),
        sheet, flagged(sheet, _marks(wiring, table)[:MOST_FLAGS]),
        retrofit(wiring, table) if wiring.replace is not None else None,
    )  # fmt: skip


def solved(document: Mapping[str, Any]) -> Solved:
    """All that is read from a kept circuit; the same one is not solved twice. Raises InputError."""
    return _solved(json.dumps(document, sort_keys=False), value("FENWIT_COLOURS"))


# ---------------------------------------------------------------- what is read and ticked


def reading_key(kind: str, *parts: object) -> str:
    """What a tick or reading of a circuit is kept under; it follows what was done, not where it stands in a list."""
    told = json.dumps(parts, ensure_ascii=False, default=str)
    return f"{PREFIX}:{kind}:{hashlib.sha256(told.encode()).hexdigest()[:16]}"


def connection_key(c: Connection) -> str:
    """Key of the tick of a connection."""
    return reading_key("done", c.start, c.end, c.net, c.cable)


def test_key(test: DeadTest) -> str:
    """Key of the ohms read at a dead test."""
    return reading_key("ohms", test.points, test.stand.inputs, test.stand.held)


def lamp_key(lamp: LampTest) -> str:
    """Key of what was seen in a lamp test."""
    return reading_key("lamp", lamp.jumper)


def live_key(row: TableRow) -> str:
    """Key of what was seen of a row with the power on."""
    return reading_key("live", sorted(row.inputs.items()))


@dataclass(frozen=True)
class Asked:
    """Something to tick, to see or to read."""

    key: str
    words: str
    ohms: Ohms | None
    """What the meter should show; None: it is seen, by yes or no"""


def asks(found: Solved) -> dict[str, Asked]:
    """Everything of a circuit that is ticked, seen or read, by key."""
    out: dict[str, Asked] = {}
    for c in found.work.connections:
        key = connection_key(c)
        out[key] = Asked(key, f"{c.start} to {c.end}", None)
    for test in found.tests:
        key = test_key(test)
        out[key] = Asked(key, f"{test.points[0]} to {test.points[1]}{_with(test.stand)}", test.expected)
    for lamp in found.lamps:
        key = lamp_key(lamp)
        out[key] = Asked(key, f"lamps, {_jumper(lamp)}", None)
    for row in found.table.rows:
        key = live_key(row)
        out[key] = Asked(key, f"live, {_inputs(row)}", None)
    return out


def _with(stand: Stand) -> str:
    told = [f"{name} {at}" for name, at in stand.inputs]
    if stand.held:
        told.append(f"{stand.held} pushed in")
    return f", {', '.join(told)}" if told else ""


def _jumper(lamp: LampTest) -> str:
    return f"{lamp.jumper[0]} to {lamp.jumper[1]}" if lamp.jumper else "no jumper"


def _inputs(row: TableRow) -> str:
    return (
        ", ".join(
            name if at is True else f"{name} {at}" for name, at in row.inputs.items() if at is not False
        )
        or "no call"
    )


# ---------------------------------------------------------------- what is shown


class TemplateShown(BaseModel):
    """A circuit to begin with."""

    key: str
    name: str
    words: str


class ReadShown(BaseModel):
    """A tick or reading that stands."""

    key: str
    text: str
    told: str
    """Who and when"""
    reading_id: int | None
    verdict: Verdict | None
    agreement: Agreement | None


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


class OfferShown(BaseModel):
    """Two points worth adding, and the faults they would show."""

    first: str
    second: str
    shows: list[str]


class OffersShown(BaseModel):
    """What the listed points show, what could be added, and what no ohm with the power off can show."""

    shown: int
    offers: list[OfferShown]
    never: list[str]
    why_not: str
    """Why nothing was looked through"""


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


MAX_SHOWN_ROWS = 400


def wire_page(
    document: Mapping[str, Any], mine: Iterable[readings.Reading], duties: Duties = NO_DUTIES
) -> WirePage:
    """All of the stage. Raises InputError for a circuit that is more than is worked out."""
    templates = [TemplateShown(key=t.key, name=t.name, words=t.words) for t in TEMPLATES]
    if not document:
        return WirePage(
            title="", document={}, templates=templates, columns=[], rows=[], hazards=[], never=[], sheet=None, parts=[],
            nets=[], connections=[], cables=[], problems=[], dead=[], no_dead="", lamps=[], diagnosis=None,
            exchange=None, lists=ListsEdit(), kit=None,
        )  # fmt: skip
    found = solved(document)
    newest = newest_of(mine)
    wiring, table = found.wiring, found.table
    hazards = [_hazard(h, found, flag) for h, flag in zip_longest(table.hazards, found.flags)]
    return WirePage(
        title=wiring.title,
        document=dict(document),
        templates=templates,
        columns=list(variables(wiring)),
        rows=[_row(i, row, found, newest, duties) for i, row in enumerate(table.rows[:MAX_SHOWN_ROWS])],
        hazards=hazards,
        never=list(table.never),
        sheet=_sheet(found),
        parts=[_part(found, i) for i in range(len(wiring.parts))],
        nets=[name for name, _ in wiring.nets],
        connections=[
            ConnectionShown(
                number=c.number, start=c.start, end=c.end, net=c.net, stage=c.stage, cable=c.cable, core=c.core,
                sleeve=c.sleeve, read=read_of(connection_key(c), newest, None),
            )
            for c in found.work.connections
        ],
        cables=[
            WireCableShown(
                id=u.cable.id, start=u.cable.start, end=u.cable.end, used=[f"{core}: {net}" for core, net in u.used],
                spare=list(u.spare), earth=u.earth,
                size=_gauge(wiring, u.cable),
            )
            for u in found.work.cables
        ],
        problems=[_problem(p.kind, p.net or p.cable, p.to) for p in found.work.problems],
        dead=[_dead(t, newest) for t in found.tests],
        no_dead=found.too_many,
        lamps=[
            LampShown(
                jumper=_jumper(x), lit=" and ".join(x.lit) or "none", read=read_of(lamp_key(x), newest, None)
            )
            for x in found.lamps
        ],
        diagnosis=_diagnosis(found, newest),
        exchange=_exchange(found.exchange) if found.exchange else None,
        lists=ListsEdit(**vars(typed_lists(wiring))),
        kit=_kit(wiring, duties) if wiring.of(Kind.MOTOR) else None,
    )  # fmt: skip


def _kit(wiring: Wiring, duties: Duties) -> KitEdit:
    """The exchange as it would be typed; what the old motor gives is known where it was measured."""
    typed = KitEdit(**vars(typed_kit(wiring)))
    if not typed.old and duties.shaft_w is not None:
        typed.old = f"{duties.shaft_w:.0f} W shaft"
    return typed


def newest_of(mine: Iterable[readings.Reading]) -> dict[str, readings.Reading]:
    """The last reading of each key, also one that was taken back."""
    return {r.quantity: r for r in mine if r.quantity.startswith(f"{PREFIX}:")}


def wired(document: Mapping[str, Any], mine: Iterable[readings.Reading]) -> tuple[bool, bool]:
    """Whether anything is wired, and whether every connection is ticked."""
    if not document:
        return False, False
    try:
        wiring = read_wiring(dict(document))
    except InputError:
        return True, False
    newest = newest_of(mine)
    done = [newest.get(connection_key(c)) for c in work_order(wiring, colours()).connections]
    return True, bool(done) and all(r is not None and r.value == 1.0 for r in done)


def read_of(key: str, newest: Mapping[str, readings.Reading], expected: Ohms | None) -> ReadShown:
    """What stands under a key, judged."""
    reading = newest.get(key)
    value = reading.value if reading is not None else None
    if reading is None or value is None:
        return ReadShown(
            key=key,
            text="",
            told="",
            reading_id=reading.id if reading else None,
            verdict=None,
            agreement=None,
        )
    told = ", ".join(t for t in (reading.who, reading.taken_at.strftime("%d.%m. %H:%M")) if t)
    if expected is None:
        verdict = Verdict.PASS if value == 1.0 else Verdict.FAIL
        return ReadShown(
            key=key, text="yes" if value == 1.0 else "no", told=told, reading_id=reading.id, verdict=verdict,
            agreement=None,
        )  # fmt: skip
    ohms = None if value >= OPEN_ENDED else value
    agrees = agreement(expected, ohms)
    verdict_of = {Agreement.AGREES: Verdict.PASS, Agreement.CONTRADICTS: Verdict.FAIL}
    return ReadShown(
        key=key, text="open" if ohms is None else q.show(ohms, q.RESISTANCE), told=told, reading_id=reading.id,
        verdict=verdict_of.get(agrees), agreement=agrees,
    )  # fmt: skip


def said_row(page: WirePage, row: WireRow) -> str:
    """What is called and where switches stand in a row."""
    told = [
        name if cell == "yes" else f"{name} {cell}"
        for name, cell in zip(page.columns, row.cells, strict=True)
        if cell
    ]
    return ", ".join(told) or "nothing called"


def _rest_words(rest: Rest) -> list[Runs]:
    out = []
    for name, state in rest.parts.items():
        at = str(state["state"])
        words = at
        if state.get("rpm"):
            words += f" {state['rpm']:.0f} rpm"
        for key, unit in (("series_f", q.CAPACITANCE), ("series_ohm", q.RESISTANCE)):
            value = state.get(key)
            if isinstance(value, float):
                words += f" behind {q.show(value, unit)}"
        volts = state.get("command_v")
        if isinstance(volts, float):
            words += f" {volts:.2f} V"
        if state.get("alarm") is True:
            words += ", alarm"
        out.append(Runs(part=name, words=words, on=at not in ("off", "dead", "disabled", "starved")))
    out += [Runs(part=name, words="pulled" if fed else "rest", on=fed) for name, fed in rest.relays.items()]
    return out


def _said(rest: Rest) -> str:
    return ", ".join(f"{r.part} {r.words}" for r in _rest_words(rest) if r.on) or "all off"


def _row(
    number: int, row: TableRow, found: Solved, newest: Mapping[str, readings.Reading], duties: Duties
) -> WireRow:
    wiring, table = found.wiring, found.table
    values = variables(wiring)
    live = table.walked.base.live(row.closed)
    names = [live.base.pair_names[i] for i in range(len(live.base.pairs)) if row.closed >> i & 1]
    hot = sorted(
        n for n, joined in wiring.nets if joined and any(r.role == "line" for r in live.on(joined[0]))
    )
    origins: dict[tuple[float, str], list[str]] = {}
    for wait in row.interim:
        if _said(wait.rest) != _said(row.rest):
            came = "power-up" if wait.after is None else _inputs(table.rows[wait.after])
            origins.setdefault((wait.for_s, _said(wait.rest)), []).append(came)
    interim = [
        f"for up to {seconds:g} s {said}, coming from {came[0]}"
        + (f" and {len(came) - 1} more" if len(came) > 1 else "")
        for (seconds, said), came in origins.items()
    ]
    runs = _rest_words(row.rest)
    heaters = [p.id for p in wiring.of(Kind.LOAD) if p.as_a(Load).heats]
    heated = not heaters or any(row.rest.parts[h]["state"] == "on" for h in heaters)
    return WireRow(
        cells=["yes" if at is True else "" if at is False else str(at) for at in row.inputs.values()],
        marks=[
            at is True or (not isinstance(at, bool) and at != values[name][0])
            for name, at in row.inputs.items()
        ],
        settled=row.settled,
        runs=runs,
        va=" + ".join(f"{va:.3g}" for va in row.rest.va.values()),
        also=[_said(r) for r in row.also],
        interim=interim,
        air=[
            f"{name}: {words}"
            for name, state in row.rest.parts.items()
            if (words := duties.words(str(state["state"]), _rpm(state), heated))
        ],
        unmet=[f"{u.part} {u.state}, wanted {u.wanted}" for u in table.unmet if u.row == number],
        alive=list(row.rest.alive),
        hot=hot,
        closed=[f"{a}|{b}" for a, b in names],
        on=[r.part for r in runs if r.on],
        hazards=[i for i, h in enumerate(table.hazards) if number in _rows_of(h)],
        read=read_of(live_key(row), newest, None),
    )


def _rpm(state: State) -> float | None:
    rpm = state.get("rpm")
    return float(rpm) if isinstance(rpm, float | int) and not isinstance(rpm, bool) else None


def _rows_of(hazard: Hazard) -> set[int]:
    return {w[1] if isinstance(w, tuple) else w for w in hazard.when}


def _hazard(hazard: Hazard, found: Solved, flag: Flag | None) -> HazardShown:
    words, remedy = hazard_words(hazard)
    terminals = [t for t in hazard.where if "." in t]
    parts = [t.partition(".")[0] for t in hazard.where]
    net_at = found.wiring.net_at
    rows = sorted(_rows_of(hazard))
    every = len(rows) == len(found.table.rows)
    if hazard.passing:
        first = hazard.when[0]
        start, end = first if isinstance(first, tuple) else (None, first)
        to = _inputs(found.table.rows[end])
        came = "at power-up" if start is None else f"between {_inputs(found.table.rows[start])} and {to}"
        lasts = f"for up to {hazard.for_s:g} s" if hazard.for_s else "for a moment"
        more = f", and {len(hazard.when) - 1} more ways" if len(hazard.when) > 1 else ""
        when = f"{lasts} {came}{more}"
    elif every:
        when = "always"
    else:
        when = "; ".join(_inputs(found.table.rows[i]) for i in rows[:2])
        when += f"; and in {len(rows) - 2} more rows" if len(rows) > 2 else ""
    return HazardShown(
        kind=hazard.kind.value, severity=hazard.severity.value, words=words, remedy=remedy, when=when,
        passing=hazard.passing, parts=list(dict.fromkeys(parts)),
        nets=sorted({net_at[t] for t in terminals if t in net_at}), pins=terminals,
        flag=None if flag is None or not flag.lines else FlagShown(
            lines=list(flag.lines), x=flag.x, y=flag.y, width=flag.width, height=flag.height, to_x=flag.to[0],
            to_y=flag.to[1],
        ),
    )  # fmt: skip


def _marks(wiring: Wiring, table: Table) -> list[Mark]:
    """What is said of each hazard on the drawing, and where it belongs; what stands is not said to pass as well."""
    found: list[Mark] = []
    standing = {(h.kind, h.where) for h in table.hazards if not h.passing}
    for hazard in table.hazards:
        if hazard.passing and (hazard.kind, hazard.where) in standing:
            found.append(Mark(""))
            continue
        lasts = f"for up to {hazard.for_s:g} s" if hazard.for_s else "for a moment"
        words = hazard_words(hazard)[0] + (f", {lasts}" if hazard.passing else "")
        terminals = tuple(t for t in hazard.where if "." in t)
        nets = tuple(dict.fromkeys(wiring.net_at[t] for t in terminals if t in wiring.net_at))
        found.append(Mark(words, terminals, nets, tuple(t for t in hazard.where if "." not in t)))
    return found


@lru_cache(maxsize=32)
def offered(document: str) -> OffersShown:
    """Points that show what no listed test shows; the same circuit is not looked through twice."""
    try:
        found = offers(read_wiring(json.loads(document)))
    except InputError as error:
        return OffersShown(shown=0, offers=[], never=[], why_not=f"{error.reason}; {error.allowed}")
    return OffersShown(
        shown=found.shown,
        offers=[
            OfferShown(first=o.points[0], second=o.points[1], shows=[fault_words(f) for f in o.shows])
            for o in found.offers
        ],
        never=[fault_words(f) for f in found.never], why_not="",
    )  # fmt: skip


def _sheet(found: Solved) -> SheetShown:
    sheet, net_at, purpose = found.sheet, found.wiring.net_at, purposes(found.wiring)
    boxes = []
    for box in sheet.boxes:
        pins = {p.terminal: p for p in box.pins}
        part = found.wiring.by_id[box.part]
        boxes.append(
            BoxShown(
                part=box.part, kind=box.kind, words=part.note or box.kind.value, x=box.x, y=box.y, width=box.width,
                height=box.height,
                pins=[
                    PinShown(
                        terminal=p.terminal, name=p.name, x=p.x, y=p.y, left=p.left, net=net_at.get(p.terminal, "")
                    )
                    for p in box.pins
                ],
                blades=[
                    BladeShown(
                        key=f"{b.a}|{b.b}", x1=pins[b.a].x, y1=pins[b.a].y, x2=pins[b.b].x, y2=pins[b.b].y
                    )
                    for b in box.blades
                ],
            )
        )  # fmt: skip
    runs = [
        NetRunShown(
            net=r.net,
            purpose=purpose[r.net].value,
            pieces=[PieceShown(x1=x1, y1=y1, x2=x2, y2=y2) for x1, y1, x2, y2 in r.pieces],
            dots=[DotShown(x=x, y=y) for x, y in r.dots],
        )
        for r in sheet.runs
    ]
    return SheetShown(width=sheet.width, height=sheet.height, boxes=boxes, runs=runs)


_LABELS = {
    "volts": "volts", "primary_volts": "primary volts", "supply_volts": "supply volts", "signal_volts": "signal volts",
    "va": "VA", "ohms": "ohms", "primary_ohm": "primary ohms", "secondary_ohm": "secondary ohms",
    "farads": "microfarads", "amps": "amps", "frequency_hz": "hertz", "delay_on_s": "comes after",
    "delay_off_s": "goes after", "circulate_rpm": "circulates at", "place": "place",
}  # fmt: skip
_ALWAYS: Mapping[Kind, tuple[str, ...]] = {
    Kind.RELAY: ("volts", "va", "ohms", "delay_on_s", "delay_off_s"),
    Kind.TRANSFORMER: ("primary_volts", "volts", "va", "primary_ohm", "secondary_ohm"),
    Kind.LOAD: ("volts", "va", "ohms"), Kind.LAMP: ("volts", "va"),
}  # fmt: skip


def _part(found: Solved, number: int) -> WirePartShown:
    part = found.wiring.parts[number]
    body = write_part(part)
    keys = dict.fromkeys([*_ALWAYS.get(part.kind, ()), *(k for k in body if k in DIMENSION), "place"])
    values = []
    for key in keys:
        value = body.get(key)
        dimension = DIMENSION.get(key)
        text = "" if value is None else q.show(value, dimension) if dimension else str(value)
        hint = dimension.example if dimension else ""
        values.append(ValueShown(key=key, label=_LABELS.get(key, key), text=text, hint=hint))
    net_at = found.wiring.net_at
    return WirePartShown(
        id=part.id, kind=part.kind,
        terminals=[
            PinShown(terminal=part.at(t), name=t, x=0, y=0, left=False, net=net_at.get(part.at(t), ""))
            for t in part.terminals
        ],
        values=values, body=json.dumps({k: v for k, v in body.items() if k != "id"}, ensure_ascii=False),
    )  # fmt: skip


def _expect(expected: Ohms) -> str:
    if expected.is_open:
        return "open"
    if expected.low is None or expected.high is None:
        return "cannot be known"
    return f"{q.plain(expected.low, 3)} to {q.plain(expected.high, 3)} Ω"


def _dead(test: DeadTest, newest: Mapping[str, readings.Reading]) -> DeadShown:
    return DeadShown(
        first=test.points[0], second=test.points[1], stand=_with(test.stand).removeprefix(", "),
        expect=_expect(test.expected),
        through=", ".join(test.expected.through), unknown=", ".join(test.expected.unknown),
        read=read_of(test_key(test), newest, test.expected),
    )  # fmt: skip


def _gauge(wiring: Wiring, cable: Cable) -> str:
    """Its cross-section, the amps beyond it, what is lost on the way and what would do."""
    told = [f"{cable.csa_mm2:g} mm²"] if cable.csa_mm2 is not None else []
    told += [f"{cable.length_m:g} m"] if cable.length_m else []
    found = gauge_of(wiring, cable)
    if found is None:
        return ", ".join(told)
    told.append(f"carries {q.show(found.amps, q.CURRENT)}")
    if found.drop_v is not None and found.drop_share is not None:
        told.append(f"loses {found.drop_v:.2g} V, {100 * found.drop_share:.1f} %")
    if found.least_mm2 is None:
        told.append("more than the usual table goes to")
    elif found.enough is not True:
        told.append(f"at least {found.least_mm2:g} mm²")
    return ", ".join(told)


def _problem(kind: str, what: str, to: str) -> str:
    words = {
        "no-cable": f"no cable carries {what} to {to}",
        "too-few-cores": f"too few cores for {what} to {to}",
        "earth-not-joined": f"the earth of cable {what} has nothing to join",
    }
    return words.get(kind, f"{what} {to}")


def taken_ohms(found: Solved, newest: Mapping[str, readings.Reading]) -> list[OhmReading]:
    """The ohms that were read, as the core takes them."""
    out = []
    for test in found.tests:
        reading = newest.get(test_key(test))
        if reading is not None and reading.value is not None and not reading.aside:
            ohms = None if reading.value >= OPEN_ENDED else reading.value
            out.append(OhmReading(test.points, test.stand.inputs, test.stand.held, ohms))
    return out


def _diagnosis(found: Solved, newest: Mapping[str, readings.Reading]) -> DiagnosisShown | None:
    """What the ohms point to, as soon as one contradicts."""
    taken = taken_ohms(found, newest)
    expected = {(t.points, t.stand.inputs, t.stand.held): t.expected for t in found.tests}
    odd = any(agreement(expected[r.points, r.inputs, r.held], r.ohms) is Agreement.CONTRADICTS for r in taken)
    if not odd:
        return None
    return _told(diagnose(found.wiring, taken, found.tests))


def _told(found: Diagnosis) -> DiagnosisShown:
    after = found.next
    test = (
        None if after is None else DeadTest(after.points, after.stand, Ohms(None, False, None, None, (), ()))
    )
    return DiagnosisShown(
        suspects=[
            SuspectShown(
                words=fault_words(s.fault),
                share=f"{100 * s.probability:.0f} %" if s.probability >= 0.01 else "under 1 %",
                tied=s.tied,
            )
            for s in found.ranked[:6]
            if s.probability > 0.001
        ],
        next_key="" if test is None else test_key(test),
        next_words="" if test is None else f"{test.points[0]} to {test.points[1]}{_with(test.stand)}",
    )


def _exchange(found: Retrofit) -> ExchangeShown:
    lines = [
        f"size {found.size}: run leads {', '.join(found.run_leads) or 'none'}",
        f"old outputs joined: {', '.join(found.joined) or 'none'}",
        f"constant feed from net {found.feed_net}" if found.feed_net else "no constant feed found",
        *(f"speed input {i} on {t}" for i, t in found.inputs),
        *([f"capped: {', '.join(found.capped)}"] if found.capped else []),
        f"link {found.link}" if found.link else "no link",
    ]
    failures = []
    for f in found.failures:
        words = FAILURE.get(f.kind, f.kind.replace("-", " "))
        if f.where:
            words = f"{words}: {', '.join(f.where)}"
        if f.row is not None:
            words = f"{_named(found.rows[f.row].inputs)}: {words}"
        failures.append(words)
    return ExchangeShown(
        lines=lines,
        rows=[
            ExchangeRow(
                cells=["yes" if v is True else "" if v is False else str(v) for v in r.inputs.values()],
                state=f"{r.state} {r.rpm:.0f} rpm" if r.rpm else r.state, wanted=f"{r.wanted_rpm:.0f} rpm",
                verdict=r.verdict,
            )
            # What fails stands first, then what calls for air; rows in which it stands as it should come last.
            for r in sorted(found.rows, key=lambda r: (r.verdict == "ok", not r.wanted_rpm))
        ],
        failures=failures, document=write_wiring(found.wiring),
    )  # fmt: skip


def _named(inputs: Mapping[str, str | bool]) -> str:
    return (
        ", ".join(n if at is True else f"{n} {at}" for n, at in inputs.items() if at is not False)
        or "no call"
    )
